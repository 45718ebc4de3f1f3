"""Days and moments as ISO text, within the centuries in which anything was measured.

A date far off is not a date: reckoning with it leaves what Python's own can hold.
"""

from datetime import date, datetime

FIRST_YEAR, LAST_YEAR = 1970, 2199


def moment_from(text: str) -> datetime | None:
    """A day or a moment; None for anything else."""
    try:
        found = datetime.fromisoformat(text.strip())
    except ValueError:
        return None
    return found if FIRST_YEAR <= found.year <= LAST_YEAR else None


def day_from(text: str) -> date | None:
    """A day; None for anything else."""
    try:
        found = date.fromisoformat(text.strip())
    except ValueError:
        return None
    return found if FIRST_YEAR <= found.year <= LAST_YEAR else None
