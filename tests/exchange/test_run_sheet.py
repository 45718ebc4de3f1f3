"""The run sheet read back by other programs: PDF text, HTML, CSV, ODS, and the calendar."""

import csv
import io
import zipfile
from datetime import datetime
from html.parser import HTMLParser

import pytest
from icalendar import Calendar
from odf.opendocument import load
from odf.table import TableCell, TableRow
from pypdf import PdfReader

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.plan.bench_order import ItemKind
from blunt_ruler.core.plan.bench_plan import derive_bench_plan
from blunt_ruler.core.records.records import Case
from blunt_ruler.exchange.documents.run_sheet import settings_words, sheet_rows, write_sheet
from blunt_ruler.exchange.tables.workbooks import ZIP_EPOCH


@pytest.fixture(scope="module")
def planned(demo_contents):
    contents = demo_contents
    review = contents.reviews["which-link"]
    return contents, review, derive_bench_plan(contents, review, hours_h=3.0)


@pytest.fixture
def sheet(planned, tmp_path):
    contents, review, worked = planned

    def sheet(ending, page="A4"):
        path = tmp_path / f"sheet.{ending}"
        return write_sheet(contents, review, worked.table, path, "2026-10-05", page)

    return sheet


def test_the_pdf_reads_back_with_cautions_steps_and_page_numbers(planned, sheet):
    reader = PdfReader(sheet("pdf"))
    pages = [page.extract_text() for page in reader.pages]
    text = " ".join(" ".join(pages).split())
    assert len(pages) > 1
    for number, page in enumerate(pages, start=1):
        assert f"page {number}" in page
        assert "Which link, 2026-10-05" in page
    assert "Set up Workbench Marram 12" in text
    assert "Caution: Switch the supply off and unplug it" in text
    assert "Plug the monitor into the Marram 12, never into the host." in text
    assert "licensed electrician" in text
    passes = [t for day in planned[2].table.days for t in day.items if t.item.kind is ItemKind.PASS]
    assert text.count("pass 4") + text.count("pass 5") == len(passes)


@pytest.mark.parametrize(("page", "points"), [("A4", (595, 842)), ("Letter", (612, 792))])
def test_the_pdf_has_the_page_it_is_asked_for(sheet, page, points):
    box = PdfReader(sheet("pdf", page)).pages[0].mediabox
    assert (round(float(box.width)), round(float(box.height))) == points


class _Tags(HTMLParser):
    def __init__(self):
        super().__init__()
        self.open, self.text = [], []

    def handle_starttag(self, tag, attrs):
        if tag not in ("meta", "br"):
            self.open.append(tag)

    def handle_endtag(self, tag):
        assert self.open.pop() == tag

    def handle_data(self, data):
        self.text.append(data)


def test_the_html_is_well_formed_and_says_its_page(sheet):
    html = sheet("html", "Letter").read_text("utf-8")
    parser = _Tags()
    parser.feed(html)
    assert parser.open == []
    assert "@page{size:Letter" in html
    assert "scripted route, 1080p, High" in "".join(parser.text)


def test_csv_and_ods_hold_the_same_table(planned, sheet):
    with sheet("csv").open(newline="") as file:
        rows = list(csv.reader(file))
    assert rows[0][:4] == ["day", "starts", "minutes", "kind"]
    assert rows[0][-3:] == ["average", "1 % low", "notes"]
    items = [timed for day in planned[2].table.days for timed in day.items]
    assert len(rows) == len(items) + 1
    document = load(io.BytesIO(sheet("ods").read_bytes()))
    table = [
        ["".join(str(p) for p in cell.childNodes) for cell in row.getElementsByType(TableCell)]
        for row in document.getElementsByType(TableRow)
    ]
    assert table == rows


def test_the_workbook_holds_no_clock(sheet):
    with zipfile.ZipFile(sheet("ods")) as package:
        assert {entry.date_time for entry in package.infolist()} == {ZIP_EPOCH}


def test_the_calendar_reads_back_as_the_bench_days(planned, sheet):
    calendar = Calendar.from_ical(sheet("ics").read_bytes())
    events = calendar.walk("VEVENT")
    table = planned[2].table
    assert events[0].decoded("dtstart") == datetime.fromisoformat(table.days[0].starts)
    assert events[-1].decoded("dtend") <= datetime.fromisoformat(table.finishes)
    assert str(events[0]["summary"]) == "Bench: Workbench Marram 12"
    assert len({str(event["uid"]) for event in events}) == len(events)


def test_the_same_plan_gives_the_same_bytes(sheet):
    for ending in ("pdf", "html", "csv", "ics"):
        assert sheet(ending).read_bytes() == sheet(ending).read_bytes()


def test_a_name_that_says_no_format_is_refused(sheet):
    with pytest.raises(UserFixable, match=r"End the name in \.csv"):
        sheet("doc")
    with pytest.raises(UserFixable, match="no size “A5”"):
        sheet("pdf", "A5")


def test_settings_are_written_out():
    case = Case(
        id="c",
        title_id="t",
        method="scripted route",
        resolution="1440p",
        preset="High",
        upscaler="quality",
        ray_tracing="on",
        frame_generation="off",
        frame_cap_fps=120,
        graphics_api="one",
    )
    assert settings_words(case, typed=True) == (
        "scripted route, 1440p, High, upscaler quality, ray tracing on, frame generation off, "
        "API one, cap 120 fps, type the figures"
    )


def test_a_swap_carries_each_caution_once(planned):
    contents, _, worked = planned
    rows = [row for row in sheet_rows(contents, worked.table) if row.steps]
    for row in rows:
        cautions = [line for line in row.steps if line.startswith("Caution")]
        assert len(cautions) == len(set(cautions))
