"""The Runs view: the sheet at work, all runs, what the checks found, and typed figures."""

from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QStackedWidget

from blunt_ruler.core.checks.all import Checked, runs_line
from blunt_ruler.core.plan.next_pass import work_line
from blunt_ruler.core.records.records import Trace
from blunt_ruler.ui.desk import Snapshot
from blunt_ruler.ui.runs.entry_page import EntryPage
from blunt_ruler.ui.runs.evidence import Parts
from blunt_ruler.ui.runs.findings_page import FindingsPage, ThresholdsPage
from blunt_ruler.ui.runs.list_page import ListPage
from blunt_ruler.ui.runs.work_page import WorkPage
from blunt_ruler.ui.widgets import PageBar, Stop

AT_WORK, LIST, FINDINGS, TYPE_IN, LINES = "At work", "All runs", "Findings", "Type in", "Thresholds"
PAGES = (AT_WORK, LIST, FINDINGS, TYPE_IN, LINES)


class RunsStop(Stop):
    """Runs: taking, trimming, checking, deciding.

    Signals:
        import_requested(): the reviewer wants to import logs.
        logs_wanted(list): look at these logs before they are taken in.
        arrivals_ready(list): (Arrival, Trace or None) pairs to take in.
        trace_requested(str): show the trace at an address.
        overlay_requested(list): lay the traces at these addresses over.
        decision_requested(Run, Decision): keep, redo or set aside a run.
        reason_requested(Run, str): say why.
        trim_requested(Run, object): keep a Trim of the trace, all of it for None.
        edit_requested(str, list, list): an edit by name, what it puts and what it drops.
        inbox_requested(object): watch this folder, none for None.
        error_raised(object): an exception to show.
    """

    import_requested = pyqtSignal()
    logs_wanted = pyqtSignal(object)
    arrivals_ready = pyqtSignal(object)
    trace_requested = pyqtSignal(str)
    overlay_requested = pyqtSignal(object)
    decision_requested = pyqtSignal(object, object)
    reason_requested = pyqtSignal(object, str)
    trim_requested = pyqtSignal(object, object)
    edit_requested = pyqtSignal(str, object, object)
    inbox_requested = pyqtSignal(object)
    error_raised = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__("Runs")
        self._spread: Snapshot | None = None
        self._checked: Checked | None = None
        self.work = WorkPage()
        self.list = ListPage()
        self.findings = FindingsPage()
        self.typing = EntryPage()
        self.lines = ThresholdsPage()
        self.bar = PageBar(PAGES)
        self.pages = QStackedWidget()
        for page in (self.work, self.list, self.findings, self.typing, self.lines):
            self.pages.addWidget(page)
        self.bar.page_chosen.connect(self._on_page)
        self.body.addWidget(self.bar)
        self.body.addWidget(self.pages, 1)
        self._connect()
        self.show_page(LIST)

    def _connect(self) -> None:
        self.list.import_requested.connect(self.import_requested)
        self.list.trace_requested.connect(self.trace_requested)
        self.list.overlay_requested.connect(self.overlay_requested)
        self.list.decision_requested.connect(self.decision_requested)
        self.list.reason_requested.connect(self.reason_requested)
        self.list.trim_requested.connect(self.trim_requested)
        self.list.evidence_changed.connect(lambda parts: self._show_evidence(LIST, parts))
        self.findings.run_chosen.connect(self.show_run)
        self.findings.decision_requested.connect(self.decision_requested)
        self.findings.evidence_changed.connect(lambda parts: self._show_evidence(FINDINGS, parts))
        self.work.arrivals_ready.connect(self.arrivals_ready)
        self.work.typing_requested.connect(self._on_typing)
        self.work.inbox.watch_requested.connect(self.inbox_requested)
        self.work.line_changed.connect(self._say)
        self.work.error_raised.connect(self.error_raised)
        self.typing.arrivals_ready.connect(self.arrivals_ready)
        self.typing.references_ready.connect(
            lambda found: self.edit_requested.emit(f"keep {len(found)} references", found, [])
        )
        self.typing.reference_dropped.connect(
            lambda one: self.edit_requested.emit(f"take away {one.source}", [], [one])
        )
        self.lines.thresholds_changed.connect(self._on_lines)

    # Showing

    def show_page(self, name: str) -> None:
        """Show a page."""
        self.bar.show_page(name)

    def _on_page(self, index: int) -> None:
        self.pages.setCurrentIndex(index)
        name = PAGES[index]
        if name == LIST:
            self.list.show_evidence()
        elif name == FINDINGS:
            self.findings.show_evidence()
        elif self.evidence is not None:
            self.evidence.hide()
        self._say()

    def show_run(self, run_id: str) -> None:
        """Show one run in the list."""
        self.show_page(LIST)
        self.list.choose(run_id)

    def show_spread(self, spread: Snapshot | None) -> None:
        """Take in what lies on the desk."""
        self._spread = spread
        for page in (self.findings, self.typing, self.lines, self.work, self.list):
            page.show_spread(spread)
        self._say()

    def show_checked(self, checked: Checked) -> None:
        """Take in what the checks found."""
        self._checked = checked
        self.findings.show_checked(checked)
        self.list.show_checked(checked)
        self._say()

    def _say(self) -> None:
        spread = self._spread
        if spread is None:
            self.say("No logbook is open. Drop frame logs on this window to start one.")
        elif PAGES[self.pages.currentIndex()] == AT_WORK and self.work.bench_plan is not None:
            self.say(work_line(spread.contents, self.work.going))
        else:
            self.say(runs_line(spread.contents, spread.review, self._checked))

    def _show_evidence(self, page: str, parts: Parts) -> None:
        if self.evidence is not None and PAGES[self.pages.currentIndex()] == page:
            self.evidence.show()
            self.evidence.show_parts(parts)

    def show_trace(self, sha256: str, trace: Trace) -> None:
        """Draw a trace that was asked for."""
        self.list.show_trace(sha256, trace)

    def show_inbox(self, folder: Path | None) -> None:
        """Say which folder is watched."""
        self.work.inbox.show_folder(folder)

    def apply_theme(self) -> None:
        """Take on another theme's colours."""
        self.list.apply_theme()
        self.work.apply_theme()

    def take_next(self) -> None:
        """Take the next run of the plan on the simulated bench."""
        self.show_page(AT_WORK)
        self.work.take_run()

    def wait(self) -> None:
        """Stop what is under way on this view."""
        self.work.wait()
        self.list.wait()

    def _on_typing(self, rig: str, case: str) -> None:
        self.show_page(TYPE_IN)
        self.typing.begin(rig, case)

    def _on_lines(self, thresholds: object, says: str) -> None:
        if self._spread is not None and self._spread.review is not None:
            review = self._spread.review.model_copy(update={"thresholds": thresholds})
            self.edit_requested.emit(f"thresholds: {says}", [review], [])
