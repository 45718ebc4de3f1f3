"""What the program says: typed statements with their truth, ranked by question and spoken.

Above comparison, limits and worth, below the write-up: no other room puts a comparison into words.
"""

__all__ = [
    "causes",
    "claim",
    "headline",
    "names",
    "offer",
    "pairings",
    "points",
    "speak",
    "standing",
    "verdict",
]
