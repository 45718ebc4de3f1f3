"""Every control of every stop can be reached by key and says what it is to who cannot see it."""

from itertools import pairwise

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSlider,
    QAbstractSpinBox,
    QComboBox,
    QLineEdit,
    QPlainTextEdit,
    QScrollBar,
    QTableView,
    QTextBrowser,
    QTreeView,
    QWidget,
)
from reach import stop

from blunt_ruler.core.analysis.rail_states import STOPS
from blunt_ruler.ui.kit.picture_view import PictureView

CONTROLS = (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSlider,
    QAbstractSpinBox,
    QComboBox,
    QLineEdit,
    QPlainTextEdit,
    QTextBrowser,
)
QTS_OWN = ("QComboBoxPrivateContainer", "QLineEditIconButton", "QTableCornerButton", "QHeaderView")


def controls(widget):
    """What one can act on in a widget, parts that Qt makes for its own controls excepted."""
    for one in widget.findChildren(QWidget):
        parent = one.parentWidget()
        kinds = {one.metaObject().className(), parent.metaObject().className()}
        if not isinstance(one, CONTROLS) or isinstance(one, QScrollBar) or kinds & {*QTS_OWN}:
            continue
        if isinstance(parent, QComboBox | QAbstractSpinBox | QAbstractItemView):
            continue
        if not type(one).__module__.startswith("pyqtgraph"):
            yield one


def name_of(one):
    text = one.text() if isinstance(one, QAbstractButton) else ""
    return one.accessibleName() or text


@pytest.fixture
def everything(demo_window, settle):
    for name in STOPS:
        demo_window.go_to(name)
        view = stop(demo_window, name)
        for page in [*view.bar.buttons][::-1]:  # every page is built
            view.show_page(page)
    settle(demo_window)
    return demo_window


def is_one_of_a_row(one):
    """Of buttons that choose one of several, Tab reaches the chosen and arrows the others."""
    group = one.group() if isinstance(one, QAbstractButton) else None
    return group is not None and group.exclusive()


def test_every_control_says_what_it_is_and_is_reached_by_key(everything):
    for name in STOPS:
        everything.go_to(name)
        view = stop(everything, name)
        assert view.accessibleName() == name
        assert view.blunt.accessibleDescription() == view.blunt.text() != ""
        silent = [
            f"{type(one).__name__} in {type(one.parentWidget()).__name__}"
            for one in controls(view)
            if not name_of(one).strip()
        ]
        out_of_reach = [
            name_of(one)
            for one in controls(view)
            if one.isVisible()
            and one.isEnabled()
            and not one.focusPolicy() & Qt.FocusPolicy.TabFocus
            and not is_one_of_a_row(one)
        ]
        assert (name, silent, out_of_reach) == (name, [], [])


@pytest.mark.deep
def test_names_do_not_stand_twice_on_one_page(everything):
    """Two fields of one name cannot be told apart by ear."""
    for name in STOPS:
        everything.go_to(name)
        heard = [
            one.accessibleName()
            for one in controls(stop(everything, name))
            if one.isVisible() and isinstance(one, QLineEdit | QComboBox) and one.accessibleName()
        ]
        assert {words for words in heard if heard.count(words) > 1} == set(), name


@pytest.mark.deep
def test_every_shortcut_belongs_to_one_action(everything):
    keys = [
        action.shortcut().toString()
        for action in everything.actions_of.by_name.values()
        if not action.shortcut().isEmpty()
    ]
    assert len(keys) == len(set(keys))
    assert {"Ctrl+K", "Ctrl+E", "Alt+6", "Alt+7"} <= set(keys)


@pytest.mark.deep
def test_focus_goes_round_a_stop_and_comes_back(everything, qtbot):
    everything.go_to("Worth")
    view = stop(everything, "Worth")
    view.show_page("Verdict")
    view.bar.buttons["Verdict"].setFocus()
    seen = []
    for _ in range(60):
        one = everything.focusWidget()
        if one in seen:
            break
        seen.append(one)
        qtbot.keyClick(one, Qt.Key.Key_Tab)
    names = {name_of(one) for one in seen}
    assert {"For whom", "Add an audience", "gain at least, %", "Rig"} <= names
    assert "Sentences of the verdict" in names


def test_what_cannot_act_says_why(window, tmp_path, settle):
    """Every disabled control of an empty logbook, by its own tooltip or that of what it is in."""
    window.desk.create(tmp_path / "new.blunt")
    settle(window)
    silent = []
    for name in STOPS:
        window.go_to(name)
        settle(window)
        view = window.controllers[name].stop
        for page in view.bar.buttons:
            view.show_page(page)
            settle(window)
            for control in view.findChildren((QAbstractButton, QComboBox, QAbstractSpinBox)):
                around = control
                while around is not view and not around.toolTip():
                    around = around.parentWidget()
                corner = type(control) is QAbstractButton  # of a table; it does nothing
                if corner or not control.isVisible() or control.isEnabled():
                    continue
                if around is view:
                    silent.append((name, page, control.accessibleName() or type(control).__name__))
    assert silent == []
    for action in window.actions_of.by_name.values():
        assert action.isEnabled() or action.toolTip() != action.text()


def tab_order(window):
    """What Tab reaches, in its order."""
    found, at = [], window.rail.head.nextInFocusChain()
    while at is not window.rail.head:
        if (
            at.isVisible()
            and at.isEnabled()
            and at.width() > 0
            and at.focusPolicy() & Qt.FocusPolicy.TabFocus
            and at.window() is window
            and not window.rail.isAncestorOf(at)
        ):
            found.append(at)
        at = at.nextInFocusChain()
    return found


def goes_back(window, one, other):
    """Whether the step from one widget to another leads up, or to the left on one line."""
    a = one.rect().translated(one.mapTo(window, QPoint(0, 0)))
    b = other.rect().translated(other.mapTo(window, QPoint(0, 0)))
    up = b.bottom() <= a.top() + 4 and b.left() < a.right() - 4
    to_the_left = b.right() <= a.left() + 4 and a.top() - 4 < b.bottom() <= a.bottom() + 4
    return up or to_the_left


def test_tab_goes_as_one_reads(everything, settle):
    back = []
    for name in STOPS:
        everything.stand_at(name)
        view = stop(everything, name)
        foot = [view.evidence] if name == "Board" else []  # what is scrolled lies under its foot
        for page in view.bar.buttons:
            view.show_page(page)
            settle(everything)
            order = [
                one for one in tab_order(everything) if not any(f.isAncestorOf(one) for f in foot)
            ]
            back += [
                f"{name}, {page}: {name_of(one)} → {name_of(other)}"
                for one, other in pairwise(order)
                if goes_back(everything, one, other)
            ]
    assert back == []


def test_no_cell_of_a_table_and_no_picture_is_silent(everything, settle):
    silent, heard, pictures = set(), 0, 0
    for name in STOPS:
        everything.stand_at(name)
        view = stop(everything, name)
        for page in view.bar.buttons:
            view.show_page(page)
            settle(everything)
            for table in view.findChildren(QTreeView) + view.findChildren(QTableView):
                model = table.model()
                if model is None or not table.isVisible():
                    continue
                for at in range(min(model.rowCount(), 20) * model.columnCount()):
                    index = model.index(*divmod(at, model.columnCount()))
                    words = index.data(Qt.ItemDataRole.AccessibleTextRole) or index.data()
                    heard += 1
                    if words in (None, ""):
                        silent.add(f"{name}, {page}: {table.accessibleName()}, {index.column()}")
            for one in view.findChildren(PictureView):
                if one.isVisible() and one.is_filled:
                    one.repaint()
                    pictures += 1
                    if not one.accessibleDescription():
                        silent.add(f"{name}, {page}: the picture {one.accessibleName()}")
    assert not silent and heard > 1000 and pictures >= 8
