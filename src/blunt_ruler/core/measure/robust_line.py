"""Slopes, medians and roots that need no more than sorting and halving.

scipy has both, behind imports that take longer than a whole review; tests hold these against it.
"""

from collections.abc import Callable, Sequence
from typing import NamedTuple

import numpy as np

from blunt_ruler.core.types import FloatArray, IntArray

NORMAL = 1.959963984540054  # the normal's 97.5 % quantile
HALVINGS = 200
LONG_STRETCHES = 100  # values, from which on each by itself is quicker than sorting all at once


def median_of(values: FloatArray) -> float:
    """The median of finite values, shape (n,), n at least 1: as numpy's, without its detours."""
    half = values.size // 2
    if values.size % 2:
        return float(np.partition(values, half)[half])
    part = np.partition(values, (half - 1, half))
    return float(part[half - 1] + part[half]) / 2.0


def medians_of(values: FloatArray, starts: IntArray) -> FloatArray:
    """The medians of the stretches that begin at `starts`, shape (k,), each of one value or more;
    the last goes on to the end. `starts` begins with 0.
    """
    if values.size > LONG_STRETCHES * starts.size:
        return np.array([median_of(part) for part in np.split(values, starts[1:])])
    sizes = np.diff(starts, append=values.size)
    ascending = values[np.lexsort((values, np.repeat(np.arange(starts.size), sizes)))]
    return np.asarray(ascending[starts + (sizes - 1) // 2] + ascending[starts + sizes // 2]) / 2.0


class Slope(NamedTuple):
    """A slope with its 95 % interval."""

    slope: float
    low: float
    high: float


def theil_sen(y: FloatArray | Sequence[float], x: FloatArray | Sequence[float]) -> Slope:
    """The median of all slopes between two points, with Sen's interval (1968, equation 2.6).

    Shape (n,) each, n at least 2, not all x alike.
    """
    ys, xs = np.asarray(y, dtype=np.float64), np.asarray(x, dtype=np.float64)
    across = xs[:, None] - xs
    ahead = across > 0
    slopes = np.sort((ys[:, None] - ys)[ahead] / across[ahead])
    n = ys.size
    ties = sum(_tied(values) for values in (xs, ys))
    spread = np.sqrt((n * (n - 1) * (2 * n + 5) - ties) / 18.0)
    last = slopes.size - 1
    high = min(int(np.round((slopes.size + NORMAL * spread) / 2.0)), last)
    low = max(int(np.round((slopes.size - NORMAL * spread) / 2.0)) - 1, 0)
    return Slope(float(np.median(slopes)), float(slopes[low]), float(slopes[high]))


def _tied(values: FloatArray) -> float:
    counts = np.unique(values, return_counts=True)[1]
    return float(np.sum(counts * (counts - 1) * (2 * counts + 5)))


def root(of: Callable[[float], float], low: float, high: float) -> float:
    """Where a function that changes its sign once between two ends is nought, by halving."""
    below = of(low) < 0.0
    for _ in range(HALVINGS):
        middle = (low + high) / 2.0
        if middle in (low, high):
            break
        if (of(middle) < 0.0) == below:
            low = middle
        else:
            high = middle
    return (low + high) / 2.0
