"""Everything the Limits stop shows, worked out once."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property

from blunt_ruler.core.board.board import Board, how_of
from blunt_ruler.core.compare.comparability import Unsound
from blunt_ruler.core.limits.cells import DESCRIBE, Cell, Measured, TooLittle, measured_of
from blunt_ruler.core.limits.fit import Fit, fit_limits
from blunt_ruler.core.limits.left_out import LeaveOut, LeftOut, leave_out
from blunt_ruler.core.limits.memory import Memory, remember, with_memory
from blunt_ruler.core.limits.misfit import Misfit, Withheld, misfits
from blunt_ruler.core.limits.next_measurement import (
    Z_80,
    NextTest,
    Question,
    next_tests,
    question_slope,
    question_spread,
)
from blunt_ruler.core.limits.split import (
    HIGH,
    LOW,
    MIDDLE,
    PARTS,
    LossSplit,
    over_review,
    split_losses,
)
from blunt_ruler.core.limits.whatif import (
    Ceiling,
    Change,
    Predicted,
    ceilings,
    what_if,
)
from blunt_ruler.core.measure.kinds import Bound
from blunt_ruler.core.once import Handover
from blunt_ruler.core.plan.matrix import plan_of
from blunt_ruler.core.records.records import Contents, Role
from blunt_ruler.core.text import capital
from blunt_ruler.core.types import Progress, no_progress

LOOKS = 3  # for cells that the model is wrong about


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
    quick: bool = False  # the fit is a first answer, from where one before it ended
    moved: frozenset[str] = frozenset()  # rigs of whom the first answer was off by over its band
    refusal: tuple[str, str, str] | None = None  # where, what and fix: why there is no fit

    def fitted(self) -> Fit:
        """The fit; TooLittle where there is none."""
        if self.fit is None:
            raise TooLittle(*(self.refusal or ("No limits yet", self.why_not, "Look at it again")))
        return self.fit

    @property
    def wants_parts(self) -> bool:
        """Whether there is no fit only because no rig of the results is described."""
        return self.refusal is not None and self.refusal[2] == DESCRIBE

    def cell(self, rig_id: str, case_id: str) -> tuple[int, Cell] | None:
        """A measured cell with its place in the fit."""
        return self._places.get((rig_id, case_id))

    @cached_property
    def _places(self) -> dict[tuple[str, str], tuple[int, Cell]]:
        cells = self.fit.measured.cells if self.fit is not None else ()
        return {(cell.rig, cell.case): (index, cell) for index, cell in enumerate(cells)}

    def split(self, rig_id: str, case_id: str) -> LossSplit | None:
        """The loss split of a cell."""
        return self._splits.get((rig_id, case_id))

    @cached_property
    def _splits(self) -> dict[tuple[str, str], LossSplit]:
        return {(one.rig, one.case): one for one in self.splits}

    def lost_by_part(self, rig_id: str) -> dict[str, float]:
        """The Board's mean loss of a rig by part, as shares of the reference's rate."""
        return self._by_part(rig_id, MIDDLE)

    def part_reach(self, rig_id: str) -> dict[str, tuple[float, float]]:
        """How far each part of a rig's mean loss may reach, 80 %, as shares of the reference's
        rate.
        """
        low, high = (self._by_part(rig_id, end) for end in (LOW, HIGH))
        return {name: (low[name], high[name]) for name in PARTS if name in low}

    def _by_part(self, rig_id: str, end: int) -> dict[str, float]:
        total = self.board.totals.get(rig_id)
        mean = total.of_reference if total else None
        return (
            {}
            if mean is None or mean.bound is not Bound.POINT  # a bound has no parts
            else over_review(self.splits, rig_id, mean, how_of(self.board.review), end)
        )

    def limits(self) -> dict[tuple[str, str], str]:
        """The name of the limit of every fitted cell, and of what keeps others out of the fit."""
        if self.fit is None:
            return {}
        named = zip(self.fit.measured.cells, self.fit.limit_names, strict=True)
        return {
            **{key: str(one.kind) for key, one in self.withheld.items()},
            **{(cell.rig, cell.case): name for cell, name in named},
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
    quick: bool = False,
    handover: Handover | None = None,
) -> LimitsReport:
    """Fit a review and ask everything of the fit; without enough data it says what is missing.

    `unsound` are the runs that checks block. A report from before is taken over where the fit
    would read the same. A quick one is a first answer where there is a fit from before.
    """
    step("Fitting the limits", 0.1)
    memory = remember(contents, board, unsound, before.memory if before else None, handover)
    try:
        given = with_memory(measured_of(contents, board, handover), memory)
        if (
            before is not None
            and (quick or not before.quick)
            and _reads_same(contents, board, given, before)
        ):
            return replace(before, contents=contents, board=board)
        known = before.fit if before is not None else None
        quick = quick and known is not None
        fit, withheld = fit_review(contents, board, given, known, quick, step, handover)
    except TooLittle as error:
        refusal = error.where, error.what, error.fix
        return LimitsReport(
            contents, board, None, capital(str(error)), memory=memory, refusal=refusal
        )
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
        quick=quick,
    )


def fit_review(
    contents: Contents,
    board: Board,
    given: Measured,
    before: Fit | None = None,
    quick: bool = False,
    step: Progress = no_progress,
    handover: Handover | None = None,
) -> tuple[Fit, Withheld]:
    """The fit without the cells that the model is wrong about, and why each was left out;
    TooLittle where the cells, or what is left of them, cannot tell.

    What one of them bent is straight without it, so that others show: hence in turns.
    """

    def going() -> None:
        step("Fitting the limits", 0.3)

    fit = fit_limits(given, before, quick, going)
    withheld: Withheld = {}
    for _ in range(LOOKS):
        found = misfits(fit, contents, board, handover)
        if not found:
            break
        keep = [(cell.rig, cell.case) not in found for cell in fit.measured.cells]
        withheld |= found
        try:
            fit = fit_limits(fit.measured.without(keep), fit, quick, going)
        except TooLittle as error:
            one = next(iter(withheld.values()))
            what = f"{contents.case_label(one.case)} on {contents.rigs[one.rig].name}: {one.why}"
            fix = f"The other cells are too few. {error.fix}"
            raise TooLittle("No limits yet", what, fix) from error
    return fit, withheld


Foreseen = tuple[LeftOut | None, LeftOut | None]
"""How well links are foreseen with what the logbook remembers, and without."""


def foresee(report: LimitsReport, step: Progress = no_progress) -> LimitsReport:
    """The same report with how well the fit foresees each link left out. It takes longer than all
    else.
    """
    if report.fit is None or report.foreseen:
        return report
    return with_foreseen(report, links_left_out(report.fit, step))


def with_foreseen(report: LimitsReport, found: Foreseen) -> LimitsReport:
    """The same report with how well links are foreseen."""
    assert not report.quick, "what is foreseen is asked of the whole fit"
    return replace(report, left_out=found[0], left_out_alone=found[1], foreseen=True)


def links_left_out(fit: Fit, step: Progress = no_progress) -> Foreseen:
    """Leave every link of a fit out in turn: what `foresee` takes so long for."""
    measured = fit.measured

    def told(share: float) -> None:
        step("Leaving links out in turn", 0.9 + 0.1 * share)

    whole = leave_out(measured, LeaveOut.LINK, fit, lambda share: told(share / 2))
    if not measured.beside:
        return whole, None
    alone = leave_out(measured.alone(), LeaveOut.LINK, fit, lambda share: told((1 + share) / 2))
    return whole, alone


def moved_since(first: LimitsReport, whole: LimitsReport) -> frozenset[str]:
    """Rigs of whose loss the whole fit says something that a first answer had ruled out: a part
    that lies beyond the 80 % bounds it had.
    """
    found = set()
    for rig_id in {one.rig for one in whole.splits}:
        now, bounds = whole.lost_by_part(rig_id), first.part_reach(rig_id)
        if any(not low <= now[part] <= high for part, (low, high) in bounds.items()):
            found.add(rig_id)
    return frozenset(found)


def same_limits(
    contents: Contents,
    board: Board,
    unsound: Unsound,
    before: LimitsReport,
    handover: Handover | None = None,
) -> LimitsReport | None:
    """A report from before over new contents, None where a fit of them would read otherwise."""
    if before.fit is None:
        return None
    memory = remember(contents, board, unsound, before.memory, handover)
    try:
        given = with_memory(measured_of(contents, board, handover), memory)
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
