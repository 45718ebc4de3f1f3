"""The logbook remembers: other reviews teach the fit, and what one sentence says of it."""

from dataclasses import replace

import numpy as np
import pytest

from blunt_ruler.core.analysis.analyse import analyse, settle
from blunt_ruler.core.claims.causes import limits_line
from blunt_ruler.core.compare.like_for_like import unsound_words
from blunt_ruler.core.limits.fit import OPEN, fit_limits
from blunt_ruler.core.limits.left_out import LeaveOut, leave_out
from blunt_ruler.core.limits.memory import UNDATED, remember
from blunt_ruler.core.limits.words import fit_words
from blunt_ruler.core.records.records import ReviewRig, Role
from blunt_ruler.core.records.review_edits import learn_from_others

SLUICE, TOWER = "sluice-marram-12", "workbench-marram-12"
THREE = ("tidewrack-1080p", "skitter-1080p", "copper-meridian-1080p")


def remembered(contents, analysis, before=None):
    return remember(contents, analysis.board, unsound_words(analysis.checked), before)


def small_review(contents, **changes):
    """Three games at one resolution on two rigs, in a review of their own beside the others."""
    seats = (
        ReviewRig(rig_id=SLUICE, role=Role.BASE),
        ReviewRig(rig_id=TOWER, role=Role.REFERENCE),
    )
    review = contents.reviews["which-link"].model_copy(
        update={"id": "small", "name": "small", "seats": seats, "case_ids": THREE, **changes}
    )
    return contents.with_records({"reviews": {"small": review}}), review


def test_cells_of_other_reviews_stand_beside_and_none_twice(demo_contents, demo_analysis):
    measured = demo_analysis.limits.fit.measured
    assert (len(measured.cells), len(measured.beside), measured.reviews) == (50, 20, 1)
    keys = [(one.rig, one.case) for one in measured.every]
    assert len(set(keys)) == len(keys)
    assert "50 cells and 20 results of 1 other review" in fit_words(demo_analysis.limits)
    assert "Also uses 20 results of 1 other review" in limits_line(demo_analysis.limits, SLUICE)


def test_one_click_takes_it_out(demo_contents, demo_analysis):
    edit = learn_from_others(demo_analysis.review, False)
    assert edit.label == "fit this review alone"
    alone = settle(demo_contents, edit.put[0])
    assert alone.limits.fit.measured.beside == ()
    assert "other review" not in fit_words(alone.limits)
    assert "leans on" not in limits_line(alone.limits, SLUICE)


def test_a_rig_in_another_state_is_not_taken_for_the_same(demo_contents, demo_analysis):
    other = demo_contents.rigs["sluice-marram-16"]
    assert any(one.rig == other.id for one in remembered(demo_contents, demo_analysis).cells)
    slow = other.model_copy(
        update={"state": other.state.model_copy(update={"cpu_power_limit_w": 15.0})}
    )
    contents = demo_contents.with_records({"rigs": {slow.id: slow}})
    assert all(one.rig != slow.id for one in remembered(contents, demo_analysis).cells)


def test_what_others_published_teaches_nothing(demo_contents, demo_analysis):
    other = demo_contents.rigs["sluice-marram-16"].model_copy(update={"source": "somebody"})
    contents = demo_contents.with_records({"rigs": {other.id: other}})
    assert all(one.rig != other.id for one in remembered(contents, demo_analysis).cells)


@pytest.mark.parametrize(
    ("taken_at", "time"), [("2025-03-02T10:00:00", "2025-03"), ("", UNDATED), (None, "")]
)
def test_what_lies_further_back_may_have_drifted(demo_contents, demo_analysis, taken_at, time):
    rig = "sluice-marram-16"
    runs = {
        key: run if taken_at is None else run.model_copy(update={"taken_at": taken_at})
        for key, run in demo_contents.runs.items()
        if run.rig_id == rig
    }
    contents = demo_contents.with_records({"runs": runs})
    found = [one for one in remembered(contents, demo_analysis).cells if one.rig == rig]
    assert found
    assert {one.time for one in found} == {time}


def test_it_is_remembered_anew_only_when_what_it_reads_changed(demo_contents, demo_analysis):
    first = remembered(demo_contents, demo_analysis)
    assert remembered(demo_contents, demo_analysis, first) is first
    run = next(one for one in demo_contents.runs.values() if one.rig_id == "sluice-marram-16")
    changed = run.model_copy(update={"notes": "seen"})
    contents = demo_contents.with_records({"runs": {run.id: changed}})
    assert remembered(contents, demo_analysis, first) is not first
    own = next(one for one in demo_contents.runs.values() if one.rig_id == SLUICE)
    changed = own.model_copy(update={"notes": "seen"})
    contents = demo_contents.with_records({"runs": {own.id: changed}})
    assert remembered(contents, demo_analysis, first) is first


def test_three_games_on_two_rigs_get_an_honest_band_and_the_memory_narrows_it(demo_contents):
    contents, review = small_review(demo_contents, remembers=False)
    alone = analyse(contents, review).limits
    said = limits_line(alone, SLUICE)
    assert " to " in said.split("link ")[1].split(",")[0]
    assert "would narrow that by" in said
    assert OPEN in alone.fit.limit_names
    contents, review = small_review(demo_contents)
    learnt = analyse(contents, review).limits
    (low, high), (narrow_low, narrow_high) = (
        one.part_reach(SLUICE)["link"] for one in (alone, learnt)
    )
    assert narrow_high - narrow_low < 0.5 * (high - low)
    whole = analyse(demo_contents, demo_contents.reviews["which-link"]).limits
    truth = [one.share("link") for one in whole.splits if one.rig == SLUICE and one.case in THREE]
    assert low - 0.02 <= np.mean(truth) <= high + 0.02
    assert narrow_low - 0.02 <= np.mean(truth) <= narrow_high + 0.02


def foreseen(measured, truth):
    """(errors, whether 80 % bounds held, half their width as a log) of cells on a third link."""
    fit = fit_limits(measured)
    rate, low, high = fit.predict(fit.places_for(truth, measured.links))
    actual = np.array([cell.average_fps for cell in truth])
    held = (low <= actual) & (actual <= high)
    return np.abs(rate / actual - 1.0), held, np.log(high / low) / 2.0


def over_seeds(lab, seeds, alone=False):
    found = []
    for seed in range(seeds):
        measured, truth = lab.three_new_titles(seed)
        found.append(foreseen(measured.alone() if alone else measured, truth))
    return (np.concatenate(one) for one in zip(*found, strict=True))


@pytest.mark.deep
def test_new_titles_on_a_third_link_are_within_the_bar(lab):
    """Median within 5 %, 80 % bounds hold 74 to 86 %: three new titles at one size on two rigs."""
    errors, held, wide = over_seeds(lab, 40)
    _, _, alone = over_seeds(lab, 40, alone=True)
    assert np.median(wide) < 0.7 * np.median(alone)
    assert np.median(errors) < 0.05
    assert 0.74 <= np.mean(held) <= 0.86


@pytest.mark.deep
def test_a_drift_between_reviews_is_not_taken_for_a_slower_link(lab):
    """A title whose new version is 6 % slower: remembered as of then, it misleads less."""
    measured, truth = lab.three_new_titles(1)
    new = {cell.family for cell in measured.cells}
    drifted = [
        replace(lab.cell(1, rig, title, size), average_fps=by * lab.rate(1, *rig, title, size))
        for title in new
        for rig, size, by in (
            (("tower", "middle", "f"), "2160p", 1.06),
            (("mobile", "middle", "c"), "2160p", 1.06),
        )
    ]
    actual = np.array([cell.average_fps for cell in truth])

    def off(time):
        beside = (*measured.beside, *(replace(one, time=time) for one in drifted))
        fit = fit_limits(replace(measured, beside=beside))
        rate, _, _ = fit.predict(fit.places_for(truth, measured.links))
        since = [
            x for name, x in zip(fit.layout.names, fit.x, strict=True) if "drift of made" in name
        ]
        return float(np.mean(np.abs(rate / actual - 1.0))), since

    blind, none = off("")
    told, since = off("2025-01")
    assert none == []
    assert len(since) == 3
    assert np.mean(since) < 0.0  # frames took less time then
    assert told < blind


def test_a_quick_answer_is_near_the_whole_one(lab):
    before = fit_limits(lab.measured())
    cells = list(before.measured.cells)
    cells[3] = replace(cells[3], average_fps=cells[3].average_fps * 1.04)
    changed = replace(before.measured, cells=tuple(cells))
    quick, whole = fit_limits(changed, before, quick=True), fit_limits(changed)
    assert quick.residuals == pytest.approx(whole.residuals, abs=0.003)


@pytest.mark.deep
def test_the_gain_of_remembering_is_measured(lab):
    """Each link left out in turn, with what is remembered and without."""
    measured, _ = lab.three_new_titles(1)
    middles = [rig for rig in lab.rigs if rig[1] == "middle"]
    own = [lab.cell(1, rig, title, "1440p") for title in measured.families() for rig in middles]
    whole = lab.of(own, measured.beside)
    learnt, alone = (leave_out(one, LeaveOut.LINK) for one in (whole, whole.alone()))
    assert learnt.cells == alone.cells == 15  # the tower's host was on one link only
    assert max(learnt.median_error, alone.median_error) < 0.02
