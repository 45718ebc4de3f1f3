"""Workbooks of tables: what is put in comes out, and the same rows give the same bytes."""

import hashlib
import io
import subprocess
import sys

import pytest
from hypothesis import given
from hypothesis import strategies as st
from odf.opendocument import load
from odf.table import Table, TableCell, TableRow
from odf.teletype import extractText

from blunt_ruler.exchange.tables.workbooks import workbook_of

WORDS = st.text(
    st.characters(min_codepoint=32, blacklist_categories=("Cs", "Cn", "Cc")), max_size=8
)
CELLS = st.one_of(WORDS, st.none(), st.integers(-(10**9), 10**9), st.floats(allow_nan=False))


def read_back(raw):
    """Every cell as (kind, value or words), by odfpy's own reader."""
    tables = {}
    for table in load(io.BytesIO(raw)).spreadsheet.getElementsByType(Table):
        rows = []
        for row in table.getElementsByType(TableRow):
            cells = row.getElementsByType(TableCell)
            rows.append(
                [
                    (c.getAttribute("valuetype"), c.getAttribute("value"), extractText(c))
                    for c in cells
                ]
            )
        tables[table.getAttribute("name")] = rows
    return tables


def expected(cell):
    if isinstance(cell, int | float):
        return "float", repr(cell), repr(cell)
    return ("string", None, cell) if cell else (None, None, "")


@given(st.lists(st.lists(CELLS, max_size=4), max_size=4))
def test_every_cell_comes_back(rows):
    found = read_back(workbook_of({"A & B": rows}))["A & B"]
    wanted = [[expected(cell) for cell in row] for row in rows]
    squeezed = [[(k, v, " ".join(w.split())) for k, v, w in row] for row in wanted]
    assert [[(k, v, " ".join(w.split())) for k, v, w in row] for row in found] == squeezed


@pytest.mark.parametrize("before", ["", "workbook_of({'Other': [['x']]}); "])
def test_the_same_rows_give_the_same_bytes_whatever_was_written_before(before):
    code = (
        "import hashlib; from blunt_ruler.exchange.tables.workbooks import workbook_of; "
        f"{before}print(hashlib.sha256(workbook_of({{'T': [[1, 'a']]}})).hexdigest())"
    )
    said = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert said.stdout.strip() == hashlib.sha256(workbook_of({"T": [[1, "a"]]})).hexdigest()
