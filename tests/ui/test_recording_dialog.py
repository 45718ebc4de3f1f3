"""A recording from the drop to the Board and back to the picture; boxes, passes, doubts."""

import numpy as np
import pytest
from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtTest import QTest

from blunt_ruler.core.recordings.quantities import Box, Quantity
from blunt_ruler.core.recordings.series import Held
from blunt_ruler.core.runs.typed_cells import TypedCell, type_cells
from blunt_ruler.exchange.recordings import decoding
from blunt_ruler.files import shipped
from blunt_ruler.ui.desk.snapshot import new_id
from blunt_ruler.ui.runs.read_into import place_boxes
from blunt_ruler.ui.runs.recording_dialog import RecordingDialog
from blunt_ruler.ui.runs.recording_doubts import Doubt, Doubts
from blunt_ruler.ui.runs.recording_picture import RecordingPicture
from blunt_ruler.ui.runs.recording_strip import RecordingStrip

AT = "Board"
LONG_MS = 90_000
OVERLAY = "54,13,54,24:fps 60,36,39,25:card_w 60,59,35,25:load 59,81,43,26:temperature"


@pytest.fixture
def recording():
    return shipped("demo", "tidewrack.mp4")


@pytest.fixture
def board(window, settle, tmp_path):
    """A logbook with one rig measured at one case, and another that is not."""
    window.desk.create(tmp_path / "book.blunt")
    settle(window)
    cells = [TypedCell("Tower", "Tidewrack / 1440p / High", "60", None),
             TypedCell("Built-in iG-6", "Tidewrack / 1080p / High", "28", None)]  # fmt: skip
    window.desk.make(
        "type", lambda contents, review: type_cells(contents, review, cells, new_id, "")
    )
    settle(window)
    return window


def dropped(window, path, point):
    """Drop a file on the window at a point of the screen."""
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    event = QDropEvent(
        QPointF(window.mapFromGlobal(point)), Qt.DropAction.CopyAction, data,
        Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier,
    )  # fmt: skip
    window.dropEvent(event)


def opened(window, qtbot, searched=True):
    qtbot.waitUntil(lambda: window.taking.recording is not None, timeout=LONG_MS)
    dialog = window.taking.recording
    qtbot.waitUntil(lambda: dialog._facts is not None, timeout=LONG_MS)
    if searched:
        qtbot.waitUntil(lambda: dialog._job is None, timeout=LONG_MS)
    return dialog


def test_from_the_drop_to_the_board_and_back_to_the_picture(board, qtbot, settle, recording):
    window = board
    window.settings.add_layout("960x540", OVERLAY)  # to search for it takes longer than all else
    page = window.controllers["Board"].cells
    shown = page.model.board
    column = next(at for at, one in enumerate(shown.columns) if one.name == "Built-in iG-6")
    row = next(at for at, one in enumerate(shown.rows) if "1440p" in one.settings)
    place = page.table.visualRect(page.model.index(row, column)).center()
    dropped(window, recording, page.table.viewport().mapToGlobal(place))
    dialog = opened(window, qtbot)
    assert dialog.rig.currentText() == "Built-in iG-6"
    assert dialog.case.currentText() == "Tidewrack / 1440p / High"
    assert [box.quantity for box in dialog.picture.boxes][:2] == [Quantity.FPS, Quantity.CARD_W]
    assert "4 counters, as read before" in dialog.blunt.text()
    assert not dialog.go.isEnabled()
    QTest.mouseClick(dialog.read, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: dialog._job is None, timeout=LONG_MS)
    assert len(dialog.strip.spans) == 1 and 11 < np.diff(dialog.strip.spans[0])[0] < 13
    assert "Pass 1: 19.5 fps (" in dialog.figures.text()
    assert dialog.go.isEnabled() and dialog.go.text() == "Take in 1 run"
    QTest.mouseClick(dialog.go, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not dialog.isVisible(), timeout=LONG_MS)
    settle(window)

    contents = window.desk.snapshot.contents
    run = next(run for run in contents.runs.values() if run.recording is not None)
    cell = page.model.board.cells[(run.rig_id, run.case_id)]
    assert cell.average_fps == pytest.approx(19.5, abs=0.1)
    assert cell.rate_low < cell.average_fps < cell.rate_high
    assert page._chosen() == (run.rig_id, run.case_id)

    window.go_to("Runs")
    settle(window)
    runs = window.controllers["Runs"]
    runs.stop.show_page("All runs")
    settle(window)
    runs._list.choose(run.id)
    settle(window)
    plot = runs._list.panel.plot
    assert np.nanmean(plot.curve.yData) == pytest.approx(19.5, abs=0.1)
    lanes = [lane.words.toPlainText().split()[1] for lane in plot.lanes]
    assert lanes == ["busy", "power", "temperature"]
    assert runs._list._pictures[1].startswith(b"\x89PNG")

    window.taking.recording = None
    plot.clicked.emit(5.0)
    again = opened(window, qtbot)
    assert again.strip.at_s == pytest.approx(run.recording.from_s + 5.0, abs=0.05)
    assert len(again.picture.boxes) == 4
    qtbot.waitUntil(lambda: again.picture.has_picture, timeout=LONG_MS)
    again.reject()


@pytest.mark.deep  # by command and by the reader alone the search is tested without this
def test_counters_are_searched_for_where_none_are_known(board, qtbot, recording):
    board.taking.import_logs([recording])
    dialog = opened(board, qtbot)
    found = [box.quantity for box in dialog.picture.boxes]
    assert found[:2] == [Quantity.FPS, Quantity.CARD_W]
    assert "4 counters" in dialog.blunt.text()
    dialog.reject()


def test_passes_may_be_of_different_cases(board, qtbot, recording):
    window = board
    window.taking.import_logs([recording])
    dialog = opened(window, qtbot, searched=False)
    dialog.rig.setEditText("Cord")
    dialog.case.setEditText("Tidewrack / 1080p")
    dialog._add_pass()
    assert dialog._place(1) == ("Cord", "Tidewrack / 1080p")  # as the one before
    dialog.passes.setCurrentRow(1)
    dialog.case.setEditText("Tidewrack / 1440p")
    assert [dialog._place(at)[1] for at in (0, 1)] == ["Tidewrack / 1080p", "Tidewrack / 1440p"]
    dialog.passes.setCurrentRow(0)
    assert dialog.case.currentText() == "Tidewrack / 1080p"
    dialog._drop_pass()
    assert dialog._place(0)[1] == "Tidewrack / 1440p"
    dialog.reject()


@pytest.fixture
def picture(dressed, qtbot):
    made = RecordingPicture()
    qtbot.addWidget(made)
    made.resize(640, 360)
    made.show()
    made.show_picture(640, 360, bytes(640 * 360 * 3))
    return made


def test_boxes_are_drawn_moved_sized_and_taken_away(picture):
    left = Qt.MouseButton.LeftButton
    QTest.mousePress(picture, left, pos=QPoint(100, 50))
    QTest.mouseMove(picture, QPoint(180, 80))
    QTest.mouseRelease(picture, left, pos=QPoint(180, 80))
    (box,) = picture.boxes
    assert (box.x, box.y, box.quantity) == (100, 50, Quantity.FPS)
    assert abs(box.w - 80) <= 1 and abs(box.h - 30) <= 1
    QTest.keyClick(picture, Qt.Key.Key_Right)
    QTest.keyClick(picture, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
    assert (picture.boxes[0].x, picture.boxes[0].h) == (101, box.h + 1)
    QTest.keyClick(picture, Qt.Key.Key_Delete)
    assert picture.boxes == []


def test_a_box_stays_in_the_picture(picture):
    picture.show_boxes([Box(0, 0, 40, 20, Quantity.FPS)], 0)
    QTest.keyClick(picture, Qt.Key.Key_Left)
    QTest.keyClick(picture, Qt.Key.Key_Up)
    assert (picture.boxes[0].x, picture.boxes[0].y) == (0, 0)


def test_one_steps_through_pictures_and_puts_ends(dressed, qtbot):
    strip = RecordingStrip()
    qtbot.addWidget(strip)
    strip.resize(600, 46)
    strip.show_recording(20.0, 30.0)
    strip.show_spans([(0.0, 20.0)], 0)
    strip.look_at(10.0)
    QTest.keyClick(strip, Qt.Key.Key_Right)
    assert strip.at_s == pytest.approx(10.0 + 1 / 30)
    QTest.keyClick(strip, Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
    assert strip.at_s == pytest.approx(9.0 + 1 / 30)
    with qtbot.waitSignal(strip.span_changed):
        strip.put_end(0, 0, 4.0)
    assert strip.spans == [(4.0, 20.0)]
    strip.put_end(0, 1, 1.0)  # an end before the beginning leaves half a second
    assert strip.spans == [(4.0, 4.5)]


def doubt(value, at=1.0, quantity=Quantity.FPS):
    held = Held(at, at + 0.5, value, 4, 4, "not clear in any picture")
    return Doubt(0, quantity, held, np.zeros((24, 60, 3), np.uint8))


def test_one_key_settles_a_doubt(dressed, qtbot):
    doubts = Doubts()
    qtbot.addWidget(doubts)
    told = []
    doubts.settled.connect(lambda one, value: told.append(value))
    doubts.ask([doubt(60.0), doubt(61.0, 2.0), doubt(62.0, 3.0)])
    doubts.show()
    assert doubts.heading.text() == "IN DOUBT · 3 LEFT"
    QTest.keyClick(doubts.field, Qt.Key.Key_Return)
    doubts.field.setText("6l")
    QTest.keyClick(doubts.field, Qt.Key.Key_Return)
    assert told == [60.0] and "“6l” is not a figure" in doubts.wrong.text()
    doubts.field.setText("61 fps")
    QTest.keyClick(doubts.field, Qt.Key.Key_Return)
    assert told == [60.0, 61.0]
    doubts.field.setText("")
    QTest.keyClick(doubts.field, Qt.Key.Key_Return)
    assert "not a figure" in doubts.wrong.text() and len(told) == 2
    doubts.leave()
    assert told == [60.0, 61.0, None] and not doubts.isVisible()


def test_what_is_no_recording_is_said_where_the_picture_would_be(dressed, qtbot, tmp_path):
    path = tmp_path / "notes.mp4"
    path.write_text("nothing to see")
    dialog = RecordingDialog(path, None, None)
    qtbot.addWidget(dialog)
    dialog.show()
    qtbot.waitUntil(lambda: bool(dialog.problem.text()), timeout=LONG_MS)
    assert "notes.mp4" in dialog.problem.text() and dialog.picture.words == dialog.problem.text()
    assert not dialog.read.isEnabled() and not dialog.go.isEnabled()
    dialog.reject()


def test_without_its_packages_it_says_what_to_install(monkeypatch, recording):
    import sys

    monkeypatch.setitem(sys.modules, "av", None)
    with pytest.raises(decoding.BadRecording, match="pip install 'blunt-ruler\\[recording\\]'"):
        decoding.facts_of(recording)


@pytest.mark.parametrize(
    ("stem", "rig", "case"),
    [
        ("USB4 dock - Skitter 1440p High - run 2", "USB4 dock", "Skitter / 1440p / High"),
        ("Tower_tidewrack_1440p_high", "Tower", "Tidewrack / 1440p / High"),
        ("capture 2026-11-30 142233", "", ""),
    ],
)
def test_rig_and_case_are_proposed_by_the_name_of_the_file(dressed, qtbot, stem, rig, case):
    boxes = place_boxes(["Tower"], ["Tidewrack / 1440p / High"], ("", ""), stem)
    for box in boxes:
        qtbot.addWidget(box)
    assert [box.currentText() for box in boxes] == [rig, case]
