"""Gains and losses, each on its own stated base.

gain = a/b − 1 against the base, loss = 1 − a/r against the reference, "faster by" = r/a − 1,
and the midpoint difference are four different figures; taking one for another is the
commonest slip of the trade, so each has one function and no function guesses a base.
All rates are in frames per second.
"""

import math
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from blunt_ruler.core.errors import BadFigure, UnknownName
from blunt_ruler.core.frames import LowSchool


@dataclass(frozen=True, slots=True)
class Measurement:
    """One sound run as the comparison needs it: which rig, which case, and its rates."""

    rig: str
    case: str
    average_fps: float
    low_1_fps: float | None = None
    frames: int | None = None
    duration_s: float | None = None


@dataclass(frozen=True, slots=True)
class CaseResult:
    """One rig on one case, its repeats put together.

    `gain` is None where the base has no run of the case, `loss` where the reference has none.
    """

    case: str
    runs: int
    average_fps: float
    low_1_fps: float | None
    gain: float | None
    loss: float | None


@dataclass(frozen=True, slots=True)
class RigResult:
    """One rig over all its cases; means only over the cases it shares with the other side."""

    rig: str
    mean_gain: float | None
    gain_cases: int
    mean_loss: float | None
    loss_cases: int
    cases: tuple[CaseResult, ...]


@dataclass(frozen=True, slots=True)
class Comparison:
    """Every rig against one base and, where there is one, one reference."""

    base: str
    reference: str | None
    low_school: LowSchool
    mean: str
    rigs: tuple[RigResult, ...]


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


def geometric_mean(ratios: Sequence[float]) -> float | None:
    """Geometric mean of ratios, all above 0: it does not depend on which side is the base.

    None for no ratios.
    """
    if not ratios:
        return None
    return math.exp(math.fsum(math.log(_positive(r, "ratio")) for r in ratios) / len(ratios))


def average_of_repeats(runs: Sequence[Measurement]) -> float:
    """Repeats of one case as one rate: total frames over total time where all are known.

    Otherwise the harmonic mean, which is the same for passes of equal frames.
    """
    frames = [run.frames for run in runs if run.frames is not None and run.duration_s]
    if len(frames) == len(runs):
        return sum(frames) / math.fsum(run.duration_s or 0.0 for run in runs)
    return harmonic_mean([run.average_fps for run in runs])


def low_of_repeats(runs: Sequence[Measurement]) -> float | None:
    """The lows of repeats as one low: their harmonic mean, over the runs that have one."""
    lows = [run.low_1_fps for run in runs if run.low_1_fps is not None]
    return harmonic_mean(lows) if lows else None


def harmonic_mean(rates: Sequence[float]) -> float:
    """Rates of passes of equal frames as one rate; at least one, all above 0."""
    return len(rates) / math.fsum(1.0 / _positive(rate, "rate") for rate in rates)


def compare(
    runs: Iterable[Measurement],
    base: str,
    reference: str | None = None,
    low_school: LowSchool = LowSchool.PERCENTILE,
) -> Comparison:
    """Put repeats together and set every rig against the base and the reference.

    Rigs and cases keep the order in which they first appear. Raises UnknownName where base or
    reference has no run.
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
    rates = {
        rig: {case: average_of_repeats(repeats) for case, repeats in cases.items()}
        for rig, cases in grouped.items()
    }
    base_rates = rates[base]
    reference_rates: Mapping[str, float] = rates[reference] if reference is not None else {}
    return Comparison(
        base=base,
        reference=reference,
        low_school=low_school,
        mean="geometric",
        rigs=tuple(
            _rig_result(rig, cases, rates[rig], base_rates, reference_rates)
            for rig, cases in grouped.items()
        ),
    )


def _rig_result(
    rig: str,
    cases: Mapping[str, Sequence[Measurement]],
    rates: Mapping[str, float],
    base_rates: Mapping[str, float],
    reference_rates: Mapping[str, float],
) -> RigResult:
    over_base = [rate / base_rates[case] for case, rate in rates.items() if case in base_rates]
    kept = [rate / reference_rates[case] for case, rate in rates.items() if case in reference_rates]
    mean_over_base = geometric_mean(over_base)
    mean_kept = geometric_mean(kept)
    return RigResult(
        rig=rig,
        mean_gain=None if mean_over_base is None else mean_over_base - 1.0,
        gain_cases=len(over_base),
        mean_loss=None if mean_kept is None else 1.0 - mean_kept,
        loss_cases=len(kept),
        cases=tuple(
            CaseResult(
                case=case,
                runs=len(repeats),
                average_fps=rates[case],
                low_1_fps=low_of_repeats(repeats),
                gain=gain(rates[case], base_rates[case]) if case in base_rates else None,
                loss=loss(rates[case], reference_rates[case]) if case in reference_rates else None,
            )
            for case, repeats in cases.items()
        ),
    )
