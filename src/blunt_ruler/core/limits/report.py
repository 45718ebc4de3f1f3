"""Everything the Limits stop shows, worked out once, and its sentences."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from operator import attrgetter

import numpy as np

from blunt_ruler.core.board.board import Board, how_of
from blunt_ruler.core.compare.comparability import Unsound
from blunt_ruler.core.limits.cells import Cell, Measured, TooLittle, measured_of
from blunt_ruler.core.limits.fit import MIXED, OPEN, Fit, fit_limits
from blunt_ruler.core.limits.left_out import LeaveOut, LeftOut, leave_out
from blunt_ruler.core.limits.memory import Memory, remember, with_memory
from blunt_ruler.core.limits.misfit import Misfit, Withheld, misfits
from blunt_ruler.core.limits.next_test import (
    Z_80,
    NextTest,
    Question,
    next_tests,
    question_slope,
    question_spread,
)
from blunt_ruler.core.limits.split import PARTS, LossSplit, Part, over_review, split_losses
from blunt_ruler.core.limits.whatif import (
    WIDEST_GB_PER_S,
    Ceiling,
    Change,
    Predicted,
    card_speeds,
    ceilings,
    narrowest_link,
    slot_gain,
    what_if,
)
from blunt_ruler.core.measure.kinds import Bound
from blunt_ruler.core.plan.matrix import plan_of
from blunt_ruler.core.records.records import Contents, Role
from blunt_ruler.core.resolution import KNOWN_LINES
from blunt_ruler.core.text import adding_up, amount, capital, count_text, list_text, percent_text
from blunt_ruler.core.types import Progress, no_progress

PART_WORDS = {
    "link": "link",
    "host": "host",
    "screen": "screen path",
    "card": "card",
    "unexplained": "unexplained",
}
LOOKS = 3  # for cells that the model is wrong about
WIDE = 0.03  # half of what a part may reach over, from which on its ends are told


@dataclass(frozen=True)
class LimitsReport:
    """A fit with everything that was asked of it. `why_not` says why there is none."""

    contents: Contents
    board: Board
    fit: Fit | None
    why_not: str
    splits: tuple[LossSplit, ...] = ()
    ceilings: tuple[Ceiling, ...] = ()
    left_out: LeftOut | None = None
    left_out_alone: LeftOut | None = None  # the same without what the logbook remembers
    foreseen: bool = False  # whether links were left out in turn yet
    memory: Memory = field(default_factory=Memory)
    withheld: Mapping[tuple[str, str], Misfit] = field(default_factory=dict)
    given: Measured | None = None  # what was to be fitted, with the cells that were withheld

    def cell(self, rig_id: str, case_id: str) -> tuple[int, Cell] | None:
        """A measured cell with its place in the fit."""
        if self.fit is None:
            return None
        for index, cell in enumerate(self.fit.measured.cells):
            if (cell.rig, cell.case) == (rig_id, case_id):
                return index, cell
        return None

    def split(self, rig_id: str, case_id: str) -> LossSplit | None:
        """The loss split of a cell."""
        return next((s for s in self.splits if (s.rig, s.case) == (rig_id, case_id)), None)

    def lost_by_part(self, rig_id: str) -> dict[str, float]:
        """The Board's mean loss of a rig by part, as shares of the reference's rate."""
        return self._by_part(rig_id, attrgetter("fps"))

    def part_reach(self, rig_id: str) -> dict[str, tuple[float, float]]:
        """How far each part of a rig's mean loss may reach, 80 %, as shares of the reference's
        rate.
        """
        low, high = (self._by_part(rig_id, attrgetter(end)) for end in ("low_fps", "high_fps"))
        return {name: (low[name], high[name]) for name in PARTS if name in low}

    def _by_part(self, rig_id: str, of: Callable[[Part], float]) -> dict[str, float]:
        total = self.board.totals.get(rig_id)
        mean = total.of_reference if total else None
        return (
            {}
            if mean is None or mean.bound is not Bound.POINT  # a bound has no parts
            else over_review(self.splits, rig_id, mean, how_of(self.board.review), of)
        )

    def limits(self) -> dict[tuple[str, str], str]:
        """The name of the limit of every fitted cell, and of what keeps others out of the fit."""
        if self.fit is None:
            return {}
        return {
            **{key: str(one.kind) for key, one in self.withheld.items()},
            **{
                (cell.rig, cell.case): self.fit.limit_of(index)
                for index, cell in enumerate(self.fit.measured.cells)
            },
        }

    def steadiness(self, cell: Cell) -> float | None:
        """1 % low over average of a measured cell."""
        found = self.board.cells.get((cell.rig, cell.case))
        if found is None or found.low_1_fps is None:
            return None
        return found.low_1_fps / found.average_fps

    def what_if(self, cell: Cell, change: Change) -> Predicted:
        """A cell with something changed."""
        assert self.fit is not None
        return what_if(self.fit, cell, change, self.steadiness(cell))


def derive_limits(
    contents: Contents,
    board: Board,
    unsound: Unsound,
    step: Progress = no_progress,
    before: LimitsReport | None = None,
) -> LimitsReport:
    """Fit a review and ask everything of the fit; without enough data it says what is missing.

    `unsound` are the runs that checks block. A report from before is taken over where the fit
    would read the same.
    """
    step("Fitting the limits", 0.1)
    memory = remember(contents, board, unsound, before.memory if before else None)
    try:
        given = with_memory(measured_of(contents, board), memory)
        if before is not None and _reads_same(contents, board, given, before):
            return replace(before, contents=contents, board=board)
        fit, withheld = fit_review(contents, board, given, before.fit if before else None)
    except TooLittle as error:
        return LimitsReport(contents, board, None, str(error), memory=memory)
    reference = board.review.rig_in(Role.REFERENCE)
    step("Splitting the losses", 0.5)
    splits = split_losses(fit, reference) if reference else ()
    sizes = sorted({cell.megapixels for cell in fit.measured.cells})
    return LimitsReport(
        contents,
        board,
        fit,
        "",
        splits,
        ceilings(fit, sizes),
        memory=memory,
        withheld=withheld,
        given=given,
    )


def fit_review(
    contents: Contents, board: Board, given: Measured, before: Fit | None = None
) -> tuple[Fit, Withheld]:
    """The fit without the cells that the model is wrong about, and why each was left out;
    TooLittle where the cells, or what is left of them, cannot tell.

    What one of them bent is straight without it, so that others show: hence in turns.
    """
    fit = fit_limits(given, before)
    withheld: Withheld = {}
    for _ in range(LOOKS):
        found = misfits(fit, contents, board)
        if not found:
            break
        keep = [(cell.rig, cell.case) not in found for cell in fit.measured.cells]
        withheld |= found
        try:
            fit = fit_limits(fit.measured.without(keep), fit)
        except TooLittle as error:
            one = next(iter(withheld.values()))
            what = f"{contents.case_label(one.case)} on {contents.rigs[one.rig].name}: {one.why}"
            fix = f"The other cells are too few. {error.fix}"
            raise TooLittle("No limits yet", what, fix) from error
    return fit, withheld


def foresee(report: LimitsReport, step: Progress = no_progress) -> LimitsReport:
    """The same report with how well the fit foresees each link left out: with what the logbook
    remembers, and without. It takes longer than all else.
    """
    fit = report.fit
    if fit is None or report.foreseen:
        return report
    measured = fit.measured

    def told(share: float) -> None:
        step("Leaving links out in turn", 0.9 + 0.1 * share)

    whole = leave_out(measured, LeaveOut.LINK, fit, lambda share: told(share / 2))
    alone = (
        leave_out(measured.alone(), LeaveOut.LINK, fit, lambda share: told((1 + share) / 2))
        if measured.beside
        else None
    )
    return replace(report, left_out=whole, left_out_alone=alone, foreseen=True)


def same_limits(
    contents: Contents, board: Board, unsound: Unsound, before: LimitsReport
) -> LimitsReport | None:
    """A report from before over new contents, None where a fit of them would read otherwise."""
    if before.fit is None:
        return None
    memory = remember(contents, board, unsound, before.memory)
    try:
        given = with_memory(measured_of(contents, board), memory)
    except TooLittle:
        return None
    if not _reads_same(contents, board, given, before):
        return None
    return replace(before, contents=contents, board=board)


def _reads_same(contents: Contents, board: Board, given: Measured, before: LimitsReport) -> bool:
    """Whether a fit of new contents would read what the one before read."""
    return (
        before.fit is not None
        and before.board.review.rig_in(Role.REFERENCE) == board.review.rig_in(Role.REFERENCE)
        and given == before.given
        # What meters read tells misfits apart.
        and board.runs == before.board.runs
        and contents.titles == before.contents.titles
    )


def limits_line(report: LimitsReport, rig_id: str | None) -> str:
    """What took a rig's frames, in one sentence."""
    if report.fit is None:
        return report.why_not
    column = report.board.column(rig_id)
    shares = report.lost_by_part(rig_id or "")
    if column is None or not shares:
        return _taken_line(report, rig_id) or _fit_line(report.fit)
    lost = sum(shares.values())
    if abs(lost) < 0.01:
        return f"{column.name} loses nothing that shows against the reference."
    texts = told_texts(report, column.rig_id)
    names = list_text(
        [
            f"{text} {'' if name == 'unexplained' else 'to the '}{PART_WORDS[name]}"
            for name, _, text in texts
        ]
    )
    reference = report.board.reference.name if report.board.reference else "the reference"
    said = f"On average {column.name} loses {percent_text(lost)} against {reference}: {names}"
    if _is_wide(report, column.rig_id):
        said += _settling(report, column.rig_id)
    beside = remembered_words(report.fit).removeprefix(" and ")
    return f"{said}." if not beside else f"{said}. It leans on {beside}."


def _fit_line(fit: Fit) -> str:
    off = percent_text(float(np.median(np.abs(fit.residuals))), decimals=1)
    return f"The fit is within {off} of half the {len(fit.measured.cells)} cells."


def _taken_line(report: LimitsReport, rig_id: str | None) -> str:
    """What the link takes of a rig that no reference stands beside, by the model; blank for a rig
    without a link.
    """
    fit, reference = report.fit, report.board.reference
    cells = [cell for cell in fit.measured.cells if cell.rig == rig_id] if fit else []
    if fit is None or reference is not None or not cells:
        return ""
    if fit.measured.links[cells[0].link].gb_per_s >= WIDEST_GB_PER_S:
        return ""
    low, high = (percent_text(one) for one in slot_gain(fit, cells))
    name = report.contents.rigs[cells[0].rig].name
    said = f"Between {low} and {high}" if low != high else f"About {low}"
    return (
        f"{said} more than {name} gives would come of the same card in a full slot of the same "
        "host, by the model: that is what its link takes. Measure one as the reference to see."
    )


def _is_wide(report: LimitsReport, rig_id: str) -> bool:
    """Whether the data leave open by over a few per cent what a part took."""
    return any(high - low > 2 * WIDE for low, high in report.part_reach(rig_id).values())


def _settling(report: LimitsReport, rig_id: str) -> str:
    """The one test that would narrow most what the link took; blank where none would."""
    case = next((one.case for one in report.splits if one.rig == rig_id), "")
    tests, _ = tests_for(report, Question.LINK, rig_id, case)
    best = max(tests, key=lambda test: test.narrows, default=None)
    if best is None or best.narrows < 0.1:
        return ""
    return f"; {best.says} would narrow that by {percent_text(best.narrows)}"


def told_texts(report: LimitsReport, rig_id: str) -> list[tuple[str, float, str]]:
    """Parts of a rig's mean loss as (name, share, text): "15 %", or "8 to 19 %" where the data
    leave that much open.
    """
    shares, reach = report.lost_by_part(rig_id), report.part_reach(rig_id)
    told = []
    for name, share in told_shares(shares):
        low, high = reach.get(name, (share, share))
        wide = high - low > 2 * WIDE
        text = f"{percent_text(low).split()[0]} to {percent_text(high)}" if wide else ""
        told.append((name, shares[name], text or percent_text(share)))
    return told


def whole_shares(shares: Mapping[str, float]) -> dict[str, float]:
    """Parts of a mean loss in whole per cents that add up to the printed whole."""
    rounded = adding_up([*shares.values()], sum(shares.values()), 0.01)
    return dict(zip(shares, rounded, strict=True))


def told_shares(shares: Mapping[str, float]) -> list[tuple[str, float]]:
    """Parts of a mean loss in whole per cents that add up to the printed whole, the largest
    first and the unexplained last, which is always told.
    """
    rounded = whole_shares(shares)
    told = sorted(
        ((name, rounded[name]) for name in PARTS if abs(rounded[name]) >= 0.005),
        key=lambda part: -part[1],
    )
    return [*told, ("unexplained", rounded["unexplained"])]


def fit_words(report: LimitsReport) -> str:
    """How well the fit holds, and how well it foresaw each link left out."""
    fit = report.fit
    if fit is None:
        return report.why_not
    off = float(np.median(np.abs(fit.residuals)))
    said = (
        f"{count_text(len(fit.measured.cells), 'cell')}{remembered_words(fit)}, {fit.layout.size} "
        f"unknowns, residual {percent_text(off, decimals=1)}"
    )
    if report.left_out is not None:
        said += (
            f"; each link left out in turn: {percent_text(report.left_out.median_error)} median "
            f"error, {percent_text(report.left_out.p90_error)} for nine in ten, and "
            f"{percent_text(report.left_out.interval_hits)} of the 80\u202f% intervals held"
        )
    if report.left_out is not None and report.left_out_alone is not None:
        alone = percent_text(report.left_out_alone.median_error)
        said += f"; without the other reviews {alone} median error"
    if report.withheld:
        kinds = list_text([*dict.fromkeys(str(one.kind) for one in report.withheld.values())])
        cells = count_text(len(report.withheld), "cell")
        said += f"; {cells} withheld, for the model does not know: {kinds}"
    resting = len(fit.rests_on_prior)
    if resting:
        said += f"; {resting} of the unknowns rest on their prior: the data did not narrow them"
    return f"{said}."


def remembered_words(fit: Fit) -> str:
    """How much of a fit came from elsewhere: " and 212 cells of 6 other reviews"; blank for
    nothing.
    """
    beside = len(fit.measured.beside)
    if not beside:
        return ""
    reviews = count_text(fit.measured.reviews, "other review")
    return f" and {count_text(beside, 'cell')} of {reviews}"


def cell_limit_line(report: LimitsReport, index: int) -> str:
    """What holds one cell back, with the time it waits."""
    assert report.fit is not None
    fit = report.fit
    limits = fit.times.limits[:, index]
    name = fit.limit_of(index)
    frame_ms = float(fit.times.whole[index])
    waits = float(fit.times.card_waits[index])
    if name == OPEN:
        return f"The data leave open what sets the pace: {_shares_words(limits)} is the best guess."
    said = f"{capital(f'the {name}')} sets the pace ({percent_text(float(limits.max()))})"
    if name == MIXED:
        said = f"No single limit: {_shares_words(limits)}"
    if waits > 0.05 * frame_ms:
        said += (
            f". The card waits {amount(round(waits, 1), 'ms')} of every "
            f"{amount(round(frame_ms, 1), 'ms')} frame for the link"
        )
    return f"{said}."


def _shares_words(limits: np.ndarray) -> str:
    names = ("card", "CPU", "link")
    order = np.argsort(-limits)
    return ", ".join(f"{names[i]} {percent_text(float(limits[i]))}" for i in order)


def size_words(megapixels: float) -> str:
    """A size as people call it: "1440p", else in megapixels."""
    for lines, width in KNOWN_LINES.items():
        if abs(lines * width / 1e6 - megapixels) < 0.01:
            return f"{lines}p"
    return f"{megapixels:.1f} megapixels"


def ceiling_words(report: LimitsReport, one: Ceiling) -> str:
    """A ceiling in few words: which cards it wastes, or how much faster a card may be."""
    if one.wasted:
        return f"{list_text([report.contents.cards[card].name for card in one.wasted])} wasted"
    assert report.fit is not None
    fastest = max((card_speeds(report.fit)[card] for card in one.fitting), default=1.0)
    return f"pays up to {one.card_speed / fastest:.1f} × the fastest on it"


def ceiling_line(report: LimitsReport) -> str:
    """Which card is wasted on the narrowest link, or that none is."""
    if report.fit is None:
        return report.why_not
    wasted = [one for one in report.ceilings if one.wasted]
    if not report.ceilings:
        return "No add-in card was measured on a link that is described."
    if not wasted:
        return "No measured card is beyond what its link and CPU can use, at any measured size."
    links = report.fit.measured.links
    worst = min(wasted, key=lambda one: (links[one.link].gb_per_s, -one.megapixels))
    names = list_text([report.contents.cards[card].name for card in worst.wasted])
    fine = [
        one.megapixels
        for one in report.ceilings
        if one.link == worst.link and one.megapixels > worst.megapixels and not one.wasted
    ]
    below = f"below {size_words(min(fine))}" if fine else "at every measured size"
    verb = "is" if len(worst.wasted) == 1 else "are"
    return (
        f"{names} {verb} wasted on the {worst.link} {below}: 10\u202f% more card gives under "
        "3\u202f%."
    )


def narrowest_words(report: LimitsReport, card: str, megapixels: float) -> str:
    """The narrowest link that costs a card under 5 %."""
    assert report.fit is not None
    found = narrowest_link(report.fit, report.fit.measured.host, card, megapixels)
    if found is None:
        return ""
    name = report.contents.cards[card].name
    return f"{name}: {amount(round(found, 1), 'GB/s')} cost it under 5 %"


def tests_for(
    report: LimitsReport, question: Question, rig_id: str, case_id: str
) -> tuple[tuple[NextTest, ...], float]:
    """The tests that would narrow a question most for each minute, and the share by which its
    answer is known now: half an 80 % interval.
    """
    found = report.cell(rig_id, case_id)
    if found is None or report.fit is None:
        return (), 0.0
    _, cell = found
    reference_id = report.board.review.rig_in(Role.REFERENCE)
    other = report.cell(reference_id or "", case_id)
    slope = question_slope(report.fit, question, cell, other[1] if other else None)
    contents = report.contents
    plan = plan_of(contents, report.board.review)

    def minutes(one: Cell) -> float:
        case = contents.cases.get(one.case)
        times = plan.times_of(case.title_id if case else "")
        passes = 3.0
        return (times.load_s + times.settings_s + passes * (times.pass_s + plan.cool_down_s)) / 60.0

    def words(one: Cell, size: str) -> str:
        return f"{one.family} at {size} on {contents.rigs[one.rig].name}"

    tests = next_tests(
        report.fit, slope, minutes, words, lambda link: f"Sweep the bus of the {link}"
    )
    return tests, Z_80 * question_spread(report.fit, slope)


def split_rows(split: LossSplit) -> Mapping[str, float]:
    """A loss by part in frames per second, the unexplained last."""
    return {
        **{name: part.fps for name, part in split.parts.items()},
        "unexplained": split.unexplained_fps,
    }


def lost_as_printed(split: LossSplit) -> float:
    """The loss between both rates as they are printed, in tenths of a frame."""
    return round(split.reference_fps, 1) - round(split.average_fps, 1)


def told_rows(split: LossSplit) -> list[tuple[str, float]]:
    """A loss by part in tenths of a frame that add up to the printed loss; parts of nothing are
    left out, the unexplained is always told.
    """
    rows = split_rows(split)
    rounded = adding_up([*rows.values()], lost_as_printed(split), 0.1)
    return [
        (name, fps)
        for name, fps in zip(rows, rounded, strict=True)
        if abs(fps) >= 0.05 or name == "unexplained"
    ]
