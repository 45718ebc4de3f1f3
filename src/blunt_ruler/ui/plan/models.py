"""The matrix of a plan as a Qt table: thin over the bench plan."""

from textwrap import fill

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt
from PyQt6.QtGui import QColor

from blunt_ruler.core.plan.bench_plan import BenchPlan, enough_words
from blunt_ruler.core.plan.matrix import CellState, PlanCell
from blunt_ruler.core.records.records import Contents, Review
from blunt_ruler.core.text import amount
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.tips import plain_tip

CELL_ROLE = Qt.ItemDataRole.UserRole + 1
MARKS = {
    CellState.PLANNED: "○",
    CellState.PARTLY: "◐",
    CellState.DONE: "●",
    CellState.SET_ASIDE: "△",
    CellState.EXCLUDED: "✕",
}


def head_words(name: str) -> str:
    """A name over a narrow column, on up to three lines."""
    return fill(name, 12, max_lines=3, placeholder="…")


class MatrixModel(QAbstractTableModel):
    """Rows are cases, columns are rigs; a cell is a mark, passes done and left, and minutes."""

    def __init__(self) -> None:
        super().__init__()
        self._contents: Contents | None = None
        self._review: Review | None = None
        self._cells: dict[tuple[str, str], PlanCell] = {}
        self._dropped: set[tuple[str, str]] = set()
        self._enough: dict[str, str] = {}
        self._row_names: list[str] = []

    def show_plan(self, contents: Contents, review: Review, bench_plan: BenchPlan) -> None:
        """Show a plan."""
        same = self._review is not None and (
            self._review.seats,
            self._review.case_ids,
        ) == (review.seats, review.case_ids)
        same = same and bool(review.seats and review.case_ids)
        if not same:
            self.beginResetModel()
        self._contents, self._review = contents, review
        self._row_names = _row_names(contents, review)
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
                words = f"{state}{why}; {cell.done} passes done, {cell.left} left"
                return plain_tip(words) if role == Qt.ItemDataRole.ToolTipRole else words
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
            name = self._contents.rigs[self._review.seats[section].rig_id].name
            return plain_tip(name) if role == Qt.ItemDataRole.ToolTipRole else head_words(name)
        label = self._contents.case_label(self._review.case_ids[section])
        if role == Qt.ItemDataRole.ToolTipRole:
            enough = self._enough.get(self._review.case_ids[section], "")
            return plain_tip(f"{label}\n{enough}")
        return self._row_names[section]


def _row_names(contents: Contents, review: Review) -> list[str]:
    """The cases in short: without the scene where their title has no other here."""
    cases = [contents.cases[case_id] for case_id in review.case_ids]
    scenes: dict[str, set[str]] = {}
    for case in cases:
        scenes.setdefault(case.title_id, set()).add(case.scene)
    return [
        ", ".join(
            filter(
                None,
                (
                    contents.titles[case.title_id].name,
                    case.scene if len(scenes[case.title_id]) > 1 else "",
                    " ".join(filter(None, (case.resolution, case.preset))),
                ),
            )
        )
        for case in cases
    ]
