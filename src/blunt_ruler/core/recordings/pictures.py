"""Frame times from the pictures of a recording: which are new, and which the one before again.

A recorder keeps a picture at even moments. A game slower than it leaves some twice, so that its new
pictures, counted, are its frames, in steps of the recorder's period. A game as fast as it or faster
cannot be counted: every picture is new, and how many were lost nobody knows.
"""

from dataclasses import dataclass

import numpy as np

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.types import BoolArray, FloatArray

REPEATED = 0.22  # of what new pictures differ nearby: less is the same picture, compressed again
AROUND_S = 1.0
MOVING = 0.5  # levels of brightness by which new pictures differ, at least
WINDOW_S = 2.0
NEAR = 1.15  # periods that a picture stands on average: below, frames fall between two pictures
FAR = 1.5  # from there on none do, even at an uneven pace
FAST_SHARE = 0.05  # of the time that may lie below
FREEZE_MS = 100.0
FEWEST = 10  # new pictures that make an average
TORN = 0.05  # of the new pictures, from which on tearing is named
ALTERNATING = 0.5  # how much less every other new picture differs where pictures are generated


class CannotCount(UserFixable):
    """Pictures that cannot be counted, with the reason."""


@dataclass(frozen=True, slots=True)
class Freeze:
    """A picture that stood still for over 100 ms."""

    at_s: float
    ms: float


@dataclass(frozen=True, slots=True)
class Counted:
    """What counted pictures tell.

    Attributes:
        starts_s: when each new picture was first shown, shape (n,).
        period_ms: the recorder's period, in steps of which frame times come.
        notes: what shows beside: torn pictures, pictures that may be generated.
    """

    starts_s: FloatArray
    period_ms: float
    freezes: tuple[Freeze, ...]
    notes: tuple[str, ...] = ()

    @property
    def frame_times_ms(self) -> FloatArray:
        """How long each new picture stood, shape (n − 1,)."""
        return np.diff(self.starts_s) * 1000.0

    @property
    def average_fps(self) -> float:
        """New pictures over time."""
        return float((self.starts_s.size - 1) / (self.starts_s[-1] - self.starts_s[0]))

    def between(self, from_s: float, to_s: float) -> "Counted | None":
        """The part between two moments; None where too few pictures are new there."""
        inside = (self.starts_s >= from_s - 1e-9) & (self.starts_s < to_s)
        if int(inside.sum()) < FEWEST:
            return None
        freezes = tuple(one for one in self.freezes if from_s <= one.at_s < to_s)
        return Counted(self.starts_s[inside], self.period_ms, freezes, self.notes)


def is_new(at_s: FloatArray, bands: FloatArray) -> BoolArray:
    """Whether each picture is new, shape (n,); `bands` are mean differences, shape (n, bands).

    A picture is the one before again where it differs by less than `REPEATED` of what the pictures
    around differ that do, of a second before and after; the first is new.
    """
    differs = np.nan_to_num(bands).mean(axis=1)
    if differs.size < 3:
        return np.ones(differs.size, dtype=bool)
    usual = _usual(at_s, differs)
    new = differs > REPEATED * usual
    new[0] = True
    return np.asarray(new)


def _usual(at_s: FloatArray, differs: FloatArray) -> FloatArray:
    """What new pictures differ around each: the ninth decile within a second on both sides.

    Where all stand still nothing is new: at least a quarter of what new pictures differ overall.
    """
    step = float(np.median(np.diff(at_s)))
    half = max(int(AROUND_S / max(step, 1e-6)), 2)
    padded = np.pad(differs[1:], half, mode="reflect" if differs.size > half + 1 else "edge")
    windows = np.lib.stride_tricks.sliding_window_view(padded, 2 * half + 1)
    local = np.quantile(windows[:: max(half // 4, 1)], 0.9, axis=1)
    places = np.arange(0, differs.size - 1, max(half // 4, 1))[: local.size]
    usual = np.interp(np.arange(differs.size - 1), places, local)
    overall = float(np.quantile(differs[1:], 0.9))
    return np.concatenate([[overall], np.maximum(usual, max(0.25 * overall, MOVING))])


def count_pictures(at_s: FloatArray, bands: FloatArray, fps: float) -> Counted:
    """Frame times of the pictures of a recording at `fps`; CannotCount says why not.

    Moments in s, shape (n,); mean differences of brightness from the picture before, shape
    (n, bands).
    """
    new = is_new(at_s, bands)
    count = int(new.sum())
    if at_s.size < FEWEST or count < FEWEST:
        raise CannotCount(
            "pictures",
            f"{count} of {at_s.size} are new",
            "Choose a stretch in which the scene moves",
        )
    starts = at_s[new]
    check_slow_enough(starts, fps)
    stood_ms = np.diff(starts) * 1000.0
    period_ms = 1000.0 / fps
    freezes = tuple(
        Freeze(float(at), float(ms))
        for at, ms in zip(starts[:-1], stood_ms, strict=True)
        if ms > FREEZE_MS + 0.5  # times are rounded
    )
    return Counted(starts, period_ms, freezes, _notes(bands, new))


def check_slow_enough(starts_s: FloatArray, fps: float) -> None:
    """CannotCount where frames fell between two pictures, so that the count is too low.

    A frame is lost when it stands for less than a period and no picture is taken meanwhile. Where
    pictures stand for under 1.15 periods on average that happens; between 1.15 and 1.5 it happens
    at an uneven pace, which shows: as pictures that stand for three periods, or two that stand for
    two, one after the other. How many of them go with a loss of 0.6 %, by simulation (log-normal
    frame times): 0.5 % at 1.2 periods, 3.5 % at 1.35.
    """
    stood = np.maximum(np.round(np.diff(starts_s) * fps), 1.0)
    window = np.floor((starts_s[:-1] - starts_s[0]) / WINDOW_S).astype(int)
    seconds = np.bincount(window, weights=stood) / fps
    periods = np.bincount(window, weights=stood) / np.maximum(np.bincount(window), 1)
    there = seconds > 0
    fast = float(seconds[there & (periods < NEAR)].sum() / seconds.sum())
    if fast > FAST_SHARE:
        raise CannotCount(
            "pictures",
            f"for {fast:.0%} of the time the game ran about as fast as the recording's "
            f"{fps:.0f} fps, or faster",
            "Read its counter, or record at a higher rate",
        )
    near = there & (periods >= NEAR) & (periods < FAR)
    inside = near[window]
    if not inside.any():
        return
    follows = np.zeros(stood.size, dtype=bool)
    follows[1:] = (stood[1:] == 2) & (stood[:-1] == 2)
    uneven = float(np.mean((follows | (stood >= 3))[inside]))
    allowed = float(np.mean(0.005 + 0.2 * np.maximum(periods[window][inside] - 1.2, 0.0)))
    if uneven > allowed:
        raise CannotCount(
            "pictures",
            f"at about {fps / float(np.mean(periods[near])):.0f} fps the pace is too uneven for a "
            f"recording of {fps:.0f} fps: frames fell between two pictures",
            "Read its counter, or record at a higher rate",
        )


def _notes(bands: FloatArray, new: BoolArray) -> tuple[str, ...]:
    notes = []
    torn = _torn_share(bands, new)
    if torn > TORN:
        notes.append(f"{torn:.0%} of the new pictures are torn: part of each is the picture before")
    if _alternates(bands, new):
        notes.append("every other new picture differs less: pictures may be generated")
    return tuple(notes)


def _torn_share(bands: FloatArray, new: BoolArray) -> float:
    """The share of new pictures of which one part is new and the rest the picture before.

    Only bands count that move otherwise, and the border must lie at different places.
    """
    inside = np.nan_to_num(bands[1:])[new[1:]]
    if inside.shape[0] < FEWEST:
        return 0.0
    usual = np.quantile(inside, 0.75, axis=0)
    moving = usual > MOVING
    if moving.sum() < 4:
        return 0.0
    fresh = inside[:, moving] > REPEATED * usual[moving]
    changes = np.abs(np.diff(fresh.astype(int), axis=1))
    borders = changes.argmax(axis=1)[changes.sum(axis=1) == 1]
    return 0.0 if np.unique(borders).size < 3 else float(borders.size / inside.shape[0])


def _alternates(bands: FloatArray, new: BoolArray) -> bool:
    """Whether new pictures differ less and more in turn, as made ones between drawn ones do."""
    differs = np.nan_to_num(bands).mean(axis=1)[new][1:]
    if differs.size < 4 * FEWEST:
        return False
    odd, even = differs[: differs.size // 2 * 2 : 2], differs[1 : differs.size // 2 * 2 : 2]
    less = np.minimum(odd, even).mean() < ALTERNATING * np.maximum(odd, even).mean()
    steady = max(np.mean(odd < even), np.mean(even < odd)) > 0.85
    return bool(less and steady)
