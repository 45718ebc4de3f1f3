"""The one plain table: choices that survive other rows, and columns that give way."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHeaderView, QTableView

from blunt_ruler.ui.kit.rows import LEAST, ROW_ROLE, Column, RowsModel, RowsTable

ROWS = [("Sluice Marram 12", 69.5), ("Groyne Marram 12", 95.8), ("Workbench Marram 12", 106.5)]


@pytest.fixture
def table(dressed, qtbot):
    made = RowsTable(
        "Rigs",
        [
            Column("Rig", lambda row: row[0]),
            Column("Rate", lambda row: f"{row[1]:.1f}", 160, figures=True),
            Column("Again", lambda row: f"{row[1]:.0f}", 160, figures=True, gives_up=1),
            Column("Note", lambda _row: "", 160),
        ],
        key=lambda row: row[0],
    )
    qtbot.addWidget(made)
    made.resize(900, 300)
    made.show()
    made.show_rows(ROWS)
    return made


def sizes(table):
    return [table.header().sectionSize(place) for place in range(4)]


def test_a_choice_stays_with_its_row_and_is_said_only_when_a_user_makes_it(table):
    said = []
    table.row_chosen.connect(said.append)
    assert table.choose("Groyne Marram 12")
    table.show_rows([*reversed(ROWS)])
    assert table.chosen() == ROWS[1]
    table.show_rows(ROWS[1:])
    assert table.chosen() == ROWS[1]
    assert said == []
    table.setCurrentIndex(table.rows_model.index(1, 0))
    assert said == [ROWS[2]]
    assert not table.choose("Sluice Marram 12"), "it is not there any more"
    assert table.currentIndex().data(ROW_ROLE) == ROWS[2]


def test_rows_of_the_same_keys_change_in_place_and_none_announce_nothing(table):
    changed, reset = [], []
    table.rows_model.dataChanged.connect(lambda first, last, _roles: changed.append(last.row()))
    table.rows_model.modelReset.connect(lambda: reset.append(True))
    table.show_rows([(name, rate + 1.0) for name, rate in ROWS])
    assert (changed, reset) == ([2], [])
    assert table.texts()[0][:2] == ["Sluice Marram 12", "70.5"]
    table.show_rows([])
    table.show_rows([])
    assert changed == [2]


def test_a_narrow_table_hides_what_gives_way_then_presses_the_rest_for_the_names(table):
    wide = sizes(table)
    table.resize(520, 300)
    assert table.isColumnHidden(2)
    assert sizes(table)[0] >= LEAST
    table.resize(380, 300)
    narrow = sizes(table)
    assert narrow[0] >= LEAST - 2
    assert narrow[1] < 160
    assert narrow[1] >= table.sizeHintForColumn(1), "its figures are still whole"
    table.resize(900, 300)
    assert not table.isColumnHidden(2)
    assert sizes(table) == wide


def test_a_width_that_was_given_by_hand_stays(table):
    table.header().resizeSection(1, 200)
    table.resize(380, 300)
    assert table.header().sectionResizeMode(1) is QHeaderView.ResizeMode.Fixed
    table.resize(900, 300)
    assert sizes(table)[1] == 200
    table.show_rows(ROWS[:1])
    assert sizes(table)[1] == 200


def test_figures_stand_to_the_right_and_words_to_the_left(table):
    aligned = [
        table.rows_model.data(table.rows_model.index(0, place), Qt.ItemDataRole.TextAlignmentRole)
        for place in (0, 1)
    ]
    assert [bool(one & Qt.AlignmentFlag.AlignRight) for one in aligned] == [False, True]


def test_words_run_over_lines_and_rows_grow_with_a_narrower_table(dressed, qtbot):
    made = RowsTable("Sentences", [Column("In words", str)])
    qtbot.addWidget(made)
    made.wrap_words()
    made.resize(900, 300)
    made.show()
    made.show_rows(["Short.", "The Sluice is faster than the Groyne. " * 12])

    def heights():
        return [made.rowHeight(made.rows_model.index(row, 0)) for row in (0, 1)]

    qtbot.waitUntil(lambda: heights()[1] > 1.5 * heights()[0] > 0)
    before = heights()[1]
    made.resize(300, 300)
    qtbot.waitUntil(lambda: heights()[1] > before)


def test_rows_are_sorted_by_a_click_and_the_chosen_one_stays(dressed, qtbot):
    columns = [
        Column("Name", lambda row: row[0]),
        Column("N", lambda row: str(row[1]), sort=lambda row: row[1]),
    ]
    table = QTableView()
    qtbot.addWidget(table)
    model = RowsModel(columns, key=lambda row: row[0])
    model.setParent(table)
    table.setModel(model)
    table.setSortingEnabled(True)
    table.sortByColumn(-1, Qt.SortOrder.AscendingOrder)
    model.show_rows([("b", 10), ("c", 9), ("a", 100), ("d", 9)])
    assert [row[0] for row in model.rows] == ["b", "c", "a", "d"], "as they come"
    table.setCurrentIndex(model.index(0, 1))
    table.sortByColumn(1, Qt.SortOrder.AscendingOrder)
    assert [row[0] for row in model.rows] == ["c", "d", "b", "a"], "numbers, not words"
    assert (table.currentIndex().row(), table.currentIndex().column()) == (2, 1)
    model.show_rows([("b", 1), ("c", 9), ("e", 5)])
    assert [row[0] for row in model.rows] == ["b", "e", "c"], "later rows too"
    table.sortByColumn(0, Qt.SortOrder.DescendingOrder)
    assert [row[0] for row in model.rows] == ["e", "c", "b"]
