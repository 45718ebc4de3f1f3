"""The window survives faults, other windows on its logbook, and a file that is gone."""

import logging
import sys
import threading

import pytest
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication
from reach import Hand

from blunt_ruler import diary
from blunt_ruler.core.records.records import Decision
from blunt_ruler.logbook import Logbook
from blunt_ruler.ui.kit.faults import Faults, sentence


@pytest.fixture
def faults(window, tmp_path, qtbot):
    made = Faults(window)
    made.raised.connect(window.banner.show_error)
    with qtbot.captureExceptions(), diary.kept(path=tmp_path / "log.txt"):
        made.install()
        yield made
        made.remove()


def test_an_exception_in_a_slot_is_told_and_survived(window, faults, tmp_path):
    def broken():
        raise RuntimeError("a slot broke")

    sys.excepthook(*_caught(broken))
    assert window.banner.isVisibleTo(window)
    assert "RuntimeError: a slot broke" in window.banner.words.text()
    assert "you can go on" in window.banner.words.text()
    window.banner.copy.click()
    assert "test_faults_and_others.py" in QApplication.clipboard().text()
    assert "a slot broke" in (tmp_path / "log.txt").read_text()


def _caught(work):
    try:
        work()
    except Exception:
        return sys.exc_info()
    raise AssertionError


def test_a_slot_called_by_qt_does_not_end_the_program(window, faults, qtbot):
    def broken():
        raise KeyError("from a timer")

    QTimer.singleShot(0, broken)
    qtbot.waitUntil(lambda: "from a timer" in window.banner.words.text(), timeout=60_000)


def test_an_exception_in_a_thread_is_told(window, faults, qtbot):
    def broken():
        raise OSError("on a thread")

    thread = threading.Thread(target=broken)
    thread.start()
    thread.join()
    qtbot.waitUntil(lambda: "on a thread" in window.banner.words.text(), timeout=60_000)


def test_what_a_library_raises_beside_exceptions_is_told_too(window, qtbot):
    class PanicException(BaseException):
        """As some compiled libraries raise them."""

    def work(_step):
        raise PanicException("out of bounds")

    window.desk.jobs.run("Working", work, lambda _: None, window.banner.show_error)
    qtbot.waitUntil(lambda: "out of bounds" in window.banner.words.text(), timeout=60_000)
    assert not window.banner.copy.isHidden()


def test_a_refused_value_is_a_sentence_with_its_field():
    from blunt_ruler.core.records.records import TypedFigures

    with pytest.raises(ValueError) as refused:
        TypedFigures(average_fps=500_000)
    said = sentence(refused.value)
    assert said.startswith("average fps: input should be less than")
    assert "\n" not in said


def test_qts_own_messages_go_to_the_log(window, faults, tmp_path):
    logging.getLogger("blunt_ruler").setLevel(logging.DEBUG)
    from PyQt6.QtCore import qDebug

    qDebug("a word from Qt")
    assert "a word from Qt" in (tmp_path / "log.txt").read_text()


# Others on the same logbook


def first_run(window):
    return next(iter(window.desk.snapshot.contents.runs.values()))


def test_what_another_window_wrote_is_shown_before_the_next_edit(demo_window, settle):
    path = demo_window.desk.snapshot.path
    run = first_run(demo_window)
    with Logbook.open(path) as other:
        rig = other.contents().rigs[run.rig_id]
        other.commit("rename", put=[rig.model_copy(update={"name": "Elsewhere"})])
        demo_window.desk.look_for_others()
        settle(demo_window)
        assert demo_window.desk.snapshot.contents.rigs[run.rig_id].name == "Elsewhere"
        # Both edits stand: another record here, and theirs.
        Hand(demo_window).give_reason(run, "warm")
        settle(demo_window)
        now = other.contents()
        assert now.runs[run.id].reason == "warm"
        assert now.rigs[run.rig_id].name == "Elsewhere"


def test_an_edit_of_what_another_changed_since_is_asked_about(demo_window, settle, qtbot):
    desk, banner = demo_window.desk, demo_window.banner
    run = first_run(demo_window)
    with Logbook.open(desk.snapshot.path) as other:
        theirs = other.contents().runs[run.id].model_copy(update={"notes": "theirs"})
        other.commit("note", put=[theirs])
        Hand(demo_window).decide(run, Decision.SET_ASIDE)
        qtbot.waitUntil(lambda: "changed in another window" in banner.words.text(), timeout=60_000)
        settle(demo_window)
        assert other.contents().runs[run.id] == theirs
        assert desk.snapshot.contents.runs[run.id] == theirs
        banner.offer.click()
        settle(demo_window)
        assert other.contents().runs[run.id].decision is Decision.SET_ASIDE
    assert banner.isHidden()


def test_undo_passes_over_what_another_window_changed_and_offers_the_edit_before(
    demo_window, settle, qtbot
):
    desk, banner = demo_window.desk, demo_window.banner
    run, other_run, *_ = desk.snapshot.contents.runs.values()
    Hand(demo_window).give_reason(other_run, "first")
    settle(demo_window)
    Hand(demo_window).give_reason(run, "second")
    settle(demo_window)
    with Logbook.open(desk.snapshot.path) as other:
        theirs = other.contents().runs[run.id].model_copy(update={"notes": "theirs"})
        other.commit("note", put=[theirs])
        desk.undo()
        qtbot.waitUntil(lambda: "Can't undo" in banner.words.text(), timeout=60_000)
        settle(demo_window)
        assert "changed in another window since. Undo “" in banner.words.text()
        assert banner.offer.text() == f"Undo “{desk.snapshot.undo}”"
        assert other.contents().runs[run.id].notes == "theirs"
        banner.offer.click()
        settle(demo_window)
        now = other.contents()
        assert (now.runs[other_run.id], now.runs[run.id]) == (other_run, theirs)


@pytest.mark.parametrize(
    "how",
    [
        "deleted",
        *(pytest.param(how, marks=pytest.mark.deep) for how in ("moved", "replaced", "cut short")),
    ],
)
def test_a_file_that_is_gone_is_said_at_once_and_nothing_is_lost(
    demo_window, settle, qtbot, how, tmp_path
):
    desk, banner = demo_window.desk, demo_window.banner
    path = desk.snapshot.path
    run = first_run(demo_window)
    Hand(demo_window).give_reason(run, "before")
    settle(demo_window)
    if how == "moved":
        path.rename(tmp_path / "elsewhere.blunt")
    else:
        path.unlink()
    if how == "replaced":
        path.write_text("something else")
    elif how == "cut short":
        path.write_bytes(b"SQLite format 3\x00" * 20)
    desk.look_for_others()
    qtbot.waitUntil(lambda: "Nothing is lost" in banner.words.text(), timeout=60_000)
    settle(demo_window)
    assert banner.offer.text() == "Save it elsewhere…"
    assert desk.snapshot.path != path
    Hand(demo_window).give_reason(run, "after")
    settle(demo_window)
    saved = tmp_path / "saved.blunt"
    desk.copy_to(saved)
    settle(demo_window)
    with Logbook.open(saved) as book:
        contents = book.contents()
        assert contents.runs[run.id].reason == "after"
        assert len(contents.runs) == len(desk.snapshot.contents.runs)
        assert book.trace(contents.runs[run.id].trace_sha256).frame_times_ms.size > 100
        assert "reason" in book.next_undo()


def test_an_edit_right_after_the_file_is_gone_goes_into_the_rescued_copy(demo_window, settle):
    desk = demo_window.desk
    run = first_run(demo_window)
    desk.snapshot.path.unlink()
    Hand(demo_window).give_reason(run, "still here")
    settle(demo_window)
    assert desk.snapshot.contents.runs[run.id].reason == "still here"
    with Logbook.open(desk.snapshot.path) as book:
        assert book.contents().runs[run.id].reason == "still here"


def test_records_that_are_set_apart_are_named_at_opening(window, settle, demo_book):
    import sqlite3

    with sqlite3.connect(demo_book) as db:
        db.execute("UPDATE rigs SET body = json_set(body, '$.name', '') WHERE id = 'built-in-ig-6'")
    window.desk.open(demo_book)
    settle(window)
    assert "left out" in window.banner.words.text()
    assert "built-in-ig-6" in window.banner.words.text()
    assert window.desk.snapshot.contents.runs
