"""Frame figures against NumPy, SciPy and statsmodels, then against ugly input."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp
from scipy import stats
from scipy.ndimage import generic_filter
from statsmodels.stats.weightstats import DescrStatsW

from blunt_ruler.core.errors import BadFrames
from blunt_ruler.core.measure.frames import (
    FrameFigures,
    LowSchool,
    checked_frame_times,
    find_stutter,
    frame_ends_s,
    lows_of,
    measure,
    part_between,
    why_no_low,
)

frame_times = hnp.arrays(
    np.float64, st.integers(2, 400), elements=st.floats(0.05, 2000.0, allow_nan=False)
)


def some_trace(n: int = 5000, seed: int = 1) -> np.ndarray:
    rng = np.random.default_rng(seed)
    return np.exp(rng.normal(2.6, 0.2, n)) * (1 + 3 * (rng.random(n) < 0.004))


def test_average_is_frames_over_time_the_harmonic_mean_of_rates():
    # scipy.stats.hmean of the per-frame rates.
    times = some_trace()
    assert measure(times).average_fps == pytest.approx(stats.hmean(1000.0 / times))


def test_average_is_not_the_mean_of_rates():
    assert measure(np.array([10.0, 30.0])).average_fps == pytest.approx(50.0)


@pytest.mark.parametrize("share", [0.01, 0.001])
def test_percentile_low_is_numpy_type_7(share):
    # numpy.quantile(method="linear") is Hyndman and Fan type 7.
    times = some_trace()
    expected = 1000.0 / np.quantile(times, 1 - share, method="linear")
    assert lows_of(np.sort(times), share).percentile == pytest.approx(expected, rel=1e-12)


def test_type_7_on_one_to_hundred():
    # Hyndman and Fan type 7: the 99th percentile of 1…100 is 99.01.
    assert 1000.0 / lows_of(np.arange(1.0, 101.0), 0.01).percentile == pytest.approx(99.01)


def test_worst_mean_low_takes_the_longest_frames():
    times = some_trace(1050)
    longest = np.sort(times)[-11:]  # ⌈1 % of 1050⌉
    assert lows_of(np.sort(times), 0.01).worst_mean == pytest.approx(1000.0 / longest.mean())


def test_time_share_low_is_the_time_weighted_quantile():
    # numpy.quantile with weights, and statsmodels.stats.weightstats.DescrStatsW.quantile.
    times = some_trace()
    low = lows_of(np.sort(times), 0.01).time_share
    weighted = np.quantile(times, 0.99, weights=times, method="inverted_cdf")
    by_statsmodels = DescrStatsW(times, weights=times).quantile(0.99, return_pandas=False)
    assert low == pytest.approx(1000.0 / weighted)
    assert low == pytest.approx(1000.0 / float(by_statsmodels[0]))


def test_schools_differ_and_each_is_found_by_name():
    lows = lows_of(np.sort(some_trace()), 0.01)
    named = {school: lows.by(school) for school in LowSchool}
    assert len(set(named.values())) == 3
    assert named[LowSchool.TIME_SHARE] <= named[LowSchool.PERCENTILE]


@pytest.mark.parametrize(
    ("frames", "share", "enough"),
    [(99, 0.01, False), (100, 0.01, True), (999, 0.001, False), (1000, 0.001, True)],
)
def test_a_low_needs_one_over_share_frames(frames, share, enough):
    lows = lows_of(np.full(frames, 10.0), share)
    assert (lows.percentile is not None) is enough
    why = why_no_low(frames, share)
    assert (why is None) is enough
    if why:
        assert f"has {frames}" in why


def test_median_minimum_and_maximum():
    figures = measure(np.array([10.0, 20.0, 40.0, 12.5]))
    assert figures.median_fps == pytest.approx(1000 / np.median([10.0, 20.0, 40.0, 12.5]))
    assert (figures.minimum_fps, figures.maximum_fps) == (25.0, 100.0)


def test_stutter_follows_its_definition_frame_by_frame():
    times = some_trace(600)
    median = generic_filter(times, np.median, size=49, mode="reflect")
    expected = (times > 2 * median) & (times >= median + 8)
    found = find_stutter(times)
    assert expected.any()
    assert np.array_equal(found.is_stutter, expected)
    assert found.per_min == pytest.approx(expected.sum() / (times.sum() / 60_000))
    assert found.time_share == pytest.approx(times[expected].sum() / times.sum())


def test_a_long_frame_at_a_high_rate_is_no_stutter_unless_8_ms_longer():
    times = np.full(200, 2.0)
    times[100] = 9.9  # over twice the median, but only 7.9 ms above it
    assert not find_stutter(times).is_stutter.any()
    times[100] = 10.0
    assert find_stutter(times).is_stutter.sum() == 1


@given(frame_times)
def test_figures_are_finite_and_ordered(times):
    figures = measure(times)
    numbers = figures.model_dump(exclude={"low_1", "low_01"}).values()
    assert all(np.isfinite(number) for number in numbers)
    slack = 1 + 1e-9
    assert figures.minimum_fps <= figures.average_fps * slack
    assert figures.average_fps <= figures.maximum_fps * slack
    for low in (figures.low_1.percentile, figures.low_1.worst_mean, figures.low_1.time_share):
        assert low is None or figures.minimum_fps <= low * slack <= figures.maximum_fps * slack**2


@given(frame_times, st.floats(0.1, 10.0))
def test_slower_frames_scale_every_rate(times, factor):
    plain, scaled = measure(times), measure(times * factor)
    assert scaled.average_fps == pytest.approx(plain.average_fps / factor)
    assert scaled.median_fps == pytest.approx(plain.median_fps / factor)


def test_constant_frames_give_one_rate_everywhere():
    figures = measure(np.full(2000, 12.5))
    rates = [figures.average_fps, figures.median_fps, figures.minimum_fps, figures.maximum_fps]
    rates += [figures.low_1.by(school) for school in LowSchool]
    rates += [figures.low_01.by(school) for school in LowSchool]
    assert rates == pytest.approx([80.0] * len(rates))
    assert figures.steadiness(LowSchool.PERCENTILE) == pytest.approx(1.0)
    assert figures.stutters_per_min == 0


@pytest.mark.parametrize(
    ("times", "says"),
    [
        ([], "0 frame times are too few"),
        ([16.7], "1 frame times are too few"),
        ([16.7, 0.0], "frame 2 has the frame time 0.0"),
        ([16.7, -1.0, 3.0], "frame 2"),
        ([float("nan"), 16.7], "frame 1"),
        ([16.7, float("inf")], "frame 2"),
    ],
)
def test_rejects_what_cannot_be_measured(times, says):
    with pytest.raises(BadFrames, match=says):
        measure(np.array(times), "coast.csv")


def test_rejects_a_table_of_frame_times():
    with pytest.raises(BadFrames):
        checked_frame_times(np.ones((3, 3)))


def test_parts_hold_whole_frames_only():
    times = np.full(100, 10.0)  # frames end at 0.01, 0.02 … 1.00 s
    assert part_between(times, 0.1, 0.2) == slice(10, 20)
    assert part_between(times, 0.105, 0.205) == slice(11, 20)
    assert part_between(times, None, None) == slice(0, 100)
    assert frame_ends_s(times)[-1] == pytest.approx(1.0)
    with pytest.raises(BadFrames, match="runs from 0 to 1"):
        part_between(times, 5.0, 6.0)


def test_figures_survive_being_written_down():
    figures = measure(some_trace(1200))
    assert FrameFigures.model_validate_json(figures.model_dump_json()) == figures


def test_exactly_twice_the_median_is_no_stutter():
    times = np.full(200, 12.0)
    times[100] = 24.0  # 12 ms above it, but not over twice it
    assert not find_stutter(times).is_stutter.any()
    times[100] = 24.001
    assert find_stutter(times).is_stutter.sum() == 1


def test_the_median_runs_with_the_trace_over_49_frames():
    # 25 slow frames in a row are the median of their middle and so no stutter; 20 are not.
    for slow, stutters in ((25, False), (20, True)):
        times = np.full(400, 10.0)
        times[200 : 200 + slow] = 30.0
        assert find_stutter(times).is_stutter[200 + slow // 2] == stutters
