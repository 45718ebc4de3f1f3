"""What keeps a reading from going to a rig and a case as they are written."""

import pytest

from blunt_ruler.ui.runs.read_into import why_not_into

CASE = "Tidewrack / coast run / 1080p / High"


@pytest.mark.parametrize("rig", ["", "  ", "\u202e", "\t\u200f "])
def test_a_rig_of_unseen_signs_has_no_name(rig):
    assert why_not_into(rig, CASE, " of pass 2") == "Name the rig of pass 2"


@pytest.mark.parametrize("case", ["", " ", "\u202e"])
def test_a_case_of_unseen_signs_has_no_name(case):
    assert why_not_into("Dock", case).startswith("Name the case, as in “")


def test_a_name_may_be_written_from_right_to_left():
    assert why_not_into("\u05d0\u05d1", CASE) == ""


def test_a_name_is_not_longer_than_a_record_takes():
    assert "Give it at most" in why_not_into("x" * 5000, CASE)
