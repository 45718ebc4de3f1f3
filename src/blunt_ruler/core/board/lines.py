"""The blunt lines: one plain sentence per view, computed from the data.

A line never gives a figure without its base, and when something is missing it says what is
missing and what to do next. Sentences live here, never in a widget, so they can be tested as
text.
"""

import math
from collections.abc import Collection

from blunt_ruler.core.board.board import Board, Column, Row
from blunt_ruler.core.board.lenses import by_eye, published_change_words, rate_text, unit_text
from blunt_ruler.core.compare.comparability import Standing, to_make_clean
from blunt_ruler.core.compare.results import RigMean
from blunt_ruler.core.measure.kinds import COUNTED, KIND_WORDS, MEAN_WORDS, Bound, Kind
from blunt_ruler.core.records.records import Decision, Role
from blunt_ruler.core.text import count_text, list_text, percent_text

# A case that moves the mean by over a third of it, and by at least 3 %, carries it.
OUTLIER_SHARE = 1.0 / 3.0
OUTLIER_LEAST = 0.03


def focus_rig(board: Board, chosen_rig_id: str | None = None) -> Column | None:
    """The rig a line is about: the chosen one if it is under test and measured, else the first."""
    tested = [column for column in board.columns if column.role is Role.TESTED]
    measured = [column for column in tested if column.rig_id in board.totals]
    chosen = [column for column in measured if column.rig_id == chosen_rig_id]
    alone = [column for column in tested if column.rig_id == chosen_rig_id]
    return next(iter(chosen or measured or alone), None)


def board_line(board: Board, chosen_rig_id: str | None = None) -> str:
    """What the Board found for one rig, against base and reference."""
    if not board.columns:
        return "No rigs in this review yet: name one, paste a table, or drop frame logs."
    if not any(board.runs.values()):
        if not board.rows:
            return "Name a case: a title, its scene, resolution and preset, as far as known."
        return "No figure yet: type one into a cell, or drop frame logs on this window."
    if board.base is None:
        return "No base rig chosen: choose the rig that every gain is measured from."
    if board.comparison is None:
        return f"The base rig {board.base.name} has no kept run: import one to see any gain."
    subject = focus_rig(board, chosen_rig_id)
    total = board.totals.get(subject.rig_id) if subject else None
    if subject is None or total is None:
        return _line_without_tested(board, subject)
    parts = []
    over, of = total.over_base, total.of_reference
    apart = over is not None and of is not None and set(over.case_ids) != set(of.case_ids)
    if over is not None:
        on = f" on {count_text(over.cases, 'case')}" if apart else ""
        parts.append(f"{_gain_words(over, board.base)}{on}")
    if of is not None and board.reference is not None:
        on = f" on {of.cases}" if apart else ""
        parts.append(f"{_kept_words(of, subject, board.reference)}{on}")
    if not parts:
        return _nothing_shared(board, subject)
    verdict = f"{_subject_words(subject)} {' and '.join(parts)}"
    if board.over:
        verdict += f" {board.over}"
    verdict += _outlier_words(board, total.over_base)
    means = [mean for mean in (total.over_base, total.of_reference) if mean is not None]
    if read := read_words({kind for mean in means for kind in mean.kinds}):
        verdict += f", {read}"
    if out := {case for mean in means for case in mean.bounds_out}:
        verdict += f" ({count_text(len(out), 'bound')} the other way left out)"
    if board.reference is None:
        return f"{verdict}. No reference rig is chosen, so nothing is said of what was lost."
    if total.of_reference is None:
        return f"{verdict}; it shares no sound case with the reference {board.reference.name}."
    return f"{verdict}."


def _nothing_shared(board: Board, subject: Column) -> str:
    mixed = [
        cell
        for (rig_id, _), cell in board.cells.items()
        if rig_id == subject.rig_id and cell.standing.worst is not Standing.CLEAN
    ]
    if mixed and board.review.clean_only:
        return (
            f"{_subject_words(subject)} has no clean case to compare: "
            f"{mixed[0].standing.differs[0]}."
        )
    base = board.base.name if board.base else "the base"
    return f"{_subject_words(subject)} shares no measured case with {base}."


def _outlier_words(board: Board, mean: RigMean | None) -> str:
    """A case that carries the mean is named with the mean without it."""
    if mean is None or mean.case_moved is None or mean.ratio_without is None:
        return ""
    moved = abs(math.log(mean.ratio / mean.ratio_without))
    if moved < max(OUTLIER_SHARE * abs(math.log(mean.ratio)), OUTLIER_LEAST):
        return ""
    row = next((row for row in board.rows if row.case_id == mean.case_moved), None)
    name = f"{row.title} {row.settings}" if row else mean.case_moved
    return f"; without {name} {_ratio_words(mean.ratio_without)}"


def _ratio_words(ratio: float) -> str:
    if ratio >= 1.995:
        return f"it is {ratio:.1f} times"
    return f"it is {percent_text(ratio - 1.0, signed=True)}"


def _line_without_tested(board: Board, subject: Column | None) -> str:
    if subject is not None:
        return f"{subject.name} has no kept run yet: import one to compare it."
    base, reference = board.base, board.reference
    if base is None:
        return "No base rig chosen: choose the rig that every gain is measured from."
    if reference is not None and reference.rig_id in board.totals:
        mean = board.totals[reference.rig_id].over_base
        if mean is not None:
            return f"{_subject_words(reference)} {_gain_words(mean, base)}; no rig is under test."
    return f"Only {base.name} has kept runs: import a run of the rig under test."


def _subject_words(column: Column) -> str:
    if column.link and not column.built_in and column.card != column.name:
        return f"Through the {column.link}, the {column.card}"
    return column.name


def _base_words(base: Column) -> str:
    return f"the built-in {base.card}" if base.built_in else base.name


def _gain_words(mean: RigMean, base: Column) -> str:
    if mean.is_tie:
        return f"shows no difference from {_base_words(base)} ({_range_words(mean)})"
    bound = bound_words(mean.bound)
    if mean.ratio >= 1.995:
        return f"runs {bound}{mean.ratio:.1f} times as fast as {_base_words(base)}"
    if mean.ratio < 1.0:
        lost = bound_words(mean.bound.turned())
        return f"loses {lost}{percent_text(1.0 - mean.ratio)} against {_base_words(base)}"
    return f"gains {bound}{percent_text(mean.ratio - 1.0, signed=True)} over {_base_words(base)}"


def bound_words(bound: Bound) -> str:
    """ "at least " before a figure that is a bound."""
    return "" if bound is Bound.POINT else f"{bound} "


def read_words(kinds: Collection[Kind]) -> str:
    """How the figures behind a mean were read; blank where a machine counted them all."""
    if not set(kinds) - COUNTED:
        return ""
    names = [KIND_WORDS[kind] for kind in (Kind.PUBLISHED,) if kind in kinds]
    if set(kinds) - COUNTED - {Kind.PUBLISHED}:
        names.insert(0, "read by eye")
    return f"{'partly ' if COUNTED & set(kinds) else ''}{list_text(names)}"


def _kept_words(mean: RigMean, subject: Column, reference: Column) -> str:
    place = f"the {reference.host}" if reference.host else reference.name
    same = subject.card == reference.card
    if mean.is_tie:
        where = f"its speed in {place}" if same else reference.name
        return f"shows no difference from {where} ({_range_words(mean)})"
    kept = f"{bound_words(mean.bound)}{percent_text(mean.ratio)}"
    return (
        f"keeps {kept} of its speed in {place}" if same else f"reaches {kept} of {reference.name}"
    )


def _range_words(mean: RigMean) -> str:
    assert mean.low is not None
    assert mean.high is not None
    low, high = (percent_text(bound - 1.0, signed=True) for bound in (mean.low, mean.high))
    return f"{low} to {high}"


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
    """A mean over a group in a sentence."""
    total = board.subtotals[row.case_id].get(column.rig_id)
    parts = []
    if total is not None and total.over_base is not None and board.base is not None:
        parts.append(_gain_words(total.over_base, board.base))
    if total is not None and total.of_reference is not None and board.reference is not None:
        parts.append(_kept_words(total.of_reference, column, board.reference))
    if not parts:
        return f"{column.name} has no mean over {row.title} yet."
    return f"{_subject_words(column)} {' and '.join(parts)}, over {row.title}: {row.settings}."


def _pair_words(change: float, low: float | None, high: float | None, base: str) -> str:
    """A change on its base; where its interval covers zero, no difference."""
    if low is not None and high is not None and low <= 0.0 <= high:
        return f"no difference shown {base}"
    return f"{percent_text(change, signed=True)} {base}"


def _needs_words(more: int | None) -> str:
    if more is None:
        return "take them as level: over 50 more repeats would be needed"
    return f"needs {count_text(more, 'more repeat')}"


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
        return f"Take it {times} on both rigs to show a difference this small."
    if cell.runs == 1:
        return "Take it once more: a single kept run shows no spread."
    if set_aside:
        counted = count_text(len(set_aside), "run")
        return f"{counted} of this cell {'is' if len(set_aside) == 1 else 'are'} not counted."
    return f"Nothing is missing here: {count_text(cell.runs, 'kept run')}, base and reference."
