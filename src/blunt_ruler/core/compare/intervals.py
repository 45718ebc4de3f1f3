"""How sure a difference is: Student and Welch within cases, a bootstrap over titles across them.

Everything is on the log of the rate, where ratios are differences. Intervals are 95 %.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import product

import numpy as np

from blunt_ruler.core.measure.means import MeanSchool, ratio_of, sums_of
from blunt_ruler.core.plan.repeats_needed import SpreadSeen, repeats_needed
from blunt_ruler.core.types import FloatArray

COVERAGE = 0.95
NORMAL = 1.959964  # z at 0.975
RESAMPLES = 5000
MOST_EXACT = 5  # titles; 5⁵ resamples are all of them
FEWEST_TITLES = 3
MOST_REPEATS = 50


@dataclass(frozen=True, slots=True)
class Sample:
    """The repeats of one cell: how many, and the spread of their log rate with its freedom."""

    runs: int
    spread: float
    freedom: float

    @property
    def variance(self) -> float:
        """s²/n: variance of the cell's mean log rate."""
        return self.spread**2 / self.runs


@dataclass(frozen=True, slots=True)
class Interval:
    """Bounds of a ratio; `basis` says what they rest on."""

    low: float
    high: float
    basis: str


def sample_of(rates: Sequence[float], pooled: SpreadSeen) -> Sample:
    """A cell's repeats; a single run borrows the review's pooled spread, 2 % where none is known.

    An assumed spread is taken as known: its freedom is infinite.
    """
    if len(rates) > 1:
        logs = np.log(np.asarray(rates, dtype=float))
        return Sample(len(rates), float(logs.std(ddof=1)), len(rates) - 1.0)
    freedom = math.inf if pooled.is_assumed else float(pooled.freedom)
    return Sample(1, pooled.spread, freedom)


def half_width(sample: Sample) -> float:
    """t₀.₉₇₅ · s/√n: half of Student's interval of a cell's mean log rate."""
    from scipy.special import stdtrit

    error = math.sqrt(sample.variance)
    return error * (NORMAL if math.isinf(sample.freedom) else float(stdtrit(sample.freedom, 0.975)))


def welch(one: Sample, other: Sample) -> tuple[float, float]:
    """(standard error of the difference of log rates, its freedom by Welch and Satterthwaite)."""
    a, b = one.variance, other.variance
    error = math.sqrt(a + b)
    if error == 0.0:
        return 0.0, math.inf
    below = (a**2 / one.freedom if a else 0.0) + (b**2 / other.freedom if b else 0.0)
    return error, (a + b) ** 2 / below if below > 0 else math.inf


def ratio_interval(ratio: float, one: Sample, other: Sample) -> Interval:
    """Welch's interval of a ratio of two cells."""
    from scipy.special import stdtrit

    error, freedom = welch(one, other)
    half = error * (NORMAL if math.isinf(freedom) else float(stdtrit(freedom, 0.975)))
    return Interval(ratio * math.exp(-half), ratio * math.exp(half), "repeats, Welch")


def more_repeats(ratio: float, one: Sample, other: Sample) -> int | None:
    """How many more repeats on each side would show a difference of this size; None for over 50.

    The spread is the larger of the two cells'.
    """
    difference = abs(math.log(ratio))
    spread = max(one.spread, other.spread)
    if difference == 0.0 or spread == 0.0:
        return None if difference == 0.0 else 1
    needed = repeats_needed(difference, spread)
    more = max(needed - min(one.runs, other.runs), 1)
    return more if more <= MOST_REPEATS else None


def mean_ratio_interval(
    school: MeanSchool,
    titles: Sequence[str],
    tested: FloatArray,
    base: FloatArray,
    weights: FloatArray,
    errors: FloatArray,
    seed: int,
) -> Interval | None:
    """Interval of a mean ratio over cases, shape (k,) each: which title, rates, weights, and the
    standard error of each log ratio.

    From three titles on a percentile bootstrap over titles, exact up to five of them; below that
    what the repeats alone leave open, which says nothing of other titles. None for no case.
    """
    if tested.size == 0:
        return None
    upper, lower = sums_of(school, tested, base, weights)
    names = list(dict.fromkeys(titles))
    if len(names) < FEWEST_TITLES:
        ratio = float(ratio_of(school, upper.sum(), lower.sum()))
        share = weights / weights.sum()
        half = NORMAL * float(np.sqrt(np.sum((share * errors) ** 2)))
        return Interval(ratio * math.exp(-half), ratio * math.exp(half), "repeats only")
    place = np.array([names.index(title) for title in titles])
    of_title = np.zeros((len(names), 2))
    np.add.at(of_title[:, 0], place, upper)
    np.add.at(of_title[:, 1], place, lower)
    sums = resampled_sums(of_title, seed)
    ratios = ratio_of(school, sums[:, 0], sums[:, 1])
    low, high = np.quantile(ratios, ((1 - COVERAGE) / 2, (1 + COVERAGE) / 2))
    return Interval(float(low), float(high), f"bootstrap over {len(names)} titles")


def resampled_sums(values: FloatArray, seed: int) -> FloatArray:
    """Sums over resamples with replacement of the rows of `values`, shape (n, m): all nⁿ of them
    up to five rows, else 5,000 drawn by the seed. Shape (resamples, m).
    """
    return times_drawn(values.shape[0], seed) @ values


@lru_cache(maxsize=8)
def times_drawn(n: int, seed: int) -> FloatArray:
    """How often each of n rows is in each resample, shape (resamples, n); every mean of a Board
    uses the same ones.
    """
    if n <= MOST_EXACT:
        index = np.array(list(product(range(n), repeat=n)))
    else:
        index = np.random.default_rng(seed).integers(0, n, (RESAMPLES, n))
    flat = index + np.arange(index.shape[0])[:, None] * n
    counts = np.bincount(flat.ravel(), minlength=index.shape[0] * n)
    return np.asarray(counts.reshape(index.shape[0], n), dtype=np.float64)
