"""Where the marks of a picture stand, as values that any painter can draw.

Knows no painter, neither the window's nor the charts'.
"""

__all__ = [
    "bars",
    "board",
    "ladder",
    "limits",
    "link_curve",
    "palette",
    "picture",
    "references",
    "ruler",
    "scaling",
    "scores",
    "stacks",
    "strip",
    "ticks",
    "waterfall",
    "worth",
]
