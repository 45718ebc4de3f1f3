"""Theil and Sen's slope, and roots by halving, against scipy."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from scipy.optimize import brentq
from scipy.stats import theilslopes

from blunt_ruler.core.measure.robust_line import median_of, quantile_of, root, theil_sen

LEVELS = st.integers(-50, 50).map(float)  # ties are many


@given(st.integers(2, 40).flatmap(lambda n: st.tuples(*(arrays(float, n, elements=LEVELS),) * 2)))
def test_slope_and_interval_are_scipys(points):
    y, x = points
    if np.unique(x).size < 2:
        return
    ours = theil_sen(y, x)
    with np.errstate(invalid="ignore"):
        theirs = theilslopes(y, x)
    if np.isnan(theirs.low_slope):  # ties of both are more than Sen's formula can take
        assert ours.low <= ours.slope <= ours.high
        return
    assert ours.slope == pytest.approx(theirs.slope, abs=1e-12)
    assert (ours.low, ours.high) == pytest.approx((theirs.low_slope, theirs.high_slope), abs=1e-12)


@given(arrays(float, st.integers(1, 60), elements=st.floats(-1e6, 1e6)), st.floats(0.0, 1.0))
def test_medians_and_quantiles_are_numpys(values, share):
    assert median_of(values) == pytest.approx(np.median(values))
    theirs = np.quantile(values, share)
    assert quantile_of(np.sort(values), share) == pytest.approx(theirs, rel=1e-12, abs=1e-6)


def test_one_wild_point_does_not_bend_it():
    x = np.arange(30.0)
    y = 0.5 * x
    y[7] = 1000.0
    assert theil_sen(y, x).slope == pytest.approx(0.5)


@pytest.mark.parametrize(
    ("of", "low", "high"),
    [
        (math.cos, 0.0, 3.0),
        (lambda x: x**3 - 2.0, 0.0, 50.0),
        (lambda x: 1.0 / x - 1e-6, 1e-3, 1e9),
        (lambda x: math.exp(-x) - 0.2, 0.0, 700.0),
    ],
)
def test_a_root_is_where_scipy_finds_it(of, low, high):
    assert root(of, low, high) == pytest.approx(brentq(of, low, high, xtol=1e-14), rel=1e-9)
