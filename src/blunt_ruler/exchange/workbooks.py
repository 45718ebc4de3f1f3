"""OpenDocument workbooks of plain tables; the same rows give the same bytes."""

import io
import zipfile
from collections.abc import Iterable, Mapping, Sequence

ZIP_EPOCH = (1980, 1, 1, 0, 0, 0)  # the earliest moment a zip can hold: no clock in a file


def workbook_of(tables: Mapping[str, Iterable[Sequence[object]]]) -> bytes:
    """A workbook with a sheet for each table, by name; numbers are true numbers."""
    from odf.opendocument import OpenDocumentSpreadsheet
    from odf.table import Table, TableCell, TableRow
    from odf.text import P

    book = OpenDocumentSpreadsheet()
    for name, rows in tables.items():
        table = Table(name=name)
        for row in rows:
            laid = TableRow()
            for cell in row:
                if isinstance(cell, int | float):
                    words = repr(cell)
                    made = TableCell(valuetype="float", value=words)
                else:
                    words = str(cell) if cell else ""
                    made = TableCell(valuetype="string") if words else TableCell()
                if words:
                    made.addElement(P(text=words))
                laid.addElement(made)
            table.addElement(laid)
        book.spreadsheet.addElement(table)
    out = io.BytesIO()
    book.write(out)
    return _without_clock(out.getvalue())


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
