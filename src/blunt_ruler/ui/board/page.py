"""The Board as one types into it: rigs × cases, the ruler of the chosen case, the three ways in."""

from dataclasses import dataclass

from PyQt6.QtCore import QModelIndex, QPoint, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QGuiApplication, QResizeEvent
from PyQt6.QtWidgets import (
    QButtonGroup,
    QComboBox,
    QFrame,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from blunt_ruler.core.board.board import Board
from blunt_ruler.core.board.groups import (
    Cases,
    Totals,
    Wanted,
    means_over,
    wanted_means,
    with_means,
)
from blunt_ruler.core.board.lenses import Lens, lens_words
from blunt_ruler.core.board.lines import mean_basis
from blunt_ruler.core.board.row_order import arrange
from blunt_ruler.core.claims.cells import cell_line
from blunt_ruler.core.claims.headline import board_headline, nothing_yet
from blunt_ruler.core.claims.offer import Claims
from blunt_ruler.core.claims.pairings import Pairings
from blunt_ruler.core.compare.like_for_like import unsound_words
from blunt_ruler.core.drawing.palette import rig_shades
from blunt_ruler.core.records.records import Role
from blunt_ruler.core.text import capital
from blunt_ruler.core.types import Progress
from blunt_ruler.exchange.documents.reports import shown_table
from blunt_ruler.ui.board.facts import CellFacts
from blunt_ruler.ui.board.heads import Heads
from blunt_ruler.ui.board.inspector import CellInspector, notation_parts
from blunt_ruler.ui.board.models import PENDING, BoardModel
from blunt_ruler.ui.board.order_box import OrderBox
from blunt_ruler.ui.board.paint import HEAD_HEIGHT, SIDE_WIDTH
from blunt_ruler.ui.board.ruler import Ruler
from blunt_ruler.ui.board.table import BoardTable
from blunt_ruler.ui.board.typing import Typing
from blunt_ruler.ui.desk.jobs import Job, Jobs
from blunt_ruler.ui.desk.snapshot import Snapshot
from blunt_ruler.ui.desk.stop import Page, fit_words
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.explained import explained
from blunt_ruler.ui.kit.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.kit.widgets import Parts, give_way, label

FIRST_LENSES = (Lens.RATE, Lens.LOW_1, Lens.GAIN, Lens.LOSS)
ROOM_FOR_BUTTONS = 700


@dataclass(frozen=True, slots=True)
class At:
    """What is chosen: a rig and a case, None for the ghost."""

    rig_id: str | None
    case_id: str | None


class BoardPage(Page):
    """Rigs × cases.

    Signals:
        import_requested(): the reviewer wants to import logs.
        recording_requested(): the reviewer wants to read a recording of the screen.
    """

    import_requested = pyqtSignal()
    recording_requested = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.body = QVBoxLayout(self)
        self.body.setContentsMargins(0, 0, 0, 0)
        self.body.setSpacing(7)
        self._whole: Board | None = None
        self._snapshot: Snapshot | None = None
        self._claims_over: Claims | None = None  # of a Board that is filtered
        self._board: Board | None = None
        self._at: At | None = None
        self._coming: tuple[str, str] | None = None  # rig and case, by name, of a cell to stand on
        self.jobs = Jobs(threads=1, parent=self)
        self._asking: Job | None = None
        self._means_of: Board | None = None
        self._means: dict[Cases, Totals] = {}
        self._restoring = False
        self.model = BoardModel()
        self.table = BoardTable(self.model)
        self.heads = Heads(self.table)
        self.typing = Typing(self.table)
        self.inspector = CellInspector(self)
        self.ruler = Ruler()
        self.corner = QLabel(self.table)
        self.corner.setTextFormat(Qt.TextFormat.PlainText)
        self.corner.setObjectName("corner")
        self.corner.setWordWrap(True)
        self.corner.setGeometry(1, 1, SIDE_WIDTH, HEAD_HEIGHT - 1)
        self.order_box = OrderBox()
        self.lasting = self.facts = CellFacts()
        self.basis = self.order_box.basis
        self.lens_bar = self._lens_bar()
        self.order_box.arrangement_changed.connect(self._on_arranged)
        for part in (self.order_box, self.heads, self.inspector, self.facts):
            part.edited.connect(self.edited)
        self.inspector.refreshed.connect(self.refreshed)
        self.body.addWidget(self.table, 1)
        self.ways_in = self._ways_in()
        self.body.addWidget(self.ways_in)
        frame = QFrame()
        frame.setObjectName("card")
        stacked(self.ruler, margins=(0, 4, 0, 0), on=frame)
        self.ruler_frame = frame
        self.body.addWidget(frame)
        selection = self.table.selectionModel()
        assert selection is not None
        selection.currentChanged.connect(self._on_current_changed)
        selection.selectionChanged.connect(lambda *_: self._on_selection_changed())
        self.typing.made.connect(self.made)
        self.typing.drafted.connect(self.refreshed)
        self.typing.table_taken.connect(self._on_table_taken)
        self.typing.notice_raised.connect(self.notice_raised)
        self.typing.error_raised.connect(self.error_raised)

    def _lens_bar(self) -> QWidget:
        """The lenses, beside the names of the pages."""
        bar = QWidget()
        row = beside(STRETCH, spacing=6, on=bar)
        self._lenses = QButtonGroup(self)
        self.lens_buttons: dict[Lens, QPushButton] = {}
        for lens in FIRST_LENSES:
            button = QPushButton(capital(lens))
            button.setCheckable(True)
            button.setChecked(lens is Lens.RATE)
            button.setToolTip(explained(lens))
            fit_words(button)
            button.clicked.connect(lambda _checked, lens=lens: self.show_lens(lens))
            self._lenses.addButton(button)
            self.lens_buttons[lens] = button
            row.addWidget(button)
        self.more = QComboBox()
        self.more.setAccessibleName("Lens")
        give_way(self.more, 178, 106)
        self.more.setPlaceholderText("more …")
        for lens in Lens:
            self.more.addItem(capital(lens), lens)
            tip = Qt.ItemDataRole.ToolTipRole
            self.more.setItemData(self.more.count() - 1, explained(lens), tip)
        self.more.setCurrentIndex(-1)
        self.more.activated.connect(lambda index: self.show_lens(self.more.itemData(index)))
        row.addWidget(self.more)
        return bar

    def _show_lens_box(self) -> None:
        """The box names the lens where no button does."""
        button = self.lens_buttons.get(self.model.lens)
        pressed = button is not None and not button.isHidden()
        self.more.setCurrentIndex(-1 if pressed else self.more.findData(self.model.lens))

    def _ways_in(self) -> QWidget:
        """What an empty Board offers."""
        frame = QFrame()
        frame.setObjectName("card")
        logs = QPushButton("Import logs…")
        logs.clicked.connect(self.import_requested)
        recording = QPushButton("Read a recording…")
        recording.clicked.connect(self.recording_requested)
        rig = QPushButton("Type a rig")
        rig.setObjectName("primary")
        rig.clicked.connect(lambda: self.typing.open_rig(""))
        self.empty_button = logs
        stacked(
            label("Three ways to the first figure", "says"),
            label(
                "Type: name a rig, Enter, name the next; Enter on a blank goes on to the cases, "
                "and another one to the cells. A digit opens a cell."
            ),
            label("Paste: copy a table from any spreadsheet and press Ctrl+V on the grid."),
            label("Drop: frame logs, or a recording of the screen, anywhere on this window."),
            4,
            beside(rig, logs, recording, STRETCH, spacing=8),
            spacing=6,
            margins=(14, 12, 14, 14),
            on=frame,
        )
        return frame

    def resizeEvent(self, a0: QResizeEvent | None) -> None:
        super().resizeEvent(a0)
        for button in self.lens_buttons.values():
            button.setVisible(self.width() >= ROOM_FOR_BUTTONS)
        self._show_lens_box()
        self.table.fit_columns()
        QTimer.singleShot(0, self._share_room)

    def _share_room(self) -> None:
        """What the rows do not need goes to the ruler."""
        viewport, side = self.table.viewport(), self.table.verticalHeader()
        if viewport is not None and side is not None and self.ruler_frame.isVisible():
            self.ruler.take_room(viewport.height() - side.length() - 4)

    # Showing

    def line(self) -> str:
        """What the Board found for the chosen rig."""
        board = self._board
        wrong = self.model.first_wrong()
        if board is None:
            return ""
        if board.runs and not board.rows:
            return "No case fits these words: clear the filter to see all."
        if wrong:
            return f"{wrong} It stays in its cell until it is put right."
        claims = self._claims(board)
        return (
            board_headline(claims, self._at.rig_id if self._at else None)
            if claims
            else (nothing_yet(board))
        )

    def _claims(self, board: Board) -> Claims | None:
        """What may be said of the Board that is shown: of all its rows, or of some."""
        analysis = self._snapshot.analysis if self._snapshot else None
        if analysis is None or not board.over:
            return analysis.claims if analysis else None
        if self._claims_over is None or self._claims_over.board is not board:
            unsound = unsound_words(analysis.checked, analysis.handover)
            pairings = Pairings(analysis.contents, board, unsound, analysis.scores)
            self._claims_over = Claims(pairings)
        return self._claims_over

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Show the Board of the present review."""
        self._snapshot, self._claims_over = snapshot, None
        self._whole = snapshot.board
        self._stand_on_what_came()
        self.typing.show_snapshot(snapshot)
        has_cells = self._whole is not None and bool(self._whole.runs)
        self.order_box.show_review(snapshot.review)
        self.facts.show_review(snapshot.review)
        self.heads.show_review(snapshot.contents, snapshot.review)
        self.ways_in.setVisible(not has_cells)
        self._show_board()

    def stand_on(self, rig: str, case: str) -> None:
        """Stand on the cell of a rig and case, by their names, as soon as it is there."""
        self._coming = rig.lower(), case.lower()

    def _stand_on_what_came(self) -> None:
        if self._coming is None or self._whole is None:
            return
        names = {one.rig_id: one.name.lower() for one in self._whole.columns}
        labels = {one.case_id: one.label.lower() for one in self._whole.rows}
        for rig_id, case_id in self._whole.cells:
            if (names.get(rig_id), labels.get(case_id)) == self._coming:
                self._at, self._coming = At(rig_id, case_id), None
                return

    def _on_table_taken(self) -> None:
        self._at = None  # stand on its first cell

    def _on_arranged(self) -> None:
        self._show_board()
        self.refreshed.emit()

    def _arranged(self) -> Board | None:
        """The Board as the order box wants it."""
        snapshot, board = self._snapshot, self._whole
        if snapshot is None or board is None:
            return None
        chosen = self._at.rig_id if self._at else None
        scores = snapshot.analysis.scores.board if snapshot.analysis else None
        how = self.order_box.arrangement(chosen, self.model.lens)
        shown = arrange(board, how, scores)
        wanted = wanted_means(board, shown, how)
        self._ask_means(snapshot, wanted)
        return with_means(shown, wanted, self._means, how)

    def _ask_means(self, snapshot: Snapshot, wanted: Wanted) -> None:
        """Work out, off this thread, the means that are shown and not known yet."""
        if self._means_of is not snapshot.board:
            self._means_of, self._means = snapshot.board, {}
        missing = [cases for cases in wanted.all() if cases not in self._means]
        if not missing or snapshot.board is None or snapshot.checked is None:
            return
        contents, board, checked = snapshot.contents, snapshot.board, snapshot.checked
        handover = snapshot.analysis.handover if snapshot.analysis else None

        def work(step: Progress) -> dict[Cases, Totals]:
            step("Means of what is shown", 0.0)
            unsound = unsound_words(checked)
            return {
                cases: means_over(contents, board, unsound, cases, handover) for cases in missing
            }

        def done(found: dict[Cases, Totals]) -> None:
            if self._means_of is snapshot.board:
                self._means = {**self._means, **found}
                self._show_board()
                self.refreshed.emit()

        if self._asking is not None:
            self._asking.cancel()
        self._asking = self.jobs.run("Means of what is shown", work, done, self.error_raised.emit)

    def _show_board(self) -> None:
        board = self._board = self._arranged()
        self._restoring = True
        try:
            self.model.show_board(board, self.model.lens)
            if board is None:
                return
            shades = rig_shades(board, theme.current())
            self.table.painter_of_cells.shades = shades
            self.table.rigs.shades = shades
            self.table.fit_columns()
            self._restore_choice()
        finally:
            self._restoring = False
        self.typing.place_editor()
        self._show_choice()

    def _restore_choice(self) -> None:
        """Stand where one stood, or on what has arrived since, else on the first cell."""
        board, at = self.model.board, self._at
        if board is None:
            return
        rigs = [column.rig_id for column in board.columns]
        cases = [row.case_id for row in board.rows]
        if at is None or (at.rig_id is not None and at.rig_id not in rigs):
            named = {f"{PENDING}{column.name}".lower(): column.rig_id for column in board.columns}
            rig = named.get((at.rig_id or "").lower()) if at else None
            tested = next((c.rig_id for c in board.columns if c.role is Role.TESTED), None)
            at = At(rig or tested or (rigs[0] if rigs else None), at.case_id if at else None)
            if self._at is None and cases:
                at = At(at.rig_id, cases[0])
        if at.case_id is not None and at.case_id not in cases:
            named = {f"{PENDING}{row.label}".lower(): row.case_id for row in board.rows}
            case = named.get(at.case_id.lower()) or (cases[0] if cases else None)
            at = At(at.rig_id, case)
        self._at = at
        row = cases.index(at.case_id) if at.case_id in cases else self.model.ghost_row
        column = rigs.index(at.rig_id) if at.rig_id in rigs else self.model.ghost_column
        self.table.setCurrentIndex(self.model.index(row, column))

    def show_lens(self, lens: Lens) -> None:
        """Look at the same cells another way."""
        self._lenses.setExclusive(False)
        for one, button in self.lens_buttons.items():
            button.setChecked(one is lens)
        self._lenses.setExclusive(True)
        self.model.lens = lens
        self._show_lens_box()
        if self.order_box.sorted_by_lens():
            self._show_board()
        self.model.show_board(self._board, lens)
        self._show_choice()
        self.refreshed.emit()

    def _on_current_changed(self, current: QModelIndex, _previous: QModelIndex) -> None:
        board = self.model.board
        if self._restoring or board is None or not current.isValid():
            return
        row, column = current.row(), current.column()
        self._coming = None  # who moves on does not want to be taken back
        self._at = At(
            board.columns[column].rig_id if column < len(board.columns) else None,
            board.rows[row].case_id if row < len(board.rows) else None,
        )
        self._show_choice()
        self.refreshed.emit()

    def _chosen(self) -> tuple[str, str] | None:
        """The rig and case of the chosen cell; None on a ghost, or on what has not arrived."""
        board, at = self._board, self._at
        if board is None or at is None or at.rig_id is None or at.case_id is None:
            return None
        known = any(row.case_id == at.case_id for row in board.rows) and board.column(at.rig_id)
        return (at.rig_id, at.case_id) if known else None

    def cell_at(self, point: QPoint) -> tuple[str, str] | None:
        """Ids of rig and case of the cell at a point of the screen; None where none is."""
        port = self.table.viewport()
        if port is not None and self.table.isVisible():
            place = port.mapFromGlobal(point)
            index = self.table.indexAt(place) if port.rect().contains(place) else None
            board = self.model.board
            if index is not None and index.isValid() and board is not None:
                row, column = index.row(), index.column()
                if row < len(board.rows) and column < len(board.columns):
                    return board.columns[column].rig_id, board.rows[row].case_id
        return None

    def _chosen_cells(self) -> list[tuple[str, str]]:
        """The rigs and cases of all cells that are selected, the chosen one first."""
        board, chosen = self._board, self._chosen()
        if board is None or chosen is None:
            return []
        cells = [
            (board.columns[at.column()].rig_id, board.rows[at.row()].case_id)
            for at in self.table.selectedIndexes()
            if at.column() < len(board.columns) and at.row() < len(board.rows)
        ]
        return list(dict.fromkeys((chosen, *cells)))

    def _on_selection_changed(self) -> None:
        if not self._restoring:
            self._show_choice()

    def _show_choice(self) -> None:
        board = self._board
        if board is None:
            return
        self.corner.setText(lens_words(board, self.model.lens))
        self.basis.show_words(mean_basis(board, self._at.rig_id if self._at else None))
        self.basis.setVisible(bool(board.totals))
        chosen = self._chosen()
        if self._snapshot is not None:
            cells = self._chosen_cells()
            runs = (board.runs.get(cell, ()) for cell in cells)
            self.facts.show_cells(self._snapshot.contents, [case for _, case in cells], runs)
        self.ruler_frame.setVisible(chosen is not None and bool(board.runs))
        if chosen is not None:
            row = next(row for row in board.rows if row.case_id == chosen[1])
            self.ruler.show_case(board, row, chosen[0])
            QTimer.singleShot(0, self._share_room)

    def evidence(self) -> Parts | None:
        """What is known of the chosen cell, and what can be done about it."""
        board, snapshot, chosen = self._board, self._snapshot, self._chosen()
        if board is None or snapshot is None:
            return []
        if chosen is None:
            return notation_parts()
        row = next(row for row in board.rows if row.case_id == chosen[1])
        return self.inspector.parts(snapshot.contents, board, row, chosen[0])

    def type_into(self, rig_id: str, case_id: str) -> None:
        """Open a cell, whatever the filter hides."""
        self.order_box.show_all()
        self._at = At(rig_id, case_id)
        self._show_board()
        self.typing.open_cell(self.table.currentIndex(), None)

    # Roles, names, copies

    def give_role(self, rig_id: str | None, role: Role) -> None:
        """Make a rig base, reference or under test."""
        self.heads.give_role(rig_id, role)

    def chosen_rig(self) -> str | None:
        """Id of the rig whose column is chosen."""
        return self._at.rig_id if self._at and self._board else None

    def rename_chosen(self) -> None:
        """Edit the name of the chosen rig where it stands."""
        self.heads.rename(self.table.currentIndex().column())

    def copy_cell(self) -> None:
        """Put the chosen cell on the clipboard, with its bases."""
        clipboard, chosen = QGuiApplication.clipboard(), self._chosen()
        if self._board is None or chosen is None or clipboard is None:
            return  # a ghost, or it is filtered out
        column = self._board.column(chosen[0])
        row = next(row for row in self._board.rows if row.case_id == chosen[1])
        name = column.name if column is not None else ""
        clipboard.setText(f"{name}, {row.label}: {cell_line(self._board, *chosen)}")

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
