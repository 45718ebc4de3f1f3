"""The inbox: a folder where any capture program drops logs. Nothing in it is moved or changed.

A file is handed over once nobody has it open for writing any more, or once it has stayed the
same for so long that its writer must be done with it. One that changes later, or is written anew
under the same name, is handed over again. Files that vanish are forgotten; a renamed one counts
under its new name. A folder that is taken away is watched again as soon as one of that name is
there.
"""

import fcntl
import os
import signal
import stat
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from watchdog.events import FileSystemEvent, FileSystemEventHandler
from watchdog.observers import Observer
from watchdog.observers.polling import PollingObserver

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.folders import is_log_name

SETTLED_S = 1.2
LEFT_OPEN = 8.0  # times as long a file must be still while its writer keeps it open, or may
LOOK_EVERY_S = 0.2
STUCK_S = 2.0


class BadInbox(UserFixable):
    """A folder that cannot be watched."""


class Inbox(FileSystemEventHandler):
    """Watches one folder; `on_ready` is called on a thread of its own with each finished log, and
    `on_folder` with whether the folder is there when that changes.
    """

    def __init__(
        self,
        folder: Path,
        on_ready: Callable[[Path], None],
        settled_s: float = SETTLED_S,
        on_folder: Callable[[bool], None] = lambda _is_there: None,
    ) -> None:
        super().__init__()
        self.folder = folder
        self._on_ready = on_ready
        self._on_folder = on_folder
        self._settled_s = settled_s
        self._lock = threading.Lock()
        self._waiting: dict[Path, tuple[float, int, int]] = {}  # since when, size, time written
        self._handed: dict[Path, tuple[int, int]] = {}
        self._stopped = threading.Event()
        self._watcher: Any = None
        self._watched: tuple[int, int] | None = None  # which folder it is, under whatever name
        self._looker = threading.Thread(target=self._look, name="inbox", daemon=True)

    def start(self) -> None:
        """Begin to watch; logs that are there already are handed over too."""
        if not self.folder.is_dir():
            raise BadInbox(str(self.folder), "there is no such folder", "Choose a folder")
        try:
            self._begin()
        except OSError as error:
            raise BadInbox(
                str(self.folder), error.strerror or str(error), "Choose another folder"
            ) from error
        self._looker.start()

    def _begin(self) -> None:
        """Watch the folder that is there now. OSError where it is gone again."""
        self._watched = _identity(self.folder)
        self._watcher = self._watch()
        for path in sorted(self.folder.iterdir()):
            self._see(path)

    def _leave(self) -> None:
        if self._watcher is not None:
            self._watcher.stop()
            self._watcher.join()
        self._watcher = self._watched = None

    def _follow(self) -> None:
        """Leave a folder that was taken away or replaced, and watch the one of its name."""
        there = _identity(self.folder)
        if there == self._watched:
            return
        was_there = self._watched is not None
        self._leave()
        with self._lock:
            self._waiting.clear()
            self._handed.clear()
        if there is not None:
            try:
                self._begin()
            except (OSError, BadInbox):
                self._leave()
        if was_there != (self._watched is not None):
            self._on_folder(self._watched is not None)

    def _watch(self) -> Any:
        """The system's own watcher, else one that looks again and again (network folders)."""
        for kind in (Observer, PollingObserver):
            watcher = kind()
            watcher.schedule(self, str(self.folder))
            try:
                watcher.start()
            except OSError:
                continue
            return watcher
        raise BadInbox(str(self.folder), "the folder cannot be watched", "Choose another folder")

    def stop(self) -> None:
        """Let go of the folder."""
        self._stopped.set()
        if self._looker.is_alive():
            self._looker.join(STUCK_S)  # a folder of the network may not answer
        self._leave()

    @property
    def is_there(self) -> bool:
        """Whether the folder is there and watched."""
        return self._watched is not None

    @property
    def waiting(self) -> tuple[Path, ...]:
        """Files that are still being written."""
        with self._lock:
            return tuple(self._waiting)

    # Events, on the watcher's thread

    def on_any_event(self, event: FileSystemEvent) -> None:
        """Note a file that was made, written, or renamed; a gone one is found when looking."""
        if event.is_directory or event.event_type in ("opened", "closed_no_write", "deleted"):
            return
        target = getattr(event, "dest_path", "") or event.src_path
        self._see(Path(str(target)))

    def _see(self, path: Path) -> None:
        if not is_log_name(path.name):
            return
        state = _state(path)
        if state is None:
            return
        with self._lock:
            if self._handed.get(path) != state:
                self._waiting[path] = (time.monotonic(), *state)

    # Looking, on the inbox's thread

    def _look(self) -> None:
        while not self._stopped.wait(LOOK_EVERY_S):
            self._follow()
            for path in self._finished():
                self._on_ready(path)

    def _finished(self) -> list[Path]:
        now = time.monotonic()
        ready = []
        with self._lock:
            for path, (since, size, written) in list(self._waiting.items()):
                state = _state(path)
                if state is None:
                    del self._waiting[path]
                elif state != (size, written) or state[0] == 0:
                    self._waiting[path] = (now, *state)
                elif now - since >= self._settled_s * (1.0 if _is_closed(path) else LEFT_OPEN):
                    del self._waiting[path]
                    self._handed[path] = state
                    ready.append(path)
        return ready


def _state(path: Path) -> tuple[int, int] | None:
    """(size, time written) of a file; None where it is gone or no file."""
    try:
        found = path.stat()
    except OSError:
        return None
    return (found.st_size, found.st_mtime_ns) if path.is_file() else None


def _identity(folder: Path) -> tuple[int, int] | None:
    """Which folder it is, whatever its name; None where there is none."""
    try:
        found = folder.stat()
    except OSError:
        return None
    return (found.st_dev, found.st_ino) if stat.S_ISDIR(found.st_mode) else None


def _is_closed(path: Path) -> bool:
    """Whether it is sure that nobody has the file open for writing.

    The kernel grants a read lease only then; other file systems, and other people's files, know
    no leases, and the answer is no. Whoever opens the file for writing meanwhile breaks the lease:
    the signal for that is one that nobody heeds, as the usual one ends the process.
    """
    try:
        handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK)
    except OSError:
        return False
    try:
        fcntl.fcntl(handle, fcntl.F_SETSIG, signal.SIGURG)
        fcntl.fcntl(handle, fcntl.F_SETLEASE, fcntl.F_RDLCK)
        fcntl.fcntl(handle, fcntl.F_SETLEASE, fcntl.F_UNLCK)
    except OSError:
        return False
    finally:
        os.close(handle)
    return True
