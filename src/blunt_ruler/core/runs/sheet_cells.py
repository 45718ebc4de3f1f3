"""The cells of copied text or of a sheet: parted, tidied, and whether one is a figure."""

import csv
import io
import re
from collections.abc import Sequence

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.runs.entry import BadEntry, parse_entry

MOST_ROWS, MOST_COLUMNS = 5000, 300
BLANKS = frozenset(["-", "–", "—", "n/a", "na", "n.a.", "none", "?", "x"])

# "4 612", "4'612", "4,612" and "12,000", as no frame rate is written.
_THOUSANDS = re.compile(
    r"(?<![\d.,])(?:\d{1,2}[ '’\u2009\u202f\u00a0]\d{3}|\d,\d{3}|\d{1,2},000)(?![\d.,]|[ ]\d)"
)


class BadSheet(UserFixable):
    """Cells that no figures can be found in."""


def pasted_rows(text: str) -> list[list[str]]:
    """The cells of copied text: parted by tabs, else semicolons, bars, commas or wide gaps."""
    text = text.replace("\x00", "").replace("\r\n", "\n").replace("\r", "\n").strip("\n")
    if re.match(r"\s*\|.*\|\s*$", text.partition("\n")[0]):
        text = "\n".join(line.strip().strip("|") for line in text.split("\n"))
    mark = next((mark for mark in "\t;|" if mark in text), None)
    lines = [line.strip() for line in text.split("\n")]
    if mark is None and lines and all(is_figure(line) for line in lines if line):
        return tidy([[line] for line in lines])  # a comma is a decimal mark
    if mark is None and re.search(r"\S {2,}\S", text):
        return [re.split(r" {2,}", line.strip()) for line in text.split("\n") if line.strip()]
    try:
        rows = [*csv.reader(io.StringIO(text), delimiter=mark or ",", skipinitialspace=True)]
    except csv.Error as error:
        raise BadSheet(
            "what was copied", f"it is no table ({error})", "Copy the cells again"
        ) from None
    if mark is None and "," in text and any(len(row) != len(rows[0]) for row in rows):
        rows = [[line] for line in text.split("\n")]  # commas are decimal marks
    return tidy(rows)


def tidy(rows: Sequence[Sequence[str]]) -> list[list[str]]:
    """Rows of one length without blank edges and ruled lines. Raises BadSheet for too many."""
    kept = [
        ["" if cell.strip().lower() in BLANKS else _bare(" ".join(cell.split())) for cell in row]
        for row in rows
        if any(cell.strip() for cell in row) and not all(_is_rule(cell) for cell in row)
    ]
    width = max((len(row) for row in kept), default=0)
    if len(kept) > MOST_ROWS or width > MOST_COLUMNS:
        raise BadSheet(
            "table",
            f"it has {len(kept)} rows and {width} columns",
            f"Give at most {MOST_ROWS} rows and {MOST_COLUMNS} columns",
        )
    filled = [[*row, *[""] * (width - len(row))] for row in kept]
    used = [place for place in range(width) if any(row[place] for row in filled)]
    return [row[used[0] : used[-1] + 1] for row in filled] if used else []


_EMPHASIS = re.compile(r"(\*\*|__|\*|_|`)(.+)\1")
_SPREAD = re.compile(r"\s*(?:±|\+/-)\s*\d+(?:[.,]\d+)?\s*%?$")
_FOOTNOTE = re.compile(r"(?<=[\d)])\s*(?:[*†‡§¹²³⁴⁵]+|\[\d+\])$")


def _bare(cell: str) -> str:
    """A cell without emphasis, and a figure without the mark of a footnote or its own spread."""
    if (found := _EMPHASIS.fullmatch(cell)) is not None:
        cell = found[2].strip()
    plain = _SPREAD.sub("", _FOOTNOTE.sub("", cell))
    return plain if plain != cell and is_figure(plain) else cell


def _is_rule(cell: str) -> bool:
    return (
        not cell.strip()
        or re.fullmatch(r"[\s:=+-]*-[\s:=+-]*|[-=_:]{2,}", cell.strip()) is not None
    )


def joined(text: str) -> str:
    """A text with its thousands joined."""
    return _THOUSANDS.sub(lambda found: re.sub(r"\D", "", found[0]), text)


def is_figure(text: str) -> bool:
    """Whether a cell could be an entry; a number that can be two is one all the same."""
    text = joined(text)
    if re.fullmatch(r"\d+[.,]\d+", text):
        return True
    if not any(letter.isdigit() for letter in text):
        return bool(re.match(r"no\s*:", text, re.I))
    try:
        parse_entry(text)
    except BadEntry:
        return False
    return True


def bare_figures(rows: Sequence[Sequence[str]]) -> bool:
    """Whether a rectangle has no heads: figures that go where the cursor is."""
    cells = [cell for row in rows for cell in row if cell]
    return bool(cells) and all(is_figure(cell) for cell in cells)
