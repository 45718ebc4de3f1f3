"""Summaries that built-in benchmarks and overlays write: typed figures, and whose is asked."""

import json

import pytest

from blunt_ruler.core.measure.kinds import Kind
from blunt_ruler.core.runs.entry import parse_entry
from blunt_ruler.exchange.given_files import sorted_out
from blunt_ruler.exchange.tables.files import read_sheets
from blunt_ruler.exchange.tables.reading import understand
from blunt_ruler.exchange.tables.sheet import SUMMARY
from blunt_ruler.logbook import Logbook

# Common practice, no source; the figures are made up.
SUMMARIES = {
    "lines of text": "Average framerate  :   69.5 FPS\nMinimum framerate  :   31.0 FPS\n"
    "Maximum framerate  :  120.0 FPS\n1% low framerate   :   57.0 FPS\n",
    "lines with colons": "Average FPS: 69.5\nMin FPS: 31.0\nMax FPS: 120.0\n1% Low: 57.0\n"
    "Frames: 8000\n",
    "metric and value": "Metric,Value\nAverage,69.5\nMinimum FPS,31\nMaximum FPS,120\n1% low,57\n",
    "one row": "Average FPS,Min FPS,Max FPS,1% Low\n69.5,31,120,57\n",
    "JSON": json.dumps({"average_fps": 69.5, "min_fps": 31, "max_fps": 120, "low_1_fps": 57}),
}


@pytest.mark.parametrize("how", SUMMARIES)
def test_a_summary_is_typed_figures_of_a_rig_and_case_that_are_asked_for(tmp_path, how):
    path = tmp_path / ("summary.json" if how == "JSON" else "summary.txt")
    path.write_text(SUMMARIES[how])
    assert sorted_out([path]).tables == (path,)
    (part,) = read_sheets(path)
    sheet = understand(part.rows)
    assert sheet.layout == SUMMARY
    assert sheet.kind is Kind.SUMMARY
    assert [one.about for one in sheet.asked] == ["rig", "case"]
    told = understand(part.rows, answers={"rig": "Tower", "case": "Skitter / 1080p"})
    assert told.is_sure
    (cell,) = told.cells
    assert (cell.rig, cell.case) == ("Tower", "Skitter / 1080p")
    (one,) = parse_entry(cell.text).passes
    read = (one.average_fps, one.low_1_fps, one.minimum_fps, one.maximum_fps)
    assert read == (69.5, 57, 31, 120)


def test_a_summary_of_several_passes_gives_each(tmp_path):
    text = "Run,Average,1% Low\n1,69.5,57\n2,70.1,58\n3,68.9,56\n"
    sheet = understand([line.split(",") for line in text.splitlines()],
                       answers={"rig": "Tower", "case": "Skitter"})  # fmt: skip
    assert [cell.text for cell in sheet.cells] == ["69.5/57 70.1/58 68.9/56"]


def test_a_summary_is_imported_with_its_kind(tmp_path, run):
    path, book = tmp_path / "summary.txt", tmp_path / "new.blunt"
    path.write_text(SUMMARIES["lines with colons"])
    code, _, err = run("import", book, path)
    assert code == 2
    assert "Which rig are these figures of?" in err
    assert run("import", book, path, "--rig", "Tower", "--case", "Skitter / 1080p")[0] == 0
    with Logbook.reading(book) as opened:
        (kept,) = opened.contents().runs.values()
    assert kept.typed.average_how.kind is Kind.SUMMARY
    assert kept.typed.average_how.error(69.5)[0] < 1e-6, "a machine counted it: rounding alone"
