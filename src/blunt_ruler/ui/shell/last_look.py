"""What was on screen at the last close, shown at the next start until the logbook is read.

A picture, and it says so. It is shown only of a file that nobody has touched since, in a window of
the same size and theme: then what it shows is what will stand there in a moment.
"""

from pathlib import Path

from PyQt6.QtCore import QEvent, QObject, QSize, Qt
from PyQt6.QtGui import QPixmap
from PyQt6.QtWidgets import QLabel, QWidget

from blunt_ruler.files import make_private
from blunt_ruler.ui.desk.settings import Settings, last_look_path
from blunt_ruler.ui.kit import theme


def keep(settings: Settings, pixmap: QPixmap, path: Path) -> None:
    """Remember a picture of a logbook that has just been closed."""
    target = last_look_path()
    make_private(target.parent)
    if pixmap.save(str(target), "PNG", 80):
        target.chmod(0o600)
        settings.last_look = _mark(path, pixmap.size(), pixmap.devicePixelRatio())


def forget(settings: Settings) -> None:
    """No picture: what was on screen was not whole."""
    settings.last_look = ""


def show(settings: Settings, over: QWidget, path: Path) -> QWidget | None:
    """Lay the picture of a logbook over a widget; None where there is none that is true.

    Whoever asks takes it away again.
    """
    dots = over.devicePixelRatioF()
    size = (over.size().toSizeF() * dots).toSize()
    if settings.last_look != _mark(path, size, dots):
        return None
    pixmap = QPixmap(str(last_look_path()))
    if pixmap.size() != size:
        return None
    pixmap.setDevicePixelRatio(dots)
    shown = _Picture(over, pixmap, f"As you left it. Reading {path.name} …")
    shown.show()
    return shown


def _mark(path: Path, size: QSize, dots: float) -> str:
    """What must be the same for the picture to be true; blank where the file is not there."""
    try:
        found = path.stat()
    except OSError:
        return ""
    whole = (path.resolve(), found.st_mtime_ns, found.st_size, size.width(), size.height(), dots)
    return " ".join(str(one) for one in (*whole, theme.current().paper))


class _Picture(QLabel):
    """A picture over a widget, with what it is below it; nothing in it can be clicked."""

    def __init__(self, over: QWidget, pixmap: QPixmap, words: str) -> None:
        super().__init__(over)
        self.setPixmap(pixmap)
        self.setAccessibleName(words)
        self.setCursor(Qt.CursorShape.BusyCursor)
        self.setGeometry(over.rect())
        self.words = QLabel(words, self)
        self.words.setTextFormat(Qt.TextFormat.PlainText)
        self.words.setObjectName("lastlook")
        self.words.adjustSize()
        self.words.move(self.width() - self.words.width() - 16, self.height() - 44)

        over.installEventFilter(self)

    def eventFilter(self, a0: QObject | None, a1: QEvent | None) -> bool:
        """A window that changes its size shows nothing old."""
        if a1 is not None and a1.type() == QEvent.Type.Resize:
            self.hide()
        return super().eventFilter(a0, a1)
