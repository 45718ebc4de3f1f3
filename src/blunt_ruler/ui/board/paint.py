"""How the Board is painted: figures that line up, a small rule under each, heads with swatches."""

from functools import lru_cache

from PyQt6.QtCore import QModelIndex, QPoint, QPointF, QRect, QRectF, QSize, QSizeF, Qt
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPen, QPixmap, QPixmapCache
from PyQt6.QtWidgets import (
    QHeaderView,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QWidget,
)

from blunt_ruler.core.board.lenses import Lens, mean_words
from blunt_ruler.core.drawing.board import draw_share
from blunt_ruler.core.drawing.palette import Theme
from blunt_ruler.core.drawing.picture import Picture
from blunt_ruler.core.records.records import Role
from blunt_ruler.core.text import capital
from blunt_ruler.ui.board.models import GHOST_CASE, GHOST_RIG, BoardModel, Look
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.painting import painted_part, painting
from blunt_ruler.ui.kit.picture_view import measure, paint_picture

ROW_HEIGHT = 36
HEAD_HEIGHT = 50
SIDE_WIDTH = 184
LEAST_COLUMN, GOOD_COLUMN = 98, 118
GHOST_WIDTH, GHOST_NARROW = 96, 46
WORDED = (Lens.STANDING, Lens.LIMIT)  # lenses whose cells are words, not figures
FIGURE_RIGHT = 0.47  # where every figure of a column ends, as a share of its width


@lru_cache(maxsize=4096)
def _share(colours: Theme, width: float, height: float, kept: float, shade: str) -> Picture:
    """The rule under a figure; a cell is painted again at every step of a scroll."""
    picture = Picture(colours, width, height, measure, {"": shade})
    draw_share(picture, 12, height - 6, width - 24, kept, "")
    return picture


class CellPainter(QStyledItemDelegate):
    """A figure, the smaller one beside it, and under both the share kept of the reference."""

    def __init__(self, model: BoardModel) -> None:
        super().__init__()
        self._model = model
        self.shades: dict[str, str] = {}

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(118, ROW_HEIGHT)

    @painted_part
    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        colours, look = theme.current(), self._model.look(index)
        rect = QRectF(option.rect)
        if option.state & QStyle.StateFlag.State_Selected and not look.is_mean:
            painter.fillRect(rect, QColor(colours.selected))
            painter.setPen(QPen(QColor(colours.blue), 2))
            painter.drawRect(rect.adjusted(1, 1, -1, -1))
        if look.is_wrong:
            painter.fillRect(rect.adjusted(2, 2, -2, -2), QColor(colours.side))
        device = painter.device()
        ratio = device.devicePixelRatioF() if device is not None else 1.0
        shade = self.shades.get(look.rig_id, colours.steel)
        size = option.rect.size()
        how = self._model.lens, shade, size.width(), size.height(), ratio, colours.card, colours.ink
        key = repr((*look, *how))
        drawn = QPixmapCache.find(key)
        if drawn is None:
            drawn = QPixmap((QSizeF(size) * ratio).toSize())
            drawn.setDevicePixelRatio(ratio)
            drawn.fill(Qt.GlobalColor.transparent)
            with painting(drawn) as inner:
                inner.setRenderHints(painter.renderHints())
                self._draw(inner, QRectF(QPointF(0, 0), QSizeF(size)), look, shade)
            QPixmapCache.insert(key, drawn)
        painter.drawPixmap(rect.topLeft(), drawn)

    def _draw(self, painter: QPainter, rect: QRectF, look: Look, shade: str) -> None:
        """What a cell says, without what it stands on."""
        colours, text, beside, mean = theme.current(), look.text, look.beside, look.is_mean
        split = rect.left() + rect.width() * FIGURE_RIGHT
        top = rect.top() + (8 if mean else 2)
        painter.setFont(theme.font(15, theme.BOLD if not mean else theme.SEMIBOLD))
        painter.setPen(self._value_colour(look))
        words = self._model.lens in WORDED
        if words:
            painter.setFont(theme.font(theme.SIDE, theme.SEMIBOLD))
            split = rect.right() - 4 if not mean else split
        room = QRectF(rect.left() + 4, top, split - rect.left() - 4, 20)
        if painter.fontMetrics().horizontalAdvance(text) > room.width() and not beside:
            room.setRight(rect.right() - 4)
            text = painter.fontMetrics().elidedText(
                text, Qt.TextElideMode.ElideRight, int(room.width())
            )
        painter.drawText(room, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, text)
        if beside and not words:
            painter.setFont(theme.font(theme.SMALL, theme.MEDIUM))
            painter.setPen(self._beside_colour(look))
            room = QRectF(split + 7, top, rect.right() - split - 9, 20)
            metrics = painter.fontMetrics()
            if metrics.horizontalAdvance(beside) > room.width():
                beside = beside.partition(" ")[0]  # the figure whole, before words cut off
            elided = metrics.elidedText(beside, Qt.TextElideMode.ElideRight, int(room.width()))
            painter.drawText(
                room, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, elided
            )
        if look.kept is not None:
            picture = _share(colours, rect.width(), rect.height(), look.kept, shade)
            paint_picture(painter, picture)

    def _value_colour(self, look: Look) -> QColor:
        """What is not told apart from none is neither a gain nor a loss."""
        colours, text = theme.current(), look.text
        if look.is_wrong:
            return QColor(colours.loss)
        if not look.is_open and self._model.lens in (Lens.GAIN, Lens.LOSS, Lens.FASTER_BY):
            if text.startswith("+"):
                return QColor(colours.gain)
            if text.startswith("−"):
                return QColor(colours.loss)
        return QColor(colours.ink)

    def _beside_colour(self, look: Look) -> QColor:
        colours, beside = theme.current(), look.beside
        if look.is_open:
            return QColor(colours.steel)
        if beside.startswith("×"):
            return QColor(colours.loss if beside < "×1.00" else colours.gain)
        if "×" in beside:
            return QColor(colours.loss if beside.partition("×")[2] < "1" else colours.gain)
        return QColor(colours.steel)


ROLE_MARKS = {Role.BASE: "base ▾", Role.REFERENCE: "ref. ▾", Role.TESTED: "▾"}
MARK_WIDTH = 46
ROOM_FOR_TESTED = 150


def _dashed(painter: QPainter, rect: QRect, words: str, align: Qt.AlignmentFlag) -> None:
    """A place that waits for a name."""
    colours = theme.current()
    painter.setPen(QPen(QColor(colours.line), 1, Qt.PenStyle.DashLine))
    painter.setBrush(QColor(colours.paper))
    painter.drawRect(rect)
    painter.setPen(QColor(colours.steel))
    painter.setFont(theme.font(theme.SMALL, theme.MEDIUM))
    inner = rect.adjusted(7, 0, -4, 0)
    painter.drawText(
        inner,
        align | Qt.AlignmentFlag.AlignVCenter,
        painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, inner.width()),
    )


class RigHeader(QHeaderView):
    """Rigs as column heads: a swatch, the card, the link, and the rig's role."""

    def __init__(self, model: BoardModel, parent: QWidget | None = None) -> None:
        super().__init__(Qt.Orientation.Horizontal, parent)
        self._model = model
        self.shades: dict[str, str] = {}
        self.setSectionsClickable(True)
        self.setFixedHeight(HEAD_HEIGHT)
        self.setMinimumSectionSize(GHOST_NARROW)
        self._pressed = QPoint()

    def mousePressEvent(self, e: QMouseEvent | None) -> None:
        if e is not None:
            self._pressed = e.position().toPoint()
        super().mousePressEvent(e)

    def on_mark(self, section: int) -> bool:
        """Whether the last press was on the mark of the role."""
        right = self.sectionViewportPosition(section) + self.sectionSize(section)
        return self._pressed.y() < 27 and right - MARK_WIDTH <= self._pressed.x() <= right

    def _paint_ghost(self, painter: QPainter, rect: QRect) -> None:
        colours = theme.current()
        painter.fillRect(rect, QColor(colours.card))
        words = GHOST_RIG if rect.width() >= GHOST_WIDTH else "+"
        _dashed(painter, rect.adjusted(4, 7, -5, -9), words, Qt.AlignmentFlag.AlignCenter)
        painter.fillRect(rect.left(), rect.bottom() - 1, rect.width(), 2, QColor(colours.ink))

    @painted_part
    def paintSection(self, painter: QPainter, rect: QRect, logicalIndex: int) -> None:
        board = self._model.board
        if board is None:
            return
        if logicalIndex >= len(board.columns):
            self._paint_ghost(painter, rect)
            return
        colours = theme.current()
        column = board.columns[logicalIndex]
        painter.fillRect(rect, QColor(colours.card))
        swatch = QColor(self.shades.get(column.rig_id, colours.steel))
        painter.fillRect(QRect(rect.left() + 6, rect.top() + 7, 5, HEAD_HEIGHT - 16), swatch)
        left, width = rect.left() + 17, rect.width() - 21
        first, second = column.card, column.link or column.host
        if column.card == column.name:
            first, second = column.name, column.link
        elide = Qt.TextElideMode.ElideRight
        role = ROLE_MARKS[column.role]
        if column.role is Role.TESTED and rect.width() > ROOM_FOR_TESTED:
            role = f"tested {role}"
        painter.setFont(theme.font(theme.SMALL, theme.SEMIBOLD))
        painter.setPen(QColor(colours.steel if column.role is Role.TESTED else colours.blue))
        tag = painter.fontMetrics().horizontalAdvance(role) + 4 if role else 0
        painter.drawText(
            QRect(left, rect.top() + 6, width, 19),
            Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
            role,
        )
        painter.setFont(theme.font(theme.BODY, theme.SEMIBOLD))
        painter.setPen(QColor(colours.ink))
        painter.drawText(
            QRect(left, rect.top() + 6, width - tag, 19),
            Qt.AlignmentFlag.AlignVCenter,
            painter.fontMetrics().elidedText(first, elide, width - tag),
        )
        painter.setFont(theme.font(theme.SMALL, theme.MEDIUM))
        painter.setPen(QColor(colours.steel))
        painter.drawText(
            QRect(left, rect.top() + 25, width, 17),
            Qt.AlignmentFlag.AlignVCenter,
            painter.fontMetrics().elidedText(second, elide, width),
        )
        painter.fillRect(rect.left(), rect.bottom() - 1, rect.width(), 2, QColor(colours.ink))


class CaseHeader(QHeaderView):
    """Cases as row heads: the title and scene once per title, the settings in every row."""

    def __init__(self, model: BoardModel, parent: QWidget | None = None) -> None:
        super().__init__(Qt.Orientation.Vertical, parent)
        self._model = model
        self.setFixedWidth(SIDE_WIDTH)
        self.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        self.setDefaultSectionSize(ROW_HEIGHT)
        self.setSectionsClickable(True)

    def sizeHint(self) -> QSize:
        return QSize(SIDE_WIDTH, 100)

    def starts_title(self, row: int) -> bool:
        """Whether the row is the first of its title."""
        board = self._model.board
        if board is None or row == 0 or row >= len(board.rows):
            return True
        return board.rows[row].title != board.rows[row - 1].title

    @painted_part
    def paintSection(self, painter: QPainter, rect: QRect, logicalIndex: int) -> None:
        board = self._model.board
        if board is None:
            return
        colours = theme.current()
        painter.fillRect(rect, QColor(colours.card))
        mean = self._model.is_mean_row(logicalIndex)
        starts = self.starts_title(logicalIndex)
        if starts and logicalIndex:
            painter.fillRect(rect.left(), rect.top(), rect.width(), 1, QColor(colours.line))
        inner = rect.adjusted(12, 0, -10, 0)
        if logicalIndex == len(board.rows):
            _dashed(painter, rect.adjusted(5, 3, -3, -4), GHOST_CASE, Qt.AlignmentFlag.AlignLeft)
            return
        elide = Qt.TextElideMode.ElideRight
        if mean:
            painter.setFont(theme.font(theme.SIDE, theme.SEMIBOLD))
            painter.setPen(QColor(colours.steel))
            painter.drawText(
                inner,
                Qt.AlignmentFlag.AlignVCenter,
                painter.fontMetrics().elidedText(capital(mean_words(board)), elide, inner.width()),
            )
            return
        row = board.rows[logicalIndex]
        painter.setFont(theme.font(theme.SMALL, theme.MEDIUM))
        painter.setPen(QColor(colours.steel))
        most = 96 if starts else inner.width()  # where no title stands beside it
        settings = painter.fontMetrics().elidedText(row.settings, elide, most)
        painter.drawText(
            inner, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, settings
        )
        taken = painter.fontMetrics().horizontalAdvance(settings) + 8
        if starts:
            width = inner.width() - taken
            painter.drawText(
                QRect(inner.left(), rect.top() + 18, width, 16),
                Qt.AlignmentFlag.AlignVCenter,
                painter.fontMetrics().elidedText(row.scene, elide, width),
            )
            painter.setFont(theme.font(theme.SIDE, theme.SEMIBOLD))
            painter.setPen(QColor(colours.ink))
            painter.drawText(
                QRect(inner.left(), rect.top() + 1, width, 18),
                Qt.AlignmentFlag.AlignVCenter,
                painter.fontMetrics().elidedText(row.title, elide, width),
            )
