"""The shipped demo is what its builder builds, small enough, and tells a true story."""

import pytest

from blunt_ruler.core.board.board import build_board
from blunt_ruler.core.checks.all import check_runs
from blunt_ruler.core.checks.findings import Check
from blunt_ruler.core.claims.headline import board_headline
from blunt_ruler.core.claims.offer import claims_on
from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.measure.frames import measure
from blunt_ruler.core.records.records import Decision
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.demo import scenario
from blunt_ruler.demo.builder import take_run
from blunt_ruler.demo.shipped import copy_demo
from blunt_ruler.logbook import Logbook


@pytest.fixture(scope="module")
def book(shipped_demo, tmp_path_factory):
    with Logbook.open(copy_demo(tmp_path_factory.mktemp("demo") / "demo.blunt")) as book:
        yield book


@pytest.fixture(scope="module")
def contents(book):
    return book.contents()


def test_it_is_small_and_large_enough(shipped_demo, contents):
    assert shipped_demo.stat().st_size < 5_000_000
    review = contents.reviews["which-link"]
    board = build_board(contents, review)
    assert len(board.columns) >= 5
    assert len(board.rows) >= 8
    assert len(board.cells) == len(board.columns) * len(board.rows)
    assert min(cell.runs for cell in board.cells.values()) >= 3


PLANNED = scenario.planned_runs()
FAULTY = [number for number, run in enumerate(PLANNED) if run.reason]


@pytest.mark.parametrize("number", [*range(0, len(PLANNED), 13), *FAULTY])
def test_the_builder_reproduces_its_figures(contents, number, tmp_path):
    run, _ = take_run(PLANNED[number], number, tmp_path)
    shipped = contents.runs[run.id]
    assert run.figures.frames == pytest.approx(shipped.figures.frames, abs=2)
    assert run.figures.average_fps == pytest.approx(shipped.figures.average_fps, rel=1e-4)
    assert run.figures.low_1.percentile == pytest.approx(shipped.figures.low_1.percentile, rel=2e-3)
    assert run.model_copy(update={"figures": None}) == shipped.model_copy(
        update={"figures": None, "trace_sha256": None}
    )


def test_every_planned_run_is_in_it_once(contents):
    logs = [run for run in contents.runs.values() if run.trace_sha256]
    assert len(logs) == len(PLANNED)
    assert len({run.trace_sha256 for run in logs}) == len(PLANNED)


def test_stored_figures_are_those_of_the_stored_traces(book, contents):
    for run in list(contents.runs.values())[::17]:
        if run.trace_sha256:
            trace = book.trace(run.trace_sha256)
            assert measure(trace.frame_times_ms) == run.figures
            assert len(trace.telemetry) == (11 if run.rig_id == "built-in-ig-6" else 13)


def test_every_planted_fault_was_set_aside_with_its_reason(contents):
    aside = [run for run in contents.runs.values() if run.decision is Decision.SET_ASIDE]
    assert len(aside) == len(scenario.PLANTED) + 1
    assert all(run.reason for run in aside)
    assert {run.origin.kind for run in aside} == {"simulated", "typed"}


FAULT_NAMES = {
    ("sluice-marram-12", "copper-meridian-1080p"): Check.FRAME_CAP,
    ("workbench-marram-12", "low-lantern-1080p"): Check.MENU_LEFT_IN,
    ("groyne-marram-12", "tidewrack-1080p"): Check.WRONG_DEVICE,
    ("groyne-marram-12", "copper-meridian-1440p"): Check.NARROW_LINK,
    ("breakwater-marram-12", "glass-orchard-1080p"): Check.DRIFT,
    ("sluice-marram-12", "skitter-1080p"): Check.RECORDER_ON,
    ("built-in-ig-6", "low-lantern-1080p"): Check.IMPOSSIBLE_FIGURES,
}


def test_every_planted_fault_is_found_by_its_name_and_nothing_else_is_flagged(contents):
    checked = check_runs(contents, None)
    found = {
        (contents.runs[one.run_id].rig_id, contents.runs[one.run_id].case_id): one
        for one in checked.findings
        if one.severity is not Severity.NOTE
    }
    assert {cell: one.check for cell, one in found.items()} == FAULT_NAMES
    assert set(scenario.PLANTED) < set(found)
    aside = {run.id for run in contents.runs.values() if run.decision is Decision.SET_ASIDE}
    assert {one.run_id for one in found.values()} == aside
    assert "Trim it to 7.0" in found["workbench-marram-12", "low-lantern-1080p"].remedy
    assert "monitor into the card" in found["groyne-marram-12", "tidewrack-1080p"].remedy
    notes = [one for one in checked.findings if one.severity is Severity.NOTE]
    assert {(one.check, contents.runs[one.run_id].rig_id) for one in notes} == {
        (Check.SKIPPED_PREFLIGHT, "sluice-marram-12"),
        (Check.SKIPPED_PREFLIGHT, "groyne-marram-12"),
        (Check.BELOW_POWER_LIMIT, "sluice-marram-16"),
    }


def test_the_line_is_true(contents):
    board = build_board(contents, contents.reviews["which-link"])
    total = board.totals["sluice-marram-12"]
    line = board_headline(claims_on(contents, board))
    times = f"{total.mean_gain + 1:.2f}".rstrip("0")
    assert f"{times} times as fast as the built-in iG-6" in line
    assert f"{100 * (1 - total.mean_loss):.0f}\u202f% of its speed in the Workbench tower" in line
    kept = [1 - board.totals[rig].mean_loss for rig in scenario.LINK_RIGS]
    assert kept == sorted(kept)


def test_a_copy_never_replaces_a_file(tmp_path):
    path = copy_demo(tmp_path / "new" / "demo.blunt")
    with pytest.raises(UserFixable, match="already there"):
        copy_demo(path)
