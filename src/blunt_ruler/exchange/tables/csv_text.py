"""Delimited text that spreadsheets take as text: no cell of it is run as a formula."""

import csv
import io
import re
from collections.abc import Iterable, Sequence

RUN_BY_SPREADSHEETS = ("=", "+", "-", "@", "\t", "\r")
FIGURE = re.compile(r"[+-]?[0-9][0-9.,\u202f ]*(e[+-]?[0-9]+)?[\u202f ]?%?$", re.IGNORECASE)


def inert(cell: object) -> str:
    """A cell's text; words that a spreadsheet would run get an apostrophe before them."""
    text = "" if cell is None else str(cell)
    if text.startswith(RUN_BY_SPREADSHEETS) and not FIGURE.match(text):
        return f"'{text}"
    return text


def as_written(text: str) -> str:
    """The text of a cell before `inert`."""
    return text[1:] if text[:1] == "'" and text[1:].startswith(RUN_BY_SPREADSHEETS) else text


def delimited(rows: Iterable[Sequence[object]], delimiter: str = ",") -> str:
    """Rows as text, one a line."""
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\n", delimiter=delimiter)
    writer.writerows([inert(cell) for cell in row] for row in rows)
    return out.getvalue()
