"""Logs find their pass by what they say of themselves."""

import pytest

from blunt_ruler.core.runs.matching import match_log


@pytest.fixture(scope="module")
def demo(demo_contents):
    return demo_contents, demo_contents.reviews["which-link"]


CELL = ("sluice-marram-12", "tidewrack-1080p")


@pytest.mark.parametrize(
    ("stem", "says", "cell", "sure"),
    [
        ("groyne-marram-12_tidewrack_1440p_high", (), ("groyne-marram-12", "tidewrack-1440p"), 1),
        ("run 17", (), CELL, 0),
        ("tidewrack 2160p", (), ("sluice-marram-12", "tidewrack-2160p"), 0),
        ("Workbench Marram 12", (), ("workbench-marram-12", "tidewrack-1080p"), 0),
        ("sluice marram 12 tidewrack", (), CELL, 1),
        (
            "capture",
            (("rig", "Groyne Marram 12"), ("title", "Skitter"), ("resolution", "1080p")),
            ("groyne-marram-12", "skitter-1080p"),
            1,
        ),
    ],
)
def test_a_log_finds_its_pass(demo, stem, says, cell, sure):
    match = match_log(*demo, stem, says, CELL)
    assert (match.rig_id, match.case_id, match.sure) == (*cell, bool(sure))
    assert match.why


def test_a_log_that_says_nothing_has_no_place_when_nothing_is_next(demo):
    assert match_log(*demo, "run 17", (), None) is None
    assert match_log(*demo, "tidewrack 1080p", (), None) is None
