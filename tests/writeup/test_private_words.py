"""What a bundle would give away of its maker, and what it must not carry at all."""

from dataclasses import replace

import pytest

from blunt_ruler.core.records.records import Title
from blunt_ruler.core.writeup.bundle import records_of
from blunt_ruler.core.writeup.private_words import Private, private_words


def found_in(text):
    return [(one.kind, one.words) for one in private_words([Title(id="t", name="T", notes=text)])]


# Forms of paths and addresses: POSIX 3.271, Windows path conventions, RFC 3986 3.2.1, RFC 5322;
# forms of keys: common practice, no source.
@pytest.mark.parametrize(
    ("text", "kind", "words"),
    [
        ("run from /srv/quill/bench/run 3", Private.PATH, "/srv/quill/bench/run"),
        ("see ~/notes.txt", Private.PATH, "~/notes.txt"),
        (r"C:\Users\quill\log.csv was read", Private.PATH, r"C:\Users\quill\log.csv"),
        (r"on \\nas\share\logs", Private.PATH, r"\\nas\share\logs"),
        ("file:///srv/a.ods", Private.PATH, "file:///srv/a.ods"),
        ("ask quill@example.org", Private.ADDRESS, "quill@example.org"),
        ("https://quill:pw@example.org/x", Private.KEY, "https://quill:pw@example.org/x"),
        ("https://example.org/x?token=abc", Private.KEY, "https://example.org/x?token=abc"),
        ("Password: hunter2 it is", Private.KEY, "Password: hunter2"),
        ("key ABCDE-12345-FGHIJ-67890", Private.KEY, "ABCDE-12345-FGHIJ-67890"),
        ("gho_9F8a7b6c5d4e3f2a1b0c9d8e7f6a", Private.KEY, "9F8a7b6c5d4e3f2a1b0c9d8e7f6a"),
        ("gh 9f8a7b6c5d4e3f2a1b0c9d8e7f6a", Private.KEY, "9f8a7b6c5d4e3f2a1b0c9d8e7f6a"),
    ],
)
def test_paths_addresses_and_keys_are_named(text, kind, words):
    assert found_in(text) == [(kind, words)]


@pytest.mark.parametrize(
    "text",
    [
        "1 % low / 60 fps; 4x PCIe 4.0, 1080p/High, and/or",
        "pass 2: 71.4 fps, 16:9, 2026-10-05T10:00:00.000+00:00",
        "x4/x8/x16 slots; reviewer's words https://example.org/page",
        "Ninefold Siege / turn 200 / 1080p / Max",
    ],
)
def test_what_reviews_are_made_of_is_not_named(text):
    assert not found_in(text)


def test_nothing_in_the_demo_looks_private(demo_contents):
    review = demo_contents.reviews["which-link"]
    assert not private_words(records_of(demo_contents, review))


def test_the_place_is_said_once_and_long_words_are_cut():
    text = f"/srv/q/{'x' * 500}"
    one, *others = private_words([Title(id="a", name="A", notes=text)] * 2)
    assert not others
    assert str(one).startswith("path in notes of title “A”: /srv/q/xxx")
    assert len(one.words) == 80


def test_a_bundle_carries_no_start_command(demo_contents):
    title = next(iter(demo_contents.titles.values()))
    armed = title.model_copy(update={"start_command": "/srv/quill/start --key abc"})
    contents = replace(demo_contents, titles={**demo_contents.titles, title.id: armed})
    for review in contents.reviews.values():
        records = records_of(contents, review)
        assert all(one.start_command == "" for one in records if isinstance(one, Title))
