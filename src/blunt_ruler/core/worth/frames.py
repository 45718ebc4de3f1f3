"""Frames over the cases that all compared rigs share, put together by the review's school."""

from collections.abc import Mapping, Sequence

import numpy as np

from blunt_ruler.core.board.board import Board
from blunt_ruler.core.measure.kinds import MeanSchool
from blunt_ruler.core.measure.means import mean_ratio

MEAN_RATE_WORDS = {
    MeanSchool.GEOMETRIC: "geometric mean",
    MeanSchool.RATE: "arithmetic mean",
    MeanSchool.PERCENT: "the base's geometric mean, times the mean of percentages",
    MeanSchool.HARMONIC: "harmonic mean",
}


def measured_rigs(board: Board) -> tuple[str, ...]:
    """Rigs of the Board with at least one cell, in its order."""
    with_cells = {rig_id for rig_id, _ in board.cells}
    return tuple(c.rig_id for c in board.columns if c.rig_id in with_cells)


def shared_cases(board: Board) -> tuple[str, ...]:
    """Games that the Board's means over the base are taken over, so that the two agree; without a
    base those that every measured rig has. Cases left out by hand are not among them.

    What is set against the reference alone, or a reference that is mixed, takes no case away.
    """
    total = board.totals.get(board.base.rig_id) if board.base else None
    if total is not None and total.over_base is not None:
        over = set(total.over_base.case_ids)
    else:
        rig_ids = measured_rigs(board)
        over = {
            row.case_id
            for row in board.rows
            if all((rig_id, row.case_id) in board.cells for rig_id in rig_ids)
        }
    return tuple(
        row.case_id
        for row in board.rows
        if row.kind == "game" and row.left_out is None and row.weight > 0 and row.case_id in over
    )


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
    parts = board.parts[rig_id]
    cells = [parts[case_id] for case_id in cases]
    return (
        [cell.average_fps for cell in cells],
        [cell.low_1_fps for cell in cells],
        [cell.wall_w for cell in cells],
        [weights[case_id] for case_id in cases],
    )


def mean_beside(
    school: MeanSchool,
    rates: Sequence[float],
    base_rates: Sequence[float] | None,
    weights: Sequence[float],
) -> float:
    """Rates of several cases as one, fps, such that over the base's it is the Board's mean ratio.

    The mean of percentages is no ratio of two means: it is told from the base's.
    """
    if school is not MeanSchool.PERCENT or base_rates is None:
        return mean_rate(school, rates, weights)
    ratio = mean_ratio(school, rates, base_rates, weights)
    assert ratio is not None
    return mean_rate(school, base_rates, weights) * ratio
