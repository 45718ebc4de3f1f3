"""Adding a true fact never takes a claim away, and order and renaming change nothing."""

import os
from dataclasses import replace

import numpy as np
import pytest
from lab import BASE, REFERENCE, TESTED, Lab

from blunt_ruler.core.claims.standing import Standing
from blunt_ruler.core.records.hardware import RigState

SEEDS = range(2000 if os.environ.get("TEST_DEEP") else 16)
TITLES = ("Tidewrack", "Skitter", "Loom", "Ninefold", "Copper", "Lantern")
WEAKER = [Standing.OPEN, Standing.SLIGHT, Standing.CLEAR]


def some_lab(rng):
    """A review of two to five rigs, some described and some not, on one to four titles."""
    lab = Lab(spread=float(rng.uniform(0.002, 0.02)), passes=int(rng.integers(1, 4)))
    described = rng.random() < 0.7
    lab.rig("Base", BASE, *(("iG", "Mini") if described else ()), built_in=described)
    for place, link in enumerate(("cable", "cord", "edge")[: int(rng.integers(1, 4))]):
        parts = ("M12", "Mini", link) if described and rng.random() < 0.8 else ()
        lab.rig(f"Rig {place}", TESTED, *parts)
    if rng.random() < 0.7:
        lab.rig("Tower", REFERENCE, *(("M12", "Tower", "slot") if described else ()))
    for title in TITLES[: int(rng.integers(1, 5))]:
        level = float(rng.uniform(30, 120))
        for seat in lab.seats:
            if rng.random() < 0.9:
                rate = level * SPEED[seat.rig_id] * float(np.exp(rng.normal(0, 0.05)))
                lab.measured(seat.rig_id, title, rate, rate * 0.7 if rng.random() < 0.6 else None)
    return lab


SPEED = {"Base": 0.4, "Rig 0": 0.75, "Rig 1": 0.85, "Rig 2": 0.95, "Tower": 1.0, "Other": 0.9}


def note_a_state(rng, lab):
    """Something of one rig that nobody noted of the others."""
    seat = lab.seats[int(rng.integers(len(lab.seats)))]
    rig = lab.contents.rigs[seat.rig_id]
    noted = [RigState(power_mode="performance"), RigState(cpu_power_limit_w=28.0),
             RigState(driver="Lamp 6"), RigState(overclock="none")]  # fmt: skip
    own = rig.state.model_dump(exclude_defaults=True)
    told = noted[int(rng.integers(len(noted)))].model_dump(exclude_defaults=True)
    if any(set(other.state.model_dump(exclude_defaults=True)) & set(told)
           for other in lab.contents.rigs.values() if other.id != rig.id):  # fmt: skip
        return  # noted on two rigs it could differ, and then it may take a claim away
    changed = rig.model_copy(update={"state": RigState(**{**own, **told})})
    lab.contents = lab.contents.with_records({"rigs": {rig.id: changed}})


def measure_another_title(rng, lab):
    """A title on every rig, that agrees with the others."""
    unused = [one for one in TITLES if one not in lab.contents.titles]
    if not unused:
        return
    level = float(rng.uniform(30, 120))
    for seat in lab.seats:
        lab.measured(seat.rig_id, unused[0], level * SPEED[seat.rig_id])


def measure_another_rig(rng, lab):
    """A rig of another card, on the titles there are."""
    if any(seat.rig_id == "Other" for seat in lab.seats):
        return
    lab.rig("Other", TESTED, "M16", "Mini", "cord")
    for title in [*lab.contents.titles]:
        lab.measured("Other", title, 80.0)


FACTS = (note_a_state, measure_another_title, measure_another_rig)


def told(lab):
    """What is compared with what, and how it stands."""
    return {
        (one.question, one.subject.rig_id, one.against.rig_id, one.metric): one.standing
        for one in lab.claims.all()
        if one.value is not None and not one.says
    }


@pytest.mark.parametrize("seed", SEEDS)
def test_a_fact_takes_no_claim_away(seed):
    rng = np.random.default_rng(seed)
    lab = some_lab(rng)
    before = told(lab)
    for _ in range(4):
        add = FACTS[int(rng.integers(len(FACTS)))]
        add(rng, lab)
        after = told(lab)
        gone = before.keys() - after.keys()
        assert not gone, (add.__name__, gone)
        if add is note_a_state:
            assert after == before, "what is noted of one rig changes no standing"
        before = after


@pytest.mark.parametrize("seed", list(SEEDS)[:8])
def test_the_order_of_what_was_typed_changes_nothing(seed):
    rng = np.random.default_rng(seed)
    lab = some_lab(rng)
    said = sorted(lab.sentences("gain")), sorted(lab.sentences("loss"))
    runs = [*lab.contents.runs.items()]
    rng.shuffle(runs)
    lab.contents = replace(lab.contents, runs=dict(runs))
    assert (sorted(lab.sentences("gain")), sorted(lab.sentences("loss"))) == said


@pytest.mark.parametrize("seed", list(SEEDS)[:8])
def test_a_title_that_agrees_never_weakens_a_standing(seed):
    rng = np.random.default_rng(seed)
    lab = Lab(spread=0.01).rig("Base", BASE).rig("Rig 0")
    for place in range(6):
        level, gain = float(rng.uniform(30, 120)), float(rng.uniform(1.05, 1.6))
        lab.measured("Base", TITLES[place], level)
        lab.measured("Rig 0", TITLES[place], level * gain)
        standings = [one.standing for one in lab.claims.about("Rig 0")]
        assert standings[0] is Standing.CLEAR
        assert all(WEAKER.index(one) == 2 for one in standings)
