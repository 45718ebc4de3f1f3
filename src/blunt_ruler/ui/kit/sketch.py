"""A small drawing of what will stand on a page that has nothing to show yet."""

from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.painting import painted

WIDTH, HEIGHT = 260, 150


def _boxes(painter: QPainter, line: QColor, ink: QColor) -> None:
    """Passes ticked off in a grid of cases and rigs."""
    for row in range(4):
        painter.fillRect(QRectF(10, 18 + 30 * row, 62, 8), line)
        for column in range(4):
            box = QRectF(92 + 40 * column, 12 + 30 * row, 20, 20)
            painter.setPen(QPen(line, 1.5))
            painter.drawRect(box)
            if row + column < 3:
                painter.setPen(QPen(ink, 2.0))
                tick = [QPointF(4, 11), QPointF(8, 15), QPointF(16, 5)]
                painter.drawPolyline(QPolygonF([box.topLeft() + one for one in tick]))


def _axes(painter: QPainter, line: QColor, level: float) -> None:
    """Two axes, with a line across at one level."""
    painter.setPen(QPen(line, 1.5))
    painter.drawPolyline(QPolygonF([QPointF(16, 10), QPointF(16, 136), QPointF(250, 136)]))
    painter.drawLine(QPointF(16, level), QPointF(250, level))


def _curve(painter: QPainter, line: QColor, ink: QColor) -> None:
    """The rate over the link's width, with the points it was measured at."""
    _axes(painter, line, 34)
    points = [QPointF(16 + 230 * x / 16.0, 136 - 102 * x / (x + 1.6)) for x in range(17)]
    painter.setPen(QPen(ink, 2.0))
    painter.drawPolyline(QPolygonF(points))
    painter.setBrush(ink)
    for place in (1, 2, 4, 8):
        painter.drawEllipse(points[place], 3.5, 3.5)


def _bars(painter: QPainter, line: QColor, ink: QColor) -> None:
    """Rigs side by side: what each gains, and what it costs."""
    for row, share in enumerate((0.95, 0.72, 0.48, 0.3)):
        top = 14 + 32 * row
        painter.fillRect(QRectF(10, top + 5, 54, 8), line)
        painter.fillRect(QRectF(80, top, 165 * share, 8), ink)
        painter.fillRect(QRectF(80, top + 11, 165 * (1.1 - share), 8), line)


def _page(painter: QPainter, line: QColor, ink: QColor) -> None:
    """A report: a heading, lines of text, a chart."""
    painter.setPen(QPen(line, 1.5))
    painter.drawRect(QRectF(62, 6, 136, 138))
    painter.fillRect(QRectF(74, 18, 82, 8), ink)
    for row, width in enumerate((112, 104, 110, 66)):
        painter.fillRect(QRectF(74, 36 + 12 * row, width, 4), line)
    for row, width in enumerate((104, 78, 52)):
        painter.fillRect(QRectF(74, 94 + 15 * row, width, 8), ink if row == 0 else line)


def _trace(painter: QPainter, line: QColor, ink: QColor) -> None:
    """Frame times of a pass, with two stutters."""
    _axes(painter, line, 72)
    heights = [7.0 * ((n * 5) % 4) / 3.0 for n in range(40)]
    heights[13], heights[29] = 52.0, 38.0
    painter.setPen(QPen(ink, 2.0))
    points = [QPointF(18 + 5.9 * n, 100 - up) for n, up in enumerate(heights)]
    painter.drawPolyline(QPolygonF(points))


KINDS: dict[str, tuple[str, Callable[[QPainter, QColor, QColor], None]]] = {
    "boxes": ("passes ticked off", _boxes),
    "curve": ("the frame rate over the link", _curve),
    "bars": ("rigs side by side", _bars),
    "page": ("a report", _page),
    "trace": ("the frame times of a pass", _trace),
}


class Sketch(QWidget):
    """A drawing of one of `KINDS`, in quiet colours; there is nothing to choose in it."""

    def __init__(self, kind: str) -> None:
        super().__init__()
        words, self._draw = KINDS[kind]
        self.setAccessibleName(f"A drawing: {words}")
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)

    def sizeHint(self) -> QSize:
        """As large as it is drawn."""
        return QSize(WIDTH, HEIGHT)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        """Draw it in the colours of the theme."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        now = theme.current()
        self._draw(painter, QColor(now.line), theme.blend(now.steel, now.paper, 0.35))
