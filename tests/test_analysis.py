"""Everything that follows from a review goes through one door, so that nothing disagrees."""

import pytest

from blunt_ruler.core.analysis.analyse import analyse, worth_of
from blunt_ruler.core.analysis.rail_states import STOPS, stop_states
from blunt_ruler.core.board.board import build_board
from blunt_ruler.core.compare.like_for_like import unsound_words
from blunt_ruler.core.records.records import Decision
from blunt_ruler.core.worth.figures import WorthFigure


def test_it_tells_how_far_it_is(demo_contents):
    steps = []
    analyse(demo_contents, demo_contents.reviews["which-card"], lambda *step: steps.append(step))
    shares = [share for _, share in steps]
    assert shares == sorted(shares)
    assert {"Checking the runs", "Fitting the limits", "Pricing the rigs"} <= {w for w, _ in steps}


def test_a_run_that_a_check_stops_counts_in_no_figure_of_worth(demo_contents, demo_analysis):
    run = demo_contents.runs["sluice-marram-12_copper-meridian-1080p_1"]
    kept = run.model_copy(update={"decision": Decision.KEEP})
    contents = demo_contents.with_records({"runs": {run.id: kept}})
    found = analyse(contents, contents.reviews["which-link"])
    assert "copper-meridian-1080p" not in found.worth.case_ids
    assert len(found.worth.case_ids) == len(demo_analysis.worth.case_ids) - 1
    assert found.checked.blocks(kept)


def test_checks_that_were_already_made_are_taken_over(demo_contents, demo_analysis):
    review = demo_contents.reviews["which-link"]
    again = analyse(demo_contents, review, checked=demo_analysis.checked)
    assert again.checked is demo_analysis.checked
    assert again.board.cells == demo_analysis.board.cells


def test_the_board_carries_the_names_of_the_limits(demo_analysis):
    assert demo_analysis.board.limits == demo_analysis.limits.limits()
    assert set(demo_analysis.board.limits.values()) <= {"card", "CPU", "link", "mixed"}


def test_worth_of_a_review_without_another_rig_needs_no_second_board(demo_contents, demo_analysis):
    review = demo_contents.reviews["which-link"]
    board = build_board(demo_contents, review, unsound_words(demo_analysis.checked))
    worth = worth_of(demo_contents, review, demo_analysis.checked, board)
    assert worth.board is board


@pytest.mark.parametrize("name", STOPS)
def test_every_stop_of_the_rail_has_its_state(demo_analysis, name):
    states = stop_states(demo_analysis.contents, demo_analysis.board, demo_analysis.worth)
    assert states[name].words
    assert 0.0 <= states[name].share <= 1.0


def test_the_rail_counts_priced_rigs_and_what_the_write_up_lacks(demo_contents, demo_analysis):
    worth = demo_analysis.worth
    states = stop_states(demo_contents, demo_analysis.board, worth)
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
    states = stop_states(unpriced, found.board, found.worth)
    assert states["Worth"].words == "no price yet"
    assert states["Write-up"].words == "no verdict or disclosures"
    assert all(
        row.value(WorthFigure.COST) is None and row.figures[WorthFigure.COST].missing
        for row in found.worth.rows
    )
