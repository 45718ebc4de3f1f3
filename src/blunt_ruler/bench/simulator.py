"""Play one run on the simulated bench: a rig, a case, a seed, and the faults asked for.

Stands in for a lab in tests and in the demo. It knows nothing of the model in core.limits: the
model is tested against it. The same seed gives the same frames.
"""

import zlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, fields
from itertools import accumulate

import numpy as np

from blunt_ruler.bench.pipeline import Channel, Flow, FrameWork, Limits, Pipeline, Played
from blunt_ruler.bench.specs import (
    MEGAPIXELS,
    PRESET_LOAD,
    PRESET_MEMORY,
    BenchRig,
    BenchTitle,
)
from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.records import Trace

TICK_MS = 100.0
# What draws when the picture comes from the wrong device: slow, and over no link.
DRAWN_BY_BUILT_IN = {"card_speed": 0.25, "down_gb_per_s": 24.0, "up_gb_per_s": 24.0}
AMBIENT_C = 23.0
HEAT_TIME_S = 35.0  # how slowly the card's temperature follows its power
THROTTLE_C = 87.0
STARVED_FRAMES = 1 / 60
SPILLED_MB_PER_GB = 25.0  # of what does not fit, what each frame touches
FEWEST_PIXELS = 0.25  # a title draws no fewer than this share of its pixels
SLOW_CORE = 1.7
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
    loading_s: float = 0.0
    tail_s: float = 0.0  # a results screen after the scene
    first_pass: bool = False
    wrong_output: bool = False
    link_share: float = 1.0  # 0.5: the link came up at half its lanes
    hot: bool = False
    recorder_on: bool = False
    built_in_draws: bool = False  # the card idles while the built-in graphics draw
    generated: bool = False  # every other picture shown is made, not rendered
    starved: bool = False  # too little memory: one frame in sixty waits for it
    power_share: float = 1.0  # 0.6: the card is held to this share of its board power
    overflow_gb: float = 0.0  # of what is drawn from does not fit the card: fetched over the link
    dynamic_fps: float | None = None  # the title draws fewer pixels to hold this rate
    slow_core: bool = False  # the title's main thread crawls on this host


def parse_faults(words: Sequence[str]) -> Faults:
    """Faults from "name" or "name=value" words; BenchFault names what is none."""
    known = {one.name: one for one in fields(Faults)}
    wanted: dict[str, float | bool] = {}
    for word in words:
        name, mark, value = word.partition("=")
        if name not in known:
            raise BenchFault("fault", f"there is no “{name}”", f"Choose one of {', '.join(known)}")
        try:
            wanted[name] = float(value) if mark else True
        except ValueError:
            raise BenchFault(
                f"fault {name}", f"“{value}” is not a number", "Write it as name=60"
            ) from None
        if mark == "" and not isinstance(known[name].default, bool):
            raise BenchFault(f"fault {name}", "it needs a value", f"Write it as {name}=60")
        if mark and not wanted[name] > 0:
            raise BenchFault(f"fault {name}", f"{value} is too low", "Give a number above 0")
    return Faults(**wanted)  # type: ignore[arg-type]


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
            wander = [*accumulate(shocks.tolist(), self._step, initial=self._last)][1:]
            self._last = wander[-1]
            shared = 0.7 * np.array(wander) + 0.714 * self.rng.normal(0.0, 1.0, NOISE_BLOCK)
            self._values.extend(np.exp(self.spread * shared).tolist())
        return self._values[index]

    def _step(self, last: float, shock: float) -> float:
        return shock + self.memory * last


@dataclass(slots=True)
class _Card:
    """Clock, power and heat of the card, followed at every tick."""

    power_limit_w: float
    ambient_c: float
    cooling_c_per_w: float
    temperature_c: float
    top_clock: float = 1.0
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
            self.clock = min(self.top_clock, self.clock + 0.004)


def stream(seed: int, *names: str) -> np.random.Generator:
    """A random stream of its own for each purpose, so that one draw never shifts another."""
    return np.random.default_rng([seed, *(zlib.crc32(name.encode()) for name in names)])


class _Scene:
    """How the load of a route changes with time: the same in every pass, on every rig.

    In live play no two passes take the same way; `passing` then tells them apart.
    """

    def __init__(self, title: BenchTitle, passing: str) -> None:
        rng = stream(0, title.name, title.scene, "scene", passing)
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
    return LiveRun(rig, setting, seed, repeat, faults).play()


def check_setting(setting: Setting) -> None:
    """Raise BenchFault where the bench cannot play a setting."""
    if setting.resolution not in MEGAPIXELS:
        raise BenchFault(
            "resolution",
            f"the bench has no “{setting.resolution}”",
            f"Choose one of {', '.join(MEGAPIXELS)}",
        )


class LiveRun:
    """One run under way: gives the pipeline its work, reads the gauges, can be stopped early."""

    def __init__(
        self,
        rig: BenchRig,
        setting: Setting,
        seed: int,
        repeat: int = 1,
        faults: Faults = Faults(),
    ) -> None:
        check_setting(setting)
        title = setting.title
        passing = f"pass {repeat}"
        names = (rig.name, title.name, setting.resolution, setting.preset, passing)
        if faults.built_in_draws:
            rig = rig.model_copy(update=DRAWN_BY_BUILT_IN)
        self._rig = rig
        self._setting = setting
        self._faults = faults
        live = f"{seed} {passing}" if title.method == "live play" else ""
        self._scene = _Scene(title, live)
        self._cpu_noise = _Noise(stream(seed, *names, "cpu"), title.cpu_noise)
        self._card_noise = _Noise(stream(seed, *names, "card"), title.card_noise)
        luck = stream(seed, *names, "luck")
        self._form = float(np.exp(luck.normal(0.0, title.pass_spread)))
        self._events = luck
        self._gauge_noise = stream(seed, *names, "gauges")
        load = PRESET_LOAD.get(setting.preset, 1.0)
        self._megapixels = MEGAPIXELS[setting.resolution]
        self._card_ms = (
            (title.card_ms + title.card_ms_per_mpx * self._megapixels)
            * load
            * self._form
            / rig.card_speed
        )
        if faults.dynamic_fps is not None:  # drawn smaller, as far as its card needs it
            fixed = title.card_ms * load / rig.card_speed
            share = (1000.0 / faults.dynamic_fps - fixed) / max(self._card_ms - fixed, 1e-9)
            self._card_ms = fixed + min(max(share, FEWEST_PIXELS), 1.0) * (self._card_ms - fixed)
        recorder = 1.09 if faults.recorder_on else 1.0
        crawling = SLOW_CORE if faults.slow_core else 1.0
        growth = (self._megapixels / MEGAPIXELS["1080p"]) ** title.upload_growth
        self._upload_mb = title.upload_mb * growth
        unpacking_ms = 0.0
        if title.flow is Flow.UNPACKED:
            unpacking_ms = title.unpack_ms_per_mb * self._upload_mb
        self._cpu_ms = (
            (title.cpu_ms + unpacking_ms) * self._form * recorder * crawling / rig.cpu_speed
        )
        sent_back = rig.picture_sent_back or faults.wrong_output
        self._back_mb = self._megapixels * BYTES_PER_PIXEL if sent_back else 0.0
        if faults.recorder_on:  # the encoder reads every picture back
            self._back_mb += 0.5 * self._megapixels * BYTES_PER_PIXEL
            self._card_ms *= 1.05
        if faults.generated:  # making pictures takes the card's time
            self._card_ms *= 1.12
        self._card = _Card(
            power_limit_w=rig.card_power_w,
            ambient_c=AMBIENT_C + (16.0 if faults.hot else 0.0),
            cooling_c_per_w=(72.0 if faults.hot else 47.0) / rig.card_power_w,
            temperature_c=AMBIENT_C + (52.0 if faults.hot else 14.0),
            top_clock=float(np.sqrt(max(faults.power_share - 0.12, 0.05) / 0.88)),
        )
        self._card.clock = self._card.top_clock
        # Drawn in advance, so that how fast a rig is cannot change what the scene streams.
        # Every pass of a scene meets its bursts at about the same places.
        self._starts_s = 1.0 + faults.menu_s + faults.loading_s
        self._until_s = self._starts_s + setting.seconds + faults.tail_s
        until_s = self._until_s + 1.0
        places = stream(0, title.name, "bursts").exponential(
            60.0 / max(title.bursts_per_min, 1e-9), size=2000
        )
        self._bursts = [
            at + float(luck.normal(0.0, 0.15)) for at in np.cumsum(places) if at < until_s
        ]
        self._compiles = self._first_pass_moments(until_s) if faults.first_pass else []
        self._ticks: dict[str, list[float]] = {}
        self._at_last_tick = (0.0, 0.0, 0.0)
        self._pipeline = Pipeline(
            self._work,
            Channel(rig.down_gb_per_s * faults.link_share),
            Channel(rig.up_gb_per_s * faults.link_share),
            rig.latency_ms,
            Limits(faults.cap_fps, faults.refresh_hz),
            title.flow,
            self._read_gauges,
            TICK_MS,
        )
        self._played_to_s = 0.0

    def _first_pass_moments(self, until_s: float) -> list[float]:
        """When shaders are compiled: often at first, seldom later."""
        moments = np.cumsum(self._events.exponential(1.0, 40) * np.geomspace(0.15, 40.0, 40))
        return [float(at) + 1.0 for at in moments if at < until_s]

    def _work(self, index: int, now_ms: float) -> FrameWork:
        title = self._setting.title
        seconds = now_ms / 1000.0
        faults = self._faults
        in_menu = 1.0 <= seconds < 1.0 + faults.menu_s or (
            faults.tail_s > 0 and seconds >= self._until_s - faults.tail_s
        )
        in_loading = 1.0 + faults.menu_s <= seconds < self._starts_s
        out = in_menu or in_loading
        load = 0.12 if out else self._scene.load(seconds - self._starts_s + 1.0)
        cpu_ms = self._cpu_ms * (0.3 if out else load**0.5) * self._cpu_noise.at(index)
        if in_loading:
            cpu_ms += float(self._events.uniform(60.0, 160.0)) / self._rig.cpu_speed
        card_ms = self._card_ms * load * self._card_noise.at(index) / self._card.clock
        if faults.starved and self._events.random() < STARVED_FRAMES:  # memory is fetched anew
            card_ms += float(self._events.uniform(1.2, 2.5)) * max(cpu_ms, card_ms)
        if self._compiles and seconds >= self._compiles[0]:
            self._compiles.pop(0)
            cpu_ms += float(self._events.uniform(35.0, 130.0)) / self._rig.cpu_speed
        spilled_mb = SPILLED_MB_PER_GB * faults.overflow_gb
        streamed_mb = 0.0
        while self._bursts and seconds >= self._bursts[0]:
            self._bursts.pop(0)
            streamed_mb += title.burst_mb * float(self._events.uniform(0.6, 1.4))
        return FrameWork(
            cpu_ms=cpu_ms,
            upload_mb=self._upload_mb * (0.2 if out else load),
            card_ms=card_ms,
            fetches=0 if out else title.fetches,
            fetch_mb=title.fetch_mb + spilled_mb / max(title.fetches, 1),
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
        faults, title = self._faults, self._setting.title
        moved = (moved_mb - last_mb) / TICK_MS
        if faults.built_in_draws:
            card_busy, moved = 0.01, 0.0
        self._card.follow(card_busy, TICK_MS / 1000.0)
        memory = title.memory_gb * PRESET_MEMORY.get(self._setting.preset, 1.0)
        memory += 0.35 * self._megapixels
        if faults.overflow_gb:
            memory = self._rig.card_memory_gb
        if faults.starved or faults.built_in_draws:
            memory = self._rig.card_memory_gb if faults.starved else 0.3
        gen, lanes = self._rig.link_generation, self._rig.link_lanes
        link = (
            ()
            if gen is None or lanes is None
            else (
                ("link generation", gen, 0),
                ("link lanes", max(round(lanes * faults.link_share), 1), 0),
            )
        )
        cores = self._rig.cpu_cores
        cpu_total = (cpu_busy * 2.6 + 0.4) / cores
        host_w = self._rig.idle_wall_w + 45.0 * cpu_busy
        noise = self._gauge_noise.normal(0.0, 1.0, 4)
        for name, value, digits in (
            ("card busy %", 100.0 * card_busy, 0),
            ("card power W", self._card.power_w + noise[0], 0),
            ("card clock MHz", _stepped(2400.0 * self._card.clock + 4.0 * noise[1]), 0),
            ("card temp C", self._card.temperature_c, 0),
            ("cpu total %", min(100.0, 100.0 * cpu_total + noise[2]), 0),
            ("cpu busiest core %", min(100.0, 100.0 * cpu_busy + 3.0), 0),
            ("card memory GB", min(memory, self._rig.card_memory_gb), 1),
            ("link traffic GB/s", moved, 2),
            ("wall W", (host_w + self._card.power_w * 1.1) / 0.9 + noise[3], 0),
            ("noise dBA", 24.0 + 0.24 * max(self._card.temperature_c - 35.0, 0.0), 0),
            ("card encoder %", 34.0 + noise[0] if faults.recorder_on else 0.0, 0),
            *link,
        ):
            self._ticks.setdefault(name, []).append(round(float(value), digits))

    @property
    def seconds(self) -> float:
        """How long the whole run is, menu and tail included, without the filling up."""
        return self._until_s - 1.0

    @property
    def played_s(self) -> float:
        """How far it has been played."""
        return max(self._played_to_s - 1.0, 0.0)

    @property
    def is_over(self) -> bool:
        """Whether the run has come to its end."""
        return self._played_to_s >= self._until_s

    def advance(self, seconds: float) -> None:
        """Play on by some simulated seconds, at most to the end."""
        if self._played_to_s < 1.0:
            self._played_to_s = 1.0
        self._played_to_s = min(self._played_to_s + seconds, self._until_s)
        self._pipeline.play(1000.0 * self._played_to_s)

    def play(self) -> Trace:
        """Play to the end and give the trace."""
        self.advance(self._until_s)
        return self.trace()

    def trace(self) -> Trace:
        """What was recorded so far; BenchFault where that is fewer than two frames."""
        shown_ms = np.round(np.array(self._pipeline.played.shown_ms), 3)
        shown_ms = shown_ms[int(np.searchsorted(shown_ms, 1000.0)) :]
        if shown_ms.size < 3 or not self._ticks:
            raise BenchFault(
                "bench",
                f"{self._rig.name} drew {shown_ms.size} frames in {self.played_s:g} s",
                "Play for longer",
            )
        if self._faults.generated:
            shown_ms = self._with_generated(shown_ms)
        at_tick = np.clip((shown_ms[1:] / TICK_MS).astype(int) - 1, 0, None)
        return Trace(
            frame_times_ms=np.asarray(np.diff(shown_ms), dtype=np.float64).round(3),
            telemetry=_held(self._ticks, at_tick),
        )

    def _with_generated(self, shown_ms: np.ndarray) -> np.ndarray:
        """One picture made between every two rendered ones, paced nearly evenly."""
        rng = stream(len(self._setting.title.name), "generated")
        # The made picture is ready first, so it is shown a little early.
        halves = np.clip(rng.normal(0.46, 0.02, shown_ms.size - 1), 0.3, 0.7)
        between = shown_ms[:-1] + halves * np.diff(shown_ms)
        return np.sort(np.concatenate([shown_ms, between]))


def _held(ticks: Mapping[str, list[float]], at_tick: np.ndarray) -> dict[str, np.ndarray]:
    """Gauges as a capture program logs them: each row holds the last reading."""
    return {
        name: np.array(values)[np.minimum(at_tick, len(values) - 1)]
        for name, values in ticks.items()
    }


def _stepped(clock_mhz: float) -> float:
    """A card's clock as it is set: in steps of 15 MHz (common practice, no source)."""
    return 15.0 * round(clock_mhz / 15.0)
