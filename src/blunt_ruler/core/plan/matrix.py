"""The matrix of a plan: every rig on every case, what is done of it and what is left."""

from collections import Counter
from dataclasses import dataclass
from enum import StrEnum
from itertools import pairwise
from statistics import median

from blunt_ruler.core.records.plan_settings import Plan
from blunt_ruler.core.records.records import Contents, Review
from blunt_ruler.core.runs.changes import counted

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


def plan_cells(contents: Contents, review: Review, plan: Plan) -> tuple[PlanCell, ...]:
    """All cells, case by case in the review's order. Minutes are of the passes alone; loading,
    settings and swaps belong to the order.
    """
    kept = Counter((run.rig_id, run.case_id) for run in counted(contents))
    taken = {(run.rig_id, run.case_id) for run in contents.runs.values()}
    found = []
    for case_id in review.case_ids:
        times = plan.times_of(contents.cases[case_id].title_id)
        pass_min = (times.pass_s + plan.cool_down_s) / 60.0
        for seat in review.seats:
            key = (seat.rig_id, case_id)
            found.append(_cell(plan, key, kept[key], key in taken, pass_min))
    return tuple(found)


def _cell(
    plan: Plan, key: tuple[str, str], done: int, was_taken: bool, pass_min: float
) -> PlanCell:
    rig_id, case_id = key
    out = plan.excluded(rig_id, case_id)
    if out is not None:
        return PlanCell(rig_id, case_id, CellState.EXCLUDED, done, 0, 0.0, out.why)
    left = max(plan.repeats + plan.extra_of(rig_id, case_id) - done, 0)
    if not left:
        state = CellState.DONE
    elif done:
        state = CellState.PARTLY
    else:
        state = CellState.SET_ASIDE if was_taken else CellState.PLANNED
    return PlanCell(rig_id, case_id, state, done, left, left * pass_min)


def plan_of(contents: Contents, review: Review) -> Plan:
    """The stored plan of a review, or a fresh one."""
    return contents.plans.get(review.id) or Plan(id=review.id)


def learned(contents: Contents, plan: Plan) -> tuple[Plan, tuple[str, ...]]:
    """The plan with times as measured, and the titles whose times were learned.

    A title's pass takes as long as the median of its traces. What lies between the ends of two
    runs that followed each other on one rig, less the pass and the cool-down, was changing
    settings (same title) or loading as well (another title); a median of three or more is taken.
    """
    lengths: dict[str, list[float]] = {}
    for run in contents.runs.values():
        if run.figures is not None:
            title_id = contents.cases[run.case_id].title_id
            lengths.setdefault(title_id, []).append(run.figures.duration_s)
    gaps = _gaps(contents, plan.cool_down_s)
    times = []
    for title_id, seconds in lengths.items():
        one = plan.times_of(title_id)
        pass_s = round(median(seconds), 1)
        settings_s, load_s = one.settings_s, one.load_s
        if len(between := gaps.get((title_id, "settings"), [])) >= FEWEST_GAPS:
            settings_s = round(median(between), 1)
        if len(between := gaps.get((title_id, "load"), [])) >= FEWEST_GAPS:
            warm_s = pass_s if one.warm_up else 0.0
            load_s = max(round(median(between) - settings_s - warm_s, 1), 0.0)
        update = {"pass_s": pass_s, "settings_s": settings_s, "load_s": load_s}
        times.append(one.model_copy(update=update))
    known = {one.title_id for one in times}
    kept = [one for one in plan.title_times if one.title_id not in known]
    return plan.model_copy(update={"title_times": (*kept, *times)}), tuple(sorted(known))


def _gaps(contents: Contents, cool_down_s: float) -> dict[tuple[str, str], list[float]]:
    """Seconds between runs of one rig beside pass and cool-down, by title and kind."""
    timed = sorted(
        (
            (moment.timestamp(), run)
            for run in contents.runs.values()
            if run.figures is not None and (moment := run.moment) is not None
        ),
        key=lambda pair: pair[0],
    )
    gaps: dict[tuple[str, str], list[float]] = {}
    for (before, one), (after, other) in pairwise(timed):
        if one.rig_id != other.rig_id or one.case_id == other.case_id or other.figures is None:
            continue
        gap = after - before - other.figures.duration_s - cool_down_s
        if not 0 <= gap <= LONGEST_GAP_S:  # a break, or two runs that overlap
            continue
        title_id = contents.cases[other.case_id].title_id
        same = contents.cases[one.case_id].title_id == title_id
        gaps.setdefault((title_id, "settings" if same else "load"), []).append(gap)
    return gaps
