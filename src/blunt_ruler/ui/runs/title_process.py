"""A title that is running, with whatever it has started in turn."""

import os
import secrets
import signal
import subprocess
import threading
import time
from collections.abc import Sequence
from contextlib import suppress
from pathlib import Path

import psutil
from PyQt6.QtCore import QObject, pyqtSignal

from blunt_ruler.processes import environment_of_others

MARK = "BLUNT_RULER_TITLE"  # in the environment of a title, and so of all it starts
LOOK_EVERY_S = 0.1
GRACE_S = 3.0  # between asking a title to end and ending it


class TitleProcess(QObject):
    """Starts a title in a session of its own, and ends it with all that came of it.

    A process is the title's when it has its mark, is in its session, or descends from one that is.
    What it prints is not kept. One runs at a time.

    Signals:
        ended(int, bool): the process that was started has ended, with this code (below zero: the
            signal that ended it); whether others of the title are still running.
        gone(): nothing of the title is running any more.
    """

    ended = pyqtSignal(int, bool)
    gone = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.words = ""  # the command that was started
        self._token = ""
        self._pid = 0
        self._watching: threading.Thread | None = None
        self._ending: threading.Thread | None = None

    @property
    def is_running(self) -> bool:
        """Whether anything of the title is still running."""
        return self._watching is not None and self._watching.is_alive()

    def start(self, parts: Sequence[str], words: str) -> None:
        """Start a title, in the home folder; OSError where that cannot be."""
        assert not self.is_running
        token = secrets.token_hex(16)
        process = subprocess.Popen(
            list(parts),
            stdin=subprocess.DEVNULL,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            cwd=home if (home := Path.home()).is_dir() else "/",
            env=environment_of_others() | {MARK: token},
            start_new_session=True,
        )
        self.words, self._token, self._pid = words, token, process.pid
        self._watching = threading.Thread(target=self._watch, args=(process, token), daemon=True)
        self._watching.start()

    def _watch(self, process: "subprocess.Popen[bytes]", token: str) -> None:
        code = process.wait()
        left = family(token, process.pid)
        with suppress(RuntimeError):  # the window has gone meanwhile
            self.ended.emit(code, bool(left))
            while left:
                time.sleep(5 * LOOK_EVERY_S)
                left = family(token, process.pid)
            self.gone.emit()

    def stop(self) -> None:
        """End the title and all it has started: asked first, then made to."""
        if self.is_running and not (self._ending is not None and self._ending.is_alive()):
            self._ending = threading.Thread(target=_end, args=(self._token, self._pid), daemon=True)
            self._ending.start()

    def wait(self) -> None:
        """Until what was stopped has ended."""
        if self._ending is not None:
            self._ending.join()


def family(token: str, session: int) -> list[psutil.Process]:
    """The processes of a title that are running."""
    mark = f"{MARK}={token}".encode()
    found: dict[int, psutil.Process] = {}
    children: dict[int, list[psutil.Process]] = {}
    for process in psutil.process_iter(["ppid", "status"]):
        if process.info["status"] == psutil.STATUS_ZOMBIE or process.pid == os.getpid():
            continue
        children.setdefault(process.info["ppid"], []).append(process)
        with suppress(OSError):
            if os.getsid(process.pid) == session or mark in _environment(process.pid):
                found[process.pid] = process
    waiting = list(found)
    while waiting:
        for child in children.get(waiting.pop(), ()):
            if child.pid not in found:
                found[child.pid] = child
                waiting.append(child.pid)
    return list(found.values())


def _environment(pid: int) -> list[bytes]:
    return Path(f"/proc/{pid}/environ").read_bytes().split(b"\0")


def _end(token: str, session: int) -> None:
    for number, seconds in ((signal.SIGTERM, GRACE_S), (signal.SIGKILL, GRACE_S)):
        until, told = time.monotonic() + seconds, set()
        while left := family(token, session):
            for process in left:
                if process.pid not in told:
                    told.add(process.pid)
                    with suppress(psutil.Error):
                        process.send_signal(number)
            if time.monotonic() > until:
                break
            time.sleep(LOOK_EVERY_S)
        else:
            return
