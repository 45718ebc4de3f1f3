"""`blunt-ruler type`, kinds in `compare --json`, the notation in a table, as scripts use them."""

import pytest

from blunt_ruler.logbook import Logbook

CASE = "Tidewrack / coast run / 1080p / High"


@pytest.fixture
def typed(run, tmp_path):
    """A logbook into which some cells were typed."""
    path = tmp_path / "typed.blunt"

    def typed(rig, entry, case=CASE, *options):
        return run("type", path, entry, "--rig", rig, "--case", case, *options)

    typed.path = path
    return typed


def cells(value):
    return {(rig["rig"], cell["case"]): cell for rig in value["rigs"] for cell in rig["cases"]}


def test_entries_make_a_logbook_and_say_what_was_understood(typed, as_json):
    code, out, err = typed("Built-in", "27")
    assert (code, err) == (0, "")
    assert out.strip() == f"Built-in, {CASE}: 1 pass: 27"
    typed("Sluice", "69.5/57 70,1 ~68")
    typed("Tower", "(104 108 106)")
    value = as_json("compare", typed.path)
    assert (value["base"], value["reference"]) == ("Built-in", "Tower")
    found = cells(value)
    assert found["Built-in", CASE]["kind"] == "eye"
    assert found["Sluice", CASE]["kind"] == "about"
    assert found["Sluice", CASE]["runs"] == 3
    for cell in found.values():
        assert cell["average_low_95"] < cell["average_fps"] < cell["average_high_95"]


def test_what_is_said_is_what_the_cell_holds_then(typed):
    assert typed("Built-in", "4225", "Lattice", "--score")[1].endswith("1 score: 4225\n")
    assert typed("Sluice", "9100 9200", "Lattice")[1].endswith("2 scores: 9100, 9200\n")
    assert typed("Sluice", "9100 9200", "Lattice")[1].endswith("it says so already\n")
    assert typed("Sluice", "9100 9300", "Lattice")[1].endswith("2 scores: 9100, 9300\n")
    assert "was typed here is removed" in typed("Sluice", "", "Lattice")[1]


@pytest.mark.parametrize(
    ("entry", "kind", "low", "high"),
    [
        ("45-50", "range", 45.0, 50.0),
        ("~60", "about", 57.0, 63.0),
        ("(58 61 63 55)", "eye", 53.7, 64.8),
        ("60", "eye", 58.2, 61.8),
    ],
)
def test_an_interval_holds_the_reading_and_the_spread(typed, as_json, entry, kind, low, high):
    typed("Built-in", "20")
    typed("Sluice", entry)
    cell = cells(as_json("compare", typed.path, "--base", "Built-in"))["Sluice", CASE]
    assert cell["kind"] == kind
    assert cell["average_low_95"] < low + 0.05
    assert cell["average_high_95"] > high - 0.05
    assert cell["average_high_95"] - cell["average_low_95"] < 2.0 * (high - low) + 3.0


def test_bounds_have_an_open_end(typed, as_json):
    typed("Built-in", "<30")
    typed("Sluice", "200+")
    value = as_json("compare", typed.path, "--base", "Built-in")
    found = cells(value)
    assert found["Sluice", CASE]["kind"] == "at_least"
    assert found["Sluice", CASE]["average_high_95"] is None
    assert found["Sluice", CASE]["gain_bound"] == "at least"
    assert found["Built-in", CASE]["kind"] == "at_most"
    assert found["Built-in", CASE]["average_low_95"] is None
    sluice = next(rig for rig in value["rigs"] if rig["rig"] == "Sluice")
    assert (sluice["mean_gain_bound"], sluice["mean_gain_high"]) == ("at least", None)
    assert sluice["kinds"] == ["at_least", "at_most"]


def test_a_correction_takes_the_place_and_add_stands_beside(typed):
    typed("Sluice", "60")
    typed("Sluice", "61")
    typed("Sluice", "63", CASE, "--add")
    typed("Sluice", "no: hung", "Skitter / 1080p")
    typed("Sluice", "4225", "Lattice", "--score")
    with Logbook.open(typed.path) as book:
        runs = list(book.contents().runs.values())
    assert [run.typed.average_fps for run in runs[:2]] == [61.0, 63.0]
    assert runs[2].outcome == "hung"
    assert runs[3].typed.score == 4225.0


@pytest.mark.parametrize(
    ("entry", "says"), [("6x", "not understood"), ("1,234", "1.234 or 1234"), ("57/69", "above")]
)
def test_what_cannot_be_understood_is_one_line_and_writes_nothing(typed, entry, says):
    code, out, err = typed("Sluice", entry)
    assert (code, out) == (2, "")
    assert says in err
    assert not typed.path.exists()


def test_a_table_holds_the_notation(as_json, tmp_path):
    table = tmp_path / "results.csv"
    table.write_text(
        "rig;title;average_fps;low_1_fps;frames;duration_s\n"
        "A;Tidewrack;27;20;;\nB;Tidewrack;45-50;~40;;\n"
        "A;Skitter;60,5;;3630;60\nB;Skitter;200+;;;\n"
        "A;Lantern;no: hung;;;\nB;Lantern;(58 61)/40 62;;;\n"
    )
    found = cells(as_json("compare", "--table", table, "--base", "A"))
    kinds = {key: cell["kind"] for key, cell in found.items()}
    assert kinds == {
        ("A", "Tidewrack"): "eye",
        ("B", "Tidewrack"): "range",
        ("A", "Skitter"): "log",
        ("B", "Skitter"): "at_least",
        ("B", "Lantern"): "eye",
    }
    assert found["B", "Lantern"]["runs"] == 2
    assert found["B", "Tidewrack"]["low_1_fps"] == 40.0


def test_a_wrong_cell_of_a_table_is_named(run, tmp_path):
    table = tmp_path / "results.csv"
    table.write_text("rig,title,average_fps\nA,Tidewrack,27\nB,Tidewrack,six\n")
    code, _, err = run("compare", "--table", table, "--base", "A")
    assert code == 2
    assert "row 3" in err
    assert "six" in err


def test_what_did_not_run_and_how_figures_were_read_stand_in_the_report(typed, run, tmp_path):
    typed("Built-in", "27")
    typed("Sluice", "45-50 ~48")
    typed("Sluice", "no: artefacts after a minute", "Skitter / 1080p")
    out = tmp_path / "report"
    code, _, _ = run("report", typed.path, "--out", out, "--format", "md")
    assert code == 0
    text = (out / "report.md").read_text("utf-8")
    assert "Skitter / 1080p did not run on Sluice: artefacts after a minute." in text
    assert "How it was read: 1 pass off the screen once, 1 pass as seen between" in text
    assert "The method is not noted for any case" in text
    assert "scripted route" not in text
    assert "≈×1.8" in text
