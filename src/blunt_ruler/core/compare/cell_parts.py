"""What the repeats of one cell come to by themselves, before any other cell is looked at."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from blunt_ruler.core.compare.intervals import spread_of
from blunt_ruler.core.compare.results import Measurement
from blunt_ruler.core.measure.kinds import (
    COUNTED,
    Bound,
    Kind,
    bound_of,
    least_sure,
    under_cap,
)
from blunt_ruler.core.measure.means import harmonic_mean
from blunt_ruler.core.measure.reading import HowRead, errors_together


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


@dataclass(frozen=True, slots=True)
class CellParts:
    """One cell: rates, how they were read, and their spread as seen (None for a single run).

    `reading` is the variance of the log of the mean that reading leaves, with its freedom;
    `assumed` is a spread that somebody says of it; `sittings` are the days its passes were taken
    on, each with the mean of their log rates and how many there were, blank for a day not noted.
    """

    title: str
    runs: int
    average_fps: float
    low_1_fps: float | None
    low_01_fps: float | None
    spread: float | None
    wall_w: float | None
    kind: Kind
    kinds: frozenset[Kind]
    how: HowRead | None  # of a single run
    bound: Bound
    low_bound: Bound
    reading: tuple[float, float]
    assumed: float | None
    sittings: tuple[tuple[str, float, int], ...] = ()

    @property
    def is_counted(self) -> bool:
        """Whether a machine wrote all of it down."""
        return self.kinds <= COUNTED

    @property
    def is_published(self) -> bool:
        """Whether all of it is others' figures."""
        return self.kinds == {Kind.PUBLISHED}


def parts_of(repeats: Sequence[Measurement], cap_fps: float | None = None) -> CellParts:
    """The repeats of one cell, at least one, put together; `cap_fps` is its case's frame cap.

    A rate that stands at the cap is what the rig does at least.
    """
    kinds = frozenset(run.how.kind for run in repeats)
    watts = [run.wall_w for run in repeats if run.wall_w is not None]
    average_fps = average_of_repeats(repeats)
    low_1_fps = low_of_repeats(repeats)
    lows = bound_of(run.low_how.kind for run in repeats if run.low_1_fps is not None)
    return CellParts(
        title=repeats[0].title or repeats[0].case,
        runs=len(repeats),
        average_fps=average_fps,
        low_1_fps=low_1_fps,
        low_01_fps=_harmonic_of([run.low_01_fps for run in repeats]),
        spread=spread_of([run.average_fps for run in repeats]),
        wall_w=math.fsum(watts) / len(watts) if watts else None,
        kind=least_sure(kinds),
        kinds=kinds,
        how=repeats[0].how if len(repeats) == 1 else None,
        bound=under_cap(bound_of(run.how.kind for run in repeats), average_fps, cap_fps),
        low_bound=under_cap(lows, low_1_fps, cap_fps),
        reading=errors_together([run.how.error(run.average_fps) for run in repeats]),
        assumed=repeats[0].spread,
        sittings=_sittings(repeats),
    )


def low_parts_of(repeats: Sequence[Measurement], cap_fps: float | None = None) -> CellParts | None:
    """The same of the 1% lows of the repeats that have one: a low in the place of the average."""
    lows = [
        replace(run, average_fps=run.low_1_fps, how=run.low_how, frames=None)
        for run in repeats
        if run.low_1_fps is not None
    ]
    return parts_of(lows, cap_fps) if lows else None


def _sittings(repeats: Sequence[Measurement]) -> tuple[tuple[str, float, int], ...]:
    days: dict[str, list[float]] = {}
    for run in repeats:
        days.setdefault(run.sitting, []).append(math.log(run.average_fps))
    return tuple((day, math.fsum(logs) / len(logs), len(logs)) for day, logs in days.items())


def _harmonic_of(rates: Sequence[float | None]) -> float | None:
    there = [rate for rate in rates if rate is not None]
    return harmonic_mean(there) if there else None
