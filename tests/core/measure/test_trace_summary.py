"""What is read off a trace, and the figures that a trim leaves."""

import numpy as np
import pytest
import statsmodels.datasets
from hypothesis import given
from hypothesis import strategies as st

from blunt_ruler.core.errors import BadFrames
from blunt_ruler.core.measure.distribution import histogram, percentile_curve
from blunt_ruler.core.measure.frames import measure
from blunt_ruler.core.measure.resolution import megapixels, pixels
from blunt_ruler.core.measure.telemetry import Gauge, digests, gauge_of
from blunt_ruler.core.measure.trace_summary import observe
from blunt_ruler.core.measure.trimming import (
    block_levels,
    change_points,
    offset_s,
    propose_trim,
)
from blunt_ruler.core.records.records import Origin, Run, Trace, Trim
from blunt_ruler.core.runs.trim_run import cut, proposed, trimmed


def noisy(mean_ms, frames, seed=1, spread=0.05):
    return mean_ms * np.exp(np.random.default_rng(seed).normal(0, spread, frames))


def test_the_break_in_the_flow_of_the_nile_is_found():
    # statsmodels.datasets.nile: one break, segments of 28 and 72 years, the last year of the
    # first is 1898, means 1097.75 and 849.972.
    flow = statsmodels.datasets.nile.load_pandas().data
    volume = flow["volume"].to_numpy(dtype=float)
    scale = np.std(np.diff(volume)) / np.sqrt(2)
    (first_after,) = change_points(volume / scale, penalty=3.0 * np.log(volume.size))
    assert first_after == 28
    assert flow["year"].iloc[first_after - 1] == 1898
    assert volume[:28].mean() == pytest.approx(1097.75)
    assert volume[28:].mean() == pytest.approx(849.972, abs=5e-4)


@pytest.mark.parametrize(
    ("head_ms", "tail_ms", "words"),
    [(3.0, None, "menu, 4.0 s"), (90.0, None, "loading, 4"), (None, 2.0, "tail, 5.0 s")],
)
def test_the_ends_of_a_trace_are_found_to_the_frame(head_ms, tail_ms, words):
    scene = noisy(16.0, 2000)
    head = noisy(head_ms, round(4000 / head_ms), 2) if head_ms else np.array([])
    tail = noisy(tail_ms, round(5000 / tail_ms), 3) if tail_ms else np.array([])
    found = propose_trim(np.concatenate([head, scene, tail]))
    if head.size:
        assert found.from_s == pytest.approx(head.sum() / 1000, abs=0.02)
        assert found.to_s is None
    else:
        assert found.to_s == pytest.approx(scene.sum() / 1000, abs=0.02)
    assert words in found.why


@given(st.floats(2.0, 60.0), st.integers(0, 50))
def test_an_even_trace_is_not_cut(mean_ms, seed):
    found = propose_trim(noisy(mean_ms, round(20_000 / mean_ms), seed))
    assert (found.from_s, found.to_s) == (None, None)


def test_a_heavier_middle_is_never_cut():
    trace = np.concatenate([noisy(10, 1000), noisy(40, 300, 2), noisy(10, 1000, 3)])
    assert propose_trim(trace).from_s is None
    assert propose_trim(trace).to_s is None


def test_two_passes_are_lined_up_by_their_scene():
    wave = 10 * (1 + 0.3 * np.sin(np.linspace(0, 40, 3000)))
    late = np.concatenate([np.full(150, 10.0), wave])
    assert offset_s(wave, late) == pytest.approx(1.5, abs=0.1)
    assert offset_s(late, wave) == pytest.approx(-1.5, abs=0.1)


def test_a_trim_gives_the_figures_of_its_part_and_keeps_the_whole():
    times = np.concatenate([np.full(1000, 2.0), noisy(16.0, 1500)])
    trace = Trace(times, {"card busy %": np.linspace(0, 100, times.size)})
    run = Run(
        id="r",
        rig_id="a",
        case_id="b",
        origin=Origin(kind="log"),
        figures=measure(times),
        observed=observe(times),
    )
    trim = proposed(run, trace)
    assert trim.from_s == pytest.approx(2.0, abs=0.02)
    made = trimmed(run, trace, trim)
    assert made.figures == measure(times[1000:])
    assert made.observed.head_s == 0
    assert made.observed.gauge(Gauge.CARD_BUSY).low > 35
    assert proposed(made, trace) is None
    assert trimmed(made, trace, None).figures == run.figures
    both = cut(trace, trim)
    assert both.whole == run.figures
    with pytest.raises(BadFrames, match="fewer than 2"):
        cut(trace, Trim(from_s=25.9, to_s=25.91))


@pytest.mark.parametrize(
    ("channel", "gauge", "factor"),
    [
        ("card busy %", Gauge.CARD_BUSY, 1),
        ("GPU0 Load", Gauge.CARD_BUSY, 1),
        ("gpu_power_w", Gauge.CARD_POWER, 1),
        ("GPU clock MHz", Gauge.CARD_CLOCK, 1),
        ("gpu memory used MB", Gauge.CARD_MEMORY, 0.001),
        ("graphics temperature", Gauge.CARD_TEMPERATURE, 1),
        ("cpu total %", Gauge.CPU_TOTAL, 1),
        ("CPU busiest core %", Gauge.CPU_CORE, 1),
        ("link traffic MB/s", Gauge.LINK_TRAFFIC, 0.001),
        ("pcie link width", Gauge.LINK_LANES, 1),
        ("link generation", Gauge.LINK_GENERATION, 1),
        ("card encoder %", Gauge.ENCODER, 1),
        ("wall W", Gauge.WALL_POWER, 1),
        ("noise dBA", Gauge.NOISE, 1),
    ],
)
def test_channels_are_read_by_their_words(channel, gauge, factor):
    assert gauge_of(channel) == (gauge, factor)


@pytest.mark.parametrize("channel", ["cpu temp C", "fan rpm", "latency ms", ""])
def test_unknown_channels_are_left_alone(channel):
    assert gauge_of(channel) is None


def test_a_digest_weighs_by_time_and_skips_blanks():
    times = np.array([10.0, 10.0, 20.0, 10.0])
    (found,) = digests({"card busy %": np.array([50.0, np.nan, 100.0, 50.0])}, times)
    assert found.mean == pytest.approx((10 * 50 + 20 * 100 + 10 * 50) / 40)
    assert digests({"card busy %": np.full(4, np.nan)}, times) == ()


def test_the_histogram_shares_all_the_time_out_and_the_curve_rises():
    times = noisy(16, 5000)
    edges, share = histogram(times)
    assert edges.size == share.size + 1
    assert share.sum() == pytest.approx(1.0)
    shares, curve = percentile_curve(times)
    assert np.all(np.diff(curve) >= 0)
    at = int(np.argmin(np.abs(shares - 0.99)))
    assert curve[at] == pytest.approx(np.quantile(times, shares[at]))


@pytest.mark.parametrize("read", [histogram, percentile_curve, propose_trim, observe])
@pytest.mark.parametrize("times", [np.array([5.0, 5.0]), np.full(400, 7.0), np.full(3, 900.0)])
def test_short_and_constant_traces_stay_finite(read, times):
    found = read(times)
    if isinstance(found, tuple):
        assert all(np.isfinite(part).all() for part in found)


@pytest.mark.parametrize(
    ("words", "size"),
    [
        ("1080p", (1920, 1080)),
        ("4K", (3840, 2160)),
        ("2560×1440", (2560, 1440)),
        (" 800 x 600 ", (800, 600)),
        ("1200p", (2133, 1200)),
        ("High", None),
        ("0p", None),
        ("4x4", None),  # a link of four lanes
        ("99p", None),
        ("320x200", (320, 200)),
        ("", None),
    ],
)
def test_resolutions_are_read_as_people_write_them(words, size):
    assert pixels(words) == size
    assert megapixels(words) == (None if size is None else size[0] * size[1] / 1e6)


def test_a_digest_ends_at_the_5th_and_95th_percentiles_and_its_mean_is_over_time():
    # numpy.quantile and numpy.average.
    times, heat = noisy(16.7, 4000, spread=0.3), np.random.default_rng(2).normal(60, 5, 4000)
    (found,) = digests({"card temp C": heat}, times)
    assert found.low == pytest.approx(np.quantile(heat, 0.05), rel=1e-3)
    assert found.high == pytest.approx(np.quantile(heat, 0.95), rel=1e-3)
    assert found.mean == pytest.approx(np.average(heat, weights=times), rel=1e-4)


def test_of_two_refresh_rates_that_fit_the_slower_is_taken_unless_the_faster_fits_more():
    sixty, faster = np.full(850, 1000 / 60), np.full(150, 1000 / 120)
    assert observe(sixty, refresh_hz=(60.0, 120.0)).grid_hz == 60.0
    assert observe(np.concatenate([sixty, faster]), refresh_hz=(60.0, 120.0)).grid_hz == 120.0


@pytest.mark.parametrize("frames", range(1199, 1203))
def test_a_held_rate_whose_last_block_is_one_frame_has_no_slope(frames):
    found = observe(np.full(frames, 1000.0 / 60.0))
    assert (found.slope_per_min, found.slope_low, found.slope_high) == (0.0, 0.0, 0.0)


def test_a_block_ends_with_its_last_frame():
    levels, ends_s = block_levels(np.full(124, 16.0), 1.0)
    assert levels == pytest.approx([16.0, 16.0])
    assert ends_s == pytest.approx([62 * 0.016, 124 * 0.016])


def test_medians_without_gaps_are_numpys():
    from blunt_ruler.core.measure.trace_summary import _middles

    rng = np.random.default_rng(5)
    groups = rng.normal(size=(7, 60, 4))
    groups[:, -1, -1] = np.nan
    groups[2, 3, 1] = np.nan
    assert _middles(groups) == pytest.approx(np.nanmedian(groups, axis=1))
