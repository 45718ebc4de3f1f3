"""Edits, undo and redo, traces, and what another program sees in the file."""

import sqlite3

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from blunt_ruler.core.records.hardware import Rig
from blunt_ruler.core.records.records import Case, Origin, Review, Run, Title, Trace
from blunt_ruler.logbook import BadRecord, DamagedLogbook, Logbook, LogbookBusy


@pytest.fixture
def book(tmp_path):
    with Logbook.create(tmp_path / "review.blunt") as book:
        yield book


def a_rig(number=1, name="Rig"):
    return Rig(id=f"rig{number}", name=name)


def a_run(trace=None, repeat=1):
    return Run(
        id=f"run{repeat}",
        rig_id="rig1",
        case_id="case",
        repeat=repeat,
        origin=Origin(kind="log", file="coast.csv"),
        trace_sha256=trace,
    )


def described(book):
    book.commit(
        "describe",
        put=[a_rig(), Title(id="t", name="Tidewrack"), Case(id="case", title_id="t")],
    )


def test_what_is_written_is_read_back_after_reopening(tmp_path):
    path = tmp_path / "review.blunt"
    with Logbook.create(path) as book:
        described(book)
        book.commit("import", put=[a_run()])
        before = book.contents()
    with Logbook.open(path) as book:
        assert book.contents() == before
    assert before.runs["run1"].origin.file == "coast.csv"


def test_undo_and_redo_put_rows_back_exactly(book):
    book.commit("name it", put=[a_rig(name="First")])
    book.commit("rename it", put=[a_rig(name="Second")])
    assert book.next_undo() == "rename it"
    assert book.undo()["rigs"]["rig1"].name == "First"
    assert book.contents().rigs["rig1"].name == "First"
    assert book.next_redo() == "rename it"
    assert book.undo() == {"rigs": {"rig1": None}}
    assert not book.contents().rigs
    assert book.undo() == {}
    book.redo()
    assert book.redo()["rigs"]["rig1"].name == "Second"
    assert book.redo() == {}
    assert book.contents().rigs["rig1"].name == "Second"


def test_a_new_edit_drops_the_redo_tail_but_keeps_it_readable(book):
    book.commit("name it", put=[a_rig(name="First")])
    book.commit("rename it", put=[a_rig(name="Second")])
    book.undo()
    book.commit("rename it otherwise", put=[a_rig(name="Third")])
    assert book.next_redo() is None
    history = {entry.label: entry for entry in book.history()}
    assert history["rename it"].state == "dropped"
    assert "Second" in history["rename it"].images[0].after
    assert book.history()[0].label == "rename it otherwise"


def test_an_edit_that_changes_nothing_is_not_recorded(book):
    book.commit("name it", put=[a_rig()])
    assert book.commit("again", put=[a_rig()]) == {}
    assert len(book.history()) == 1


def test_an_edit_that_breaks_a_reference_changes_nothing(book):
    with pytest.raises(BadRecord, match="does not fit"):
        book.commit("orphan", put=[a_run()])
    assert not book.contents().runs
    assert book.next_undo() is None
    described(book)
    book.commit("import", put=[a_run()])
    with pytest.raises(BadRecord, match="does not fit"):
        book.commit("drop", drop=[a_rig()])
    assert "rig1" in book.contents().rigs


@settings(max_examples=12)
@given(
    edits=st.lists(st.tuples(st.integers(1, 4), st.sampled_from("ABC") | st.none()), max_size=12)
)
def test_undoing_everything_gives_back_every_state_on_the_way(tmp_path_factory, edits):
    path = tmp_path_factory.mktemp("undo") / "review.blunt"
    with Logbook.create(path) as book:
        states = [book.contents().rigs]
        for number, name in edits:
            rig = a_rig(number, name or "X")
            changed = book.commit("edit", put=[rig] if name else [], drop=[] if name else [rig])
            if changed:
                states.append(book.contents().rigs)
        forwards = list(states)
        while len(states) > 1:
            states.pop()
            book.undo()
            assert dict(book.contents().rigs) == dict(states[-1])
        for state in forwards[1:]:
            book.redo()
            assert dict(book.contents().rigs) == dict(state)


def test_changes_applied_to_contents_equal_a_fresh_reading(book):
    described(book)
    contents = book.contents()
    contents = contents.with_records(book.commit("import", put=[a_run(), a_run(repeat=2)]))
    contents = contents.with_records(book.commit("drop", drop=[a_run()]))
    contents = contents.with_records(book.undo())
    assert dict(contents.runs) == dict(book.contents().runs)


def test_traces_are_stored_once_and_come_back_whole(book):
    described(book)
    times = np.array([16.7, 16.6, 33.4])
    trace = Trace(times, {"card busy %": np.array([90.0, np.nan, 95.0])})
    sha256 = book.add_trace(trace)
    assert book.add_trace(trace) == sha256
    back = book.trace(sha256)
    assert np.array_equal(back.frame_times_ms, times)
    assert np.array_equal(back.telemetry["card busy %"], [90.0, np.nan, 95.0], equal_nan=True)


def test_an_altered_or_missing_trace_is_noticed(book):
    sha256 = book.add_trace(Trace(np.array([16.7, 16.6]), {}))
    with sqlite3.connect(book.path) as other:
        other.execute("UPDATE traces SET parquet = substr(parquet, 1, 40) || x'00'")
    with pytest.raises(DamagedLogbook, match="not what was stored"):
        book.trace(sha256)
    with pytest.raises(DamagedLogbook, match="is missing"):
        book.trace("f" * 64)


def test_mappings_are_remembered_by_header(book):
    assert book.mapping("a,b") is None
    book.remember_mapping("a,b", '{"column": "a"}')
    book.remember_mapping("a,b", '{"column": "b"}')
    assert book.mapping("a,b") == '{"column": "b"}'


def test_a_copy_is_whole_and_apart(book, tmp_path):
    described(book)
    book.copy_to(tmp_path / "copy.blunt")
    book.commit("later", put=[a_rig(2)])
    with Logbook.open(tmp_path / "copy.blunt") as copy:
        assert list(copy.contents().rigs) == ["rig1"]
    with pytest.raises(LogbookBusy, match="the logbook itself"):
        book.copy_to(book.path)
    with pytest.raises(LogbookBusy, match="Choose another folder"):
        book.copy_to(tmp_path / "nowhere" / "copy.blunt")


def test_a_locked_logbook_says_so_and_changes_nothing(book, monkeypatch):
    book._db.execute("PRAGMA busy_timeout = 50")
    with sqlite3.connect(book.path, isolation_level=None) as other:
        other.execute("BEGIN IMMEDIATE")
        with pytest.raises(LogbookBusy, match="Nothing was changed"):
            book.commit("edit", put=[a_rig()])
        other.execute("ROLLBACK")
    book.commit("edit", put=[a_rig()])
    assert book.next_undo() == "edit"


def test_other_tools_read_flat_results(shipped_demo, tmp_path):
    from shutil import copyfile

    copy = copyfile(shipped_demo, tmp_path / "demo.blunt")
    with sqlite3.connect(copy) as db:
        row = db.execute(
            "SELECT rig, title, resolution, average_fps, low_1_fps_percentile FROM results "
            "WHERE decision = 'keep' AND frames > 0 ORDER BY average_fps LIMIT 1"
        ).fetchone()
    assert row[:3] == ("Built-in iG-6", "Tidewrack", "2160p")
    assert row[3] > row[4] > 0


def test_a_new_logbook_is_known_to_others_while_it_is_still_open(book):
    described(book)
    with Logbook.open(book.path) as other:
        assert list(other.contents().rigs) == ["rig1"]


def test_reviews_keep_their_order(book):
    for name in ("Zeta", "Alpha"):
        book.commit("add", put=[Review(id=name, name=name)])
    assert list(book.contents().reviews) == ["Zeta", "Alpha"]
