"""What the evidence column of the Board says of a cell and of the means."""

from collections.abc import Callable

from blunt_ruler.core.board.board import Board, Row
from blunt_ruler.core.board.lenses import (
    Lens,
    cell_text,
    lens_value,
    rate_text,
    ratio_text,
    score_text,
    span_text,
    unit_text,
    value_text,
)
from blunt_ruler.core.claims.cells import cell_line
from blunt_ruler.core.claims.standing import estimate_of
from blunt_ruler.core.compare.comparability import Standing, cell_standing_words
from blunt_ruler.core.compare.results import CaseResult, RigMean
from blunt_ruler.core.measure.kinds import KIND_WORDS, MEAN_WORDS, Kind
from blunt_ruler.core.text import count_text, fps_text, percent_text, times_text
from blunt_ruler.ui.kit.widgets import Parts, figure_row, label


def cell_parts(board: Board, row: Row, rig_id: str) -> Parts:
    """The sentence, the figures with their intervals, and the standing of one cell."""
    column = board.column(rig_id)
    cell = board.cells.get((rig_id, row.case_id))
    parts: Parts = [
        label("THIS CELL", "heading"),
        label(cell_line(board, rig_id, row.case_id), "says"),
        label(f"{column.name if column else ''}, {row.title} {row.settings}", "quiet"),
        12,
    ]
    if cell is None:
        return parts
    low = "too few frames" if cell.low_1_fps is None else f"{fps_text(cell.low_1_fps)} fps"
    unit, text = ("fps", fps_text) if not cell.unit else (unit_text(cell), score_text)
    parts += [
        label("FIGURES", "heading"),
        figure_row("average" if not cell.unit else "score", f"{rate_text(cell)} {unit}"),
        *_span(cell.rate_low, cell.rate_high, text),
    ]
    if not cell.unit:
        parts.append(figure_row("how it was read", _read(cell)))
        parts.append(figure_row(f"1 % low, {board.review.low_school}", low))
    if cell.gain is not None:
        said = cell_text(board, rig_id, row.case_id, Lens.GAIN)
        parts.append(figure_row("gain over base", said))
        parts += _bounds(cell.gain_low, cell.gain_high)
    is_reference = board.reference is not None and board.reference.rig_id == rig_id
    if cell.loss is not None and not is_reference:
        said = cell_text(board, rig_id, row.case_id, Lens.LOSS)
        parts.append(figure_row("change against reference", said))
        high, low_bound = cell.loss_low, cell.loss_high
        parts += _bounds(None if low_bound is None else -low_bound, None if high is None else -high)
    for lens in (Lens.SPREAD, Lens.WATTS, Lens.PER_WATT):
        if (value := lens_value(cell, lens)) is not None:
            parts.append(figure_row(str(lens), value_text(value, lens)))
    if cell.standing.worst is not Standing.CLEAN:
        parts += [6, label(cell_standing_words(cell.standing), "caution")]
    parts.append(12)
    return parts


def _bounds(low: float | None, high: float | None) -> Parts:
    return _span(low, high, lambda share: percent_text(share, signed=True))


def _span(low: float | None, high: float | None, text: Callable[[float], str]) -> Parts:
    if low is None and high is None:
        return []
    ends = [None if end is None else text(end) for end in (low, high)]
    return [figure_row("  95 % interval", span_text(*ends))]


def _read(cell: CaseResult) -> str:
    """How the runs of a cell were read, the surest first."""
    return ", ".join(KIND_WORDS[kind] for kind in Kind if kind in cell.kinds)


def _over_words(board: Board, mean: RigMean) -> str:
    """Over how many cases a mean is, and which it lacks."""
    if not mean.missing:
        return count_text(mean.cases, "case")
    names = [f"{row.title} {row.settings}" for row in board.rows if row.case_id in mean.missing]
    rest = f" and {len(names) - 3} more" if len(names) > 3 else ""
    return f"{mean.cases} of {mean.of_cases} cases; without {', '.join(names[:3])}{rest}"


def _intervals(mean: RigMean) -> Parts:
    """What passes and days leave open of these titles, and what other titles could give."""
    value, count = estimate_of(mean), len(mean.over_titles)
    these = "this title" if count == 1 else f"these {count} titles"
    rows: Parts = []
    for name, low, high in (
        (these, value.low, value.high),
        ("other titles", value.like_low, value.like_high),
    ):
        ends = [
            None if end is None else percent_text(end - 1.0, signed=True) for end in (low, high)
        ]
        told = span_text(*ends) if any(ends) else "too few to say"
        rows.append(figure_row(name, told))
    return rows


def mean_parts(board: Board, rig_id: str) -> Parts:
    """The means of a rig over its cases, what they rest on, and the case that moves them most."""
    total = board.totals.get(rig_id)
    parts: Parts = []
    for words, mean in (
        ("over the base", total.over_base if total else None),
        ("of the reference", total.of_reference if total else None),
    ):
        if mean is None or (mean.low is None and mean.high is None):
            continue
        parts += [
            12,
            label(f"MEAN {words.upper()}", "heading"),
            figure_row(
                MEAN_WORDS[board.review.mean], ratio_text(mean.ratio, mean.bound, mean.kinds)
            ),
            *_intervals(mean),
            label(f"95 % intervals, {_over_words(board, mean)}", "small"),
        ]
        if mean.case_moved is not None and mean.ratio_without is not None:
            row = next((row for row in board.rows if row.case_id == mean.case_moved), None)
            name = f"{row.title} {row.settings}" if row else "one case"
            parts.append(
                label(f"{name} moves it most; without it {times_text(mean.ratio_without)}", "quiet")
            )
    return parts
