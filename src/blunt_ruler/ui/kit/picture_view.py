"""Pictures composed in core, painted by Qt: the painter, and a widget that shows one."""

from collections.abc import Callable, Iterable, Mapping
from functools import lru_cache
from itertools import groupby

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from blunt_ruler.core.drawing.palette import mark_corners
from blunt_ruler.core.drawing.picture import Area, Box, Item, Line, Mark, Picture, Words
from blunt_ruler.core.text import in_place
from blunt_ruler.exchange.charts.sheet import HEIGHT, WIDTH, ChartSheet
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.painting import painted

Compose = Callable[[Picture], object]
HATCH = (4.0, 8.0, 12.0)  # pixels from the end of a bar


def measure(words: str, size: float, weight: int) -> float:
    """How wide words are on screen."""
    return QFontMetricsF(theme.font(round(size), QFont.Weight(weight))).horizontalAdvance(words)


def new_picture(
    width: float, height: float, shades: Mapping[str, str], unit: float = 1.0
) -> Picture:
    """An empty picture in the present theme."""
    return Picture(theme.current(), width, height, measure, shades, unit)


@lru_cache(maxsize=256)
def _pen(colour: str, width: float) -> QPen:
    pen = QPen(QColor(colour), width)
    pen.setCapStyle(Qt.PenCapStyle.FlatCap)
    pen.setJoinStyle(Qt.PenJoinStyle.MiterJoin)
    return pen


def paint_picture(painter: QPainter, picture: Picture) -> None:
    """Carry a picture out."""
    _paint(painter, picture.items)


def paint_sheet(painter: QPainter, sheet: ChartSheet) -> None:
    """Carry a chart out on a sheet of 1280 × 720."""
    painter.fillRect(QRectF(0, 0, WIDTH, HEIGHT), QColor(sheet.theme.card))
    for (dx, dy), placed in groupby(sheet.items, key=lambda one: one[1:]):
        painter.save()
        painter.translate(dx, dy)
        _paint(painter, [item for item, _, _ in placed])
        painter.restore()


def _paint(painter: QPainter, items: Iterable[Item]) -> None:
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    pen: QPen | None = None  # the same for many lines in a row: a Board has thousands of them
    for item in items:
        if type(item) is Line:
            wanted = _pen(item.colour, item.width)
            if wanted is not pen:
                painter.setPen(wanted)
                pen = wanted
            _line(painter, item)
            continue
        if type(item) is Box:
            room = QRectF(item.x, item.y, item.width, item.height)
            painter.fillRect(room, QColor(item.colour))
            if not item.hatched:
                continue
            _hatch(painter, room)
        elif type(item) is Words:
            painter.setFont(theme.font(round(item.size), QFont.Weight(item.weight)))
            painter.setPen(QColor(item.colour))
            painter.drawText(QPointF(item.x, item.baseline), in_place(item.text))
        elif type(item) is Area:
            painter.setPen(QPen(QColor(item.edge), 1.0) if item.edge else Qt.PenStyle.NoPen)
            painter.setBrush(QColor(item.colour))
            painter.drawPolygon(QPolygonF([QPointF(x, y) for x, y in item.points]))
            painter.setBrush(Qt.BrushStyle.NoBrush)
        elif type(item) is Mark:
            corners = mark_corners(item.shape, item.x, item.y, item.size)
            painter.setPen(QPen(QColor(item.edge), 1.5))
            painter.setBrush(QColor(item.colour))
            painter.drawPolygon(QPolygonF([QPointF(x, y) for x, y in corners]))
            painter.setBrush(Qt.BrushStyle.NoBrush)
        pen = None


def _hatch(painter: QPainter, room: QRectF) -> None:
    painter.setPen(QPen(QColor(theme.current().card), 1.5))
    for offset in HATCH:
        right = room.right() - offset
        if right > room.left():
            painter.drawLine(QPointF(right, room.bottom()), QPointF(right + 4, room.top()))


def _line(painter: QPainter, item: Line) -> None:
    if item.dash:
        # Dash by dash: Qt 6.11 draws the first dashed line of a painter in its old colour.
        (x, top), (_, bottom) = item.points
        at = top
        while at < bottom:
            painter.drawLine(QPointF(x, at), QPointF(x, min(at + item.dash, bottom)))
            at += 1.5 * item.dash
    elif len(item.points) == 2:
        (x, y), (right, bottom) = item.points
        painter.drawLine(QPointF(x, y), QPointF(right, bottom))
    else:
        painter.drawPolyline(QPolygonF([QPointF(x, y) for x, y in item.points]))


class PictureView(QWidget):
    """Shows what a function composes, at whatever size it has; it holds no figure of its own."""

    def __init__(self, height: int = 0, framed: bool = False) -> None:
        """A `height` of 0 takes the room there is."""
        super().__init__()
        self._compose: Compose | None = None
        self._shades: Mapping[str, str] = {}
        self._height, self._framed = height, framed
        self._heard = ""
        self.unit = 1.0  # how much larger than usual everything in it is
        vertical = QSizePolicy.Policy.Fixed if height else QSizePolicy.Policy.Expanding
        self.setSizePolicy(QSizePolicy.Policy.Expanding, vertical)

    def show_picture(
        self, compose: Compose | None, shades: Mapping[str, str], height: float = 0.0
    ) -> None:
        """Show another picture, or nothing."""
        self._compose, self._shades = compose, shades
        if height:
            self._height = round(height)
        self.updateGeometry()
        self.update()

    @property
    def is_filled(self) -> bool:
        """Whether there is something to see."""
        return self._compose is not None

    def sizeHint(self) -> QSize:
        return QSize(600, self._height or 240)

    def minimumSizeHint(self) -> QSize:
        return QSize(300, self._height or 110)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self._framed:
            colours = theme.current()
            painter.setPen(QPen(QColor(colours.line), 1))
            painter.setBrush(QColor(colours.card))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3)
            painter.setBrush(Qt.BrushStyle.NoBrush)
        if self._compose is not None:
            picture = new_picture(self.width(), self.height(), self._shades, self.unit)
            self._compose(picture)
            paint_picture(painter, picture)
            self._say(picture)

    def _say(self, picture: Picture) -> None:
        """Let all that is written in a picture be heard, where nobody has described it."""
        if self.accessibleDescription() in ("", self._heard):
            heard = "; ".join(item.text for item in picture.items if type(item) is Words)
            if heard != self._heard:
                self._heard = heard
                self.setAccessibleDescription(heard)
