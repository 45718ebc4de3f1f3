"""Read a delimited frame log of any make into a trace.

A sound log goes through polars in one pass. Where that pass stumbles, the log is read again
row by row, so that every row that cannot be used is named by its line in the file; the rest is
offered and nothing is dropped in silence.
"""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Literal

import numpy as np
import polars as pl

from blunt_ruler.core.frames import checked_frame_times
from blunt_ruler.core.models import Origin, Trace
from blunt_ruler.core.types import FloatArray
from blunt_ruler.exchange.log_columns import (
    UNIT_WORDS,
    Guess,
    LogMapping,
    Unit,
    guess_mapping,
    samples_not_frames,
    to_ms,
)
from blunt_ruler.exchange.log_layout import (
    BLANKS,
    SAMPLE_BYTES,
    BadLog,
    Layout,
    LogText,
    Step,
    as_number,
    find_layout,
    load_text,
    no_step,
    table_rows,
)

POLARS_BLANKS = [spelt for word in BLANKS for spelt in dict.fromkeys((word, word.upper()))]
PREVIEW_ROWS = 12
GUESS_ROWS = 200
MOST_SAID = 40


@dataclass(frozen=True, slots=True)
class BadRow:
    """A row that cannot be used: its line in the file and why."""

    line: int
    why: str


@dataclass(frozen=True, slots=True)
class LogReading:
    """A log as read: the trace, how it was understood, and what could not be used."""

    path: Path
    modified_at: str  # UTC, when the file was last written
    layout: Layout
    mapping: LogMapping
    why: str
    guesses: tuple[Guess, ...]
    numeric_columns: tuple[str, ...]
    first_rows: tuple[tuple[str, ...], ...]
    trace: Trace
    bad_rows: tuple[BadRow, ...]
    notes: tuple[str, ...]
    says: tuple[tuple[str, str], ...] = ()  # lines before the table like "card: Marram 12"


def read_log(
    path: Path,
    *,
    column: str | None = None,
    unit: Unit | None = None,
    remembered: Callable[[str], LogMapping | None] | None = None,
    step: Step = no_step,
) -> LogReading:
    """Read one log.

    Args:
        path: the log, plain or gzip.
        column: the column of the frame times, where the user says so.
        unit: what its numbers mean, where the user says so.
        remembered: asked with the layout's signature for a mapping confirmed earlier.
        step: progress, and the way to cancel.

    Raises:
        BadLog: not a table of numbers, no such column, or no row that can be used.
    """
    step("Reading the file", 0.0)
    log = load_text(path)
    layout = find_layout(log, path.name)
    head = table_rows(log.utf8[:SAMPLE_BYTES], layout)[: GUESS_ROWS + 1]
    numeric = _numeric_columns(head, layout)
    sample = {name: _column(head, layout, name) for name in numeric}
    mapping, why, guesses = _decide(layout, sample, path.name, column, unit, remembered)
    step("Reading the rows", 0.3)
    columns, bad_rows = _read_columns(log, layout, mapping, numeric, step)
    step("Checking the frame times", 0.8)
    trace, bad_rows = _as_trace(columns, mapping, layout, bad_rows, path.name)
    notes = []
    warning = samples_not_frames(sample, mapping) if mapping.column in sample else None
    if warning:
        notes.append(warning)
    left_out = [name for name in layout.names if name not in numeric]
    if left_out:
        notes.append(f"columns of text left out: {', '.join(left_out)}")
    if bad_rows:
        notes.append(bad_rows_text(bad_rows, trace.frame_times_ms.size))
    step("Read", 1.0)
    return LogReading(
        path=path,
        modified_at=datetime.fromtimestamp(path.stat().st_mtime, UTC).isoformat(timespec="seconds"),
        layout=layout,
        mapping=mapping,
        why=why,
        guesses=guesses,
        numeric_columns=numeric,
        first_rows=tuple(tuple(row) for _, row in head[:PREVIEW_ROWS]),
        trace=trace,
        bad_rows=bad_rows,
        notes=tuple(notes),
        says=said_before(log, layout),
    )


def said_before(log: LogText, layout: Layout) -> tuple[tuple[str, str], ...]:
    """What the lines before the table say of the log, as (name in lower case, words)."""
    lines = log.utf8[:SAMPLE_BYTES].decode("utf-8", "replace").splitlines()
    said = []
    for line in lines[: layout.lines_before - layout.has_header][:MOST_SAID]:
        name, mark, words = line.lstrip("#; ").partition(":")
        if mark and 0 < len(name.strip()) <= 40 and words.strip():
            said.append((name.strip().lower(), words.strip()[:200]))
    return tuple(said)


def origin_of(reading: LogReading, kind: Literal["log", "simulated"] = "log") -> Origin:
    """Where the figures of a reading come from."""
    return Origin(
        kind=kind,
        file=reading.path.name,
        column=reading.mapping.column,
        unit=reading.mapping.unit,
        rows_skipped=len(reading.bad_rows),
        says=reading.says,
    )


def bad_rows_text(bad_rows: tuple[BadRow, ...], frames_left: int) -> str:
    """The rows that cannot be used, the first by number, in one sentence."""
    first = bad_rows[0]
    more = f" and {len(bad_rows) - 1} more" if len(bad_rows) > 1 else ""
    return f"row {first.line}{more} cannot be used: {first.why}; {frames_left} frames are left"


def _decide(
    layout: Layout,
    sample: dict[str, FloatArray],
    where: str,
    column: str | None,
    unit: Unit | None,
    remembered: Callable[[str], LogMapping | None] | None,
) -> tuple[LogMapping, str, tuple[Guess, ...]]:
    """The mapping to use, why, and all that were plausible."""
    if column is not None and column not in layout.names:
        raise BadLog(
            where,
            f"there is no column “{column}”",
            f"The columns are: {', '.join(layout.names)}",
        )
    if column is not None and column not in sample:
        raise BadLog(where, f"the column “{column}” does not hold numbers", "Choose one that does")
    guesses: tuple[Guess, ...] = ()
    try:
        guesses = guess_mapping(sample, where)
    except BadLog:
        if column is None or unit is None:
            raise
    if column is not None and unit is not None:
        return LogMapping(column=column, unit=unit), "as you said", guesses
    fitting = [
        guess
        for guess in guesses
        if column in (None, guess.mapping.column) and unit in (None, guess.mapping.unit)
    ]
    if column is None and unit is None and remembered is not None:
        known = remembered(layout.signature)
        if known is not None and known.column in sample:
            return known, "as you confirmed for this header before", guesses
    if fitting:
        return fitting[0].mapping, _why(fitting), guesses
    if column is None and guesses:
        return LogMapping(column=guesses[0].mapping.column, unit=unit or Unit.MS), "", guesses
    raise BadLog(
        where,
        f"the unit of “{column}” cannot be told from its values",
        "Name the unit: ms, s, us, fps, clock-s or clock-ms",
    )


def _why(fitting: list[Guess]) -> str:
    """What speaks for the best guess, and the next best where it is close."""
    best = fitting[0]
    close = [
        UNIT_WORDS[guess.mapping.unit]
        for guess in fitting[1:]
        if guess.mapping.column == best.mapping.column and best.score - guess.score < 0.7
    ]
    return f"{best.why}; it could also be {close[0]}, so check the unit" if close else best.why


def _field(row: list[str], index: int) -> str:
    return row[index].strip() if index < len(row) else ""


def _numeric_columns(head: list[tuple[int, list[str]]], layout: Layout) -> tuple[str, ...]:
    """Columns in which most filled fields of the first rows are numbers."""
    names = []
    for index, name in enumerate(layout.names):
        filled = [field for _, row in head if (field := _field(row, index)).lower() not in BLANKS]
        numbers = sum(as_number(field, layout.decimal) is not None for field in filled)
        if filled and numbers > len(filled) / 2:
            names.append(name)
    return tuple(names)


def _column(rows: list[tuple[int, list[str]]], layout: Layout, name: str) -> FloatArray:
    index = layout.names.index(name)
    return np.array(
        [
            np.nan if (number := as_number(_field(row, index), layout.decimal)) is None else number
            for _, row in rows
        ]
    )


def _read_columns(
    log: LogText, layout: Layout, mapping: LogMapping, numeric: tuple[str, ...], step: Step
) -> tuple[dict[str, FloatArray], tuple[BadRow, ...]]:
    """Numeric columns of all rows; a row named bad keeps its place as NaN in the mapped one."""
    if not (layout.decimal == "," and layout.delimiter == ","):
        columns = _read_fast(log, layout, numeric)
        if columns is not None and _sound(columns[mapping.column], mapping.unit):
            return columns, ()
    rows = table_rows(log.utf8, layout, step)
    columns = {name: _column(rows, layout, name) for name in numeric}
    return columns, _bad_rows(rows, columns, layout, mapping)


def _read_fast(
    log: LogText, layout: Layout, numeric: tuple[str, ...]
) -> dict[str, FloatArray] | None:
    """All rows by polars, or None where a row is not what the others are."""
    # polars wants its own made-up names where it is told that there is no header.
    made_up = {name: f"column_{index + 1}" for index, name in enumerate(layout.names)}
    schema = {made_up[name]: pl.Float64 if name in numeric else pl.String for name in layout.names}
    last = layout.names[-1]
    frame = None
    for words_for_blank in (None, POLARS_BLANKS):  # looking for words costs half as much again
        try:
            frame = pl.read_csv(
                log.source,
                skip_lines=layout.lines_before,
                has_header=False,
                separator=layout.delimiter,
                decimal_comma=layout.decimal == ",",
                schema=schema,
                columns=[made_up[name] for name in dict.fromkeys((*numeric, last))],
                null_values=words_for_blank,
            )
            break
        except pl.exceptions.PolarsError:
            continue
    if frame is None:
        return None
    # polars fills a row that is too short with blanks. Where the last column has any, only the
    # number of delimiters tells blank fields from missing ones, which shift the others.
    if frame[made_up[last]].null_count():
        mark = layout.delimiter.encode()
        before = b"\n".join(log.utf8.split(b"\n", layout.lines_before)[:-1]).count(mark)
        if log.utf8.count(mark) - before != frame.height * (len(layout.names) - 1):
            return None
    return {name: frame[made_up[name]].to_numpy() for name in numeric}


def _sound(values: FloatArray, unit: Unit) -> bool:
    if unit.is_clock:
        return bool((np.diff(values) > 0).all())
    return bool(((values > 0) & (values < np.inf)).all())


def _bad_rows(
    rows: list[tuple[int, list[str]]],
    columns: dict[str, FloatArray],
    layout: Layout,
    mapping: LogMapping,
) -> tuple[BadRow, ...]:
    """Name every row the trace cannot use, and blank its value."""
    index = layout.names.index(mapping.column)
    values = columns[mapping.column]
    bad = []
    last = -np.inf
    for at, (line, row) in enumerate(rows):
        value = values[at]
        why = None
        if len(row) != len(layout.names):
            why = f"{len(row)} fields where the table has {len(layout.names)} columns"
        elif not np.isfinite(value):
            held = _field(row, index)
            why = f"“{held}” is not a number" if held else f"“{mapping.column}” is blank"
        elif mapping.unit.is_clock:
            if value <= last:
                why = f"the clock stands still or runs back, from {last:g} to {value:g}"
        elif value <= 0:
            why = f"{value:g} is not above 0"
        if why is not None:
            bad.append(BadRow(line, why))
            values[at] = np.nan
        elif mapping.unit.is_clock:
            last = value
    return tuple(bad)


def _as_trace(
    columns: dict[str, FloatArray],
    mapping: LogMapping,
    layout: Layout,
    bad_rows: tuple[BadRow, ...],
    where: str,
) -> tuple[Trace, tuple[BadRow, ...]]:
    values = columns[mapping.column]
    times_ms = to_ms(values, mapping.unit)
    # From a clock the first row has no frame; a gap beside a bad row is not a frame time.
    beside = slice(1, None) if mapping.unit.is_clock else slice(None)
    usable = np.isfinite(times_ms) & (times_ms > 0)
    if usable.sum() < 2:
        reason = f" (row {bad_rows[0].line}: {bad_rows[0].why})" if bad_rows else ""
        raise BadLog(
            where,
            f"only {int(usable.sum())} of {values.size} rows give a frame time{reason}",
            "Give a log of at least 2 frames, or choose another column or unit",
        )
    everything = bool(usable.all())
    telemetry = {
        name: column[beside] if everything else column[beside][usable]
        for name, column in columns.items()
        if name != mapping.column
    }
    times_ms = times_ms if everything else times_ms[usable]
    return Trace(checked_frame_times(times_ms, where), telemetry), bad_rows
