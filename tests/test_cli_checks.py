"""`check` and `simulate` from the command line."""

import json
import os
from pathlib import Path

import numpy as np
import pytest

from blunt_ruler.logbook import Logbook


@pytest.fixture
def played(as_json, tmp_path):
    def played(*faults, case="Tidewrack / 1080p", seconds=25, seed=4, rig="Groyne Marram 12"):
        out = tmp_path / "-".join(("logs", *faults)).replace("=", "")
        options = [word for fault in faults for word in ("--fault", fault)]
        return as_json(
            *("simulate", "--out", out, "--seed", seed, "--rig", rig, "--case", case),
            *("--seconds", seconds, *options),
        )

    return played


def test_sound_logs_pass_and_faults_are_named(as_json, played):
    sound, capped = played(), played("cap_fps=60")
    assert as_json("check", *sound) == []
    (found,) = as_json("check", *capped, *sound, "--refresh", 60)
    assert found["file"] == capped[0]
    assert (found["check"], found["severity"]) == ("frame_cap", "blocking")
    assert found["evidence"]["rate_fps"] == 60
    assert found["evidence"]["monitor_hz"] == 60
    assert "Switch frame cap" in found["remedy"]
    assert found["says"].endswith(".")


def test_an_odd_refresh_rate_is_found_when_it_is_told(as_json, played):
    logs = played("refresh_hz=67")
    found = as_json("check", *logs, "--refresh", 67)
    assert [one["check"] for one in found] == ["frame_cap"]


def test_the_same_log_twice_is_said(as_json, played, tmp_path):
    (log,) = played()
    copy = tmp_path / "copy.csv"
    copy.write_bytes(Path(log).read_bytes())
    (found,) = as_json("check", log, copy)
    assert (found["check"], found["file"]) == ("same_trace", str(copy))


def test_a_logbook_is_checked_whole_or_by_review(as_json, demo_book):
    everything = as_json("check", demo_book)
    assert {
        *("run", "rig", "case", "pass", "runs", "passes", "about", "check", "severity", "sure"),
        *("signs", "evidence", "remedy", "says"),
    } == set(everything[0])
    first = everything[0]
    assert first["passes"][0] == {key: first[key] for key in ("run", "rig", "case", "pass")}
    cards = as_json("check", demo_book, "--review", "Which card")
    assert {one["check"] for one in cards} < {one["check"] for one in everything}


def test_a_synthetic_test_gives_part_scores(run, played):
    paths = [played(case=case, rig="Sluice Marram 12")[0] for case in ("Lattice", "Sluice gate")]
    lattice, gate = (Path(path).read_text().splitlines() for path in paths)
    assert lattice[0] == "part,score,weight"
    parts = dict(line.split(",")[:2] for line in lattice[1:])
    weighted = 1 / (0.85 / float(parts["graphics"]) + 0.15 / float(parts["cpu"]))
    assert float(parts["overall"]) == pytest.approx(weighted, abs=0.1)
    down = float(gate[1].split(",")[1])
    assert down == pytest.approx(2.6, rel=0.05)


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (("check", "none.csv"), "none.csv"),
        (("check", "a.blunt", "b.csv"), "checked alone"),
        (("simulate", "--out", "x", "--seed", "1", "--fault", "rain"), "no “rain”"),
        (("simulate", "--out", "x", "--seed", "1", "--fault", "cap_fps"), "needs a value"),
        (("simulate", "--out", "x", "--seed", "1", "--fault", "cap_fps=x"), "not a number"),
        (("simulate", "--out", "x", "--seed", "1", "--fault", "cap_fps=-1"), "too low"),
        (("simulate", "--out", "x", "--seed", "1", "--case", "Rain"), "no “Rain”"),
    ],
)
def test_bad_input_is_one_sentence(run, arguments, says, tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    code, out, err = run(*arguments)
    assert (code, out) == (2, "")
    assert says in err
    assert err.count("\n") == 1


def test_an_imported_log_is_read_for_the_checks(run, as_json, played, tmp_path):
    (log,) = played("cap_fps=60")
    book = tmp_path / "new.blunt"
    code, _, err = run("import", book, "--rig", "A", "--case", "T / 1080p", log)
    assert (code, err) == (0, "")
    assert [one["check"] for one in as_json("check", book)] == ["frame_cap"]
    assert json.dumps(as_json("check", book))


def test_a_name_that_is_no_text_keeps_no_log_out(as_json, run, tmp_path):
    rows = "\n".join(
        f"{one:.4f}" for one in 16 * np.exp(np.random.default_rng(4).normal(0, 0.1, 900))
    )
    (tmp_path / "logs").mkdir()
    for name in (b"a\xff.csv", b"b.csv"):
        with open(os.fsencode(tmp_path / "logs") + b"/" + name, "w") as file:  # noqa: PTH123
            file.write(f"frame time ms\n{rows}")
    found = [one for one in as_json("check", tmp_path / "logs") if one["check"] == "same_trace"]
    assert [Path(one["file"]).name for one in found] == ["b.csv"]
    assert "the one of a\ufffd.csv" in found[0]["says"]
    book = tmp_path / "b.blunt"
    assert run("import", book, tmp_path / "logs", "--rig", "A", "--case", "T")[0] == 0
    with Logbook.open(book) as opened:
        files = {one.origin.file for one in opened.contents().runs.values()}
    assert files == {"a\ufffd.csv", "b.csv"}


def test_one_log_given_twice_is_the_same_byte_for_byte(as_json, tmp_path):
    path = tmp_path / "log.csv"
    path.write_text("frame time ms\n" + "\n".join(str(16 + n % 7) for n in range(900)))
    said = [one["says"] for one in as_json("check", path, path) if one["check"] == "same_trace"]
    assert said
    assert not [words for words in said if "saved again" in words]


def test_a_log_saved_anew_is_said_to_be_of_the_one_before(as_json, tmp_path):
    times = 16 * np.exp(np.random.default_rng(4).normal(0, 0.1, 3000))
    for name, digits in (("first.csv", 4), ("other.csv", 1)):
        rows = "\n".join(f"{one:.{digits}f}" for one in times)
        (tmp_path / name).write_text(f"frame time ms\n{rows}")
    found = as_json("check", tmp_path / "first.csv", tmp_path / "other.csv")
    (one,) = [finding for finding in found if finding["check"] == "same_trace"]
    assert one["file"].endswith("other.csv")
    assert one["says"].startswith("its trace is the one of first.csv, saved again")
