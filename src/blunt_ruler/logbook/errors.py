"""Why a logbook cannot be opened or written, each with what to do about it."""

import errno
import sqlite3
from pathlib import Path

from blunt_ruler.core.errors import UserFixable


class NotALogbook(UserFixable):
    """The file is something else, or is not there."""


class NewerLogbook(UserFixable):
    """The file was written by a newer version and is left as it is."""


class DamagedLogbook(UserFixable):
    """The file is a logbook whose content cannot be trusted."""


class LogbookBusy(UserFixable):
    """The file cannot be written now: locked, read-only, or the disk is full."""


class LogbookGone(UserFixable):
    """The file was deleted, moved or replaced while it was open."""


class BadRecord(UserFixable):
    """A record that could not be read back, so it is not written."""


class ChangedElsewhere(UserFixable):
    """An edit of a record that another window changed since. `records` are their ids."""

    def __init__(self, where: str, what: str, fix: str, records: tuple[str, ...] = ()) -> None:
        super().__init__(where, what, fix)
        self.args = (where, what, fix, records)
        self.records = records


_REASONS = {
    "SQLITE_FULL": ("the disk is full", "Make room on it and try again"),
    "SQLITE_READONLY": ("the file or its folder is read-only", "Copy it to a folder of your own"),
    "SQLITE_CANTOPEN": ("its folder cannot be written to", "Copy it to a folder of your own"),
    "SQLITE_BUSY": ("another program is writing to it", "Wait a moment and try again"),
    "SQLITE_LOCKED": ("another program is writing to it", "Wait a moment and try again"),
    "SQLITE_IOERR": ("the disk gave an error, or is full", "Make room on it, or use another disk"),
    "SQLITE_TOOBIG": ("a record is larger than a logbook can hold", "Make it shorter"),
    "SQLITE_PERM": ("you may not write to it", "Copy it to a folder of your own"),
}


def short(error: BaseException) -> str:
    """What a library said, on one line and not too long."""
    return " ".join(str(error).split())[:120]


def busy(path: Path, what: str, error: sqlite3.Error | OSError) -> LogbookBusy:
    """The sentence for an error of SQLite or the system while writing; nothing was changed."""
    name = getattr(error, "sqlite_errorname", "") or ""
    key = next((known for known in _REASONS if name.startswith(known)), "")
    reason, fix = _REASONS.get(key, (short(error), "Free the file or the disk and try again"))
    if isinstance(error, OSError):
        full = error.errno in (errno.ENOSPC, errno.EDQUOT)
        reason = "the disk is full" if full else (error.strerror or str(error))
    return LogbookBusy(
        str(path), f"{what}: {reason}", f"Nothing was changed; {fix[0].lower()}{fix[1:]}"
    )
