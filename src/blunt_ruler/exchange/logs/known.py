"""Logs of one program are laid out alike: a layout once found is taken again for the next log.

Only where a search could find no other: nothing but the header stands above the table, letter by
letter the same, and every field of the first rows is a plain number, of which enough have decimals
that no other mark could part.
"""

import re
from collections.abc import Sequence
from dataclasses import replace
from functools import lru_cache

from blunt_ruler.exchange.logs.layout import Layout
from blunt_ruler.exchange.logs.text import LogText

FEWEST_ROWS = 10
MOST_KEPT = 500
# Shares of the first fields that the other mark cannot read. A comma that is nowhere already speaks
# against a decimal comma; a point that is nowhere does not speak against a decimal point.
TOLD_BY = {".": 0.2, ",": 0.7}

_known: dict[tuple[str, ...], Layout] = {}


@lru_cache(maxsize=MOST_KEPT)
def _patterns(delimiter: str, decimal: str, fields: int) -> tuple[re.Pattern[str], re.Pattern[str]]:
    """(rows of plain numbers, decimals that are not just three digits)."""
    mark = re.escape(decimal)
    number = rf"[+-]?[0-9]{{1,20}}(?:{mark}[0-9]{{1,20}})?"
    row = rf"{number}(?:{re.escape(delimiter)}{number}){{{fields - 1}}}"
    return (
        re.compile(rf"(?:{row}\n)*"),
        re.compile(rf"{mark}(?:[0-9]{{1,2}}|[0-9]{{4,}})(?![0-9])"),
    )


def is_plain(layout: Layout, rows: Sequence[str]) -> bool:
    """Whether lines are rows of a layout, and every field is a number as polars reads it."""
    if layout.joins or layout.extra_fields or layout.delimiter in (" ", layout.decimal):
        return False
    return _are_plain("\n".join((*rows, "")), layout.delimiter, layout.decimal, len(layout.names))


@lru_cache(maxsize=16)  # the head of a log is asked for again when its columns are told
def _are_plain(text: str, delimiter: str, decimal: str, fields: int) -> bool:
    return _patterns(delimiter, decimal, fields)[0].fullmatch(text) is not None


def _is_told(layout: Layout, head: Sequence[str]) -> bool:
    """Whether the first lines can be laid out in no other way."""
    above = layout.lines_before
    rows = head[above:]
    if above != layout.header_lines or len(layout.names) < 2 or len(rows) < FEWEST_ROWS:
        return False
    if not is_plain(layout, rows):
        return False
    _, decimals = _patterns(layout.delimiter, layout.decimal, len(layout.names))
    told = len(decimals.findall("\n".join(rows)))
    return told >= TOLD_BY[layout.decimal] * len(rows) * len(layout.names)


def known_layout(log: LogText) -> Layout | None:
    """The layout of an earlier log that is this one's too; None where it must be looked for."""
    for lines in (1, 2):
        layout = _known.get(tuple(log.head[:lines]))
        if layout is not None and layout.lines_before == lines and _is_told(layout, log.head):
            return replace(layout, encoding=log.encoding, compressed=log.compressed)
    return None


def keep_layout(log: LogText, layout: Layout) -> None:
    """Keep the one layout that was found for a log, if others like it can be told by it."""
    if layout.has_header and _is_told(layout, log.head):
        if len(_known) >= MOST_KEPT:
            _known.clear()
        _known[tuple(log.head[: layout.lines_before])] = layout
