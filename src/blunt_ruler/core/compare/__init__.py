"""Rates set side by side: gains, losses, intervals, and whether a cell may be compared.

Takes measurements of one review; lays nothing out.
"""

__all__ = [
    "capped_rates",
    "cell_grid",
    "cell_parts",
    "comparability",
    "compare",
    "intervals",
    "like_for_like",
    "results",
]
