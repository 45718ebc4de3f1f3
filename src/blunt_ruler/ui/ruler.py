"""The ruler: frame rates along a graduated steel rule, with gain and loss as brackets."""

from dataclasses import dataclass

from PyQt6.QtCore import QLineF, QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from blunt_ruler.core.board.board import Board, Row
from blunt_ruler.core.board.lines import cell_line
from blunt_ruler.core.drawing.ticks import Scale, scale_to
from blunt_ruler.core.records.records import Role
from blunt_ruler.core.text import count_text, fps_text, loss_text, percent_text
from blunt_ruler.ui import theme

LEFT = 178  # room for the rigs' names
RIGHT = 78
HEAD = 38
RULE = 30
WHISKER_ROOM = 60.0


@dataclass(frozen=True, slots=True)
class Shown:
    """What the ruler shows: a case of a board, and which rig the brackets are about."""

    board: Board
    row: Row
    rig_id: str


class Ruler(QWidget):
    """Painted from a Board; it holds no figure of its own."""

    def __init__(self) -> None:
        super().__init__()
        self._shown: Shown | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def show_case(self, shown: Shown | None) -> None:
        """Show a case, or nothing."""
        self._shown = shown
        if shown is not None:
            self.setAccessibleName(f"Ruler for {shown.row.label}")
            self.setAccessibleDescription(
                " ".join(
                    f"{column.name}: {cell_line(shown.board, column.rig_id, shown.row.case_id)}"
                    for column in shown.board.columns
                )
            )
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        rigs = len(self._shown.board.columns) if self._shown else 5
        return QSize(600, HEAD + min(max(rigs, 2), 9) * 20 + RULE + 6)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self._shown is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        board, row = self._shown.board, self._shown.row
        cells = {
            column.rig_id: cell
            for column in board.columns
            if (cell := board.cells.get((column.rig_id, row.case_id)))
        }
        if not cells:
            painter.setPen(QColor(theme.current().steel))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "No kept run of this case.")
            return
        reach = max(cell.average_fps for cell in cells.values()) * 1.04
        scale = scale_to(max(reach, 10.0), most_majors=10)
        self._title(painter, row)
        self._rule(painter, scale)
        self._targets(painter, scale)
        self._bars(painter, scale)
        self._brackets(painter, scale)

    def _x(self, scale: Scale, fps: float) -> float:
        return LEFT + scale.share(fps) * (self.width() - LEFT - RIGHT)

    def _title(self, painter: QPainter, row: Row) -> None:
        assert self._shown is not None
        colours = theme.current()
        runs = [
            cell.runs
            for column in self._shown.board.columns
            if (cell := self._shown.board.cells.get((column.rig_id, row.case_id)))
        ]
        fewest, most = min(runs), max(runs)
        each = f"{count_text(most, 'run') if fewest == most else f'{fewest} to {most} runs'} each"
        for words, colour, font, y in (
            (row.title, colours.ink, theme.font(theme.BODY, theme.SEMIBOLD), 5),
            (f"{row.settings} · {each}", colours.steel, theme.font(theme.SMALL), 23),
        ):
            painter.setFont(font)
            painter.setPen(QColor(colour))
            text = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, LEFT - 18)
            painter.drawText(QRectF(12, y, LEFT - 14, 18), Qt.AlignmentFlag.AlignLeft, text)

    def _rule(self, painter: QPainter, scale: Scale) -> None:
        colours = theme.current()
        top = self.height() - RULE
        start, end = self._x(scale, 0.0), self._x(scale, scale.end)
        painter.fillRect(QRectF(start - 3, top, end - start + 6, 22), QColor(colours.rule))
        painter.setPen(QPen(QColor(colours.steel), 1))
        for value in scale.minors():
            x = self._x(scale, value)
            painter.drawLine(QLineF(x, top, x, top + 5))
        painter.setFont(theme.font(theme.SMALL))
        painter.setPen(QPen(QColor(colours.ink), 1))
        for value in scale.majors():
            x = self._x(scale, value)
            painter.drawLine(QLineF(x, top, x, top + 9))
            painter.drawText(
                QRectF(x - 24, top + 8, 48, 15), Qt.AlignmentFlag.AlignHCenter, f"{value:g}"
            )
        painter.setPen(QColor(colours.steel))
        painter.drawText(
            QRectF(end + 18, top + 1, RIGHT - 18, 20),
            Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
            "frames/s",
        )

    def _targets(self, painter: QPainter, scale: Scale) -> None:
        assert self._shown is not None
        colour = QColor(theme.current().caution)
        painter.setFont(theme.font(theme.SMALL))
        for target in self._shown.board.review.target_fps:
            if target > scale.end:
                continue
            x = round(self._x(scale, target)) + 0.5  # on a pixel, so that the dashes are crisp
            painter.setPen(QPen(colour, 1))
            # Dash by dash: Qt 6.11 draws the first dashed line of a painter in its old colour.
            for top in range(HEAD - 16, self.height() - RULE, 6):
                painter.drawLine(QLineF(x, top, x, top + 4))
            painter.drawText(
                QRectF(x + 3, HEAD - 19, 60, 14), Qt.AlignmentFlag.AlignLeft, f"{target:g}"
            )

    def _bars(self, painter: QPainter, scale: Scale) -> None:
        assert self._shown is not None
        board, row, chosen = self._shown.board, self._shown.row, self._shown.rig_id
        colours = theme.current()
        rig_colours = theme.rig_colours(board)
        room = self.height() - HEAD - RULE - 4
        step = room / max(len(board.columns), 1)
        thick = min(14.0, step * 0.66)
        for index, column in enumerate(board.columns):
            y = HEAD + (index + 0.5) * step
            is_chosen = column.rig_id == chosen
            painter.setPen(QColor(colours.ink if is_chosen else colours.steel))
            painter.setFont(theme.font(theme.SMALL, theme.SEMIBOLD if is_chosen else theme.MEDIUM))
            words = painter.fontMetrics().elidedText(
                column.name, Qt.TextElideMode.ElideRight, LEFT - 22
            )
            painter.drawText(QRectF(12, y - 9, LEFT - 20, 18), Qt.AlignmentFlag.AlignVCenter, words)
            cell = board.cells.get((column.rig_id, row.case_id))
            if cell is None:
                painter.drawText(
                    QRectF(LEFT + 6, y - 9, 200, 18), Qt.AlignmentFlag.AlignVCenter, "no kept run"
                )
                continue
            colour = rig_colours[column.rig_id]
            end = self._x(scale, cell.average_fps)
            start = self._x(scale, cell.low_1_fps if cell.low_1_fps else cell.average_fps)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.fillRect(QRectF(LEFT, y - 1.5, start - LEFT, 3), colour)
            painter.fillRect(QRectF(start, y - thick / 2, max(end - start, 3.0), thick), colour)
            self._end_mark(painter, column.role, column.built_in, end, y, thick)
            if cell.rate_low is not None and cell.rate_high is not None:
                self._whisker(
                    painter, self._x(scale, cell.rate_low), self._x(scale, cell.rate_high), y
                )
                end = max(end, min(self._x(scale, cell.rate_high), end + WHISKER_ROOM))
            painter.setPen(QColor(colours.ink))
            painter.setFont(theme.font(theme.SIDE, theme.BOLD))
            rate = fps_text(cell.average_fps)
            room = painter.fontMetrics().horizontalAdvance(rate)
            painter.fillRect(QRectF(end + 4, y - 8, room + 6, 16), QColor(colours.card))
            painter.drawText(
                QRectF(end + 7, y - 10, room + 4, 20), Qt.AlignmentFlag.AlignVCenter, rate
            )

    def _whisker(self, painter: QPainter, left: float, right: float, y: float) -> None:
        """The interval of a rate, where it is wide enough to be seen."""
        if right - left < 3.0:
            return
        painter.setPen(QPen(QColor(theme.current().ink), 1))
        painter.drawLine(QLineF(left, y, right, y))
        for x in (left, right):
            painter.drawLine(QLineF(x, y - 3, x, y + 3))

    def _end_mark(
        self, painter: QPainter, role: Role, built_in: bool, end: float, y: float, thick: float
    ) -> None:
        """A mark that tells base and reference apart without colour."""
        card = QColor(theme.current().card)
        if role is Role.REFERENCE:
            painter.fillRect(QRectF(end - 5, y - thick / 2, 2, thick), card)
        elif role is Role.BASE or built_in:
            painter.setPen(QPen(card, 1.5))
            for offset in (4.0, 8.0, 12.0):
                painter.drawLine(
                    QPointF(end - offset, y + thick / 2), QPointF(end - offset + 4, y - thick / 2)
                )

    def _brackets(self, painter: QPainter, scale: Scale) -> None:
        assert self._shown is not None
        board, row = self._shown.board, self._shown.row
        cell = board.cells.get((self._shown.rig_id, row.case_id))
        if cell is None:
            return
        colours = theme.current()
        for other, share, words, colour in (
            (board.base, cell.gain, percent_text(cell.gain, signed=True), colours.gain),
            (board.reference, cell.loss, loss_text(cell.loss), colours.loss),
        ):
            if other is None or share is None or other.rig_id == self._shown.rig_id:
                continue
            if other is board.base and share < 0:
                colour = colours.loss
            if other is board.reference and share < 0:
                colour = colours.gain
            far = board.cells[other.rig_id, row.case_id].average_fps
            side = "base" if other is board.base else "ref."
            self._bracket(
                painter,
                self._x(scale, min(far, cell.average_fps)),
                self._x(scale, max(far, cell.average_fps)),
                f"{words} {side}",
                QColor(colour),
            )

    def _bracket(
        self, painter: QPainter, left: float, right: float, words: str, colour: QColor
    ) -> None:
        y = 12.0
        painter.setFont(theme.font(theme.SMALL, theme.SEMIBOLD))
        room = painter.fontMetrics().horizontalAdvance(words) + 10
        painter.setPen(QPen(colour, 1.5))
        painter.drawLine(QLineF(left, y - 5, left, y + 5))
        painter.drawLine(QLineF(right, y - 5, right, y + 5))
        if right - left > room + 12:
            middle = (left + right) / 2
            painter.drawLine(QLineF(left, y, middle - room / 2, y))
            painter.drawLine(QLineF(middle + room / 2, y, right, y))
            place = QRectF(middle - room / 2, y - 9, room, 18)
        else:
            painter.drawLine(QLineF(left, y, right, y))
            place = QRectF(right + 5, y - 9, room, 18)
        painter.drawText(place, Qt.AlignmentFlag.AlignCenter, words)
