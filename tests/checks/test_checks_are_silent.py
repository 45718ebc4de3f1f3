"""Checks stay silent on sound runs: under 2 % false alarms each, over rigs, titles and seeds."""

import os
from collections import Counter

import pytest

from blunt_ruler.core.checks.all import check_runs
from blunt_ruler.core.checks.findings import Check
from blunt_ruler.demo import scenario

RIGS = ("built-in-ig-6", "sluice-marram-12", "groyne-marram-12", "workbench-marram-16")
DEEP = bool(os.environ.get("TEST_DEEP"))
SEEDS, CASES = (6, 10) if DEEP else (1, 6)


@pytest.fixture(scope="module")
def alarms(new_lab):
    """(false alarms by check, sound runs): three passes of every case on four rigs, some seeds."""
    counted, runs = Counter(), 0
    for seed in range(SEEDS):
        lab = new_lab()
        for rig in RIGS:
            for case in scenario.CASES[:CASES]:
                for repeat in (1, 2):
                    lab.take(rig, case.id, 100 + seed, repeat)
        counted.update(one.check for one in check_runs(lab.contents, lab.review).findings)
        runs += len(lab.contents.runs)
    return counted, runs


@pytest.mark.parametrize("check", list(Check))
def test_a_check_is_silent_on_sound_runs(alarms, check):
    counted, runs = alarms
    assert runs == 8 * CASES * SEEDS
    assert counted[check] <= max(0.02 * runs, 1)
