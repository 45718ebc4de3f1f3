"""Logbooks that released versions wrote are opened by this one, with every figure they had.

The files were made by the commands of 0.1.0 and 0.2.0 themselves (`simulate`, `import`,
`compare --json`), on the simulated bench.
"""

import gzip
import json
import sqlite3
from contextlib import closing
from pathlib import Path

import pytest
from typer.testing import CliRunner

from blunt_ruler.logbook import Logbook

FOLDER = Path(__file__).parent / "released"
VERSIONS = ("0.1.0", "0.2.0")


@pytest.fixture(params=VERSIONS)
def released(request, tmp_path):
    """(a logbook as that version left it, what that version said of it)."""
    book = tmp_path / "old.blunt"
    book.write_bytes(gzip.decompress((FOLDER / f"{request.param}.blunt.gz").read_bytes()))
    return book, json.loads((FOLDER / f"{request.param}.compare.json").read_text("utf-8"))


def dumped(path):
    """Every statement that makes the file anew."""
    with closing(sqlite3.connect(path)) as db:
        return [*db.iterdump(), *db.execute("PRAGMA user_version")]


def test_every_run_and_trace_is_there_and_a_copy_is_kept_of_what_was(released):
    book, _ = released
    before = dumped(book)
    with Logbook.open(book) as opened:
        contents = opened.contents()
        assert not opened.set_apart
        assert {rig.name for rig in contents.rigs.values()} == {
            "Built-in iG-6",
            "Sluice Marram 12",
            "Workbench Marram 12",
        }
        assert len(contents.runs) == 12
        for run in contents.runs.values():
            trace = opened.trace(run.trace_sha256)
            times = trace.frame_times_ms
            assert run.average_fps == pytest.approx(1000.0 / times.mean(), rel=1e-9)
        opened.undo()
        assert len(opened.contents().runs) < 12
        opened.redo()
        assert len(opened.contents().runs) == 12
    copies = [one for one in book.parent.iterdir() if "before" in one.name]
    assert [dumped(one) == before for one in copies] == [True]


def test_its_figures_are_those_it_had(released):
    from blunt_ruler.cli import app, bring_in

    book, said = released
    bring_in()
    done = CliRunner().invoke(app, ["compare", str(book), "--json"])
    assert done.exit_code == 0, done.output
    now = json.loads(done.stdout)

    def cells(document):
        return {
            (rig["rig"], case["case"]): (case["average_fps"], case["low_1_fps"], case["gain"])
            for rig in document["rigs"]
            for case in rig["cases"]
        }

    before, after = cells(said), cells(now)
    assert set(before) <= set(after) and len(before) == 6
    for key, figures in before.items():
        assert after[key] == pytest.approx(figures, rel=1e-6), key
