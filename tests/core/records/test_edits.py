"""Edits as values: what each puts in place, what it takes away, and what it is called."""

from itertools import count

import pytest

from blunt_ruler.core.limits.next_measurement import NextTest, planned
from blunt_ruler.core.plan.matrix import CellState, plan_cells, plan_of
from blunt_ruler.core.plan.plan_edits import one_more_pass, set_plan, toggle_cells
from blunt_ruler.core.records.edits import (
    decide,
    free_name,
    give_reason,
    give_role,
    leave_out,
    rename_rig,
    weigh_case,
)
from blunt_ruler.core.records.hardware import TickState
from blunt_ruler.core.records.records import Decision, Role
from blunt_ruler.core.records.review_edits import delete_review
from blunt_ruler.core.rigs.rig_edits import (
    add_cases,
    add_parts,
    all_parts,
    choose_part,
    in_review,
    join_or_leave,
    measured_bandwidth,
    new_rig,
    remove_cases,
    tick_step,
)
from blunt_ruler.core.runs.import_runs import parse_case
from blunt_ruler.core.values import LONGEST_NAME

RIG, CASE = "sluice-marram-12", "tidewrack-1080p"


@pytest.fixture
def review(demo_contents):
    return demo_contents.reviews["which-link"]


@pytest.fixture
def ids():
    numbers = count()
    return lambda: f"id{next(numbers)}"


def test_where_the_only_review_is_deleted_an_empty_one_follows(demo_contents, review, ids):
    edit = delete_review(demo_contents, review, ids)
    assert review in edit.drop and not edit.put, "there are others"
    others = [one for one in demo_contents.reviews if one != review.id]
    alone = demo_contents.with_records({"reviews": dict.fromkeys(others)})
    (follows,) = delete_review(alone, review, ids).put
    assert not follows.case_ids and follows.id != review.id


def test_names_roles_and_decisions(demo_contents, review):
    edit = rename_rig(demo_contents, RIG, "Mine")
    assert (edit.label, edit.put[0].name) == ("rename Sluice Marram 12", "Mine")
    edit = give_role(demo_contents, review, RIG, Role.BASE)
    assert edit.label == "make Sluice Marram 12 base"
    assert edit.put[0].rig_in(Role.BASE) == RIG
    run = demo_contents.runs[f"{RIG}_{CASE}_1"]
    assert decide(run, decision=Decision.REDO).put[0].decision is Decision.REDO
    assert give_reason(run, "loud").put[0].reason == "loud"
    assert give_reason(run, "loud").label == "reason for pass 1"


def test_cases_in_the_means(demo_contents, review):
    out = leave_out(demo_contents, review, CASE, "capped")
    assert out.label.startswith("leave out Tidewrack")
    assert out.put[0].left_out[0].why == "capped"
    back = leave_out(demo_contents, out.put[0], CASE, None)
    assert back.label.startswith("let in")
    assert back.put[0].left_out == ()
    assert weigh_case(demo_contents, review, CASE, 2.0).put[0].weights[0].weight == 2.0


def test_the_plan(demo_contents, review):
    assert set_plan(demo_contents, review, "x", repeats=plan_of(demo_contents, review).repeats) is (
        None
    )
    assert set_plan(demo_contents, review, "repeats", repeats=9).put[0].repeats == 9
    edit = one_more_pass(demo_contents, review, RIG, CASE)
    assert edit.put[0].extra_of(RIG, CASE) == 1
    assert edit.notice == (
        "One more pass is planned: Sluice Marram 12, Tidewrack / coast run / 1080p / High."
    )
    cells = plan_cells(demo_contents, review, plan_of(demo_contents, review))[:2]
    out = toggle_cells(demo_contents, review, cells)
    assert out.label == "leave out 2 cells"
    contents = demo_contents.with_records({"plans": {out.put[0].id: out.put[0]}})
    now = plan_cells(contents, review, out.put[0])[:2]
    assert {cell.state for cell in now} == {CellState.EXCLUDED}
    assert toggle_cells(contents, review, now).label == "take in 2 cells"


def test_rigs_and_parts(demo_contents, review, ids):
    made = new_rig(demo_contents, review, ids)
    assert made.put[0].name == "New rig"
    assert in_review(made.put[1], made.put[0].id)
    left = join_or_leave(demo_contents, review, RIG)
    assert left.label == "take Sluice Marram 12 out of the review"
    assert not in_review(left.put[0], RIG)
    assert join_or_leave(demo_contents, left.put[0], RIG).put[0].seats[-1].rig_id == RIG
    assert choose_part(demo_contents, RIG, "link", "cord").put[0].link_id == "cord"
    rig = demo_contents.rigs[RIG]
    measured = measured_bandwidth(rig, 2.71828, "sweep").put[0]
    assert (measured.measured_gb_per_s, measured.measured_how) == (2.718, "sweep")
    ticked = tick_step(rig, "plug", TickState.DONE, "2026-01-01", "x", ids)
    assert ticked.label == "done a pre-flight step of Sluice Marram 12"
    parts = all_parts(demo_contents)
    assert add_parts(demo_contents, parts, only_new=True).put == ()
    assert len(add_parts(demo_contents, parts).put) == len(parts)


def test_cases_of_a_review(demo_contents, review, ids):
    known = parse_case("Tidewrack / coast run / 1080p / High")
    assert add_cases(demo_contents, review, [known], ids) is None
    edit = add_cases(demo_contents, review, [parse_case("New / 1080p")], ids)
    assert edit.label == "add New / 1080p"
    assert len(edit.put[-1].case_ids) == len(review.case_ids) + 1
    gone = remove_cases(review, {CASE})
    assert gone.label == "take 1 case out of the review"
    assert CASE not in gone.put[0].case_ids


def test_a_test_for_the_plan(demo_contents, review, ids):
    sweep = NextTest("Sweep the bus", RIG, None, 3.0, 0.1)
    assert planned(demo_contents, review, sweep, ids) is None
    again = NextTest("Again", RIG, CASE, 3.0, 0.1, "1080p", CASE)
    assert planned(demo_contents, review, again, ids).put[-1].extra_of(RIG, CASE) == 1
    other = NextTest("At 720p", RIG, None, 3.0, 0.1, "720p", CASE)
    case, changed, plan = planned(demo_contents, review, other, ids).put
    assert case.resolution == "720p"
    assert changed.case_ids[-1] == case.id
    assert plan.extra_of(RIG, case.id) == 1


@pytest.mark.parametrize("length", [1, 117, 118, 119, LONGEST_NAME])
def test_a_free_name_is_one_the_file_takes(length):
    taken = ["x" * length]
    for _ in range(12):
        taken.append(free_name("x" * length, taken))
        assert len(taken[-1]) <= LONGEST_NAME
    assert len(set(taken)) == 13
