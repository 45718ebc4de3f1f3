"""Figures of every kind: their intervals hold the true mean, and bounds stay bounds.

The readings are made here as each kind is defined (help/figures.md); nothing of the bench is used.
"""

import math

import numpy as np
import pytest
from scipy import stats

from blunt_ruler.core.compare.compare import compare
from blunt_ruler.core.compare.results import How, Measurement
from blunt_ruler.core.measure.frames import sampled_rate
from blunt_ruler.core.measure.kinds import Bound, Kind, MeanSchool, bound_of
from blunt_ruler.core.measure.reading import (
    ABOUT,
    FROM_LOG,
    GLANCE,
    NORMAL,
    HowRead,
    errors_together,
)
from blunt_ruler.core.plan.repeats_needed import ASSUMED_SPREAD

CASES = 700


def glance(rng, rate):
    return round(rate * math.exp(rng.normal(0, math.log1p(GLANCE) / NORMAL))), HowRead(step=1.0)


def counted_on_screen(rng, rate):
    return round(rate, 1), HowRead(step=0.1)


def seen_between(rng, rate):
    width = rng.uniform(0.02, 0.12)
    middle = rate * math.exp(rng.normal(0, width / NORMAL))
    edges = (middle * math.exp(-width), middle * math.exp(width))
    return sum(edges) / 2, HowRead(kind=Kind.RANGE, step=0.1, edges=edges)


def about(rng, rate):
    said = rate * math.exp(rng.normal(0, math.log1p(ABOUT) / NORMAL))
    return round(said), HowRead(kind=Kind.ABOUT, step=1.0)


def looks(rng, rate):
    seen = np.maximum(np.round(rate * (1 + rng.normal(0, 0.08, rng.integers(3, 8)))), 1)
    return float(seen.mean()), HowRead(step=1.0, looks=tuple(seen))


def samples(rng, rate):
    mean = sampled_rate(rate * (1 + rng.normal(0, 0.1, 60)))
    how = HowRead(kind=Kind.SAMPLES, edges=(mean.low_95, mean.high_95))
    return mean.average_fps, how


READERS = (glance, counted_on_screen, seen_between, about, looks, samples)


@pytest.mark.parametrize("read", READERS)
@pytest.mark.parametrize("passes", [1, 3])
def test_intervals_hold_the_true_mean(read, passes):
    rng = np.random.default_rng(len(read.__name__) * 10 + passes)
    truth = {f"c{number}": rng.uniform(25, 240) for number in range(CASES)}
    runs = []
    for case, mean in truth.items():
        for rig, speed in (("base", 1.0), ("tested", 1.6)):
            for _ in range(passes):
                rate = mean * speed * math.exp(rng.normal(0, ASSUMED_SPREAD))
                fps, how = read(rng, rate)
                runs.append(Measurement(rig, case, fps, how=how))
    base, tested = compare(runs, "base").rigs
    held = np.mean([one.rate_low <= truth[one.case] <= one.rate_high for one in base.cases])
    told = np.mean([one.gain_low <= 0.6 <= one.gain_high for one in tested.cases])
    assert held >= 0.93
    assert told >= 0.93
    assert {one.kind for one in base.cases} == {how.kind}


def cell(runs, **options):
    return compare(runs, "b", "r", **options)


AT_LEAST, AT_MOST = HowRead(kind=Kind.AT_LEAST, step=1.0), HowRead(kind=Kind.AT_MOST, step=1.0)


def test_a_bound_stays_one_through_gain_loss_and_mean():
    result = cell(
        [
            Measurement("b", "one", 50.0),
            Measurement("t", "one", 200.0, how=AT_LEAST),
            Measurement("r", "one", 250.0),
            Measurement("b", "two", 50.0),
            Measurement("t", "two", 100.0),
            Measurement("r", "two", 125.0),
        ]
    )
    tested = next(rig for rig in result.rigs if rig.rig == "t")
    one, two = tested.cases
    assert (one.gain, one.over_bound, one.gain_high) == (3.0, Bound.AT_LEAST, None)
    assert one.gain_low < 3.0
    assert (one.loss, one.of_bound, one.loss_low) == (pytest.approx(0.2), Bound.AT_LEAST, None)
    assert one.loss_high > 0.2
    assert not one.tie
    assert two.over_bound is Bound.POINT
    mean = tested.over_base  # over the figure; the bound beside it is named
    assert (mean.ratio, mean.bound, mean.bounds_out) == (pytest.approx(2.0), Bound.POINT, ("one",))
    assert [one.cases for one in mean.over_titles] == [("two",)]
    assert mean.kinds == {Kind.LOG}
    at_least, figure = sorted(mean.titles, key=lambda one: -one.log_ratio)
    assert (math.exp(at_least.log_ratio), at_least.bound) == (pytest.approx(4.0), Bound.AT_LEAST)
    assert figure.bound is Bound.POINT


def test_a_mean_of_bounds_alone_is_one():
    result = cell(
        [
            Measurement(rig, case, rate, how=AT_LEAST if rig == "t" else FROM_LOG)
            for case in ("one", "two")
            for rig, rate in (("b", 50.0), ("t", 150.0), ("r", 250.0))
        ]
    )
    mean = next(rig for rig in result.rigs if rig.rig == "t").over_base
    assert (mean.bound, mean.high, mean.cases) == (Bound.AT_LEAST, None, 2)
    assert mean.kinds == {Kind.LOG, Kind.AT_LEAST}


def test_a_bound_of_what_one_divides_by_turns():
    result = cell(
        [
            Measurement("b", "one", 30.0, how=AT_MOST),
            Measurement("t", "one", 90.0),
            Measurement("r", "one", 120.0, how=AT_LEAST),
        ]
    )
    (one,) = next(rig for rig in result.rigs if rig.rig == "t").cases
    assert (one.gain, one.over_bound) == (2.0, Bound.AT_LEAST)
    assert (one.loss, one.of_bound) == (0.25, Bound.AT_MOST)  # of the ratio: the loss is at least


def test_two_bounds_of_one_kind_say_nothing_of_each_other():
    result = cell(
        [
            Measurement("b", "one", 200.0, how=AT_LEAST),
            Measurement("t", "one", 300.0, how=AT_LEAST),
            Measurement("r", "one", 300.0),
        ]
    )
    tested = next(rig for rig in result.rigs if rig.rig == "t")
    assert (tested.cases[0].gain, tested.over_base) == (None, None)


@pytest.mark.parametrize("school", list(MeanSchool))
def test_bounds_both_ways_are_left_out_of_a_mean_and_named(school):
    runs = []
    for case, tested, how in (
        ("up", 200.0, AT_LEAST),
        ("down", 100.0, AT_MOST),
        ("sharp", 75.0, HowRead(step=0.1)),
    ):
        runs += [Measurement("b", case, 50.0), Measurement("t", case, tested, how=how)]
    runs += [Measurement("r", "sharp", 100.0)]
    tested = next(rig for rig in cell(runs, how=How(mean=school)).rigs if rig.rig == "t")
    mean = tested.over_base
    assert mean.ratio == pytest.approx(1.5)
    assert (mean.bound, mean.cases) == (Bound.POINT, 1)
    assert set(mean.bounds_out) <= {"up", "down"}


def test_one_pass_at_least_and_one_at_most_is_no_rate_to_compare():
    assert bound_of([Kind.AT_LEAST, Kind.AT_MOST]) is Bound.OPEN
    result = cell(
        [
            Measurement("b", "one", 50.0),
            Measurement("t", "one", 60.0, how=AT_LEAST),
            Measurement("t", "one", 90.0, how=AT_MOST),
            Measurement("r", "one", 90.0),
        ]
    )
    (one,) = next(rig for rig in result.rigs if rig.rig == "t").cases
    assert (one.gain, one.rate_low, one.rate_high) == (None, None, None)


def test_what_eyes_read_does_not_widen_what_logs_measured():
    logs = [
        Measurement(rig, f"c{number}", rate * (1 + 0.002 * step))
        for rig, rate in (("b", 50.0), ("t", 80.0))
        for number in range(5)
        for step in (-1, 0, 1)
    ]
    by_eye = [
        Measurement("e", f"c{number}", 60.0 * (1 + 0.1 * step), how=HowRead(step=1.0))
        for number in range(5)
        for step in (-1, 0, 1)
    ]
    alone = next(rig for rig in compare(logs, "b").rigs if rig.rig == "t").cases[0]
    beside = next(rig for rig in compare([*logs, *by_eye], "b").rigs if rig.rig == "t").cases[0]
    assert (alone.rate_low, alone.rate_high) == (beside.rate_low, beside.rate_high)


def test_errors_of_readings_together_are_welchs():
    """Variance and freedom of a difference of two means, against scipy's Welch test; of a mean of
    two it is a quarter as much.
    """
    rng = np.random.default_rng(3)
    samples = [rng.normal(0, scale, count) for scale, count in ((0.2, 5), (0.7, 10))]
    errors = [(float(np.var(one, ddof=1)) / one.size, one.size - 1.0) for one in samples]
    variance, freedom = errors_together(errors)
    welch = stats.ttest_ind(*samples, equal_var=False)
    difference = samples[0].mean() - samples[1].mean()
    assert 4.0 * variance == pytest.approx((difference / welch.statistic) ** 2)
    assert freedom == pytest.approx(welch.df)
