"""Write a trace as the kind of plain log that capture programs write, in several habits.

Habits differ where real ones do: delimiter, decimal mark, unit, encoding, lines before the
table, compression. None is any program's format.
"""

import gzip
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from blunt_ruler.bench.synthetics import Score
from blunt_ruler.core.records.records import Trace
from blunt_ruler.files import write_whole


@dataclass(frozen=True, slots=True)
class Habit:
    """How a recorder writes. `unit` is ms, us, fps or clock-s."""

    delimiter: str = ","
    decimal: str = "."
    unit: str = "ms"
    encoding: str = "utf-8"
    preamble: tuple[str, ...] = ()
    compressed: bool = False


HABITS: dict[str, Habit] = {
    "plain": Habit(),
    "decimal comma": Habit(delimiter=";", decimal=",", encoding="utf-8-sig"),
    "running clock": Habit(unit="clock-s", delimiter="\t"),
    "preamble": Habit(preamble=("capture notes", "started by hand", "")),
    "wide text": Habit(encoding="utf-16", delimiter=";", unit="us"),
    "packed": Habit(compressed=True),
}
HEADERS = {
    "ms": "frame time ms",
    "us": "frame time us",
    "fps": "frames per second",
    "clock-s": "elapsed s",
}


def write_log(path: Path, trace: Trace, habit: Habit) -> Path:
    """Write one log and give its path, which gains “.gz” where the habit packs."""
    rows = _rows(trace, habit)
    names = [HEADERS[habit.unit], *trace.telemetry]
    lines = [*habit.preamble, habit.delimiter.join(names)]
    lines.extend(habit.delimiter.join(row) for row in rows)
    body = ("\n".join(lines) + "\n").encode(habit.encoding)
    if habit.compressed:
        path = path.with_name(path.name + ".gz")
        body = gzip.compress(body, mtime=0)  # the same trace gives the same bytes
    return write_whole(path, body)


def write_scores(path: Path, score: Score) -> Path:
    """Write the score of a synthetic test as a small table: part, score, weight."""
    lines = ["part,score,weight"]
    for name, value in score.parts.items():
        weight = score.weights.get(name)
        lines.append(f"{name},{value:g},{'' if weight is None else f'{weight:g}'}")
    if score.overall is not None:
        lines.append(f"overall,{score.overall:.2f},")
    return write_whole(path, "\n".join(lines) + "\n")


def _rows(trace: Trace, habit: Habit) -> list[tuple[str, ...]]:
    times_ms = trace.frame_times_ms
    match habit.unit:
        case "us":
            first = [f"{value * 1000.0:.0f}" for value in times_ms]
        case "fps":
            first = [f"{1000.0 / value:.4f}" for value in times_ms]
        case "clock-s":
            first = [f"{value:.6f}" for value in np.concatenate([[0.0], np.cumsum(times_ms)]) / 1e3]
        case _:
            first = [f"{value:.3f}" for value in times_ms]
    gauges = [[f"{value:g}" for value in values.tolist()] for values in trace.telemetry.values()]
    if habit.unit == "clock-s":
        gauges = [[column[0], *column] for column in gauges]
    rows = list(zip(first, *gauges, strict=True))
    if habit.decimal == ",":
        rows = [tuple(text.replace(".", ",") for text in row) for row in rows]
    return rows
