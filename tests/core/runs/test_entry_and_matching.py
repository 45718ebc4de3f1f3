"""Typed grids are refused cell by cell; logs find their pass by what they say of themselves."""

import pytest

from blunt_ruler.core.runs.matching import match_log
from blunt_ruler.core.runs.typed_figures import (
    REFERENCE_COLUMNS,
    RUN_COLUMNS,
    errors_in,
    pasted_rows,
    typed_arrivals,
    typed_references,
)


@pytest.fixture(scope="module")
def demo(demo_contents):
    return demo_contents, demo_contents.reviews["which-link"]


@pytest.mark.parametrize("mark", ["\t", ";", ","])
def test_a_paste_is_read_whatever_parts_its_cells(mark):
    lines = [["rig", "case", "average"], ["A", "T / 1080p", "58.5"], ["B", "T", ""]]
    text = "\r\n".join(mark.join(line) for line in lines)
    rows = pasted_rows(text, RUN_COLUMNS)
    assert [row[:3] for row in rows] == lines[1:]
    assert all(len(row) == len(RUN_COLUMNS) for row in rows)


@pytest.mark.parametrize(
    ("cells", "column", "says"),
    [
        (["", "T", "60"], 0, "Give the rig"),
        (["A", "", "60"], 1, "Give the case"),
        (["A", "a/b/c/d/e", "60"], 1, "does not name a case"),
        (["A", "T", "6O"], 2, "no number"),
        (["A", "T", "-3"], 2, "out of range"),
        (["A", "T", ""], 2, "an average or a score"),
        (["A", "T", "60", "70"], 2, "average 60 is below the 1 % low"),
        (["A", "T", "60", "50", "55"], 3, "1 % low 50 is below the minimum"),
        (["A", "T", "60", "", "", "50"], 5, "maximum 50 is below the average"),
    ],
)
def test_a_wrong_cell_is_named_with_what_to_do(cells, column, says):
    row = cells + [""] * (len(RUN_COLUMNS) - len(cells))
    (error,) = errors_in([row], RUN_COLUMNS)
    assert (error.row, error.column) == (0, column)
    assert says in error.says


def test_sound_rows_become_typed_runs_and_references():
    rows = pasted_rows("A\tT / run / 1080p / High\t58,5\t41,2\nA\tT\t\t\t\t\t4200", RUN_COLUMNS)
    assert errors_in(rows, RUN_COLUMNS) == ()
    one, two = typed_arrivals(rows, "2026-10-06T10:00:00+00:00")
    assert (one.typed.average_fps, one.typed.low_1_fps) == (58.5, 41.2)
    assert one.case.resolution == "1080p"
    assert (two.typed.average_fps, two.typed.score) == (None, 4200.0)
    rows = pasted_rows("A;T;60;;a journal;2026;other host", REFERENCE_COLUMNS)
    (reference,) = typed_references(rows, lambda: "x")
    assert (reference.average_fps, reference.low_1_fps, reference.source) == (60, None, "a journal")


CELL = ("sluice-marram-12", "tidewrack-1080p")


@pytest.mark.parametrize(
    ("stem", "says", "cell", "sure"),
    [
        ("groyne-marram-12_tidewrack_1440p_high", (), ("groyne-marram-12", "tidewrack-1440p"), 1),
        ("run 17", (), CELL, 0),
        ("tidewrack 2160p", (), ("sluice-marram-12", "tidewrack-2160p"), 0),
        ("Workbench Marram 12", (), ("workbench-marram-12", "tidewrack-1080p"), 0),
        ("sluice marram 12 tidewrack", (), CELL, 1),
        (
            "capture",
            (("rig", "Groyne Marram 12"), ("title", "Skitter"), ("resolution", "1080p")),
            ("groyne-marram-12", "skitter-1080p"),
            1,
        ),
    ],
)
def test_a_log_finds_its_pass(demo, stem, says, cell, sure):
    match = match_log(*demo, stem, says, CELL)
    assert (match.rig_id, match.case_id, match.sure) == (*cell, bool(sure))
    assert match.why


def test_a_log_that_says_nothing_has_no_place_when_nothing_is_next(demo):
    assert match_log(*demo, "run 17", (), None) is None
    assert match_log(*demo, "tidewrack 1080p", (), None) is None
