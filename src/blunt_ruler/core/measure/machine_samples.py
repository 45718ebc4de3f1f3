"""What a machine said of itself during a pass, a few times a second, beside any kind of figures.

A log has its own gauges; where it lacks one, and where figures were typed, these stand in.
"""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from blunt_ruler.core.measure.frames import frame_ends_s
from blunt_ruler.core.measure.telemetry import GaugeDigest, digests, gauge_of
from blunt_ruler.core.types import FloatArray

LANES, GENERATION = "link lanes", "link generation"  # channels, named so that gauges know them
BUSY, POWER, TEMPERATURE = "card busy %", "card power W", "card temp C"
FEWEST = 2  # samples that make a reading
OUTSIDE_S = 2.0  # how far a log may reach beyond the samples: clocks and slow hands


@dataclass(frozen=True, slots=True)
class Samples:
    """Moments in seconds since 1970, shape (n,), rising, and channels beside them, shape (n,).

    A value is NaN where the machine did not tell.
    """

    at_s: FloatArray
    channels: Mapping[str, FloatArray]

    @property
    def seconds(self) -> float:
        """From the first sample to the last."""
        return float(self.at_s[-1] - self.at_s[0]) if self.at_s.size else 0.0


def digests_of(samples: Samples) -> tuple[GaugeDigest, ...]:
    """A digest of every gauge that was read; none from fewer than two samples."""
    if samples.at_s.size < FEWEST:
        return ()
    return digests(samples.channels, np.ones(samples.at_s.size))


def first_of(samples: Samples, channel: str) -> float | None:
    """The first reading of a channel that is one."""
    values = samples.channels.get(channel, np.empty(0))
    sound = values[np.isfinite(values)]
    return float(sound[0]) if sound.size else None


def onto_frames(
    frame_times_ms: FloatArray,
    telemetry: Mapping[str, FloatArray],
    samples: Samples,
    ends_at_s: float,
) -> dict[str, FloatArray]:
    """The telemetry of a log with the gauges it lacks, each frame with the sample nearest in time.

    Frame times shape (n,), ms; the log ended at a moment in seconds since 1970. A frame that lies
    outside the samples has none. Nothing is added where the log does not lie among them.
    """
    own = {known[0] for name in telemetry if (known := gauge_of(name)) is not None}
    ends = frame_ends_s(frame_times_ms)
    at = ends_at_s - ends[-1] + ends
    if samples.at_s.size < FEWEST or not _among(at, samples.at_s):
        return dict(telemetry)
    after = np.clip(np.searchsorted(samples.at_s, at), 1, samples.at_s.size - 1)
    before_nearer = at - samples.at_s[after - 1] < samples.at_s[after] - at
    nearest = np.where(before_nearer, after - 1, after)
    outside = (at < samples.at_s[0] - OUTSIDE_S) | (at > samples.at_s[-1] + OUTSIDE_S)
    added = {
        name: np.where(outside, np.nan, values[nearest])
        for name, values in samples.channels.items()
        if (known := gauge_of(name)) is not None and known[0] not in own
    }
    return {**telemetry, **added}


def _among(at: FloatArray, samples: FloatArray) -> bool:
    """Whether at least half of some moments lie among the samples."""
    inside = (at >= samples[0] - OUTSIDE_S) & (at <= samples[-1] + OUTSIDE_S)
    return bool(np.mean(inside) >= 0.5)
