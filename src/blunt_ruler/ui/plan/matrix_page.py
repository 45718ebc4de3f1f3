"""The matrix page: cells to leave out or take in by mouse and key, and cases to add."""

from PyQt6.QtCore import QItemSelectionModel, Qt, pyqtSignal
from PyQt6.QtGui import QKeySequence, QMouseEvent, QShortcut
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QMenu,
    QPushButton,
    QTableView,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from blunt_ruler.core.plan.matrix import PlanCell
from blunt_ruler.core.rigs.rig_edits import three_presets, three_resolutions
from blunt_ruler.ui.plan.models import CELL_ROLE, MatrixModel

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
            head.setTextElideMode(Qt.TextElideMode.ElideRight)
            head.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        if side is not None:
            side.setDefaultSectionSize(29)
            side.setFixedWidth(SIDE_WIDTH)
            side.setTextElideMode(Qt.TextElideMode.ElideRight)

    def mouseReleaseEvent(self, e: QMouseEvent | None) -> None:
        super().mouseReleaseEvent(e)
        if self.paints:
            self.painted.emit()


class MatrixPage(QWidget):
    """The matrix and what can be done to its cells and cases.

    Signals:
        toggle_requested(): leave the chosen cells out, or take them in again.
        remove_requested(): take the chosen cases out of the review.
        add_requested(): add the case that is typed.
        template_requested(object): add the cases that a function names.
    """

    toggle_requested = pyqtSignal()
    remove_requested = pyqtSignal()
    add_requested = pyqtSignal()
    template_requested = pyqtSignal(object)

    def __init__(self, model: MatrixModel) -> None:
        super().__init__()
        self._model = model
        self.matrix = _Matrix(model)
        self.matrix.painted.connect(self.toggle_requested)
        for key in ("Space", "X"):
            shortcut = QShortcut(QKeySequence(key), self.matrix)
            shortcut.setContext(Qt.ShortcutContext.WidgetShortcut)
            shortcut.activated.connect(self.toggle_requested)
        remove = QShortcut(QKeySequence("Delete"), self.matrix)
        remove.setContext(Qt.ShortcutContext.WidgetShortcut)
        remove.activated.connect(self.remove_requested)
        self.paint = QPushButton("Drag to leave out")
        self.paint.setCheckable(True)
        self.paint.toggled.connect(lambda on: setattr(self.matrix, "paints", on))
        self.leave = QPushButton("Leave out or take in")
        self.leave.setToolTip("Space or X")
        self.leave.clicked.connect(lambda: self.toggle_requested.emit())
        self.case = QLineEdit()
        self.case.setPlaceholderText("Add a case: Title / scene / 1080p / High")
        self.case.setAccessibleName("Case to add")
        self.case.returnPressed.connect(self.add_requested)
        self.templates = QToolButton()
        self.templates.setText("Templates ▾")
        self.templates.setAccessibleName("Templates of cases")
        self.templates.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu = QMenu(self.templates)
        for words, names in (
            ("Three resolutions of every title", three_resolutions),
            ("Settings each rig can play: three presets of every title", three_presets),
        ):
            action = menu.addAction(words)
            if action is not None:
                action.triggered.connect(
                    lambda _on, names=names: self.template_requested.emit(names)
                )
        self.templates.setMenu(menu)
        foot = QHBoxLayout()
        foot.setSpacing(6)
        foot.addWidget(self.case, 1)
        for button in (self.templates, self.leave, self.paint):
            button.setStyleSheet("padding-left: 8px; padding-right: 8px;")
            foot.addWidget(button)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.matrix, 1)
        column.addLayout(foot)

    def fit_columns(self, count: int) -> None:
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
                self._model.index(row, column), QItemSelectionModel.SelectionFlag.Select
            )
