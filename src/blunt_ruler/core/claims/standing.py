"""What may be said of one rig against another over these very titles, and with what right.

Everything is on the log of the ratio. A title's variance is that of passes and reading; what a day
does to a rig moves all its titles of that day together. A difference is CLEAR or SLIGHT where its
95 % interval excludes zero; LEVEL needs the 90 % interval inside the margin (two one-sided tests at
5 %: D. J. Schuirmann 1987, J. Pharmacokin. Biopharm. 15: 657–680); else it is OPEN.

Counts of titles are told behind a gate: d'Σ⁻¹d of all titles exceeds its 95 % point on n, so
that equal rigs are told apart in at most 5 % of reviews at any n. “In all n” needs every title
clear by its own interval, which is safe without a gate (intersection–union: R. L. Berger 1982,
Technometrics 24: 295–300).
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from blunt_ruler.core.compare.comparability import LEVEL_MARGIN
from blunt_ruler.core.compare.results import RigMean, Sittings, TitleRatio
from blunt_ruler.core.measure.kinds import Bound
from blunt_ruler.core.measure.special import fdtrc, stdtrit
from blunt_ruler.core.types import FloatArray

MARGIN = LEVEL_MARGIN
LOW_MARGIN = 0.05  # of lows
GATE = 0.05
FEWEST_LIKE = 6  # a sign test cannot reach 5 % below six titles
SIDES = 2.0  # of a title's freedom, which adds up that of both rigs
MOST_FREEDOM = 1e6


class Standing(StrEnum):
    """What may be said of a difference."""

    CLEAR = "clear"
    SLIGHT = "slight"
    LEVEL = "level"
    OPEN = "open"

    @property
    def is_sure(self) -> bool:
        """Whether the two are told apart."""
        return self in (Standing.CLEAR, Standing.SLIGHT)


@dataclass(frozen=True, slots=True)
class Estimate:
    """A ratio with two intervals at 95 %: of these titles, and of titles like these.

    None stands for an end that a bound leaves open, and for what too few titles leave unsaid.
    """

    ratio: float
    low: float | None
    high: float | None
    like_low: float | None = None
    like_high: float | None = None


@dataclass(frozen=True, slots=True)
class Counts:
    """How many titles stand each way; they add up to all."""

    clearly_ahead: int
    ahead: int
    level: int
    behind: int
    clearly_behind: int
    open: int

    @property
    def titles(self) -> int:
        """How many titles there are."""
        return self.every_ahead + self.level + self.every_behind + self.open

    @property
    def every_ahead(self) -> int:
        """Titles that are ahead, slightly or clearly."""
        return self.clearly_ahead + self.ahead

    @property
    def every_behind(self) -> int:
        """Titles that are behind, slightly or clearly."""
        return self.clearly_behind + self.behind


def arm(freedom: float, coverage: float = 0.95) -> float:
    """Student's two-sided quantile; the normal one for infinite freedom."""
    if math.isinf(freedom) or freedom > 1e6:
        freedom = 1e6
    return float(stdtrit(max(freedom, 1e-3), 0.5 + coverage / 2.0))


def standing_of(log_ratio: float, error: float, freedom: float, margin: float) -> Standing:
    """How a difference stands: its log, standard error and freedom, against a margin as a share."""
    reach, edge = arm(freedom) * error, math.log1p(margin)
    if abs(log_ratio) > reach:
        return Standing.CLEAR if abs(log_ratio) + reach > edge else Standing.SLIGHT
    narrow = arm(freedom, 0.90) * error
    return Standing.LEVEL if abs(log_ratio) + narrow < edge else Standing.OPEN


def of_bound(log_ratio: float, error: float, freedom: float, bound: Bound) -> Standing:
    """A bound is clear where it lies beyond zero on its own side; else it leaves things open."""
    beyond = log_ratio > 0 if bound is Bound.AT_LEAST else log_ratio < 0
    if bound in (Bound.AT_LEAST, Bound.AT_MOST) and beyond:
        return Standing.CLEAR if abs(log_ratio) > arm(freedom) * error else Standing.OPEN
    return Standing.OPEN


def mean_standing(mean: RigMean, margin: float) -> Standing:
    """How a mean over these titles stands."""
    log_ratio = math.log(mean.ratio)
    if mean.bound is not Bound.POINT:
        return of_bound(log_ratio, mean.these_error, mean.these_freedom, mean.bound)
    return standing_of(log_ratio, mean.these_error, mean.these_freedom, margin)


def estimate_of(mean: RigMean) -> Estimate:
    """A mean with both its intervals; titles like these from six titles on."""
    low, high = mean.these
    few = len(mean.over_titles) < FEWEST_LIKE
    if few or low is None or high is None or mean.low is None or mean.high is None:
        return Estimate(mean.ratio, low, high)
    return Estimate(mean.ratio, low, high, min(mean.low, low), max(mean.high, high))


def title_standing(one: TitleRatio, sittings: Sittings, margin: float) -> Standing:
    """How one title stands by its own interval."""
    _, error, freedom = over([one], sittings)
    if one.bound is not Bound.POINT:
        return of_bound(one.log_ratio, error, freedom, one.bound)
    return standing_of(one.log_ratio, error, freedom, margin)


def counts_of(titles: Sequence[TitleRatio], sittings: Sittings, margin: float) -> Counts | None:
    """How many titles stand each way; None where the gate is shut, or for a single title."""
    if len(titles) < 2:
        return None
    found = [(one, title_standing(one, sittings, margin)) for one in titles]

    def count(standing: Standing, sign: int = 0) -> int:
        return sum(own is standing and (not sign or sign * one.log_ratio > 0) for one, own in found)

    counts = Counts(
        clearly_ahead=count(Standing.CLEAR, 1),
        ahead=count(Standing.SLIGHT, 1),
        level=count(Standing.LEVEL),
        behind=count(Standing.SLIGHT, -1),
        clearly_behind=count(Standing.CLEAR, -1),
        open=count(Standing.OPEN),
    )
    if len(titles) in (counts.every_ahead, counts.every_behind) or told_apart(titles, sittings):
        return counts
    return None


def told_apart(titles: Sequence[TitleRatio], sittings: Sittings) -> bool:
    """The gate: whether the titles together differ from equal rigs.

    Variances are estimated, those of calm cells together: d'Σ⁻¹d / n is held against F on n and as
    many degrees as the least known side of a title has.
    """
    points = [one for one in titles if one.bound is Bound.POINT]
    if not points:
        return False
    d = np.array([one.log_ratio for one in points])
    covariance = np.diag([one.variance for one in points])
    covariance += sittings.sigma**2 * (
        _together([one.sittings for one in points])
        + _together([one.other_sittings for one in points])
    )
    covariance += np.eye(len(d)) * 1e-12
    form = float(d @ np.linalg.solve(covariance, d))
    freedom = min(min(one.freedom for one in points) / SIDES, MOST_FREEDOM)
    return bool(fdtrc(len(d), freedom, form / len(d)) < GATE)


def _together(sittings: Sequence[Sequence[tuple[str, float]]]) -> FloatArray:
    """W Wᵀ of the shares of each title in each day, shape (n, n)."""
    days = dict.fromkeys(day for one in sittings for day, _ in one)
    places = {day: place for place, day in enumerate(days)}
    shares = np.zeros((len(sittings), len(days)))
    for row, one in enumerate(sittings):
        for day, share in one:
            shares[row, places[day]] += share
    return np.asarray(shares @ shares.T)


def carried_by(mean: RigMean, margin: float) -> tuple[str, float, Standing] | None:
    """(title, mean ratio of the others, how they stand), where one title alone makes the mean.

    Without it the others are level or open, or lie on the other side. None under three titles.
    """
    points = [one for one in mean.titles if one.bound is Bound.POINT]
    if len(points) < 3 or mean.bound is not Bound.POINT:
        return None
    if not mean_standing(mean, margin).is_sure:
        return None
    carrier = max(points, key=lambda one: one.log_ratio * math.copysign(1.0, math.log(mean.ratio)))
    others = [one for one in points if one is not carrier]
    ratio, error, freedom = over(others, mean.sittings)
    standing = standing_of(ratio, error, freedom, margin)
    same_side = ratio * math.log(mean.ratio) > 0
    if standing.is_sure and same_side:
        return None
    if standing is Standing.OPEN and same_side and abs(ratio) > 0.5 * abs(math.log(mean.ratio)):
        return None  # less sure without it, but no other answer
    return carrier.title, math.exp(ratio), standing


def over(titles: Sequence[TitleRatio], sittings: Sittings) -> tuple[float, float, float]:
    """(mean log ratio, its standard error, freedom) over some titles, each once."""
    n = len(titles)
    own = math.fsum(one.variance for one in titles) / n**2
    below = math.fsum((one.variance / n**2) ** 2 / one.freedom for one in titles)
    shared = 0.0
    for of_side in ([one.sittings for one in titles], [one.other_sittings for one in titles]):
        days: dict[str, float] = {}
        for one in of_side:
            for day, share in one:
                days[day] = days.get(day, 0.0) + share / n
        shared += math.fsum(share**2 for share in days.values())
    whole = own + shared * sittings.sigma**2
    freedom = whole**2 / below if below > 0 else math.inf
    return math.fsum(one.log_ratio for one in titles) / n, math.sqrt(whole), freedom
