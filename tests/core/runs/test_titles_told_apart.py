"""A title told in frame rates and one told in scores keep apart, whatever they are called."""

import itertools

import pytest

from blunt_ruler.core.board.board import build_board
from blunt_ruler.core.board.scores import score_board
from blunt_ruler.core.records.records import Contents, Review
from blunt_ruler.core.records.roles import Role
from blunt_ruler.core.runs.typed_cells import TypedCell, label_of, type_cells


def typed(*cells):
    """A logbook after some cells were typed, each as an edit of its own."""
    contents, count = Contents.empty(), itertools.count()
    review = Review(id="v", name="v")
    contents = contents.with_records({"reviews": {"v": review}})
    for cell in cells:
        edit = type_cells(contents, contents.reviews["v"], [cell], lambda: f"id{next(count)}")
        changed: dict[str, dict[str, object]] = {}
        for record in edit.put:
            changed.setdefault(f"{type(record).__name__.lower()}s", {})[record.id] = record
        contents = contents.with_records(changed)
    return contents


def told(contents):
    """Title → the figures of its runs."""
    found: dict[str, list[float]] = {}
    for run in contents.runs.values():
        title = contents.titles[contents.cases[run.case_id].title_id].name
        found.setdefault(title, []).append(run.typed.average_fps or run.typed.score)
    return found


RATE, SCORE = (
    TypedCell("Tower", "Tidewrack", "69", False),
    TypedCell("Tower", "Tidewrack", "4612", True),
)


@pytest.mark.parametrize(
    ("cells", "figures"),
    [
        ((RATE, SCORE), {"Tidewrack": [69], "Tidewrack (score)": [4612]}),
        ((SCORE, RATE), {"Tidewrack": [4612], "Tidewrack (fps)": [69]}),
        ((RATE, SCORE, SCORE), {"Tidewrack": [69], "Tidewrack (score)": [4612]}),
        ((SCORE, TypedCell("Tower", "tidewrack", "4700")), {"Tidewrack": [4700]}),
        (
            (SCORE, TypedCell("Tower", "Tidewrack", "61.5", True, unit="s")),
            {"Tidewrack": [4612], "Tidewrack (s)": [61.5]},
        ),
    ],
)
def test_no_figure_lands_in_a_title_that_is_told_otherwise(cells, figures):
    contents = typed(*cells)
    assert told(contents) == figures


def test_fewer_seconds_are_the_faster_rig():
    cells = [
        TypedCell(rig, "Loom compile", text, True, unit="s")
        for rig, text in (("Dock", "80"), ("Tower", "40"))
    ]
    contents = typed(*cells)
    (title,) = contents.titles.values()
    assert (title.kind, title.score_unit, title.lower_is_better) == ("work", "s", True)
    board = score_board(contents, build_board(contents, contents.reviews["v"])).board
    (row,) = board.rows
    dock, tower = (board.cells[rig.id, row.case_id] for rig in contents.rigs.values())
    assert (dock.unit, dock.average_fps, tower.average_fps) == ("s", 80, 40)
    gains = {round(one.gain, 6) for one in (dock, tower) if one.gain}
    assert gains <= {1.0, -0.5}


def test_a_score_of_a_game_is_called_by_what_it_becomes():
    contents = typed(RATE)
    assert label_of(contents, "tidewrack", scores=True) == "Tidewrack (score)"
    assert label_of(contents, "tidewrack") == "Tidewrack"
    assert label_of(contents, "Lattice", scores=True) == "Lattice"


@pytest.mark.parametrize(
    ("words", "name", "unit"),
    [
        ("Copy GB/s", "Copy", "GB/s"),
        ("Encode s", "Encode", "s"),
        ("Encode (seconds)", "Encode", "s"),
        ("Model tokens/s", "Model", "tokens/s"),
        ("Export, min", "Export", "min"),
        ("Lattice", "Lattice", ""),
        ("Prism GPU", "Prism GPU", ""),
        ("Prism S", "Prism S", ""),
        ("Glass Orchards", "Glass Orchards", ""),
    ],
)
def test_a_unit_behind_the_name_of_a_test_is_one(words, name, unit):
    contents = typed(TypedCell("Tower", words, "95", True), TypedCell("Dock", words, "120", True))
    (title,) = contents.titles.values()
    assert (title.name, title.score_unit) == (name, unit)
    assert title.lower_is_better == (unit in ("s", "min"))
    assert len(contents.cases) == 1


def test_what_a_link_moves_does_not_make_a_rig_the_base():
    cells = [
        TypedCell("Laptop", "Lattice", "4225", True),
        TypedCell("Laptop", "Copy GB/s", "60", True),
        TypedCell("Dock", "Lattice", "9110", True),
        TypedCell("Dock", "Copy GB/s", "2.7", True),
    ]
    contents = typed(*cells)
    (review,) = contents.reviews.values()
    roles = {contents.rigs[seat.rig_id].name: seat.role for seat in review.seats}
    assert roles == {"Laptop": Role.BASE, "Dock": Role.TESTED}
