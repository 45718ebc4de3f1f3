"""Rigs of another logbook as columns: copies that say where they come from."""

import hashlib

import pytest

from blunt_ruler.core.board.board import build_board
from blunt_ruler.core.records.hardware import Card, Host, Rig
from blunt_ruler.core.records.records import (
    Case,
    Contents,
    Origin,
    Review,
    Run,
    Title,
    TypedFigures,
)
from blunt_ruler.core.runs.bring_in import NothingToBring, bring_in
from blunt_ruler.core.runs.typed_cells import BadCell, TypedCell, type_cells
from blunt_ruler.demo.shipped import copy_demo
from blunt_ruler.logbook import Logbook


def lab(rig="Tower", rate=100.0, **case):
    return Contents.empty().with_records(
        {
            "hosts": {"h": Host(id="h", name="Workbench tower")},
            "cards": {"c": Card(id="c", name="Marram 12")},
            "rigs": {"r": Rig(id="r", name=rig, host_id="h", card_id="c")},
            "titles": {"t": Title(id="t", name="Tidewrack")},
            "cases": {"k": Case(id="k", title_id="t", resolution="1080p", **case)},
            "runs": {
                "x": Run(
                    id="x",
                    rig_id="r",
                    case_id="k",
                    trace_sha256="0" * 64,
                    origin=Origin(kind="log"),
                    typed=TypedFigures(average_fps=rate),
                )
            },
        }
    )


def ids():
    counted = iter(range(100))
    return lambda: f"new-{next(counted)}"


def taken(edit, contents):
    tables = {Rig: "rigs", Run: "runs", Title: "titles", Case: "cases", Review: "reviews"}
    tables |= {Host: "hosts", Card: "cards"}
    changed = {}
    for record in edit.put:
        changed.setdefault(tables[type(record)], {})[record.id] = record
    return contents.with_records(changed)


REVIEW = Review(id="v", name="v")


def test_a_rig_comes_with_its_parts_and_runs_and_says_where_from():
    here = lab("Dock", 60.0)
    brought = bring_in(here, REVIEW, lab("Tower"), "earlier", ids())
    after = taken(brought.edit, here)
    rig = next(rig for rig in after.rigs.values() if rig.name == "Tower")
    assert rig.origin == "earlier"
    assert (rig.host_id, rig.card_id) == ("h", "c"), "parts that are the same are the same"
    assert len(after.titles) == len(after.cases) == 1, "a case of the same words and facts too"
    (run,) = [run for run in after.runs.values() if run.rig_id == rig.id]
    assert (run.average_fps, run.trace_sha256) == (100.0, None)
    board = build_board(after, after.reviews["v"])
    assert board.column(rig.id).link.endswith("earlier")
    assert not brought.same_names


def test_another_case_stays_apart():
    brought = bring_in(lab("Dock"), REVIEW, lab("Tower", upscaler="quality"), "earlier", ids())
    cases = [record for record in brought.edit.put if isinstance(record, Case)]
    assert len(cases) == 1


def test_a_rig_of_the_same_name_is_apart_until_it_is_said_to_be_the_same():
    here = lab("Tower", 60.0)
    apart = bring_in(here, REVIEW, lab("Tower"), "earlier", ids())
    assert apart.same_names == ("Tower",)
    (rig,) = [record for record in apart.edit.put if isinstance(record, Rig)]
    assert rig.name == "Tower, earlier"
    same = bring_in(here, REVIEW, lab("Tower"), "earlier", ids(), same_rigs=True)
    (run,) = [record for record in same.edit.put if isinstance(record, Run)]
    assert (run.rig_id, run.repeat) == ("r", 2), "behind the pass that is here"
    assert not [record for record in same.edit.put if isinstance(record, Rig)]


def test_passes_of_the_same_rig_go_on_counting():
    here = lab("Tower", 60.0)
    here = here.with_records({"runs": {"x": here.runs["x"].model_copy(update={"repeat": 3})}})
    same = bring_in(here, REVIEW, lab("Tower"), "earlier", ids(), same_rigs=True)
    (run,) = [record for record in same.edit.put if isinstance(record, Run)]
    assert run.repeat == 4


def test_nothing_is_typed_into_what_was_brought_in():
    here = lab("Dock", 60.0)
    after = taken(bring_in(here, REVIEW, lab("Tower"), "earlier", ids()).edit, here)
    rig = next(rig for rig in after.rigs.values() if rig.origin)
    with pytest.raises(BadCell, match="brought in from earlier"):
        type_cells(after, after.reviews["v"], [TypedCell(rig.id, "k", "99")], ids())


def test_a_logbook_without_runs_is_said():
    empty = lab().with_records({"runs": {"x": None}})
    with pytest.raises(NothingToBring, match="no rig in it has a run"):
        bring_in(lab(), REVIEW, empty, "earlier", ids())


def test_another_logbook_is_read_and_not_touched(tmp_path):
    path = copy_demo(tmp_path / "other.blunt")
    before = hashlib.sha256(path.read_bytes()).hexdigest()
    with Logbook.reading(path) as book:
        assert len(book.contents().rigs) == 9
    assert hashlib.sha256(path.read_bytes()).hexdigest() == before
    assert [one.name for one in tmp_path.iterdir()] == ["other.blunt"]


def test_the_demo_twice_makes_a_board_of_both(demo_contents):
    review = demo_contents.reviews["which-link"]
    brought = bring_in(demo_contents, review, demo_contents, "last year", ids_of_many())
    after = taken(brought.edit, demo_contents)
    board = build_board(after, after.reviews["which-link"])
    assert len(brought.same_names) == 9
    both = [column for column in board.columns if column.name.startswith("Groyne Marram 12")]
    assert len(both) == 2
    cells = [board.cells[column.rig_id, "tidewrack-1080p"].average_fps for column in both]
    assert cells[0] == pytest.approx(cells[1])


def ids_of_many():
    counted = iter(range(100_000))
    return lambda: f"new-{next(counted)}"
