"""The vocabulary of logs: units of time, what the words of a header say, and a column's meaning.

What the numbers under a header do is for `log_columns`; words only break ties and name units.
"""

import re
from enum import StrEnum
from functools import lru_cache

import numpy as np
from pydantic import BaseModel, ConfigDict

from blunt_ruler.core.types import FloatArray


class Unit(StrEnum):
    """What a column's numbers mean as frame times."""

    MS = "ms"
    S = "s"
    US = "us"
    NS = "ns"
    FPS = "fps"
    CLOCK_S = "clock-s"
    CLOCK_MS = "clock-ms"
    CLOCK_US = "clock-us"
    CLOCK_NS = "clock-ns"
    CLOCK_TICKS = "clock-ticks"

    @property
    def is_clock(self) -> bool:
        """Whether frame times are the differences between rows."""
        return self in CLOCKS or self is Unit.CLOCK_TICKS


CLOCKS = {
    Unit.CLOCK_S: Unit.S,
    Unit.CLOCK_MS: Unit.MS,
    Unit.CLOCK_US: Unit.US,
    Unit.CLOCK_NS: Unit.NS,
}
UNIT_WORDS = {
    Unit.MS: "frame time in milliseconds",
    Unit.S: "frame time in seconds",
    Unit.US: "frame time in microseconds",
    Unit.FPS: "frames per second",
    Unit.NS: "frame time in nanoseconds",
    Unit.CLOCK_S: "running clock in seconds",
    Unit.CLOCK_MS: "running clock in milliseconds",
    Unit.CLOCK_US: "running clock in microseconds",
    Unit.CLOCK_NS: "running clock in nanoseconds",
    Unit.CLOCK_TICKS: "running counter of 10 MHz",
}
MS_PER = {Unit.MS: 1.0, Unit.S: 1000.0, Unit.US: 1e-3, Unit.NS: 1e-6} | {
    clock: {Unit.MS: 1.0, Unit.S: 1000.0, Unit.US: 1e-3, Unit.NS: 1e-6}[plain]
    for clock, plain in CLOCKS.items()
}
MS_PER[Unit.CLOCK_TICKS] = 1e-4  # 10 MHz, the usual counter (common practice, no source)
TICKS = re.compile(r"\bqpc\b|\bticks?\b|performance ?counter|\bcounter\b|\btsc\b|\bpc time\b")

WORD_BREAK = re.compile(r"(?<=[a-zµμ])(?=[A-Z])|(?<=[A-Z])(?=[A-Z][a-z])|[_\W]+")
_GLUED = re.compile(r"(?<=\d)(?=(?:ns|us|µs|μs|ms)\b)", re.IGNORECASE)  # "100ns"
FRAME_TIME = re.compile(
    r"\bframe ?times?\b|\bft\b|\bbetween\b|\bframe interval|\bframe delta|\bdelta( time)?\b|\bdt\b"
    r"|\bframe (duration|length)|\bframe( (ms|us|ns|s|sec))?$|\bpresents?\b"
)
RATE = re.compile(r"\bfps\b|\bframes? per s|\bframes s\b|\bframe ?rate\b|\brate\b")
COUNTS_FRAMES = re.compile(r"\bframes?\b")
COUNTS_SAMPLES = re.compile(r"\bsamples?\b")
CLOCK = re.compile(
    r"\btime\b|elapsed|\bstamp|timestamp|since|second|\bclock\b|\bt\b|\bqpc\b|\bdate"
)
GAUGE = re.compile(
    r"temp|power|watt|\bmhz\b|\bghz\b|mem|vram|usage|load|busy|util|fan|noise|volt|wall|core"
    r"|\bping\b|\brtt\b|jitter|audio|network|packet|\bdisk\b|download|upload|\bi ?o\b"
    r"|traffic|latency|percent|%|\bclock speed|\brpm\b|refresh|battery|\bpid\b|process|size"
)
PART_OF_A_FRAME = re.compile(
    r"\bgpu\b|\bcpu\b|render|draw ?calls?|shader|compil|physics|script|\bai\b|\bgame ?thread"
    r"|\bthread|stream|shadow|post ?process|displayed|display change|until|\bin present|\bapi\b"
    r"|wait|queue"
    r"|simulat|driver|sync|animation|input|target|limit|\bcap\b|\bscreen"
)
SUMMED_UP = re.compile(
    r"\bavg\b|average|\bmean\b|\bmin\b|minimum|\bmax\b|maximum|\blows?\b|percentile|\bp\d\d|median"
    r"|smooth|rolling|\bstd"
)
UNITS = (
    (re.compile(r"\b(ns|nsec|nanosec\w*)\b"), Unit.NS),
    (re.compile(r"\b(us|µs|μs|usec|microsec\w*)\b"), Unit.US),
    (re.compile(r"\b(ms|msec|millisec\w*|millis)\b|ms$"), Unit.MS),
    (re.compile(r"\b(s|sec|secs|seconds?)\b"), Unit.S),
)


# "frametime 100ns", "time (0.1 ms)": the numbers count tenths of a millisecond.
_STEP = re.compile(
    r"(?<![\d.,])(\d+|0[.,]\d+)\s*(ns|us|µs|μs|ms|s|sec)\s*[)\]]?\s*$", re.IGNORECASE
)
_STEPS = {10.0**power for power in range(-3, 4)} - {1.0}
_A_SPAN = re.compile(
    r"\b(over|last|per|window|every|each|interval|above|below|under|within)\b|[<>]"
)


class LogMapping(BaseModel):
    """Which column holds the frame times and what its numbers mean."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    column: str
    unit: Unit
    rows_of: str = ""  # only the rows of which this column …
    rows_are: str = ""  # … says this


@lru_cache(maxsize=4096)
def header_words(name: str) -> str:
    """A header as words in lower case: "msBetweenPresents" is "ms between presents"."""
    name = name.replace("Hz", "hz").replace("dB", "db").replace("%", " percent ")
    name = _GLUED.sub(" ", name)
    return " ".join(part for part in WORD_BREAK.split(name) if part).lower().replace("μ", "µ")


@lru_cache(maxsize=4096)
def step_said(name: str) -> float:
    """How many of its unit of time one of a column's numbers stands for: 100 for "ticks 100ns"."""
    found = _STEP.search(name)
    if found is None or RATE.search(header_words(name)) or _A_SPAN.search(header_words(name)):
        return 1.0
    step = float(found[1].replace(",", "."))
    return step if step in _STEPS else 1.0


def in_steps(values: FloatArray, step: float) -> FloatArray:
    """Numbers that count steps of a unit, in that unit; dividing gives the nearest to what was
    written.
    """
    if step == 1.0:
        return values
    return values * step if step > 1.0 else values / round(1.0 / step)


@lru_cache(maxsize=4096)
def unit_said(name: str) -> Unit | None:
    """The unit of time that a header names."""
    words = header_words(name)
    if RATE.search(words):
        return None
    return next((unit for pattern, unit in UNITS if pattern.search(words)), None)


def to_ms(values: FloatArray, unit: Unit) -> FloatArray:
    """Frame times in ms, shape (n,), or (n − 1,) from a clock. No check of their sign."""
    if unit is Unit.FPS:
        return 1000.0 / values
    if unit.is_clock:  # stamps have so many digits and no more: differences get no others
        return np.round(np.diff(values) * MS_PER[unit], 6)
    # Dividing gives the number nearest to what was written; times 0.001 would not.
    return values / round(1.0 / MS_PER[unit]) if MS_PER[unit] < 1.0 else values * MS_PER[unit]
