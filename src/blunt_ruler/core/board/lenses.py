"""What a cell of the Board shows through each lens, in words that carry their base."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from enum import StrEnum
from operator import attrgetter
from typing import TYPE_CHECKING

from blunt_ruler.core.compare.comparability import LEVEL_MARGIN, Standing
from blunt_ruler.core.measure.kinds import COUNTED, MEAN_WORDS, Bound, Kind
from blunt_ruler.core.records.roles import Role
from blunt_ruler.core.text import (
    MISSING,
    THIN,
    amount,
    count_text,
    fps_text,
    loss_text,
    percent_text,
    times_text,
)

if TYPE_CHECKING:  # the window needs the names of the lenses before it needs any Board
    from blunt_ruler.core.board.board import Board, Column
    from blunt_ruler.core.compare.results import CaseResult, RigMean


class Lens(StrEnum):
    """What a cell of the Board shows."""

    RATE = "frame rate"
    LOW_1 = "1 % low"
    GAIN = "gain"
    LOSS = "loss"
    SPREAD = "spread"
    STANDING = "standing"
    LOW_01 = "0.1 % low"
    STEADINESS = "steadiness"
    FASTER_BY = "reference is faster by"
    LIMIT = "limit"
    WATTS = "watts"
    PER_WATT = "frames per watt"


@dataclass(frozen=True, slots=True)
class Shown:
    """What a lens shows: its figure of a cell, how that is written, and on which base it stands.

    `figure` is None for a lens of words alone; `head` gets the Board, for the names of its rigs.
    """

    figure: Callable[[CaseResult], float | None] | None
    text: Callable[[float], str]
    head: Callable[[Board], str]


def lens_value(cell: CaseResult | None, lens: Lens) -> float | None:
    """What a cell shows through a lens as a number: frames per second, watts, or a share."""
    figure = LENSES[lens].figure
    return None if cell is None or figure is None else figure(cell)


def value_text(value: float | None, lens: Lens) -> str:
    """A lens value in words; a missing one is an en dash."""
    return MISSING if value is None else LENSES[lens].text(value)


def _steadiness(cell: CaseResult) -> float | None:
    return None if cell.low_1_fps is None else cell.low_1_fps / cell.average_fps


def _frames_per_watt(cell: CaseResult) -> float | None:
    return None if not cell.wall_w else cell.average_fps / cell.wall_w


def _signed(value: float) -> str:
    return percent_text(value, signed=True)


def _low_head(of: str, unit: str) -> Callable[[Board], str]:
    return lambda board: f"{of}, {board.review.low_school} definition{unit}"


def _named(rig: Column | None, words: str, otherwise: str) -> str:
    """Words about the base or the reference, or what to do where there is none."""
    return words.format(rig.name) if rig else otherwise


def _gain_head(board: Board) -> str:
    return _named(board.base, "gain over {}", "gain: choose a base rig first")


def _loss_head(board: Board) -> str:
    return _named(board.reference, "change against {}", "loss: choose a reference rig first")


def _faster_head(board: Board) -> str:
    return _named(board.reference, "{} is faster by, over each rig", "choose a reference rig first")


def _standing_head(board: Board) -> str:
    base = board.base.name if board.base else "the base"
    return f"like for like against {base} and {_named(board.reference, '{}', 'no reference')}"


LENSES: Mapping[Lens, Shown] = {
    Lens.RATE: Shown(attrgetter("average_fps"), fps_text, lambda _: "average frames per second"),
    Lens.LOW_1: Shown(
        attrgetter("low_1_fps"), fps_text, _low_head("1 % low", ", frames per second")
    ),
    Lens.GAIN: Shown(attrgetter("gain"), _signed, _gain_head),
    Lens.LOSS: Shown(attrgetter("loss"), loss_text, _loss_head),
    Lens.SPREAD: Shown(
        attrgetter("spread"),
        lambda value: percent_text(value, decimals=1),
        lambda _: "spread of the rate from run to run",
    ),
    Lens.STANDING: Shown(None, percent_text, _standing_head),
    Lens.LOW_01: Shown(
        attrgetter("low_01_fps"), fps_text, _low_head("0.1 % low", ", frames per second")
    ),
    Lens.STEADINESS: Shown(
        _steadiness, percent_text, _low_head("1 % low over average", " of the low")
    ),
    Lens.FASTER_BY: Shown(attrgetter("faster_by"), _signed, _faster_head),
    Lens.LIMIT: Shown(
        None, percent_text, lambda _: "what holds each case back, from the Limits fit"
    ),
    Lens.WATTS: Shown(
        attrgetter("wall_w"), lambda value: f"{value:.0f}", lambda _: "power at the wall, watts"
    ),
    Lens.PER_WATT: Shown(
        _frames_per_watt,
        lambda value: f"{value:.2f}",
        lambda _: "average frames per second for each watt at the wall",
    ),
}
"""Everything a cell can show. A lens is a member of `Lens` and its entry here."""


def score_text(score: float) -> str:
    """A score: whole with its thousands parted from 100 up, three digits below."""
    return f"{score:,.0f}".replace(",", THIN) if score >= 99.5 else f"{score:.3g}"


def unit_text(cell: CaseResult) -> str:
    """What stands behind a cell's figure in a sentence."""
    if not cell.unit:
        return "frames per second"
    return "points" if cell.unit == "score" else cell.unit


def rate_text(cell: CaseResult) -> str:
    """A rate as it was read: "69.5" of a log, "≈70" by eye, "45–50", "~60", "200+", "<30"."""
    if cell.unit:
        return score_text(cell.average_fps)
    if cell.bound is Bound.OPEN:
        return "?"
    rate, edges = cell.average_fps, cell.how.edges if cell.how else None
    if cell.kind is Kind.RANGE and edges is not None:
        return f"{_plain(edges[0])}–{_plain(edges[1])}"
    match cell.kind:
        case Kind.EYE | Kind.RANGE:
            return f"≈{_plain(rate)}"
        case Kind.ABOUT:
            return f"{'~' if cell.how else '≈'}{_plain(rate)}"
        case Kind.AT_LEAST:
            return f"{_plain(rate)}+"
        case Kind.AT_MOST:
            return f"<{_plain(rate)}"
        case _:
            return f"{fps_text(rate)}{'+' if cell.is_capped else ''}"


def _plain(rate_fps: float) -> str:
    """Whole, or two digits under ten: more is not read off a screen."""
    return f"{rate_fps:.0f}" if rate_fps >= 9.95 else f"{rate_fps:.2g}"


BOUND_MARKS = {Bound.POINT: "", Bound.AT_LEAST: "≥", Bound.AT_MOST: "≤", Bound.OPEN: "?"}


def by_eye(kinds: frozenset[Kind]) -> bool:
    """Whether any of some figures was neither counted nor sampled by a machine."""
    return bool(kinds - COUNTED)


def ratio_mark(bound: Bound, kinds: frozenset[Kind]) -> str:
    """What stands before a ratio: ≥ or ≤ of a bound, ≈ where eyes read it."""
    return BOUND_MARKS[bound] or ("≈" if by_eye(kinds) else "")


def ratio_text(ratio: float, bound: Bound, kinds: frozenset[Kind]) -> str:
    """A ratio with what it is: "×2.57" of logs, "≈×2.6" by eye, "≥×2.4"."""
    mark = ratio_mark(bound, kinds)
    return f"{mark}×{ratio:.1f}" if mark and ratio >= 1.095 else f"{mark}{times_text(ratio)}"


def cell_text(board: Board, rig_id: str, case_id: str, lens: Lens) -> str:
    """What a cell shows through a lens, in words."""
    if case_id in board.subtotals:
        return mean_text(board, rig_id, lens, case_id) or MISSING
    cell = board.cells.get((rig_id, case_id))
    if cell is None:
        return _without_rate(board, rig_id, case_id) if lens is Lens.RATE else MISSING
    if lens is Lens.STANDING:
        return str(cell.standing.worst)
    if lens is Lens.LIMIT:
        return board.limits.get((rig_id, case_id), MISSING)
    if lens in (Lens.GAIN, Lens.LOSS) and lens_value(cell, lens) is not None:
        own = board.review.rig_in(Role.BASE if lens is Lens.GAIN else Role.REFERENCE)
        if rig_id != own and is_open(cell, lens):
            return open_change(cell, lens)
    if lens is Lens.RATE:
        return rate_text(cell)
    if lens is Lens.LOW_1 and cell.low_1_fps is not None and cell.low_bound is not Bound.POINT:
        return f"{BOUND_MARKS[cell.low_bound]}{fps_text(cell.low_1_fps)}"
    bound = cell.over_bound if lens is Lens.GAIN else cell.of_bound
    said = value_text(lens_value(cell, lens), lens)
    if lens is Lens.FASTER_BY:
        bound = bound.turned()
    if lens in (Lens.GAIN, Lens.LOSS, Lens.FASTER_BY) and said != MISSING:
        return f"{BOUND_MARKS[bound]}{said}"
    return said


def _without_rate(board: Board, rig_id: str, case_id: str) -> str:
    """That it did not run, where a cell has no figure."""
    changes = _published_changes(board, rig_id, case_id)
    if changes:
        said = percent_text(changes[0][0], signed=True)
        column = board.column(rig_id)
        return f"{said} theirs" if column is not None and column.source else f"{said} stated"
    return "did not run" if board.outcome(rig_id, case_id) else MISSING


def _published_changes(board: Board, rig_id: str, case_id: str) -> list[tuple[float, str]]:
    """(change, of what) of a cell that others published without a rate."""
    return [
        (run.typed.change, run.typed.change_of)
        for run in board.counted(rig_id, case_id)
        if run.typed is not None and run.typed.change is not None
    ]


def published_change_words(board: Board, rig_id: str, case_id: str) -> str:
    """The same as a sentence; blank for a cell with a rate, or with nothing."""
    column = board.column(rig_id)
    changes = _published_changes(board, rig_id, case_id)
    if not changes or column is None:
        return ""
    change, of = changes[0]
    whom = of or "what they compared it with"
    said = percent_text(change, signed=True, decimals=0 if abs(change * 100) % 1 < 1e-9 else 1)
    if not column.source:
        whom = of or "a rig that is not named"
        return f"Stated as {said} against {whom}, without a rate: it enters no mean of rates."
    return f"{column.source} published {said} of {whom}, without a rate: it enters no mean."


NARROWER = 0.84  # a 90 % interval beside one of 95 %, at most: 1.645 / 1.96


def open_text(low: float, high: float) -> str:
    """A change whose 95 % interval covers zero: “level” where it lies within 3 %, else its ends."""
    least, most = (math.log1p(max(end, -0.999)) for end in (low, high))
    middle, half = abs(least + most) / 2.0, (most - least) / 2.0
    if middle + NARROWER * half < math.log1p(LEVEL_MARGIN):
        return "level"
    first, last = (percent_text(end, signed=True).removeprefix("±") for end in (low, high))
    return f"{first.removesuffix(f'{THIN}%')} to {last}"


def open_change(cell: CaseResult, lens: Lens) -> str:
    """A gain or a change against the reference that is not told apart from none."""
    low, high = cell.gain_low, cell.gain_high
    if lens is Lens.LOSS and cell.loss_low is not None and cell.loss_high is not None:
        low, high = -cell.loss_high, -cell.loss_low
    return open_text(low or 0.0, high or 0.0)


def is_open(cell: CaseResult, lens: Lens) -> bool:
    """Whether a gain or a loss is not told apart from none: its 95 % interval covers zero."""
    if not cell.tie:
        return False
    low, high = (
        (cell.gain_low, cell.gain_high) if lens is Lens.GAIN else (cell.loss_low, cell.loss_high)
    )
    return low is not None and high is not None and low <= 0.0 <= high


def beside_text(board: Board, rig_id: str, case_id: str, lens: Lens) -> str:
    """The smaller figure beside a cell's value: what the value alone would leave unsaid."""
    if case_id in board.subtotals:
        return ""
    cell = board.cells.get((rig_id, case_id))
    if cell is None:
        return ""
    match lens:
        case Lens.RATE:
            mark = "" if cell.standing.worst is Standing.CLEAN else " mixed"
            if rig_id == board.review.rig_in(Role.BASE):
                return f"base{mark}"
            limit = board.limits.get((rig_id, case_id), "")
            ratio = ""
            if cell.gain is not None:
                ratio = ratio_text(cell.gain + 1.0, cell.over_bound, cell.kinds)
            return " ".join(part for part in (ratio, mark.strip() or limit) if part)
        case Lens.LOW_1 | Lens.LOW_01:
            low = lens_value(cell, lens)
            return "" if low is None else f"{percent_text(low / cell.average_fps)} of average"
        case Lens.SPREAD:
            return count_text(cell.runs, "run")
        case Lens.STANDING:
            return cell.standing.differs[0] if cell.standing.differs else ""
        case Lens.PER_WATT:
            return "" if cell.wall_w is None else amount(cell.wall_w, "W", 0)
        case _:
            return rate_text(cell) if cell.unit else fps_text(cell.average_fps)


TOLD_IN_TIMES = (Lens.RATE, Lens.LOW_1)  # whose means are told as “×2.57”


def mean_value(board: Board, rig_id: str, lens: Lens, key: str = "") -> RigMean | None:
    """The mean behind the foot of a column, or behind a row of means; None where there is none.

    Lows have one over all their cases alone.
    """
    if lens is Lens.LOW_1:
        lows = board.low_totals.get(rig_id)
        return None if key or lows is None else lows.over_base
    total = (board.subtotals[key] if key else board.totals).get(rig_id)
    if total is None:
        return None
    if lens in (Lens.RATE, Lens.GAIN):
        return total.over_base
    return total.of_reference if lens in (Lens.LOSS, Lens.FASTER_BY) else None


def mean_text(board: Board, rig_id: str, lens: Lens, key: str = "") -> str:
    """The foot of a column, or a cell of a row of means, as the lens says it."""
    mean = mean_value(board, rig_id, lens, key)
    if mean is None:
        return ""
    mark = ratio_mark(mean.bound, mean.kinds)
    if mean.low is None and mean.high is None:  # a rig against itself
        return times_text(mean.ratio) if lens in TOLD_IN_TIMES else percent_text(0.0, signed=True)
    match lens:
        case Lens.RATE | Lens.LOW_1:
            said = ratio_text(mean.ratio, mean.bound, mean.kinds)
        case Lens.GAIN:
            said = f"{mark}{percent_text(mean.ratio - 1.0, signed=True)}"
        case Lens.LOSS:
            said = f"{mark}{loss_text(1.0 - mean.ratio)}"
        case _:
            mark = ratio_mark(mean.bound.turned(), mean.kinds)
            said = f"{mark}{percent_text(1.0 / mean.ratio - 1.0, signed=True)}"
    if not key and _means_differ_in_cases(board, lens):
        return f"{mean.cases} of {mean.of_cases}: {said}"
    return said


def _means_differ_in_cases(board: Board, lens: Lens) -> bool:
    """Whether the means of one row are not all over the same cases; then each says how many."""
    means = [mean_value(board, column.rig_id, lens) for column in board.columns]
    return len({frozenset(mean.case_ids) for mean in means if mean and mean.low is not None}) > 1


def mean_range_text(mean: RigMean | None, lens: Lens, other_titles: bool = False) -> str:
    """The 95 % interval of a mean over these very titles, or what `other_titles` could give, as
    the lens says it; blank where there is none.
    """
    if mean is None or (mean.low is None and mean.high is None):
        return ""
    low, high = (mean.low, mean.high) if other_titles else mean.these
    if lens is Lens.FASTER_BY:
        low, high = (None if end is None else 1.0 / end for end in (high, low))
    if lens in TOLD_IN_TIMES:
        ends = [None if end is None else times_text(end) for end in (low, high)]
    else:
        ends = [None if end is None else percent_text(end - 1, signed=True) for end in (low, high)]
    return span_text(*ends)


def span_text(low: str | None, high: str | None) -> str:
    """An interval, open on a side where it has no end there."""
    if low is None:
        return f"up to {high}"
    return f"from {low} up" if high is None else f"{low} to {high}"


def lens_words(board: Board, lens: Lens) -> str:
    """What the lens shows and on which base, for the header and for every copied figure."""
    return LENSES[lens].head(board)


def mean_words(board: Board) -> str:
    """The school of the means in words."""
    return MEAN_WORDS[board.review.mean]
