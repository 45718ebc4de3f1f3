"""Keys that every desktop program has: save, find, print, close, pages, full screen, settings."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication
from reach import stop

from blunt_ruler.ui.desk.settings import Memory
from blunt_ruler.ui.kit.theme import ThemeName

CTRL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def press(demo_window, qtbot, settle):
    def press(key, with_keys=CTRL):
        qtbot.keyClick(QApplication.focusWidget() or demo_window, key, with_keys)
        settle(demo_window)

    demo_window.stand_at("Board")
    settle(demo_window)
    return press


def test_save_says_that_it_is_saved_and_where(press, demo_window):
    press(Qt.Key.Key_S)
    said = demo_window.banner.words.text()
    assert "Saved already" in said
    assert str(demo_window.desk.snapshot.path) in said


def test_find_goes_to_the_filter_of_what_is_looked_at(press, demo_window):
    press(Qt.Key.Key_F)
    board = stop(demo_window, "Board")
    assert board.cells.order_box.words.hasFocus()
    demo_window.stand_at("Runs")
    press(Qt.Key.Key_F)
    assert stop(demo_window, "Runs").page("All runs").filter.hasFocus()


def test_find_searches_the_actions_where_nothing_can_be_searched(press, demo_window):
    demo_window.stand_at("Limits")
    press(Qt.Key.Key_F)
    assert demo_window.palette_list.entry.hasFocus()


def test_pages_turn_both_ways_and_around(press, demo_window):
    board = stop(demo_window, "Board")
    names = list(board.bar.buttons)
    press(Qt.Key.Key_PageDown)
    assert board.current == names[1]
    press(Qt.Key.Key_PageUp)
    press(Qt.Key.Key_PageUp)
    assert board.current == names[-1]


def test_no_key_does_two_things(demo_window):
    keys = [
        key.toString()
        for action in demo_window.actions_of.by_name.values()
        for key in action.shortcuts()
    ]
    assert sorted(keys) == sorted(set(keys))


def test_redo_has_both_its_keys(press, demo_window):
    keys = [one.toString() for one in demo_window.actions_of.by_name["Redo"].shortcuts()]
    assert keys == ["Ctrl+Shift+Z", "Ctrl+Y"]


def test_the_screen_is_filled_and_left(press, demo_window, settle):
    press(Qt.Key.Key_F11, Qt.KeyboardModifier.NoModifier)
    assert demo_window.isFullScreen()
    press(Qt.Key.Key_F11, Qt.KeyboardModifier.NoModifier)
    assert not demo_window.isFullScreen()


def test_print_asks_where_to_put_the_report(press, demo_window):
    press(Qt.Key.Key_P)
    dialog = demo_window.controllers["Write-up"].dialog
    assert [str(one) for one in dialog.formats()] == ["pdf"]
    dialog.reject()


def test_with_no_figures_print_says_why_it_cannot(window, settle, tmp_path, qtbot):
    window.desk.create(tmp_path / "empty.blunt")
    settle(window)
    window.actions_of.by_name["Print…"].trigger()
    settle(window)
    assert "no figures to write up" in window.banner.words.text()


def test_a_closed_logbook_leaves_the_way_in_and_nothing_to_edit(press, demo_window, settle, qtbot):
    path = demo_window.desk.snapshot.path
    press(Qt.Key.Key_W)
    assert demo_window.desk.snapshot is None
    assert demo_window.stack.currentWidget() is demo_window.welcome
    assert not demo_window.actions_of.by_name["Import logs…"].isEnabled()
    assert demo_window.windowTitle() == "Blunt Ruler"
    assert demo_window.rail.head.review == "no logbook open"
    demo_window.desk.open(path)
    settle(demo_window)
    assert demo_window.desk.snapshot.path == path
    assert demo_window.actions_of.by_name["Import logs…"].isEnabled()


def test_an_edit_under_way_is_in_the_file_that_is_closed(press, demo_window, settle):
    desk = demo_window.desk
    path, review = desk.snapshot.path, desk.snapshot.review
    from blunt_ruler.core.records.edits import change_review

    desk.apply(change_review(review, "Rename", name="Told at the last moment"))
    demo_window.close_logbook()
    settle(demo_window)
    assert desk.snapshot is None  # what came back of the edit put nothing on the desk
    desk.open(path)
    settle(demo_window)
    names = [one.name for one in desk.snapshot.contents.reviews.values()]
    assert "Told at the last moment" in names


def test_settings_take_effect_at_once(press, demo_window):
    demo_window.settings.set_columns("runs", [90, 100])
    press(Qt.Key.Key_Comma)
    dialog = demo_window.settings_dialog
    dialog.theme.setCurrentIndex(dialog.theme.findData(ThemeName.CONTRAST))
    dialog.theme.activated.emit(dialog.theme.currentIndex())
    assert demo_window.settings.theme is ThemeName.CONTRAST
    assert demo_window.settings.count(Memory.COLUMNS) == 1
    dialog.forget[Memory.COLUMNS].click()
    assert demo_window.settings.columns("runs") == []
    assert not dialog.forget[Memory.COLUMNS].isEnabled()
    dialog.forget[Memory.RECENT].click()
    assert demo_window.settings.recent == []
    dialog.accept()
    demo_window.pin_theme(ThemeName.PAPER)


@pytest.mark.parametrize(("key", "does"), [(Qt.Key.Key_K, "palette"), (Qt.Key.Key_E, "report")])
def test_keys_that_entries_take_for_themselves_do_what_is_said(press, demo_window, key, does):
    press(Qt.Key.Key_F)
    QApplication.focusWidget().setText("coast")
    press(key)
    if does == "palette":
        assert demo_window.palette_list.isVisible()
    else:
        assert demo_window.controllers["Write-up"].dialog.isVisible()
        demo_window.controllers["Write-up"].dialog.reject()


def test_what_was_under_way_for_a_closed_logbook_is_said(demo_window, settle, logs, qtbot):
    demo_window.taking.import_logs(logs)
    demo_window.close_logbook()
    qtbot.waitUntil(lambda: "were not taken in" in demo_window.banner.words.text(), timeout=60_000)
    from blunt_ruler.core.records.edits import change_review
    from blunt_ruler.core.records.records import Review

    demo_window.desk.apply(change_review(Review(id="r", name="R"), "rename", name="late"))
    qtbot.waitUntil(lambda: "none is open any more" in demo_window.banner.words.text())


def test_closed_and_opened_in_one_breath(demo_window, settle):
    path = demo_window.desk.snapshot.path
    for _ in range(2):
        demo_window.close_logbook()
        demo_window.desk.open(path)
    settle(demo_window)
    assert demo_window.desk.snapshot.path == path
    assert demo_window.actions_of.by_name["Save"].isEnabled()
