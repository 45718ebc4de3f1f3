"""What a recording of a screen tells: figures read off its counters, and its pictures counted.

Works on texts, numbers and small pictures that were decoded elsewhere.
"""

__all__ = [
    "cuts",
    "found_boxes",
    "glyphs",
    "passes",
    "picture_table",
    "pictures",
    "quantities",
    "second_look",
    "series",
]
