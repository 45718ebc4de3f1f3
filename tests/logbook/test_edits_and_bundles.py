"""Files of the format before open with nothing lost; edits that stand are told, others are not."""

import sqlite3

import pytest

from blunt_ruler.core.records.hardware import Rig
from blunt_ruler.core.records.pricing import Price, Readings
from blunt_ruler.logbook import Logbook
from blunt_ruler.logbook.schema import APPLICATION_ID, MIGRATIONS, SCHEMA_VERSION


@pytest.fixture
def book(tmp_path):
    with Logbook.create(tmp_path / "a.blunt", clock=lambda: "2026-11-25T10:00:00+00:00") as book:
        yield book


def test_a_file_of_any_older_format_is_brought_up_with_what_it_holds(tmp_path):
    rig = Rig(id="r", name="Rig")
    for version in range(1, SCHEMA_VERSION):
        path = tmp_path / f"v{version}.blunt"
        with sqlite3.connect(path) as db:
            for number in range(1, version + 1):
                for statement in MIGRATIONS[number]:
                    db.execute(statement)
            db.execute("INSERT INTO rigs (id, body) VALUES ('r', ?)", (rig.model_dump_json(),))
            db.execute(f"PRAGMA application_id = {APPLICATION_ID}")
            db.execute(f"PRAGMA user_version = {version}")
        db.close()
        with Logbook.open(path) as book:
            contents = book.contents()
            assert contents.rigs == {"r": rig}
            assert contents.prices == {}
            assert contents.readings == {}
            book.commit("price", put=[Price(id="x", rig_id="r", name="Fan", amount=9)])
        with Logbook.open(path) as book:
            assert book.contents().prices["x"].amount == 9
        copy = tmp_path / f"v{version}.before-format-{SCHEMA_VERSION}.blunt"
        with sqlite3.connect(copy) as db:
            assert db.execute("PRAGMA user_version").fetchone() == (version,)
            assert db.execute("SELECT id FROM rigs").fetchall() == [("r",)]
        db.close()


def test_a_price_or_a_reading_of_a_rig_that_is_not_there_is_refused(book):
    for record in (Price(id="p", rig_id="gone"), Readings(id="gone", rig_id="gone")):
        with pytest.raises(Exception, match="FOREIGN KEY"):
            book.commit("of nothing", put=[record])
    assert book.contents().prices == {}


def test_only_edits_that_stand_and_changed_something_are_told(book):
    rig = Rig(id="r", name="Rig")
    book.commit("first entry", put=[rig])
    book.commit("renamed", put=[rig.model_copy(update={"name": "Renamed"})])
    book.commit("again", put=[rig.model_copy(update={"name": "Again"})])
    book.undo()
    edits = book.edits()
    assert [one.label for one in edits] == ["renamed"]
    ((table, before, after),) = edits[0].rows
    assert table == "rigs"
    assert '"name":"Rig"' in before
    assert '"name":"Renamed"' in after
    assert edits[0].at == "2026-11-25T10:00:00+00:00"
    book.redo()
    assert [one.label for one in book.edits()] == ["renamed", "again"]
    book.undo()
    book.commit("elsewhere", put=[rig.model_copy(update={"name": "Elsewhere"})])
    assert [one.label for one in book.edits()] == ["renamed", "elsewhere"], "a dropped one is gone"


def test_one_edit_of_several_records_is_told_as_one(book):
    rigs = [Rig(id=key, name=key) for key in "abc"]
    book.commit("first entry", put=rigs)
    book.commit(
        "all",
        put=[one.model_copy(update={"name": f"new {one.id}"}) for one in rigs[:2]],
        drop=[rigs[2]],
    )
    (edit,) = book.edits()
    assert len(edit.rows) == 3
    assert edit.rows[-1][2] is None, "what was taken away has no after"
