"""Everything that is worked out from a review, in the order in which one thing needs another.

The window, the commands and the reports all go through here, so that a run which a check blocks
counts in none of them. Each stage is worked out again only when what it reads has changed.
"""

from __future__ import annotations

from dataclasses import dataclass, fields, replace
from typing import TYPE_CHECKING, Any

from blunt_ruler.core.board.board import Board, build_board
from blunt_ruler.core.board.references import References, hold_against
from blunt_ruler.core.board.scores import ScoreBoard, score_board
from blunt_ruler.core.checks.all import NOTHING, Checked, check_runs, find_faults, with_rig_names
from blunt_ruler.core.claims.offer import Claims
from blunt_ruler.core.claims.pairings import Pairings
from blunt_ruler.core.compare.like_for_like import unsound_words
from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.limits.report import (
    LimitsReport,
    derive_limits,
    foresee,
    moved_since,
    same_limits,
)
from blunt_ruler.core.once import Handover, Once
from blunt_ruler.core.records.records import Contents, Review
from blunt_ruler.core.records.writeup_settings import WriteUp
from blunt_ruler.core.types import Progress, no_progress

if TYPE_CHECKING:  # they come when they are asked for, and the Board is on screen by then
    from blunt_ruler.core.plan.bench_plan import BenchPlan
    from blunt_ruler.core.worth.report import Worth

FITTING = "Fitting the limits of this review."


@dataclass(frozen=True, slots=True)
class Analysis:
    """A review with all that follows from it.

    Attributes:
        faults: what `checked` holds, before the names that rigs have now were put in.
        pricing, planning: what is worked out when it is first asked for.
        handover: what the next analysis takes over where it reads the same.
        claims: what may be said of it; lows are in it once it is settled.
        settled: whether all of it is of these contents. Where not, findings are those of the
            contents before, limits are still to be fitted, and everything else is as it is now.
    """

    contents: Contents
    review: Review
    faults: Checked
    checked: Checked
    board: Board
    scores: ScoreBoard
    references: References
    limits: LimitsReport
    pricing: Once[Worth]
    planning: Once[tuple[BenchPlan | None, str]]
    handover: Handover
    claims: Claims
    settled: bool = True

    @property
    def worth(self) -> Worth:
        """What every rig is worth."""
        return self.pricing()

    @property
    def bench_plan(self) -> BenchPlan | None:
        """The plan of what is left; None where there is none, for the reason `no_plan` says."""
        return self.planning()[0]

    @property
    def no_plan(self) -> str:
        """Why there is no plan; blank where there is one."""
        return self.planning()[1]

    @property
    def is_whole(self) -> bool:
        """Whether nothing is left to work out: a whole fit, and links left out in turn."""
        return self.limits.fit is None or self.limits.foreseen


def worth_of(
    contents: Contents,
    review: Review,
    checked: Checked,
    board: Board,
    handover: Handover | None = None,
) -> Worth:
    """The worth of a review; a rig it is set against gets a Board on which it stands too."""
    from blunt_ruler.core.worth.report import derive_worth, review_against

    wider = review_against(contents, review)
    if wider is not review:
        _, board = sound_board(contents, wider, checked, handover)
    return derive_worth(contents, board, review, handover)


def sound_board(
    contents: Contents,
    review: Review,
    checked: Checked | None = None,
    handover: Handover | None = None,
) -> tuple[Checked, Board]:
    """What the checks find, and the Board on which a run that they block is not clean."""
    handover = handover or Handover()
    checked = checked or check_runs(contents, None, review.thresholds, handover=handover)
    return checked, build_board(contents, review, unsound_words(checked, handover), handover)


def analyse(
    contents: Contents, review: Review, step: Progress = no_progress, before: Analysis | None = None
) -> Analysis:
    """Check the runs, build the Board, fit the limits, price the rigs, and leave links out in turn.

    `before` is a settled analysis of earlier contents: what reads the same is taken over.
    """
    return foresee_links(settle(contents, review, step, before), step)


def foresee_links(analysis: Analysis, step: Progress = no_progress) -> Analysis:
    """The same analysis with how well the fit foresees each link: last, for it takes longest."""
    whole = fit_whole(analysis, step)
    return replace(whole, limits=foresee(whole.limits, step))


def fit_whole(analysis: Analysis, step: Progress = no_progress) -> Analysis:
    """The same analysis with the limits fitted to the end, where they were a first answer."""
    analysis.claims.all()  # pages ask for them on the interface thread
    if not analysis.limits.quick:
        return analysis
    limits = derive_limits(
        analysis.contents,
        analysis.board,
        unsound_words(analysis.checked, analysis.handover),
        step,
        analysis.limits,
        handover=analysis.handover,
    )
    limits = replace(limits, moved=moved_since(analysis.limits, limits))
    whole = _put_together(
        analysis.contents,
        analysis.review,
        analysis.faults,
        analysis.checked,
        analysis.board,
        limits,
        analysis,
        analysis.handover,
    )
    return replace(whole, claims=analysis.claims)  # they read no limits


def settle(
    contents: Contents,
    review: Review,
    step: Progress = no_progress,
    before: Analysis | None = None,
    begun: Analysis | None = None,
) -> Analysis:
    """All that `analyse` finds but how well links are foreseen; where `before` has limits, these
    are a first answer. `begun` is what `begin` made of the same contents.
    """
    step("Checking the runs", 0.1)
    handover = begun.handover if begun else Handover(before.handover if before else None)
    faults = _same_faults(contents, review, before)
    if faults is None:
        faults = find_faults(contents, review.thresholds, handover=handover)
    checked = with_rig_names(faults, contents)
    board = _board(contents, review, checked, begun or before, handover)
    unsound = unsound_words(checked, handover)
    known = before.limits if before else None
    quick = before is not None and before.review.id == review.id
    limits = derive_limits(contents, board, unsound, step, known, quick, handover)
    found = _put_together(
        contents, review, faults, checked, board, limits, begun or before, handover
    )
    step("Pricing the rigs", 0.8)
    if (focus := found.claims.focus(None)) is not None:
        found.claims.about(focus.rig_id)
    found.pricing()
    found.planning()
    return found


def begin(contents: Contents, review: Review, before: Analysis | None = None) -> Analysis:
    """What can be said at once of new contents; `analyse` settles what is still to be done."""
    handover = Handover(before.handover if before else None)
    faults = _same_faults(contents, review, before)
    settled = faults is not None
    if faults is None:
        faults = _still_there(before, contents) if before else NOTHING
    checked = with_rig_names(faults, contents)
    board = _board(contents, review, checked, before, handover)
    limits = None
    if settled and before:
        if _limits_read(contents, review) == _limits_read(before.contents, before.review):
            limits = replace(before.limits, contents=contents, board=board)
        else:
            unsound = unsound_words(checked, handover)
            limits = same_limits(contents, board, unsound, before.limits, handover)
    if limits is None:
        settled, limits = False, LimitsReport(contents, board, None, FITTING)
    return _put_together(
        contents, review, faults, checked, board, limits, before, handover, settled
    )


def _put_together(
    contents: Contents,
    review: Review,
    faults: Checked,
    checked: Checked,
    board: Board,
    limits: LimitsReport,
    before: Analysis | None,
    handover: Handover,
    settled: bool = True,
) -> Analysis:
    board = replace(board, limits=limits.limits())
    unsound = unsound_words(checked, handover)
    scores = score_board(contents, board, handover)
    pairings = Pairings(contents, board, unsound, scores, handover)
    if settled and board.base is not None:
        board = replace(board, low_totals=pairings.lows(board.base.rig_id))
        pairings = Pairings(contents, board, unsound, scores, handover)
    return Analysis(
        contents=contents,
        review=review,
        faults=faults,
        checked=checked,
        board=board,
        scores=scores,
        references=hold_against(contents, board, unsound, handover),
        limits=replace(limits, contents=contents, board=board),
        pricing=Once(lambda: worth_of(contents, review, checked, board, handover)),
        planning=_planning(contents, review, before, handover),
        handover=handover,
        claims=Claims(pairings, lows=settled),
        settled=settled,
    )


# What each stage reads. Records never change, so comparing them is mostly comparing identities.

WORDS_ONLY = {"name": "-", "worth": None, "audiences": (), "writeup": WriteUp(), "notes": ""}
BESIDE_THE_CHECKS = (
    "published",
    "prices",
    "readings",
    "plans",
    "reviews",
    "diary",
    "alternatives",
)
BESIDE_THE_RATES = ("ticks", *BESIDE_THE_CHECKS)


def _checks_read(contents: Contents, review: Review) -> tuple[Any, ...]:
    nameless = {key: rig.model_copy(update={"name": "-"}) for key, rig in contents.rigs.items()}
    return (nameless, review.thresholds, *_tables(contents, ("rigs", *BESIDE_THE_CHECKS)))


def _rates_read(contents: Contents, review: Review) -> tuple[Any, ...]:
    return (review.model_copy(update=WORDS_ONLY), *_tables(contents, BESIDE_THE_RATES))


def _limits_read(contents: Contents, review: Review) -> tuple[Any, ...]:
    """What the fit reads, where the checks read the same: how reviews are set up, but their words;
    what other reviews have measured is remembered.
    """
    return (
        review.model_copy(update=WORDS_ONLY),
        *_checks_read(contents, review),
        {key: one.model_copy(update=WORDS_ONLY) for key, one in contents.reviews.items()},
    )


def _plan_read(contents: Contents, review: Review) -> tuple[Any, ...]:
    return (*_rates_read(contents, review), contents.plans)


def _tables(contents: Contents, without: tuple[str, ...]) -> list[Any]:
    return [getattr(contents, one.name) for one in fields(contents) if one.name not in without]


def _same_faults(contents: Contents, review: Review, before: Analysis | None) -> Checked | None:
    """The findings of before, where the checks would read the same."""
    if before is None:
        return None
    same = _checks_read(contents, review) == _checks_read(before.contents, before.review)
    return before.faults if same else None


def _still_there(before: Analysis, contents: Contents) -> Checked:
    """Findings against runs that are still there, until they are checked again."""
    runs, faults = contents.runs, before.faults
    if runs.keys() >= before.contents.runs.keys():
        return Checked(faults.findings, faults.by_run, tuple(runs.values()))
    findings = tuple(one for one in faults.findings if runs.keys() >= {*one.runs})
    there = {id(one) for one in findings}
    by_run = {
        run_id: tuple(one for one in found if id(one) in there)
        for run_id, found in faults.by_run.items()
        if run_id in runs
    }
    return Checked(findings, by_run, tuple(runs.values()))


def _board(
    contents: Contents,
    review: Review,
    checked: Checked,
    before: Analysis | None,
    handover: Handover,
) -> Board:
    unsound = unsound_words(checked, handover)
    if (
        before is not None
        and unsound == unsound_words(before.checked, before.handover)
        and _rates_read(contents, review) == _rates_read(before.contents, before.review)
    ):
        return replace(before.board, review=review)
    return build_board(contents, review, unsound, handover)


def _planning(
    contents: Contents, review: Review, before: Analysis | None, handover: Handover
) -> Once[tuple[BenchPlan | None, str]]:
    if before is not None and _plan_read(contents, review) == _plan_read(
        before.contents, before.review
    ):
        return before.planning

    def plan() -> tuple[BenchPlan | None, str]:
        from blunt_ruler.core.plan.bench_plan import derive_bench_plan

        try:
            return derive_bench_plan(contents, review, handover=handover), ""
        except UserFixable as error:  # a day or an hour that the plan was given is none
            return None, str(error)

    return Once(plan)
