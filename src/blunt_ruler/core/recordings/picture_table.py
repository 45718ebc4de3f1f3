"""A table on a picture: the words found on it as rows and columns of cells.

Columns are parted where no line of figures, nor the heads above them, has a word. Nothing
is guessed: a cell that was not clear, that is missing, or that is out of step with its column is
in doubt, and stays so until a person has looked at it.
"""

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from statistics import median

from blunt_ruler.core.recordings.found_boxes import FIGURE_WORD, Found, on_lines, with_thousands
from blunt_ruler.core.recordings.quantities import Quantity, figure_in

CLEAR = 0.9  # a word below it is in doubt
COLUMN_GAP = 0.4  # of the height of the letters, the least
CLEARLY = 1.7  # times as near: which column a word of the head belongs to
FEWEST = 2  # lines with as many figures, and figures in a column of figures
OUT_OF_STEP = 4.0  # times its column's median: a decimal point may be missing


@dataclass(frozen=True, slots=True)
class PictureCell:
    """A cell of a table on a picture: its text, whether that is sure, and its place in pixels."""

    text: str
    sure: bool
    x: int
    y: int
    w: int
    h: int

    @property
    def is_figure(self) -> bool:
        """Whether it holds a figure and no words."""
        return bool(FIGURE_WORD.match(self.text))


PictureRow = tuple[PictureCell, ...]


def table_on(words: Sequence[Found]) -> tuple[PictureRow, ...]:
    """The rows of the table on a picture, all of one length, blank cells among them; none where
    the words are no table: fewer than two lines of two figures, or no column with two.
    """
    lines = on_lines(with_thousands(words))
    full = [at for at, line in enumerate(lines) if _figures_of(line) >= FEWEST]
    if len(full) < FEWEST:
        return ()
    head = lines[full[0] - 1] if full[0] else []
    columns, head_is_sure = _columns([lines[at] for at in full], head)
    rows = [_placed(line, columns, sure=line is not head or head_is_sure) for line in lines]
    figures = [
        at
        for at in range(len(columns))
        if sum((cell := row[at]) is not None and cell.is_figure for row in rows) >= FEWEST
    ]
    if sum(_count(row, figures) >= FEWEST for row in rows) < FEWEST:
        return ()
    return tuple(_told(row, rows, columns, figures) for row in rows)


def has_heads(rows: Sequence[PictureRow]) -> bool:
    """Whether words stand above the columns of figures, and figures alone below these: a table,
    and not pairs of a label and a figure beside each other.
    """
    full = (at for at, row in enumerate(rows) if sum(cell.is_figure for cell in row) >= FEWEST)
    first = next(full, None)
    if first is None:
        return False
    under = [at for at, cell in enumerate(rows[first]) if cell.is_figure]
    heads = [at for at in under if any(_is_word(row[at]) for row in rows[:first])]
    between = any(_is_word(cell) for cell in rows[first][under[0] : under[-1]])
    return len(heads) >= FEWEST and not between


def _is_word(cell: PictureCell) -> bool:
    return bool(cell.text) and not cell.is_figure


def _count(row: Sequence[PictureCell | None], columns: Sequence[int]) -> int:
    return sum(1 for at in columns if (cell := row[at]) is not None and cell.is_figure)


def _figures_of(line: Sequence[Found]) -> int:
    return sum(bool(FIGURE_WORD.match(word.text)) for word in line)


def _columns(
    lines: Sequence[Sequence[Found]], head: Sequence[Found]
) -> tuple[list[tuple[int, int]], bool]:
    """Where columns stand, from the left: parted where no line has a word. What stands in the head
    alone belongs to the column that it is nearer to; False where that is not clear.
    """
    inside = [word for line in lines for word in line]
    words = sorted((*inside, *head), key=lambda one: one.x)
    gap = COLUMN_GAP * median(word.h for word in words)
    columns: list[tuple[int, int]] = []
    for word in words:
        end = word.x + word.w
        if columns and word.x - columns[-1][1] < gap:
            columns[-1] = columns[-1][0], max(columns[-1][1], end)
        else:
            columns.append((word.x, end))
    is_sure = True
    while len(columns) > 1:
        empty = next((at for at, one in enumerate(columns) if not _holds(one, inside)), None)
        if empty is None:
            break
        before = columns[empty][0] - columns[empty - 1][1] if empty else math.inf
        after = columns[empty + 1][0] - columns[empty][1] if empty + 1 < len(columns) else math.inf
        at = empty - 1 if before <= after else empty
        columns[at : at + 2] = [(columns[at][0], columns[at + 1][1])]
        is_sure &= max(before, after) > CLEARLY * min(before, after)
    return columns, is_sure


def _holds(column: tuple[int, int], words: Sequence[Found]) -> bool:
    return any(column[0] <= word.x < column[1] for word in words)


def _placed(
    line: Sequence[Found], columns: Sequence[tuple[int, int]], *, sure: bool
) -> list[PictureCell | None]:
    """The words of a line in their columns; two figures in one cell are in doubt."""
    row: list[PictureCell | None] = [None] * len(columns)
    for word in line:
        cell = PictureCell(word.text, sure and word.sure >= CLEAR, word.x, word.y, word.w, word.h)
        at = max(range(len(columns)), key=lambda one: _shared(cell, columns[one]))
        there = row[at]
        row[at] = cell if there is None else _joined(there, cell)
    return row


def _joined(one: PictureCell, other: PictureCell) -> PictureCell:
    top, bottom = min(one.y, other.y), max(one.y + one.h, other.y + other.h)
    twice = other.x < one.x + one.w and one.text.endswith(other.text)  # a letter read twice
    two = one.is_figure and other.is_figure
    sure = one.sure and other.sure and not twice and not two
    right = max(one.x + one.w, other.x + other.w)
    words = f"{one.text} {other.text}"
    return PictureCell(words, sure, one.x, top, right - one.x, bottom - top)


def _shared(cell: PictureCell, column: tuple[int, int]) -> int:
    """How many pixels a cell shares with a column; less than none where it stands beside it."""
    return min(cell.x + cell.w, column[1]) - max(cell.x, column[0])


def _told(
    row: Sequence[PictureCell | None],
    rows: Sequence[Sequence[PictureCell | None]],
    columns: Sequence[tuple[int, int]],
    figures: Sequence[int],
) -> PictureRow:
    """A row with its blank cells, and with what is out of step in doubt."""
    stands = [cell for cell in row if cell is not None]
    y, height = min(cell.y for cell in stands), max(cell.h for cell in stands)
    holds_figures = _count(row, figures) > 0
    told = []
    for at, cell in enumerate(row):
        wants_figure = holds_figures and at in figures
        if cell is None:
            left, right = columns[at]
            told.append(PictureCell("", not wants_figure, left, y, right - left, height))
        elif wants_figure and (not cell.is_figure or _out_of_step(cell, at, rows)):
            told.append(replace(cell, sure=False))
        else:
            told.append(cell)
    return tuple(told)


def _out_of_step(cell: PictureCell, at: int, rows: Sequence[Sequence[PictureCell | None]]) -> bool:
    """Whether a figure lacks the decimals that most of its column have, and is far above them."""
    others = [
        other
        for row in rows
        if (other := row[at]) is not None and other.is_figure and other is not cell
    ]
    parted = [other for other in others if re.search(r"[.,]\d{1,2}\b", other.text)]
    if len(parted) <= len(others) / 2 or re.search(r"[.,]\d{1,2}\b", cell.text):
        return False
    return _number(cell) > OUT_OF_STEP * median(map(_number, parted))


def _number(cell: PictureCell) -> float:
    return figure_in(cell.text, Quantity.SCORE) or 0.0
