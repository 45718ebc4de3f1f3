"""What has no figure: runs that crashed, and rigs not told apart, with what would settle it."""

import math
from collections.abc import Iterable, Iterator

from blunt_ruler.core.board.board import Board, Column
from blunt_ruler.core.board.lenses import by_eye
from blunt_ruler.core.claims.claim import Claim, ClaimKind, Metric, Question, Scope
from blunt_ruler.core.claims.names import base_words, capital_subject
from blunt_ruler.core.claims.pairings import Pairings
from blunt_ruler.core.claims.standing import Standing, arm, mean_standing
from blunt_ruler.core.compare.results import RigMean
from blunt_ruler.core.measure.kinds import Bound
from blunt_ruler.core.text import count_text, list_text

MOST_PASSES = 20  # more would not be run


def outcomes(board: Board, columns: Iterable[Column]) -> Iterator[Claim]:
    """What crashed or did not run, without a figure beside it."""
    for column in columns:
        failed: dict[str, list[str]] = {}
        for row in board.rows:
            told = board.outcome(column.rig_id, row.case_id)
            if told and (column.rig_id, row.case_id) not in board.cells:
                failed.setdefault(told, []).append(row.title)
        for why, titles in failed.items():
            named = tuple(dict.fromkeys(titles))
            who = capital_subject(column, board.columns)
            yield Claim(
                kind=ClaimKind.OUTCOME,
                question=Question.GAIN,
                subject=column,
                against=None,
                metric=Metric.OUTCOME,
                scope=Scope(named),
                standing=Standing.CLEAR,
                says=f"{who} did not run {list_text([*named[:3]])}: {why}.",
                weight=50.0,
            )


def gap(of: Pairings, subject: Column, other: Column, margin: float) -> Iterator[Claim]:
    """What is not told apart of two rigs, or not measured on both, and what would settle it."""
    mean = of.average(subject.rig_id, other.rig_id)
    if mean is None and of.score(subject.rig_id, other.rig_id) is not None:
        return  # they share a test
    who = capital_subject(subject, of.board.columns)
    if mean is None:
        why = _why_none(of.board, subject, other)
        if why:
            says = f"{who} and {base_words(other)} cannot be compared: {why}."
        else:
            says = (
                f"{who} shares no measured case with {base_words(other)}: "
                "measure the same case on both."
            )
    elif mean.bound is Bound.POINT and mean_standing(mean, margin) is Standing.OPEN:
        how, needed = _too_close(of.board, subject, mean, margin)
        says = f"{who} and {base_words(other)} are {how}: {needed} would settle it."
    else:
        return
    yield Claim(
        kind=ClaimKind.GAP,
        question=Question.OPEN,
        subject=subject,
        against=other,
        metric=Metric.AVERAGE,
        scope=Scope(()),
        says=says,
        weight=60.0,
    )


def _too_close(board: Board, subject: Column, mean: RigMean, margin: float) -> tuple[str, str]:
    """(how two rigs are not told apart, what would tell them apart)."""
    counts = [one.runs for one in board.parts.get(subject.rig_id, {}).values()]
    more = passes_to_settle(mean, margin, min(counts, default=1))
    how = "too close to call by eye" if by_eye(mean.kinds) else "not told apart"
    if more is not None:
        return how, f"about {count_text(more, 'more pass', 'more passes')} of each case"
    if by_eye(mean.kinds):
        return how, "frame logs of both"
    return how, "passes on other days, or other titles,"


def passes_to_settle(mean: RigMean, margin: float, passes: int) -> int | None:
    """How many more passes of every case would make an open mean level or different; None where
    the days alone leave it open, or for over 20.
    """
    edge, d = math.log1p(margin), abs(math.log(mean.ratio))
    wanted = max((edge - d) / arm(math.inf, 0.90), d / arm(math.inf))
    n = len(mean.over_titles)
    own = math.fsum(one.variance for one in mean.over_titles) / n**2
    shared = max(mean.these_error**2 - own, 0.0)
    if wanted <= 0 or wanted**2 <= shared or own <= 0:
        return None
    more = math.ceil(passes * own / (wanted**2 - shared)) - passes
    return more if 1 <= more <= MOST_PASSES else None


def _why_none(board: Board, subject: Column, other: Column) -> str:
    """Why two rigs that share cases have no mean: bounds on both sides, or unlike facts; blank
    where they share none.
    """
    mine = board.parts.get(subject.rig_id, {})
    theirs = board.parts.get(other.rig_id, {})
    both = [case for case in mine if case in theirs]
    if not both:
        return ""
    if all(Bound.POINT not in (mine[case].bound, theirs[case].bound) for case in both):
        return "both sit on a cap, or are known only as “at least”; remove the cap and repeat"
    for case in both:
        if (one := board.standings.get((subject.rig_id, case))) and one.differs:
            return one.differs[0]
    return "their cases are left out of the means"
