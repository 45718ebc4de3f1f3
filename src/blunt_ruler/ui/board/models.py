"""The Board as a Qt table: thin over the immutable Board value, with a ghost rig and a ghost case.

What was typed and cannot be understood stays in its cell as a draft, and what is on its way to the
logbook as pending, until a Board holds it.
"""

from dataclasses import dataclass, replace
from enum import IntEnum
from typing import NamedTuple

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt

from blunt_ruler.core.board.board import Board, Column, Row
from blunt_ruler.core.board.groups import SUBTOTAL
from blunt_ruler.core.board.lenses import (
    Lens,
    beside_text,
    cell_text,
    is_open,
    mean_text,
    mean_words,
)
from blunt_ruler.core.board.row_order import COLLAPSED
from blunt_ruler.core.claims.cells import cell_line
from blunt_ruler.core.records.roles import Role
from blunt_ruler.core.text import MISSING
from blunt_ruler.ui.kit.tips import plain_tip

PENDING = "pending:"
SCORE = "score:"  # before the name of a case that is a test's
GHOST_RIG = "+ rig"
GHOST_CASE = "+ case"
GHOST_SAYS = "title / scene / resolution / preset, or score: test"

Place = tuple[str, str]
"""(rig id, case id)."""


class CellRole(IntEnum):
    """What the painter asks of a cell, beside its text."""

    BESIDE = Qt.ItemDataRole.UserRole + 1
    KEPT = Qt.ItemDataRole.UserRole + 2
    RIG = Qt.ItemDataRole.UserRole + 3
    CASE = Qt.ItemDataRole.UserRole + 4
    WRONG = Qt.ItemDataRole.UserRole + 5


@dataclass(frozen=True, slots=True)
class Draft:
    """What stands in a cell and is not in the logbook: wrong, with why, or on its way."""

    text: str
    wrong: str = ""


class Look(NamedTuple):
    """All that is painted of a cell: its figure, the smaller one beside it, whether it is wrong,
    the share kept of the reference, its rig, whether it is a mean, and whether the change that it
    shows is not told apart from none.
    """

    text: str
    beside: str
    is_wrong: bool
    kept: float | None
    rig_id: str
    is_mean: bool
    is_open: bool


class BoardModel(QAbstractTableModel):
    """Rows are cases, then the ghost case, then the means; columns are rigs, then the ghost rig."""

    def __init__(self) -> None:
        super().__init__()
        self.board: Board | None = None
        self.lens = Lens.RATE
        self.drafts: dict[Place, Draft] = {}
        self._looks: dict[tuple[int, int, Draft | None], Look] = {}
        self.pending_rigs: list[str] = []
        self.pending_cases: list[str] = []
        self._bare: Board | None = None

    def show_board(self, board: Board | None, lens: Lens) -> None:
        """Show another board or lens; the shape is only reset when it changed."""
        self._bare = board
        whole = self._with_pending(board) if board is not None else None
        old = self.board
        same_shape = (
            old is not None
            and whole is not None
            and len(old.rows) == len(whole.rows)
            and len(old.columns) == len(whole.columns)
            and bool(old.totals) == bool(whole.totals)
        )
        if same_shape:
            self.board, self.lens, self._looks = whole, lens, {}
            last = self.index(self.rowCount() - 1, self.columnCount() - 1)
            self.dataChanged.emit(self.index(0, 0), last)
            self.headerDataChanged.emit(Qt.Orientation.Horizontal, 0, self.columnCount() - 1)
            self.headerDataChanged.emit(Qt.Orientation.Vertical, 0, self.rowCount() - 1)
            return
        self.beginResetModel()
        self.board, self.lens, self._looks = whole, lens, {}
        self.endResetModel()

    def _with_pending(self, board: Board) -> Board:
        """The Board with the rigs and cases that are on their way."""
        rigs = {column.name.lower() for column in board.columns}
        cases = {row.label.lower() for row in board.rows}
        self.pending_rigs = [name for name in self.pending_rigs if name.lower() not in rigs]
        self.pending_cases = [
            name
            for name in self.pending_cases
            if name.removeprefix(SCORE).strip().lower() not in cases
        ]
        columns = [
            Column(f"{PENDING}{name}", name, name, "", "", Role.TESTED, False, None)
            for name in self.pending_rigs
        ]
        rows = [
            Row(f"{PENDING}{name}", name, *_title_and_settings(name)) for name in self.pending_cases
        ]
        if not columns and not rows:
            return board
        return replace(board, columns=(*board.columns, *columns), rows=(*board.rows, *rows))

    def add_pending(self, *, rig: str = "", case: str = "") -> None:
        """A rig or a case is on its way."""
        if rig:
            self.pending_rigs.append(rig)
        if case:
            self.pending_cases.append(case)
        self.show_board(self._bare, self.lens)

    def put_draft(self, place: Place, draft: Draft | None) -> None:
        """Something stands in a cell that the logbook does not hold, or no more for None."""
        if draft is None:
            self.drafts.pop(place, None)
        else:
            self.drafts[place] = draft
        if self.rowCount() and self.columnCount():
            last = self.index(self.rowCount() - 1, self.columnCount() - 1)
            self.dataChanged.emit(self.index(0, 0), last)

    def forget_sent(self) -> None:
        """What was on its way has arrived."""
        self.drafts = {place: draft for place, draft in self.drafts.items() if draft.wrong}

    def first_wrong(self) -> str:
        """Why the first cell that cannot be understood cannot; blank where all can."""
        board = self.board
        if board is None:
            return ""
        rigs = {column.rig_id for column in board.columns}
        cases = {row.case_id for row in board.rows}
        shown = ((place, draft) for place, draft in self.drafts.items() if draft.wrong)
        return next((d.wrong for (rig, case), d in shown if rig in rigs and case in cases), "")

    @property
    def ghost_column(self) -> int:
        """The column of the ghost rig."""
        return 0 if self.board is None else len(self.board.columns)

    @property
    def ghost_row(self) -> int:
        """The row of the ghost case."""
        return 0 if self.board is None else len(self.board.rows)

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:
        if self.board is None or parent.isValid():
            return 0
        return len(self.board.rows) + 1 + (1 if self.board.totals else 0)

    def columnCount(self, parent: QModelIndex = QModelIndex()) -> int:
        return 0 if self.board is None or parent.isValid() else len(self.board.columns) + 1

    def is_mean_row(self, row: int) -> bool:
        """Whether a row is the foot with the means."""
        return self.board is not None and row > len(self.board.rows)

    def place(self, index: QModelIndex) -> Place | None:
        """The rig and case of a cell; None for ghosts, means and rows that stand for several."""
        board = self.board
        if board is None or not index.isValid():
            return None
        if index.row() >= len(board.rows) or index.column() >= len(board.columns):
            return None
        case_id = board.rows[index.row()].case_id
        if case_id.startswith((COLLAPSED, SUBTOTAL)):
            return None
        return board.columns[index.column()].rig_id, case_id

    def first_empty(self) -> tuple[int, int] | None:
        """Row and column of the first cell that says nothing, row by row."""
        board = self.board
        if board is None:
            return None
        for row, case in enumerate(board.rows):
            for column, rig in enumerate(board.columns):
                place = rig.rig_id, case.case_id
                if place not in self.drafts and not board.runs.get(place):
                    return row, column
        return None

    def flags(self, index: QModelIndex) -> Qt.ItemFlag:
        if self.is_mean_row(index.row()):
            return Qt.ItemFlag.ItemIsEnabled
        return Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable

    def _is_open(self, index: QModelIndex) -> bool:
        """Whether the change that a cell shows beside its rate, or as its figure, is open."""
        place, board = self.place(index), self.board
        cell = board.cells.get(place) if board is not None and place is not None else None
        lens = Lens.LOSS if self.lens in (Lens.LOSS, Lens.FASTER_BY) else Lens.GAIN
        return cell is not None and is_open(cell, lens)

    def look(self, index: QModelIndex) -> Look:
        """All that is painted of a cell; it is asked for at every step of a scroll."""
        draft = self.drafts.get(self.place(index) or ("", "")) if self.drafts else None
        at = index.row(), index.column(), draft
        if at not in self._looks:
            kept = self.data(index, CellRole.KEPT)
            self._looks[at] = Look(
                str(self.data(index) or ""),
                str(self.data(index, CellRole.BESIDE) or ""),
                bool(self.data(index, CellRole.WRONG)),
                kept if isinstance(kept, float) else None,
                str(self.data(index, CellRole.RIG) or ""),
                self.is_mean_row(index.row()),
                self._is_open(index),
            )
        return self._looks[at]

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        board = self.board
        if board is None or not index.isValid():
            return None
        ghost_rig = index.column() >= len(board.columns)
        if index.row() == len(board.rows) or ghost_rig:
            if role == Qt.ItemDataRole.AccessibleTextRole:
                return GHOST_RIG if ghost_rig else f"{GHOST_CASE}: {GHOST_SAYS}"
            return None
        column = board.columns[index.column()]
        if self.is_mean_row(index.row()):
            text = mean_text(board, column.rig_id, self.lens)
            return text if role == Qt.ItemDataRole.DisplayRole else None
        row = board.rows[index.row()]
        draft = self.drafts.get((column.rig_id, row.case_id))
        match role:
            case Qt.ItemDataRole.DisplayRole if draft is not None:
                return draft.text or MISSING
            case CellRole.WRONG:
                return draft.wrong if draft is not None else ""
            case Qt.ItemDataRole.ToolTipRole if draft is not None and draft.wrong:
                return plain_tip(draft.wrong)
            case Qt.ItemDataRole.DisplayRole:
                return cell_text(board, column.rig_id, row.case_id, self.lens)
            case CellRole.BESIDE:
                if draft is not None:
                    return ""
                return beside_text(board, column.rig_id, row.case_id, self.lens)
            case CellRole.KEPT:
                return board.kept_of_reference(column.rig_id, row.case_id)
            case CellRole.RIG:
                return column.rig_id
            case CellRole.CASE:
                return row.case_id
            case Qt.ItemDataRole.AccessibleTextRole | Qt.ItemDataRole.ToolTipRole:
                said = cell_line(board, column.rig_id, row.case_id)
                words = f"{column.name}, {row.label}: {said}"
                return plain_tip(words) if role == Qt.ItemDataRole.ToolTipRole else words
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
        words = self._head(board, section, orientation)
        return plain_tip(words) if role == Qt.ItemDataRole.ToolTipRole else words

    def _head(self, board: Board, section: int, orientation: Qt.Orientation) -> str:
        if orientation is Qt.Orientation.Horizontal:
            if section >= len(board.columns):
                return GHOST_RIG
            column = board.columns[section]
            return f"{column.name} ({column.role})"
        if section == len(board.rows):
            return GHOST_CASE
        if self.is_mean_row(section):
            return mean_words(board)
        return board.rows[section].label


def _title_and_settings(name: str) -> tuple[str, str, str]:
    """(title, scene, settings) of a case that is only a line of words yet."""
    title, *rest = [part.strip() for part in name.split("/")]
    return title, rest[0] if len(rest) > 2 else "", " ".join(rest[1:] if len(rest) > 2 else rest)
