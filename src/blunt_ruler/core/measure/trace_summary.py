"""Read a trace once: the numbers on which every check of a run decides.

They are stored with the run, so that checking a logbook needs no trace, and so that other
thresholds give other findings at once. Nothing here decides anything.
"""

from collections.abc import Mapping

import numpy as np

from blunt_ruler.core.measure.frames import find_stutter, frame_ends_s
from blunt_ruler.core.measure.profile import Profile, grain_ms, peaks_text, profile_of, profile_text
from blunt_ruler.core.measure.robust_line import median_of, theil_sen
from blunt_ruler.core.measure.telemetry import Gauge, GaugeDigest, digests
from blunt_ruler.core.measure.trimming import block_levels, propose_trim
from blunt_ruler.core.types import FloatArray
from blunt_ruler.core.values import Value

# Refresh rates that monitors have; a lock stands on one of them or on a whole fraction.
REFRESH_HZ = (24, 30, 48, 50, 60, 72, 75, 90, 100, 120, 144, 165, 170, 175, 180, 240, 280, 360)
ON_STEP = 0.01  # a window's rate within this share of the commonest is on the step
ON_GRID = 0.04  # a frame time within this share of the period from a whole multiple is on the grid
WINDOW_S = 1.0
EARLY_S = 20.0
DRIFT_BLOCK_S = 2.0
PAIRING_FRAMES = 200
TWIN_FRAMES = 240  # a whole number of groups of two, three and four
MOST_TWIN_BLOCKS = 200
COARSE = 0.01  # a log whose last digit is more of a frame piles frames up by itself
EDGE_WINDOWS = 16
ON_EDGE = 0.006  # windows this near the edge, in log rate, stand on it
EDGE_ABOVE = 0.03
EDGE_CROWDED = 2.0
ON_WALL = 0.006
WALL_SHORTER = 0.03


class Observed(Value):
    """What one trace shows; rates in frames per second, times in seconds.

    Attributes:
        step_fps, step_share: the commonest rate of one-second windows, and the share of windows
            within 1 % of it.
        grid_hz, grid_share, grid_others: the refresh rate whose multiples hold the most frame
            times, that share, and the share on other multiples than the commonest.
        early_stutters_per_min, late_stutters_per_min: in the first 20 s or third, and after.
        head_s, tail_s: how much a trim is proposed to cut at the ends; `cut_why` says what.
        slope_per_min: Theil–Sen slope of the log rate, with its 95 % interval.
        edge_fps, edge_share, edge_calm: the rate that the fastest windows stand on, the share
            of windows there, and how restless frames are there against the others, 1 for alike;
            or the same of single frames, and how many stand just beside against there. A share
            of 0 where nothing crowds at the top.
        middle_s, middle_from_s, middle_why: a stretch inside that stands on another level.
        longest_ms: the longest frame.
        pairing: how strongly frame times alternate in pairs, 0 to 1.
        twins: how much more alike frames of one group of two, three or four are than
            neighbours of two groups, 0 to 1: a rendered frame and the ones made from it.
        profile, peaks: the course of the pass and where its longest frames stand, as text.
        gauges: digests of the telemetry.
    """

    step_fps: float
    step_share: float
    grid_hz: float
    grid_share: float
    early_stutters_per_min: float
    late_stutters_per_min: float
    grid_others: float = 0.0
    head_s: float = 0.0
    tail_s: float = 0.0
    cut_why: str = ""
    slope_per_min: float = 0.0
    slope_low: float = 0.0
    slope_high: float = 0.0
    pairing: float = 0.0
    twins: float = 0.0
    edge_fps: float = 0.0
    edge_share: float = 0.0
    edge_calm: float = 1.0
    middle_s: float = 0.0
    middle_from_s: float = 0.0
    middle_why: str = ""
    longest_ms: float = 0.0
    profile: str = ""
    peaks: str = ""
    gauges: tuple[GaugeDigest, ...] = ()

    def gauge(self, gauge: Gauge) -> GaugeDigest | None:
        """The digest of one gauge, None where the log did not hold it."""
        for one in self.gauges:  # a loop: it is asked for every run there is
            if one.gauge is gauge:
                return one
        return None


def observe(
    frame_times_ms: FloatArray,
    telemetry: Mapping[str, FloatArray] | None = None,
    refresh_hz: tuple[float, ...] = REFRESH_HZ,
) -> Observed:
    """Read a trace. Shape (n,), ms, all finite and above 0, n at least 2."""
    times = np.asarray(frame_times_ms, dtype=np.float64)
    step_fps, step_share = _step(times)
    grid_hz, grid_share, grid_others = _grid(times, refresh_hz)
    early, late = _stutters(times)
    profile = profile_of(times)
    trim = propose_trim(times, profile)
    total_s = float(times.sum()) / 1000.0
    slope, low, high = _slope(times)
    fine = grain_ms(times) < COARSE * median_of(times)
    held = [_edge(profile), _wall(times)] if fine else [(0.0, 0.0, 1.0)]
    edge_fps, edge_share, edge_calm = max(held, key=lambda one: one[1])
    return Observed(
        step_fps=_short(step_fps),
        step_share=_short(step_share),
        grid_hz=grid_hz,
        grid_share=_short(grid_share),
        grid_others=_short(grid_others),
        early_stutters_per_min=_short(early),
        late_stutters_per_min=_short(late),
        head_s=_short(trim.from_s or 0.0, 6),
        tail_s=_short(total_s - trim.to_s if trim.to_s is not None else 0.0, 6),
        cut_why=trim.why,
        slope_per_min=_short(slope),
        slope_low=_short(low),
        slope_high=_short(high),
        pairing=_short(_pairing(times)),
        twins=_short(_twins(times) if fine else 0.0),
        edge_fps=_short(edge_fps),
        edge_share=_short(edge_share),
        edge_calm=_short(edge_calm),
        middle_s=_short(trim.middle_s),
        middle_from_s=_short(trim.middle_from_s),
        middle_why=trim.middle_why,
        longest_ms=_short(float(times.max()), 6),
        profile=profile_text(profile),
        peaks=peaks_text(times),
        gauges=digests(telemetry or {}, times),
    )


def _short(value: float, digits: int = 4) -> float:
    return float(f"{float(value):.{digits}g}")


def _step(times_ms: FloatArray) -> tuple[float, float]:
    """(commonest rate of one-second windows, share of windows within 1 % of it)."""
    ends_s = frame_ends_s(times_ms)
    last_of = np.flatnonzero(np.diff(np.floor(ends_s / WINDOW_S)))
    if last_of.size < 4:
        rate = 1000.0 * times_ms.size / float(times_ms.sum())
        return rate, 0.0
    rates = np.diff(last_of) / np.diff(ends_s[last_of])
    near = np.abs(rates[:, None] / rates[None, :600] - 1.0) <= ON_STEP
    counts = near.sum(axis=0)
    best = int(np.argmax(counts))
    return float(rates[near[:, best]].mean()), float(counts[best] / rates.size)


def _edge(profile: Profile) -> tuple[float, float, float]:
    """(rate the fastest windows stand on, share of windows there, restlessness there against
    that of the others). No share where windows do not crowd at the top: a scene that rises and
    falls thins out towards its fastest moments, a held rate ends on a wall.
    """
    rates = profile.log_rates
    if rates.size < EDGE_WINDOWS:
        return 0.0, 0.0, 1.0
    near = np.abs(rates[:, None] - rates[None, :]) <= ON_EDGE
    counts = near.sum(axis=0)
    edge = median_of(rates[near[:, int(np.argmax(counts))]])
    on = np.abs(rates - edge) <= ON_EDGE
    above = np.mean(rates > edge + 2.0 * ON_EDGE)
    below = np.mean((rates < edge - ON_EDGE) & (rates >= edge - 3.0 * ON_EDGE))
    share = float(on.mean())
    if above > EDGE_ABOVE or share < EDGE_CROWDED * below:
        return float(np.exp(edge)), 0.0, 1.0
    off = profile.restless[~on]
    calm = 1.0
    if off.size >= EDGE_WINDOWS // 4 and (usual := median_of(off)) > 0:
        calm = median_of(profile.restless[on]) / usual
    return float(np.exp(edge)), share, calm


def _wall(times_ms: FloatArray) -> tuple[float, float, float]:
    """(rate that the shortest frames stand on, share of frames there, how many stand in as wide
    a band just beside against there). No share where shorter frames are not rare: a scene's
    frames thin out towards the shortest, those of a cap end on a wall.
    """
    logs = np.sort(np.log(times_ms[:: max(times_ms.size // 20_000, 1)]))
    counts = np.searchsorted(logs, logs + ON_WALL) - np.arange(logs.size)
    first = int(np.argmax(counts))
    wall = float(logs[first : first + int(counts[first])].mean())
    share = float(counts[first]) / logs.size
    beside = np.searchsorted(logs, logs[first] + 2.0 * ON_WALL) - first - int(counts[first])
    if first > WALL_SHORTER * logs.size or counts[first] < EDGE_CROWDED * max(beside, 1):
        return float(1000.0 / np.exp(wall)), 0.0, 1.0
    return float(1000.0 / np.exp(wall)), share, float(beside) / float(counts[first])


def _grid(times_ms: FloatArray, refresh_hz: tuple[float, ...]) -> tuple[float, float, float]:
    """(refresh rate whose whole multiples hold the most frame times, that share, the share on
    other multiples than the commonest).
    """
    sample = times_ms[:: max(times_ms.size // 20_000, 1)]
    best, share, on = 0.0, 0.0, sample[:0]
    for hz in sorted(refresh_hz):
        periods = sample * hz / 1000.0
        whole = np.rint(periods)
        is_on = (np.abs(periods - whole) <= ON_GRID) & (whole > 0)
        here = np.count_nonzero(is_on) / sample.size
        if here > share + 0.02:  # of two that fit, the slower is the plainer
            best, share, on = float(hz), here, whole[is_on]
    most = float(np.unique(on, return_counts=True)[1].max(initial=0)) / sample.size
    return best, share, share - most


def _stutters(times_ms: FloatArray) -> tuple[float, float]:
    """Stutters a minute in the first 20 s (or third, where shorter) and in the rest."""
    ends_s = frame_ends_s(times_ms)
    total_s = float(ends_s[-1])
    split_s = min(EARLY_S, total_s / 3.0)
    at_s = ends_s[find_stutter(times_ms).is_stutter]
    early = float(np.sum(at_s <= split_s))
    return 60.0 * early / split_s, 60.0 * (at_s.size - early) / (total_s - split_s)


def _slope(times_ms: FloatArray) -> tuple[float, float, float]:
    """Theil–Sen slope of the log rate per minute over blocks of 2 s or more, and its interval."""
    total_s = float(times_ms.sum()) / 1000.0
    levels_ms, ends_s = block_levels(times_ms, max(DRIFT_BLOCK_S, total_s / 200.0))
    if levels_ms.size < 5:
        return 0.0, 0.0, 0.0
    return theil_sen(-np.log(levels_ms), ends_s / 60.0)


def _pairing(times_ms: FloatArray) -> float:
    """How strongly frames come in pairs: the median over blocks of 200 frames of the share of
    the variance of neighbouring differences that an alternation explains.
    """
    blocks = times_ms.size // PAIRING_FRAMES
    if blocks < 1:
        return 0.0
    logs = np.log(times_ms[: blocks * PAIRING_FRAMES]).reshape(blocks, PAIRING_FRAMES)
    steps = (logs[:, 0::2] - logs[:, 1::2]) / 2.0
    means = steps.mean(axis=1)
    return median_of(means**2 / (np.mean(steps**2, axis=1) + 1e-12))


def _twins(times_ms: FloatArray) -> float:
    """How much less frames change inside groups of two, three or four than from group to group:
    1 less the median over blocks of 240 frames of the ratio of the median changes.
    """
    blocks = times_ms.size // TWIN_FRAMES
    if blocks < 1:
        return 0.0
    every = -(-blocks // MOST_TWIN_BLOCKS)
    logs = np.log(times_ms[: blocks * TWIN_FRAMES].reshape(blocks, TWIN_FRAMES)[::every])
    changes = np.abs(np.diff(logs, axis=1, append=np.nan))
    best = 0.0
    for size in (2, 3, 4):
        groups = changes.reshape(len(logs), -1, size)
        between = _middles(groups)  # (blocks, size), by place in the group
        second, first = np.sort(between, axis=1)[:, -2:].T[:, :, None]
        inside = np.where(between == first, second, first)  # the most of the other places
        best = max(best, *(1.0 - median_of(ratio) for ratio in (inside / (between + 1e-9)).T))
    return best


def _middles(groups: FloatArray) -> FloatArray:
    """Medians along the middle axis without what is NaN: numpy's nanmedian, many times as quick."""
    count = np.isfinite(groups).sum(axis=1, keepdims=True)
    ascending = np.sort(groups, axis=1)  # NaN comes last
    low = np.take_along_axis(ascending, (count - 1) // 2, axis=1)
    high = np.take_along_axis(ascending, count // 2, axis=1)
    return np.asarray((low + high)[:, 0] / 2.0)
