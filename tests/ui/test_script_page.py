"""The script written, checked and put right by keys, and kept by the logbook."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QLabel
from reach import stop

from blunt_ruler.core.records.edits import Edit
from blunt_ruler.core.records.records import Origin, Run, TypedFigures
from blunt_ruler.core.script.statements import Answer
from blunt_ruler.logbook import Logbook

AT = "Write-up"
SAID = (
    "In Tidewrack at 1080p the Sluice averages 69 fps. It loses 53 % to the tower there.\n"
    "Over all games it is 2.7 times as fast as the built-in graphics."
)


@pytest.fixture
def page(demo_window, settle, qtbot):
    settle(demo_window)
    demo_window.go_to("Write-up")
    writeup = stop(demo_window, "Write-up")
    writeup.show_page("Script")
    return writeup.script


@pytest.fixture
def write(page, qtbot):
    """Type a text and wait for its answers."""

    def write(words):
        page.sheet.setFocus()
        page.sheet.selectAll()
        page.sheet.insertPlainText(words)
        qtbot.keyClick(page.sheet, Qt.Key.Key_Space)
        qtbot.keyClick(page.sheet, Qt.Key.Key_Backspace)
        checked(page, qtbot)

    return write


def checked(page, qtbot):
    qtbot.waitUntil(lambda: page._checked == page.sheet.toPlainText(), timeout=30_000)


def rows(page):
    tree = page.found
    items = [tree.topLevelItem(place) for place in range(tree.topLevelItemCount())]
    return [tuple(item.text(column) for column in range(5)) for item in items]


def test_a_slip_is_underlined_named_and_put_right_by_one_key(page, write, qtbot, demo_window):
    assert page.line().startswith("Paste or write what will be said")
    write(SAID)
    assert [one.answer for one in page._held] == [
        Answer.HOLDS,
        Answer.FAILS,
        Answer.HOLDS,
    ]
    marks = page.sheet.extraSelections()
    assert [mark.cursor.selectedText() for mark in marks] == ["53 %"]
    assert page.line().startswith("1 of 3 statements does not hold. Line 1: 53\u202f% is the lead")
    ((mark, stands, line, said, why),) = rows(page)
    assert (mark, stands, line, said) == ("≠", "does not hold", "1", "53 %")
    assert "the loss is 35" in why
    qtbot.keyClick(page.sheet, Qt.Key.Key_F8)
    column = stop(demo_window, "Write-up").evidence
    told = " ".join(one.text() for one in column.findChildren(QLabel))
    assert "WHAT IS TRUE" in told
    assert "35\u202f% slower than Workbench Marram 12 in Tidewrack at 1080p" in told
    qtbot.keyClick(
        page.sheet,
        Qt.Key.Key_Return,
        Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier,
    )
    checked(page, qtbot)
    assert "It loses 35 % to the tower there." in page.sheet.toPlainText()
    assert page.line() == "All 3 statements hold."
    assert rows(page) == []
    page.every.setChecked(True)
    assert [row[0] for row in rows(page)] == ["=", "=", "="]


def test_the_true_sentence_takes_the_place_of_the_false_one_and_undo_takes_it_back(
    page, write, qtbot
):
    write("There is no difference between the Sluice and the tower.")
    qtbot.keyClick(page.sheet, Qt.Key.Key_F8)
    qtbot.keyClick(page.sheet, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
    checked(page, qtbot)
    put_in = page.sheet.toPlainText()
    assert "25\u202f% slower than Workbench Marram 12" in put_in
    assert page.inserted == (put_in,)
    page.sheet.undo()
    assert page.sheet.toPlainText() == "There is no difference between the Sluice and the tower."


def test_what_was_written_is_in_the_logbook_and_one_undo_away(
    page, write, qtbot, demo_window, settle
):
    write(SAID)
    demo_window.go_to("Board")
    settle(demo_window)
    with Logbook.reading(demo_window.desk.snapshot.path) as book:
        review = next(iter(book.contents().reviews.values()))
    assert review.writeup.script == SAID
    demo_window.desk.undo()
    settle(demo_window)
    demo_window.go_to("Write-up")
    assert page.sheet.toPlainText() == ""


def test_what_was_put_in_goes_stale_when_a_pass_is_added(page, write, qtbot, demo_window, settle):
    write("In Glass Orchard the Sluice does 40 fps.")
    qtbot.keyClick(page.sheet, Qt.Key.Key_F8)
    page.correct()
    checked(page, qtbot)
    assert page.sheet.toPlainText() == "In Glass Orchard the Sluice does 32.9 fps."
    page.keep()
    settle(demo_window)
    slow = Run(
        id="slow",
        rig_id="sluice-marram-12",
        case_id="glass-orchard-1080p",
        repeat=9,
        origin=Origin(kind="typed"),
        typed=TypedFigures(average_fps=25.0),
    )
    demo_window.desk.apply(Edit("type a pass", put=(slow,)))
    settle(demo_window)
    qtbot.waitUntil(lambda: page._held[0].answer is Answer.FAILS, timeout=30_000)
    assert page._held[0].note == "It was true when it was put in: the logbook has changed since."


def test_the_narration_begins_a_script_and_all_of_it_holds(page, qtbot):
    page.begin.click()
    checked(page, qtbot)
    qtbot.waitUntil(lambda: len(page._held) > 10, timeout=60_000)
    assert page.line().startswith("All ")
    assert len(page._held) > 10


def test_a_text_is_opened_and_saved(page, qtbot, tmp_path, monkeypatch):
    file = tmp_path / "talk.srt"
    file.write_text("1\n00:00:01,000 --> 00:00:03,000\nIn Skitter the Sluice does 246 fps.\n")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_a, **_k: (str(file), ""))
    page.open.click()
    qtbot.waitUntil(lambda: bool(page._held), timeout=30_000)
    assert page._held[0].at_s == 1.0
    out = tmp_path / "out.srt"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_a, **_k: (str(out), ""))
    page.correct() if page._chosen else page.step(1)
    page.correct()
    checked(page, qtbot)
    page.save.click()
    qtbot.waitUntil(out.exists, timeout=60_000)
    assert out.read_text() == file.read_text().replace("246", "224.2")


def test_a_file_that_is_no_text_is_refused_and_the_sheet_stays(
    page, write, qtbot, tmp_path, monkeypatch, demo_window
):
    write("The Sluice keeps 75 %.")
    file = tmp_path / "film.txt"
    file.write_bytes(b"\x00\x01\x02" * 100)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_a, **_k: (str(file), ""))
    page.open.click()
    qtbot.waitUntil(lambda: demo_window.banner.isVisible(), timeout=60_000)
    assert page.sheet.toPlainText() == "The Sluice keeps 75 %."


def test_letters_beyond_16_bits_move_no_mark(page, write, qtbot):
    page.show_text("🎮🎮 The Sluice keeps 70 % of the tower's speed.")
    checked(page, qtbot)
    assert [mark.cursor.selectedText() for mark in page.sheet.extraSelections()] == ["70 %"]
