"""The sheet at work: the next pass, large, and three ways to take it."""

import time
from typing import TYPE_CHECKING

from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QProgressBar,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.measure.machine_samples import Samples
from blunt_ruler.core.plan.next_pass import (
    NextPass,
    newest_run,
    next_pass,
    pass_on,
    settings_of,
    work_line,
)
from blunt_ruler.core.records.records import Trace
from blunt_ruler.core.rigs.machine_report import expected_link, samples_line
from blunt_ruler.core.text import duration_text
from blunt_ruler.ui.desk.snapshot import Snapshot
from blunt_ruler.ui.desk.stop import Page
from blunt_ruler.ui.kit.focus_ring import focus_last
from blunt_ruler.ui.kit.layouts import beside, stacked
from blunt_ruler.ui.kit.widgets import ElidedLabel, allow, empty, label
from blunt_ruler.ui.runs.inbox_box import InboxBox
from blunt_ruler.ui.runs.live import LiveTaker, Taken
from blunt_ruler.ui.runs.machine_watch import MachineWatch, watchable
from blunt_ruler.ui.runs.whole_plan import arrival_of, bench_pass

if TYPE_CHECKING:
    from blunt_ruler.ui.runs.trace_plot import TracePlot

PACES = {"at full speed": False, "at its own pace": True}
TICK_MS = 250
UNDER_WAY = "A pass is being taken"


class WorkPage(Page):
    """What is to be taken now, and taking it.

    Signals:
        arrivals_ready(list): (Arrival, Trace) pairs to take in.
        typing_requested(str, str): type figures for the rig and case with these ids.
        all_wanted(): play every pass that is left.
    """

    arrivals_ready = pyqtSignal(object)
    typing_requested = pyqtSignal(str, str)
    all_wanted = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self._snapshot: Snapshot | None = None
        self.going: NextPass | None = None
        self.taker = LiveTaker(self)
        self.taker.grew.connect(self._on_grew)
        self.taker.taken.connect(self._on_taken)
        self.taker.failed.connect(self._on_failed)
        self._plot_place = QVBoxLayout()
        self._plot_place.setContentsMargins(0, 0, 0, 0)
        self._plot: TracePlot | None = None
        self._timer = QTimer(self)
        self._timer.setInterval(TICK_MS)
        self._timer.timeout.connect(self._on_tick)
        self._since: float | None = None
        self.watch = MachineWatch(self)
        self.watch.grew.connect(self._on_grew_samples)
        self.watch.edited.connect(self.edited)
        self.watch.failed.connect(self.error_raised)
        column = stacked(self._choice_bar(), self._sheet(), self._take_bar(), spacing=10, on=self)
        self.live = QWidget()
        self.live.setLayout(self._plot_place)
        self.live.hide()
        column.addWidget(self.live, 1)
        self.inbox = InboxBox()
        column.addWidget(self.inbox)
        self._gap = QWidget()
        column.addWidget(self._gap, 1)

    # Layout

    def _choice_bar(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(6)
        self.rig, self.case = QComboBox(), QComboBox()
        for box, name in ((self.rig, "Rig of the pass"), (self.case, "Case of the pass")):
            box.setAccessibleName(name)
            box.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
            box.activated.connect(self._on_chosen)
        self.back = QPushButton("Next in the plan")
        self.back.clicked.connect(self._go_on)
        row.addWidget(self.rig, 2)
        row.addWidget(self.case, 3)
        row.addWidget(self.back)
        return row

    def _sheet(self) -> QFrame:
        card = QFrame()
        card.setObjectName("card")
        card.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Maximum)
        self.rig_words = ElidedLabel("quiet")
        self.case_words = ElidedLabel("blunt")
        self.case_words.setStyleSheet("font-size: 20px;")
        self.clock = label("0:00", "figure", wrap=False)
        self.clock.setStyleSheet("font-size: 20px; font-weight: 600;")
        self.clock.setAccessibleName("Time since the pass began")
        self.start = QPushButton("Start the clock")
        self.start.clicked.connect(self._on_clock)
        self.machine = QComboBox()
        self.machine.setAccessibleName("Machine that is read while the clock runs")
        self.machine.addItems(list(watchable()))
        self.machine.setToolTip(
            "Read-only, four times a second; kept with the run, whether its figures are typed or "
            "come from a log"
        )
        self.reading, self.alarm = label("", "quiet"), label("", "caution")
        self.reading.hide()
        self.alarm.hide()
        self.settings = QGridLayout()
        self.settings.setHorizontalSpacing(18)
        self.settings.setVerticalSpacing(3)
        self.steps = QVBoxLayout()
        self.steps.setSpacing(4)
        body = QHBoxLayout()
        body.setSpacing(28)
        left, right = QVBoxLayout(), QVBoxLayout()
        for column, words in ((left, "SETTINGS"), (right, "BEFORE IT")):
            heading = label(words, "heading", wrap=False)
            heading.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
            column.setSpacing(4)
            column.addWidget(heading)
        left.addLayout(self.settings)
        left.addStretch(1)
        right.addLayout(self.steps)
        right.addStretch(1)
        body.addLayout(left, 1)
        body.addLayout(right, 1)
        stacked(
            beside(
                (stacked(self.rig_words, self.case_words, spacing=0), 1),
                self.clock,
                self.start,
                self.machine,
            ),
            self.reading,
            self.alarm,
            body,
            spacing=10,
            margins=(16, 12, 16, 14),
            on=card,
        )
        self.card = card
        return card

    def _take_bar(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(6)
        self.take = QPushButton("Take the next run")
        self.take.setObjectName("primary")
        self.take.setToolTip("Plays it on the simulated bench (Ctrl+T)")
        self.take.clicked.connect(self.take_run)
        self.take_all = QPushButton("Simulate all")
        self.take_all.setToolTip(
            "Plays every pass that the plan still wants on the simulated bench (Ctrl+Shift+A)"
        )
        self.take_all.clicked.connect(self.all_wanted)
        self.pace = QComboBox()
        self.pace.setAccessibleName("Pace of the simulated bench")
        self.pace.setFixedWidth(148)
        self.pace.addItems(list(PACES))
        self.typing = QPushButton("Type its figures")
        self.typing.clicked.connect(self._on_typing)
        self.why_not = ElidedLabel("small")
        self.bar = QProgressBar()
        self.bar.setRange(0, 1000)
        self.bar.setTextVisible(False)
        self.bar.setAccessibleName("How far the run is")
        self.bar.hide()
        self.stop = QPushButton("Stop")
        self.stop.setToolTip("What was recorded so far is kept, to be redone")
        self.stop.clicked.connect(self.taker.stop)
        self.stop.hide()
        for widget in (self.take, self.take_all, self.pace, self.typing):
            row.addWidget(widget)
        row.addWidget(self.why_not, 1)
        row.addWidget(self.bar, 1)
        row.addWidget(self.stop)
        return row

    # Showing

    def line(self) -> str:
        """What comes next."""
        return work_line(self._snapshot.contents, self.going) if self._snapshot else ""

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Show what comes next in the present review."""
        self._snapshot = snapshot
        contents, review = snapshot.contents, snapshot.review
        if review is None or snapshot.analysis is None:
            self._show_pass(None)
            return
        for box, names in (
            (self.rig, [(contents.rigs[s.rig_id].name, s.rig_id) for s in review.seats]),
            (self.case, [(contents.case_label(one), one) for one in review.case_ids]),
        ):
            box.clear()
            for name, key in names:
                box.addItem(name, key)
        plan = snapshot.analysis.bench_plan
        self.watch.show_contents(contents)
        self._show_pass(next_pass(contents, review, plan) if plan is not None else None)

    def _show_pass(self, going: NextPass | None) -> None:
        self.going = going
        snapshot = self._snapshot
        empty(self.settings)
        empty(self.steps)
        ready = going is not None and snapshot is not None
        for widget in (self.card, self.take, self.take_all, self.pace, self.typing):
            widget.setVisible(ready)
        if going is None or snapshot is None:
            self.why_not.show_words("")
            return
        contents = snapshot.contents
        self.rig.setCurrentIndex(self.rig.findData(going.rig_id))
        self.case.setCurrentIndex(self.case.findData(going.case_id))
        case = contents.cases[going.case_id]
        self.rig_words.show_words(
            f"{contents.rigs[going.rig_id].name}, pass {going.repeat}, "
            f"{duration_text(going.pass_s)}"
        )
        self.case_words.show_words(contents.titles[case.title_id].name)
        for row, (name, words) in enumerate(settings_of(case)):
            self.settings.addWidget(label(name, "quiet", wrap=False), row, 0)
            value = ElidedLabel("figure")
            value.show_words(words)
            self.settings.addWidget(value, row, 1)
        for step in going.steps or ("Nothing: the case is set up.",):
            if going.steps:
                box = QCheckBox(step)
                box.setAccessibleName(step)
                self.steps.addWidget(box)
            else:
                self.steps.addWidget(label(step, "quiet"))
        focus_last(self.take, self.take_all, self.pace, self.typing, self.stop, self.inbox)
        why = self._why_not()
        allow(self.take, why or (UNDER_WAY if self.taker.is_running else ""))
        self.why_not.show_words(why)

    def _why_not(self) -> str:
        """Why the simulated bench cannot play this pass; blank where it can."""
        assert self._snapshot is not None and self.going is not None
        try:
            title = bench_pass(self._snapshot.contents, self.going).setting.title
        except UserFixable as error:
            return f"The simulated bench can't play it: {error.what}. {error.fix}."
        self.take.setToolTip(
            f"Plays it on the simulated bench (Ctrl+T). {title.name}: {title.flow.words}."
        )
        return ""

    def _on_chosen(self) -> None:
        """Another pass than the planned one was chosen."""
        snapshot = self._snapshot
        if snapshot is None or snapshot.review is None or snapshot.analysis is None:
            return
        contents, plan = snapshot.contents, snapshot.analysis.bench_plan
        rig_id, case_id = self.rig.currentData(), self.case.currentData()
        if rig_id and case_id and plan is not None:
            last = newest_run(contents, snapshot.review)
            self._show_pass(pass_on(contents, plan, rig_id, case_id, last))
            self.refreshed.emit()

    def _go_on(self) -> None:
        if self._snapshot is not None:
            self.show_snapshot(self._snapshot)
            self.refreshed.emit()

    # The clock

    def _on_clock(self) -> None:
        if self._since is None:
            self._since = time.monotonic()
            self._timer.start()
            self.start.setText("Stop the clock")
            self._begin_watch()
        else:
            self.watch.end()
            self._since = None
            self._timer.stop()
            self.start.setText("Start the clock")

    def _on_tick(self) -> None:
        if self._since is not None:
            seconds = int(time.monotonic() - self._since)
            self.clock.setText(f"{seconds // 60}:{seconds % 60:02d}")

    # The machine

    def _begin_watch(self) -> None:
        if self.going is not None and self._snapshot is not None:
            known = frozenset(self._snapshot.contents.runs)
            going = self.going
            self.watch.begin(self.machine.currentText(), going.rig_id, going.case_id, known)

    def _on_grew_samples(self, samples: Samples) -> None:
        """What the machine says now; a link that did not come up is told at once."""
        if self.going is None or self._snapshot is None:
            return
        contents = self._snapshot.contents
        said = samples_line(samples, *expected_link(contents, contents.rigs[self.going.rig_id]))
        wrong = "did not take" in said
        for widget, shown in ((self.reading, not wrong), (self.alarm, wrong)):
            widget.setText(said)
            widget.setVisible(shown)

    # Taking a run

    def take_run(self) -> None:
        """Play the shown pass on the simulated bench and take it in."""
        if self.going is None:
            self.notice_raised.emit(
                "Nothing is left to take: the plan needs a rig, and a case that is not done."
            )
            return
        if why := UNDER_WAY if self.taker.is_running else self._why_not():
            self.notice_raised.emit(why)
            return
        assert self._snapshot is not None
        self._taking = one = bench_pass(self._snapshot.contents, self.going)
        pace = PACES[self.pace.currentText()]
        self.taker.start(one.rig, one.setting, one.seed, one.repeat, pace)
        allow(self.take, UNDER_WAY)
        self.why_not.hide()
        for widget in (self.bar, self.stop, self.live):
            widget.show()
        self._gap.hide()
        self.bar.setValue(0)

    def _on_grew(self, trace: Trace, share: float) -> None:
        from blunt_ruler.ui.runs import trace_plot  # pyqtgraph is slow to import

        if self._plot is None:
            self._plot = trace_plot.TracePlot()
            self._plot_place.addWidget(self._plot)
        self._plot.show_trace(trace_plot.Shown(trace.frame_times_ms, trace.telemetry))
        self.bar.setValue(round(share * 1000))

    def _on_taken(self, taken: Taken) -> None:
        self._rest()
        if self._snapshot is None:
            return
        at_s = taken.stopped_at_s
        stopped = "" if at_s is None else f"stopped after {duration_text(at_s)}"
        arrival = arrival_of(self._snapshot.contents, self._taking, stopped)
        self.arrivals_ready.emit([(arrival, taken.trace)])

    def _on_failed(self, error: Exception) -> None:
        self._rest()
        self.error_raised.emit(error)

    def _rest(self) -> None:
        self.bar.hide()
        self.stop.hide()
        self.why_not.show()
        allow(self.take, "")

    def _on_typing(self) -> None:
        if self.going is not None:
            self.typing_requested.emit(self.going.rig_id, self.going.case_id)

    def apply_theme(self) -> None:
        """Take on another theme's colours."""
        if self._plot is not None:
            self._plot.apply_theme()

    def wait(self) -> None:
        """Stop what is under way."""
        self.taker.wait()
        self.watch.wait()
