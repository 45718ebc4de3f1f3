"""Rigs × cases: lenses, order, means, table and ruler of the Board."""

from PyQt6.QtCore import QModelIndex, Qt, pyqtSignal
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import (
    QButtonGroup,
    QComboBox,
    QDoubleSpinBox,
    QFrame,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QMenu,
    QPushButton,
    QVBoxLayout,
)

from blunt_ruler.core.board.board import Board, Row
from blunt_ruler.core.board.lenses import Lens, lens_words
from blunt_ruler.core.board.lines import board_line, cell_line, cell_next, mean_basis
from blunt_ruler.core.board.published import PUBLISHED, with_published
from blunt_ruler.core.board.row_order import arrange
from blunt_ruler.core.drawing.palette import rig_shades
from blunt_ruler.core.plan.plan_edits import LEFT_OUT_BY_HAND, one_more_pass
from blunt_ruler.core.records.edits import decide, give_role, leave_out, rename_rig, weigh_case
from blunt_ruler.core.records.records import Contents, Decision, Review, Role, Run
from blunt_ruler.core.text import capital, fps_text
from blunt_ruler.exchange.reports import shown_table
from blunt_ruler.ui import theme
from blunt_ruler.ui.board.evidence import cell_parts, mean_parts
from blunt_ruler.ui.board.models import BoardModel, CellRole
from blunt_ruler.ui.board.order_bar import OrderBar
from blunt_ruler.ui.board.paint import LEAST_COLUMN
from blunt_ruler.ui.board.ruler import Ruler
from blunt_ruler.ui.board.table import BoardTable
from blunt_ruler.ui.layouts import beside, stacked
from blunt_ruler.ui.snapshot import Snapshot
from blunt_ruler.ui.stop import Page
from blunt_ruler.ui.widgets import ElidedLabel, Parts, give_way, label


class BoardPage(Page):
    """Rigs × cases.

    Signals:
        import_requested(): the reviewer wants to import logs.
    """

    import_requested = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.body = QVBoxLayout(self)
        self.body.setContentsMargins(0, 0, 0, 0)
        self._whole: Board | None = None
        self._snapshot: Snapshot | None = None
        self._board: Board | None = None
        self._chosen: tuple[str, str] | None = None
        self.model = BoardModel()
        self.table = BoardTable(self.model)
        self.ruler = Ruler()
        self.shown = ElidedLabel("quiet", Qt.AlignmentFlag.AlignRight)
        self.order_bar = OrderBar()
        self.basis = self.order_bar.basis
        self.body.setSpacing(7)
        self.body.addLayout(self._lens_bar())
        self.body.addLayout(self._base_bar())
        self.order_bar.arrangement_changed.connect(self._on_arranged)
        self.order_bar.edited.connect(self.edited)
        self.body.addWidget(self.order_bar)
        self.body.addWidget(self.table, 1)
        frame = QFrame()
        frame.setObjectName("card")
        stacked(self.ruler, margins=(0, 4, 0, 0), on=frame)
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
        for lens in FIRST_LENSES:
            button = QPushButton(capital(lens))
            button.setCheckable(True)
            button.setChecked(lens is Lens.RATE)
            button.setStyleSheet("padding-left: 9px; padding-right: 9px;")
            button.clicked.connect(lambda _checked, lens=lens: self.show_lens(lens))
            self._lenses.addButton(button)
            self.lens_buttons[lens] = button
            bar.addWidget(button)
        self.more = QComboBox()
        self.more.setAccessibleName("More lenses")
        give_way(self.more, 132, 60)
        self.more.addItem("more lenses", None)
        for lens in Lens:
            if lens not in FIRST_LENSES:
                self.more.addItem(capital(lens), lens)
        self.more.activated.connect(self._on_more)
        bar.addWidget(self.more)
        bar.addWidget(self.shown, 1)
        return bar

    def _base_bar(self) -> QHBoxLayout:
        bar = QHBoxLayout()
        bar.setSpacing(6)
        self.base_box = self._role_box("base", Role.BASE, bar)
        bar.addSpacing(8)
        self.reference_box = self._role_box("reference", Role.REFERENCE, bar)
        bar.addStretch(1)
        bar.addWidget(self.order_bar.mean)
        bar.addWidget(self.order_bar.clean)
        bar.addWidget(self.order_bar.shared)
        return bar

    def _role_box(self, words: str, role: Role, bar: QHBoxLayout) -> QComboBox:
        name = label(words, "quiet", wrap=False)
        box = QComboBox()
        box.setAccessibleName(f"The {words} rig")
        give_way(box, 190)
        box.activated.connect(lambda index, box=box: self.give_role(box.itemData(index), role))
        name.setBuddy(box)
        bar.addWidget(name)
        bar.addWidget(box)
        return box

    # Showing

    def _on_more(self, index: int) -> None:
        lens = self.more.itemData(index)
        if lens is not None:
            self.show_lens(lens)

    def line(self) -> str:
        """What the Board found for the chosen rig."""
        board = self._board
        if board is None or not board.runs:
            return "No runs yet. Import a log onto a rig and a case to see the first figure."
        if not board.rows:
            return "No case fits these words: clear the filter to see all."
        return board_line(board, self._chosen[0] if self._chosen else None)

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Show the Board of the present review."""
        self._snapshot = snapshot
        self._whole = snapshot.board
        has_cells = self._whole is not None and bool(self._whole.runs)
        self.order_bar.show_review(snapshot.review)
        for widget in (self.table, self.ruler_frame, self.basis, self.shown, self.order_bar):
            widget.setVisible(has_cells)
        self.empty_button.setVisible(not has_cells)
        self._show_board()

    def _on_arranged(self) -> None:
        self._show_board()
        self.refreshed.emit()

    def _arranged(self) -> Board | None:
        """The Board as the order bar wants it."""
        snapshot, board = self._snapshot, self._whole
        if snapshot is None or board is None:
            return None
        if self.order_bar.published.isChecked():
            board = with_published(snapshot.contents, board)
        chosen = self._chosen[0] if self._chosen else None
        return arrange(board, self.order_bar.arrangement(chosen, self.model.lens))

    def _show_board(self) -> None:
        board = self._board = self._arranged()
        if board is None or not board.runs:
            self.model.show_board(None, self.model.lens)
            return
        if not board.rows:
            self.model.show_board(board, self.model.lens)
            return
        shades = rig_shades(board, theme.current())
        self.table.painter_of_cells.shades = shades
        self.table.rigs.shades = shades
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
                if not column.rig_id.startswith(PUBLISHED):
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
        self._lenses.setExclusive(False)
        for one, button in self.lens_buttons.items():
            button.setChecked(one is lens)
        self._lenses.setExclusive(True)
        self.more.setCurrentIndex(max(self.more.findData(lens), 0))
        self.model.lens = lens
        if self.order_bar.sorted_by_lens():
            self._show_board()
        self.model.show_board(self._board, lens)
        self._show_choice()
        self.refreshed.emit()

    def _on_current_changed(self, current: QModelIndex, _previous: QModelIndex) -> None:
        if not current.isValid() or current.data(CellRole.CASE) is None:
            return
        self._chosen = (current.data(CellRole.RIG), current.data(CellRole.CASE))
        self._show_choice()
        self.refreshed.emit()

    def _show_choice(self) -> None:
        board = self._board
        if board is None or self._chosen is None or not board.rows:
            return
        rig_id, case_id = self._chosen
        self.shown.show_words(lens_words(board, self.model.lens))
        self.basis.show_words(mean_basis(board, rig_id))
        row = next(row for row in board.rows if row.case_id == case_id)
        self.ruler.show_case(board, row, rig_id)

    def evidence(self) -> Parts | None:
        """What is known of the chosen cell, and what can be done about it."""
        board = self._board
        if board is None or self._chosen is None or not board.rows:
            return []
        rig_id, case_id = self._chosen
        row = next(row for row in board.rows if row.case_id == case_id)
        parts = cell_parts(board, row, rig_id)
        parts.append(label("RUNS BEHIND IT", "heading"))
        parts += [self._run_row(run) for run in board.runs.get((rig_id, case_id), ())] or [
            label("none", "quiet")
        ]
        parts += [14, label("WHAT WOULD HELP", "heading"), label(cell_next(board, rig_id, case_id))]
        parts += self._buttons(board, row, rig_id)
        parts += mean_parts(board, rig_id)
        return parts

    def _buttons(self, board: Board, row: Row, rig_id: str) -> Parts:
        """What can be done about the chosen cell."""
        snapshot = self._snapshot
        if snapshot is None or row.case_id not in snapshot.contents.cases:
            return []
        contents, review = snapshot.contents, board.review
        buttons: Parts = []
        if rig_id in contents.rigs:
            again = QPushButton("Send one more pass to the plan")
            again.clicked.connect(
                lambda: self.edited.emit(one_more_pass(contents, review, rig_id, row.case_id))
            )
            buttons.append(again)
        out = row.left_out is not None
        leave = QPushButton("Let the case into the means" if out else "Leave the case out of means")
        leave.clicked.connect(
            lambda: self.edited.emit(
                leave_out(contents, review, row.case_id, None if out else LEFT_OUT_BY_HAND)
            )
        )
        buttons.append(leave)
        if out:
            why = QLineEdit(row.left_out)
            why.setPlaceholderText("Why it is left out")
            why.setAccessibleName("Why the case is left out")
            why.setObjectName(f"why {row.case_id}")  # what is being typed outlives other news
            why.editingFinished.connect(
                lambda: self._on_why(contents, review, row, why.text().strip())
            )
            buttons.append(why)
        weight = QDoubleSpinBox()
        weight.setRange(0.1, 100.0)
        weight.setValue(row.weight)
        weight.setButtonSymbols(QDoubleSpinBox.ButtonSymbols.NoButtons)
        weight.setPrefix("weight in means ")
        weight.setDecimals(1)
        weight.setKeyboardTracking(False)
        weight.setAccessibleName("Weight of the case in means")
        weight.valueChanged.connect(
            lambda value: self.edited.emit(weigh_case(contents, review, row.case_id, value))
        )
        buttons.append(weight)
        return buttons

    def _on_why(self, contents: Contents, review: Review, row: Row, why: str) -> None:
        if why and why != row.left_out:
            self.edited.emit(leave_out(contents, review, row.case_id, why))

    def _run_row(self, run: Run) -> QVBoxLayout:
        row = beside(label(f"pass {run.repeat}", "quiet", wrap=False), spacing=6)
        figure = label(fps_text(run.average_fps), wrap=False)
        figure.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        row.addWidget(figure, 1)
        box = QComboBox()
        box.addItems([str(decision) for decision in Decision])
        box.setCurrentText(str(run.decision))
        box.setAccessibleName(f"Decision on pass {run.repeat}")
        box.setFixedWidth(96)
        box.textActivated.connect(
            lambda words, run=run: self.edited.emit(decide(run, decision=Decision(words)))
        )
        row.addWidget(box)
        both = stacked(row, spacing=1)
        if run.reason:
            both.addWidget(label(run.reason, "caution"))
        return both

    # Roles and names

    def give_role(self, rig_id: str | None, role: Role) -> None:
        """Make a rig base, reference or under test."""
        snapshot = self._snapshot
        if snapshot is not None and snapshot.review is not None and rig_id is not None:
            self.edited.emit(give_role(snapshot.contents, snapshot.review, rig_id, role))

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
                    lambda _checked, role=role: self.give_role(column.rig_id, role)
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
            if name and name != column.name and self._snapshot is not None:
                self.edited.emit(rename_rig(self._snapshot.contents, column.rig_id, name))

        editor.returnPressed.connect(editor.clearFocus)
        editor.editingFinished.connect(finish)

    def copy_cell(self) -> None:
        """Put the chosen cell on the clipboard, with its bases."""
        clipboard = QGuiApplication.clipboard()
        if self._board is None or self._chosen is None or clipboard is None:
            return
        rig_id, case_id = self._chosen
        column = self._board.column(rig_id)
        row = next((row for row in self._board.rows if row.case_id == case_id), None)
        if column is not None and row is not None:  # else it is filtered out, or folded away
            line = cell_line(self._board, rig_id, case_id)
            clipboard.setText(f"{column.name}, {row.label}: {line}")

    def copy_board(self, kind: str) -> None:
        """Put the shown Board on the clipboard: as "text", "csv" or a "picture"."""
        clipboard = QGuiApplication.clipboard()
        if self._board is None or clipboard is None:
            return
        if kind == "picture":
            clipboard.setPixmap(self.table.grab())
        else:
            clipboard.setText(shown_table(self._board, self.model.lens, kind))
        self.notice_raised.emit(f"The Board is on the clipboard as {kind}.")


FIRST_LENSES = (Lens.RATE, Lens.LOW_1, Lens.GAIN, Lens.LOSS, Lens.SPREAD, Lens.STANDING)
