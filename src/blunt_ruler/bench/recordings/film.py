"""Film a run of the simulated bench: its pictures as a recorder on the same machine keeps them.

The recorder keeps, at even moments, the newest picture that was drawn: a slow game leaves the same
one twice, a fast one loses some. The counters average the frames of their last interval. The same
seed gives the same pictures.
"""

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import av
import numpy as np

from blunt_ruler.bench.recordings.overlays import LABELS, Overlay, Place, Style
from blunt_ruler.bench.simulator import BenchFault
from blunt_ruler.core.measure.frames import frame_ends_s
from blunt_ruler.core.measure.telemetry import Gauge, gauge_of
from blunt_ruler.core.records.records import Trace
from blunt_ruler.core.types import ByteArray, FloatArray

GAUGES = {
    "card_w": Gauge.CARD_POWER,
    "wall_w": Gauge.WALL_POWER,
    "load": Gauge.CARD_BUSY,
    "temperature": Gauge.CARD_TEMPERATURE,
    "memory": Gauge.CARD_MEMORY,
    "clock": Gauge.CARD_CLOCK,
}

SPARKS = 160  # small lights that are nowhere twice: they cost bits, as leaves and rain do


@dataclass(frozen=True, slots=True)
class Part:
    """A stretch of a recording: a pass of the scene, a menu or a loading screen.

    A menu and a loading screen show still pictures, and take `seconds`.
    """

    trace: Trace | None = None
    still: str = ""
    seconds: float = 0.0


@dataclass(frozen=True, slots=True)
class Camera:
    """How it is recorded: size in pixels, pictures a second, bits a second, and the code."""

    width: int = 1280
    height: int = 720
    fps: int = 30
    bits_per_s: int = 2_000_000
    codec: str = "libx264"


@dataclass(slots=True)
class Filmed:
    """What is true of a recording.

    Attributes:
        places: where each figure stands.
        shown: for each quantity the moments from which a figure stood, in s, and its text.
        passes: from and to of each pass, in s.
        new: for each picture whether the game had drawn anew, shape (n,).
    """

    path: Path
    camera: Camera
    places: dict[str, Place] = field(default_factory=dict)
    shown: dict[str, list[tuple[float, str]]] = field(default_factory=dict)
    passes: list[tuple[float, float]] = field(default_factory=list)
    new: list[bool] = field(default_factory=list)


def parse_camera(words: str, kbit_per_s: float) -> Camera:
    """A camera as "1280x720@30"; BenchFault where it is none."""
    found = re.fullmatch(r"(\d{3,4})[x×](\d{3,4})@(\d{1,3})", words.strip().lower())
    if found is None or not 5 <= int(found[3]) <= 240 or int(found[1]) % 2 or int(found[2]) % 2:
        raise BenchFault(
            "--picture", f"“{words[:40]}” is not a size and rate", "Write it as 1280x720@30"
        )
    return Camera(int(found[1]), int(found[2]), int(found[3]), round(1000 * kbit_per_s))


def film_passes(
    path: Path, traces: Sequence[Trace], style: Style, camera: Camera = Camera(), seed: int = 1
) -> Filmed:
    """A recording as people make it: a menu, then each pass behind a loading screen, and at the
    end the results.
    """
    parts = [Part(still="menu", seconds=2.0)]
    for trace in traces:
        parts += [Part(still="loading", seconds=1.5), Part(trace)]
    return film(path, [*parts, Part(still="results", seconds=2.0)], style, camera, seed)


def film(
    path: Path, parts: Sequence[Part], style: Style, camera: Camera = Camera(), seed: int = 1
) -> Filmed:
    """Write a recording of some parts, one after the other, and give what is true of it."""
    overlay = Overlay(style, camera.width, camera.height)
    filmed = Filmed(path, camera, overlay.places(), {row: [] for row in style.rows})
    with av.open(str(path), "w") as out:
        stream: Any = out.add_stream(camera.codec, rate=camera.fps)
        stream.width, stream.height, stream.pix_fmt = camera.width, camera.height, "yuv420p"
        stream.bit_rate = camera.bits_per_s
        if camera.codec == "libx264":
            stream.options = {"preset": "veryfast", "g": str(4 * camera.fps)}
        for picture in _pictures(parts, overlay, camera, seed, filmed):
            for packet in stream.encode(av.VideoFrame.from_ndarray(picture, format="rgb24")):
                out.mux(packet)
        for packet in stream.encode(None):
            out.mux(packet)
    return filmed


def _pictures(
    parts: Sequence[Part], overlay: Overlay, camera: Camera, seed: int, filmed: Filmed
) -> Iterator[ByteArray]:
    scene = _Scene(camera, seed)
    at_s = 0.0
    count = 0
    for part in parts:
        counters = _Counters(part.trace, overlay.style) if part.trace is not None else None
        seconds = part.seconds if counters is None else counters.seconds
        start, last_frame = at_s, None
        at_s += seconds
        while (now := count / camera.fps) < at_s - 1e-9:
            if counters is None:
                picture = scene.still(part.still)
                filmed.new.append(now - start < 1.0 / camera.fps)
            else:
                frame = counters.frame_at(now - start)
                picture = scene.at(counters.frame_s(frame))
                filmed.new.append(frame != last_frame)
                last_frame = frame
                figures = counters.figures_at(now - start)
                overlay.draw(picture, figures)
                for row, text in figures.items():
                    told = filmed.shown[row]
                    if not told or told[-1][1] != text:
                        told.append((now, text))
            count += 1
            yield picture
        if counters is not None:
            filmed.passes.append((start, at_s))
        else:
            for told in filmed.shown.values():
                told.append((start, ""))


class _Counters:
    """What an overlay says during a pass."""

    def __init__(self, trace: Trace, style: Style) -> None:
        self._ends = frame_ends_s(trace.frame_times_ms)
        self._times_ms = trace.frame_times_ms
        self._style = style
        self._told: dict[int, dict[str, str]] = {}
        self._channels: dict[str, FloatArray] = {}
        for name, values in trace.telemetry.items():
            known = gauge_of(name)
            for row, gauge in GAUGES.items():
                if known is not None and known[0] is gauge and row not in self._channels:
                    self._channels[row] = values * known[1]

    @property
    def seconds(self) -> float:
        return float(self._ends[-1])

    def frame_at(self, second: float) -> int:
        """The newest frame at a moment; −1 is what stood there before the first was drawn."""
        return int(np.searchsorted(self._ends, second, side="right")) - 1

    def frame_s(self, frame: int) -> float:
        return float(self._ends[frame]) if frame >= 0 else 0.0

    def figures_at(self, second: float) -> dict[str, str]:
        """The texts that stand at a moment: of the interval before."""
        step = int(second / self._style.renews_s)
        if step not in self._told:
            self._told[step] = {row: self._text(row, step) for row in self._style.rows}
        return self._told[step]

    def _text(self, row: str, step: int) -> str:
        every = self._style.renews_s
        first, last = np.searchsorted(self._ends, [max(step - 1, 0) * every, max(step, 1) * every])
        own = slice(int(first), max(int(last), int(first) + 1))
        if row == "fps":
            value = 1000.0 / self._times_ms[own].mean()
        elif row == "low":
            value = 1000.0 / np.quantile(self._times_ms[: own.stop], 0.99)
        else:
            value = np.nanmean(self._channels[row][own]) if row in self._channels else 0.0
        return f"{value:.{LABELS[row][2]}f}"


class _Scene:
    """A ride past textured ground and things that stand in it, from a wide picture made once."""

    def __init__(self, camera: Camera, seed: int) -> None:
        rng = np.random.default_rng([seed, camera.width])
        self._w, self._h = camera.width, camera.height
        wide = 3 * self._w
        ground = np.zeros((self._h, wide))
        for octave in (4, 12, 40, 120):
            rough = rng.normal(0.0, 1.0, (max(self._h * octave // self._w, 2), octave * 3))
            ground += _stretched(rough, self._h, wide) * 60.0 / octave**0.5
        tint = rng.uniform(0.45, 1.1, 3)
        light = np.linspace(1.5, 0.6, self._h)[:, None]
        picture = (118 + ground)[..., None] * tint * light[..., None]
        for _ in range(40):
            x, w = int(rng.integers(0, wide - 40)), int(rng.integers(12, self._w // 6))
            y, h = int(rng.integers(0, self._h - 40)), int(rng.integers(12, self._h // 2))
            picture[y : y + h, x : x + w] = rng.uniform(10, 245, 3)
        picture += rng.normal(0.0, 5.0, picture.shape)
        ground_px = np.clip(picture, 0, 255).astype(np.uint8)
        self._wide = np.concatenate([ground_px, ground_px[:, : self._w]], axis=1)
        self._span = wide
        self._still = {
            name: np.roll(
                self._wide[:, : self._w] // (3 if name == "loading" else 2), shift, axis=1
            )
            for name, shift in (("menu", 200), ("loading", 900), ("results", 1500))
        }

    def at(self, second: float) -> ByteArray:
        """The picture of a frame that was drawn at a moment of its pass."""
        x = int(second * 0.32 * self._w + 40 * np.sin(second * 1.7)) % self._span
        picture = self._wide[:, x : x + self._w].copy()
        near = int(second * 0.9 * self._w) % self._span
        band = self._wide[: self._h // 4, near : near + self._w]
        picture[-(self._h // 4) :] = band[::-1]  # the ground nearby goes by faster
        sparks = np.random.default_rng(int(second * 1e6))
        xs = sparks.integers(0, self._w - 6, SPARKS)
        ys = sparks.integers(0, self._h - 6, SPARKS)
        for left, top, light in zip(xs, ys, sparks.integers(60, 255, SPARKS), strict=True):
            picture[top : top + 5, left : left + 5] = light
        return picture

    def still(self, name: str) -> ByteArray:
        return self._still.get(name, self._still["menu"]).copy()


def _stretched(rough: FloatArray, height: int, width: int) -> FloatArray:
    """A small field stretched to a large one, linearly."""
    rows = np.linspace(0, rough.shape[0] - 1, height)
    columns = np.linspace(0, rough.shape[1] - 1, width)
    across = np.stack([np.interp(columns, np.arange(rough.shape[1]), row) for row in rough])
    low = np.floor(rows).astype(int)
    high = np.minimum(low + 1, rough.shape[0] - 1)
    part = (rows - low)[:, None]
    return np.asarray(across[low] * (1 - part) + across[high] * part)
