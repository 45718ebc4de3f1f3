"""Typing into the Board by keys alone: from an empty logbook to the sentence, and back again."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QPushButton

from blunt_ruler.core.board.lenses import Lens
from blunt_ruler.core.measure.kinds import Kind
from blunt_ruler.core.records.records import Role
from blunt_ruler.logbook import Logbook
from blunt_ruler.ui.board.models import CellRole
from ui.reach import stop

Key = Qt.Key


class Typist:
    """Two hands on a keyboard: what they type goes to what has the focus. Counts what they do."""

    def __init__(self, window):
        self.window, self.entries, self.others = window, 0, 0

    def at(self):
        return QApplication.focusWidget() or self.window

    def press(self, key, modifier=Qt.KeyboardModifier.NoModifier):
        self.others += 1
        QTest.keyClick(self.at(), key, modifier)

    def enter(self, text, key=Key.Key_Return):
        """One fact, and the key that ends it."""
        self.entries += 1
        for letter in text:
            QTest.keyClicks(self.at(), letter)
        QTest.keyClick(self.at(), key)


@pytest.fixture
def board(window, tmp_path, settle):
    """The Board of a new logbook, as the window shows it."""
    window.desk.create(tmp_path / "new.blunt")
    settle(window)
    return stop(window, "Board")


@pytest.fixture
def typist(window, board):
    return Typist(window)


@pytest.fixture
def shop(window, board, typist, settle):
    """Three rigs and two cases, by keys."""
    for rig in ("Built-in", "Sluice"):
        typist.enter(rig)
    typist.enter("Tower", Key.Key_Tab)
    typist.press(Key.Key_Return)
    typist.enter("Tidewrack / coast run / 1080p / High")
    typist.enter("Copper Meridian / 1080p / High", Key.Key_Tab)
    settle(window)
    return board.cells


def shown(cells, row, column):
    """The figure of a cell, as told and as painted."""
    index = cells.model.index(row, column)
    told = cells.model.data(index)
    assert cells.model.look(index).text == (told or "")
    return told


def beside(cells, row, column):
    index = cells.model.index(row, column)
    told = cells.model.data(index, CellRole.BESIDE)
    assert cells.model.look(index).beside == (told or "")
    return told


def at(cells, row, column):
    cells.table.setCurrentIndex(cells.model.index(row, column))
    cells.table.setFocus()


def test_eleven_facts_to_the_sentence_in_eleven_entries(window, board, typist, settle):
    typist.enter("Built-in")
    typist.enter("Sluice", Key.Key_Tab)
    typist.press(Key.Key_Return)
    typist.enter("Tidewrack / coast run / 1080p / High")
    typist.enter("Ninefold Siege / turn 200 / 1080p / Max")
    typist.enter("Copper Meridian / night lap / 1080p / High", Key.Key_Tab)
    for left, right in (("27", "69.5 70.4"), ("28-30", "~70"), ("38", "89.4/77 90.1 ~91")):
        typist.enter(left, Key.Key_Tab)
        typist.enter(right)
    settle(window)
    assert board.blunt.text().startswith("Sluice is about 2.5 times as fast as Built-in")
    assert (typist.entries, typist.others) == (11, 1)
    cells = board.cells
    assert [shown(cells, row, 1) for row in range(3)] == ["≈70", "~70", "≈90"]
    assert shown(cells, 1, 0) == "28–30"
    assert [beside(cells, row, 1) for row in range(3)] == ["≈×2.6", "≈×2.4", "≈×2.4"]


def test_the_sentence_answers_after_each_cell(window, board, typist, shop, settle):
    said = []
    for text in ("27", "70", "106"):
        typist.enter(text, Key.Key_Tab)
        settle(window)
        said.append(board.blunt.text())
    assert len(set(said)) == 3
    assert said[-1].startswith("Sluice is about 2.6 times as fast as Built-in in Tidewrack.")
    review = window.desk.snapshot.review
    assert [str(seat.role) for seat in review.seats] == ["base", "under test", "reference"]


def painted(cells):
    """All that stands on the Board, each cell once as told and once as painted."""
    model = cells.model
    indexes = [
        model.index(row, column)
        for row in range(model.rowCount())
        for column in range(model.columnCount())
    ]
    told = [
        (str(model.data(at) or ""), str(model.data(at, CellRole.BESIDE) or "")) for at in indexes
    ]
    assert [model.look(at)[:2] for at in indexes] == told
    return told


def test_what_is_painted_follows_each_entry_and_lens(window, board, typist, shop, settle):
    boards = [painted(shop)]
    for text in ("27", "70", "106"):
        typist.enter(text, Key.Key_Tab)
        settle(window)
        boards.append(painted(shop))
    for lens in (Lens.GAIN, Lens.RATE):
        shop.model.show_board(window.desk.snapshot.board, lens)
        boards.append(painted(shop))
    assert len({str(one) for one in boards}) == 5
    assert boards[-1] == boards[3]


def test_proposed_roles_give_way_to_chosen_ones(window, typist, shop, settle):
    for text in ("27", "70", "106"):
        typist.enter(text, Key.Key_Tab)
    settle(window)
    at(shop, 0, 1)
    typist.press(Key.Key_B, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    settle(window)
    at(shop, 1, 0)
    typist.enter("12")
    settle(window)
    review, names = window.desk.snapshot.review, window.desk.snapshot.contents.rigs
    assert names[review.rig_in(Role.BASE)].name == "Sluice"
    assert not review.roles_proposed


def test_what_cannot_be_understood_stays_red_and_holds_nothing_up(
    window, board, typist, shop, settle
):
    typist.enter("27x", Key.Key_Tab)
    typist.enter("70", Key.Key_Tab)
    settle(window)
    index = shop.model.index(0, 0)
    assert shown(shop, 0, 0) == "27x"
    assert "27x" in shop.model.data(index, CellRole.WRONG)
    assert "stays in its cell" in board.blunt.text()
    assert shown(shop, 0, 1) == "≈70"
    at(shop, 0, 0)
    typist.press(Key.Key_F2)
    typist.press(Key.Key_Backspace)
    typist.press(Key.Key_Return)
    settle(window)
    assert shown(shop, 0, 0) == "≈27"
    assert not stop(window, "Board").cells.model.drafts


def test_escape_leaves_it_as_it_was(window, typist, shop, settle):
    typist.enter("27")
    settle(window)
    at(shop, 0, 0)
    for letter in "99":
        QTest.keyClicks(typist.at(), letter)
    typist.press(Key.Key_Escape)
    settle(window)
    assert shown(shop, 0, 0) == "≈27"
    assert shop.table.hasFocus()


def test_a_run_is_corrected_where_it_stands_and_the_journal_says_so(window, typist, shop, settle):
    typist.enter("69.5/57 70.1")
    settle(window)
    before = window.desk.snapshot.contents.runs
    at(shop, 0, 0)
    typist.press(Key.Key_F2)
    assert typist.at().text() == "69.5/57 70.1"
    typist.press(Key.Key_End)
    typist.enter(" 68.8")
    settle(window)
    runs = window.desk.snapshot.contents.runs
    assert set(before) < set(runs)
    assert [run.typed.average_fps for run in runs.values()] == [69.5, 70.1, 68.8]
    at(shop, 0, 0)
    typist.enter("59.5/57 70.1 68.8")
    settle(window)
    window.desk.close()
    with Logbook.open(window.desk.snapshot.path) as book:
        edits = book.edits()
    assert (
        edits[-1].label
        == "type 59.5/57 70.1 68.8 for Built-in, Tidewrack / coast run / 1080p / High"
    )
    assert len(edits[-1].rows) == 1


def test_undo_takes_back_one_cell(window, typist, shop, settle):
    typist.enter("27", Key.Key_Tab)
    typist.enter("70", Key.Key_Tab)
    settle(window)
    window.desk.undo()
    settle(window)
    assert (shown(shop, 0, 0), shown(shop, 0, 1)) == ("≈27", "–")
    window.desk.redo()
    settle(window)
    assert shown(shop, 0, 1) == "≈70"


def test_delete_empties_a_cell_and_the_same_text_is_no_edit(window, typist, shop, settle):
    typist.enter("27")
    settle(window)
    name = window.desk.snapshot.undo
    at(shop, 0, 0)
    typist.enter("27")
    settle(window)
    assert window.desk.snapshot.undo == name
    at(shop, 0, 0)
    typist.press(Key.Key_Delete)
    settle(window)
    assert shown(shop, 0, 0) == "–"
    assert window.desk.snapshot.contents.runs == {}


def test_what_did_not_run_is_kept_in_words(window, board, typist, shop, settle):
    typist.enter("no: artefacts after a minute")
    settle(window)
    (run,) = window.desk.snapshot.contents.runs.values()
    assert (run.outcome, run.average_fps) == ("artefacts after a minute", None)
    assert shown(shop, 0, 0) == "did not run"
    at(shop, 0, 0)
    settle(window)
    (note,) = offered(window, "Note it in the rig's diary")
    note.click()
    settle(window)
    (entry,) = window.desk.snapshot.contents.diary.values()
    assert entry.says.endswith("did not run: artefacts after a minute")
    assert (entry.rig_id, entry.symptom) == (run.rig_id, "freezes")
    assert not offered(window, "Note it in the rig's diary"), "it is noted once"


def offered(window, words):
    return [one for one in window.findChildren(QPushButton) if one.text() == words]


def test_a_test_with_scores_is_typed_and_kept_out_of_the_means(window, typist, shop, settle):
    shop.typing.open_case("")
    typist.enter("score: Lattice", Key.Key_Tab)
    settle(window)
    at(shop, 2, 0)
    for text in ("1263", "3791"):
        typist.enter(text, Key.Key_Tab)
    at(shop, 0, 0)
    for text in ("27", "70"):
        typist.enter(text, Key.Key_Tab)
    settle(window)
    assert (shown(shop, 2, 0), shown(shop, 2, 1)) == ("1\u202f263", "3\u202f791")
    assert beside(shop, 2, 1) == "×3.00"
    title = list(window.desk.snapshot.contents.titles.values())[-1]
    assert (title.name, title.kind) == ("Lattice", "synthetic")
    total = shop._board.totals
    assert all(mean.over_base.cases == 1 for mean in total.values() if mean.over_base)


def test_bounds_are_said_as_bounds(window, board, typist, shop, settle):
    for text in ("20", "200+"):
        typist.enter(text, Key.Key_Tab)
    settle(window)
    assert board.blunt.text().startswith("Sluice is at least 10 times as fast as Built-in")
    assert (shown(shop, 0, 1), beside(shop, 0, 1)) == ("200+", "≥×10.0")
    for lens, text in ((Lens.GAIN, "≥+900\u202f%"), (Lens.RATE, "200+")):
        shop.show_lens(lens)
        assert shown(shop, 0, 1) == text
    (cell,) = [cell for (rig, _), cell in shop._board.cells.items() if cell.kind is Kind.AT_LEAST]
    assert cell.gain_high is None


def test_the_hint_says_what_is_understood_and_why_not(window, typist, shop):
    shop.typing.open_cell(shop.model.index(0, 0), "")
    hint = shop.typing.editor.hint
    for letter in "45-50":
        QTest.keyClicks(typist.at(), letter)
    assert "between 45 and 50" in hint.text()
    QTest.keyClicks(typist.at(), "k")
    assert "not understood" in hint.text()
    assert shop.typing.editor.property("wrong")
    typist.press(Key.Key_Escape)


def test_names_of_the_logbook_complete_what_is_typed(demo_window, settle):
    typist = Typist(demo_window)
    cells = stop(demo_window, "Board").cells
    cells.table.setFocus()
    cells.typing.open_case("Tidew")
    listed = cells.typing.editor.list
    assert listed.item(0).text() == "Tidewrack"
    typist.press(Key.Key_Down)
    typist.press(Key.Key_Return)
    assert cells.typing.editor.text() == "Tidewrack"
    for letter in " / ":
        QTest.keyClicks(typist.at(), letter)
    assert any("1440p" in listed.item(row).text() for row in range(listed.count()))
    typist.press(Key.Key_Escape)
    cells.typing.open_rig("Slui")
    assert cells.typing.editor.hint.text().startswith("A new rig")
    typist.press(Key.Key_Escape)


def test_figures_beside_logs_leave_the_logs_alone(demo_window, settle):
    typist = Typist(demo_window)
    cells = stop(demo_window, "Board").cells
    before = set(demo_window.desk.snapshot.contents.runs)
    at(cells, 0, 0)
    QTest.keyClicks(typist.at(), "5")
    assert "stay" in cells.typing.editor.hint.text()
    typist.enter("1")
    settle(demo_window)
    after = demo_window.desk.snapshot.contents.runs
    assert before < set(after)
    (made,) = [after[key] for key in set(after) - before]
    assert made.typed.average_fps == 51.0


def test_a_rig_leaves_the_review_by_its_head(window, typist, shop, settle, monkeypatch):
    from PyQt6.QtWidgets import QMenu

    monkeypatch.setattr(QMenu, "popup", lambda *_a: None)  # no pointer to grab without a screen
    shop.heads.menu(2)
    menu = shop.findChildren(QMenu)[-1]
    leave = next(one for one in menu.actions() if one.text() == "Take it out of the review")
    leave.trigger()
    settle(window)
    assert [column.name for column in shop._board.columns] == ["Built-in", "Sluice"]


def test_what_is_red_in_one_logbook_is_not_in_another(
    window, board, typist, shop, settle, tmp_path
):
    typist.enter("27x", Key.Key_Tab)
    assert "27x" in board.blunt.text()
    window.desk.create(tmp_path / "other.blunt")
    settle(window)
    assert not stop(window, "Board").cells.model.drafts
    assert "27x" not in stop(window, "Board").blunt.text()


def test_tab_after_the_last_rig_goes_on_in_the_next_row(shop, window, typist, settle):
    at(shop, 0, 0)
    for text in ("27", "70", "101", "19", "53", "75"):
        typist.enter(text, Key.Key_Tab)
    settle(window)
    assert [shown(shop, row, column) for row in (0, 1) for column in range(3)] == [
        *("≈27", "≈70", "≈101"),
        *("≈19", "≈53", "≈75"),
    ]
    assert len(window.desk.snapshot.contents.rigs) == 3
    assert shop.table.currentIndex().row() == shop.model.ghost_row
    at(shop, 0, 0)
    typist.press(Key.Key_Right)
    typist.enter("71", Key.Key_Tab)
    typist.enter("102")  # the run began in the second column
    assert (shop.table.currentIndex().row(), shop.table.currentIndex().column()) == (1, 1)


@pytest.mark.parametrize("text", ["71", "69.5/57", "4225"])
def test_a_name_that_looks_like_a_figure_is_asked_about(shop, window, typist, settle, text):
    table = shop.table
    table.setCurrentIndex(shop.model.index(0, shop.model.ghost_column))
    table.setFocus()
    typist.enter(text)
    settle(window)
    assert len(window.desk.snapshot.contents.rigs) == 3
    assert "looks like a figure" in shop.typing.editor.hint.text()
    assert shop.typing.editor.text() == text
    typist.press(Key.Key_Escape)
    settle(window)
    assert len(window.desk.snapshot.contents.rigs) == 3
    table.setCurrentIndex(shop.model.index(0, shop.model.ghost_column))
    typist.enter(text)
    typist.press(Key.Key_Return)
    settle(window)
    names = [rig.name for rig in window.desk.snapshot.contents.rigs.values()]
    assert names == ["Built-in", "Sluice", "Tower", text]


def test_a_second_figure_is_asked_about_once_in_a_review(window, typist, shop, settle):
    typist.enter("52/38")
    settle(window)
    banner = window.banner
    assert "In “52/38” 38 is taken as the 1% low" in banner.words.text()
    (run,) = window.desk.snapshot.contents.runs.values()
    assert (run.typed.low_1_fps, run.typed.minimum_fps) == (38, None)
    banner.offer.click()
    settle(window)
    (run,) = window.desk.snapshot.contents.runs.values()
    assert (run.typed.low_1_fps, run.typed.minimum_fps) == (None, 38)
    assert window.desk.snapshot.review.second_figure == "minimum"
    banner.hide()
    typist.enter("24/15/40")
    settle(window)
    typed = [one.typed for one in window.desk.snapshot.contents.runs.values()]
    assert sorted((one.average_fps, one.minimum_fps, one.maximum_fps) for one in typed) == [
        (24, 15, 40),
        (52, 38, None),
    ]
    assert not banner.isVisible(), "asked once"


def test_a_low_by_its_name_stays_one_where_second_figures_are_minima(window, typist, shop, settle):
    typist.enter("52/38")
    settle(window)
    window.banner.offer.click()
    settle(window)
    grid = stop(window, "Board").cells
    grid.table.setCurrentIndex(grid.model.index(0, 1))
    grid.table.setFocus()
    typist.enter("60, 1% 44")
    settle(window)
    grid.table.setCurrentIndex(grid.model.index(0, 1))
    typist.press(Key.Key_F2)
    typist.press(Key.Key_Return)
    settle(window)
    lows = [one.typed.low_1_fps for one in window.desk.snapshot.contents.runs.values()]
    assert lows == [None, 44], "opened and left, it says the same"


def test_a_test_typed_with_its_mark_makes_one_row(window, typist, shop, settle):
    board = stop(window, "Board").cells
    board.typing.open_case("")
    typist.enter("score: Lattice", Key.Key_Tab)
    settle(window)
    names = [row.label for row in board.model.board.rows]
    assert [name for name in names if "Lattice" in name] == ["Lattice"]


def test_scores_are_typed_as_they_were_noted(window, typist, shop, settle):
    board = stop(window, "Board").cells
    board.typing.open_case("")
    typist.enter("score: Lattice", Key.Key_Tab)
    settle(window)
    row = [one.label for one in board.model.board.rows].index("Lattice")
    for column, text in enumerate(("around 7400", "5100-5300", "12,000")):
        board.table.setCurrentIndex(board.model.index(row, column))
        board.table.setFocus()
        typist.enter(text)
        settle(window)
    typed = [one.typed for one in window.desk.snapshot.contents.runs.values()]
    assert sorted((one.score, str(one.average_how.kind)) for one in typed) == [
        (5200, "range"),
        (7400, "about"),
        (12000, "eye"),
    ]
