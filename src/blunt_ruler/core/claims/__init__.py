"""What the program says: typed statements with their truth, ranked by question and spoken.

Above comparison, limits and worth, below the write-up. Sentences about a single cell, and those
of Limits and Worth about their own figures, are still put together in their own rooms.
"""

__all__ = [
    "causes",
    "claim",
    "gaps",
    "headline",
    "names",
    "offer",
    "pairings",
    "points",
    "speak",
    "standing",
    "stated",
    "trends",
    "verdict",
]
