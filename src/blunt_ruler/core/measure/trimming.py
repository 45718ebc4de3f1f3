"""Where the measured scene begins and ends inside a trace, and where two passes line up.

A recording often begins in a menu or a loading screen and ends on a results screen. Their frame
times stand on another level, or hardly change where those of the scene do, so change points find
them (penalised least squares on the log of block medians, and of block restlessness). Only
segments at the ends are proposed for cutting, one in the middle is told of, and a proposal cuts
nothing by itself.
"""

import itertools
from dataclasses import dataclass

import numpy as np

from blunt_ruler.core.measure.compiled import compiled
from blunt_ruler.core.measure.frames import frame_ends_s
from blunt_ruler.core.measure.profile import Profile, profile_of
from blunt_ruler.core.measure.robust_line import median_of, medians_of
from blunt_ruler.core.types import FloatArray

_kernels = compiled("ruptures.detection._detection.ekcpd", "ruptures", "ruptures.detection")

BLOCK_S = 0.25
MOST_BLOCKS = 600
PENALTY = 0.6  # a step of half again in rate that lasts over a second lowers the cost by more
MENU_LEVEL = 1.0 / 1.5  # frame times this much below the scene's: nothing is drawn there
LOADING_LEVEL = 2.0
LONGEST_CUT = 0.45  # of the trace at either end
MIDDLE_S = 1.5  # a shorter stretch inside is a stutter or an effect
CALM = 0.9  # log: restlessness at 0.4 of the scene's or less, a still picture
CALM_S = 2.0
CALM_INSIDE = 0.05
CALM_WINDOWS = 20
CALM_FLOOR = 1e-3  # no smaller change is kept
CALM_PENALTY = 2.0  # as for levels: a calm of 0.4 over a second and a half lowers the cost by more


@dataclass(frozen=True, slots=True)
class Segment:
    """A stretch of a trace on one level. `kind` is scene, menu, loading or tail."""

    from_s: float
    to_s: float
    level_ms: float
    kind: str


@dataclass(frozen=True, slots=True)
class Proposal:
    """What to keep of a trace, None for an end that is not cut, and why the rest goes."""

    from_s: float | None
    to_s: float | None
    why: str
    segments: tuple[Segment, ...]
    middle_s: float = 0.0
    middle_from_s: float = 0.0
    middle_why: str = ""


def change_points(levels: FloatArray, penalty: float) -> list[int]:
    """Indices of the first value after each break in the mean, the end not included.

    Penalised least squares (ruptures, kernel change points with a linear kernel).
    """
    if levels.size < 6:
        return []
    values = np.ascontiguousarray(levels, np.float64).reshape(-1, 1)
    if hasattr(_kernels, "KernelCPD"):  # the whole package
        found = _kernels.KernelCPD(kernel="linear", min_size=2).fit(values).predict(pen=penalty)
        return [int(index) for index in found[:-1]]
    before = _kernels.ekcpd_pelt_L2(values, penalty, 2)
    breaks = [int(before[levels.size])]
    while breaks[-1] > 0:
        breaks.append(int(before[breaks[-1]]))
    return breaks[-2::-1]


def block_levels(frame_times_ms: FloatArray, block_s: float) -> tuple[FloatArray, FloatArray]:
    """(median frame time of each block in ms, the block's end in s), blocks without frames left
    out.
    """
    ends_s = frame_ends_s(frame_times_ms)
    blocks = np.floor(ends_s / block_s).astype(np.int64)
    starts = np.append(0, np.flatnonzero(blocks[1:] != blocks[:-1]) + 1)
    return medians_of(frame_times_ms, starts), ends_s[np.append(starts[1:], ends_s.size) - 1]


def propose_trim(frame_times_ms: FloatArray, profile: Profile | None = None) -> Proposal:
    """What to cut at the ends of a trace, shape (n,), ms; its profile where that is known."""
    total_s = float(frame_times_ms.sum()) / 1000.0
    block_s = max(BLOCK_S, total_s / MOST_BLOCKS)
    levels_ms, block_ends_s = block_levels(frame_times_ms, block_s)
    breaks = change_points(np.log(levels_ms), PENALTY)
    edges = [0, *breaks, levels_ms.size]
    kinds = _kinds(levels_ms, edges)
    scenes = [index for index, kind in enumerate(kinds) if kind == "scene"]
    if not scenes:
        return Proposal(None, None, "", ())
    first, last = scenes[0], scenes[-1]
    from_s = _refined(frame_times_ms, block_ends_s[edges[first] - 1], block_s) if first else None
    to_s = None
    if last < len(kinds) - 1:
        to_s = _refined(frame_times_ms, block_ends_s[edges[last + 1] - 1], block_s)
    calm_from_s, calm_to_s = _calm_ends(profile or profile_of(frame_times_ms))
    from_s, to_s = from_s or calm_from_s, to_s or calm_to_s
    if from_s is not None and from_s > LONGEST_CUT * total_s:
        from_s = None
    if to_s is not None and total_s - to_s > LONGEST_CUT * total_s:
        to_s = None
    middle = _middle(frame_times_ms, block_ends_s, edges, kinds)
    if from_s is None and to_s is None:
        return Proposal(None, None, "", (), *middle)
    segments = []
    if from_s is not None:
        segments.append(_segment(frame_times_ms, 0.0, from_s, _name(kinds[:first])))
    segments.append(_segment(frame_times_ms, from_s or 0.0, to_s or total_s, "scene"))
    if to_s is not None:
        segments.append(_segment(frame_times_ms, to_s, total_s, "tail"))
    return Proposal(from_s, to_s, _why(segments), tuple(segments), *middle)


def _kinds(levels_ms: FloatArray, edges: list[int]) -> list[str]:
    """Scene, menu or loading for each segment, by its level against the whole."""
    scene_ms = median_of(levels_ms)
    ratios = [median_of(levels_ms[a:b]) / scene_ms for a, b in itertools.pairwise(edges)]
    return [
        "menu" if ratio < MENU_LEVEL else "loading" if ratio > LOADING_LEVEL else "scene"
        for ratio in ratios
    ]


def _middle(
    frame_times_ms: FloatArray, block_ends_s: FloatArray, edges: list[int], kinds: list[str]
) -> tuple[float, float, str]:
    """(length, start, words) of the longest stretch between scenes that is none."""
    best = (0.0, 0.0, "")
    scenes = [index for index, kind in enumerate(kinds) if kind == "scene"]
    for index in range(scenes[0] + 1, scenes[-1]):
        start, end = block_ends_s[edges[index] - 1], block_ends_s[edges[index + 1] - 1]
        if kinds[index] != "scene" and end - start > max(best[0], MIDDLE_S):
            odd = _segment(frame_times_ms, float(start), float(end), kinds[index])
            scene = _segment(frame_times_ms, 0.0, float(block_ends_s[-1]), "scene")
            words = f"{odd.kind}, {end - start:.1f} s from {start:.1f} s, {_pace(scene, odd)}"
            best = (float(end - start), float(start), words)
    return best


def _calm_ends(profile: Profile) -> tuple[float | None, float | None]:
    """Where a still picture at the start ends, and where one at the end begins: frames there
    hardly change from one to the next, whatever their level.
    """
    if profile.restless.size < CALM_WINDOWS:
        return None, None
    logs = np.log(np.maximum(profile.restless, CALM_FLOOR))
    edges = [0, *change_points(logs, CALM_PENALTY), logs.size]
    levels = [median_of(logs[a:b]) for a, b in itertools.pairwise(edges)]
    usual = median_of(logs)
    head = tail = None
    inside = logs[edges[1] : edges[-2]]
    if inside.size and np.mean(inside < usual - CALM) > CALM_INSIDE:
        return None, None  # it is calm inside as well: the scene, or a rate that is held at times
    if levels[0] < usual - CALM and edges[1] * profile.window_s >= CALM_S:
        head = edges[1] * profile.window_s
    if levels[-1] < usual - CALM and (logs.size - edges[-2]) * profile.window_s >= CALM_S:
        tail = edges[-2] * profile.window_s
    return head, tail


def _name(kinds: list[str]) -> str:
    return "loading" if "loading" in kinds and "menu" not in kinds else "menu"


def _segment(frame_times_ms: FloatArray, from_s: float, to_s: float, kind: str) -> Segment:
    ends_s = frame_ends_s(frame_times_ms)
    inside = (ends_s > from_s) & (ends_s <= to_s + 1e-9)
    return Segment(from_s, to_s, median_of(frame_times_ms[inside]), kind)


def _why(segments: list[Segment]) -> str:
    scene = next(one for one in segments if one.kind == "scene")
    said = []
    for one in segments:
        if one.kind == "scene":
            continue
        where = "at the end" if one.kind == "tail" else "at the start"
        said.append(f"{one.kind}, {one.to_s - one.from_s:.1f} s {where}, {_pace(scene, one)}")
    return "; ".join(said)


def _pace(scene: Segment, one: Segment) -> str:
    ratio = scene.level_ms / one.level_ms
    pace = f"{ratio:.1f} times the rate" if ratio > 1 else f"{ratio:.2f} of the rate"
    return f"{pace} of the scene"


def _refined(frame_times_ms: FloatArray, about_s: float, block_s: float) -> float:
    """The frame boundary near a moment that parts the log frame times best, in seconds."""
    ends_s = frame_ends_s(frame_times_ms)
    low = int(np.searchsorted(ends_s, about_s - 2 * block_s))
    high = int(np.searchsorted(ends_s, about_s + 2 * block_s))
    logs = np.log(frame_times_ms[low:high])
    if logs.size < 4:
        return float(about_s)
    count = np.arange(1, logs.size)
    left = np.cumsum(logs)[:-1]
    gained = left**2 / count + (logs.sum() - left) ** 2 / (logs.size - count)
    return float(ends_s[low + int(np.argmax(gained))])


def offset_s(frame_times_ms: FloatArray, other_ms: FloatArray, most_s: float = 5.0) -> float:
    """How much later the same scene comes in the other trace, in seconds, by cross-correlation.

    Both are put on a common clock of 50 ms; at most `most_s` either way. 0 where too short.
    """
    tick_s = 0.05
    one, two = _on_clock(frame_times_ms, tick_s), _on_clock(other_ms, tick_s)
    most = min(round(most_s / tick_s), min(one.size, two.size) // 4)
    if most < 1:
        return 0.0
    best, best_match = 0, -np.inf
    for shift in range(-most, most + 1):
        a = one[max(0, -shift) :]
        b = two[max(0, shift) :]
        size = min(a.size, b.size)
        match = float(np.mean((a[:size] - a[:size].mean()) * (b[:size] - b[:size].mean())))
        if match > best_match:
            best, best_match = shift, match
    return best * tick_s


def _on_clock(frame_times_ms: FloatArray, tick_s: float) -> FloatArray:
    ends_s = frame_ends_s(frame_times_ms)
    clock = np.arange(tick_s, float(ends_s[-1]), tick_s)
    logs = np.log(frame_times_ms)
    at = np.minimum(np.searchsorted(ends_s, clock), logs.size - 1)
    smooth = np.convolve(logs, np.ones(9) / 9.0, mode="same")
    return smooth[at]
