"""The entry that opens over a cell or a head of a grid one types into, with its hint."""

from collections.abc import Callable, Sequence
from enum import Enum

from PyQt6.QtCore import QEvent, QPoint, QRect, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent
from PyQt6.QtWidgets import QLabel, QLineEdit, QListWidget, QWidget

from blunt_ruler.core.errors import UserFixable

LONGEST = 4000
HINT_WIDTH = 320
MOST_LISTED = 7
KEYS_SAY = "Enter: down · Tab: right · Esc: as it was"
LIST_SAYS = "Down: choose one of these"


class Way(Enum):
    """Where to go when an entry is done."""

    DOWN = "down"
    RIGHT = "right"
    LEFT = "left"
    UP = "up"
    STAY = "stay"


Understand = Callable[[str], str]
"""What an entry says, for the hint; UserFixable where it cannot be understood."""
Complete = Callable[[str], Sequence[str]]
"""Whole entries that may be meant."""

ENTERS = (Qt.Key.Key_Return, Qt.Key.Key_Enter)
WAYS = {
    **dict.fromkeys(ENTERS, Way.DOWN),
    Qt.Key.Key_Tab: Way.RIGHT,
    Qt.Key.Key_Backtab: Way.LEFT,
    Qt.Key.Key_Down: Way.DOWN,
    Qt.Key.Key_Up: Way.UP,
}


class GridEditor(QLineEdit):
    """One entry; it says what it understands while it is typed, and lists what may be meant.

    Signals:
        left(str, Way): it is done, with its text; it is gone then.
        given_up(): Escape: what stood there stays.
    """

    left = pyqtSignal(str, object)
    given_up = pyqtSignal()

    def __init__(
        self,
        parent: QWidget,
        place: QRect,
        name: str,
        text: str,
        understand: Understand,
        complete: Complete = lambda _typed: (),
        keys_say: str = KEYS_SAY,
    ) -> None:
        super().__init__(text, parent)
        self._keys_say = keys_say
        self._understand, self._complete = understand, complete
        self._open = True
        self.setAccessibleName(name)
        self.setObjectName("entry")
        self.setMaxLength(LONGEST)
        self.setGeometry(place)
        self.hint = QLabel(parent.window())
        self.hint.setObjectName("hint")
        self.hint.setWordWrap(True)
        self.hint.setTextFormat(Qt.TextFormat.PlainText)
        self.list = QListWidget(parent.window())
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.setAccessibleName("What may be meant")
        self.list.itemPressed.connect(lambda item: self._take(item.text()))
        self.list.hide()
        self.textEdited.connect(lambda _text: self._tell())
        self.show()
        self.setFocus()
        self._tell()

    # Saying

    def _tell(self) -> None:
        """Say under the entry what is understood, and what may be meant."""
        try:
            said, wrong = self._understand(self.text()), False
        except UserFixable as error:
            said, wrong = f"{error.where}: {error.what}. {error.fix}.", True
        if self.property("wrong") != wrong:
            self.setProperty("wrong", wrong)
            style = self.style()
            if style is not None:
                style.polish(self)
        self.list.clear()
        self.list.addItems(list(self._complete(self.text()))[:MOST_LISTED])
        keys = f"{LIST_SAYS} · {self._keys_say}" if self.list.count() else self._keys_say
        self.hint.setText(f"{said}\n{keys}" if said else keys)
        self.setAccessibleDescription(said)
        self._place_beside()

    def _place_beside(self) -> None:
        window = self.window()
        if window is None:
            return
        width = max(self.width(), HINT_WIDTH)
        at = self.mapTo(window, QPoint(0, self.height() + 2))
        left = max(min(at.x(), window.width() - width - 4), 4)
        self.hint.setFixedWidth(width)
        self.hint.adjustSize()
        height = self.list.count() * max(self.list.sizeHintForRow(0), 20) + 4
        listed = height if self.list.count() else 0
        top = at.y()
        if top + self.hint.height() + listed > window.height() - 4:
            top = self.mapTo(window, QPoint(0, 0)).y() - self.hint.height() - listed - 4
        self.hint.move(left, top)
        self.hint.show()
        self.hint.raise_()
        self.list.setGeometry(left, top + self.hint.height(), width, height)
        self.list.setVisible(bool(listed))
        self.list.raise_()

    # Keys

    def event(self, a0: QEvent | None) -> bool:
        """Tab is ours: it goes right, not to the next control."""
        tabs = (Qt.Key.Key_Tab, Qt.Key.Key_Backtab)
        if isinstance(a0, QKeyEvent) and a0.key() in tabs and a0.type() == QEvent.Type.KeyPress:
            self.keyPressEvent(a0)
            return True
        return super().event(a0)

    def keyPressEvent(self, a0: QKeyEvent | None) -> None:
        if a0 is None:
            return
        key = Qt.Key(a0.key())
        row = self.list.currentRow()
        if key == Qt.Key.Key_Escape:
            self.done()
            self.given_up.emit()
        elif key in (Qt.Key.Key_Down, Qt.Key.Key_Up) and self.list.isVisible():
            step = 1 if key == Qt.Key.Key_Down else -1
            self.list.setCurrentRow(min(max(row + step, -1), self.list.count() - 1))
        elif key in WAYS:
            chosen = self.list.currentItem() if row >= 0 else None
            if chosen is not None:
                self._take(chosen.text())
            if chosen is None or key not in ENTERS:
                self.finish(WAYS[key])
        else:
            super().keyPressEvent(a0)

    def _take(self, text: str) -> None:
        """Put in what was chosen; it can still be changed."""
        self.setText(text)
        self._tell()
        self.setFocus()

    def focusOutEvent(self, a0: QFocusEvent | None) -> None:
        super().focusOutEvent(a0)
        away = (Qt.FocusReason.PopupFocusReason, Qt.FocusReason.ActiveWindowFocusReason)
        if a0 is not None and a0.reason() not in away:
            self.finish(Way.STAY)

    def finish(self, way: Way) -> None:
        """Hand over what was typed and go."""
        if self._open:
            text = self.text()
            self.done()
            self.left.emit(text, way)

    def done(self) -> None:
        """Take the entry away."""
        self._open = False
        for widget in (self.hint, self.list, self):
            widget.hide()
            widget.deleteLater()
