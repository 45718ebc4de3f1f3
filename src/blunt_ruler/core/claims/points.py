"""For and against: the strongest reasons that the claims give, a sentence each."""

from collections.abc import Iterator

from blunt_ruler.core.claims.claim import Claim, ClaimKind, Metric, Question
from blunt_ruler.core.claims.headline import first_of, low_words
from blunt_ruler.core.claims.names import subject_words
from blunt_ruler.core.claims.offer import Claims, is_notable
from blunt_ruler.core.claims.speak import Voice, over_words, predicate, speak
from blunt_ruler.core.claims.standing import Standing
from blunt_ruler.core.sentences import plain
from blunt_ruler.core.text import capital

SURE = (Standing.CLEAR, Standing.SLIGHT)


def points_of(claims: Claims) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """(what speaks for the rigs under test, what speaks against them), the strongest of each."""
    found = [*_points(claims)]
    return (
        tuple(dict.fromkeys(said for speaks_for, said in found if speaks_for)),
        tuple(dict.fromkeys(said for speaks_for, said in found if not speaks_for)),
    )


def _points(claims: Claims) -> Iterator[tuple[bool, str]]:
    columns = claims.board.columns
    for subject in claims.subjects:
        about = claims.about(subject.rig_id)
        gain, loss = first_of(about, Question.GAIN), first_of(about, Question.LOSS)
        if gain is not None and gain.standing in SURE:
            yield gain.change > 0, _said(claims, gain)
        if gain is not None and is_notable(gain) and (lows := low_words(gain)):
            low = gain.part("low")
            who = capital(subject_words(subject, columns))
            better = low is not None and gain.value is not None and low.value > gain.value.ratio
            yield better, f"{who}: {lows.removeprefix(', but ').removeprefix(', and ')}."
        if loss is not None and loss.standing is Standing.LEVEL:
            yield True, _said(claims, loss)
        elif loss is not None and loss.standing in SURE:
            yield loss.change > 0, _said(claims, loss)
    for one in claims.all():
        if one.kind is ClaimKind.OUTCOME:
            yield False, one.says
        elif one.kind is ClaimKind.CROSSING:
            yield one.subject in claims.subjects, one.says
        elif one.metric is Metric.AVERAGE and one.kind is ClaimKind.TREND:
            yield False, speak(one, columns, Voice.REPORT).computed


def _said(claims: Claims, claim: Claim) -> str:
    who = capital(subject_words(claim.subject, claims.board.columns))
    return f"{who} {plain(predicate(claim))}{plain(over_words(claim))}."
