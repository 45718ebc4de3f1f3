"""What a cell shows, what is claimed of its case, and the means of few titles say the same."""

import itertools
import math
import os

import numpy as np
import pytest

from blunt_ruler.core.analysis.analyse import analyse
from blunt_ruler.core.board.lenses import Lens, cell_text, open_text
from blunt_ruler.core.claims.claim import Metric, Question
from blunt_ruler.core.claims.standing import Standing
from blunt_ruler.core.records.records import Contents, Review, ReviewRig, Role
from blunt_ruler.core.runs.typed_cells import TypedCell, type_cells

SEEDS = 150 if os.environ.get("TEST_DEEP") else 12
RIGS = ("iGPU", "Dock A", "Dock B", "Tower")
DAYS = ("2026-01-05T10:00:00", "2026-01-09T10:00:00")


def notations(values):
    """As people note passes: tenths, with a low, one look, whole figures."""
    yield " ".join(f"{one:.1f}" for one in values)
    yield " ".join(f"{one:.1f}/{one * 0.7:.1f}" for one in values)
    yield f"~{values[0]:.0f}"
    yield " ".join(f"{one:.0f}" for one in values)


def drawn(seed):
    """A review of rigs close together or far apart, over one or two days, with gaps and a cap."""
    rng, new = np.random.default_rng(seed), itertools.count()
    rigs = RIGS[: rng.integers(2, 5)]
    roles = [Role.BASE, *[Role.TESTED] * (len(rigs) - 2), Role.REFERENCE]
    seats = []
    speeds = np.exp(rng.normal(0, 0.02 if rng.random() < 0.4 else 0.5, len(rigs)))
    titles = {f"T{place}": math.exp(rng.normal(4, 0.4)) for place in range(rng.integers(1, 8))}
    sizes = (("1080p", 1.0), ("1440p", 0.7), ("2160p", 0.4))[: rng.integers(1, 4)]
    noise, style = rng.choice([0.003, 0.01, 0.03]), rng.integers(0, 4)
    contents = Contents.empty().with_records({"reviews": {"v": Review(id="v", name="V")}})
    for day in DAYS[: rng.integers(1, 3)]:
        shifts = rng.normal(0, 0.005, len(rigs))
        cells = []
        for (title, level), (size, share) in itertools.product(titles.items(), sizes):
            for rig, speed, shift in zip(rigs, speeds, shifts, strict=True):
                if rng.random() < 0.07:
                    continue
                passes = np.exp(shift + rng.normal(0, noise, rng.integers(1, 4)))
                told = [*notations(level * share * speed * passes)][style]
                told = "60+" if rng.random() < 0.03 else told
                cells.append(TypedCell(rig, f"{title} / {size} / High", told, None))
        if cells:
            review = contents.reviews["v"]
            edit = type_cells(
                contents, review, cells, lambda *_: f"x{next(new)}", day, add=bool(seats)
            )
            contents = edit.on(contents)
            seats = contents.reviews["v"].seats
    seats = tuple(
        ReviewRig(rig_id=seat.rig_id, role=role) for seat, role in zip(seats, roles, strict=False)
    )
    review = contents.reviews["v"].model_copy(update={"seats": seats})
    return contents.with_records({"reviews": {"v": review}}), review


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
