"""How much a finding matters, wherever findings are made."""

from enum import StrEnum


class Severity(StrEnum):
    """What blocks must be mended first, a caution looked at, a note known."""

    BLOCKING = "blocking"
    CAUTION = "caution"
    NOTE = "note"
