"""Gains and losses, each on its own stated base.

gain = a/b − 1 against the base, loss = 1 − a/r against the reference, "faster by" = r/a − 1,
and the midpoint difference are four different figures; taking one for another is the
commonest slip of the trade, so each has one function and no function guesses a base.
All rates are in frames per second.
"""

import math
from collections import defaultdict
from collections.abc import Iterable

from blunt_ruler.core.compare.cell_grid import CellGrid, Cells, Standings
from blunt_ruler.core.compare.cell_parts import parts_of
from blunt_ruler.core.compare.results import Comparison, How, Measurement, Pooled
from blunt_ruler.core.errors import BadFigure, UnknownName
from blunt_ruler.core.measure.frames import LowSchool
from blunt_ruler.core.once import Handover


def _positive(rate: float, what: str) -> float:
    if not (math.isfinite(rate) and rate > 0):
        raise BadFigure(what, f"{rate} is not a rate", "Give a finite number above 0")
    return rate


def gain(tested_fps: float, base_fps: float) -> float:
    """What the rig under test adds to the base, as a share of the base: a/b − 1."""
    return _positive(tested_fps, "rate under test") / _positive(base_fps, "base rate") - 1.0


def loss(tested_fps: float, reference_fps: float) -> float:
    """What the rig under test lacks of the reference, as a share of the reference: 1 − a/r."""
    return 1.0 - _positive(tested_fps, "rate under test") / _positive(
        reference_fps, "reference rate"
    )


def faster_by(tested_fps: float, reference_fps: float) -> float:
    """How much faster the reference is, as a share of the rig under test: r/a − 1."""
    return gain(reference_fps, tested_fps)


def midpoint_difference(tested_fps: float, reference_fps: float) -> float:
    """(r − a) over the midpoint of both; it has no base, so it is neither gain nor loss."""
    a = _positive(tested_fps, "rate under test")
    r = _positive(reference_fps, "reference rate")
    return (r - a) / ((r + a) / 2.0)


def compare(
    runs: Iterable[Measurement],
    base: str,
    reference: str | None = None,
    low_school: LowSchool = LowSchool.PERCENTILE,
    how: How = How(),
    standings: Standings | None = None,
    pooled: Pooled | None = None,
) -> Comparison:
    """Put repeats together and set every rig against the base and the reference.

    Rigs and cases keep the order in which they first appear; a cell that `standings` does not
    hold is clean. Some runs of a review take what is `pooled` over all of them. Raises UnknownName
    where base or reference has no run.
    """
    grouped: dict[str, dict[str, list[Measurement]]] = defaultdict(lambda: defaultdict(list))
    for run in runs:
        grouped[run.rig][run.case].append(run)
    cells = {
        rig: {case: parts_of(repeats) for case, repeats in cases.items()}
        for rig, cases in grouped.items()
    }
    return compare_cells(cells, base, reference, low_school, how, standings, pooled=pooled)


def compare_cells(
    cells: Cells,
    base: str,
    reference: str | None = None,
    low_school: LowSchool = LowSchool.PERCENTILE,
    how: How = How(),
    standings: Standings | None = None,
    handover: Handover | None = None,
    what: str = "",
    pooled: Pooled | None = None,
) -> Comparison:
    """The same of cells, by rig and case, whose repeats are put together already; `what` names them
    in the handover where they are no averages.
    """
    for role, rig in (("base", base), ("reference", reference)):
        if rig is not None and rig not in cells:
            raise UnknownName(
                role,
                f"no run of a rig named “{rig}”",
                f"The rigs with runs are: {', '.join(cells) or 'none'}",
            )
    told = handover or Handover()
    grid = CellGrid(cells, base, reference, how, standings or {}, told, what, pooled)
    return Comparison(
        base=base,
        reference=reference,
        low_school=low_school,
        how=how,
        rigs=tuple(grid.rig_result(rig) for rig in cells),
        pooled=grid.pooled,
    )
