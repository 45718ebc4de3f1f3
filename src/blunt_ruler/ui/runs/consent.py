"""Which start commands may be run. A logbook cannot say so, for it may be somebody else's: the user
does, for one command, with one program file, for one logbook, on one machine.
"""

import hashlib
import json
import os
import shutil
import stat
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from blunt_ruler.core.analysis.hands_free import BadCommand, parse_command, shown_command
from blunt_ruler.core.types import Progress
from blunt_ruler.files import read_private, write_private
from blunt_ruler.logbook.signatures import mark_of

CHUNK_BYTES = 1 << 20
MOST_BYTES = 1 << 20  # of the file of consents
Identity = tuple[int, ...]


@dataclass(frozen=True, slots=True)
class StartCommand:
    """A program's whole path and its arguments, as they will be run."""

    parts: tuple[str, ...]

    @property
    def program(self) -> Path:
        """The program's file."""
        return Path(self.parts[0])

    @property
    def words(self) -> str:
        """The command, each part quoted where it needs it."""
        return shown_command(self.parts)


@dataclass(frozen=True, slots=True)
class ProgramFile:
    """What a program's file was when it was looked at: what tells of a change, and its SHA-256."""

    identity: Identity
    sha256: str


def command_of(text: str) -> StartCommand:
    """The command that a text stands for; BadCommand where it is none or there is no program."""
    name, *arguments = parse_command(text)
    # Blank and relative entries of PATH are folders that depend on where one stands.
    folders = [
        one for one in os.environ.get("PATH", os.defpath).split(os.pathsep) if one[:1] == "/"
    ]
    found = name if name.startswith("/") else shutil.which(name, path=os.pathsep.join(folders))
    if found is None:
        raise BadCommand("start command", f"there is no program “{name}”", "Write its whole path")
    identity_of(Path(found))
    return StartCommand((found, *arguments))


def identity_of(program: Path) -> Identity:
    """What changes when a file is written or replaced; BadCommand where it cannot be run."""
    why = "is not there"
    with suppress(OSError, ValueError):
        found = program.stat()
        if stat.S_ISREG(found.st_mode) and os.access(program, os.X_OK):
            return found.st_dev, found.st_ino, found.st_size, found.st_mtime_ns, found.st_ctime_ns
        why = "is not a program"
    raise BadCommand("start command", f"{program} {why}", "Correct the title's start command")


def looked_at(program: Path, step: Progress) -> ProgramFile:
    """A program's file, read whole; BadCommand where that cannot be."""
    identity, digest, done = identity_of(program), hashlib.sha256(), 0
    try:
        with program.open("rb") as file:
            while chunk := file.read(CHUNK_BYTES):
                digest.update(chunk)
                done += len(chunk)
                step("Reading the program file", min(done / max(identity[2], 1), 1.0))
    except OSError as error:
        raise BadCommand(
            "start command",
            f"{program} cannot be read: {error.strerror}",
            "Allow yourself to read it, or start the title by hand",
        ) from error
    return ProgramFile(identity, digest.hexdigest())


class Consents:
    """What was allowed, in a file that only the user may write."""

    def __init__(self, path: Path) -> None:
        self._path = path

    def allows(self, command: StartCommand, file: ProgramFile, logbook: Path) -> bool:
        """Whether the user has allowed this very command, with this program file, for it."""
        return _mark(command.parts, file, logbook) in self._read()

    def put(self, command: StartCommand, file: ProgramFile, logbook: Path, on: bool) -> None:
        """Allow a command, or no longer; OSError where that cannot be kept."""
        mark = _mark(command.parts, file, logbook)
        kept = [one for one in self._read() if one != mark]
        body = json.dumps({"allowed": [*kept, mark] if on else kept}, indent=1)
        write_private(self._path, body.encode())

    def _read(self) -> list[str]:
        with suppress(ValueError, TypeError, KeyError, RecursionError):
            found: Any = json.loads(read_private(self._path, MOST_BYTES))
            return [one for one in found["allowed"] if isinstance(one, str)]
        return []


def _mark(parts: Sequence[str], file: ProgramFile, logbook: Path) -> str:
    return mark_of(json.dumps([*parts, file.sha256, str(logbook.resolve())]))
