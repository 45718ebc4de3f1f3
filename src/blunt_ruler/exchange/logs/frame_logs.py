"""Read a delimited frame log of any make into a trace.

What is no frame log is refused with what it looks like; a log that can be read in two ways with
different figures comes back with both; every row that cannot be used is named by its line in the
file. Nothing is dropped or chosen in silence.
"""

import logging
from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Literal

import numpy as np

from blunt_ruler.core.measure.frames import SampledRate, average_fps, checked_frame_times
from blunt_ruler.core.measure.kinds import Kind
from blunt_ruler.core.measure.reading import HowRead
from blunt_ruler.core.measure.telemetry import checked_telemetry
from blunt_ruler.core.records.records import Origin, Role, Trace, TypedFigures
from blunt_ruler.core.runs.import_runs import Arrival, CaseName
from blunt_ruler.core.text import count_text
from blunt_ruler.core.types import FloatArray, Progress, no_progress
from blunt_ruler.diary import timed
from blunt_ruler.exchange.logs.columns import Guess, Readings, read_columns
from blunt_ruler.exchange.logs.known import keep_layout, known_layout
from blunt_ruler.exchange.logs.layout import (
    Layout,
    find_layouts,
    table_rows,
    with_cell_units,
)
from blunt_ruler.exchange.logs.rows import Frames, frames_of
from blunt_ruler.exchange.logs.sources import (
    dropped_frames,
    guesses_by_source,
    merged,
    only,
    rendered_value,
    rows_said,
    source_of,
)
from blunt_ruler.exchange.logs.strangers import refuse_strangers
from blunt_ruler.exchange.logs.table import LogTable, read_table
from blunt_ruler.exchange.logs.text import BadLog, LogText, load_text
from blunt_ruler.exchange.logs.words import UNIT_WORDS, LogMapping, Unit
from blunt_ruler.files import as_text

__all__ = [
    "BadLog",
    "BadRow",
    "LogReading",
    "arrival_of",
    "bad_rows_text",
    "origin_of",
    "read_log",
    "typed_of",
]

log = logging.getLogger(__name__)

PREVIEW_ROWS = 12
FEWEST_SORTED = 30
MOST_SAID = 40


@dataclass(frozen=True, slots=True)
class BadRow:
    """A row that cannot be used: its line in the file and why."""

    line: int
    why: str


@dataclass(frozen=True, slots=True)
class LogReading:
    """A log as read: the trace, how it was understood, and what could not be used.

    A log of samples, or one whose clock is too coarse, has no trace but a `sampled` rate: an
    average, and no lows. `asks` holds the readings between which the reader must choose.
    """

    path: Path
    modified_at: str  # UTC, when the file was last written
    layout: Layout
    mapping: LogMapping
    why: str
    guesses: tuple[Guess, ...]
    numeric_columns: tuple[str, ...]
    first_rows: tuple[tuple[str, ...], ...]
    trace: Trace | None
    sampled: SampledRate | None
    bad_rows: tuple[BadRow, ...]
    notes: tuple[str, ...]
    asks: tuple[Guess, ...] = ()
    says: tuple[tuple[str, str], ...] = ()  # lines before the table like "card: Marram 12"
    generated: bool = False  # it flags some of its frames as generated

    @property
    def usable(self) -> int:
        """Frames, or samples, that are left."""
        if self.trace is not None:
            return int(self.trace.frame_times_ms.size)
        assert self.sampled is not None
        return self.sampled.samples

    @property
    def average_fps(self) -> float:
        """The average of the trace, or of the samples."""
        if self.trace is not None:
            return average_fps(self.trace.frame_times_ms)
        assert self.sampled is not None
        return self.sampled.average_fps

    @property
    def question(self) -> str:
        """What must be chosen, with the figures; blank where nothing must."""
        return " or ".join(guess.words for guess in self.asks)


@np.errstate(all="ignore")  # numbers of any size are in files; each is looked at after
def read_log(
    path: Path,
    *,
    column: str | None = None,
    unit: Unit | None = None,
    rows: tuple[str, str] | None = None,
    remembered: Callable[[str], LogMapping | None] | None = None,
    step: Progress = no_progress,
) -> LogReading:
    """Read one log.

    Args:
        path: the log, plain or packed.
        column: the column of the frame times, where the user says so.
        unit: what its numbers mean, where the user says so.
        rows: (column, value) of the rows to take, where the user says so.
        remembered: asked with the layout's signature for a mapping confirmed earlier.
        step: progress, and the way to cancel.

    Raises:
        BadLog: not a table of numbers, no such column, or no row that can be used.
    """
    with timed(log, "log read") as took:
        step("Reading the file", 0.0)
        text = load_text(path, json_rows=True)
        took.say(f"{path.stat().st_size / 1e6:.1f} MB")
        layout, head = _layout(text, path.name)
        step("Reading the rows", 0.3)
        table = read_table(text, layout, head, step)
        step("Finding the frame times", 0.7)
        readings = read_columns(table.columns, table.clocks)
        if column is None or unit is None:
            refuse_strangers(table, head, readings, path.name)
        mapping, why, asks = _decide(table, readings, path.name, column, unit, remembered)
        mapping, asks = _of_a_source(table, readings, mapping, asks, rows, why, path.name)
        if asks and asks[0].mapping.rows_of:
            why = f"most rows are of “{mapping.rows_are}”"
        table, said, generated = _rows_taken(table, mapping)
        step("Checking the frame times", 0.8)
        frames = frames_of(table, mapping, readings, path.name)
        reading = LogReading(
            path=path,
            modified_at=datetime.fromtimestamp(path.stat().st_mtime, UTC).isoformat(
                timespec="seconds"
            ),
            layout=layout,
            mapping=mapping,
            why=why,
            guesses=readings.guesses,
            numeric_columns=tuple(table.columns),
            first_rows=tuple(tuple(row) for _, row in head[:PREVIEW_ROWS]),
            trace=_trace(frames, table, mapping, path.name),
            sampled=frames.sampled,
            bad_rows=tuple(BadRow(table.line_of(row), said) for row, said in frames.bad),
            notes=(),
            asks=asks,
            says=said_before(text, layout),
            generated=generated,
        )
        took.say(f"{reading.usable} frames or samples, read as {mapping.unit}")
        step("Read", 1.0)
        frames.notes[:0] = said
        return _with_notes(reading, frames, table)


AS_YOU_SAID = "as you said"
CONFIRMED = "as you confirmed for this header before"


def _of_a_source(
    table: LogTable,
    readings: Readings,
    mapping: LogMapping,
    asks: tuple[Guess, ...],
    rows: tuple[str, str] | None,
    why: str,
    where: str,
) -> tuple[LogMapping, tuple[Guess, ...]]:
    """A mapping to the rows of one source, and the sources to choose from where there are several
    and nobody has said which.
    """
    if rows is not None:
        if not _says(table, *rows):
            what = f"no row has “{rows[1][:40]}” in a column “{rows[0][:40]}”"
            raise BadLog(where, what, "Look at the names of its columns")
        return mapping.model_copy(update={"rows_of": rows[0], "rows_are": rows[1]}), asks
    if mapping.rows_of:
        if _says(table, mapping.rows_of, mapping.rows_are):
            return mapping, asks
        mapping = mapping.model_copy(update={"rows_of": "", "rows_are": ""})
    elif why == CONFIRMED:
        return mapping, asks
    source = source_of(table, mapping.column)
    if source is None or not readings.guesses:
        return mapping, asks
    offered = guesses_by_source(table, readings, source)
    if len(offered) == 1:  # the others have a few rows, which are left out and said
        only_one = {"rows_of": source.column, "rows_are": source.values[0]}
        return mapping.model_copy(update=only_one), asks
    return offered[0].mapping, offered


def _says(table: LogTable, column: str, value: str) -> bool:
    """Whether a log has such a column, and it says a value in any row."""
    try:
        return bool(rows_said(table, column, value).any())
    except (KeyError, ValueError):
        return False


def _rows_taken(table: LogTable, mapping: LogMapping) -> tuple[LogTable, list[str], bool]:
    """The table without the rows of other sources and with generated frames merged into those that
    were rendered; what is said of it; and whether there were generated frames.
    """
    said: list[str] = []
    generated = False
    if mapping.rows_of:
        mine = rows_said(table, mapping.rows_of, mapping.rows_are)
        left = int(table.height - mine.sum())
        table = only(table, mine)
        said.append(
            f"only rows of which “{mapping.rows_of}” says “{mapping.rows_are}”; "
            f"{count_text(left, 'other row')} left out"
        )
    flag = rendered_value(table)
    if flag is not None and flag[0] != mapping.rows_of:
        rendered = rows_said(table, *flag) & ~table.blank
        shown = int((~table.blank & ~table.ragged).sum())
        share = rendered.sum() / max(shown, 1)
        generated = bool(0 < share < 1)
        if generated:
            table = merged(table, mapping, rendered)
            said.append(
                f"generated frames: {count_text(shown - int(rendered.sum()), 'frame')} of "
                f"{shown} by “{flag[0]}”; the rate of the rendered frames is taken, and with "
                f"generated frames it would be {1.0 / share:.3g} times as high"
            )
    dropped = dropped_frames(table)
    if dropped:
        said.append(f"{count_text(dropped, 'frame')} {'is' if dropped == 1 else 'are'} flagged as "
                    "dropped, and counted")  # fmt: skip
    return table, said, generated


def _with_notes(reading: LogReading, frames: Frames, table: LogTable) -> LogReading:
    notes = list(frames.notes)
    used = {*table.columns, reading.mapping.rows_of}
    left_out = [name for name in reading.layout.names if name not in used]
    if left_out:
        notes.append(f"columns of text left out: {', '.join(left_out)}")
    if reading.trace is not None and not table.clocks and _is_sorted(reading.trace.frame_times_ms):
        notes.append(
            "the rows are sorted by frame time: averages and lows hold, stutter and order do not"
        )
    if reading.bad_rows:
        notes.append(bad_rows_text(reading.bad_rows, reading.usable))
    return replace(reading, notes=tuple(notes))


def _is_sorted(times_ms: FloatArray) -> bool:
    """Whether frame times only rise, or only fall, over more frames than chance would order."""
    if times_ms.size < FEWEST_SORTED or np.unique(times_ms[:1000]).size < FEWEST_SORTED / 2:
        return False
    steps = np.diff(times_ms)
    return bool((steps >= 0).all() or (steps <= 0).all())


def _layout(log: LogText, where: str) -> tuple[Layout, list[tuple[int, list[str]]]]:
    """The layout, and the first rows under it. Of close rivals the one that makes more sense."""
    known = known_layout(log)
    if known is not None:
        rows = (line.split(known.delimiter) for line in log.head[known.lines_before :])
        return known, [*enumerate(rows, known.lines_before + 1)]
    start = "\n".join(log.head).encode()
    layouts = find_layouts(log, where)
    heads = [table_rows(start, layout) for layout in layouts]
    layouts = tuple(with_cell_units(*pair) for pair in zip(layouts, heads, strict=True))
    if len(layouts) == 1:
        keep_layout(log, layouts[0])
        return layouts[0], heads[0]
    sense = []
    for layout, head in zip(layouts, heads, strict=True):
        short = LogText(start, log.encoding, log.compressed, start)
        table = read_table(short, layout, head)
        guesses = read_columns(table.columns, table.clocks).guesses
        sense.append(guesses[0].score if guesses else -10.0)
    best = 0
    for index in range(1, len(layouts)):
        if sense[index] > sense[best] + 1.0:
            best = index
    return layouts[best], heads[best]


def said_before(log: LogText, layout: Layout) -> tuple[tuple[str, str], ...]:
    """What the lines before the table say of the log, as (name in lower case, words)."""
    said = []
    for line in log.head[: layout.lines_before - layout.header_lines][:MOST_SAID]:
        name, mark, words = line.lstrip("#; ").partition(":")
        if mark and 0 < len(name.strip()) <= 40 and words.strip():
            said.append((name.strip().lower(), words.strip()[:200]))
    return tuple(said)


def origin_of(reading: LogReading, kind: Literal["log", "simulated"] = "log") -> Origin:
    """Where the figures of a reading come from. A log of samples gives typed figures."""
    return Origin(
        kind=kind if reading.trace is not None else "typed",
        file=as_text(reading.path.name)[:250],
        column=reading.mapping.column[:200],
        unit=reading.mapping.unit,
        rows_skipped=len(reading.bad_rows),
        says=reading.says,
    )


def arrival_of(
    reading: LogReading,
    rig: str,
    case: CaseName,
    *,
    case_id: str = "",
    role: Role | None = None,
    taken_at: str | None = None,
) -> Arrival:
    """A log on its way in as a run of a rig and case; its trace goes with it."""
    return Arrival(
        rig=rig,
        case=case,
        case_id=case_id,
        figures=None,
        trace_sha256=None,
        typed=typed_of(reading),
        origin=origin_of(reading),
        role=role,
        taken_at=reading.modified_at if taken_at is None else taken_at,
        generated=reading.generated,
    )


def typed_of(reading: LogReading) -> TypedFigures | None:
    """The figures of a log of samples, as one would read them off; None where it has a trace."""
    if reading.sampled is None:
        return None
    sampled = reading.sampled
    how = HowRead(kind=Kind.SAMPLES, edges=(sampled.low_95, sampled.high_95))
    return TypedFigures(average_fps=sampled.average_fps, average_how=how)


def bad_rows_text(bad_rows: tuple[BadRow, ...], frames_left: int) -> str:
    """The rows that cannot be used, the first by number, in one sentence."""
    first = bad_rows[0]
    more = f" and {len(bad_rows) - 1} more" if len(bad_rows) > 1 else ""
    return f"row {first.line}{more} cannot be used: {first.why}; {frames_left} frames are left"


def _decide(
    table: LogTable,
    readings: Readings,
    where: str,
    column: str | None,
    unit: Unit | None,
    remembered: Callable[[str], LogMapping | None] | None,
) -> tuple[LogMapping, str, tuple[Guess, ...]]:
    """The mapping to use, why, and the readings that must be chosen from."""
    names = table.layout.names
    if column is not None and column not in names:
        listed = ", ".join(names[:12]) + (" …" if len(names) > 12 else "")
        raise BadLog(where, f"there is no column “{column[:60]}”", f"The columns are: {listed}")
    if column is not None and column not in table.columns:
        raise BadLog(where, f"the column “{column}” does not hold numbers", "Choose one that does")
    if column is not None and unit is not None:
        return LogMapping(column=column, unit=unit), AS_YOU_SAID, ()
    fitting = [
        guess
        for guess in readings.guesses
        if column in (None, guess.mapping.column) and unit in (None, guess.mapping.unit)
    ]
    if column is None and unit is None and remembered is not None:
        known = remembered(table.layout.signature)
        if known is not None and known.column in table.columns:
            return known, CONFIRMED, ()
    if unit is not None and fitting:  # a unit alone is meant for the column that one would take
        likeliest = readings.guesses[0].mapping.column
        fitting.sort(key=lambda guess: guess.mapping.column != likeliest)
    if fitting and (column is not None or unit is not None):
        return fitting[0].mapping, _why(fitting), ()
    if fitting:
        return fitting[0].mapping, _why(fitting), readings.asks
    if column is None and readings.guesses:
        name = readings.guesses[0].mapping.column
        return LogMapping(column=name, unit=unit or Unit.MS), AS_YOU_SAID, ()
    if column is None:
        raise BadLog(
            where,
            "no column could be frame times, rates or a running clock",
            "Name the column and its unit",
        )
    raise BadLog(
        where,
        f"the unit of “{column[:60]}” cannot be seen from its values",
        f"Name the unit: {', '.join(Unit)}",
    )


def _why(fitting: list[Guess]) -> str:
    """What speaks for the best guess, and the next best where it is close."""
    best = fitting[0]
    close = [
        guess
        for guess in fitting[1:]
        if guess.mapping.column == best.mapping.column and best.score - guess.score < 1.5
    ]
    if not close:
        return best.why
    other = close[0]
    return (
        f"{best.why}; it could also be {UNIT_WORDS[other.mapping.unit]}, "
        f"{other.average_fps:.4g} fps, so check the unit"
    )


def _trace(frames: Frames, table: LogTable, mapping: LogMapping, where: str) -> Trace | None:
    if frames.sampled is not None:
        return None
    beside: dict[str, FloatArray] = {
        name: values[frames.rows]
        for name, values in table.columns.items()
        if name != mapping.column
    }
    checked_telemetry(beside, where)
    return Trace(checked_frame_times(frames.times_ms, where), beside)
