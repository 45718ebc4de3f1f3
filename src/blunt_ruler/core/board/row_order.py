"""Another order of the same Board: filtered, grouped, sorted, titles collapsed to their means.

Only rows move; every figure stays the one of the Board, and a collapsed title says so.
"""

from collections import ChainMap
from collections.abc import Mapping
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import reduce
from itertools import groupby
from operator import attrgetter
from typing import TypeVar, cast

from blunt_ruler.core.board.board import Board, Row
from blunt_ruler.core.board.lenses import Lens, lens_value
from blunt_ruler.core.compare.comparability import Standing
from blunt_ruler.core.compare.results import CaseResult
from blunt_ruler.core.measure.kinds import Bound, MeanSchool, least_sure
from blunt_ruler.core.measure.means import mean_ratio
from blunt_ruler.core.measure.resolution import megapixels
from blunt_ruler.core.once import Cell
from blunt_ruler.core.runs.score_parts import PART
from blunt_ruler.core.text import count_text

COLLAPSED = "title:"
Value = TypeVar("Value")


class GroupBy(StrEnum):
    """What rows are put together by."""

    PLAN = "as planned"
    TITLE = "title"
    RESOLUTION = "resolution"
    TAG = "tag"
    KIND = "kind"
    STANDING = "standing"


@dataclass(frozen=True, slots=True)
class Arrangement:
    """How rows are shown. `sort_rig` sorts by that column through `lens`, the largest first."""

    words: str = ""
    group: GroupBy = GroupBy.PLAN
    clean_only: bool = False
    collapse: bool = False
    sort_rig: str | None = None
    lens: Lens = Lens.RATE
    smallest_first: bool = False


def arrange(board: Board, how: Arrangement, scores: Board | None = None) -> Board:
    """The Board with its rows filtered, grouped and sorted; scores in a section at the end."""
    if scores is not None:
        shown = {row.case_id for row in scores.rows}
        tests = {row.case_id.partition(PART)[0] for row in scores.rows}
        board = replace(
            board, rows=tuple(row for row in board.rows if row.case_id not in tests | shown)
        )
    arranged = _arranged(board, how)
    if scores is None:
        return arranged
    rows = tuple(row for row in scores.rows if _fits(scores, row, how))
    return replace(
        arranged,
        rows=(*arranged.rows, *rows),
        # Side by side: to join them would work out every cell that nobody looks at.
        cells=_both(scores.cells, arranged.cells),
        runs=_both(scores.runs, arranged.runs),
    )


def _both(first: Mapping[Cell, Value], then: Mapping[Cell, Value]) -> Mapping[Cell, Value]:
    return ChainMap(cast("dict[Cell, Value]", first), cast("dict[Cell, Value]", then))


def _arranged(board: Board, how: Arrangement) -> Board:
    rows = [row for row in board.rows if _fits(board, row, how)]
    if how.group is not GroupBy.PLAN:
        rows.sort(key=lambda row: _group_key(board, row, how.group))
    games = [row for row in rows if row.kind == "game"]
    tests = [row for row in rows if row.kind != "game"]  # in a section of their own
    board = replace(board, rows=(*games, *tests))
    if how.collapse:
        board = _collapsed(board)
    if how.sort_rig is not None:
        board = replace(board, rows=tuple(_sorted(board, how)))
    return board


def _fits(board: Board, row: Row, how: Arrangement) -> bool:
    if not how.words and not how.clean_only:
        return True
    text = f"{row.label} {row.kind} {_standing(board, row)}".lower()
    if not all(word in text for word in how.words.lower().split()):
        return False
    return not how.clean_only or _standing(board, row) is Standing.CLEAN


def _standing(board: Board, row: Row) -> Standing:
    """The worst standing of a row's cells."""
    keys = [(column.rig_id, row.case_id) for column in board.columns]
    if row.unit:  # of a test the cells themselves say how they stand
        held = [board.cells[key].standing for key in keys if key in board.cells]
    else:
        held = [board.standings[key] for key in keys if key in board.standings]
    return max((one.worst for one in held), key=attrgetter("rank"), default=Standing.CLEAN)


def _group_key(board: Board, row: Row, group: GroupBy) -> tuple[float, str]:
    match group:
        case GroupBy.RESOLUTION:
            return megapixels(row.resolution) or 0.0, row.resolution
        case GroupBy.TAG:
            return 0.0, " ".join(row.tags).lower()
        case GroupBy.KIND:
            return 0.0, row.kind
        case GroupBy.STANDING:
            return float(_standing(board, row).rank), ""
        case _:
            return 0.0, row.title.lower()


def _sorted(board: Board, how: Arrangement) -> list[Row]:
    def value(row: Row) -> tuple[bool, float]:
        cell = board.cells.get((how.sort_rig or "", row.case_id))
        shown = lens_value(cell, how.lens)
        if shown is None:
            return True, 0.0  # what has no figure goes last either way
        return False, shown if how.smallest_first else -shown

    return sorted(board.rows, key=value)


def _collapsed(board: Board) -> Board:
    """Each title as one row: geometric means over the cases that both sides have."""
    rows, cells = [], {}
    by_title = sorted(board.rows, key=lambda row: [r.title for r in board.rows].index(row.title))
    for title, group in groupby(by_title, key=lambda row: row.title):
        members = list(group)
        if len(members) == 1:
            rows.append(members[0])
            for column in board.columns:
                key = (column.rig_id, members[0].case_id)
                if key in board.cells:
                    cells[key] = board.cells[key]
            continue
        case_id = f"{COLLAPSED}{title}"
        words = f"mean of {count_text(len(members), 'case')}"
        rows.append(Row(case_id, f"{title}, {words}", title, words, "", kind=members[0].kind))
        for column in board.columns:
            if (cell := _title_cell(board, column.rig_id, case_id, members)) is not None:
                cells[column.rig_id, case_id] = cell
    return replace(board, rows=tuple(rows), cells=cells)


def _title_cell(board: Board, rig_id: str, case_id: str, members: list[Row]) -> CaseResult | None:
    own = [cell for row in members if (cell := board.cells.get((rig_id, row.case_id)))]
    if not own:
        return None
    lows = [cell.low_1_fps for cell in own]
    over = [1.0 + cell.gain for cell in own if cell.gain is not None]
    of = [1.0 - cell.loss for cell in own if cell.loss is not None]
    mean_over, mean_of = _geometric(over), _geometric(of)
    bounds = [(cell.bound, cell.over_bound, cell.of_bound) for cell in own]
    bound, over_bound, of_bound = (reduce(Bound.and_, each) for each in zip(*bounds, strict=True))
    kinds = frozenset(kind for cell in own for kind in cell.kinds)
    return CaseResult(
        case=case_id,
        runs=sum(cell.runs for cell in own),
        average_fps=_geometric([cell.average_fps for cell in own]) or 0.0,
        low_1_fps=None if None in lows else _geometric([low for low in lows if low]),
        gain=None if mean_over is None or over_bound is Bound.OPEN else mean_over - 1.0,
        loss=None if mean_of is None or of_bound is Bound.OPEN else 1.0 - mean_of,
        kind=least_sure(kinds),
        kinds=kinds,
        bound=bound,
        over_bound=over_bound,
        of_bound=of_bound,
        standing=max((cell.standing for cell in own), key=attrgetter("worst.rank")),
    )


def _geometric(values: list[float]) -> float | None:
    return mean_ratio(MeanSchool.GEOMETRIC, values, [1.0] * len(values))
