"""The first page: no logbook is open yet. Three ways in, each drawn and one key away."""

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QAbstractButton, QPushButton, QSizePolicy, QWidget

from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.kit.painting import painted
from blunt_ruler.ui.kit.widgets import BluntLine, label

CARD = QSize(300, 318)
PICTURE_HEIGHT = 170
RATES = (("Built-in", 27.0), ("Sluice", 69.5), ("Tower", 106.0))  # of the drawn example
MOST_FPS = 120.0
COURSE = (9, 10, 8, 11, 9, 10, 14, 9, 8, 10, 9, 31, 12, 9, 10, 8, 9, 11, 9, 10, 9, 8)

Draw = Callable[[QPainter, QRectF], None]


class Way(QAbstractButton):
    """One way in: a picture, what it is, what it does, and its key."""

    def __init__(self, key: str, title: str, says: str, draw: Draw) -> None:
        super().__init__()
        self._key, self._says, self._draw = key, says, draw
        self.setText(title)
        self.setAccessibleName(title)
        self.setAccessibleDescription(f"{says} Key {key}.")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(230, CARD.height())
        self.setMaximumWidth(360)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def sizeHint(self) -> QSize:
        return CARD

    def keyPressEvent(self, e: QKeyEvent | None) -> None:
        if e is not None and e.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.click()
        else:
            super().keyPressEvent(e)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        colours = theme.current()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        whole = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        strong = self.hasFocus() or self.underMouse()
        painter.setPen(QPen(QColor(colours.blue if strong else colours.line), 2 if strong else 1))
        painter.setBrush(QColor(colours.card))
        painter.drawRoundedRect(whole, 3, 3)
        picture = QRectF(whole.left() + 18, whole.top() + 18, whole.width() - 36, PICTURE_HEIGHT)
        painter.save()
        self._draw(painter, picture)
        painter.restore()
        painter.setPen(QColor(colours.ink))
        painter.setFont(theme.font(theme.HEAD, theme.SEMIBOLD))
        top = picture.bottom() + 16
        room = QRectF(picture.left(), top, picture.width() - 26, 24)
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, self.text())
        painter.setFont(theme.font(theme.SIDE, theme.SEMIBOLD))
        painter.setPen(QColor(colours.steel))
        key = QRectF(picture.right() - 22, top + 1, 22, 22)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(key, 3, 3)
        painter.drawText(key, Qt.AlignmentFlag.AlignCenter, self._key)
        painter.setFont(theme.font(theme.SIDE, theme.MEDIUM))
        says = QRectF(picture.left(), top + 30, picture.width(), whole.bottom() - top - 40)
        painter.drawText(says, int(Qt.TextFlag.TextWordWrap), self._says)


def _grid(painter: QPainter, room: QRectF) -> None:
    """A Board that is being typed into."""
    colours = theme.current()
    painter.setFont(theme.font(theme.SMALL, theme.SEMIBOLD))
    left, step = room.width() * 0.38, room.width() * 0.31
    rows = (
        ("", "Built-in", "Sluice"),
        ("Tidewrack", "27", "69.5/57"),
        ("Skitter", "45-50", "~120"),
    )
    for number, cells in enumerate(rows):
        y = room.top() + 8 + number * 38
        for place, text in enumerate(cells):
            x = room.left() + (left + (place - 1) * step if place else 0)
            cell = QRectF(x, y, step - 6 if place else left - 6, 26)
            painter.setPen(QColor(colours.ink if place and number else colours.steel))
            side = Qt.AlignmentFlag.AlignRight if place else Qt.AlignmentFlag.AlignLeft
            painter.drawText(cell, side | Qt.AlignmentFlag.AlignVCenter, text)
        painter.setPen(
            QPen(QColor(colours.ink if number == 0 else colours.line), 2 - min(number, 1))
        )
        painter.drawLine(QPointF(room.left(), y + 31), QPointF(room.right(), y + 31))
    entry = QRectF(room.left() + left, room.top() + 122, step + 20, 30)
    painter.setPen(QPen(QColor(colours.blue), 2))
    painter.setBrush(QColor(colours.card))
    painter.drawRect(entry)
    painter.setPen(QColor(colours.ink))
    painter.drawText(entry.adjusted(8, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, "88 90 ~91")
    painter.setPen(QPen(QColor(colours.ink), 1))
    caret = entry.left() + 8 + painter.fontMetrics().horizontalAdvance("88 90 ~91") + 2
    painter.drawLine(QPointF(caret, entry.top() + 7), QPointF(caret, entry.bottom() - 7))


def _trace(painter: QPainter, room: QRectF) -> None:
    """Frame times falling into the window."""
    colours = theme.current()
    base = room.bottom() - 30
    step = room.width() / (len(COURSE) - 1)
    line = QPolygonF(
        [QPointF(room.left() + n * step, base - ms * 3.1) for n, ms in enumerate(COURSE)]
    )
    painter.setPen(QPen(QColor(colours.blue), 2))
    painter.drawPolyline(line)
    painter.setPen(QPen(QColor(colours.ink), 1))
    painter.drawLine(QPointF(room.left(), base), QPointF(room.right(), base))
    for mark in range(31):
        x = room.left() + room.width() * mark / 30
        painter.drawLine(QPointF(x, base), QPointF(x, base + (9 if mark % 5 == 0 else 5)))
    middle, top = room.center().x(), room.top() + 4
    painter.setPen(QPen(QColor(colours.steel), 2))
    painter.drawLine(QPointF(middle, top), QPointF(middle, top + 34))
    painter.drawPolyline(
        QPolygonF([QPointF(middle + dx, top + 34 - abs(dx)) for dx in (-9.0, 0.0, 9.0)])
    )


def _ruler(painter: QPainter, room: QRectF) -> None:
    """Three rigs on a rule."""
    colours = theme.current()
    shades = (colours.steel, colours.blue, colours.ink)
    scale = room.width() / MOST_FPS
    painter.setFont(theme.font(theme.SMALL, theme.SEMIBOLD))
    for number, ((name, rate), shade) in enumerate(zip(RATES, shades, strict=True)):
        y = room.top() + 14 + number * 40
        painter.setPen(QColor(colours.steel))
        painter.drawText(QPointF(room.left(), y), name)
        end = room.left() + rate * scale
        painter.fillRect(QRectF(room.left(), y + 11, (rate * 0.8) * scale, 3), QColor(shade))
        bar = QRectF(room.left() + rate * 0.8 * scale, y + 6, rate * 0.2 * scale, 13)
        painter.fillRect(bar, QColor(shade))
        painter.setPen(QColor(colours.ink))
        painter.drawText(QPointF(min(end + 6, room.right() - 24), y + 17), f"{rate:g}")
    base = room.bottom() - 22
    painter.setPen(QPen(QColor(colours.ink), 1))
    painter.drawLine(QPointF(room.left(), base), QPointF(room.right(), base))
    for mark in range(25):
        x = room.left() + room.width() * mark / 24
        painter.drawLine(QPointF(x, base), QPointF(x, base + (9 if mark % 4 == 0 else 5)))


class Welcome(QWidget):
    """Shown until a logbook is open.

    Signals:
        type_requested(), logs_requested(), demo_requested(): the three ways in.
        new_requested(), open_requested(): a logbook at a place of one's own.
        samples_requested(): files to try it with.
    """

    type_requested = pyqtSignal()
    logs_requested = pyqtSignal()
    demo_requested = pyqtSignal()
    new_requested = pyqtSignal()
    open_requested = pyqtSignal()
    samples_requested = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("view")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAccessibleName("Welcome")
        self.blunt = BluntLine()
        self.blunt.say(
            "What did the card gain, what did it lose, and what took it? Begin in one key."
        )
        self.ways: dict[str, Way] = {}
        for key, title, says, draw, signal in (
            (
                "1",
                "Type what you read",
                "Rigs across, titles down, a figure in each cell: the sentence on top answers at "
                "once.",
                _grid,
                self.type_requested,
            ),
            (
                "2",
                "Drop your logs",
                "Frame logs, overlay logs, a table of results, or a folder of them: anywhere on "
                "this window, or choose them.",
                _trace,
                self.logs_requested,
            ),
            (
                "3",
                "Look at the demo",
                "A library, four cards, four links: a whole review, made up and yours to change.",
                _ruler,
                self.demo_requested,
            ),
        ):
            way = Way(key, title, says, draw)
            way.clicked.connect(partial(signal.emit))
            self.ways[key] = way
        rest = []
        for words, signal in (
            ("New logbook…", self.new_requested),
            ("Open a logbook…", self.open_requested),
            ("Sample files…", self.samples_requested),
        ):
            button = QPushButton(words)
            button.clicked.connect(signal)
            rest.append(button)
        self.setFocusProxy(self.ways["1"])
        stacked(
            (self.blunt, Qt.AlignmentFlag.AlignTop),
            10,
            beside(*((way, 1) for way in self.ways.values()), spacing=16),
            14,
            beside(*rest, STRETCH, spacing=8),
            6,
            label(
                "A logbook is one file that holds your reviews, every rig you ever described and "
                "every run you ever took. Each edit is written at once and can be undone.",
                "quiet",
            ),
            STRETCH,
            spacing=8,
            margins=(18, 13, 16, 14),
            on=self,
        )

    def keyPressEvent(self, a0: QKeyEvent | None) -> None:
        """1, 2 and 3 are the ways in; left and right go from one to the next."""
        way = self.ways.get(a0.text()) if a0 is not None else None
        if a0 is not None and way is not None:
            way.click()
        elif a0 is not None and a0.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self.focusNextPrevChild(a0.key() == Qt.Key.Key_Right)
        else:
            super().keyPressEvent(a0)
