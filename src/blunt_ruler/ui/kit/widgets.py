"""Small pieces that views are made of: labels, cards, rows of a name and its figure."""

from collections.abc import Callable, Mapping

from PyQt6.QtCore import QRect, Qt
from PyQt6.QtGui import QFontMetrics, QResizeEvent
from PyQt6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QLayout,
    QMenu,
    QScrollArea,
    QSizePolicy,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from blunt_ruler.core.text import bound
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.explained import explained
from blunt_ruler.ui.kit.tips import plain_tip

Parts = list[QWidget | QLayout | int]
"""Widgets, layouts and gaps in pixels, one below the other."""


class BluntLine(QLabel):
    """The sentence on top of every view: as large as lets it stand on two lines, and as high as it
    needs where none does.
    """

    SIZES = (theme.BLUNT, 18, theme.HEAD)
    HEIGHT = 52

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("blunt")
        self.setAccessibleName("Blunt line")
        self.setWordWrap(True)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(self.HEIGHT)
        self.setAlignment(Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft)

    def say(self, words: str) -> None:
        """Show a sentence."""
        self.setText(bound(words))
        self.setAccessibleDescription(words)
        self.setToolTip(plain_tip(words))
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
        self.setFixedHeight(max(self.HEIGHT, taken + 2))


class _Text(QLabel):
    """A label whose words keep together what belongs together."""

    def __init__(self, words: str) -> None:
        super().__init__(bound(words))

    def setText(self, a0: str | None) -> None:
        super().setText(bound(a0 or ""))


def label(words: str = "", kind: str = "", wrap: bool = True) -> QLabel:
    """A label of one of the style sheet's kinds; its text can be copied."""
    made = _Text(words)
    made.setObjectName(kind)
    made.setWordWrap(wrap)
    made.setTextFormat(Qt.TextFormat.PlainText)
    return made


def give_way(box: QWidget, most: int, least: int = 78) -> None:
    """Let a widget take up to `most` pixels and give way down to `least` in a narrow window."""
    box.setMinimumWidth(least)
    box.setMaximumWidth(most)
    box.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)


class Fold(QToolButton):
    """A heading that folds what stands under it: an arrow down while it is open."""

    def __init__(self, words: str = "", is_open: bool = False) -> None:
        super().__init__()
        self.setObjectName("fold")
        self.setText(words)
        self.setCheckable(True)
        self.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        self.toggled.connect(self._point)
        self.setChecked(is_open)
        self._point(is_open)

    def _point(self, is_open: bool) -> None:
        self.setArrowType(Qt.ArrowType.DownArrow if is_open else Qt.ArrowType.RightArrow)


def allow(widget: QWidget, why_not: str) -> None:
    """Let a control act, or say in its tooltip why it cannot; blank for nothing in the way."""
    says = widget.property("says")
    if says is None:
        says = widget.toolTip()
        widget.setProperty("says", says)
    widget.setEnabled(not why_not)
    widget.setToolTip(plain_tip(why_not) or says)


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


def scroll_column(page: QWidget) -> QVBoxLayout:
    """Make a page scroll where it has too little room; the column that holds what is on it."""
    inner = QWidget()
    column = QVBoxLayout(inner)
    column.setContentsMargins(0, 0, 8, 0)
    around = QVBoxLayout(page)
    around.setContentsMargins(0, 0, 0, 0)
    around.addWidget(scrolling(inner))
    return column


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
        self.setToolTip(plain_tip(words))
        self.setAccessibleName(words)
        self._elide()

    def resizeEvent(self, a0: QResizeEvent | None) -> None:
        super().resizeEvent(a0)
        self._elide()

    def _elide(self) -> None:
        self.setText(
            self.fontMetrics().elidedText(self._whole, Qt.TextElideMode.ElideRight, self.width())
        )


def menu_button(words: str, name: str, choices: Mapping[str, Callable[[], None]]) -> QToolButton:
    """A button with a menu of what can be done, by the words for it."""
    button = QToolButton()
    button.setText(f"{words} ▾")
    button.setAccessibleName(name)
    button.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
    menu = QMenu(button)
    for says, act in choices.items():
        if (action := menu.addAction(says)) is not None:
            action.triggered.connect(lambda _on, act=act: act())
    button.setMenu(menu)
    return button


def figure_row(name: str, value: str, tip: str = "") -> QHBoxLayout:
    """A name on the left, which explains itself, and its figure, bold, on the right."""
    row = QHBoxLayout()
    row.setSpacing(8)
    left = label(name, "quiet", wrap=False)
    left.setToolTip(tip or explained(name))
    right = label(value, "figure", wrap=False)
    right.setStyleSheet("font-weight: 600; font-size: 13px;")
    right.setAlignment(Qt.AlignmentFlag.AlignRight)
    row.addWidget(left)
    row.addWidget(right, 1)
    return row
