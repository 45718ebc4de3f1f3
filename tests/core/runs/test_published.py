"""Other people's figures: columns that name their source, old ones brought up."""

import pytest

from blunt_ruler.core.board.board import build_board
from blunt_ruler.core.claims.headline import board_headline
from blunt_ruler.core.claims.offer import claims_on
from blunt_ruler.core.claims.speak import predicate
from blunt_ruler.core.measure.kinds import Kind
from blunt_ruler.core.records.records import PublishedFigure, Role
from blunt_ruler.core.runs.published import bring_up, rig_and_source
from blunt_ruler.core.runs.typed_cells import TypedCell, type_cells
from blunt_ruler.core.sentences import plain


def figure(case, **fields):
    return PublishedFigure(
        id="p", rig="A tower", case=case, average_fps=120.0, source="Quarterly", **fields
    )


def brought_up(contents, one):
    ids = iter(range(100))
    return bring_up(contents.with_records({"published": {one.id: one}}), lambda: f"new{next(ids)}")


def test_old_figures_become_a_column_with_its_source(demo_contents):
    one = figure("Tidewrack / 1080p", date="2026-09", differs="older driver")
    edit = brought_up(demo_contents, one)
    (rig,) = [record for record in edit.put if type(record).__name__ == "Rig"]
    assert (rig.name, rig.source) == ("A tower, Quarterly", "Quarterly")
    assert (rig.source_date, rig.source_differs) == ("2026-09", "older driver")
    (run,) = [record for record in edit.put if type(record).__name__ == "Run"]
    assert (run.case_id, run.average_fps) == ("tidewrack-1080p", 120.0)
    assert run.how_read.kind is Kind.PUBLISHED
    assert edit.drop == (one,)
    seated = [record for record in edit.put if type(record).__name__ == "Review"]
    assert seated
    assert all(review.seats[-1].rig_id == rig.id for review in seated)
    assert bring_up(demo_contents, lambda: "x") is None


@pytest.mark.parametrize(
    "named",
    [
        "Tide / 1080p",
        "wrack / 1080p",
        "Tidewrack / coast / 1080p",
        "Tidewrack / 1080p / Hi",
        "rack",
    ],
)
def test_a_figure_of_part_of_a_name_belongs_to_no_known_case(demo_contents, named):
    (run,) = [
        record
        for record in brought_up(demo_contents, figure(named)).put
        if type(record).__name__ == "Run"
    ]
    assert run.case_id not in demo_contents.cases


@pytest.mark.parametrize(
    "named", ["tidewrack / 1080P", "Tidewrack / Coast Run / 1080p / high", "Tidewrack"]
)
def test_a_figure_is_matched_whatever_its_capitals(demo_contents, named):
    (run,) = [
        record
        for record in brought_up(demo_contents, figure(named)).put
        if type(record).__name__ == "Run"
    ]
    assert run.case_id == "tidewrack-1080p"


def test_a_rig_of_others_is_named_with_its_source():
    assert rig_and_source("Tower, published by Harbour Quarterly") == (
        "Tower, Harbour Quarterly",
        "Harbour Quarterly",
    )
    assert rig_and_source("  My   tower ") == ("My tower", "")


def test_published_figures_do_not_narrow_the_means_and_are_said(demo_contents):
    review = demo_contents.reviews["which-link"]
    before = build_board(demo_contents, review)
    ids = iter(range(100))
    cell = TypedCell("Tower, published by Quarterly", "tidewrack-1080p", "120")
    edit = type_cells(demo_contents, review, [cell], lambda: f"n{next(ids)}")
    tables = {"Rig": "rigs", "Run": "runs", "Review": "reviews"}
    contents = demo_contents
    for record in edit.put:
        contents = contents.with_records({tables[type(record).__name__]: {record.id: record}})
    review = contents.reviews[review.id]
    after = build_board(contents, review)
    for rig_id, total in before.totals.items():
        assert after.totals[rig_id].over_base.case_ids == total.over_base.case_ids
    published = review.seats[-1].rig_id
    assert after.columns[-1].source == "Quarterly"
    assert after.cells[published, "tidewrack-1080p"].kind is Kind.PUBLISHED
    against = build_board(contents, review.with_role(published, Role.REFERENCE))
    claims = claims_on(contents, against)
    assert "in the Workbench tower" in board_headline(claims), "its twin goes before the reference"
    assert any("Quarterly" in plain(predicate(one)) for one in claims.all() if one.value)
    assert any("published by others" in one for claim in claims.all() for one in claim.caveats)
