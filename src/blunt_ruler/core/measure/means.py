"""Means across cases, in four schools; each is named wherever its figure is printed.

They answer different questions and differ on the same data, so no function guesses a school.
Rates are in frames per second, shape (k,), tested and base of the same k cases; weights above 0.
"""

import math
from collections.abc import Sequence

import numpy as np

from blunt_ruler.core.errors import BadFigure
from blunt_ruler.core.measure.kinds import MeanSchool
from blunt_ruler.core.types import FloatArray


def sums_of(
    school: MeanSchool, tested: FloatArray, base: FloatArray, weights: FloatArray
) -> tuple[FloatArray, FloatArray]:
    """What each case adds to the two sums that `ratio_of` makes a mean of; shape (k,) each."""
    match school:
        case MeanSchool.GEOMETRIC:
            return weights * np.log(tested / base), weights
        case MeanSchool.RATE:
            return weights * tested, weights * base
        case MeanSchool.PERCENT:
            return weights * tested / base, weights
        case MeanSchool.HARMONIC:
            return weights / base, weights / tested


def ratio_of(school: MeanSchool, upper: FloatArray, lower: FloatArray) -> FloatArray:
    """upper / lower of summed contributions, or exp of it for logs; shapes follow one another."""
    mean = upper / lower
    return np.exp(mean) if school is MeanSchool.GEOMETRIC else mean


def pulls_on_mean(
    school: MeanSchool, tested: FloatArray, base: FloatArray, weights: FloatArray
) -> tuple[FloatArray, FloatArray]:
    """How the log of the mean moves with the log of each rate, shape (k,) each: ∂ ln m / ∂ ln a and
    −∂ ln m / ∂ ln b; both sum to 1.
    """
    match school:
        case MeanSchool.GEOMETRIC:
            on_tested = on_base = weights
        case MeanSchool.RATE:
            on_tested, on_base = weights * tested, weights * base
        case MeanSchool.PERCENT:
            on_tested = on_base = weights * tested / base
        case MeanSchool.HARMONIC:
            on_tested, on_base = weights / tested, weights / base
    return on_tested / on_tested.sum(), on_base / on_base.sum()


def mean_ratio(
    school: MeanSchool,
    tested: Sequence[float] | FloatArray,
    base: Sequence[float] | FloatArray,
    weights: Sequence[float] | FloatArray | None = None,
) -> float | None:
    """Tested over base across cases by one school; None for no case.

    gain is this − 1 over the base; loss is 1 − this against the reference.
    """
    a, b = np.asarray(tested, dtype=float), np.asarray(base, dtype=float)
    if a.size == 0:
        return None
    w = np.ones_like(a) if weights is None else np.asarray(weights, dtype=float)
    upper, lower = sums_of(school, a, b, w)
    return float(ratio_of(school, upper.sum(), lower.sum()))


def moved_most_by(
    school: MeanSchool, tested: FloatArray, base: FloatArray, weights: FloatArray
) -> tuple[int, float] | None:
    """(index of the case that moves the mean most, the mean ratio without it); None under two."""
    if tested.size < 2:
        return None
    upper, lower = sums_of(school, tested, base, weights)
    whole = ratio_of(school, upper.sum(), lower.sum())
    without = ratio_of(school, upper.sum() - upper, lower.sum() - lower)
    index = int(np.argmax(np.abs(np.log(without / whole))))
    return index, float(without[index])


def harmonic_mean(rates: Sequence[float]) -> float:
    """n / Σ(1/r): rates of passes of equal frames as one rate; at least one, all above 0."""
    for rate in rates:
        if not (math.isfinite(rate) and rate > 0):
            raise BadFigure("rate", f"{rate} is not a rate", "Give a finite number above 0")
    return len(rates) / math.fsum(1.0 / rate for rate in rates)
