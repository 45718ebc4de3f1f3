"""All runs of the logbook, the trace of the chosen one, and what was decided of it."""

from typing import TYPE_CHECKING

from PyQt6.QtCore import QModelIndex, Qt, pyqtSignal
from PyQt6.QtGui import QKeySequence, QResizeEvent, QShortcut
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QButtonGroup,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QPushButton,
    QSizePolicy,
    QSplitter,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from blunt_ruler.core.checks.all import NOTHING, runs_line
from blunt_ruler.core.measure.frames import LowSchool
from blunt_ruler.core.records.edits import decide, give_reason
from blunt_ruler.core.records.records import Contents, Decision, Run, Trace, Trim
from blunt_ruler.core.rigs.preflight import skipped_before
from blunt_ruler.core.runs.trim_run import Cut, cut
from blunt_ruler.core.text import count_text, fps_text
from blunt_ruler.core.types import Progress
from blunt_ruler.ui.desk.jobs import Job, Jobs
from blunt_ruler.ui.desk.snapshot import Snapshot
from blunt_ruler.ui.desk.stop import Page
from blunt_ruler.ui.kit.facts import RunFacts
from blunt_ruler.ui.kit.focus_ring import focus_last
from blunt_ruler.ui.kit.layouts import stacked
from blunt_ruler.ui.kit.rows import ROW_ROLE, RowsModel
from blunt_ruler.ui.kit.sketch import Sketch
from blunt_ruler.ui.kit.widgets import Parts, label
from blunt_ruler.ui.runs.evidence import (
    before_and_after,
    finding_parts,
    recording_parts,
    run_parts,
)
from blunt_ruler.ui.runs.models import COLUMNS, RunLine, filter_words, run_lines

if TYPE_CHECKING:
    from blunt_ruler.ui.runs.trace_panel import TracePanel

DECISION_KEYS = {Decision.KEEP: "K", Decision.REDO: "R", Decision.SET_ASIDE: "S"}


class ListPage(Page):
    """All runs of the logbook.

    Signals:
        import_requested(): the reviewer wants to import logs.
        recording_requested(): the reviewer wants to read a recording.
        trace_requested(str): show the trace at an address.
        trim_requested(Run, object): keep a part of the trace, all of it for None.
        overlay_requested(list): the traces at these addresses are to be laid over.
        pictures_requested(str): the pictures at an address are to be shown.
        picture_wanted(Run, float): show the recording of a run, s after the run's start.
    """

    import_requested = pyqtSignal()
    recording_requested = pyqtSignal()
    trace_requested = pyqtSignal(str)
    trim_requested = pyqtSignal(object, object)
    overlay_requested = pyqtSignal(object)
    pictures_requested = pyqtSignal(str)
    picture_wanted = pyqtSignal(object, float)

    def __init__(self) -> None:
        super().__init__()
        self.body = QVBoxLayout(self)
        self.body.setContentsMargins(0, 0, 0, 0)
        self._checked = NOTHING
        self.lasting = self.facts = RunFacts()
        self.facts.edited.connect(self.edited)
        self._trying = Jobs(threads=1, parent=self)
        self._try: Job | None = None
        self._trace: Trace | None = None
        self._cut: Cut | None = None
        self._school = LowSchool.PERCENTILE
        self._run_id: str | None = None
        self._contents: Contents | None = None
        self._shown_trace: str | None = None
        self._pictures: tuple[str, bytes] = ("", b"")
        bar = QHBoxLayout()
        self.import_button = QPushButton("Import logs…")
        self.import_button.setObjectName("primary")
        self.import_button.clicked.connect(self.import_requested)
        fixed = QSizePolicy.Policy.Fixed
        self.import_button.setSizePolicy(fixed, fixed)
        self.filter = QLineEdit()
        self.filter.setPlaceholderText("Filter by title, rig, resolution or decision")
        self.filter.setAccessibleName("Filter runs")
        self.filter.setClearButtonEnabled(True)
        self.counted = label("", "quiet", wrap=False)
        bar.addWidget(self.import_button, 0, Qt.AlignmentFlag.AlignLeft)
        self.recording_button = QPushButton("Read a recording…")
        self.recording_button.clicked.connect(self.recording_requested)
        self.recording_button.setSizePolicy(fixed, fixed)
        bar.addWidget(self.recording_button, 0, Qt.AlignmentFlag.AlignLeft)
        bar.addWidget(self.filter, 1)
        bar.addWidget(self.counted)
        bar.addStretch(0)  # takes the room of a filter that is not there
        self.body.addLayout(bar)
        self._lines: tuple[RunLine, ...] = ()
        self.model = RowsModel(COLUMNS, key=lambda line: line.run.id)
        self.table = QTableView()
        self.table.setModel(self.model)
        self.model.setParent(self.table)  # so that the table never outlives its model
        self._set_table_up()
        self.filter.textChanged.connect(self._on_filter)
        self._plot_place = QVBoxLayout()
        self._plot_place.setContentsMargins(0, 0, 0, 0)
        self.panel: TracePanel | None = None
        below = QWidget()
        below.setLayout(self._plot_place)
        split = QSplitter(Qt.Orientation.Vertical)
        split.setChildrenCollapsible(False)
        split.addWidget(self.table)
        split.addWidget(below)
        split.setSizes([250, 340])
        self.split = split
        self.body.addWidget(split, 1)
        told = label(
            "A frame log is any delimited file with one row per frame: a column of frame times, "
            "of rates, or a running clock. Columns, units and decimal marks are found from the "
            "content and shown before anything is imported. A recording of the screen with a "
            "counter on it is read as well.",
            "quiet",
        )
        self.nothing = QWidget()
        stacked(told, (Sketch("trace"), Qt.AlignmentFlag.AlignHCenter), spacing=60, on=self.nothing)
        self.body.addWidget(self.nothing)
        self.body.addStretch(0)
        for decision, key in DECISION_KEYS.items():
            shortcut = QShortcut(QKeySequence(key), self.table)
            shortcut.setContext(Qt.ShortcutContext.WidgetShortcut)
            shortcut.activated.connect(lambda decision=decision: self._decide(decision))

    def _set_table_up(self) -> None:
        table = self.table
        table.setAccessibleName("Runs")
        table.setShowGrid(False)
        table.setSortingEnabled(True)
        table.sortByColumn(-1, Qt.SortOrder.AscendingOrder)
        table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        table.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        table.setTabKeyNavigation(False)
        table.setWordWrap(False)
        side = table.verticalHeader()
        if side is not None:
            side.hide()
            side.setDefaultSectionSize(27)
        head = table.horizontalHeader()
        if head is not None:
            head.setHighlightSections(False)
            head.setSectionResizeMode(QHeaderView.ResizeMode.Interactive)
            for place, column in enumerate(COLUMNS):
                if column.width:
                    head.resizeSection(place, column.width)
                else:
                    head.setSectionResizeMode(place, QHeaderView.ResizeMode.Stretch)
        selection = table.selectionModel()
        if selection is not None:
            selection.currentRowChanged.connect(self._on_row)
            selection.selectionChanged.connect(lambda *_: self.facts.show_runs(self._chosen_runs()))

    def resizeEvent(self, a0: QResizeEvent | None) -> None:
        super().resizeEvent(a0)
        self.table.setColumnHidden(4, self.width() < NARROW)  # the low stands in the evidence

    def search(self) -> bool:
        """Type into the filter."""
        if not self.filter.isHidden():
            self.filter.setFocus()
            self.filter.selectAll()
        return not self.filter.isHidden()

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Show every run of the logbook."""
        runs = snapshot.contents.runs
        for widget in (self.split, self.filter, self.counted):
            widget.setVisible(bool(runs))
        self.nothing.setVisible(not runs)
        self._contents = snapshot.contents
        self._checked = snapshot.checked or NOTHING
        self._school = snapshot.review.low_school if snapshot.review else LowSchool.PERCENTILE
        self._line = runs_line(snapshot.contents, snapshot.review, snapshot.checked)
        self._lines = run_lines(snapshot.contents, self._school, self._checked)
        self._show_lines()
        self._choose(self._run_id or next(iter(runs), None))
        self._show_run(runs.get(self._run_id or ""))

    def choose(self, run_id: str) -> None:
        """Choose a run in the list, whatever the filter hides."""
        self.filter.clear()
        self._choose(run_id)

    def _on_filter(self, _words: str) -> None:
        self._show_lines()
        self._choose(self._run_id)

    def _show_lines(self) -> None:
        """The runs that the filter leaves."""
        words, lines = self.filter.text().lower(), self._lines
        if words:
            lines = tuple(line for line in lines if words in filter_words(line).lower())
        self.model.show_rows(lines)
        self.counted.setText(count_text(len(lines), "run"))

    def _choose(self, run_id: str | None) -> None:
        place = self.model.place_of(run_id)
        if place >= 0:
            self.table.setCurrentIndex(self.model.index(place, 0))

    def _on_row(self, current: QModelIndex, _previous: QModelIndex) -> None:
        line = current.data(ROW_ROLE) if current.isValid() else None
        if isinstance(line, RunLine):
            self._show_run(line.run)
            self.refreshed.emit()

    def _show_run(self, run: Run | None) -> None:
        if run is None or run.id != self._run_id or (self._cut and self._cut.trim == run.trim):
            self._cut = None
        self._run_id = run.id if run else None
        self._ask_for_pictures(run)
        address = None if run is None else _address(run)
        if run is None or address is None:
            self._shown_trace, self._trace = None, None
            if self.panel is not None:
                self.panel.show_run(run, None)
        elif address != self._shown_trace or self._trace is None:
            self._shown_trace, self._trace = address, None
            self.trace_requested.emit(address)
        elif self.panel is not None:
            self.panel.show_run(run, self._trace, self._low_of(run))

    def _ask_for_pictures(self, run: Run | None) -> None:
        """Ask for the pictures that stand behind a run, unless they are here."""
        read = run.recording if run is not None else None
        wanted = read.pictures_sha256 if read is not None else None
        if wanted is not None and wanted != self._pictures[0]:
            self._pictures = (wanted, b"")
            self.pictures_requested.emit(wanted)

    def show_pictures(self, sha256: str, png: bytes) -> None:
        """Show pictures that were asked for, unless another run was chosen meanwhile."""
        if sha256 == self._pictures[0]:
            self._pictures = (sha256, png)
            self.refreshed.emit()

    def run(self) -> Run | None:
        """The chosen run."""
        return self._contents.runs.get(self._run_id or "") if self._contents else None

    def _chosen_runs(self) -> list[Run]:
        """All runs that are selected, the chosen one first."""
        run, contents = self.run(), self._contents
        if run is None or contents is None:
            return []
        selection = self.table.selectionModel()
        rows = selection.selectedRows() if selection is not None else []
        lines = [row.data(ROW_ROLE) for row in rows]
        ids = [run.id, *(line.run.id for line in lines if isinstance(line, RunLine))]
        return [contents.runs[key] for key in dict.fromkeys(ids) if key in contents.runs]

    def _low_of(self, run: Run) -> tuple[float, str] | None:
        low = run.low_1_fps(self._school)
        return None if low is None else (low, f"1 % low, {self._school}, {fps_text(low)} fps")

    def evidence(self) -> Parts | None:
        """What is known of the chosen run."""
        run = self.run()
        self.facts.show_runs(self._chosen_runs())
        if run is None or self._contents is None:
            return []
        parts: Parts = []
        found = self._checked.by_run.get(run.id, ())
        if found:
            parts.append(label("FINDINGS", "heading"))
            for finding in found:
                parts += finding_parts(finding)
            parts.append(10)
        if self._cut is not None and self._cut.trim != run.trim:
            parts += before_and_after(self._cut, self._school)
        parts += run_parts(run, self._school)
        read = run.recording
        if read is not None:
            kept = self._pictures[1] if read.pictures_sha256 == self._pictures[0] else b""
            parts += [10, *recording_parts(run, read, kept), self._picture_button(run)]
        parts += [14, *self._decision(run)]
        skipped = skipped_before(self._contents, run)
        if skipped:
            parts += [14, label("PRE-FLIGHT STEPS SKIPPED BEFORE IT", "heading")]
            parts += [label(words, "caution") for words in skipped]
        return parts

    def _picture_button(self, run: Run) -> QPushButton:
        """To the picture that the figure at the cursor was read from."""
        button = QPushButton("Show the picture at the cursor")
        button.setToolTip("A click on the readings over time shows it, too")
        button.clicked.connect(lambda: self._on_picture(run))
        return button

    def _on_picture(self, run: Run) -> None:
        at_s = self.panel.plot.cursor_s if self.panel is not None else 0.0
        self.picture_wanted.emit(run, at_s)

    # Trying a trim: figures before and after, off the interface thread

    def _on_tried(self, trim: Trim | None) -> None:
        trace, run_id = self._trace, self._run_id
        if trace is None:
            return
        if self._try is not None:
            self._try.cancel()

        def work(step: Progress) -> Cut:
            step("Measuring the part", 0.0)
            return cut(trace, trim)

        self._try = self._trying.run(
            "Measuring the part",
            work,
            lambda made: self._on_cut(made, run_id),
            self._on_cut_failed,
        )

    def _on_cut(self, made: Cut, run_id: str | None) -> None:
        # One that comes late, of a run that is no longer chosen, says nothing of this one.
        if run_id == self._run_id:
            self._cut = made
            self.refreshed.emit()

    def _on_cut_failed(self, error: Exception) -> None:
        if self.panel is not None:
            self.panel.says.show_words(str(error))

    def _decision(self, run: Run) -> Parts:
        row = QHBoxLayout()
        row.setSpacing(4)
        group = QButtonGroup(self)
        for decision, key in DECISION_KEYS.items():
            button = QPushButton(str(decision).capitalize())
            button.setStyleSheet("padding-left: 7px; padding-right: 7px;")
            button.setCheckable(True)
            button.setChecked(run.decision is decision)
            button.setToolTip(f"Key {key} in the list")
            button.clicked.connect(
                lambda _checked, decision=decision: self.edited.emit(decide(run, decision=decision))
            )
            group.addButton(button)
            row.addWidget(button)
        reason = QLineEdit(run.reason)
        reason.setPlaceholderText("Why")
        reason.setAccessibleName("Reason for the decision")
        reason.setObjectName(f"reason {run.id}")  # what is being typed outlives other news
        reason.setMaxLength(400)
        reason.editingFinished.connect(lambda: self._on_reason(run, reason.text().strip()))
        return [label("DECISION", "heading"), row, reason]

    def _on_reason(self, run: Run, reason: str) -> None:
        if reason != run.reason:
            self.edited.emit(give_reason(run, reason))

    def apply_theme(self) -> None:
        """Other colours are in use: those of the trace."""
        if self.panel is not None:
            self.panel.apply_theme()

    def _decide(self, decision: Decision) -> None:
        runs = [run for run in self._chosen_runs() if run.decision is not decision]
        if runs:
            self.edited.emit(decide(*runs, decision=decision))

    def show_trace(self, sha256: str, trace: Trace) -> None:
        """Draw a trace that was asked for, unless another run was chosen meanwhile."""
        if sha256 != self._shown_trace:
            return
        if self.panel is None:
            from blunt_ruler.ui.runs.trace_panel import TracePanel  # pyqtgraph is slow to import

            self.panel = TracePanel()
            self.panel.trim_requested.connect(self.trim_requested)
            self.panel.trim_tried.connect(self._on_tried)
            self.panel.overlay_wanted.connect(self._on_overlay)
            self.panel.picture_wanted.connect(self.picture_wanted)
            self._plot_place.addWidget(self.panel)
            focus_last(self.facts)
        self._trace = trace
        run = self.run()
        if run is not None:
            self.panel.show_run(run, trace, self._low_of(run))

    def _on_overlay(self) -> None:
        """Ask for the traces of the other kept passes of the cell."""
        run = self.run()
        if run is None or self._contents is None:
            return
        others = [
            one.trace_sha256
            for one in self._contents.runs.values()
            if (one.rig_id, one.case_id) == (run.rig_id, run.case_id)
            and one.id != run.id
            and one.trace_sha256
            and one.decision is Decision.KEEP
        ]
        self.overlay_requested.emit(others[:MOST_OVERLAID])

    def show_overlaid(self, traces: list[Trace]) -> None:
        """Lay traces over the shown one."""
        if self.panel is not None and self.panel.overlay.isChecked():
            self.panel.show_others(traces)

    def wait(self) -> None:
        """Let work under way end."""
        self._trying.close()


def _address(run: Run) -> str | None:
    """Where the trace of a run lies, or the readings of a recording."""
    if run.trace_sha256 is not None or run.recording is None:
        return run.trace_sha256
    return run.recording.series_sha256


MOST_OVERLAID = 8
NARROW = 640  # pixels
