"""Figures in doubt as small pictures with the guess: one key settles each."""

import re
from dataclasses import dataclass

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QKeySequence, QPixmap, QShortcut
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QPushButton, QWidget

from blunt_ruler.core.recordings.quantities import MEANINGS, Quantity, figure_in
from blunt_ruler.core.recordings.series import Held
from blunt_ruler.core.types import ByteArray
from blunt_ruler.ui.kit.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.kit.widgets import label

LARGE = QSize(260, 56)
MISTYPED = re.compile(r"\d[lIOoSZ]|[lIOoSZ]\d")  # "6l" may be 61: it is not taken for 6


@dataclass(frozen=True, slots=True)
class Doubt:
    """A figure to be asked about: of which box, when, what is guessed, and its picture."""

    series: int
    quantity: Quantity
    held: Held
    crop: ByteArray | None


class Doubts(QWidget):
    """Asks about one figure after the other. Enter takes what stands in the field; Esc leaves the
    figure out.

    Signals:
        settled(object, object): a Doubt, and its figure; None where it is left out.
        looked_at(float): show the picture of this moment.
        ended(): nothing is left to ask.
    """

    settled = pyqtSignal(object, object)
    looked_at = pyqtSignal(float)
    ended = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self._waiting: list[Doubt] = []
        self.heading = label("", "heading")
        self.picture = QLabel()
        self.picture.setMinimumHeight(LARGE.height())
        self.picture.setAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        self.why = label("", "quiet")
        self.field = QLineEdit()
        self.field.setAccessibleName("What stands in the picture")
        self.field.setMaximumWidth(80)
        self.field.returnPressed.connect(self.take)
        self.wrong = label("", "error")
        take = QPushButton("Take it")
        take.setToolTip("Enter")
        take.clicked.connect(self.take)
        leave = QPushButton("Leave it out")
        leave.setToolTip("Esc")
        leave.clicked.connect(self.leave)
        leaving = QShortcut(QKeySequence(Qt.Key.Key_Escape), self)
        leaving.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
        leaving.activated.connect(self.leave)
        rest = QPushButton("Leave out the rest")
        rest.clicked.connect(self.leave_rest)
        row: QHBoxLayout = beside(self.field, take, leave, rest, STRETCH, spacing=6)
        stacked(self.heading, self.picture, self.why, row, self.wrong, spacing=5, on=self)
        self.setVisible(False)

    def ask(self, doubts: list[Doubt]) -> None:
        """Ask about some figures, the first at once."""
        self._waiting = list(doubts)
        self._next()

    @property
    def now(self) -> Doubt | None:
        """The figure that is asked about."""
        return self._waiting[0] if self._waiting else None

    def _next(self) -> None:
        one = self.now
        self.setVisible(one is not None)
        if one is None:
            self.ended.emit()
            return
        count = len(self._waiting)
        self.heading.setText(f"IN DOUBT · {count} LEFT")
        self._show_crop(one.crop)
        name = MEANINGS[one.quantity].words
        self.why.setText(f"{name}, at {one.held.from_s:.1f} s: {one.held.doubt}.")
        self.field.setText("" if one.held.value is None else f"{one.held.value:g}")
        self.field.selectAll()
        self.field.setFocus()
        self.wrong.setText("")
        self.looked_at.emit(one.held.from_s)

    def _show_crop(self, crop: ByteArray | None) -> None:
        if crop is None:
            self.picture.setText("Its picture is above")
            return
        h, w = crop.shape[:2]
        image = QImage(crop.tobytes(), w, h, 3 * w, QImage.Format.Format_RGB888)
        pixmap = QPixmap.fromImage(image)
        self.picture.setPixmap(
            pixmap.scaled(
                LARGE,
                Qt.AspectRatioMode.KeepAspectRatio,
                Qt.TransformationMode.SmoothTransformation,
            )
        )

    def take(self) -> None:
        """Take what stands in the field."""
        one = self.now
        if one is None:
            return
        text = self.field.text()
        value = None if MISTYPED.search(text) else figure_in(text, one.quantity)
        if value is None:
            most = MEANINGS[one.quantity].most
            self.wrong.setText(f"“{text[:20]}” is not a figure up to {most:g}.")
            return
        self._settle(value)

    def leave(self) -> None:
        """Leave the figure out."""
        if self.now is not None:
            self._settle(None)

    def leave_rest(self) -> None:
        """Leave out everything that is still to be asked."""
        while self.now is not None:
            self._settle(None)

    def _settle(self, value: float | None) -> None:
        one = self._waiting.pop(0)
        self.settled.emit(one, value)
        self._next()
