"""What each stop of the rail says of itself, and how far its work is."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from blunt_ruler.core.text import count_text

if TYPE_CHECKING:  # an empty window shows its stops before it needs any of these
    from collections.abc import Mapping

    from blunt_ruler.core.analysis.analyse import Analysis
    from blunt_ruler.core.board.board import Board
    from blunt_ruler.core.plan.bench_plan import BenchPlan
    from blunt_ruler.core.records.records import Contents
    from blunt_ruler.core.worth.report import Worth


@dataclass(frozen=True, slots=True)
class StopState:
    """A stop on the rail: its state in a few words and how far its work is (0–1)."""

    words: str
    share: float


STOPS = ("Bench", "Plan", "Runs", "Board", "Limits", "Worth", "Write-up")

LATE = ("Plan", "Worth", "Write-up")


def empty_states() -> dict[str, StopState]:
    """The state of every stop without a logbook."""
    return {stop: StopState("", 0.0) for stop in STOPS}


def stop_states(
    contents: Contents,
    analysis: Analysis | None,
    before: Mapping[str, StopState] | None = None,
) -> dict[str, StopState]:
    """The state of every stop; without a review all are empty.

    While an analysis is not settled, what takes long to tell is as it was `before`.
    """
    if analysis is None:
        return empty_states()
    from blunt_ruler.core.records.records import Decision

    board = analysis.board
    cells = len(board.rows) * len(board.columns)
    filled = len(board.cells) / cells if cells else 0.0
    redo = sum(run.decision is Decision.REDO for run in contents.runs.values())
    runs = count_text(len(contents.runs), "run")
    scores = analysis.scores.board
    if board.comparison is None and not board.cells and scores.cells:
        tests = len({row.title for row in scores.rows})
        state = f"{count_text(tests, 'test')} × {count_text(len(board.columns), 'rig')}"
        cells = len(scores.rows) * len(board.columns)
        filled = len(scores.cells) / cells if cells else 0.0
    elif board.comparison is None:
        state = "no base run yet" if board.cells else "empty"
    elif len(board.cells) < cells:
        state = f"{len(board.cells)} of {cells} cells"
    else:
        state = f"{count_text(len(board.rows), 'case')} × {count_text(len(board.columns), 'rig')}"
    late = {stop: before[stop] for stop in LATE} if before and not analysis.settled else {}
    return {
        "Bench": _bench_state(contents, board),
        "Plan": late.get("Plan") or _plan_state(analysis.bench_plan),
        "Runs": StopState(f"{runs} · {redo} to redo" if redo else runs, filled),
        "Board": StopState(state, filled if board.comparison or scores.cells else 0.0),
        "Limits": _limits_state(board, analysis.settled),
        "Worth": late.get("Worth") or _worth_state(analysis.worth),
        "Write-up": late.get("Write-up") or _writeup_state(board, scores, analysis.worth),
    }


def _bench_state(contents: Contents, board: Board) -> StopState:
    """Rigs of the review, what blocks or cautions, and how many are described through."""
    from blunt_ruler.core.records.severity import Severity
    from blunt_ruler.core.rigs.compatibility import check_fit

    rig_ids = [column.rig_id for column in board.columns]
    if not rig_ids:
        return StopState("no rig yet", 0.0)
    by_rig = [check_fit(contents, rig_id) for rig_id in rig_ids]
    findings = [finding for found in by_rig for finding in found]
    described = sum(not any(one.check == "described" for one in found) for found in by_rig)
    words = count_text(len(rig_ids), "rig")
    blocking = sum(one.severity is Severity.BLOCKING for one in findings)
    cautions = sum(one.severity is Severity.CAUTION for one in findings)
    if blocking:
        words += f" · {blocking} blocking"
    elif cautions:
        words += f" · {count_text(cautions, 'caution')}"
    return StopState(words, described / len(rig_ids))


def _limits_state(board: Board, settled: bool) -> StopState:
    """How many cells the fit explains, once it is there."""
    if not board.limits:
        return StopState("no fit yet" if settled else "fitting", 0.0)
    held: dict[str, int] = {}
    for name in board.limits.values():
        held[name] = held.get(name, 0) + 1
    most = max(held, key=lambda name: held[name])
    cells = max(len(board.cells), 1)
    return StopState(
        f"{count_text(len(board.limits), 'cell')}, mostly {most}", len(board.limits) / cells
    )


def _worth_state(worth: Worth) -> StopState:
    """How many rigs are priced through."""
    from blunt_ruler.core.worth.figures import WorthFigure

    if not worth.rows:
        return StopState("", 0.0)
    priced = sum(row.value(WorthFigure.COST) is not None for row in worth.rows)
    if not priced:
        return StopState("no price yet", 0.0)
    words = f"{priced} of {count_text(len(worth.rows), 'rig')} priced"
    return StopState(words, priced / len(worth.rows))


def _writeup_state(board: Board, scores: Board, worth: Worth) -> StopState:
    """What the write-up still lacks."""
    if not board.comparison and not scores.cells:
        return StopState("nothing yet", 0.0)
    lacking = []
    if not worth.review.audiences:
        lacking.append("verdict")
    if not board.review.writeup.disclosures:
        lacking.append("disclosures")
    if not lacking:
        return StopState("ready to export", 1.0)
    return StopState(f"no {' or '.join(lacking)}", 1.0 - len(lacking) / 3.0)


def _plan_state(bench_plan: BenchPlan | None) -> StopState:
    """Passes left of the plan."""
    if bench_plan is None:
        return StopState("cannot be worked out", 0.0)
    left = sum(cell.left for cell in bench_plan.cells)
    done = sum(cell.done for cell in bench_plan.cells)
    if not left + done:
        return StopState("nothing planned", 0.0)
    words = f"{count_text(left, 'pass', 'passes')} left" if left else "all passes done"
    return StopState(words, done / (done + left))
