"""The table of the Board: its headers, its painter, and a rule between titles."""

from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QTableView

from blunt_ruler.ui import theme
from blunt_ruler.ui.board.models import BoardModel
from blunt_ruler.ui.board.paint import CaseHeader, CellPainter, RigHeader


class BoardTable(QTableView):
    """The table, with a rule drawn between titles."""

    def __init__(self, model: BoardModel) -> None:
        super().__init__()
        self.setModel(model)
        model.setParent(self)  # so that the table never outlives its model
        self.painter_of_cells = CellPainter(model)
        self.setItemDelegate(self.painter_of_cells)
        self.rigs = RigHeader(model, self)
        self.cases = CaseHeader(model, self)
        self.setHorizontalHeader(self.rigs)
        self.setVerticalHeader(self.cases)
        self.rigs.setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.setShowGrid(False)
        self.setCornerButtonEnabled(False)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setAccessibleName("Board: rigs by cases")
        self.setTabKeyNavigation(False)

    def paintEvent(self, e: QPaintEvent | None) -> None:
        super().paintEvent(e)
        viewport = self.viewport()
        if viewport is None:
            return
        painter = QPainter(viewport)
        painter.setPen(theme.blend(theme.current().line, theme.current().card, 0.0))
        first = max(self.rowAt(0), 0)
        last = self.rowAt(viewport.height() - 1)
        model = self.model()
        rows = model.rowCount() if model is not None else 0
        for row in range(max(first, 1), rows if last < 0 else last + 1):
            if self.cases.starts_title(row):
                y = self.rowViewportPosition(row)
                painter.drawLine(0, y, viewport.width(), y)
