"""Where a recording shows passes of a scene, and where a menu, a loading screen or a cut.

Proposals only, from the pictures: a person moves their ends.
"""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from blunt_ruler.core.recordings.pictures import is_new
from blunt_ruler.core.types import BoolArray, ByteArray, FloatArray

STILL_S = 1.0  # a picture that stands longer is no scene: a menu or a loading screen
SHORTEST_PASS_S = 4.0
CUT = 5.0  # times what pictures nearby differ: a hard cut
LEAST_CUT = 6.0  # levels of brightness
NEARBY = 12  # new pictures before and behind
UNLIKE = 0.55  # correlation of small pictures before and behind a hard cut, at most
ALIKE = 0.9  # correlation of the first pictures of two passes of one scene, at least
DARK = 14.0  # mean brightness of a dark screen


@dataclass(frozen=True, slots=True)
class Stretch:
    """A part of a recording: a pass, or what lies between passes.

    `like` is the number of the earlier pass, from 1, that it begins like; None for none.
    """

    from_s: float
    to_s: float
    what: str  # "pass", "still picture", "dark screen", "short scene"
    like: int | None = None


def stretches(
    at_s: FloatArray, bands: FloatArray, thumbs: ByteArray, end_s: float
) -> tuple[Stretch, ...]:
    """What a recording shows, from its first picture to its end, in the order of time.

    Moments (n,), differences of brightness (n, bands), small pictures (n, h, w).
    """
    if at_s.size < 3:
        return ()
    new = is_new(at_s, bands)
    borders = sorted({0, *_cuts(new, bands, thumbs), *_ends_of_still(at_s, new), at_s.size})
    found: list[Stretch] = []
    firsts: list[ByteArray] = []
    for first, after in pairwise(borders):
        start = float(at_s[first])
        end = end_s if after == at_s.size else float(at_s[after])
        moving = float(np.mean(new[first:after]))
        if float(thumbs[first:after].mean()) < DARK:
            what = "dark screen"
        elif (end - start >= STILL_S * 0.8 and moving < 0.12) or not new[first + 1 : after].any():
            what = "still picture"
        elif end - start < SHORTEST_PASS_S:
            what = "short scene"
        else:
            what = "pass"
        like = None
        if what == "pass":
            like = _alike(thumbs[first], firsts)
            firsts.append(thumbs[first])
        found.append(Stretch(start, end, what, like))
    return tuple(_merged(found))


def _cuts(new: BoolArray, bands: FloatArray, thumbs: ByteArray) -> list[int]:
    """New pictures that have little in common with the one before, and differ from it far more
    than new pictures nearby do: those of a slow game differ much, each of them.
    """
    differs = np.nan_to_num(bands).mean(axis=1)
    places = np.flatnonzero(new)[1:]
    own = differs[places]
    found: list[int] = []
    if not own.size:
        return found
    for number in map(int, np.flatnonzero(own > max(CUT * float(np.median(own)), LEAST_CUT))):
        first = max(number - NEARBY, 0)
        around = np.delete(own[first : number + NEARBY + 1], number - first)
        at = int(places[number])
        if around.size and own[number] < CUT * float(np.median(around)):
            continue
        if _correlation(thumbs[at - 1], thumbs[at]) < UNLIKE:
            found.append(at)
    return found


def _ends_of_still(at_s: FloatArray, new: BoolArray) -> list[int]:
    """Where stretches begin and end in which no picture is new for a second."""
    starts = np.flatnonzero(new)
    ends = [*starts[1:], at_s.size]
    found = []
    for first, after in zip(starts, ends, strict=True):
        last_s = at_s[after] if after < at_s.size else at_s[-1]
        if last_s - at_s[first] >= STILL_S:
            found += [int(first), int(after)]
    return found


def _correlation(one: ByteArray, other: ByteArray) -> float:
    a, b = one.astype(float).ravel(), other.astype(float).ravel()
    a, b = a - a.mean(), b - b.mean()
    below = float(np.sqrt((a @ a) * (b @ b)))
    return float(a @ b) / below if below > 0 else 1.0


def _alike(first: ByteArray, earlier: list[ByteArray]) -> int | None:
    scores = [_correlation(first, one) for one in earlier]
    best = int(np.argmax(scores)) if scores else -1
    return best + 1 if best >= 0 and scores[best] >= ALIKE else None


def _merged(found: list[Stretch]) -> list[Stretch]:
    """Stretches of the same kind one after the other as one, passes excepted."""
    told: list[Stretch] = []
    for one in found:
        last = told[-1] if told else None
        if last is not None and one.what == last.what != "pass":
            told[-1] = Stretch(last.from_s, one.to_s, last.what)
        else:
            told.append(one)
    return told
