"""A tour of nine steps over the demo: what to look at, and why. It can be left at any time."""

import tomllib
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QEvent, QObject, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QFrame, QPushButton, QWidget

from blunt_ruler.files import shipped
from blunt_ruler.ui.kit.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.kit.widgets import label


@dataclass(frozen=True, slots=True)
class Step:
    """Where a step leads, and what it says."""

    stop: str
    page: str
    heading: str
    words: str


def shipped_steps() -> tuple[Step, ...]:
    """The steps that are shipped, in order."""
    text = shipped("resources", "tour.toml").read_text("utf-8")
    return tuple(
        Step(one["stop"], one["page"], one["heading"], " ".join(one["words"].split()))
        for one in tomllib.loads(text)["steps"]
    )


class Tour(QFrame):
    """A card over the window's lower edge.

    Signals:
        step_shown(Step): go where it leads.
    """

    step_shown = pyqtSignal(object)

    def __init__(self, parent: QWidget, steps: Sequence[Step] = ()) -> None:
        super().__init__(parent)
        self.setObjectName("palette")
        self._steps, self.at = tuple(steps) or shipped_steps(), 0
        self.count = label("", "heading", wrap=False)
        self.heading, self.words = label("", "says"), label("")
        self.back, self.next = QPushButton("Back"), QPushButton("Next")
        self.leave = QPushButton("Leave the tour")
        self.next.setObjectName("primary")
        for button, does in (
            (self.back, lambda: self.go(self.at - 1)),
            (self.next, lambda: self.go(self.at + 1)),
            (self.leave, self.hide),
        ):
            button.clicked.connect(_without_state(does))
        stacked(
            self.count,
            self.heading,
            self.words,
            beside(self.leave, STRETCH, self.back, self.next),
            spacing=6,
            margins=(16, 12, 16, 12),
            on=self,
        )
        parent.installEventFilter(self)
        self.hide()

    def begin(self) -> None:
        """Begin at the first step."""
        self.show()
        self.go(0)
        self.next.setFocus()

    def go(self, at: int) -> None:
        """Go to a step; beyond the last the tour is over."""
        if not 0 <= at < len(self._steps):
            self.hide()
            return
        self.at = at
        step = self._steps[at]
        self.count.setText(f"TOUR, {at + 1} OF {len(self._steps)}")
        self.heading.setText(step.heading)
        self.words.setText(step.words)
        self.back.setEnabled(at > 0)
        self.back.setToolTip("" if at else "This is the first step")
        self.next.setText("Next" if at + 1 < len(self._steps) else "Done")
        self.step_shown.emit(step)
        self._place()
        self.raise_()

    def _place(self) -> None:
        parent = self.parentWidget()
        assert parent is not None
        self.setFixedWidth(min(470, parent.width() - 80))
        self.adjustSize()
        self.move(parent.width() - self.width() - 24, parent.height() - self.height() - 24)

    def eventFilter(self, a0: QObject | None, a1: QEvent | None) -> bool:
        if a1 is not None and a1.type() is QEvent.Type.Resize and self.isVisible():
            self._place()
        return super().eventFilter(a0, a1)

    def keyPressEvent(self, a0: QKeyEvent | None) -> None:
        if a0 is not None and a0.key() == Qt.Key.Key_Escape:
            self.hide()
        else:
            super().keyPressEvent(a0)


def _without_state(does: Callable[[], None]) -> Callable[[bool], None]:
    return lambda _checked: does()
