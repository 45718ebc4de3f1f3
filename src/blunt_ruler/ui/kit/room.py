"""Dialogs that are larger than the screen are scrolled, so that none of their controls is lost."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject
from PyQt6.QtWidgets import QApplication, QDialog, QVBoxLayout, QWidget

from blunt_ruler.ui.kit.widgets import scrolling

AROUND = 40  # pixels: the frame and title that the desktop puts around a dialog


class RoomForDialogs(QObject):
    """Gives each dialog of an application no more room than there is, as it is shown."""

    def __init__(self, app: QApplication) -> None:
        super().__init__(app)
        app.installEventFilter(self)

    def eventFilter(self, a0: QObject | None, a1: QEvent | None) -> bool:
        """Fit a dialog just before it comes on screen."""
        if a1 is not None and a1.type() == QEvent.Type.Polish and isinstance(a0, QDialog):
            fit(a0)
        return False


def fit(dialog: QDialog) -> None:
    """Let what a dialog holds be scrolled, where it needs more room than the screen has."""
    screen, layout = dialog.screen(), dialog.layout()
    if screen is None or layout is None:
        return
    room, wanted = screen.availableGeometry(), dialog.minimumSizeHint()
    most = room.width() - AROUND, room.height() - AROUND
    if wanted.width() <= most[0] and wanted.height() <= most[1]:
        return
    inner = QWidget()
    inner.setLayout(layout)  # which takes it, and all that it holds, from the dialog
    outer = QVBoxLayout(dialog)
    outer.setContentsMargins(0, 0, 0, 0)
    outer.addWidget(scrolling(inner))
    dialog.setMinimumSize(0, 0)
    bars = 24  # pixels: what scroll bars take of it
    dialog.resize(min(wanted.width() + bars, most[0]), min(wanted.height() + bars, most[1]))
