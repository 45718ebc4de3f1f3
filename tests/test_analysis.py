"""Everything that follows from a review goes through one door, so that nothing disagrees."""

import copy
from collections import Counter
from dataclasses import fields as fields_of
from unittest.mock import patch

import numpy as np
import pytest

from blunt_ruler.core.analysis.analyse import (
    FITTING,
    analyse,
    begin,
    fit_whole,
    settle,
    worth_of,
)
from blunt_ruler.core.analysis.hands_free import narrowness
from blunt_ruler.core.analysis.rail_states import STOPS, stop_states
from blunt_ruler.core.board.board import build_board
from blunt_ruler.core.board.lenses import Lens, mean_text, mean_value
from blunt_ruler.core.checks.all import find_faults
from blunt_ruler.core.checks.findings import Check
from blunt_ruler.core.claims.causes import limits_line
from blunt_ruler.core.compare.like_for_like import unsound_words
from blunt_ruler.core.limits.cells import measured_of
from blunt_ruler.core.limits.report import LimitsReport
from blunt_ruler.core.plan.matrix import plan_of
from blunt_ruler.core.records.records import Contents, Decision
from blunt_ruler.core.records.writeup_settings import WriteUp
from blunt_ruler.core.worth.figures import WorthFigure


def test_it_tells_how_far_it_is(demo_contents):
    steps = []
    analyse(demo_contents, demo_contents.reviews["which-card"], lambda *step: steps.append(step))
    shares = [share for _, share in steps]
    assert shares == sorted(shares)
    assert {"Checking the runs", "Fitting the limits", "Pricing the rigs"} <= {w for w, _ in steps}


def test_the_lens_of_lows_has_a_mean_of_lows(demo_contents, demo_analysis):
    """The geometric mean over titles of the ratios of their 1% lows, by hand from the runs."""
    board, rig = demo_analysis.board, "sluice-marram-12"
    titles = {}
    for row in board.rows:
        lows = [
            [one.figures.low_1.percentile for one in board.counted(who, row.case_id)]
            for who in (rig, board.base.rig_id)
        ]
        own, base = (len(of_rig) / sum(1.0 / low for low in of_rig) for of_rig in lows)
        titles.setdefault(row.case_id, np.log(own / base))
    ratio = float(np.exp(np.mean([*titles.values()])))
    mean = mean_value(board, rig, Lens.LOW_1)
    assert mean.ratio == pytest.approx(ratio, rel=1e-9)
    assert mean_text(board, rig, Lens.LOW_1) == f"×{ratio:.2f}"
    begun = begin(demo_contents, demo_analysis.review)
    assert mean_text(begun.board, rig, Lens.LOW_1) == "", "lows wait for the settled analysis"


def test_a_run_that_a_check_stops_counts_in_no_figure_of_worth(demo_contents, demo_analysis):
    run = demo_contents.runs["sluice-marram-12_copper-meridian-1080p_1"]
    kept = run.model_copy(update={"decision": Decision.KEEP})
    contents = demo_contents.with_records({"runs": {run.id: kept}})
    found = analyse(contents, contents.reviews["which-link"])
    assert "copper-meridian-1080p" not in found.worth.case_ids
    assert len(found.worth.case_ids) == len(demo_analysis.worth.case_ids) - 1
    assert found.checked.blocks(kept)


@pytest.fixture
def counted(monkeypatch):
    """How often each stage of the analysis was worked out."""
    from blunt_ruler.core.analysis import analyse as module
    from blunt_ruler.core.limits import report
    from blunt_ruler.core.plan import bench_plan

    calls = Counter()

    def count(where, name):
        real = getattr(where, name)

        def wrapper(*arguments, **options):
            calls[name] += 1
            return real(*arguments, **options)

        monkeypatch.setattr(where, name, wrapper)

    for name in ("find_faults", "build_board"):
        count(module, name)
    count(bench_plan, "derive_bench_plan")
    count(report, "fit_limits")
    return calls


def changed(contents, table, key, **fields):
    record = getattr(contents, table)[key]
    return contents.with_records({table: {key: record.model_copy(update=fields)}})


def test_a_renamed_rig_is_neither_checked_nor_fitted_anew(demo_contents, demo_analysis, counted):
    contents = changed(demo_contents, "rigs", "sluice-marram-12", name="Another name")
    found = begin(contents, demo_analysis.review, demo_analysis)
    assert found.settled
    assert not counted["find_faults"]
    assert not counted["fit_limits"]
    assert found.limits.fit is demo_analysis.limits.fit
    # and the new name stands wherever a name is said
    assert found.board.column("sluice-marram-12").name == "Another name"
    assert found.worth.row("sluice-marram-12").column.name == "Another name"
    assert "Another name" in limits_line(found.limits, "sluice-marram-12")
    said = [*found.checked.findings, *(f for all_ in found.checked.by_run.values() for f in all_)]
    assert not [one for one in said if "Sluice Marram 12" in f"{one.says} {one.remedy}"]
    assert not [one for one in said if "\x02" in f"{one.says} {one.remedy}"]
    assert analyse(contents, demo_analysis.review, before=demo_analysis).checked == found.checked


def test_findings_name_rigs_as_they_are_called_now(demo_contents, demo_analysis):
    skipped = [f for f in demo_analysis.checked.findings if f.check is Check.SKIPPED_PREFLIGHT]
    assert skipped
    rig_id = demo_contents.runs[skipped[0].run_id].rig_id
    assert demo_contents.rigs[rig_id].name in skipped[0].says
    contents = changed(demo_contents, "rigs", rig_id, name="Called otherwise")
    found = begin(contents, demo_analysis.review, demo_analysis)
    again = [f for f in found.checked.findings if f.run_id == skipped[0].run_id]
    assert any("Called otherwise" in one.says for one in again)


@pytest.mark.parametrize(
    ("table", "key", "fields", "anew"),
    [
        ("prices", "groyne", {"amount": 1.0}, set()),
        ("readings", "breakwater-marram-12", {"ambient_c": 20.0}, set()),
        ("reviews", "which-link", {"notes": "a note"}, set()),
        ("reviews", "which-link", {"writeup": WriteUp(byline="x")}, set()),
        ("rigs", "groyne-marram-12", {"name": "x"}, {"build_board", "derive_bench_plan"}),
        ("reviews", "which-link", {"clean_only": False}, {"build_board", "derive_bench_plan"}),
    ],
)
def test_a_stage_is_worked_out_again_only_when_what_it_reads_changed(
    demo_contents, demo_analysis, counted, table, key, fields, anew
):
    contents = changed(demo_contents, table, key, **fields)
    found = begin(contents, contents.reviews["which-link"], demo_analysis)
    assert found.bench_plan is not None, "worked out when it is asked for"
    assert {name for name in counted if name != "fit_limits"} == anew


def test_a_run_that_changed_is_settled_in_a_second_step(demo_contents, demo_analysis, counted):
    run = next(iter(demo_analysis.board.runs.values()))[0]
    contents = changed(demo_contents, "runs", run.id, decision=Decision.REDO)
    first = begin(contents, demo_analysis.review, demo_analysis)
    assert not first.settled
    assert first.limits.fit is None
    assert first.limits.why_not == FITTING
    assert first.checked.runs == tuple(contents.runs.values())
    assert not counted["find_faults"]
    whole = analyse(contents, demo_analysis.review, before=demo_analysis)
    afresh = analyse(contents, demo_analysis.review)
    assert whole.settled
    assert whole.board.cells == afresh.board.cells
    assert whole.checked == afresh.checked
    # a fit that starts from another ends where one from nowhere does
    assert whole.limits.fit.residuals == pytest.approx(afresh.limits.fit.residuals, abs=1e-5)


def test_after_an_edit_the_limits_are_a_first_answer_and_then_the_whole(
    demo_contents, demo_analysis
):
    run = next(iter(demo_analysis.board.runs.values()))[0]
    figures = run.figures.model_copy(update={"average_fps": 1.04 * run.figures.average_fps})
    contents = changed(demo_contents, "runs", run.id, figures=figures)
    review = demo_analysis.review
    first = settle(contents, review, before=demo_analysis, begun=begin(contents, review))
    assert first.settled
    assert first.limits.quick
    assert not first.is_whole
    whole = fit_whole(first)
    assert not whole.limits.quick
    assert fit_whole(whole) is whole
    afresh = settle(contents, review)
    assert not afresh.limits.quick, "there was nothing to start from"
    rates = [np.exp(one.limits.fit.residuals) for one in (first, whole, afresh)]
    assert rates[0] == pytest.approx(rates[2], abs=0.005), "a first answer is near the whole"
    assert rates[1] == pytest.approx(rates[2], abs=1e-4)
    assert not whole.limits.moved, "so near a first answer needs no correction"
    rig = next(one.rig for one in whole.limits.splits)
    parts = whole.limits.lost_by_part(rig)
    off = {part: (share + 0.1, share + 0.2) for part, share in parts.items()}
    with patch.object(LimitsReport, "part_reach", lambda _self, _rig: off):
        corrected = fit_whole(first).limits
    assert rig in corrected.moved
    assert limits_line(corrected, rig).endswith("was provisional: this one corrects it.")


def test_another_review_has_limits_of_its_own(demo_contents, demo_analysis):
    other = demo_contents.reviews["which-card"]
    found = begin(demo_contents, other, demo_analysis)
    assert found.limits.fit is None
    assert not found.settled
    assert not settle(demo_contents, other, before=demo_analysis, begun=found).limits.quick


def test_what_is_remembered_of_the_checks_is_what_they_find_anew(demo_contents, demo_analysis):
    """Edits one after another, each checked with what is kept of those before it."""
    rng = np.random.default_rng(7)
    contents, thresholds = demo_contents, demo_analysis.review.thresholds
    for _ in range(25):
        run = contents.runs[str(rng.choice(list(contents.runs)))]
        if rng.random() < 0.3 or run.figures is None:
            decision = Decision.KEEP if run.decision is not Decision.KEEP else Decision.SET_ASIDE
            contents = changed(contents, "runs", run.id, decision=decision, reason="x")
        else:
            by = float(np.exp(rng.normal(0, 0.05)))
            figures = run.figures.model_copy(update={"average_fps": by * run.figures.average_fps})
            contents = changed(contents, "runs", run.id, figures=figures)
        found = find_faults(contents, thresholds)
    fresh = Contents(
        **{
            one.name: {
                key: copy.deepcopy(record) for key, record in getattr(contents, one.name).items()
            }
            for one in fields_of(contents)
        }
    )
    anew = find_faults(fresh, thresholds)
    assert found.findings == anew.findings
    assert found.by_run == anew.by_run


def test_a_plan_that_cannot_be_worked_out_says_why(demo_contents, demo_analysis):
    plan = demo_contents.plans["which-link"]
    hours = plan.hours.model_copy(update={"first_day": "soon"})
    contents = changed(demo_contents, "plans", "which-link", hours=hours)
    found = begin(contents, demo_analysis.review, demo_analysis)
    assert found.bench_plan is None
    assert "“soon” is not a date" in found.no_plan
    assert stop_states(contents, found)["Plan"].words == "cannot be worked out"


def test_the_board_carries_the_names_of_the_limits(demo_analysis):
    assert demo_analysis.board.limits == demo_analysis.limits.limits()
    assert set(demo_analysis.board.limits.values()) <= {"card", "CPU", "link", "mixed", "open"}


def test_worth_of_a_review_without_another_rig_needs_no_second_board(demo_contents, demo_analysis):
    review = demo_contents.reviews["which-link"]
    board = build_board(demo_contents, review, unsound_words(demo_analysis.checked))
    worth = worth_of(demo_contents, review, demo_analysis.checked, board)
    assert worth.board is board


@pytest.mark.parametrize("name", STOPS)
def test_every_stop_of_the_rail_has_its_state(demo_analysis, name):
    states = stop_states(demo_analysis.contents, demo_analysis)
    assert states[name].words
    assert 0.0 <= states[name].share <= 1.0


def test_the_rail_counts_priced_rigs_and_what_the_write_up_lacks(demo_contents, demo_analysis):
    states = stop_states(demo_contents, demo_analysis)
    assert states["Worth"].words == "5 of 5 rigs priced"
    assert states["Write-up"].words == "ready to export"
    bare = demo_contents.reviews["which-link"].model_copy(
        update={
            "audiences": (),
            "writeup": demo_analysis.review.writeup.model_copy(update={"disclosures": ()}),
        }
    )
    unpriced = demo_contents.with_records(
        {"prices": dict.fromkeys(demo_contents.prices), "reviews": {bare.id: bare}}
    )
    found = analyse(unpriced, bare)
    states = stop_states(unpriced, found)
    assert states["Worth"].words == "no price yet"
    assert states["Write-up"].words == "no verdict or disclosures"
    assert all(
        row.value(WorthFigure.COST) is None and row.figures[WorthFigure.COST].missing
        for row in found.worth.rows
    )


def test_findings_of_a_run_that_is_gone_go_with_it(demo_contents, demo_analysis):
    gone = next(
        run_id
        for one in demo_analysis.checked.findings
        for run_id in (one.run_id, *one.runs)
        if len(demo_analysis.checked.by_run.get(run_id, ())) > 0
    )
    contents = demo_contents.with_records({"runs": {gone: None}})
    begun = begin(contents, demo_analysis.review, demo_analysis)
    assert gone not in begun.checked.by_run
    assert all(gone not in (one.run_id, *one.runs) for one in begun.checked.findings)


def test_what_another_review_holds_is_fitted_anew_when_it_changes(demo_contents, demo_analysis):
    other = next(one for one in demo_contents.reviews.values() if one.id != demo_analysis.review.id)
    fewer = other.model_copy(update={"case_ids": ()})
    contents = demo_contents.with_records({"reviews": {other.id: fewer}})
    begun = begin(contents, demo_analysis.review, demo_analysis)
    cold = settle(contents, demo_analysis.review)
    assert cold.limits.memory.cells != demo_analysis.limits.memory.cells
    known = begun if begun.settled else settle(contents, demo_analysis.review, before=demo_analysis)
    assert known.limits.memory.cells == cold.limits.memory.cells


def test_half_of_the_difference_a_plan_asks_for_is_how_narrow_a_cell_must_be(
    demo_contents, demo_analysis
):
    plan = plan_of(demo_contents, demo_analysis.review).model_copy(update={"difference": 0.04})
    board = demo_analysis.board
    rig_id, case_id = next(iter(board.cells))
    found = narrowness(board, plan, rig_id, case_id)
    assert found.asked == 0.02
    cell = board.cells[rig_id, case_id]
    assert found.half == pytest.approx(np.log(cell.rate_high / cell.rate_low) / 2)


def test_built_in_graphics_are_guessed_by_half_of_the_watts(demo_contents, demo_analysis):
    watts = measured_of(demo_contents, demo_analysis.board).watts
    cards = demo_contents.cards
    for card_id, guessed in watts.items():
        share = 0.5 if cards[card_id].built_in else 1.0
        assert guessed == share * cards[card_id].board_power_w
    assert any(cards[card_id].built_in for card_id in watts)
