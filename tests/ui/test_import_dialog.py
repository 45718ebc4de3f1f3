"""The import dialog: what was found, what is wrong, and what can be corrected before importing."""

import threading

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QComboBox

from blunt_ruler.core.records.records import Role
from blunt_ruler.core.text import bound
from blunt_ruler.logbook import Logbook
from blunt_ruler.ui.runs import import_dialog
from blunt_ruler.ui.runs.import_dialog import ImportDialog
from blunt_ruler.ui.runs.import_rows import AVERAGE, CASE, LOG, RIG, ROLE

TIMES = np.round(np.random.default_rng(3).gamma(40, 0.4, 900), 3)


@pytest.fixture
def dialog_on(dressed, qtbot):
    dialogs = []

    def dialog_on(*paths, contents=None, review=None, remembered=lambda _header: None):
        dialog = ImportDialog(paths, contents, review, remembered)
        qtbot.addWidget(dialog)
        dialog.show()
        qtbot.waitUntil(lambda: not dialog._progress, timeout=60_000)
        dialogs.append(dialog)
        return dialog

    yield dialog_on
    for dialog in dialogs:
        dialog.reject()


def log(tmp_path, name="cable.csv", lines=None, header="frame time ms"):
    path = tmp_path / name
    path.write_text("\n".join([header, *(lines or map(str, TIMES))]))
    return path


def test_what_was_found_is_shown(dialog_on, tmp_path):
    dialog = dialog_on(log(tmp_path))
    assert dialog.preview.column_box.currentText() == "frame time ms"
    assert "milliseconds" in dialog.preview.unit_box.currentText()
    assert "One column, decimal point, UTF-8" in dialog.preview.found.text()
    assert dialog.preview.rows.item(0, 0).text() == str(TIMES[0])
    assert dialog.preview.rows.verticalHeaderItem(0).text() == "2"  # the line in the file
    assert bound("1 % low") in dialog.preview.figures.text()
    assert "900 frames" in dialog.preview.more_figures.text()
    assert dialog.go.text() == "Import 1 log"


def test_another_unit_is_chosen_and_the_figures_follow(dialog_on, tmp_path, qtbot):
    dialog = dialog_on(log(tmp_path))
    before = dialog.preview.figures.text()
    dialog.preview.unit_box.setCurrentIndex(3)
    dialog.preview.unit_box.activated.emit(3)
    qtbot.waitUntil(lambda: not dialog._progress, timeout=60_000)
    assert dialog.preview.figures.text() != before
    assert dialog.preview.unit_box.currentText() == "frames per second"
    assert dialog._files[0].reading.mapping.unit == "fps"


def test_a_bad_log_is_named_and_the_others_can_go_on(dialog_on, tmp_path):
    empty = tmp_path / "empty.csv"
    empty.write_text("")
    dialog = dialog_on(empty, log(tmp_path))
    assert "the file is empty" in dialog.rows.text(0, LOG)
    assert "1 log can be imported, 1 cannot" in dialog.blunt.text()
    dialog.rows.place(1, CASE, "Tidewrack")
    assert dialog.go.isEnabled()
    assert dialog.go.text() == "Import 1 log"


def test_bad_rows_wait_for_a_decision(dialog_on, tmp_path):
    lines = list(map(str, TIMES))
    lines[3] = "oops"
    dialog = dialog_on(log(tmp_path, lines=lines))
    dialog.rows.place(0, CASE, "Tidewrack")
    assert not dialog.go.isEnabled()
    assert "row 5 cannot be used: “oops” is not a number; 899 frames are left" in (
        dialog.problem.text()
    )
    dialog.skip_bad.setChecked(True)
    assert dialog.go.isEnabled()


def test_what_was_typed_stays_while_it_is_wrong(dialog_on, tmp_path):
    dialog = dialog_on(log(tmp_path))
    dialog.rows.place(0, CASE, "a/b/c/d/e")
    assert not dialog.go.isEnabled()
    assert "does not name a case" in dialog.problem.text()
    assert dialog._files[0].case == "a/b/c/d/e"
    dialog.rows.place(0, CASE, "Tidewrack")
    dialog.rows.place(0, RIG, "  ")
    assert "no rig is named" in dialog.problem.text()
    dialog.rows.place(0, RIG, "Cable")
    assert dialog.problem.text() == ""
    assert dialog.go.isEnabled()


def test_known_rigs_cases_and_roles_are_proposed(dialog_on, tmp_path, demo_book):
    with Logbook.open(demo_book) as book:
        contents = book.contents()
    path = log(tmp_path, "workbench-marram-12 tidewrack coast run 1440p high.csv")
    dialog = dialog_on(path, contents=contents, review=contents.reviews["which-link"])
    assert dialog._files[0].rig == "Workbench Marram 12"
    assert dialog._files[0].case == "Tidewrack / coast run / 1440p / High"
    assert dialog._files[0].role == Role.REFERENCE


def test_a_confirmed_mapping_is_used_for_the_next_log_of_that_header(
    window, settle, qtbot, tmp_path
):
    window.desk.create(tmp_path / "new.blunt")
    settle(window)
    lines = [f"{t},{t * 2:.3f}" for t in TIMES]
    first = log(tmp_path, "first.csv", lines, "frame time ms,frame total ms")
    second = log(tmp_path, "second.csv", lines, "frame time ms,frame total ms")
    window.taking.import_logs([first])
    qtbot.waitUntil(lambda: window.taking.dialog is not None, timeout=60_000)
    dialog = window.taking.dialog
    qtbot.waitUntil(lambda: not dialog._progress, timeout=60_000)
    dialog.preview.column_box.setCurrentText("frame total ms")
    dialog.preview.column_box.activated.emit(1)
    qtbot.waitUntil(lambda: not dialog._progress, timeout=60_000)
    dialog.case_for_all.setCurrentText("Tidewrack")
    qtbot.mouseClick(dialog.go, Qt.MouseButton.LeftButton)
    settle(window)
    window.taking.import_logs([second])
    qtbot.waitUntil(lambda: window.taking.dialog is not None, timeout=60_000)
    again = window.taking.dialog
    qtbot.waitUntil(lambda: not again._progress, timeout=60_000)
    assert again.preview.column_box.currentText() == "frame total ms"
    assert "confirmed for this header before" in again.preview.why.text()
    again.reject()


def test_reading_many_logs_can_be_stopped(dressed, qtbot, tmp_path):
    paths = [log(tmp_path, f"log{number}.csv") for number in range(30)]
    dialog = ImportDialog(paths, None, None, lambda _header: None)
    qtbot.addWidget(dialog)
    dialog.show()
    qtbot.mouseClick(dialog.stop_reading, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not dialog._progress, timeout=60_000)
    stopped = [file for file in dialog._files if "stopped" in file.error]
    assert stopped
    dialog.reject()


def test_a_log_that_reads_two_ways_waits_for_a_choice(dialog_on, tmp_path, qtbot):
    path = tmp_path / "cable.csv"
    times = [15.0 + index % 7 for index in range(200)]
    rows = [f"{time},{2000 / time:.3f}" for time in times]
    path.write_text("frametime,FPS\n" + "\n".join(rows))
    dialog = dialog_on(path)
    dialog.rows.place(0, CASE, "Skitter")
    assert "two ways" in dialog.problem.text()
    assert not dialog.go.isEnabled()
    shown = [button.text() for button in dialog.preview.choices if not button.isHidden()]
    assert shown == ["frametime: 55.6 fps", "FPS: 111.3 fps"]
    dialog.preview.choices[1].click()
    qtbot.waitUntil(lambda: not dialog._progress, timeout=60_000)
    assert dialog.rows.text(0, AVERAGE) == "111.3"
    assert dialog.go.isEnabled()
    assert all(button.isHidden() for button in dialog.preview.choices)


def test_samples_are_taken_in_as_an_average_without_lows(dialog_on, tmp_path, qtbot):
    path = tmp_path / "cable.csv"
    path.write_text("Time (s),FPS\n" + "\n".join(f"{at},{58 + at % 5}" for at in range(100)))
    dialog = dialog_on(path)
    dialog.rows.place(0, CASE, "Skitter")
    assert "60.0 frames per second, no lows" in dialog.preview.figures.text()
    assert "samples, not frames" in dialog.preview.warnings.text()
    with qtbot.waitSignal(dialog.confirmed) as confirmed:
        dialog.go.click()
    ((arrival, trace),), _ = confirmed.args
    assert trace is None
    assert arrival.typed.average_fps == 60.0
    assert arrival.origin.kind == "typed"


def lasting_threads():
    """How many threads would outlast a test."""
    return sum(not one.daemon for one in threading.enumerate())


def test_many_logs_are_read_in_processes_and_taken_in_as_one_edit(
    window, tmp_path, qtbot, settle, monkeypatch
):
    """Nothing is confirmed before all is there."""
    threads = lasting_threads()
    monkeypatch.setattr(import_dialog, "FEWEST", 8)
    rng = np.random.default_rng(3)
    folder = tmp_path / "many"
    folder.mkdir()
    for number in range(12):
        times = np.round(16.0 * np.exp(rng.normal(0, 0.1, 300)), 3)
        text = "frame time ms\n" + "\n".join(map(str, times))
        (folder / f"cable_coast_1080p_{number:02}.csv").write_text(text)
    window.desk.create(tmp_path / "many.blunt")
    settle(window)
    asked, remembered = [], window.desk.remembered_mapping
    monkeypatch.setattr(
        window.desk, "remembered_mapping", lambda header: asked.append(header) or remembered(header)
    )
    window.taking.import_logs([folder])
    qtbot.waitUntil(lambda: window.taking.dialog is not None, timeout=60_000)
    dialog = window.taking.dialog
    assert not dialog.go.isEnabled()
    qtbot.waitUntil(lambda: not dialog._progress, timeout=60_000)
    assert len(asked) <= 2, "the logbook is not opened for each of them"
    dialog.case_for_all.setCurrentText("Coast / run / 1080p")
    assert dialog._files[11].case == "Coast / run / 1080p"
    assert dialog.go.text() == "Import 12 logs"
    qtbot.mouseClick(dialog.go, Qt.MouseButton.LeftButton)
    settle(window)
    runs = window.desk.snapshot.contents.runs.values()
    assert len(runs) == 12
    assert all(run.figures and run.observed for run in runs)
    window.desk.undo()
    settle(window)
    assert not window.desk.snapshot.contents.runs
    qtbot.waitUntil(lambda: lasting_threads() <= threads, timeout=60_000)


def box_at(dialog, row, column, qtbot):
    """The box that a click on a place opens."""
    index = dialog.rows.index(row, column)
    at = dialog.table.visualRect(index).center()
    qtbot.mouseClick(dialog.table.viewport(), Qt.MouseButton.LeftButton, pos=at)
    return dialog.table.indexWidget(index)


def test_places_are_typed_by_mouse_and_by_keys(dialog_on, tmp_path, qtbot):
    dialog = dialog_on(log(tmp_path), log(tmp_path, "tower.csv"))
    box = box_at(dialog, 0, CASE, qtbot)
    assert box.accessibleName().startswith("Case of cable.csv")
    qtbot.keyClicks(box.lineEdit(), "Skitter / dunes")
    assert dialog._files[0].case == "Skitter / dunes", "it counts as it is typed"
    qtbot.keyClick(box.lineEdit(), Qt.Key.Key_Return)
    assert dialog.isVisible(), "Return ends the typing and imports nothing"
    qtbot.waitUntil(lambda: dialog.table.indexWidget(dialog.rows.index(0, CASE)) is None)
    dialog.table.setCurrentIndex(dialog.rows.index(1, RIG))
    dialog.table.setFocus()
    qtbot.keyClicks(dialog.table, "T")
    typed = dialog.table.indexWidget(dialog.rows.index(1, RIG))
    qtbot.keyClicks(typed.lineEdit(), "ower 2")
    qtbot.keyClick(typed.lineEdit(), Qt.Key.Key_Tab)
    assert dialog._files[1].rig == "Tower 2"
    dialog.rows.place(1, CASE, "a/b/c/d/e")
    assert "does not name a case" in dialog.problem.text()


def test_a_role_is_chosen_from_its_list(dialog_on, tmp_path, qtbot, monkeypatch):
    monkeypatch.setattr(QComboBox, "showPopup", lambda _box: None)  # a list needs a real screen
    dialog = dialog_on(log(tmp_path))
    box = box_at(dialog, 0, ROLE, qtbot)
    assert not box.isEditable()
    assert [box.itemText(at) for at in range(box.count())] == [str(role) for role in Role]
    box.setCurrentText(str(Role.REFERENCE))
    box.activated.emit(box.currentIndex())
    assert dialog._files[0].role == Role.REFERENCE
    assert dialog.rows.data(dialog.rows.index(0, ROLE)) == "reference"


def test_escape_in_a_box_leaves_the_window_open(dialog_on, tmp_path, qtbot):
    dialog = dialog_on(log(tmp_path))
    box = box_at(dialog, 0, RIG, qtbot)
    qtbot.keyClick(box.lineEdit(), Qt.Key.Key_Escape)
    assert dialog.isVisible()
