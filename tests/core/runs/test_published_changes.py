"""Percentages that others published without a rate, and the spread assumed of their figures."""

import pytest

from blunt_ruler.core.board.board import build_board
from blunt_ruler.core.board.lenses import Lens, cell_text
from blunt_ruler.core.claims.cells import cell_line
from blunt_ruler.core.records.hardware import Rig
from blunt_ruler.core.records.records import Contents, Review
from blunt_ruler.core.runs.entry import BadEntry, entry_text, entry_words, parse_entry
from blunt_ruler.core.runs.typed_cells import BadCell, TypedCell, type_cells


def ids():
    counted = iter(range(100))
    return lambda: f"new-{next(counted)}"


def typed(*cells):
    review = Review(id="v", name="v")
    contents = Contents.empty().with_records({"reviews": {"v": review}})
    edit = type_cells(contents, review, [TypedCell(*cell) for cell in cells], ids())
    tables = {"Rig": "rigs", "Title": "titles", "Case": "cases", "Run": "runs", "Review": "reviews"}
    changed = {}
    for record in edit.put:
        changed.setdefault(tables[type(record).__name__], {})[record.id] = record
    return contents.with_records(changed)


@pytest.mark.parametrize(
    ("text", "change", "of"),
    [
        ("-8 % of their tower", -0.08, "their tower"),
        ("−8%", -0.08, ""),
        ("+21,5 % over the built-in", 0.215, "the built-in"),
    ],
)
def test_a_percentage_is_read_and_printed_again(text, change, of):
    entry = parse_entry(text)
    (told,) = entry.passes
    assert (told.change, told.change_of) == (pytest.approx(change), of)
    assert parse_entry(entry_text(entry)).passes == entry.passes
    assert "in no mean" in entry_words(entry)


def test_a_loss_of_everything_is_none():
    with pytest.raises(BadEntry, match="leaves no rate"):
        parse_entry("-100 %")
    with pytest.raises(BadEntry):
        parse_entry("-8 %", score=True)


CASE = "Tidewrack / 1080p"


def test_it_stands_in_its_cell_in_its_sentence_and_in_no_mean():
    contents = typed(
        ("Built-in", CASE, "30"),
        ("Sluice", CASE, "60"),
        ("Tower, published by S", CASE, "-8 % of their slot"),
    )
    board = build_board(contents, contents.reviews["v"])
    rig = next(rig.id for rig in contents.rigs.values() if rig.source)
    (case,) = contents.cases
    assert (rig, case) not in board.cells
    assert cell_text(board, rig, case, Lens.RATE) == "−8\u202f% theirs"
    assert cell_line(board, rig, case) == (
        "S published −8\u202f% of their slot, without a rate: it enters no mean."
    )
    assert rig not in board.totals


def test_a_percentage_on_a_rig_of_ones_own_is_asked_about():
    with pytest.raises(BadCell, match="of which rig"):
        typed(("Sluice", CASE, "-8 %"))


def test_the_spread_that_is_assumed_of_published_figures_widens_their_interval():
    contents = typed(
        ("Built-in", CASE, "30.00 30.01 29.99"),
        ("Tower, published by S", CASE, "100.0"),
    )
    rig = next(rig for rig in contents.rigs.values() if rig.source)
    (case,) = contents.cases

    def width(spread):
        changed = rig.model_copy(update={"source_spread": spread})
        there = contents.with_records({"rigs": {rig.id: changed}})
        cell = build_board(there, there.reviews["v"]).cells[rig.id, case]
        return cell.rate_high / cell.rate_low

    assert width(0.05) > width(0.02) > width(0.005)
    # 95 % of a normal: ±1.96 spreads of the log rate, with a reading's own width added as squares
    assert width(0.05) == pytest.approx(2.718281828 ** (2 * 1.96 * 0.05), rel=0.01)
    assert isinstance(rig, Rig)
