"""A machine read while a pass runs, off the interface thread: this one, or a shipped stand-in."""

import threading
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from tempfile import TemporaryDirectory

from PyQt6.QtCore import QObject, pyqtSignal

from blunt_ruler.core.measure.machine_samples import Samples
from blunt_ruler.core.types import Progress
from blunt_ruler.ui.jobs import Job, Jobs

NOBODY, THIS = "read no machine", "read this machine"
TELL_EVERY_S = 0.5


def watchable() -> Sequence[str]:
    """What can be read, in the words of the choice."""
    from blunt_ruler.bench.machines import machine_names

    return (NOBODY, THIS, *(f"play {name}" for name in machine_names()))


@dataclass(frozen=True, slots=True)
class Watched:
    """A pass that a machine was read during: its cell, the runs known before, the samples."""

    rig_id: str
    case_id: str
    known: frozenset[str]
    samples: Samples


class MachineWatch(QObject):
    """Reads one machine from `begin` to `end`.

    Signals:
        grew(Samples): what was read so far, twice a second.
        ended(Watched): the pass is over.
        failed(object): the machine cannot be read.
    """

    grew = pyqtSignal(object)
    ended = pyqtSignal(object)
    failed = pyqtSignal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.jobs = Jobs(threads=1, parent=self)
        self._stop = threading.Event()
        self._job: Job | None = None

    @property
    def is_on(self) -> bool:
        """Whether a machine is being read."""
        return self._job is not None

    def begin(self, what: str, rig_id: str, case_id: str, known: frozenset[str]) -> None:
        """Read a machine by the words of its choice; nothing for none, or while one is read."""
        if what == NOBODY or self._job is not None:
            return
        self._stop = stop = threading.Event()

        def work(step: Progress) -> Watched:
            from blunt_ruler.bench.machines import Moving, lay_out
            from blunt_ruler.bench.sampler import Sampler

            with TemporaryDirectory() as folder:
                here = what == THIS
                root = Path("/") if here else lay_out(what.removeprefix("play "), Path(folder))
                sampler = Sampler(root)
                moving = None if here else Moving(root)
                sampler.start()
                try:
                    while not stop.wait(TELL_EVERY_S):
                        step("Reading the machine", 0.0)
                        self.grew.emit(sampler.samples())
                finally:
                    samples = sampler.stop()
                    if moving is not None:
                        moving.stop()
            return Watched(rig_id, case_id, known, samples)

        self._job = self.jobs.run(
            "Reading the machine", work, self._on_ended, self._on_failed, self._rest
        )

    def end(self) -> None:
        """The pass is over."""
        self._stop.set()

    def wait(self) -> None:
        """Stop and wait for the end."""
        self.end()
        self.jobs.close()

    def _rest(self) -> None:
        self._job = None

    def _on_ended(self, watched: Watched) -> None:
        self._rest()
        self.ended.emit(watched)

    def _on_failed(self, error: Exception) -> None:
        self._rest()
        self.failed.emit(error)
