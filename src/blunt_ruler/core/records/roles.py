"""What a rig is in a review; apart from the records, for the window names roles at its start."""

from enum import StrEnum


class Role(StrEnum):
    """What a rig is in a review."""

    BASE = "base"
    REFERENCE = "reference"
    TESTED = "under test"
