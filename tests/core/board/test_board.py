"""The Board's values and its sentences, from small reviews made by hand."""

from dataclasses import replace

import pytest

from blunt_ruler.core.analysis.analyse import analyse
from blunt_ruler.core.analysis.rail_states import stop_states
from blunt_ruler.core.board.board import build_board
from blunt_ruler.core.board.lenses import Lens, beside_text, cell_text, lens_words, mean_text
from blunt_ruler.core.board.lines import board_basis, cell_next
from blunt_ruler.core.board.row_order import Arrangement, arrange
from blunt_ruler.core.board.scaling import series
from blunt_ruler.core.checks.all import check_runs, runs_line
from blunt_ruler.core.claims.cells import cell_line
from blunt_ruler.core.claims.headline import board_headline
from blunt_ruler.core.claims.offer import claims_on
from blunt_ruler.core.compare.comparability import Standing
from blunt_ruler.core.compare.like_for_like import unsound_words
from blunt_ruler.core.measure.kinds import Bound, Kind, MeanSchool
from blunt_ruler.core.measure.reading import FROM_LOG, HowRead
from blunt_ruler.core.records.hardware import Card, Host, Link, Rig, RigState
from blunt_ruler.core.records.records import (
    Case,
    Contents,
    Decision,
    Origin,
    Review,
    ReviewRig,
    Role,
    Run,
    Title,
    TypedFigures,
)
from blunt_ruler.core.writeup.compose import writeup_line

FPS = {"igpu": 20.0, "cable": 50.0, "tower": 80.0}


def a_run(rig, case, fps, low=None, repeat=1, decision=Decision.KEEP):
    return Run(
        id=f"{rig}-{case}-{repeat}",
        rig_id=rig,
        case_id=case,
        repeat=repeat,
        origin=Origin(kind="typed"),
        typed=TypedFigures(average_how=FROM_LOG, average_fps=fps, low_1_fps=low),
        decision=decision,
    )


def contents_of(runs, roles=("base", "under test", "reference")):
    rigs = (
        Rig(id="igpu", name="Built-in iG-6", host_id="h", card_id="ig6"),
        Rig(id="cable", name="Sluice Marram 12", host_id="h", card_id="m12", link_id="l"),
        Rig(id="tower", name="Workbench Marram 12", host_id="w", card_id="m12"),
    )
    review = Review(
        id="v",
        name="V",
        seats=tuple(
            ReviewRig(rig_id=rig.id, role=Role(role)) for rig, role in zip(rigs, roles, strict=True)
        ),
        case_ids=("x", "y"),
    )
    contents = replace(
        Contents.empty(),
        hosts={
            "h": Host(id="h", name="Quillon 24"),
            "w": Host(id="w", name="Workbench tower"),
        },
        cards={
            "ig6": Card(id="ig6", name="iG-6", built_in=True),
            "m12": Card(id="m12", name="Marram 12"),
        },
        links={"l": Link(id="l", name="40 Gb/s cable")},
        rigs={rig.id: rig for rig in rigs},
        titles={"t": Title(id="t", name="Tidewrack")},
        cases={
            "x": Case(id="x", title_id="t", scene="coast", resolution="1080p", preset="High"),
            "y": Case(id="y", title_id="t", scene="coast", resolution="1440p", preset="High"),
        },
        runs={run.id: run for run in runs},
        reviews={"v": review},
    )
    return contents, review


def a_board(runs=None, roles=("base", "under test", "reference")):
    if runs is None:
        runs = [a_run(rig, "x", fps, fps * 0.8) for rig, fps in FPS.items()]
    contents, review = contents_of(runs, roles)
    return build_board(contents, review)


def test_each_lens_shows_its_figure_with_its_base():
    board = a_board()
    shown = {lens: cell_text(board, "cable", "x", lens) for lens in Lens}
    assert shown == {
        Lens.RATE: "50.0",
        Lens.LOW_1: "40.0",
        Lens.GAIN: "+150\u202f%",
        Lens.LOSS: "−38\u202f%",
        Lens.STEADINESS: "80\u202f%",
        Lens.FASTER_BY: "+60\u202f%",
        Lens.STANDING: "clean",
        **dict.fromkeys((Lens.LOW_01, Lens.SPREAD, Lens.LIMIT, Lens.WATTS, Lens.PER_WATT), "–"),
    }
    for lens in (Lens.GAIN, Lens.LOSS, Lens.FASTER_BY):
        other = "Built-in iG-6" if lens is Lens.GAIN else "Workbench Marram 12"
        assert other in lens_words(board, lens)
    assert "Built-in iG-6" in lens_words(board, Lens.GAIN)
    assert "Workbench Marram 12" in lens_words(board, Lens.LOSS)
    assert "percentile" in lens_words(board, Lens.LOW_1)
    assert beside_text(board, "cable", "x", Lens.RATE) == "×2.50"
    assert beside_text(board, "igpu", "x", Lens.RATE) == "base"
    assert mean_text(board, "cable", Lens.RATE) == "×2.50"
    assert mean_text(board, "cable", Lens.LOSS) == "−38\u202f%"
    assert board.kept_of_reference("cable", "x") == pytest.approx(50 / 80)


def test_only_kept_runs_count_and_the_others_stay_listed():
    runs = [a_run(rig, "x", fps) for rig, fps in FPS.items()]
    runs.append(a_run("cable", "x", 500.0, repeat=2, decision=Decision.SET_ASIDE))
    board = a_board(runs)
    assert board.cells["cable", "x"].average_fps == pytest.approx(50.0)
    assert len(board.runs["cable", "x"]) == 2
    assert "1 run of this cell is not counted" in cell_next(
        a_board([*runs, a_run("cable", "x", 50.0, repeat=3)]), "cable", "x"
    )


def headline(runs=None, roles=("base", "under test", "reference"), **changed):
    if runs is None:
        runs = [a_run(rig, "x", fps) for rig, fps in FPS.items()]
    contents, review = contents_of(runs, roles)
    contents = contents.with_records(changed)
    return board_headline(claims_on(contents, build_board(contents, review)))


def test_the_headline_gives_both_bases():
    assert headline() == (
        "The Marram 12 over the 40 Gb/s cable is 2.5 times as fast as the built-in iG-6 in "
        "Tidewrack. It keeps 62\u202f% of its speed in the Workbench tower."
    )


def test_a_small_gain_is_a_percentage_and_a_loss_of_speed_is_slower():
    runs = [a_run("igpu", "x", 50.0), a_run("cable", "x", 55.0), a_run("tower", "x", 60.0)]
    assert "is 10\u202f% faster than the built-in iG-6" in headline(runs)
    runs[1] = a_run("cable", "x", 45.0)
    assert "is 10\u202f% slower than the built-in iG-6" in headline(runs)


def test_what_is_missing_is_said_with_what_to_do():
    assert "No figure yet" in headline([])
    no_base = a_board(roles=("under test", "under test", "reference"))
    assert headline(roles=("under test", "under test", "reference")).startswith("No base rig")
    assert no_base.comparison is None
    assert no_base.cells["cable", "x"].gain is None
    assert "has no kept run" in headline([a_run("cable", "x", 50.0)])
    assert "No reference is chosen" in headline(roles=("base", "under test", "under test"))
    apart = [a_run("igpu", "x", 20.0), a_run("cable", "x", 50.0), a_run("tower", "y", 80)]
    assert "2.5 times" in headline(apart)
    assert "import a run of the rig under test" in headline([a_run("igpu", "x", 20.0)])
    only_ends = headline([a_run("igpu", "x", 20.0), a_run("tower", "x", 80.0)])
    assert only_ends == (
        "The built-in iG-6 is 75\u202f% slower than Workbench Marram 12 in Tidewrack."
    )


def test_another_card_is_not_said_to_keep_its_own_speed():
    contents, _ = contents_of([])
    tower = contents.rigs["tower"].model_copy(update={"card_id": "m16"})
    m16 = Card(id="m16", name="Marram 16")
    line = headline(cards={"m16": m16}, rigs={"tower": tower})
    assert "It is 38\u202f% slower than Workbench Marram 12" in line
    assert "its speed" not in line


def test_a_cell_is_said_with_its_bases_and_what_it_lacks():
    board = a_board()
    assert cell_line(board, "cable", "x") == (
        "50.0 frames per second: +150\u202f% over Built-in iG-6 and −38\u202f% against "
        "Workbench Marram 12."
    )
    assert cell_line(board, "igpu", "x") == (
        "20.0 frames per second: −75\u202f% against Workbench Marram 12."
    )
    assert "no kept run" in cell_line(board, "cable", "y")
    assert "Run it again" in cell_next(board, "cable", "x")
    assert "Take a run of this case" in cell_next(board, "cable", "y")
    told = {"typed": None, "outcome": "hung at the menu."}
    crashed = a_run("cable", "y", 1.0).model_copy(update=told)
    ended = a_board([a_run("igpu", "y", 20.0), crashed])
    row = next(row for row in ended.rows if row.case_id == "y")
    assert cell_line(ended, "cable", "y").endswith(
        f" did not run {row.title} {row.settings}: hung at the menu."
    )
    assert "diary" in cell_next(ended, "cable", "y")
    lonely = a_board([*board.runs["igpu", "x"], a_run("cable", "y", 50.0)])
    assert "Built-in iG-6" in cell_next(lonely, "cable", "y")


def test_runs_and_writeup_lines_count():
    runs = [a_run(rig, "x", fps) for rig, fps in FPS.items()]
    runs.append(a_run("cable", "x", 49.0, repeat=2, decision=Decision.REDO))
    contents, review = contents_of(runs)
    line = runs_line(contents, review)
    assert line.startswith("4 runs: 3 kept, 1 to redo.")
    assert "3 cells of the Board rest on a single kept run" in line
    assert "3 cells" in writeup_line(build_board(contents, review))
    assert "Nothing to write up" in writeup_line(a_board([]))
    states = stop_states(contents, analyse(contents, review))
    assert states["Runs"].words == "4 runs · 1 to redo"
    assert states["Runs"].share == pytest.approx(3 / 6)
    assert states["Limits"].words == "no fit yet"
    assert states["Worth"].words == "no price yet"
    assert states["Write-up"].words == "no verdict or disclosures"
    assert stop_states(contents, None)["Board"].words == ""


def test_a_difference_inside_the_noise_is_not_claimed():
    runs = [a_run("igpu", "x", 50.0), a_run("cable", "x", 50.4), a_run("tower", "x", 80.0)]
    board = a_board(runs)
    line = headline(runs)
    assert "is not told apart from the built-in iG-6 (−5\u202f% to +7\u202f%)" in line
    assert "faster" not in line
    assert cell_text(board, "cable", "x", Lens.GAIN) == "−5 to +7\u202f%"
    assert cell_line(board, "cable", "x").startswith(
        "50.4 frames per second: −5 to +7\u202f% over Built-in iG-6 and −37"
    )
    cell = board.cells["cable", "x"]
    assert cell.tie
    assert cell.runs_needed is None  # 0.8 % at an assumed 2 % takes over 50 runs
    assert "more passes on the same days would not" in cell_line(board, "cable", "x")
    three = (("igpu", 50.0), ("cable", 52.0), ("tower", 80.0))
    closer = a_board([a_run(rig, "x", fps) for rig, fps in three])
    # 3.9 % at 2 % and 0.5 % by the day: n = 2 (2.8 × 2)² / (3.9² − 2.8² × 2 × 0.5²) = 5.5, 7 by t.
    assert "6 more passes would settle it" in cell_line(closer, "cable", "x")
    assert "6 more times on both rigs" in cell_next(closer, "cable", "x")


def titles_board(rates, **review_changes):
    """One case for each title; rates by title as (base, cable, tower)."""
    runs, titles, cases = [], {}, {}
    for name, (base, cable, tower) in rates.items():
        titles[name] = Title(id=name, name=name)
        cases[name] = Case(id=name, title_id=name, resolution="1080p")
        for rig, fps in (("igpu", base), ("cable", cable), ("tower", tower)):
            runs.append(a_run(rig, name, fps))
    contents, review = contents_of(runs)
    contents = contents.with_records({"titles": titles, "cases": cases})
    review = review.model_copy(update={"case_ids": tuple(rates), **review_changes})
    return contents, review


OUTLIER = {
    "One": (20, 22, 30),
    "Two": (30, 33, 40),
    "Three": (40, 44, 60),
    "Four": (10, 60, 80),
}


def test_an_outlier_that_carries_the_mean_is_named_with_the_mean_without_it():
    contents, review = titles_board(OUTLIER)
    board = build_board(contents, review)
    mean = board.totals["cable"].over_base
    assert mean.case_moved == "Four"
    assert mean.ratio_without == pytest.approx(1.1)
    line = board_headline(claims_on(contents, board))
    assert line == (
        "Sluice Marram 12 is 68\u202f% faster than the built-in iG-6 on average (10\u202f% to "
        "500\u202f%). It keeps 76\u202f% of its speed in the Workbench tower."
    )


def test_a_case_left_out_with_its_reason_leaves_every_mean_and_stays_on_the_board():
    contents, review = titles_board(OUTLIER)
    out = review.with_case_left_out("Four", "another engine version")
    board = build_board(contents, out)
    assert board.totals["cable"].mean_gain == pytest.approx(0.1)
    assert ("cable", "Four") in board.cells
    assert next(row for row in board.rows if row.case_id == "Four").left_out
    line = board_headline(claims_on(contents, board))
    assert line.startswith("The Marram 12 over the 40 Gb/s cable is 10\u202f% faster than")
    assert out.with_case_left_out("Four", None) == review


@pytest.mark.parametrize("school", MeanSchool)
def test_each_school_is_named_where_its_mean_stands(school):
    contents, review = titles_board(OUTLIER, mean=school)
    board = build_board(contents, review)
    assert board.comparison.mean == school
    words = {"geometric": "geometric", "rate": "arithmetic", "percent": "percentages"}
    assert words.get(school, school) in board_basis(board, "cable")


def test_weights_count_and_are_said():
    contents, review = titles_board(OUTLIER)
    heavy = review.with_weight("Four", 9.0)
    board = build_board(contents, heavy)
    plain = build_board(contents, review)
    assert board.totals["cable"].mean_gain > plain.totals["cable"].mean_gain
    assert "weighted" in board_basis(board, "cable")


def test_a_pair_that_differs_in_more_is_mixed_and_kept_out_of_clean_means():
    contents, review = titles_board(OUTLIER)
    states = {
        "cable": RigState(power_mode="performance", cpu_power_limit_w=15),
        "igpu": RigState(power_mode="balanced", cpu_power_limit_w=28),
    }
    rigs = {
        key: contents.rigs[key].model_copy(update={"state": state}) for key, state in states.items()
    }
    contents = contents.with_records({"rigs": rigs})
    board = build_board(contents, review)
    standing = board.cells["cable", "One"].standing
    assert standing.against_base is Standing.MIXED
    assert "CPU power limit (15, 28) against Built-in iG-6" in standing.differs
    assert board.totals["cable"].over_base is None
    line = board_headline(claims_on(contents, board))
    assert "cannot be compared: power mode" in line
    assert cell_text(board, "cable", "One", Lens.STANDING) == "mixed"
    assert "CPU power limit" in cell_next(board, "cable", "One")
    for change in ({"clean_only": False}, {"varies": ("power_mode", "cpu_power_limit_w")}):
        again = build_board(contents, review.model_copy(update=change))
        assert again.totals["cable"].gain_cases == 4


def test_a_fact_noted_on_one_rig_only_is_a_caveat_and_takes_no_sentence_away():
    contents, review = titles_board(OUTLIER)
    before = board_headline(claims_on(contents, build_board(contents, review)))
    state = RigState(power_mode="performance")
    cable = contents.rigs["cable"].model_copy(update={"state": state})
    contents = contents.with_records({"rigs": {"cable": cable}})
    board = build_board(contents, review)
    claims = claims_on(contents, board)
    assert board.cells["cable", "One"].standing.worst is Standing.CLEAN
    assert board_headline(claims) == before
    assert "power mode of Built-in iG-6 not noted" in claims.all()[0].caveats


def test_a_driver_of_another_family_and_the_built_in_output_are_not_held_against_a_card():
    contents, review = titles_board(OUTLIER)
    rigs = {
        "igpu": contents.rigs["igpu"].model_copy(update={"state": RigState(driver="Lamp 6")}),
        "cable": contents.rigs["cable"].model_copy(update={"state": RigState(driver="Dune 41")}),
        "tower": contents.rigs["tower"].model_copy(update={"state": RigState(driver="Dune 40")}),
    }
    cards = {
        "ig6": contents.cards["ig6"].model_copy(update={"driver_family": "Lamp"}),
        "m12": contents.cards["m12"].model_copy(update={"driver_family": "Dune"}),
    }
    board = build_board(contents.with_records({"rigs": rigs, "cards": cards}), review)
    standing = board.cells["cable", "One"].standing
    assert standing.against_base is Standing.CLEAN
    assert standing.differs == ("driver (Dune 41, Dune 40) against Workbench Marram 12",)


def test_an_unsound_kept_run_makes_its_cell_mixed(demo_contents):
    contents = demo_contents
    run = contents.runs["sluice-marram-12_copper-meridian-1080p_1"]
    kept = run.model_copy(update={"decision": Decision.KEEP})
    contents = contents.with_records({"runs": {run.id: kept}})
    review = contents.reviews["which-link"]
    board = build_board(contents, review, unsound_words(check_runs(contents, None)))
    cell = board.cells["sluice-marram-12", "copper-meridian-1080p"]
    assert cell.standing.worst is Standing.MIXED
    assert cell.standing.differs == ("pass 1: frame cap or refresh lock",)
    assert board.totals["sluice-marram-12"].gain_cases == 9


def capped(contents, cap_fps):
    """The same with a frame cap in every case."""
    cases = contents.cases.items()
    capped_cases = {key: one.model_copy(update={"frame_cap_fps": cap_fps}) for key, one in cases}
    return contents.with_records({"cases": capped_cases})


@pytest.mark.parametrize(
    ("cap", "fps", "bound"),
    [
        (None, 60.0, Bound.POINT),
        (60.0, 60.0, Bound.AT_LEAST),
        (60.0, 59.8, Bound.AT_LEAST),
        (60.0, 57.0, Bound.POINT),
        (120.0, 60.0, Bound.POINT),
    ],
)
def test_a_rate_at_the_cap_of_its_case_is_a_bound(cap, fps, bound):
    contents, review = contents_of([a_run("igpu", "x", 20.0), a_run("cable", "x", fps)])
    board = build_board(capped(contents, cap), review)
    cell = board.cells["cable", "x"]
    assert (cell.bound, cell.over_bound) == (bound, bound)
    held = bound is Bound.AT_LEAST
    assert cell_text(board, "cable", "x", Lens.RATE) == f"{fps:.1f}{'+' if held else ''}"
    line = cell_line(board, "cable", "x")
    assert ("at the cap of its case" in line) == ("at least" in line) == held
    # The base, far below, stays a figure.
    assert board.cells["igpu", "x"].bound is Bound.POINT


def test_two_rigs_at_the_cap_say_nothing_of_each_other():
    contents, review = contents_of([a_run("igpu", "x", 59.9), a_run("cable", "x", 60.0)])
    board = build_board(capped(contents, 60.0), review)
    assert board.cells["cable", "x"].gain is None
    assert board.totals["cable"].over_base is None


def test_a_folded_title_of_bounds_stays_a_bound_and_scales_nothing():
    how = HowRead(kind=Kind.AT_LEAST, step=1.0)
    runs = [a_run(rig, case, FPS[rig]) for rig in FPS for case in "xy"]
    runs[2] = runs[2].model_copy(update={"typed": TypedFigures(average_fps=50.0, average_how=how)})
    contents, review = contents_of(runs)
    board = build_board(contents, review)
    folded = arrange(board, Arrangement(collapse=True))
    row = next(row for row in folded.rows if row.case_id.startswith("title:"))
    cell = folded.cells["cable", row.case_id]
    assert (cell.bound, cell.over_bound, cell.kind) == (
        Bound.AT_LEAST,
        Bound.AT_LEAST,
        Kind.AT_LEAST,
    )
    assert not [one for one in series(contents, board) if one.rig_id == "cable"]
    assert [one for one in series(contents, board) if one.rig_id == "tower"]
