"""The figures of a write-up as tidy CSV and as an OpenDocument workbook."""

import csv
import io
import zipfile
from collections.abc import Iterable, Sequence

from blunt_ruler.core.models import Contents
from blunt_ruler.core.said import Figure, plain
from blunt_ruler.core.writeup.document import Document, Grid
from blunt_ruler.core.writeup.trace import TracedFigure

FIGURE_COLUMNS = (
    "figure",
    "rig",
    "case",
    "value",
    "unit",
    "base",
    "low_95",
    "high_95",
    "runs",
    "missing",
    "rig_id",
    "case_id",
    "run_ids",
)
ZIP_EPOCH = (1980, 1, 1, 0, 0, 0)  # the earliest moment a zip can hold: no clock in a report


def figure_rows(
    contents: Contents, figures: Iterable[TracedFigure]
) -> list[tuple[str | float | int | None, ...]]:
    """One row for each figure, in the order of FIGURE_COLUMNS."""
    return [
        (
            one.figure,
            contents.rigs[one.rig].name if one.rig in contents.rigs else one.rig,
            contents.case_label(one.case) if one.case in contents.cases else one.case,
            one.value,
            one.unit,
            one.base,
            one.low,
            one.high,
            len(one.runs),
            "; ".join(one.missing),
            one.rig,
            one.case,
            " ".join(one.runs),
        )
        for one in figures
    ]


def figures_csv(contents: Contents, figures: Iterable[TracedFigure]) -> str:
    """Every figure with its unit, base, bounds and the runs behind it; shares are of 1."""
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(FIGURE_COLUMNS)
    for row in figure_rows(contents, figures):
        writer.writerow(["" if cell is None else cell for cell in row])
    return out.getvalue()


def workbook(contents: Contents, document: Document, figures: Sequence[TracedFigure]) -> bytes:
    """Every table of the write-up as a sheet with true numbers, and all figures on the last."""
    from odf.opendocument import OpenDocumentSpreadsheet
    from odf.table import Table

    book = OpenDocumentSpreadsheet()
    grids = [
        (section.title, block)
        for section in document.sections
        for block in section.blocks
        if isinstance(block, Grid)
    ]
    for number, (title, grid) in enumerate(grids, start=1):
        table = Table(name=f"{number} {title}")
        rows: list[Sequence[object]] = [(grid.says,), grid.heads]
        rows += [
            [cell.value if isinstance(cell, Figure) else plain([cell]) for cell in row]
            for row in grid.rows
        ]
        _fill(table, rows)
        book.spreadsheet.addElement(table)
    table = Table(name="figures")
    _fill(table, [FIGURE_COLUMNS, *figure_rows(contents, figures)])
    book.spreadsheet.addElement(table)
    out = io.BytesIO()
    book.write(out)
    return _without_clock(out.getvalue())


def _fill(table: object, rows: Iterable[Sequence[object]]) -> None:
    from odf.table import TableCell, TableRow
    from odf.text import P

    for row in rows:
        laid = TableRow()
        for cell in row:
            if isinstance(cell, int | float):
                laid.addElement(TableCell(valuetype="float", value=repr(cell)))
                continue
            made = TableCell(valuetype="string") if cell else TableCell()
            if cell:
                made.addElement(P(text=str(cell)))
            laid.addElement(made)
        table.addElement(laid)  # type: ignore[attr-defined]


def _without_clock(raw: bytes) -> bytes:
    """The same package with every entry at one moment, so that it does not change with time."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(raw)) as before, zipfile.ZipFile(out, "w") as after:
        for entry in before.infolist():
            made = zipfile.ZipInfo(entry.filename, ZIP_EPOCH)
            made.compress_type = entry.compress_type
            made.external_attr = entry.external_attr
            after.writestr(made, before.read(entry))
    return out.getvalue()
