"""The Board's further views by hand: scores typed, groups, references, which percentage."""

import pytest
from PyQt6.QtCore import Qt, QUrl
from PyQt6.QtWidgets import QApplication, QLabel, QMenu, QToolButton
from reach import stop

from blunt_ruler.core.board.groups import SUBTOTAL
from blunt_ruler.core.board.row_order import GroupBy
from blunt_ruler.core.runs.typed_cells import TypedCell, type_cells
from blunt_ruler.demo.shipped import copy_demo
from blunt_ruler.ui.desk.snapshot import new_id
from blunt_ruler.ui.kit.grid_editor import Way


@pytest.fixture
def small(window, tmp_path, settle):
    """A small logbook with a game and a test, on the Board."""
    window.desk.create(tmp_path / "small.blunt")
    settle(window)
    sheet = [
        *(TypedCell(rig, "Tidewrack / 1080p", rate) for rig, rate in (("A", "30"), ("B", "60"))),
        *(TypedCell(rig, "Lattice", said, True) for rig, said in (("A", "1000"), ("B", "3000"))),
    ]
    window.desk.make("typing", lambda contents, review: type_cells(contents, review, sheet, new_id))
    settle(window)
    return stop(window, "Board").cells


def texts(widget):
    QApplication.processEvents()
    return [one.text() for one in widget.findChildren(QLabel) if one.isVisibleTo(widget)]


def type_at(page, row_label, column, text, settle, window):
    rows = [row.label for row in page.model.board.rows]
    page.table.setCurrentIndex(page.model.index(rows.index(row_label), column))
    page.typing.open_cell(page.table.currentIndex(), None)
    page.typing.editor.setText(text)
    page.typing.editor.finish(Way.STAY)
    settle(window)


def test_parts_of_a_test_are_named_typed_and_weighed(small, window, settle):
    page = small
    (title,) = [
        one for one in window.desk.snapshot.contents.titles.values() if one.name == "Lattice"
    ]
    rows = [row.label for row in page.model.board.rows]
    page.table.setCurrentIndex(page.model.index(rows.index("Lattice"), 1))
    field = page.facts.of["This title"].form.fields["parts"]
    field.box.setText("graphics 0.85; cpu")
    field.box.editingFinished.emit()
    settle(window)
    labels = [row.label for row in page.model.board.rows]
    assert labels == ["Tidewrack / 1080p", "Lattice", "Lattice, graphics", "Lattice, cpu"]
    type_at(page, "Lattice, graphics", 0, "1100", settle, window)
    type_at(page, "Lattice, graphics", 1, "4400", settle, window)
    scores = window.desk.snapshot.analysis.scores.board
    keys = {row.label: row.case_id for row in scores.rows}
    rigs = {column.name: column.rig_id for column in scores.columns}
    assert scores.cells[rigs["B"], keys["Lattice, graphics"]].gain == pytest.approx(3.0)
    type_at(page, "Lattice, cpu", 0, "=0.15", settle, window)
    parts = window.desk.snapshot.contents.titles[title.id].parts
    assert [(one.name, one.weight) for one in parts] == [("graphics", 0.85), ("cpu", 0.15)]
    type_at(page, "Lattice, cpu", 0, "=much", settle, window)
    assert "is not a number" in page.line()
    total = window.desk.snapshot.board.totals[rigs["B"]].over_base
    assert total.ratio == pytest.approx(2.0), "scores are in no mean of games"
    window.desk.undo()
    settle(window)
    assert window.desk.snapshot.contents.titles[title.id].parts[1].weight is None


def test_the_ruler_of_a_score_has_its_unit_and_no_targets(small, window, settle):
    rows = [row.label for row in small.model.board.rows]
    small.table.setCurrentIndex(small.model.index(rows.index("Lattice"), 1))
    assert "3\u202f000 points: +200" in small.ruler.accessibleDescription()
    said = texts(stop(window, "Board").evidence)
    assert any(one.startswith("3\u202f000 points") for one in said)
    assert "1\u00a0%\u00a0low, percentile" not in said


def test_groups_show_their_means_and_the_filter_changes_the_foot(demo_window, settle, qtbot):
    board = stop(demo_window, "Board")
    page = board.cells
    page.order_box.group.setCurrentText(str(GroupBy.RESOLUTION))
    page.order_box.arrangement_changed.emit()
    settle(demo_window)
    model = page.model
    keys = [row.case_id for row in model.board.rows]
    at = keys.index(f"{SUBTOTAL}1440p")
    qtbot.waitUntil(lambda: model.index(at, 1).data().startswith("×"), timeout=60_000)
    page.table.setCurrentIndex(model.index(at, 1))
    assert model.place(model.index(at, 1)) is None, "a mean is not typed into"
    assert "mean of 3 cases: On average ×" in model.index(at, 1).data(Qt.ItemDataRole.ToolTipRole)
    page.order_box.group.setCurrentText(str(GroupBy.PLAN))
    page.order_box.words.setText("1440p")
    qtbot.waitUntil(lambda: "over the 3 cases shown" in board.blunt.text(), timeout=60_000)
    assert "over the 3 cases shown" in page.basis._whole


def test_one_more_reference_is_chosen_and_held_against(demo_window, settle, monkeypatch):
    monkeypatch.setattr(QMenu, "popup", lambda *_a: None)  # no pointer to grab without a screen
    board = stop(demo_window, "Board")
    page = board.cells
    columns = [column.name for column in page.model.board.columns]
    page.heads.menu(columns.index("Breakwater Marram 12"))
    menu = page.findChildren(QMenu)[-1]
    action = next(one for one in menu.actions() if one.text() == "One more reference")
    action.trigger()
    menu.close()
    settle(demo_window)
    review = demo_window.desk.snapshot.review
    assert review.references == ("workbench-marram-12", "breakwater-marram-12")
    board.show_page("References")
    assert board.blunt.text().startswith("Sluice Marram 12 comes closest to Breakwater")
    rows = board.references.table.texts()
    assert ["Groyne Marram 12", "Breakwater Marram 12"] in [row[:2] for row in rows]
    board.references.rig.setCurrentIndex(board.references.rig.findText("Groyne Marram 12"))
    board.references.rig.activated.emit(0)
    assert "Groyne Marram 12 comes closest to" in board.blunt.text()


def test_which_percentage_is_told_on_demand_in_four_sentences(demo_window, settle):
    board = stop(demo_window, "Board")
    demo_window.go_to("Board")
    settle(demo_window)
    evidence = board.evidence
    fold = next(
        one for one in evidence.findChildren(QToolButton) if one.text() == "Which percentage"
    )
    assert not any("of their midpoint apart" in one for one in texts(evidence))
    fold.click()
    said = texts(evidence)
    assert "AGAINST WORKBENCH MARRAM 12" in said
    assert any("neither a gain nor a loss" in one for one in said)
    assert any(one.startswith("Workbench Marram 12 gives 53") for one in said)


def test_rigs_of_another_logbook_are_brought_in_and_said_to_be_the_same(
    demo_window, settle, tmp_path
):
    other = copy_demo(tmp_path / "last-year.blunt")
    controller = demo_window.controllers["Board"]
    controller.bring_in(other)
    settle(demo_window)
    contents = demo_window.desk.snapshot.contents
    apart = [rig for rig in contents.rigs.values() if rig.origin == "last-year"]
    assert len(apart) == 9
    assert "named alike here and in last-year.blunt" in demo_window.banner.words.text()
    demo_window.banner.offer.click()
    settle(demo_window)
    contents = demo_window.desk.snapshot.contents
    assert len(contents.rigs) == 9
    runs = [run for run in contents.runs.values() if run.rig_id == "groyne-marram-12"]
    assert len(runs) > 60
    assert demo_window.desk.snapshot.undo == "bring in 9 rigs of last-year"
    demo_window.desk.undo()
    settle(demo_window)
    assert len(demo_window.desk.snapshot.contents.runs) == 224


def test_dropped_tables_of_scores_are_taken_in_as_one_edit(small, window, settle, tmp_path):
    for rig, score in (("b", 3300), ("c", 4100)):
        text = f"part,score,weight\ngraphics,{score},0.85\ncpu,1500,0.15\n"
        (tmp_path / f"{rig}_lattice_1.csv").write_text(text)
    window.taking.take_dropped(
        [QUrl.fromLocalFile(str(tmp_path / f"{rig}_lattice_1.csv")) for rig in ("b", "c")]
    )
    settle(window)
    settle(window)
    snapshot = window.desk.snapshot
    labels = [row.label for row in snapshot.analysis.scores.board.rows]
    assert labels == ["Lattice", "Lattice, graphics", "Lattice, cpu"]
    assert {rig.name for rig in snapshot.contents.rigs.values()} == {"A", "B", "c"}
    assert snapshot.undo == "scores of 2 files"
