"""The Runs view: the list of runs, the trace of the chosen one, and what was decided of it."""

from typing import TYPE_CHECKING

from PyQt6.QtCore import QModelIndex, QSortFilterProxyModel, Qt, pyqtSignal
from PyQt6.QtGui import QKeySequence, QShortcut
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QButtonGroup,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QPushButton,
    QSplitter,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from blunt_ruler.core.blunt_lines import runs_line
from blunt_ruler.core.frames import LowSchool, why_no_low
from blunt_ruler.core.models import Contents, Decision, Run, Trace
from blunt_ruler.core.preflight import skipped_before
from blunt_ruler.core.text import count_text, duration_text, fps_text, percent_text
from blunt_ruler.ui.desk import Spread
from blunt_ruler.ui.parts import Stop, figure_row, label
from blunt_ruler.ui.runs.models import FILTER_ROLE, RUN_ROLE, SORT_ROLE, RunsModel, run_lines

if TYPE_CHECKING:
    from blunt_ruler.ui.runs.trace_plot import TracePlot

DECISION_KEYS = {Decision.KEEP: "K", Decision.REDO: "R", Decision.SET_ASIDE: "S"}


class RunsStop(Stop):
    """All runs of the logbook.

    Signals:
        import_requested(): the reviewer wants to import logs.
        trace_requested(str): show the trace at an address.
        decision_requested(Run, Decision): keep, redo or set aside a run.
        reason_requested(Run, str): say why.
    """

    import_requested = pyqtSignal()
    trace_requested = pyqtSignal(str)
    decision_requested = pyqtSignal(object, object)
    reason_requested = pyqtSignal(object, str)

    def __init__(self) -> None:
        super().__init__("Runs")
        self._school = LowSchool.PERCENTILE
        self._run_id: str | None = None
        self._contents: Contents | None = None
        self._shown_trace: str | None = None
        bar = QHBoxLayout()
        self.import_button = QPushButton("Import logs…")
        self.import_button.setObjectName("primary")
        self.import_button.clicked.connect(self.import_requested)
        self.filter = QLineEdit()
        self.filter.setPlaceholderText("Filter by title, rig, resolution or decision")
        self.filter.setAccessibleName("Filter runs")
        self.filter.setClearButtonEnabled(True)
        self.counted = label("", "quiet", wrap=False)
        bar.addWidget(self.import_button)
        bar.addWidget(self.filter, 1)
        bar.addWidget(self.counted)
        self.body.addLayout(bar)
        self.model = RunsModel()
        self.sorted = QSortFilterProxyModel()
        self.sorted.setSourceModel(self.model)
        self.sorted.setSortRole(SORT_ROLE)
        self.sorted.setFilterRole(FILTER_ROLE)
        self.sorted.setFilterCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        self.table = QTableView()
        self.table.setModel(self.sorted)
        for model in (self.sorted, self.model):
            model.setParent(self.table)  # so that the table never outlives its models
        self._dress_table()
        self.filter.textChanged.connect(self._on_filter)
        self._plot_place = QVBoxLayout()
        self._plot_place.setContentsMargins(0, 0, 0, 0)
        self.plot: TracePlot | None = None
        below = QWidget()
        below.setLayout(self._plot_place)
        split = QSplitter(Qt.Orientation.Vertical)
        split.setChildrenCollapsible(False)
        split.addWidget(self.table)
        split.addWidget(below)
        split.setSizes([380, 210])
        self.split = split
        self.body.addWidget(split, 1)
        self.nothing = label(
            "A frame log is any delimited file with one row per frame: a column of frame times, "
            "of rates, or a running clock. Columns, units and decimal marks are found from the "
            "content and shown before anything is imported.",
            "quiet",
        )
        self.body.addWidget(self.nothing)
        self.body.addStretch(0)
        for decision, key in DECISION_KEYS.items():
            shortcut = QShortcut(QKeySequence(key), self.table)
            shortcut.setContext(Qt.ShortcutContext.WidgetShortcut)
            shortcut.activated.connect(lambda decision=decision: self._decide(decision))

    def _dress_table(self) -> None:
        table = self.table
        table.setAccessibleName("Runs")
        table.setShowGrid(False)
        table.setSortingEnabled(True)
        table.sortByColumn(-1, Qt.SortOrder.AscendingOrder)
        table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        table.setTabKeyNavigation(False)
        table.setWordWrap(False)
        side = table.verticalHeader()
        if side is not None:
            side.hide()
            side.setDefaultSectionSize(27)
        head = table.horizontalHeader()
        if head is not None:
            head.setHighlightSections(False)
            head.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
            for column in (0, 1):
                head.setSectionResizeMode(column, QHeaderView.ResizeMode.Stretch)
            for column, width in ((2, 50), (3, 74), (4, 68), (5, 86)):
                head.resizeSection(column, width)
        selection = table.selectionModel()
        if selection is not None:
            selection.currentRowChanged.connect(self._on_row)

    def show_spread(self, spread: Spread | None) -> None:
        """Show every run of the logbook."""
        runs = spread.contents.runs if spread else {}
        for widget in (self.split, self.filter, self.counted):
            widget.setVisible(bool(runs))
        self.nothing.setVisible(not runs)
        self.import_button.setEnabled(spread is not None)
        if spread is None:
            self.say("No logbook is open. Drop frame logs on this window to start one.")
            return
        self._contents = spread.contents
        self._school = spread.review.low_school if spread.review else LowSchool.PERCENTILE
        self.say(runs_line(spread.contents, spread.review))
        self.model.show_lines(run_lines(spread.contents, self._school))
        self._count()
        self._choose(self._run_id or next(iter(runs), None))
        self._show_run(spread.contents.runs.get(self._run_id or ""))

    def _on_filter(self, words: str) -> None:
        self.sorted.setFilterFixedString(words)
        self._count()

    def _count(self) -> None:
        self.counted.setText(count_text(self.sorted.rowCount(), "run"))

    def _choose(self, run_id: str | None) -> None:
        for row, line in enumerate(self.model.lines):
            if line.run.id == run_id:
                self.table.setCurrentIndex(self.sorted.mapFromSource(self.model.index(row, 0)))
                return

    def _on_row(self, current: QModelIndex, _previous: QModelIndex) -> None:
        run = current.data(RUN_ROLE) if current.isValid() else None
        if isinstance(run, Run):
            self._show_run(run)

    def _show_run(self, run: Run | None) -> None:
        self._run_id = run.id if run else None
        if self.evidence is None:
            return
        if run is None:
            self.evidence.show_parts([])
            return
        skipped = skipped_before(self._contents, run) if self._contents else ()
        parts = [*self._figures(run), 14, *self._decision(run)]
        if skipped:
            parts += [14, label("PRE-FLIGHT STEPS SKIPPED BEFORE IT", "heading")]
            parts += [label(words, "caution") for words in skipped]
        self.evidence.show_parts(parts)
        if run.trace_sha256 is None:
            self._shown_trace = None
            if self.plot is not None:
                self.plot.show_trace(None)
        elif run.trace_sha256 != self._shown_trace:
            self._shown_trace = run.trace_sha256
            self.trace_requested.emit(run.trace_sha256)

    def _figures(self, run: Run) -> list[QWidget | QHBoxLayout | int]:
        parts: list[QWidget | QHBoxLayout | int] = [label("THIS RUN", "heading")]
        figures = run.figures
        if figures is None:
            parts.append(label("Typed figures, no trace", "says"))
            parts.append(figure_row("average", f"{fps_text(run.average_fps)} fps"))
            parts.append(figure_row("1 % low", fps_text(run.low_1_fps(self._school))))
            return parts
        low = figures.low_1.by(self._school)
        low_01 = figures.low_01.by(self._school)
        parts += [
            label(f"{fps_text(figures.average_fps)} frames per second", "says"),
            figure_row("median", f"{fps_text(figures.median_fps)} fps"),
            figure_row(f"1 % low, {self._school}", f"{fps_text(low)} fps"),
            figure_row("0.1 % low", f"{fps_text(low_01)} fps"),
            figure_row("steadiness", percent_text(figures.steadiness(self._school))),
            figure_row("stutters a minute", f"{figures.stutters_per_min:.1f}"),
            figure_row("time in stutter", percent_text(figures.stutter_time_share, decimals=1)),
            figure_row("frames", count_text(figures.frames, "frame")),
            figure_row("length", duration_text(figures.duration_s)),
            8,
            label("FRAGILE, ONE FRAME EACH", "heading"),
            figure_row("minimum", f"{fps_text(figures.minimum_fps)} fps"),
            figure_row("maximum", f"{fps_text(figures.maximum_fps)} fps"),
        ]
        for share in (0.01, 0.001):
            why = why_no_low(figures.frames, share)
            if why:
                parts.append(label(why, "caution"))
        parts += [8, label(f"from {run.origin.file or run.origin.kind}", "small")]
        return parts

    def _decision(self, run: Run) -> list[QWidget | QHBoxLayout]:
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
                lambda _checked, decision=decision: self.decision_requested.emit(run, decision)
            )
            group.addButton(button)
            row.addWidget(button)
        reason = QLineEdit(run.reason)
        reason.setPlaceholderText("Why")
        reason.setAccessibleName("Reason for the decision")
        reason.setMaxLength(400)
        reason.editingFinished.connect(
            lambda: (
                reason.text().strip() != run.reason
                and self.reason_requested.emit(run, reason.text().strip())
            )
        )
        return [label("DECISION", "heading"), row, reason]

    def dress(self) -> None:
        """Take on another theme's colours."""
        if self.plot is not None:
            self.plot.dress()

    def _decide(self, decision: Decision) -> None:
        run = self.table.currentIndex().data(RUN_ROLE)
        if isinstance(run, Run) and run.decision is not decision:
            self.decision_requested.emit(run, decision)

    def show_trace(self, sha256: str, trace: Trace) -> None:
        """Draw a trace that was asked for, unless another run was chosen meanwhile."""
        if sha256 != self._shown_trace:
            return
        if self.plot is None:
            from blunt_ruler.ui.runs.trace_plot import TracePlot  # pyqtgraph is slow to import

            self.plot = TracePlot()
            self._plot_place.addWidget(self.plot)
        run = next((one.run for one in self.model.lines if one.run.id == self._run_id), None)
        low = run.low_1_fps(self._school) if run else None
        self.plot.show_trace(trace.frame_times_ms, low)
