"""Memory after many edits stays near that after a few, on the stop that holds the most."""

import os

import psutil
import pytest
from reach import Hand

from blunt_ruler.core.records.records import Decision

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
