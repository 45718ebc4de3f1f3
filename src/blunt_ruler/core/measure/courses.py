"""Passes of one cell laid beside each other: where one leaves the course that the others keep.

What all passes share is the scene. A pass is odd where most of the others agree with one another
and not with it, so one odd pass never makes the sound ones look odd.
"""

import math
from functools import lru_cache
from typing import NamedTuple

import numpy as np

from blunt_ruler.core.measure.profile import Profile, profile_from
from blunt_ruler.core.measure.robust_line import median_of
from blunt_ruler.core.types import FloatArray

MOST_LAG_S = 10.0
LAG_SAVES = 0.6  # a shift must leave this share of the misfit or less, else passes line up as is
SMOOTH_S = 1.5
ODD = 0.06  # log rate; common practice, no source: three per cent are level, twice that is odd
ODD_NOISES = 5.0
ODD_S = 1.5
LEAST_RESTLESS = 1e-3  # no smaller change is kept
WARP_S, WARP = 1.5, 0.015  # seconds, and share of the run, by which cuts may be out of step
TOGETHER, SIZES_APART_S = 0.045, 2.0  # log rate, and seconds: no check speaks of less
FEWEST_WINDOWS = 16
FEWEST_OTHERS = 2
MOST_BESIDE = 24


class Stretch(NamedTuple):
    """Where a pass leaves the others: seconds of that pass, by how much in log rate, and how
    restless its frames are there against the calmest of the others near it.
    """

    from_s: float
    to_s: float
    by: float
    restless: float


class Course(NamedTuple):
    """One pass against the others of its cell.

    Attributes:
        early_s: how much earlier than the others' its recording begins; 0 where they agree.
        early_restless: how restless that part is against the rest of it.
        stretches: where it leaves the course of the others.
        follows: slope of its log rate on that of the others, 1 for the same scene.
        moves: standard deviation of the others' log rate: without any, nothing can be followed.
        agree: correlation of the others with one another.
        trend: change against the others from start to end, log rate.
        trend_usual: the same between the others, as a size.
    """

    early_s: float
    early_restless: float
    stretches: tuple[Stretch, ...]
    follows: float
    moves: float
    agree: float
    trend: float
    trend_usual: float


SAME = Course(0.0, 1.0, (), 1.0, 0.0, 1.0, 0.0, 0.0)


@lru_cache(maxsize=256)
def courses(profiles: tuple[str, ...]) -> tuple[Course | None, ...]:
    """The course of each pass against the others, given the profiles of a cell as kept text.

    None for a pass that cannot be compared: fewer than two others have a profile. Of very many
    passes each is laid beside some: beside all of them takes as long as their number cubed.
    """
    if len(profiles) > MOST_BESIDE:
        groups = -(-len(profiles) // MOST_BESIDE)
        spread: list[Course | None] = [None] * len(profiles)
        for group in range(groups):
            spread[group::groups] = courses(profiles[group::groups])
        return tuple(spread)
    read = [profile_from(text) for text in profiles]
    there = [
        index for index, one in enumerate(read) if one and one.log_rates.size >= FEWEST_WINDOWS
    ]
    if len(there) <= FEWEST_OTHERS:
        return (None,) * len(profiles)
    window_s, lined = _on_one_clock([one for index in there if (one := read[index])])
    found: list[Course | None] = [None] * len(profiles)
    if _all_agree(lined, window_s):
        for index in there:
            found[index] = SAME
        return tuple(found)
    most = round(MOST_LAG_S / window_s)
    lags = np.zeros((len(lined), len(lined)), dtype=int)
    for i, one in enumerate(lined):
        for j in range(i):
            lags[i, j] = _lag(one.log_rates, lined[j].log_rates, most)
            lags[j, i] = -lags[i, j]
    for place, index in enumerate(there):
        found[index] = _course(place, lined, lags, window_s)
    return tuple(found)


def _all_agree(lined: list[Profile], window_s: float) -> bool:
    """Whether all passes keep one course as they stand: then nothing is left to lay beside it."""
    sizes = [one.log_rates.size for one in lined]
    if max(sizes) - min(sizes) > SIZES_APART_S / window_s:
        return False
    smooth = max(1, round(SMOOTH_S / window_s))
    rows = np.array([_smoothed(one.log_rates[: min(sizes)], smooth) for one in lined])
    rows -= np.median(rows, axis=1, keepdims=True)
    return bool(np.ptp(rows, axis=0).max() <= TOGETHER)


def _on_one_clock(profiles: list[Profile]) -> tuple[float, list[Profile]]:
    """(window in s, the profiles in windows of the longest among them)."""
    window_s = max(one.window_s for one in profiles)
    return window_s, [_rewindowed(one, window_s) for one in profiles]


def _rewindowed(profile: Profile, window_s: float) -> Profile:
    if profile.window_s == window_s:
        return profile
    own = (np.arange(profile.log_rates.size) + 0.5) * profile.window_s
    at = (np.arange(int(profile.log_rates.size * profile.window_s / window_s)) + 0.5) * window_s
    return Profile(
        window_s, np.interp(at, own, profile.log_rates), np.interp(at, own, profile.restless)
    )


def _lag(one: FloatArray, other: FloatArray, most: int) -> int:
    """By how many windows the same scene comes later in the first; 0 unless shifting explains
    most of what is apart.
    """
    padded = np.pad(other, (most, most + max(one.size - other.size, 0)), constant_values=np.nan)
    # Row `most − lag` holds the other pass as it stands beside the first at that lag.
    beside = np.lib.stride_tricks.sliding_window_view(padded, one.size)[: 2 * most + 1][::-1]
    apart = one - beside
    there = np.isfinite(apart)
    sizes = there.sum(axis=1)
    apart = np.where(there, apart, 0.0)
    middles = apart.sum(axis=1) / np.maximum(sizes, 1)
    # Capped squares: a freeze or a burst must not choose the lag.
    off = np.where(there, np.clip(apart - middles[:, None], -0.12, 0.12), 0.0)
    misses = np.sum(off * off, axis=1) / np.maximum(sizes, 1)
    enough = sizes >= max(FEWEST_WINDOWS, min(one.size, other.size) // 2)
    misses = np.where(enough, misses, np.inf)
    unmoved = misses[len(misses) // 2]
    best = int(np.argmin(misses))
    return best - len(misses) // 2 if misses[best] <= LAG_SAVES * unmoved else 0


def _course(own: int, lined: list[Profile], lags: np.ndarray, window_s: float) -> Course:
    rates = lined[own].log_rates
    rest = [index for index in range(len(lined)) if index != own]
    others = _beside(lined, lags, own, rest, of_rates=True)
    shared = np.isfinite(others).all(axis=0)
    early = [int(lags[own, index]) for index in rest]
    early_windows = min(early) if min(early) > 0 else 0
    between = max(abs(int(lags[i, j])) for i in rest for j in rest)
    if between * 2 > early_windows:
        early_windows = 0
    if shared.sum() < FEWEST_WINDOWS:
        return Course(0.0, 1.0, (), 1.0, 0.0, 0.0, 0.0, 0.0)
    smooth = max(1, round(SMOOTH_S / window_s))
    mine = _smoothed(rates[shared], smooth)
    theirs = np.array([_smoothed(row[shared], smooth) for row in others])
    apart = mine - theirs
    apart -= np.median(apart, axis=1, keepdims=True)
    pairs = [(i, j) for i in range(len(rest)) for j in range(i)]
    usual = np.array([theirs[i] - theirs[j] for i, j in pairs])
    usual -= np.median(usual, axis=1, keepdims=True)
    sizes = np.abs(usual)
    noise = 1.4826 * median_of(np.median(sizes, axis=1))
    least = max(ODD, ODD_NOISES * noise)
    enough = len(rest) // 2 + 1  # most of the others must say so
    # A cut of the scene comes a little sooner or later in each pass: a pass is odd where it leaves
    # what the others have anywhere near.
    near = round(max(WARP_S, WARP * shared.sum() * window_s) / window_s)
    level = np.median(mine - theirs, axis=1, keepdims=True)
    highest, lowest = _highest(theirs + level, near), -_highest(-theirs - level, near)
    apart_there = _highest(sizes.max(axis=0)[None, :], near)[0]
    least_there = np.maximum(least, apart_there)  # no farther than the others are from each other
    above = np.sum(mine > highest + least_there, axis=0) >= enough
    below = np.sum(mine < lowest - least_there, axis=0) >= enough
    at = np.flatnonzero(shared)
    restless = lined[own].restless
    calm = median_of(restless) or 1.0
    middle = np.median(apart, axis=0)
    odd = [
        (start, end)
        for mask in (above, below)
        for start, end in _runs(mask)
        if (end - start) * window_s >= ODD_S
    ]
    calmest = _calmest(_beside(lined, lags, own, rest)[:, shared], near) if odd else middle
    stretches = [
        Stretch(
            float(at[start] * window_s),
            float((at[end - 1] + 1) * window_s),
            median_of(middle[start:end]),
            median_of(restless[at[start] : at[end - 1] + 1])
            / max(median_of(calmest[start:end]), LEAST_RESTLESS),
        )
        for start, end in odd
    ]
    course = np.median(theirs - np.median(theirs, axis=1, keepdims=True), axis=0)
    moves = float(np.std(course))
    follows = float(np.cov(mine, course)[0, 1] / np.var(course, ddof=1)) if moves > 0 else 1.0
    agree = min((_correlation(theirs[i], theirs[j]) for i, j in pairs), default=0.0)
    return Course(
        early_windows * window_s,
        median_of(restless[:early_windows]) / calm if early_windows else 1.0,
        tuple(sorted(stretches)),
        follows,
        moves,
        agree,
        _trend(middle),
        max(abs(_trend(row)) for row in usual),
    )


def _beside(
    lined: list[Profile], lags: np.ndarray, own: int, rest: list[int], *, of_rates: bool = False
) -> FloatArray:
    """The other passes on one's own time, NaN where they have nothing: rates or restlessness."""
    size = lined[own].log_rates.size
    rows = np.full((len(rest), size), np.nan)
    for row, index in enumerate(rest):
        lag, one = int(lags[own, index]), lined[index]
        theirs = one.log_rates if of_rates else one.restless
        start, end = max(0, lag), min(size, theirs.size + lag)
        rows[row, start:end] = theirs[start - lag : end - lag]
    return rows


def _highest(rows: FloatArray, near: int) -> FloatArray:
    """The highest of each row within `near` windows; shape (k, n)."""
    ends = np.repeat(rows[:, :1], near, axis=1), np.repeat(rows[:, -1:], near, axis=1)
    wide = np.concatenate([ends[0], rows, ends[1]], axis=1)
    around = np.lib.stride_tricks.sliding_window_view(wide, 2 * near + 1, axis=1)
    return np.asarray(around.max(axis=2))


def _calmest(rows: FloatArray, near: int) -> FloatArray:
    """The middle of the passes, each by its calmest within `near` windows; shape (n,)."""
    return np.asarray(np.median(-_highest(-rows, near), axis=0))


def _smoothed(values: FloatArray, windows: int) -> FloatArray:
    before, after = windows // 2, (windows - 1) // 2
    padded = np.concatenate([[values[0]] * before, values, [values[-1]] * after])
    return np.convolve(padded, np.ones(windows) / windows, "valid")


def _runs(mask: np.ndarray) -> list[tuple[int, int]]:
    edges = np.flatnonzero(np.diff(np.concatenate([[False], mask, [False]]).astype(int)))
    return [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]


def _correlation(one: FloatArray, other: FloatArray) -> float:
    one, other = one - one.mean(), other - other.mean()
    size = float(one @ one) * float(other @ other)
    return float(one @ other) / math.sqrt(size) if size > 0 else 0.0


def _trend(apart: FloatArray) -> float:
    """Change from start to end: the medians of the last and the first third, half again."""
    third = apart.size // 3
    return 1.5 * (median_of(apart[-third:]) - median_of(apart[:third]))
