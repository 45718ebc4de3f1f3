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


def test_a_case_of_an_older_file_claims_no_method_that_nobody_wrote(tmp_path):
    path = tmp_path / "v7.blunt"
    with sqlite3.connect(path) as db:
        for number in range(1, 8):
            for statement in MIGRATIONS[number]:
                db.execute(statement)
        db.execute("INSERT INTO titles (id, body) VALUES ('t', ?)", ('{"id":"t","name":"T"}',))
        for key, method in (("a", "scripted route"), ("b", "live play")):
            body = f'{{"id":"{key}","title_id":"t","method":"{method}"}}'
            db.execute("INSERT INTO cases (id, body) VALUES (?, ?)", (key, body))
        db.execute(f"PRAGMA application_id = {APPLICATION_ID}")
        db.execute("PRAGMA user_version = 7")
    db.close()
    with Logbook.open(path) as book:
        cases = book.contents().cases
    assert (cases["a"].method, cases["b"].method) == (None, "live play")


def test_figures_that_others_published_become_a_column_when_an_older_file_is_opened(tmp_path):
    from blunt_ruler.core.records.records import Case, PublishedFigure, Review, Title
    from blunt_ruler.logbook.shared import SharedBook

    path = tmp_path / "old.blunt"
    with Logbook.create(path) as book:
        book.commit(
            "old",
            put=[
                Title(id="t", name="Tidewrack"),
                Case(id="c", title_id="t", resolution="1080p"),
                Review(id="v", name="V", case_ids=("c",)),
                PublishedFigure(
                    id="p", rig="Tower", case="Tidewrack / 1080p", average_fps=106, source="S"
                ),
            ],
        )
    ids = iter("xyz")
    with Logbook.open(path) as book:
        shared = SharedBook(book, lambda _path: path, lambda *_a: None)
        shared.always_review(lambda: next(ids))
        assert shared.contents.published == {}
        (rig,) = shared.contents.rigs.values()
        (run,) = shared.contents.runs.values()
        assert (rig.source, run.average_fps, run.case_id) == ("S", 106.0, "c")
        assert shared.contents.reviews["v"].seats[0].rig_id == rig.id
