"""The Board's table: a grid that one types into, its heads, and a rule between titles.

It knows where an entry stands and where the next one is; what an entry means is the page's.
"""

from PyQt6.QtCore import QModelIndex, QRect, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QKeySequence, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QTableView

from blunt_ruler.ui.board.models import GHOST_SAYS, BoardModel
from blunt_ruler.ui.board.paint import (
    GHOST_NARROW,
    GHOST_WIDTH,
    GOOD_COLUMN,
    HEAD_HEIGHT,
    LEAST_COLUMN,
    ROW_HEIGHT,
    CaseHeader,
    CellPainter,
    RigHeader,
)
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.grid_editor import Way
from blunt_ruler.ui.kit.painting import painted

CASE_ENTRY_WIDTH = 420
LEAST_ENTRY = 190
STEPS = {Way.DOWN: (1, 0), Way.UP: (-1, 0), Way.RIGHT: (0, 1), Way.LEFT: (0, -1)}


class BoardTable(QTableView):
    """The grid.

    Signals:
        entry_wanted(QModelIndex, object): open this cell with this text, None for what is there.
        rig_wanted(str), case_wanted(str): open the ghost rig or the ghost case with this text.
        cleared(QModelIndex): what was typed in this cell goes.
        pasted(): the clipboard is to go into the grid.
        role_wanted(int): the mark in this column's head was clicked.
    """

    entry_wanted = pyqtSignal(QModelIndex, object)
    rig_wanted = pyqtSignal(str)
    case_wanted = pyqtSignal(str)
    cleared = pyqtSignal(QModelIndex)
    pasted = pyqtSignal()
    role_wanted = pyqtSignal(int)

    def __init__(self, model: BoardModel) -> None:
        super().__init__()
        self.setModel(model)
        self.grid = model
        model.setParent(self)  # so that the table never outlives its model
        self.painter_of_cells = CellPainter(model)
        self.setItemDelegate(self.painter_of_cells)
        self.rigs = RigHeader(model, self)
        self.cases = CaseHeader(model, self)
        self.setHorizontalHeader(self.rigs)
        self.setVerticalHeader(self.cases)
        self.setShowGrid(False)
        self.setCornerButtonEnabled(False)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setAccessibleName("Board: rigs by cases")
        self.setTabKeyNavigation(False)
        self._run_began: int | None = None  # the column where going right began
        self.doubleClicked.connect(self._open)
        self.rigs.sectionClicked.connect(self._on_rig_head)
        self.cases.sectionClicked.connect(self._on_case_head)

    # Where things are

    def fit_columns(self) -> None:
        """Rigs share the width; with more than fit the table scrolls sideways."""
        ghost = self.grid.ghost_column
        room = self.width() - self.cases.width() - 4
        narrow = ghost > 0 and ghost * GOOD_COLUMN > room - GHOST_WIDTH
        ghost_width = GHOST_NARROW if narrow else GHOST_WIDTH
        fits = ghost * LEAST_COLUMN <= room - ghost_width
        for section in range(self.grid.columnCount()):
            if section == ghost:
                self.rigs.setSectionResizeMode(section, QHeaderView.ResizeMode.Fixed)
                self.rigs.resizeSection(section, ghost_width)
            elif fits:
                self.rigs.setSectionResizeMode(section, QHeaderView.ResizeMode.Stretch)
            else:
                self.rigs.setSectionResizeMode(section, QHeaderView.ResizeMode.Interactive)
                self.rigs.resizeSection(section, LEAST_COLUMN + 8)

    def cell_place(self, index: QModelIndex) -> QRect:
        """Where an entry over a cell stands, on the viewport."""
        place = self.visualRect(index)
        return QRect(place.left(), place.top(), max(place.width(), LEAST_ENTRY), place.height())

    def rig_place(self) -> QRect:
        """Where an entry over the ghost rig stands, on the heads."""
        left = self.rigs.sectionViewportPosition(self.grid.ghost_column)
        left = min(left, max(self.rigs.width() - LEAST_ENTRY, 0))
        return QRect(left + 2, 8, LEAST_ENTRY - 4, HEAD_HEIGHT - 18)

    def case_place(self) -> QRect:
        """Where an entry over the ghost case stands, on the table."""
        top = self.cases.sectionViewportPosition(self.grid.ghost_row) + self.rigs.height()
        return QRect(self.frameWidth() + 4, top + 2, CASE_ENTRY_WIDTH, 32)

    def go(self, way: Way) -> None:
        """To the next cell: down, or right; down after going right begins a new line, and right of
        the last rig is the first of the next line.
        """
        index = self.currentIndex()
        if way is Way.STAY or not index.isValid():
            return
        down, right = STEPS[way]
        row, column = index.row() + down, index.column() + right
        if way is Way.RIGHT:
            self._run_began = index.column() if self._run_began is None else self._run_began
            if column == self.grid.ghost_column > 0 and row < self.grid.ghost_row:
                row, column, self._run_began = row + 1, 0, 0
        elif way is Way.DOWN and self._run_began is not None:
            column, self._run_began = self._run_began, None
        row = min(max(row, 0), self.grid.ghost_row)
        column = min(max(column, 0), self.grid.ghost_column)
        self.setCurrentIndex(self.grid.index(row, column))

    def go_to_first_empty(self) -> None:
        """To the first cell that says nothing yet, else to the first one."""
        self._run_began = None
        found = self.grid.first_empty() or (0, 0)
        self.setCurrentIndex(self.grid.index(*found))

    # Keys and clicks

    def keyPressEvent(self, e: QKeyEvent | None) -> None:
        if e is None:
            return
        index, key = self.currentIndex(), Qt.Key(e.key())
        plain = not e.modifiers() & (
            Qt.KeyboardModifier.ControlModifier
            | Qt.KeyboardModifier.AltModifier
            | Qt.KeyboardModifier.MetaModifier
        )
        text = e.text()
        if e.matches(QKeySequence.StandardKey.Paste):
            self.pasted.emit()
        elif plain and text and text.isprintable() and not text.isspace():
            self._open(index, text)
        elif key == Qt.Key.Key_F2 and plain:
            self._open(index)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and plain:
            if self._is_ghost(index):
                self._open(index)
            else:
                self.go(Way.DOWN)
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and plain and index.isValid():
            self.cleared.emit(index)
        else:
            self._run_began = None
            super().keyPressEvent(e)

    def mousePressEvent(self, e: QMouseEvent | None) -> None:
        self._run_began = None
        super().mousePressEvent(e)

    def _is_ghost(self, index: QModelIndex) -> bool:
        row, column = index.row(), index.column()
        return not index.isValid() or column == self.grid.ghost_column or row == self.grid.ghost_row

    def _open(self, index: QModelIndex, text: str | None = None) -> None:
        """Open the cell, the ghost rig or the ghost case, whichever is there."""
        rigs, cases = self.grid.ghost_column, self.grid.ghost_row
        if not self._is_ghost(index):
            self.entry_wanted.emit(index, text)
        elif rigs == 0 or (index.column() == rigs and not (index.row() == cases == 0)):
            self.rig_wanted.emit(text or "")
        else:
            self.case_wanted.emit(text or "")

    def _on_rig_head(self, section: int) -> None:
        if section == self.grid.ghost_column:
            self.rig_wanted.emit("")
        elif self.rigs.on_mark(section):
            self.role_wanted.emit(section)

    def _on_case_head(self, section: int) -> None:
        if section == self.grid.ghost_row:
            self.case_wanted.emit("")

    def paintEvent(self, e: QPaintEvent | None) -> None:
        super().paintEvent(e)
        self._paint_over(e)

    @painted
    def _paint_over(self, painter: QPainter) -> None:
        """The words of the ghost row, and a line above each title."""
        viewport = self.viewport()
        assert viewport is not None
        ghost = self.rowViewportPosition(self.grid.ghost_row)
        if self.grid.board is not None and ghost >= 0:
            painter.setPen(QColor(theme.current().steel))
            painter.setFont(theme.font(theme.SMALL, theme.MEDIUM))
            left = 12 if self.grid.ghost_column else GHOST_WIDTH + 12
            room = QRect(left, ghost, viewport.width() - left, ROW_HEIGHT)
            painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, GHOST_SAYS)
        painter.setPen(theme.blend(theme.current().line, theme.current().card, 0.0))
        first = max(self.rowAt(0), 0)
        last = self.rowAt(viewport.height() - 1)
        rows = self.grid.rowCount()
        for row in range(max(first, 1), rows if last < 0 else last + 1):
            if self.cases.starts_title(row):
                y = self.rowViewportPosition(row)
                painter.drawLine(0, y, viewport.width(), y)
