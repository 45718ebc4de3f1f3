"""Several sources in one log, and frames that were generated: whose rows are taken.

A column that names a process, a swap chain, a run or a scene parts the rows into recordings of
their own: they are never pooled without a word. A column that flags generated frames parts what was
rendered from what was shown.
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from blunt_ruler.core.types import BoolArray, FloatArray
from blunt_ruler.exchange.logs.column import average_of
from blunt_ruler.exchange.logs.columns import Guess, Readings
from blunt_ruler.exchange.logs.table import LogTable
from blunt_ruler.exchange.logs.words import MS_PER, LogMapping, Unit, header_words, to_ms

# Words of headers are common practice, no source.
SOURCE = re.compile(
    r"\bapp\b|application|process|program|\bexe\b|window|swap ?chain|\bgame\b|\bpid\b|\bdisplay\b"
    r"|monitor|\bruns?\b|\bpass\b|\bscene\b|\bstate\b|\btitle\b|\bresolution\b|session|\bloop\b"
    r"|iteration|\bmap\b|\blevel\b|\bsource\b|\bbenchmark\b"
)
NO_SOURCE = re.compile(r"present|usage|load|memory|power|temp|time|rate|count|percent|\bms\b")
GENERATED = re.compile(
    r"frame ?type|generated|interpolat|\bis ?gen|synthetic frame|\bfg\b|ai frame"
)
RENDERED_WORDS = re.compile(r"app|rendered|real|native|original|^0$|false|^no$", re.IGNORECASE)
DROPPED = re.compile(r"\bdropped\b|\bwas ?dropped|\bmissed\b")
MOST_SOURCES, FEWEST_ROWS, LEAST_SHARE = 12, 20, 0.02
MOST_OFFERED = 6


@dataclass(frozen=True, slots=True)
class Source:
    """A column that parts the rows, and the values it has, those with most rows first."""

    column: str
    values: tuple[str, ...]


def rows_said(table: LogTable, column: str, value: str) -> BoolArray:
    """The rows whose column says a value, shape (n,)."""
    if column in table.labels:
        said = table.labels[column].str.strip_chars() == value
        return np.asarray(said.fill_null(value=False).to_numpy())
    return np.asarray(table.columns[column] == float(value))


def source_of(table: LogTable, taken: str) -> Source | None:
    """The column that parts the rows of a log into several sources; None for one source. Where but
    one has more than a few rows, it alone is among the values.

    `taken` is the column of the frame times. Of several such columns the one with fewest values is
    taken, for it parts the log once.
    """
    found = [
        Source(name, values)
        for name in (*table.labels, *table.columns)
        if name != taken
        and SOURCE.search(words := header_words(name))
        and not NO_SOURCE.search(words)
        and not GENERATED.search(words)
        and (values := _values(table, name))
    ]
    several = [source for source in found if len(source.values) > 1]
    return min(several or found, key=lambda source: len(source.values), default=None)


def _values(table: LogTable, name: str) -> tuple[str, ...]:
    """The values of a column that parts the rows and that are not rare, the commonest first; none
    where it has a single one, or too many.
    """
    if name in table.labels:
        counts = table.labels[name].str.strip_chars().drop_nulls().value_counts(sort=True)
        pairs = [(str(word), int(count)) for word, count in counts.rows() if str(word)]
    else:
        values = table.columns[name]
        whole = values[np.isfinite(values)]
        if not whole.size or (whole != np.round(whole)).any():
            return ()
        numbers, counted = np.unique(whole, return_counts=True)
        order = np.argsort(-counted)
        pairs = [(f"{numbers[at]:.0f}", int(counted[at])) for at in order[: MOST_SOURCES + 1]]
    if not 2 <= len(pairs) <= MOST_SOURCES:
        return ()
    least = max(FEWEST_ROWS, LEAST_SHARE * table.height)
    return tuple(word for word, count in pairs if count >= min(least, 0.2 * table.height))


def guesses_by_source(table: LogTable, readings: Readings, source: Source) -> tuple[Guess, ...]:
    """The best reading of a log for the rows of each source, the busiest first."""
    best = readings.guesses[0]
    return tuple(
        replace(
            best,
            mapping=best.mapping.model_copy(update={"rows_of": source.column, "rows_are": value}),
            average_fps=_average(table, best.mapping, rows_said(table, source.column, value)),
        )
        for value in source.values[:MOST_OFFERED]
    )


def _average(table: LogTable, mapping: LogMapping, rows: BoolArray) -> float:
    values = table.columns[mapping.column][rows]
    if mapping.unit.is_clock:
        steps = np.diff(values)
        steps = steps[np.isfinite(steps) & (steps > 0)] * MS_PER[mapping.unit]
        return 1000.0 / float(steps.mean()) if steps.size else 0.0
    return average_of(values, mapping.unit)


def rendered_value(table: LogTable) -> tuple[str, str] | None:
    """(column, value) of the rows that were rendered, where a column flags generated frames."""
    for name in (*table.labels, *table.columns):
        if not GENERATED.search(header_words(name)):
            continue
        for value in _flags(table, name):
            if RENDERED_WORDS.search(value):
                return name, value
    return None


def _flags(table: LogTable, name: str) -> Iterator[str]:
    """The two to four values of a flag."""
    if name in table.labels:
        held = table.labels[name].str.strip_chars().drop_nulls().unique().to_list()
        words = sorted(str(one) for one in held)
    else:
        numbers = np.unique(table.columns[name][np.isfinite(table.columns[name])][:100_000])
        words = [f"{one:.0f}" for one in numbers[:5] if one == round(one)]
    return iter(words if 2 <= len(words) <= 4 else ())


def merged(table: LogTable, mapping: LogMapping, rendered: BoolArray) -> LogTable:
    """A table in which a rendered frame lasts until the next: the times of the generated frames
    after it are part of it. A clock needs no merging.
    """
    if mapping.unit.is_clock:
        return only(table, rendered)
    times_ms = to_ms(table.columns[mapping.column], mapping.unit)
    whole = np.concatenate([[0.0], np.nancumsum(times_ms)])
    starts = np.flatnonzero(rendered)
    ends = np.append(starts[1:], times_ms.size)
    lasted = np.full(times_ms.size, np.nan)
    lasted[starts] = whole[ends] - whole[starts]
    values = _from_ms(lasted, mapping.unit)
    return only(replace(table, columns={**table.columns, mapping.column: values}), rendered)


def _from_ms(times_ms: FloatArray, unit: Unit) -> FloatArray:
    return 1000.0 / times_ms if unit is Unit.FPS else times_ms / MS_PER[unit]


def only(table: LogTable, rows: BoolArray) -> LogTable:
    """A table of some of its rows; the others count as blank, so that rows keep their numbers."""
    return replace(table, blank=table.blank | ~rows)


def dropped_frames(table: LogTable) -> int:
    """How many rows a column flags as dropped."""
    for name, values in table.columns.items():
        held = values[np.isfinite(values)]
        if DROPPED.search(header_words(name)) and held.size and np.isin(held, (0.0, 1.0)).all():
            return int(held.sum())
    return 0
