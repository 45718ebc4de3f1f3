"""One pass of a recording: its figures out of the series of its boxes and its counted pictures."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from blunt_ruler.core.measure.machine_samples import Samples
from blunt_ruler.core.recordings.pictures import Counted
from blunt_ruler.core.recordings.quantities import MEANINGS, RATES, Quantity
from blunt_ruler.core.recordings.series import Average, Series, average_of
from blunt_ruler.core.text import count_text
from blunt_ruler.core.types import FloatArray

NO_GAUGES = RATES | {Quantity.SCORE, Quantity.IGNORE}
AGREE = 0.02  # by which counter and counted pictures may differ
SHARED_S = 0.05  # of a pass that may stand in the next too: ends are put by hand
FEWEST_FOR_LOW = 100  # counted pictures that make a 1 % low


def overlapping(spans: Sequence[tuple[float, float]]) -> tuple[int, int] | None:
    """The first two of some passes, by place, that share a stretch of the recording, each from and
    to in s: what both hold would count as two repeats. None where all stand apart.
    """
    order = sorted(range(len(spans)), key=lambda at: spans[at])
    for one, next_one in pairwise(order):
        if spans[next_one][0] < spans[one][1] - SHARED_S:
            return min(one, next_one), max(one, next_one)
    return None


@dataclass(frozen=True, slots=True)
class ReadPass:
    """A stretch of a recording: the series of its boxes cut to it, and its counted pictures."""

    from_s: float
    to_s: float
    series: tuple[Series, ...]
    counted: Counted | None = None

    def of(self, quantity: Quantity) -> Series | None:
        """The series of a quantity, the first where two boxes show it."""
        return next((one for one in self.series if one.quantity is quantity and one.held), None)

    @property
    def asked(self) -> int:
        """How many figures are in doubt and not settled, over all boxes."""
        return sum(len(one.asked) for one in self.series)

    @property
    def settled(self) -> int:
        """How many figures a person has settled, over all boxes."""
        return sum(held.settled for one in self.series for held in one.held)


def pass_of(
    series: Sequence[Series], counted: Counted | None, from_s: float, to_s: float
) -> ReadPass:
    """The part of a recording between two moments."""
    return ReadPass(
        from_s,
        to_s,
        tuple(one.between(from_s, to_s) for one in series),
        None if counted is None else counted.between(from_s, to_s),
    )


@dataclass(frozen=True, slots=True)
class PassFigures:
    """What a pass says.

    Attributes:
        average: of the counter, else of the counted pictures; None where neither gave one.
        from_pictures: whether the average is of counted pictures.
        low_1_fps: of the counter that shows it, as it stood last, else of counted pictures.
        low_edges: between which the low of counted pictures lies: half a period to either side of
            its frame time; None for a counter's.
    """

    average: Average | None
    from_pictures: bool = False
    low_1_fps: float | None = None
    low_edges: tuple[float, float] | None = None
    notes: tuple[str, ...] = ()


def figures_of(one: ReadPass) -> PassFigures:
    """The figures of a pass, and what is to be said of them."""
    counter = one.of(Quantity.FPS)
    average = None if counter is None else average_of(counter)
    counted = None if one.counted is None else _counted_average(one.counted)
    notes: list[str] = []
    if counter is not None:
        notes += _gaps(counter)
    low, edges = _shown_last(one.of(Quantity.LOW_1)), None
    if low is not None:
        notes.append("1% low: as the counter showed it at the end")
    if average is not None and counted is not None:
        apart = abs(average.average / counted.average - 1.0)
        if apart > AGREE:
            notes.append(
                f"the counter says {average.average:.1f} fps, counted pictures "
                f"{counted.average:.1f}: generated pictures, or a cap of the recorder"
            )
    if counted is not None and one.counted is not None:
        notes += [f"pictures counted in steps of {one.counted.period_ms:.1f} ms"]
        notes += [*one.counted.notes, *_freezes(one.counted)]
        if low is None:
            low, edges = _counted_low(one.counted)
    return PassFigures(
        average or counted, average is None and counted is not None, low, edges, tuple(notes)
    )


def _counted_average(counted: Counted) -> Average:
    """New pictures over time; each end is known to half a period (Δn = 1/√6 of a frame)."""
    times_ms = counted.frame_times_ms
    mean = counted.average_fps
    half = 1.96 * mean / (np.sqrt(6.0) * times_ms.size)
    return Average(
        mean, mean - half, mean + half, 1000.0 / float(times_ms.max()),
        1000.0 / float(times_ms.min()), int(times_ms.size), 1.0,
    )  # fmt: skip


def _counted_low(counted: Counted) -> tuple[float | None, tuple[float, float] | None]:
    """The 1 % low of counted pictures by the percentile, and between what it lies: its frame time
    is known to half a period.
    """
    if counted.frame_times_ms.size < FEWEST_FOR_LOW:
        return None, None
    slow_ms, half_ms = float(np.quantile(counted.frame_times_ms, 0.99)), counted.period_ms / 2.0
    return 1000.0 / slow_ms, (1000.0 / (slow_ms + half_ms), 1000.0 / (slow_ms - half_ms))


def _shown_last(series: Series | None) -> float | None:
    """What a counter of lows showed last, for sure."""
    return series.sure[-1].value if series is not None and series.sure else None


def _gaps(counter: Series) -> list[str]:
    seconds = sum(one.to_s - one.from_s for one in counter.held if not one.is_sure)
    whole = counter.held[-1].to_s - counter.held[0].from_s
    if whole <= 0 or seconds / whole < 0.02:
        return []
    return [f"for {seconds:.1f} of {whole:.1f} s the counter was not read"]


def _freezes(counted: Counted) -> list[str]:
    if not counted.freezes:
        return []
    longest = max(counted.freezes, key=lambda one: one.ms)
    return [
        f"{count_text(len(counted.freezes), 'freeze')} of over 100 ms, the longest of "
        f"{longest.ms:.0f} ms at {longest.at_s:.1f} s"
    ]


def grid_of(one: ReadPass) -> FloatArray:
    """Even moments through a pass, as far apart as its looks, from its start; shape (n,)."""
    every = min((series.every_s for series in one.series), default=0.125)
    count = max(round((one.to_s - one.from_s) / every), 2)
    return np.asarray(one.from_s + np.arange(count) * every, dtype=np.float64)


def values_at(series: Series, moments: FloatArray) -> FloatArray:
    """The sure figure that stands at each moment; NaN where none does. Shape (n,)."""
    found = np.full(moments.size, np.nan)
    for held in series.sure:
        inside = (moments >= held.from_s - 1e-6) & (moments < held.to_s - 1e-6)
        found[inside] = held.value
    return found


def samples_of(one: ReadPass) -> Samples:
    """Watts, load and the like through a pass, as channels of telemetry."""
    moments = grid_of(one)
    channels = {}
    for series in one.series:
        name = MEANINGS[series.quantity].channel
        if series.quantity in NO_GAUGES or name in channels:
            continue
        values = values_at(series, moments)
        if np.isfinite(values).any():
            channels[name] = values
    return Samples(moments - one.from_s, channels)


def counted_rate(counted: Counted, moments: FloatArray, window_s: float = 1.0) -> FloatArray:
    """New pictures a second around each moment, shape (n,)."""
    before = np.searchsorted(counted.starts_s, moments - window_s / 2)
    after = np.searchsorted(counted.starts_s, moments + window_s / 2)
    return np.asarray((after - before) / window_s, dtype=float)
