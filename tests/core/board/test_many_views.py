"""Which percentage, several references, and means that follow the eye."""

import pytest
from scipy.stats import gmean

from blunt_ruler.core.board.board import build_board
from blunt_ruler.core.board.groups import SUBTOTAL, means_over, wanted_means, with_means
from blunt_ruler.core.board.lenses import Lens, cell_text
from blunt_ruler.core.board.lines import mean_basis
from blunt_ruler.core.board.percentages import cell_statements, pair_statements
from blunt_ruler.core.board.references import held_basis, hold_against
from blunt_ruler.core.board.row_order import Arrangement, GroupBy, arrange
from blunt_ruler.core.claims.cells import cell_line
from blunt_ruler.core.claims.headline import board_headline, reference_headline
from blunt_ruler.core.claims.offer import claims_on
from blunt_ruler.core.records.edits import one_more_reference
from blunt_ruler.core.records.hardware import Rig
from blunt_ruler.core.records.records import (
    Case,
    Contents,
    Origin,
    Review,
    ReviewRig,
    Role,
    Run,
    Title,
    TypedFigures,
)

# Phrases of the trade with their true figures: rates 69.5 on the rig, 27.5 base, 106.5 reference,
# worked by hand: 69.5/27.5 − 1, 1 − 69.5/106.5, 106.5/69.5 − 1, 37 over the midpoint 88.
PHRASES = {
    "gain": (42.0 / 27.5, "Sluice gives 152.7\u202f% more than Built-in: a share of Built-in."),
    "loss": (37.0 / 106.5, "Sluice loses 34.7\u202f% of Tower: a share of Tower."),
    "the other's lead": (
        37.0 / 69.5,
        "Tower gives 53.2\u202f% more than Sluice: a share of Sluice.",
    ),
    "midpoint difference": (
        37.0 / 88.0,
        "They lie 42.0\u202f% of their midpoint apart: neither a gain nor a loss.",
    ),
}


def test_each_percentage_stands_in_its_own_sentence():
    over = {one.name: one for one in pair_statements("Sluice", 69.5, "Built-in", 27.5)}
    against = {one.name: one for one in pair_statements("Sluice", 69.5, "Tower", 106.5)}
    for name, (value, says) in PHRASES.items():
        one = over[name] if name == "gain" else against[name]
        assert one.value == pytest.approx(value)
        assert one.says == says
    slower = {one.name: one.says for one in pair_statements("A", 50.0, "B", 40.0)}
    assert slower["loss"] == "A loses nothing and gains 25.0\u202f% of B: a share of B."


TITLES = {"t": "Tidewrack", "n": "Ninefold Siege"}
CASES = {"t1": ("t", "1080p"), "t2": ("t", "1440p"), "n1": ("n", "1080p"), "n2": ("n", "1440p")}


def lab(rates, references=("r",), **review):
    """rates: rig → rates of the four cases, None where there is none."""
    runs = {
        f"{rig}{case}": Run(
            id=f"{rig}{case}",
            rig_id=rig,
            case_id=case,
            origin=Origin(kind="typed"),
            typed=TypedFigures(average_fps=rate),
        )
        for rig, row in rates.items()
        for case, rate in zip(CASES, row, strict=True)
        if rate is not None
    }
    roles = {"a": Role.BASE, **dict.fromkeys(references, Role.REFERENCE)}
    seated = Review(
        id="v",
        name="v",
        seats=tuple(ReviewRig(rig_id=rig, role=roles.get(rig, Role.TESTED)) for rig in rates),
        case_ids=tuple(CASES),
        **review,
    )
    contents = Contents.empty().with_records(
        {
            "rigs": {
                rig: Rig(id=rig, name=rig.upper(), source="S" if rig == "p" else "")
                for rig in rates
            },
            "titles": {
                key: Title(id=key, name=name, tags=("coast",) if key == "t" else ())
                for key, name in TITLES.items()
            },
            "cases": {
                key: Case(id=key, title_id=title, resolution=size)
                for key, (title, size) in CASES.items()
            },
            "runs": runs,
            "reviews": {"v": seated},
        }
    )
    return contents, seated


RATES = {
    "a": (30, 20, 40, 30),
    "b": (60, 50, 60, 50),
    "r": (80, 60, 90, 80),
    "s": (61, 51, 62, 49),
}


def test_a_rig_against_several_references_and_the_nearest_of_them():
    contents, review = lab(RATES, references=("r", "s"))
    board = build_board(contents, review)
    assert board.reference.rig_id == "r", "the first is the one of every cell"
    found = hold_against(contents, board, {})
    (first, second) = found.of_rig("b")
    assert first.mean.ratio == pytest.approx(gmean([60 / 80, 50 / 60, 60 / 90, 50 / 80]))
    assert second.mean.ratio == pytest.approx(gmean([60 / 61, 50 / 51, 60 / 62, 50 / 49]))
    assert found.nearest("b") is second
    line = reference_headline(found, "b")
    assert line == "B comes closest to S: not told apart; 29\u202f% slower than R."
    assert held_basis(found, "b") == "Over the cases that both have: R 4 cases, S 4 cases."
    assert {one.rig.rig_id for one in found.held} == {"a", "b"}, "no reference is held itself"


def test_a_published_reference_is_named_as_such():
    contents, review = lab({**RATES, "p": (66, None, None, None)}, references=("r", "p"))
    found = hold_against(contents, build_board(contents, review), {})
    assert "the figure published by S for P" in reference_headline(found, "b")


def test_without_a_reference_the_line_says_so():
    contents, review = lab(RATES, references=())
    found = hold_against(contents, build_board(contents, review), {})
    assert reference_headline(found, "b").startswith("No reference rig is chosen")


def test_one_more_reference_stands_behind_the_first():
    contents, review = lab(RATES)
    (made,) = one_more_reference(contents, review, "b").put
    assert made.references == ("r", "b")
    assert made.rig_in(Role.REFERENCE) == "r"
    assert made.against("b").references == ("b",)
    assert made.with_role("s", Role.REFERENCE).references == ("s",), "the role passes on"


def shown(how, rates=RATES, **review):
    contents, seated = lab(rates, **review)
    whole = build_board(contents, seated)
    arranged = arrange(whole, how)
    wanted = wanted_means(whole, arranged, how)
    found = {cases: means_over(contents, whole, {}, cases) for cases in wanted.all()}
    return whole, with_means(arranged, wanted, found, how)


def test_a_mean_over_the_filter_is_the_mean_of_what_is_shown():
    whole, board = shown(Arrangement(words="1080p"))
    assert whole.totals["b"].over_base.cases == 4
    mean = board.totals["b"].over_base
    assert (mean.cases, mean.ratio) == (2, pytest.approx(gmean([60 / 30, 60 / 40])))
    assert "over the 2 cases shown" in mean_basis(board, "b")
    contents, _ = lab(RATES)
    assert "over the 2 cases shown" in board_headline(claims_on(contents, board), "b")
    _, same = shown(Arrangement())
    assert same.over == "", "nothing is filtered: the review's own means"


def test_each_group_has_a_row_of_its_mean():
    _, board = shown(Arrangement(group=GroupBy.RESOLUTION))
    keys = [row.case_id for row in board.rows]
    assert keys == ["t1", "n1", f"{SUBTOTAL}1080p", "t2", "n2", f"{SUBTOTAL}1440p"]
    assert cell_text(board, "b", f"{SUBTOTAL}1080p", Lens.GAIN) == "≈+73\u202f%"
    said = cell_line(board, "b", f"{SUBTOTAL}1080p")
    assert said.startswith("On average ≈×1.7 the speed of A and ")


def test_tags_make_groups_and_a_group_of_one_has_no_row():
    _, board = shown(Arrangement(group=GroupBy.TAG))
    assert [row.case_id for row in board.rows if row.case_id.startswith(SUBTOTAL)] == [
        f"{SUBTOTAL}no tag",
        f"{SUBTOTAL}coast",
    ]
    _, one = shown(Arrangement(group=GroupBy.RESOLUTION, words="tidewrack"))
    assert not any(row.case_id.startswith(SUBTOTAL) for row in one.rows)


def test_a_mean_over_groups_is_the_mean_over_their_members_where_groups_are_alike():
    whole, board = shown(Arrangement(group=GroupBy.TITLE))
    groups = [board.subtotals[f"{SUBTOTAL}{name}"]["b"].over_base.ratio for name in TITLES.values()]
    assert whole.totals["b"].over_base.ratio == pytest.approx(gmean(groups))


def test_each_title_counts_once_whatever_number_of_cases_it_has():
    lopsided = {rig: (*row[:3], None) for rig, row in RATES.items()}
    contents, review = lab(lopsided)
    plain = build_board(contents, review).totals["b"].over_base.ratio
    assert plain == pytest.approx(gmean([2.0, 2.5, 1.5]))
    once = review.model_copy(update={"each_title_once": True})
    board = build_board(contents, once)
    assert board.totals["b"].over_base.ratio == pytest.approx(gmean([gmean([2.0, 2.5]), 1.5]))
    assert "each title once" in mean_basis(board, "b")


def test_statements_of_a_cell_are_against_base_and_reference():
    contents, review = lab(RATES)
    board = build_board(contents, review)
    said = cell_statements(board, "b", "t1")
    assert [other for other, _ in said] == ["A"] * 4 + ["R"] * 4
    assert said[0][1].value == pytest.approx(1.0)
    assert said[5][1].value == pytest.approx(0.25)
    assert [other for other, _ in cell_statements(board, "a", "t1")] == ["R"] * 4
