"""The window that reads one picture: which figure is which, and one run handed on."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QImage

from blunt_ruler.core.recordings.quantities import Quantity
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.painting import painting
from blunt_ruler.ui.runs.still_dialog import StillDialog

ROWS = (("Average FPS", "87.4"), ("1% low", "61.2"), ("Minimum", "44"), ("Maximum", "131"),
        ("Frames rendered", "5230"))  # fmt: skip


@pytest.fixture
def results(dressed, tmp_path):
    image = QImage(1000, 500, QImage.Format.Format_RGB888)
    image.fill(QColor(24, 30, 40))
    with painting(image) as pen:
        pen.setPen(QColor(245, 245, 245))
        for at, (name, value) in enumerate(ROWS):
            pen.setFont(theme.font(22))
            pen.drawText(70, 85 + 75 * at, name)
            pen.setFont(theme.font(34))
            pen.drawText(640, 85 + 75 * at, value)
    image.save(str(tmp_path / "results.png"))
    return tmp_path / "results.png"


def opened(path, qtbot):
    made = StillDialog(path, None, None)
    qtbot.addWidget(made)
    made.show()
    qtbot.waitUntil(lambda: made._job is None, timeout=60_000)
    return made


@pytest.fixture
def dialog(results, qtbot):
    made = opened(results, qtbot)
    yield made
    made.reject()


TABLE = (
    ("Game", "Cord 4x4", "Tower slot"),
    ("Tidewrack", "83.4", "99.2"),
    ("Loom Harbour", "1204", "131.0"),
    ("Quarry 9", "", "187.5"),
    ("Ashen Court", "61.5", "70.1"),
)


def test_a_table_is_settled_cell_by_cell_and_handed_on(dressed, tmp_path, qtbot):
    image = QImage(720, 300, QImage.Format.Format_RGB888)
    image.fill(QColor(250, 250, 250))
    with painting(image) as pen:
        pen.setFont(theme.font(24))
        for line, row in enumerate(TABLE):
            for at, text in enumerate(row):
                pen.drawText(30 + 230 * at, 50 + 50 * line, text)
    image.save(str(tmp_path / "table.png"))
    dialog = opened(tmp_path / "table.png", qtbot)
    assert dialog.as_table and dialog.blunt.text() == "table.png: a table of 5 rows and 3 columns"
    assert dialog.table.rows() == [list(row) for row in TABLE]
    assert dialog.table.in_doubt == [(2, 1), (3, 1)]
    assert not dialog.go.isEnabled() and "2 cells in doubt" in dialog.problem.text()
    first = dialog.table.currentItem()
    assert "in doubt" in first.data(Qt.ItemDataRole.AccessibleTextRole)
    first.setText("120.4")
    assert dialog.table.in_doubt == [(3, 1)]
    dialog.table.setCurrentCell(3, 1)
    qtbot.keyClick(dialog.table, Qt.Key.Key_Return)
    assert dialog.go.isEnabled() and not dialog.problem.text()
    dialog.other_way.click()
    assert not dialog.as_table and dialog.rig.isVisible()
    dialog.other_way.click()
    assert dialog.as_table and dialog.go.isEnabled()
    with qtbot.waitSignal(dialog.table_confirmed) as told:
        dialog.go.click()
    name, rows = told.args
    assert name == "table.png" and rows[2] == ["Loom Harbour", "120.4", "131.0"]


def test_the_window_asks_which_is_which_and_hands_on_one_run(dialog, qtbot):
    assert "5 figures, 4 to take in" in dialog.blunt.text()
    frames = dialog.rows[3]
    frames.what.setCurrentIndex(frames.what.findData(Quantity.FPS))
    frames.what.activated.emit(frames.what.currentIndex())
    assert "Two figures are FPS" in dialog.problem.text()
    frames.what.setCurrentIndex(frames.what.findData(Quantity.MAXIMUM))
    frames.what.activated.emit(frames.what.currentIndex())
    dialog.rows[0].value.setText("87,5")
    dialog.rig.setEditText("C" * 500)
    assert not dialog.go.isEnabled() and "has 500 letters" in dialog.go.toolTip()
    dialog.rig.setEditText("Cord")
    dialog.case.setEditText("a / b / c / d / e")
    assert not dialog.go.isEnabled() and "does not name a case" in dialog.go.toolTip()
    dialog.case.setEditText("Tidewrack / 1080p / High")
    assert dialog.go.isEnabled()
    with qtbot.waitSignal(dialog.confirmed) as told:
        dialog.go.click()
    arrival, series, pictures = told.args[0][0]
    assert arrival.typed.average_fps == 87.5 and arrival.rig == "Cord"
    assert series is None and pictures.startswith(b"\x89PNG")
