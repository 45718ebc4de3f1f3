"""A review of real size: 300 cases on 12 rigs, from its cells to a report."""

import csv
import io

import numpy as np
import pytest
from scipy import stats

from blunt_ruler.core.analysis.analyse import analyse
from blunt_ruler.core.board.board import build_board
from blunt_ruler.core.board.lenses import Lens, beside_text, cell_text, lens_value, mean_text
from blunt_ruler.core.board.row_order import Arrangement, GroupBy, arrange
from blunt_ruler.core.measure.reading import FROM_LOG
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
from blunt_ruler.core.text import MISSING
from blunt_ruler.core.worth.frames import shared_cases
from blunt_ruler.core.writeup.compose import compose
from blunt_ruler.core.writeup.trace import traced_figures
from blunt_ruler.exchange.documents.reports import board_csv, shown_table

RIGS, TITLES, SIZES = 12, 100, ("1080p", "1440p", "2160p")


@pytest.fixture(scope="module")
def wide():
    """Contents and review; every rate is base × rig's speed × a case's own wobble."""
    rng = np.random.default_rng(12)
    rigs = {f"r{i}": Rig(id=f"r{i}", name=f"Rig {i}") for i in range(RIGS)}
    titles = {f"t{i}": Title(id=f"t{i}", name=f"Title {i:03d}") for i in range(TITLES)}
    cases = {
        f"t{i}-{size}": Case(id=f"t{i}-{size}", title_id=f"t{i}", resolution=size)
        for i in range(TITLES)
        for size in SIZES
    }
    runs = {}
    for place, rig in enumerate(rigs):
        for number, case in enumerate(cases):
            rate = (200 - 50 * (number % 3)) * (1 + 0.3 * place) * np.exp(rng.normal(0, 0.05))
            for repeat in (1, 2):
                fps = float(rate * np.exp(rng.normal(0, 0.01)))
                key = f"{rig}-{case}-{repeat}"
                runs[key] = Run(
                    id=key,
                    rig_id=rig,
                    case_id=case,
                    repeat=repeat,
                    origin=Origin(kind="typed"),
                    typed=TypedFigures(average_how=FROM_LOG, average_fps=fps, low_1_fps=0.7 * fps),
                )
    roles = {0: Role.BASE, RIGS - 1: Role.REFERENCE}
    review = Review(
        id="wide",
        name="Wide",
        seats=tuple(
            ReviewRig(rig_id=rig, role=roles.get(i, Role.TESTED)) for i, rig in enumerate(rigs)
        ),
        case_ids=tuple(cases),
    )
    contents = Contents.empty().with_records(
        {"rigs": rigs, "titles": titles, "cases": cases, "runs": runs, "reviews": {"wide": review}}
    )
    return contents, review


@pytest.fixture(scope="module")
def board(wide):
    return build_board(*wide)


def test_every_cell_is_there_with_its_gain_and_loss(board):
    assert (len(board.columns), len(board.rows)) == (RIGS, 3 * TITLES)
    assert len(board.cells) == RIGS * 3 * TITLES
    for cell in board.cells.values():
        assert cell.runs == 2
        assert cell.gain is not None
        assert cell.loss is not None


def test_the_mean_of_300_ratios_is_scipys(board):
    for column in board.columns:
        ratios = [
            board.cells[column.rig_id, row.case_id].average_fps
            / board.cells["r0", row.case_id].average_fps
            for row in board.rows
        ]
        # scipy.stats.gmean
        assert board.totals[column.rig_id].over_base.ratio == pytest.approx(stats.gmean(ratios))


def test_the_interval_over_titles_holds_the_speed_that_was_put_in(board):
    held = 0
    for place in range(1, RIGS):
        mean = board.totals[f"r{place}"].over_base
        held += mean.low <= 1 + 0.3 * place <= mean.high
    assert held >= 0.8 * (RIGS - 1)


@pytest.mark.parametrize("lens", Lens)
def test_every_lens_has_a_word_for_every_cell(board, lens):
    for row in board.rows[::7]:
        for column in board.columns:
            text = cell_text(board, column.rig_id, row.case_id, lens)
            assert text
            value = lens_value(board.cells[column.rig_id, row.case_id], lens)
            if value is None and lens not in (Lens.STANDING, Lens.LIMIT):
                assert text == MISSING
            beside_text(board, column.rig_id, row.case_id, lens)
    assert all(mean_text(board, c.rig_id, Lens.RATE).startswith("×") for c in board.columns)


def test_arranging_loses_no_case_and_no_figure(board):
    grouped = arrange(board, Arrangement(group=GroupBy.RESOLUTION))
    assert sorted(row.case_id for row in grouped.rows) == sorted(row.case_id for row in board.rows)
    assert grouped.cells == board.cells
    found = arrange(board, Arrangement(words="title 042"))
    assert [row.title for row in found.rows] == ["Title 042"] * 3
    assert arrange(board, Arrangement(words="nothing of that name")).rows == ()


def test_sorting_by_a_rig_puts_its_largest_first(board):
    for lens in (Lens.RATE, Lens.GAIN):
        rows = arrange(board, Arrangement(sort_rig="r5", lens=lens)).rows
        values = [lens_value(board.cells["r5", row.case_id], lens) for row in rows]
        assert values == sorted(values, reverse=True)
    collapsed = arrange(board, Arrangement(collapse=True))
    assert len(collapsed.rows) == TITLES


def test_tables_of_it_are_whole(wide, board):
    contents, _ = wide
    rows = list(csv.DictReader(io.StringIO(board_csv(contents, board))))
    assert len(rows) == RIGS * 3 * TITLES
    lines = shown_table(board, Lens.GAIN, "csv").splitlines()
    assert len(lines) == 2 + 3 * TITLES + 1


@pytest.mark.deep
def test_a_report_of_it_can_be_composed_and_traced(wide):
    contents, review = wide
    analysis = analyse(contents, review)
    document = compose(analysis)
    traced = {(one.figure, one.rig, one.case) for one in traced_figures(analysis)}
    assert len(document.figures) > 4 * RIGS * 3 * TITLES
    assert all((one.figure, one.rig, one.case) in traced for one in document.figures)
    assert len(shared_cases(analysis.board)) == 3 * TITLES
