"""Turn frame times into figures.

Every rate a review prints comes from here. Frame times are in milliseconds, shape (n,),
all finite and above zero, n at least 2; anything else raises BadFrames. The average is
total frames over total time, never the mean of per-frame rates, and a low always carries
its school. Refused: mixing generated frames with rendered ones; the case says which a
trace holds.
"""

import math
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from pydantic import BaseModel, ConfigDict

from blunt_ruler.core.errors import BadFrames
from blunt_ruler.core.measure.compiled import compiled
from blunt_ruler.core.measure.robust_line import quantile_of
from blunt_ruler.core.measure.special import stdtrit
from blunt_ruler.core.types import BoolArray, FloatArray

SHORTEST_MS, LONGEST_MS = 1e-3, 86_400_000.0  # a million frames a second, and a day for one
_ranks = compiled("scipy.ndimage._rank_filter_1d", "scipy.ndimage")

STUTTER_WINDOW_FRAMES = 49
REFLECT = 2  # scipy.ndimage's number for mirroring at the ends
STUTTER_RATIO = 2.0
STUTTER_EXCESS_MS = 8.0


class LowSchool(StrEnum):
    """How a low is computed; printed with every low."""

    PERCENTILE = "percentile"
    WORST_MEAN = "worst-mean"
    TIME_SHARE = "time-share"


class Lows(BaseModel):
    """One low by each school, in frames per second; None where there are too few frames."""

    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True)

    percentile: float | None
    worst_mean: float | None
    time_share: float | None

    def by(self, school: LowSchool) -> float | None:
        """The low of one school."""
        match school:
            case LowSchool.PERCENTILE:
                return self.percentile
            case LowSchool.WORST_MEAN:
                return self.worst_mean
            case LowSchool.TIME_SHARE:
                return self.time_share


class FrameFigures(BaseModel):
    """Every figure of one trace; rates in frames per second.

    `minimum_fps` and `maximum_fps` rest on a single frame each and are shown as fragile.
    """

    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True)

    frames: int
    duration_s: float
    average_fps: float
    median_fps: float
    low_1: Lows
    low_01: Lows
    minimum_fps: float
    maximum_fps: float
    stutters_per_min: float
    stutter_time_share: float

    def steadiness(self, school: LowSchool) -> float | None:
        """low₁ / average: 1 is perfectly even. None where there is no 1 % low."""
        low = self.low_1.by(school)
        return None if low is None else low / self.average_fps


@dataclass(frozen=True, slots=True)
class Stutter:
    """Frames that took over twice the running median and at least 8 ms more than it."""

    is_stutter: BoolArray  # shape (n,)
    per_min: float
    time_share: float


def checked_frame_times(frame_times_ms: FloatArray, where: str = "trace") -> FloatArray:
    """The same frame times as float64, or BadFrames naming the first frame that is wrong."""
    times = np.asarray(frame_times_ms, dtype=np.float64)
    if times.ndim != 1 or times.size < 2:
        raise BadFrames(
            where,
            f"{times.size} frame times are too few for an average",
            "Give a trace of at least 2 frames",
        )
    sound = (times >= SHORTEST_MS) & (times <= LONGEST_MS)
    if not sound.all():
        first = int(np.flatnonzero(~sound)[0])
        raise BadFrames(
            where,
            f"frame {first + 1} has the frame time {times[first]} ms",
            f"Frame times must lie between {SHORTEST_MS:g} ms and a day",
        )
    return times


def average_fps(frame_times_ms: FloatArray) -> float:
    """Frames over time: 1000 n / Σt. Shape (n,), ms."""
    return float(1000.0 * frame_times_ms.size / frame_times_ms.sum())


def fewest_frames_for(share: float) -> int:
    """Frames a trace must hold before a low at this share means anything: 1/share."""
    return math.ceil(1.0 / share - 1e-9)


def why_no_low(frames: int, share: float) -> str | None:
    """The sentence to print in place of a low, or None where there are enough frames."""
    fewest = fewest_frames_for(share)
    if frames >= fewest:
        return None
    return (
        f"no {share * 100:g} % low: it needs at least {fewest} frames and this trace has {frames}"
    )


def lows_of(ascending_ms: FloatArray, share: float) -> Lows:
    """The low at `share` of frame times that rise, shape (n,), by all three schools.

    percentile: 1000 / quantile(t, 1 − share), Hyndman and Fan type 7.
    worst-mean: 1000 / mean of the ⌈share·n⌉ longest frames.
    time-share: walking the frames from the longest, the rate of the frame with which those
    passed fill `share` of the total time.
    """
    n = ascending_ms.size
    if n < fewest_frames_for(share):
        return Lows(percentile=None, worst_mean=None, time_share=None)
    worst = ascending_ms[n - math.ceil(share * n - 1e-9) :]
    passed_ms = np.cumsum(ascending_ms[::-1])
    at = min(int(np.searchsorted(passed_ms, share * passed_ms[-1])), n - 1)
    return Lows(
        percentile=1000.0 / quantile_of(ascending_ms, 1.0 - share),
        worst_mean=float(1000.0 / worst.mean()),
        time_share=float(1000.0 / ascending_ms[n - 1 - at]),
    )


def _running_median(frame_times_ms: FloatArray) -> FloatArray:
    """The median of 49 frames around each, mirrored at both ends."""
    half, size = STUTTER_WINDOW_FRAMES // 2, STUTTER_WINDOW_FRAMES
    given = np.ascontiguousarray(frame_times_ms, np.float64)
    if given.size <= size:  # fewer than a window are beyond the compiled part
        mirrored = np.pad(given, half, mode="symmetric")
        around = np.lib.stride_tricks.sliding_window_view(mirrored, size)
        return np.asarray(np.partition(around, half, axis=1)[:, half])
    if hasattr(_ranks, "median_filter"):  # the whole package
        return np.asarray(_ranks.median_filter(given, size, mode="reflect"))
    found = np.empty_like(given)
    _ranks.rank_filter(given, half, size, found, REFLECT, 0.0, 0)
    return found


def find_stutter(frame_times_ms: FloatArray) -> Stutter:
    """Frames over 2 × the running median of 49 frames and at least 8 ms above it.

    At both ends the window is filled by mirroring the trace.
    """
    median_ms = _running_median(frame_times_ms)
    is_stutter = (frame_times_ms > STUTTER_RATIO * median_ms) & (
        frame_times_ms >= median_ms + STUTTER_EXCESS_MS
    )
    total_ms = float(frame_times_ms.sum())
    return Stutter(
        is_stutter=is_stutter,
        per_min=float(is_stutter.sum() / (total_ms / 60_000.0)),
        time_share=float(frame_times_ms[is_stutter].sum() / total_ms),
    )


def measure(frame_times_ms: FloatArray, where: str = "trace") -> FrameFigures:
    """All figures of one trace. Shape (n,), ms; raises BadFrames naming `where`."""
    times = checked_frame_times(frame_times_ms, where)
    ascending = np.sort(times)
    n = times.size
    median_ms = float(ascending[(n - 1) // 2] + ascending[n // 2]) / 2.0
    stutter = find_stutter(times)
    return FrameFigures(
        frames=n,
        duration_s=float(times.sum() / 1000.0),
        average_fps=average_fps(times),
        median_fps=1000.0 / median_ms,
        low_1=lows_of(ascending, 0.01),
        low_01=lows_of(ascending, 0.001),
        minimum_fps=float(1000.0 / ascending[-1]),
        maximum_fps=float(1000.0 / ascending[0]),
        stutters_per_min=stutter.per_min,
        stutter_time_share=stutter.time_share,
    )


@dataclass(frozen=True, slots=True)
class SampledRate:
    """The mean of a rate that was looked at again and again, with its 95 % interval; no lows."""

    average_fps: float
    low_95: float
    high_95: float
    samples: int


def sampled_rate(rates_fps: FloatArray) -> SampledRate:
    """Mean of samples taken at even intervals: x̄ ± t(0.975, n − 1)·s/√n. Shape (n,), n at least 2.

    Samples are of time, not of frames, so their mean is the average rate over that time.
    """
    n = rates_fps.size
    if n < 2:
        raise BadFrames("samples", f"{n} samples are too few", "Give at least 2")
    mean = float(rates_fps.mean())
    half = float(stdtrit(n - 1, 0.975) * rates_fps.std(ddof=1) / math.sqrt(n))
    return SampledRate(mean, max(mean - half, 0.0), mean + half, n)


def frame_ends_s(frame_times_ms: FloatArray) -> FloatArray:
    """Σt up to and with each frame: when it ended, s from the start of the trace. Shape (n,)."""
    return np.cumsum(frame_times_ms) / 1000.0


def part_between(frame_times_ms: FloatArray, from_s: float | None, to_s: float | None) -> slice:
    """Which frames lie wholly between two moments of the trace, as a slice.

    A frame starts where the one before it ended; the first starts at 0 s. Raises BadFrames
    where fewer than two frames are left.
    """
    ends_s = frame_ends_s(frame_times_ms)
    starts_s = ends_s - frame_times_ms / 1000.0
    tolerance_s = 1e-9 * max(1.0, float(ends_s[-1]) if ends_s.size else 1.0)
    first = 0 if from_s is None else int(np.searchsorted(starts_s, from_s - tolerance_s))
    last = (
        ends_s.size
        if to_s is None
        else int(np.searchsorted(ends_s, to_s + tolerance_s, side="right"))
    )
    if last - first < 2:
        raise BadFrames(
            "trim",
            f"fewer than 2 frames lie between {from_s or 0:g} s and "
            f"{'the end' if to_s is None else f'{to_s:g} s'}",
            f"The trace runs from 0 to {float(ends_s[-1]) if ends_s.size else 0:.3f} s",
        )
    return slice(first, last)
