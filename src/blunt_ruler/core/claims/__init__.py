"""What the program says: typed statements with their truth, ranked by question and spoken.

Above comparison, limits and worth, below the write-up: what compares rigs is put into words here
and nowhere else. The rooms below say what their own figures are, and what is missing.
"""

__all__ = [
    "causes",
    "cells",
    "claim",
    "gaps",
    "headline",
    "names",
    "offer",
    "pairings",
    "points",
    "prices",
    "speak",
    "standing",
    "stated",
    "trends",
    "verdict",
]
