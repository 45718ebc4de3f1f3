"""The Plan for real: leave out, shorten, lock, add cases, and a plan of 300 cases × 12 rigs."""

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QFileDialog, QLabel
from reach import Hand, stop

from blunt_ruler.core.plan.matrix import CellState
from blunt_ruler.core.records.hardware import Rig
from blunt_ruler.core.records.records import Case, Review, ReviewRig, Role, Title
from blunt_ruler.core.rigs.rig_edits import three_presets, three_resolutions
from blunt_ruler.ui.plan.models import head_words

AT = "Plan"


@pytest.fixture
def settled(qtbot, settle):
    """Wait for the desk and then for the plan."""

    def settled(window):
        settle(window)
        qtbot.waitUntil(lambda: not window.controllers["Plan"].jobs._running, timeout=60_000)
        qtbot.wait(1)

    return settled


@pytest.fixture
def plan(demo_window, settled):
    demo_window.go_to("Plan")
    settled(demo_window)
    return stop(demo_window, "Plan")


def words(widget):
    return " | ".join(label.text() for label in widget.findChildren(QLabel) if label.text())


def finish(entry, text):
    entry.setText(text)
    entry.editingFinished.emit()


def test_the_plan_says_what_is_left_and_saved(plan):
    assert "100 passes left in 6\u202fh" in plan.blunt.text()
    assert "spreading the repeats costs" in plan.blunt.text()
    assert "follow the shortest tour" in words(plan.evidence)
    assert "as measured" in words(plan.evidence)
    assert plan.matrix_page.model.data(plan.matrix_page.model.index(0, 0)).startswith("◐ 3+2")
    tip = plan.matrix_page.model.headerData(0, Qt.Orientation.Vertical, Qt.ItemDataRole.ToolTipRole)
    assert "run-to-run spread" in tip
    assert "repeats needed" in tip
    between = plan.times_page.between
    assert between.item(0, 0).text() == "–"
    assert float(between.item(1, 2).text()) == 14  # another dock and another link


def test_three_hours_give_up_and_say_what(plan, demo_window, settled):
    finish(plan.hours, "3")
    settled(demo_window)
    assert "given up" in plan.blunt.text()
    assert "GIVEN UP" in words(plan.evidence)
    assert "no further comparison on" in words(plan.evidence)
    finish(plan.hours, "")
    settled(demo_window)
    assert "given up" not in plan.blunt.text()


def test_cells_are_left_out_by_key_and_by_drag_and_undone(plan, demo_window, qtbot, settled):
    plan.matrix_page.choose_cells((0, 0), (0, 1))
    plan.matrix_page.matrix.setFocus()
    qtbot.keyClick(plan.matrix_page.matrix, Qt.Key.Key_X)
    settled(demo_window)
    assert plan.matrix_page.model.data(plan.matrix_page.model.index(0, 1)) == "✕  left out"
    assert "96 passes left" in plan.blunt.text()
    demo_window.desk.undo()
    settled(demo_window)
    assert "100 passes left" in plan.blunt.text()

    qtbot.mouseClick(plan.matrix_page.paint, Qt.MouseButton.LeftButton)
    view = plan.matrix_page.matrix.viewport()
    boxes = [
        plan.matrix_page.matrix.visualRect(plan.matrix_page.model.index(2, column))
        for column in (1, 2, 3)
    ]
    qtbot.mousePress(view, Qt.MouseButton.LeftButton, pos=boxes[0].center())
    for box in boxes:
        qtbot.mouseMove(view, pos=box.center() + QPoint(2, 0))
    qtbot.mouseRelease(view, Qt.MouseButton.LeftButton, pos=boxes[-1].center())
    settled(demo_window)
    out = [cell for cell in plan.shown.plan.cells if cell.state is CellState.EXCLUDED]
    assert {cell.case_id for cell in out} == {"tidewrack-2160p"}
    assert len(out) == 3
    qtbot.mouseClick(plan.matrix_page.paint, Qt.MouseButton.LeftButton)
    plan.matrix_page.choose_cells((2, 1), (2, 2), (2, 3))
    qtbot.mouseClick(plan.matrix_page.leave, Qt.MouseButton.LeftButton)
    settled(demo_window)
    assert not [cell for cell in plan.shown.plan.cells if cell.state is CellState.EXCLUDED]


@pytest.mark.parametrize(
    ("entry", "text", "says"),
    [
        ("repeats", "many", "“many” is not a number"),
        ("repeats", "0", "at least 1"),
        ("repeats", "999", "at most 50"),
        ("difference", "-3", "out of range"),
        ("hours", "soon", "is not a number"),
        ("hours", "-2", "Give above 0"),
        ("seed", "x", "is not a number"),
    ],
)
def test_a_wrong_figure_stays_with_a_sentence(plan, demo_window, settled, entry, text, says):
    finish(getattr(plan, entry), text)
    settled(demo_window)
    assert says in plan.wrong.text()
    assert plan.wrong.isVisible()
    assert getattr(plan, entry).text() == text
    assert demo_window.desk.snapshot.undo == "set aside pass 4: typed slip: 519 for 51.9"


def test_wrong_figures_of_several_fields_stay_while_another_is_edited(plan, demo_window, settled):
    for entry, text in ((plan.repeats, "many"), (plan.seed, "x"), (plan.difference, "4")):
        finish(entry, text)
        settled(demo_window)
    demo_window.desk.undo()
    settled(demo_window)
    assert (plan.repeats.text(), plan.seed.text()) == ("many", "x")
    assert "“many” is not a number" in plan.wrong.text()
    assert "“x” is not a number" in plan.wrong.text()
    finish(plan.repeats, "4")
    assert "many" not in plan.wrong.text()
    assert "“x” is not a number" in plan.wrong.text()


def test_repeats_are_changed_and_learn_from_the_spread(plan, demo_window, settled):
    finish(plan.repeats, "4")
    settled(demo_window)
    assert "50 passes left" in plan.blunt.text()
    assert demo_window.desk.snapshot.undo == "plan: repeats"
    finish(plan.difference, "0,5")
    settled(demo_window)
    assert "cannot show a difference of" in words(plan.evidence)


def test_rigs_are_locked_where_they_are(plan, demo_window, qtbot, settled):
    plan.show_page("Order")
    tour = plan.shown.plan.order.tour.order
    table = plan.order_page.table
    row = next(
        row for row, step in enumerate(table.rows_model.rows) if step.timed.item.rig_id == tour[1]
    )
    table.setCurrentIndex(table.rows_model.index(row, 0))
    qtbot.mouseClick(plan.order_page.lock, Qt.MouseButton.LeftButton)
    settled(demo_window)
    assert demo_window.desk.snapshot.contents.plans["which-link"].first_rigs == tour[:2]
    assert plan.shown.plan.order.tour.order[:2] == tour[:2]
    qtbot.mouseClick(plan.order_page.unlock, Qt.MouseButton.LeftButton)
    settled(demo_window)
    assert demo_window.desk.snapshot.contents.plans["which-link"].first_rigs == ()


def test_cases_are_added_by_name_by_template_and_taken_out(plan, demo_window, qtbot, settled):
    plan.matrix_page.case.setText("a/b/c/d/e")
    qtbot.keyClick(plan.matrix_page.case, Qt.Key.Key_Return)
    assert "does not name a case" in plan.wrong.text()
    plan.matrix_page.case.setText("New Title / somewhere / 1080p / High")
    qtbot.keyClick(plan.matrix_page.case, Qt.Key.Key_Return)
    settled(demo_window)
    assert len(demo_window.desk.snapshot.review.case_ids) == 11
    plan.matrix_page.choose_cells((10, 0))
    plan.matrix_page.matrix.setFocus()
    qtbot.keyClick(plan.matrix_page.matrix, Qt.Key.Key_Delete)
    settled(demo_window)
    assert len(demo_window.desk.snapshot.review.case_ids) == 10
    plan.matrix_page.add_template(three_resolutions)
    settled(demo_window)
    assert len(demo_window.desk.snapshot.review.case_ids) == 18  # six titles at three resolutions
    plan.matrix_page.add_template(three_presets)
    settled(demo_window)
    presets = {
        demo_window.desk.snapshot.contents.cases[case].preset
        for case in demo_window.desk.snapshot.review.case_ids
    }
    assert presets >= {"Low", "Medium", "High"}


def test_times_are_edited_and_move_the_clock(plan, demo_window, qtbot, settled):
    plan.show_page("Times")
    before = plan.shown.plan.order.minutes
    field = plan.times_page.title_form.fields["load_s"]
    field.box.setText("600")
    field.box.editingFinished.emit()
    settled(demo_window)
    assert plan.shown.plan.order.minutes > before
    hours = plan.times_page.hours_form.fields["deadline"]
    hours.box.setText("2026-10-19")
    hours.box.editingFinished.emit()
    settled(demo_window)
    assert "after the deadline" in words(plan.evidence)
    start = plan.times_page.hours_form.fields["start"]
    start.box.setText("25:99")
    start.box.textEdited.emit("25:99")
    assert start.wrong.isVisible()
    day = plan.times_page.hours_form.fields["first_day"]
    day.box.setText("soon")
    day.box.editingFinished.emit()
    settled(demo_window)
    assert "“soon” is not a date" in plan.wrong.text()


def test_the_sheet_is_written_from_the_view(plan, demo_window, settled, tmp_path, monkeypatch):
    path = tmp_path / "sheet.html"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_a, **_k: (str(path), ""))
    plan.sheet.click()
    settled(demo_window)
    assert "Run sheet: Which link" in path.read_text("utf-8")
    assert "Written" in demo_window.banner.words.text()


@pytest.mark.deep
def test_a_plan_of_300_cases_on_12_rigs_stays_responsive(demo_window, qtbot, settled):
    rigs = [Rig(id=f"x{n}", name=f"Extra rig {n}") for n in range(12)]
    titles = [Title(id=f"y{n}", name=f"Extra title {n}") for n in range(100)]
    sizes = ("1080p", "1440p", "2160p")
    cases = [Case(id=f"z{n}", title_id=f"y{n // 3}", resolution=sizes[n % 3]) for n in range(300)]
    roles = {0: Role.BASE, 11: Role.REFERENCE}
    review = Review(
        id="wide",
        name="Wide",
        seats=tuple(
            ReviewRig(rig_id=rig.id, role=roles.get(n, Role.TESTED)) for n, rig in enumerate(rigs)
        ),
        case_ids=tuple(case.id for case in cases),
    )
    Hand(demo_window).put("a wide review", *rigs, *titles, *cases, review)
    settled(demo_window)
    demo_window.go_to("Plan")
    demo_window.desk.choose_review("wide")
    settled(demo_window)
    plan = stop(demo_window, "Plan")
    assert plan.matrix_page.model.rowCount() == 300
    assert plan.matrix_page.model.columnCount() == 12
    assert "10\u202f800 passes left" in plan.blunt.text()
    finish(plan.hours, "40")
    qtbot.waitUntil(demo_window.strip.isVisible, timeout=60_000)
    for _ in range(3):  # the window answers while the plan is worked out
        demo_window.grab()
        qtbot.wait(5)
    assert demo_window.controllers["Plan"].jobs._running
    qtbot.mouseClick(demo_window.strip.cancel, Qt.MouseButton.LeftButton)
    finish(plan.hours, "")
    qtbot.waitUntil(lambda: not demo_window.controllers["Plan"].jobs._running, timeout=120_000)


def test_heads_of_the_matrix_stand_whole(plan):
    model = plan.page("Matrix").model
    heads = [model.headerData(at, Qt.Orientation.Horizontal) for at in range(model.columnCount())]
    assert "Breakwater\nMarram 12" in heads
    rows = [model.headerData(at, Qt.Orientation.Vertical) for at in range(model.rowCount())]
    assert rows[0] == "Tidewrack, 1080p High"
    assert len(set(rows)) == len(rows)
    assert head_words("x" * 200).count("\n") <= 2
