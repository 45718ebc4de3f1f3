"""Work off the interface thread: with progress, with Cancel, one result or one error.

What runs where in the window, what it waits for, and what cancels it:

- the interface thread draws, takes keys and clicks and shows snapshots; nothing takes it over 50 ms
- `Desk.jobs`, one thread: opens, edits, undoes and copies, each after the one before; begins each
  analysis, which is the first snapshot of an edit
- `Desk.analyses`, one thread: settles what `begin` left open, then fits the limits to the end: the
  second snapshot; it waits until the first is drawn, and the next edit cancels it
- `Desk.foreseeing`, one thread: leaves links out in turn, from 400 cells on in a process of its
  own; it comes late, and the next edit cancels it
- `Controller.jobs`, two threads a stop: reads logs, writes reports and exports; Cancel in the strip
- `jobs` of a page, one thread each: means of groups, the link curve, a wide verdict, next tests, a
  table in its dialog, a trim that is tried, a live pass, the machine; the next wish cancels what is
  under way
- `MainWindow._aside`, one thread: sample files, which have nothing to do with the logbook
- `processes.spread_out`: many logs, or passes of the bench, on the other cores, for the job that
  asked
- `limited`: what strangers wrote, in processes with limits of memory and time; the pictures of a
  recording that one looks at come from one that stays
- `in_own_process`: a recording is read, or a picture, in a process that tells how far it is, for
  the job of a dialog; Stop ends it
- daemon threads: sampler, inbox, a title that was started, the watch over this loop with --debug

A job tells its end on the interface thread. Closing a window closes every `Jobs` in it: what runs
is asked to stop at its next step and waited for, and nothing that comes back starts anything new.
Timers: the look for other windows (`LOOK_EVERY_MS`), memory given back after a logbook was closed,
notices, the clock of a hands-free sitting, and single shots that wait for a drawing.
"""

import logging
from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject, QRunnable, QThreadPool, pyqtSignal

from blunt_ruler.diary import timed_stages

if TYPE_CHECKING:  # numpy comes with it, and the window is up before it needs that
    from blunt_ruler.core.types import Progress

log = logging.getLogger(__name__)


class Cancelled(Exception):
    """Raised inside the work when the user asked to stop."""


Work = Callable[["Progress"], Any]
"""Work takes `step(words, share)`, which it calls as it goes and which raises Cancelled."""


class Job(QObject):
    """One piece of work under way.

    Signals:
        progressed(str, float): what is being done and how far it is, 0 to 1.
        finished(object): the result.
        failed(object): the exception.
        cancelled(): the work stopped because it was asked to.
        ended(): any of the three above happened.
    """

    progressed = pyqtSignal(str, float)
    finished = pyqtSignal(object)
    failed = pyqtSignal(object)
    cancelled = pyqtSignal()
    ended = pyqtSignal()

    def __init__(self, words: str) -> None:
        super().__init__()
        self.words = words
        self._cancel = False

    def cancel(self) -> None:
        """Ask the work to stop at its next step."""
        self._cancel = True

    def step(self, words: str, share: float) -> None:
        """Called by the work, on its thread."""
        if self._cancel:
            raise Cancelled
        self.progressed.emit(words, share)


class _Runner(QRunnable):
    def __init__(self, job: Job, work: Work) -> None:
        super().__init__()
        self._job = job
        self._work = work

    def run(self) -> None:
        job = self._job
        try:
            with timed_stages(log, job.step) as step:
                result = self._work(step)
        except Cancelled:
            job.cancelled.emit()
        except BaseException as error:  # libraries raise those too; nothing is lost on a thread
            job.failed.emit(error)
        else:
            job.finished.emit(result)
        job.ended.emit()


class Jobs(QObject):
    """Runs work on a pool of its own and keeps each job alive until it has ended.

    Signals:
        started(Job): so that the window can show its progress.
    """

    started = pyqtSignal(object)

    def __init__(self, threads: int, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(threads)
        self._running: set[Job] = set()
        self._closed = False

    def run(
        self,
        words: str,
        work: Work,
        finished: Callable[[Any], None],
        failed: Callable[[Exception], None],
        cancelled: Callable[[], None] | None = None,
    ) -> Job:
        """Start some work; exactly one of the callbacks is called, on the interface thread.

        Once closed nothing is started and none is called: who asked is no longer on screen.
        """
        job = Job(words)
        if self._closed:
            return job
        job.finished.connect(self._while_open(finished))
        job.failed.connect(self._while_open(failed))
        if cancelled is not None:
            job.cancelled.connect(self._while_open(cancelled))
        job.ended.connect(lambda: self._running.discard(job))
        self._running.add(job)
        self.started.emit(job)
        self._pool.start(_Runner(job, work))
        return job

    def _while_open(self, tell: Callable[..., None]) -> Callable[..., None]:
        return lambda *said: None if self._closed else tell(*said)

    def cancel_all(self) -> None:
        """Ask everything under way to stop at its next step."""
        for job in list(self._running):
            job.cancel()

    def close(self) -> None:
        """Cancel what can be cancelled and wait for the rest; nothing is begun or told any more."""
        self._closed = True
        self.cancel_all()
        self._pool.waitForDone()
