"""The rail: a painted ruler down the left edge whose stops follow the order of the work."""

from collections.abc import Mapping

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QAbstractButton, QButtonGroup, QWidget

from blunt_ruler.core.analysis.rail_states import STOPS, StopState
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.focus_ring import has_ring
from blunt_ruler.ui.kit.layouts import stacked
from blunt_ruler.ui.kit.painting import painted
from blunt_ruler.ui.kit.tips import plain_tip

WIDTH, NARROW = 196, 56  # pixels; narrow, a stop is its number and its name upright
MARKS_PER_STOP = 10


class StopButton(QAbstractButton):
    """One stop: its name and its state; the current one is a paper tab with a blunt point."""

    def __init__(self, name: str, number: int) -> None:
        super().__init__()
        self.name = name
        self.number = number
        self.state = StopState("", 0.0)
        self.narrow = False
        self.setCheckable(True)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setMinimumHeight(52)
        self._tell()

    def _tell(self) -> None:
        words = self.state.words
        self.setAccessibleName(f"{self.name}, {words}" if words else self.name)
        says = f": {words}" if words else ""
        self.setToolTip(plain_tip(f"{self.name} (Alt+{self.number}){says}"))

    def show_state(self, state: StopState) -> None:
        """Take a new state in."""
        self.state = state
        self._tell()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(NARROW if self.narrow else WIDTH, 84)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        colours = theme.current()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle = self.height() / 2
        half = min(middle - 2, 42.0) if self.narrow else 26.0
        tab = QRectF(0, middle - half, (NARROW - 10) if self.narrow else (WIDTH - 20), 2 * half)
        name_colour, state_colour = QColor(colours.rail_ink), QColor(colours.rail_steel)
        point_by = 6 if self.narrow else 13
        if self.isChecked():
            point = QPolygonF(
                [
                    tab.topLeft(),
                    QPointF(tab.right() - point_by, tab.top()),
                    QPointF(tab.right(), middle),
                    QPointF(tab.right() - point_by, tab.bottom()),
                    tab.bottomLeft(),
                ]
            )
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(colours.paper))
            painter.drawPolygon(point)
            name_colour, state_colour = QColor(colours.ink), QColor(colours.steel)
        if has_ring(self):
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(QColor(colours.brass), 2))
            painter.drawRect(tab.adjusted(5, 4, -18 if not self.narrow else -8, -4))
        painter.setPen(name_colour)
        if self.narrow:
            self._paint_upright(painter, middle, half)
            return
        painter.setFont(theme.font(theme.HEAD, theme.SEMIBOLD))
        text = QRectF(18, middle - 21, WIDTH - 66, 22)
        left = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(text, left, self.name)
        painter.setPen(state_colour)
        small = theme.font(theme.SMALL)
        painter.setFont(small)
        words = painter.fontMetrics().elidedText(
            self.state.words, Qt.TextElideMode.ElideRight, WIDTH - 58
        )
        painter.drawText(
            QRectF(18, middle + 2, WIDTH - 58, 18),
            left,
            words,
        )

    def _paint_upright(self, painter: QPainter, middle: float, half: float) -> None:
        """The name from bottom to top; its number stands on the rule."""
        painter.setFont(theme.font(theme.BODY, theme.SEMIBOLD))
        painter.translate(NARROW / 2 - 10, middle)
        painter.rotate(-90)
        painter.drawText(QRectF(-half, -10, 2 * half, 20), Qt.AlignmentFlag.AlignCenter, self.name)


class _Head(QAbstractButton):
    """The product's name and the review's; opens the logbook menu."""

    def __init__(self) -> None:
        super().__init__()
        self.narrow = False
        self.review = ""  # no text of the button: an "&" in it would be a shortcut
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def sizeHint(self) -> QSize:
        return QSize(NARROW if self.narrow else WIDTH, 48)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        colours = theme.current()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if has_ring(self):
            painter.setPen(QPen(QColor(colours.brass), 2))
            painter.drawRect(self.rect().adjusted(6, 1, -8 if self.narrow else -24, -1))
        left = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        painter.setPen(QColor(colours.brass if self.underMouse() else colours.rail_ink))
        if self.narrow:
            painter.setFont(theme.font(theme.SIDE, theme.BOLD))
            painter.drawText(QRectF(8, 2, NARROW - 8, 18), left, "Blunt")
            painter.drawText(QRectF(8, 17, NARROW - 8, 18), left, "Ruler")
            painter.setPen(QPen(QColor(colours.rail_steel), 1.5))
            painter.drawPolyline(QPolygonF([QPointF(9, 40), QPointF(13, 44), QPointF(17, 40)]))
            return
        painter.setFont(theme.font(18, theme.BOLD))
        painter.drawText(QRectF(18, 3, WIDTH - 40, 24), left, "Blunt Ruler")
        painter.setPen(QColor(colours.rail_steel))
        painter.setFont(theme.font(theme.SMALL, theme.MEDIUM))
        words = painter.fontMetrics().elidedText(
            self.review, Qt.TextElideMode.ElideRight, WIDTH - 62
        )
        painter.drawText(QRectF(18, 26, WIDTH - 58, 18), left, words)
        x = 18 + painter.fontMetrics().horizontalAdvance(words) + 7
        painter.setPen(QPen(QColor(colours.rail_steel), 1.5))
        painter.drawPolyline(QPolygonF([QPointF(x, 33), QPointF(x + 4, 37), QPointF(x + 8, 33)]))


class Rail(QWidget):
    """All stops, and the logbook's name at the head.

    Signals:
        stop_chosen(str): a stop was chosen by mouse or keyboard.
    """

    stop_chosen = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setFixedWidth(WIDTH)
        self._narrow = False
        self.setAccessibleName("Stops of the work")
        self.head = _Head()
        self.head.setAccessibleName("Logbook menu")
        layout = stacked(self.head, 8, spacing=0, margins=(0, 14, 0, 10), on=self)
        self._group = QButtonGroup(self)
        self.stops: dict[str, StopButton] = {}
        for number, name in enumerate(STOPS, start=1):
            button = StopButton(name, number)
            button.clicked.connect(lambda _checked, name=name: self.stop_chosen.emit(name))
            self._group.addButton(button)
            self.stops[name] = button
            layout.addWidget(button, 1)
        self.show_nothing()

    def show_nothing(self) -> None:
        """No logbook is open."""
        self.show_logbook("no logbook open", "Choose New or Open")

    def set_narrow(self, narrow: bool) -> None:
        """Numbers and upright names, or names with their states."""
        if narrow == self._narrow:
            return
        self._narrow = narrow
        self.setFixedWidth(NARROW if narrow else WIDTH)
        self.head.narrow = narrow
        for stop in self.stops.values():
            stop.narrow = narrow
        for part in (self.head, *self.stops.values()):
            part.updateGeometry()
            part.update()
        self.update()

    def show_logbook(self, review: str, file: str) -> None:
        """Name the review and the file at the head."""
        self.head.review = review
        self.head.update()
        self.head.setToolTip(plain_tip(f"{review}\n{file}\nLogbook menu (Alt+L)"))
        self.head.setAccessibleDescription(f"{review}, {file}")

    def show_current(self, name: str) -> None:
        """Mark a stop as the one on screen."""
        self.stops[name].setChecked(True)

    def show_states(self, states: Mapping[str, StopState]) -> None:
        """Show the state of every stop."""
        for name, state in states.items():
            self.stops[name].show_state(state)
        self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Up and down move between stops."""
        assert event is not None
        names = list(self.stops)
        at = next((i for i, name in enumerate(names) if self.stops[name].hasFocus()), None)
        move = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
        if at is None or move is None:
            super().keyPressEvent(event)
            return
        self.stops[names[(at + move) % len(names)]].setFocus()

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        colours = theme.current()
        painter.fillRect(self.rect(), QColor(colours.rail))
        buttons = list(self.stops.values())
        small = theme.font(theme.SMALL)
        painter.setFont(small)
        dim = theme.blend(colours.rail, colours.rail_steel, 0.45)
        brass = QColor(colours.brass)
        edge = self.width()
        for index, button in enumerate(buttons):
            top = button.geometry().top()
            step = button.height() / MARKS_PER_STOP
            filled = round(button.state.share * MARKS_PER_STOP)
            for mark in range(MARKS_PER_STOP):
                y = top + (mark + 0.5) * step
                length = 18 if mark == 0 else (13 if mark == MARKS_PER_STOP // 2 else 9)
                length = length // 2 if self._narrow else length
                painter.setPen(QPen(brass if mark < filled else dim, 1.4))
                painter.drawLine(QPointF(edge - length, y), QPointF(edge, y))
            painter.setPen(QColor(colours.rail_steel))
            room = 34 if self._narrow else 44
            painter.drawText(
                QRectF(edge - room, top + 0.5 * step - 9, 22, 18),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                str(index + 1),
            )
