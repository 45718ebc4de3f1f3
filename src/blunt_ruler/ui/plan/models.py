"""The matrix and the order of a plan as Qt tables: thin over the worked-out plan."""

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt
from PyQt6.QtGui import QColor

from blunt_ruler.core.plan.bench_plan import BenchPlan, enough_words
from blunt_ruler.core.plan.matrix import CellState, PlanCell
from blunt_ruler.core.plan.timetable import Timed
from blunt_ruler.core.records.records import Contents, Review
from blunt_ruler.core.text import amount
from blunt_ruler.ui import theme

CELL_ROLE = Qt.ItemDataRole.UserRole + 1
MARKS = {
    CellState.PLANNED: "○",
    CellState.PARTLY: "◐",
    CellState.DONE: "●",
    CellState.SET_ASIDE: "△",
    CellState.EXCLUDED: "✕",
}
ORDER_HEADS = ("Starts", "What", "Rig", "Case", "Minutes")


class MatrixModel(QAbstractTableModel):
    """Rows are cases, columns are rigs; a cell is a mark, passes done and left, and minutes."""

    def __init__(self) -> None:
        super().__init__()
        self._contents: Contents | None = None
        self._review: Review | None = None
        self._cells: dict[tuple[str, str], PlanCell] = {}
        self._dropped: set[tuple[str, str]] = set()
        self._enough: dict[str, str] = {}

    def show_plan(self, contents: Contents, review: Review, bench_plan: BenchPlan) -> None:
        """Show a plan."""
        same = self._review is not None and (
            self._review.seats,
            self._review.case_ids,
        ) == (review.seats, review.case_ids)
        if not same:
            self.beginResetModel()
        self._contents, self._review = contents, review
        self._cells = {(cell.rig_id, cell.case_id): cell for cell in bench_plan.cells}
        self._enough = {one.case_id: enough_words(one) for one in bench_plan.enough}
        self._dropped = {(one.rig_id, one.case_id) for one in bench_plan.dropped}
        if same:
            last = self.index(self.rowCount() - 1, self.columnCount() - 1)
            self.dataChanged.emit(self.index(0, 0), last)
        else:
            self.endResetModel()

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:
        return 0 if parent.isValid() or self._review is None else len(self._review.case_ids)

    def columnCount(self, parent: QModelIndex = QModelIndex()) -> int:
        return 0 if parent.isValid() or self._review is None else len(self._review.seats)

    def _cell(self, index: QModelIndex) -> PlanCell | None:
        if self._review is None or not index.isValid():
            return None
        rig_id = self._review.seats[index.column()].rig_id
        return self._cells.get((rig_id, self._review.case_ids[index.row()]))

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        cell = self._cell(index)
        if cell is None:
            return None
        given_up = (cell.rig_id, cell.case_id) in self._dropped
        match role:
            case Qt.ItemDataRole.DisplayRole:
                if cell.state is CellState.EXCLUDED:
                    return f"{MARKS[cell.state]}  left out"
                if given_up:
                    return "–  given up"
                if cell.left == 0:
                    return f"{MARKS[cell.state]}  {cell.done} done"
                return (
                    f"{MARKS[cell.state]} {cell.done}+{cell.left}, "
                    f"{amount(round(cell.minutes, 1), 'min')}"
                )
            case Qt.ItemDataRole.ForegroundRole:
                colours = theme.current()
                if cell.state is CellState.EXCLUDED or given_up:
                    return QColor(colours.steel)
                if cell.state is CellState.DONE:
                    return QColor(colours.gain)
                if cell.state is CellState.SET_ASIDE:
                    return QColor(colours.caution)
                return QColor(colours.ink)
            case Qt.ItemDataRole.ToolTipRole | Qt.ItemDataRole.AccessibleTextRole:
                state = "given up for lack of time" if given_up else str(cell.state)
                why = f": {cell.why}" if cell.why else ""
                return f"{state}{why}; {cell.done} passes done, {cell.left} left"
            case _ if role == CELL_ROLE:
                return cell
        return None

    def headerData(
        self,
        section: int,
        orientation: Qt.Orientation,
        role: int = Qt.ItemDataRole.DisplayRole,
    ) -> object:
        if role not in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.ToolTipRole):
            return None
        if self._contents is None or self._review is None:
            return None
        if orientation is Qt.Orientation.Horizontal:
            return self._contents.rigs[self._review.seats[section].rig_id].name
        label = self._contents.case_label(self._review.case_ids[section])
        if role == Qt.ItemDataRole.ToolTipRole:
            return f"{label}\n{self._enough.get(self._review.case_ids[section], '')}"
        return label.replace(" / ", ", ")


class OrderModel(QAbstractTableModel):
    """Every step of the bench days, in order."""

    def __init__(self) -> None:
        super().__init__()
        self._contents: Contents | None = None
        self._items: tuple[Timed, ...] = ()
        self._late: set[str] = set()

    def show_plan(self, contents: Contents, bench_plan: BenchPlan) -> None:
        """Show a plan's order."""
        self.beginResetModel()
        self._contents = contents
        self._items = tuple(timed for day in bench_plan.table.days for timed in day.items)
        self._late = {timed.starts for timed in bench_plan.table.late}
        self.endResetModel()

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(self._items)

    def columnCount(self, parent: QModelIndex = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(ORDER_HEADS)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if self._contents is None or not index.isValid():
            return None
        timed = self._items[index.row()]
        item = timed.item
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.ToolTipRole):
            repeat = "" if item.repeat is None else f" {item.repeat}"
            return (
                timed.starts.replace("T", " ")[5:],
                f"{item.kind}{repeat}",
                self._contents.rigs[item.rig_id].name,
                self._contents.case_label(item.case_id) if item.case_id else "",
                f"{item.minutes:.1f}",
            )[index.column()]
        if role == Qt.ItemDataRole.TextAlignmentRole and index.column() == 4:
            return Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        if role == Qt.ItemDataRole.ForegroundRole and timed.starts in self._late:
            return QColor(theme.current().loss)
        return None

    def headerData(
        self,
        section: int,
        orientation: Qt.Orientation,
        role: int = Qt.ItemDataRole.DisplayRole,
    ) -> object:
        if orientation is not Qt.Orientation.Horizontal:
            return None
        if role == Qt.ItemDataRole.DisplayRole:
            return ORDER_HEADS[section]
        if role == Qt.ItemDataRole.TextAlignmentRole:
            side = Qt.AlignmentFlag.AlignRight if section == 4 else Qt.AlignmentFlag.AlignLeft
            return side | Qt.AlignmentFlag.AlignVCenter
        return None

    def rig_at(self, row: int) -> str | None:
        """Id of the rig of a step."""
        return self._items[row].item.rig_id if 0 <= row < len(self._items) else None
