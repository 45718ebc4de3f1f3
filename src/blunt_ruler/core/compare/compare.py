"""Gains and losses, each on its own stated base.

gain = a/b − 1 against the base, loss = 1 − a/r against the reference, "faster by" = r/a − 1,
and the midpoint difference are four different figures; taking one for another is the
commonest slip of the trade, so each has one function and no function guesses a base.
All rates are in frames per second.
"""

import math
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence

import numpy as np

from blunt_ruler.core.compare.comparability import CLEAN, CellStanding, Standing
from blunt_ruler.core.compare.intervals import (
    Interval,
    Prior,
    Sample,
    half_width,
    mean_ratio_interval,
    more_repeats,
    prior_of,
    ratio_interval,
    sample_of,
    spread_of,
    toward_assumed,
    with_error,
)
from blunt_ruler.core.compare.results import (
    CaseResult,
    Comparison,
    How,
    Measurement,
    RigMean,
    RigResult,
)
from blunt_ruler.core.errors import BadFigure, UnknownName
from blunt_ruler.core.measure.frames import LowSchool
from blunt_ruler.core.measure.kinds import COUNTED, Bound, Kind, bound_of, least_sure
from blunt_ruler.core.measure.means import harmonic_mean, mean_ratio, moved_most_by
from blunt_ruler.core.measure.reading import HowRead


def _positive(rate: float, what: str) -> float:
    if not (math.isfinite(rate) and rate > 0):
        raise BadFigure(what, f"{rate} is not a rate", "Give a finite number above 0")
    return rate


def gain(tested_fps: float, base_fps: float) -> float:
    """What the rig under test adds to the base, as a share of the base: a/b − 1."""
    return _positive(tested_fps, "rate under test") / _positive(base_fps, "base rate") - 1.0


def loss(tested_fps: float, reference_fps: float) -> float:
    """What the rig under test lacks of the reference, as a share of the reference: 1 − a/r."""
    return 1.0 - _positive(tested_fps, "rate under test") / _positive(
        reference_fps, "reference rate"
    )


def faster_by(tested_fps: float, reference_fps: float) -> float:
    """How much faster the reference is, as a share of the rig under test: r/a − 1."""
    return gain(reference_fps, tested_fps)


def midpoint_difference(tested_fps: float, reference_fps: float) -> float:
    """(r − a) over the midpoint of both; it has no base, so it is neither gain nor loss."""
    a = _positive(tested_fps, "rate under test")
    r = _positive(reference_fps, "reference rate")
    return (r - a) / ((r + a) / 2.0)


def average_of_repeats(runs: Sequence[Measurement]) -> float:
    """Repeats of one case as one rate: Σ frames / Σ time where all are known.

    Otherwise the harmonic mean n / Σ(1/r), which is the same for passes of equal frames.
    """
    frames = [run.frames for run in runs if run.frames is not None and run.duration_s]
    if len(frames) == len(runs):
        return sum(frames) / math.fsum(run.duration_s or 0.0 for run in runs)
    return harmonic_mean([run.average_fps for run in runs])


def low_of_repeats(runs: Sequence[Measurement]) -> float | None:
    """The lows of repeats as one low: n / Σ(1/low), over the runs that have one."""
    return _harmonic_of([run.low_1_fps for run in runs])


Standings = Mapping[tuple[str, str], CellStanding]


def compare(
    runs: Iterable[Measurement],
    base: str,
    reference: str | None = None,
    low_school: LowSchool = LowSchool.PERCENTILE,
    how: How = How(),
    standings: Standings | None = None,
) -> Comparison:
    """Put repeats together and set every rig against the base and the reference.

    Rigs and cases keep the order in which they first appear; a cell that `standings` does not
    hold is clean. Raises UnknownName where base or reference has no run.
    """
    grouped: dict[str, dict[str, list[Measurement]]] = defaultdict(lambda: defaultdict(list))
    for run in runs:
        grouped[run.rig][run.case].append(run)
    for role, rig in (("base", base), ("reference", reference)):
        if rig is not None and rig not in grouped:
            raise UnknownName(
                role,
                f"no run of a rig named “{rig}”",
                f"The rigs with runs are: {', '.join(grouped) or 'none'}",
            )
    cells = _Cells(grouped, base, reference, how, standings or {})
    return Comparison(
        base=base,
        reference=reference,
        low_school=low_school,
        how=how,
        rigs=tuple(cells.rig_result(rig) for rig in grouped),
    )


class _Cells:
    """Rates, spreads and titles of all cells while a comparison is made."""

    def __init__(
        self,
        grouped: Mapping[str, Mapping[str, Sequence[Measurement]]],
        base: str,
        reference: str | None,
        how: How,
        standings: Standings,
    ) -> None:
        self._grouped, self._base, self._reference = grouped, base, reference
        self._how, self._standings = how, standings
        self._rates = {
            rig: {case: average_of_repeats(repeats) for case, repeats in cases.items()}
            for rig, cases in grouped.items()
        }
        passes = {
            (rig, case): [run.average_fps for run in repeats]
            for rig, cases in grouped.items()
            for case, repeats in cases.items()
        }
        self._hows = {
            (rig, case): [run.how for run in repeats]
            for rig, cases in grouped.items()
            for case, repeats in cases.items()
        }
        self._bounds = {cell: bound_of(h.kind for h in hows) for cell, hows in self._hows.items()}
        assumed = {
            (rig, case): repeats[0].spread
            for rig, cases in grouped.items()
            for case, repeats in cases.items()
            if repeats[0].spread is not None
        }
        self._samples = _samples(passes, self._hows, assumed)
        self._spreads = {cell: spread_of(rates) for cell, rates in passes.items()}
        self._any, self._common = self._shared_cases()

    def rig_result(self, rig: str) -> RigResult:
        """One rig with its cells and its means."""
        return RigResult(
            rig=rig,
            over_base=self._mean(rig, self._base),
            of_reference=self._mean(rig, self._reference),
            cases=tuple(self._case(rig, case) for case in self._grouped[rig]),
        )

    def _ratio_bound(self, rig: str, case: str, other: str | None) -> Bound:
        """What the ratio to another rig is; that of a rig to itself is one."""
        if other is None or other == rig or case not in self._rates[other]:
            return Bound.POINT
        return self._bounds[rig, case].and_(self._bounds[other, case].turned())

    def _ratio(self, rig: str, case: str, other: str | None) -> float | None:
        if other is None or case not in self._rates[other]:
            return None
        if self._ratio_bound(rig, case, other) is Bound.OPEN:
            return None
        return self._rates[rig][case] / self._rates[other][case]

    def _case(self, rig: str, case: str) -> CaseResult:
        repeats, sample = self._grouped[rig][case], self._samples[rig, case]
        over, of = self._ratio(rig, case, self._base), self._ratio(rig, case, self._reference)
        bounds = {}
        for other, ratio in ((self._base, over), (self._reference, of)):
            if ratio is not None and other is not None and other != rig:
                bounds[other] = ratio_interval(ratio, sample, self._samples[other, case])
        gained, kept = bounds.get(self._base), bounds.get(self._reference or "")
        shown, ratio, other = (
            (gained, over, self._base) if gained else (kept, of, self._reference or "")
        )
        over_bound = self._ratio_bound(rig, case, self._base)
        of_bound = self._ratio_bound(rig, case, self._reference)
        sharp = (over_bound if gained else of_bound) is Bound.POINT
        tie = shown is not None and sharp and shown.low <= 1.0 <= shown.high
        span = half_width(sample)
        bound = self._bounds[rig, case]
        kinds = frozenset(how.kind for how in self._hows[rig, case])
        watts = [run.wall_w for run in repeats if run.wall_w is not None]
        return CaseResult(
            case=case,
            runs=len(repeats),
            average_fps=self._rates[rig][case],
            low_1_fps=low_of_repeats(repeats),
            gain=None if over is None else over - 1.0,
            loss=None if of is None else 1.0 - of,
            gain_low=_end(gained, over_bound, Bound.AT_LEAST, -1.0),
            gain_high=_end(gained, over_bound, Bound.AT_MOST, -1.0),
            loss_low=_turned(_end(kept, of_bound, Bound.AT_MOST, -1.0)),
            loss_high=_turned(_end(kept, of_bound, Bound.AT_LEAST, -1.0)),
            low_01_fps=_harmonic_of([run.low_01_fps for run in repeats]),
            spread=self._spreads[rig, case],
            rate_low=_rate_end(self._rates[rig][case] * math.exp(-span), bound, Bound.AT_LEAST),
            rate_high=_rate_end(self._rates[rig][case] * math.exp(span), bound, Bound.AT_MOST),
            kind=least_sure(kinds),
            kinds=kinds,
            how=repeats[0].how if len(repeats) == 1 else None,
            bound=bound,
            low_bound=bound_of(run.low_how.kind for run in repeats if run.low_1_fps is not None),
            over_bound=over_bound,
            of_bound=of_bound,
            wall_w=math.fsum(watts) / len(watts) if watts else None,
            standing=self._standings.get((rig, case), CLEAN),
            tie=tie,
            runs_needed=(
                more_repeats(ratio, sample, self._samples[other, case])
                if tie and ratio is not None
                else None
            ),
        )

    def _counts(self, rig: str, case: str, other: str) -> bool:
        """Whether a case enters the mean against another rig."""
        if case in self._how.without or case not in self._rates[other]:
            return False
        if self._ratio_bound(rig, case, other) is Bound.OPEN:
            return False
        standing = self._standings.get((rig, case), CLEAN)
        side = standing.against_base if other == self._base else standing.against_reference
        return side is Standing.CLEAN or (side is Standing.MIXED and not self._how.clean_only)

    def _shared_cases(self) -> tuple[dict[str, list[str]], dict[str, frozenset[str]]]:
        """Against base and reference: the cases that any rig has a sound ratio of, and those that
        every rig measured through has; the same for both, unless that would be fewer than half.

        A rig with fewer than half the cases of the fullest is still being measured: it does not
        narrow the others' means, nor does one that others published.
        """
        anything: dict[str, list[str]] = {}
        common: dict[str, frozenset[str]] = {}
        for other in dict.fromkeys((self._base, self._reference)):
            if other is None:
                continue
            own = [
                [case for case in cases if self._counts(rig, case, other)]
                for rig, cases in self._grouped.items()
                if rig != other and not self._is_published(rig)
            ]
            most = max((len(cases) for cases in own), default=0)
            through = [frozenset(cases) for cases in own if cases and 2 * len(cases) >= most]
            anything[other] = list(dict.fromkeys(case for cases in own for case in cases))
            common[other] = frozenset.intersection(*through) if through else frozenset()
        both = frozenset.intersection(*common.values()) if common else frozenset()
        # One published figure of a tower does not make a gain over ten cases one over one.
        few = 2 * len(both) < max((len(cases) for cases in common.values()), default=0)
        return anything, common if few else dict.fromkeys(common, both)

    def _is_published(self, rig: str) -> bool:
        return all(
            how.kind is Kind.PUBLISHED
            for case in self._grouped[rig]
            for how in self._hows[rig, case]
        )

    def _cases_of_mean(self, rig: str, other: str) -> list[str]:
        """The cases of one mean: the shared ones where there are any, else all that count."""
        own = [case for case in self._grouped[rig] if self._counts(rig, case, other)]
        shared = [case for case in own if case in self._common[other]]
        return shared if shared and self._how.shared else own

    def _bound_of_mean(self, rig: str, other: str, cases: Sequence[str]) -> tuple[Bound, list[str]]:
        """What a mean over some cases is, and the cases that are kept out of it: bounds one way
        and the other say nothing together, so then the figures alone make the mean.
        """
        each = {case: self._ratio_bound(rig, case, other) for case in cases}
        bound = Bound.POINT
        for one in each.values():
            bound = bound.and_(one)
        if bound is not Bound.OPEN:
            return bound, []
        return Bound.POINT, [case for case, one in each.items() if one is not Bound.POINT]

    def _mean(self, rig: str, other: str | None) -> RigMean | None:
        if other is None:
            return None
        cases = self._cases_of_mean(rig, other)
        bound, out = self._bound_of_mean(rig, other, cases)
        cases = [case for case in cases if case not in out]
        if not cases:
            return None
        school = self._how.mean
        tested = np.array([self._rates[rig][case] for case in cases])
        base = np.array([self._rates[other][case] for case in cases])
        titles = [self._grouped[rig][case][0].title or case for case in cases]
        weights = np.array([self._how.weights.get(case, 1.0) for case in cases])
        if self._how.each_title_once:
            whole = {title: weights[[t == title for t in titles]].sum() for title in {*titles}}
            weights = weights / np.array([whole[title] for title in titles])
        pairs = [(self._samples[rig, case], self._samples[other, case]) for case in cases]
        ratio = mean_ratio(school, tested, base, weights)
        assert ratio is not None
        interval = (
            None
            if rig == other
            else mean_ratio_interval(school, titles, tested, base, weights, pairs)
        )
        moved = None if rig == other else moved_most_by(school, tested, base, weights)
        hows = [how for side in {rig, other} for case in cases for how in self._hows[side, case]]
        return RigMean(
            ratio=ratio,
            low=_end(interval, bound, Bound.AT_LEAST),
            high=_end(interval, bound, Bound.AT_MOST),
            bound=bound,
            kinds=frozenset(how.kind for how in hows),
            bounds_out=tuple(out),
            basis=interval.basis if interval else "",
            cases=len(cases),
            case_moved=cases[moved[0]] if moved else None,
            ratio_without=moved[1] if moved else None,
            case_ids=tuple(cases),
            missing=tuple(case for case in self._any[other] if case not in cases),
        )


def _end(interval: Interval | None, bound: Bound, on: Bound, shift: float = 0.0) -> float | None:
    """The end of an interval that is there for a figure, or for a bound on that side."""
    if interval is None or bound not in (Bound.POINT, on):
        return None
    return (interval.low if on is Bound.AT_LEAST else interval.high) + shift


def _turned(end: float | None) -> float | None:
    return None if end is None else -end


def _rate_end(rate: float, bound: Bound, on: Bound) -> float | None:
    return rate if bound in (Bound.POINT, on) else None


def _samples(
    passes: Mapping[tuple[str, str], Sequence[float]],
    hows: Mapping[tuple[str, str], Sequence[HowRead]],
    assumed: Mapping[tuple[str, str], float | None],
) -> dict[tuple[str, str], Sample]:
    """The sample of every cell. What eyes read says nothing of how logs spread, and the other way
    only where nothing that was read by eye was repeated. A spread that is `assumed` stands.
    """
    counted = {cell for cell, read in hows.items() if all(how.kind in COUNTED for how in read)}
    logged = prior_of([passes[cell] for cell in passes if cell in counted])
    others = [rates for cell, rates in passes.items() if cell not in counted]
    repeated = any(len(rates) > 1 for rates in others)
    by_eye = toward_assumed(prior_of(others)) if repeated else logged
    found = {}
    for cell, rates in passes.items():
        prior = logged if cell in counted else by_eye
        if (spread := assumed.get(cell)) is not None:
            prior = Prior(spread, math.inf, math.inf)
        own = sample_of(rates, prior)
        errors = [how.error(rate) for how, rate in zip(hows[cell], rates, strict=True)]
        found[cell] = with_error(own, errors)
    return found


def _harmonic_of(rates: Sequence[float | None]) -> float | None:
    there = [rate for rate in rates if rate is not None]
    return harmonic_mean(there) if there else None
