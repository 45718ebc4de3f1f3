"""Everything the Limits stop shows, worked out once, and its sentences."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from blunt_ruler.core.board.board import Board, how_of
from blunt_ruler.core.limits.cells import Cell, TooLittle, measured_of
from blunt_ruler.core.limits.fit import Fit, fit_limits
from blunt_ruler.core.limits.left_out import LeaveOut, LeftOut, leave_out
from blunt_ruler.core.limits.next_test import (
    Z_80,
    NextTest,
    Question,
    next_tests,
    question_slope,
    question_spread,
)
from blunt_ruler.core.limits.split import PARTS, LossSplit, over_review, split_losses
from blunt_ruler.core.limits.whatif import (
    Ceiling,
    Change,
    Predicted,
    card_speeds,
    ceilings,
    narrowest_link,
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
        total = self.board.totals.get(rig_id)
        mean = total.of_reference if total else None
        return (
            {}
            if mean is None or mean.bound is not Bound.POINT  # a bound has no parts
            else over_review(self.splits, rig_id, mean, how_of(self.board.review))
        )

    def limits(self) -> dict[tuple[str, str], str]:
        """The name of the limit of every fitted cell."""
        if self.fit is None:
            return {}
        return {
            (cell.rig, cell.case): self.fit.limit_of(index)
            for index, cell in enumerate(self.fit.measured.cells)
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
    step: Progress = no_progress,
    before: LimitsReport | None = None,
) -> LimitsReport:
    """Fit a review and ask everything of the fit; without enough data it says what is missing.

    A report from before is taken over where the fit would read the same.
    """
    step("Fitting the limits", 0.1)
    if before is not None and (same := same_limits(contents, board, before)) is not None:
        return same
    try:
        measured = measured_of(contents, board)
        fit = fit_limits(measured)
    except TooLittle as error:
        return LimitsReport(contents, board, None, str(error))
    reference = board.review.rig_in(Role.REFERENCE)
    step("Splitting the losses", 0.5)
    splits = split_losses(fit, reference) if reference else ()
    step("Leaving links out in turn", 0.7)
    sizes = sorted({cell.megapixels for cell in measured.cells})
    return LimitsReport(
        contents,
        board,
        fit,
        "",
        splits,
        ceilings(fit, sizes),
        leave_out(measured, LeaveOut.LINK),
    )


def same_limits(contents: Contents, board: Board, before: LimitsReport) -> LimitsReport | None:
    """A report from before over new contents, None where a fit of them would read otherwise."""
    if before.fit is None or before.board.review.rig_in(Role.REFERENCE) != board.review.rig_in(
        Role.REFERENCE
    ):
        return None
    try:
        same = measured_of(contents, board) == before.fit.measured
    except TooLittle:
        return None
    return replace(before, contents=contents, board=board) if same else None


def limits_line(report: LimitsReport, rig_id: str | None) -> str:
    """What took a rig's frames, in one sentence."""
    if report.fit is None:
        return report.why_not
    column = report.board.column(rig_id)
    shares = report.lost_by_part(rig_id or "")
    if column is None or not shares:
        off = percent_text(float(np.median(np.abs(report.fit.residuals))), decimals=1)
        return f"The fit is within {off} of half the {len(report.fit.measured.cells)} cells."
    lost = sum(shares.values())
    if abs(lost) < 0.01:
        return f"{column.name} loses nothing that shows against the reference."
    names = list_text(
        [
            f"{percent_text(share)} {'' if name == 'unexplained' else 'to the '}{PART_WORDS[name]}"
            for name, share in told_shares(shares)
        ]
    )
    reference = report.board.reference.name if report.board.reference else "the reference"
    return f"On average {column.name} loses {percent_text(lost)} against {reference}: {names}."


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
        f"{count_text(len(fit.measured.cells), 'cell')}, {fit.layout.size} unknowns, residual "
        f"{percent_text(off, decimals=1)}"
    )
    if report.left_out is not None:
        said += (
            f"; each link left out in turn: {percent_text(report.left_out.median_error)} median "
            f"error, {percent_text(report.left_out.p90_error)} for nine in ten, and "
            f"{percent_text(report.left_out.interval_hits)} of the 80\u202f% intervals held"
        )
    resting = len(fit.rests_on_prior)
    if resting:
        said += f"; {resting} of the unknowns rest on their prior: the data did not narrow them"
    return f"{said}."


def cell_limit_line(report: LimitsReport, index: int) -> str:
    """What holds one cell back, with the time it waits."""
    assert report.fit is not None
    fit = report.fit
    limits = fit.times.limits[:, index]
    name = fit.limit_of(index)
    frame_ms = float(fit.times.whole[index])
    waits = float(fit.times.card_fetch[index] + fit.times.card_wait[index])
    if name == "mixed":
        return f"No single limit: {_shares_words(limits)}."
    said = f"{capital(f'the {name}')} sets the pace ({percent_text(float(limits.max()))})"
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
