"""Figures typed or pasted into a grid: read cell by cell, refused cell by cell.

One description of the columns serves the grid on screen, the paste from a spreadsheet and the
errors. A row with a wrong cell is not taken in; the others are.
"""

import csv
import io
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.numbers import number
from blunt_ruler.core.records.records import Contents, Origin, PublishedFigure, TypedFigures
from blunt_ruler.core.runs.import_runs import Arrival, parse_case

MOST_FPS, MOST_SCORE = 100_000.0, 1e9


LONGEST_NAME = 120  # as parts.Name has it


@dataclass(frozen=True, slots=True)
class EntryColumn:
    """A column of the grid: its key, its heading, and whether it holds a number."""

    key: str
    heading: str
    number: bool = False
    needed: bool = False


RUN_COLUMNS = (
    EntryColumn("rig", "rig", needed=True),
    EntryColumn("case", "case", needed=True),
    EntryColumn("average_fps", "average", number=True),
    EntryColumn("low_1_fps", "1 % low", number=True),
    EntryColumn("minimum_fps", "minimum", number=True),
    EntryColumn("maximum_fps", "maximum", number=True),
    EntryColumn("score", "score", number=True),
)
REFERENCE_COLUMNS = (
    EntryColumn("rig", "rig", needed=True),
    EntryColumn("case", "case", needed=True),
    EntryColumn("average_fps", "average", number=True, needed=True),
    EntryColumn("low_1_fps", "1 % low", number=True),
    EntryColumn("source", "source", needed=True),
    EntryColumn("date", "date"),
    EntryColumn("differs", "what differs"),
)


@dataclass(frozen=True, slots=True)
class CellError:
    """A cell that cannot be used, and what to put there."""

    row: int
    column: int
    says: str


Row = Sequence[str]


def pasted_rows(text: str, columns: Sequence[EntryColumn]) -> list[list[str]]:
    """The cells of a pasted table; a first row that repeats the headings is left out.

    Tabs part the cells where there are any, else semicolons, else commas.
    """
    mark = next((mark for mark in "\t;" if mark in text), ",")
    lines = io.StringIO(text.replace("\x00", ""), newline=None)  # lone returns end lines too
    try:
        rows = [
            [cell.strip() for cell in row][: len(columns)]
            for row in csv.reader(lines, delimiter=mark)
            if any(cell.strip() for cell in row)
        ]
    except csv.Error as error:
        raise UserFixable(
            "what was pasted", f"it is no table ({error})", "Copy the cells again"
        ) from error
    names = {name for column in columns for name in (column.key, column.heading)}
    if rows and sum(cell.lower() in names for cell in rows[0]) >= 2:
        rows = rows[1:]
    return [row + [""] * (len(columns) - len(row)) for row in rows]


def number_in(text: str) -> float:
    """A typed number, with a decimal point or comma; UserFixable where it is none."""
    try:
        value = number(text)
    except ValueError:
        raise UserFixable("cell", f"“{text}” is no number", "Write it like 58.2") from None
    if not 0 < value <= MOST_SCORE:
        raise UserFixable("cell", f"{text} is out of range", "Give a number above 0")
    return value


def errors_in(rows: Sequence[Row], columns: Sequence[EntryColumn]) -> tuple[CellError, ...]:
    """Every cell that cannot be used, row by row; blank rows are passed over."""
    found = []
    for index, row in enumerate(rows):
        if not any(cell.strip() for cell in row):
            continue
        for place, column in enumerate(columns):
            if (says := _wrong(row[place].strip(), column)) is not None:
                found.append(CellError(index, place, says))
        if not any(error.row == index for error in found):
            found.extend(_contradictions(index, row, columns))
    return tuple(found)


def _wrong(text: str, column: EntryColumn) -> str | None:
    if not text:
        return f"Give the {column.heading}." if column.needed else None
    try:
        if column.number:
            value = number_in(text)
            if column.key.endswith("_fps") and value > MOST_FPS:
                return f"{text} is more frames per second than there are. Look at it again."
        elif column.key == "case":
            parse_case(text)
        if not column.number and len(text) > LONGEST_NAME:
            return f"It has {len(text)} characters. Make it {LONGEST_NAME} at the most."
    except UserFixable as error:
        return f"{error.what}. {error.fix}."
    return None


def _contradictions(index: int, row: Row, columns: Sequence[EntryColumn]) -> list[CellError]:
    """Figures that cannot stand beside one another: minimum ≤ 1 % low ≤ average ≤ maximum."""
    keys = [column.key for column in columns]
    if "score" in keys and not row[keys.index("average_fps")].strip():
        if not row[keys.index("score")].strip():
            return [CellError(index, keys.index("average_fps"), "Give an average or a score.")]
        return []
    found = []
    last: tuple[str, float] | None = None
    for key in ("minimum_fps", "low_1_fps", "average_fps", "maximum_fps"):
        if key not in keys or not row[keys.index(key)].strip():
            continue
        place = keys.index(key)
        value = number_in(row[place])
        if last is not None and value < last[1]:
            heading = columns[place].heading
            found.append(
                CellError(index, place, f"The {heading} {value:g} is below the {last[0]}.")
            )
        last = columns[place].heading, value
    return found


def _values(row: Row, columns: Sequence[EntryColumn]) -> dict[str, str]:
    return {column.key: row[place].strip() for place, column in enumerate(columns)}


def _numbers(values: dict[str, str], columns: Sequence[EntryColumn]) -> dict[str, float]:
    return {
        column.key: number_in(values[column.key])
        for column in columns
        if column.number and values[column.key]
    }


def typed_arrivals(rows: Sequence[Row], taken_at: str) -> tuple[Arrival, ...]:
    """Sound rows of the runs' grid as arrivals, marked as typed."""
    arrivals = []
    for row in rows:
        if any(cell.strip() for cell in row):
            values = _values(row, RUN_COLUMNS)
            arrivals.append(
                Arrival(
                    rig=values["rig"],
                    case=parse_case(values["case"]),
                    figures=None,
                    trace_sha256=None,
                    origin=Origin(kind="typed"),
                    typed=TypedFigures(**_numbers(values, RUN_COLUMNS)),
                    taken_at=taken_at,
                )
            )
    return tuple(arrivals)


def typed_references(rows: Sequence[Row], new_id: Callable[[], str]) -> tuple[PublishedFigure, ...]:
    """Sound rows of the references' grid."""
    found = []
    for row in rows:
        if any(cell.strip() for cell in row):
            values = _values(row, REFERENCE_COLUMNS)
            figures = _numbers(values, REFERENCE_COLUMNS)
            fields = {"low_1_fps": None, **figures, "id": new_id()}
            found.append(PublishedFigure.model_validate(values | fields))
    return tuple(found)


def reference_rows(contents: Contents) -> list[list[str]]:
    """The references of a logbook as rows of the grid."""
    return [
        [
            one.rig,
            one.case,
            f"{one.average_fps:g}",
            "" if one.low_1_fps is None else f"{one.low_1_fps:g}",
            one.source,
            one.date,
            one.differs,
        ]
        for one in contents.published.values()
    ]
