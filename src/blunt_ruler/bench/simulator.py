"""Play one run on the simulated bench: a rig, a case, a seed, and the faults asked for.

Stands in for a lab in tests and in the demo. It knows nothing of the model in core.limits: the
model is tested against it. The same seed gives the same frames.
"""

import zlib
from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
from scipy.signal import lfilter

from blunt_ruler.bench.pipeline import Channel, FrameWork, Limits, Pipeline, Played
from blunt_ruler.bench.specs import MEGAPIXELS, PRESET_LOAD, BenchRig, BenchTitle
from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.models import Trace

TICK_MS = 100.0
AMBIENT_C = 23.0
HEAT_TIME_S = 35.0  # how slowly the card's temperature follows its power
THROTTLE_C = 87.0
NOISE_BLOCK = 4096
BYTES_PER_PIXEL = 4


class BenchFault(UserFixable):
    """A run that the bench cannot play as asked."""


@dataclass(frozen=True, slots=True)
class Faults:
    """What is wrong with a run on purpose; nothing by default."""

    cap_fps: float | None = None
    refresh_hz: float | None = None
    menu_s: float = 0.0
    first_pass: bool = False
    wrong_output: bool = False
    link_share: float = 1.0  # 0.5: the link came up at half its lanes
    hot: bool = False
    recorder_on: bool = False


@dataclass(frozen=True, slots=True)
class Setting:
    """What is played: a title at a resolution and preset, for a time."""

    title: BenchTitle
    resolution: str
    preset: str
    seconds: float = 60.0


@dataclass(slots=True)
class _Noise:
    """Correlated noise around 1, made block by block as frames ask for it."""

    rng: np.random.Generator
    spread: float
    memory: float = 0.9
    _values: list[float] = field(default_factory=list)
    _last: float = 0.0

    def at(self, index: int) -> float:
        while index >= len(self._values):
            shocks = self.rng.normal(0.0, np.sqrt(1 - self.memory**2), NOISE_BLOCK)
            wander, _ = lfilter([1.0], [1.0, -self.memory], shocks, zi=[self.memory * self._last])
            self._last = float(wander[-1])
            shared = 0.7 * wander + 0.714 * self.rng.normal(0.0, 1.0, NOISE_BLOCK)
            self._values.extend(np.exp(self.spread * shared).tolist())
        return self._values[index]


@dataclass(slots=True)
class _Card:
    """Clock, power and heat of the card, followed at every tick."""

    power_limit_w: float
    ambient_c: float
    cooling_c_per_w: float
    temperature_c: float
    clock: float = 1.0
    power_w: float = 0.0

    def follow(self, busy: float, seconds: float) -> None:
        """Let a tick pass at a busy share."""
        self.power_w = self.power_limit_w * (0.12 + 0.88 * busy * self.clock**2)
        settles_at = self.ambient_c + self.cooling_c_per_w * self.power_w
        self.temperature_c += (settles_at - self.temperature_c) * min(seconds / HEAT_TIME_S, 1.0)
        if self.temperature_c > THROTTLE_C:
            self.clock = max(0.55, self.clock - 0.012)
        else:
            self.clock = min(1.0, self.clock + 0.004)


def _stream(seed: int, *names: str) -> np.random.Generator:
    """A random stream of its own for each purpose, so that one draw never shifts another."""
    return np.random.default_rng([seed, *(zlib.crc32(name.encode()) for name in names)])


class _Scene:
    """How the load of a route changes with time: the same in every pass, on every rig."""

    def __init__(self, title: BenchTitle) -> None:
        rng = _stream(0, title.name, title.scene, "scene")
        self._waves = [
            (rng.uniform(0.03, 0.07), rng.uniform(6.0, 40.0), rng.uniform(0.0, 6.28))
            for _ in range(4)
        ]

    def load(self, seconds: float) -> float:
        return 1.0 + sum(
            float(height * np.sin(6.2832 * seconds / period + phase))
            for height, period, phase in self._waves
        )


def play_run(
    rig: BenchRig,
    setting: Setting,
    seed: int,
    repeat: int = 1,
    faults: Faults = Faults(),
) -> Trace:
    """One pass of a setting on a rig as a trace with telemetry, frame times rounded to 1 µs.

    The first second is the pipeline filling up and is not recorded.
    """
    if setting.resolution not in MEGAPIXELS:
        raise BenchFault(
            "resolution",
            f"the bench has no “{setting.resolution}”",
            f"Choose one of {', '.join(MEGAPIXELS)}",
        )
    names = (rig.name, setting.title.name, setting.resolution, setting.preset, f"pass {repeat}")
    run = _Run(rig, setting, faults, seed, names)
    return run.play()


class _Run:
    """One run under way: gives the pipeline its work and reads the gauges."""

    def __init__(
        self,
        rig: BenchRig,
        setting: Setting,
        faults: Faults,
        seed: int,
        names: tuple[str, ...],
    ) -> None:
        title = setting.title
        self._rig = rig
        self._setting = setting
        self._faults = faults
        self._scene = _Scene(title)
        self._cpu_noise = _Noise(_stream(seed, *names, "cpu"), title.cpu_noise)
        self._card_noise = _Noise(_stream(seed, *names, "card"), title.card_noise)
        luck = _stream(seed, *names, "luck")
        self._form = float(np.exp(luck.normal(0.0, 0.004)))  # no two passes are quite alike
        self._events = luck
        self._gauge_noise = _stream(seed, *names, "gauges")
        load = PRESET_LOAD.get(setting.preset, 1.0)
        self._megapixels = MEGAPIXELS[setting.resolution]
        self._card_ms = (
            (title.card_ms + title.card_ms_per_mpx * self._megapixels)
            * load
            * self._form
            / rig.card_speed
        )
        recorder = 1.09 if faults.recorder_on else 1.0
        self._cpu_ms = title.cpu_ms * self._form * recorder / rig.cpu_speed
        sent_back = rig.picture_sent_back or faults.wrong_output
        self._back_mb = self._megapixels * BYTES_PER_PIXEL if sent_back else 0.0
        if faults.recorder_on:  # the encoder reads every picture back
            self._back_mb += 0.5 * self._megapixels * BYTES_PER_PIXEL
            self._card_ms *= 1.05
        self._card = _Card(
            power_limit_w=rig.card_power_w,
            ambient_c=AMBIENT_C + (16.0 if faults.hot else 0.0),
            cooling_c_per_w=(72.0 if faults.hot else 47.0) / rig.card_power_w,
            temperature_c=AMBIENT_C + (52.0 if faults.hot else 14.0),
        )
        # Drawn in advance, so that how fast a rig is cannot change what the scene streams.
        # Every pass of a scene meets its bursts at about the same places.
        until_s = setting.seconds + faults.menu_s + 2.0
        places = _stream(0, title.name, "bursts").exponential(
            60.0 / max(title.bursts_per_min, 1e-9), size=2000
        )
        self._bursts = [
            at + float(luck.normal(0.0, 0.15)) for at in np.cumsum(places) if at < until_s
        ]
        self._compiles = self._first_pass_moments(until_s) if faults.first_pass else []
        self._ticks: dict[str, list[float]] = {}
        self._at_last_tick = (0.0, 0.0, 0.0)

    def _first_pass_moments(self, until_s: float) -> list[float]:
        """When shaders are compiled: often at first, seldom later."""
        moments = np.cumsum(self._events.exponential(1.0, 60) * np.linspace(0.25, 2.5, 60))
        return [float(at) + 1.0 for at in moments if at < until_s]

    def _work(self, index: int, now_ms: float) -> FrameWork:
        title = self._setting.title
        seconds = now_ms / 1000.0
        in_menu = 1.0 <= seconds < 1.0 + self._faults.menu_s
        load = 0.12 if in_menu else self._scene.load(seconds - self._faults.menu_s)
        cpu_ms = self._cpu_ms * (0.3 if in_menu else load**0.5) * self._cpu_noise.at(index)
        if self._compiles and seconds >= self._compiles[0]:
            self._compiles.pop(0)
            cpu_ms += float(self._events.uniform(35.0, 130.0)) / self._rig.cpu_speed
        streamed_mb = 0.0
        while self._bursts and seconds >= self._bursts[0]:
            self._bursts.pop(0)
            streamed_mb += title.burst_mb * float(self._events.uniform(0.6, 1.4))
        return FrameWork(
            cpu_ms=cpu_ms,
            upload_mb=title.upload_mb * (0.2 if in_menu else load),
            card_ms=self._card_ms * load * self._card_noise.at(index) / self._card.clock,
            fetches=0 if in_menu else title.fetches,
            fetch_mb=title.fetch_mb,
            picture_back_mb=self._back_mb,
            streamed_mb=streamed_mb,
        )

    def _read_gauges(self, now_ms: float, played: Played, moved_mb: float) -> None:
        cpu_ms, card_ms, last_mb = self._at_last_tick
        self._at_last_tick = (played.cpu_busy_ms, played.card_busy_ms, moved_mb)
        if now_ms == 0.0:
            return
        cpu_busy = min((played.cpu_busy_ms - cpu_ms) / TICK_MS, 1.0)
        card_busy = min((played.card_busy_ms - card_ms) / TICK_MS, 1.0)
        self._card.follow(card_busy, TICK_MS / 1000.0)
        cores = self._rig.cpu_cores
        cpu_total = (cpu_busy * 2.6 + 0.4) / cores
        host_w = self._rig.idle_wall_w + 45.0 * cpu_busy
        noise = self._gauge_noise.normal(0.0, 1.0, 4)
        for name, value, digits in (
            ("card busy %", 100.0 * card_busy, 0),
            ("card power W", self._card.power_w + noise[0], 0),
            ("card clock MHz", 2400.0 * self._card.clock + 4.0 * noise[1], 0),
            ("card temp C", self._card.temperature_c, 0),
            ("cpu total %", min(100.0, 100.0 * cpu_total + noise[2]), 0),
            ("cpu busiest core %", min(100.0, 100.0 * cpu_busy + 3.0), 0),
            ("card memory GB", self._setting.title.memory_gb + 0.35 * self._megapixels, 1),
            ("link traffic GB/s", (moved_mb - last_mb) / TICK_MS, 2),
            ("wall W", (host_w + self._card.power_w * 1.1) / 0.9 + noise[3], 0),
            ("noise dBA", 24.0 + 0.24 * max(self._card.temperature_c - 35.0, 0.0), 0),
        ):
            self._ticks.setdefault(name, []).append(round(float(value), digits))

    def play(self) -> Trace:
        faults, rig = self._faults, self._rig
        pipeline = Pipeline(
            self._work,
            Channel(rig.down_gb_per_s * faults.link_share),
            Channel(rig.up_gb_per_s * faults.link_share),
            rig.latency_ms,
            Limits(faults.cap_fps, faults.refresh_hz),
        )
        until_ms = 1000.0 * (1.0 + faults.menu_s + self._setting.seconds)
        played = pipeline.play(until_ms, self._read_gauges, TICK_MS)
        shown_ms = np.round(np.array(played.shown_ms), 3)
        start = int(np.searchsorted(shown_ms, 1000.0))
        shown_ms = shown_ms[start:]
        if shown_ms.size < 3:
            raise BenchFault(
                "bench",
                f"{rig.name} drew {shown_ms.size} frames in {self._setting.seconds:g} s",
                "Play for longer",
            )
        at_tick = np.clip((shown_ms[1:] / TICK_MS).astype(int) - 1, 0, None)
        return Trace(
            frame_times_ms=np.round(np.diff(shown_ms), 3),
            telemetry=_held(self._ticks, at_tick),
        )


SWEEP_BLOCKS_MB = tuple(2.0**power for power in range(-4, 9))  # 64 KB to 256 MB


def bus_sweep(rig: BenchRig, seed: int, link_share: float = 1.0) -> tuple[tuple[float, float], ...]:
    """Copies of growing blocks, host to card: (block in MB, rate in GB/s).

    Small blocks are slowed by the link's latency; the large ones show what the link can move.
    """
    channel = Channel(rig.down_gb_per_s * link_share)
    noise = _stream(seed, rig.name, "sweep").normal(0.0, 0.006, len(SWEEP_BLOCKS_MB))
    sweep = []
    for block_mb, off in zip(SWEEP_BLOCKS_MB, noise.tolist(), strict=True):
        start_ms = channel.free_at_ms
        end_ms = channel.transfer(start_ms, block_mb) + 2.0 * rig.latency_ms
        sweep.append((block_mb, block_mb / (end_ms - start_ms) * (1.0 + off)))
    return tuple(sweep)


def _held(ticks: Mapping[str, list[float]], at_tick: np.ndarray) -> dict[str, np.ndarray]:
    """Gauges as a capture program logs them: each row holds the last reading."""
    return {
        name: np.array(values)[np.minimum(at_tick, len(values) - 1)]
        for name, values in ticks.items()
    }
