"""Facts noted by name, and by command: what a form of the window takes, a line takes."""

import pytest

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.records import TABLE_OF
from blunt_ruler.core.rigs.fields import fields_of
from blunt_ruler.core.rigs.noting import MODELS, BadNote, field_named, note_facts, noted_of
from blunt_ruler.logbook import Logbook


def noted(contents, kind, name, *facts):
    edit = note_facts(contents, kind, name, facts, lambda: "new")
    return edit.on(contents), edit


@pytest.fixture
def contents(demo_contents):
    return demo_contents


@pytest.mark.parametrize("kind", MODELS)
def test_every_fact_of_a_kind_is_found_by_its_label(kind):
    for spec in fields_of(MODELS[kind]):
        assert field_named(MODELS[kind], spec.says.upper()) == spec
        assert field_named(MODELS[kind], spec.name) == spec


@pytest.mark.parametrize(
    ("kind", "name", "fact", "field", "value"),
    [
        ("rig", "Sluice Marram 12", "restart at each docking: yes", "restart_at_docking", True),
        ("state", "Sluice Marram 12", "power mode: quiet", "power_mode", "quiet"),
        ("readings", "Sluice Marram 12", "idle, at the wall: 61 W", "idle_wall_w", 61.0),
        ("host", "Quillon 24", "cores: 12", "cores", 12),
        ("link", "40 gb/s CABLE", "length of the cord: 80 cm", "length_m", 0.8),
        ("price", "Marram 12", "price of one: 350", "amount", 350.0),
        ("title", "Skitter", "target of its own: 90", "target_fps", 90.0),
        ("card", "Marram 12", "memory type: GDDR", "memory_type", "GDDR"),
        ("dock", "Sluice", "card built in: yes", "sealed", True),
    ],
)
def test_a_fact_is_noted(contents, kind, name, fact, field, value):
    after, edit = noted(contents, kind, name, fact)
    (record,) = edit.put
    kept = getattr(after, TABLE_OF[type(record)])[record.id]
    holder = kept.state if kind == "state" else kept
    assert getattr(holder, field) == value


def test_several_facts_are_one_edit_and_an_empty_one_makes_unknown(contents):
    after, edit = noted(contents, "host", "Quillon 24", "cores: 12", "memory: 32 GB")
    assert edit.label == "cores and memory of Quillon 24"
    again, _ = noted(after, "host", "Quillon 24", "cores:")
    (host,) = [one for one in again.hosts.values() if one.name == "Quillon 24"]
    assert (host.cores, host.memory_gb) == (None, 32.0)


def test_an_alternative_is_made_once(contents):
    after, _ = noted(contents, "alternative", "Used tower", "price of one: 450 EUR")
    after, edit = noted(after, "alternative", "used TOWER", "mean frames: 75-90")
    (one,) = after.alternatives.values()
    assert (one.name, one.amount, one.frames.average_how.edges) == ("Used tower", 450, (75, 90))
    assert edit.put == (one,)


@pytest.mark.parametrize(
    ("kind", "name", "fact", "words"),
    [
        ("boat", "x", "a: b", "Choose one of rig, state"),
        ("rig", "Nope", "notes: x", "none is called “Nope”"),
        ("host", "Quillon 24", "horses: 3", "it is not a fact of it"),
        ("host", "Quillon 24", "cores 3", "it has no colon"),
        ("rig", "Sluice Marram 12", "docking: 3", "can be more than one fact"),
        ("alternative", "Nope", "", "none is called “Nope”"),
    ],
)
def test_what_cannot_be_noted_says_why(contents, kind, name, fact, words):
    with pytest.raises(BadNote, match=words):
        if fact:
            note_facts(contents, kind, name, [fact], lambda: "new")
        else:
            noted_of(contents, kind, name)


def test_two_of_one_name_are_told_apart(contents):
    (first, *_) = contents.hosts.values()
    twin = first.model_copy(update={"id": "twin"})
    with pytest.raises(BadNote, match="2 are called"):
        noted_of(contents.with_records({"hosts": {"twin": twin}}), "host", first.name)


def test_by_command_it_is_kept_and_listed(run, demo_book):
    code, done, _ = run("note", demo_book, "rig", "Sluice Marram 12", "cut, bent or moved: the lid")
    assert code == 0
    assert "Noted: cut, bent or moved to make it fit of Sluice Marram 12." in done
    _, listed, _ = run("note", demo_book, "rig", "Sluice Marram 12")
    assert "cut, bent or moved to make it fit: the lid" in listed
    with Logbook.open(demo_book) as book:
        assert book.undo()
        assert not any(rig.modified for rig in book.contents().rigs.values())


@pytest.mark.parametrize(
    ("kind", "name", "fact"),
    [
        ("title", "Skitter", "parts and weights: one\n two ~60"),
        ("readings", "Sluice Marram 12", f"noise by source: {'x' * 600} 40 at 1 m"),
    ],
)
def test_odd_words_are_read_or_refused_in_a_sentence(contents, kind, name, fact):
    try:
        noted(contents, kind, name, fact)
    except UserFixable as error:
        assert "too long" in str(error)
