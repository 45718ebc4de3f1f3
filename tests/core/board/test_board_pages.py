"""Playable settings, scaling, scores and other orders of the same Board."""

import pytest
from scipy import stats

from blunt_ruler.core.board.board import build_board
from blunt_ruler.core.board.lenses import Lens
from blunt_ruler.core.board.playable import (
    even_cap,
    gained_words,
    parse_target,
    playable,
    playable_line,
    rank_of,
)
from blunt_ruler.core.board.row_order import COLLAPSED, Arrangement, GroupBy, arrange
from blunt_ruler.core.board.scaling import losses_that_grow, met_ceilings, scaling_line, series
from blunt_ruler.core.errors import BadFigure
from blunt_ruler.core.measure.composite_score import missing_part, overall_score, parse_part
from blunt_ruler.core.records.records import (
    Case,
)


@pytest.fixture(scope="module")
def contents(demo_contents):
    return demo_contents


@pytest.fixture(scope="module")
def board(contents):
    return build_board(contents, contents.reviews["which-link"])


# Playable


def test_the_best_settings_that_meet_a_target_are_found(contents, board):
    target = parse_target("60/45")
    plays = playable(contents, board, target)
    found = {(one.rig_id, one.title): one for one in plays}
    cable = found["sluice-marram-12", "Tidewrack"]
    assert cable.settings == "1080p High"
    assert found["groyne-marram-12", "Tidewrack"].settings == "1440p High"
    nothing = found["built-in-ig-6", "Tidewrack"]
    assert nothing.case_id is None
    assert "(27.5 at best)" in gained_words(contents, nothing, None)
    assert gained_words(contents, cable, nothing) == "playable; the base is not"
    low = found["built-in-ig-6", "Skitter"]
    assert gained_words(contents, found["sluice-marram-12", "Skitter"], low) == "the same settings"
    assert "plays 1 of 6 titles" in playable_line(board, target, plays)


def test_pixels_gained_are_said_in_words(contents, board):
    found = {(o.rig_id, o.title): o for o in playable(contents, board, parse_target("30/25"))}
    words = gained_words(
        contents,
        found["groyne-marram-12", "Tidewrack"],
        found["sluice-marram-8", "Tidewrack"]
        if ("sluice-marram-8", "Tidewrack") in found
        else found["built-in-ig-6", "Copper Meridian"],
    )
    assert words.startswith("from 1080p High, ")
    assert "times the pixels" in words


@pytest.mark.parametrize(
    ("low", "cap"), [(61.0, 60.0), (59.9, 50.0), (139.0, 120.0), (29.0, 25.0), (20.0, None)]
)
def test_an_even_cap_stands_on_a_refresh_step_under_the_low(low, cap):
    assert even_cap(low) == cap
    assert even_cap(None) is None


def test_settings_are_ranked_by_pixels_then_preset_then_rays():
    def case(resolution, preset, rays=""):
        fields = {"resolution": resolution, "preset": preset, "ray_tracing": rays}
        return rank_of(Case(id="c", title_id="t", **fields))

    assert case("1440p", "Low") > case("1080p", "Max")
    assert case("1080p", "High") > case("1080p", "Low")
    assert case("1080p", "High", "on") > case("1080p", "High", "off")


@pytest.mark.parametrize("words", ["", "x/45", "60/x", "45/60", "0/0", "-1"])
def test_a_target_that_is_none_is_refused(words):
    with pytest.raises(BadFigure, match="average"):
        parse_target(words)


# Scaling


def test_series_run_from_few_to_many_pixels_and_losses_shrink_over_the_cable(contents, board):
    of = {(one.rig_id, one.title): one for one in series(contents, board)}
    cable = of["sluice-marram-12", "Tidewrack"]
    assert cable.megapixels == (2.0736, 3.6864, 8.2944)
    assert list(cable.rates_fps) == sorted(cable.rates_fps, reverse=True)
    assert cable.losses[0] > cable.losses[-1]
    assert "Losses shrink or hold with resolution" in scaling_line(contents, board)
    grown = {(one.rig_id, one.title) for one in losses_that_grow(contents, board)}
    assert ("sluice-marram-12", "Tidewrack") not in grown


def test_two_cards_at_one_rate_on_one_link_are_under_one_ceiling(contents):
    board = build_board(contents, contents.reviews["which-card"])
    met = met_ceilings(contents, board)
    assert {one.case_id for one in met} >= {"ninefold-siege-1080p"}
    for one in met:
        assert max(one.rates_fps) / min(one.rates_fps) <= 1.06
        assert {contents.rigs[rig].link_id for rig in one.rig_ids} == {"cable"}
    assert "the link or the CPU is the ceiling" in scaling_line(contents, board)


# Scores


def test_the_trades_two_part_score():
    # Common practice, no source: 4,225 and 2,407 weighted 0.85 and 0.15, harmonic, give 3,795.
    parts, weights = {"graphics": 4225.0, "cpu": 2407.0}, {"graphics": 0.85, "cpu": 0.15}
    overall = overall_score(parts, weights)
    assert overall == pytest.approx(3795, abs=1)
    # scipy.stats.hmean with weights.
    assert overall == pytest.approx(stats.hmean([4225, 2407], weights=[0.85, 0.15]))
    name, score = missing_part({"graphics": 4225.0}, weights, overall)
    assert (name, score) == ("cpu", pytest.approx(2407))


@pytest.mark.parametrize(
    ("parts", "weights", "says"),
    [
        ({"a": 1.0}, {}, "no parts"),
        ({"a": 1.0}, {"a": 0.7}, "sum to 0.7"),
        ({"a": 0.0}, {"a": 1.0}, "not a score"),
        ({}, {"a": 1.0}, "no score for"),
        ({"a": 1.0, "b": 1.0}, {"a": 1.5, "b": -0.5}, "not a weight"),
    ],
)
def test_scores_that_cannot_be_are_refused(parts, weights, says):
    with pytest.raises(BadFigure, match=says):
        overall_score(parts, weights)


def test_a_part_that_no_score_could_fill_is_refused():
    weights = {"a": 0.9, "b": 0.1}
    with pytest.raises(BadFigure, match="no score of “b” gives"):
        missing_part({"a": 1000.0}, weights, 5000.0)
    with pytest.raises(BadFigure, match="2 parts have no score"):
        missing_part({}, weights, 100.0)
    assert parse_part("graphics=4225:0.85") == ("graphics", 4225.0, 0.85)
    assert parse_part("cpu=:0.15") == ("cpu", None, 0.15)
    for words in ("cpu", "cpu=1", "=1:0.5", "cpu=x:0.5"):
        with pytest.raises(BadFigure, match="is not a part"):
            parse_part(words)


# Orders


def test_rows_are_filtered_grouped_and_sorted_and_figures_stay(board):
    some = arrange(board, Arrangement(words="tidewrack 1440p"))
    assert [row.case_id for row in some.rows] == ["tidewrack-1440p"]
    grouped = arrange(board, Arrangement(group=GroupBy.RESOLUTION))
    assert [row.resolution for row in grouped.rows] == ["1080p"] * 6 + ["1440p"] * 3 + ["2160p"]
    by_loss = arrange(board, Arrangement(sort_rig="sluice-marram-12", lens=Lens.LOSS))
    losses = [by_loss.cells["sluice-marram-12", row.case_id].loss for row in by_loss.rows]
    assert losses == sorted(losses, reverse=True)
    assert by_loss.cells == board.cells
    assert by_loss.totals == board.totals


def test_a_title_collapses_to_its_geometric_mean(board):
    folded = arrange(board, Arrangement(collapse=True))
    assert len(folded.rows) == 6
    row = next(row for row in folded.rows if row.title == "Tidewrack")
    assert row.case_id == f"{COLLAPSED}Tidewrack"
    assert row.scene == "mean of 3 cases"
    cells = [
        board.cells["sluice-marram-12", f"tidewrack-{size}"] for size in ("1080p", "1440p", "2160p")
    ]
    folded_cell = folded.cells["sluice-marram-12", row.case_id]
    assert folded_cell.gain == pytest.approx(stats.gmean([1 + c.gain for c in cells]) - 1)
    assert folded_cell.loss == pytest.approx(1 - stats.gmean([1 - c.loss for c in cells]))
    assert folded_cell.runs == sum(cell.runs for cell in cells)
