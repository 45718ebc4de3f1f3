"""How well the fit foresees what it was not shown: leave something out, predict it, compare."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from enum import StrEnum
from functools import partial

import numpy as np

from blunt_ruler.core.limits.cells import Cell, Measured, TooLittle
from blunt_ruler.core.limits.fit import Fit, fit_limits
from blunt_ruler.core.types import FloatArray


class LeaveOut(StrEnum):
    """What is left out in turn."""

    LINK = "link"
    RIG = "rig"
    CASE = "case"


KEYS: dict[LeaveOut, Callable[[Cell], str]] = {
    LeaveOut.LINK: lambda cell: cell.link,
    LeaveOut.RIG: lambda cell: cell.rig,
    LeaveOut.CASE: lambda cell: cell.case,
}


PARTS = ("family", "host", "card")


@dataclass(frozen=True, slots=True)
class LeftOut:
    """Errors of predictions for what was left out, as shares of the rate, and how many of the
    80 % intervals held. `ratio_error` is what scaling by the average ratio gets wrong.
    """

    kind: LeaveOut
    groups: int
    cells: int
    median_error: float
    p90_error: float
    interval_hits: float
    ratio_error: float


def parted(measured: Measured, kind: LeaveOut) -> Iterator[tuple[str, Measured, list[int]]]:
    """(name, the rest of the cells, places of its own that can be predicted) of each group.

    That takes their family, host and card among the rest: of a card never seen nobody can know the
    speed.
    """
    names = [KEYS[kind](cell) for cell in measured.cells]
    for name in dict.fromkeys(names):
        rest = measured.without([one != name for one in names])
        known = [{getattr(cell, part) for cell in rest.cells} for part in PARTS]
        places = [
            at
            for at, cell in enumerate(measured.cells)
            if names[at] == name
            and all(getattr(cell, part) in of for part, of in zip(PARTS, known, strict=True))
        ]
        yield name, rest, places


def leave_out(
    measured: Measured,
    kind: LeaveOut,
    whole: Fit | None = None,
    step: Callable[[float], None] = lambda _share: None,
) -> LeftOut | None:
    """Leave each group out in turn; None where nothing can be predicted. `whole` is the fit of all,
    where to start to look; `step` hears the share that is done.
    """
    cells = measured.cells
    errors: list[float] = []
    by_ratio: list[float] = []
    hits = groups = 0
    many = len(set(map(KEYS[kind], cells)))
    for number, (_, rest, places) in enumerate(parted(measured, kind)):
        step(number / many)
        out = [cells[at] for at in places]
        if not out:
            continue
        try:
            fit = fit_limits(rest, whole, step=partial(step, number / many))
        except TooLittle:
            continue
        rate, low, high = fit.predict(
            fit.places_for(out, measured.links), np.array([cell.noise for cell in out])
        )
        actual = np.array([cell.average_fps for cell in out])
        errors += list(np.abs(rate / actual - 1.0))
        by_ratio += list(np.abs(_scaled(rest, out) / actual - 1.0))
        hits += int(np.sum((low <= actual) & (actual <= high)))
        groups += 1
    if not errors:
        return None
    return LeftOut(
        kind=kind,
        groups=groups,
        cells=len(errors),
        median_error=float(np.median(errors)),
        p90_error=float(np.quantile(errors, 0.9)),
        interval_hits=hits / len(errors),
        ratio_error=float(np.median(by_ratio)),
    )


def _scaled(rest: Measured, out: list[Cell]) -> FloatArray:
    """The naive prediction: the case's mean rate on the other rigs, scaled by how the rig's own
    link and card do on average; for an unseen rig its case means alone.
    """
    by_case: dict[str, list[float]] = {}
    for cell in rest.cells:
        by_case.setdefault(cell.case, []).append(np.log(cell.average_fps))
    overall = float(np.mean([np.log(cell.average_fps) for cell in rest.cells]))
    means = np.array([np.mean(by_case.get(cell.case, [overall])) for cell in out])
    # The best such a scaling can do: the one ratio that fits these very cells.
    actual = np.log([cell.average_fps for cell in out])
    return np.asarray(np.exp(means + np.median(actual - means)))
