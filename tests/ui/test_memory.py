"""Memory after many edits stays near that after a few, on the stop that holds the most."""

import gc
import os

import psutil
import pytest
from reach import Hand, every_page

from blunt_ruler.core.analysis.rail_states import STOPS
from blunt_ruler.core.records.records import Decision, Run
from blunt_ruler.ui.desk.snapshot import Snapshot

EDITS = int(os.environ.get("ATTACK_MEMORY_EDITS", "0"))
MOST_MB = 50


@pytest.mark.skipif(not EDITS, reason="long: set ATTACK_MEMORY_EDITS, as make attack does")
def test_memory_does_not_grow_with_edits(demo_window, settle):
    process = psutil.Process()
    demo_window.go_to("Write-up")
    writeup = demo_window.controllers["Write-up"]
    run = next(iter(demo_window.desk.snapshot.contents.runs.values()))
    after_ten = 0
    for number in range(EDITS):
        Hand(demo_window).decide(run, (Decision.SET_ASIDE, Decision.KEEP)[number % 2])
        settle(demo_window)
        while writeup.jobs._running:
            settle(demo_window)
        if number == 10:
            after_ten = process.memory_info().rss
    grown = (process.memory_info().rss - after_ten) / 2**20
    print(f"\n{EDITS} edits: {grown:.0f} MB more than after 10")
    assert grown <= MOST_MB


@pytest.mark.deep
def test_nothing_of_a_closed_logbook_is_kept(window, settle, qtbot, demo_book, tmp_path):
    window.desk.open(demo_book)
    settle(window)
    assert {name for name, _ in every_page(window, settle)} == {*STOPS}
    Hand(window).give_reason(next(iter(window.desk.snapshot.contents.runs.values())), "x")
    settle(window, foreseen=True)
    ids = {id(run) for run in window.desk.snapshot.contents.runs.values()}
    window.desk.create(tmp_path / "another.blunt")
    settle(window)
    qtbot.wait(50)  # what is to be deleted waits for an event loop
    gc.unfreeze()
    gc.collect()
    assert not [one for one in gc.get_objects() if type(one) is Run and id(one) in ids]
    assert not [one for one in gc.get_objects() if type(one) is Snapshot and one.path == demo_book]
