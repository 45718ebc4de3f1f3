"""How sure a difference is: Student and Welch within cells, Student over titles across them.

Everything is on the log of the rate, where ratios are differences. Intervals are 95 %. Three passes
say little of a cell's own spread, so its variance is drawn toward that of the review's other cells:
moderated, by the empirical Bayes of G. K. Smyth (2004, Statistical Applications in Genetics and
Molecular Biology 3:3), as limma does it for genes.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from blunt_ruler.core.measure.kinds import MeanSchool
from blunt_ruler.core.measure.means import ratio_of, sums_of
from blunt_ruler.core.measure.reading import NORMAL
from blunt_ruler.core.measure.robust_line import root
from blunt_ruler.core.measure.special import chdtrc, digamma, fdtrc, stdtrit, trigamma
from blunt_ruler.core.plan.repeats_needed import ASSUMED_SPREAD, repeats_needed
from blunt_ruler.core.types import BoolArray, FloatArray, IntArray

COVERAGE = 0.95
FEWEST_TITLES = 3
FEWEST_CELLS = 4  # with repeats, to tell how much cells differ in their spread
LEAST_SPREAD = 0.002  # rates are written to a tenth of a frame; common practice, no source
ROUNDING = 1e-6  # less is no spread at all
FAR_APART = 5.0  # times the middle spread: no cell like the others
RESTLESS = 0.01  # a cell whose spread is less likely than that keeps its own
DETECTION = 2.80  # standard errors that a power of 80 % takes at 5 %: 1.96 + 0.84
MOST_REPEATS = 50
FREEDOM_ASSUMED = 4.0  # what 2 % is worth beside a few repeats: one pair knows less than it
LONGEST_ARM = 1.55  # by simulation: skewed titles are covered 90 % and more, others under 97 %


@dataclass(frozen=True, slots=True)
class Prior:
    """What the cells of a review tell of any cell's spread before its own repeats are seen.

    `freedom` is how many degrees of freedom that is worth: infinite where all spread alike, 0
    where too few cells have repeats. `pooled` is the freedom of all repeats together.
    """

    spread: float
    freedom: float
    pooled: float


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


def spread_of(rates: Sequence[float]) -> float | None:
    """The standard deviation of log rates as seen; None for a single run."""
    if len(rates) < 2:
        return None
    logs = [math.log(rate) for rate in rates]
    middle = math.fsum(logs) / len(logs)
    return math.sqrt(math.fsum((one - middle) ** 2 for one in logs) / (len(logs) - 1))


def prior_of(cells: Sequence[Sequence[float]]) -> Prior:
    """The prior of a review from the rates of its cells: see `prior_from`."""
    spreads = [np.nan if (seen := spread_of(rates)) is None else seen for rates in cells]
    return prior_from(np.array(spreads), np.array([len(rates) for rates in cells]))


def prior_from(seen: FloatArray, runs: FloatArray) -> Prior:
    """The prior of a review from its cells, shape (k,) each: spreads as seen, nan of a single run,
    and how many runs.

    s₀² and d₀ by the moments of log s² (Smyth 2004, section 6.2); cells that spread over five times
    as much as the middle one, or not at all, are left out of it. Where that leaves fewer than four
    cells the pooled spread, and where nothing was repeated 2 %, which is taken as known.
    """
    repeated = runs > 1
    if not repeated.any():
        return Prior(ASSUMED_SPREAD, math.inf, math.inf)
    spreads, freedoms = seen[repeated], runs[repeated] - 1.0
    pooled = float(freedoms.sum())
    told = spreads > ROUNDING
    calm = told & (spreads <= FAR_APART * np.median(spreads[told])) if told.any() else told
    if calm.sum() < FEWEST_CELLS:
        return _prior(math.sqrt(float((freedoms * spreads**2).sum()) / pooled), 0.0, pooled)
    return _moments(spreads[calm] ** 2, freedoms[calm], pooled)


def _prior(spread: float, freedom: float, pooled: float) -> Prior:
    """Where every cell says the same of all its passes, that is not certain either."""
    return Prior(max(spread, LEAST_SPREAD), freedom, pooled)


def toward_assumed(prior: Prior) -> Prior:
    """The prior of figures by eye: where few cells have repeats, drawn toward 2 %, which is worth
    four degrees of freedom here. One pair that says the same twice makes nothing certain.
    """
    if prior.freedom > 0:
        return prior
    pooled = FREEDOM_ASSUMED + prior.pooled
    both = FREEDOM_ASSUMED * ASSUMED_SPREAD**2 + prior.pooled * prior.spread**2
    return Prior(math.sqrt(both / pooled), 0.0, pooled)


def _moments(variances: FloatArray, freedoms: FloatArray, pooled: float) -> Prior:
    half = freedoms / 2.0
    logs = np.log(variances) - digamma(half) + np.log(half)
    beyond = float(logs.var(ddof=1)) - float(trigamma(half).mean())
    if beyond <= 0:
        return _prior(math.exp(float(logs.mean()) / 2.0), math.inf, pooled)
    half_prior = _inverse_trigamma(beyond)
    log_spread2 = float(logs.mean()) + float(digamma(half_prior)) - math.log(half_prior)
    return _prior(math.exp(log_spread2 / 2.0), 2.0 * half_prior, pooled)


def _inverse_trigamma(value: float) -> float:
    # ψ′(x) lies between 1/x and 1/x + 1/x², so the root is bracketed.
    low, high = 0.5 / value if value < 1 else 0.5 / math.sqrt(value), 2.0 + 2.0 / value
    return root(lambda x: float(trigamma(x)) - value, low, high)


def _restless(variances: FloatArray, freedoms: FloatArray, prior: Prior) -> BoolArray:
    """Whether cells spread more than the others would let one expect."""
    ratios = variances / prior.spread**2
    if math.isinf(prior.freedom):
        return np.asarray(chdtrc(freedoms, freedoms * ratios) < RESTLESS)
    return np.asarray(fdtrc(freedoms, prior.freedom, ratios) < RESTLESS)


def sample_of(rates: Sequence[float], prior: Prior) -> Sample:
    """One cell's repeats: see `samples_from`."""
    seen = spread_of(rates)
    found = samples_from(
        np.array([np.nan if seen is None else seen]), np.array([float(len(rates))]), prior
    )
    return Sample(len(rates), float(found[0][0]), float(found[1][0]))


def samples_from(seen: FloatArray, runs: FloatArray, prior: Prior) -> tuple[FloatArray, FloatArray]:
    """(spreads, freedoms) of cells, shape (k,): their variance moderated, (d₀s₀² + ds²) / (d₀ + d)
    on d₀ + d degrees. Takes spreads as seen, nan of a single run, and how many runs.

    A single run has the prior's spread alone; a cell that spreads far more than the others keeps
    its own. No cell has more freedom than all repeats together.
    """
    single = runs < 2
    freedoms = np.where(single, 1.0, runs - 1.0)
    own = np.maximum(np.where(single, 0.0, seen), LEAST_SPREAD) ** 2
    if prior.freedom == 0:
        spread, freedom = np.sqrt(own), freedoms
    else:
        if math.isinf(prior.freedom):
            spread = np.full(own.shape, prior.spread)
            freedom = np.full(own.shape, prior.pooled)
        else:
            total = prior.freedom + freedoms
            moderated = (prior.freedom * prior.spread**2 + freedoms * own) / total
            spread, freedom = np.sqrt(moderated), np.minimum(total, prior.pooled)
        alone = _restless(own, freedoms, prior)
        spread = np.where(alone, np.sqrt(own), spread)
        freedom = np.where(alone, freedoms, freedom)
    spread = np.where(single, prior.spread, spread)
    freedom = np.where(single, min(prior.freedom or prior.pooled, prior.pooled), freedom)
    return spread, freedom


def with_error(sample: Sample, reading: tuple[float, float]) -> Sample:
    """The same cell where its passes were not read exactly: (Σv/n², freedom) of their readings.

    The variance is s²/n + Σv/n², the freedom such that the half-widths of both add up as squares:
    the whole is never surer than a part. The readings' own errors are seen in the repeats too, so
    that this errs to the wide side.
    """
    variance, freedom = reading
    if variance == 0.0:
        return sample
    own = sample.variance
    whole = own + variance
    reach2 = own * quantile_of(sample.freedom) ** 2 + variance * quantile_of(freedom) ** 2
    reach = math.sqrt(reach2 / whole)
    return Sample(sample.runs, math.sqrt(whole * sample.runs), _freedom_with(reach))


@lru_cache(maxsize=4096)
def _freedom_with(quantile: float) -> float:
    """The freedom whose 97.5 % quantile is given; infinite for the normal one."""
    if quantile <= NORMAL + 1e-4:
        return math.inf
    return root(lambda freedom: quantile_of(freedom) - quantile, 0.05, 1e7)


def half_width(sample: Sample) -> float:
    """t₀.₉₇₅ · s/√n: half of Student's interval of a cell's mean log rate."""
    return math.sqrt(sample.variance) * quantile_of(sample.freedom)


@lru_cache(maxsize=4096)
def quantile_of(freedom: float) -> float:
    """Student's two-sided quantile at 95 %; the normal one for infinite freedom."""
    return NORMAL if math.isinf(freedom) else float(stdtrit(freedom, 0.5 + COVERAGE / 2))


def welch(one: Sample, other: Sample) -> tuple[float, float]:
    """(standard error of the difference of log rates, its freedom by Welch and Satterthwaite)."""
    mine, theirs = one.variance, other.variance
    below = mine**2 / one.freedom + theirs**2 / other.freedom
    return math.sqrt(mine + theirs), (mine + theirs) ** 2 / below if below > 0 else math.inf


def ratio_interval(ratio: float, one: Sample, other: Sample, days: float = 0.0) -> Interval:
    """Welch's interval of a ratio of two cells; `days` is the variance of what their days do to
    both rigs, which is known, as far as passes tell.
    """
    error, freedom = welch(one, other)
    whole = error**2 + days
    if error > 0.0:
        freedom *= (whole / error**2) ** 2
    half = math.sqrt(whole) * quantile_of(freedom)
    return Interval(ratio * math.exp(-half), ratio * math.exp(half), "repeats, Welch")


def more_repeats(ratio: float, one: Sample, other: Sample, days: float = 0.0) -> int | None:
    """How many more repeats on each side would show a difference of this size; None for over 50,
    and where the `days` alone leave it open, whose variance no pass makes smaller.

    The spread is the larger of the two cells'.
    """
    left = math.log(ratio) ** 2 - DETECTION**2 * days
    difference = math.sqrt(max(left, 0.0))
    spread = max(one.spread, other.spread)
    if difference == 0.0 or spread == 0.0:
        return None if difference == 0.0 else 1
    needed = repeats_needed(difference, spread)
    more = max(needed - min(one.runs, other.runs), 1)
    return more if more <= MOST_REPEATS else None


def mean_ratio_interval(
    school: MeanSchool,
    titles: IntArray | Sequence[str],
    tested: FloatArray,
    base: FloatArray,
    weights: FloatArray,
    these: tuple[float, float],
) -> Interval | None:
    """Interval of a mean ratio over cases, shape (k,) each: which title, rates, weights; and the
    (standard error, freedom) that repeats and days leave open of `these` very titles.

    From three titles on Student's t over titles, on the log of the mean: its error is that of the
    jackknife, each title left out in turn (for a geometric mean of titles that weigh the same, that
    of their log ratios), and at least what repeats and days leave open. Below that t on these
    alone, which says nothing of other titles. None for no case.
    """
    if tested.size == 0:
        return None
    upper, lower = sums_of(school, tested, base, weights)
    ratio = float(ratio_of(school, upper.sum(), lower.sum()))
    error, freedom = these
    names, place = np.unique(np.asarray(titles), return_inverse=True)
    if len(names) < FEWEST_TITLES:
        below = above = quantile_of(freedom)
        basis = "repeats and days"
    else:
        sums = np.array([np.bincount(place, upper), np.bincount(place, lower)])
        without = np.log(ratio_of(school, sums[0].sum() - sums[0], sums[1].sum() - sums[1]))
        pulls = without.mean() - without  # how each title pulls the log of the mean
        count = len(names)
        error = max(error, math.sqrt((count - 1) / count * float((pulls**2).sum())))
        below, above = _arms(pulls)
        basis = f"Student's t over {count} titles"
    return Interval(ratio * math.exp(-below * error), ratio * math.exp(above * error), basis)


def _arms(pulls: FloatArray) -> tuple[float, float]:
    """How far Student's interval reaches down and up, in errors: t, longer where titles are skewed.

    Hall's cubic transformation (1992, J. R. Statist. Soc. B 54: 221–228) says by how much; since
    few titles tell little of their skewness, an arm is no shorter and at most 1.55 times as long.
    """
    count = pulls.size
    reach = quantile_of(count - 1.0)
    scale = float(pulls.std())
    if scale == 0.0:
        return reach, reach
    skew = float((pulls**3).mean()) / scale**3 * math.sqrt(count * (count - 1)) / (count - 2)
    bend = skew / math.sqrt(count)
    if abs(bend) < 1e-6:
        return reach, reach

    def arm(t: float) -> float:
        return float(3.0 / bend * (np.cbrt(1.0 + bend * (t - bend / 6.0)) - 1.0))

    below, above = arm(reach), -arm(-reach)
    return (
        min(max(below, reach), LONGEST_ARM * reach),
        min(max(above, reach), LONGEST_ARM * reach),
    )
