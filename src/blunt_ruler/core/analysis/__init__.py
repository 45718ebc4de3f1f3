"""Everything that is worked out from a review, and what the rail says of it.

The window, the commands and the reports all go through here.
"""

__all__ = [
    "analyse",
    "hands_free",
    "rail_states",
]
