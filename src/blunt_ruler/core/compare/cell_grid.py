"""All cells of a comparison as arrays of rigs × cases, and what is made of them.

What concerns all cells at once (the spread they share, which cases count, the means) is worked
out at once; what is said of a single cell only when it is asked for.
"""

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import numpy as np

from blunt_ruler.core.compare.cell_parts import CellParts
from blunt_ruler.core.compare.comparability import CLEAN, CellStanding, Standing
from blunt_ruler.core.compare.intervals import (
    Interval,
    Prior,
    Sample,
    half_width,
    mean_ratio_interval,
    more_repeats,
    prior_from,
    ratio_interval,
    samples_from,
    toward_assumed,
    with_error,
)
from blunt_ruler.core.compare.results import (
    CaseResult,
    How,
    Pooled,
    RigMean,
    RigResult,
    Sittings,
    TitleRatio,
)
from blunt_ruler.core.measure.kinds import Bound, Kind
from blunt_ruler.core.measure.means import mean_ratio, moved_most_by, pulls_on_mean
from blunt_ruler.core.once import Handover, LazySequence, LazyTuple
from blunt_ruler.core.types import BoolArray, FloatArray, IntArray

Standings = Mapping[tuple[str, str], CellStanding]
Cells = Mapping[str, Mapping[str, CellParts]]

# Bounds as bits, so that putting two together is "or", and turning one over swaps them.
BITS = {Bound.POINT: 0, Bound.AT_LEAST: 1, Bound.AT_MOST: 2, Bound.OPEN: 3}
OF_BITS = {bits: bound for bound, bits in BITS.items()}
TURNED = np.array([0, 2, 1, 3])
KIND_BITS = {kind: 1 << place for place, kind in enumerate(Kind)}
# How a side of a cell stands: what enters a mean.
COUNTS, MIXED, NEVER = 0, 1, 2
SITTING_ASSUMED = (
    0.005  # log rate: what a day does to a rig, 0.3 to 1 % (common practice, no source)
)
SITTING_WORTH = 4  # pairs of days that the assumption is worth
SIDES = {Standing.CLEAN: COUNTS, Standing.MIXED: MIXED, Standing.NOT_COMPARABLE: NEVER}


class CellGrid:
    """Rates, spreads and bounds of all cells while a comparison is made."""

    def __init__(
        self,
        cells: Cells,
        base: str,
        reference: str | None,
        how: How,
        standings: Standings,
        handover: Handover,
        what: str = "",
        pooled: Pooled | None = None,
    ) -> None:
        self._cells, self._base, self._reference = cells, base, reference
        self._how, self._standings = how, standings
        self._rigs = {rig: place for place, rig in enumerate(cells)}
        every = dict.fromkeys(case for of_rig in cells.values() for case in of_rig)
        self._names = list(every)
        self._cases = {case: place for place, case in enumerate(every)}
        # The cases of each rig in its own order, in which its means list them.
        self._order = {
            rig: np.array([self._cases[case] for case in of_rig], dtype=int)
            for rig, of_rig in cells.items()
        }
        self._weights = np.array([how.weights.get(case, 1.0) for case in every])
        self._out = np.array([case in how.without for case in every], dtype=bool)
        self._titles = self._numbered_titles()
        shape = (len(self._rigs), len(every))
        self._rates = np.full(shape, np.nan)
        self._runs = np.zeros(shape)
        self._bounds = np.zeros(shape, dtype=int)
        self._kinds = np.zeros(shape, dtype=int)
        self._days: dict[str, _Days] = {}
        pairs: list[tuple[int, float]] = []
        seen = np.full(shape, np.nan)
        counted, apart = np.zeros(shape, dtype=bool), np.zeros(shape, dtype=bool)
        for rig, of_rig in cells.items():
            row, places = self._rigs[rig], self._order[rig]
            parts = tuple(of_rig.values())
            told = handover.of((f"{what}told", rig), (parts,), lambda: _told(parts))  # noqa: B023
            self._rates[row, places], self._runs[row, places] = told[:2]
            self._bounds[row, places], self._kinds[row, places] = told[2:4]
            seen[row, places], counted[row, places], apart[row, places] = told[4:7]
            self._days[rig] = self._days_of(rig, *told[7])
            pairs.append(told[8])
        self._there = self._runs > 0
        self.pooled = pooled or self._pooled(seen, counted, pairs)
        self._spreads, self._freedoms = self._samples(seen, counted, apart)
        with np.errstate(invalid="ignore", divide="ignore"):
            self._variances = self._spreads**2 / self._runs
        self._sides = self._sides_of(standings)
        self._counting = {
            other: self._counts(other) for other in (base, reference) if other is not None
        }
        self._any, self._common = self._shared_cases()
        self._sittings = self.pooled.sittings

    def rig_result(self, rig: str) -> RigResult:
        """One rig with its means, and its cells when they are asked for."""
        return RigResult(
            rig=rig,
            over_base=self._mean(rig, self._base),
            of_reference=self._mean(rig, self._reference),
            cases=LazySequence([*self._cells[rig]], lambda case: self.case(rig, case)),
        )

    def case(self, rig: str, case: str) -> CaseResult:
        """One cell against base and reference."""
        parts, sample = self._cells[rig][case], self._sample(rig, case)
        over, of = self._ratio(rig, case, self._base), self._ratio(rig, case, self._reference)
        bounds = {}
        for other, ratio in ((self._base, over), (self._reference, of)):
            if ratio is not None and other is not None and other != rig:
                days = self._variance_of_days(rig, other, case)
                bounds[other] = ratio_interval(ratio, sample, self._sample(other, case), days)
        gained, kept = bounds.get(self._base), bounds.get(self._reference or "")
        shown, ratio, other = (
            (gained, over, self._base) if gained else (kept, of, self._reference or "")
        )
        over_bound = self._ratio_bound(rig, case, self._base)
        of_bound = self._ratio_bound(rig, case, self._reference)
        sharp = (over_bound if gained else of_bound) is Bound.POINT
        tie = shown is not None and sharp and shown.low <= 1.0 <= shown.high
        span, rate, bound = half_width(sample), parts.average_fps, parts.bound
        return CaseResult(
            case=case,
            runs=parts.runs,
            average_fps=rate,
            low_1_fps=parts.low_1_fps,
            gain=None if over is None else over - 1.0,
            loss=None if of is None else 1.0 - of,
            gain_low=_end(gained, over_bound, Bound.AT_LEAST, -1.0),
            gain_high=_end(gained, over_bound, Bound.AT_MOST, -1.0),
            loss_low=_turned(_end(kept, of_bound, Bound.AT_MOST, -1.0)),
            loss_high=_turned(_end(kept, of_bound, Bound.AT_LEAST, -1.0)),
            low_01_fps=parts.low_01_fps,
            spread=parts.spread,
            rate_low=_rate_end(rate * math.exp(-span), bound, Bound.AT_LEAST),
            rate_high=_rate_end(rate * math.exp(span), bound, Bound.AT_MOST),
            kind=parts.kind,
            kinds=parts.kinds,
            how=parts.how,
            bound=bound,
            low_bound=parts.low_bound,
            over_bound=over_bound,
            of_bound=of_bound,
            wall_w=parts.wall_w,
            standing=self._standings.get((rig, case), CLEAN),
            tie=tie,
            runs_needed=(
                more_repeats(
                    *(ratio, sample, self._sample(other, case)),
                    days=self._variance_of_days(rig, other, case),
                )
                if tie and ratio is not None
                else None
            ),
        )

    def _numbered_titles(self) -> IntArray:
        titles: dict[str, str] = {}
        for of_rig in self._cells.values():
            if not titles.keys() >= of_rig.keys():
                titles |= {case: parts.title for case, parts in of_rig.items()}
        numbers: dict[str, int] = {}
        found = np.zeros(len(self._cases), dtype=int)
        for case, title in titles.items():
            found[self._cases[case]] = numbers.setdefault(title, len(numbers))
        return found

    def _pooled(
        self, seen: FloatArray, counted: BoolArray, pairs: Sequence[tuple[int, float]]
    ) -> Pooled:
        """What these cells tell of any of them. What eyes read says nothing of how logs spread, and
        the other way only where nothing that was read by eye was repeated.
        """
        by_eye = self._there & ~counted
        logged = prior_from(seen[counted], self._runs[counted])
        repeated = (self._runs[by_eye] > 1).any()
        others = (
            toward_assumed(prior_from(seen[by_eye], self._runs[by_eye])) if repeated else logged
        )
        return Pooled(logged, others, _sittings_of(pairs))

    def _samples(
        self, seen: FloatArray, counted: BoolArray, apart: BoolArray
    ) -> tuple[FloatArray, FloatArray]:
        """(spreads, freedoms) of every cell. A spread that is assumed stands; cells that have one,
        or a reading's error, are `apart`.
        """
        by_eye = self._there & ~counted
        spreads, freedoms = np.full(seen.shape, np.nan), np.full(seen.shape, np.nan)
        for cells, prior in ((counted, self.pooled.counted), (by_eye, self.pooled.by_eye)):
            if cells.any():
                spreads[cells], freedoms[cells] = samples_from(
                    seen[cells], self._runs[cells], prior
                )
        rigs = [*self._rigs]
        for place in map(tuple, np.argwhere(apart).tolist()):
            parts = self._cells[rigs[place[0]]][self._names[place[1]]]
            if parts.assumed is not None:
                prior = Prior(parts.assumed, math.inf, math.inf)
                own = samples_from(seen[place][None], self._runs[place][None], prior)
                spreads[place], freedoms[place] = own[0][0], own[1][0]
            own_sample = Sample(parts.runs, float(spreads[place]), float(freedoms[place]))
            whole = with_error(own_sample, parts.reading)
            spreads[place], freedoms[place] = whole.spread, whole.freedom
        return spreads, freedoms

    def _sample(self, rig: str, case: str) -> Sample:
        place = self._rigs[rig], self._cases[case]
        return Sample(
            int(self._runs[place]), float(self._spreads[place]), float(self._freedoms[place])
        )

    def _variance_of_days(self, rig: str, other: str, case: str) -> float:
        """What the days of its passes add to the variance of the log ratio of one cell."""
        place = self._cases[case]
        sides = (self._days[rig].shares[place], self._days[other].shares[place])
        return self._sittings.sigma**2 * sum(float((of_side**2).sum()) for of_side in sides)

    def _ratio_bits(self, rig: str, other: str) -> IntArray:
        """What the ratios of a rig to another are, by case; those to itself are figures."""
        if rig == other:
            return np.zeros(len(self._cases), dtype=int)
        bits = self._bounds[self._rigs[rig]] | TURNED[self._bounds[self._rigs[other]]]
        return np.where(self._there[self._rigs[other]], bits, 0)

    def _ratio_bound(self, rig: str, case: str, other: str | None) -> Bound:
        if other is None or other == rig or case not in self._cells[other]:
            return Bound.POINT
        return self._cells[rig][case].bound.and_(self._cells[other][case].bound.turned())

    def _ratio(self, rig: str, case: str, other: str | None) -> float | None:
        if other is None or case not in self._cells[other]:
            return None
        if self._ratio_bound(rig, case, other) is Bound.OPEN:
            return None
        return self._cells[rig][case].average_fps / self._cells[other][case].average_fps

    def _sides_of(self, standings: Standings) -> IntArray:
        """How each cell stands against base and reference, shape (2, rigs, cases)."""
        found = np.zeros((2, *self._rates.shape), dtype=int)
        for (rig, case), standing in standings.items():
            row, place = self._rigs.get(rig), self._cases.get(case)
            if row is not None and place is not None:
                found[:, row, place] = (
                    SIDES[standing.against_base],
                    SIDES[standing.against_reference],
                )
        return found

    def _counts(self, other: str) -> BoolArray:
        """Which cells enter a mean against another rig, shape rigs × cases."""
        # The reference may stand in for a base, too.
        sides = self._sides[1 if other == self._reference else 0]
        sound = sides == COUNTS if self._how.clean_only else sides != NEVER
        shared = self._there & self._there[self._rigs[other]] & ~self._out
        open_ = np.array([self._ratio_bits(rig, other) for rig in self._rigs]) == BITS[Bound.OPEN]
        return np.asarray(shared & sound & ~open_)

    def _shared_cases(self) -> tuple[dict[str, list[int]], dict[str, BoolArray]]:
        """Against base and reference: the cases that any rig has a sound ratio of, and those that
        every rig measured through has; the same for both, unless that would be fewer than half.

        A rig with fewer than half the cases of the fullest is still being measured: it does not
        narrow the others' means, nor does one that others published.
        """
        anything: dict[str, list[int]] = {}
        common: dict[str, BoolArray] = {}
        published = {
            rig
            for rig, of_rig in self._cells.items()
            if all(parts.is_published for parts in of_rig.values())
        }
        for other, counting in self._counting.items():
            own = {
                rig: counting[row]
                for rig, row in self._rigs.items()
                if rig != other and rig not in published
            }
            most = max((int(row.sum()) for row in own.values()), default=0)
            through = [row for row in own.values() if row.any() and 2 * int(row.sum()) >= most]
            anything[other] = list(
                dict.fromkeys(
                    int(place)
                    for rig, row in own.items()
                    for place in self._order[rig][row[self._order[rig]]]
                )
            )
            nothing = np.zeros(len(self._cases), dtype=bool)
            common[other] = np.logical_and.reduce(through) if through else nothing
        both: BoolArray = np.logical_and.reduce([*common.values()])
        # One published figure of a tower does not make a gain over ten cases one over one.
        few = 2 * int(both.sum()) < max(int(one.sum()) for one in common.values())
        return anything, common if few else dict.fromkeys(common, both)

    def _cases_of_mean(self, rig: str, other: str) -> IntArray:
        """The cases of one mean: the shared ones where there are any, else all that count."""
        order = self._order[rig]
        own: IntArray = order[self._counting[other][self._rigs[rig]][order]]
        shared: IntArray = own[self._common[other][own]]
        return shared if shared.size and self._how.shared else own

    def _mean(self, rig: str, other: str | None) -> RigMean | None:
        if other is None:
            return None
        cases = self._cases_of_mean(rig, other)
        bits = self._ratio_bits(rig, other)[cases]
        bound = OF_BITS[int(np.bitwise_or.reduce(bits))] if cases.size else Bound.POINT
        out = cases[:0]
        if bound is Bound.OPEN or (bound is not Bound.POINT and (bits == 0).any()):
            # Figures alone make a mean where there are some; bounds both ways make none.
            bound, out, cases = Bound.POINT, cases[bits != 0], cases[bits == 0]
        if not cases.size:
            return None
        school = self._how.mean
        sides = np.array([[self._rigs[rig]], [self._rigs[other]]]), cases
        tested, base = self._rates[sides]
        titles, weights = self._titles[cases], self._weights[cases]
        if self._how.each_title_once:
            weights = weights / np.bincount(titles, weights)[titles]
        ratio = mean_ratio(school, tested, base, weights)
        assert ratio is not None
        interval = moved = None
        error, freedom = 0.0, math.inf
        if rig != other:
            variances, freedoms = self._variances[sides], self._freedoms[sides]
            pulls = np.array(pulls_on_mean(school, tested[0], base[0], weights))
            error, freedom = self._these_titles(rig, other, cases, pulls, variances, freedoms)
            interval = mean_ratio_interval(school, titles, tested, base, weights, (error, freedom))
            moved = moved_most_by(school, tested, base, weights)
        kinds = int(np.bitwise_or.reduce(self._kinds[sides], axis=None))
        listed = tuple(self._names[place] for place in cases)
        counted = {*listed}
        return RigMean(
            ratio=ratio,
            low=_end(interval, bound, Bound.AT_LEAST),
            high=_end(interval, bound, Bound.AT_MOST),
            bound=bound,
            kinds=frozenset(kind for kind, bit in KIND_BITS.items() if kinds & bit),
            bounds_out=tuple(self._names[place] for place in out),
            cases=len(listed),
            case_moved=listed[moved[0]] if moved else None,
            ratio_without=moved[1] if moved else None,
            case_ids=listed,
            missing=tuple(one for one in self._could_be_in(rig, other) if one not in counted),
            these_error=error,
            these_freedom=freedom,
            titles=self._title_ratios(rig, other, np.concatenate([cases, out])),
            sittings=self._sittings,
        )

    def _could_be_in(self, rig: str, other: str) -> Iterator[str]:
        """Cases that a mean of two rigs could be over: those that another rig's mean is over, and
        those that both have, however sound; not what the review leaves out.
        """
        both = self._there[self._rigs[rig]] & self._there[self._rigs[other]] & ~self._out
        own = (int(place) for place in self._order[rig] if both[place])
        for place in dict.fromkeys((*self._any[other], *own)):
            yield self._names[place]

    def _days_of(self, rig: str, days: tuple[str, ...], shares: FloatArray) -> "_Days":
        """Which share of each case's passes of a rig was taken on which day."""
        found = np.zeros((len(self._cases), len(days)))
        found[self._order[rig]] = shares
        return _Days(days, found)

    def _these_titles(
        self,
        rig: str,
        other: str,
        cases: IntArray,
        pulls: FloatArray,
        variances: FloatArray,
        freedoms: FloatArray,
    ) -> tuple[float, float]:
        """(standard error of the log of a mean over these very titles, freedom by Satterthwaite).

        Takes pulls of the rates of both sides on it, variances and freedoms, shape (2, k) each.
        Passes err apart; what a sitting does moves all that was taken in it together.
        """
        parts = pulls**2 * variances
        own = float(parts.sum())
        below = float((parts**2 / freedoms).sum())
        shared = sum(
            float(((pull @ self._days[side].shares[cases]) ** 2).sum())
            for side, pull in zip((rig, other), pulls, strict=True)
        )
        whole = own + shared * self._sittings.sigma**2
        return math.sqrt(whole), whole**2 / below if below > 0 else math.inf

    def _title_ratios(self, rig: str, other: str, cases: IntArray) -> Sequence[TitleRatio]:
        """Each title of a mean once, all of them made when one is looked at: the mean of its cases'
        log ratios, of figures where it has some.
        """
        if rig == other:
            return ()
        return LazyTuple(lambda: self._each_title(rig, other, cases))

    def _each_title(self, rig: str, other: str, cases: IntArray) -> tuple[TitleRatio, ...]:
        bits = self._ratio_bits(rig, other)[cases]
        _, place = np.unique(self._titles[cases], return_inverse=True)
        first = np.sort(np.unique(place, return_index=True)[1])
        has_point = np.bincount(place, bits == 0) > 0
        taken = (bits == 0) | ~has_point[place]
        count = np.bincount(place, taken)
        sides = np.array([self._rigs[rig], self._rigs[other]])
        logs = np.log(self._rates[sides[0], cases] / self._rates[sides[1], cases])
        means = np.bincount(place, np.where(taken, logs, 0.0)) / count
        parts = self._variances[np.ix_(sides, cases)] * taken / count[place] ** 2
        whole = np.bincount(place, parts.sum(axis=0))
        below = np.bincount(place, (parts**2 / self._freedoms[np.ix_(sides, cases)]).sum(axis=0))
        with np.errstate(divide="ignore", invalid="ignore"):
            freedom = np.where(below > 0, whole**2 / below, math.inf)
        names = [self._names[case] for case in cases]
        of_title: dict[int, list[int]] = {}
        for at, (title, there) in enumerate(zip(place.tolist(), taken.tolist(), strict=True)):
            if there:
                of_title.setdefault(title, []).append(at)
        of_rig = self._cells[rig]
        return tuple(
            TitleRatio(
                title=of_rig[names[of_title[title][0]]].title,
                cases=tuple(names[at] for at in of_title[title]),
                log_ratio=float(means[title]),
                variance=float(whole[title]),
                freedom=float(freedom[title]),
                bound=OF_BITS[int(np.bitwise_or.reduce(bits[of_title[title]]))],
                sittings=self._days[rig].over(cases[of_title[title]]),
                other_sittings=self._days[other].over(cases[of_title[title]]),
            )
            for title in place[first].tolist()
        )


@dataclass(frozen=True, slots=True)
class _Days:
    """The days a rig was measured on, and which share of each case's passes fell on each."""

    days: tuple[str, ...]
    shares: FloatArray  # shape (cases, days)

    def over(self, cases: IntArray) -> tuple[tuple[str, float], ...]:
        """The shares of some cases together."""
        if len(self.days) == 1:
            return ((self.days[0], 1.0),)
        means = self.shares[cases].mean(axis=0)
        return tuple(
            (day, share) for day, share in zip(self.days, means.tolist(), strict=True) if share
        )


def _told(parts: Sequence[CellParts]) -> tuple[Any, ...]:
    """(rates, runs, bounds, kinds, spreads, whether they are counted, whether a spread is assumed
    or reading errs, days, pairs of days) of the cells of a rig.
    """
    return (
        np.array([one.average_fps for one in parts]),
        np.array([one.runs for one in parts]),
        np.array([BITS[one.bound] for one in parts]),
        np.array([_kind_bits(one.kinds) for one in parts]),
        np.array([np.nan if one.spread is None else one.spread for one in parts]),
        np.array([one.is_counted for one in parts]),
        np.array([one.assumed is not None or one.reading[0] != 0.0 for one in parts]),
        _shares(parts),
        _pairs_of_days(parts),
    )


def _shares(parts: Sequence[CellParts]) -> tuple[tuple[str, ...], FloatArray]:
    """(days, which share of each cell's passes fell on each, shape (cells, days))."""
    days = tuple(dict.fromkeys(day for one in parts for day, _, _ in one.sittings)) or ("",)
    if len(days) == 1:
        return days, np.ones((len(parts), 1))
    places = {day: place for place, day in enumerate(days)}
    found = np.zeros((len(parts), len(days)))
    for row, one in enumerate(parts):
        for day, _, count in one.sittings:
            found[row, places[day]] = count / one.runs
    return days, found


def _pairs_of_days(parts: Sequence[CellParts]) -> tuple[int, float]:
    """(pairs of days of one cell, what they say of σ² in all).

    Half the squared difference of two days, less what passes alone would give, is σ²; days are
    taken in turn.
    """
    told, seen = 0, 0.0
    for one in parts:
        for (_, first, mine), (_, second, theirs) in pairwise(one.sittings):
            noise = (one.spread or 0.0) ** 2 * (1.0 / mine + 1.0 / theirs)
            seen += ((first - second) ** 2 - noise) / 2.0
            told += 1
    return told, seen


def _sittings_of(pairs: Sequence[tuple[int, float]]) -> Sittings:
    """σ of what a day does to a rig, drawn toward the assumed one, which is worth four pairs."""
    told = sum(count for count, _ in pairs)
    seen = math.fsum(one for _, one in pairs)
    variance = (SITTING_WORTH * SITTING_ASSUMED**2 + seen) / (SITTING_WORTH + told)
    return Sittings(math.sqrt(max(variance, 0.0)), told)


def _kind_bits(kinds: frozenset[Kind]) -> int:
    return sum(KIND_BITS[kind] for kind in kinds)


def _end(interval: Interval | None, bound: Bound, on: Bound, shift: float = 0.0) -> float | None:
    """The end of an interval that is there for a figure, or for a bound on that side."""
    if interval is None or bound not in (Bound.POINT, on):
        return None
    return (interval.low if on is Bound.AT_LEAST else interval.high) + shift


def _turned(end: float | None) -> float | None:
    return None if end is None else -end


def _rate_end(rate: float, bound: Bound, on: Bound) -> float | None:
    return rate if bound in (Bound.POINT, on) else None
