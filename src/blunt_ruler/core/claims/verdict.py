"""The verdict in words: what each rig gives, and for whom which rig makes sense."""

from collections.abc import Sequence

from blunt_ruler.core.claims.claim import Question
from blunt_ruler.core.claims.headline import first_of
from blunt_ruler.core.claims.names import capital_subject
from blunt_ruler.core.claims.offer import Claims
from blunt_ruler.core.claims.speak import clause, low_words
from blunt_ruler.core.records.pricing import Audience
from blunt_ruler.core.records.records import Role
from blunt_ruler.core.sentences import Figure, Sentence, Span, joined, sentence
from blunt_ruler.core.text import list_text
from blunt_ruler.core.worth.answers import lacks_words
from blunt_ruler.core.worth.figures import WorthFigure, figure_text
from blunt_ruler.core.worth.report import Worth
from blunt_ruler.core.worth.verdict import Judgement, LineCheck, judgements


def verdict_sentences(worth: Worth, claims: Claims) -> tuple[Sentence, ...]:
    """The verdict: what the rig in focus gives, then for whom which rig makes sense."""
    said = [*_rigs(worth, claims)]
    for place, audience in enumerate(worth.review.audiences):
        said.extend(_audience_sentences(worth, audience, f"verdict.{place}"))
    if not worth.review.audiences:
        said.append(
            sentence(
                "verdict.none",
                "No audience has a requirement yet, so no rig is recommended or advised against.",
            )
        )
    return tuple(said)


def _rigs(worth: Worth, claims: Claims) -> tuple[Sentence, ...]:
    """What each rig under test gives and loses, and what is still to buy."""
    found = []
    for row in worth.rows:
        if row.column.role is not Role.TESTED:
            continue
        spans: list[Span] = []
        subject = capital_subject(row.column, claims.board.columns)
        for question in (Question.GAIN, Question.LOSS):
            claim = first_of(claims.about(row.rig_id), question)
            if claim is not None:
                who = f"{subject} " if not spans else " It "
                spans += [who, *clause(claim), f"{low_words(claim)}."]
        price = row.figures[WorthFigure.COST]
        if price.value is not None and spans:
            text = figure_text(price, WorthFigure.COST, worth.currency)
            figure = Figure(text, WorthFigure.COST, row.rig_id, value=price.value)
            spans += [" ", figure, " still to buy."]
        if spans:
            found.append(sentence(f"verdict.rig.{row.rig_id}", *spans))
    return tuple(found)


def _called(audience: Audience) -> str:
    """An audience inside a sentence: names further on keep their letters."""
    return audience.name[:1].lower() + audience.name[1:]


def _audience_sentences(worth: Worth, audience: Audience, key: str) -> tuple[Sentence, ...]:
    judged = judgements(worth, audience)
    if not any(one.checks for one in judged):
        words = f"For {_called(audience)} nothing is required, so nothing is recommended."
        return (sentence(f"{key}.none", words),)
    name = _called(audience)
    found = []
    yes = [one for one in judged if one.makes_sense is True]
    if yes:
        only = yes[0]
        held = (f"{only.row.column.name} (", joined([_held(c) for c in only.checks], ", "), ")")
        names = held if len(yes) == 1 else (list_text([one.row.column.name for one in yes]),)
        verb = " makes sense" if len(yes) == 1 else " make sense"
        found.append(sentence(f"{key}.yes", f"For {name} ", *names, f"{verb}."))
        for one in yes if len(yes) > 1 else ():
            if one.is_just:
                crossing = joined([_held(check) for check in one.checks if check.crosses], "; ")
                place = f"{key}.just.{one.row.rig_id}"
                found.append(sentence(place, f"{one.row.column.name}: ", crossing, "."))
        if len(yes) > 1:
            found.append(_extremes(worth, yes, f"{key}.best"))
    else:
        found.append(sentence(f"{key}.yes", f"For {name} no rig meets every requirement."))
    for one in judged:
        if one.makes_sense is False:
            failed = [check for check in one.checks if check.holds is False]
            found.append(
                sentence(
                    f"{key}.{one.row.rig_id}",
                    f"Not {one.row.column.name}: ",
                    joined([_failed(check) for check in failed], "; "),
                    ".",
                )
            )
        elif one.makes_sense is None:
            missing = dict.fromkeys(
                what for c in one.checks if c.holds is None for what in c.answer.missing
            )
            found.append(
                sentence(
                    f"{key}.{one.row.rig_id}",
                    f"{one.row.column.name} is undecided: ",
                    f"{lacks_words([*missing] or ['a figure'], 'not known')}.",
                )
            )
    return tuple(found)


def _extremes(worth: Worth, yes: Sequence[Judgement], key: str) -> Sentence:
    """Of several that make sense: which costs least and which gives most."""
    rows = [one.row for one in yes]
    cheap = min(rows, key=lambda row: _or(row.value(WorthFigure.COST), float("inf")))
    fast = max(rows, key=lambda row: _or(row.value(WorthFigure.FRAMES), 0.0))
    parts = []
    for row, says, figure in (
        (cheap, " costs least (", WorthFigure.COST),
        (fast, " is the fastest (", WorthFigure.FRAMES),
    ):
        answer = row.figures[figure]
        if answer.value is not None:
            text = figure_text(answer, figure, worth.currency)
            parts.append(
                (row.column.name, says, Figure(text, figure, row.rig_id, value=answer.value), ")")
            )
    if not parts:
        return sentence(key, "Neither price nor speed of these is known.")
    return sentence(key, "Of these ", joined(parts, " and "), ".")


def _or(value: float | None, otherwise: float) -> float:
    return otherwise if value is None else value


def _held(check: LineCheck) -> tuple[Span, ...]:
    if check.crosses:
        return (
            f"{check.says} ",
            check.figure,
            f", which meets the {check.limit} asked for, though other titles could fall short",
        )
    return (f"{check.says} ", check.figure)


def _failed(check: LineCheck) -> tuple[Span, ...]:
    way = "over" if check.at_most else "under"
    if check.crosses:
        way = f"just {way}"
    also = "; other titles could meet it" if check.crosses else ""
    return (f"{check.says} ", check.figure, f", {way} the {check.limit} asked for{also}")


def verdict_line(worth: Worth) -> str:
    """For whom what makes sense, in one line."""
    if not worth.review.audiences:
        return "Say what each audience requires, and every rig is checked against it."
    audience = worth.review.audiences[0]
    judged = judgements(worth, audience)
    yes = [
        f"{one.row.column.name}{' (narrowly)' * one.is_just}" for one in judged if one.makes_sense
    ]
    still_open = [one.row.column.name for one in judged if one.makes_sense is None]
    name = _called(audience)
    if yes:
        said = f"For {name} {list_text(yes)} {'makes' if len(yes) == 1 else 'make'} sense"
    else:
        said = f"For {name} no rig meets every requirement"
    if still_open:
        said += f"; {list_text(still_open)} {'is' if len(still_open) == 1 else 'are'} undecided"
    return f"{said}."
