"""A machine read while a pass runs, off the interface thread: this one, or a shipped stand-in."""

import threading
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from tempfile import TemporaryDirectory

from PyQt6.QtCore import QObject, pyqtSignal

from blunt_ruler.core.measure.machine_samples import Samples
from blunt_ruler.core.records.records import Contents, Trace
from blunt_ruler.core.runs.sampled import sampled_edit, typed_since, with_samples
from blunt_ruler.core.types import Progress
from blunt_ruler.ui.desk.jobs import Job, Jobs

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
        edited(Edit): what was read, put to the typed run of that pass, please.
        failed(object): the machine cannot be read.
    """

    grew = pyqtSignal(object)
    edited = pyqtSignal(object)
    failed = pyqtSignal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.jobs = Jobs(threads=1, parent=self)
        self._stop = threading.Event()
        self._job: Job | None = None
        self.watched: Watched | None = None  # of a pass whose figures are still to come
        self._latest: Samples | None = None  # while it is being read
        self._contents: Contents | None = None

    @property
    def is_on(self) -> bool:
        """Whether a machine is being read."""
        return self._job is not None

    def begin(self, what: str, rig_id: str, case_id: str, known: frozenset[str]) -> None:
        """Read a machine by the words of its choice; nothing for none, or while one is read."""
        self.watched = self._latest = None
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
                        self._latest = sampler.samples()
                        self.grew.emit(self._latest)
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

    def show_contents(self, contents: Contents) -> None:
        """Look for the typed run of the pass that was read last."""
        self._contents = contents
        watched = self.watched
        if watched is None:
            return
        run = typed_since(contents, watched.rig_id, watched.case_id, watched.known)
        if run is not None:
            self.watched = None
            self.edited.emit(sampled_edit(run, watched.samples))

    def onto(self, trace: Trace | None, ends_at_s: float) -> Trace | None:
        """A log's trace with what was read meanwhile, where it ended inside that time."""
        samples = self._latest if self.watched is None else self.watched.samples
        if trace is None or samples is None:
            return trace
        found = with_samples(trace, samples, ends_at_s)
        if len(found.telemetry) > len(trace.telemetry):
            self.watched = None
        return found

    def wait(self) -> None:
        """Stop and wait for the end."""
        self.end()
        self.jobs.close()

    def _rest(self) -> None:
        self._job = None

    def _on_ended(self, watched: Watched) -> None:
        self._rest()
        self.watched, self._latest = watched, None
        if self._contents is not None:
            self.show_contents(self._contents)

    def _on_failed(self, error: Exception) -> None:
        self._rest()
        self.failed.emit(error)
