"""A counter's figures over time, from texts that were read off it picture by picture.

A counter holds each figure for a while, so that several looks see the same one; a text that stands
alone among others is a slip of the reader or a short-lived figure. Which it is, is worked out as in
a hidden Markov chain (Rabiner 1989): the states are the figures read, a figure stays or is followed
by any other, and a look tells the figure that stands with the chance its score gives.

What is sure enters the average; what is not is asked about. Nothing is guessed silently.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from blunt_ruler.core.recordings.quantities import FIGURE, Quantity, figure_in
from blunt_ruler.core.types import BoolArray, FloatArray, IntArray

SURE = 0.98  # a figure less likely than that is asked about
# Score of a text → the chance that it is not what stands there, as measured on recordings of 22
# made-up overlays (4,300 looks, 236 of them wrong).
SLIP_AT = (
    (0.0, 0.9),
    (0.3, 0.85),
    (0.6, 0.5),
    (0.85, 0.38),
    (0.93, 0.17),
    (0.97, 0.1),
    (0.99, 0.02),
    (0.999, 0.004),
    (1.0, 0.002),
)
SLIPS_TO = 50  # figures that a slip may lead to, about
SCORE_TO_ASK = 0.97  # where no look at a figure was clearer: looks at one figure err alike
LEAP = 1.35  # a figure that leaps further than that and back, by digits lost or won, is asked about
LEAPS = "digits cannot follow each other so"
BRIEFLY = "it stood shorter than the others"
SHORT_S = 2.5
AGREEING = 0.75  # of the looks at a figure that must tell it
FEW = 2  # looks: what stood for more is no slip
BRIEF = 0.45  # of the time that figures usually stand: what stands shorter is asked about
SHORTEST_S = 0.5  # of sure figures that make an average
HARD = 0.35  # of the time in doubt: from there on all of it is, for what is clear there errs too
AROUND_S = 4.0


@dataclass(frozen=True, slots=True)
class Look:
    """One look at a box: when, the text that was read, and its score, 0 to 1.

    `score` is that of its least clear digit. `centres` are where its characters stand, as shares
    of the box's width.
    """

    at_s: float
    text: str
    score: float
    centres: tuple[float, ...] = ()


@dataclass(frozen=True, slots=True)
class Held:
    """A figure while it stood.

    Attributes:
        looks: how many looks saw it, of how many in that time.
        doubt: why it is to be asked about; blank where it is sure.
        settled: whether a person said what it is.
    """

    from_s: float
    to_s: float
    value: float | None
    looks: int
    of_looks: int
    doubt: str = ""
    settled: bool = False

    @property
    def is_sure(self) -> bool:
        """Whether its figure may enter an average."""
        return self.value is not None and not self.doubt


@dataclass(frozen=True, slots=True)
class Series:
    """Everything one counter said, in the order of time."""

    quantity: Quantity
    held: tuple[Held, ...]
    every_s: float  # from look to look

    @property
    def asked(self) -> tuple[Held, ...]:
        """What is to be asked about."""
        return tuple(one for one in self.held if one.doubt)

    @property
    def sure(self) -> tuple[Held, ...]:
        """What is sure."""
        return tuple(one for one in self.held if one.is_sure)

    def between(self, from_s: float, to_s: float) -> "Series":
        """The part from one moment to another, figures cut at both."""
        inside = [
            replace(one, from_s=max(one.from_s, from_s), to_s=min(one.to_s, to_s))
            for one in self.held
            if one.to_s > from_s + 1e-9 and one.from_s < to_s - 1e-9
        ]
        return replace(self, held=tuple(inside))

    def with_answers(self, answers: Mapping[float, float | None]) -> "Series":
        """The same with figures that a person told, by when they began; None leaves one out."""
        told = [
            one
            if one.from_s not in answers
            else replace(one, value=answers[one.from_s], doubt="", settled=True)
            for one in self.held
        ]
        return replace(self, held=tuple(told))


def series_of(looks: Sequence[Look], quantity: Quantity, every_s: float) -> Series:
    """The series of looks at one box, `every_s` apart, in the order of time."""
    values = [figure_in(look.text, quantity) for look in looks]
    decimals = _usual_decimals(looks) or 0
    read = [
        value if _decimals_in(look.text) == decimals else None
        for look, value in zip(looks, values, strict=True)
    ]
    known = sorted({value for value in read if value is not None})
    if not known:
        blank = Held(looks[0].at_s, looks[-1].at_s + every_s, None, 0, len(looks))
        return Series(quantity, (blank,), every_s)
    index = {value: at for at, value in enumerate(known)}
    seen = np.array([-1 if value is None else index[value] for value in read])
    scores, chances = zip(*SLIP_AT, strict=True)
    slips = np.interp(np.array([look.score for look in looks]), scores, chances)
    chance, best = _smoothed(seen, slips, len(known))
    held = _without_brief(_with_leaps(_held(looks, seen, best, chance, known, every_s)), every_s)
    return Series(quantity, _all_if_hard(held), every_s)


def _decimals(value: float) -> int:
    return 0 if value == round(value) else 1 if round(value, 1) == value else 2


def _decimals_in(text: str) -> int:
    """How many digits stand behind the point of a text."""
    found = FIGURE.search(text.replace(" ", ""))
    return len(found[0].replace(",", ".").partition(".")[2]) if found else 0


def _usual_decimals(looks: Sequence[Look]) -> int | None:
    """The digits behind the point that this counter shows; None where it shows none.

    A point is small and gets lost sooner than it is made up: where a fifth of the clear texts have
    one, all have.
    """
    told = [_decimals_in(look.text) for look in looks if look.score > 0.8]
    with_point = [count for count in told if count]
    if not with_point or len(with_point) < 0.2 * len(told):
        return None
    return max(set(with_point), key=with_point.count)


def _smoothed(seen: IntArray, slips: FloatArray, states: int) -> tuple[FloatArray, IntArray]:
    """For each look the likeliest state given all looks, and its chance. Shapes (n,).

    Forward and backward sums; a change leads to any state with the frequency it was read with.
    """
    n = seen.size
    both = (seen[1:] >= 0) & (seen[:-1] >= 0) & (slips[1:] < 0.1) & (slips[:-1] < 0.1)
    changes = float(np.mean(seen[1:][both] != seen[:-1][both])) if both.any() else 0.3
    change = min(max(changes, 0.02), 0.9)
    counts = np.bincount(seen[seen >= 0], minlength=states) + 0.5
    often = counts / counts.sum()

    def likely(at: int) -> FloatArray:
        if seen[at] < 0:
            return np.ones(states)
        told = np.full(states, slips[at] / SLIPS_TO)
        told[seen[at]] = 1.0 - slips[at]
        return told

    forward = np.empty((n, states), dtype=np.float32)  # of an hour, tens of MB
    now = often
    for at in range(n):
        now = ((1.0 - change) * now + change * often) * likely(at)
        now /= now.sum()
        forward[at] = now
    backward = np.ones(states)
    chance, best = np.empty(n), np.empty(n, dtype=int)
    for at in range(n - 1, -1, -1):
        whole = forward[at] * backward
        whole /= whole.sum()
        best[at] = int(whole.argmax())
        chance[at] = whole[best[at]]
        after = likely(at) * backward
        backward = (1.0 - change) * after + change * float(often @ after)
        backward /= backward.max()
    return chance, best


def _held(
    looks: Sequence[Look],
    seen: IntArray,
    best: IntArray,
    chance: FloatArray,
    known: Sequence[float],
    every_s: float,
) -> list[Held]:
    """Looks one after the other that tell the same figure, as one."""
    unread = _unread(seen)
    starts = [0]
    for at in range(1, len(looks)):
        gap = looks[at].at_s - looks[at - 1].at_s > 2.5 * every_s
        both_gone = unread[at] and unread[at - 1]
        other = best[at] != best[at - 1] or unread[at] != unread[at - 1]
        if gap or (other and not both_gone):
            starts.append(at)
    held = []
    for first, after in zip(starts, [*starts[1:], len(looks)], strict=True):
        own = slice(first, after)
        agree = seen[own] == best[own]
        clear = max((looks[at].score for at in range(first, after) if agree[at - first]), default=0)
        doubt = ""
        if unread[first]:
            pass  # there is nothing to ask about
        elif float(chance[own].max()) < SURE:
            doubt = "seen differently from look to look"
        elif clear < SCORE_TO_ASK:
            doubt = "not clear in any picture"
        elif agree.sum() <= AGREEING * (after - first) and after - first > 1:
            doubt = "seen differently from look to look"
        end = looks[after - 1].at_s + every_s
        if after < len(looks):
            end = min(end, looks[after].at_s)
        value = None if unread[first] else known[best[first]]
        held.append(Held(looks[first].at_s, end, value, int(agree.sum()), after - first, doubt))
    return held


def _unread(seen: IntArray) -> BoolArray:
    """Looks in a stretch of at least three in which nothing was read: the counter is not there."""
    gone = np.zeros(seen.size, dtype=bool)
    at = 0
    while at < seen.size:
        if seen[at] >= 0:
            at += 1
            continue
        end = at
        while end < seen.size and seen[end] < 0:
            end += 1
        gone[at:end] = end - at >= 3
        at = end
    return gone


def _with_leaps(held: Sequence[Held]) -> tuple[Held, ...]:
    """The same, with figures in doubt that digits do not lead to and away from again."""
    told = list(held)
    figures = [at for at, one in enumerate(held) if one.value is not None]
    for place, at in enumerate(figures):
        one = held[at]
        if one.doubt or one.to_s - one.from_s > SHORT_S or one.value is None:
            continue
        around = [held[other].value for other in figures[max(place - 1, 0) : place + 2]]
        beside = [value for value in around if value is not None and value != one.value]
        if beside and all(_is_slip(one.value, value) for value in beside):
            told[at] = replace(one, doubt=LEAPS)
    return tuple(told)


def _without_brief(held: tuple[Held, ...], every_s: float) -> tuple[Held, ...]:
    """The same, with figures in doubt that stood far shorter than this counter's figures do, and
    those that one look alone saw between two looks at another figure.
    """
    stood = [one.to_s - one.from_s for one in held if one.value is not None and not one.doubt]
    if not stood:
        return held
    usual = usually(stood)
    most = min(BRIEF * usual, usual - 1.5 * every_s)
    told = list(held)
    for at in range(1, len(held) - 1):
        before, one, after = held[at - 1 : at + 2]
        if one.doubt or None in (before.value, one.value, after.value):
            continue
        alone = one.of_looks == 1 and before.value == after.value and usual > 2.5 * every_s
        if alone or (one.of_looks <= FEW and one.to_s - one.from_s < most):
            told[at] = replace(one, doubt=BRIEFLY)
    return tuple(told)


def usually(stood: Sequence[float]) -> float:
    """How long figures usually stand: a quarter of the time goes to figures that stood no longer,
    so that slips, which are brief, count for little.
    """
    lengths = np.sort(stood)
    passed = np.cumsum(lengths)
    return float(lengths[int(np.searchsorted(passed, 0.25 * passed[-1]))])


def _all_if_hard(held: tuple[Held, ...]) -> tuple[Held, ...]:
    """The same, in doubt wherever too much of the time before and behind is: where the counter is
    not there, as in a menu, only that time is hard to read.
    """
    why = "hardly legible here"
    return tuple(
        replace(one, doubt=why)
        if one.value is not None and not one.doubt and _is_hard_around(held, at)
        else one
        for at, one in enumerate(held)
    )


def _is_hard_around(held: tuple[Held, ...], at: int) -> bool:
    """Whether over `HARD` of the figures' time is in doubt both before and behind one."""
    shares = []
    for step in (-1, 1):
        seconds = doubt_s = 0.0
        place = at
        while 0 <= place < len(held) and seconds < AROUND_S:
            one = held[place]
            if one.value is not None:
                seconds += one.to_s - one.from_s
                doubt_s += one.to_s - one.from_s if one.doubt else 0.0
            place += step
        shares.append(doubt_s / seconds if seconds else 0.0)
    return min(shares) > HARD


def _is_slip(value: float, beside: float) -> bool:
    """Whether a figure leaps from another as one does that lost, won or misplaced a digit."""
    if min(value, beside) <= 0 or max(value, beside) / min(value, beside) < LEAP:
        return False
    short, long = sorted((_digits(value), _digits(beside)), key=len)
    if short == long:
        return True
    return 0 < len(long) - len(short) <= 1 and _one_out(short, long)


def _digits(value: float) -> str:
    return f"{value:g}".replace(".", "")


def _one_out(short: str, long: str) -> bool:
    """Whether a text is another without one of its characters, give or take its last digit."""
    return any(
        (left := long[:at] + long[at + 1 :])[:-1] == short[:-1] and
        abs(int(left[-1:] or 0) - int(short[-1:] or 0)) <= 4
        for at in range(len(long))
    )  # fmt: skip


@dataclass(frozen=True, slots=True)
class Average:
    """The mean of a counter over a stretch, with what it leaves open.

    Attributes:
        read_share: the share of the time for which a figure was sure.
        readings: figures that stood, a long-lived one counted once for each renewal.
    """

    average: float
    low_95: float
    high_95: float
    minimum: float
    maximum: float
    readings: int
    read_share: float


def renewal_s(series: Series) -> float:
    """How often a counter renews its figure: the shortest time that figures often stand.

    The tenth percentile of how long figures stood, of those with a figure on both sides; at least
    the time from look to look.
    """
    inner = [
        now.to_s - now.from_s
        for before, now, after in zip(series.held, series.held[1:], series.held[2:], strict=False)
        if None not in (before.value, now.value, after.value) and not now.doubt
    ]
    if len(inner) < 3:
        return max(series.every_s, 0.5)
    return max(float(np.quantile(inner, 0.1)), series.every_s)


def average_of(series: Series) -> Average | None:
    """The mean over time of what is sure; None where that is less than half a second.

    x̄ = Σ x·t / Σ t. The figures cover the time, so that it is no sample of it: what stays open is
    the rounding of each, u²/(12·n); the part c that was not read, s²/n·(1 − c) (finite population,
    Cochran 1977); and that a counter tells of the interval before, so that one interval at each
    end is another's, 2·s²/n².
    """
    sure = series.sure
    seconds = np.array([one.to_s - one.from_s for one in sure])
    values = np.array([one.value for one in sure], dtype=float)
    if seconds.sum() < SHORTEST_S:
        return None
    whole = float(series.held[-1].to_s - series.held[0].from_s)
    share = min(float(seconds.sum()) / whole, 1.0)
    mean = float(values @ seconds / seconds.sum())
    n = max(float(seconds.sum()) / renewal_s(series), 2.0)
    spread = math.sqrt(float(((values - mean) ** 2) @ seconds / seconds.sum()))
    step = 10.0 ** -max(_decimals(value) for value in values)
    error = math.sqrt(
        step**2 / (12.0 * n) + spread**2 / n * (1.0 - share) + 2.0 * (spread / n) ** 2
    )
    half = 1.96 * error
    return Average(
        mean,
        max(mean - half, 0.0),
        mean + half,
        float(values.min()),
        float(values.max()),
        round(n),
        share,
    )
