"""Take a run from the simulated bench while one looks on, at its own pace or flat out."""

import threading
from dataclasses import dataclass

from PyQt6.QtCore import QObject, pyqtSignal

from blunt_ruler.bench.simulator import Faults, LiveRun, Setting
from blunt_ruler.bench.specs import BenchRig
from blunt_ruler.core.records.records import Trace
from blunt_ruler.core.types import Progress
from blunt_ruler.ui.desk.jobs import Job, Jobs

CHUNK_S = 0.5  # of the simulated run, between two looks
FASTEST_WAIT_S = 0.02


@dataclass(frozen=True, slots=True)
class Taken:
    """A run that came to its end, or was stopped before."""

    trace: Trace
    stopped_at_s: float | None


class LiveTaker(QObject):
    """Plays one run at a time off the interface thread.

    Signals:
        grew(object, float): the trace so far, and how far the run is, 0 to 1.
        taken(Taken): the run is over or was stopped.
        failed(object): the bench could not play it.
    """

    grew = pyqtSignal(object, float)
    taken = pyqtSignal(object)
    failed = pyqtSignal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.jobs = Jobs(threads=1, parent=self)
        self._stop = threading.Event()
        self._job: Job | None = None

    @property
    def is_running(self) -> bool:
        """Whether a run is being taken."""
        return self._job is not None

    def start(
        self,
        rig: BenchRig,
        setting: Setting,
        seed: int,
        repeat: int,
        real_pace: bool,
        faults: Faults = Faults(),
    ) -> None:
        """Take a run; nothing where one is under way."""
        if self._job is not None:
            return
        self._stop = threading.Event()
        stop = self._stop

        def work(step: Progress) -> Taken:
            run = LiveRun(rig, setting, seed, repeat, faults)
            while not run.is_over:
                step("Taking a run", run.played_s / run.seconds)
                run.advance(CHUNK_S)
                if run.played_s >= CHUNK_S:
                    self.grew.emit(run.trace(), run.played_s / run.seconds)
                if stop.wait(CHUNK_S if real_pace else FASTEST_WAIT_S):
                    return Taken(run.trace(), run.played_s)
            return Taken(run.trace(), None)

        self._job = self.jobs.run(
            f"Taking a run on {rig.name}", work, self._on_taken, self._on_failed, self._on_cancelled
        )

    def stop(self) -> None:
        """Stop the run; what was recorded is still given."""
        self._stop.set()

    def wait(self) -> None:
        """Stop and wait for the end."""
        self.stop()
        self.jobs.close()

    def _on_taken(self, taken: Taken) -> None:
        self._job = None
        self.taken.emit(taken)

    def _on_failed(self, error: Exception) -> None:
        self._job = None
        self.failed.emit(error)

    def _on_cancelled(self) -> None:
        self._job = None
