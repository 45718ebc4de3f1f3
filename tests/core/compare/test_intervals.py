"""Means and intervals against scipy, statsmodels, enumeration, and simulation of coverage."""

import math
import statistics

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats
from statsmodels.stats.weightstats import CompareMeans, DescrStatsW

from blunt_ruler.core.compare.compare import compare
from blunt_ruler.core.compare.intervals import (
    LEAST_SPREAD,
    LONGEST_ARM,
    MOST_REPEATS,
    Prior,
    Sample,
    half_width,
    mean_ratio_interval,
    more_repeats,
    prior_of,
    ratio_interval,
    sample_of,
    samples_from,
    welch,
)
from blunt_ruler.core.compare.results import Measurement
from blunt_ruler.core.measure.kinds import MeanSchool
from blunt_ruler.core.measure.means import mean_ratio, moved_most_by
from blunt_ruler.core.plan.repeats_needed import repeats_needed

rates = st.floats(0.5, 2000.0, allow_nan=False)
pairs = st.lists(st.tuples(rates, rates), min_size=1, max_size=20)
ALONE = Prior(0.0, 0.0, 99.0)  # a cell on its own: nothing is drawn toward other cells


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
    error, freedom = welch(sample_of(one, ALONE), sample_of(other, ALONE))
    theirs = stats.ttest_ind(a, b, equal_var=False)
    assert (a.mean() - b.mean()) / error == pytest.approx(theirs.statistic)
    assert freedom == pytest.approx(theirs.df)
    low, high = CompareMeans(DescrStatsW(a), DescrStatsW(b)).tconfint_diff(usevar="unequal")
    ratio = np.exp(a.mean() - b.mean())
    ours = ratio_interval(ratio, sample_of(one, ALONE), sample_of(other, ALONE))
    assert (np.log(ours.low), np.log(ours.high)) == pytest.approx((low, high))


def test_a_single_run_borrows_the_others_spread_and_an_assumed_one_is_taken_as_known():
    lone = sample_of([50.0], Prior(0.03, 6.0, 8.0))
    assert (lone.spread, lone.freedom) == (0.03, 6.0)
    assumed = sample_of([50.0], prior_of([[50.0], [60.0]]))
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
        found = ratio_interval(ratio, sample_of(one, ALONE), sample_of(other, ALONE))
        held += found.low <= truth <= found.high
    assert 0.93 <= held / trials <= 0.97


@pytest.mark.parametrize("sigma", [0.005, 0.01])
def test_what_a_day_does_to_a_rig_is_in_the_interval_of_a_cell(sigma):
    rng, trials, held = np.random.default_rng(8), 3000, 0
    for _ in range(trials):
        sides = [rng.normal(0, sigma) + rng.normal(0, 0.004, 3) for _ in range(2)]
        samples = [sample_of(np.exp(one), Prior(0.004, math.inf, 1e6)) for one in sides]
        ratio = np.exp(sides[0].mean() - sides[1].mean())
        found = ratio_interval(ratio, *samples, days=2 * sigma**2)
        held += found.low <= 1.0 <= found.high
    assert 0.93 <= held / trials <= 0.97
    # No pass makes what a day does smaller: under 2.8 of its errors none would settle it.
    nearly = math.exp(2.7 * math.sqrt(2) * sigma)
    assert more_repeats(nearly, *samples, days=2 * sigma**2) is None
    assert more_repeats(nearly, *samples) is not None


def test_a_tie_says_how_many_repeats_would_show_it():
    one, other = sample_of([50.0, 51.0, 49.0], ALONE), sample_of([50.5, 51.5, 49.0], ALONE)
    assert more_repeats(1.03, one, other) == repeats_needed(np.log(1.03), other.spread) - 3
    assert more_repeats(1.001, one, other) is None
    assert more_repeats(1.0, one, other) is None
    assert MOST_REPEATS == 50


def over_titles(ratios, school=MeanSchool.GEOMETRIC, base=None, titles=None, spread=1e-6):
    tested_by = np.asarray(ratios, dtype=float)
    base = np.full(tested_by.size, 50.0) if base is None else np.asarray(base)
    titles = titles or [str(number) for number in range(tested_by.size)]
    cell, count = Sample(3, spread, 2.0), tested_by.size
    these = np.sqrt(2 * cell.variance / count), 2 * count * cell.freedom
    return mean_ratio_interval(school, titles, tested_by * base, base, np.ones(count), these)


def test_over_titles_it_is_students_t_of_their_log_ratios():
    # scipy.stats.ttest_1samp; the values are symmetric, so no arm is lengthened.
    logs = np.array([0.1, 0.2, 0.3, 0.4, 0.5])
    theirs = stats.ttest_1samp(logs, 0.0).confidence_interval(0.95)
    ours = over_titles(np.exp(logs))
    assert (np.log(ours.low), np.log(ours.high)) == pytest.approx((theirs.low, theirs.high))
    assert ours.basis == "Student's t over 5 titles"


def test_the_arm_toward_the_long_tail_is_longer_and_no_arm_is_shorter_than_t():
    logs = np.array([0.0, 0.02, 0.05, 0.1, 0.9])
    theirs = stats.ttest_1samp(logs, 0.0).confidence_interval(0.95)
    ours = over_titles(np.exp(logs))
    half = theirs.high - logs.mean()
    assert np.log(ours.low) == pytest.approx(theirs.low)
    assert half < np.log(ours.high) - logs.mean() <= LONGEST_ARM * half + 1e-12
    turned = over_titles(np.exp(-logs))
    assert np.log(turned.low) == pytest.approx(-np.log(ours.high))


@pytest.mark.parametrize("school", MeanSchool)
def test_every_school_gives_the_jackknifes_error(school):
    # astropy's jackknife_stats and the textbook: √((k − 1)/k Σ(θ₍ⱼ₎ − θ̄)²), here by hand.
    rng = np.random.default_rng(6)
    base, ratios = rng.uniform(30, 90, 6), np.exp(rng.normal(0.3, 0.2, 6))
    ours = over_titles(ratios, school, base)
    without = [
        np.log(mean_ratio(school, np.delete(ratios * base, j), np.delete(base, j)))
        for j in range(6)
    ]
    error = np.sqrt(5 / 6 * np.sum((without - np.mean(without)) ** 2))
    reach = stats.t.ppf(0.975, 5) * error
    mean = np.log(mean_ratio(school, ratios * base, base))
    assert 1 - 1e-9 <= (mean - np.log(ours.low)) / reach <= 1.4 + 1e-9
    assert 1 - 1e-9 <= (np.log(ours.high) - mean) / reach <= 1.4 + 1e-9


def test_cases_of_one_title_count_as_one_title():
    twice = over_titles([2.0, 2.0, 2.0, 1.0, 1.5], titles=["a", "a", "a", "b", "c"])
    assert twice.basis == "Student's t over 3 titles"
    few = over_titles([2.0, 2.0, 2.0, 1.0, 1.0], titles=["a", "a", "a", "b", "b"], spread=0.01)
    assert few.basis == "repeats and days"
    assert few.high / few.low < 1.05


def test_titles_that_agree_by_chance_leave_open_what_their_repeats_leave_open():
    found = over_titles([1.2, 1.2, 1.2], spread=0.02)
    error = np.sqrt(3 * 2 * 0.02**2 / 3) / 3
    assert np.log(found.high / 1.2) == pytest.approx(stats.t.ppf(0.975, 2) * error)


def test_a_mean_of_one_case_says_what_the_case_says():
    one, other = Sample(3, 0.02, 2.0), Sample(4, 0.01, 3.0)
    ones = np.ones(1)
    mean = mean_ratio_interval(
        MeanSchool.GEOMETRIC, ["a"], ones * 61.0, ones * 60.0, ones, welch(one, other)
    )
    cell = ratio_interval(61 / 60, one, other)
    assert (mean.low, mean.high) == pytest.approx((cell.low, cell.high))


TITLES = {
    "normal": lambda rng, k: rng.normal(0, 0.15, k),
    "heavy tails": lambda rng, k: 0.12 * rng.standard_t(4, k),
    "skewed": lambda rng, k: 0.15 * (rng.exponential(1, k) - 1),
}


@pytest.mark.parametrize("kind", TITLES)
@pytest.mark.parametrize("titles", [3, 4, 5, 12])
def test_means_hold_the_truth_as_often_as_they_say(kind, titles, deep):
    trials = 4000 if deep else 800
    rng = np.random.default_rng(titles)
    held = 0
    for _ in range(trials):
        found = over_titles(np.exp(0.3 + TITLES[kind](rng, titles)), spread=0.01)
        held += found.low <= np.exp(0.3) <= found.high
    slack = 0.005 if deep else 0.02
    least = 0.895 if kind == "skewed" else 0.93
    assert least - slack <= held / trials <= 0.973 + slack


def cells_of(rng, spreads, passes):
    return [50 * np.exp(rng.normal(0, spread, passes)) for spread in spreads]


@pytest.mark.parametrize("passes", [2, 3, 5])
def test_a_prior_is_found_again(passes):
    # Smyth 2004: s² ~ s₀² F(d, d₀); here d₀ = 6 and s₀ = 1.5 %.
    rng = np.random.default_rng(passes)
    spreads = 0.015 * np.sqrt(6.0 / rng.chisquare(6.0, 4000))
    prior = prior_of(cells_of(rng, spreads, passes))
    assert prior.spread == pytest.approx(0.015, rel=0.2)
    if passes > 2:  # of two passes thousands of cells tell no freedom
        assert 3.5 < prior.freedom < 12.0
    alike = prior_of(cells_of(rng, np.full(4000, 0.015), passes))
    assert alike.freedom > 12


def test_moderated_variances_are_the_weighted_mean_of_own_and_prior():
    rates, prior = [50.0, 51.0, 50.2], Prior(0.02, 4.0, 80.0)
    own = np.var(np.log(rates), ddof=1)
    found = sample_of(rates, prior)
    assert found.spread**2 == pytest.approx((4 * 0.02**2 + 2 * own) / 6)
    assert found.freedom == 6


def test_passes_that_all_say_the_same_are_not_certain():
    rng = np.random.default_rng(1)
    same = [60.0, 60.0, 60.0]
    prior = prior_of([same, *cells_of(rng, [0.015] * 9, 3)])
    assert 0.004 < sample_of(same, prior).spread < 0.02
    alone = sample_of(same, prior_of([same]))
    assert alone.spread == LEAST_SPREAD
    assert half_width(alone) > 0.004


@pytest.mark.parametrize("cells", [1, 3, 12])
def test_where_all_passes_of_all_cells_agree_nothing_is_certain_either(cells):
    prior = prior_of([[60.0, 60.0, 60.0]] * cells)
    for rates in ([60.0, 60.0, 60.0], [60.0]):
        assert sample_of(rates, prior).spread == pytest.approx(LEAST_SPREAD)


@pytest.mark.parametrize("passes", [3, 5])
def test_a_restless_cell_is_held_apart_and_the_others_stay_what_they_are(passes, deep):
    rng = np.random.default_rng(4)
    held = {0.01: [], 0.1: []}
    for _ in range(400 if deep else 120):
        spreads = [0.01] * 9 + [0.1]
        cells = cells_of(rng, spreads, passes)
        prior = prior_of(cells)
        for spread, rates in zip(spreads, cells, strict=True):
            off = abs(np.log(rates).mean() - np.log(50.0))
            held[spread].append(off <= half_width(sample_of(rates, prior)))
    assert 0.93 <= np.mean(held[0.01]) <= 0.98
    assert np.mean(held[0.1]) >= 0.85


@pytest.mark.parametrize("titles", [1, 2, 3, 6])
def test_equal_rigs_are_seldom_told_apart(titles, deep):
    rng = np.random.default_rng(titles)
    trials = 1500 if deep else 400
    apart = 0
    for _ in range(trials):
        effect = np.exp(rng.normal(0, 0.05, titles))
        runs = [
            Measurement(rig, str(case), rate, title=str(case))
            for case in range(titles)
            for rig, by in (("a", 1.0), ("b", effect[case]))
            for rate in 50 * (by if titles > 2 else 1.0) * np.exp(rng.normal(0, 0.01, 3))
        ]
        mean = compare(runs, "a").rigs[1].over_base
        apart += not mean.low <= 1.0 <= mean.high
    assert apart / trials <= 0.07 + (0.0 if deep else 0.02)


def test_more_repeats_count_from_the_side_with_fewer_and_by_the_wider_spread():
    calm, restless = Sample(9, 0.01, 8.0), Sample(3, 0.03, 2.0)
    wanted = repeats_needed(np.log(1.05), 0.03)
    assert wanted > 3
    assert more_repeats(1.05, calm, restless) == wanted - 3
    assert more_repeats(1.05, restless, calm) == wanted - 3


def test_the_error_of_a_cells_mean_falls_with_the_root_of_its_repeats():
    # scipy.stats.sem.
    rates = [50.0, 52.0, 49.0, 51.0]
    assert sample_of(rates, ALONE).variance == pytest.approx(stats.sem(np.log(rates)) ** 2)


@pytest.mark.parametrize(("chance", "alone"), [(0.02, False), (0.005, True)])
def test_a_cell_that_spreads_as_one_in_a_hundred_keeps_its_own_spread(chance, alone):
    # χ² of two degrees of freedom: s² d / σ² has its upper tail at `chance` (scipy.stats).
    seen = 0.01 * math.sqrt(stats.chi2.isf(chance, 2) / 2)
    prior = Prior(0.01, math.inf, 200.0)
    spreads, freedoms = samples_from(np.array([seen]), np.array([3.0]), prior)
    assert spreads[0] == pytest.approx(seen if alone else 0.01)
    assert freedoms[0] == (2.0 if alone else 200.0)
