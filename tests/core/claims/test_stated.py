"""Own results known only as percentages: held against whom they are of, and in no mean of rates."""

import pytest
from lab import BASE, REFERENCE, Lab

from blunt_ruler.core.board.board import build_board
from blunt_ruler.core.board.lenses import published_change_words
from blunt_ruler.core.board.percentages import rig_meant
from blunt_ruler.core.claims.offer import claims_on
from blunt_ruler.core.claims.speak import speak
from blunt_ruler.core.records.records import Origin, Review, Run, TypedFigures
from blunt_ruler.core.runs.entry import BadEntry, entry_text, entry_words, parse_entry


def lab():
    made = (
        Lab()
        .rig("Box", BASE, card="iG", host="Mini", built_in=True)
        .rig("Tower", REFERENCE, card="Marram 12", host="Big", link="slot")
        .rig("Dock", card="Marram 12", host="Mini", link="cord")
        .rig("Cable", card="Marram 12", host="Mini", link="cable")
    )
    for title, rates in {"A": (30, 70, 60), "B": (40, 80, 70)}.items():
        for rig, rate in zip(("Box", "Tower", "Dock"), rates, strict=True):
            made.measured(rig, title, rate)
    return made


def said_of(made, *stated):
    """(contents, Board, claims) with entries (rig, title, text) beside what the lab measured."""
    runs = {}
    for rig, title, text in stated:
        (typed,) = parse_entry(text).passes
        key = f"{rig}{title}{text}"
        case = f"{title} 1080p"
        runs[key] = Run(id=key, rig_id=rig, case_id=case, origin=Origin(kind="typed"), typed=typed)
    contents = made.contents.with_records({"runs": runs})
    review = Review(id="r", name="r", seats=tuple(made.seats), case_ids=tuple(contents.cases))
    board = build_board(contents, review)
    return contents, board, claims_on(contents, board)


def sentences(claims, figure):
    columns = claims.board.columns
    return [speak(one, columns).computed for one in claims.all() if one.figure == figure]


def test_two_titles_make_a_comparison_without_any_rate():
    _, board, claims = said_of(
        lab(), ("Cable", "A", "-12% of Tower"), ("Cable", "B", "15 % behind the tower")
    )
    (said,) = sentences(claims, "stated_change_of.Tower")
    kept = (0.88 * 0.85) ** 0.5  # a geometric mean, as of rates
    assert f"keeps about {kept:.0%}".replace("%", "\u202f%") in said
    assert "Known as a percentage." in said
    assert "Cable" not in board.totals  # no rate, no mean of rates
    assert not any(rig == "Cable" for rig, _ in board.cells)


def test_it_stands_beside_what_was_measured_and_does_not_move_it():
    alone = [one.value for one in said_of(lab())[2].all() if one.figure == "mean_loss"]
    _, _, claims = said_of(lab(), ("Dock", "A", "-30% of Tower"))
    assert [one.value for one in claims.all() if one.figure == "mean_loss"] == alone
    (said,) = sentences(claims, "stated_change_of.Tower")
    assert "keeps about 70\u202f%" in said


def test_any_rig_of_the_review_can_be_the_base():
    _, _, claims = said_of(lab(), ("Cable", "A", "25% slower than Dock"))
    (said,) = sentences(claims, "stated_change_of.Dock")
    assert "keeps about 75\u202f% of its speed over the cord in A" in said


def test_of_a_rig_nobody_has_it_says_so_and_claims_nothing():
    _, board, claims = said_of(lab(), ("Cable", "A", "-12% of my old laptop"))
    assert not [one for one in claims.all() if one.figure.startswith("stated")]
    words = published_change_words(board, "Cable", "A 1080p")
    assert (
        words
        == "Stated as −12\u202f% against my old laptop, without a rate: it enters no mean of rates."
    )


@pytest.mark.parametrize(
    ("said", "whom"),
    [
        ("Tower", "Tower"),
        ("the tower", "Tower"),
        ("the reference", "Reference"),
        ("base", "Base"),
        ("cord", None),  # two have it
        ("", None),
        ("a tower of a friend", None),
    ],
)
def test_who_is_meant(said, whom):
    made = (
        Lab().rig("Base", BASE).rig("Reference", REFERENCE).rig("Tower").rig("Red cord").rig("Cord")
    )
    if said == "cord":
        made = Lab().rig("Red cord").rig("Blue cord")
    review = Review(id="r", name="r", seats=tuple(made.seats))
    found = rig_meant(said, build_board(made.contents, review).columns)
    assert (found and found.name) == whom


@pytest.mark.parametrize(
    ("text", "change", "of"),
    [
        ("-12% of Tower", -0.12, "Tower"),
        ("+8.5 % over Box", 0.085, "Box"),
        ("12% behind Tower", -0.12, "Tower"),
        ("12 % slower than the tower", -0.12, "the tower"),
        ("20% faster than Box", 0.2, "Box"),
        ("3% ahead of Dock", 0.03, "Dock"),
        ("-7%", -0.07, ""),
    ],
)
def test_notations_are_read_and_read_back(text, change, of):
    entry = parse_entry(text)
    assert entry.passes == (TypedFigures(change=change, change_of=of),)
    assert parse_entry(entry_text(entry)) == entry
    assert "in no mean of rates" in entry_words(entry)


@pytest.mark.parametrize(
    ("text", "ways"),
    [("88% of Tower", ("-12%", "-88%")), ("120% of Box", ("+20%", "-120%"))],
)
def test_what_can_be_read_two_ways_is_asked_about(text, ways):
    with pytest.raises(BadEntry) as caught:
        parse_entry(text)
    assert all(way in str(caught.value) for way in ways)


def test_all_of_it_cannot_be_lost():
    with pytest.raises(BadEntry, match="leaves no rate"):
        parse_entry("100% behind Tower")
