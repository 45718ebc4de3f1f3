"""How often checks speak on benches we did not make; many more seeds under TEST_DEEP."""

import base64
import os
from collections import Counter
from dataclasses import replace

import numpy as np
import pytest
from strangers import (
    ALIKE,
    AWKWARD,
    PLANTS,
    RIGS,
    SHAPES,
    Scene,
    contents_of,
    plant,
    review_alike,
    review_of,
    review_of_shots,
    run_of,
)

from blunt_ruler.core.checks.all import check_runs
from blunt_ruler.core.checks.answers import ask_again, this_is_the_scene, trim_all
from blunt_ruler.core.checks.findings import About, Check, Sure
from blunt_ruler.core.measure.courses import courses
from blunt_ruler.core.measure.profile import (
    peaks_text,
    profile_from,
    profile_of,
    profile_text,
    same_recording,
)
from blunt_ruler.core.records.records import Origin, Run, Trace, TypedFigures
from blunt_ruler.core.records.severity import Severity

DEEP = bool(os.environ.get("TEST_DEEP"))
SEEDS = 40 if DEEP else 2
# What the planted run may be called; a run can be named for what its fault does.
NAMES = {
    "capped": {"frame_cap"},
    "capped in part": {"frame_cap", "dynamic_resolution"},
    "menu at the start": {"menu_left_in"},
    "loading at the end": {"menu_left_in"},
    "menu in the middle": {"menu_left_in"},
    "menu of like rate": {"menu_left_in"},
    "evenly generated": {"generated_frames"},
    "unevenly generated": {"generated_frames"},
    "shader stutter": {"first_pass_stutter"},
    "freeze": {"freeze"},
    "dynamic resolution": {"dynamic_resolution", "frame_cap"},
    "re-saved": {"same_trace"},
    "bursts": {"something_else", "disagreeing_repeat", "dynamic_resolution"},
    "hot": {"drift"},
    "cut short": {"cut_short"},
    "download": {"something_else", "dynamic_resolution", "drift", "menu_left_in"},
    "throttled for a while": {"something_else", "dynamic_resolution", "drift"},
}


def stopped(checked):
    return {
        run_id
        for run_id, found in checked.by_run.items()
        if any(one.severity is Severity.BLOCKING for one in found)
    }


@pytest.mark.parametrize(
    ("shapes", "with_telemetry", "most"),
    [
        (SHAPES, True, 0.01),
        pytest.param(SHAPES, False, 0.02, marks=pytest.mark.deep),
        (AWKWARD, True, 0.05),
        pytest.param(AWKWARD, False, 0.05, marks=pytest.mark.deep),
    ],
)
def test_sound_runs_of_other_benches_are_not_stopped(shapes, with_telemetry, most):
    bad = runs = 0
    for seed in range(SEEDS):
        contents, review, _ = review_of(seed, shapes, None, with_telemetry)
        bad += len(stopped(check_runs(contents, review)))
        runs += len(contents.runs)
    assert bad <= max(most * runs, 1 if runs < 200 else 0)


@pytest.mark.deep
@pytest.mark.parametrize(
    ("with_telemetry", "most"), [(True, 0.01), pytest.param(False, 0.02, marks=pytest.mark.deep)]
)
def test_benchmarks_with_hard_cuts_are_not_stopped(with_telemetry, most):
    bad = runs = 0
    for seed in range(SEEDS):
        contents, review = review_of_shots(seed, with_telemetry)
        bad += len(stopped(check_runs(contents, review)))
        runs += len(contents.runs)
    assert bad <= max(most * runs, 1)


@pytest.mark.parametrize("planted", PLANTS)
def test_a_planted_fault_is_named_and_no_other_run_is_stopped(planted):
    hits, accused, others = 0, 0, 0
    for seed in range(SEEDS if DEEP else 2):  # rates are counted by `make measure`
        shapes = (SHAPES[seed % len(SHAPES)], "hills")
        contents, review, bad = review_of(500 + seed, shapes, planted)
        checked = check_runs(contents, review)
        hits += any(one.check in NAMES[planted] for one in checked.by_run.get(bad, ()))
        accused += len(stopped(checked) - {bad})
        others += len(contents.runs) - 1
    assert hits >= (0.8 * SEEDS if DEEP else 1)
    assert accused <= max(1, 0.01 * others)


def typed_cells(values, case="k0", rig="near"):
    runs = {}
    for number, value in enumerate(values, 1):
        run = Run(
            id=f"{rig}-{case}-{number}",
            rig_id=rig,
            case_id=case,
            repeat=number,
            origin=Origin(kind="typed"),
            typed=TypedFigures(average_fps=value),
        )
        runs[run.id] = run
    return runs


def cell_of(values, others=()):
    contents, review, _ = review_of(0, ("flat",) * 4, None, False, seconds=2.0)
    runs = dict(typed_cells(values))
    for rig, case, level in others:
        runs |= typed_cells((level, level * 1.01), case, rig)
    contents = replace(contents, runs=runs)
    return check_runs(contents, review)


@pytest.mark.parametrize("order", [(51.9, 52.3, 519), (519, 51.9, 52.3), (52.3, 519, 51.9)])
def test_two_that_agree_are_right_and_the_slip_alone_is_stopped(order):
    checked = cell_of(order)
    assert stopped(checked) == {f"near-k0-{order.index(519) + 1}"}
    (found,) = checked.findings
    assert found.check is Check.IMPOSSIBLE_FIGURES
    assert "51.9 meant" in found.remedy


def test_of_two_that_disagree_the_cell_is_named_and_no_pass_accused():
    (found,) = cell_of((51.9, 66.0)).findings
    assert found.about is About.CELL
    assert found.severity is Severity.CAUTION
    assert "nothing shows which is right" in found.says
    (slip,) = cell_of((51.9, 519.0)).findings
    assert slip.about is About.CELL
    assert slip.runs == ("near-k0-1", "near-k0-2")


def test_the_plans_other_cells_tell_which_of_two_is_right():
    others = [
        (rig, case, level * share)
        for case, level in (("k1", 80.0), ("k2", 120.0), ("k3", 50.0))
        for rig, share in (("near", 0.6), ("far", 0.8))
    ]
    checked = cell_of((52.0, 519.0), [*others, ("far", "k0", 69.0)])
    (found,) = checked.findings
    assert (found.about, found.run_id) == (About.RUN, "near-k0-2")
    alone = cell_of((519.0,), [*others, ("far", "k0", 69.0)])
    (asked,) = alone.findings
    assert asked.severity is Severity.CAUTION  # other cells tell the size, not the figure
    assert "51.9 meant" in asked.remedy


# At 2 % one 15 % off is six spreads away, and what three cells of a title tell of theirs is rough.
SHORT_OF_ITS_BAR = pytest.mark.xfail(DEEP, reason="91 of 100 named, 0.7 accused", strict=True)


@pytest.mark.parametrize("spread", [0.004, pytest.param(0.02, marks=SHORT_OF_ITS_BAR)])
def test_the_odd_pass_of_three_is_named_and_others_are_not(spread):
    """Heavy-tailed passes of 24 cells, an odd one in one of them: named, and no other accused."""
    rng = np.random.default_rng(3)
    named = accused = passes = 0
    described, review, _ = review_of(0, ("flat",) * 8, None, False, seconds=2.0)
    for _ in range(200 if DEEP else 30):
        runs, bad = {}, None
        for rig in RIGS:
            for k in range(8):
                values = 80 * np.exp(spread * rng.standard_t(5, 3) / np.sqrt(5 / 3))
                if (rig, k) == ("far", 3):
                    bad = int(rng.integers(3))
                    values[bad] *= rng.choice([0.7, 0.85, 1.2, 1.5])
                runs |= typed_cells(tuple(values), f"k{k}", rig)
        contents = replace(described, runs=runs)
        found = [one for one in check_runs(contents, review).findings if one.about is About.RUN]
        named += any(one.run_id == f"far-k3-{bad + 1}" for one in found)
        accused += sum(one.run_id != f"far-k3-{bad + 1}" for one in found)
        passes += len(runs) - 1
    assert named >= 0.95 * (200 if DEEP else 30)
    assert accused <= 0.01 * passes


@pytest.mark.parametrize("kind", ALIKE)
def test_what_a_scene_shows_on_every_rig_is_not_asked_about(kind):
    asked = 0
    for seed in range(SEEDS if DEEP else 4):
        contents, review = review_alike(600 + seed, kind, bool(seed % 2))
        asked += bool(check_runs(contents, review).findings)
    assert asked <= (0.1 * SEEDS if DEEP else 1)


@pytest.mark.parametrize("cap_fps", [116.0, 141.0])
def test_one_rate_on_unlike_cards_that_wait_is_a_cap_whatever_its_value(cap_fps):
    contents, review = review_alike(700, "", True, cap_fps)
    found = [one for one in check_runs(contents, review).findings if one.check is Check.FRAME_CAP]
    assert {one.severity for one in found} == {Severity.BLOCKING}
    assert {run_id for one in found for run_id in one.runs} >= {
        f"{rig}-k0-{n}" for rig in RIGS for n in (1, 2, 3)
    }


def test_unlike_cards_on_one_busy_cpu_at_one_rate_are_no_cap():
    """A calm scene that the CPU holds on all cards: without telemetry it is only asked about."""
    contents, review = review_alike(700, "", False, 116.0)
    found = check_runs(contents, review).findings
    assert not [one for one in found if one.severity is Severity.BLOCKING]


def test_one_capped_pass_does_not_make_the_others_fall():
    """The others of a ramp fall with the scene: the capped one does not, and says nothing of it."""
    for seed in range(500, 506):
        contents, review, bad = review_of(seed, ("ramp-back", "hills"), "capped", False)
        accused = set(check_runs(contents, review).by_run) - {bad}
        assert len(accused) <= 1


def test_days_that_differ_in_every_cell_are_named_and_days_that_do_not_are_not():
    def book(step):
        rng, scenes = np.random.default_rng(3), range(5)
        contents, runs = contents_of(scenes), {}
        for k in scenes:
            for number in range(1, 5):
                later = number > 2
                rate = (60 + 9 * k) * np.exp(rng.normal(0, 0.004)) * (step if later else 1.0)
                run = typed_cells([rate], f"k{k}")[f"near-k{k}-1"]
                day = f"2026-10-{9 if later else 6:02}T10:0{number}:00+00:00"
                update = {"id": f"{k}-{number}", "repeat": number, "taken_at": day}
                runs[update["id"]] = run.model_copy(update=update)
        return contents.with_records({"runs": runs})

    (found,) = [f for f in check_runs(book(1.03), None).findings if f.check is Check.SITTING_STEP]
    assert "from 2026-10-06 to 2026-10-09 all 5 cells" in found.says
    assert found.evidence["change"] == pytest.approx(0.03, abs=0.006)
    assert not [f for f in check_runs(book(1.0), None).findings if f.check is Check.SITTING_STEP]


def test_a_menu_in_every_pass_is_one_question_with_one_answer():
    rng = np.random.default_rng(5)
    scene, contents, runs = Scene("flat", rng), contents_of([1]), {}
    for rig in RIGS:
        for number in (1, 2):
            times = plant("menu at the start", scene.frames(80, rng), rng)
            run = run_of(rig, "k0", number, times)
            runs[run.id] = run
    contents, review = contents.with_records({"runs": runs}), None
    (found,) = [f for f in check_runs(contents, review).findings if f.check is Check.MENU_LEFT_IN]
    assert (found.about, found.severity) == (About.CASE, Severity.CAUTION)
    assert len(found.runs) == 6
    edit = this_is_the_scene(contents, found)
    answered = contents.with_records({"cases": {one.id: one for one in edit.put}})
    assert not [f for f in check_runs(answered, review).findings if f.check is found.check]
    again = ask_again(answered)
    asked = answered.with_records({"cases": {one.id: one for one in again.put}})
    assert found in check_runs(asked, review).findings


def test_trim_all_trims_every_pass_of_the_case_at_once():
    rng = np.random.default_rng(5)
    scene, contents, traces, runs = Scene("flat", rng), contents_of([1]), {}, {}
    for rig in RIGS:
        for number in (1, 2):
            times = plant("menu at the start", scene.frames(80, rng), rng)
            run = run_of(rig, "k0", number, times)
            runs[run.id], traces[run.trace_sha256] = run, Trace(times, {})
    contents = contents.with_records({"runs": runs})
    (found,) = check_runs(contents, None).findings
    assert found.about is About.CASE
    edit = trim_all(contents, found, traces.__getitem__)
    assert len(edit.put) == 6
    assert all(run.figures.average_fps == pytest.approx(80, rel=0.05) for run in edit.put)
    trimmed = contents.with_records({"runs": {run.id: run for run in edit.put}})
    assert not check_runs(trimmed, None).findings


def test_how_sure_a_finding_is_stands_with_it():
    contents, review, bad = review_of(7, ("hills", "steps"), "menu at the start")
    (found,) = check_runs(contents, review).by_run[bad]
    assert found.sure is Sure.LIKELY
    assert found.signs == ("it runs at another level", "2 other passes without it")
    alone = replace(contents, runs={bad: contents.runs[bad]})
    (said,) = check_runs(alone, review).findings
    assert (said.sure, said.severity) == (Sure.POSSIBLE, Severity.CAUTION)


@pytest.mark.parametrize(
    "again",
    [
        lambda t: np.round(t, 1),
        lambda t: np.round(t, 3)[40:],
        lambda t: t[:-200],
        lambda t: np.diff(np.round(np.append(0, np.cumsum(t)), 2)),  # kept as a running clock
    ],
)
def test_a_recording_saved_anew_is_known(again):
    times = 12 * np.exp(np.random.default_rng(2).normal(0, 0.1, 5000))
    assert same_recording(peaks_text(times), peaks_text(again(times)))


def test_two_passes_are_not_one_recording():
    passes = [12 * np.exp(np.random.default_rng(s).normal(0, 0.1, 5000)) for s in range(30)]
    texts = [peaks_text(times) for times in passes]
    assert not any(same_recording(a, b) for i, a in enumerate(texts) for b in texts[:i])
    counts = Counter(
        same_recording(peaks_text(np.round(t, 1)), text)
        for t, text in zip(passes[1:], texts, strict=False)
    )
    assert counts == {False: 29}


def test_a_profile_is_kept_as_text_and_read_back():
    times = 12 * np.exp(np.random.default_rng(2).normal(0, 0.1, 5000))
    made, read = profile_of(times), profile_from(profile_text(profile_of(times)))
    assert read.window_s == made.window_s == 0.5
    np.testing.assert_allclose(read.log_rates, made.log_rates, atol=6e-4)
    np.testing.assert_allclose(read.restless, made.restless, atol=6e-4)
    frames = np.exp(made.log_rates).sum() * made.window_s
    assert frames == pytest.approx(times.size, rel=0.01)
    assert profile_from("") is None


@pytest.mark.parametrize("frames", [2, 39, 3000])
def test_where_the_longest_frames_stand_is_kept_as_python_would_write_it(frames):
    times = 12 * np.exp(np.random.default_rng(frames).normal(0, 0.1, frames))
    raw = base64.b85decode(peaks_text(times))
    at, lasting = np.split(np.frombuffer(raw, "<i4"), 2)
    assert base64.b85encode(raw).decode() == peaks_text(times)
    assert lasting / 1000.0 == pytest.approx(times[at], abs=1e-3)


def test_a_pass_that_begins_earlier_is_lined_up():
    rng = np.random.default_rng(8)
    t = np.arange(0, 60, 0.01)
    wave = 10 * np.exp(0.12 * np.sin(t / 4) + 0.06 * np.sin(t / 1.7))
    passes = [wave * np.exp(rng.normal(0, 0.02, t.size)) for _ in range(3)]
    passes[0] = np.concatenate([np.full(500, 10.0), passes[0]])
    found = courses(tuple(profile_text(profile_of(times)) for times in passes))
    assert found[0].early_s == pytest.approx(5.0, abs=0.5)
    assert found[1].early_s == found[2].early_s == 0
    assert not found[1].stretches
    assert found[1].follows == pytest.approx(1.0, abs=0.15)
    assert courses(("", "", "")) == (None, None, None)
