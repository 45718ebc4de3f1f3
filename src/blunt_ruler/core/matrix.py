"""The matrix of a plan: every rig on every case, what is done of it and what is left."""

from collections import Counter
from dataclasses import dataclass
from enum import StrEnum

from blunt_ruler.core.models import Contents, Decision, Review
from blunt_ruler.core.planning import Plan


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
    kept = Counter(
        (run.rig_id, run.case_id) for run in contents.runs.values() if run.decision is Decision.KEEP
    )
    taken = {(run.rig_id, run.case_id) for run in contents.runs.values()}
    return tuple(
        _cell(
            contents,
            plan,
            (seat.rig_id, case_id),
            kept[seat.rig_id, case_id],
            (seat.rig_id, case_id) in taken,
        )
        for case_id in review.case_ids
        for seat in review.seats
    )


def _cell(
    contents: Contents, plan: Plan, key: tuple[str, str], done: int, was_taken: bool
) -> PlanCell:
    rig_id, case_id = key
    out = plan.excluded(rig_id, case_id)
    if out is not None:
        return PlanCell(rig_id, case_id, CellState.EXCLUDED, done, 0, 0.0, out.why)
    left = max(plan.repeats - done, 0)
    if not left:
        state = CellState.DONE
    elif done:
        state = CellState.PARTLY
    else:
        state = CellState.SET_ASIDE if was_taken else CellState.PLANNED
    times = plan.times_of(contents.cases[case_id].title_id)
    minutes = left * (times.pass_s + plan.cool_down_s) / 60.0
    return PlanCell(rig_id, case_id, state, done, left, minutes)


def plan_of(contents: Contents, review: Review) -> Plan:
    """The stored plan of a review, or a fresh one."""
    return contents.plans.get(review.id) or Plan(id=review.id)


def learned(contents: Contents, plan: Plan) -> tuple[Plan, tuple[str, ...]]:
    """The plan with pass times as measured, and the titles whose times were learned.

    A title's pass takes as long as the median of its traces.
    """
    lengths: dict[str, list[float]] = {}
    for run in contents.runs.values():
        if run.figures is not None:
            title_id = contents.cases[run.case_id].title_id
            lengths.setdefault(title_id, []).append(run.figures.duration_s)
    times = []
    for title_id, seconds in lengths.items():
        ordered = sorted(seconds)
        middle = ordered[len(ordered) // 2]
        times.append(plan.times_of(title_id).model_copy(update={"pass_s": round(middle, 1)}))
    known = {one.title_id for one in times}
    kept = [one for one in plan.title_times if one.title_id not in known]
    return plan.model_copy(update={"title_times": (*kept, *times)}), tuple(sorted(known))
