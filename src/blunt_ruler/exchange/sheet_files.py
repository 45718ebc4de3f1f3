"""Tables of results in files: workbooks (.ods, .xlsx) and delimited text, as rows of text."""

from dataclasses import dataclass
from pathlib import Path

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.runs.sheet_cells import MOST_COLUMNS, MOST_ROWS, BadSheet, pasted_rows, tidy
from blunt_ruler.core.runs.sheets import looks_like_results, names_runs
from blunt_ruler.exchange.log_text import BadLog, load_text

WORKBOOKS = frozenset([".ods", ".xlsx", ".xlsm", ".xlsb", ".xls"])
TEXTS = frozenset([".csv", ".tsv", ".txt", ".md"])
MOST_BYTES = 20_000_000
LOOK_BYTES = 30_000  # no table of results is longer that does not name rig and title


@dataclass(frozen=True, slots=True)
class SheetFile:
    """One table of a file: the name of its sheet, blank for text, and its rows."""

    name: str
    rows: list[list[str]]


def read_sheets(path: Path) -> tuple[SheetFile, ...]:
    """The tables of a file that hold anything. Raises BadSheet or BadLog saying what is wrong."""
    if path.suffix.lower() in WORKBOOKS:
        return _workbook(path)
    log = load_text(path)
    if len(log.utf8) > MOST_BYTES:
        raise BadSheet(path.name, "it is too large for a table of results", "Import it as a log")
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
        return looks_like_results(pasted_rows(load_text(path).utf8.decode(errors="replace")))
    except (OSError, UserFixable):
        return False


def _workbook(path: Path) -> tuple[SheetFile, ...]:
    from python_calamine import CalamineError, load_workbook

    try:
        if path.stat().st_size > MOST_BYTES:
            raise BadSheet(path.name, "it is larger than 20 MB", "Keep only the results in it")
        book = load_workbook(str(path))
        found = []
        for name in book.sheet_names:
            sheet = book.get_sheet_by_name(name)
            if sheet.total_height > 20 * MOST_ROWS or sheet.total_width > 20 * MOST_COLUMNS:
                raise BadSheet(f"{path.name}, {name}", "it is too large", "Keep only the results")
            rows = tidy([[_text(cell) for cell in row] for row in sheet.to_python()])
            if rows:
                found.append(SheetFile(name, rows))
    except (CalamineError, OSError, ValueError) as error:
        what = f"it cannot be read ({error})"
        raise BadLog(path.name, what, "Save it again as .ods or .xlsx") from None
    if not found:
        raise BadSheet(path.name, "it holds no cells", "Choose another file")
    return tuple(found)


def _text(cell: object) -> str:
    """A cell as one would see it; a whole number without decimals."""
    if isinstance(cell, bool):
        return "yes" if cell else "no"
    if isinstance(cell, float):
        return str(int(cell)) if cell == int(cell) else f"{cell:.10g}"
    return "" if cell is None else str(cell)
