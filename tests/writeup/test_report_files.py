"""Every format read back by another program, and its numbers compared with core."""

import csv
import hashlib
import html
import io
import json
import os
import re
import subprocess
import sys
import zipfile
from dataclasses import replace
from itertools import pairwise

import html5lib
import jsonschema
import polars
import pytest
from pypdf import PdfReader
from python_calamine import CalamineWorkbook

from blunt_ruler.core.analysis.analyse import analyse
from blunt_ruler.core.records.records import Run
from blunt_ruler.core.records.writeup_settings import SectionKey
from blunt_ruler.core.sentences import Figure
from blunt_ruler.core.writeup.bundle import records_of
from blunt_ruler.core.writeup.compose import compose
from blunt_ruler.core.writeup.document import Chart, Grid
from blunt_ruler.core.writeup.narration import narration
from blunt_ruler.core.writeup.trace import traced_figures
from blunt_ruler.exchange.documents.writeup.files import Format, write_files
from blunt_ruler.exchange.documents.writeup.page import html_page
from blunt_ruler.exchange.documents.writeup.text import markdown, narration_sheet
from blunt_ruler.files import CannotWrite
from blunt_ruler.logbook import Logbook, LogbookBusy
from blunt_ruler.logbook.bundle import write_bundle

XHTML = "{http://www.w3.org/1999/xhtml}"


@pytest.fixture(scope="module")
def report(demo_analysis, demo_edits, tmp_path_factory):
    """The whole report of the demo, written once."""
    folder = tmp_path_factory.mktemp("report")
    write_files(demo_analysis, demo_edits, folder)
    return folder


@pytest.fixture(scope="module")
def document(demo_analysis, demo_edits):
    return compose(demo_analysis, demo_edits)


@pytest.fixture(scope="module")
def page(report):
    parser = html5lib.HTMLParser(strict=True)  # raises at the first fault of the markup
    return parser.parse((report / "report.html").read_text("utf-8"))


def plain(words):
    """Words without the narrow spaces that some formats cannot hold."""
    return " ".join(words.replace("\u202f", " ").replace("\u00a0", " ").split())


# HTML


def test_the_page_is_valid_and_needs_nothing_from_outside(report, page):
    raw = (report / "report.html").read_text("utf-8")
    assert raw.startswith("<!DOCTYPE html>")
    tags = {one.tag for one in page.iter() if isinstance(one.tag, str)}
    assert f"{XHTML}script" not in tags
    for one in page.iter():
        for name in ("src", "href"):
            value = one.get(name) if isinstance(one.tag, str) else None
            assert value is None or value.startswith(("data:", "#")), value
    assert not re.search(r"url\((?!data:)", raw)
    ids = [one.get("id") for one in page.iter() if isinstance(one.tag, str) and one.get("id")]
    assert len(ids) == len(set(ids))


def test_every_figure_of_the_page_is_cores_own(page, demo_analysis, document):
    traced = {(one.figure, one.rig, one.case): one for one in traced_figures(demo_analysis)}
    found = [one for one in page.iter(f"{XHTML}span") if one.get("data-figure")]
    assert len(found) == len(document.figures)
    for one in found:
        figure = traced[one.get("data-figure"), one.get("data-rig"), one.get("data-case")]
        assert float(one.get("data-value")) == pytest.approx(figure.value)
        shown = plain(one.text)
        number = re.search(r"[−+±×]?\d[\d ]*\.?\d*", shown)
        assert number or shown == "level", shown


def test_the_rates_printed_are_the_rates_measured(page, demo_analysis):
    cells = {
        (one.get("data-rig"), one.get("data-case")): one.text
        for one in page.iter(f"{XHTML}span")
        if one.get("data-figure") == "average_fps"
    }
    assert len(cells) == len(demo_analysis.board.cells)
    for key, text in cells.items():
        assert text == f"{demo_analysis.board.cells[key].average_fps:.1f}"


def test_pictures_have_words_and_tables_have_heads(page):
    images = list(page.iter(f"{XHTML}img"))
    assert len(images) == 9
    assert all(len(one.get("alt")) > 40 for one in images)
    for table in page.iter(f"{XHTML}table"):
        assert table.find(f"{XHTML}caption") is not None
        assert all(one.get("scope") in ("col", "row") for one in table.iter(f"{XHTML}th"))


def test_names_cannot_break_the_page_out(demo_contents):
    nasty = '<script>alert("x")</script> & "quoted" |pipe| *star* _under_'
    rig = demo_contents.rigs["groyne-marram-12"].model_copy(update={"name": nasty})
    contents = demo_contents.with_records({"rigs": {rig.id: rig}})
    analysis = analyse(contents, contents.reviews["which-link"])
    document = compose(analysis)
    raw = html_page(document, dict.fromkeys(document.charts, "data:,"))
    parsed = html5lib.HTMLParser(strict=True).parse(raw)
    assert not list(parsed.iter(f"{XHTML}script"))
    assert html.escape("<script>") in raw
    text = markdown(document)
    rows = [
        line for line in text.splitlines() if line.startswith("| Tidewrack / coast run / 1080p")
    ]
    widths = {len(re.findall(r"(?<!\\)\|", line)) for line in rows if "High" in line}
    assert 7 in widths, "a pipe in a name makes no new column"
    assert "\\<script" in text


@pytest.mark.deep
def test_own_words_are_marked_in_every_text(demo_analysis, demo_edits, tmp_path):
    key = "verdict.rig.groyne-marram-12"
    computed = next(
        one.computed
        for section in compose(demo_analysis).sections
        for one in section.sentences
        if one.key == key
    )
    writeup = demo_analysis.review.writeup.said(key, "The cord is enough.", computed)
    review = demo_analysis.review.model_copy(update={"writeup": writeup})
    analysis = replace(demo_analysis, review=review)
    write_files(analysis, demo_edits, tmp_path, [Format.HTML, Format.MD, Format.PDF, Format.JSON])
    for name in ("report.html", "report.md"):
        text = plain((tmp_path / name).read_text("utf-8")).replace("’", "'")
        assert "The cord is enough." in text
        assert "(the reviewer's words; computed:" in text
    pdf = plain(" ".join(one.extract_text() for one in PdfReader(tmp_path / "report.pdf").pages))
    assert "The cord is enough. (the reviewer’s words; computed: Groyne Marram 12" in pdf
    said = json.loads((tmp_path / "report.json").read_text("utf-8"))["sections"][0]["sentences"]
    mine = next(one for one in said if one["key"] == key)
    assert (mine["own"], mine["says"], mine["computed"]) == (True, "The cord is enough.", computed)


# PDF


def test_the_pdf_says_what_the_page_says(report, document):
    reader = PdfReader(report / "report.pdf")
    text = plain(" ".join(one.extract_text() for one in reader.pages))
    for section in document.sections:
        assert section.title in text
        for one in section.sentences:
            assert plain(one.words) in text, one.key
    for number, one in enumerate(reader.pages, start=1):
        assert f"page {number}" in one.extract_text()
    assert reader.metadata.title == "Which link"
    assert "/CreationDate" not in reader.metadata or "2000" in reader.metadata["/CreationDate"]


def test_the_pdf_carries_its_own_letters_and_all_charts(report, document):
    reader = PdfReader(report / "report.pdf")
    fonts, words = set(), ""
    for one in reader.pages:
        fonts |= {str(font["/BaseFont"]) for font in one["/Resources"]["/Font"].values()}
        words += one.extract_text()
    # Charts are lines and words of the page, not pictures: their titles can be searched for.
    charts = [
        block for one in document.sections for block in one.blocks if isinstance(block, Chart)
    ]
    assert charts and all(words.count(block.title) >= 2 for block in charts), "title and caption"
    assert any("Barlow" in font for font in fonts)


@pytest.mark.deep
def test_names_in_other_letters_are_printed_not_boxed(demo_contents, tmp_path, recwarn):
    name = "Ряд → ≥ $x$ ^_{2} 机"
    rig = demo_contents.rigs["groyne-marram-12"].model_copy(update={"name": name})
    contents = demo_contents.with_records({"rigs": {rig.id: rig}})
    analysis = analyse(contents, contents.reviews["which-link"])
    write_files(analysis, (), tmp_path, [Format.PDF, Format.SVG])
    text = " ".join(one.extract_text() for one in PdfReader(tmp_path / "report.pdf").pages)
    assert "Ряд" in text
    assert "→ ≥ $x$" in plain(text)
    drawn = (tmp_path / "charts" / "ruler.svg").read_text("utf-8")
    assert "DejaVuSans" in drawn, "the letter is drawn in the font that has it"
    assert not [one for one in recwarn if "Glyph" in str(one.message)]


# Tables


def test_the_workbook_holds_true_numbers(report, document):
    book = CalamineWorkbook.from_path(report / "report.ods")
    grids = [
        block
        for section in document.sections
        for block in section.blocks
        if isinstance(block, Grid)
    ]
    assert len(book.sheet_names) == len(grids) + 1
    for name, grid in zip(book.sheet_names, grids, strict=False):
        rows = book.get_sheet_by_name(name).to_python()
        assert rows[0][0] == grid.says
        assert tuple(rows[1][: len(grid.heads)]) == grid.heads
        for read, row in zip(rows[2:], grid.rows, strict=True):
            for cell, value in zip(row, read, strict=False):
                if isinstance(cell, Figure):
                    assert value == pytest.approx(cell.value)


def test_the_workbook_and_the_csv_hold_the_same_figures(report, demo_analysis):
    figures = traced_figures(demo_analysis)
    sheet = CalamineWorkbook.from_path(report / "report.ods").get_sheet_by_name("figures")
    rows = list(csv.DictReader(io.StringIO((report / "figures.csv").read_text("utf-8"))))
    read = sheet.to_python()
    assert len(rows) == len(figures) == len(read) - 1
    for row, line, one in zip(rows, read[1:], figures, strict=True):
        assert row["figure"] == one.figure == line[0]
        if one.value is None:
            assert (row["value"], line[3]) == ("", "")
        else:
            assert float(row["value"]) == one.value
            assert line[3] == pytest.approx(one.value)
        assert row["run_ids"].split() == list(one.runs)


def test_other_tools_read_the_csv_as_it_stands(report, demo_contents):
    table = polars.read_csv(report / "figures.csv", infer_schema_length=None)
    rates = table.filter(polars.col("figure") == "average_fps")
    assert rates.height == 50
    assert rates["value"].dtype == polars.Float64
    for ids in rates["run_ids"]:
        assert all(one in demo_contents.runs for one in ids.split())
    unknown = table.filter(polars.col("value").is_null() & polars.col("missing").is_not_null())
    assert "the weight of Breakwater" in unknown["missing"].to_list()


# JSON


def test_the_json_holds_to_its_schema(report):
    schema = json.loads((report / "report.schema.json").read_text("utf-8"))
    value = json.loads((report / "report.json").read_text("utf-8"))
    jsonschema.Draft202012Validator.check_schema(schema)
    jsonschema.validate(value, schema)
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate({**value, "sections": "none"}, schema)


def test_the_jsons_sentences_point_at_its_figures(report):
    value = json.loads((report / "report.json").read_text("utf-8"))
    known = {f"{one['figure']}|{one['rig']}|{one['case']}" for one in value["figures"]}
    said = [one for section in value["sections"] for one in section["sentences"]]
    assert sum(len(one["figures"]) for one in said) > 20
    for one in said:
        assert set(one["figures"]) <= known
    assert [section["key"] for section in value["sections"]] == [
        str(key)
        for key in SectionKey
        if key not in (SectionKey.FOR_AND_AGAINST, SectionKey.WENT_WRONG)  # nothing to say
    ]
    assert value["format"] == "blunt-ruler-report-1"


# Markdown and narration


def test_markdown_tables_are_as_wide_as_their_heads(report):
    lines = (report / "report.md").read_text("utf-8").splitlines()
    for above, rule in pairwise(lines):
        if rule.startswith("|---"):
            assert above.count("|") == rule.count("|")
    assert "![" in "\n".join(lines)
    assert lines[0] == "# Which link"


def test_the_narration_sheet_has_a_box_for_each_line(report, demo_analysis):
    text = (report / "narration.md").read_text("utf-8")
    cues = narration(demo_analysis)
    assert text.count("- [ ] ") == sum(len(one.lines) for one in cues)
    assert text == narration_sheet("Which link", cues)


# The same inputs, the same bytes


@pytest.mark.deep
def test_another_process_writes_the_same_bytes(report, demo_copy, tmp_path):
    out = tmp_path / "again"
    again = subprocess.run(
        [sys.executable, "-m", "blunt_ruler", "report", str(demo_copy), "--out", str(out)],
        env={**os.environ, "PYTHONHASHSEED": "7", "TZ": "Pacific/Auckland"},
        capture_output=True,
        text=True,
        check=True,
    )
    names = [path.relative_to(report) for path in report.rglob("*") if path.is_file()]
    assert {path.relative_to(out) for path in out.rglob("*") if path.is_file()} == {*names}
    assert len(names) > 30
    assert len(again.stdout.splitlines()) == len(names)
    for name in names:
        assert (out / name).read_bytes() == (report / name).read_bytes(), name
    with zipfile.ZipFile(report / "report.ods") as package:
        assert package.testzip() is None
        assert package.infolist()[0].filename == "mimetype"


def test_only_what_was_asked_for_is_written_and_a_bad_folder_is_said(
    demo_analysis, demo_edits, tmp_path
):
    written = write_files(demo_analysis, demo_edits, tmp_path / "a", [Format.MD])
    assert sorted(path.name for path in written) == ["narration.md", "report.md"]
    blocked = tmp_path / "file"
    blocked.write_text("in the way")
    with pytest.raises(CannotWrite, match="cannot be written"):
        write_files(demo_analysis, demo_edits, blocked, [Format.MD])


# Bundle


@pytest.fixture(scope="module")
def bundle(demo_copy, tmp_path_factory):
    target = tmp_path_factory.mktemp("bundle") / "bundle.blunt"
    return write_bundle(demo_copy, "which-link", target)


def test_a_bundle_opens_as_a_logbook_with_the_same_figures(bundle, demo_analysis):
    path, _ = bundle
    with Logbook.open(path) as book:
        contents = book.contents()
        assert list(contents.reviews) == ["which-link"]
        again = analyse(contents, contents.reviews["which-link"])
        assert again.board.cells == demo_analysis.board.cells
        assert again.board.totals == demo_analysis.board.totals
        assert [row.figures for row in again.worth.rows] == [
            row.figures for row in demo_analysis.worth.rows
        ]
        for run in contents.runs.values():
            if run.trace_sha256:
                trace = book.trace(run.trace_sha256)  # raises where it is not what its name says
                assert trace.frame_times_ms.size == run.figures.frames


def test_a_bundle_leaves_other_reviews_behind(bundle, demo_contents):
    review = demo_contents.reviews["which-link"]
    records = records_of(demo_contents, review)
    runs = [one for one in records if isinstance(one, Run)]
    assert len(runs) == 157
    assert {one.rig_id for one in runs} == {seat.rig_id for seat in review.seats}
    assert "m16" not in {one.id for one in records}
    assert len({(type(one), one.id) for one in records}) == len(records)


def test_the_hashes_are_those_of_the_file_and_its_traces(bundle):
    path, hashes = bundle
    lines = [line.split("  ") for line in hashes.read_text("utf-8").splitlines()]
    assert lines[0] == [hashlib.sha256(path.read_bytes()).hexdigest(), "bundle.blunt"]
    with Logbook.open(path) as book:
        for sha256, name in lines[1:]:
            assert name == "trace"
            assert book.trace(sha256).frame_times_ms.size > 0
        stored = {run.trace_sha256 for run in book.contents().runs.values() if run.trace_sha256}
    assert {line[0] for line in lines[1:]} == stored


def test_the_same_review_gives_the_same_bundle(bundle, demo_copy, tmp_path):
    path, _ = bundle
    again, _ = write_bundle(demo_copy, "which-link", tmp_path / "bundle.blunt")
    assert again.read_bytes() == path.read_bytes()
    assert sorted(one.name for one in tmp_path.iterdir()) == ["bundle.blunt", "bundle.sha256.txt"]


def test_a_bundle_never_replaces_the_logbook_itself(demo_book):
    before = demo_book.read_bytes()
    with pytest.raises(LogbookBusy, match="that is the logbook itself"):
        write_bundle(demo_book, "which-link", demo_book)
    assert demo_book.read_bytes() == before
    blocked = demo_book.parent / "file"
    blocked.write_text("in the way")
    with pytest.raises(LogbookBusy, match="cannot be written"):
        write_bundle(demo_book, "which-link", blocked / "bundle.blunt")
