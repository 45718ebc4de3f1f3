"""Refuse what is given as a frame log and is none, and say what it looks like."""

import numpy as np

from blunt_ruler.exchange.logs.column import Column, average_of
from blunt_ruler.exchange.logs.columns import Readings
from blunt_ruler.exchange.logs.layout import Layout
from blunt_ruler.exchange.logs.numbers import as_value, is_blank
from blunt_ruler.exchange.logs.table import LogTable
from blunt_ruler.exchange.logs.text import BadLog
from blunt_ruler.exchange.logs.words import (
    FRAME_TIME,
    GAUGE,
    MS_PER,
    PART_OF_A_FRAME,
    SUMMED_UP,
    Unit,
    header_words,
)

FEW_ROWS = 40
RESULTS = frozenset({"rig", "title", "average_fps"})
WEAKEST = -1.2  # below this the best guess is a gauge that happens to have the size of a rate


def refuse_strangers(
    table: LogTable, head: list[tuple[int, list[str]]], readings: Readings, where: str
) -> None:
    """BadLog for a table of results, a summary, a list of scores, two logs in one, gauges only."""
    layout = table.layout
    if {name.strip().lower() for name in layout.names} >= RESULTS:
        raise BadLog(
            where,
            "this looks like a table of results, not a frame log",
            "Paste it on the Board, drop the file on the window, or use compare --table",
        )
    if not readings.guesses:
        if readings.counter is not None and len(table.columns) == 1:
            raise BadLog(
                where, f"“{readings.counter}” only counts rows", "Give a log with frame times"
            )
        raise BadLog(
            where,
            "no column could be frame times, rates or a running clock",
            "Name the column and its unit",
        )
    best = readings.guesses[0]
    if table.height <= FEW_ROWS:
        _refuse_summary(layout, head, best.mapping.column, where)
    if best.score < WEAKEST:
        raise BadLog(
            where,
            f"no column could be frame times: the nearest is {best.words}",
            "Name the column and its unit where this is right",
        )
    words = header_words(best.mapping.column)
    part = PART_OF_A_FRAME.search(words) and "between" not in words
    part = part or (GAUGE.search(words) and not FRAME_TIME.search(words))
    if part and best.mapping.unit is not Unit.FPS and not best.confirmed_by:
        raise BadLog(
            where,
            f"“{best.mapping.column}” looks like a part of each frame, not all of it: as frame "
            f"time it would give {best.average_fps:.4g} fps",
            "Name the column and its unit where this is right",
        )
    _refuse_two_recordings(table, readings, where)


def _refuse_summary(
    layout: Layout, head: list[tuple[int, list[str]]], column: str, where: str
) -> None:
    rows = [row for _, row in head]
    words = [
        text
        for row in rows
        for text in row
        if as_value(text, layout.decimal) is None and not is_blank(text)
    ]
    summed = sum(bool(SUMMED_UP.search(header_words(text))) for text in words)
    if SUMMED_UP.search(header_words(column)) or summed >= 2:
        raise BadLog(
            where,
            f"this looks like a summary of {len(rows)} rows, not a frame log",
            "Type its figures in, or give the log it was made from",
        )
    for at in range(len(layout.names)):
        fields = [row[at] for row in rows if at < len(row)]
        texts = [text for text in fields if as_value(text, layout.decimal) is None and text]
        if len(fields) > 1 and len(texts) == len(fields) == len(set(texts)):
            raise BadLog(
                where,
                f"every row has another “{layout.names[at]}”: this looks like a table of results "
                "or scores, not a frame log",
                "Type its figures in, or give a log with one row per frame",
            )


def _figures(table: LogTable, readings: Readings, which: list[np.ndarray]) -> str:
    """The averages of parts of the log under its best reading: "58.1 and 60.0 fps"."""
    mapping = readings.guesses[0].mapping
    rates = [
        f"{average_of(table.columns[mapping.column][rows], mapping.unit):.1f}" for rows in which
    ]
    return f"{' and '.join(rates)} fps"


def _refuse_two_recordings(table: LogTable, readings: Readings, where: str) -> None:
    """A counter or clock that starts again in the middle begins another recording."""
    for name in (readings.counter, readings.clock):
        if name is None or GAUGE.search(header_words(name)):
            continue
        values = table.columns[name]
        with np.errstate(invalid="ignore"):
            back = np.flatnonzero(np.diff(values) < 0) + 1
        column = Column(name, values)
        start = float(column.finite[0])
        near = start + 1.5 * (0.0 if column.is_counter else column.typical_step)
        starts = [
            int(row)
            for row in back[:100]
            if values[row] <= near
            and 5 <= row <= values.size - 5
            and not _midnight(table, name, row)
        ]
        if starts:
            parts = np.split(np.arange(values.size), starts[:1])
            raise BadLog(
                where,
                f"“{name}” starts again at row {table.line_of(starts[0])}: there are "
                f"{len(starts) + 1} recordings in this file; before and after it the average is "
                f"{_figures(table, readings, list(parts))}",
                "Split the file, or name column and unit to take all as one",
            )


def _midnight(table: LogTable, name: str, row: int) -> bool:
    values = table.columns[name]
    fall = float(values[row - 1] - values[row])
    return any(abs(fall * per / 1000.0 / 86_400.0 - 1.0) < 0.05 for per in set(MS_PER.values()))
