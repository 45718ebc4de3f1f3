"""Scores as cases: overall and parts, gains and losses, both directions, never in a game mean."""

import numpy as np
import pytest
from scipy.stats import gmean, hmean

from blunt_ruler.core.board.board import build_board
from blunt_ruler.core.board.lenses import Lens, cell_text
from blunt_ruler.core.board.scores import score_board
from blunt_ruler.core.claims.cells import cell_line
from blunt_ruler.core.claims.headline import board_headline, score_headline
from blunt_ruler.core.claims.offer import claims_on
from blunt_ruler.core.errors import BadFigure
from blunt_ruler.core.measure.composite_score import (
    ScoreFormula,
    fitting_weights,
    missing_part,
    overall_score,
)
from blunt_ruler.core.records.hardware import Rig
from blunt_ruler.core.records.records import (
    Case,
    Contents,
    Origin,
    PartScore,
    Review,
    ReviewRig,
    Role,
    Run,
    TestPart,
    Title,
    TypedFigures,
)
from blunt_ruler.core.runs.entry import parse_entry
from blunt_ruler.core.runs.parts_notation import BadPart, parse_parts, parts_text
from blunt_ruler.core.runs.score_parts import (
    BadWeight,
    part_entry,
    parts_of,
    read_weight,
    scores_of,
    split_key,
    type_part,
    weigh_part,
)
from blunt_ruler.core.runs.typed_cells import TypedCell, type_cells

PARTS = {"graphics": 4920.0, "cpu": 2600.0}
WEIGHTS = {"graphics": 0.85, "cpu": 0.15}


# Formulas against scipy's own means (an outside source of the same definitions)


def test_each_formula_is_scipys_weighted_mean():
    values, weights = list(PARTS.values()), list(WEIGHTS.values())
    expected = {
        ScoreFormula.HARMONIC: hmean(values, weights=weights),
        ScoreFormula.GEOMETRIC: gmean(values, weights=weights),
        ScoreFormula.ARITHMETIC: np.average(values, weights=weights),
    }
    for formula, value in expected.items():
        assert overall_score(PARTS, WEIGHTS, formula) == pytest.approx(value)


@pytest.mark.parametrize("formula", ScoreFormula)
def test_a_missing_part_is_found_again_by_each_formula(formula):
    overall = overall_score(PARTS, WEIGHTS, formula)
    name, score = missing_part({"graphics": 4920.0}, WEIGHTS, overall, formula)
    assert (name, score) == ("cpu", pytest.approx(2600.0))


@pytest.mark.parametrize("formula", ScoreFormula)
def test_weights_are_found_from_two_known_overalls(formula):
    weights = {"a": 0.5, "b": 0.3, "c": 0.2}
    results = [
        {"a": 100.0, "b": 220.0, "c": 340.0},
        {"a": 250.0, "b": 120.0, "c": 90.0},
    ]
    known = [(parts, overall_score(parts, weights, formula)) for parts in results]
    found = fitting_weights(known, formula)
    assert found == pytest.approx(weights, abs=1e-3)


def test_weights_that_cannot_be_found_are_said():
    with pytest.raises(BadFigure, match="do not determine the weights"):
        fitting_weights([({"a": 1.0, "b": 2.0, "c": 3.0}, 2.0)])
    with pytest.raises(BadFigure, match="no weights of these parts"):
        fitting_weights([({"a": 100.0, "b": 200.0}, 900.0)])
    with pytest.raises(BadFigure, match="do not share the same"):
        fitting_weights([({"a": 1.0, "b": 2.0}, 1.5), ({"a": 1.0, "x": 2.0}, 1.5)])


# A small lab


def run(rig, case, repeat=1, score=None, **parts):
    return Run(
        id=f"{rig}-{case}-{repeat}",
        rig_id=rig,
        case_id=case,
        repeat=repeat,
        origin=Origin(kind="typed"),
        typed=TypedFigures(
            score=score,
            parts=tuple(PartScore(name=k, score=v) for k, v in parts.items()),
        ),
    )


def fps(rig, case, rate):
    return Run(
        id=f"{rig}-{case}-f",
        rig_id=rig,
        case_id=case,
        origin=Origin(kind="typed"),
        typed=TypedFigures(average_fps=rate),
    )


LATTICE = Title(
    id="lattice",
    name="Lattice",
    kind="synthetic",
    parts=(TestPart(name="graphics", weight=0.85), TestPart(name="cpu", weight=0.15)),
)
LOOM = Title(id="loom", name="Loom", kind="synthetic", parts=(TestPart(name="graphics"),))
COPY = Title(id="copy", name="Copying", kind="synthetic", score_unit="s", lower_is_better=True)
RATE = Title(id="rate", name="Raster loop", kind="synthetic")
GAME = Title(id="game", name="Tidewrack")


def lab(*runs, titles=(LATTICE, LOOM, COPY, RATE, GAME)):
    review = Review(
        id="v",
        name="v",
        seats=(
            ReviewRig(rig_id="a", role=Role.BASE),
            ReviewRig(rig_id="b"),
            ReviewRig(rig_id="r", role=Role.REFERENCE),
        ),
        case_ids=tuple(title.id for title in titles),
    )
    contents = Contents.empty().with_records(
        {
            "rigs": {key: Rig(id=key, name=key.upper()) for key in "abr"},
            "titles": {title.id: title for title in titles},
            "cases": {title.id: Case(id=title.id, title_id=title.id) for title in titles},
            "runs": {one.id: one for one in runs},
            "reviews": {"v": review},
        }
    )
    return contents, review


def scores_over(*runs):
    contents, review = lab(*runs)
    return score_board(contents, build_board(contents, review))


def test_gains_and_losses_of_an_overall_and_of_each_part():
    found = scores_over(
        run("a", "lattice", score=1000, graphics=1100, cpu=700),
        run("b", "lattice", score=3000, graphics=4400, cpu=1400),
        run("r", "lattice", score=4000, graphics=5500, cpu=1400),
    )
    cells = found.board.cells
    assert cells["b", "lattice"].gain == pytest.approx(2.0)
    assert cells["b", "lattice"].loss == pytest.approx(0.25)
    assert cells["b", "lattice#graphics"].gain == pytest.approx(3.0)
    assert cells["b", "lattice#graphics"].loss == pytest.approx(0.2)
    assert cells["b", "lattice#cpu"].loss == pytest.approx(0.0)
    assert cell_text(found.board, "b", "lattice", Lens.RATE) == "3\u202f000"
    assert cell_line(found.board, "b", "lattice").startswith("3\u202f000 points: +200")


def test_a_score_that_is_corrected_is_set_against_the_others_anew():
    base = run("a", "lattice", score=1000)
    gains = [
        scores_over(base, run("b", "lattice", score=score)).board.cells["b", "lattice"].gain
        for score in (3000, 3500, 3000)
    ]
    assert gains == pytest.approx([2.0, 2.5, 2.0])


def test_parts_that_the_base_was_not_measured_on_have_no_mean_over_it():
    found = scores_over(
        run("a", "lattice", cpu=700),
        run("b", "lattice", graphics=4400, cpu=1400),
        run("r", "lattice", graphics=5500),
        run("b", "loom", graphics=220),
        run("r", "loom", graphics=330),
    )
    assert ("b", "lattice#graphics") in found.board.cells
    assert found.means.get("graphics", {}) == {}, "another rig is not the base"
    assert found.typical_mean("r") is None


def test_less_time_is_a_gain_in_speed():
    found = scores_over(run("a", "copy", score=60), run("b", "copy", score=30))
    cell = found.board.cells["b", "copy"]
    assert cell.average_fps == pytest.approx(30.0), "told in its own unit"
    assert cell.gain == pytest.approx(1.0), "half the time is twice the speed"
    assert cell.rate_low < 30.0 < cell.rate_high
    said = cell_line(found.board, "b", "copy")
    assert said == "30 s: +100\u202f% in speed over A."


def test_an_overall_is_worked_out_of_weighted_parts_and_a_part_out_of_the_overall():
    typed = TypedFigures(
        parts=(PartScore(name="graphics", score=4920), PartScore(name="cpu", score=2600))
    )
    expected = 1 / (0.85 / 4920 + 0.15 / 2600)
    assert scores_of(LATTICE, LATTICE.parts, typed)[""] == pytest.approx(expected)
    bare = TypedFigures(score=expected, parts=(PartScore(name="graphics", score=4920),))
    assert scores_of(LATTICE, LATTICE.parts, bare)["cpu"] == pytest.approx(2600)
    unweighted = TypedFigures(parts=(PartScore(name="graphics", score=4920),))
    assert "" not in scores_of(LOOM, LOOM.parts, unweighted), "no weight, no overall"


def test_repeats_have_an_interval_and_their_middle_is_the_mean_of_rates():
    found = scores_over(
        *(run("a", "lattice", n, score=s) for n, s in enumerate((1000, 1010, 990), 1)),
        *(run("b", "lattice", n, score=s) for n, s in enumerate((3000, 3030, 2970), 1)),
    )
    cell = found.board.cells["b", "lattice"]
    assert cell.runs == 3
    assert cell.average_fps == pytest.approx(hmean([3000, 3030, 2970]))
    assert cell.gain_low < 2.0 < cell.gain_high


def test_no_score_and_no_synthetic_rate_is_in_a_mean_of_games():
    contents, review = lab(
        fps("a", "game", 30),
        fps("b", "game", 60),
        fps("a", "rate", 10),
        fps("b", "rate", 100),
        run("a", "lattice", score=100),
        run("b", "lattice", score=5000),
    )
    board = build_board(contents, review)
    mean = board.totals["b"].over_base
    assert (mean.ratio, mean.case_ids) == (pytest.approx(2.0), ("game",))
    assert board.cells["b", "rate"].gain == pytest.approx(9.0), "it has its own gain"
    assert ("b", "lattice") not in board.cells


def test_means_are_over_like_parts_of_several_tests():
    found = scores_over(
        run("a", "lattice", graphics=1000, cpu=1000),
        run("b", "lattice", graphics=4000, cpu=1000),
        run("a", "loom", graphics=100),
        run("b", "loom", graphics=900),
    )
    assert set(found.means) == {"graphics"}
    mean = found.means["graphics"]["b"].over_base
    assert mean.ratio == pytest.approx(gmean([4.0, 9.0]))


def test_a_test_without_weights_has_no_overall_row():
    found = scores_over(run("a", "loom", graphics=100), run("b", "loom", graphics=900))
    keys = [row.case_id for row in found.board.rows]
    assert "loom" not in keys
    assert "loom#graphics" in keys


def test_without_scores_the_line_says_how_to_begin():
    contents, review = lab(fps("a", "game", 30), titles=(GAME,))
    board = build_board(contents, review)
    line = score_headline(claims_on(contents, board), score_board(contents, board))
    assert line.startswith("No scores yet.")


def test_scores_alone_make_the_headline():
    runs = [
        run(rig, test, graphics=score)
        for test, scores in (("lattice", (1000, 4000)), ("loom", (100, 900)))
        for rig, score in zip("ab", scores, strict=True)
    ]
    contents, review = lab(*runs)
    board = build_board(contents, review)
    claims = claims_on(contents, board)
    said = score_headline(claims, score_board(contents, board), "b")
    assert said == (
        "B scores 6 times as high as A on average, higher in both graphics parts (4 to 9 times)."
    )
    assert board_headline(claims).startswith("B scores 6 times as high as A on average")


# Typing


def ids():
    counted = iter(range(100))
    return lambda: f"new-{next(counted)}"


def test_parts_are_typed_pass_by_pass_and_cleared_again():
    contents, review = lab(run("b", "lattice", 1, score=3000), run("b", "lattice", 2, score=3010))
    edit = type_cells(
        contents, review, [TypedCell("b", "lattice#graphics", "4400 4410 4420")], ids()
    )
    runs = sorted((one for one in edit.put if isinstance(one, Run)), key=lambda one: one.repeat)
    assert [one.repeat for one in runs] == [1, 2, 3]
    assert [one.typed.score for one in runs] == [3000, 3010, None]
    assert part_entry(runs, "graphics") == "4400 4410 4420"
    after = contents.with_records({"runs": {one.id: one for one in runs}})
    gone = type_cells(after, review, [TypedCell("b", "lattice#graphics", "")], ids())
    assert [one.id for one in gone.drop] == [runs[2].id], "a pass that says nothing more goes"
    assert all(not one.typed.parts for one in gone.put if isinstance(one, Run))


def test_a_weight_is_typed_into_a_parts_cell():
    assert read_weight("=0,85") == 0.85
    assert read_weight("4225") is None
    for wrong in ("=2", "=much", "="):
        with pytest.raises(BadWeight):
            read_weight(wrong)
    contents, review = lab()
    (title,) = weigh_part(contents, review, "loom#graphics", 0.7).put
    assert title.parts == (TestPart(name="graphics", weight=0.7),)
    (title,) = weigh_part(contents, review, "loom#cpu", 0.3).put
    assert [one.name for one in title.parts] == ["graphics", "cpu"]
    assert split_key("loom#cpu") == ("loom", "cpu")


def test_parts_as_one_types_them():
    said = "graphics 0.85; cpu 0.15; encode 0.5 s lower; host to card – GB/s; notes"
    parts = parse_parts(said)
    assert parts[2] == TestPart(name="encode", weight=0.5, unit="s", lower_is_better=True)
    assert parts[3] == TestPart(name="host to card", unit="GB/s")
    assert parts_text(parts) == said
    assert parse_parts(parts_text(parts)) == parts
    with pytest.raises(BadPart, match="a weight of 2"):
        parse_parts("graphics 2")
    with pytest.raises(BadPart, match="stands twice"):
        parse_parts("cpu 0.5; CPU 0.5")


def test_parts_of_runs_stand_behind_the_declared_ones():
    seen = run("a", "lattice", graphics=1, shaders=2)
    assert [one.name for one in parts_of(LATTICE, [seen])] == ["graphics", "cpu", "shaders"]


def test_what_did_not_run_is_said_of_the_whole_test():
    entry = parse_entry("no: hung", score=True)
    assert entry.outcome
    contents, review = lab(run("b", "lattice", 1, score=3000))
    with pytest.raises(Exception, match="row of the whole test"):
        type_cells(contents, review, [TypedCell("b", "lattice#cpu", "no: hung")], ids())


def test_typing_one_part_again_leaves_the_others():
    old = [run("b", "lattice", 1, graphics=4400, cpu=1400)]
    put, drop = type_part(
        old, "b", "lattice", TestPart(name="cpu"), parse_entry("1500", score=True), ids(), 1
    )
    assert not drop
    assert {one.name: one.score for one in put[0].typed.parts} == {"graphics": 4400, "cpu": 1500}


def test_points_and_seconds_have_no_mean_together():
    def board_of(*units):
        contents, review = Contents.empty(), Review(id="v", name="v")
        cells = [
            TypedCell(rig, f"Test {at}", text, True, unit=unit)
            for at, unit in enumerate(units)
            for rig, text in (("a", "4000"), ("b", "6000"))
        ]
        edit = type_cells(contents, review, cells, ids())
        for record in edit.put:
            table = f"{type(record).__name__.lower()}s"
            contents = contents.with_records({table: {record.id: record}})
        seats = contents.reviews["v"].seats
        review = contents.reviews["v"].with_role(seats[0].rig_id, Role.BASE)
        return score_board(contents, build_board(contents, review)), seats[1].rig_id

    mixed, rig = board_of("", "s")
    assert mixed.typical_mean(rig) is None
    assert [row.settings for row in mixed.board.rows] == ["overall", "s · lower is better"]
    most, rig = board_of("", "s", "")
    what, _, mean = most.typical_mean(rig)
    assert (what, mean.cases, mean.ratio) == ("overalls", 2, pytest.approx(1.5))
