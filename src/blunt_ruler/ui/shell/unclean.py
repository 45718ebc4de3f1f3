"""What a window had open when it ended without closing: killed, or a crash in compiled code.

Each window keeps a mark while a logbook is open in it. A mark whose process has ended tells the
next start not to open the same logbook at the same place: what ended the one may end the other.
"""

import faulthandler
import json
import os
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import IO

from blunt_ruler.files import make_private
from blunt_ruler.machine import began

MOST_DETAILS = 4000


def _folder() -> Path:
    home = Path(os.environ.get("XDG_STATE_HOME") or Path.home() / ".local" / "state")
    return home / "blunt-ruler" / "open"


@dataclass(frozen=True, slots=True)
class Ended:
    """A logbook that was open, the stop that was on screen, and what Python saw of the crash."""

    path: Path
    stop: str
    details: str

    @property
    def words(self) -> str:
        """What happened, in a sentence."""
        return (
            f"Blunt Ruler ended unexpectedly with “{self.path.name}” open at {self.stop}. "
            "What was typed is in the file."
        )


class OpenMark:
    """The mark of this window."""

    def __init__(self) -> None:
        self._path = _folder() / f"{os.getpid()}.json"
        self._crash: IO[str] | None = None

    def listen(self) -> None:
        """Have a crash leave word of itself beside the mark."""
        with suppress(OSError):
            make_private(self._path.parent)
            self._crash = self._path.with_suffix(".txt").open("w", encoding="utf-8")
            faulthandler.enable(self._crash)

    def put(self, logbook: Path, stop: str) -> None:
        """A logbook is open, or about to be."""
        with suppress(OSError):
            make_private(self._path.parent)
            words = {"logbook": str(logbook.absolute()), "stop": stop, "began": began(os.getpid())}
            self._path.write_text(json.dumps(words), "utf-8")

    def take(self) -> None:
        """The window closes as it should."""
        if self._crash is not None:
            faulthandler.disable()
            self._crash.close()
            self._crash = None
        for path in (self._path, self._path.with_suffix(".txt")):
            with suppress(OSError):
                path.unlink()


def ended_unexpectedly() -> tuple[Ended, ...]:
    """What windows that are gone had open; asked once, for their marks go with it."""
    return tuple(_left())


def _left() -> Iterator[Ended]:
    try:
        marks = sorted(_folder().glob("*.json"))
    except OSError:
        return
    for mark in marks:
        pid, crash = mark.stem, mark.with_suffix(".txt")
        try:
            said = json.loads(mark.read_text("utf-8"))
            if pid.isdigit() and began(int(pid)) == said["began"]:
                continue  # another window, which is open
            details = crash.read_text("utf-8", "replace") if crash.exists() else ""
            yield Ended(Path(said["logbook"]), str(said["stop"]), details[:MOST_DETAILS])
        except (OSError, ValueError, TypeError, KeyError, RecursionError):
            pass
        for path in (mark, crash):
            with suppress(OSError):
                path.unlink()
