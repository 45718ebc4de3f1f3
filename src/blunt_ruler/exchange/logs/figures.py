"""A log with its figures, in a module that a process beside the window loads quickly."""

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TypeAlias

from blunt_ruler.core.measure.frames import FrameFigures, measure
from blunt_ruler.core.types import Progress, no_progress
from blunt_ruler.exchange.logs.frame_logs import LogReading, read_log
from blunt_ruler.exchange.logs.words import LogMapping

Read: TypeAlias = tuple[LogReading, FrameFigures | None]
Taken: TypeAlias = Read | Exception


def read_with_figures(
    path: Path,
    chosen: LogMapping | None,
    remembered: Callable[[str], LogMapping | None] | None = None,
    step: Progress = no_progress,
) -> Read:
    """A log as it is read, with its figures where it has single frames."""
    reading = read_log(
        path,
        column=chosen.column if chosen else None,
        unit=chosen.unit if chosen else None,
        remembered=remembered,
        step=step,
    )
    trace = reading.trace
    return reading, measure(trace.frame_times_ms, path.name) if trace else None


def read_each(paths: Sequence[Path]) -> list[Taken]:
    """Some logs, each as it is read or with what is wrong with it."""
    taken: list[Taken] = []
    for path in paths:
        try:
            taken.append(read_with_figures(path, None))
        except Exception as error:
            taken.append(error)
    return taken
