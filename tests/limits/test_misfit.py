"""Where the model is wrong it says so: planted on the bench, found by the pattern, withheld."""

import numpy as np
import pytest

from blunt_ruler.bench.simulator import Faults
from blunt_ruler.core.analysis.analyse import settle
from blunt_ruler.core.claims.causes import limits_line
from blunt_ruler.core.limits.misfit import Kind

TITLES = ("Tidewrack", "Copper Meridian", "Glass Orchard", "Ninefold Siege")
SIZES = ("1080p", "1440p", "2160p")
SMALL = ("mobile", "small", "b")


@pytest.fixture(scope="module")
def sound(lab):
    """What the bench gives without faults: every rig, four titles, three sizes."""
    return {
        (rig, title, size, "High"): lab.played(1, rig, title, size)
        for rig in lab.rigs
        for title in TITLES
        for size in SIZES
    }


def bare(figures):
    """The same as somebody who reads only the rate has it."""
    return {key: (rate, None) for key, (rate, _) in figures.items()}


def withheld(lab, figures):
    report = settle(*lab.book(figures)).limits
    assert report.fit is not None, report.why_not
    return report, {key: one.kind for key, one in report.withheld.items()}


@pytest.mark.parametrize("read", [dict, bare], ids=["with meters", "rates alone"])
def test_nothing_is_withheld_of_sound_cells(lab, sound, read):
    _, found = withheld(lab, read(sound))
    assert found == {}


@pytest.mark.parametrize("read", [dict, bare], ids=["with meters", "rates alone"])
def test_a_small_card_whose_memory_overflows_is_named(lab, sound, read):
    figures = dict(sound)
    for rig in lab.rigs:
        for preset in ("Low", "Max"):
            full = rig == SMALL and preset == "Max"
            faults = Faults(overflow_gb=1.5 if full else 0.0)
            key = (rig, "Tidewrack", "1440p", preset)
            figures[key] = lab.played(1, rig, "Tidewrack", "1440p", preset, faults)
    report, found = withheld(lab, read(figures))
    key = ("mobile small b", "Tidewrack 1440p Max")
    assert found == {key: Kind.MEMORY}
    assert "memory overflows" in report.withheld[key].why
    assert report.cell(*key) is None
    assert report.limits()[key] == "memory"


def test_a_cap_that_no_check_saw_is_named(lab, sound):
    figures = bare(sound)
    capped = [("mobile", "large", "d"), ("mobile", "middle", "e")]
    for rig in capped:
        for size in ("1080p", "1440p"):
            figures[rig, "Copper Meridian", size, "High"] = (60.0, None)
    report, found = withheld(lab, figures)
    board = report.board
    for rig in capped:
        for size in ("1080p", "1440p"):
            key = (" ".join(rig), f"Copper Meridian {size} High")
            stopped = board.cells[key].standing.worst != "clean"
            assert stopped or found.get(key) is Kind.CAP, key


def dynamic(lab, sound):
    """Glass Orchard, which draws fewer pixels to hold 75."""
    keys = [(rig, "Glass Orchard", size, "High") for rig in lab.rigs for size in SIZES]
    return sound | {key: lab.played(1, *key, Faults(dynamic_fps=75.0)) for key in keys}


def two_paces(_lab, sound):
    """One that each card of the tower holds at a pace of its own, read by eye."""
    paces = {"middle": 51.3, "large": 83.7}
    cells = {(rig, *of): found for (rig, *of), found in sound.items() if of[0] != "Glass Orchard"}
    for card, pace in paces.items():
        for size in SIZES:
            cells[("tower", card, "f"), "Glass Orchard", size, "High"] = (pace, None)
    return bare(cells)


@pytest.mark.parametrize("play", [dynamic, two_paces])
def test_a_title_that_draws_fewer_pixels_is_named(lab, sound, play):
    report, found = withheld(lab, play(lab, sound))
    named = {case for (_, case), kind in found.items() if kind is Kind.RESOLUTION}
    assert named == {f"Glass Orchard {size} High" for size in SIZES}
    assert set(found.values()) == {Kind.RESOLUTION}
    assert "lowers its own resolution" in next(iter(report.withheld.values())).why


@pytest.mark.parametrize("read", [dict, bare], ids=["with meters", "rates alone"])
def test_one_slow_core_is_named_and_does_not_slow_the_host(lab, sound, read):
    figures = dict(sound)
    for rig in lab.rigs:
        if rig[0] == "tower":
            for size in SIZES:
                key = (rig, "Tidewrack", size, "High")
                figures[key] = lab.played(1, *key, Faults(slow_core=True))
    report, found = withheld(lab, read(figures))
    assert set(found.values()) == {Kind.CORE}
    assert all("Tidewrack" in case and rig.startswith("tower") for rig, case in found)
    fit = report.fit
    slower = np.exp(fit.x[fit.layout.host("mobile")] if fit.measured.host == "tower" else 0.0)
    assert slower == pytest.approx(1 / 0.8, rel=0.05) or fit.measured.host == "mobile"


def test_the_sentence_does_not_lean_on_a_withheld_cell(lab, sound):
    figures = bare(sound)
    figures[SMALL, "Tidewrack", "1080p", "High"] = (9.0, None)
    report, _ = withheld(lab, figures)
    assert limits_line(report, "mobile small b")


def test_where_nothing_is_left_the_reason_is_the_sentence(lab, sound):
    paces = {"middle": 51.3, "large": 83.7}
    figures = {
        (("tower", card, "f"), "Glass Orchard", size, "High"): (pace, None)
        for card, pace in paces.items()
        for size in SIZES
    }
    report = settle(*lab.book(figures)).limits
    assert report.fit is None
    assert "lowers its own resolution" in report.why_not
