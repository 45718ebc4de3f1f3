"""The log of `--debug`: what was done and how long it took, and nothing of what it was done to."""

import logging
import re

import numpy as np
import pytest
from pydantic import ValidationError

from blunt_ruler import diary
from blunt_ruler.cli import main
from blunt_ruler.core.records.hardware import Rig
from blunt_ruler.core.types import no_progress
from blunt_ruler.demo.shipped import copy_demo
from blunt_ruler.logbook import Logbook

SECRETS = ("Marram", "Sluice", "Tidewrack", "coast", "Quillon", "embargo", "41.7", "23.98")


@pytest.fixture
def state(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    return tmp_path / "state/blunt-ruler/blunt-ruler.log"


@pytest.fixture
def demo(tmp_path):
    return copy_demo(tmp_path / "embargo.blunt")


def run(*arguments):
    with pytest.raises(SystemExit) as ended:
        main([str(one) for one in arguments])
    return ended.value.code


def secret_log(folder):
    path = folder / "embargo Marram 13.csv"
    times = np.full(600, 23.98)
    path.write_text("frame time ms\n" + "\n".join(f"{t:.3f}" for t in times), "utf-8")
    return path


def test_debug_says_what_was_opened_read_and_fitted_and_how_long(state, demo, capfd):
    assert run("--debug", "worth", demo) == 0
    said = capfd.readouterr().err
    for words in (
        "logbook opened to be read: ",
        "records read: 224 runs, 9 rigs",
        "Fitting the limits: ",
    ):
        assert words in said
    assert len(re.findall(r"\d+\.\d ms\n", said)) >= 5
    assert state.read_text("utf-8") == said, "the file in the state folder holds the same"


def test_nothing_of_a_users_data_is_in_it(state, demo, tmp_path, capfd):
    rig_and_case = ("--rig", "Sluice Marram 12", "--case", "Tidewrack / coast run / 1080p / High")
    assert run("--debug", "import", demo, secret_log(tmp_path), *rig_and_case) == 0
    run("--debug", "report", demo, "--out", tmp_path / "out", "--format", "csv")
    assert run("--debug", "import", demo, tmp_path / "no embargo.csv", *rig_and_case) == 2
    with diary.kept(debug=True), Logbook.open(demo) as book:
        book.commit("rename to embargo", put=[Rig(id="embargo", name="Marram 13")])
    capfd.readouterr()
    said = state.read_text("utf-8")
    for words in ("log read: 0.0 MB, 600 frames or samples", "Writing csv: ", "edit written: 1 "):
        assert words in said
    said = re.sub(r"\d[\d.]* ms", "", said)  # how long it took may hold a figure by chance
    for secret in (*SECRETS, str(tmp_path)):
        assert secret not in said


def test_without_it_nothing_is_said_and_nothing_kept(state, demo, capfd):
    assert run("worth", demo) == 0
    assert capfd.readouterr().err == ""
    assert not state.exists()


def test_the_environment_can_ask_for_it(state, demo, monkeypatch, capfd):
    monkeypatch.setenv("BLUNT_RULER_DEBUG", "1")
    assert run("worth", demo) == 0
    assert "records read" in capfd.readouterr().err
    assert not logging.getLogger("blunt_ruler").handlers, "it lasts as long as the command"


def test_a_fault_is_logged_with_its_place_and_without_values(state, tmp_path):
    with pytest.raises(ValidationError) as refused:
        Rig(id="r", name="Marram 13", notes=41.7)
    errors = [refused.value, KeyError("Marram 13"), OSError(2, "gone", str(tmp_path / "Sluice"))]
    with diary.kept():
        for error in errors:
            diary.log.error("fault: %s", diary.details(error))
        diary.log.debug("not at this level")
    said = state.read_text("utf-8")
    assert "ValidationError" in said
    assert "test_diary.py" in said
    assert "not at this level" not in said
    for secret in SECRETS:
        assert secret not in said


def test_work_that_ends_by_an_error_says_so(caplog):
    caplog.set_level(logging.DEBUG, "blunt_ruler")
    with pytest.raises(ZeroDivisionError), diary.timed(diary.log, "dividing") as took:
        took.say("2 numbers")
        _ = 1 // 0
    assert re.fullmatch(
        r"dividing: 2 numbers, ended by ZeroDivisionError, \d+\.\d ms", caplog.messages[-1]
    )


def test_a_stage_that_says_the_same_again_is_one_line(caplog):
    caplog.set_level(logging.DEBUG, "blunt_ruler")
    with diary.timed_stages(diary.log, no_progress) as step:
        for share in (0.0, 0.2, 0.4):
            step("Reading the rows", share)
        step("Checking", 0.9)
    assert [words.split(":")[0] for words in caplog.messages] == ["Reading the rows", "Checking"]


def test_a_folder_that_cannot_be_written_stops_nothing(tmp_path, capfd):
    (tmp_path / "file").write_text("")
    with diary.kept(debug=True, path=tmp_path / "file/below/log.txt"):
        diary.log.debug("still said")
    assert "still said" in capfd.readouterr().err
