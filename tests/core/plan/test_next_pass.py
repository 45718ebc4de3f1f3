"""The sheet at work: which pass comes next, what is done before it, and how it is said."""

from dataclasses import replace

import pytest

from blunt_ruler.core.plan.bench_plan import derive_bench_plan
from blunt_ruler.core.plan.next_pass import newest_run, next_pass, pass_on, settings_of, work_line
from blunt_ruler.core.records.records import Case, Contents, Decision, Origin, Run, TypedFigures


@pytest.fixture(scope="module")
def planned(demo_contents):
    review = demo_contents.reviews["which-link"]
    return demo_contents, review, derive_bench_plan(demo_contents, review)


def taken(contents, rig_id, case_id, at, repeat=9):
    """The contents with one more run, taken at a moment."""
    run = Run(
        id=f"{rig_id}-{case_id}-{repeat}",
        rig_id=rig_id,
        case_id=case_id,
        repeat=repeat,
        taken_at=at,
        origin=Origin(kind="typed"),
        typed=TypedFigures(average_fps=60.0),
    )
    return contents.with_records({"runs": {run.id: run}})


def test_it_stays_on_the_rig_of_the_newest_run(planned):
    contents, review, worked = planned
    assert newest_run(contents, review).rig_id == "built-in-ig-6", "the figure typed at the end"
    going = next_pass(contents, review, worked)
    assert going.rig_id == "built-in-ig-6"
    assert not any(step.startswith("Set up") for step in going.steps)
    later = taken(contents, "groyne-marram-12", "skitter-1080p", "2026-11-01T10:00:00+00:00")
    moved = next_pass(later, review, worked)
    assert moved.rig_id == "groyne-marram-12"


def test_it_stays_with_the_title_that_is_loaded(planned):
    contents, review, worked = planned
    rig = "groyne-marram-12"
    later = taken(contents, rig, "copper-meridian-1080p", "2026-11-01T10:00:00+00:00")
    going = next_pass(later, review, worked)
    assert later.cases[going.case_id].title_id == "copper-meridian"
    assert not any(step.startswith("Load") for step in going.steps)


def test_the_next_repeat_follows_those_there_are(planned):
    contents, review, worked = planned
    last = newest_run(contents, review)
    one = pass_on(contents, worked, "groyne-marram-12", "tidewrack-1080p", last)
    assert one.repeat == 5, "three kept and the one that was set aside"
    fresh = Contents.empty().with_records(
        {"rigs": contents.rigs, "cases": contents.cases, "titles": contents.titles}
    )
    assert pass_on(fresh, worked, "groyne-marram-12", "tidewrack-1080p", None).repeat == 1


def test_another_rig_is_set_up_first_and_gone_through(planned):
    contents, review, worked = planned
    last = newest_run(contents, review)
    steps = pass_on(contents, worked, "groyne-marram-12", "tidewrack-1440p", last).steps
    assert steps[0] == "Set up Groyne Marram 12."
    assert steps[1].startswith("Go through pre-flight: ")
    assert "Load Tidewrack." in steps
    assert "Set 1440p, High, frame cap off." in steps
    assert steps.index("Load Tidewrack.") < steps.index("Set 1440p, High, frame cap off.")


def test_with_nothing_taken_yet_the_order_decides(planned):
    contents, review, worked = planned
    bare = replace(contents, runs={})
    going = next_pass(bare, review, derive_bench_plan(bare, review))
    assert going.rig_id == worked.order.tour.order[0]
    assert going.repeat == 1
    assert newest_run(bare, review) is None


def test_when_all_is_done_it_says_so(planned):
    contents, review, worked = planned
    done = replace(worked, kept=tuple(replace(cell, left=0) for cell in worked.kept))
    assert next_pass(contents, review, done) is None
    assert "Every planned pass is done" in work_line(contents, None)


def test_the_line_names_case_rig_pass_and_what_is_left(planned):
    contents, review, worked = planned
    going = next_pass(contents, review, worked)
    line = work_line(contents, going)
    assert line.startswith(f"Next: {contents.case_label(going.case_id)} on Built-in iG-6, pass")
    assert line.endswith("100 passes left.")


def test_runs_that_are_set_aside_do_not_count_as_taken_later(planned):
    contents, review, _ = planned
    run = newest_run(contents, review)
    aside = run.model_copy(update={"decision": Decision.SET_ASIDE})
    changed = contents.with_records({"runs": {run.id: aside}})
    assert newest_run(changed, review).id == run.id, "the rig stands where it was set up"


def test_settings_are_written_out_and_the_cap_is_always_said():
    bare = Case(id="c", title_id="t")
    assert settings_of(bare) == (("frame cap", "off"),)
    full = Case(
        id="c",
        title_id="t",
        scene="coast",
        method="live play",
        resolution="1440p",
        preset="High",
        upscaler="quality",
        ray_tracing="on",
        frame_generation="off",
        graphics_api="one",
        frame_cap_fps=60,
    )
    said = dict(settings_of(full))
    assert said["frame cap"] == "60\u202ffps"
    assert said["upscaler"] == "quality"
    assert list(said)[:4] == ["scene", "method", "resolution", "preset"]
