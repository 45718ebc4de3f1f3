"""The dial: states of a slot as rigs of their own, read by ladder, plan, pre-flight and bench."""

from itertools import count, pairwise

import pytest

from blunt_ruler.bench.simulator import Setting, play_run
from blunt_ruler.bench.specs import bench_rig, bench_rigs, bench_titles
from blunt_ruler.core.plan.bench_order import swap_minutes
from blunt_ruler.core.records.hardware import Hop, Link, Rig
from blunt_ruler.core.records.plan_settings import Plan
from blunt_ruler.core.rigs.dial import (
    DialState,
    dial_line,
    dial_states,
    dialled,
    is_same_way,
    own_state,
    state_named,
    turn_dial,
    usual_states,
    why_no_dial,
)
from blunt_ruler.core.rigs.differences import what_differs
from blunt_ruler.core.rigs.links import ladder_or_why
from blunt_ruler.core.rigs.preflight import steps_for
from blunt_ruler.core.values import LONGEST_NAME

SLOT, TUNNEL = "workbench-marram-12", "sluice-marram-12"
ASKED = (DialState(4, 8), DialState(3, 8), DialState(3, 1))


@pytest.fixture(scope="module")
def turned(demo_contents):
    numbers = count()
    review = demo_contents.reviews["which-link"]
    edit = turn_dial(demo_contents, review, SLOT, ASKED, lambda: f"new-{next(numbers)}")
    tables = {
        "rigs": {one.id: one for one in edit.put if isinstance(one, Rig)},
        "links": {one.id: one for one in edit.put if isinstance(one, Link)},
        "reviews": {edit.put[-1].id: edit.put[-1]},
    }
    return edit, demo_contents.with_records(tables)


def test_states_are_all_below_the_rig_s_own(demo_contents):
    own = own_state(demo_contents, SLOT)
    assert own == DialState(4, 16)
    states = dial_states(demo_contents, SLOT)
    assert len(states) == 4 * 5 - 1
    assert all(one.generation <= 4 and one.lanes <= 16 and one != own for one in states)
    usual = usual_states(demo_contents, SLOT)
    assert 3 <= len(usual) <= 5
    rates = [own.gb_per_s, *(one.gb_per_s for one in usual)]
    assert all(later <= 0.55 * before for before, later in pairwise(rates))


@pytest.mark.parametrize(
    ("rig", "says"), [(TUNNEL, "tunnel"), ("built-in-ig-6", "no add-in card"), ("nobody", "Choose")]
)
def test_what_has_no_dial_says_why(demo_contents, rig, says):
    assert says in why_no_dial(demo_contents, rig)
    assert says in dial_line(demo_contents, rig)
    assert dial_states(demo_contents, rig) == ()


def test_each_state_is_a_rig_whose_ladder_stops_there(turned, demo_contents):
    edit, contents = turned
    made = [one for one in edit.put if isinstance(one, Rig)]
    assert [one.name for one in made] == [f"Workbench Marram 12 at {one.name}" for one in ASKED]
    for rig, state in zip(made, ASKED, strict=True):
        ladder, _why = ladder_or_why(contents, rig)
        agreed = ladder.negotiated
        assert (agreed.generation, agreed.lanes) == (state.generation, state.lanes)
        assert agreed.lanes_set_by == "set in firmware"
        assert rig.measured_gb_per_s is None
        parts = {one.part for one in what_differs(contents, SLOT, rig.id)}
        assert parts <= {"link", "rig"}, "host, card, dock and state are the same"
    seats = {seat.rig_id for seat in contents.reviews["which-link"].seats}
    assert {one.id for one in made} <= seats
    again = turn_dial(contents, contents.reviews["which-link"], SLOT, ASKED, lambda: "x")
    assert again.put == (), "what is a rig already is left alone"
    assert set(dialled(contents, SLOT)) == set(ASKED)
    assert "3.0 x8" in dial_line(contents, SLOT)
    assert own_state(demo_contents, SLOT) == own_state(contents, SLOT)


def test_a_switch_is_not_set_in_the_firmware_and_long_names_stay_within_bounds(demo_contents):
    link = demo_contents.link_of(SLOT)
    hops = (*link.hops, Hop(name="board switch", generation=4, lanes=4))
    behind = link.model_copy(update={"hops": hops})
    contents = demo_contents.with_records({"links": {link.id: behind}})
    assert "switch" in why_no_dial(contents, SLOT)
    long = demo_contents.rigs[SLOT].model_copy(update={"name": "W" * LONGEST_NAME})
    contents = demo_contents.with_records({"rigs": {SLOT: long}})
    numbers = count()
    edit = turn_dial(contents, None, SLOT, ASKED, lambda: f"new-{next(numbers)}")
    names = [one.name for one in edit.put if isinstance(one, Rig)]
    assert len(set(names)) == len(names) == 3
    for one in edit.put:
        assert type(one).model_validate(one.model_dump()) == one, "the file takes it back"


def test_the_plan_counts_a_restart_and_no_swap(turned):
    edit, contents = turned
    first, second = [one.id for one in edit.put if isinstance(one, Rig)][:2]
    plan = Plan(id="p")
    assert plan.swaps.state != plan.swaps.link
    assert swap_minutes(contents, plan, SLOT, first) == plan.swaps.state
    assert swap_minutes(contents, plan, first, second) == plan.swaps.state
    assert swap_minutes(contents, plan, SLOT, TUNNEL) > plan.swaps.link
    link = contents.link_of(SLOT)
    assert not is_same_way(link, link), "two equal links are no turn of the dial"


def test_pre_flight_asks_for_the_setting_and_expects_its_reading(turned):
    edit, contents = turned
    rig = edit.put[0]
    steps = {one.key: one for one in steps_for(contents, rig.id)}
    assert "4.0 x8" in steps["set_lanes"].do
    assert "4.0 x8" in steps["link_under_load"].expected
    assert "set_lanes" not in {one.key for one in steps_for(contents, SLOT)}


def test_the_bench_plays_a_state_slower_the_narrower_it_is():
    setting = Setting(bench_titles()["Tidewrack"], "1080p", "High", 8.0)
    names = ["Workbench Marram 12", *(f"Workbench Marram 12 at {one.name}" for one in ASKED)]
    rates = []
    for name in names:
        times = play_run(bench_rig(name), setting, 3).frame_times_ms
        rates.append(1000 * times.size / times.sum())
    assert rates == sorted(rates, reverse=True)
    assert rates[-1] < 0.8 * rates[0]
    narrow = bench_rig("Workbench Marram 12 at 3.0 x1")
    whole = bench_rigs()["Workbench Marram 12"]
    assert narrow.down_gb_per_s == pytest.approx(whole.down_gb_per_s / 32, rel=0.01)
    assert (narrow.link_generation, narrow.link_lanes) == (3, 1)


@pytest.mark.parametrize("name", ["Workbench", "Nobody at 3.0 x8", "Workbench Marram 12 at 3.0 x3"])
def test_other_names_are_no_states(name):
    assert bench_rig(name) is None


def test_a_name_is_read_back():
    assert state_named("Workbench Marram 12 at 1.0 x16") == (
        "Workbench Marram 12",
        DialState(1, 16),
    )
