"""Gains, losses and means against scipy, the standard library and the trade's worked figures."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from blunt_ruler.core.claims.standing import MARGIN, estimate_of, mean_standing
from blunt_ruler.core.compare.cell_parts import average_of_repeats, low_of_repeats
from blunt_ruler.core.compare.comparability import CellStanding, Standing
from blunt_ruler.core.compare.compare import (
    compare,
    faster_by,
    gain,
    loss,
    midpoint_difference,
)
from blunt_ruler.core.compare.results import How, Measurement
from blunt_ruler.core.errors import BadFigure, UnknownName

rates = st.floats(0.5, 2000.0, allow_nan=False)


def run(rig, case, fps, low=None, frames=None, seconds=None):
    return Measurement(rig, case, fps, low, frames, seconds)


# Common practice, no source: worked figures of the trade.
def test_38_to_61_is_a_gain_of_60_per_cent():
    assert gain(61, 38) == pytest.approx(0.605, abs=5e-4)


def test_a_loss_and_how_much_faster_the_reference_is_are_two_figures():
    assert loss(10_173, 11_355) == pytest.approx(0.104, abs=5e-4)
    assert faster_by(10_173, 11_355) == pytest.approx(0.116, abs=5e-4)


def test_three_averages_over_the_same_titles():
    assert loss(110, 153) == pytest.approx(0.28, abs=2e-3)


@given(rates, rates)
def test_gain_and_loss_turn_into_each_other(a, b):
    assert (1 + gain(a, b)) * (1 - loss(b, a)) == pytest.approx((1 + gain(a, b)) * (1 + gain(b, a)))
    assert faster_by(a, b) == pytest.approx(gain(b, a))
    assert loss(a, b) == pytest.approx(faster_by(a, b) / (1 + faster_by(a, b)))


@given(rates, rates)
def test_midpoint_difference_has_no_base(a, r):
    assert midpoint_difference(a, r) == pytest.approx(-midpoint_difference(r, a))
    assert abs(midpoint_difference(a, r)) < 2


def test_repeats_go_by_total_frames_over_total_time():
    runs = [run("a", "c", 50.0, frames=500, seconds=10.0), run("a", "c", 100.0, None, 2000, 20.0)]
    assert average_of_repeats(runs) == pytest.approx(2500 / 30)


def test_repeats_without_times_go_by_the_harmonic_mean():
    # scipy.stats.hmean.
    runs = [run("a", "c", 40.0), run("a", "c", 60.0, frames=100)]
    assert average_of_repeats(runs) == pytest.approx(stats.hmean([40.0, 60.0]))


def test_lows_of_repeats_leave_out_runs_without_one():
    assert low_of_repeats([run("a", "c", 9, 20.0), run("a", "c", 9, None)]) == pytest.approx(20.0)
    assert low_of_repeats([run("a", "c", 9)]) is None


def three_rigs():
    return [
        run("base", "x", 20.0),
        run("base", "y", 40.0),
        run("test", "x", 50.0),
        run("test", "y", 60.0),
        run("test", "z", 70.0),
        run("tower", "x", 80.0),
        run("tower", "z", 100.0),
    ]


def test_means_use_shared_cases_only():
    result = compare(three_rigs(), "base", "tower")
    tested, tower = (one for one in result.rigs if one.rig != "base")
    # Only x is on all three: what is gained and what is kept are over the same case.
    assert tested.over_base.case_ids == tested.of_reference.case_ids == ("x",)
    assert tested.mean_gain == pytest.approx(50 / 20 - 1)
    assert tested.mean_loss == pytest.approx(1 - 50 / 80)
    assert tested.over_base.ratio == pytest.approx(
        tower.over_base.ratio * tested.of_reference.ratio
    )
    assert tested.over_base.missing == ("y",)
    assert tested.of_reference.missing == ("z",)
    each = compare(three_rigs(), "base", "tower", how=How(shared=False))
    tested = next(rig for rig in each.rigs if rig.rig == "test")
    assert tested.mean_gain == pytest.approx(stats.gmean([50 / 20, 60 / 40]) - 1)
    assert tested.mean_loss == pytest.approx(1 - stats.gmean([50 / 80, 70 / 100]))
    by_case = {case.case: case for case in tested.cases}
    assert by_case["z"].gain is None
    assert by_case["y"].loss is None
    assert by_case["x"].loss == pytest.approx(1 - 50 / 80)


def test_a_rig_that_is_still_being_measured_does_not_narrow_the_others():
    runs = [run(rig, case, 50.0) for rig in ("base", "a", "b") for case in "vwxyz"]
    result = compare([*runs, run("new", "v", 60.0)], "base")
    cases = {one.rig: one.over_base.cases for one in result.rigs}
    assert cases == {"base": 5, "a": 5, "b": 5, "new": 1}
    assert len(result.rigs[-1].over_base.missing) == 4


def test_a_mean_of_one_case_says_what_its_cell_says():
    for tested in (50.5, 51.0, 52.0, 54.0):
        runs = [run("base", "x", rate) for rate in (50.0, 50.6, 49.8)]
        runs += [run("test", "x", tested * share) for share in (1.0, 1.012, 0.995)]
        one = next(rig for rig in compare(runs, "base").rigs if rig.rig == "test")
        assert one.over_base.low - 1 == pytest.approx(one.cases[0].gain_low)
        told = estimate_of(one.over_base)
        assert (told.low - 1, told.high - 1) == pytest.approx(
            (one.cases[0].gain_low, one.cases[0].gain_high)
        )
        is_sure = mean_standing(one.over_base, MARGIN).is_sure
        assert is_sure is not one.cases[0].tie


def test_without_a_reference_there_is_no_loss():
    result = compare(three_rigs(), "base")
    assert all(rig.mean_loss is None and rig.loss_cases == 0 for rig in result.rigs)


def test_geometric_means_agree_whichever_side_is_the_base():
    forth = compare(three_rigs(), "base")
    back = compare(three_rigs(), "test")
    gain_forth = next(rig.mean_gain for rig in forth.rigs if rig.rig == "test")
    gain_back = next(rig.mean_gain for rig in back.rigs if rig.rig == "base")
    assert (1 + gain_forth) * (1 + gain_back) == pytest.approx(1.0)


@pytest.mark.parametrize(("base", "reference"), [("nobody", None), ("base", "nobody")])
def test_an_unknown_rig_is_named_with_the_known_ones(base, reference):
    with pytest.raises(UnknownName, match=r"nobody.*base, test, tower"):
        compare(three_rigs(), base, reference)


@pytest.mark.parametrize("wrong", [0.0, -5.0, float("nan"), float("inf")])
def test_a_rate_that_is_no_rate_is_refused(wrong):
    for figure in (gain, loss, faster_by, midpoint_difference):
        with pytest.raises(BadFigure, match="above 0"):
            figure(wrong, 60.0)
        with pytest.raises(BadFigure, match="above 0"):
            figure(60.0, wrong)


def stood(standing, clean_only):
    found = compare(
        [run(rig, case, fps) for rig, case, fps in CELLS],
        "base",
        "tower",
        how=How(clean_only=clean_only),
        standings={("test", "x"): CellStanding(standing, standing, ("another version",))},
    )
    return next(one for one in found.rigs if one.rig == "test")


CELLS = [
    ("base", "x", 20.0),
    ("base", "y", 40.0),
    ("test", "x", 50.0),
    ("test", "y", 60.0),
    ("tower", "x", 80.0),
    ("tower", "y", 100.0),
]


@pytest.mark.parametrize("clean_only", [True, False])
def test_what_is_not_comparable_enters_no_mean_even_where_all_are_asked_for(clean_only):
    tested = stood(Standing.NOT_COMPARABLE, clean_only)
    assert (tested.gain_cases, tested.loss_cases) == (1, 1)
    assert tested.mean_gain == pytest.approx(60 / 40 - 1)
    assert tested.mean_loss == pytest.approx(1 - 60 / 100)


def test_what_is_mixed_enters_a_mean_only_where_all_are_asked_for():
    assert stood(Standing.MIXED, True).gain_cases == 1
    assert stood(Standing.MIXED, False).gain_cases == 2


def test_a_rates_bounds_are_students_on_its_logarithm():
    # scipy.stats.t.interval.
    rates = [50.0, 52.0, 49.0]
    (only,) = compare([run("a", "x", fps) for fps in rates], "a").rigs[0].cases
    logs = np.log(rates)
    low, high = stats.t.interval(0.95, 2, 0.0, stats.sem(logs))
    assert only.rate_low == pytest.approx(only.average_fps * np.exp(low))
    assert only.rate_high == pytest.approx(only.average_fps * np.exp(high))


def test_watts_of_repeats_are_their_mean():
    drawn = [Measurement("a", "x", 50.0, wall_w=watts) for watts in (180.0, 200.0, 250.0)]
    drawn.append(Measurement("a", "x", 50.0))
    assert compare(drawn, "a").rigs[0].cases[0].wall_w == pytest.approx(210.0)


def test_bounds_of_gain_and_loss_lie_around_them_the_lower_first():
    rng = np.random.default_rng(2)
    runs = [
        run(rig, "x", fps * np.exp(rng.normal(0, 0.01)))
        for rig, fps in (("base", 20.0), ("test", 50.0), ("tower", 80.0))
        for _ in range(3)
    ]
    found = next(one for one in compare(runs, "base", "tower").rigs if one.rig == "test").cases[0]
    assert found.gain_low < found.gain < found.gain_high
    assert found.loss_low < found.loss < found.loss_high
    below, above = found.loss - found.loss_low, found.loss_high - found.loss
    assert below == pytest.approx(above, rel=0.2)


@pytest.mark.parametrize(("shared", "over"), [(3, 10), (4, 10), (5, 5), (6, 6)])
def test_a_reference_with_few_cases_does_not_narrow_the_gain(shared, over):
    """Fewer than half: each mean is over its own cases; from half on, both over the same."""
    cases = [f"c{number}" for number in range(10)]
    runs = [run(rig, case, fps) for rig, fps in (("b", 50.0), ("t", 80.0)) for case in cases]
    runs += [run("r", case, 100.0) for case in cases[:shared]]
    tested = next(one for one in compare(runs, "b", "r").rigs if one.rig == "t")
    assert tested.over_base.cases == over
    assert tested.of_reference.cases == shared
