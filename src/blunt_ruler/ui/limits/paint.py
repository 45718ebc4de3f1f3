"""Painted parts of the Limits: shares as a bar, a frame's time, and the waterfall of a loss."""

from collections.abc import Mapping, Sequence

from PyQt6.QtCore import QLineF, QModelIndex, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from blunt_ruler.core.drawing.ticks import scale_to
from blunt_ruler.core.limits.report import PART_WORDS
from blunt_ruler.core.text import MINUS, fps_text
from blunt_ruler.ui import theme
from blunt_ruler.ui.rows import ROW_ROLE

LEFT, RIGHT, HEAD, RULE, STEP = 178, 90, 14, 30, 30


def limit_colours() -> Mapping[str, QColor]:
    """Colours of the limits; a word always stands beside them."""
    colours = theme.current()
    return {
        "card": QColor(colours.steel),
        "CPU": QColor(colours.caution),
        "link": QColor(colours.blue),
        "host": QColor(colours.caution),
        "screen": QColor(colours.loss),
        "unexplained": QColor(colours.line),
    }


def paint_shares(painter: QPainter, room: QRectF, shares: Sequence[float]) -> None:
    """Shares of card, CPU and link as one bar."""
    colours = limit_colours()
    x = room.left()
    for name, share in zip(("card", "CPU", "link"), shares, strict=True):
        width = room.width() * share
        painter.fillRect(QRectF(x, room.top(), max(width - 1, 0), room.height()), colours[name])
        x += width


class SharesDelegate(QStyledItemDelegate):
    """Paints the shares of a row."""

    def paint(
        self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex
    ) -> None:
        super().paint(painter, option, index)
        row = index.data(ROW_ROLE)
        if painter is not None and row is not None:
            paint_shares(painter, QRectF(option.rect).adjusted(6, 9, -8, -9), row.shares)

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(120, 28)


class ShareBar(QWidget):
    """Shares of card, CPU and link of one cell, with their words beneath."""

    def __init__(self, shares: Sequence[float]) -> None:
        super().__init__()
        self._shares = list(shares)
        self.setFixedHeight(36)
        said = ", ".join(
            f"{name} {share * 100:.0f} per cent"
            for name, share in zip(("card", "CPU", "link"), self._shares, strict=True)
        )
        self.setAccessibleName(f"Shares of the frame: {said}")

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        paint_shares(painter, QRectF(0, 2, self.width(), 12), self._shares)
        painter.setFont(theme.font(theme.SMALL))
        painter.setPen(QColor(theme.current().steel))
        text = " · ".join(
            f"{name} {share * 100:.0f}\u202f%"
            for name, share in zip(("card", "CPU", "link"), self._shares, strict=True)
        )
        painter.drawText(QRectF(0, 16, self.width(), 18), Qt.AlignmentFlag.AlignLeft, text)


class Waterfall(QWidget):
    """From the reference's rate down to the rig's, part by part, on the ruler."""

    def __init__(self) -> None:
        super().__init__()
        self._reference = self._rig = ("", 0.0)
        self._parts: list[tuple[str, float]] = []
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def show_loss(
        self, reference: tuple[str, float], rig: tuple[str, float], parts: Mapping[str, float]
    ) -> None:
        """Show a loss: names and rates of both ends, frames per second of each part."""
        self._reference, self._rig = reference, rig
        self._parts = [(name, fps) for name, fps in parts.items() if abs(fps) >= 0.05]
        said = ", ".join(f"{PART_WORDS[name]} {fps:.1f}" for name, fps in self._parts)
        self.setAccessibleName(f"Waterfall: {reference[1]:.1f} to {rig[1]:.1f}")
        self.setAccessibleDescription(said)
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(600, HEAD + STEP * (len(self._parts) + 2) + RULE + 8)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if not self._reference[0]:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        levels = [self._reference[1]]
        for _, fps in self._parts:
            levels.append(levels[-1] - fps)
        scale = scale_to(max(*levels, self._rig[1], 10.0) * 1.04, most_majors=10)
        room = self.width() - LEFT - RIGHT

        def x(fps: float) -> float:
            return LEFT + scale.share(max(fps, 0.0)) * room

        colours, limits = theme.current(), limit_colours()
        y = float(HEAD)
        self._bar(painter, x(0), x(levels[0]), y, QColor(colours.reference), *self._reference)
        for (name, fps), before in zip(self._parts, levels, strict=False):
            y += STEP
            colour = limits.get(name, QColor(colours.steel))
            left, right = sorted((x(before), x(before - fps)))
            painter.setPen(QPen(QColor(colours.line), 1))
            painter.drawLine(QLineF(x(before), y - STEP + 18, x(before), y + 4))
            painter.fillRect(QRectF(left, y + 4, max(right - left, 2.0), 14), colour)
            self._words(painter, PART_WORDS[name], y)
            sign = MINUS if fps > 0 else "+"
            painter.setFont(theme.font(theme.SIDE, theme.SEMIBOLD))
            painter.drawText(QRectF(right + 6, y, 90, 22), FIGURE, f"{sign}{abs(fps):.1f}")
        y += STEP
        self._bar(painter, x(0), x(self._rig[1]), y, QColor(colours.middle), *self._rig)
        top = self.height() - RULE
        painter.fillRect(QRectF(LEFT - 3, top, room + 6, 22), QColor(colours.rule))
        painter.setFont(theme.font(theme.SMALL))
        painter.setPen(QPen(QColor(colours.ink), 1))
        for value in scale.majors():
            painter.drawLine(QLineF(x(value), top, x(value), top + 9))
            painter.drawText(
                QRectF(x(value) - 24, top + 8, 48, 15), Qt.AlignmentFlag.AlignHCenter, f"{value:g}"
            )

    def _words(self, painter: QPainter, words: str, y: float) -> None:
        painter.setFont(theme.font(theme.SIDE, theme.MEDIUM))
        painter.setPen(QColor(theme.current().ink))
        text = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, LEFT - 20)
        painter.drawText(QRectF(12, y, LEFT - 18, 22), FIGURE, text)

    def _bar(
        self,
        painter: QPainter,
        left: float,
        right: float,
        y: float,
        colour: QColor,
        name: str,
        fps: float,
    ) -> None:
        painter.fillRect(QRectF(left, y + 3, max(right - left, 2.0), 16), colour)
        self._words(painter, name, y)
        painter.setFont(theme.font(theme.BODY, theme.BOLD))
        painter.drawText(QRectF(right + 7, y, 80, 22), FIGURE, fps_text(fps))


FIGURE = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
