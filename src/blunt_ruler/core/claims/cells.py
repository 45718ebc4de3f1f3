"""What is said of one cell of the Board: its rate, and its gain and loss with their bases."""

from blunt_ruler.core.board.board import Board, Column, Row
from blunt_ruler.core.board.lenses import (
    Lens,
    by_eye,
    mean_text,
    open_text,
    published_change_words,
    rate_text,
    unit_text,
)
from blunt_ruler.core.board.lines import bound_words
from blunt_ruler.core.measure.kinds import KIND_WORDS, Bound
from blunt_ruler.core.records.roles import Role
from blunt_ruler.core.text import count_text, list_text, percent_text


def cell_line(board: Board, rig_id: str, case_id: str) -> str:
    """One cell in a sentence: its rate, gain and loss with their bases."""
    column = board.column(rig_id)
    row = next((row for row in board.rows if row.case_id == case_id), None)
    if column is None or row is None:
        return "Choose a cell to see what is behind it."
    if case_id in board.subtotals:
        return _subtotal_line(board, column, row)
    cell = board.cells.get((rig_id, case_id))
    if cell is None and (said := published_change_words(board, rig_id, case_id)):
        return said
    if cell is None:
        return _nothing_line(board, column, row)
    how = "" if not by_eye(frozenset({cell.kind})) else f", {KIND_WORDS[cell.kind]}"
    if cell.is_capped:
        how += ", at the cap of its case"
    parts = [f"{rate_text(cell)} {unit_text(cell)}{how}"]
    if board.base is not None and cell.gain is not None and column.role is not Role.BASE:
        parts.append(
            _pair_words(
                cell.gain,
                cell.gain_low,
                cell.gain_high,
                f"{'in speed ' if row.lower_is_better else ''}over {board.base.name}",
            )
            if cell.over_bound is Bound.POINT
            else _bound_change(cell.gain, cell.over_bound, "over", board.base.name)
        )
    if board.reference is not None and cell.loss is not None and column.role is not Role.REFERENCE:
        low, high = (None if b is None else -b for b in (cell.loss_high, cell.loss_low))
        parts.append(
            _pair_words(-cell.loss, low, high, f"against {board.reference.name}")
            if cell.of_bound is Bound.POINT
            else _bound_change(-cell.loss, cell.of_bound, "against", board.reference.name)
        )
    said = f"{parts[0]}: {' and '.join(parts[1:])}" if len(parts) > 1 else parts[0]
    if cell.tie:
        said += f" ({_needs_words(cell.runs_needed)})"
    return f"{said}."


def _nothing_line(board: Board, column: Column, row: Row) -> str:
    """Why a cell has no figure: it did not run, has not run since a change, or never did."""
    case = f"{row.title} {row.settings}".rstrip()
    if told := board.outcome(column.rig_id, row.case_id):
        return f"{column.name} did not run {case}: {told}."
    if any(run.id in board.past for run in board.runs.get((column.rig_id, row.case_id), ())):
        return f"{column.name} has no kept run of {case} since it changed."
    return f"{column.name} has no kept run of {case}."


def _subtotal_line(board: Board, column: Column, row: Row) -> str:
    """A mean over a group, with its bases."""
    parts = []
    for lens, other, word in (
        (Lens.RATE, board.base, "the speed of"),
        (Lens.LOSS, board.reference, "against"),
    ):
        said = mean_text(board, column.rig_id, lens, row.case_id)
        if said and other is not None and other.rig_id != column.rig_id:
            parts.append(f"{said} {word} {other.name}")
    if not parts:
        return f"{column.name} has no mean over {row.title} yet."
    return f"On average {list_text(parts)}."


def _pair_words(change: float, low: float | None, high: float | None, base: str) -> str:
    """A change on its base; where its interval covers zero, level or the interval."""
    if low is not None and high is not None and low <= 0.0 <= high:
        return f"{open_text(low, high)} {base}"
    return f"{percent_text(change, signed=True)} {base}"


def _bound_change(change: float, bound: Bound, word: str, base: str) -> str:
    """A change known as a bound: “at least −25 %” reads as more, so it is “at most 25 % slower”."""
    if change < 0.0:
        return f"{bound_words(bound.turned())}{percent_text(-change)} slower than {base}"
    return f"{bound_words(bound)}{percent_text(change, signed=True)} {word} {base}"


def _needs_words(more: int | None) -> str:
    if more is None:
        return "more passes on the same days would not tell them apart"
    return f"{count_text(more, 'more pass', 'more passes')} would settle it"
