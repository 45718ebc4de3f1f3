"""How much a finding matters, wherever findings are made."""

from enum import StrEnum


class Severity(StrEnum):
    """A stop must be mended first, a caution looked at, a note known."""

    STOP = "stop"
    CAUTION = "caution"
    NOTE = "note"
