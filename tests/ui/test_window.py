"""The real window: import → Board → change base → undo → export, and the ways around it."""

import csv
import sqlite3

import pytest
from PyQt6.QtCore import QItemSelectionModel, QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QFileDialog,
    QLineEdit,
    QPushButton,
)
from reach import Hand, stop

from blunt_ruler.core.board.lenses import Lens
from blunt_ruler.core.records.records import Decision, Role
from blunt_ruler.logbook import Logbook
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.shell.given import logbook_among


def choose_cell(window, rig_id, case_id):
    board = stop(window, "Board").cells.model.board
    column = [one.rig_id for one in board.columns].index(rig_id)
    row = [one.case_id for one in board.rows].index(case_id)
    stop(window, "Board").cells.table.setCurrentIndex(
        stop(window, "Board").cells.model.index(row, column)
    )


def evidence_text(stop):
    from PyQt6.QtWidgets import QLabel

    return " | ".join(label.text() for label in stop.evidence.findChildren(QLabel))


def button(window, words):
    return next(
        one
        for one in stop(window, "Board").evidence.findChildren(QPushButton)
        if one.text() == words
    )


def import_all(window, qtbot, settle, paths, case="Tidewrack / coast run / 1080p / High"):
    window.taking.import_logs(paths)
    qtbot.waitUntil(lambda: window.taking.dialog is not None, timeout=60_000)
    dialog = window.taking.dialog
    qtbot.waitUntil(lambda: not dialog._progress, timeout=60_000)
    dialog.case_for_all.setCurrentText(case)
    qtbot.mouseClick(dialog.go, Qt.MouseButton.LeftButton)
    settle(window)


def test_import_board_change_base_undo_export(window, qtbot, settle, logs, tmp_path):
    window.desk.create(tmp_path / "new.blunt")
    settle(window)
    assert "No rigs in this review yet" in stop(window, "Board").blunt.text()

    import_all(window, qtbot, settle, logs)
    assert window.current_stop == "Board"
    board = stop(window, "Board").cells.model.board
    assert [column.name for column in board.columns] == ["builtin", "cable", "tower"]
    assert [str(column.role) for column in board.columns] == ["base", "under test", "reference"]
    line = stop(window, "Board").blunt.text()
    assert line == (
        "Cable is 2.51 times as fast as builtin in Tidewrack. It is 37\u202f% slower than tower."
    )

    cells = stop(window, "Board").cells
    cells.table.setCurrentIndex(cells.model.index(0, 2))
    window.actions_of.by_name["Chosen rig: make it base"].trigger()
    settle(window)
    assert stop(window, "Board").cells.model.board.base.name == "tower"
    assert stop(window, "Board").cells.model.board.reference is None
    assert "No reference is chosen" in stop(window, "Board").blunt.text()
    assert window.actions_of.by_name["Undo"].text() == "Undo: make tower base"

    window.actions_of.by_name["Undo"].trigger()
    settle(window)
    assert stop(window, "Board").cells.model.board.base.name == "builtin"
    assert stop(window, "Board").blunt.text() == line
    assert "Undone: make tower base" in window.banner.words.text()

    window.go_to("Write-up")
    plain = line.replace("\u202f", " ")
    preview = stop(window, "Write-up").preview.preview
    qtbot.waitUntil(
        lambda: plain in preview.toPlainText().replace("\u00a0", " "),
        timeout=60_000,
    )
    window.controllers["Board"].export(tmp_path / "out" / "board.csv")
    settle(window)
    with (tmp_path / "out" / "board.csv").open() as file:
        rows = list(csv.DictReader(file))
    assert {row["rig"]: row["role"] for row in rows}["tower"] == "reference"
    assert float(rows[1]["gain"]) == pytest.approx(1.5, abs=0.05)

    for _ in range(2):
        window.actions_of.by_name["Undo"].trigger()
    settle(window)
    assert not window.desk.snapshot.contents.runs
    assert "No rigs in this review yet" in stop(window, "Board").blunt.text()


def test_logs_dropped_on_an_empty_window_start_a_logbook(window, qtbot, settle, logs):
    assert window.stack.currentWidget() is window.welcome
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in logs])
    drop = QDropEvent(
        QPointF(5, 5),
        Qt.DropAction.CopyAction,
        data,
        Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier,
    )
    window.dropEvent(drop)
    qtbot.waitUntil(lambda: window.taking.dialog is not None, timeout=60_000)
    assert window.desk.snapshot.path.name == "logbook.blunt"
    dialog = window.taking.dialog
    qtbot.waitUntil(lambda: not dialog._progress, timeout=60_000)
    # Names of the files propose the rigs and the case, their rates the roles.
    assert [file.rig for file in dialog._files] == ["builtin", "cable", "tower"]
    assert {file.case for file in dialog._files} == {"coast / 1080p"}
    assert [file.role for file in dialog._files] == ["base", "under test", "reference"]
    assert dialog.go.isEnabled()
    dialog.reject()
    assert not window.desk.snapshot.contents.runs


def test_a_dropped_logbook_is_opened(window, settle, demo_book):
    window.taking.take_dropped([QUrl.fromLocalFile(str(demo_book))])
    settle(window)
    assert len(window.desk.snapshot.contents.reviews) == 2
    assert window.settings.recent == [demo_book]


def test_logs_beside_a_logbook_are_looked_at_over_it(window, settle, demo_book, logs):
    files = [*logs, demo_book]
    window.taking.take_dropped([QUrl.fromLocalFile(str(path)) for path in files])
    settle(window)
    assert window.desk.snapshot.path == demo_book
    assert [file.path for file in window.taking.dialog._files] == logs
    window.taking.dialog.reject()


def test_logs_beside_a_logbook_that_cannot_be_opened_wait_for_no_other(
    demo_window, settle, tmp_path, logs
):
    broken = tmp_path / "broken.blunt"
    broken.write_bytes(b"nothing of the kind")
    demo_window.taking.take_dropped([QUrl.fromLocalFile(str(path)) for path in (broken, *logs)])
    settle(demo_window)
    assert "broken.blunt" in demo_window.banner.words.text()
    Hand(demo_window).rename_rig("sluice-marram-12", "Mine")
    settle(demo_window)
    assert demo_window.taking.dialog is None


def test_a_logbook_is_told_from_logs_by_what_is_in_it(tmp_path, demo_book, logs):
    other = demo_book.rename(tmp_path / "kept by me.db")
    assert logbook_among([*logs, tmp_path, other]) == other
    assert logbook_among([*logs, tmp_path]) is None
    gone = tmp_path / "gone.csv"
    assert logbook_among([logs[0], gone]) == gone  # opening it says that it is not there


def test_every_lens_shows_words_in_every_cell_and_says_its_base(demo_window):
    board, clipboard = stop(demo_window, "Board"), QApplication.clipboard()
    model = board.cells.model
    for lens in Lens:
        demo_window.controllers["Board"].show_lens(lens)
        index, words = model.index(0, 1), board.cells.corner.text()
        texts = {model.data(model.index(row, column)) for row in range(10) for column in range(5)}
        assert model.data(index) and texts and (lens is Lens.LIMIT or texts != {"–"})
        head = model.headerData(1, Qt.Orientation.Horizontal)
        assert head == "Sluice Marram 12 (under test)"
        board.cells.copy_board("text")
        lines = clipboard.text().splitlines()
        assert len(lines) in (20, 21), "ten cases, eight rows of scores, heads, the mean"
        if lens is Lens.GAIN:
            assert words == "gain over Built-in iG-6" and "Built-in iG-6" in lines[0]
            assert model.data(index).startswith("+")
        if lens is Lens.LOW_1:
            foot = model.index(model.rowCount() - 1, 1)
            assert model.data(foot) == "×2.62", "the mean of the lows"
        if lens is Lens.LOSS:
            assert words == "change against Workbench Marram 12"
            assert model.data(index).startswith("−")
        if lens in (Lens.LOSS, Lens.FASTER_BY):
            assert "Workbench Marram 12" in lines[0]
        assert demo_window.grab().width() == demo_window.width()


def test_choosing_a_cell_moves_the_line_the_ruler_and_the_evidence(demo_window):
    choose_cell(demo_window, "groyne-marram-12", "tidewrack-1080p")
    assert stop(demo_window, "Board").blunt.text().startswith("Groyne Marram 12 is 3.18 times")
    shown = evidence_text(stop(demo_window, "Board"))
    assert "Groyne Marram 12, Tidewrack 1080p High" in shown
    assert "monitor was on the host" in shown
    assert "Tidewrack" in stop(demo_window, "Board").cells.ruler.accessibleName()
    assert "Sluice Marram 12: 69" in stop(demo_window, "Board").cells.ruler.accessibleDescription()


def test_a_run_set_aside_in_the_evidence_leaves_the_figure(demo_window, settle):
    choose_cell(demo_window, "groyne-marram-12", "tidewrack-1080p")
    before = stop(demo_window, "Board").cells.model.board.cells[
        "groyne-marram-12", "tidewrack-1080p"
    ]
    box = next(
        box
        for box in stop(demo_window, "Board").evidence.findChildren(QComboBox)
        if box.accessibleName() == "Decision on pass 2"
    )
    box.textActivated.emit("set aside")
    settle(demo_window)
    after = stop(demo_window, "Board").cells.model.board.cells[
        "groyne-marram-12", "tidewrack-1080p"
    ]
    assert after.runs == before.runs - 1
    assert after.average_fps != before.average_fps


def test_names_are_edited_in_place(demo_window, qtbot, settle):
    choose_cell(demo_window, "sluice-marram-12", "tidewrack-1080p")
    demo_window.actions_of.by_name["Chosen rig: rename"].trigger()
    editor = stop(demo_window, "Board").cells.table.rigs.findChild(QLineEdit)
    assert editor.text() == "Sluice Marram 12"
    editor.setText("Sluice, second cable")
    qtbot.keyClick(editor, Qt.Key.Key_Return)
    settle(demo_window)
    assert stop(demo_window, "Board").cells.model.board.columns[1].name == "Sluice, second cable"
    demo_window.desk.undo()
    settle(demo_window)
    assert stop(demo_window, "Board").cells.model.board.columns[1].name == "Sluice Marram 12"


def test_roles_are_given_from_the_keyboard(demo_window, settle):
    choose_cell(demo_window, "groyne-marram-12", "tidewrack-1080p")
    demo_window.actions_of.by_name["Chosen rig: make it base"].trigger()
    settle(demo_window)
    board = stop(demo_window, "Board").cells.model.board
    assert board.base.rig_id == "groyne-marram-12"
    assert board.column("built-in-ig-6").role is Role.TESTED


def test_the_palette_finds_and_does(demo_window, qtbot, settle):
    demo_window.actions_of.by_name["All actions…"].trigger()
    palette = demo_window.palette_list
    assert palette.isVisible()
    qtbot.keyClicks(palette.entry, "lens gain")
    assert palette.list.topLevelItemCount() == 1
    qtbot.keyClick(palette.entry, Qt.Key.Key_Return)
    assert stop(demo_window, "Board").cells.model.lens is Lens.GAIN
    assert not palette.isVisible()
    palette.open()
    count = palette.list.topLevelItemCount()
    assert count == len(demo_window.actions_of.by_name)
    qtbot.keyClick(palette.entry, Qt.Key.Key_Up)
    assert palette.list.currentItem().text(0) == "Quit"
    qtbot.keyClick(palette.entry, Qt.Key.Key_Escape)
    assert not palette.isVisible()


def test_stops_are_reached_by_key(demo_window, qtbot):
    for name, button in demo_window.rail.stops.items():
        demo_window.actions_of.by_name[f"Go to {name}"].trigger()
        assert button.isChecked()
        blunt = demo_window.stack.currentWidget().blunt
        qtbot.waitUntil(lambda blunt=blunt: bool(blunt.text()), timeout=60_000)
        assert button.state.words
    demo_window.rail.stops["Bench"].setFocus()
    qtbot.keyClick(demo_window.rail.stops["Bench"], Qt.Key.Key_Down)
    assert demo_window.rail.stops["Plan"].hasFocus()
    qtbot.keyClick(demo_window.rail.stops["Plan"], Qt.Key.Key_Space)
    assert demo_window.current_stop == "Plan"


def test_another_review_is_chosen_and_survives_edits(demo_window, settle):
    demo_window.desk.choose_review("which-card")
    settle(demo_window)
    assert len(stop(demo_window, "Board").cells.model.board.columns) == 6
    Hand(demo_window).give_role("sluice-marram-16", Role.REFERENCE)
    settle(demo_window)
    assert demo_window.desk.snapshot.review.id == "which-card"
    assert stop(demo_window, "Board").cells.model.board.reference.rig_id == "sluice-marram-16"


def test_a_refused_logbook_is_said_and_the_open_one_stays(demo_window, settle, tmp_path):
    other = tmp_path / "other.blunt"
    with sqlite3.connect(other) as db:
        db.execute("CREATE TABLE x (y)")
    demo_window.desk.open(other)
    settle(demo_window)
    assert demo_window.banner.isVisible()
    assert "belongs to another program" in demo_window.banner.words.text()
    assert len(demo_window.desk.snapshot.contents.rigs) == 9
    Hand(demo_window).give_role("groyne-marram-12", Role.BASE)
    settle(demo_window)
    assert stop(demo_window, "Board").cells.model.board.base.rig_id == "groyne-marram-12"


def test_a_fault_inside_is_said_to_be_ours(demo_window, settle, caplog):
    def broken(_step):
        raise ZeroDivisionError("for the test")

    demo_window.desk._run("Failing", broken, lambda _result: None)
    settle(demo_window)
    assert "A fault inside Blunt Ruler" in demo_window.banner.words.text()
    assert "ZeroDivisionError" in caplog.text


def test_long_work_shows_its_progress_and_can_be_cancelled(demo_window, qtbot, settle):
    import time

    results = []

    def slow(step):
        for tick in range(2000):
            step("Counting slowly", tick / 2000)
            time.sleep(0.005)

    job = demo_window.desk.jobs.run("Counting", slow, results.append, results.append)
    qtbot.waitUntil(demo_window.strip.isVisible, timeout=30_000)
    assert demo_window.strip.words.text() == "Counting slowly"
    demo_window.desk.look_for_others()
    assert demo_window.strip.words.text() == "Counting slowly", "it is that which Cancel ends"
    with qtbot.waitSignal(job.cancelled, timeout=30_000):
        qtbot.mouseClick(demo_window.strip.cancel, Qt.MouseButton.LeftButton)
    settle(demo_window)
    assert not demo_window.strip.isVisible()
    assert results == []


def test_new_open_and_copy_ask_for_a_file(window, settle, monkeypatch, tmp_path):
    answers = {"getSaveFileName": tmp_path / "made", "getOpenFileName": tmp_path / "made.blunt"}
    for name, path in answers.items():
        monkeypatch.setattr(QFileDialog, name, lambda *_a, path=path, **_k: (str(path), ""))
    window.actions_of.by_name["New logbook…"].trigger()
    settle(window)
    assert window.desk.snapshot.path == tmp_path / "made.blunt"
    answers["getSaveFileName"] = tmp_path / "copy.blunt"
    monkeypatch.setattr(
        QFileDialog, "getSaveFileName", lambda *_a, **_k: (str(tmp_path / "copy.blunt"), "")
    )
    window.actions_of.by_name["Copy the logbook to…"].trigger()
    settle(window)
    with Logbook.open(tmp_path / "copy.blunt") as book:
        assert not book.contents().runs
    window.actions_of.by_name["Open a logbook…"].trigger()
    settle(window)
    assert window.desk.snapshot.path == tmp_path / "made.blunt"


def test_the_demo_opens_as_a_copy_of_ones_own_and_is_kept(window, settle):
    window.open_demo()
    settle(window)
    path = window.desk.snapshot.path
    Hand(window).rename_rig("sluice-marram-12", "Mine")
    settle(window)
    window.open_demo()
    settle(window)
    assert window.desk.snapshot.path == path
    assert window.desk.snapshot.contents.rigs["sluice-marram-12"].name == "Mine"


def test_the_history_lists_what_changed(demo_window, qtbot, settle):
    from blunt_ruler.ui.shell.history import HistoryDialog

    Hand(demo_window).rename_rig("sluice-marram-12", "Mine")
    settle(demo_window)
    demo_window.show_history()
    settle(demo_window)
    dialog = demo_window.findChild(HistoryDialog)
    assert dialog.tree.topLevelItem(0).text(0) == "rename Sluice Marram 12"
    assert '"Mine"' in dialog.tree.topLevelItem(0).child(0).toolTip(0)
    for place in (0, 1):  # no word of an edit is cut, and no time
        assert dialog.tree.columnWidth(place) >= dialog.tree.sizeHintForColumn(place)
    dialog.accept()


def test_runs_are_filtered_decided_and_explained(demo_window, qtbot, settle):
    demo_window.go_to("Runs")
    runs = stop(demo_window, "Runs")
    settle(demo_window)
    assert runs.list.model.rowCount() == 224
    runs.list.filter.setText("skitter 1080p low sluice")
    assert runs.list.model.rowCount() == 4
    assert runs.list.counted.text() == "4 runs"
    runs.list.table.selectionModel().setCurrentIndex(
        runs.list.model.index(1, 0),
        QItemSelectionModel.SelectionFlag.ClearAndSelect | QItemSelectionModel.SelectionFlag.Rows,
    )
    settle(demo_window)
    assert runs.list.panel is not None
    x, y = runs.list.panel.plot.curve.getOriginalDataset()
    assert len(x) == len(y) > 1000
    runs.list.table.setFocus()
    qtbot.keyClick(runs.list.table, Qt.Key.Key_R)
    settle(demo_window)
    run = demo_window.desk.snapshot.contents.runs[runs.list._run_id]
    assert run.decision is Decision.REDO
    assert "1 to redo" in runs.blunt.text()
    assert "1 to redo" in demo_window.rail.stops["Runs"].state.words
    reason = next(e for e in runs.evidence.findChildren(QLineEdit) if e.isVisible())
    reason.setText("loud neighbour")
    reason.editingFinished.emit()
    settle(demo_window)
    assert demo_window.desk.snapshot.contents.runs[run.id].reason == "loud neighbour"


def test_copying_a_cell_carries_its_bases(demo_window):
    choose_cell(demo_window, "sluice-marram-12", "tidewrack-1080p")
    demo_window.actions_of.by_name["Copy the chosen cell"].trigger()
    text = QApplication.clipboard().text()
    assert text.startswith("Sluice Marram 12, Tidewrack / coast run / 1080p / High: 69")
    assert "over Built-in iG-6" in text
    assert "against Workbench Marram 12" in text
    cells = stop(demo_window, "Board").cells
    cells.order_box.words.setText("Skitter")
    demo_window.actions_of.by_name["Copy the chosen cell"].trigger()
    assert QApplication.clipboard().text() != "", "a cell that is filtered out is no fault"


@pytest.mark.parametrize("name", ["Board", "Runs", "Write-up"])
def test_every_control_has_a_name_for_a_screen_reader(demo_window, settle, name):
    demo_window.go_to(name)
    settle(demo_window)
    nameless = [
        widget
        for kind in (QAbstractButton, QComboBox, QLineEdit)
        for widget in demo_window.findChildren(kind)
        if widget.isVisible()
        and widget.focusPolicy() != Qt.FocusPolicy.NoFocus
        and not (widget.accessibleName() or getattr(widget, "text", lambda: "")())
        and not widget.objectName().startswith("qt_")
    ]
    assert not nameless


@pytest.mark.parametrize("pinned", [theme.ThemeName.SLATE, theme.ThemeName.PAPER])
def test_a_theme_is_pinned_and_remembered(demo_window, pinned):
    demo_window.pin_theme(pinned)
    assert theme.current() is theme.wanted_theme(pinned)
    assert demo_window.settings.theme is pinned
    theme.apply_theme(QApplication.instance(), theme.PAPER)


def test_rows_are_ordered_folded_and_filtered(demo_window, settle):
    bar, model = stop(demo_window, "Board").cells.order_box, stop(demo_window, "Board").cells.model
    bar.words.setText("tidewrack")
    assert [row.title for row in model.board.rows] == ["Tidewrack"] * 3
    bar.words.setText("nothing of the kind")
    assert "clear the filter" in stop(demo_window, "Board").blunt.text()
    bar.words.clear()
    bar.collapse.setChecked(True)
    assert len([row for row in model.board.rows if not row.unit]) == 6
    choose_first = model.board.rows[0]
    assert choose_first.scene == "mean of 3 cases"
    bar.collapse.setChecked(False)
    bar.sort.setCurrentIndex(1)
    bar.arrangement_changed.emit()
    demo_window.controllers["Board"].show_lens(Lens.LOSS)
    games = [row for row in model.board.rows if not row.unit]
    losses = [model.board.cells["sluice-marram-12", row.case_id].loss for row in games]
    assert losses == sorted(losses, reverse=True)


def test_the_school_of_means_and_a_left_out_case_are_edits(demo_window, settle, qtbot):
    page = stop(demo_window, "Board").cells
    before = demo_window.desk.snapshot.board.totals["sluice-marram-12"].mean_gain
    page.order_box.mean.setCurrentIndex(2)
    page.order_box.mean.activated.emit(2)
    settle(demo_window)
    assert "mean of percentages" in page.basis._whole
    assert demo_window.desk.snapshot.board.totals["sluice-marram-12"].mean_gain > before
    choose_cell(demo_window, "sluice-marram-12", "skitter-1080p")
    button(demo_window, "Leave the case out of means").click()
    settle(demo_window)
    assert "1 left out by hand" in page.basis._whole
    demo_window.desk.undo()
    demo_window.desk.undo()
    settle(demo_window)
    assert demo_window.desk.snapshot.board.totals["sluice-marram-12"].mean_gain == before


def test_one_more_pass_is_sent_to_the_plan(demo_window, settle):
    choose_cell(demo_window, "sluice-marram-12", "skitter-1080p")
    button(demo_window, "Send one more pass to the plan").click()
    settle(demo_window)
    plan = demo_window.desk.snapshot.contents.plans["which-link"]
    assert plan.extra_of("sluice-marram-12", "skitter-1080p") == 1


def test_the_other_pages_of_the_board(demo_window, settle):
    board = stop(demo_window, "Board")
    board.show_page("Scaling")
    assert "Losses shrink or hold with resolution" in board.blunt.text()
    board.show_page("Playable")
    page = board.playable
    assert "plays 1 of 6 titles" in board.blunt.text()
    assert [row[0] for row in page.table.texts()][:2] == ["Tidewrack", "Ninefold Siege"]
    assert page.table.texts()[0][2] == "✓ 1080p High\n69.5 / 57.0"
    heard = page.table.rows_model.index(0, 2).data(Qt.ItemDataRole.AccessibleTextRole)
    assert "playable; the base is not" in heard.lower()
    page.target.setText("30/x")
    page.target.editingFinished.emit()
    assert "is not a target" in page.wrong.text()
    page.target.setText("30/25")
    page.target.editingFinished.emit()
    assert page.wrong.text() == ""
    assert "plays 3 of 6 titles" in board.blunt.text()
    board.show_page("Scores")
    assert "scores 2.15 times as high" in board.blunt.text()
    heard = board.scores.picture.accessibleDescription()
    assert "Lattice, graphics, Sluice Marram 12: 4\u202f920 points" in heard
    board.show_page("Cells")
    assert "keeps 75" in board.blunt.text()


def test_a_window_closed_at_once_begins_no_work_of_the_write_up(demo_window, dressed, all_jobs):
    demo_window.go_to("Write-up")  # asks the file for its edits, and then composes
    assert demo_window.controllers["Write-up"]._own_jobs is None
    demo_window.close()
    dressed.processEvents()
    going = [job.words for jobs in all_jobs for job in jobs._running]
    assert going == []
