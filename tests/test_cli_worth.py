"""The commands worth and report: keys for scripts, files for readers, one line for bad input."""

import json

import pytest

from blunt_ruler.core.records.pricing import Price
from blunt_ruler.core.worth.figures import FIGURES
from blunt_ruler.logbook import Logbook


def test_worth_gives_every_figure_by_its_name(as_json, demo_copy, demo_analysis):
    value = as_json("worth", demo_copy)
    keys = {"review", "currency", "cases", "rigs", "alternatives", "missing", "verdict", "says"}
    assert set(value) == keys | {"format_version"}
    assert (value["review"], value["currency"]) == ("Which link", "EUR")
    assert len(value["cases"]) == 10
    for read, row in zip(value["rigs"], demo_analysis.worth.rows, strict=True):
        assert read["rig"] == row.column.name
        assert set(read["figures"]) == set(map(str, FIGURES))
        for figure, answer in row.figures.items():
            assert read["figures"][str(figure)] == answer.value
            assert read["missing"].get(str(figure), []) == list(answer.missing)
        assert read["efficient"] == row.efficient
    groyne = next(one for one in value["rigs"] if one["rig"] == "Groyne Marram 12")
    assert [one["part"] for one in groyne["parts"]] == [
        "Quillon 24",
        "Marram 12",
        "Groyne",
        "PCIe 4.0 x4 cord",
        "Monitor, 1080p",
    ]
    assert groyne["parts"][0]["owned"] is True
    assert groyne["price_may_rise_by"] == pytest.approx(0.101, abs=0.002)
    assert groyne["price_must_fall_by"] is None


def test_worth_says_what_is_missing_and_for_whom_it_makes_sense(as_json, demo_copy):
    value = as_json("worth", demo_copy, "--review", "which link")
    assert {one["what"] for one in value["missing"]} == {
        "the temperature at which iG-6 slows down",
        "the air temperature around Breakwater Marram 12",
        "the weight of Breakwater",
    }
    first, second = value["verdict"]
    assert [one["makes_sense"] for one in first["rigs"]] == [True, True, True, False, False]
    club = {one["rig"]: one for one in second["rigs"]}
    assert club["Breakwater Marram 12"]["makes_sense"] is None
    (check,) = [c for c in club["Breakwater Marram 12"]["checks"] if c["holds"] is None]
    assert check["missing"] == ["the weight of Breakwater"]
    assert any(one.startswith("For evenings in the reading room") for one in value["says"])


def test_another_rig_of_the_logbook_is_set_beside(as_json, run, demo_copy):
    value = as_json("worth", demo_copy, "--against", "Workbench Marram 16")
    assert value["rigs"][-1]["rig"] == "Workbench Marram 16"
    assert value["rigs"][-1]["figures"]["cost"] == 1090 + 760
    assert len(value["cases"]) == 5, "only the cases that it was taken on too"
    code, _, err = run("worth", demo_copy, "--against", "Nobody's rig")
    assert code == 2
    assert err.startswith("rig: no rig named “Nobody's rig” in the logbook.")


def test_worth_prints_lines_for_people(run, demo_copy):
    code, out, err = run("worth", demo_copy)
    assert (code, err) == (0, "")
    lines = out.splitlines()
    assert lines[0].startswith("Groyne Marram 12 gives the cheapest gained frame, 9.62")
    assert any("nothing is cheaper and faster" in line for line in lines)
    assert any("The weight of Breakwater is missing: blocks" in line for line in lines)


def test_a_currency_that_has_no_rate_blocks_the_cost(as_json, demo_book):
    with Logbook.open(demo_book) as book:
        book.commit("abroad", put=[Price(id="groyne", amount=150, currency="usd")])
    value = as_json("worth", demo_book)
    groyne = next(one for one in value["rigs"] if one["rig"] == "Groyne Marram 12")
    assert groyne["figures"]["cost"] is None
    assert groyne["missing"]["cost"] == ["the rate of USD in EUR"]
    assert groyne["efficient"] is None


@pytest.mark.deep
def test_report_writes_what_is_asked_for_and_a_bundle(run, demo_copy, tmp_path):
    out_dir = tmp_path / "out"
    code, out, err = run("report", demo_copy, "--out", out_dir, "--format", "md, json", "--bundle")
    assert (code, err) == (0, "")
    names = sorted(path.name for path in out_dir.iterdir())
    assert names == [
        "bundle.blunt",
        "bundle.sha256.txt",
        "narration.md",
        "report.json",
        "report.md",
        "report.schema.json",
    ]
    assert sorted(line.rpartition("/")[2] for line in out.splitlines()) == names
    report = json.loads((out_dir / "report.json").read_text("utf-8"))
    assert report["title"] == "Which link"
    code, out, _ = run("worth", out_dir / "bundle.blunt")
    assert code == 0
    assert "9.62" in out, "a bundle is a logbook like any other"


def test_report_takes_the_review_that_is_named(run, demo_copy, tmp_path):
    code, _, _ = run(
        "report", demo_copy, "--review", "Which card", "--out", tmp_path, "--format", "md"
    )
    assert code == 0
    assert (tmp_path / "report.md").read_text("utf-8").startswith("# Which card")


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (["--format", "docx"], "there is no “docx”. Choose one of html, pdf, md"),
        (["--review", "None such"], "there is no review “None such”"),
        ([], "Missing option '--out'"),
    ],
)
def test_a_wrong_option_writes_nothing_and_says_so(run, demo_copy, tmp_path, arguments, says):
    out = [] if not arguments else ["--out", tmp_path / "out"]
    code, printed, err = run("report", demo_copy, *out, *arguments)
    assert (code, printed) == (2, "")
    assert says in err
    assert len(err.splitlines()) == 1
    assert not (tmp_path / "out").exists()


def test_a_damaged_logbook_is_refused_before_anything_is_written(run, demo_book, tmp_path):
    raw = bytearray(demo_book.read_bytes())
    raw[200:5000] = b"x" * 4800
    demo_book.write_bytes(raw)
    code, _, err = run("report", demo_book, "--out", tmp_path / "out")
    assert code == 2
    assert "Traceback" not in err
    assert not (tmp_path / "out").exists()


def test_every_command_explains_itself(run):
    from blunt_ruler.cli import COMMANDS, app, bring_in

    bring_in()
    names = [
        command.name or command.callback.__name__.replace("_", "-")
        for command in app.registered_commands
    ]
    assert sorted(names) == sorted(name for some in COMMANDS.values() for name in some)
    assert {"demo", "metrics", "link", "fit-check", "plan", "simulate", "import"} <= set(names)
    assert {"check", "compare", "limits", "worth", "report"} <= set(names)
    for name in names:
        code, out, err = run(name, "--help")
        assert (code, err) == (0, ""), name
        assert f"blunt-ruler {name}" in out
        assert len(out.split("Usage:")[1]) > 80, f"{name} says what it does"
