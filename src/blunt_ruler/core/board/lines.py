"""What the Board says of a cell, of its means, and of what to do next.

A line never gives a figure without its base, and when something is missing it says what is
missing and what to do next. Sentences live here, never in a widget, so they can be tested as
text.
"""

from collections.abc import Collection

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
from blunt_ruler.core.compare.comparability import Standing, to_make_clean
from blunt_ruler.core.measure.kinds import COUNTED, KIND_WORDS, MEAN_WORDS, Bound, Kind
from blunt_ruler.core.records.records import Decision, Role
from blunt_ruler.core.text import count_text, list_text, percent_text


def focus_rig(board: Board, chosen_rig_id: str | None = None) -> Column | None:
    """The rig a line is about: the chosen one if it is under test and measured, else the first."""
    tested = [column for column in board.columns if column.role is Role.TESTED]
    measured = [column for column in tested if column.rig_id in board.totals]
    chosen = [column for column in measured if column.rig_id == chosen_rig_id]
    alone = [column for column in tested if column.rig_id == chosen_rig_id]
    return next(iter(chosen or measured or alone), None)


def bound_words(bound: Bound) -> str:
    """ "at least " before a figure that is a bound."""
    return "" if bound is Bound.POINT else f"{bound} "


def read_words(kinds: Collection[Kind]) -> str:
    """How the figures behind a mean were read; blank where a machine counted them all."""
    if not set(kinds) - COUNTED:
        return ""
    named = (Kind.PUBLISHED, Kind.STATED)
    names = [KIND_WORDS[kind] for kind in named if kind in kinds]
    if set(kinds) - COUNTED - {*named}:
        names.insert(0, "read by eye")
    return f"{'partly ' if COUNTED & set(kinds) else ''}{list_text(names)}"


def board_basis(board: Board, rig_id: str | None) -> str:
    """On what the means of the Board rest, for the line under the lenses."""
    base = board.base.name if board.base else "none"
    reference = board.reference.name if board.reference else "none"
    return f"Base {base} · reference {reference} · {mean_basis(board, rig_id)}"


def mean_basis(board: Board, rig_id: str | None) -> str:
    """Which mean is taken, over how many cases, and how many are kept out of it."""
    subject = focus_rig(board, rig_id)
    total = board.totals.get(subject.rig_id) if subject else None
    said = MEAN_WORDS[board.review.mean]
    if board.over:
        said += f" {board.over}"
    if total is None or subject is None:
        return said
    cases = max(total.gain_cases, total.loss_cases)
    mean = total.over_base or total.of_reference
    said += f", {count_text(cases, 'shared case')}"
    missing = len(mean.missing) if mean else 0
    if missing and board.review.shared_cases:
        said += f" of {cases + missing}, those that all measured rigs have"
    measured = sum(rig == subject.rig_id for rig, _ in board.cells)
    out = len(board.review.left_out)
    mixed = measured - cases - out
    if out:
        said += f", {out} left out by hand"
    if mixed > 0 and board.review.clean_only:
        said += f", {mixed} not clean"
    if board.review.each_title_once:
        said += ", each title once"
    if board.review.weights:
        said += ", weighted"
    return said


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
        return f"{column.name} has no kept run of {row.title} {row.settings}."
    how = "" if not by_eye(frozenset({cell.kind})) else f", {KIND_WORDS[cell.kind]}"
    if cell.is_capped:
        how += ", at the cap of its case"
    parts = [f"{rate_text(cell)} {unit_text(cell)}{how}"]
    if board.base is not None and cell.gain is not None and column.role is not Role.BASE:
        parts.append(
            bound_words(cell.over_bound)
            + _pair_words(
                cell.gain,
                cell.gain_low,
                cell.gain_high,
                f"{'in speed ' if row.lower_is_better else ''}over {board.base.name}",
            )
        )
    if board.reference is not None and cell.loss is not None and column.role is not Role.REFERENCE:
        low, high = (None if b is None else -b for b in (cell.loss_high, cell.loss_low))
        change = _pair_words(-cell.loss, low, high, f"against {board.reference.name}")
        parts.append(bound_words(cell.of_bound) + change)
    said = f"{parts[0]}: {' and '.join(parts[1:])}" if len(parts) > 1 else parts[0]
    if cell.tie:
        said += f" ({_needs_words(cell.runs_needed)})"
    return f"{said}."


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


def _needs_words(more: int | None) -> str:
    if more is None:
        return "over 50 more passes would be needed to tell them apart"
    return f"{count_text(more, 'more pass', 'more passes')} would settle it"


def cell_next(board: Board, rig_id: str, case_id: str) -> str:
    """What would make a cell stronger, or what a reader should know of it."""
    cell = board.cells.get((rig_id, case_id))
    set_aside = [
        run for run in board.runs.get((rig_id, case_id), ()) if run.decision is not Decision.KEEP
    ]
    if cell is None:
        return "Take a run of this case on this rig, or decide to keep one that was set aside."
    missing = [
        f"the {name} {column.name}"
        for name, column in (("base", board.base), ("reference", board.reference))
        if column is not None and (column.rig_id, case_id) not in board.cells
    ]
    if missing:
        return f"Take this case on {list_text(missing)}: without it the cell has no ratio."
    if cell.standing.worst is not Standing.CLEAN:
        return to_make_clean(cell.standing)
    if cell.is_capped:
        return "The frame cap of its case holds it: without the cap it may be faster."
    if cell.tie and cell.runs_needed is not None:
        times = count_text(cell.runs_needed, "more time")
        return f"Run it {times} on both rigs: that would settle a difference this small."
    if cell.runs == 1:
        return "Run it again: one pass shows no variation."
    if set_aside:
        counted = count_text(len(set_aside), "run")
        return f"{counted} of this cell {'is' if len(set_aside) == 1 else 'are'} not counted."
    return f"Nothing is missing here: {count_text(cell.runs, 'kept run')}, base and reference."
