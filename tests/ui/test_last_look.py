"""What was on screen at the last close is shown until the logbook is read, if it is true."""

import os

import pytest
from PyQt6.QtWidgets import QLabel

from blunt_ruler.ui.desk.settings import Settings, last_look_path
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.shell import last_look
from blunt_ruler.ui.shell.window import MainWindow

pytestmark = pytest.mark.usefixtures("looks_back")


@pytest.fixture
def closed(demo_window, monkeypatch, tmp_path, settle):
    """The path of a logbook whose window was closed when all of it was worked out."""
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    path = demo_window.desk.snapshot.path
    demo_window.close()
    return path


@pytest.fixture
def again(dressed, closed, qtbot):
    """The next window, before it has read anything."""
    window = MainWindow(Settings())
    window.show()
    yield window
    window.close()


def picture(window):
    return next(
        (one for one in window.findChildren(QLabel) if "As you left it" in one.text()), None
    )


def test_the_next_start_shows_it_until_the_logbook_is_read(again, closed, settle):
    assert oct(last_look_path().stat().st_mode & 0o777) == "0o600", "it is nobody else's to look at"
    again.show_last_look(closed)
    shown = picture(again)
    assert shown.isVisible()
    assert closed.name in shown.text()
    assert shown.parent().size() == again.centralWidget().size()
    again.desk.open(closed)
    settle(again)
    assert picture(again) is None


def test_it_is_not_shown_of_a_file_that_was_touched(again, closed):
    os.utime(closed, (1, 1))
    again.show_last_look(closed)
    assert picture(again) is None


def test_it_is_not_shown_in_another_size_or_theme(again, closed, dressed):
    again.resize(1400, 900)
    again.show_last_look(closed)
    assert picture(again) is None
    again.resize(1280, 800)
    theme.apply_theme(dressed, theme.SLATE)
    again.show_last_look(closed)
    theme.apply_theme(dressed, theme.PAPER)
    assert picture(again) is None


def test_it_goes_when_the_window_changes_its_size_or_the_file_is_refused(again, closed, qtbot):
    again.show_last_look(closed)
    shown = picture(again).parent()
    again.resize(1300, 820)
    qtbot.waitUntil(lambda: not shown.isVisible())
    again.resize(1280, 800)
    again.show_last_look(closed)
    again.desk.error_raised.emit(ValueError("no"))
    qtbot.waitUntil(lambda: picture(again) is None)


def test_nothing_is_kept_of_an_empty_window_or_a_lost_picture(again, closed):
    last_look_path().write_bytes(b"no picture")
    again.show_last_look(closed)
    assert picture(again) is None
    last_look.forget(again.settings)
    assert again.settings.last_look == ""
