"""Money against numpy-financial and scipy, and against the definitions themselves."""

import numpy as np
import numpy_financial as npf
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import brentq

from blunt_ruler.core.worth.money import (
    PRICE_CHANGES,
    efficient,
    energy_kwh_per_year,
    level_price,
    monthly,
    per_frame_at,
    sensitivity,
)

prices = st.floats(1.0, 10_000.0)
frames = st.floats(1.0, 1000.0)
shops = st.dictionaries(
    st.sampled_from("abcdefg"),
    st.tuples(st.integers(0, 20).map(float), st.integers(1, 20).map(float)),
    min_size=1,
)


@given(prices, st.floats(0.5, 20.0), st.floats(1e-4, 0.5))
def test_a_price_by_the_month_is_an_annuity(price, years, interest):
    # numpy-financial: payment at the end of each month.
    assert monthly(price, years, interest) == pytest.approx(
        -npf.pmt(interest / 12, years * 12, price)
    )


def test_without_interest_a_price_is_parted_evenly():
    assert monthly(480.0, 4.0, 0.0) == 10.0
    assert monthly(480.0, 4.0, 1e-9) == pytest.approx(10.0, rel=1e-6)


@given(prices, frames, frames)
def test_the_level_price_is_where_both_cost_the_same_for_each_frame(price, own, other):
    def apart(at):
        return at / own - price / other

    root = brentq(apart, 0.0, price * own / other * 4 + 1)  # scipy
    assert level_price(own, price, other) == pytest.approx(root, rel=1e-6)


@given(shops)
def test_the_efficient_set_is_what_nothing_beats(points):
    best = efficient(points)
    assert best, "something is always unbeaten"
    for name, (price, rate) in points.items():
        beaten = any(
            p <= price and f >= rate and (p, f) != (price, rate) for p, f in points.values()
        )
        assert (name in best) == (not beaten)


@given(shops)
def test_along_the_efficient_set_dearer_is_faster(points):
    stairs = sorted(points[name] for name in efficient(points))
    rates = [rate for _, rate in stairs]
    assert rates == sorted(rates)


def test_equal_points_are_both_kept():
    assert efficient({"a": (5.0, 5.0), "b": (5.0, 5.0), "c": (6.0, 5.0)}) == {"a", "b"}


@given(st.dictionaries(st.sampled_from("abc"), st.tuples(prices, frames), min_size=2))
def test_at_its_turning_price_a_rig_costs_as_much_as_the_next(points):
    for name in points:
        found = sensitivity(points, name)
        price, rate = points[name]
        change = found.rises_by if found.rises_by is not None else -found.falls_by
        other = points[found.other]
        assert price * (1 + change) / rate == pytest.approx(other[0] / other[1])
        cheapest = min(points, key=lambda key: points[key][0] / points[key][1])
        if found.rises_by is not None and found.rises_by > 1e-9:
            assert name == cheapest


def test_alone_or_free_a_rig_has_no_turning_price():
    assert sensitivity({"a": (5.0, 5.0)}, "a") is None
    assert sensitivity({"a": (0.0, 5.0), "b": (1.0, 1.0)}, "a") is None


def test_energy_by_hand():
    # 200 W for 10 h and 50 W for 20 h are 3 kWh a week, of which a year has 365.25 / 7.
    assert energy_kwh_per_year(200, 10, 50, 20) == pytest.approx(3 * 365.25 / 7)


def test_cost_for_each_frame_goes_with_the_price():
    moved = per_frame_at(100.0, 50.0)
    assert moved == pytest.approx(2.0 * (1 + np.array(PRICE_CHANGES)))
