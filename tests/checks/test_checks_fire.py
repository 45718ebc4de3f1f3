"""Every check fires on a bench that has its fault: in at least 95 % of the seeds."""

import os

import pytest

from blunt_ruler.core.checks.all import check_runs
from blunt_ruler.core.checks.findings import Check

SEEDS = 20 if os.environ.get("TEST_DEEP") else 3
MOST_MISSED = SEEDS // 6
TIDEWRACK, CORD, CABLE = "tidewrack-1080p", "groyne-marram-12", "sluice-marram-12"
TOWER = "workbench-marram-12"

ALONE = [
    (Check.FRAME_CAP, CABLE, "copper-meridian-1080p", {"cap_fps": 60.0}),
    (Check.FRAME_CAP, TOWER, "skitter-1080p", {"cap_fps": 111.0}),
    (Check.FRAME_CAP, CORD, TIDEWRACK, {"refresh_hz": 60.0}),
    (Check.FRAME_CAP, CABLE, "low-lantern-1080p", {"refresh_hz": 144.0}),
    (Check.MENU_LEFT_IN, TOWER, "low-lantern-1080p", {"menu_s": 4.0}),
    (Check.MENU_LEFT_IN, CABLE, TIDEWRACK, {"loading_s": 4.0}),
    (Check.MENU_LEFT_IN, CORD, "glass-orchard-1080p", {"tail_s": 4.0}),
    (Check.FIRST_PASS_STUTTER, CORD, "copper-meridian-1080p", {"first_pass": True}),
    (Check.DRIFT, TOWER, "glass-orchard-1080p", {"hot": True}),
    (Check.TOO_SHORT, CORD, TIDEWRACK, {"seconds": 12.0}),
    (Check.RECORDER_ON, CABLE, "skitter-1080p", {"recorder_on": True}),
    (Check.BUILT_IN_WORKING, CORD, TIDEWRACK, {"built_in_draws": True}),
    (Check.NARROW_LINK, CORD, "copper-meridian-1440p", {"link_share": 0.5}),
    (Check.GENERATED_FRAMES, TOWER, TIDEWRACK, {"generated": True}),
]
BESIDE_REPEATS = [
    (Check.WRONG_DEVICE, CORD, TIDEWRACK, {"wrong_output": True}),
    (Check.COLLAPSED_LOW, TOWER, "low-lantern-1080p", {"starved": True}),
    (Check.DISAGREEING_REPEAT, TOWER, TIDEWRACK, {"power_share": 0.6}),
]


def named(lab, run):
    checked = check_runs(lab.contents, lab.review)
    return {finding.check for finding in checked.by_run.get(run.id, ())}


@pytest.mark.parametrize(("check", "rig", "case", "fault"), ALONE)
def test_a_faulty_run_is_named(new_lab, check, rig, case, fault):
    labs = [new_lab() for _ in range(SEEDS)]
    hits = [
        check in named(lab, lab.take(rig, case, seed, **fault)) for seed, lab in enumerate(labs)
    ]
    assert sum(hits) >= SEEDS - MOST_MISSED


@pytest.mark.parametrize(("check", "rig", "case", "fault"), BESIDE_REPEATS)
def test_a_faulty_repeat_is_named(new_lab, check, rig, case, fault):
    hits = 0
    for seed in range(SEEDS):
        lab = new_lab()
        faulty = lab.take(rig, case, seed, 1, **fault)
        for repeat in (2, 3):
            lab.take(rig, case, seed, repeat)
        hits += check in named(lab, faulty)
    assert hits >= SEEDS - MOST_MISSED


def across(new_lab, check, takes):
    """How many seeds name the check when these passes are taken."""
    hits = 0
    for seed in range(SEEDS):
        lab = new_lab()
        for number, (rig, case, fault) in enumerate(takes):
            lab.take(rig, case, 100 * number + seed, **fault)
        hits += check in {one.check for one in check_runs(lab.contents, lab.review).findings}
    return hits


@pytest.mark.parametrize(
    ("check", "takes"),
    [
        (
            Check.FASTER_AT_HIGHER_RESOLUTION,  # the lower one was really played on slow clocks
            [
                (TOWER, "tidewrack-1440p", {}),
                (TOWER, TIDEWRACK, {"power_share": 0.3, "play": "tidewrack-2160p"}),
            ],
        ),
        (
            Check.FLAT_OVER_RESOLUTION,  # the resolution was not applied
            [(TOWER, TIDEWRACK, {}), (TOWER, "tidewrack-2160p", {"play": TIDEWRACK})],
        ),
        (
            Check.LESSER_PART_WINS,
            [
                ("breakwater-marram-12", "glass-orchard-1080p", {"power_share": 0.4}),
                (CORD, "glass-orchard-1080p", {}),
            ],
        ),
        (
            Check.SETTINGS_CHANGED,  # one rig drew another resolution, with other memory
            [
                (CORD, TIDEWRACK, {}),
                (TOWER, TIDEWRACK, {}),
                (CABLE, TIDEWRACK, {"play": "tidewrack-2160p"}),
            ],
        ),
        (
            Check.BELOW_POWER_LIMIT,
            [
                (TOWER, case, {"power_share": 0.6})
                for case in (TIDEWRACK, "tidewrack-2160p", "glass-orchard-1080p")
            ],
        ),
    ],
)
def test_rigs_and_resolutions_that_cannot_be_are_named(new_lab, check, takes):
    assert across(new_lab, check, takes) >= SEEDS - MOST_MISSED
