"""Passes of a bench that shares nothing with the shipped one: scenes with shape, heavy tails.

A scene is a curve of the log rate over the run; noise is a slow wander plus tails of Student's t.
Faults are put into finished frame times, the way a recorder would meet them.
"""

from dataclasses import dataclass, field

import numpy as np

from blunt_ruler.core.measure.frames import measure
from blunt_ruler.core.measure.trace_summary import observe
from blunt_ruler.core.records.hardware import Card, Host, Rig
from blunt_ruler.core.records.records import Case, Contents, Origin, Review, ReviewRig, Run, Title

SHAPES = ("hills", "steps", "waves", "ramp-back", "flat")
AWKWARD = ("light intro", "light to heavy", "alternating", "steady")
PLANTS = (
    "capped",
    "capped in part",
    "menu at the start",
    "loading at the end",
    "menu in the middle",
    "menu of like rate",
    "evenly generated",
    "unevenly generated",
    "shader stutter",
    "freeze",
    "dynamic resolution",
    "re-saved",
    "bursts",
    "hot",
    "cut short",
    "download",
    "throttled for a while",
)


def curve(shape, rng, seconds):
    """The log rate against its middle, as a function of seconds; one for a case."""
    phases, speeds = rng.uniform(0, 6.28, 3), rng.uniform(0.04, 0.4, 3)
    heights = rng.uniform(0.02, 0.09, 3)

    def waves(t):
        return sum(h * np.sin(s * t + p) for h, s, p in zip(heights, speeds, phases, strict=True))

    edges = np.sort(rng.uniform(0.1, 0.9, 3)) * seconds
    levels = rng.uniform(-0.14, 0.14, 4)
    match shape:
        case "hills":
            return lambda t: waves(t)
        case "steps":
            return lambda t: levels[np.searchsorted(edges, t)] + 0.3 * waves(t)
        case "waves":
            return lambda t: 2.0 * waves(t)
        case "ramp-back":
            return lambda t: 0.15 * np.sin(np.pi * t / seconds) + 0.4 * waves(t)
        case "light intro":
            until, by = rng.uniform(3, 8), rng.uniform(0.45, 0.8)
            return lambda t: np.where(t < until, by, 0.0) + 0.5 * waves(t)
        case "light to heavy":
            by = rng.uniform(0.25, 0.6)
            return lambda t: -by * t / seconds + 0.4 * waves(t)
        case "steady":
            return lambda t: 0.0 * t
    return lambda t: 0.15 * waves(t)


@dataclass
class Scene:
    """One case: its curve, its noise and its run-to-run spread."""

    shape: str
    rng: np.random.Generator
    seconds: float = 60.0
    spread: float = 0.008
    log_rate: object = field(init=False)

    def __post_init__(self):
        self.noise = float(self.rng.uniform(0.02, 0.07))
        self.wander = float(self.rng.uniform(0.004, 0.02))
        if self.shape == "steady":
            self.noise, self.wander = 0.008, 0.0008
        self.log_rate = curve(self.shape, self.rng, self.seconds)

    def frames(self, rate, rng):
        """Frame times of one pass, ms; every pass starts a little earlier or later."""
        level = rate * np.exp(rng.normal(0, self.spread))
        count = int(level * self.seconds * 2.6) + 200
        slow = np.convolve(rng.normal(size=count + 99), np.ones(100) / 10.0, "valid")
        tails = rng.standard_t(4, size=count) / np.sqrt(2.0)
        noise = np.exp(self.noise * tails + self.wander * slow)
        start, times = rng.uniform(0, 0.5), 1000.0 / level * noise
        for _ in range(3):
            at = np.cumsum(times) / 1000.0 + start
            times = 1000.0 / level * noise * np.exp(-self.log_rate(np.minimum(at, self.seconds)))
        if self.shape == "alternating":
            times *= np.where(np.arange(count) % 2, 1.28, 0.72)
        length = self.seconds + rng.uniform(-0.7, 0.7)
        return times[: np.searchsorted(np.cumsum(times), length * 1000.0)]


def plant(kind, times, rng, other=None):
    """Frame times with a fault."""
    ends = np.cumsum(times) / 1000.0
    total, middle = ends[-1], float(np.median(times))

    def still(seconds, factor):
        count = int(seconds * 1000.0 * factor / middle)
        return middle / factor * np.exp(rng.normal(0, 0.008, count))

    match kind:
        case "capped":
            least = 1000.0 / _step_below(times, 0.05)
            return np.maximum(times, least) + rng.normal(0, 0.02, times.size)
        case "capped in part":
            least = 1000.0 / _step_below(times, 0.55)
            return np.maximum(times, least) + rng.normal(0, 0.02, times.size)
        case "menu at the start":
            return np.concatenate([still(rng.uniform(3, 8), rng.uniform(1.8, 4)), times])
        case "loading at the end":
            return np.concatenate([times, still(rng.uniform(3, 8), rng.uniform(0.2, 0.4))])
        case "menu in the middle":
            at = np.searchsorted(ends, rng.uniform(0.3, 0.7) * total)
            return np.concatenate([times[:at], still(rng.uniform(4, 9), 2.2), times[at:]])
        case "menu of like rate":
            return np.concatenate([still(rng.uniform(4, 9), rng.uniform(0.8, 1.4)), times])
        case "evenly generated":
            return np.repeat(times / 2.0 * 1.08, 2) + rng.normal(0, 0.03, 2 * times.size)
        case "unevenly generated":
            pairs = np.column_stack([times * 0.72, times * 0.36]).ravel()
            return pairs + rng.normal(0, 0.05, pairs.size)
        case "shader stutter":
            early = np.flatnonzero(ends < 20.0)
            hit = rng.choice(early, size=12, replace=False)
            times = times.copy()
            times[hit] += rng.uniform(40, 90, hit.size) + middle
            return times
        case "freeze":
            times = times.copy()
            times[rng.integers(times.size // 5, 4 * times.size // 5)] = 3000.0
            return times
        case "dynamic resolution":
            smooth = np.convolve(np.pad(times, 60, mode="edge"), np.ones(121) / 121, "valid")
            held = np.quantile(smooth, 0.3)
            return times / smooth * held * (smooth / held) ** 0.06
        case "re-saved":
            return np.round(other[25:-40], 2)
        case "bursts":
            times = times.copy()
            for at in rng.choice(np.arange(4, int(total) - 6, 7), 3, replace=False):
                inside = (ends > at) & (ends < at + rng.uniform(2, 4))
                times[inside] *= rng.uniform(1.25, 1.5)
            return times
        case "cut short":
            return times[: np.searchsorted(ends, total * rng.uniform(0.5, 0.85))]
        case "download":
            start, slower = rng.uniform(0.05, 0.5) * total, rng.uniform(1.08, 1.2)
            inside = (ends > start) & (ends < start + rng.uniform(0.2, 0.5) * total)
            stalls = inside & (rng.random(times.size) < 0.01)
            return times * np.where(inside, slower, 1.0) * np.where(stalls, 1.8, 1.0)
        case "throttled for a while":
            start, lasts = rng.uniform(0.2, 0.5) * total, rng.uniform(0.2, 0.35) * total
            ramps = np.clip((ends - start) / 4, 0, 1) * np.clip((start + lasts - ends) / 4, 0, 1)
            return times * (1 + rng.uniform(0.1, 0.25) * ramps)
        case "hot":
            return times * np.linspace(1.0, 1.1, times.size)
    return times


def alike(kind, times, rng):
    """Sound frame times of a kind that every pass of a case shows."""
    ends = np.cumsum(times) / 1000.0
    match kind:
        case "jittery pacing":
            beat = np.where(np.arange(times.size) % 2, 1, -1)
            beat *= np.where(rng.random(times.size) < 0.85, 1, -1)
            return times * (1 + rng.uniform(0.06, 0.16) * beat)
        case "light start":
            return times * np.where(ends < 5, 0.62, 1.0)
        case "heavy end":
            return times * np.where(ends > ends[-1] - 6, 1.7, 1.0)
    return times


ALIKE = ("jittery pacing", "light start", "heavy end")


def review_alike(seed, kind, with_telemetry, cap_fps=None):
    """(contents, review): every pass of the first case of three shows a kind, or stands at a cap
    near the end of a variable refresh, which holds no single rate by itself.
    """
    rng = np.random.default_rng(seed)
    scenes = [Scene(shape, rng) for shape in (SHAPES[seed % len(SHAPES)], "hills", "waves")]
    contents, runs = contents_of(scenes), {}
    for k, scene in enumerate(scenes):
        fast = k == 0 and cap_fps
        rate = cap_fps * rng.uniform(1.35, 1.6) if fast else float(rng.uniform(45, 150))
        for rig, strength in zip(RIGS, STRENGTH, strict=True):
            for repeat in (1, 2, 3):
                times, held = scene.frames(rate * (1.0 if fast else strength), rng), False
                if k == 0 and cap_fps:
                    least = 1000 / cap_fps * (1 + rng.normal(0, 0.012, times.size))
                    times, held = np.maximum(times, least), True
                elif k == 0:
                    times = alike(kind, times, rng)
                telemetry = gauges(times, rng, held=held) if with_telemetry else None
                run = run_of(rig, f"k{k}", repeat, times, telemetry)
                runs[run.id] = run
    seats = tuple(ReviewRig(rig_id=rig) for rig in RIGS)
    review = Review(id="all", name="All", seats=seats, case_ids=tuple(contents.cases))
    return contents.with_records({"runs": runs}), review


def _step_below(times, share):
    """A refresh step that the given share of the frames would be slower than, or so."""
    rate = 1000.0 / np.quantile(times, 1 - share)
    steps = np.array([30, 36, 45, 48, 50, 60, 72, 75, 90, 100, 120, 144, 165.0])
    return float(steps[np.argmin(np.abs(np.log(steps / rate)))])


def gauges(times, rng, hot=False, held=False, burst=False):
    """Telemetry as a log has it: a value at each frame."""
    at = np.cumsum(times) / 1000.0
    size, share = times.size, at / at[-1]
    busy = np.clip((70 if held else 97) + rng.normal(0, 1.5, size), 0, 100)
    return {
        "card busy %": busy,
        "card clock MHz": (2400 - (220 * share if hot else 0)) + rng.normal(0, 8, size),
        "card temperature C": (88 if hot else 66) - 25 * np.exp(-at / (25 if hot else 12)),
        "card power W": 170 * busy / 100 + rng.normal(0, 3, size),
        "cpu total %": 35 + rng.normal(0, 2, size),
        "busiest core %": 62 + rng.normal(0, 3, size),
    }


RIGS = ("near", "far", "tower")
STRENGTH = (0.62, 0.8, 1.0)


def contents_of(scenes):
    """Rigs and cases as a logbook holds them, without runs."""
    host = Host(id="h", name="Host")
    cards = {f"c{rig}": Card(id=f"c{rig}", name=f"Card {rig}") for rig in RIGS}
    rigs = {rig: Rig(id=rig, name=rig, host_id="h", card_id=f"c{rig}") for rig in RIGS}
    titles = {f"t{k}": Title(id=f"t{k}", name=f"Title {k}") for k in range(len(scenes))}
    cases = {
        f"k{k}": Case(id=f"k{k}", title_id=f"t{k}", resolution="1920x1080", preset="High")
        for k in range(len(scenes))
    }
    return Contents.empty().with_records(
        {"hosts": {"h": host}, "cards": cards, "rigs": rigs, "titles": titles, "cases": cases}
    )


def run_of(rig, case, repeat, times, telemetry=None):
    """A run as the door makes it."""
    return Run(
        id=f"{rig}-{case}-{repeat}",
        rig_id=rig,
        case_id=case,
        repeat=repeat,
        origin=Origin(kind="log"),
        trace_sha256=f"{rig}{case}{repeat}{times.size}{times[0]}",
        figures=measure(times),
        observed=observe(times, telemetry),
    )


def review_of(seed, shapes=SHAPES, planted=None, with_telemetry=True, seconds=60.0, passes=3):
    """(contents, review, id of the planted run): every rig, a case a shape, three passes each."""
    rng = np.random.default_rng(seed)
    scenes = [
        Scene(shape, rng, seconds, float(np.exp(rng.normal(np.log(0.007), 0.5))))
        for shape in shapes
    ]
    contents, runs, bad = contents_of(scenes), {}, None
    where = (
        int(rng.integers(len(RIGS))),
        int(rng.integers(len(scenes))),
        int(rng.integers(passes)),
    )
    for k, scene in enumerate(scenes):
        rate = float(np.exp(rng.uniform(np.log(45), np.log(150))))
        for r, rig in enumerate(RIGS):
            made = [scene.frames(rate * STRENGTH[r], rng) for _ in range(passes)]
            for p, times in enumerate(made):
                faulty = planted is not None and (r, k, p) == where
                if faulty:
                    times = plant(planted, times, rng, made[(p + 1) % passes])
                kind = planted if faulty else ""
                telemetry = None
                if with_telemetry:
                    telemetry = gauges(times, rng, kind == "hot", kind.startswith("capped"))
                run = run_of(rig, f"k{k}", p + 1, times, telemetry)
                runs[run.id] = run
                if faulty:
                    bad = run.id
    seats = tuple(ReviewRig(rig_id=rig) for rig in RIGS)
    review = Review(id="all", name="All", seats=seats, case_ids=tuple(contents.cases))
    return contents.with_records({"runs": runs}), review, bad


def _shots(rng, seconds):
    """A built-in benchmark: hard cuts between shots of unlike level, slope, noise and stutter."""
    count = int(rng.integers(4, 10))
    cuts = np.concatenate([[0], np.sort(rng.uniform(2, seconds - 2, count - 1)), [seconds]])
    return [
        (length, *rng.normal(0, (0.22, 0.01)), *rng.uniform((0.01, 0.0), (0.12, 20.0)))
        for length in np.diff(cuts)
    ]


def _played(shots, rate, rng, spread, digit_ms):
    level, parts = rate * np.exp(rng.normal(0, spread)), []
    for length, height, slope, noise, stutters in shots:
        fps = level * np.exp(height)
        count = int(fps * length) + 1
        at = np.linspace(-length / 2, length / 2, count)
        times = 1000 / fps * np.exp(-slope * at) * rng.gamma(noise**-2, noise**2, count)
        hit = rng.random(count) < stutters / 60 / fps
        times[hit] += rng.exponential(25, hit.sum()) + 10
        parts.append(times)
    times = np.concatenate(parts)
    return np.maximum(np.round(times / digit_ms) * digit_ms, digit_ms) if digit_ms else times


def review_of_shots(seed, with_telemetry):
    """Benchmarks with hard cuts on three rigs: 25 to 120 s, two to five passes, logs of 0.1 or
    whole milliseconds among them; all sound.
    """
    rng = np.random.default_rng(seed)
    passes, seconds = int(rng.integers(2, 6)), float(rng.choice([25, 45, 60, 120]))
    digit_ms, runs, cases = float(rng.choice([0, 0, 0, 0.1, 1.0])), {}, 5
    for k in range(cases):
        shots = _shots(rng, seconds)
        rate = float(np.exp(rng.uniform(np.log(30), np.log(240))))
        spread = float(np.exp(rng.normal(np.log(0.008), 0.6)))
        for rig, strength in zip(RIGS, STRENGTH, strict=True):
            for repeat in range(1, passes + 1):
                times = _played(shots, rate * strength, rng, spread, digit_ms)
                telemetry = gauges(times, rng) if with_telemetry else None
                run = run_of(rig, f"k{k}", repeat, times, telemetry)
                runs[run.id] = run
    contents = contents_of(range(cases))
    seats = tuple(ReviewRig(rig_id=rig) for rig in RIGS)
    review = Review(id="all", name="All", seats=seats, case_ids=tuple(contents.cases))
    return contents.with_records({"runs": runs}), review
