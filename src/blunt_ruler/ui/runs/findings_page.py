"""What the checks found, worst first, with the remedy at hand; and the lines they draw."""

from dataclasses import dataclass

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QPushButton, QWidget

from blunt_ruler.core.checks.all import runs_line
from blunt_ruler.core.checks.findings import Finding
from blunt_ruler.core.records.edits import change_review, decide
from blunt_ruler.core.records.records import Decision, Review, Run
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.records.thresholds import Thresholds
from blunt_ruler.core.text import capital
from blunt_ruler.ui.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.part_form import PartForm
from blunt_ruler.ui.rows import Column, RowsTable
from blunt_ruler.ui.runs.evidence import finding_parts
from blunt_ruler.ui.snapshot import Snapshot
from blunt_ruler.ui.stop import Page
from blunt_ruler.ui.widgets import Parts, figure_row, label, scrolling


@dataclass(frozen=True, slots=True)
class _Found:
    """A finding with the run it is about."""

    finding: Finding
    run: Run
    where: str

    @property
    def blocks(self) -> bool:
        """Whether a run that counts cannot be used as it stands."""
        kept = self.run.decision is Decision.KEEP
        return self.finding.severity is Severity.BLOCKING and kept


COLUMNS = (
    Column(
        "Finding",
        lambda one: one.finding.check.words,
        178,
        tip=lambda one: one.finding.check.words,
        colour=lambda one: "loss" if one.blocks else "ink",
    ),
    Column("Run", lambda one: one.where, 268, tip=lambda one: one.where),
    Column(
        "What it says",
        lambda one: capital(one.finding.says),
        tip=lambda one: capital(one.finding.says),
    ),
)


class FindingsPage(Page):
    """All findings of the logbook.

    Signals:
        run_chosen(str): show this run in the list.
    """

    run_chosen = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.table = RowsTable("Findings", COLUMNS, key=lambda one: (one.finding.check, one.run.id))
        self.table.row_chosen.connect(lambda _row: self.refreshed.emit())
        self.table.row_activated.connect(lambda _row: self._on_show())
        self.show_run = QPushButton("Show the run")
        self.show_run.clicked.connect(self._on_show)
        self.redo = QPushButton("Redo it")
        self.redo.clicked.connect(lambda: self._decide(Decision.REDO))
        self.aside = QPushButton("Set it aside")
        self.aside.clicked.connect(lambda: self._decide(Decision.SET_ASIDE))
        self.nothing = label("Nothing was found in these runs; that is no promise.", "quiet")
        stacked(
            (self.table, 1),
            self.nothing,
            beside(STRETCH, self.show_run, self.redo, self.aside),
            on=self,
        )

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Show what the checks found; the choice survives where it is still there."""
        contents = snapshot.contents
        self._line = runs_line(contents, snapshot.review, snapshot.checked)
        found = []
        for finding in snapshot.checked.findings if snapshot.checked else ():
            run = contents.runs[finding.run_id]
            case = contents.cases[run.case_id]
            where = (
                f"{contents.rigs[run.rig_id].name}, {contents.titles[case.title_id].name} "
                f"{case.resolution}, pass {run.repeat}"
            )
            aside = "" if run.decision is Decision.KEEP else f" ({run.decision})"
            found.append(_Found(finding, run, where + aside))
        self.table.show_rows(found)
        if self.table.chosen() is None:
            self.table.choose_place(0)
        self.nothing.setVisible(not found)
        for button in (self.show_run, self.redo, self.aside):
            button.setEnabled(bool(found))

    def evidence(self) -> Parts | None:
        """The chosen finding with its evidence."""
        one = self.table.chosen()
        if one is None:
            return []
        parts: Parts = [*finding_parts(one.finding), 8, label("EVIDENCE", "heading")]
        for name, value in one.finding.evidence.items():
            text = value if isinstance(value, str) else f"{value:g}"
            parts.append(figure_row(_words(name), text))
        if one.run.reason:
            parts += [8, label(f"{one.run.decision}: {one.run.reason}", "quiet")]
        return parts

    def _on_show(self) -> None:
        one = self.table.chosen()
        if one is not None:
            self.run_chosen.emit(one.run.id)

    def _decide(self, decision: Decision) -> None:
        one = self.table.chosen()
        if one is not None:
            self.edited.emit(decide(one.run, decision))


def _words(name: str) -> str:
    """A key of evidence as words, its unit spelled as usual."""
    words = name.replace("_", " ")
    for unit in ("MHz", "Hz", "GB", "MB"):
        words = words.removesuffix(f" {unit.lower()}") + (
            f", {unit}" if words.endswith(f" {unit.lower()}") else ""
        )
    return words


class ThresholdsPage(Page):
    """Where the checks draw their lines, for this review."""

    def __init__(self) -> None:
        super().__init__()
        self._review: Review | None = None
        self.form = PartForm(Thresholds)
        self.form.part_changed.connect(self._on_changed)
        self.defaults = QPushButton("Back to the defaults")
        self.defaults.clicked.connect(lambda: self._on_changed(Thresholds(), "the defaults"))
        inner = QWidget()
        stacked(
            label(
                "A check speaks when a run passes its line. These are the lines of this review; "
                "what was found is said anew when one moves.",
                "quiet",
            ),
            self.form,
            STRETCH,
            margins=(0, 0, 12, 0),
            on=inner,
        )
        stacked((scrolling(inner), 1), beside(STRETCH, self.defaults), on=self)

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Show the lines of the present review."""
        self._line = runs_line(snapshot.contents, snapshot.review, snapshot.checked)
        review = self._review = snapshot.review
        self.form.show_part(review.thresholds if review else None, review.id if review else "")
        self.defaults.setEnabled(review is not None and review.thresholds != Thresholds())

    def _on_changed(self, thresholds: Thresholds, says: str) -> None:
        if self._review is not None:
            self.edited.emit(
                change_review(self._review, f"thresholds: {says}", thresholds=thresholds)
            )
