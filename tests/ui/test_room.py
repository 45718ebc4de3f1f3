"""Room: a narrow window, the drawer, the ring of the focus, words that stay whole."""

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QComboBox, QLabel, QStyle, QStyleOptionComboBox
from reach import stop

from blunt_ruler.core.analysis.rail_states import STOPS
from blunt_ruler.core.text import bound
from blunt_ruler.ui.kit.focus_ring import FocusRing
from blunt_ruler.ui.kit.widgets import label
from blunt_ruler.ui.shell.rail import NARROW, WIDTH


@pytest.fixture
def narrow(demo_window, settle):
    demo_window.resize(1024, 700)
    settle(demo_window)
    return demo_window


def test_below_1180_pixels_rail_and_evidence_give_way(narrow, qtbot, settle):
    board = stop(narrow, "Board")
    assert narrow.rail.width() == NARROW
    assert not board.evidence.isVisible()
    assert board.handle.isVisible()
    narrow.resize(1280, 800)
    settle(narrow)
    assert narrow.rail.width() == WIDTH
    assert board.evidence.isVisible()
    assert not board.handle.isVisible()


def test_the_drawer_opens_by_key_and_by_its_edge_and_closes_again(narrow, qtbot):
    board = stop(narrow, "Board")
    narrow.actions_of.by_name["Show or hide the evidence"].trigger()
    assert board.evidence.isVisible()
    assert board.evidence.geometry().right() == board.view.width() - 1
    assert "WHAT WOULD HELP" in [one.text() for one in board.evidence.findChildren(QLabel)]
    qtbot.keyClick(board.view, Qt.Key.Key_Escape)
    assert not board.evidence.isVisible()
    qtbot.mouseClick(board.handle, Qt.MouseButton.LeftButton)
    assert board.evidence.isVisible()


def test_a_stop_that_is_gone_to_is_as_narrow_as_the_window(narrow, settle):
    for name in STOPS:
        narrow.go_to(name)
        settle(narrow)
        assert not narrow.controllers[name].stop.evidence.isVisible(), name


@pytest.mark.parametrize("name", STOPS)
def test_no_choice_is_cut_at_1024(narrow, settle, name):
    narrow.go_to(name)
    settle(narrow)
    view = narrow.controllers[name].stop
    for page in view.bar.buttons or [""]:
        if page:
            view.show_page(page)
            settle(narrow)
        for box in view.findChildren(QComboBox):
            if not box.isVisible() or not box.currentText():
                continue
            option = QStyleOptionComboBox()
            box.initStyleOption(option)
            field = box.style().subControlRect(
                QStyle.ComplexControl.CC_ComboBox,
                option,
                QStyle.SubControl.SC_ComboBoxEditField,
                box,
            )
            wanted = box.fontMetrics().horizontalAdvance(box.currentText())
            assert wanted <= field.width() + 2, (page, box.accessibleName(), box.currentText())


def test_the_ring_shows_after_a_key_and_not_after_a_click(demo_window, qtbot, qapp):
    FocusRing(qapp)
    board = stop(demo_window, "Board")
    demo_window.activateWindow()
    qtbot.waitUntil(lambda: demo_window.windowHandle() is not None)
    box, filter_box = board.cells.more, board.cells.order_box.head
    box.setFocus()
    assert not box.property("ring"), "nothing was pressed yet"
    QTest.keyClick(demo_window.windowHandle(), Qt.Key.Key_Tab)
    focused = qapp.focusWidget()
    assert focused is not box
    assert focused.property("ring")
    at = filter_box.mapTo(demo_window, QPoint(5, 5))
    QTest.mouseClick(
        demo_window.windowHandle(), Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at
    )
    assert not focused.property("ring")
    assert not qapp.focusWidget().property("ring")


def test_a_low_never_stands_on_two_lines():
    assert bound("the 1 % low holds") == "the 1\u00a0%\u00a0low holds"
    said = label("0.1 % low")
    assert " % " not in said.text()
    said.setText("1 % low")
    assert said.text() == bound("1 % low")
