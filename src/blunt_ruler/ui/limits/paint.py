"""Painted parts of the Limits: shares as a bar, a frame's time, and the waterfall of a loss."""

from collections.abc import Mapping, Sequence
from functools import partial

from PyQt6.QtCore import QModelIndex, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter
from PyQt6.QtWidgets import QStyledItemDelegate, QStyleOptionViewItem, QWidget

from blunt_ruler.core.board.board import Board
from blunt_ruler.core.drawing.palette import rig_shades
from blunt_ruler.core.drawing.waterfall import (
    draw_waterfall,
    loss_parts,
    part_colours,
    waterfall_height,
)
from blunt_ruler.core.limits.split import LossSplit
from blunt_ruler.core.limits.words import PART_WORDS
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.painting import painted, painted_part
from blunt_ruler.ui.kit.picture_view import PictureView
from blunt_ruler.ui.kit.rows import ROW_ROLE


def paint_shares(painter: QPainter, room: QRectF, shares: Sequence[float]) -> None:
    """Shares of card, CPU and link as one bar."""
    colours = part_colours(theme.current())
    x = room.left()
    for name, share in zip(("card", "CPU", "link"), shares, strict=True):
        width = room.width() * share
        shade = QColor(colours[name])
        painter.fillRect(QRectF(x, room.top(), max(width - 1, 0), room.height()), shade)
        x += width


def shares_words(shares: Sequence[float]) -> str:
    """Shares of card, CPU and link in words; blank for none."""
    names = ("card", "CPU", "link")[: len(shares)]
    return ", ".join(
        f"{name} {share * 100:.0f} per cent" for name, share in zip(names, shares, strict=True)
    )


class SharesDelegate(QStyledItemDelegate):
    """Paints the shares of a row."""

    @painted_part
    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        super().paint(painter, option, index)
        row = index.data(ROW_ROLE)
        if row is not None and row.shares:  # none where withheld
            paint_shares(painter, QRectF(option.rect).adjusted(6, 9, -8, -9), row.shares)

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(120, 28)


class BarDelegate(QStyledItemDelegate):
    """Paints a bar for the share that a row has of the longest."""

    def __init__(self, table: QWidget) -> None:
        super().__init__(table)
        self.shares: Mapping[object, float] = {}

    @painted_part
    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        super().paint(painter, option, index)
        room = QRectF(option.rect).adjusted(6, 0, -8, 0)
        width = room.width() * self.shares.get(index.data(ROW_ROLE), 0.0)
        painter.fillRect(
            QRectF(room.left(), room.center().y() - 5, width, 10), QColor(theme.current().middle)
        )


class ShareBar(QWidget):
    """Shares of card, CPU and link of one cell, with their words beneath."""

    def __init__(self, shares: Sequence[float]) -> None:
        super().__init__()
        self._shares = list(shares)
        self.setFixedHeight(36)
        self.setAccessibleName(f"Shares of the frame: {shares_words(self._shares)}")

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        paint_shares(painter, QRectF(0, 2, self.width(), 12), self._shares)
        painter.setFont(theme.font(theme.SMALL))
        painter.setPen(QColor(theme.current().steel))
        text = " · ".join(
            f"{name} {share * 100:.0f}\u202f%"
            for name, share in zip(("card", "CPU", "link"), self._shares, strict=True)
        )
        painter.drawText(QRectF(0, 16, self.width(), 18), Qt.AlignmentFlag.AlignLeft, text)


class Waterfall(PictureView):
    """From the reference's rate down to the rig's, part by part, on the ruler."""

    def __init__(self) -> None:
        super().__init__(height=1)

    def show_loss(self, split: LossSplit, reference: str, rig: str, board: Board) -> None:
        """Show a loss between two rigs by their names."""
        told = ", ".join(f"{PART_WORDS[name]} {fps:.1f}" for name, _, fps in loss_parts(split))
        self.setAccessibleName(f"Waterfall: {split.reference_fps:.1f} to {split.average_fps:.1f}")
        self.setAccessibleDescription(told)
        compose = partial(draw_waterfall, split=split, reference=reference, rig=rig)
        shades = rig_shades(board, theme.current())
        self.show_picture(compose, shades, waterfall_height(split))
