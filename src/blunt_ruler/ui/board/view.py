"""The Board view: lays out lenses, table, ruler and evidence, and connects them."""

from PyQt6.QtCore import QModelIndex, Qt, pyqtSignal
from PyQt6.QtGui import QGuiApplication, QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QButtonGroup,
    QComboBox,
    QFrame,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QMenu,
    QPushButton,
    QTableView,
    QVBoxLayout,
)

from blunt_ruler.core.blunt_lines import board_line, cell_line, cell_next, mean_basis
from blunt_ruler.core.board import Board
from blunt_ruler.core.lenses import Lens, lens_words, value_text
from blunt_ruler.core.models import Decision, Role, Run
from blunt_ruler.core.text import capital, fps_text
from blunt_ruler.ui import theme
from blunt_ruler.ui.board.models import BoardModel, CellRole
from blunt_ruler.ui.board.paint import LEAST_COLUMN, CaseHeader, CellPainter, RigHeader
from blunt_ruler.ui.desk import Spread
from blunt_ruler.ui.parts import ElidedLabel, Stop, figure_row, label
from blunt_ruler.ui.ruler import Ruler, Shown


class _Table(QTableView):
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
        rows = self.model().rowCount() if self.model() else 0
        for row in range(max(first, 1), rows if last < 0 else last + 1):
            if self.cases.starts_title(row):
                y = self.rowViewportPosition(row)
                painter.drawLine(0, y, viewport.width(), y)


class BoardStop(Stop):
    """Rigs × cases.

    Signals:
        role_requested(str, Role): give a rig a role in the review.
        rename_requested(str, str): give a rig another name.
        decision_requested(Run, Decision): keep, redo or set aside a run.
        import_requested(): the reviewer wants to import logs.
    """

    role_requested = pyqtSignal(str, object)
    rename_requested = pyqtSignal(str, str)
    decision_requested = pyqtSignal(object, object)
    import_requested = pyqtSignal()

    def __init__(self) -> None:
        super().__init__("Board")
        self._board: Board | None = None
        self._chosen: tuple[str, str] | None = None
        self.model = BoardModel()
        self.table = _Table(self.model)
        self.ruler = Ruler()
        self.shown = ElidedLabel("quiet", Qt.AlignmentFlag.AlignRight)
        self.basis = ElidedLabel("quiet", Qt.AlignmentFlag.AlignRight)
        self.body.setSpacing(7)
        self.body.addLayout(self._lens_bar())
        self.body.addLayout(self._base_bar())
        self.body.addWidget(self.table, 1)
        frame = QFrame()
        frame.setObjectName("card")
        inside = QVBoxLayout(frame)
        inside.setContentsMargins(0, 4, 0, 0)
        inside.addWidget(self.ruler)
        self.ruler_frame = frame
        self.body.addWidget(frame)
        self.empty_button = QPushButton("Import logs…")
        self.empty_button.setObjectName("primary")
        self.empty_button.clicked.connect(self.import_requested)
        self.body.addWidget(self.empty_button, 0, Qt.AlignmentFlag.AlignLeft)
        self.body.addStretch(0)
        selection = self.table.selectionModel()
        assert selection is not None
        selection.currentChanged.connect(self._on_current_changed)
        self.table.rigs.sectionDoubleClicked.connect(self.rename_in_place)
        self.table.rigs.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.table.rigs.customContextMenuRequested.connect(
            lambda point: self._header_menu(self.table.rigs.logicalIndexAt(point))
        )
        self.table.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.table.customContextMenuRequested.connect(
            lambda _point: self._header_menu(self.table.currentIndex().column())
        )

    def _lens_bar(self) -> QHBoxLayout:
        bar = QHBoxLayout()
        bar.setSpacing(6)
        self._lenses = QButtonGroup(self)
        self.lens_buttons: dict[Lens, QPushButton] = {}
        for lens in Lens:
            button = QPushButton(capital(lens))
            button.setCheckable(True)
            button.setChecked(lens is Lens.RATE)
            button.clicked.connect(lambda _checked, lens=lens: self.show_lens(lens))
            self._lenses.addButton(button)
            self.lens_buttons[lens] = button
            bar.addWidget(button)
        bar.addWidget(self.shown, 1)
        return bar

    def _base_bar(self) -> QHBoxLayout:
        bar = QHBoxLayout()
        bar.setSpacing(6)
        self.base_box = self._role_box("base", Role.BASE, bar)
        bar.addSpacing(8)
        self.reference_box = self._role_box("reference", Role.REFERENCE, bar)
        bar.addWidget(self.basis, 1)
        return bar

    def _role_box(self, words: str, role: Role, bar: QHBoxLayout) -> QComboBox:
        name = label(words, "quiet", wrap=False)
        box = QComboBox()
        box.setAccessibleName(f"The {words} rig")
        box.setFixedWidth(188)
        box.activated.connect(
            lambda index, box=box: self.role_requested.emit(box.itemData(index), role)
        )
        name.setBuddy(box)
        bar.addWidget(name)
        bar.addWidget(box)
        return box

    # Showing

    def show_spread(self, spread: Spread | None) -> None:
        """Show the Board of the present review."""
        self._board = spread.board if spread else None
        board = self._board
        has_cells = board is not None and bool(board.runs)
        for widget in (self.table, self.ruler_frame, self.basis, self.shown):
            widget.setVisible(has_cells)
        self.empty_button.setVisible(not has_cells)
        if board is None or not has_cells:
            self.model.show_board(None, self.model.lens)
            self.say(
                "No logbook is open. Make a new one or open one from the menu at the top left."
                if spread is None
                else "No runs yet. Import a log onto a rig and a case to see the first figure."
            )
            if self.evidence:
                self.evidence.show_parts([])
            return
        colours = theme.rig_colours(board)
        self.table.painter_of_cells.colours = colours
        self.table.rigs.colours = colours
        self.model.show_board(board, self.model.lens)
        self._fill_role_boxes(board)
        # With more rigs than fit, columns keep a readable width and the table scrolls sideways.
        fits = len(board.columns) * LEAST_COLUMN <= max(self.table.width() - 190, 600)
        self.table.rigs.setSectionResizeMode(
            QHeaderView.ResizeMode.Stretch if fits else QHeaderView.ResizeMode.Interactive
        )
        self._restore_choice(board)
        self._show_choice()

    def _fill_role_boxes(self, board: Board) -> None:
        for box, holder in ((self.base_box, board.base), (self.reference_box, board.reference)):
            box.clear()
            for column in board.columns:
                box.addItem(column.name, column.rig_id)
            box.setCurrentIndex(board.columns.index(holder) if holder else -1)
            box.setToolTip(holder.name if holder else "none chosen")

    def _restore_choice(self, board: Board) -> None:
        rigs = [column.rig_id for column in board.columns]
        cases = [row.case_id for row in board.rows]
        if self._chosen is None or self._chosen[0] not in rigs or self._chosen[1] not in cases:
            tested = next((c.rig_id for c in board.columns if c.role is Role.TESTED), rigs[0])
            self._chosen = (tested, cases[0])
        index = self.model.index(cases.index(self._chosen[1]), rigs.index(self._chosen[0]))
        self.table.setCurrentIndex(index)

    def show_lens(self, lens: Lens) -> None:
        """Look at the same cells another way."""
        self.lens_buttons[lens].setChecked(True)
        self.model.show_board(self._board, lens)
        self._show_choice()

    def _on_current_changed(self, current: QModelIndex, _previous: QModelIndex) -> None:
        if not current.isValid() or current.data(CellRole.CASE) is None:
            return
        self._chosen = (current.data(CellRole.RIG), current.data(CellRole.CASE))
        self._show_choice()

    def _show_choice(self) -> None:
        board = self._board
        if board is None or self._chosen is None:
            return
        rig_id, case_id = self._chosen
        self.say(board_line(board, rig_id))
        self.shown.show_words(lens_words(board, self.model.lens))
        self.basis.show_words(mean_basis(board, rig_id))
        row = next(row for row in board.rows if row.case_id == case_id)
        self.ruler.show_case(Shown(board, row, rig_id))
        self._show_evidence(board, rig_id, case_id)

    def _show_evidence(self, board: Board, rig_id: str, case_id: str) -> None:
        if self.evidence is None:
            return
        column = board.column(rig_id)
        row = next(row for row in board.rows if row.case_id == case_id)
        cell = board.cells.get((rig_id, case_id))
        parts: list[object] = [
            label("THIS CELL", "heading"),
            label(cell_line(board, rig_id, case_id), "says"),
            label(f"{column.name if column else ''}, {row.title} {row.settings}", "quiet"),
            14,
        ]
        if cell is not None:
            parts += [
                label("FIGURES", "heading"),
                figure_row("average", f"{fps_text(cell.average_fps)} fps"),
                figure_row(f"1 % low, {board.review.low_school}", _low_words(cell.low_1_fps)),
                figure_row("gain over base", value_text(cell.gain, Lens.GAIN)),
                figure_row("change against reference", value_text(cell.loss, Lens.LOSS)),
                14,
            ]
        parts.append(label("RUNS BEHIND IT", "heading"))
        parts += [self._run_row(run) for run in board.runs.get((rig_id, case_id), ())] or [
            label("none", "quiet")
        ]
        parts += [14, label("WHAT WOULD HELP", "heading"), label(cell_next(board, rig_id, case_id))]
        self.evidence.show_parts(parts)  # type: ignore[arg-type]

    def _run_row(self, run: Run) -> QVBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(6)
        row.addWidget(label(f"pass {run.repeat}", "quiet", wrap=False))
        figure = label(fps_text(run.average_fps), wrap=False)
        figure.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        row.addWidget(figure, 1)
        box = QComboBox()
        box.addItems([str(decision) for decision in Decision])
        box.setCurrentText(str(run.decision))
        box.setAccessibleName(f"Decision on pass {run.repeat}")
        box.setFixedWidth(96)
        box.textActivated.connect(
            lambda words, run=run: self.decision_requested.emit(run, Decision(words))
        )
        row.addWidget(box)
        both = QVBoxLayout()
        both.setSpacing(1)
        both.addLayout(row)
        if run.reason:
            both.addWidget(label(run.reason, "caution"))
        return both

    # Roles and names

    def _header_menu(self, section: int) -> None:
        board = self._board
        if board is None or not 0 <= section < len(board.columns):
            return
        column = board.columns[section]
        menu = QMenu(self)
        for role in Role:
            action = menu.addAction(
                f"Make it {role}" if role is Role.TESTED else f"Make it the {role}"
            )
            if action is not None:
                action.setEnabled(column.role is not role)
                action.triggered.connect(
                    lambda _checked, role=role: self.role_requested.emit(column.rig_id, role)
                )
        menu.addSeparator()
        rename = menu.addAction("Rename…")
        if rename is not None:
            rename.triggered.connect(lambda: self.rename_in_place(section))
        at = self.table.rigs.mapToGlobal(self.table.rigs.rect().bottomLeft())
        at.setX(at.x() + self.table.rigs.sectionViewportPosition(section))
        menu.popup(at)

    def chosen_rig(self) -> str | None:
        """Id of the rig whose column is chosen."""
        return self._chosen[0] if self._chosen and self._board else None

    def rename_chosen(self) -> None:
        """Edit the name of the chosen rig where it stands."""
        if self._board is not None and self._chosen is not None:
            column = self._board.column(self._chosen[0])
            if column is not None:
                self.rename_in_place(self._board.columns.index(column))

    def rename_in_place(self, section: int) -> None:
        """Edit a rig's name where it stands; Enter keeps it, Escape leaves it."""
        board = self._board
        if board is None or not 0 <= section < len(board.columns):
            return
        column = board.columns[section]
        header = self.table.rigs
        editor = QLineEdit(column.name, header)
        editor.setAccessibleName(f"Name of {column.name}")
        editor.setMaxLength(120)
        editor.setGeometry(
            header.sectionViewportPosition(section) + 2,
            8,
            max(header.sectionSize(section), 180),
            32,
        )
        editor.selectAll()
        editor.show()
        editor.setFocus()

        def finish() -> None:
            name = editor.text().strip()
            editor.deleteLater()
            if name and name != column.name:
                self.rename_requested.emit(column.rig_id, name)

        editor.returnPressed.connect(editor.clearFocus)
        editor.editingFinished.connect(finish)

    def copy_cell(self) -> None:
        """Put the chosen cell on the clipboard, with its bases."""
        clipboard = QGuiApplication.clipboard()
        if self._board is not None and self._chosen is not None and clipboard is not None:
            column = self._board.column(self._chosen[0])
            row = next(row for row in self._board.rows if row.case_id == self._chosen[1])
            name = column.name if column else ""
            clipboard.setText(f"{name}, {row.label}: {cell_line(self._board, *self._chosen)}")


def _low_words(low_fps: float | None) -> str:
    return "too few frames" if low_fps is None else f"{fps_text(low_fps)} fps"
