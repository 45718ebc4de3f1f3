"""The plot of Worth: cost against frames on two rules, with the stairs that nothing beats."""

from collections.abc import Mapping

from PyQt6.QtCore import QLineF, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from blunt_ruler.core.drawing.palette import mark_corners
from blunt_ruler.core.drawing.ticks import Scale, scale_to
from blunt_ruler.core.text import fps_text
from blunt_ruler.core.worth.figures import money_text
from blunt_ruler.core.worth.money import efficient
from blunt_ruler.core.worth.report import Worth
from blunt_ruler.ui import theme

LEFT, RIGHT, TOP, RULE = 50, 66, 24, 36
HIT = 14.0  # pixels


class WorthPlot(QWidget):
    """Painted from points; a click chooses the rig of the nearest.

    Signals:
        rig_chosen(str): this rig.
    """

    rig_chosen = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self._worth: Worth | None = None
        self._points: dict[str, tuple[float, float]] = {}
        self._rig_id = ""
        self.setMinimumHeight(150)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Cost against frames")

    def show_points(
        self, worth: Worth, points: Mapping[str, tuple[float, float]], rig_id: str
    ) -> None:
        """Show (price, frames) of each rig by id, one of them chosen."""
        self._worth, self._points, self._rig_id = worth, dict(points), rig_id
        best = efficient(self._points)
        said = []
        for row in worth.rows:
            if row.rig_id in self._points:
                price, frames = self._points[row.rig_id]
                mark = ", nothing is cheaper and faster" if row.rig_id in best else ""
                said.append(
                    f"{row.column.name}: {money_text(price, worth.currency)}, "
                    f"{fps_text(frames)} frames per second{mark}"
                )
        self.setAccessibleDescription("; ".join(said))
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(600, 240)

    def _scales(self) -> tuple[Scale, Scale]:
        # Room for the slider's dearest price, so that the rule does not jump while it moves.
        assert self._worth is not None
        still = self._worth.points()
        dearest = max([price for price, _ in (*still.values(), *self._points.values())] + [1.0])
        fastest = max([frames for _, frames in self._points.values()] + [1.0])
        return scale_to(dearest * 1.08), scale_to(fastest * 1.12, most_majors=7)

    def place(self, rig_id: str) -> QPointF:
        """Where a rig's mark stands."""
        across, up = self._scales()
        price, frames = self._points[rig_id]
        room = QRectF(LEFT, TOP, self.width() - LEFT - RIGHT, self.height() - TOP - RULE - 6)
        return QPointF(
            room.left() + across.share(price) * room.width(),
            room.bottom() - up.share(frames) * room.height(),
        )

    def mousePressEvent(self, a0: QMouseEvent | None) -> None:
        if a0 is None:
            return
        for rig_id in self._points:
            if (self.place(rig_id) - a0.position()).manhattanLength() <= HIT:
                self.rig_chosen.emit(rig_id)
                return

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        colours = theme.current()
        painter.setPen(QPen(QColor(colours.line), 1))
        painter.setBrush(QColor(colours.card))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if self._worth is None or not self._points:
            painter.setPen(QColor(colours.steel))
            words = "No rig has both a price and frames yet."
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, words)
            return
        self._rules(painter)
        self._stairs(painter)
        shades = theme.rig_colours(self._worth.board)
        taken: list[QRectF] = [
            QRectF(at.x() - 8, at.y() - 8, 16, 16) for at in map(self.place, self._points)
        ]
        for number, row in enumerate(self._worth.rows):
            if row.rig_id in self._points:
                self._mark(painter, row.rig_id, number, shades[row.rig_id])
                self._name(painter, row.rig_id, row.column.name, taken)

    def _rules(self, painter: QPainter) -> None:
        assert self._worth is not None
        colours = theme.current()
        across, up = self._scales()
        bottom = self.height() - RULE
        painter.setFont(theme.font(theme.SMALL))
        for value in up.majors():
            y = bottom - 6 - up.share(value) * (self.height() - TOP - RULE - 6)
            painter.setPen(QPen(QColor(colours.line), 1))
            painter.drawLine(QLineF(LEFT, y, self.width() - RIGHT, y))
            painter.setPen(QColor(colours.steel))
            painter.drawText(QRectF(0, y - 8, LEFT - 8, 16), NUMBER, f"{value:g}")
        painter.fillRect(
            QRectF(LEFT - 3, bottom, self.width() - LEFT - RIGHT + 6, 22), QColor(colours.rule)
        )
        for value in across.minors():
            x = LEFT + across.share(value) * (self.width() - LEFT - RIGHT)
            painter.setPen(QPen(QColor(colours.steel), 1))
            painter.drawLine(QLineF(x, bottom, x, bottom + 5))
        for value in across.majors():
            x = LEFT + across.share(value) * (self.width() - LEFT - RIGHT)
            painter.setPen(QPen(QColor(colours.ink), 1))
            painter.drawLine(QLineF(x, bottom, x, bottom + 9))
            painter.drawText(
                QRectF(x - 30, bottom + 8, 60, 15), Qt.AlignmentFlag.AlignHCenter, f"{value:g}"
            )
        painter.setPen(QColor(colours.steel))
        painter.drawText(
            QRectF(self.width() - RIGHT + 14, bottom, RIGHT - 14, 20),
            Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
            self._worth.currency,
        )
        painter.drawText(QRectF(LEFT + 2, 6, 200, 15), Qt.AlignmentFlag.AlignLeft, "frames/s")

    def _stairs(self, painter: QPainter) -> None:
        best = sorted(efficient(self._points), key=lambda key: self._points[key])
        corners: list[QPointF] = []
        for rig_id in best:
            at = self.place(rig_id)
            if corners:
                corners.append(QPointF(at.x(), corners[-1].y()))
            corners.append(at)
        if corners:
            corners.append(QPointF(self.width() - RIGHT, corners[-1].y()))
            painter.setPen(QPen(QColor(theme.current().brass), 3))
            painter.drawPolyline(QPolygonF(corners))

    def _mark(self, painter: QPainter, rig_id: str, number: int, colour: QColor) -> None:
        """A square, a lozenge or a triangle, so that marks differ without their colours."""
        at, size = self.place(rig_id), 7.0 if rig_id == self._rig_id else 5.5
        corners = [QPointF(x, y) for x, y in mark_corners(number, at.x(), at.y(), size)]
        edge = theme.current().ink if rig_id == self._rig_id else theme.current().card
        painter.setPen(QPen(QColor(edge), 1.5))
        painter.setBrush(colour)
        painter.drawPolygon(QPolygonF(corners))
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _name(self, painter: QPainter, rig_id: str, name: str, taken: list[QRectF]) -> None:
        """A rig's name where it lies on nothing else."""
        chosen = rig_id == self._rig_id
        painter.setFont(theme.font(theme.SMALL, theme.SEMIBOLD if chosen else theme.MEDIUM))
        width, at = painter.fontMetrics().horizontalAdvance(name), self.place(rig_id)
        spots = [
            QRectF(left, at.y() + down, width, 15)
            for down in (-20, 6, -36, 22)
            for left in (at.x() + 9, at.x() - 9 - width)
        ]
        inside = [one for one in spots if one.left() > LEFT and one.right() < self.width()]
        free = [one for one in inside if not any(one.intersects(other) for other in taken)]
        spot = (free or inside or spots)[0]
        taken.append(spot)
        painter.setPen(QColor(theme.current().ink if chosen else theme.current().steel))
        painter.drawText(spot, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, name)


NUMBER = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
