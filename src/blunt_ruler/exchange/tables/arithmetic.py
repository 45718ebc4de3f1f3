"""What the figures of a table say of its rows and columns, whatever these are called: that one is a
mean or the sum of others, a share of two others, a rank, a year, or a hundred throughout.
"""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import permutations
from statistics import fmean, geometric_mean, harmonic_mean, median

MEAN_OF = 2  # others, that tell a mean by arithmetic
DIGITS = 5.0  # that agree: 1 in 10,000 tables by chance, over five means and two ends
FEWEST_DIGITS = 1.0  # fewer are chance: where all rigs are held at 60, each is the mean of the rest
SHARE_IN = 3  # figures that tell a share by arithmetic
MEANS: dict[str, Callable[[Sequence[float]], float]] = {
    "the mean": fmean,
    "the geometric mean": geometric_mean,
    "the harmonic mean": harmonic_mean,
    "the median": median,
    "the sum": sum,
}
SHARES: dict[str, Callable[[float, float], float]] = {
    "percentage": lambda one, other: 100.0 * one / other,
    "gain": lambda one, other: 100.0 * (one / other - 1.0),
    "ratio": lambda one, other: one / other,
    "difference": lambda one, other: one - other,
}
MOST_OFF = 0.03  # how far rounding may put a share off, of itself
MOST_COLUMNS = 24  # every pair of more would take too long

Number = tuple[float, float] | None  # value and the step of its last digit


@dataclass(frozen=True, slots=True)
class MeanOf:
    """What a row is of the others, and whether chance is out: whether the digits that agree are
    too many for it.
    """

    words: str
    is_sure: bool


def means_of(rows: Sequence[Sequence[Number]]) -> dict[int, MeanOf]:
    """The first or the last of some rows where it is a mean or the sum of the others to its last
    digit; and which of them. A digit agrees by chance where the others differ by no more than its
    step, so those count that tell the others apart.
    """
    found: dict[int, MeanOf] = {}
    for place in {0, len(rows) - 1} if len(rows) > MEAN_OF else set():
        others = [row for number, row in enumerate(rows) if number != place]
        columns = [
            (own, [one[0] for one in each if one is not None])
            for own, *each in zip(rows[place], *others, strict=True)
            if all(one is not None and one[0] > 0 for one in (own, *each)) and own is not None
        ]
        # Where others agree with it as it stands, as at a cap, that says nothing of a median.
        telling = [one for one in columns if one[1].count(one[0][0]) < MEAN_OF]
        for words, mean in MEANS.items() if len(columns) > 1 else ():
            if all(abs(mean(each) - value) <= 0.51 * step for (value, step), each in columns):
                digits = sum(
                    math.log10(max(value if mean is sum else max(each) - min(each), step) / step)
                    for (value, step), each in (telling if mean is median else columns)
                )
                if digits >= FEWEST_DIGITS:
                    found[place] = MeanOf(words, digits >= DIGITS)
                    break
    return found


@dataclass(frozen=True, slots=True)
class Share:
    """How a column is worked out, of which two, and whether chance is out."""

    words: str
    of: tuple[int, int]
    is_sure: bool


def shares_of(
    columns: Sequence[Sequence[Number]], digits: Sequence[float | None]
) -> dict[int, Share]:
    """Columns that are worked out of two others to their last digit in all rows, and how: a share,
    a gain, a ratio or a difference.

    `digits` are how many must agree beyond those that agree by chance, of all pairs that are tried,
    to be sure; None for columns that are not asked about. A digit counts where it tells the
    column's own figures apart: rigs that lie close together agree with anything.
    """
    found: dict[int, Share] = {}
    if len(columns) > MOST_COLUMNS:
        return found
    by_chance = math.log10(max(len(columns), 3) ** 3 * len(SHARES))
    for place, column in reversed([*enumerate(columns)]):  # the later is worked out of the earlier
        own = [(row, one) for row, one in enumerate(column) if one is not None]
        least = digits[place]
        if least is None or len(own) < SHARE_IN or len({value for _, (value, _) in own}) < 2:
            continue
        for one, other in permutations((n for n in range(len(columns)) if n != place), 2):
            if one in found or other in found:
                continue
            how, agree = _share(own, columns[one], columns[other])
            if how:
                is_sure = least == 0.0 or agree >= least + by_chance
                found[place] = Share(how, (one, other), is_sure)
                break
    return found


def _share(
    own: Sequence[tuple[int, tuple[float, float]]], top: Sequence[Number], base: Sequence[Number]
) -> tuple[str, float]:
    """How some figures are worked out of two columns, and in how many digits; blank where they are
    not.
    """
    if len(own) > SHARE_IN + 1 and not _share(own[: SHARE_IN + 1], top, base)[0]:
        return "", 0.0  # the first rows tell already
    rows = [(value, step, top[row], base[row]) for row, (value, step) in own]
    whole = [
        (value, step, one, other)
        for value, step, one, other in rows
        if one is not None and other is not None and other[0] > 0
    ]
    if len(whole) < len(rows):
        return "", 0.0
    values = [value for value, *_ in whole]
    spread = max(values) - min(values)
    for words, share in SHARES.items():
        told = [share(one[0], other[0]) for _, _, one, other in whole]
        exact = [0.51 * step for _, step, _, _ in whole]
        # Out of figures that were rounded only to be shown, it is off by their rounding too.
        rounded = [
            min(near + _rounding(of, one, other), MOST_OFF * abs(of))
            for near, of, (_, _, one, other) in zip(exact, told, whole, strict=True)
        ]
        for near in (exact, rounded) if len(whole) > SHARE_IN else (exact,):
            if all(abs(of - value) <= by for of, value, by in zip(told, values, near, strict=True)):
                return words, sum(math.log10(max(spread / (2.0 * by), 1.0)) for by in near if by)
    return "", 0.0


def _rounding(of: float, one: tuple[float, float], other: tuple[float, float]) -> float:
    return (abs(of) + 100.0) * 0.5 * (one[1] / max(abs(one[0]), 1e-9) + other[1] / other[0])


def is_hundred(column: Sequence[Number]) -> bool:
    """Whether all figures are 100, or all are 1: the rig that others are percentages of."""
    values = {one[0] for one in column if one is not None}
    return len([one for one in column if one is not None]) > 1 and values in ({100.0}, {1.0})


def is_rank(column: Sequence[Number]) -> bool:
    """Whether the figures are 1, 2, 3 … in some order."""
    values = sorted(one[0] for one in column if one is not None)
    return len(values) > 2 and values == [float(n) for n in range(1, len(values) + 1)]
