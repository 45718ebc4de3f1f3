"""Read a table of results that was kept by hand: one row per run.

Columns rig, title, scene, resolution, preset, run, average_fps, low_1_fps; rig, title and
average_fps must be there, others are allowed and left alone, but frames and duration_s are used
where they stand. A rate may be written in the notation of the Board: "45-50", "~60", "200+",
"(58 61 63)", several passes in one cell, or "no: why" for a run that came to nothing. Delimiter,
decimal mark and encoding are found as for a frame log.
"""

import re
from collections.abc import Iterator, Sequence
from pathlib import Path

from blunt_ruler.core.compare.results import Measurement
from blunt_ruler.core.measure.reading import FROM_LOG, HowRead
from blunt_ruler.core.records.records import TypedFigures, case_label
from blunt_ruler.core.runs.entry import MOST_FPS, BadEntry, parse_entry
from blunt_ruler.exchange.hand_tables import LEAST, HandRow, hand_rows
from blunt_ruler.exchange.log_numbers import as_number, is_blank
from blunt_ruler.exchange.log_text import BadLog

NEEDED = ("rig", "title", "average_fps")
THOUSANDS = re.compile(r"(\d{1,3})([.,])(\d{3})")  # a group of thousands, or three decimals
DECIMALS = re.compile(r"\d[.,]\d{1,2}$")
WANTED = "rig,title,scene,resolution,preset,run,average_fps,low_1_fps"


def read_results(path: Path) -> tuple[Measurement, ...]:
    """The runs of a table. BadLog names the column or row that is wrong."""
    rows = tuple(hand_rows(path, NEEDED, WANTED))
    _refuse_thousands(rows)
    return tuple(run for row in rows for run in _measurements(row))


def _refuse_thousands(rows: Sequence[HandRow]) -> None:
    """BadLog for a figure whose mark can part thousands as well as decimals, with both readings.

    Not where the table uses that mark for decimals elsewhere; nor where a rate of ten thousand and
    more would be the other reading.
    """
    cells = [(row, name, row.text(name)) for row in rows for name in ("average_fps", "low_1_fps")]
    decimal = {held[-3 if held[-3] in ",." else -2] for *_, held in cells if DECIMALS.search(held)}
    for row, column, held in cells:
        found = THOUSANDS.fullmatch(held)
        if found is None or found[2] in decimal or (len(found[1]) > 1 and not decimal):
            continue
        whole, fraction = f"{found[1]}{found[3]}", f"{found[1]}.{found[3]}"
        raise BadLog(
            row.where,
            f"{column} holds “{held}”, which can be {whole} or {fraction}",
            f"Write {whole} or {fraction}",
        )


def _measurements(row: HandRow) -> Iterator[Measurement]:
    """The runs of a row: one, several where its cell holds several passes, none for “no: why”."""
    title, rig = row.needed("title"), row.needed("rig")
    case = case_label(title, *(row.text(part) for part in ("scene", "resolution", "preset")))
    passes = _entry(row, "average_fps")
    if passes is None:
        raise BadLog(row.where, "average_fps is blank", "Fill it in, or take the row out")
    frames, duration_s = row.number("frames"), row.number("duration_s")
    counted = len(passes) == 1 and frames is not None and duration_s is not None
    lows = _entry(row, "low_1_fps") or ()
    if len(lows) > 1 or any(low.low_1_fps is not None for low in lows):
        raise BadLog(row.where, "low_1_fps holds more than one figure", "Give one")
    for one in passes:
        low, low_how = one.low_1_fps, one.low_1_how
        if lows and low is not None:
            raise BadLog(row.where, "the 1 % low is given twice", "Give it once")
        if lows:
            low, low_how = lows[0].average_fps, lows[0].average_how
        assert one.average_fps is not None
        yield Measurement(
            rig=rig,
            case=case,
            average_fps=one.average_fps,
            low_1_fps=low,
            frames=int(frames) if counted and frames is not None else None,
            duration_s=duration_s if counted else None,
            how=FROM_LOG if counted else one.average_how,
            low_how=FROM_LOG if counted else low_how,
        )


def _entry(row: HandRow, column: str) -> tuple[TypedFigures, ...] | None:
    """The passes of a cell; None for a blank one. A plain number is read as the table writes them,
    anything else in the notation.
    """
    held = row.text(column)
    if is_blank(held):
        return None
    value = as_number(held, row.decimal)
    if value is not None and LEAST <= value <= MOST_FPS:
        decimals = len(held.partition(row.decimal)[2].rstrip())
        return (TypedFigures(average_fps=value, average_how=HowRead(step=10.0**-decimals)),)
    try:
        return parse_entry(held).passes
    except BadEntry as error:
        raise BadLog(row.where, f"{column} holds {error.where}: {error.what}", error.fix) from error
