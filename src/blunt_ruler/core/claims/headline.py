"""The headline of a stop: the weightiest claims of its question in at most 30 words."""

from collections.abc import Iterator, Sequence
from enum import Enum

from blunt_ruler.core.board.board import Board, Column
from blunt_ruler.core.board.references import Held, References, reference_words
from blunt_ruler.core.board.scores import ScoreBoard
from blunt_ruler.core.claims.claim import Claim, ClaimKind, Metric, Question
from blunt_ruler.core.claims.names import place_words, subject_words
from blunt_ruler.core.claims.offer import Claims
from blunt_ruler.core.claims.speak import (
    clause,
    low_words,
    predicate,
    range_words,
    share_lost,
)
from blunt_ruler.core.claims.standing import MARGIN, Standing, mean_standing
from blunt_ruler.core.measure.kinds import Bound
from blunt_ruler.core.records.roles import Role
from blunt_ruler.core.sentences import plain
from blunt_ruler.core.text import capital, percent_text

MOST_WORDS = 30
ALONE = " No reference is chosen, so no loss is known."


def words_in(text: str) -> int:
    """How many words a headline has; a figure and its unit are two."""
    return len(text.split())


def board_headline(claims: Claims, chosen_rig_id: str | None = None) -> str:
    """What was gained and what was lost; what to do next where nothing can be said yet."""
    board = claims.board
    if nothing := nothing_yet(board):
        return nothing
    subject = claims.focus(chosen_rig_id)
    about = claims.about(subject.rig_id) if subject is not None else claims.all()
    gain, loss = first_of(about, Question.GAIN), first_of(about, Question.LOSS)
    if gain is None and loss is None:
        return _what_is_missing(claims, subject)
    if subject is None and loss is not None:
        gain = None  # base and reference alone: what lies between them, said once
    said = [*_candidates(gain, loss, board.columns)]
    if gain is None and subject is not None and (gap := _gap(claims, subject)):
        return f"{said[-1]} {gap}"
    found = next((one for one in said if words_in(one) <= MOST_WORDS), said[-1])
    if loss is None and board.reference is None and words_in(found + ALONE) <= MOST_WORDS:
        found += ALONE
    if board.over:
        found = f"{found[:-1]} ({board.over})."
    return found


def nothing_yet(board: Board) -> str:
    """What to do first, while there is nothing to compare; blank where there is."""
    if not board.columns:
        return "No rigs in this review yet: name one, paste a table, or drop frame logs."
    if not any(board.runs.values()):
        if not board.rows:
            return "Name a case: a title, its scene, resolution and preset, as far as known."
        return "No figure yet: type one into a cell, or drop frame logs on this window."
    if board.base is None:
        return "No base rig chosen: choose the rig that every gain is measured from."
    return ""


def first_of(claims: Sequence[Claim], question: Question) -> Claim | None:
    """The weightiest comparison of a question: of averages, else of scores, else of lows."""
    found = [
        one
        for one in claims
        if one.question is question and one.value is not None and one.kind is not ClaimKind.TREND
    ]
    order = [Metric.AVERAGE, Metric.SCORE, Metric.LOW]
    return min(found, key=lambda one: order.index(one.metric), default=None)


def _gap(claims: Claims, subject: Column) -> str:
    """Why nothing is said of a rig's gain; blank where base and rig were not both measured."""
    base = claims.board.base
    found = (one.says for one in claims.missing(subject) if base and one.against is base)
    return next(found, "")


def _what_is_missing(claims: Claims, subject: Column | None) -> str:
    board = claims.board
    base = board.base.name if board.base else "the base"
    if board.over and not board.totals:
        return f"Working out the means {board.over}."
    if board.comparison is None and not claims.all():
        return f"The base rig {base} has no kept run: import one to see any gain."
    if subject is not None and subject.rig_id not in board.totals:
        outcomes = (one for one in claims.missing(subject) if one.metric is Metric.OUTCOME)
        ended = next((one.says for one in outcomes), "")
        return ended or f"{subject.name} has no kept run yet: import one to compare it."
    said = claims.all() if subject is None else claims.missing(subject)
    if first := next((one.says for one in said if one.says), ""):
        return first
    if subject is None:
        return f"Only {base} has kept runs: import a run of the rig under test."
    return f"{subject.name} shares no measured case with {base}."


class Detail(Enum):
    """How much a headline tells of the titles behind a mean."""

    COUNTS = "faster in all 6 titles (1.56 to 3.49 times)"
    RANGE = "on average (1.56 to 3.49 times)"
    NONE = "on average"


def _candidates(gain: Claim | None, loss: Claim | None, columns: Sequence[Column]) -> Iterator[str]:
    """Ways to say it, the fullest first. What one must know stays in all of them: lows that tell
    another story, titles that disagree, and the range of those that lie far apart.
    """
    claim = gain or loss
    assert claim is not None
    details = [Detail.COUNTS, Detail.RANGE if claim.is_scattered else Detail.NONE]
    names = dict.fromkeys((subject_words(claim.subject, columns), claim.subject.name))
    for name in names:
        for detail in details:
            for short in (False, True):
                yield _said(capital(name), gain, loss, detail, short)
    if gain is not None and loss is not None:
        yield _said(capital(claim.subject.name), gain, None, details[-1], short=True)


def _said(name: str, gain: Claim | None, loss: Claim | None, detail: Detail, short: bool) -> str:
    sentences = []
    if gain is not None:
        sentences.append(f"{name} {_clause(gain, detail)}{low_words(gain)}.")
    if loss is not None and gain is not None:
        clause = _loss_short(loss) if short else plain(predicate(loss))
        titles = loss.scope.titles
        where = f" in {titles[0]}" if len(titles) == 1 and titles != gain.scope.titles else ""
        sentences.append(f"It {clause}{where}{low_words(loss)}.")
    elif loss is not None:
        sentences.append(f"{name} {_clause(loss, detail)}{low_words(loss)}.")
    return " ".join(sentences)


def _clause(claim: Claim, detail: Detail) -> str:
    """The comparison with as much of its titles as there is room for; one title, or one that
    carries the mean, is always named, and so are titles that disagree.
    """
    said = plain(predicate(claim))
    titles, counts = claim.scope.titles, claim.counts
    mixed = counts is not None and counts.titles not in (counts.every_ahead, counts.every_behind)
    if len(titles) == 1 or claim.part("carrier") is not None or mixed:
        return plain(clause(claim))
    if claim.standing is Standing.OPEN:
        return said
    if detail is Detail.COUNTS:
        return plain(clause(claim))
    return f"{said} on average{range_words(claim) if detail is Detail.RANGE else ''}"


def _loss_short(claim: Claim) -> str:
    """A clear loss in few words; anything else as it is."""
    assert claim.value is not None and claim.against is not None
    if claim.standing is not Standing.CLEAR or claim.change > 0 or claim.bound is not Bound.POINT:
        return plain(predicate(claim))
    lost = ("about " if claim.by_eye else "") + percent_text(share_lost(claim.value.ratio))
    if claim.place == "link":
        return f"is {lost} slower than {place_words(claim.against, claim.place)}"
    whom = f"the {claim.against.host}" if claim.place == "host" else claim.against.name
    return f"loses {lost} to {whom}"


def score_headline(claims: Claims, scores: ScoreBoard, rig_id: str | None = None) -> str:
    """What a rig gains and loses in synthetic tests, or how to begin."""
    if not scores.board.rows:
        return (
            "No scores yet. Type “score: test” as a case on the Board, then the score of each rig."
        )
    if not scores.board.cells:
        return "No score is typed yet: choose a cell of a test and type it."
    measured = {rig for rig, _ in scores.board.cells}
    tested = [one.rig_id for one in scores.board.columns if one.role is Role.TESTED]
    others = [one.rig_id for one in scores.board.columns]
    for rig in dict.fromkeys((*([rig_id] if rig_id else []), *tested, *others)):
        found = [one for one in claims.about(rig) if one.metric is Metric.SCORE]
        if rig in measured and found:
            return _scored(found, scores.board.columns)
    if scores.board.base is None:
        return "No base rig chosen: choose the rig that every gain is measured from."
    return "Scores of one rig only: type those of the base to see any gain."


def _scored(found: Sequence[Claim], columns: Sequence[Column]) -> str:
    """The gain in scores, and what is kept of the twin's."""
    said = [f"{plain(clause(one))}." for one in found[:2]]
    subject = capital(subject_words(found[0].subject, columns))
    return " It ".join([f"{subject} {said[0]}", *said[1:]])


def reference_headline(found: References, rig_id: str) -> str:
    """Which reference a rig comes closest to, and what it lacks of the others."""
    nearest = found.nearest(rig_id)
    if nearest is None or nearest.mean is None:
        if not found.boards:
            return "No reference rig is chosen: choose one in the head of its column."
        return "No rig under test shares a valid case with a reference yet."
    rest = [
        f"{_apart(one)} {_whom(one)}"
        for one in found.of_rig(rig_id)
        if one is not nearest and one.mean is not None
    ]
    if len(found.boards) == 1:
        return f"{nearest.rig.name} is {_apart(nearest)} {reference_words(nearest.reference)}."
    said = f"{nearest.rig.name} comes closest to {reference_words(nearest.reference)}"
    how = _apart(nearest).removesuffix(" than").removesuffix(" with").removesuffix(" from")
    return f"{said}: {how}{'; ' if rest else ''}{', '.join(rest)}."


def _apart(held: Held) -> str:
    """How a rig stands to a reference: “11 % slower than”, “level with”."""
    assert held.mean is not None
    change = held.mean.ratio - 1.0
    way = "faster" if change > 0 else "slower"
    match mean_standing(held.mean, MARGIN):
        case Standing.LEVEL:
            return "level with"
        case Standing.OPEN if held.mean.bound is Bound.POINT:
            return "not told apart from"
        case Standing.SLIGHT:
            return f"slightly {way} ({percent_text(abs(change))}) than"
    bound = held.mean.bound.turned() if change < 0 else held.mean.bound
    sure = "" if bound is Bound.POINT else f"{bound} "
    return f"{sure}{percent_text(abs(change))} {way} than"


def _whom(held: Held) -> str:
    same = held.rig.card == held.reference.card and not held.reference.source
    return f"itself in {held.reference.name}" if same else reference_words(held.reference)
