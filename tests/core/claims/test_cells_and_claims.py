"""What a cell shows, what is claimed of its case, and the means of few titles say the same."""

import math
import os

import pytest

from blunt_ruler.core.analysis.analyse import analyse
from blunt_ruler.core.board.lenses import Lens, cell_text, open_text
from blunt_ruler.core.claims.claim import Metric, Question
from blunt_ruler.core.claims.speak import aloud
from blunt_ruler.core.claims.standing import Standing
from drawn_reviews import drawn

SEEDS = 150 if os.environ.get("TEST_DEEP") else 12


def ends(low, high):
    return None if low is None or high is None else (-high, -low)


@pytest.mark.parametrize("seed", range(SEEDS))
def test_a_cell_and_the_claim_of_its_case_agree(seed):
    contents, review = drawn(seed)
    analysis = analyse(contents, review)
    board, claims = analysis.board, analysis.claims
    for (rig, case), cell in board.cells.items():
        for question, other, value, interval, lens in (
            (Question.GAIN, board.base, cell.gain, (cell.gain_low, cell.gain_high), Lens.GAIN),
            (
                *(Question.LOSS, board.reference, None if cell.loss is None else -cell.loss),
                *(ends(cell.loss_low, cell.loss_high), Lens.LOSS),
            ),
        ):
            if value is None or other is None or other.rig_id == rig:
                continue
            column, only = board.column(rig), frozenset({case})
            claim = claims.compared(question, column, other, Metric.AVERAGE, only)
            assert claim.change == pytest.approx(value)
            if interval is None or None in interval:
                continue
            told = claim.value.low - 1, claim.value.high - 1
            assert told == pytest.approx(interval, rel=1e-4, abs=1e-6)
            assert claim.standing.is_sure is not (interval[0] <= 0 <= interval[1])
            shown = cell_text(board, rig, case, lens)
            assert "level" not in shown or claim.standing is Standing.LEVEL
    for total in board.totals.values():
        for mean in (total.over_base, total.of_reference):
            if mean is not None and 0 < len(mean.titles) < 3 and None not in (mean.low, mean.high):
                reach = math.log(mean.high / mean.low) / 2 / mean.these_error
                assert reach >= 1.959


@pytest.mark.parametrize(
    ("low", "high", "shown"),
    [
        (-0.020, 0.020, "level"),
        (-0.034, 0.004, "−3 to 0\u202f%"),  # 1.5 ± 1.9: at 90 % it reaches to 3.1
        (-0.031, 0.031, "level"),
        (-0.040, 0.040, "−4 to +4\u202f%"),
    ],
)
def test_a_cell_is_level_where_its_90_per_cent_lie_within_3(low, high, shown):
    assert open_text(low, high) == shown


@pytest.mark.parametrize(
    ("words", "said"),
    [
        ("Laptop + dock gains +12\u202f%", "Laptop plus dock gains plus 12 per cent"),
        ("200+ frames, −3\u202f%", "200 or more frames, minus 3 per cent"),
    ],
)
def test_signs_are_words_aloud(words, said):
    assert aloud(words) == said
