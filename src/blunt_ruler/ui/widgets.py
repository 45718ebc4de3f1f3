"""Pieces that every stop is made of: the blunt line, the evidence column, small labels."""

from collections.abc import Iterable, Sequence

from PyQt6.QtCore import QRect, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetrics, QResizeEvent
from PyQt6.QtWidgets import (
    QButtonGroup,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLayout,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from blunt_ruler.ui import theme
from blunt_ruler.ui.desk import Snapshot

EVIDENCE_WIDTH = 262
PAGE_BUTTON_ROOM = 24  # the chosen one is bold: room for its words, padding and edge


def label(words: str = "", kind: str = "", wrap: bool = True) -> QLabel:
    """A label of one of the style sheet's kinds; its text can be copied."""
    made = QLabel(words)
    made.setObjectName(kind)
    made.setWordWrap(wrap)
    made.setTextFormat(Qt.TextFormat.PlainText)
    return made


def give_way(box: QWidget, most: int, least: int = 78) -> None:
    """Let a widget take up to `most` pixels and give way down to `least` in a narrow window."""
    box.setMinimumWidth(least)
    box.setMaximumWidth(most)
    box.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)


def empty(layout: QLayout) -> None:
    """Take everything out of a layout."""
    while (item := layout.takeAt(0)) is not None:
        if (widget := item.widget()) is not None:
            # Deletion waits for the event loop; the eye should not. Hidden first, or it would
            # become a window of its own for a moment and take the focus.
            widget.hide()
            widget.setParent(None)
            widget.deleteLater()
        elif (inner := item.layout()) is not None:
            empty(inner)


def card(*parts: QWidget | QLayout, stretch: bool = False) -> QFrame:
    """Widgets and layouts on a card, one below the other; with `stretch` from its top."""
    frame = QFrame()
    frame.setObjectName("card")
    inside = QVBoxLayout(frame)
    inside.setContentsMargins(12, 9, 12, 10)
    for part in parts:
        if isinstance(part, QLayout):
            inside.addLayout(part)
        else:
            inside.addWidget(part)
    if stretch:
        inside.addStretch(1)
    return frame


def scrolling(widget: QWidget) -> QScrollArea:
    """A widget that scrolls where it has too little room."""
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setWidget(widget)
    return area


class ElidedLabel(QLabel):
    """One line that ends in an ellipsis where it does not fit; the whole is in the tooltip."""

    def __init__(
        self, kind: str = "", align: Qt.AlignmentFlag = Qt.AlignmentFlag.AlignLeft
    ) -> None:
        super().__init__()
        self.setObjectName(kind)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setAlignment(align | Qt.AlignmentFlag.AlignVCenter)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self.setMinimumWidth(20)
        self._whole = ""

    def show_words(self, words: str) -> None:
        """Show some words."""
        self._whole = words
        self.setToolTip(words)
        self.setAccessibleName(words)
        self._elide()

    def resizeEvent(self, a0: QResizeEvent | None) -> None:
        super().resizeEvent(a0)
        self._elide()

    def _elide(self) -> None:
        self.setText(
            self.fontMetrics().elidedText(self._whole, Qt.TextElideMode.ElideRight, self.width())
        )


class BluntLine(QLabel):
    """The sentence on top of every view: as large as lets it stand on two lines."""

    SIZES = (theme.BLUNT, 18, theme.HEAD)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("blunt")
        self.setAccessibleName("Blunt line")
        self.setWordWrap(True)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(52)
        self.setAlignment(Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft)

    def say(self, words: str) -> None:
        """Show a sentence."""
        self.setText(words)
        self.setAccessibleDescription(words)
        self.setToolTip(words)
        self._fit()

    def resizeEvent(self, a0: QResizeEvent | None) -> None:
        super().resizeEvent(a0)
        self._fit()

    def _fit(self) -> None:
        for pixels in self.SIZES:
            metrics = QFontMetrics(theme.font(pixels, theme.SEMIBOLD))
            room = QRect(0, 0, max(self.width(), 50), 1000)
            taken = metrics.boundingRect(room, Qt.TextFlag.TextWordWrap, self.text()).height()
            if taken <= 2.1 * metrics.lineSpacing():
                break
        self.setStyleSheet(f"font-size: {pixels}px;")


class Evidence(QFrame):
    """The right column: the sentence, what supports it, and what would settle it."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setObjectName("evidence")
        self.setFixedWidth(EVIDENCE_WIDTH)
        self.setAccessibleName(name)
        inner = QWidget()
        self.column = QVBoxLayout(inner)
        self.column.setContentsMargins(16, 15, 16, 16)
        self.column.setSpacing(6)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setWidget(inner)
        around = QVBoxLayout(self)
        around.setContentsMargins(0, 0, 0, 0)
        around.addWidget(scroll)

    def show_parts(self, parts: Iterable[QWidget | QLayout | int]) -> None:
        """Show widgets, layouts and gaps (in pixels) from the top."""
        empty(self.column)
        for part in parts:
            if isinstance(part, int):
                self.column.addSpacing(part)
            elif isinstance(part, QLayout):
                self.column.addLayout(part)
            else:
                self.column.addWidget(part)
        self.column.addStretch(1)


def figure_row(name: str, value: str) -> QHBoxLayout:
    """A name on the left and its figure, bold, on the right."""
    row = QHBoxLayout()
    row.setSpacing(8)
    left = label(name, "quiet", wrap=False)
    right = label(value, "figure", wrap=False)
    right.setStyleSheet("font-weight: 600; font-size: 13px;")
    right.setAlignment(Qt.AlignmentFlag.AlignRight)
    row.addWidget(left)
    row.addWidget(right, 1)
    return row


class PageBar(QWidget):
    """Buttons that choose among the pages of a stop, and room for more on the right.

    Signals:
        page_chosen(int): the index of the chosen page.
    """

    page_chosen = pyqtSignal(int)

    def __init__(self, names: Sequence[str]) -> None:
        super().__init__()
        self.names = tuple(names)
        self.row = QHBoxLayout(self)
        self.row.setContentsMargins(0, 0, 0, 0)
        self.row.setSpacing(6)
        group = QButtonGroup(self)
        self.buttons: dict[str, QPushButton] = {}
        for index, name in enumerate(names):
            button = QPushButton(name)
            button.setCheckable(True)
            button.setChecked(index == 0)
            button.setStyleSheet("padding-left: 9px; padding-right: 9px;")
            bold = QFontMetrics(theme.font(theme.BODY, theme.SEMIBOLD))
            button.setMinimumWidth(bold.horizontalAdvance(name) + PAGE_BUTTON_ROOM)
            button.clicked.connect(lambda _on, index=index: self.page_chosen.emit(index))
            group.addButton(button)
            self.buttons[name] = button
            self.row.addWidget(button)
        self.row.addStretch(1)

    def show_page(self, name: str) -> None:
        """Choose a page by its name."""
        self.buttons[name].setChecked(True)
        self.page_chosen.emit(self.names.index(name))


class Stop(QWidget):
    """One view: its blunt line on top, its body below, its evidence to the right.

    A subclass fills `body` and, where it has any, `evidence`, and implements `show_spread`.
    """

    def __init__(self, name: str, evidence: bool = True) -> None:
        super().__init__()
        self.setObjectName("view")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAccessibleName(name)
        self.blunt = BluntLine()
        self.body = QVBoxLayout()
        self.body.setSpacing(10)
        left = QVBoxLayout()
        left.setContentsMargins(18, 13, 16, 14)
        left.setSpacing(8)
        left.addWidget(self.blunt, 0, Qt.AlignmentFlag.AlignTop)
        left.addLayout(self.body, 1)
        around = QHBoxLayout(self)
        around.setContentsMargins(0, 0, 0, 0)
        around.setSpacing(0)
        around.addLayout(left, 1)
        self.evidence: Evidence | None = None
        if evidence:
            self.evidence = Evidence(f"Evidence for {name}")
            around.addWidget(self.evidence)

    def say(self, line: str) -> None:
        """Show the blunt line."""
        self.blunt.say(line)

    def show_spread(self, spread: Snapshot | None) -> None:
        """Take in what lies on the desk; None before any logbook is open."""
        raise NotImplementedError
