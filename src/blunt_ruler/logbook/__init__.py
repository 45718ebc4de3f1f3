"""The logbook file: one SQLite database that holds many reviews and every run they rest on."""

from blunt_ruler.logbook.errors import DamagedLogbook, LogbookBusy, NewerLogbook, NotALogbook
from blunt_ruler.logbook.journal import JournalEntry
from blunt_ruler.logbook.store import Logbook

__all__ = [
    "DamagedLogbook",
    "JournalEntry",
    "Logbook",
    "LogbookBusy",
    "NewerLogbook",
    "NotALogbook",
]
