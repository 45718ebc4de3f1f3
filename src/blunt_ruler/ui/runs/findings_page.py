"""What the checks found, worst first, with the remedy at hand; and the lines they draw."""

from dataclasses import dataclass

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QPushButton, QWidget

from blunt_ruler.core.checks.all import runs_line
from blunt_ruler.core.checks.answers import (
    answered,
    ask_again,
    can_be_the_scene,
    can_trim_all,
    this_is_the_scene,
    words_of,
)
from blunt_ruler.core.checks.findings import About, Finding
from blunt_ruler.core.records.edits import change_review, decide
from blunt_ruler.core.records.records import Contents, Decision, Review, Run
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.records.thresholds import Thresholds
from blunt_ruler.core.runs.read_again import to_read_again
from blunt_ruler.core.text import capital, count_text, list_text, percent_text
from blunt_ruler.ui.desk.snapshot import Snapshot
from blunt_ruler.ui.desk.stop import Page
from blunt_ruler.ui.kit.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.kit.part_form import PartForm
from blunt_ruler.ui.kit.rows import Column, RowsTable
from blunt_ruler.ui.kit.widgets import Parts, allow, figure_row, label, scrolling
from blunt_ruler.ui.runs.evidence import finding_parts


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
        trim_all_requested(Finding): trim every pass of it as proposed.
        read_again_requested(): read the traces again that an earlier version read.
    """

    run_chosen = pyqtSignal(str)
    trim_all_requested = pyqtSignal(object)
    read_again_requested = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.table = RowsTable("Findings", COLUMNS, key=lambda one: (one.finding.check, one.run.id))
        self.table.wrap_words()
        self.table.row_chosen.connect(lambda _row: self._on_chosen())
        self.table.row_activated.connect(lambda _row: self._on_show())
        self._contents: Contents | None = None
        self.show_run = QPushButton("Show run")
        self.show_run.clicked.connect(self._on_show)
        self.redo = QPushButton("Repeat")
        self.redo.clicked.connect(lambda: self._decide(Decision.REDO))
        self.aside = QPushButton("Set aside")
        self.aside.clicked.connect(lambda: self._decide(Decision.SET_ASIDE))
        self.scene = QPushButton("Part of the scene")
        self.scene.clicked.connect(self._on_scene)
        self.trim_all = QPushButton("Trim all")
        self.trim_all.clicked.connect(self._on_trim_all)
        self.answered = label("", "small")
        self.ask_again = QPushButton("Ask again")
        self.ask_again.clicked.connect(self._on_ask_again)
        self.earlier = label("", "caution")
        self.read_again = QPushButton("Read them again")
        self.read_again.clicked.connect(self.read_again_requested)
        self.nothing = label(
            "Nothing was found in these runs; that does not prove them sound.", "quiet"
        )
        stacked(
            (self.table, 1),
            self.nothing,
            beside((self.earlier, 1), self.read_again),
            beside((self.answered, 1), self.ask_again),
            beside(STRETCH, self.trim_all, self.scene, self.show_run, self.redo, self.aside),
            on=self,
        )

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Show what the checks found; the choice survives where it is still there."""
        contents = snapshot.contents
        self._line = runs_line(contents, snapshot.review, snapshot.checked)
        found = []
        for finding in snapshot.checked.findings if snapshot.checked else ():
            run = contents.runs[finding.run_id]
            played = contents.cases[run.case_id]
            rig, what = contents.rigs[run.rig_id].name, contents.titles[played.title_id].name
            what = f"{what} {played.resolution}".strip()
            match finding.about:
                case About.RUN:
                    aside = "" if run.decision is Decision.KEEP else f" ({run.decision})"
                    where = f"{rig}, {what}, pass {run.repeat}{aside}"
                case About.CELL:
                    where = f"{rig}, {what}, every pass"
                case About.CASE:
                    where = f"{what}, every pass of every rig"
            found.append(_Found(finding, run, where))
        self.table.show_rows(found)
        if self.table.chosen() is None:
            self.table.choose_place(0)
        self.nothing.setVisible(not found)
        self._contents = contents
        earlier = len(to_read_again(contents))
        self.earlier.setText(
            f"{count_text(earlier, 'trace')} read by an earlier version: some checks cannot see "
            "what is in them."
        )
        for widget in (self.earlier, self.read_again):
            widget.setVisible(bool(earlier))
        known = answered(contents)
        said = list_text(
            [
                f"{contents.case_label(one.id)} "
                f"({list_text([words_of(name) for name in one.scene_has])})"
                for one in known
            ]
        )
        self.answered.setText(f"Called the scene: {said}.")
        for widget in (self.answered, self.ask_again):
            widget.setVisible(bool(known))
        self._on_chosen()

    def evidence(self) -> Parts | None:
        """The chosen finding with its evidence."""
        one = self.table.chosen()
        if one is None:
            return []
        parts: Parts = [*finding_parts(one.finding), 8, label("EVIDENCE", "heading")]
        for name, value in one.finding.evidence.items():
            parts.append(figure_row(_words(name), _figure(name, value)))
        if one.run.reason:
            parts += [8, label(f"{one.run.decision}: {one.run.reason}", "quiet")]
        return parts

    def _on_chosen(self) -> None:
        one = self.table.chosen()
        for button in (self.show_run, self.redo, self.aside):
            allow(button, "" if one else "Choose a finding first")
        scene = one is not None and can_be_the_scene(one.finding)
        allow(
            self.scene,
            "" if scene else "Only what all passes share can be the scene",
        )
        trims = one is not None and can_trim_all(one.finding)
        allow(self.trim_all, "" if trims else "Choose a menu that all passes of a case share")
        self.refreshed.emit()

    def _on_scene(self) -> None:
        one = self.table.chosen()
        if one is not None and self._contents is not None:
            self.edited.emit(this_is_the_scene(self._contents, one.finding))

    def _on_trim_all(self) -> None:
        one = self.table.chosen()
        if one is not None:
            self.trim_all_requested.emit(one.finding)

    def _on_ask_again(self) -> None:
        if self._contents is not None:
            self.edited.emit(ask_again(self._contents))

    def _on_show(self) -> None:
        one = self.table.chosen()
        if one is not None:
            self.run_chosen.emit(one.run.id)

    def _decide(self, decision: Decision) -> None:
        one = self.table.chosen()
        if one is not None and self._contents is not None:
            runs = [one.run]
            if one.finding.about is not About.RUN:
                runs = [self._contents.runs[run_id] for run_id in one.finding.runs]
            self.edited.emit(decide(*runs, decision=decision))


def _figure(name: str, value: str | float) -> str:
    if isinstance(value, str):
        return value
    return percent_text(value, decimals=1) if name.endswith("share") else f"{value:g}"


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
        self.defaults = QPushButton("Restore the defaults")
        self.defaults.clicked.connect(lambda: self._on_changed(Thresholds(), "the defaults"))
        inner = QWidget()
        stacked(
            label(
                "A check reports a run that crosses its threshold. These thresholds belong to this "
                "review; change one and the runs are checked again.",
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
        changed = review is not None and review.thresholds != Thresholds()
        allow(self.defaults, "" if changed else "All thresholds are the defaults")

    def _on_changed(self, thresholds: Thresholds, says: str) -> None:
        if self._review is not None:
            self.edited.emit(
                change_review(self._review, f"thresholds: {says}", thresholds=thresholds)
            )
