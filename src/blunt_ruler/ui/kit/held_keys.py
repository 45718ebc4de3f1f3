"""Keys that are pressed while what they are meant for is still on its way."""

from PyQt6.QtCore import QEvent, QObject
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QApplication, QWidget

PRESSES = (QEvent.Type.KeyPress, QEvent.Type.ShortcutOverride)


class HeldKeys(QObject):
    """Keeps the keys of the whole application back until it is let go, then gives them in order
    to whatever has the focus by then.
    """

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._held: list[QKeyEvent] = []

    def hold(self) -> None:
        """From now on keys wait."""
        app = QApplication.instance()
        if app is not None:
            app.installEventFilter(self)

    def let_go(self, *, give: bool) -> None:
        """Give the keys that wait to what has the focus, one after the other, or forget them."""
        app = QApplication.instance()
        if app is not None:
            app.removeEventFilter(self)
        held, self._held = self._held, []
        for event in held if give else ():
            target = QApplication.focusWidget()
            if target is not None:
                QApplication.sendEvent(target, event)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if not isinstance(event, QKeyEvent) or event.type() not in PRESSES:
            return False
        if not isinstance(watched, QWidget):
            return False  # it comes again, to the widget in the window
        copy = event.clone()
        if event.type() == QEvent.Type.KeyPress and copy is not None:
            self._held.append(copy)
        event.accept()
        return True
