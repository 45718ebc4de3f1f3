"""What the evidence column of the Board offers for the chosen cell, beside what it says."""

from functools import partial

from PyQt6.QtCore import QObject, Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QDoubleSpinBox,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
)

from blunt_ruler.core.board.board import Board, Row
from blunt_ruler.core.board.lines import cell_next
from blunt_ruler.core.board.percentages import cell_statements
from blunt_ruler.core.plan.plan_edits import LEFT_OUT_BY_HAND, one_more_pass
from blunt_ruler.core.records.edits import decide, leave_out, weigh_case
from blunt_ruler.core.records.records import Contents, Decision, Run
from blunt_ruler.core.runs.entry import entry_text, pass_text
from blunt_ruler.core.runs.typed_cells import entry_of, is_typed
from blunt_ruler.core.text import fps_text, percent_text
from blunt_ruler.core.trouble.diary import note_failure
from blunt_ruler.exchange.trouble import knowledge
from blunt_ruler.ui.board.evidence import cell_parts, mean_parts
from blunt_ruler.ui.desk.snapshot import new_id
from blunt_ruler.ui.kit.layouts import beside, stacked
from blunt_ruler.ui.kit.widgets import Fold, Parts, figure_row, label

NOTATION = (
    ("69.5", "one pass, its average"),
    ("69.5/57", "and its 1 % low"),
    ("69.5 70.1 68.8", "three passes"),
    ("(58 61 63)", "looks at the counter"),
    ("45-50", "seen between"),
    ("~60", "about"),
    ("200+", "at least"),
    ("-12% of base", "a percentage alone"),
    ("no: hung", "it did not run"),
)


def notation_parts() -> Parts:
    """What can be typed into a cell."""
    parts: Parts = [label("WHAT CAN BE TYPED", "heading")]
    parts += [figure_row(says, typed) for typed, says in NOTATION]
    return parts


class CellInspector(QObject):
    """The chosen cell: what was found, its runs, and what would help.

    Signals:
        edited(Edit): this edit, please.
        refreshed(): it has more or less to show.
    """

    edited = pyqtSignal(object)
    refreshed = pyqtSignal()
    _percentages_shown = False

    def parts(self, contents: Contents, board: Board, row: Row, rig_id: str) -> Parts:
        """Everything of one cell, from the top."""
        key = (rig_id, row.case_id)
        parts = cell_parts(board, row, rig_id)
        runs = board.runs.get(key, ())
        if runs:
            parts.append(label("RUNS BEHIND IT", "heading"))
            parts += [self._run_row(contents, run) for run in runs]
            if said := entry_text(entry_of(contents, *key)):
                parts.append(label(f"typed as {said}", "small"))
            parts.append(14)
        parts += [label("WHAT WOULD HELP", "heading"), label(cell_next(board, *key))]
        if row.case_id in contents.cases:
            parts += self._buttons(contents, board, row, rig_id)
        parts += self._percentages(board, rig_id, row.case_id)
        parts += mean_parts(board, rig_id)
        return parts if runs else [*parts, 14, *notation_parts()]

    def _percentages(self, board: Board, rig_id: str, case_id: str) -> Parts:
        """Four figures of the pair, each in its sentence, on demand."""
        statements = cell_statements(board, rig_id, case_id)
        if not statements:
            return []
        fold = Fold("Which percentage", self._percentages_shown)
        fold.clicked.connect(self._on_percentages)
        parts: Parts = [8, fold]
        if self._percentages_shown:
            before = ""
            for other, one in statements:
                if other != before:
                    parts.append(label(f"AGAINST {other.upper()}", "heading"))
                before = other
                parts.append(figure_row(one.name, percent_text(one.value, decimals=1)))
                said = label(one.says, "small")
                said.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
                parts.append(said)
        return parts

    def _on_percentages(self, on: bool) -> None:
        self._percentages_shown = on
        self.refreshed.emit()

    def _buttons(self, contents: Contents, board: Board, row: Row, rig_id: str) -> Parts:
        """What can be done about the chosen cell."""
        review = board.review
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
            why.editingFinished.connect(partial(self._on_why, contents, board, row, why))
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

    def _on_why(self, contents: Contents, board: Board, row: Row, entry: QLineEdit) -> None:
        why = entry.text().strip()
        if why and why != row.left_out:
            self.edited.emit(leave_out(contents, board.review, row.case_id, why))

    def _run_row(self, contents: Contents, run: Run) -> QVBoxLayout:
        row = beside(label(f"pass {run.repeat}", "quiet", wrap=False), spacing=6)
        figure = label(_run_text(run), wrap=False)
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
        for words in (run.reason, run.outcome):
            if words:
                both.addWidget(label(words, "caution"))
        edit = note_failure(contents, run, knowledge(), new_id) if run.outcome else None
        if edit is not None:
            note = QPushButton("Note it in the rig's diary")
            note.setToolTip("Bench, Trouble ranks its causes")
            note.clicked.connect(partial(self.edited.emit, edit))
            both.addWidget(note)
        return both


def _run_text(run: Run) -> str:
    """A run in few words: as it was typed, or its average."""
    if run.typed is not None and is_typed(run):
        return pass_text(run.typed)
    return "did not run" if run.outcome else fps_text(run.average_fps)
