"""Runs read from a recording of the screen, on their way into a logbook."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.measure.kinds import Kind
from blunt_ruler.core.measure.machine_samples import Samples, digests_of
from blunt_ruler.core.measure.reading import HowRead
from blunt_ruler.core.recordings.passes import (
    NO_GAUGES,
    ReadPass,
    counted_rate,
    figures_of,
    grid_of,
    samples_of,
    values_at,
)
from blunt_ruler.core.recordings.quantities import MEANINGS, Box, Quantity
from blunt_ruler.core.records.records import (
    FromRecording,
    Origin,
    ReadBox,
    Role,
    Trace,
    TypedFigures,
)
from blunt_ruler.core.runs.import_runs import Arrival, CaseName

COUNTED_CHANNEL = "counted fps"


class NothingRead(UserFixable):
    """A pass without a frame rate that is sure."""


@dataclass(frozen=True, slots=True)
class Source:
    """The recording that passes were read from."""

    name: str
    sha256: str
    width: int
    height: int
    fps: float
    boxes: tuple[Box, ...] = ()
    taken_at: str = ""

    def kept_boxes(self) -> tuple[ReadBox, ...]:
        """Its boxes as a logbook keeps them."""
        return tuple(
            ReadBox(x=box.x, y=box.y, w=box.w, h=box.h, quantity=box.quantity.value)
            for box in self.boxes
        )


def arrival_of_pass(
    one: ReadPass,
    source: Source,
    rig: str,
    case: CaseName,
    *,
    role: Role | None = None,
) -> tuple[Arrival, Trace]:
    """A pass as a run of a rig and case, and the series of its readings. NothingRead where no
    average came of it.
    """
    figures = figures_of(one)
    average = figures.average
    if average is None:
        raise NothingRead(
            source.name,
            f"no frame rate is sure from {one.from_s:.1f} to {one.to_s:.1f} s",
            "Draw a box round the counter, answer what is asked, or count its pictures",
        )
    low = figures.low_1_fps
    # A reading is the mean of an interval: the lowest may well stand above the 1 % low of frames.
    lowest = average.minimum if low is None or average.minimum <= low else None
    how = HowRead(kind=Kind.RECORDING, edges=(average.low_95, average.high_95))
    low_how = HowRead(kind=Kind.RECORDING, edges=figures.low_edges)
    typed = TypedFigures(
        average_fps=average.average,
        average_how=how,
        low_1_fps=low,
        low_1_how=low_how if low is not None else HowRead(),
        minimum_fps=lowest,
        maximum_fps=average.maximum,
    )
    recording = FromRecording(
        sha256=source.sha256,
        width=source.width,
        height=source.height,
        fps=source.fps,
        from_s=one.from_s,
        to_s=one.to_s,
        boxes=source.kept_boxes(),
        period_ms=one.counted.period_ms if one.counted is not None else None,
        readings=average.readings,
        asked=one.asked + one.settled,
        read_share=average.read_share,
        notes=figures.notes,
    )
    arrival = Arrival(
        rig=rig,
        case=case,
        figures=None,
        trace_sha256=None,
        origin=Origin(kind="recording", file=source.name[:250]),
        typed=typed,
        sampled=digests_of(samples_of(one)),
        recording=recording,
        role=role,
        taken_at=source.taken_at,
    )
    return arrival, series_trace(one)


def arrival_of_still(
    figures: Mapping[Quantity, float],
    source: Source,
    rig: str,
    case: CaseName,
    *,
    asked: int = 0,
) -> Arrival:
    """Figures of one picture, by what they are, as a run. NothingRead without a rate or a score."""
    how = HowRead(kind=Kind.RECORDING)
    rate, score = figures.get(Quantity.FPS), figures.get(Quantity.SCORE)
    if rate is None and score is None:
        raise NothingRead(
            source.name, "neither an average nor a score is chosen", "Say which figure is which"
        )
    low, low_01 = figures.get(Quantity.LOW_1), figures.get(Quantity.LOW_01)
    typed = TypedFigures(
        average_fps=rate,
        average_how=how if rate is not None else HowRead(),
        low_1_fps=low,
        low_1_how=how if low is not None else HowRead(),
        low_01_fps=low_01,
        minimum_fps=figures.get(Quantity.MINIMUM),
        maximum_fps=figures.get(Quantity.MAXIMUM),
        score=score if rate is None else None,
    )
    recording = FromRecording(
        sha256=source.sha256, width=source.width, height=source.height, fps=0.0, from_s=0.0,
        to_s=0.0, boxes=source.kept_boxes(), readings=len(figures), asked=asked,
    )  # fmt: skip
    gauges = {
        MEANINGS[quantity].channel: np.full(2, value)
        for quantity, value in figures.items()
        if quantity not in NO_GAUGES
    }
    return Arrival(
        rig=rig,
        case=case,
        figures=None,
        trace_sha256=None,
        origin=Origin(kind="recording", file=source.name[:250]),
        typed=typed,
        sampled=digests_of(Samples(np.arange(2.0), gauges)),
        recording=recording,
        taken_at=source.taken_at,
    )


def series_trace(one: ReadPass) -> Trace:
    """The readings of a pass as they are kept: the time from look to look in place of frame times,
    and a channel for each counter, NaN where nothing was sure.
    """
    moments = grid_of(one)
    channels = {
        MEANINGS[series.quantity].channel: values_at(series, moments)
        for series in reversed(one.series)
        if series.quantity is not Quantity.IGNORE
    }
    if one.counted is not None:
        channels[COUNTED_CHANNEL] = counted_rate(one.counted, moments)
    every_ms = float(np.diff(moments)[0]) * 1000.0
    return Trace(np.full(moments.size, every_ms), dict(reversed(channels.items())))
