"""Hands that know nothing: random keys and clicks on a window, with what they found as JSON.

Run as a script: hands.py LOGBOOK SEED ACTIONS. In a process of its own, for an abort must count.
"""

import json
import os
import random
import sys
import time
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QEvent, QObject, QPoint, QRect, Qt, QTimer
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QApplication,
    QComboBox,
    QDialog,
    QFileDialog,
    QLineEdit,
    QMenu,
    QMessageBox,
    QWidget,
)

from blunt_ruler.ui.desk.settings import Settings
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.faults import Faults
from blunt_ruler.ui.shell import loop_watch
from blunt_ruler.ui.shell.app import SpareSearches, bring_in_ahead, make_app
from blunt_ruler.ui.shell.window import MainWindow
from blunt_ruler.ui.writeup.read_along import ReadAlong

Key, NONE = Qt.Key, Qt.KeyboardModifier.NoModifier
CTRL, ALT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier
SHIFT = Qt.KeyboardModifier.ShiftModifier
WORDS = (
    "69.5/57",
    "~60",
    "200+",
    "x",
    "Cable 2",
    "4.0 x4",
    "40 Gb/s",
    "Tidewrack / 1080p",
    "é",
    "-3",
)
KEYS = (
    *((key, NONE) for key in (Key.Key_Return, Key.Key_Tab, Key.Key_Escape, Key.Key_Delete)),
    *((key, NONE) for key in (Key.Key_Down, Key.Key_Up, Key.Key_Left, Key.Key_Right, Key.Key_F2)),
    *((key, NONE) for key in (Key.Key_Space, Key.Key_Home, Key.Key_End, Key.Key_F4, Key.Key_X)),
    *((key, CTRL) for key in (Key.Key_Z, Key.Key_D, Key.Key_K, Key.Key_1, Key.Key_2, Key.Key_3)),
    (Key.Key_Z, CTRL | SHIFT), (Key.Key_B, CTRL | SHIFT), (Key.Key_R, CTRL | SHIFT),
    (Key.Key_Backtab, SHIFT), (Key.Key_F, CTRL), (Key.Key_S, CTRL), (Key.Key_Comma, CTRL),
    (Key.Key_PageDown, CTRL), (Key.Key_PageUp, CTRL),
    *((getattr(Key, f"Key_{n}"), ALT) for n in range(1, 8)),
)  # fmt: skip
FIRST_VISITS = 60  # actions


class Windows(QObject):
    """Every window that is shown beside the first, but menus, tips and dialogs."""

    def __init__(self, window):
        super().__init__()
        self.window, self.strays = window, []

    def eventFilter(self, watched, event):
        if (
            event is not None and event.type() == QEvent.Type.Show
            and isinstance(watched, QWidget) and watched.isWindow()
            and watched is not self.window and not isinstance(watched, QDialog | QMenu | ReadAlong)
            and watched.windowType() not in (Qt.WindowType.ToolTip, Qt.WindowType.Popup)
        ):  # fmt: skip
            self.strays.append(repr(watched))
        return False


class Hands:
    def __init__(self, window, rng):
        self.window, self.rng, self.did, self.number = window, rng, "", 0

    def act(self):
        self.number += 1
        self.leave_dialogs()
        how = self.rng.random()
        if how < 0.25:
            self.key(*self.rng.choice(KEYS))
        elif how < 0.45:
            word = self.rng.choice(WORDS)
            self.did = f"type {word!r}"
            for letter in word:
                if letter.isascii():
                    QTest.keyClicks(QApplication.focusWidget() or self.window, letter)
                QApplication.processEvents()
            self.key(*self.rng.choice(KEYS[:2]))
        elif how < 0.6:
            self.page()
        elif how < 0.97:
            self.click()
        else:
            size = self.rng.choice([(1024, 700), (1280, 800), (1920, 1080)])
            self.did = f"resize {size}"
            self.window.resize(*size)

    def key(self, key, modifier):
        self.did = f"key {key.name} {modifier.name}"
        QTest.keyClick(QApplication.focusWidget() or self.window, key, modifier)

    def page(self):
        controllers = self.window.controllers
        name = self.rng.choice(list(controllers))
        self.did = f"go to {name}"
        self.window.go_to(name)
        QApplication.processEvents()
        if self.window.desk.snapshot is not None:
            stop = controllers[name].stop
            page = self.rng.choice(list(stop._factories))
            self.did = f"{name}, {page}"
            stop.show_page(page)

    def click(self):
        kinds = (QAbstractButton, QAbstractItemView, QComboBox, QLineEdit)
        seen = [
            one
            for kind in kinds
            for one in self.window.findChildren(kind)
            if one.isVisible() and one.isEnabled() and one.width() > 4 and one.height() > 4
        ]
        if not seen:
            return
        target = self.rng.choice(seen)
        self.did = f"click {type(target).__name__} {target.accessibleName() or target.objectName()}"
        if isinstance(target, QAbstractItemView):
            target = target.viewport()
        room = target.rect().intersected(QRect(0, 0, target.width(), target.height()))
        at = QPoint(self.rng.randrange(room.width()), self.rng.randrange(room.height()))
        QTest.mouseClick(target, Qt.MouseButton.LeftButton, NONE, at)

    def close_popups(self):
        popup = QApplication.activePopupWidget()
        if popup is not None:
            popup.close()

    def leave_dialogs(self):
        self.close_popups()
        for dialog in self.window.findChildren(QDialog):
            if dialog.isVisible() and self.rng.random() < 0.5:
                dialog.reject()


def main(path, seed, actions):
    rng = random.Random(seed)
    gaps = []
    hands = Hands(None, rng)

    def late(seconds, where):
        gaps.append((hands.number, round(seconds, 3), hands.did, where))

    app = make_app([], lambda words: loop_watch.WatchedApplication(words, late))
    theme.apply_theme(app, theme.PAPER)
    QFileDialog.getSaveFileName = QFileDialog.getOpenFileName = lambda *_a, **_n: ("", "")
    QFileDialog.getOpenFileNames = lambda *_a, **_n: ([], "")
    QFileDialog.getExistingDirectory = lambda *_a, **_n: ""
    QMessageBox.exec = lambda *_a: 0
    QMenu.exec = lambda *_a: None
    MainWindow._look_back = lambda _window: None
    sys.setswitchinterval(0.0005)
    window = MainWindow(Settings())
    faults = Faults(window)
    told, windows = [], Windows(window)
    faults.raised.connect(lambda error: told.append(f"{hands.did}: {error!r}"))
    faults.install()
    app.installEventFilter(windows)
    window.resize(1280, 800)
    window.show()
    spare = SpareSearches(window)
    ready = []
    bring_in_ahead(window, lambda: (spare.begin(), ready.append(True)))

    def turn(most_s=0.05):
        until = time.monotonic() + most_s
        while time.monotonic() < until:
            app.processEvents()
            time.sleep(0.001)

    def settle(most_s=120.0):
        until = time.monotonic() + most_s
        while time.monotonic() < until:
            app.processEvents()
            snapshot = window.desk.snapshot
            if ready and snapshot is not None and snapshot.analysis.settled:
                return
            time.sleep(0.002)

    hands.window = window
    closer = QTimer()  # a menu under a button waits in a loop of its own
    closer.timeout.connect(hands.close_popups)
    closer.start(50)
    before_mb = rss_mb()
    if path:
        window.desk.open(Path(path))
    else:
        window.type_first()
    settle()
    turn(0.5)
    gaps.clear()
    for _ in range(actions):
        hands.act()
        turn(0.02 if rng.random() < 0.8 else 0.2)
    settle()
    turn(1.0)
    held_mb = rss_mb()
    desk = window.desk
    desk.close()
    for controller in window.controllers.values():
        controller.close()
    print(json.dumps({
        "faults": told, "strays": windows.strays, "gaps": gaps,
        "mb": [before_mb, held_mb],
    }))  # fmt: skip
    sys.stdout.flush()
    os._exit(0)


def rss_mb():
    import psutil

    return round(psutil.Process().memory_info().rss / 2**20)


if __name__ == "__main__":
    main(sys.argv[1], int(sys.argv[2]), int(sys.argv[3]))
