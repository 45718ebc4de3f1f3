"""Means that follow the eye: over the rows that are shown, and over each group of them.

A mean over some cases is the comparison made over again with those cases, so that it has its own
interval; nothing is averaged twice.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from blunt_ruler.core.board.board import Board, Row, build_board
from blunt_ruler.core.board.row_order import Arrangement, GroupBy, arrange
from blunt_ruler.core.compare.comparability import Unsound
from blunt_ruler.core.compare.results import RigResult
from blunt_ruler.core.once import Handover
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.text import count_text

SUBTOTAL = "mean:"
Cases = frozenset[str]
Totals = Mapping[str, RigResult]


@dataclass(frozen=True, slots=True)
class Wanted:
    """Which means a shown Board wants: over all rows shown (None for those of the review), and
    over groups by their words, in order.
    """

    shown: Cases | None
    groups: Mapping[str, Cases]

    def all(self) -> tuple[Cases, ...]:
        """Every set of cases."""
        return (*((self.shown,) if self.shown is not None else ()), *self.groups.values())


def _games(board: Board) -> list[Row]:
    return [row for row in board.rows if row.kind == "game" and not row.unit]


def wanted_means(whole: Board, shown: Board, how: Arrangement) -> Wanted:
    """The means that the rows of an arranged Board want."""
    games, every = _games(shown), _games(whole)
    fewer = not how.collapse and {row.case_id for row in games} != {row.case_id for row in every}
    groups: dict[str, set[str]] = {}
    if not how.collapse and how.group in (GroupBy.TITLE, GroupBy.RESOLUTION, GroupBy.TAG):
        for row in games:
            for words in _group_words(row, how.group):
                groups.setdefault(words, set()).add(row.case_id)
    several = {words: frozenset(ids) for words, ids in groups.items() if len(ids) > 1}
    return Wanted(frozenset(row.case_id for row in games) if fewer and games else None, several)


def _group_words(row: Row, group: GroupBy) -> tuple[str, ...]:
    match group:
        case GroupBy.RESOLUTION:
            return (row.resolution or "no resolution",)
        case GroupBy.TAG:
            return row.tags or ("no tag",)
        case _:
            return (row.title,)


def means_over(
    contents: Contents,
    board: Board,
    unsound: Unsound,
    cases: Cases,
    handover: Handover | None = None,
) -> Totals:
    """The means of a review over some of its cases alone; how passes spread and what days do is
    told by all of them.
    """
    ids = tuple(key for key in board.review.case_ids if key in cases)
    some = board.review.model_copy(update={"case_ids": ids})
    return build_board(contents, some, unsound, handover, board.pooled).totals


def group_means(
    contents: Contents,
    board: Board,
    unsound: Unsound,
    by: GroupBy,
    handover: Handover | None = None,
) -> Mapping[str, tuple[Cases, Totals]]:
    """The means over each group of several cases, by the words of the group, in its order."""
    how = Arrangement(group=by)
    return {
        words: (cases, means_over(contents, board, unsound, cases, handover))
        for words, cases in wanted_means(board, arrange(board, how), how).groups.items()
    }


def with_means(
    board: Board, wanted: Wanted, found: Mapping[Cases, Totals], how: Arrangement
) -> Board:
    """The shown Board with its means: a row under each group, and the foot over what is shown.

    Where a mean is not worked out yet, none is shown in its place.
    """
    if wanted.shown is not None:
        count = count_text(len(wanted.shown), "case")
        board = replace(
            board, totals=found.get(wanted.shown, {}), low_totals={}, over=f"over the {count} shown"
        )
    if not wanted.groups:
        return board
    rows: list[Row] = []
    subtotals: dict[str, Totals] = {}
    left = {words: set(ids) for words, ids in wanted.groups.items()}
    for row in board.rows:
        rows.append(row)
        if row.unit or row.kind != "game":
            continue
        for words in _group_words(row, how.group):
            ids = left.get(words)
            if ids is None:
                continue
            ids.discard(row.case_id)
            if not ids:
                key = f"{SUBTOTAL}{words}"
                said = f"mean of {count_text(len(wanted.groups[words]), 'case')}"
                rows.append(Row(key, f"{words}, {said}", words, "", said, kind=row.kind))
                subtotals[key] = found.get(wanted.groups[words], {})
    return replace(board, rows=tuple(rows), subtotals=subtotals)
