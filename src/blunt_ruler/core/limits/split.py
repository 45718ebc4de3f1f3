"""Where the loss against the reference went: link, host, screen path, card, and what is left.

The change in log rate from reference to rig is shared out by averaging over all orders of
changing the parts (Shapley), then told in frames per second by the logarithmic mean of both
rates, so that the parts and the unexplained sum to the loss exactly.
"""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from itertools import combinations, permutations
from operator import attrgetter

import numpy as np

from blunt_ruler.core.compare.results import How, RigMean
from blunt_ruler.core.limits.cells import Cell
from blunt_ruler.core.limits.fit import Z_80, Fit
from blunt_ruler.core.limits.model import (
    CARD_SLOPE,
    DRIVER_SLOPE,
    HOST_SLOPE,
    LINK_SLOPE,
    log_rate,
    slopes_of,
)
from blunt_ruler.core.limits.solve import Slopes
from blunt_ruler.core.measure.kinds import MeanSchool
from blunt_ruler.core.measure.means import mean_ratio
from blunt_ruler.core.types import FloatArray

PARTS = ("link", "host", "screen", "card")
# What of a cell's places each part brings, and which columns of its slopes follow which part.
OF_PART = {
    "link": ("link", "latency_ms", "bandwidth", "link_spread"),
    "host": ("host",),
    "screen": ("sent_back_mb",),
    "card": ("card", "driver_drift"),
}
FOLLOWS = {HOST_SLOPE: "host", CARD_SLOPE: "card", LINK_SLOPE: "link", DRIVER_SLOPE: "card"}


@dataclass(frozen=True, slots=True)
class Part:
    """One part of a loss in frames per second (positive: lost), with 80 % bounds that are at
    least as wide as what its cell leaves unexplained.
    """

    fps: float
    low_fps: float
    high_fps: float


@dataclass(frozen=True, slots=True)
class LossSplit:
    """One cell's loss against the reference's cell of the same case."""

    rig: str
    case: str
    average_fps: float
    reference_fps: float
    parts: dict[str, Part]
    unexplained_fps: float

    @property
    def lost_fps(self) -> float:
        """Reference less rig; negative where the rig is faster."""
        return self.reference_fps - self.average_fps

    def share(self, part: str) -> float:
        """A part as a share of the reference's rate."""
        return self.parts[part].fps / self.reference_fps


def split_losses(fit: Fit, reference_rig: str) -> tuple[LossSplit, ...]:
    """Every measured cell against the reference's cell of its case, where there is one."""
    cells = fit.measured.cells
    reference = {cell.case: cell for cell in cells if cell.rig == reference_rig}
    pairs = [
        (cell, reference[cell.case])
        for cell in cells
        if cell.rig != reference_rig and cell.case in reference
    ]
    if not pairs:
        return ()
    middle, spread = _shapley(fit, pairs)
    # Any part may be off by what the cell leaves unexplained.
    left = [
        math.log(other.average_fps / cell.average_fps) - float(middle[:, index].sum())
        for index, (cell, other) in enumerate(pairs)
    ]
    found = []
    for index, (cell, other) in enumerate(pairs):
        a, r = cell.average_fps, other.average_fps
        scale = _logarithmic_mean(a, r)
        parts = {}
        for place, name in enumerate(PARTS):
            value, half = float(middle[place, index]), Z_80 * float(spread[place, index])
            half = math.hypot(half, left[index])
            parts[name] = Part(scale * value, scale * (value - half), scale * (value + half))
        explained = sum(part.fps for part in parts.values())
        found.append(LossSplit(cell.rig, cell.case, a, r, parts, (r - a) - explained))
    return tuple(found)


def _logarithmic_mean(a: float, r: float) -> float:
    """(r − a)/ln(r/a), r where they are the same: turns a log change into frames per second."""
    change = math.log(r / a)
    return r if abs(change) < 1e-9 else (r - a) / change


def _shapley(fit: Fit, pairs: Sequence[tuple[Cell, Cell]]) -> tuple[FloatArray, FloatArray]:
    """Log loss by part and pair, averaged over all orders, and its spread: shape (parts, pairs).

    A part is a mean of differences of log rates, so its slope is that of their slopes. Of the
    unknowns that a pair knows, some are the reference's or the rig's, by the parts that are
    changed; the columns of the rig's stand behind those of the reference.
    """
    rig, reference = (fit.places_for([pair[side] for pair in pairs], {}) for side in (0, 1))
    own = slopes_of(fit.x, rig).at[:, [*FOLLOWS]]
    at = np.concatenate([slopes_of(fit.x, reference).at, own], axis=1)
    width = at.shape[1]
    worth: dict[frozenset[str], tuple[FloatArray, FloatArray]] = {}
    for size in range(len(PARTS) + 1):
        for chosen in map(frozenset, combinations(PARTS, size)):
            taken = {name: getattr(rig, name) for part in chosen for name in OF_PART[part]}
            places = replace(reference, **taken)
            columns = np.arange(width - len(FOLLOWS))
            for place, (column, part) in enumerate(FOLLOWS.items()):
                if part in chosen:
                    columns[column] = width - len(FOLLOWS) + place
            slopes = np.zeros(at.shape)
            slopes[:, columns] = slopes_of(fit.x, places).values
            worth[chosen] = log_rate(fit.x, places), slopes
    value = np.zeros((len(PARTS), len(pairs)))
    slope = np.zeros((len(PARTS), *at.shape))
    orders = list(permutations(range(len(PARTS))))
    for order in orders:
        done: frozenset[str] = frozenset()
        for place in order:
            then = done | {PARTS[place]}
            value[place] += (worth[done][0] - worth[then][0]) / len(orders)
            slope[place] += (worth[done][1] - worth[then][1]) / len(orders)
            done = then
    variances = [Slopes(at, one, fit.x.size).variances(fit.covariance) for one in slope]
    return value, np.sqrt(np.maximum(variances, 0.0))


def over_review(
    splits: Sequence[LossSplit],
    rig: str,
    mean: RigMean | None = None,
    how: How = How(),
    of: Callable[[Part], float] = attrgetter("fps"),
) -> dict[str, float]:
    """A rig's mean loss by part, as shares of the reference's rate, the unexplained last; or,
    where `of` takes an end of each part, how far it may reach: what one cell has wrong all have.

    It is the split of that very mean: its school, weights and cases, so the parts add up to
    1 − ratio; what a case without a split lost is unexplained. Without a mean that of all splits.
    """
    own = {one.case: one for one in splits if one.rig == rig}
    cases = list(own) if mean is None else mean.case_ids
    found = [own[case] for case in cases if case in own]
    if not found:
        return {}
    tested = np.array([one.average_fps for one in found])
    other = np.array([one.reference_fps for one in found])
    weights = np.array([how.weights.get(one.case, 1.0) for one in found])
    ratio = mean_ratio(how.mean, tested, other, weights)
    assert ratio is not None
    each = _pulls(how.mean, tested, other, weights, ratio)
    shares = {name: float(np.sum(each * [of(one.parts[name]) for one in found])) for name in PARTS}
    whole = 1.0 - (ratio if mean is None else mean.ratio)
    return {**shares, "unexplained": whole - sum(shares.values())}


def _pulls(
    school: MeanSchool, tested: FloatArray, other: FloatArray, weights: FloatArray, ratio: float
) -> FloatArray:
    """What a frame per second lost in each case adds to 1 − mean ratio; times the losses they sum
    to it exactly.
    """
    match school:
        case MeanSchool.GEOMETRIC:
            scale = np.array([_logarithmic_mean(a, r) for a, r in zip(tested, other, strict=True)])
            return np.asarray(_logarithmic_mean(ratio, 1.0) * weights / weights.sum() / scale)
        case MeanSchool.RATE:
            return np.asarray(weights / (weights * other).sum())
        case MeanSchool.PERCENT:
            return np.asarray(weights / other / weights.sum())
        case MeanSchool.HARMONIC:
            return np.asarray(weights / (tested * other) / (weights / tested).sum())
