"""Edits made out of what was on screen, put onto what others made of it meanwhile."""

import random
from dataclasses import replace

import pytest

from blunt_ruler.core.records.edits import Edit, change_review, give_role, put
from blunt_ruler.core.records.hardware import Hop, Link, Rig
from blunt_ruler.core.records.rebase import rebased
from blunt_ruler.core.records.records import Contents, Review, ReviewRig, Role


def contents_of(*records):
    return put("fill", *records).on(Contents.empty())


RIGS = tuple(Rig(id=key, name=f"Rig {key}") for key in "abc")
REVIEW = Review(id="v", name="Review", seats=tuple(ReviewRig(rig_id=rig.id) for rig in RIGS))
SEEN = contents_of(*RIGS, REVIEW)


def both(first, second):
    """What is there when two edits are made out of the same screen, one after the other."""
    now = first.on(SEEN)
    return rebased(second, SEEN, now).on(now)


def test_two_cases_added_in_a_row_are_both_there():
    first = change_review(REVIEW, "one", case_ids=("k1",))
    second = change_review(REVIEW, "two", case_ids=("k2",))
    assert both(first, second).reviews["v"].case_ids == ("k1", "k2")


def test_two_fields_of_one_record_are_both_changed():
    rig = RIGS[0]
    first = put("name", rig.model_copy(update={"name": "Cable"}))
    second = put("note", rig.model_copy(update={"notes": "warm"}))
    found = both(first, second).rigs["a"]
    assert (found.name, found.notes) == ("Cable", "warm")


def test_of_one_field_the_later_stands():
    first = put("name", RIGS[0].model_copy(update={"name": "Cable"}))
    second = put("name", RIGS[0].model_copy(update={"name": "Cord"}))
    assert both(first, second).rigs["a"].name == "Cord"


def test_fields_inside_a_part_are_told_apart():
    state = RIGS[0].state
    first = put("d", RIGS[0].model_copy(update={"state": state.model_copy(update={"driver": "7"})}))
    mode = state.model_copy(update={"power_mode": "quiet"})
    second = put("p", RIGS[0].model_copy(update={"state": mode}))
    found = both(first, second).rigs["a"].state
    assert (found.driver, found.power_mode) == ("7", "quiet")


def test_a_row_that_one_took_out_stays_out_and_one_that_came_stays_in():
    fewer = change_review(REVIEW, "leave", seats=REVIEW.seats[1:])
    more = change_review(REVIEW, "join", seats=(*REVIEW.seats, ReviewRig(rig_id="d")))
    for first, second in ((fewer, more), (more, fewer)):
        assert [seat.rig_id for seat in both(first, second).reviews["v"].seats] == ["b", "c", "d"]


def test_two_bases_are_one():
    first = give_role(SEEN, REVIEW, "a", Role.BASE)
    second = give_role(SEEN, REVIEW, "b", Role.BASE)
    roles = {seat.rig_id: seat.role for seat in both(first, second).reviews["v"].seats}
    assert roles == {"a": Role.TESTED, "b": Role.BASE, "c": Role.TESTED}


def test_rows_that_cannot_be_told_apart_are_as_the_edit_has_them():
    hop = Hop(name="hop", generation=4, lanes=4)
    link = Link(id="l", name="Link", hops=(hop, hop))
    seen = contents_of(link)
    first = put("one", link.model_copy(update={"hops": (hop, hop, hop)}))
    second = put("two", link.model_copy(update={"hops": (hop,)}))
    now = first.on(seen)
    assert rebased(second, seen, now).on(now).links["l"].hops == (hop,)


def test_what_is_gone_is_put_back_as_the_edit_has_it():
    now = Edit("drop", drop=(RIGS[0],)).on(SEEN)
    second = put("name", RIGS[0].model_copy(update={"name": "Cable"}))
    assert rebased(second, SEEN, now).on(now).rigs["a"].name == "Cable"


def test_an_edit_of_what_is_there_is_itself():
    edit = put("name", RIGS[0].model_copy(update={"name": "Cable"}))
    assert rebased(edit, SEEN, SEEN) is edit
    same = replace(SEEN, titles={})
    assert rebased(edit, SEEN, same) == edit


@pytest.mark.parametrize("seed", range(30))
def test_edits_of_different_fields_are_those_made_one_after_the_other(seed):
    """Whatever the order, each finds what the other did."""
    rng = random.Random(seed)
    rig = Rig(id="r", name="Rig", sweep=((1.0, 2.0),))
    seen = contents_of(rig)
    values = {"name": f"N{seed}", "notes": f"n{seed}", "measured_gb_per_s": 1.0 + seed}
    values["sweep"] = ((1.0, 2.0), (4.0, 3.0 + seed))
    names = rng.sample(list(values), len(values))
    now = seen
    for name in names:
        edit = put(name, rig.model_copy(update={name: values[name]}))
        now = rebased(edit, seen, now).on(now)
    assert now.rigs["r"] == rig.model_copy(update=values)
