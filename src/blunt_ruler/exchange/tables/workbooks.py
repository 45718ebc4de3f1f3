"""OpenDocument workbooks of plain tables; the same rows give the same bytes."""

import io
import zipfile
from collections.abc import Iterable, Mapping, Sequence
from typing import TextIO

ZIP_EPOCH = (1980, 1, 1, 0, 0, 0)  # the earliest moment a zip can hold: no clock in a file


def workbook_of(tables: Mapping[str, Iterable[Sequence[object]]]) -> bytes:
    """A workbook with a sheet for each table, by name; numbers are true numbers."""
    from odf.element import Element
    from odf.opendocument import OpenDocumentSpreadsheet
    from odf.table import Table
    from odf.text import P

    # Names that the program met before, in whatever order, would stand in every file from then on.
    Element.namespaces.clear()
    book = OpenDocumentSpreadsheet()
    P()  # makes the names of text known to the file
    for name, rows in tables.items():
        table = Table(name=name)
        book.spreadsheet.addElement(table)
        if xml := "".join(map(_row_xml, rows)):
            table.childNodes.append(_Rows(xml))
    book._used_auto_styles = lambda _segments: []  # there are none, and every cell is looked at
    out = io.BytesIO()
    book.write(out)
    return _without_clock(out.getvalue())


class _Rows:
    """Rows of a table as XML: an object for each cell takes a second for a review."""

    def __init__(self, xml: str) -> None:
        self._xml = xml

    def toXml(self, _level: int, file: TextIO) -> None:  # noqa: N802
        """Write them, as odfpy asks its elements to."""
        file.write(self._xml)


def _row_xml(row: Sequence[object]) -> str:
    cells = "".join(map(_cell_xml, row))
    return f"<table:table-row>{cells}</table:table-row>" if cells else "<table:table-row/>"


def _cell_xml(cell: object) -> str:
    from odf.element import _sanitize  # as odfpy itself writes words

    if isinstance(cell, int | float):
        kind = f' office:value-type="float" office:value="{cell!r}"'
        words = repr(cell)
    elif cell:
        kind, words = ' office:value-type="string"', _sanitize(str(cell))
    else:
        return "<table:table-cell/>"
    return f"<table:table-cell{kind}><text:p>{words}</text:p></table:table-cell>"


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
