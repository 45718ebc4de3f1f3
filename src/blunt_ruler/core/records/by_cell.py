"""Runs by the cell they were taken in, brought up from one edit to the next.

A cell that no edit touched is the same tuple as before, so that what was made of it can be told by
its identity.
"""

from collections import deque
from collections.abc import Iterable, Mapping
from itertools import islice
from typing import TypeAlias

from blunt_ruler.core.kept import forgets
from blunt_ruler.core.records.records import Contents, Run

Cell: TypeAlias = tuple[str, str]  # rig and case
ByCell: TypeAlias = Mapping[Cell, tuple[Run, ...]]

KEPT = 6  # of the contents that were looked at last: views hold some while others are made
MOST_CHANGED = 500

_known: deque[tuple[Mapping[str, Run], ByCell]] = deque(maxlen=KEPT)
forgets(_known.clear)


def runs_by_cell(contents: Contents) -> ByCell:
    """Every cell that has runs, with them, in the order in which they were added."""
    runs = contents.runs
    before = [*_known]
    for known, by_cell in before:
        if known is runs:
            return by_cell
    made = _brought_up(*before[0], runs) if before else None
    if made is None:
        made = _grouped(runs.values())
    _known.appendleft((runs, made))
    return made


def _grouped(runs: Iterable[Run]) -> dict[Cell, tuple[Run, ...]]:
    cells: dict[Cell, list[Run]] = {}
    for run in runs:
        cells.setdefault((run.rig_id, run.case_id), []).append(run)
    return {cell: tuple(of_cell) for cell, of_cell in cells.items()}


def _brought_up(
    known: Mapping[str, Run], by_cell: ByCell, runs: Mapping[str, Run]
) -> dict[Cell, tuple[Run, ...]] | None:
    """The cells with some runs replaced and others added; None where more has changed."""
    if len(runs) < len(known):
        return None
    pairs = zip(known.values(), runs.values(), strict=False)
    changed = [(was, now) for was, now in pairs if was is not now]
    if len(changed) > MOST_CHANGED or any(
        (was.id, was.rig_id, was.case_id) != (now.id, now.rig_id, now.case_id)
        for was, now in changed
    ):
        return None
    made = dict(by_cell)
    for was, now in changed:
        cell = now.rig_id, now.case_id
        made[cell] = tuple(now if one is was else one for one in made[cell])
    for run in islice(runs.values(), len(known), None):
        made[run.rig_id, run.case_id] = (*made.get((run.rig_id, run.case_id), ()), run)
    return made
