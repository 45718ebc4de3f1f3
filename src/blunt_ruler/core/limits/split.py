"""Where the loss against the reference went: link, host, screen path, card, and what is left.

The change in log rate from reference to rig is shared out by averaging over all orders of
changing the parts (Shapley), then told in frames per second by the logarithmic mean of both
rates, so that the parts and the unexplained sum to the loss exactly.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import combinations

import numpy as np

from blunt_ruler.core.compare.results import How, RigMean
from blunt_ruler.core.limits.fit import Z_80, Fit
from blunt_ruler.core.limits.model import (
    CARD_SLOPE,
    DRIVER_SLOPE,
    HOST_SLOPE,
    LINK_SLOPE,
    log_rate,
    slopes_of,
    times_of,
)
from blunt_ruler.core.limits.solve import Known, Slopes
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


MIDDLE, LOW, HIGH = range(3)  # of the numbers of a part


@dataclass(frozen=True, slots=True)
class Part:
    """One part of a loss in frames per second (positive: lost), with 80 % bounds that are at
    least as wide as what its cell leaves unexplained, and its share of the model's scatter.
    """

    fps: float
    low_fps: float
    high_fps: float


@dataclass(frozen=True, slots=True)
class LossSplit:
    """One cell's loss against the reference's cell of the same case; `ends` are the numbers of
    each part, in the order of PARTS.
    """

    rig: str
    case: str
    average_fps: float
    reference_fps: float
    ends: Sequence[Sequence[float]]
    unexplained_fps: float

    @property
    def parts(self) -> dict[str, Part]:
        """What each part took."""
        return {name: Part(*ends) for name, ends in zip(PARTS, self.ends, strict=True)}

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
    reference = {cell.case: at for at, cell in enumerate(cells) if cell.rig == reference_rig}
    pairs = [
        (at, reference[cell.case])
        for at, cell in enumerate(cells)
        if cell.rig != reference_rig and cell.case in reference
    ]
    if not pairs:
        return ()
    own, other = np.array(pairs).T
    middle, spread = _shapley(fit, own, other)
    rates = np.array([cell.average_fps for cell in cells])
    a, r = rates[own], rates[other]
    # Any part may be off by what the cell leaves unexplained, and by its share of what the model is
    # off by: parted evenly it is the scatter over the root of their number.
    model = Z_80 * fit.scatter / math.sqrt(len(PARTS))
    half = np.hypot(np.hypot(Z_80 * spread, model), np.log(r / a) - middle.sum(axis=0))
    each = _logarithmic_mean(a, r) * np.stack([middle, middle - half, middle + half])
    left = (r - a) - each[0].sum(axis=0)
    of_pairs = zip(pairs, a.tolist(), r.tolist(), each.T.tolist(), left.tolist(), strict=True)
    return tuple(
        LossSplit(cells[at].rig, cells[at].case, own_fps, other_fps, ends, unexplained)
        for (at, _), own_fps, other_fps, ends, unexplained in of_pairs
    )


def _logarithmic_mean(a: FloatArray, r: FloatArray) -> FloatArray:
    """(r − a)/ln(r/a), r where they are the same: turns a log change into frames per second."""
    change = np.log(r / a)
    same = np.abs(change) < 1e-9
    return np.asarray(np.where(same, r, (r - a) / np.where(same, 1.0, change)))


def _shapley(fit: Fit, own: np.ndarray, other: np.ndarray) -> tuple[FloatArray, FloatArray]:
    """Log loss by part and pair, averaged over all orders, and its spread: shape (parts, pairs).

    `own` and `other` are the places of each pair's cells in the fit, rig and reference.
    A part is a mean of differences of log rates, so its slope is that of their slopes. Of the
    unknowns that a pair knows, some are the reference's or the rig's, by the parts that are
    changed; the columns of the rig's stand behind those of the reference.
    """
    rig, reference = fit.places.taken(own), fit.places.taken(other)
    columns = [*FOLLOWS]
    rates, slopes, of_rig = [], [], []
    for chosen in CHOICES:
        taken = {name: getattr(rig, name) for part in chosen for name in OF_PART[part]}
        places = replace(reference, **taken)
        times = times_of(fit.x, places)
        rates.append(log_rate(fit.x, places, times))
        slopes.append(slopes_of(fit.x, places, times).values.T)
        of_rig.append([FOLLOWS.get(column) in chosen for column in range(len(slopes[-1]))])
    # Column by column (what each choice counts in each part, shape (parts, choices)) @ (its
    # slopes, shape (choices, pairs)).
    each = np.stack(slopes, axis=1)
    theirs = np.where(np.transpose(of_rig)[:, None], COUNTS, 0.0)
    slope = np.concatenate([(COUNTS - theirs) @ each, theirs[columns] @ each[columns]])
    at = np.concatenate([reference.known.at, rig.known.at[:, columns]], axis=1)
    found = Slopes(Known(at, fit.x.size), slope.transpose(1, 2, 0))
    return COUNTS @ rates, np.sqrt(np.maximum(found.variances(fit.covariance), 0.0))


CHOICES = tuple(
    frozenset(chosen) for size in range(len(PARTS) + 1) for chosen in combinations(PARTS, size)
)


def _count(part: str, chosen: frozenset[str]) -> float:
    """What the rate with some parts changed counts in a part's share: with it and without it by
    the share of all orders in which just the others of these are changed before it.
    """
    before = len(chosen - {part})
    share = 1.0 / (len(PARTS) * math.comb(len(PARTS) - 1, before))
    return -share if part in chosen else share


COUNTS = np.array([[_count(part, chosen) for chosen in CHOICES] for part in PARTS])


def over_review(
    splits: Sequence[LossSplit],
    rig: str,
    mean: RigMean | None = None,
    how: How = How(),
    end: int = MIDDLE,
) -> dict[str, float]:
    """A rig's mean loss by part, as shares of the reference's rate, the unexplained last; or,
    where `end` is LOW or HIGH, how far it may reach: what one cell has wrong all have.

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
    lost = np.array([one.ends for one in found])[:, :, end]  # by case and part
    shares = dict(zip(PARTS, (each @ lost).tolist(), strict=True))
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
            scale = _logarithmic_mean(tested, other)
            whole = _logarithmic_mean(np.array(ratio), np.array(1.0))
            return np.asarray(whole * weights / weights.sum() / scale)
        case MeanSchool.RATE:
            return np.asarray(weights / (weights * other).sum())
        case MeanSchool.PERCENT:
            return np.asarray(weights / other / weights.sum())
        case MeanSchool.HARMONIC:
            return np.asarray(weights / (tested * other) / (weights / tested).sum())
