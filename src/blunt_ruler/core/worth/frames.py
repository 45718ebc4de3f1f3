"""Frames over the cases that all compared rigs share, put together by the review's school."""

from collections.abc import Mapping, Sequence

import numpy as np

from blunt_ruler.core.board.board import Board
from blunt_ruler.core.compare.comparability import Standing
from blunt_ruler.core.compare.compare import CaseResult
from blunt_ruler.core.measure.means import MeanSchool

MEAN_RATE_WORDS = {
    MeanSchool.GEOMETRIC: "geometric mean",
    MeanSchool.RATE: "arithmetic mean",
    MeanSchool.PERCENT: "geometric mean",
    MeanSchool.HARMONIC: "harmonic mean",
}


def measured_rigs(board: Board) -> tuple[str, ...]:
    """Rigs of the Board with at least one cell, in its order."""
    with_cells = {rig_id for rig_id, _ in board.cells}
    return tuple(c.rig_id for c in board.columns if c.rig_id in with_cells)


def shared_cases(board: Board, rig_ids: Sequence[str]) -> tuple[str, ...]:
    """Games that every one of some rigs has a sound cell of, cases left out by hand excepted."""
    return tuple(
        row.case_id
        for row in board.rows
        if row.kind == "game"
        and row.left_out is None
        and row.weight > 0
        and all(_counts(board, board.cells.get((rig_id, row.case_id))) for rig_id in rig_ids)
    )


def _counts(board: Board, cell: CaseResult | None) -> bool:
    if cell is None or cell.standing.worst is Standing.NOT_COMPARABLE:
        return False
    return not board.review.clean_only or cell.standing.worst is Standing.CLEAN


def mean_rate(school: MeanSchool, rates: Sequence[float], weights: Sequence[float]) -> float:
    """Rates of several cases as one, fps; at least one, all above 0.

    Σwr/Σw and Σw / Σ(w/r) where the review's means are arithmetic or harmonic; else geometric,
    exp(Σw·ln r / Σw), so that the ratio of two is the geometric mean of ratios.
    """
    r, w = np.asarray(rates, dtype=float), np.asarray(weights, dtype=float)
    match school:
        case MeanSchool.RATE:
            return float((w * r).sum() / w.sum())
        case MeanSchool.HARMONIC:
            return float(w.sum() / (w / r).sum())
        case _:
            return float(np.exp((w * np.log(r)).sum() / w.sum()))


def rates_over(
    board: Board, rig_id: str, cases: Sequence[str]
) -> tuple[list[float], list[float | None], list[float | None], list[float]]:
    """(averages, lows, wall watts, weights) of a rig on some cases."""
    weights: Mapping[str, float] = {row.case_id: row.weight for row in board.rows}
    cells = [board.cells[rig_id, case_id] for case_id in cases]
    return (
        [cell.average_fps for cell in cells],
        [cell.low_1_fps for cell in cells],
        [cell.wall_w for cell in cells],
        [weights[case_id] for case_id in cases],
    )
