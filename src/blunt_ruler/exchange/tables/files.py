"""Tables of results in files: workbooks (.ods, .xlsx) and delimited text, as rows of text."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from zipfile import ZipFile, is_zipfile

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.exchange.logs.text import BadLog, load_text
from blunt_ruler.exchange.tables.cells import (
    MOST_COLUMNS,
    MOST_ROWS,
    BadShape,
    BadSheet,
    pasted_rows,
    tidy,
)
from blunt_ruler.exchange.tables.reading import understand
from blunt_ruler.exchange.tables.roles import NO_RIG, NO_TITLE
from blunt_ruler.exchange.tables.sheet import LONG, SUMMARY
from blunt_ruler.exchange.tables.words import names_runs
from blunt_ruler.limited import OverLimit, Undecodable, limited

WORKBOOKS = frozenset([".ods", ".xlsx", ".xlsm", ".xlsb", ".xls"])
TEXTS = frozenset([".csv", ".tsv", ".txt", ".md", ".json"])
MOST_BYTES = 20_000_000
MOST_UNPACKED = 60_000_000  # 5,000 rows of 300 columns
SMALL_UNPACKED, MOST_RATIO = 5_000_000, 100  # workbooks of figures pack to a tenth or so
LOOK_BYTES = 30_000  # no table of results is longer that does not name rig and title


@dataclass(frozen=True, slots=True)
class SheetFile:
    """One table of a file: the name of its sheet, blank for text, and its rows."""

    name: str
    rows: list[list[str]]

    def where(self, path: Path) -> str:
        """The file and the sheet, for messages."""
        return f"{path.name}, {self.name}" if self.name else path.name


def read_sheets(path: Path) -> tuple[SheetFile, ...]:
    """The tables of a file that hold anything. Raises BadSheet or BadLog saying what is wrong."""
    if path.suffix.lower() in WORKBOOKS:
        return _workbook(path)
    log = load_text(path, MOST_BYTES, json_rows=True)
    return (SheetFile("", pasted_rows(log.utf8.decode(errors="replace"))),)


def is_table(path: Path) -> bool:
    """Whether a file holds a table of results, and not a log: told from its start."""
    if path.suffix.lower() in WORKBOOKS:
        return True
    if path.suffix.lower() not in TEXTS:
        return False
    try:
        with path.open("rb") as file:
            start = file.read(LOOK_BYTES + 1)
        if names_runs(start.partition(b"\n")[0].decode(errors="replace")):
            return True
        if len(start) > LOOK_BYTES or start[:2] == b"\x1f\x8b":
            return False
        text = load_text(path, json_rows=True).utf8.decode(errors="replace")
        return looks_like_results(pasted_rows(text))
    except BadShape:
        return text.count("\n") < FEW_LINES  # a longer one is a log, and read as one
    except (OSError, UserFixable):
        return False


FEW_LINES = 60
_MOMENT = re.compile(r"\d:\d\d|\d{4}-\d\d-\d\d")


def looks_like_results(rows: Sequence[Sequence[str]]) -> bool:
    """Whether rows of a file are a table of results and no log: heads in words, few rows alike."""
    try:
        sheet = understand(rows)
    except BadSheet:
        return False
    if not sheet.sound:
        return False
    if sheet.layout == LONG:
        return True
    if sheet.layout == SUMMARY:
        return any(len(one) > 1 and "average" in one for cell in sheet.sound for one in cell.passes)
    names = {*sheet.rigs, *sheet.cases}
    if {NO_RIG, NO_TITLE} <= names or NO_TITLE in names:
        return False
    in_words = all(any(letter.isalpha() for letter in name) for name in names)
    return (
        in_words
        and not any(_MOMENT.search(name) for name in names)
        and len(sheet.cells) * 2 >= len(rows) - 1
    )


def _workbook(path: Path) -> tuple[SheetFile, ...]:
    try:
        if path.stat().st_size > MOST_BYTES:
            raise BadSheet(path.name, "it is larger than 20 MB", "Keep only the results in it")
        sheets = limited(read_workbook, path, module="python_calamine")
    except (Undecodable, OSError) as error:
        what = f"it cannot be read ({error})"
        raise BadLog(path.name, what, "Save it again as .ods or .xlsx") from None
    except OverLimit as error:
        fix = "Delete cells far below or beside the results, or keep only these"
        raise BadSheet(path.name, error.what, fix) from None
    found = [SheetFile(name, rows) for name, rows in sheets if rows]
    if not found:
        raise BadSheet(path.name, "it holds no cells", "Choose another file")
    return tuple(found)


def read_workbook(path: Path) -> list[tuple[str, list[list[str]]]]:
    """The name and rows of every sheet, all cells at once: for a process with limits."""
    from python_calamine import load_workbook

    _refuse_bombs(path)
    book = load_workbook(str(path))
    found = []
    for name in book.sheet_names:
        sheet = book.get_sheet_by_name(name)
        if sheet.total_height > 20 * MOST_ROWS or sheet.total_width > 20 * MOST_COLUMNS:
            raise BadSheet(
                f"{path.name}, {name}",
                f"its cells reach row {sheet.total_height:,} and column {sheet.total_width:,}",
                "Delete cells far below or beside the results",
            )
        found.append((name, tidy([[_text(cell) for cell in row] for row in sheet.to_python()])))
    return found


def _refuse_bombs(path: Path) -> None:
    """BadSheet for a workbook whose parts, by their own account, are far larger than it looks."""
    if not is_zipfile(path):
        return
    with ZipFile(path) as book:
        unpacked = sum(part.file_size for part in book.infolist())
    is_bomb = unpacked > SMALL_UNPACKED and unpacked > MOST_RATIO * path.stat().st_size
    if unpacked > MOST_UNPACKED or is_bomb:
        what = f"it unpacks to {unpacked / 1e6:,.0f} MB, more than any table of results"
        raise BadSheet(path.name, what, "Keep only the results in it")


def _text(cell: object) -> str:
    """A cell as one would see it; a whole number without decimals."""
    if isinstance(cell, bool):
        return "yes" if cell else "no"
    if isinstance(cell, float):
        return str(int(cell)) if cell == int(cell) else f"{cell:.10g}"
    return "" if cell is None else str(cell)
