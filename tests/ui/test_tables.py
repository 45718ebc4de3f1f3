"""Tables pasted and dropped: shown before they are taken in, one edit, nothing wiped."""

import pytest
from PyQt6.QtCore import Qt, QUrl
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtTest import QTest
from reach import stop

TABLE = (
    "Game\tBuilt-in\tSluice\tTower\nTidewrack 1080p High\t27/20\t69.5\t106\n"
    "Ninefold Siege 1080p Max\t28-30\t~70\t\nSkitter 1080p Low\t60\t2x5\t\nmean\t38\t70\t"
)


@pytest.fixture
def cells(window, tmp_path, settle):
    window.desk.create(tmp_path / "new.blunt")
    settle(window)
    page = stop(window, "Board").cells
    page.table.setFocus()
    return page


def copy(text):
    clipboard = QGuiApplication.clipboard()
    clipboard.setText(text)


def paste(page):
    QTest.keyClick(page.table, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)


def shown(page):
    model = page.model
    rows = range(len(model.board.rows))
    return [
        [model.data(model.index(row, column)) for column in range(len(model.board.columns))]
        for row in rows
    ]


def test_a_table_is_shown_and_taken_in_as_one_edit(window, cells, settle):
    copy(TABLE)
    paste(cells)
    dialog = cells.typing.dialog
    assert dialog.blunt.text() == "In 27/20, is the second figure the 1% low, or the minimum?"
    assert not dialog.take.isEnabled()
    dialog.answers["second", "minimum"].click()
    assert dialog.blunt.text().startswith("What was copied: 3 rigs, 3 cases, 6 figures")
    assert "row mean" in dialog.notes.text()
    assert "2x5" in dialog.wrong.text()
    assert dialog.take.text() == "Take in 6 figures"
    dialog.take.click()
    settle(window)
    assert shown(cells) == [
        ["≈27", "≈70", "≈106"],
        ["28–30", "~70", "–"],
        ["≈60", "2x5", "–"],
    ]
    assert window.desk.snapshot.undo == "type 6 cells"
    runs = window.desk.snapshot.contents.runs.values()
    assert [run.typed.minimum_fps for run in runs if run.typed.minimum_fps] == [20]
    review = window.desk.snapshot.review
    assert [str(seat.role) for seat in review.seats] == ["base", "under test", "reference"]
    window.desk.undo()
    settle(window)
    assert window.desk.snapshot.contents.runs == {}


def test_what_stands_in_a_cell_is_shown_before_it_is_corrected(window, cells, settle):
    for text in (TABLE, "Game\tSluice\nTidewrack 1080p High\t68.5"):
        copy(text)
        paste(cells)
        dialog = cells.typing.dialog
        if ("second", "1% low") in dialog.answers:
            dialog.answers["second", "1% low"].click()
        item = dialog.table.item(0, 0).text()
        dialog.take.click()
        settle(window)
    assert item == "69.5 → 68.5"
    assert shown(cells)[0] == ["≈27", "≈68", "≈106"]


def test_a_table_that_says_neither_is_asked_about(window, cells, settle, qtbot):
    copy("\tAlpha\tBeta\nGamma\t27\t70\nDelta\t30\t80")
    paste(cells)
    dialog = cells.typing.dialog
    assert dialog.blunt.text().startswith("Are Alpha and Beta rigs, or cases?")
    assert not dialog.take.isEnabled()
    assert "Answer first: Are Alpha and Beta rigs" in dialog.take.toolTip()
    qtbot.waitUntil(lambda: QGuiApplication.focusWindow() is dialog.windowHandle())
    QTest.keyClick(dialog, Qt.Key.Key_2)
    assert dialog.answers["layout", "rigs down"].isChecked()
    assert dialog.take.isEnabled()
    dialog.take.click()
    settle(window)
    assert [column.name for column in cells.model.board.columns] == ["Gamma", "Delta"]
    assert [row.title for row in cells.model.board.rows] == ["Alpha", "Beta"]


def test_figures_alone_go_where_one_stands(window, cells, settle):
    copy(TABLE)
    paste(cells)
    cells.typing.dialog.answers["second", "1% low"].click()
    cells.typing.dialog.take.click()
    settle(window)
    cells.table.setCurrentIndex(cells.model.index(1, 1))
    copy("71\t99\n201\t250")
    paste(cells)
    settle(window)
    assert shown(cells)[1:] == [["28–30", "≈71", "≈99"], ["≈60", "≈201", "≈250"]]
    assert window.desk.snapshot.undo == "type 4 cells"
    cells.table.setCurrentIndex(cells.model.index(2, 2))
    paste(cells)
    assert "no room" in window.banner.words.text()
    assert shown(cells)[2] == ["≈60", "≈201", "≈250"]


@pytest.mark.parametrize("text", ["", "nothing\there", "a\nb"])
def test_what_is_no_table_is_said(window, cells, text):
    copy(text)
    paste(cells)
    said = window.banner.words.text()
    if cells.typing.dialog is not None:
        said += cells.typing.dialog.blunt.text()
        assert not cells.typing.dialog.take.isEnabled()
    assert "table" in said or "copied" in said
    assert window.desk.snapshot.contents.rigs == {}


def test_a_dropped_table_goes_to_the_grid_and_a_log_to_the_import(window, cells, settle, tmp_path):
    table = tmp_path / "results.csv"
    table.write_text("rig,title,resolution,preset,average_fps\nSluice,Tidewrack,1080p,High,69.5\n")
    window.taking.take_dropped([QUrl.fromLocalFile(str(table))])
    settle(window)
    assert window.taking.dialog is None
    dialog = cells.typing.dialog
    assert dialog.blunt.text().startswith("results.csv: 1 rig, 1 case, 1 figure")
    dialog.take.click()
    settle(window)
    assert shown(cells) == [["≈70"]]
    log = tmp_path / "log.csv"
    log.write_text("frame,ms\n" + "\n".join(f"{n},{16 + n % 3}" for n in range(300)))
    window.taking.take_dropped([QUrl.fromLocalFile(str(log))])
    settle(window)
    assert window.taking.dialog is not None
    window.taking.dialog.reject()


def test_what_looks_like_scores_is_asked_about_and_kept_out_of_the_rates(window, cells, settle):
    copy("Game\tTower\tCable\nLattice\t4 433\t3 791\nTidewrack 1080p High\t107\t70")
    paste(cells)
    dialog = cells.typing.dialog
    assert dialog.blunt.text().startswith("Is Lattice a score, or a frame rate?")
    assert not dialog.take.isEnabled()
    assert "Answer first: Is Lattice a score" in dialog.take.toolTip()
    dialog.answers["Lattice", "scores"].click()
    assert dialog.blunt.text().endswith("scores of Lattice.")
    dialog.take.click()
    settle(window)
    contents = window.desk.snapshot.contents
    assert {one.name: one.kind for one in contents.titles.values()} == {
        "Lattice": "synthetic",
        "Tidewrack": "game",
    }
    typed = [run.typed for run in contents.runs.values()]
    assert sorted(one.score for one in typed if one.score) == [3791, 4433]
    assert sorted(one.average_fps for one in typed if one.average_fps) == [70, 107]


def test_scores_that_a_word_names_can_still_be_called_frame_rates(window, cells, settle):
    copy("Score\tTower\tCable\nLattice\t443\t379\nTidewrack\t107\t70")
    paste(cells)
    dialog = cells.typing.dialog
    assert dialog.answers["Lattice", "scores"].isChecked()
    assert dialog.take.isEnabled()
    for case in ("Lattice", "Tidewrack"):
        dialog.answers[case, "frame rates"].click()
        assert dialog.answers[case, "frame rates"].isChecked()
    dialog.take.click()
    settle(window)
    typed = [run.typed for run in window.desk.snapshot.contents.runs.values()]
    assert sorted(one.average_fps for one in typed) == [70, 107, 379, 443]


def test_a_long_table_is_read_beside_the_window(window, cells, settle, qtbot):
    games = "\n".join(f"Title {n} 1080p\t{n + 20}\t{n + 50}\t{n + 90}" for n in range(200))
    copy(f"Game\tBuilt-in\tSluice\tTower\n{games}")
    paste(cells)
    dialog = cells.typing.dialog
    assert "reading 201 rows …" in dialog.blunt.text().replace("\u202f", "")
    assert not dialog.take.isEnabled()
    qtbot.waitUntil(dialog.take.isEnabled, timeout=60_000)
    assert "3 rigs, 200 cases, 600 figures" in dialog.blunt.text().replace("\u202f", "")
    paste(cells)
    cells.typing.dialog.reject()  # while it is being read
    qtbot.wait(300)
