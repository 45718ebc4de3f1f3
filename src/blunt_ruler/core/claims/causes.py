"""What took a loss, and what it is worth: claims that rest on the fit and on prices."""

from collections.abc import Iterator

from blunt_ruler.core.board.board import Column
from blunt_ruler.core.claims.claim import Claim, ClaimKind, Metric, Part, Question, Scope
from blunt_ruler.core.claims.names import place_words, subject_words
from blunt_ruler.core.claims.offer import Claims, ranked
from blunt_ruler.core.claims.standing import Standing
from blunt_ruler.core.limits.report import LimitsReport
from blunt_ruler.core.limits.split import PARTS
from blunt_ruler.core.limits.words import WIDE, told_texts
from blunt_ruler.core.records.roles import Role
from blunt_ruler.core.text import capital
from blunt_ruler.core.worth.comparing import cheapest_gain
from blunt_ruler.core.worth.report import Worth
from blunt_ruler.core.worth.sentences import worth_line

LEAST_PART = 0.01  # of the reference's rate: less is not told as a cause


def every_claim(claims: Claims, limits: LimitsReport, worth: Worth) -> tuple[Claim, ...]:
    """All that may be said of a review, the weightiest of each question first."""
    causes = (cause_of(limits, claims, column) for column in claims.subjects)
    found = [one for one in causes if one is not None]
    return ranked((*claims.all(), *found, *_worths(worth)))


def cause_of(limits: LimitsReport, claims: Claims, column: Column) -> Claim | None:
    """What took most of a rig's loss against the review's reference; None without a loss."""
    shares, reference = limits.lost_by_part(column.rig_id), claims.board.reference
    if not shares or reference is None:
        return None
    texts = {part: text for part, _, text in told_texts(limits, column.rig_id)}
    part = max((one for one in PARTS if one in texts), key=shares.__getitem__, default="")
    if not part or shares[part] < LEAST_PART:
        return None
    low, high = limits.part_reach(column.rig_id).get(part, (shares[part], shares[part]))
    what = {
        "link": f"the {column.link}" if column.link else "its link",
        "host": f"the {column.host}" if column.host else "its host",
        "screen": "sending the picture back",
        "card": "its card",
    }[part]
    same = column.card == reference.card and column.card != column.name
    subject = subject_words(column, claims.board.columns)
    whom = f"the {column.card}" if same and part == "link" else subject
    where = (
        f"it does {place_words(reference, 'host' if column.host != reference.host else 'link')}"
        if same
        else f"{reference.name} does"
    )
    return Claim(
        kind=ClaimKind.SPLIT,
        question=Question.CAUSE,
        subject=column,
        against=reference,
        metric=Metric.AVERAGE,
        scope=Scope(()),
        standing=Standing.CLEAR if high - low <= 2 * WIDE else Standing.OPEN,
        parts=tuple(Part(name, shares[name]) for name in texts),
        says=f"{capital(what)} costs {whom} {texts[part]} of what {where}.",
        weight=100.0 - claims.board.columns.index(column),
    )


def _worths(worth: Worth) -> Iterator[Claim]:
    """Which gained frame is the cheapest."""
    best = cheapest_gain(worth)
    if best is None or best.column.role is not Role.TESTED:
        return
    yield Claim(
        kind=ClaimKind.VALUE,
        question=Question.WORTH,
        subject=best.column,
        against=worth.board.base,
        metric=Metric.PRICE,
        scope=Scope(()),
        standing=Standing.CLEAR,
        says=worth_line(worth),
        weight=100.0,
    )
