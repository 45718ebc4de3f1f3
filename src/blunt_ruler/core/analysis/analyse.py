"""Everything that is worked out from a review, in the order in which one thing needs another.

The window, the commands and the reports all go through here, so that a run which a check stops
counts in none of them.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace

from blunt_ruler.core.board.board import Board, build_board
from blunt_ruler.core.checks.all import Checked, check_runs
from blunt_ruler.core.compare.like_for_like import unsound_words
from blunt_ruler.core.limits.report import LimitsReport, derive_limits
from blunt_ruler.core.records.records import Contents, Review
from blunt_ruler.core.worth.report import Worth, derive_worth, review_against

Step = Callable[[str, float], None]


@dataclass(frozen=True, slots=True)
class Analysis:
    """A review with all that follows from it."""

    contents: Contents
    review: Review
    checked: Checked
    board: Board
    limits: LimitsReport
    worth: Worth


def no_step(_words: str, _share: float) -> None:
    """Progress that nobody watches."""


def worth_of(contents: Contents, review: Review, checked: Checked, board: Board) -> Worth:
    """The worth of a review; a rig it is set against gets a Board on which it stands too."""
    wider = review_against(contents, review)
    if wider is not review:
        _, board = sound_board(contents, wider, checked)
    return derive_worth(contents, board, review)


def sound_board(
    contents: Contents, review: Review, checked: Checked | None = None, seed: int = 0
) -> tuple[Checked, Board]:
    """What the checks find, and the Board on which a run that they stop is not clean."""
    checked = checked or check_runs(contents, None, review.thresholds)
    return checked, build_board(contents, review, unsound_words(checked), seed)


def analyse(
    contents: Contents, review: Review, step: Step = no_step, checked: Checked | None = None
) -> Analysis:
    """Check the runs, build the Board, fit the limits, price the rigs."""
    step("Checking the runs", 0.1)
    checked, board = sound_board(contents, review, checked)
    limits = derive_limits(contents, board, step)
    board = replace(board, limits=limits.limits())
    step("Pricing the rigs", 0.9)
    return Analysis(
        contents, review, checked, board, limits, worth_of(contents, review, checked, board)
    )
