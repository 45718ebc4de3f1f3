"""Text and pictures at one and a half times their size: what does not fit is scrolled to."""

import ast
import os
from pathlib import Path

import pytest
from PyQt6.QtWidgets import QDialog, QLabel, QPushButton, QScrollArea, QVBoxLayout

from blunt_ruler.core.analysis.rail_states import STOPS
from blunt_ruler.ui.desk.settings import SIZES, Settings
from blunt_ruler.ui.kit.room import fit
from blunt_ruler.ui.shell.app import _app_of_size
from blunt_ruler.ui.shell.window import LEAST, MainWindow

SOURCES = Path(__file__).parents[2] / "src/blunt_ruler/ui"


@pytest.fixture
def own_settings(own_settings):
    """A user who has chosen the largest size; Qt's own part of it is its scale factor."""
    Settings().size = SIZES[-1]
    return own_settings


def test_a_size_is_remembered_and_anything_else_is_the_usual(own_settings):
    settings = Settings()
    assert settings.size == 150
    settings.size = 90
    assert settings.size == SIZES[0]


def test_a_screen_of_1280_by_800_shows_all_of_it_by_scrolling(demo_window, settle):
    screen = [round(100 * one / SIZES[-1]) for one in (1280, 800)]
    demo_window.resize(*screen)
    settle(demo_window)
    assert [demo_window.width(), demo_window.height()] == screen
    area = demo_window.centralWidget()
    assert isinstance(area, QScrollArea)
    assert (demo_window.whole.width(), demo_window.whole.height()) == LEAST
    assert area.horizontalScrollBar().maximum() >= LEAST[0] - screen[0]
    for name in STOPS:  # the rail gives way as in a window that is as narrow without a scroll bar
        demo_window.go_to(name)
        settle(demo_window)
        assert demo_window.is_narrow


def test_what_takes_the_focus_comes_into_view(demo_window, settle, qtbot):
    demo_window.resize(853, 533)
    demo_window.go_to("Board")
    settle(demo_window)
    area = demo_window.centralWidget()
    area.horizontalScrollBar().setValue(0)
    for _ in range(60):
        demo_window.focusNextChild()
        if area.horizontalScrollBar().value():
            return
    pytest.fail("no control at the right edge was reached, or none was scrolled to")


def test_a_dialog_larger_than_the_screen_is_scrolled_and_keeps_its_controls(dressed, qtbot):
    dialog = QDialog()
    qtbot.addWidget(dialog)
    lines = QVBoxLayout(dialog)
    for number in range(200):
        lines.addWidget(QLabel(f"Line {number}"))
    button = QPushButton("Close")
    button.clicked.connect(dialog.accept)
    lines.addWidget(button)
    fit(dialog)
    dialog.show()
    assert dialog.height() < dialog.screen().availableGeometry().height()
    assert dialog.findChild(QScrollArea).widget().isAncestorOf(button)
    button.click()
    assert dialog.result() == QDialog.DialogCode.Accepted


def test_a_dialog_that_fits_is_left_alone(dressed, qtbot):
    dialog = QDialog()
    qtbot.addWidget(dialog)
    QVBoxLayout(dialog).addWidget(QLabel("Short"))
    fit(dialog)
    assert dialog.findChild(QScrollArea) is None


def test_the_dialog_says_when_a_size_takes_effect(window):
    window.show_settings()
    dialog = window.settings_dialog
    dialog.size_box.setCurrentIndex(dialog.size_box.findData(125))
    dialog.size_box.activated.emit(dialog.size_box.currentIndex())
    assert window.settings.size == 125
    assert dialog.size_note.text() == "at the next start"
    dialog.accept()


def test_nothing_in_the_window_is_animated():
    """Who asks for less motion need set nothing: no part moves by itself."""
    moving = {"QPropertyAnimation", "QVariantAnimation", "QTimeLine", "QMovie", "QEasingCurve"}
    for path in SOURCES.rglob("*.py"):
        names = {one.id for one in ast.walk(ast.parse(path.read_text("utf-8")))
                 if isinstance(one, ast.Name)}  # fmt: skip
        assert not names & moving, path


def test_the_least_size_follows_the_chosen_one(window):
    assert isinstance(window, MainWindow)
    assert window.minimumWidth() == round(LEAST[0] / 1.5)


def test_qt_is_told_the_size_and_what_the_window_starts_is_not(monkeypatch):
    monkeypatch.delenv("QT_SCALE_FACTOR", raising=False)
    assert _app_of_size(150, lambda: os.environ["QT_SCALE_FACTOR"]) == "1.5"
    assert "QT_SCALE_FACTOR" not in os.environ
    assert _app_of_size(100, lambda: os.environ.get("QT_SCALE_FACTOR")) is None
    monkeypatch.setenv("QT_SCALE_FACTOR", "2")  # who sets it by hand has the last word
    assert _app_of_size(150, lambda: os.environ["QT_SCALE_FACTOR"]) == "2"
