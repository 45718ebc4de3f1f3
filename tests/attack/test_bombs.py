"""Small files that grow when they are read: refused in about a second, in little memory, and
nothing but a process of its own may end of them.
"""

import gzip
import os
import subprocess
import sys
import time
import zipfile

import pytest

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.exchange.logs.text import load_text
from blunt_ruler.exchange.tables.files import read_sheets
from blunt_ruler.limited import OverLimit, Undecodable, limited

SHEET = "http://schemas.openxmlformats.org/spreadsheetml/2006/main"
PACKAGE = "http://schemas.openxmlformats.org/package/2006"
OFFICE = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
ODF = "urn:oasis:names:tc:opendocument:xmlns"
BLANK_STRINGS = f'<sst xmlns="{SHEET}"/>'


def xlsx(path, rows, strings=BLANK_STRINGS):
    """A workbook of one sheet, its parts written by hand (ECMA-376, from memory)."""
    kinds = f'<Types xmlns="{PACKAGE}/content-types"><Default Extension="xml" '
    kinds += 'ContentType="application/xml"/></Types>'
    links = f'<Relationships xmlns="{PACKAGE}/relationships">{{}}</Relationships>'
    link = f'<Relationship Id="{{}}" Type="{OFFICE}/{{}}" Target="{{}}"/>'
    book = f'<workbook xmlns="{SHEET}" xmlns:r="{OFFICE}"><sheets>'
    book += '<sheet name="Results" sheetId="1" r:id="r1"/></sheets></workbook>'
    parts = {
        "[Content_Types].xml": kinds,
        "_rels/.rels": links.format(link.format("r1", "officeDocument", "xl/workbook.xml")),
        "xl/workbook.xml": book,
        "xl/_rels/workbook.xml.rels": links.format(
            link.format("r1", "worksheet", "worksheets/s.xml")
            + link.format("r2", "sharedStrings", "sharedStrings.xml")
        ),
        "xl/worksheets/s.xml": f'<worksheet xmlns="{SHEET}"><sheetData>{rows}</sheetData>'
        "</worksheet>",
        "xl/sharedStrings.xml": strings,
    }
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as package:
        for name, body in parts.items():
            package.writestr(name, body)


def ods(path, rows):
    body = f'<office:document-content xmlns:office="{ODF}:office:1.0" '
    body += f'xmlns:table="{ODF}:table:1.0" xmlns:text="{ODF}:text:1.0"><office:body>'
    body += f'<office:spreadsheet><table:table table:name="R">{rows}</table:table>'
    body += "</office:spreadsheet></office:body></office:document-content>"
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as package:
        package.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        package.writestr("content.xml", body)


def cells(*places):
    return "".join(f'<row r="{row}"><c r="{c}{row}"><v>1</v></c></row>' for c, row in places)


def repeated(rows, columns):
    cell = '<table:table-cell office:value-type="float" office:value="1" '
    cell += f'table:number-columns-repeated="{columns}"/>'
    return f'<table:table-row table:number-rows-repeated="{rows}">{cell}</table:table-row>'


BOMBS = {
    "far.xlsx": lambda path: xlsx(path, cells(("A", 1), ("XFD", 1_048_576))),
    "tall.xlsx": lambda path: xlsx(path, cells(("A", 1), ("CV", 1_048_576))),
    "strings.xlsx": lambda path: xlsx(path, "", f'<sst xmlns="{SHEET}">{"<si><t/></si>" * 10**7}'),
    "many.xlsx": lambda path: xlsx(path, f"<row>{'<c><v>1</v></c>' * 1000}</row>" * 2000),
    "full.ods": lambda path: ods(path, repeated(1_048_576, 16_384)),
    "large.ods": lambda path: ods(path, repeated(20_000, 1000)),
}
TRY = """
import resource, sys, time
from pathlib import Path
from blunt_ruler.exchange.tables.files import read_sheets
if __name__ == "__main__":
    started = time.process_time()
    try:
        read_sheets(Path(sys.argv[1]))
    except Exception as error:
        print(type(error).__name__, error)
    taken = time.process_time() - started
    own = int(Path("/proc/self/status").read_text().split("VmHWM:")[1].split()[0])
    print(taken, max(own, resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss) / 1024)
"""


@pytest.mark.parametrize(
    "name",
    [
        pytest.param(name, marks=[pytest.mark.deep] if name in ("many.xlsx", "large.ods") else [])
        for name in BOMBS
    ],
)
def test_a_workbook_that_explodes_is_refused_in_little_time_and_memory(tmp_path, name):
    path = tmp_path / name
    BOMBS[name](path)
    assert path.stat().st_size < 1_000_000
    script = tmp_path / "try_it.py"
    script.write_text(TRY)
    done = subprocess.run(
        [sys.executable, str(script), str(path)], capture_output=True, text=True, check=True
    )
    said, figures = done.stdout.strip().splitlines()
    taken, most_mb = map(float, figures.split())
    assert said.startswith(("BadSheet", "BadLog")), said
    assert name in said
    assert done.stderr == ""
    assert most_mb < 400  # of it, 100 are a Python with what it imports
    assert taken < 10  # a second, where nothing else is going on


def test_a_sheet_with_a_stray_cell_further_down_is_read(tmp_path):
    for row in (9000, 90_000):
        xlsx(tmp_path / "stray.xlsx", cells(("A", 1), ("C", row)))
        (sheet,) = read_sheets(tmp_path / "stray.xlsx")
        assert [row for row in sheet.rows if any(row)] == [["1", "", ""], ["", "", "1"]]


@pytest.mark.parametrize("chunk", [b"frame time ms\n16.7\n" * 50_000, b"\0" * 10**6, b"A" * 10**6])
def test_a_log_that_explodes_is_refused(tmp_path, chunk):
    path = tmp_path / "log.csv.gz"
    with gzip.open(path, "wb", compresslevel=9) as file:
        for _ in range(150):
            file.write(chunk)
    with pytest.raises(UserFixable, match=r"unpacks to over 100 times|nothing but blanks"):
        load_text(path)


def test_a_gigabyte_of_nothing_is_refused_at_once(tmp_path):
    path = tmp_path / "nothing.csv"
    with path.open("wb") as file:
        file.truncate(10**9)
    started = time.process_time()
    with pytest.raises(UserFixable, match="the file is empty"):
        load_text(path)
    assert time.process_time() - started < 1.0


def abort():
    os.abort()


def sleep():
    time.sleep(60)


def take_all():
    return len(bytearray(10**12))


def panic():
    raise BaseException("as compiled parsers do")


def mend():
    raise UserFixable("row 3", "it is odd", "Mend it")


@pytest.mark.parametrize(
    ("work", "error", "says"),
    [
        (abort, OverLimit, "within 250 MB"),
        (sleep, OverLimit, "within 1\u202fs"),
        (take_all, OverLimit, "memory"),
        (panic, Undecodable, "as compiled parsers do"),
        (mend, UserFixable, "row 3: it is odd"),
    ],
)
def test_whatever_happens_to_a_limited_process_is_an_error_here(work, error, says):
    with pytest.raises(error, match=says):
        limited(work, module="json", seconds=1.0 if work is sleep else 30.0)
