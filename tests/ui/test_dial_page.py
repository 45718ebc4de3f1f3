"""The dial on the Bench, driven: states ticked and made rigs, undone, and found in the plan."""

import pytest
from PyQt6.QtCore import Qt
from reach import stop

from blunt_ruler.core.rigs.dial import DialState
from blunt_ruler.core.rigs.strip import Place

AT = "Bench"


@pytest.fixture
def bench(demo_window, settle):
    settle(demo_window)
    demo_window.go_to("Bench")
    bench = stop(demo_window, "Bench")
    bench.rigs.choose("workbench-marram-12", Place.RIG)
    settle(demo_window)
    bench.show_page("Dial")
    settle(demo_window)
    return bench


def names(window):
    return {one.name for one in window.desk.snapshot.contents.rigs.values()}


def test_states_become_rigs_in_one_action_and_one_undo(bench, demo_window, settle, qtbot):
    page = bench.page("Dial")
    assert not page.make.isEnabled()
    assert "Choose at least one" in page.make.toolTip()
    page.usual.setFocus()
    qtbot.keyClick(page.usual, Qt.Key.Key_Space)
    asked = page.ticked()
    assert len(asked) >= 3
    assert page.make.text() == f"Make {len(asked)} rigs"
    before = names(demo_window)
    qtbot.keyClick(page.make, Qt.Key.Key_Space)
    settle(demo_window)
    made = names(demo_window) - before
    assert made == {f"Workbench Marram 12 at {one.name}" for one in asked}
    assert not page.boxes[asked[0]].isEnabled()
    assert page.boxes[asked[0]].toolTip() == "It is a rig already"
    assert page.ticked() == ()
    demo_window.desk.undo()
    settle(demo_window)
    assert names(demo_window) == before


def test_one_s_own_state_cannot_be_ticked(bench):
    box = bench.page("Dial").boxes[DialState(4, 16)]
    assert not box.isEnabled()
    assert box.toolTip() == "The rig stands there"


def test_a_tunnel_says_why_it_has_no_dial(bench, demo_window, settle):
    bench.rigs.choose("sluice-marram-12", Place.RIG)
    settle(demo_window)
    page = bench.page("Dial")
    assert page.boxes == {}
    assert "tunnel" in page.says.text()
    assert not page.usual.isEnabled()


def test_a_state_is_played_by_the_simulated_bench(bench, demo_window, settle, qtbot):
    page = bench.page("Dial")
    page.boxes[DialState(3, 4)].setChecked(True)
    page.make.click()
    settle(demo_window)
    contents = demo_window.desk.snapshot.contents
    made = next(one for one in contents.rigs.values() if one.name.endswith("at 3.0 x4"))
    assert made.id in {seat.rig_id for seat in demo_window.desk.snapshot.review.seats}
    demo_window.go_to("Runs")
    runs = stop(demo_window, "Runs")
    runs.show_page("At work")
    settle(demo_window)
    runs.work.rig.setCurrentIndex(runs.work.rig.findData(made.id))
    runs.work.rig.activated.emit(runs.work.rig.currentIndex())
    qtbot.keyClick(demo_window, Qt.Key.Key_T, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: not runs.work.taker.is_running, timeout=60_000)
    settle(demo_window)
    run = list(demo_window.desk.snapshot.contents.runs.values())[-1]
    assert run.rig_id == made.id
    whole = demo_window.desk.snapshot.analysis.board.cells["workbench-marram-12", run.case_id]
    assert run.figures.average_fps < 0.99 * whole.average_fps
