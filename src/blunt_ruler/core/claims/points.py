"""For and against: the strongest reasons that the claims give, a sentence each."""

from collections.abc import Iterator

from blunt_ruler.core.claims.claim import Claim, ClaimKind, Metric, Question
from blunt_ruler.core.claims.headline import first_of
from blunt_ruler.core.claims.names import capital_subject
from blunt_ruler.core.claims.offer import Claims
from blunt_ruler.core.claims.speak import clause, low_clause
from blunt_ruler.core.claims.standing import Standing
from blunt_ruler.core.sentences import plain


def points_of(claims: Claims) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """(what speaks for the rigs under test, what speaks against them), the strongest of each."""
    found = [*_points(claims)]
    return (
        tuple(dict.fromkeys(said for speaks_for, said in found if speaks_for)),
        tuple(dict.fromkeys(said for speaks_for, said in found if not speaks_for)),
    )


def _points(claims: Claims) -> Iterator[tuple[bool, str]]:
    for subject in claims.subjects:
        about = claims.about(subject.rig_id)
        gain, loss = first_of(about, Question.GAIN), first_of(about, Question.LOSS)
        if gain is not None and gain.standing.is_sure:
            yield gain.change > 0, _said(claims, gain)
        if gain is not None and gain.value is not None and low_clause(gain):
            for low in about:
                if low.question is Question.GAIN and low.metric is Metric.LOW and low.value:
                    yield low.value.ratio > gain.value.ratio, _said(claims, low)
        if loss is not None and loss.standing is Standing.LEVEL:
            yield True, _said(claims, loss)
        elif loss is not None and loss.standing.is_sure:
            yield loss.change > 0, _said(claims, loss)
    for one in claims.events():
        yield one.kind is ClaimKind.CROSSING and one.subject in claims.subjects, one.says


def _said(claims: Claims, claim: Claim) -> str:
    return f"{capital_subject(claim.subject, claims.board.columns)} {plain(clause(claim))}."
