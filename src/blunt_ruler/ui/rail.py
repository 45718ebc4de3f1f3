"""The rail: a painted ruler down the left edge whose stops follow the order of the work."""

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QAbstractButton, QButtonGroup, QWidget

from blunt_ruler.core.analysis.rail_states import STOPS, StopState
from blunt_ruler.ui import theme
from blunt_ruler.ui.layouts import stacked

WIDTH = 196
MARKS_PER_STOP = 10


class StopButton(QAbstractButton):
    """One stop: its name and its state; the current one is a paper tab with a blunt point."""

    def __init__(self, name: str, number: int) -> None:
        super().__init__()
        self.name = name
        self.number = number
        self.state = StopState("", 0.0)
        self.setCheckable(True)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setMinimumHeight(52)
        self.setToolTip(f"{name} (Alt+{number})")

    def show_state(self, state: StopState) -> None:
        """Take a new state in."""
        self.state = state
        self.setAccessibleName(f"{self.name}, {state.words}" if state.words else self.name)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(WIDTH, 84)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        colours = theme.current()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle = self.height() / 2
        tab = QRectF(0, middle - 26, WIDTH - 20, 52)
        name_colour, state_colour = QColor(colours.rail_ink), QColor(colours.rail_steel)
        if self.isChecked():
            point = QPolygonF(
                [
                    tab.topLeft(),
                    QPointF(tab.right() - 13, tab.top()),
                    QPointF(tab.right(), middle),
                    QPointF(tab.right() - 13, tab.bottom()),
                    tab.bottomLeft(),
                ]
            )
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(colours.paper))
            painter.drawPolygon(point)
            name_colour, state_colour = QColor(colours.ink), QColor(colours.steel)
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(QColor(colours.brass), 2))
            painter.drawRect(tab.adjusted(5, 4, -18, -4))
        painter.setPen(name_colour)
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


class _Head(QAbstractButton):
    """The product's name and the review's; opens the logbook menu."""

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def sizeHint(self) -> QSize:
        return QSize(WIDTH, 48)

    def paintEvent(self, e: QPaintEvent | None) -> None:
        colours = theme.current()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.hasFocus():
            painter.setPen(QPen(QColor(colours.brass), 2))
            painter.drawRect(self.rect().adjusted(6, 1, -24, -1))
        left = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        painter.setPen(QColor(colours.brass if self.underMouse() else colours.rail_ink))
        painter.setFont(theme.font(18, theme.BOLD))
        painter.drawText(QRectF(18, 3, WIDTH - 40, 24), left, "Blunt Ruler")
        painter.setPen(QColor(colours.rail_steel))
        painter.setFont(theme.font(theme.SMALL, theme.MEDIUM))
        words = painter.fontMetrics().elidedText(
            self.text(), Qt.TextElideMode.ElideRight, WIDTH - 62
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
        self.show_logbook("no logbook open", "Choose New or Open")

    def show_logbook(self, review: str, file: str) -> None:
        """Name the review and the file at the head."""
        self.head.setText(review)
        self.head.setToolTip(f"{review}\n{file}\nLogbook menu (Alt+L)")
        self.head.setAccessibleDescription(f"{review}, {file}")

    def show_current(self, name: str) -> None:
        """Mark a stop as the one on screen."""
        self.stops[name].setChecked(True)

    def show_states(self, states: dict[str, StopState]) -> None:
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

    def paintEvent(self, event: QPaintEvent | None) -> None:
        colours = theme.current()
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(colours.rail))
        buttons = list(self.stops.values())
        small = theme.font(theme.SMALL)
        painter.setFont(small)
        dim = theme.blend(colours.rail, colours.rail_steel, 0.45)
        brass = QColor(colours.brass)
        for index, button in enumerate(buttons):
            top = button.geometry().top()
            step = button.height() / MARKS_PER_STOP
            filled = round(button.state.share * MARKS_PER_STOP)
            for mark in range(MARKS_PER_STOP):
                y = top + (mark + 0.5) * step
                length = 18 if mark == 0 else (13 if mark == MARKS_PER_STOP // 2 else 9)
                painter.setPen(QPen(brass if mark < filled else dim, 1.4))
                painter.drawLine(QPointF(WIDTH - length, y), QPointF(WIDTH, y))
            painter.setPen(QColor(colours.rail_steel))
            painter.drawText(
                QRectF(WIDTH - 44, top + 0.5 * step - 9, 22, 18),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                str(index + 1),
            )
