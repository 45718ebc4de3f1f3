"""Where a table begins and ends: its heads, its sections, its title lines and footnotes, and where
another table follows under it.
"""

import itertools
import re
from collections.abc import Sequence
from dataclasses import dataclass, field

from blunt_ruler.core.runs.import_runs import looks_like_resolution
from blunt_ruler.exchange.tables.cells import is_figure, is_outcome
from blunt_ruler.exchange.tables.words import KINDS, kind_of, plain_head

MOST_HEADS = 3
LONG_WORDS = 60  # characters: a longer cell alone in its row is a remark, not a heading
_FOOTNOTE = re.compile(
    r"^(?:[*†‡§¹²³⁴⁵]|\(?\d\)\s|\[\d+\]|notes?\b|source\b|all (?:results|figures))", re.I
)
_NUMBERS = re.compile(r"[~<>≈]?\s*\d(?:fps|[\d.,\s*†‡§±()~<>≈/+-])*", re.I)
LINES = frozenset(["720", "900", "1080", "1440", "1600", "2160", "4320"])


@dataclass(slots=True)
class Block:
    """One table: title lines over it, rows of heads, and its body.

    `body` are (number of the row, its section, its cells); rows are counted from 1. `kinds` are the
    kinds of its columns of names by their place, blank where no word says; all other columns hold
    figures.
    """

    titles: list[str]
    heads: list[list[str]]
    body: list[tuple[int, str, list[str]]] = field(default_factory=list)
    remarks: list[tuple[int, str]] = field(default_factory=list)
    kinds: dict[int, str] = field(default_factory=dict)

    @property
    def names(self) -> list[int]:
        """The columns of names."""
        return [*self.kinds]

    @property
    def figures(self) -> list[int]:
        """The columns of figures that hold any."""
        return [
            place
            for place in range(len(self.body[0][2]))
            if place not in self.kinds and any(row[place] for _, _, row in self.body)
        ]


def blocks_of(table: Sequence[Sequence[str]]) -> list[Block]:
    """The tables in a rectangle, in their order."""
    rows = [(number, list(row)) for number, row in enumerate(table, 1) if any(row)]
    blocks: list[Block] = []
    at = 0
    while at < len(rows):
        block, at = _block(rows, at)
        if block is not None:
            blocks.append(block)
    for before, block in itertools.pairwise(blocks):
        if not block.heads and len(block.body[0][2]) == len(before.body[0][2]):
            block.heads, block.kinds = before.heads, before.kinds
    return blocks


def _block(rows: list[tuple[int, list[str]]], at: int) -> tuple[Block | None, int]:
    """A table from a row on, None where only words are left, and the row after it."""
    titles: list[str] = []
    remarks: list[tuple[int, str]] = []
    while at < len(rows) and (words := _alone(rows[at][1])) and len(rows[at][1]) > 1:
        if (
            not rows[at][1][_first_used(rows)]
            and at + 1 < len(rows)
            and is_head(rows[at + 1][1], False)
        ):
            break  # the head of some columns, over the head of each
        if _is_remark(words):
            remarks.append((rows[at][0], words))
        else:
            titles.append(words)
        at += 1
    heads: list[list[str]] = []
    while at < len(rows) and len(heads) < MOST_HEADS and is_head(rows[at][1], bool(heads)):
        heads.append(rows[at][1])
        at += 1
    body: list[tuple[int, str, list[str]]] = []
    section = ""
    while at < len(rows):
        number, row = rows[at]
        words = _alone(row)
        if words and len(row) > 1:
            if _is_remark(words) or not _figures_follow(rows, at):
                remarks.append((number, words))
            elif body and _heads_follow(rows, at):
                break
            else:
                section = words
        elif body and is_head(row, False) and _figures_follow(rows, at):
            break
        else:
            body.append((number, section, row))
        at += 1
    if not body:
        return None, at
    kept = Block(titles, heads, body, remarks)
    kept.kinds = _name_columns(kept)
    return kept, at


def _first_used(rows: Sequence[tuple[int, list[str]]]) -> int:
    """The first column that holds anything."""
    return min(next(at for at, cell in enumerate(row) if cell) for _, row in rows)


def _alone(row: Sequence[str]) -> str:
    """The only words of a row, blank for a row of more cells or of figures."""
    there = [cell for cell in row if cell]
    return there[0] if len(there) == 1 and not is_figure(there[0]) else ""


def _is_remark(words: str) -> bool:
    return len(words) > LONG_WORDS or _FOOTNOTE.match(words) is not None


def _figures_follow(rows: Sequence[tuple[int, list[str]]], at: int) -> bool:
    """Whether a row with figures comes after a row, heads and headings between them at most."""
    for _, row in rows[at + 1 : at + 2 + MOST_HEADS]:
        if any(is_figure(cell) for cell in row[1:]):
            return True
    return False


def _heads_follow(rows: Sequence[tuple[int, list[str]]], at: int) -> bool:
    """Whether a new table begins under a heading."""
    after = [row for _, row in rows[at + 1 : at + 3]]
    if len(after) > 1 and _alone(after[0]):
        return is_head(after[1], False)
    return bool(after) and is_head(after[0], False)


def is_head(row: Sequence[str], under_head: bool) -> bool:
    """Whether a row names columns: no figures in it but resolutions."""
    cells = [cell for cell in row if cell]
    kinds = [kind_of(plain_head(cell)) for cell in cells]
    if sum(kind in KINDS and kind != "" for kind in kinds) >= 2:
        return True
    rest = [cell for cell in row[1:] if cell]
    if not rest or (len(cells) < 2 and not under_head and row[0]):
        return False
    if all(cell in LINES for cell in rest):
        return True
    figures = sum(
        (is_figure(cell) or _NUMBERS.fullmatch(cell) is not None)
        and not looks_like_resolution(cell)
        for cell in rest
    )
    if any(is_outcome(cell) for cell in rest):
        return False
    if kinds[0] and row[0]:
        return figures * 2 < len(rest)
    return figures == 0


def _name_columns(block: Block) -> dict[int, str]:
    """The columns that hold names, with their kinds: those a word calls so, and those of words."""
    rows = [row for _, _, row in block.body]
    width = len(rows[0])
    names = [
        next((plain_head(head[place]) for head in reversed(block.heads) if head[place]), "")
        for place in range(width)
    ]
    found: dict[int, str] = {}
    for place in range(width):
        kind = kind_of(names[place])
        cells = [row[place] for row in rows if row[place]]
        figures = sum(is_figure(cell) or is_outcome(cell) for cell in cells)
        words = figures * 2 < len(cells)
        lines = place == 0 and not kind and _are_lines(cells)
        if kind in ("title", "rig", "case"):
            words = words or place == 0 or figures < len(cells)
        elif kind not in ("", "value", "metric"):
            words = True
        if words or lines:
            found[place] = kind
    if len(found) == width:
        found.popitem()
    return found


def _are_lines(cells: Sequence[str]) -> bool:
    """Whether cells are the lines of a picture: 1080, 1440."""
    return bool(cells) and all(cell in LINES for cell in cells)
