"""Short of time: keep what answers the review's questions, and say what is given up.

An integer programme (scipy.optimize.milp) over rigs, titles on rigs, and cells. What counts most
is a whole triplet of base, rig under test and reference on a case; where the question is the
link, a title that is kept is kept at two resolutions at least.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from blunt_ruler.core.plan.bench_order import swap_minutes
from blunt_ruler.core.plan.matrix import CellState, PlanCell
from blunt_ruler.core.records.plan_settings import Plan
from blunt_ruler.core.records.records import Contents, Review, Role

CELL_WORTH = 0.05  # of a triplet: a cell that completes none still says something


@dataclass(frozen=True, slots=True)
class Dropped:
    """A cell that is given up, and why in plain words."""

    rig_id: str
    case_id: str
    why: str


@dataclass(frozen=True, slots=True)
class Shortened:
    """What is kept of a plan, what is given up, and whether the programme proved it the best by
    its own clock.
    """

    cells: tuple[PlanCell, ...]
    dropped: tuple[Dropped, ...]
    optimal: bool


@dataclass
class _Programme:
    """Columns, rows and bounds of the programme as they are written down."""

    worth: list[float]
    rows: list[dict[int, float]]
    least: list[float]
    most: list[float]

    def column(self, worth: float = 0.0) -> int:
        self.worth.append(worth)
        return len(self.worth) - 1

    def row(self, entries: dict[int, float], least: float, most: float) -> None:
        self.rows.append(entries)
        self.least.append(least)
        self.most.append(most)

    def matrix(self) -> Any:
        """The rows as a sparse matrix: a plan of 300 cases on 12 rigs has 20,000 of them."""
        from scipy.sparse import csr_array

        places = [(row, column) for row, one in enumerate(self.rows) for column in one]
        values = [value for one in self.rows for value in one.values()]
        rows, columns = zip(*places, strict=True) if places else ((), ())
        shape = (len(self.rows), len(self.worth))
        return csr_array((values, (rows, columns)), shape=shape)

    def solved(self, time_limit_s: float) -> Any:
        """The choice of the most worth, as scipy's milp gives it."""
        from scipy.optimize import Bounds, LinearConstraint, milp

        return milp(
            -np.array(self.worth),
            integrality=np.ones(len(self.worth)),
            bounds=Bounds(0, 1),
            constraints=LinearConstraint(self.matrix(), self.least, self.most),
            options={"time_limit": time_limit_s},
        )


def shorten(
    contents: Contents,
    review: Review,
    plan: Plan,
    cells: Sequence[PlanCell],
    minutes: float,
    time_limit_s: float = 5.0,
) -> Shortened:
    """The cells to measure when there are only so many minutes.

    Swaps are counted by the cheapest way into each rig, loading by title and repeat, so the
    chosen plan may take a little less or more than the minutes; the order tells.
    """
    todo = [cell for cell in cells if cell.left > 0]
    if not todo:
        return Shortened(tuple(cells), (), True)
    programme, chosen = _write(contents, review, plan, cells, todo, minutes)
    result = programme.solved(time_limit_s)
    kept = (
        {key for key, column in chosen.items() if result.x[column] > 0.5}
        if result.x is not None
        else set()
    )
    there = kept | {(c.rig_id, c.case_id) for c in cells if c.state is CellState.DONE}
    dropped = tuple(
        Dropped(cell.rig_id, cell.case_id, _why(contents, review, cell, there))
        for cell in todo
        if (cell.rig_id, cell.case_id) not in kept
    )
    lost = {(one.rig_id, one.case_id) for one in dropped}
    return Shortened(
        tuple(cell for cell in cells if (cell.rig_id, cell.case_id) not in lost),
        dropped,
        bool(result.status == 0),
    )


def most_possible(
    contents: Contents,
    review: Review,
    plan: Plan,
    cells: Sequence[PlanCell],
    minutes: float,
    time_limit_s: float = 5.0,
) -> float:
    """No choice of cells that fits the minutes has more weighted triplets than this.

    The programme counts a swap into every rig, and every load and setting of every round; an order
    saves at most the dearest swap and, at each turn of a round on a rig, one load and one setting.
    So much is given to it on top, and it is asked for triplets alone.
    """
    done = [cell for cell in cells if cell.state is CellState.DONE]
    already = worth_kept(review, plan, done)
    todo = [cell for cell in cells if cell.left > 0]
    if not todo:
        return already
    rigs = list(dict.fromkeys(cell.rig_id for cell in todo))
    saved = max(
        (swap_minutes(contents, plan, a, b) for a in rigs for b in rigs if a != b), default=0.0
    )
    for rig_id in rigs if plan.spread_repeats else ():
        mine = [cell for cell in todo if cell.rig_id == rig_id]
        times = [plan.times_of(contents.cases[cell.case_id].title_id) for cell in mine]
        turn_s = max(
            one.load_s + one.settings_s + (one.pass_s if one.warm_up else 0.0) for one in times
        )
        saved += (max(cell.left for cell in mine) - 1) * turn_s / 60.0
    programme, _ = _write(contents, review, plan, cells, todo, minutes + saved, cell_worth=0.0)
    result = programme.solved(time_limit_s)
    bound = getattr(result, "mip_dual_bound", None)
    found = -float(bound if bound is not None else result.fun or 0.0)
    return already + found


def _write(
    contents: Contents,
    review: Review,
    plan: Plan,
    cells: Sequence[PlanCell],
    todo: Sequence[PlanCell],
    minutes: float,
    cell_worth: float = CELL_WORTH,
) -> tuple[_Programme, dict[tuple[str, str], int]]:
    programme = _Programme([], [], [], [])
    chosen = {
        (cell.rig_id, cell.case_id): programme.column(cell_worth * plan.weight_of(cell.case_id))
        for cell in todo
    }
    done = {(c.rig_id, c.case_id) for c in cells if c.state is CellState.DONE}
    _triplets(review, plan, programme, chosen, done)
    if plan.question == "link":
        _two_resolutions(contents, programme, chosen, done, todo)
    budget: dict[int, float] = {}
    rigs = list(dict.fromkeys(cell.rig_id for cell in todo))
    for cell in todo:
        settings = plan.times_of(contents.cases[cell.case_id].title_id).settings_s / 60.0
        column = chosen[cell.rig_id, cell.case_id]
        budget[column] = cell.minutes + settings * (cell.left if plan.spread_repeats else 1)
    for rig_id in rigs:
        mine = [cell for cell in todo if cell.rig_id == rig_id]
        into = min(
            (swap_minutes(contents, plan, other, rig_id) for other in rigs if other != rig_id),
            default=0.0,
        )
        _needs(programme, budget, [chosen[rig_id, c.case_id] for c in mine], into)
        for title_id in {contents.cases[cell.case_id].title_id for cell in mine}:
            of_title = [c for c in mine if contents.cases[c.case_id].title_id == title_id]
            times = plan.times_of(title_id)
            load = times.load_s + (times.pass_s if times.warm_up else 0.0)
            rounds = max(cell.left for cell in of_title) if plan.spread_repeats else 1
            _needs(
                programme,
                budget,
                [chosen[rig_id, c.case_id] for c in of_title],
                load * rounds / 60.0,
            )
    programme.row(budget, 0.0, minutes)
    return programme, chosen


def _needs(
    programme: _Programme, budget: dict[int, float], cells: Sequence[int], minutes: float
) -> None:
    """Minutes that are spent once as soon as any of some cells is kept."""
    if minutes <= 0:
        return
    used = programme.column()
    budget[used] = minutes
    for cell in cells:
        programme.row({cell: 1.0, used: -1.0}, -1.0, 0.0)


def _triplets(
    review: Review,
    plan: Plan,
    programme: _Programme,
    chosen: dict[tuple[str, str], int],
    done: set[tuple[str, str]],
) -> None:
    """Worth for every case on which base, a rig under test, and reference are all measured."""
    ends = [review.rig_in(Role.BASE), review.rig_in(Role.REFERENCE)]
    fixed = [rig_id for rig_id in ends if rig_id is not None]
    tested = [seat.rig_id for seat in review.seats if seat.role is Role.TESTED]
    for case_id in review.case_ids:
        for rig_id in tested:
            keys = [(one, case_id) for one in (*fixed, rig_id)]
            if any(key not in chosen and key not in done for key in keys):
                continue
            parts = [chosen[key] for key in keys if key in chosen]
            if parts:
                whole = programme.column(plan.weight_of(case_id))
                for part in parts:
                    programme.row({whole: 1.0, part: -1.0}, -1.0, 0.0)


def _two_resolutions(
    contents: Contents,
    programme: _Programme,
    chosen: dict[tuple[str, str], int],
    done: set[tuple[str, str]],
    todo: Sequence[PlanCell],
) -> None:
    """A title on a rig is kept at two resolutions or not at all, where there are two."""
    for rig_id in dict.fromkeys(cell.rig_id for cell in todo):
        titles: dict[str, list[str]] = {}
        for key_rig, case_id in (*chosen, *done):
            if key_rig == rig_id:
                titles.setdefault(contents.cases[case_id].title_id, []).append(case_id)
        for case_ids in titles.values():
            if len({contents.cases[case_id].resolution for case_id in case_ids}) < 2:
                continue
            for case_id in case_ids:
                if (rig_id, case_id) not in chosen:
                    continue
                others = [
                    other
                    for other in case_ids
                    if contents.cases[other].resolution != contents.cases[case_id].resolution
                ]
                if any((rig_id, other) in done for other in others):
                    continue
                entries = {chosen[rig_id, other]: -1.0 for other in others}
                programme.row({chosen[rig_id, case_id]: 1.0, **entries}, -len(others), 0.0)


def _why(contents: Contents, review: Review, cell: PlanCell, there: set[tuple[str, str]]) -> str:
    """Why a cell is given up, said of the whole case or rig where that is the plainer truth.

    `there` are the cells that are kept or done already.
    """
    label = contents.case_label(cell.case_id)
    name = contents.rigs[cell.rig_id].name
    if not any(rig_id == cell.rig_id for rig_id, _ in there):
        return f"no pass at all on {name}"
    ends = [review.rig_in(Role.BASE), review.rig_in(Role.REFERENCE)]
    compared = all((rig_id, cell.case_id) in there for rig_id in ends if rig_id) and any(
        (seat.rig_id, cell.case_id) in there for seat in review.seats if seat.role is Role.TESTED
    )
    if not compared:
        return f"no further comparison on {label}"
    return f"no further pass of {label} on {name}"


def worth_kept(review: Review, plan: Plan, cells: Sequence[PlanCell]) -> float:
    """The weights of all triplets that some cells hold."""
    return sum(plan.weight_of(case_id) for case_id, _ in _triplets_in(review, cells))


def triplets_kept(review: Review, cells: Sequence[PlanCell]) -> int:
    """How many triplets of base, rig under test and reference a plan holds, done ones included."""
    return len(_triplets_in(review, cells))


def _triplets_in(review: Review, cells: Sequence[PlanCell]) -> list[tuple[str, str]]:
    """(case, rig under test) of all triplets that some cells hold."""
    there = {(cell.rig_id, cell.case_id) for cell in cells if cell.state is not CellState.EXCLUDED}
    ends = [rig for rig in (review.rig_in(Role.BASE), review.rig_in(Role.REFERENCE)) if rig]
    tested = [seat.rig_id for seat in review.seats if seat.role is Role.TESTED]
    return [
        (case_id, rig_id)
        for case_id in review.case_ids
        if all((end, case_id) in there for end in ends)
        for rig_id in tested
        if (rig_id, case_id) in there
    ]
