"""What the Board says of its means, and of what to do next.

A line never gives a figure without its base, and when something is missing it says what is
missing and what to do next. Sentences live here, never in a widget, so they can be tested as
text.
"""

from collections.abc import Collection

from blunt_ruler.core.board.board import Board, Column
from blunt_ruler.core.compare.comparability import Standing, to_make_clean
from blunt_ruler.core.measure.kinds import COUNTED, KIND_WORDS, MEAN_WORDS, Bound, Kind
from blunt_ruler.core.records.records import Decision, Role
from blunt_ruler.core.text import count_text, list_text


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


def cell_next(board: Board, rig_id: str, case_id: str) -> str:
    """What would make a cell stronger, or what a reader should know of it."""
    cell = board.cells.get((rig_id, case_id))
    set_aside = [
        run for run in board.runs.get((rig_id, case_id), ()) if run.decision is not Decision.KEEP
    ]
    if cell is None and board.outcome(rig_id, case_id):
        return "Note it in the rig's diary: Bench, Trouble ranks its causes. Then run it again."
    if cell is None and set_aside:
        return "Take a run of this case on this rig, or decide to keep one that was set aside."
    if cell is None:
        return "Take a run of this case on this rig."
    missing = [
        f"the {name} {column.name}"
        for name, column in (("base", board.base), ("reference", board.reference))
        if column is not None and (column.rig_id, case_id) not in board.cells
    ]
    if missing:
        return f"Take this case on {list_text(missing)}: without it the cell has no ratio."
    if cell.standing.worst is not Standing.CLEAN:
        return to_make_clean(cell.standing)
    if cell.bound is not Bound.POINT and not cell.is_capped:
        return "It is known only as a bound: read the figure itself, or remove its cap, and repeat."
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
