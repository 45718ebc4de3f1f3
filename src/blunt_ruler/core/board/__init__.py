"""The Board: rigs × cases of one review, its lenses, its order, its pages and its lines.

Built once from the contents and then only read.
"""

__all__ = [
    "board",
    "groups",
    "lenses",
    "lines",
    "percentages",
    "playable",
    "references",
    "row_order",
    "scaling",
    "scores",
]
