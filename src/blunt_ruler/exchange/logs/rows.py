"""From the columns of a log to its frame times: which rows count, and what is said of the rest.

What stands under the table, a first row that has no frame before it, midnight, pauses and steps
back of a clock are understood and said; any other row that cannot be used is bad and named. A log
of samples, or a clock too coarse for single frames, gives an average and no frame times.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import TypeAlias

import numpy as np

from blunt_ruler.core.measure.frames import LONGEST_MS, SHORTEST_MS, SampledRate, sampled_rate
from blunt_ruler.core.measure.robust_line import median_of
from blunt_ruler.core.text import count_text
from blunt_ruler.core.types import BoolArray, FloatArray
from blunt_ruler.exchange.logs.column import Column, average_of
from blunt_ruler.exchange.logs.columns import DAY_S, PAUSE_MS, Readings
from blunt_ruler.exchange.logs.layout import COMMENT
from blunt_ruler.exchange.logs.numbers import as_value, is_blank
from blunt_ruler.exchange.logs.table import LogTable
from blunt_ruler.exchange.logs.text import BadLog
from blunt_ruler.exchange.logs.words import (
    COUNTS_SAMPLES,
    MS_PER,
    LogMapping,
    Unit,
    header_words,
    to_ms,
)

LAST_ROWS = 12
MOST_NAMED = 1000  # bad rows looked up one by one for what they hold
COARSE = 0.34  # a stamp worth this share of a frame says nothing of single frames
NOTED_COARSE = 0.05
LONG_STEP = 20.0


RowsTaken: TypeAlias = "np.ndarray[tuple[int], np.dtype[np.intp]] | slice"


@dataclass(slots=True)
class Frames:
    """Frame times and the rows they stand on, or a sampled rate; bad rows; what to say.

    `times_ms` shape (k,), `rows` the table's rows they stand on. `bad` holds (row, why).
    """

    times_ms: FloatArray
    rows: RowsTaken
    bad: list[tuple[int, str]] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)
    sampled: SampledRate | None = None


def frames_of(table: LogTable, mapping: LogMapping, readings: Readings, where: str) -> Frames:
    """The frame times of a log under a mapping.

    Raises BadLog where fewer than two rows can be used, or the header stands in it again.
    """
    values = table.columns[mapping.column].copy()
    frames = Frames(np.empty(0), np.empty(0, np.intp))
    end = _table_end(table, mapping, values, frames.notes)
    passed = table.blank.copy()  # rows that are none: blanks, comments, the first
    passed[end:] = True
    if mapping.unit.is_clock:
        values = _over_midnight(values, mapping.unit, frames.notes)
    bad = _bad_rows(table, mapping, values, passed, frames, where)
    if mapping.unit.is_clock:
        _from_clock(table, mapping, values, passed, bad, frames)
    else:
        _from_level(table, mapping, values, passed, bad, frames)
    _samples(table, mapping, readings, frames)
    left = frames.sampled.samples if frames.sampled else frames.times_ms.size
    if left < 2:
        reason = (
            f" (row {table.line_of(frames.bad[0][0])}: {frames.bad[0][1]})" if frames.bad else ""
        )
        raise BadLog(
            where,
            f"only {left} of {table.height} rows give a frame time{reason}",
            "Give a log of at least 2 frames, or choose another column or unit",
        )
    return frames


def _table_end(table: LogTable, mapping: LogMapping, values: FloatArray, notes: list[str]) -> int:
    """The row after the last of the table: lines of totals or words under it are no frames."""
    start = max(table.height - LAST_ROWS, 0)
    rows = table.rows(range(start, table.height))
    names = table.layout.names
    end = table.height
    for row in range(table.height - 1, start - 1, -1):
        fields = rows[row - start]
        regular = not table.ragged[row]
        if (fields and fields[0].startswith(COMMENT)) or any(
            any(letter.isalpha() for letter in text)
            and not is_blank(text)
            and as_value(text, table.layout.decimal) is None
            and not (regular and at < len(names) and names[at] not in table.columns)
            for at, text in enumerate(fields)
        ):
            end = row
        elif any(fields) and regular:
            break
    if start and end == start:  # words all the way: not a footer
        return table.height
    if end < table.height:
        under = count_text(sum(any(fields) for fields in rows[end - start :]), "line")
        notes.append(f"{under} under the table left out, from row {table.line_of(end)}")
    last = end - 1
    above = values[:last][np.isfinite(values[:last])]
    if not mapping.unit.is_clock and above.size >= 5 and np.isfinite(values[last]):
        middle = median_of(above[-2000:])
        if values[last] > 4 * middle and abs(values[last] / above.sum() - 1.0) < 0.002:
            notes.append(f"row {table.line_of(last)} is the sum of all others and left out")
            return last
    return end


def _over_midnight(values: FloatArray, unit: Unit, notes: list[str]) -> FloatArray:
    """A clock that starts again at midnight goes on."""
    day = DAY_S * 1000.0 / MS_PER[unit]
    steps = np.diff(values)
    over = np.flatnonzero(steps < -0.95 * day)
    if not over.size or np.nanmax(np.abs(values)) > 1.001 * day:
        return values
    notes.append("the clock passes midnight")
    days = np.zeros(values.size)
    days[over + 1] = day
    return values + np.cumsum(days)


def _bad_rows(
    table: LogTable,
    mapping: LogMapping,
    values: FloatArray,
    passed: BoolArray,
    frames: Frames,
    where: str,
) -> BoolArray:
    """Name every row that cannot be used by itself; True for each, shape (n,)."""
    unusable = table.ragged | ~np.isfinite(values)
    if not mapping.unit.is_clock:
        times_ms = to_ms(values, mapping.unit)
        unusable |= ~((times_ms >= SHORTEST_MS) & (times_ms <= LONGEST_MS))
    suspects = np.flatnonzero(unusable & ~passed)
    if not suspects.size:
        return unusable & ~passed
    if suspects.size > MOST_NAMED and suspects.size * 2 > table.height:
        raise BadLog(
            f"{where}, row {table.line_of(int(suspects[0]))}",
            f"this row and {suspects.size - 1} more of {table.height} cannot be used",
            "Give a log with one row per frame, or choose another column or unit",
        )
    index = table.layout.names.index(mapping.column)
    width = len(table.layout.names)
    comments = first = 0
    named = suspects[:MOST_NAMED]
    for row, fields in zip(named.tolist(), table.rows(named.tolist()), strict=True):
        held = fields[index] if index < len(fields) else ""
        if not any(fields):
            passed[row] = True
        elif fields[0].startswith(COMMENT):
            passed[row] = True
            comments += 1
        elif _is_header(fields, table):
            raise BadLog(
                where,
                f"row {table.line_of(row)} is the header again: there are two logs in this file, "
                f"{average_of(values[:row], mapping.unit):.1f} fps before it and "
                f"{average_of(values[row + 1 :], mapping.unit):.1f} after it",
                "Split the file and give the parts one by one",
            )
        elif len(fields) != width:
            frames.bad.append((row, f"{len(fields)} fields where the table has {width} columns"))
        elif (row == first or row == 0) and (not held or is_blank(held) or values[row] == 0):
            passed[row] = True  # the first row has no frame before it
            first = row + 1
        elif not np.isfinite(values[row]):
            why = f"“{held[:40]}” is not a number" if held else f"“{mapping.column}” is blank"
            frames.bad.append((row, why))
        else:
            far = "is not above 0" if values[row] <= 0 else "is no frame time or rate"
            frames.bad.append((row, f"{values[row]:g} {far}"))
    frames.bad.extend((int(row), "it cannot be used either") for row in suspects[MOST_NAMED:])
    if comments:
        frames.notes.append(f"{count_text(comments, 'line')} of comment passed over")
    if first:
        frames.notes.append("the first row has no frame before it and was passed over")
    return unusable & ~passed


def _is_header(fields: Sequence[str], table: LogTable) -> bool:
    if not table.layout.has_header or len(fields) != len(table.layout.names):
        return False
    pairs = zip(fields, table.layout.names, strict=True)
    return all(name == text or name.startswith(f"{text} ") for text, name in pairs)


def _from_level(
    table: LogTable,
    mapping: LogMapping,
    values: FloatArray,
    passed: BoolArray,
    bad: BoolArray,
    frames: Frames,
) -> None:
    unused = passed | bad
    frames.rows = np.flatnonzero(~unused) if unused.any() else slice(None)
    frames.times_ms = to_ms(values[frames.rows], mapping.unit)
    if frames.times_ms.size < 2:
        return
    longest = float(frames.times_ms.max())
    if longest > PAUSE_MS and longest > LONG_STEP * median_of(frames.times_ms):
        row = int(np.arange(table.height)[frames.rows][int(np.argmax(frames.times_ms))])
        rest = frames.times_ms[frames.times_ms <= PAUSE_MS]
        frames.notes.append(
            f"row {table.line_of(row)} holds a frame of {longest / 1000:.1f} s, which counts; "
            f"without such it would be {1000.0 * rest.size / rest.sum():.1f} fps"
        )


def _from_clock(
    table: LogTable,
    mapping: LogMapping,
    values: FloatArray,
    passed: BoolArray,
    bad: BoolArray,
    frames: Frames,
) -> None:
    """Frame times as steps of a clock; a step is one only between neighbours that both count."""
    kept = np.flatnonzero(~passed)
    stamps = values[kept].copy()
    stamps[bad[kept]] = np.nan
    with np.errstate(invalid="ignore"):
        steps_ms = to_ms(stamps, mapping.unit)
    up = steps_ms[steps_ms > 0]
    if not up.size:
        return
    typical = median_of(up)
    if _coarse(stamps, steps_ms, mapping, frames):
        return
    for at in np.flatnonzero(steps_ms <= 0).tolist():
        # One stamp that stands out below, or above, its neighbours spoils both steps beside it.
        after = stamps[at + 2] if at + 2 < stamps.size else np.nan
        culprit = at + 1
        if steps_ms[at] < 0 and at > 0 and np.isfinite(after):
            if after > stamps[at] and at + 1 < steps_ms.size:
                steps_ms[at + 1] = np.nan
            elif stamps[at + 1] > stamps[at - 1] and steps_ms[at - 1] > 5 * typical:
                culprit = at
                steps_ms[at - 1] = np.nan
        before, now = stamps[at], stamps[at + 1]
        frames.bad.append(
            (int(kept[culprit]), f"the clock stands still or runs back, from {before:g} to {now:g}")
        )
        steps_ms[at] = np.nan
    frames.bad.sort()
    long = steps_ms > np.maximum(1000.0, LONG_STEP * typical)
    pauses = long & (steps_ms > PAUSE_MS)
    usable = (steps_ms >= SHORTEST_MS) & (steps_ms <= LONGEST_MS)
    if long.any():
        _say_pauses(table, steps_ms, long, pauses, usable, kept, frames)
    usable &= ~pauses
    frames.rows = kept[1:][usable]
    frames.times_ms = steps_ms[usable]


def _say_pauses(
    table: LogTable,
    steps_ms: FloatArray,
    long: BoolArray,
    pauses: BoolArray,
    usable: BoolArray,
    kept: np.ndarray[tuple[int], np.dtype[np.intp]],
    frames: Frames,
) -> None:
    def rate(which: BoolArray) -> str:
        return f"{1000.0 * which.sum() / steps_ms[which].sum():.1f} fps"

    row = table.line_of(int(kept[1:][int(np.flatnonzero(long)[0])]))
    how = "is left out as a pause" if pauses.any() else "counts as a frame"
    longest = float(steps_ms[long].max()) / 1000.0
    frames.notes.append(
        f"the clock steps by {longest:.1f} s before row {row}, which {how}: "
        f"{rate(usable & ~pauses)}; with all such steps {rate(usable)}, "
        f"without {rate(usable & ~long)}"
    )


def _coarse(stamps: FloatArray, steps_ms: FloatArray, mapping: LogMapping, frames: Frames) -> bool:
    """Whether stamps are too coarse for single frames; then the sampled rate is set."""
    sound = steps_ms[np.isfinite(steps_ms) & (steps_ms >= 0) & (steps_ms < PAUSE_MS)]
    up = sound[sound > 0]
    if up.size < 2:
        return False
    part = up[:: max(up.size // 20_000, 1)]
    grain = float(part.min())
    mean = float(sound.mean())
    on_grid = np.abs(part / grain - np.round(part / grain)) < 0.01 * np.maximum(part / grain, 1)
    if on_grid.mean() < 0.99 or grain < NOTED_COARSE * mean or up.size < 10:
        return False
    distinct = np.unique(np.round(part / grain)).size
    if (steps_ms == 0).sum() == 0 and distinct < 2:
        return False  # one and the same step all over: an even pace, or samples
    words = f"stamps of “{mapping.column}” are rounded to {grain:.3g} ms"
    if grain < COARSE * mean and (sound == 0).mean() < 0.01:
        frames.notes.append(f"{words}, so lows are rough")
        return False
    frames.notes.append(f"{words}: too coarse for single frames, so there is an average but no low")
    frames.sampled = sampled_rate(np.full(sound.size, 1000.0 / mean))
    return True


def _samples(table: LogTable, mapping: LogMapping, readings: Readings, frames: Frames) -> None:
    """Set the sampled rate where rows are samples of a counter and not frames."""
    if frames.sampled is not None or mapping.unit.is_clock or frames.times_ms.size < 2:
        return
    held = median_of(frames.times_ms[:: max(frames.times_ms.size // 20_000, 1)])
    if readings.clock is not None and readings.clock_unit is not None:
        clock = Column(readings.clock, table.columns[readings.clock])
        sound = clock.steps[clock.steps >= 0] * MS_PER[readings.clock_unit]
        apart = median_of(sound) if sound.size else 0.0
        if apart <= 3.0 * held:
            return
        why = f"rows are {apart:.0f} ms apart by “{readings.clock}” but hold {held:.1f} ms each"
    elif (
        mapping.unit is Unit.FPS
        and (np.round(1000.0 / frames.times_ms, 6) % 1 == 0).all()
        and (readings.counter is None or COUNTS_SAMPLES.search(header_words(readings.counter)))
    ):
        why = (
            "the rates are whole numbers, as a counter shows them (taken as frames they would "
            f"average {1000.0 / float(frames.times_ms.mean()):.1f} fps)"
        )
    else:
        return
    frames.sampled = sampled_rate(1000.0 / frames.times_ms)
    frames.notes.append(f"{why}: these are samples, not frames, so there is an average but no low")
