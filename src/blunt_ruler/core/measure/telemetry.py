"""Telemetry in a log as quantities: which channel is what, and a digest of each.

Channels keep the log's own names; here they are read by the words in them, the way a person
would. A channel that says nothing known is kept in the trace and otherwise left alone.
"""

from collections.abc import Mapping
from enum import StrEnum
from functools import lru_cache
from typing import NamedTuple

import numpy as np

from blunt_ruler.core.errors import BadFrames
from blunt_ruler.core.measure.robust_line import quantile_of
from blunt_ruler.core.types import FloatArray


class Gauge(StrEnum):
    """A quantity that capture programs log beside frame times, with its unit."""

    CARD_BUSY = "card busy, %"
    CARD_POWER = "card power, W"
    CARD_CLOCK = "card clock, MHz"
    CARD_TEMPERATURE = "card temperature, °C"
    CARD_MEMORY = "card memory, GB"
    RENDER_SCALE = "render scale"
    ENCODER = "card encoder, %"
    CPU_TOTAL = "CPU in all, %"
    CPU_CORE = "busiest core, %"
    CPU_POWER = "CPU power, W"
    LINK_TRAFFIC = "link traffic, GB/s"
    LINK_GENERATION = "link generation"
    LINK_LANES = "link lanes"
    WALL_POWER = "wall power, W"
    NOISE = "noise, dB(A)"


class GaugeDigest(NamedTuple):
    """One gauge over one trace; a tuple, so that stored runs stay small.

    `mean` is over time; `low` and `high` are the 5th and 95th percentiles; `start` and `end`
    the means of the first and last fifth. NaN samples are left out.
    """

    gauge: Gauge
    mean: float
    low: float
    high: float
    start: float
    end: float


@lru_cache(maxsize=4096)  # logs of one program name their channels alike
def gauge_of(channel: str) -> tuple[Gauge, float] | None:
    """What a channel measures and the factor to the gauge's unit; None for an unknown one."""
    words = channel.lower().replace("_", " ")

    def has(*any_of: str) -> bool:
        return any(word in words for word in any_of)

    thousandth = 0.001 if has("mb", "mib") else 1.0
    if has("encod"):
        return Gauge.ENCODER, 1.0
    if has("render scale", "resolution scale", "rendering scale", "render height"):
        return Gauge.RENDER_SCALE, 1.0
    if has("lane") or (has("link", "pcie") and has("width")):
        return Gauge.LINK_LANES, 1.0
    if has("generation") or (has("link", "pcie") and has(" gen")):
        return Gauge.LINK_GENERATION, 1.0
    if has("link", "pcie", "bus ") and has("b/s", "bps", "traffic"):
        return Gauge.LINK_TRAFFIC, thousandth
    if has("wall", "mains"):
        return Gauge.WALL_POWER, 1.0
    if has("dba", "db(a)", "noise"):
        return Gauge.NOISE, 1.0
    if has("card", "gpu", "graphics"):
        return _card_gauge(has, thousandth)
    if has("cpu", "core"):
        if has("cpu power", "cpu package power", "cpu watt"):
            return Gauge.CPU_POWER, 1.0
        if has("temp", "clock", "mhz", "power", " w"):
            return None
        return (Gauge.CPU_CORE if has("busiest", "max", "highest") else Gauge.CPU_TOTAL), 1.0
    return None


def _card_gauge(has: object, thousandth: float) -> tuple[Gauge, float] | None:
    assert callable(has)
    for gauge, words in (
        (Gauge.CARD_CLOCK, ("clock", "mhz", "freq")),
        (Gauge.CARD_TEMPERATURE, ("temp", "°c")),
        (Gauge.CARD_POWER, ("power", "watt", " w")),
        (Gauge.CARD_MEMORY, ("memory", "vram", "mem ")),
        (Gauge.CARD_BUSY, ("busy", "load", "util", "usage", "%")),
    ):
        if has(*words):
            return gauge, thousandth if gauge is Gauge.CARD_MEMORY else 1.0
    return None


MOST = 1e20  # not even nanoseconds since 1970 are more; sums of a million are still numbers


def checked_telemetry(telemetry: Mapping[str, FloatArray], where: str = "trace") -> None:
    """BadFrames where a channel holds a number that no gauge shows; NaN is a missing sample."""
    for channel, values in telemetry.items():
        beyond = np.abs(values) > MOST
        if beyond.any():
            first = int(np.flatnonzero(beyond)[0])
            raise BadFrames(
                where,
                f"“{channel[:60]}” holds {values[first]:g} at frame {first + 1}",
                f"Take the column out; no gauge shows more than {MOST:g}",
            )


def digests(
    telemetry: Mapping[str, FloatArray], frame_times_ms: FloatArray
) -> tuple[GaugeDigest, ...]:
    """A digest of every known gauge. Channels shape (n,), beside frame times shape (n,), ms.

    Where two channels say the same gauge, the first counts.
    """
    found: dict[Gauge, GaugeDigest] = {}
    for channel, values in telemetry.items():
        known = gauge_of(channel)
        if known is None or known[0] in found:
            continue
        gauge, factor = known
        sound = np.isfinite(values)
        if not sound.any():
            continue
        there, weights = values[sound] * factor, frame_times_ms[sound]
        fifth = max(there.size // 5, 1)
        ascending = np.sort(there)
        found[gauge] = GaugeDigest(
            gauge=gauge,
            mean=_short(float(there @ weights / weights.sum())),
            low=_short(quantile_of(ascending, 0.05)),
            high=_short(quantile_of(ascending, 0.95)),
            start=_short(there[:fifth].mean()),
            end=_short(there[-fifth:].mean()),
        )
    return tuple(found.values())


def _short(value: float) -> float:
    """Four significant figures: no gauge is better, and logbooks stay small."""
    return float(f"{float(value):.4g}")
