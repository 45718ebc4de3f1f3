"""Logs that are valid but odd, made at random, each with its true average.

The traces share nothing with the simulated bench: heavy tails, correlation and two levels. Every
oddity is one that capture programs, spreadsheets and people leave behind.
"""

import gzip
from dataclasses import dataclass, field

import numpy as np

ODDITIES = {}


def oddity(make):
    ODDITIES[make.__name__] = make
    return make


@dataclass
class OddLog:
    """One log: its bytes, the true average, and whether a refusal is the right answer."""

    kind: str
    body: bytes
    truth_fps: float
    must_refuse: bool = False
    tolerance: float = 0.01
    name: str = "log.csv"


@dataclass
class Sheet:
    """Columns on their way to a log."""

    rng: np.random.Generator
    times: np.ndarray
    columns: list = field(default_factory=list)  # (header, list of fields)

    @property
    def clock_s(self):
        return np.concatenate([[0.0], np.cumsum(self.times)[:-1]]) / 1000.0

    @property
    def truth(self):
        return 1000.0 * self.times.size / self.times.sum()


def trace(rng, n=None):
    n = n or int(rng.integers(60, 900))
    rate = float(np.exp(rng.uniform(np.log(18), np.log(240))))
    level = 1000.0 / rate
    noise = rng.standard_t(4, n) * 0.04
    slow = np.convolve(rng.normal(0, 0.03, n + 20), np.ones(20) / 20, "valid")[:n] * 3
    times = level * np.exp(np.clip(noise + slow, -0.5, 1.2))
    spikes = rng.random(n) < 0.01
    times[spikes] *= rng.uniform(1.5, 4.0, spikes.sum())
    return np.round(times, 4)


TIME_NAMES = (
    "frametime", "Frame Time (ms)", "FrameTime", "frame_time_ms", "MsBetweenPresents", "ft [ms]",
    "Frametime(ms)", "frame time ms", "dt_ms", "delta ms", "Frame ms", "msBetweenPresents",
)  # fmt: skip
RATE_NAMES = ("FPS", "fps", "frame_rate", "frames_per_second", "Framerate", "Frame rate (fps)")
COUNTER_NAMES = ("Frame", "FrameNumber", "frame_no", "Index", "#", "No.", "Frame #", "id")
CLOCK_NAMES = ("Time (s)", "TimeInSeconds", "elapsed s", "Timestamp [s]", "time_s", "t (s)")
GAUGES = (
    ("GPU load %", lambda r, n: np.round(np.clip(r.normal(93, 4, n), 0, 100))),
    ("card power W", lambda r, n: np.round(r.normal(140, 6, n), 1)),
    ("GPU temp C", lambda r, n: np.round(np.linspace(50, 71, n))),
    ("CPU usage", lambda r, n: np.round(r.normal(40, 8, n), 1)),
    ("VRAM MB", lambda r, n: np.round(np.linspace(4000, 5200, n))),
    ("GPU clock MHz", lambda r, n: np.round(r.normal(2400, 30, n))),
)


def pick(rng, options):
    return options[int(rng.integers(len(options)))]


def text(values, digits):
    return [f"{value:.{digits}f}" for value in values]


def gauges(sheet, most=3):
    for at in sheet.rng.permutation(len(GAUGES))[: int(sheet.rng.integers(0, most + 1))]:
        name, make = GAUGES[at]
        sheet.columns.append((name, [f"{v:g}" for v in make(sheet.rng, sheet.times.size)]))


def shuffled(sheet):
    order = sheet.rng.permutation(len(sheet.columns))
    sheet.columns = [sheet.columns[i] for i in order]


def csv(sheet, delimiter=",", end="\n", header=True, quote=False):
    mark = '"' if quote else ""
    lines = []
    if header:
        lines.append(delimiter.join(f"{mark}{name}{mark}" for name, _ in sheet.columns))
    rows = zip(*(fields for _, fields in sheet.columns), strict=True)
    lines.extend(delimiter.join(f"{mark}{field}{mark}" for field in row) for row in rows)
    return end.join(lines) + end


def done(kind, sheet, body=None, **more):
    body = csv(sheet) if body is None else body
    body = body.encode() if isinstance(body, str) else body
    return OddLog(kind, body, more.pop("truth", sheet.truth), **more)


@oddity
def counter_and_time(sheet):
    start = int(sheet.rng.integers(0, 3))
    n = sheet.times.size
    sheet.columns = [
        (pick(sheet.rng, COUNTER_NAMES), [str(i + start) for i in range(n)]),
        (pick(sheet.rng, (*TIME_NAMES, "Time (ms)")), text(sheet.times, 3)),
    ]
    gauges(sheet)


@oddity
def counter_and_rate(sheet):
    n = sheet.times.size
    sheet.columns = [
        (pick(sheet.rng, COUNTER_NAMES), [str(i + 1) for i in range(n)]),
        (pick(sheet.rng, RATE_NAMES), text(1000 / sheet.times, int(sheet.rng.integers(1, 4)))),
    ]
    gauges(sheet)


@oddity
def counter_and_clock(sheet):
    n = sheet.times.size
    sheet.columns = [
        ("Frame", [str(i) for i in range(n)]),
        (pick(sheet.rng, ("Time (ms)", "time_ms", "elapsed ms")), text(sheet.clock_s * 1000, 3)),
    ]
    gauges(sheet)
    return {"truth": clock_truth(sheet)}


def clock_truth(sheet):
    return 1000.0 * (sheet.times.size - 1) / sheet.times[:-1].sum()


@oddity
def clock_only(sheet):
    sheet.columns = [(pick(sheet.rng, CLOCK_NAMES), text(sheet.clock_s, 6))]
    gauges(sheet)
    return {"truth": clock_truth(sheet)}


@oddity
def everything_that_agrees(sheet):
    n = sheet.times.size
    sheet.columns = [
        (pick(sheet.rng, COUNTER_NAMES), [str(i) for i in range(n)]),
        (pick(sheet.rng, CLOCK_NAMES), text(sheet.clock_s + 17.0, 6)),
        (pick(sheet.rng, TIME_NAMES), text(sheet.times, 4)),
        (pick(sheet.rng, RATE_NAMES), text(1000 / sheet.times, 2)),
    ]
    gauges(sheet)
    shuffled(sheet)


@oddity
def names_that_say_nothing(sheet):
    n = sheet.times.size
    sheet.columns = [
        ("a", [str(i + 1) for i in range(n)]),
        ("b", text(sheet.clock_s, 6)),
        ("c", text(sheet.times, 4)),
        ("d", text(sheet.rng.normal(60, 4, n), 1)),
    ]
    shuffled(sheet)


@oddity
def smoothed_rate_beside(sheet):
    rate = 1000 / np.convolve(np.pad(sheet.times, 10, mode="edge"), np.ones(21) / 21, "valid")
    sheet.columns = [
        (pick(sheet.rng, RATE_NAMES), text(rate, 1)),
        (pick(sheet.rng, TIME_NAMES), text(sheet.times, 3)),
    ]
    gauges(sheet)
    shuffled(sheet)


@oddity
def parts_of_a_frame_beside(sheet):
    n = sheet.times.size
    sheet.columns = [
        ("TimeInSeconds", text(sheet.clock_s, 6)),
        ("msBetweenPresents", text(sheet.times, 4)),
        ("msInPresentAPI", text(sheet.times * sheet.rng.uniform(0.05, 0.3, n), 4)),
        ("msUntilRenderComplete", text(sheet.times * sheet.rng.uniform(1.2, 1.9, n), 4)),
        ("msGPUActive", text(sheet.times * sheet.rng.uniform(0.6, 0.95, n), 4)),
    ]


@oddity
def parts_without_clock(sheet):
    n = sheet.times.size
    sheet.columns = [
        (pick(sheet.rng, ("Frametime", "Frame time (ms)")), text(sheet.times, 4)),
        ("CPU frame time", text(sheet.times * sheet.rng.uniform(0.3, 0.6, n), 4)),
        ("GPU time (ms)", text(sheet.times * sheet.rng.uniform(0.6, 0.95, n), 4)),
        ("Latency (ms)", text(sheet.times * sheet.rng.uniform(2, 3, n), 4)),
    ]
    shuffled(sheet)


@oddity
def units(sheet):
    name, factor, digits = pick(
        sheet.rng,
        (
            ("frametime_us", 1e3, 0), ("Frame Time (µs)", 1e3, 0), ("frametime [s]", 1e-3, 7),
            ("frame time ns", 1e6, 0), ("FrametimeUS", 1e3, 1), ("frame seconds", 1e-3, 6),
        ),
    )  # fmt: skip
    sheet.columns = [(name, text(sheet.times * factor, digits))]
    gauges(sheet)


@oddity
def units_in_a_row_of_their_own(sheet):
    sheet.columns = [
        ("Frame", ["-", *map(str, range(sheet.times.size))]),
        ("Frametime", ["us", *text(sheet.times * 1000, 0)]),
        ("Power", ["W", *["101.5"] * sheet.times.size]),
    ]


@oddity
def clock_in_ms_or_us(sheet):
    name, factor, digits = pick(
        sheet.rng,
        (("time_us", 1e6, 0), ("Timestamp (ms)", 1e3, 3), ("time ns", 1e9, 0), ("stamp", 1e3, 3)),
    )
    base = float(sheet.rng.integers(0, 10_000))
    sheet.columns = [(name, text((sheet.clock_s + base) * factor, digits))]
    gauges(sheet)
    return {"truth": clock_truth(sheet)}


@oddity
def clock_steps_back(sheet):
    clock = sheet.clock_s.copy()
    at = int(sheet.rng.integers(20, clock.size - 20))
    clock[at:] -= float(sheet.rng.uniform(0.05, 0.3))
    sheet.columns = [
        (pick(sheet.rng, CLOCK_NAMES), text(clock, 6)),
        (pick(sheet.rng, TIME_NAMES), text(sheet.times, 3)),
    ]
    shuffled(sheet)


@oddity
def coarse_clock(sheet):
    digits = int(sheet.rng.integers(2, 4))
    sheet.columns = [(pick(sheet.rng, CLOCK_NAMES), text(sheet.clock_s, digits))]
    gauges(sheet)
    return {"truth": clock_truth(sheet), "tolerance": 0.02}


@oddity
def coarse_clock_beside_times(sheet):
    sheet.columns = [
        (pick(sheet.rng, CLOCK_NAMES), text(sheet.clock_s, int(sheet.rng.integers(0, 3)))),
        (pick(sheet.rng, TIME_NAMES), text(sheet.times, 3)),
    ]
    gauges(sheet)


@oddity
def time_of_day(sheet):
    start = 86_400 - sheet.times.sum() / 2000 if sheet.rng.random() < 0.5 else 40_000.0
    stamps = [
        f"{int(s // 3600) % 24:02d}:{int(s // 60) % 60:02d}:{s % 60:09.6f}"
        for s in sheet.clock_s + start
    ]
    if sheet.rng.random() < 0.4:
        stamps = [f"2026-10-05 {stamp}" for stamp in stamps]
    sheet.columns = [("Time", stamps)]
    truth = clock_truth(sheet)
    if sheet.rng.random() < 0.5:
        sheet.columns.append((pick(sheet.rng, TIME_NAMES), text(sheet.times, 3)))
        truth = sheet.truth
    gauges(sheet)
    return {"truth": truth}


@oddity
def seconds_across_midnight(sheet):
    clock = (sheet.clock_s + 86_400 - sheet.times.sum() / 2000) % 86_400
    sheet.columns = [("seconds of day", text(clock, 5))]
    gauges(sheet)
    return {"truth": clock_truth(sheet)}


@oddity
def pause_in_the_clock(sheet):
    clock = sheet.clock_s.copy()
    at = int(sheet.rng.integers(20, clock.size - 20))
    clock[at:] += float(sheet.rng.uniform(5, 60))
    sheet.columns = [(pick(sheet.rng, CLOCK_NAMES), text(clock, 6))]
    truth = 1000.0 * (sheet.times.size - 2) / np.delete(sheet.times[:-1], at - 1).sum()
    if sheet.rng.random() < 0.5:
        sheet.columns.append((pick(sheet.rng, TIME_NAMES), text(sheet.times, 3)))
        truth = sheet.truth
    return {"truth": truth}


@oddity
def thousands(sheet):
    values = sheet.times * 1000
    how = int(sheet.rng.integers(4))
    if how == 0:
        fields = [f"{v:,.1f}" for v in values]
        delimiter, quote = (";", False) if sheet.rng.random() < 0.5 else (",", True)
    elif how == 1:
        fields = [f"{v:,.0f}".replace(",", pick(sheet.rng, " \u00a0\u202f")) for v in values]
        delimiter, quote = pick(sheet.rng, ",;\t"), False
    elif how == 2:
        fields = [f"{v:,.1f}".replace(",", "x").replace(".", ",").replace("x", ".") for v in values]
        delimiter, quote = ";", False
    else:
        fields = [f"{v:,.0f}" for v in values]
        delimiter, quote = ";", sheet.rng.random() < 0.5
    sheet.columns = [("Frame", [str(i) for i in range(values.size)]), ("frame time us", fields)]
    return {"body": csv(sheet, delimiter, quote=quote)}


@oddity
def decimal_comma(sheet):
    gauges(sheet)
    sheet.columns.insert(0, (pick(sheet.rng, TIME_NAMES), text(sheet.times, 3)))
    sheet.columns = [(n, [f.replace(".", ",") for f in fields]) for n, fields in sheet.columns]
    quote = sheet.rng.random() < 0.3
    return {"body": csv(sheet, "," if quote else pick(sheet.rng, ";\t|"), quote=quote)}


@oddity
def decimal_comma_between_commas(sheet):
    sheet.columns = [("Frame", [str(i + 1) for i in range(sheet.times.size)])]
    if sheet.rng.random() < 0.5:
        sheet.columns = []
    sheet.columns.append((pick(sheet.rng, TIME_NAMES), text(sheet.times, 3)))
    if sheet.rng.random() < 0.5:
        sheet.columns.append(("power W", text(sheet.rng.normal(130, 4, sheet.times.size), 1)))
    return {"body": csv(sheet).replace(".", ",")}


@oddity
def totals_under_the_table(sheet):
    n = sheet.times.size
    sheet.columns = [
        ("Frame", [str(i + 1) for i in range(n)]),
        (pick(sheet.rng, TIME_NAMES), text(sheet.times, 3)),
    ]
    total, mean = f"{sheet.times.sum():.3f}", f"{sheet.times.mean():.3f}"
    foot = pick(
        sheet.rng,
        (
            f"Total,{total}\nAverage,{mean}\n",
            f"\nTotal,{total}\n",
            f"# {n} frames in {total} ms\n",
            f"Average: {mean} ms\nMin: 1.0\nMax: 55\n",
            f"{n},{total}\n",
            f"\nSummary\nAverage FPS,{sheet.truth:.1f}\n1% low,33.1\n",
            f"Total,{total}",
        ),
    )
    return {"body": csv(sheet) + foot}


@oddity
def one_sample_a_second(sheet):
    sheet.times = sheet.times[:300]
    rates = np.round(np.clip(1000 / sheet.times, 5, None))
    n = rates.size
    stamps = pick(
        sheet.rng,
        (
            ("Time (s)", [str(i) for i in range(n)]),
            ("Time", [f"12:{i // 60:02d}:{i % 60:02d}" for i in range(n)]),
            ("elapsed ms", [str(i * 1000) for i in range(n)]),
            ("Time (s)", text(np.arange(n) + sheet.rng.normal(0, 0.01, n), 3)),
            ("Seconds", [str(i + 1) for i in range(n)]),
        ),
    )
    sheet.columns = [stamps, (pick(sheet.rng, RATE_NAMES), [f"{r:.0f}" for r in rates])]
    gauges(sheet)
    return {"truth": float(rates.mean())}


@oddity
def two_logs_in_one(sheet):
    n = sheet.times.size
    half = n // 2
    how = int(sheet.rng.integers(3))
    sheet.columns = [
        ("Frame", [str(i if i < half else i - half) for i in range(n)]),
        (pick(sheet.rng, TIME_NAMES), text(sheet.times, 3)),
    ]
    if how == 1:
        clock = sheet.clock_s.copy()
        clock[half:] -= clock[half]
        sheet.columns[0] = (pick(sheet.rng, CLOCK_NAMES), text(clock, 5))
    lines = csv(sheet).splitlines()
    if how == 2:
        lines.insert(half + 1, lines[0])
    return {"body": "\n".join(lines) + "\n", "must_refuse": True}


@oddity
def two_programs_in_one(sheet):
    n = sheet.times.size
    who = np.where(sheet.rng.random(n) < 0.4, "shell.exe", "play.exe")
    sheet.columns = [("Application", list(who)), ("msBetweenPresents", text(sheet.times, 3))]
    return {"must_refuse": True}


@oddity
def summary(sheet):
    truth = f"{sheet.truth:.1f}"
    body = pick(
        sheet.rng,
        (
            f"Metric,Value\nAverage FPS,{truth}\n1% low,45.2\n0.1% low,31.0\nMax,99\n",
            f"Average FPS;{truth}\nMinimum FPS;31,5\nMaximum FPS;99,1\n",
            "rig,title,scene,resolution,preset,run,average_fps,low_1_fps\n"
            "Cable,Skitter,,1080p,High,1,61.2,44.0\nCable,Skitter,,1080p,High,2,60.2,43.1\n"
            "Tower,Skitter,,1080p,High,1,91.0,70.9\n",
            "Game,FPS,Low\nSkitter,61.2,44\nTidewrack,52.1,40\nLow Lantern,88.0,71\n",
            "avg fps,min fps,max fps\n61.2,44.0,80.1\n60.8,43.5,79.0\n62.0,44.4,81.2\n",
            "part,score,weight\nraster,812,0.5\ncompute,644,0.5\noverall,718,\n",
        ),
    )
    return {"body": body, "must_refuse": True}


@oddity
def no_header(sheet):
    n = sheet.times.size
    sheet.columns = [("", text(sheet.times, 3))]
    if sheet.rng.random() < 0.5:
        sheet.columns.insert(0, ("", text(sheet.clock_s, 6)))
    if sheet.rng.random() < 0.5:
        sheet.columns.insert(0, ("", [str(i) for i in range(n)]))
    return {"body": csv(sheet, pick(sheet.rng, ",;\t "), header=False)}


@oddity
def wrapping(sheet):
    sheet.columns = [(pick(sheet.rng, TIME_NAMES), text(sheet.times, 3))]
    gauges(sheet)
    how = int(sheet.rng.integers(12))
    body = csv(sheet)
    name = "log.csv"
    if how == 0:
        body = body.replace("\n", "\r")
    elif how == 1:
        body = body.replace("\n", "\r\n")
    elif how == 2:
        body = body.encode("utf-16")
    elif how == 3:
        body = body.encode("utf-8-sig")
    elif how == 4:
        body, name = gzip.compress(body.encode()), "log.csv.gz"
    elif how == 5:
        body = body.encode() + b"\x00" * int(sheet.rng.integers(1, 5000))
    elif how == 6:
        body = "capture, version 3\nhost: spare\n\n" + body
    elif how == 7:
        body = body.replace(",", ", ")
    elif how == 8:
        body = csv(sheet, " " * int(sheet.rng.integers(1, 4)) if len(sheet.columns) == 1 else "\t")
    elif how == 9:
        body = body.replace("\n", ",\n")
    elif how == 10:
        lines = body.splitlines()
        lines.insert(int(sheet.rng.integers(5, len(lines))), "# a marker")
        body = "\n\n".join(lines[:9]) + "\n" + "\n".join(lines[9:])
    else:
        body = csv(sheet, quote=True)
        name = str(pick(sheet.rng, ["run [1].csv", "run*.csv", "run?.csv", "[a-z].csv"]))
    return {"body": body, "name": name}


@oddity
def first_row_without_a_frame(sheet):
    first = pick(sheet.rng, ("0", "0.000", "", "N/A"))
    sheet.columns = [
        ("Frame", [str(i) for i in range(sheet.times.size + 1)]),
        (pick(sheet.rng, TIME_NAMES), [first, *text(sheet.times, 3)]),
        ("GPU load %", ["97"] * (sheet.times.size + 1)),
    ]


@oddity
def counter_with_gaps(sheet):
    n = sheet.times.size
    jumps = np.where(sheet.rng.random(n) < 0.02, sheet.rng.integers(2, 5, n), 1)
    sheet.columns = [
        (pick(sheet.rng, COUNTER_NAMES), [str(i) for i in np.cumsum(jumps)]),
        (pick(sheet.rng, TIME_NAMES), text(sheet.times, 3)),
    ]


def odd_log(seed: int) -> OddLog:
    """One odd log; the same seed gives the same log."""
    rng = np.random.default_rng(seed)
    kind = pick(rng, tuple(ODDITIES))
    sheet = Sheet(rng, trace(rng))
    more = ODDITIES[kind](sheet) or {}
    return done(kind, sheet, **more)
