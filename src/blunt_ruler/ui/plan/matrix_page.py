"""The matrix page: cells to leave out or take in by mouse and key, and cases to add."""

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import QItemSelectionModel, Qt, pyqtSignal
from PyQt6.QtGui import QKeySequence, QMouseEvent, QShortcut
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHeaderView,
    QLineEdit,
    QPushButton,
    QTableView,
)

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.plan.matrix import PlanCell
from blunt_ruler.core.plan.plan_edits import toggle_cells
from blunt_ruler.core.records.records import Contents, Review
from blunt_ruler.core.rigs.rig_edits import (
    add_cases,
    remove_cases,
    three_presets,
    three_resolutions,
)
from blunt_ruler.core.runs.import_runs import CaseName, parse_case
from blunt_ruler.ui.desk.snapshot import Snapshot, new_id
from blunt_ruler.ui.desk.stop import Page
from blunt_ruler.ui.kit.layouts import beside, stacked
from blunt_ruler.ui.kit.widgets import menu_button
from blunt_ruler.ui.plan.models import CELL_ROLE, MatrixModel
from blunt_ruler.ui.plan.shown_plan import ShownPlan

SIDE_WIDTH = 216
LEAST_COLUMN = 104


class _Matrix(QTableView):
    """The matrix; while `paints` is on, dragging over cells leaves them out or takes them in.

    Signals:
        painted(): the mouse was let go after a drag.
    """

    painted = pyqtSignal()

    def __init__(self, model: MatrixModel) -> None:
        super().__init__()
        self.setModel(model)
        model.setParent(self)  # so that the table never outlives its model
        self.paints = False
        self.setAccessibleName("Matrix: rigs by cases, what is done and what is left")
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setTabKeyNavigation(False)
        self.setShowGrid(False)
        self.setWordWrap(False)
        head, side = self.horizontalHeader(), self.verticalHeader()
        if head is not None:
            head.setMinimumSectionSize(LEAST_COLUMN)
            head.setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
            head.setTextElideMode(Qt.TextElideMode.ElideNone)
            head.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        if side is not None:
            side.setDefaultSectionSize(29)
            side.setFixedWidth(SIDE_WIDTH)
            side.setTextElideMode(Qt.TextElideMode.ElideRight)

    def mouseReleaseEvent(self, e: QMouseEvent | None) -> None:
        super().mouseReleaseEvent(e)
        if self.paints:
            self.painted.emit()


class MatrixPage(Page):
    """The matrix and what can be done to its cells and cases."""

    def __init__(self, shown: ShownPlan) -> None:
        super().__init__()
        self._shown = shown
        self._snapshot: Snapshot | None = None
        self.model = MatrixModel()
        self.matrix = _Matrix(self.model)
        self.matrix.painted.connect(self.toggle)
        for key in ("Space", "X"):
            shortcut = QShortcut(QKeySequence(key), self.matrix)
            shortcut.setContext(Qt.ShortcutContext.WidgetShortcut)
            shortcut.activated.connect(self.toggle)
        remove = QShortcut(QKeySequence("Delete"), self.matrix)
        remove.setContext(Qt.ShortcutContext.WidgetShortcut)
        remove.activated.connect(self.remove)
        self.paint = QPushButton("Drag to leave out")
        self.paint.setCheckable(True)
        self.paint.toggled.connect(lambda on: setattr(self.matrix, "paints", on))
        self.leave = QPushButton("Leave out or take in")
        self.leave.setToolTip("Space or X")
        self.leave.clicked.connect(self.toggle)
        self.case = QLineEdit()
        self.case.setPlaceholderText("Add a case: Title / scene / 1080p / High")
        self.case.setAccessibleName("Case to add")
        self.case.returnPressed.connect(self.add_case)
        templates = {
            "Three resolutions of every title": three_resolutions,
            "Settings each rig can play: three presets of every title": three_presets,
        }
        self.templates = menu_button(
            "Templates",
            "Templates of cases",
            {words: partial(self.add_template, names) for words, names in templates.items()},
        )
        foot = beside((self.case, 1), spacing=6)
        for button in (self.templates, self.leave, self.paint):
            button.setStyleSheet("padding-left: 8px; padding-right: 8px;")
            foot.addWidget(button)
        stacked((self.matrix, 1), foot, on=self)

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Show the plan of the review."""
        self._snapshot = snapshot
        if snapshot.review is not None and self._shown.plan is not None:
            self.model.show_plan(snapshot.contents, snapshot.review, self._shown.plan)
            self._fit_columns(len(snapshot.review.seats))

    # Edits

    def toggle(self) -> None:
        """Leave the chosen cells out; where all are out already, take them in again."""
        cells = self.chosen()
        if self._snapshot is not None and self._snapshot.review is not None and cells:
            contents, review = self._snapshot.contents, self._snapshot.review
            self.edited.emit(toggle_cells(contents, review, cells))

    def remove(self) -> None:
        """Take the chosen cases out of the review; their runs stay in the logbook."""
        gone = {cell.case_id for cell in self.chosen()}
        if gone and self._snapshot is not None and self._snapshot.review is not None:
            self.edited.emit(remove_cases(self._snapshot.review, gone))

    def add_case(self) -> None:
        """Add the case that is typed."""
        try:
            wanted = (parse_case(self.case.text()),)
        except UserFixable as error:
            self._shown.say_wrong(error)
            return
        self._add(wanted)
        self.case.clear()

    def add_template(self, names: Callable[[Contents, Review], tuple[CaseName, ...]]) -> None:
        """Add the cases of a template."""
        if self._snapshot is not None and self._snapshot.review is not None:
            self._add(names(self._snapshot.contents, self._snapshot.review))

    def _add(self, wanted: tuple[CaseName, ...]) -> None:
        if self._snapshot is None or self._snapshot.review is None:
            return
        if not wanted:
            self.notice_raised.emit("The review has no title yet. Type a case of the first one.")
            return
        edit = add_cases(self._snapshot.contents, self._snapshot.review, wanted, new_id)
        if edit is None:
            self.notice_raised.emit("Those cases are in the review already.")
            return
        self._shown.say_wrong(None)
        self.edited.emit(edit)

    # Cells

    def _fit_columns(self, count: int) -> None:
        """Stretch the columns while they fit; with more, keep them readable and scroll."""
        head = self.matrix.horizontalHeader()
        if head is not None:
            room = max(self.matrix.width() - SIDE_WIDTH - 12, 400)
            fits = count * LEAST_COLUMN <= room
            head.setSectionResizeMode(
                QHeaderView.ResizeMode.Stretch if fits else QHeaderView.ResizeMode.Interactive
            )

    def chosen(self) -> list[PlanCell]:
        """The chosen cells."""
        selection = self.matrix.selectionModel()
        indexes = selection.selectedIndexes() if selection is not None else []
        return [cell for index in indexes if isinstance(cell := index.data(CELL_ROLE), PlanCell)]

    def choose_cells(self, *places: tuple[int, int]) -> None:
        """Choose cells of the matrix by row and column."""
        selection = self.matrix.selectionModel()
        assert selection is not None
        selection.clearSelection()
        for row, column in places:
            selection.select(
                self.model.index(row, column), QItemSelectionModel.SelectionFlag.Select
            )
