"""Readings of one box held against the digits of their own overlay, and against every picture in
which they stood.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from statistics import median

from blunt_ruler.core.recordings.glyphs import Example, Glyphs
from blunt_ruler.core.recordings.series import BRIEFLY, HARD, LEAPS, Held, Look, Series
from blunt_ruler.core.types import ByteArray

CLEAR = 0.9  # the score from which on a reading is learned from
CLEAREST, MANY = 0.99, 3  # looks that need no second opinion: it would err more often than they
WHY = "its digits look otherwise"
CLOSE_S = 6.0  # seconds that a figure stood at most of which every picture is looked at
MOST_CLOSE, SHARE_CLOSE = 60, 0.1  # figures of a box; in a long recording, this share of them
FEWEST_PICTURES = 3
AGREEING = 0.7  # of the pictures
SLIPS = 0.1  # of the pictures
CLEAR_MEAN, CLEAR_MEAN_OF_OTHER_DIGITS = 0.985, 0.995


def looked_at_twice(
    series: Series, looks: Mapping[float, Look], crops: Mapping[float, ByteArray]
) -> Series:
    """The series with a second opinion: doubt where the digits look otherwise, and none where
    they agree and all that spoke against a figure was one unclear look.

    `looks` and `crops` by moment, for as many moments as there are crops of.
    """
    own: dict[Held, list[float]] = {held: [] for held in series.held if held.value is not None}
    learned: list[float] = []
    moments = sorted(crops)
    for held in own:
        for at in _within(moments, held):
            look = looks[at]
            if look.centres and _figure_matches(look, held):
                own[held].append(at)
                if look.score >= CLEAR and held.is_sure:
                    learned.append(at)

    def example(at: float) -> Example:
        return Example(crops[at], looks[at].text, looks[at].centres)

    glyphs = Glyphs(map(example, learned))
    at_s = sorted(looks)
    return replace(
        series,
        held=tuple(
            _with_opinion(
                held,
                map(example, own[held]),
                glyphs,
                is_clear=_is_clear(held, looks, at_s),
            )
            if own.get(held)
            else held
            for held in series.held
        ),
    )


def _within(moments: list[float], held: Held) -> list[float]:
    from bisect import bisect_left

    return moments[
        bisect_left(moments, held.from_s - 1e-6) : bisect_left(moments, held.to_s - 1e-6)
    ]


def _is_clear(held: Held, looks: Mapping[float, Look], at_s: list[float]) -> bool:
    """Whether several looks told the figure, all of them, most as clearly as can be."""
    scores = [looks[at].score for at in _within(at_s, held)]
    return held.looks == held.of_looks >= MANY and median(scores) >= CLEAREST


def _figure_matches(look: Look, held: Held) -> bool:
    digits = "".join(sign for sign in look.text if sign.isdigit())
    return held.value is not None and f"{held.value:g}".replace(".", "") in digits


def _with_opinion(held: Held, seen: Iterable[Example], glyphs: Glyphs, *, is_clear: bool) -> Held:
    if not held.doubt and is_clear:
        return held
    examples = list(seen)
    objecting = sum(glyphs.objects_to(one) for one in examples)
    agreeing = sum(glyphs.agrees_with(one) for one in examples)
    if not held.doubt and 2 * objecting > len(examples):
        return replace(held, doubt=WHY)
    mostly = held.looks >= 2 and held.looks * 2 > held.of_looks
    if held.doubt and not objecting and agreeing == len(examples) and mostly:
        return replace(held, doubt="")
    return held


@dataclass(frozen=True, slots=True)
class Doubt:
    """A figure in doubt with the figures that stood before and after it."""

    held: Held
    beside: tuple[float | None, ...]


def to_look_at_closely(series: Series) -> list[Doubt]:
    """Figures in doubt of which every picture may be looked at: none where much is in doubt, none
    that leaps, for a digit that is lost is lost in each picture, none that is but half changed from
    one figure to the next, and none that stood long, of which there were looks enough.
    """
    figures = [one for one in series.held if one.value is not None]
    doubts = [
        Doubt(
            one,
            tuple(
                other.value for other in (*figures[max(at - 1, 0) : at], *figures[at + 1 : at + 2])
            ),
        )
        for at, one in enumerate(figures)
        if one.doubt and one.doubt != LEAPS and one.to_s - one.from_s <= CLOSE_S
    ]
    doubts = [one for one in doubts if not _is_half_changed(one)]
    most = min(max(MOST_CLOSE, SHARE_CLOSE * len(figures)), HARD * len(figures))
    return doubts if len(doubts) <= most else []


def _is_half_changed(doubt: Doubt) -> bool:
    """Whether a brief figure has each of its digits from the figure before or behind it: with few
    bits a recording changes one digit after the other, in several pictures.
    """
    if doubt.held.doubt != BRIEFLY or len(doubt.beside) < 2 or None in doubt.beside:
        return False
    own, before, after = (f"{value:g}" for value in (doubt.held.value, *doubt.beside))
    return len(own) == len(before) == len(after) and all(
        digit in others for digit, *others in zip(own, before, after, strict=True)
    )


def stood_out(
    doubt: Doubt, reads: Sequence[float | None], mean: float | None, score: float
) -> bool:
    """Whether a figure in doubt is told after all by every picture in which it stood.

    `reads` are the figures of each picture, in their order; `mean` that of the mean of pictures, in
    which what moves behind the digits is levelled out, and `score` how clear its least clear digit
    is. All must agree: the mean, clearly; most pictures; and none may tell something else for
    longer than a slip lasts. At both ends the figure beside it may stand already, or still.
    """
    held, inside = doubt.held, list(reads)
    while inside and inside[-1] is not None and inside[-1] in doubt.beside:
        inside.pop()
    while inside and inside[0] is not None and inside[0] in doubt.beside:
        inside.pop(0)
    agree = sum(one == held.value for one in inside)
    others = sum(one is not None and one != held.value for one in inside)
    needed = CLEAR_MEAN_OF_OTHER_DIGITS if held.doubt == WHY else CLEAR_MEAN
    return (
        mean == held.value
        and score >= needed
        and agree >= max(FEWEST_PICTURES, AGREEING * len(inside))
        and others <= SLIPS * len(inside)
    )
