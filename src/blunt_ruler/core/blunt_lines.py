"""The blunt lines: one plain sentence per view, computed from the data.

A line never gives a figure without its base, and when something is missing it says what is
missing and what to do next. Sentences live here, never in a widget, so they can be tested as
text.
"""

from dataclasses import dataclass

from blunt_ruler.core.board import Board, Column
from blunt_ruler.core.checks.all import Checked, checks_line
from blunt_ruler.core.fit import check_fit
from blunt_ruler.core.links import TUNNEL_KEPT_BACK, Ladder, set_by_words
from blunt_ruler.core.matrix import plan_cells, plan_of
from blunt_ruler.core.models import Contents, Decision, Review, Role
from blunt_ruler.core.parts import Rig
from blunt_ruler.core.severity import Severity
from blunt_ruler.core.text import capital, count_text, fps_text, list_text, loss_text, percent_text


def focus_rig(board: Board, chosen_rig_id: str | None = None) -> Column | None:
    """The rig a line is about: the chosen one if it is under test, else the first that is."""
    tested = [column for column in board.columns if column.role is Role.TESTED]
    chosen = next((column for column in tested if column.rig_id == chosen_rig_id), None)
    return chosen or next((column for column in tested if column.rig_id in board.totals), None)


def board_line(board: Board, chosen_rig_id: str | None = None) -> str:
    """What the Board found for one rig, against base and reference."""
    if not board.columns:
        return "No rigs in this review yet. Import a log, and its rig joins the review."
    if not any(board.runs.values()):
        return "No runs yet. Import a log onto a rig and a case to see the first figure."
    if board.base is None:
        return "No base rig chosen: choose the rig that every gain is measured from."
    if board.comparison is None:
        return f"The base rig {board.base.name} has no kept run: import one to see any gain."
    subject = focus_rig(board, chosen_rig_id)
    total = board.totals.get(subject.rig_id) if subject else None
    if subject is None or total is None:
        return _line_without_tested(board, subject)
    parts = []
    if total.mean_gain is not None:
        parts.append(_gain_words(total.mean_gain, board.base))
    if total.mean_loss is not None and board.reference is not None:
        parts.append(_kept_words(total.mean_loss, subject, board.reference))
    if not parts:
        return f"{_subject_words(subject)} shares no measured case with {board.base.name}."
    verdict = f"{_subject_words(subject)} {' and '.join(parts)}"
    if board.reference is None:
        return f"{verdict}. No reference rig is chosen, so nothing is said of what was lost."
    if total.mean_loss is None:
        return f"{verdict}; it shares no measured case with the reference {board.reference.name}."
    return f"{verdict}."


def _line_without_tested(board: Board, subject: Column | None) -> str:
    if subject is not None:
        return f"{subject.name} has no kept run yet: import one to compare it."
    base, reference = board.base, board.reference
    if base is None:
        return "No base rig chosen: choose the rig that every gain is measured from."
    if reference is not None and reference.rig_id in board.totals:
        mean = board.totals[reference.rig_id].mean_gain
        if mean is not None:
            return f"{_subject_words(reference)} {_gain_words(mean, base)}; no rig is under test."
    return f"Only {base.name} has kept runs: import a run of the rig under test."


def _subject_words(column: Column) -> str:
    if column.link and not column.built_in and column.card != column.name:
        return f"Through the {column.link}, the {column.card}"
    return column.name


def _base_words(base: Column) -> str:
    return f"the built-in {base.card}" if base.built_in else base.name


def _gain_words(gain: float, base: Column) -> str:
    ratio = gain + 1.0
    if ratio >= 1.995:
        return f"runs {ratio:.1f} times as fast as {_base_words(base)}"
    return f"gains {percent_text(gain, signed=True)} over {_base_words(base)}"


def _kept_words(loss: float, subject: Column, reference: Column) -> str:
    kept = percent_text(1.0 - loss)
    if subject.card == reference.card:
        place = f"the {reference.host}" if reference.host else reference.name
        return f"keeps {kept} of its speed in {place}"
    return f"reaches {kept} of {reference.name}"


def board_basis(board: Board, rig_id: str | None) -> str:
    """On what the means of the Board rest, for the line under the lenses."""
    base = board.base.name if board.base else "none"
    reference = board.reference.name if board.reference else "none"
    return f"Base {base} · reference {reference} · {mean_basis(board, rig_id)}"


def mean_basis(board: Board, rig_id: str | None) -> str:
    """Which mean is taken, and over how many cases."""
    subject = focus_rig(board, rig_id)
    total = board.totals.get(subject.rig_id) if subject else None
    cases = f", {count_text(total.gain_cases, 'shared case')}" if total else ""
    return f"geometric mean of ratios{cases}"


def cell_line(board: Board, rig_id: str, case_id: str) -> str:
    """One cell in a sentence: its rate, gain and loss with their bases."""
    column = board.column(rig_id)
    row = next((row for row in board.rows if row.case_id == case_id), None)
    if column is None or row is None:
        return "Choose a cell to see what is behind it."
    cell = board.cells.get((rig_id, case_id))
    if cell is None:
        return f"{column.name} has no kept run of {row.title} {row.settings}."
    parts = [f"{fps_text(cell.average_fps)} frames per second"]
    if board.base is not None and cell.gain is not None and column.role is not Role.BASE:
        parts.append(f"{percent_text(cell.gain, signed=True)} over {board.base.name}")
    if board.reference is not None and cell.loss is not None and column.role is not Role.REFERENCE:
        parts.append(f"{loss_text(cell.loss)} against {board.reference.name}")
    return f"{parts[0]}: {' and '.join(parts[1:])}." if len(parts) > 1 else f"{parts[0]}."


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
    if cell.runs == 1:
        return "Take it once more: a single kept run shows no spread."
    if set_aside:
        counted = count_text(len(set_aside), "run")
        return f"{counted} of this cell {'is' if len(set_aside) == 1 else 'are'} not counted."
    return f"Nothing is missing here: {count_text(cell.runs, 'kept run')}, base and reference."


def runs_line(contents: Contents, review: Review | None, checked: Checked | None = None) -> str:
    """How many runs there are, how many are sound, and what to do next."""
    runs = list(contents.runs.values())
    if not runs:
        return "No runs yet. Drop frame logs on this window, or choose Import logs."
    kept = sum(run.decision is Decision.KEEP for run in runs)
    redo = sum(run.decision is Decision.REDO for run in runs)
    aside = sum(run.decision is Decision.SET_ASIDE for run in runs)
    said = f"{count_text(len(runs), 'run')}: {kept} kept"
    if redo:
        said += f", {redo} to redo"
    if aside:
        said += f", {aside} set aside"
    if checked is not None and checked.runs:
        return f"{said}. {capital(checks_line(checked))}."
    single = _cells_of_one(contents, review)
    if single:
        return f"{said}. {count_text(single, 'cell')} of the Board rest on a single kept run."
    return f"{said}. Every measured cell of the Board rests on at least two kept runs."


def _cells_of_one(contents: Contents, review: Review | None) -> int:
    if review is None:
        return 0
    rig_ids = {seat.rig_id for seat in review.seats}
    counts: dict[tuple[str, str], int] = {}
    for run in contents.runs.values():
        if run.decision is Decision.KEEP and run.rig_id in rig_ids:
            key = (run.rig_id, run.case_id)
            counts[key] = counts.get(key, 0) + 1
    return sum(count == 1 for count in counts.values())


def writeup_line(board: Board) -> str:
    """What can be exported now."""
    if not board.cells:
        return "Nothing to export yet: the Board has no figures."
    return (
        f"{count_text(len(board.cells), 'cell')} over {count_text(len(board.columns), 'rig')} and "
        f"{count_text(len(board.rows), 'case')} are ready to export."
    )


def bench_line(rig: Rig, ladder: Ladder) -> str:
    """What a rig's link leaves for the game, and what sets it."""
    left = f"{ladder.left_gb_per_s:.2f}\u202fGB/s left for the game"
    if ladder.measured_gb_per_s is not None:
        why = f"as measured ({rig.measured_how})" if rig.measured_how else "as measured"
    elif ladder.tunnel_gbps is not None and (
        ladder.payload_gb_per_s is None
        or ladder.payload_gb_per_s > ladder.tunnel_gbps / 8.0 * (1.0 - TUNNEL_KEPT_BACK)
    ):
        why = f"the {ladder.tunnel_gbps:g}\u202fGb/s tunnel sets it"
    elif ladder.negotiated is not None:
        why = set_by_words(ladder.negotiated)
    else:
        why = "as described"
    practice = (
        f"{ladder.practice_low_gb_per_s:.1f} to {ladder.practice_high_gb_per_s:.1f}\u202fGB/s "
        "in practice"
    )
    return f"{rig.name} has {left}: {why}; such links move {practice}."


COMING = {
    "Limits": "See what holds each case back, where the loss went, and what another link would "
    "give.",
    "Worth": "Price each gained frame, with power, heat and noise beside it.",
}
"""Stops that are not built yet, and the one line each shows meanwhile."""


@dataclass(frozen=True, slots=True)
class StopState:
    """A stop on the rail: its state in a few words and how far its work is (0–1)."""

    words: str
    share: float


STOPS = ("Bench", "Plan", "Runs", "Board", "Limits", "Worth", "Write-up")


def stop_states(contents: Contents | None, board: Board | None) -> dict[str, StopState]:
    """The state of every stop. Without a logbook all are empty."""
    states = {stop: StopState("coming", 0.0) for stop in COMING}
    if contents is None or board is None:
        return states | {
            stop: StopState("", 0.0) for stop in ("Bench", "Plan", "Runs", "Board", "Write-up")
        }
    cells = len(board.rows) * len(board.columns)
    filled = len(board.cells) / cells if cells else 0.0
    redo = sum(run.decision is Decision.REDO for run in contents.runs.values())
    runs = count_text(len(contents.runs), "run")
    if board.comparison is None:
        said = "no base run yet" if board.cells else "empty"
    elif len(board.cells) < cells:
        said = f"{len(board.cells)} of {cells} cells"
    else:
        said = f"{count_text(len(board.rows), 'case')} × {count_text(len(board.columns), 'rig')}"
    return states | {
        "Bench": _bench_state(contents, board),
        "Plan": _plan_state(contents, board.review),
        "Runs": StopState(f"{runs} · {redo} to redo" if redo else runs, filled),
        "Board": StopState(said, filled if board.comparison else 0.0),
        "Write-up": StopState("ready to export" if board.comparison else "nothing yet", 0.0),
    }


def _bench_state(contents: Contents, board: Board) -> StopState:
    """Rigs of the review, what stops or cautions, and how many are described through."""
    rig_ids = [column.rig_id for column in board.columns]
    if not rig_ids:
        return StopState("no rig yet", 0.0)
    by_rig = [check_fit(contents, rig_id) for rig_id in rig_ids]
    findings = [finding for found in by_rig for finding in found]
    described = sum(not any(one.check == "described" for one in found) for found in by_rig)
    said = count_text(len(rig_ids), "rig")
    for severity in (Severity.STOP, Severity.CAUTION):
        if count := sum(one.severity is severity for one in findings):
            said += f" · {count_text(count, str(severity))}"
            break
    return StopState(said, described / len(rig_ids))


def _plan_state(contents: Contents, review: Review) -> StopState:
    """Passes left of the plan."""
    cells = plan_cells(contents, review, plan_of(contents, review))
    left = sum(cell.left for cell in cells)
    done = sum(cell.done for cell in cells)
    if not left + done:
        return StopState("nothing planned", 0.0)
    said = f"{count_text(left, 'pass', 'passes')} left" if left else "all passes done"
    return StopState(said, done / (done + left))
