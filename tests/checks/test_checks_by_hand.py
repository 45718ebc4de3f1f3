"""Checks whose faults are in words and figures rather than in a trace."""

import math
from pathlib import Path
from types import SimpleNamespace

import numpy as np
import pytest
from scipy import stats

from blunt_ruler.core.checks.all import check_runs, checks_line, to_redo
from blunt_ruler.core.checks.consensus import MAD_TO_SD
from blunt_ruler.core.checks.findings import Check, FactsOf
from blunt_ruler.core.checks.one_run import parts_wait
from blunt_ruler.core.checks.repeats import SMALL_SAMPLE, by_cell, spread_by_title
from blunt_ruler.core.measure.frames import measure
from blunt_ruler.core.measure.telemetry import Gauge, GaugeDigest
from blunt_ruler.core.once import Handover
from blunt_ruler.core.records.hardware import Tick, TickState
from blunt_ruler.core.records.records import Decision, Origin, PartScore, Run, TypedFigures
from blunt_ruler.core.records.thresholds import Thresholds
from blunt_ruler.demo import scenario

RIG, CASE = "groyne-marram-12", "tidewrack-1080p"


def typed(lab, average=None, repeat=1, **figures):
    return lab.put(
        Run(
            id=f"typed {repeat}",
            rig_id=RIG,
            case_id=CASE,
            repeat=repeat,
            origin=Origin(kind="typed"),
            typed=TypedFigures(average_fps=average, **figures),
        )
    )


def names(lab, run):
    found = check_runs(lab.contents, lab.review).by_run.get(run.id, ())
    return {finding.check for finding in found}


@pytest.mark.parametrize(
    "figures",
    [
        {"average": 60, "low_1_fps": 70},
        {"average": 60, "low_1_fps": 40, "minimum_fps": 45},
        {"average": 60, "maximum_fps": 55},
        {
            "score": 5000,
            "parts": (
                PartScore(name="graphics", score=4225, weight=0.85),
                PartScore(name="cpu", score=2407, weight=0.15),
            ),
        },
    ],
)
def test_typed_figures_that_contradict_one_another(lab, figures):
    assert names(lab, typed(lab, **figures)) == {Check.IMPOSSIBLE_FIGURES}


def test_typed_figures_that_can_be(lab):
    # Common practice, no source: 4,225 and 2,407 weighted 0.85 and 0.15 give 3,795.
    parts = (
        PartScore(name="graphics", score=4225, weight=0.85),
        PartScore(name="cpu", score=2407, weight=0.15),
    )
    assert names(lab, typed(lab, score=3795, parts=parts)) == set()
    assert names(lab, typed(lab, 60, 2, low_1_fps=48, minimum_fps=30, maximum_fps=90)) == set()


def test_a_slip_of_the_keys_is_asked_after(lab):
    for repeat, rate in ((1, 52.0), (2, 51.0)):
        typed(lab, rate, repeat)
    slip = typed(lab, 519.0, 3)
    (finding,) = check_runs(lab.contents, lab.review).by_run[slip.id]
    assert finding.check is Check.IMPOSSIBLE_FIGURES
    assert "Was 51.9 meant?" in finding.remedy


def test_one_trace_behind_two_runs(lab):
    first = lab.take(RIG, CASE, 1)
    second = lab.put(first.model_copy(update={"id": "again", "repeat": 2}))
    assert Check.SAME_TRACE in names(lab, second)
    assert Check.SAME_TRACE not in names(lab, first)


def test_another_card_by_name_memory_or_pre_flight(lab):
    run = lab.take(RIG, CASE, 1)
    other = run.model_copy(update={"origin": Origin(kind="log", says=(("card", "Marram 8"),))})
    assert names(lab, lab.put(other)) == {Check.WRONG_DEVICE}
    fits = run.model_copy(update={"origin": Origin(kind="log", says=(("gpu", "marram 12"),))})
    assert names(lab, lab.put(fits)) == set()
    tick = Tick(id="t", rig_id=RIG, step="memory", state=TickState.DONE, at="", reading="8")
    lab.contents = lab.contents.with_records({"ticks": {"t": tick}})
    assert names(lab, run) == {Check.WRONG_DEVICE}


def test_a_log_that_names_other_settings(lab):
    run = lab.take(RIG, CASE, 1)
    says = (("resolution", "2560x1440"), ("preset", "high"))
    other = lab.put(run.model_copy(update={"origin": Origin(kind="log", says=says)}))
    assert names(lab, other) == {Check.SETTINGS_CHANGED}


def test_a_narrow_link_that_only_pre_flight_read(lab):
    run = lab.take(RIG, CASE, 1)
    tick = Tick(
        id="t", rig_id=RIG, step="link_under_load", state=TickState.DONE, at="", reading="4.0 x2"
    )
    lab.contents = lab.contents.with_records({"ticks": {"t": tick}})
    assert names(lab, run) == set()  # the run's own gauges say x4
    bare = run.model_copy(update={"observed": run.observed.model_copy(update={"gauges": ()})})
    assert names(lab, lab.put(bare)) == {Check.NARROW_LINK}


def test_a_skipped_step_is_a_note_and_stops_nothing(lab):
    tick = Tick(id="t", rig_id=RIG, step="no_cap", state=TickState.SKIPPED, at="")
    lab.contents = lab.contents.with_records({"ticks": {"t": tick}})
    run = lab.take(RIG, CASE, 1)
    assert names(lab, run) == {Check.SKIPPED_PREFLIGHT}
    assert to_redo(check_runs(lab.contents, lab.review)) == ()


def test_a_fault_is_answered_by_a_decision_or_a_reason(lab):
    run = lab.take(RIG, CASE, 1, cap_fps=60.0)
    lab.take(RIG, CASE, 1, repeat=2)
    checked = check_runs(lab.contents, lab.review)
    assert [one.id for one in to_redo(checked)] == [run.id]
    assert checks_line(checked) == "1 of 2 kept runs is valid; 1 run must be taken again"
    for change in ({"decision": Decision.SET_ASIDE}, {"reason": "meant so"}):
        lab.put(run.model_copy(update=change))
        assert to_redo(check_runs(lab.contents, lab.review)) == ()


def test_a_cap_that_the_case_asks_for_is_no_fault(lab):
    run = lab.take(RIG, CASE, 1, cap_fps=60.0)
    case = lab.contents.cases[CASE].model_copy(update={"frame_cap_fps": 60.0})
    lab.contents = lab.contents.with_records({"cases": {CASE: case}})
    assert names(lab, run) == set()


def test_the_fall_over_a_run_is_its_slope_times_its_minutes(lab):
    run = lab.take(RIG, CASE, 1, hot=True)
    seen = run.observed.model_copy(
        update={"slope_per_min": -0.06, "slope_low": -0.07, "slope_high": -0.05}
    )
    run = lab.put(run.model_copy(update={"observed": seen}))
    (fall,) = [one for one in check_runs(lab.contents, lab.review).by_run[run.id]
               if one.check is Check.DRIFT]  # fmt: skip
    minutes = run.figures.duration_s / 60.0
    assert fall.evidence["rate_change"] == pytest.approx(-0.06 * minutes, abs=1e-4)


def test_a_day_that_drifts(lab):
    for hour in range(5):
        for case in ("tidewrack-1080p", "copper-meridian-1080p"):
            run = lab.take(RIG, case, 1, repeat=hour + 1)
            slower = run.figures.model_copy(
                update={"average_fps": run.figures.average_fps * (1 - 0.02 * hour)}
            )
            at = f"2026-10-06T1{hour}:00:00+00:00"
            lab.put(run.model_copy(update={"figures": slower, "taken_at": at}))
    found = check_runs(lab.contents, lab.review).findings
    (day,) = [one for one in found if one.check is Check.DRIFT]
    assert "2026-10-06" in day.says
    assert day.evidence["change"] == pytest.approx(-0.08, abs=0.02)


def test_every_check_has_a_page_with_its_thresholds():
    root = Path(__file__).parents[2]
    text = (root / "src" / "blunt_ruler" / "help" / "checks.md").read_text("utf-8")
    for check in Check:
        assert f"\n## {check}\n" in text
    for name in Thresholds.model_fields:
        assert f"`{name}`" in text


def gauged(lab, gauge, mean, high, repeat=1):
    """A pass whose one gauge lies elsewhere on average than at its 95th percentile."""
    run = lab.take(RIG, CASE, 1, repeat)
    others = tuple(one for one in run.observed.gauges if one.gauge is not gauge)
    digest = GaugeDigest(gauge, mean=mean, low=mean, high=high, start=mean, end=mean)
    seen = run.observed.model_copy(update={"gauges": (*others, digest)})
    return lab.put(run.model_copy(update={"observed": seen, "trace_sha256": f"trace {repeat}"}))


@pytest.mark.parametrize(
    ("gauge", "mean", "high", "wrong"),
    [
        (Gauge.CARD_MEMORY, 8.0, 14.0, True),  # the rig's card has 12 GB
        (Gauge.CARD_MEMORY, 8.0, 12.4, False),
        (Gauge.CARD_POWER, 170.0, 240.0, True),  # and a board power of 180 W
        (Gauge.CARD_POWER, 170.0, 220.0, False),
    ],
)
def test_what_a_card_cannot_do_is_read_off_the_95th_percentile(lab, gauge, mean, high, wrong):
    assert (Check.WRONG_DEVICE in names(lab, gauged(lab, gauge, mean, high))) is wrong


@pytest.mark.parametrize(("high", "below"), [(150.0, True), (170.0, False)])
def test_the_power_a_card_reached_is_its_highest_95th_percentile(lab, high, below):
    for repeat, most in ((1, 140.0), (2, high), (3, 140.0)):
        gauged(lab, Gauge.CARD_POWER, 120.0, most, repeat)
    found = check_runs(lab.contents, lab.review).by_run
    seen = [one for findings in found.values() for one in findings]
    power = [one for one in seen if one.check is Check.BELOW_POWER_LIMIT]
    assert bool(power) is below
    assert all(one.evidence["power_w"] == 150.0 for one in power)


def test_factors_for_few_values_make_the_deviation_an_unbiased_spread():
    rng = np.random.default_rng(6)
    for count, factor in SMALL_SAMPLE.items():
        values = rng.normal(0, 1, (200_000, count))
        middle = np.median(values, axis=1, keepdims=True)
        spread = MAD_TO_SD * factor * np.median(np.abs(values - middle), axis=1)
        assert spread.mean() == pytest.approx(1.0, abs=0.01), count


def test_the_spread_of_a_title_is_the_normal_median_absolute_deviation(lab):
    # scipy.stats.median_abs_deviation(scale="normal"); its factor for five values is transcribed
    # from memory of Croux and Rousseeuw.
    rates = [50.0, 51.0, 52.5, 49.0, 50.2]
    facts = FactsOf(lab.contents, Handover())
    runs = [facts(typed(lab, rate, repeat)) for repeat, rate in enumerate(rates, 1)]
    (spread,) = spread_by_title({"title": by_cell(runs)}, Handover()).values()
    own = 1.206 * stats.median_abs_deviation(np.log(rates), scale="normal")
    # Four repeats of its own, drawn toward the assumed 2 % as if that were four more.
    assert spread == pytest.approx(math.sqrt((4 * own**2 + 4 * 0.02**2) / 8), rel=1e-4)


OTHER_RIG = "sluice-marram-12"


def logged(lab, rig, case, average, repeat=1, **more):
    """A pass whose log says nothing but its rate."""
    figures = measure(np.full(int(60 * average), 1000.0 / average))  # of a minute
    of_log = {"origin": Origin(kind="log"), "figures": figures, **more}
    run_id = f"{rig} {case} {repeat}"
    return lab.put(Run(id=run_id, rig_id=rig, case_id=case, repeat=repeat, **of_log))


def odd_passes(lab):
    found = check_runs(lab.contents, lab.review).findings
    return {(one.run_id, one.signs) for one in found if one.check is Check.DISAGREEING_REPEAT}


def test_other_titles_tell_which_of_two_passes_is_odd_also_after_they_changed(lab):
    cases = [case for case in scenario.CASES if case.id != CASE]
    of_titles = {case.title_id: case.id for case in cases if case.title_id != "tidewrack"}
    others = list(of_titles.values())[:4]
    for case in others:
        for repeat in (1, 2):
            logged(lab, RIG, case, 60.0, repeat)
            logged(lab, OTHER_RIG, case, 90.0, repeat)
    for repeat, rate in ((1, 60.0), (2, 90.0)):
        logged(lab, RIG, CASE, rate, repeat)
        logged(lab, OTHER_RIG, CASE, 90.0, repeat)
    says = ("the plan's other cells expect the others",)
    assert odd_passes(lab) == {(f"{RIG} {CASE} 2", says)}
    for case in others:  # nothing of the title itself is another
        for repeat in (1, 2):
            logged(lab, RIG, case, 90.0, repeat)
    assert odd_passes(lab) == {(f"{RIG} {CASE} 1", says)}


def test_a_pass_that_was_set_aside_says_nothing_of_those_that_are_kept(lab):
    logged(lab, RIG, CASE, 60.0)
    wild = logged(lab, RIG, CASE, 30.0, 2)
    assert odd_passes(lab)
    lab.put(wild.model_copy(update={"decision": Decision.SET_ASIDE, "reason": "heat"}))
    assert not odd_passes(lab)


@pytest.mark.parametrize(
    ("card", "core", "waits"),
    [(80.0, 75.0, True), (90.0, 75.0, False), (80.0, 85.0, False), (None, 75.0, False)],
)
def test_parts_wait_where_neither_card_nor_core_is_near_its_end(card, core, waits):
    busy = {Gauge.CARD_BUSY: card, Gauge.CPU_CORE: core}
    digests = {
        gauge: GaugeDigest(gauge, high, high, high, high, high)
        for gauge, high in busy.items()
        if high is not None
    }
    assert parts_wait(SimpleNamespace(gauge=digests.get)) is waits
