"""Runs by the cell they were taken in, brought up from one edit to the next."""

from collections.abc import Iterable, Mapping
from typing import Protocol, TypeAlias, TypeVar

from blunt_ruler.core.once import Cell


class InCell(Protocol):
    """What was taken in a cell, as a run is."""

    @property
    def rig_id(self) -> str:
        """Its rig."""

    @property
    def case_id(self) -> str:
        """Its case."""


Taken = TypeVar("Taken", bound=InCell)
ByCell: TypeAlias = Mapping[Cell, tuple[Taken, ...]]
ByRig: TypeAlias = Mapping[str, Mapping[str, tuple[Taken, ...]]]


def grouped(runs: Iterable[Taken]) -> ByCell[Taken]:
    """Every cell that has runs, with them, in the order in which they were added."""
    cells: dict[Cell, list[Taken]] = {}
    for run in runs:
        cells.setdefault((run.rig_id, run.case_id), []).append(run)
    return {cell: tuple(of_cell) for cell, of_cell in cells.items()}


def brought_up(
    by_cell: ByCell[Taken], known: Mapping[str, Taken], changed: Mapping[str, Taken | None]
) -> ByCell[Taken] | None:
    """The cells with some of the `known` runs put in place and new ones added; None where one went
    or moved, so that cells have to be grouped anew. Cells without a change stay the same.
    """
    made = dict(by_cell)
    for run_id, now in changed.items():
        was = known.get(run_id)
        if now is None or (was and (was.rig_id, was.case_id) != (now.rig_id, now.case_id)):
            return None
        cell = now.rig_id, now.case_id
        own = made.get(cell, ())
        made[cell] = tuple(now if one is was else one for one in own) if was else (*own, now)
    return made


def by_rig(by_cell: ByCell[Taken]) -> ByRig[Taken]:
    """The same by rig, then by case."""
    rigs: dict[str, dict[str, tuple[Taken, ...]]] = {}
    for (rig_id, case_id), runs in by_cell.items():
        rigs.setdefault(rig_id, {})[case_id] = runs
    return rigs


def rigs_brought_up(
    of_rigs: ByRig[Taken], by_cell: ByCell[Taken], changed: Iterable[Cell]
) -> ByRig[Taken]:
    """`by_rig` of cells some of which `changed`; rigs without a change stay the same."""
    made = {**of_rigs}
    for rig_id, case_id in changed:
        made[rig_id] = {**made.get(rig_id, {}), case_id: by_cell[rig_id, case_id]}
    return made
