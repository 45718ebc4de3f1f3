"""Frame logs as recorders write them, built from a description, with what is true of them.

First what was played: frames of one or several sources, rendered or generated, some dropped. Then
what a recorder notes of each frame: a counter, a clock, a time, a rate, gauges, flags. Last how it
writes them: words, units, marks, order, packing. Nothing here knows how logs are read. Words are
common practice, no source.
"""

import bz2
import gzip
import io
import json
import lzma
import re
import zipfile
from dataclasses import dataclass, field

import numpy as np

SOURCES = {
    "Process": ("skitter.exe", "overlay.exe", "desktop.exe"),
    "Application": ("Skitter", "Launcher", "Browser"),
    "SwapChain": ("A1", "B2", "C3"),
    "Display": ("1", "2", "3"),
    "Run": ("1", "2", "3"),
    "Pass": ("1", "2", "3"),
    "Scene": ("coast", "harbour", "menu"),
    "State": ("0", "1", "2"),
    "Title": ("Skitter", "Kite Run", "Tidewrack"),
    "Resolution": ("1920x1080", "2560x1440", "3840x2160"),
}
FLAGS = {
    "FrameType": ("Application", "Generated"),
    "Generated": ("0", "1"),
    "IsGenerated": ("0", "1"),
    "interpolated": ("no", "yes"),
}
TIMES = {
    "ms": (
        1.0,
        (
            "ms",
            "frametime (ms)",
            "FrameTime",
            "Frame time [ms]",
            "MsBetweenFrames",
            "Bildzeit (ms)",
        ),
    ),
    "us": (1e3, ("frametime_us", "Frame time (µs)", "frame time us")),
    "ns": (1e6, ("frametime_ns", "Frame Time (ns)")),
    "s": (1e-3, ("frametime_s", "Frame time (s)")),
    "tenths": (10.0, ("frametime 0.1 ms", "Frame time (0.1 ms)")),
    "hundred ns": (1e4, ("frametime 100ns", "frame time (100 ns)")),
    "ten us": (100.0, ("frametime 10 us", "Frame time (10us)")),
}
CLOCKS = {
    "s": (1e-3, ("Time (s)", "elapsed_s", "TimeInSeconds", "timestamp")),
    "ms": (1.0, ("Time (ms)", "elapsed_ms", "time_ms")),
    "us": (1e3, ("time_us", "timestamp (µs)")),
    "ns": (1e6, ("time_ns", "timestamp ns")),
    "ticks": (1e4, ("QPC", "qpc_ticks", "PerformanceCounter")),
}
RATES = ("FPS", "Framerate", "frames per second", "fps")
GAUGES = {
    "GPU load %": (90, 4), "GPU temp °C": (65, 3), "Power (W)": (180, 9), "VRAM MB": (6000, 40),
    "CPU usage": (45, 9), "GPU clock MHz": (2400, 30), "PC latency (ms)": (35, 4),
}  # fmt: skip
PARTS = ("draw call ms", "shader ms", "audio ms", "Ping (ms)", "GPU busy ms", "Render latency (ms)")


@dataclass
class KeptLog:
    """The bytes of a log and its name; the average of each source, by what its rows say; whether it
    must be asked about or refused, for no one figure is true of it.
    """

    body: bytes
    name: str
    averages: dict[str, float] = field(default_factory=dict)
    must_ask: bool = False
    kind: str = "plain"


def played(r, frames):
    """Frame times in ms, as games have them: uneven, with stutters."""
    pace = float(r.uniform(4.5, 40.0))
    times = pace * np.exp(r.normal(0, 0.08, frames))
    times[r.random(frames) < 0.01] *= 2.5
    return np.round(times, 3)


def average(times):
    return 1000.0 * times.size / float(times.sum())


def kept_log(seed):
    """One log."""
    r = np.random.default_rng(seed)
    kind = str(
        r.choice(["plain"] * 8 + ["sources", "sources", "generated", "part", "odd clock", "sorted"])
    )
    times = played(r, int(r.integers(80, 900)))
    columns: dict[str, list[str]] = {}
    averages = {"": average(times), "without the first": average(times[1:])}
    if kind == "sources":
        return sourced(r)
    shown = times
    if kind == "generated":
        shown = np.round(np.repeat(times / 2.0, 2), 4)
    if kind == "sorted":
        shown = np.sort(times)
    if kind == "part":
        columns[str(r.choice(PARTS))] = numbers(times, 3)
        with_gauges(r, columns, times.size, latency=False)
        return KeptLog(*written(r, columns), averages, must_ask=True, kind=kind)
    noted(r, columns, shown, kind)
    if kind == "generated":
        head = str(r.choice(list(FLAGS)))
        columns[head] = [FLAGS[head][n % 2] for n in range(shown.size)]
    return KeptLog(*written(r, columns), averages, must_ask=kind == "odd clock", kind=kind)


def noted(r, columns, times, kind):
    """What a recorder notes of each frame."""
    if r.random() < 0.5:
        first = int(r.integers(0, 2))
        columns[str(r.choice(["Frame", "frame", "#", "Index"]))] = [
            str(n + first) for n in range(times.size)
        ]
    what = str(r.choice(["time", "time", "time", "clock", "rate", "all", "time and clock"]))
    if kind in ("odd clock", "sorted", "generated"):
        what = "time and clock" if kind == "odd clock" else "time"
    if what in ("clock", "all", "time and clock"):
        unit = str(r.choice(list(CLOCKS)[: 4 if kind == "odd clock" else 5]))
        scale, names = CLOCKS[unit]
        pace = float(r.choice([0.5, 2.0])) if kind == "odd clock" else 1.0
        start = float(r.choice([0.0, 0.0, 5000.0, 9e5]))
        stamps = (start + np.cumsum(times) * pace) * scale
        columns[str(r.choice(names))] = numbers(stamps, {"s": 6, "ms": 3}.get(unit, 0))
    if what in ("time", "all", "time and clock"):
        unit = (
            "ms"
            if kind == "odd clock"
            else str(r.choice(list(TIMES), p=[0.52, 0.1, 0.06, 0.08, 0.08, 0.08, 0.08]))
        )
        scale, names = TIMES[unit]
        decimals = {"s": 6, "ms": 3, "tenths": 2, "ten us": 1}.get(unit, 0)
        columns[str(r.choice(names))] = numbers(times * scale, decimals)
    if what in ("rate", "all"):
        columns[str(r.choice(RATES))] = numbers(1000.0 / times, 2)
    if r.random() < 0.15:
        columns["Dropped"] = ["1" if one else "0" for one in r.random(times.size) < 0.02]
    with_gauges(r, columns, times.size)
    if r.random() < 0.3:
        items = list(columns.items())
        r.shuffle(items)
        columns.clear()
        columns.update(items)


def with_gauges(r, columns, rows, latency=True):
    for name, (middle, width) in GAUGES.items():
        if r.random() < 0.25 and (latency or "latency" not in name):
            columns[name] = numbers(r.normal(middle, width, rows), int(r.integers(0, 2)))


def sourced(r):
    """A log of several sources, one after the other or mixed."""
    head = str(r.choice(list(SOURCES)))
    count = int(r.integers(2, 4))
    names = SOURCES[head][:count]
    each = [played(r, int(r.integers(100, 500))) for _ in names]
    which = np.repeat(np.arange(count), [one.size for one in each])
    times = np.concatenate(each)
    if head in ("Process", "Application", "SwapChain", "Display"):
        order = r.permutation(times.size)
        which, times = which[order], times[order]
    columns = {str(r.choice(TIMES["ms"][1])): numbers(times, 3), head: [names[n] for n in which]}
    with_gauges(r, columns, times.size)
    averages = {name: average(times[which == n]) for n, name in enumerate(names)}
    return KeptLog(*written(r, columns), averages, must_ask=True, kind="sources")


def numbers(values, decimals):
    return [f"{one:.{decimals}f}" for one in values]


def written(r, columns):
    """(bytes, name) of a log in the way of one recorder."""
    if r.random() < 0.12:
        rows = [
            {name: _value(text) for name, text in zip(columns, row, strict=True)}
            for row in zip(*columns.values(), strict=True)
        ]
        how = int(r.integers(3))
        if how == 0:
            return "\n".join(map(json.dumps, rows)).encode(), "log.jsonl"
        return json.dumps(rows if how == 1 else {"app": "x", "frames": rows}).encode(), "log.json"
    mark = str(r.choice([",", ",", ";", "\t"]))
    comma = mark != "," and r.random() < 0.3
    lines = [mark.join(columns)]
    for row in zip(*columns.values(), strict=True):
        cells = [re.sub(r"^(-?\d+)\.(\d+)$", r"\1,\2", one) for one in row] if comma else row
        lines.append(mark.join(cells))
    if r.random() < 0.2:
        lines = ["# recorded in the evening", "# version: 3", *lines]
    body = ("\r\n" if r.random() < 0.3 else "\n").join(lines)
    encoding = str(r.choice(["utf-8", "utf-8", "utf-8-sig", "utf-16"]))
    raw = body.encode(encoding)
    match str(r.choice(["", "", "", "", "gz", "xz", "bz2", "zip"])):
        case "gz":
            return gzip.compress(raw), "log.csv.gz"
        case "xz":
            return lzma.compress(raw), "log.csv.xz"
        case "bz2":
            return bz2.compress(raw), "log.csv.bz2"
        case "zip":
            packed = io.BytesIO()
            with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as file:
                file.writestr("log.csv", raw)
            return packed.getvalue(), "log.zip"
    return raw, "log.csv"


def _value(text):
    try:
        return float(text)
    except ValueError:
        return text
