"""Edits of a review's plan: settings, passes and cells left out."""

from collections.abc import Sequence
from typing import Any

from blunt_ruler.core.plan.matrix import CellState, PlanCell, plan_of
from blunt_ruler.core.records.edits import Edit
from blunt_ruler.core.records.records import Contents, Review
from blunt_ruler.core.text import count_text

LEFT_OUT_BY_HAND = "left out by hand"


def set_plan(contents: Contents, review: Review, label: str, **fields: Any) -> Edit | None:
    """Other settings of the plan, None where they are so already."""
    plan = plan_of(contents, review)
    if all(getattr(plan, name) == value for name, value in fields.items()):
        return None
    return Edit(f"plan: {label}", (plan.model_copy(update=fields),))


def one_more_pass(contents: Contents, review: Review, rig_id: str, case_id: str) -> Edit:
    """One more pass of a cell than the plan has."""
    plan = plan_of(contents, review).with_extra(rig_id, case_id, 1)
    words = f"{contents.rigs[rig_id].name}, {contents.case_label(case_id)}"
    return Edit(
        f"plan one more pass: {words}", (plan,), notice=f"One more pass is planned: {words}."
    )


def toggle_cells(contents: Contents, review: Review, cells: Sequence[PlanCell]) -> Edit:
    """Cells left out of the plan; where all are out already, taken in again."""
    plan = plan_of(contents, review)
    take_in = all(cell.state is CellState.EXCLUDED for cell in cells)
    for cell in cells:
        why = None if take_in else cell.why or LEFT_OUT_BY_HAND
        plan = plan.with_exclusion(cell.rig_id, cell.case_id, why)
    verb = "take in" if take_in else "leave out"
    return Edit(f"{verb} {count_text(len(cells), 'cell')}", (plan,))
