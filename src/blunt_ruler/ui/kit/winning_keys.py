"""Keys of the window that win over an entry that is typed into.

Under X11 entries take Ctrl+E for the end of the line and Ctrl+K to delete to it; both are named
beside actions of the window, and are to do what is said there.
"""

from typing import cast

from PyQt6.QtCore import QEvent, QKeyCombination, QObject, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QApplication, QLineEdit, QPlainTextEdit, QTextEdit, QWidget

ENTRIES = (QLineEdit, QPlainTextEdit, QTextEdit)
CTRL = Qt.KeyboardModifier.ControlModifier
WINNING = (QKeyCombination(CTRL, Qt.Key.Key_E), QKeyCombination(CTRL, Qt.Key.Key_K))


class WinningKeys(QObject):
    """Watches the entry that has the focus, and no other widget."""

    def __init__(self, app: QApplication) -> None:
        super().__init__(app)
        app.focusChanged.connect(self._on_focus)

    def _on_focus(self, before: QWidget | None, now: QWidget | None) -> None:
        if isinstance(before, ENTRIES):
            before.removeEventFilter(self)
        if isinstance(now, ENTRIES):
            now.installEventFilter(self)

    def eventFilter(self, a0: QObject | None, a1: QEvent | None) -> bool:
        """An entry does not hear that it might take such a key for itself."""
        wins = (
            a1 is not None
            and a1.type() == QEvent.Type.ShortcutOverride
            and cast(QKeyEvent, a1).keyCombination() in WINNING
        )
        if wins and a1 is not None:
            a1.ignore()
        return wins
