"""The commands as a script sees them: JSON, exit codes, one line for bad input."""

import subprocess
import sys

import numpy as np
import pytest

from blunt_ruler.core.measure.frames import measure
from blunt_ruler.logbook import Logbook

TIMES = np.round(np.random.default_rng(3).gamma(40, 0.4, 1500), 3)


@pytest.fixture
def log(tmp_path):
    path = tmp_path / "coast.csv"
    path.write_text("frame time ms\n" + "\n".join(map(str, TIMES)) + "\n")
    return path


KEYS = [
    *("file", "frames", "duration_s", "average_fps", "median_fps", "low_1_fps", "low_01_fps"),
    *("low_school", "minimum_fps", "maximum_fps", "steadiness", "stutters_per_min"),
    *("stutter_time_share", "notes"),
]


def test_metrics_gives_every_figure_of_every_log(as_json, log):
    first, second = as_json("metrics", log, log, "--json")
    assert first == second
    assert list(first) == KEYS
    figures = measure(TIMES)
    assert first["frames"] == 1500
    assert first["average_fps"] == pytest.approx(figures.average_fps)
    assert first["low_1_fps"] == pytest.approx(1000 / np.quantile(TIMES, 0.99))
    assert first["low_school"] == "percentile"


def test_a_folder_stands_for_its_logs(run, log):
    (log.parent / "picture.png").write_text("x")
    code, out, err = run("metrics", log.parent)
    assert (code, err) == (0, "1 other file in the folder was left: it does not end as logs do.\n")
    assert out.startswith(f"{log}: average")
    (log.parent / "words.txt").write_text("no log")
    code, out, err = run("metrics", log.parent)
    assert (code, out, err.count("\n")) == (2, "", 1), "one line for bad input"
    (log.parent / "words.txt").unlink()
    empty = log.parent / "empty"
    empty.mkdir()
    code, _, err = run("import", log.parent / "b.blunt", empty, "--rig", "A", "--case", "T")
    assert code == 2
    assert "there is no log in it" in err


def test_metrics_by_another_school_and_part(as_json, log):
    (whole,) = as_json("metrics", log, "--school", "time-share", "--json")
    assert whole["low_school"] == "time-share"
    (part,) = as_json("metrics", log, "--from", "2", "--to", "3", "--json")
    assert part["duration_s"] == pytest.approx(1.0, abs=0.05)
    assert part["low_1_fps"] is None
    assert any("at least 100 frames" in note for note in part["notes"])
    (as_rates,) = as_json("metrics", log, "--unit", "fps", "--json")
    assert as_rates["average_fps"] == pytest.approx(measure(1000 / TIMES).average_fps)


def test_a_bad_row_is_named_and_can_be_skipped(run, as_json, log):
    lines = log.read_text().splitlines()
    lines[7] = "slow"
    log.write_text("\n".join(lines))
    code, out, err = run("metrics", log, "--json")
    assert (code, out) == (2, "")
    assert err.startswith("coast.csv, row 8: “slow” is not a number.")
    assert "--skip-bad-rows" in err
    (result,) = as_json("metrics", log, "--skip-bad-rows", "--json")
    assert result["frames"] == 1499
    assert any("row 8 cannot be used" in note for note in result["notes"])


TABLE = """rig,title,scene,resolution,preset,run,average_fps,low_1_fps,driver
A,Tidewrack,coast,1080p,High,1,20,15,x
B,Tidewrack,coast,1080p,High,1,40,30,x
B,Tidewrack,coast,1080p,High,2,60,40,x
C,Tidewrack,coast,1080p,High,1,96,70,x
"""


def test_compare_of_a_table(as_json, tmp_path):
    path = tmp_path / "results.csv"
    path.write_text(TABLE)
    result = as_json("compare", "--table", path, "--base", "A", "--reference", "C", "--json")
    assert result["mean"] == "geometric"
    b = next(rig for rig in result["rigs"] if rig["rig"] == "B")
    (case,) = b["cases"]
    assert case["case"] == "Tidewrack / coast / 1080p / High"
    assert case["runs"] == 2
    assert case["average_fps"] == pytest.approx(48.0)  # the harmonic mean of 40 and 60
    assert case["gain"] == pytest.approx(1.4)
    assert case["loss"] == pytest.approx(0.5)
    assert (b["mean_gain"], b["mean_loss"]) == (pytest.approx(1.4), pytest.approx(0.5))


def test_compare_of_a_logbook_and_another_base(as_json, run, demo_book):
    result = as_json("compare", demo_book, "--base", "built-in ig-6", "--json")
    assert result["low_school"] == "percentile"
    assert result["rigs"][0]["rig"] == "Built-in iG-6"
    assert result["rigs"][0]["mean_gain"] == 0.0
    other = as_json(
        "compare", demo_book, "--review", "which card", "--base", "Sluice Marram 8", "--json"
    )
    assert other["base"] == "Sluice Marram 8"
    assert other["reference"] == "Workbench Marram 16"
    code, out, _ = run("compare", demo_book)
    assert code == 0
    assert "over Built-in iG-6" in out
    assert "against Workbench Marram 12" in out


def test_import_builds_a_logbook_that_compares(run, as_json, log, tmp_path):
    book = tmp_path / "new.blunt"
    fast = tmp_path / "fast.csv"
    fast.write_text("frame time ms\n" + "\n".join(f"{t / 2:.4f}" for t in TIMES))
    case = "Tidewrack / coast run / 1080p / High"
    for rig, role, path in (("iG-6", "base", log), ("Tower", "reference", fast)):
        code, _, _ = run("import", book, path, "--rig", rig, "--case", case, "--role", role)
        assert code == 0
    result = as_json("compare", book, "--json")
    tower = next(rig for rig in result["rigs"] if rig["rig"] == "Tower")
    assert tower["mean_gain"] == pytest.approx(1.0, rel=1e-4)
    assert tower["cases"][0]["case"] == case


def test_simulate_plays_a_title_whose_cpu_waits(as_json, tmp_path):
    asked = ("--seed", "3", "--rig", "Sluice Marram 12", "--case", "Skitter / 1080p / Low")
    rates = {}
    for flow in ("queued", "serial"):
        out = tmp_path / flow
        as_json("simulate", "--out", out, *asked, "--seconds", "4", "--flow", flow)
        (log,) = out.glob("*.csv")
        (found,) = as_json("metrics", log)
        rates[flow] = found["average_fps"]
    assert rates["serial"] < 0.95 * rates["queued"]


def test_simulate_gives_the_same_bytes_for_the_same_seed(as_json, tmp_path):
    options = ["--seed", 3, "--rig", "sluice marram 12", "--case", "Tidewrack / 1440p / High"]
    options += ["--seconds", 3, "--repeats", 2, "--json"]
    first = as_json("simulate", "--out", tmp_path / "one", *options)
    second = as_json("simulate", "--out", tmp_path / "two", *options)
    assert len(first) == 2
    for a, b in zip(first, second, strict=True):
        with open(a, "rb") as one, open(b, "rb") as two:  # noqa: PTH123
            assert one.read() == two.read()


def test_demo_puts_a_logbook_where_it_is_told(run, tmp_path):
    code, _, _ = run("demo", "--out", tmp_path / "d.blunt")
    assert code == 0
    with Logbook.open(tmp_path / "d.blunt") as book:
        assert len(book.contents().reviews) == 2
    assert run("demo", "--out", tmp_path / "d.blunt")[0] == 2


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (["metrics"], "Missing argument"),
        (["metrics", "none.csv"], "none.csv: cannot be read"),
        (["metrics", "LOG", "--unit", "furlong"], "--unit: “furlong” is not a unit"),
        (["metrics", "LOG", "--column", "x"], "no column “x”"),
        (["metrics", "LOG", "--from", "900"], "fewer than 2 frames"),
        (["metrics", "LOG", "--school", "home"], "Invalid value for '--school'"),
        (["compare"], "exactly one of them"),
        (["compare", "none.blunt"], "no such file"),
        (["compare", "LOG"], "not a Blunt Ruler logbook"),
        (["compare", "DEMO", "--review", "x"], "The reviews are: Which link, Which card"),
        (["compare", "DEMO", "--base", "x"], "no rig named “x”"),
        (["compare", "--table", "LOG"], "Name it"),
        (["compare", "--table", "LOG", "--base", "A"], "it names neither rigs nor titles"),
        (["import", "NEW", "LOG", "--rig", "A", "--case", "/"], "Title / scene"),
        (["simulate", "--out", "OUT", "--seed", "-1"], "Invalid value for '--seed'"),
        (["simulate", "--out", "OUT", "--seed", "1", "--rig", "x"], "there is no “x”"),
        (["simulate", "--out", "OUT", "--seed", "1", "--case", "x"], "there is no “x”"),
        (["simulate", "--out", "OUT", "--seed", "1", "--habit", "x"], "decimal comma"),
        (["report", "DEMO", "--out", "LOG/x"], "Choose another folder"),
        (["frobnicate"], "No such command"),
        (["metrics", "--frobnicate"], "No such option"),
    ],
)
def test_bad_input_is_one_line_and_exit_2(run, arguments, says, log, demo_book, tmp_path):
    places = {
        "LOG": log,
        "DEMO": demo_book,
        "NEW": tmp_path / "new.blunt",
        "OUT": tmp_path / "out",
        "LOG/x": log / "x",
    }
    code, out, err = run(*(places.get(argument, argument) for argument in arguments))
    assert code == 2
    assert says in err
    assert out == ""
    assert err.count("\n") == 1
    assert not (tmp_path / "out").exists()
    assert not (tmp_path / "new.blunt").exists()


def test_the_installed_command_starts_and_fails_cleanly():
    done = subprocess.run(
        [sys.executable, "-m", "blunt_ruler", "metrics", "none.csv"],
        capture_output=True,
        text=True,
    )
    assert done.returncode == 2
    assert "Traceback" not in done.stderr


CAREFUL = """rig,title,scene,resolution,preset,run,average_fps
base,Alpha,,1080p,High,1,40
base,Beta,,1080p,High,1,30
base,Gamma,,1080p,High,1,50
base,Gamma,,1440p,High,1,35
base,Delta,,1080p,High,1,10
base,Epsilon,,1080p,Low,1,60
tested,Alpha,,1080p,High,1,44
tested,Beta,,1080p,High,1,33
tested,Gamma,,1080p,High,1,60.0
tested,Gamma,,1440p,High,1,77
tested,Delta,,1080p,High,1,60.6
tested,Epsilon,,1080p,High,1,55
"""


def test_a_cap_an_outlier_and_a_settings_mismatch_are_each_seen(as_json, tmp_path):
    """A frame cap in Gamma 1080p, an outlier Delta, and Epsilon at another preset."""
    table = tmp_path / "careful.csv"
    table.write_text(CAREFUL)
    found = as_json("compare", "--table", table, "--base", "base")
    tested = next(rig for rig in found["rigs"] if rig["rig"] == "tested")
    cases = {case["case"]: case for case in tested["cases"]}
    capped = cases["Gamma / 1080p / High"]
    assert capped["standing"] == "mixed"
    assert "held by a cap" in capped["differs"][0]
    assert cases["Epsilon / 1080p / High"]["gain"] is None  # the base ran it at Low
    assert tested["gain_cases"] == 4
    assert tested["moved_most_by"] == "Delta / 1080p / High"
    assert tested["mean_gain_without_it"] < 0.6 < tested["mean_gain"]
    assert tested["mean_gain_low"] < tested["mean_gain"] < tested["mean_gain_high"]
    assert tested["mean_gain_other_low"] is None, "too few titles to speak of others"
    without = as_json(
        *("compare", "--table", table, "--base", "base", "--without", "Delta", "--all"),
        *("--mean", "harmonic", "--seed", "3"),
    )
    assert without["mean"] == "harmonic"
    assert without["clean_only"] is False
    assert next(r for r in without["rigs"] if r["rig"] == "tested")["gain_cases"] == 4


def test_a_logbook_is_compared_another_way(as_json, demo_book):
    found = as_json(
        *("compare", demo_book, "--mean", "percent", "--school", "worst-mean"),
        *("--without", "Skitter", "--playable", "60/30"),
    )
    assert (found["mean"], found["low_school"]) == ("percent", "worst-mean")
    assert {rig["gain_cases"] for rig in found["rigs"]} == {9}
    case = found["rigs"][1]["cases"][0]
    assert case["gain_low"] < case["gain"] < case["gain_high"]
    assert case["loss_low"] < case["loss"] < case["loss_high"]
    assert (case["standing"], case["differs"], case["tie"]) == ("clean", [], False)
    playable = {(one["rig"], one["title"]): one for one in found["playable"]}
    cable = playable["Sluice Marram 12", "Tidewrack"]
    assert (cable["settings"], cable["frame_generation"]) == ("1080p High", "worth using")


def test_weights_that_fit_known_results_by_command(run, as_json):
    # Worked by hand: 1 / (0.75 / 4000 + 0.25 / 2000) = 3200, 1 / (0.75 / 6000 + 0.25 / 3000) = 4800
    first, second = "gpu=4000; cpu=2000; overall=3200", "gpu=6000; cpu=3000; overall=4800"
    found = as_json("composite", "--known", first, "--known", second)
    assert found["weights"] == pytest.approx({"gpu": 0.75, "cpu": 0.25}, abs=1e-3)
    plain = as_json("composite", "--known", "a=10; b=30; overall=25", "--mean", "arithmetic")
    assert plain["weights"] == pytest.approx({"a": 0.25, "b": 0.75}, abs=1e-6)
    for arguments, says in (
        (("--known", "gpu=4000; overall=x"), "not a score"),
        (("--known", "gpu=4000; cpu=2000"), "has no overall"),
        (("--known", "gpu=4000; cpu=2000; overall=9000"), "no weights of these parts"),
        (("--known", first, "--mean", "median"), "median"),
        ((), "either parts or known"),
        (("--known", first, "--part", "a=1:1"), "either parts or known"),
    ):
        code, _, err = run("composite", *arguments)
        assert code != 0
        assert says in err


def test_composites_by_command(run, as_json):
    whole = as_json("composite", "--part", "graphics=4225:0.85", "--part", "cpu=2407:0.15")
    assert whole["overall"] == pytest.approx(3795, abs=1)
    back = as_json(
        *("composite", "--part", "graphics=4225:0.85", "--part", "cpu=:0.15", "--overall", 3795)
    )
    assert back["recovered"] == "cpu"
    assert back["parts"]["cpu"] == pytest.approx(2407, abs=1)
    for arguments in (
        ("--part", "graphics=4225"),
        ("--part", "graphics=:1"),
        ("--part", "a=1:0.4"),
    ):
        code, _, err = run("composite", *arguments)
        assert (code, err.count("\n")) == (2, 1)


def test_compare_tells_references_scores_and_means_by_group(as_json, run, demo_book):
    found = as_json("compare", demo_book, "--by", "resolution")
    for rig in found["rigs"]:
        for kind in ("gain", "loss"):  # other titles could give more than these leave open
            ends = ("other_low", "low", "high", "other_high")
            told = [rig[f"mean_{kind}_{end}"] for end in ends]
            assert None in told or told == sorted(told)
    assert found["rigs"][1]["mean_gain_other_low"] is not None
    groups = {group["over"]: group["rigs"] for group in found["groups"]}
    assert set(groups) == {"1080p", "1440p"}, "one case at 2160p is no group"
    assert {one["cases"] for one in groups["1440p"]} == {3}
    (held,) = [one for one in found["references"] if one["rig"] == "Sluice Marram 12"]
    rig = next(one for one in found["rigs"] if one["rig"] == "Sluice Marram 12")
    assert held["change"] == pytest.approx(-rig["mean_loss"])
    assert held["low"] < held["change"] < held["high"]
    scores = {(one["test"], one["rig"]): one for one in found["scores"]}
    graphics = scores["Lattice, graphics", "Sluice Marram 12"]
    assert graphics["gain"] == pytest.approx(3.01, abs=0.05)
    assert scores["Sluice gate, host to card", "Sluice Marram 12"]["unit"] == "GB/s"
    assert not any(test == "Sluice gate" for test, _ in scores), "two ways make no overall"
    code, _, err = run("compare", demo_book, "--by", "colour")
    assert (code, err.count("\n")) == (2, 1)


def test_groups_and_references_leave_out_what_the_checks_block(as_json, demo_book):
    from blunt_ruler.core.analysis.analyse import sound_board
    from blunt_ruler.core.board.groups import means_over
    from blunt_ruler.core.compare.like_for_like import unsound_words
    from blunt_ruler.core.records.records import Decision
    from blunt_ruler.logbook import Logbook

    with Logbook.open(demo_book) as book:
        spoilt = [run for run in book.contents().runs.values() if run.decision is not Decision.KEEP]
        kept = [run.model_copy(update={"decision": Decision.KEEP}) for run in spoilt]
        book.commit("keep what is wrong", kept)
        contents = book.contents()
    review = next(iter(contents.reviews.values()))
    checked, board = sound_board(contents, review)
    unsound = unsound_words(checked)
    sizes = {contents.cases[key].resolution for key in review.case_ids}
    differ = 0
    for group in as_json("compare", demo_book, "--by", "resolution")["groups"]:
        assert group["over"] in sizes
        cases = frozenset(
            key for key in review.case_ids if contents.cases[key].resolution == group["over"]
        )
        sound = means_over(contents, board, unsound, cases)
        every = means_over(contents, board, {}, cases)
        gains = {one["rig"]: one["gain"] for one in group["rigs"]}
        for rig, total in sound.items():
            assert gains[contents.rigs[rig].name] == pytest.approx(total.mean_gain)
            differ += total.mean_gain != every[rig].mean_gain
    assert differ, "the checks block something here"
