"""Means and intervals against scipy, statsmodels, enumeration, and simulation of coverage."""

import statistics

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats
from statsmodels.stats.weightstats import CompareMeans, DescrStatsW

from blunt_ruler.core.compare.compare import How, Measurement, compare
from blunt_ruler.core.compare.intervals import (
    MOST_REPEATS,
    Sample,
    half_width,
    mean_ratio_interval,
    more_repeats,
    ratio_interval,
    resampled_sums,
    sample_of,
    times_drawn,
    welch,
)
from blunt_ruler.core.measure.means import MeanSchool, mean_ratio, moved_most_by
from blunt_ruler.core.plan.repeats_needed import SpreadSeen, repeats_needed

rates = st.floats(0.5, 2000.0, allow_nan=False)
pairs = st.lists(st.tuples(rates, rates), min_size=1, max_size=20)
ASSUMED = SpreadSeen(0.02, 0)


@given(pairs)
def test_four_schools_are_scipys_and_the_standard_librarys(pairs):
    a, b = (np.array(side) for side in zip(*pairs, strict=True))
    ratios = a / b
    found = {school: mean_ratio(school, a, b) for school in MeanSchool}
    # scipy.stats.gmean, statistics.geometric_mean, numpy means, scipy.stats.hmean.
    assert found[MeanSchool.GEOMETRIC] == pytest.approx(stats.gmean(ratios))
    assert found[MeanSchool.GEOMETRIC] == pytest.approx(statistics.geometric_mean(ratios))
    assert found[MeanSchool.RATE] == pytest.approx(a.mean() / b.mean())
    assert found[MeanSchool.PERCENT] == pytest.approx(1 + np.mean(ratios - 1))
    assert found[MeanSchool.HARMONIC] == pytest.approx(stats.hmean(a) / stats.hmean(b))


@given(pairs)
def test_only_the_mean_of_percentages_depends_on_the_base(pairs):
    a, b = (np.array(side) for side in zip(*pairs, strict=True))
    for school in MeanSchool:
        both = mean_ratio(school, a, b) * mean_ratio(school, b, a)
        if school is MeanSchool.PERCENT:
            assert both >= 1 - 1e-9  # it flatters whichever side is on top
        else:
            assert both == pytest.approx(1.0)


@given(pairs, st.integers(1, 4))
def test_a_weight_of_two_is_the_case_twice(pairs, times):
    a, b = (np.array(side) for side in zip(*pairs, strict=True))
    weights = np.ones_like(a)
    weights[0] = times
    twice = (np.concatenate([np.repeat(x[:1], times - 1), x]) for x in (a, b))
    a2, b2 = twice
    for school in MeanSchool:
        assert mean_ratio(school, a, b, weights) == pytest.approx(mean_ratio(school, a2, b2))


def test_no_case_has_no_mean():
    assert all(mean_ratio(school, [], []) is None for school in MeanSchool)
    assert moved_most_by(MeanSchool.GEOMETRIC, *(np.array([1.0]),) * 3) is None


def test_the_trades_averages_over_the_same_titles():
    # Common practice, no source: averages of 110, 115 and 153 over the same titles; the first
    # loses 28 % against the third, and one outlier title made most of it.
    third = np.array([100.0, 110.0, 120.0, 282.0])
    first = np.array([98.0, 108.0, 116.0, 118.0])
    loss = 1 - mean_ratio(MeanSchool.RATE, first, third)
    assert loss == pytest.approx(0.28, abs=0.002)
    index, without = moved_most_by(MeanSchool.RATE, first, third, np.ones(4))
    assert index == 3
    assert 1 - without == pytest.approx(0.024, abs=0.001)


SLEEP = np.array([1.2, 2.4, 1.3, 1.3, 0.0, 1.0, 1.8, 0.8, 4.6, 1.4])


def test_students_interval_on_students_sleep_data():
    # R's data set sleep, differences: mean 1.58, 95 % from 0.70011424 to 2.45988576.
    half = half_width(Sample(SLEEP.size, float(SLEEP.std(ddof=1)), SLEEP.size - 1.0))
    low, high = SLEEP.mean() - half, SLEEP.mean() + half
    assert SLEEP.mean() == pytest.approx(1.58)
    assert (low, high) == pytest.approx((0.70011424, 2.45988576), abs=1e-8)


@given(
    st.lists(st.floats(20, 200), min_size=3, max_size=8, unique=True),
    st.lists(st.floats(20, 200), min_size=2, max_size=8, unique=True),
)
def test_welch_is_scipys_and_statsmodels(one, other):
    a, b = np.log(one), np.log(other)
    error, freedom = welch(sample_of(one, ASSUMED), sample_of(other, ASSUMED))
    theirs = stats.ttest_ind(a, b, equal_var=False)
    assert (a.mean() - b.mean()) / error == pytest.approx(theirs.statistic)
    assert freedom == pytest.approx(theirs.df)
    low, high = CompareMeans(DescrStatsW(a), DescrStatsW(b)).tconfint_diff(usevar="unequal")
    ratio = np.exp(a.mean() - b.mean())
    ours = ratio_interval(ratio, sample_of(one, ASSUMED), sample_of(other, ASSUMED))
    assert (np.log(ours.low), np.log(ours.high)) == pytest.approx((low, high))


def test_a_single_run_borrows_the_pooled_spread_and_an_assumed_one_is_taken_as_known():
    pooled = sample_of([50.0], SpreadSeen(0.03, 8))
    assert (pooled.spread, pooled.freedom) == (0.03, 8)
    assumed = sample_of([50.0], ASSUMED)
    wide = ratio_interval(1.0, assumed, assumed)
    assert np.log(wide.high) == pytest.approx(1.959964 * 0.02 * np.sqrt(2), rel=1e-6)


@pytest.mark.parametrize("repeats", [3, 5, 8])
def test_intervals_hold_the_truth_as_often_as_they_say(repeats):
    rng = np.random.default_rng(repeats)
    truth, trials, held = 1.25, 4000, 0
    for _ in range(trials):
        one = 50 * truth * np.exp(rng.normal(0, 0.02, repeats))
        other = 50 * np.exp(rng.normal(0, 0.02, repeats))
        ratio = np.exp(np.log(one).mean() - np.log(other).mean())
        found = ratio_interval(ratio, sample_of(one, ASSUMED), sample_of(other, ASSUMED))
        held += found.low <= truth <= found.high
    assert 0.93 <= held / trials <= 0.97


def test_a_tie_says_how_many_repeats_would_show_it():
    one, other = sample_of([50.0, 51.0, 49.0], ASSUMED), sample_of([50.5, 51.5, 49.0], ASSUMED)
    assert more_repeats(1.03, one, other) in range(1, 10)
    assert more_repeats(1.001, one, other) is None
    assert more_repeats(1.0, one, other) is None
    assert MOST_REPEATS == 50


def test_the_exact_bootstrap_of_five_values():
    # By enumeration of all 5⁵ resamples of {3, 5, 8, 12, 20}: standard error of the mean
    # 2.692211, percentile 95 % from 4.8 to 15.2.
    values = np.array([[3.0], [5.0], [8.0], [12.0], [20.0]])
    means = resampled_sums(values, 0)[:, 0] / 5
    assert means.size == 5**5
    assert means.std() == pytest.approx(2.692211, abs=1e-6)
    assert np.quantile(means, (0.025, 0.975)) == pytest.approx((4.8, 15.2))


def test_the_bootstrap_over_titles_is_scipys():
    rng = np.random.default_rng(3)
    base = rng.uniform(20, 90, 14)
    tested = base * np.exp(rng.normal(0.4, 0.3, 14))
    titles = [f"t{index}" for index in range(14)]
    ones = np.ones(14)
    ours = mean_ratio_interval(
        MeanSchool.GEOMETRIC, titles, tested, base, ones, ones * 0.01, seed=1
    )
    theirs = stats.bootstrap(
        (tested / base,), stats.gmean, n_resamples=20_000, method="percentile", rng=4
    ).confidence_interval
    assert (ours.low, ours.high) == pytest.approx((theirs.low, theirs.high), rel=0.02)
    assert ours.basis == "bootstrap over 14 titles"
    again = mean_ratio_interval(
        MeanSchool.GEOMETRIC, titles, tested, base, ones, ones * 0.01, seed=1
    )
    assert again == ours


def test_cases_of_one_title_are_drawn_together():
    tested, base = np.array([2.0, 2.0, 2.0, 1.0, 1.0]), np.ones(5)
    many = mean_ratio_interval(
        MeanSchool.GEOMETRIC, ["a", "a", "a", "b", "c"], tested, base, base, base * 0.01, 0
    )
    assert many.high > 1.8  # one resample in 27 is the one title alone
    few = mean_ratio_interval(
        MeanSchool.GEOMETRIC, ["a", "a", "a", "b", "b"], tested, base, base, base * 0.01, 0
    )
    assert few.basis == "repeats only"
    assert few.high / few.low < 1.03


def test_a_mean_over_titles_covers_other_titles_of_their_kind():
    """Coverage of the percentile bootstrap over 12 titles; it is known to run a little short."""
    rng = np.random.default_rng(8)
    held, trials = 0, 300
    for trial in range(trials):
        runs = []
        for title in range(12):
            effect = np.exp(rng.normal(0.3, 0.15))
            runs += [
                Measurement("b", f"c{title}", 50.0),
                Measurement("a", f"c{title}", 50 * effect),
            ]
        mean = compare(runs, "b", how=How(seed=trial)).rigs[1].over_base
        held += mean.low <= np.exp(0.3) <= mean.high
    assert 0.87 <= held / trials <= 0.97


@pytest.mark.parametrize("n", [3, 5, 6, 40])
def test_resamples_draw_n_rows_each_and_are_the_same_for_every_mean(n):
    drawn = times_drawn(n, 3)
    assert drawn.shape == ((n**n if n <= 5 else 5000), n)
    assert (drawn.sum(axis=1) == n).all()
    assert (drawn >= 0).all()
    # Each row is drawn once on average; over all exact resamples precisely so.
    assert drawn.mean() == pytest.approx(1.0)
    values = np.random.default_rng(1).normal(0, 1, (n, 2))
    assert resampled_sums(values, 3) == pytest.approx(drawn @ values)
    assert times_drawn(n, 3) is drawn


def test_more_repeats_count_from_the_side_with_fewer_and_by_the_wider_spread():
    calm, restless = Sample(9, 0.01, 8.0), Sample(3, 0.03, 2.0)
    wanted = repeats_needed(np.log(1.05), 0.03)
    assert wanted > 3
    assert more_repeats(1.05, calm, restless) == wanted - 3
    assert more_repeats(1.05, restless, calm) == wanted - 3


def test_the_error_of_a_cells_mean_falls_with_the_root_of_its_repeats():
    # scipy.stats.sem.
    rates = [50.0, 52.0, 49.0, 51.0]
    assert sample_of(rates, ASSUMED).variance == pytest.approx(stats.sem(np.log(rates)) ** 2)
