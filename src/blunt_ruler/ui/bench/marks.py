"""A shape for each severity, so that none is told by colour alone."""

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QPainter, QPolygonF
from PyQt6.QtWidgets import QWidget

from blunt_ruler.core.records.severity import Severity
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.painting import painted


class SeverityMark(QWidget):
    """A square for what blocks, a triangle for a caution, a disc for a note."""

    def __init__(self, severity: Severity) -> None:
        super().__init__()
        self._severity = severity
        self.setFixedSize(18, 18)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        colours = theme.current()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        match self._severity:
            case Severity.BLOCKING:
                painter.setBrush(QColor(colours.loss))
                painter.drawRect(2, 2, 14, 14)
            case Severity.CAUTION:
                painter.setBrush(QColor(colours.caution))
                painter.drawPolygon(QPolygonF([QPointF(9, 1), QPointF(17, 16), QPointF(1, 16)]))
            case Severity.NOTE:
                painter.setBrush(QColor(colours.steel))
                painter.drawEllipse(4, 4, 10, 10)
