"""The logbook file: one SQLite database that holds many reviews and every run they rest on."""

from blunt_ruler.logbook.errors import (
    BadRecord,
    ChangedElsewhere,
    DamagedLogbook,
    LogbookBusy,
    LogbookGone,
    NewerLogbook,
    NotALogbook,
)
from blunt_ruler.logbook.journal import JournalEntry
from blunt_ruler.logbook.store import Logbook

__all__ = [
    "BadRecord",
    "ChangedElsewhere",
    "DamagedLogbook",
    "JournalEntry",
    "Logbook",
    "LogbookBusy",
    "LogbookGone",
    "NewerLogbook",
    "NotALogbook",
]
