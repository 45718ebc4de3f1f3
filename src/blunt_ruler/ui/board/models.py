"""The Board as a Qt table: thin over the immutable Board value."""

from enum import IntEnum

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt

from blunt_ruler.core.board.board import Board
from blunt_ruler.core.board.lenses import Lens, beside_text, cell_text, mean_text, mean_words
from blunt_ruler.core.board.lines import cell_line


class CellRole(IntEnum):
    """What the painter asks of a cell, beside its text."""

    BESIDE = Qt.ItemDataRole.UserRole + 1
    KEPT = Qt.ItemDataRole.UserRole + 2
    RIG = Qt.ItemDataRole.UserRole + 3
    CASE = Qt.ItemDataRole.UserRole + 4


class BoardModel(QAbstractTableModel):
    """Rows are cases, and a last one for the means; columns are rigs."""

    def __init__(self) -> None:
        super().__init__()
        self.board: Board | None = None
        self.lens = Lens.RATE

    def show_board(self, board: Board | None, lens: Lens) -> None:
        """Show another board or lens; the shape is only reset when it changed."""
        old = self.board
        same_shape = (
            old is not None
            and board is not None
            and len(old.rows) == len(board.rows) > 0
            and len(old.columns) == len(board.columns) > 0
        )
        if same_shape:
            self.board, self.lens = board, lens
            last = self.index(self.rowCount() - 1, self.columnCount() - 1)
            self.dataChanged.emit(self.index(0, 0), last)
            self.headerDataChanged.emit(Qt.Orientation.Horizontal, 0, self.columnCount() - 1)
            self.headerDataChanged.emit(Qt.Orientation.Vertical, 0, self.rowCount() - 1)
            return
        self.beginResetModel()
        self.board, self.lens = board, lens
        self.endResetModel()

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:
        if self.board is None or parent.isValid():
            return 0
        return len(self.board.rows) + (1 if self.board.totals else 0)

    def columnCount(self, parent: QModelIndex = QModelIndex()) -> int:
        return 0 if self.board is None or parent.isValid() else len(self.board.columns)

    def is_mean_row(self, row: int) -> bool:
        """Whether a row is the foot with the means."""
        return self.board is not None and row >= len(self.board.rows)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        board = self.board
        if board is None or not index.isValid():
            return None
        column = board.columns[index.column()]
        if self.is_mean_row(index.row()):
            text = mean_text(board, column.rig_id, self.lens)
            return text if role == Qt.ItemDataRole.DisplayRole else None
        row = board.rows[index.row()]
        match role:
            case Qt.ItemDataRole.DisplayRole:
                return cell_text(board, column.rig_id, row.case_id, self.lens)
            case CellRole.BESIDE:
                return beside_text(board, column.rig_id, row.case_id, self.lens)
            case CellRole.KEPT:
                return board.kept_of_reference(column.rig_id, row.case_id)
            case CellRole.RIG:
                return column.rig_id
            case CellRole.CASE:
                return row.case_id
            case Qt.ItemDataRole.AccessibleTextRole | Qt.ItemDataRole.ToolTipRole:
                said = cell_line(board, column.rig_id, row.case_id)
                return f"{column.name}, {row.label}: {said}"
        return None

    def headerData(
        self,
        section: int,
        orientation: Qt.Orientation,
        role: int = Qt.ItemDataRole.DisplayRole,
    ) -> object:
        board = self.board
        if board is None or role not in (
            Qt.ItemDataRole.DisplayRole,
            Qt.ItemDataRole.ToolTipRole,
            Qt.ItemDataRole.AccessibleTextRole,
        ):
            return None
        if orientation is Qt.Orientation.Horizontal:
            column = board.columns[section]
            return f"{column.name} ({column.role})"
        if self.is_mean_row(section):
            return mean_words(board)
        return board.rows[section].label
