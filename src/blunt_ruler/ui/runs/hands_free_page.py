"""Hands free: the title is started, the clock kept, the log taken and judged, in figures that are
read from three metres; and again, until the cell is as narrow as the plan asks.
"""

import time
from enum import Enum, auto
from pathlib import Path

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtWidgets import QComboBox, QFileDialog, QFrame, QProgressBar, QPushButton

from blunt_ruler.core.analysis.hands_free import (
    Told,
    ended_early,
    not_allowed,
    tell,
    without_log,
)
from blunt_ruler.core.plan.matrix import plan_of
from blunt_ruler.core.plan.next_pass import NextPass, next_pass, work_line
from blunt_ruler.core.records.records import Run
from blunt_ruler.core.text import duration_text
from blunt_ruler.ui.desk.snapshot import Snapshot
from blunt_ruler.ui.desk.stop import Page
from blunt_ruler.ui.kit.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.kit.sound import GOOD, HALT
from blunt_ruler.ui.kit.widgets import ElidedLabel, allow, label
from blunt_ruler.ui.runs.command_panel import CommandPanel
from blunt_ruler.ui.runs.machine_watch import MachineWatch, watchable
from blunt_ruler.ui.runs.title_process import TitleProcess

TICK_MS = 200
CHANGED = "The program file is not the one that was allowed."
WITHDRAWN = "The start command may not be run any more."


class Phase(Enum):
    """Where a sitting is."""

    IDLE = auto()
    LOADING = auto()
    PASS = auto()
    WAITING = auto()
    COOLING = auto()


class HandsFreePage(Page):
    """Takes passes of one cell until it is narrow enough.

    Signals:
        watch_requested(object): watch this folder for logs.
        sounded(object): notes to be heard.
    """

    watch_requested = pyqtSignal(object)
    sounded = pyqtSignal(object)
    log_wait_s = 60.0
    pace = 1.0  # how much faster than the clock it goes: tests do not sit through passes

    def __init__(self) -> None:
        super().__init__()
        self.going: NextPass | None = None
        self.phase = Phase.IDLE
        self.watch = MachineWatch(self)
        self.watch.edited.connect(self.edited)
        self.watch.failed.connect(self.error_raised)
        self._snapshot: Snapshot | None = None
        self._until = self._since = 0.0
        self._known: frozenset[str] = frozenset()
        self._taken = 0
        self._note = ""
        self._folder: Path | None = None
        self.title = TitleProcess(self)
        self.title.ended.connect(self._on_title_ended)
        self.title.gone.connect(self._show_start)
        self._timer = QTimer(self)
        self._timer.setInterval(TICK_MS)
        self._timer.timeout.connect(self._on_tick)
        self._lay_out()

    def _lay_out(self) -> None:
        self.cell = ElidedLabel("blunt")
        self.figure = label("–", "afar")
        self.words, self.found = label("", "afar_words"), label("", "afar_words")
        self.then = label("", "afar_next")
        for one in (self.figure, self.words, self.found, self.then):
            one.setAlignment(Qt.AlignmentFlag.AlignHCenter)
        self.figure.setAccessibleName("What the last pass gave, or the clock")
        self.bar = QProgressBar()
        self.bar.setRange(0, 1000)
        self.bar.setTextVisible(False)
        self.bar.setAccessibleName("How far the pass is")
        self.start = QPushButton("Start")
        self.start.setObjectName("primary")
        self.start.clicked.connect(self.toggle)
        self.machine = QComboBox()
        self.machine.setAccessibleName("Machine that is read during the passes")
        self.machine.addItems(list(watchable()))
        self.command = CommandPanel()
        self.command.changed.connect(self._show_start)
        self.command.withdrawn.connect(self._on_withdrawn)
        self.command.error_raised.connect(self.error_raised)
        self.end = QPushButton("End the title")
        self.end.clicked.connect(self.title.stop)
        self.inbox = ElidedLabel("quiet")
        self.choose = QPushButton("Choose a folder…")
        self.choose.clicked.connect(self._ask)
        card = QFrame()
        card.setObjectName("card")
        stacked(
            beside((self.cell, 1), self.machine, self.end, self.start),
            beside(
                (label("STARTS", "heading", wrap=False), Qt.AlignmentFlag.AlignTop),
                (self.command, 1),
            ),
            beside(label("INBOX", "heading", wrap=False), (self.inbox, 1), self.choose),
            spacing=10,
            margins=(16, 12, 16, 12),
            on=card,
        )
        stacked(
            card,
            STRETCH,
            self.figure,
            self.words,
            self.found,
            self.then,
            STRETCH,
            self.bar,
            spacing=10,
            on=self,
        )
        self.show_folder(None)

    # What is shown

    @property
    def is_running(self) -> bool:
        """Whether a sitting is under way."""
        return self.phase is not Phase.IDLE

    def line(self) -> str:
        """What comes next."""
        return work_line(self._snapshot.contents, self.going) if self._snapshot else ""

    def show_folder(self, folder: Path | None) -> None:
        """Say which folder logs are taken from."""
        self._folder = folder
        self.inbox.show_words(f"Watching {folder}" if folder else "No folder is watched yet.")
        self._show_start()

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Take in what lies on the desk: the run that was waited for may be among it."""
        self._snapshot = snapshot
        review, analysis = snapshot.review, snapshot.analysis
        if review is None or analysis is None:
            self.going = None
        elif not self.is_running:
            plan = analysis.bench_plan
            self.going = next_pass(snapshot.contents, review, plan) if plan else None
        self.watch.show_contents(snapshot.contents)
        self._show_cell()
        if self.phase is Phase.WAITING and analysis is not None and analysis.settled:
            run = self._arrived()
            if run is not None:
                self._judge(run)

    def _show_cell(self) -> None:
        going, snapshot = self.going, self._snapshot
        if going is None or snapshot is None:
            self.cell.show_words("Nothing is left in the plan")
        else:
            contents = snapshot.contents
            rig = contents.rigs[going.rig_id].name
            self.cell.show_words(f"{contents.case_label(going.case_id)} on {rig}")
            title = contents.titles[contents.cases[going.case_id].title_id]
            self.command.show_text(title.start_command, snapshot.path)
        self._show_start()

    def _show_start(self) -> None:
        self.start.setText("Stop" if self.is_running else "Start")
        why = ""
        if self.is_running:
            pass
        elif self.going is None:
            why = "Nothing is left in the plan"
        elif self._folder is None:
            why = "Choose the folder where logs arrive first"
        elif self.title.is_running and self.title.words != self._words():
            why = f"{self.title.words} is still running: end it first"
        else:
            why = self.command.why_not
        allow(self.start, why)
        self.end.setVisible(self.title.is_running and not self.is_running)

    def _words(self) -> str:
        return self.command.command.words if self.command.command is not None else ""

    def _ask(self) -> None:
        text = QFileDialog.getExistingDirectory(self, "Folder where logs arrive")
        if text:
            self.watch_requested.emit(Path(text))

    # A sitting

    def toggle(self) -> None:
        """Start, or stop what is under way."""
        if self.is_running:
            self.title.stop()
            self._halt(Told("–", "", "Stopped.", "Start continues with the same case.", False))
        else:
            self._taken = 0
            self._begin()

    def _begin(self) -> None:
        """Start the title, where it is not running, and wait until it has loaded."""
        snapshot, going = self._snapshot, self.going
        if snapshot is None or going is None or snapshot.review is None:
            return
        contents = snapshot.contents
        title_id = contents.cases[going.case_id].title_id
        loading_s, command = 0.0, self.command.command
        if self.command.why_not or (command is not None and not self.command.is_as_allowed()):
            self._halt(not_allowed(self.command.why_not or CHANGED))
            return
        if self.title.is_running and self.title.words != self._words():
            self._halt(Told("–", "not started", self.start.toolTip(), "", False))
            return
        if command is not None and not self.title.is_running:
            try:
                self.title.start(command.parts, command.words)
            except (OSError, ValueError) as error:
                why = getattr(error, "strerror", None) or error
                what = f"{command.words} could not be started: {why}."
                self._halt(
                    Told("–", "not started", what, "Correct the title's start command.", False)
                )
                return
            loading_s = plan_of(contents, snapshot.review).times_of(title_id).load_s
        self._note = ""
        self._known = frozenset(contents.runs)
        # From here on: when inside it the scene is played, only its log knows.
        cell = (going.rig_id, going.case_id)
        self.watch.begin(self.machine.currentText(), *cell, self._known)
        self._enter(Phase.LOADING, loading_s)
        self._say(Told("", "until the pass", "The title is loading.", "", False))
        self._timer.start()

    def _enter(self, phase: Phase, seconds: float) -> None:
        self.phase = phase
        self._since = time.monotonic()
        self._until = self._since + seconds / self.pace
        self._show_start()

    def _on_tick(self) -> None:
        now = time.monotonic()
        whole = self._until - self._since
        self.bar.setValue(round(1000 * min((now - self._since) / whole, 1.0)) if whole > 0 else 0)
        left = max(self._until - now, 0.0)
        if self.phase in (Phase.LOADING, Phase.PASS, Phase.COOLING):
            self.figure.setText(_clock(left * self.pace))
        if now < self._until:
            return
        if self.phase is Phase.LOADING:
            self._begin_pass()
        elif self.phase is Phase.PASS:
            self._enter(Phase.WAITING, self.log_wait_s)
            self._say(Told("…", "the pass is over", "Waiting for its log.", "", False))
            if self._snapshot is not None:
                self.show_snapshot(self._snapshot)
        elif self.phase is Phase.WAITING:
            self._halt(without_log(self.log_wait_s))
        elif self.phase is Phase.COOLING:
            self._begin()

    def _begin_pass(self) -> None:
        assert self.going is not None
        going = self.going
        self._enter(Phase.PASS, going.pass_s)
        length = duration_text(going.pass_s)
        words = f"Pass {self._taken + 1}, {length}."
        self._say(Told("", "left of the pass", words, self._note, False))

    def _arrived(self) -> Run | None:
        """The run of this cell that came since the pass began."""
        going, snapshot = self.going, self._snapshot
        if going is None or snapshot is None:
            return None
        runs = snapshot.contents.runs
        return next(
            (
                run
                for key, run in runs.items()
                if key not in self._known
                and (run.rig_id, run.case_id) == (going.rig_id, going.case_id)
            ),
            None,
        )

    def _judge(self, run: Run) -> None:
        """Say what a pass gave, and go on where another is asked for."""
        snapshot = self._snapshot
        assert snapshot is not None and snapshot.analysis is not None
        assert snapshot.review is not None
        analysis, contents = snapshot.analysis, snapshot.contents
        self._taken += 1
        self.watch.end()
        plan = plan_of(contents, snapshot.review)
        told = tell(contents, analysis.board, analysis.checked, plan, run, self._taken)
        if told.again:
            self._say(told)
            self.sounded.emit(GOOD)
            self._enter(Phase.COOLING, plan.cool_down_s)
        else:
            self._halt(told)

    def _say(self, told: Told) -> None:
        self.figure.setText(told.figure)
        self.words.setText(told.words)
        self.found.setText(told.found)
        self.then.setText(told.then)

    def _halt(self, told: Told) -> None:
        """Nothing goes on by itself any more."""
        self._timer.stop()
        self.watch.end()
        self.bar.setValue(0)
        self.phase = Phase.IDLE
        done = told.then.endswith("done with this case.")
        if self._snapshot is not None:
            self.show_snapshot(self._snapshot)  # what is next may be another cell now
        if done and self.going is not None and self._snapshot is not None:
            told = Told(*(told.figure, told.words, told.found), self.line(), False)
        self._say(told)
        self.sounded.emit(GOOD if done else HALT)
        self.refreshed.emit()

    def _on_title_ended(self, code: int, others_run: bool) -> None:
        """The process that was started has ended; before the pass is over that is too early."""
        if self.phase in (Phase.LOADING, Phase.PASS) and not others_run:
            told = ended_early(self.title.words, code)
            if code:
                self._halt(told)
            else:  # a title may have been handed over to a program that was running already
                self._note = told.found
                self.then.setText(self._note)
        self._show_start()

    def _on_withdrawn(self) -> None:
        """The command may not be run any more, so it is not."""
        self.title.stop()
        if self.is_running:
            self._halt(not_allowed(WITHDRAWN))

    def wait(self) -> None:
        """Stop what is under way, and the title that was started with it."""
        self._timer.stop()
        self.watch.wait()
        self.command.jobs.close()
        self.title.blockSignals(True)
        self.title.stop()
        self.title.wait()


def _clock(seconds: float) -> str:
    whole = int(seconds + 0.999)
    return f"{whole // 60}:{whole % 60:02d}"
