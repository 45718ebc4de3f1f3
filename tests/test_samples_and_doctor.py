"""Sample files are what they are said to be, and the doctor tells what a machine lacks."""

import json
from pathlib import Path

import pytest
from jsonschema import Draft202012Validator
from typer.testing import CliRunner

from blunt_ruler.cli import app, bring_in
from blunt_ruler.cli import doctor as doctors
from blunt_ruler.cli.documents import schema_of
from blunt_ruler.demo.samples import FolderInUse, write_samples
from blunt_ruler.logbook import Logbook


@pytest.fixture(scope="module")
def folder(tmp_path_factory):
    where = tmp_path_factory.mktemp("some") / "samples"
    bring_in()
    printed = json.loads(CliRunner().invoke(app, ["samples", str(where), "--json"]).stdout)
    Draft202012Validator(schema_of("samples")).validate(printed)
    assert {Path(one) for one in printed} <= {*where.rglob("*")} and len(printed) > 8
    return where


@pytest.fixture
def run():
    bring_in()

    def run(*words):
        done = CliRunner().invoke(app, [str(word) for word in words])
        assert not done.exception or isinstance(done.exception, SystemExit), done.exception
        return done

    return run


def test_the_logs_the_sheet_and_the_script_do_what_is_said_of_them(folder, run, tmp_path):
    from blunt_ruler.demo.shipped import copy_demo

    book = tmp_path / "b.blunt"
    for sheet in ("results.csv", "results.ods"):
        run("import", tmp_path / f"{sheet}.blunt", folder / sheet)
        with Logbook.open(tmp_path / f"{sheet}.blunt") as made:
            contents = made.contents()
        assert (len(contents.rigs), len(contents.runs)) == (5, 50)
    for log in sorted(folder.glob("*log*/*.csv")):
        rig = f"{log.parent.name}, {log.name.partition('_')[0]}"
        case = ("--rig", rig, "--case", "Tidewrack / 1080p / High")
        run("import", book, log, *case)
    found = json.loads(run("check", book, "--json").stdout)
    faulty = ("faulty log, sluice-marram-12", "menu_left_in")
    assert {(one["rig"], one["check"]) for one in found} == {faulty}
    demo = copy_demo(tmp_path / "demo.blunt")
    said = json.loads(run("script", demo, folder / "script.txt", "--json").stdout)
    assert [one["answer"] for one in said].count("does not hold") == 1
    assert (folder / "report" / "report.html").stat().st_size > 100_000
    assert (folder / "report" / "report.pdf").read_bytes().startswith(b"%PDF")


def test_nothing_is_written_where_something_is(tmp_path):
    (tmp_path / "mine.txt").write_text("mine", "utf-8")
    with pytest.raises(FolderInUse, match="there is something in it already"):
        write_samples(tmp_path)
    assert [one.name for one in tmp_path.iterdir()] == ["mine.txt"]


def test_a_sound_machine_ends_with_0_and_a_library_that_lacks_is_named(run, monkeypatch):
    assert run("doctor").exit_code == 0
    why = "libxcb-cursor.so.0 is missing"
    monkeypatch.setattr(doctors, "_qt", lambda module: why if module == "QtWidgets" else "")
    lacks = run("doctor", "--json")
    assert lacks.exit_code == 1
    window = next(one for one in json.loads(lacks.stdout) if one["what"] == "window (Qt)")
    assert (window["state"], window["says"]) == ("missing", why)
    assert window["do"] == "sudo apt install libxcb-cursor0"


def test_a_meter_that_only_root_reads_is_told_with_what_opens_it(tmp_path, monkeypatch):
    meter = tmp_path / "sys/class/powercap/package-0/energy_uj"
    meter.parent.mkdir(parents=True)
    meter.write_text("1", "utf-8")
    monkeypatch.setattr(doctors.os, "access", lambda path, _mode: path != meter)
    found = {one.what: one for one in doctors.examine(tmp_path, {"DISPLAY": ":0"})}
    assert found["CPU power"].state == "without"
    assert str(meter) in found["CPU power"].do
    assert found["screen"].says == "display :0"


def test_packages_for_recordings_that_lack_are_named(tmp_path, monkeypatch):
    monkeypatch.setattr(doctors, "RECORDING", ("json", "no_such_package"))
    found = {one.what: one for one in doctors.examine(tmp_path, {})}
    assert found["recordings"].says.startswith("no_such_package missing")
    assert "blunt-ruler[recording]" in found["recordings"].do
    assert found["screen"].state == "without"
