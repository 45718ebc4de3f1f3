"""Tables, scores and logs taken in from the command line."""

import json

import numpy as np
import pytest

from blunt_ruler.logbook import Logbook

TABLE = "Game\tTower\tDock\nTidewrack 1080p\t107\t70\nSkitter 1080p\t305\t224\n"
WITH_SCORE = f"{TABLE}Lattice\t4433\t3791\n"


@pytest.fixture
def sheet(tmp_path):
    path = tmp_path / "results.tsv"
    path.write_text(TABLE)
    return path


def held(path):
    with Logbook.reading(path) as book:
        contents = book.contents()
    return {
        (contents.rigs[run.rig_id].name, contents.case_label(run.case_id)): run
        for run in contents.runs.values()
    }


def test_a_table_is_taken_in_without_naming_rig_or_case(run, sheet, tmp_path):
    book = tmp_path / "new.blunt"
    code, out, err = run("import", book, sheet)
    assert (code, err) == (0, "")
    assert out.startswith("results.tsv: 2 rigs, 2 cases, 4 figures, rigs across; they are in")
    assert held(book)["Dock", "Tidewrack / 1080p"].typed.average_fps == 70
    code, _, _ = run("import", book, sheet)
    assert code == 0
    assert len(held(book)) == 4, "what is typed takes the place of what was"


def test_what_can_be_read_two_ways_is_refused_in_one_line_until_it_is_answered(
    run, sheet, tmp_path
):
    book = tmp_path / "new.blunt"
    sheet.write_text(WITH_SCORE)
    code, out, err = run("import", book, sheet)
    assert (code, out, err.count("\n")) == (2, "", 1)
    assert "Is Lattice a score, or a frame rate?" in err
    assert "--answer 'Lattice=scores' or 'Lattice=frame rates'" in err
    assert not book.exists()
    code, out, _ = run("import", book, sheet, "--answer", "Lattice=scores")
    assert code == 0
    assert held(book)["Tower", "Lattice"].typed.score == 4433


def test_a_dry_run_says_all_and_writes_nothing(run, sheet, tmp_path):
    book = tmp_path / "new.blunt"
    sheet.write_text(WITH_SCORE)
    code, out, err = run("import", book, sheet, "--dry-run", "--json")
    assert code == 2
    assert "Lattice" in err
    (table,) = json.loads(out)["tables"]
    assert [one["about"] for one in table["questions"]] == ["Lattice"]
    assert table["questions"][0]["readings"] == ["scores", "frame rates"]
    assert {
        "rig": "Dock",
        "case": "Tidewrack / 1080p",
        "pass": 1,
        "quantity": "average_fps",
        "value": 70.0,
        "unit": "fps",
        "how_read": "eye",
    } in table["cells"]
    code, out, _ = run("import", book, sheet, "--dry-run", "--answer", "scores=scores")
    assert code == 0
    assert "they would be in" in out
    assert not book.exists()


def test_a_table_a_log_and_scores_go_in_together(run, sheet, tmp_path):
    log, scores = tmp_path / "coast.csv", tmp_path / "scores.csv"
    times = np.random.default_rng(1).uniform(10, 20, 600)
    log.write_text("frame,ms\n" + "\n".join(f"{n},{one:.3f}" for n, one in enumerate(times)))
    scores.write_text("rig,test,part,weight,score\nTower,Loom,,,9000\nTower,Loom,CPU,0.2,4000\n")
    book = tmp_path / "new.blunt"
    code, _, err = run("import", book, sheet, log, scores)
    assert code == 2
    assert "coast.csv is not a table of results, and a frame log needs its rig and case" in err
    code, out, err = run(
        "import", book, sheet, log, scores, "--rig", "Cable", "--case", "Coast / 1080p"
    )
    assert (code, err, out.count("\n")) == (0, "", 3)
    assert {rig for rig, _ in held(book)} == {"Tower", "Dock", "Cable"}
    code, out, _ = run("import", book, log, scores, "--dry-run", "--json",
                       "--rig", "Cable", "--case", "Coast / 1080p")  # fmt: skip
    said = json.loads(out)
    assert said["logs"][0]["frames"] == 600
    assert {one["quantity"] for one in said["tables"][0]["cells"]} == {"score", "part_score"}


def test_a_cell_that_cannot_be_read_is_named_with_file_row_and_column(run, sheet, tmp_path):
    sheet.write_text(TABLE.replace("224", "2x4"))
    code, _, err = run("import", tmp_path / "new.blunt", sheet)
    assert code == 2
    assert err.startswith("results.tsv, row 3, column Dock: “2x4”")
    code, _, _ = run("import", tmp_path / "new.blunt", sheet, "--skip-bad-rows")
    assert code == 0
    assert len(held(tmp_path / "new.blunt")) == 3


def test_meters_beside_the_rates_and_percentages_are_kept(run, sheet, tmp_path):
    sheet.write_text("rig,game,fps,GPU power (W),wall power (W)\nTower,Tidewrack,107,180,310\n")
    assert run("import", tmp_path / "new.blunt", sheet)[0] == 0
    meters = held(tmp_path / "new.blunt")["Tower", "Tidewrack"].meters
    assert (meters.card_w, meters.wall_w) == (180, 310)
    sheet.write_text("Relative speed (Tower = 100)\nGame\tTower\tDock\nTidewrack\t100\t65.4\n")
    assert run("import", tmp_path / "other.blunt", sheet)[0] == 0
    ((key, kept),) = held(tmp_path / "other.blunt").items()
    assert key == ("Dock, results.tsv", "Tidewrack")
    assert kept.typed.change == pytest.approx(-0.346)
    assert kept.typed.change_of == "Tower"


def test_an_answer_to_what_nothing_asks_is_said(run, sheet, tmp_path):
    answers = ("--answer", "scores=scores", "--answer", "secund=minimum")
    code, _, err = run("import", tmp_path / "new.blunt", sheet, "--dry-run", *answers)
    assert (code, err) == (0, "No table asks about “secund”; the answer is not used.\n")


@pytest.mark.parametrize("answer", ["Lattice", "=scores", "Lattice="])
def test_an_answer_that_is_none_is_named(run, sheet, tmp_path, answer):
    code, _, err = run("import", tmp_path / "new.blunt", sheet, "--answer", answer)
    assert code == 2
    assert f"“{answer}” is not an answer" in err


def logs_of(folder, names):
    rates = {"desktop": 7.6, "dock": 9.1, "iGPU": 26.0}
    for name in names:
        ms = rates[name.split(" - ")[0]]
        times = np.random.default_rng(len(name)).normal(ms, 0.3, 900)
        folder.joinpath(name).write_text("frame time (ms)\n" + "\n".join(f"{t:.3f}" for t in times))


def test_logs_are_placed_by_the_names_of_their_files(run, as_json, tmp_path):
    folder, book = tmp_path / "logs", tmp_path / "new.blunt"
    folder.mkdir()
    logs_of(folder, [f"{rig} - {title} 1440p High - run {k}.csv"
                     for rig in ("desktop", "dock", "iGPU")
                     for title in ("Skitter", "Harbour Run") for k in (1, 2)])  # fmt: skip
    code, _, err = run("import", book, folder)
    assert code != 0 and "--by-name" in err
    code, out, err = run("import", book, folder, "--by-name")
    assert (code, err) == (0, "")
    assert f"2 runs of desktop, Harbour Run / 1440p / High are in {book}" in out
    with Logbook.reading(book) as opened:
        contents = opened.contents()
    assert len(contents.runs) == 12
    (review,) = contents.reviews.values()
    roles = {contents.rigs[seat.rig_id].name: str(seat.role) for seat in review.seats}
    assert roles == {"desktop": "reference", "dock": "under test", "iGPU": "base"}
    found = as_json("import", book, folder, "--by-name", "--dry-run", "--json")
    assert {(one["rig"], one["case"]) for one in found["logs"]} == {
        (rig, f"{title} / 1440p / High")
        for rig in ("desktop", "dock", "iGPU") for title in ("Skitter", "Harbour Run")
    }  # fmt: skip


def test_a_name_that_does_not_tell_is_named(run, tmp_path):
    folder = tmp_path / "logs"
    folder.mkdir()
    logs_of(folder, ["dock - Skitter 1440p.csv"])
    folder.joinpath("dock - Skitter 1440p.csv").rename(folder / "log1.csv")
    code, _, err = run("import", tmp_path / "new.blunt", folder, "--by-name")
    assert code != 0
    assert "the name of log1.csv does not tell its case. Rename it, or give --case." in err
    code, out, _ = run("import", tmp_path / "new.blunt", folder, "--by-name", "--case", "Skitter")
    assert code == 0 and "1 run of log1, Skitter is in" in out
