"""The matrix of a plan: every rig on every case, what is done of it and what is left."""

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from functools import partial
from itertools import pairwise
from statistics import median

from blunt_ruler.core.once import Cell, Handover
from blunt_ruler.core.plan.passes_taken import Passes, Timed, passes_taken
from blunt_ruler.core.records.plan_settings import Plan
from blunt_ruler.core.records.records import Contents, Review, taken_moment

FEWEST_GAPS = 3
LONGEST_GAP_S = 900.0


class CellState(StrEnum):
    """How far a cell is."""

    PLANNED = "planned"
    PARTLY = "partly done"
    DONE = "done"
    SET_ASIDE = "set aside"
    EXCLUDED = "left out"


@dataclass(frozen=True, slots=True)
class PlanCell:
    """One rig on one case: passes done and left, the minutes of those left, and why not."""

    rig_id: str
    case_id: str
    state: CellState
    done: int
    left: int
    minutes: float
    why: str = ""


def plan_cells(
    contents: Contents, review: Review, plan: Plan, handover: Handover | None = None
) -> tuple[PlanCell, ...]:
    """All cells, case by case in the review's order. Minutes are of the passes alone; loading,
    settings and swaps belong to the order.
    """
    handover = handover or Handover()
    taken = passes_taken(contents, handover)
    out = {(one.rig_id, one.case_id): one.why for one in reversed(plan.exclusions)}
    extra = Counter[Cell]()
    for one in plan.extras:
        extra[one.rig_id, one.case_id] += one.passes
    rig_ids = tuple(seat.rig_id for seat in review.seats)
    found: list[PlanCell] = []
    for case_id in review.case_ids:
        times = plan.times_of(contents.cases[case_id].title_id)
        pass_min = (times.pass_s + plan.cool_down_s) / 60.0
        keys = [(rig_id, case_id) for rig_id in rig_ids]
        passes = tuple(map(taken.get, keys))
        wanted = tuple(plan.repeats + extra[key] for key in keys)
        why = tuple(map(out.get, keys))
        reads = rig_ids, passes, wanted, pass_min, why
        found += handover.of(("plan", case_id), reads, partial(_cells, case_id, *reads))
    return tuple(found)


def _cells(
    case_id: str,
    rig_ids: tuple[str, ...],
    passes: tuple[Passes | None, ...],
    wanted: tuple[int, ...],
    pass_min: float,
    why: tuple[str | None, ...],
) -> tuple[PlanCell, ...]:
    return tuple(
        _cell(rig_id, case_id, taken, asked, pass_min, left_out)
        for rig_id, taken, asked, left_out in zip(rig_ids, passes, wanted, why, strict=True)
    )


def _cell(
    rig_id: str,
    case_id: str,
    taken: Passes | None,
    wanted: int,
    pass_min: float,
    left_out: str | None,
) -> PlanCell:
    done = taken.kept if taken is not None else 0
    if left_out is not None:
        return PlanCell(rig_id, case_id, CellState.EXCLUDED, done, 0, 0.0, left_out)
    left = max(wanted - done, 0)
    if not left:
        state = CellState.DONE
    elif done:
        state = CellState.PARTLY
    else:
        state = CellState.PLANNED if taken is None else CellState.SET_ASIDE
    return PlanCell(rig_id, case_id, state, done, left, left * pass_min)


def plan_of(contents: Contents, review: Review) -> Plan:
    """The stored plan of a review, or a fresh one."""
    return contents.plans.get(review.id) or Plan(id=review.id)


def learned(
    contents: Contents, plan: Plan, handover: Handover | None = None
) -> tuple[Plan, tuple[str, ...]]:
    """The plan with times as measured, and the titles whose times were learned.

    A title's pass takes as long as the median of its traces. What lies between the ends of two
    runs that followed each other on one rig, less the pass and the cool-down, was changing
    settings (same title) or loading as well (another title); a median of three or more is taken.
    """
    handover = handover or Handover()
    taken = passes_taken(contents, handover)
    timed = tuple(
        (cell, contents.cases[cell[1]].title_id, passes.timed) for cell, passes in taken.items()
    )
    reads = timed, plan.cool_down_s
    lengths, gaps = handover.of(("usual times",), reads, lambda: _usual(*reads))
    times = []
    for title_id, usual_s in lengths.items():
        one = plan.times_of(title_id)
        pass_s = round(usual_s, 1)
        settings_s, load_s = one.settings_s, one.load_s
        if (between := gaps.get((title_id, "settings"))) is not None:
            settings_s = round(between, 1)
        if (between := gaps.get((title_id, "load"))) is not None:
            warm_s = pass_s if one.warm_up else 0.0
            load_s = max(round(between - settings_s - warm_s, 1), 0.0)
        update = {"pass_s": pass_s, "settings_s": settings_s, "load_s": load_s}
        times.append(one.model_copy(update=update))
    known = {one.title_id for one in times}
    kept = [one for one in plan.title_times if one.title_id not in known]
    return plan.model_copy(update={"title_times": (*kept, *times)}), tuple(sorted(known))


def _usual(
    timed: tuple[tuple[Cell, str, tuple[Timed, ...]], ...], cool_down_s: float
) -> tuple[Mapping[str, float], Mapping[tuple[str, str], float]]:
    """(median length of a title's traces, median between runs of one rig beside pass and cool-down
    by title and kind without those that are few), seconds. Runs are given by cell and title.
    """
    lengths: dict[str, list[float]] = {}
    ends = []
    for cell, title_id, of_cell in timed:
        for one in of_cell:
            lengths.setdefault(title_id, []).append(one.duration_s)
            if (at := taken_moment(one.taken_at)) is not None:
                ends.append((at.timestamp(), cell, title_id, one.duration_s))
    at_once = Counter(at for at, *_ in ends)  # brought in together: nobody knows which came first
    gaps: dict[tuple[str, str], list[float]] = {}
    for (before, cell, title_id, _), (after, other, next_title, length_s) in pairwise(sorted(ends)):
        if cell[0] != other[0] or cell[1] == other[1] or at_once[before] + at_once[after] > 2:
            continue
        gap = after - before - length_s - cool_down_s
        if 0 <= gap <= LONGEST_GAP_S:  # else a break, or two runs that overlap
            kind = "settings" if title_id == next_title else "load"
            gaps.setdefault((next_title, kind), []).append(gap)
    return (
        {title_id: median(seconds) for title_id, seconds in lengths.items()},
        {key: median(seconds) for key, seconds in gaps.items() if len(seconds) >= FEWEST_GAPS},
    )
