"""A narration sheet: what to say aloud, in running order, with the digits that are on paper.

A listener cannot look back at a table: signs are words, and rigs that differ in their link alone
share a sentence.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from blunt_ruler.core.analysis.analyse import Analysis
from blunt_ruler.core.board.board import Column
from blunt_ruler.core.claims.causes import cause_of
from blunt_ruler.core.claims.claim import Metric, Question
from blunt_ruler.core.claims.headline import first_of, reference_headline
from blunt_ruler.core.claims.names import capital_subject
from blunt_ruler.core.claims.offer import Claims
from blunt_ruler.core.claims.speak import aloud, clause, low_words, predicate
from blunt_ruler.core.claims.verdict import verdict_line
from blunt_ruler.core.limits.link_curve import first_curve, knee_ends
from blunt_ruler.core.records.records import Role
from blunt_ruler.core.records.writeup_settings import SECTION_TITLES, SectionKey
from blunt_ruler.core.sentences import plain
from blunt_ruler.core.text import count_text, list_text
from blunt_ruler.core.worth.comparing import cheapest_gain
from blunt_ruler.core.worth.figures import WorthFigure, money_text
from blunt_ruler.core.worth.report import WorthRow


@dataclass(frozen=True, slots=True)
class Cue:
    """One section of the narration: its title and what to say."""

    title: str
    lines: tuple[str, ...]


def narration(analysis: Analysis) -> tuple[Cue, ...]:
    """What to say for each shown section that is spoken, in the write-up's order."""
    spoken = {
        SectionKey.VERDICT: _verdict,
        SectionKey.TESTED: _tested,
        SectionKey.METHOD: _method,
        SectionKey.RESULTS: _results,
        SectionKey.LIMITS: _limits,
        SectionKey.WORTH: _worth,
        SectionKey.DISCLOSURES: _disclosures,
    }
    return tuple(
        Cue(SECTION_TITLES[key], lines)
        for key in analysis.review.writeup.sections()
        if key in spoken and (lines := tuple(spoken[key](analysis)))
    )


def _verdict(analysis: Analysis) -> Iterator[str]:
    yield aloud(verdict_line(analysis.worth))


def _tested(analysis: Analysis) -> Iterator[str]:
    board = analysis.board
    yield (
        f"On the bench: {list_text([column.name for column in board.columns])}, on "
        f"{count_text(len(board.rows), 'case')}."
    )


def _method(analysis: Analysis) -> Iterator[str]:
    board = analysis.board
    if board.base is None or not board.cells:
        return
    reference = f", every loss is against {board.reference.name}" if board.reference else ""
    yield f"Every gain is over {board.base.name}{reference}."
    runs = sum(cell.runs for cell in board.cells.values())
    yield f"The figures rest on {count_text(runs, 'counted run')}."


def _results(analysis: Analysis) -> Iterator[str]:
    """What each rig gains and loses; rigs that differ in their link alone share a sentence."""
    claims = analysis.claims
    told: dict[str, list[Column]] = {}
    for column in claims.subjects:
        told.setdefault(column.card, []).append(column)
    for columns in told.values():
        first, *others = columns
        yield from _about(claims, first)
        for other in others:
            if said := _briefly(claims, other):
                yield said
    yield from (aloud(one.says) for one in claims.events())
    yield from _nearest(analysis)


def _about(claims: Claims, column: Column) -> Iterator[str]:
    """Gain, loss and scores of one rig, a sentence each."""
    found = claims.about(column.rig_id)
    subject = capital_subject(column, claims.board.columns)
    averages = [one for one in found if one.metric is Metric.AVERAGE and not one.says]
    scores = [one for one in found if one.metric is Metric.SCORE]
    told = [
        first_of(of_metric, question)
        for of_metric in (averages, scores)
        for question in (Question.GAIN, Question.LOSS)
    ]
    for place, one in enumerate(one for one in told if one is not None):
        who = "It" if place else subject
        lows = low_words(one) if one.metric is Metric.AVERAGE else ""
        yield aloud(f"{who} {plain(clause(one))}{lows}.")


def _briefly(claims: Claims, column: Column) -> str:
    """The same card elsewhere, in one sentence."""
    found = [one for one in claims.about(column.rig_id) if one.metric is Metric.AVERAGE]
    gain, loss = first_of(found, Question.GAIN), first_of(found, Question.LOSS)
    said = [f"{plain(predicate(one))}{low_words(one)}" for one in (gain, loss) if one is not None]
    subject = capital_subject(column, claims.board.columns)
    return aloud(f"{subject} {' and '.join(said)}.") if said else ""


def _nearest(analysis: Analysis) -> Iterator[str]:
    """Where a review has several references: which one each rig comes closest to."""
    if len(analysis.references.boards) < 2:
        return
    for column in analysis.claims.subjects:
        if analysis.references.nearest(column.rig_id) is not None:
            yield aloud(reference_headline(analysis.references, column.rig_id))


def _limits(analysis: Analysis) -> Iterator[str]:
    for column in analysis.claims.subjects:
        if (cause := cause_of(analysis.limits, analysis.claims, column)) is not None:
            yield aloud(cause.says)
    curve = first_curve(analysis.contents, analysis.board, analysis.limits.fit)
    if curve is not None and (ends := knee_ends(curve)) is not None:
        low, high = ends
        where = f"about {low:.1f}" if low == high else f"somewhere from {low:.1f} to {high:.1f}"
        yield (
            f"The {curve.card} has enough at {where} gigabytes a second: "
            "a link twice as wide gives under 3 per cent."
        )


def _worth(analysis: Analysis) -> Iterator[str]:
    worth = analysis.worth
    best = cheapest_gain(worth)
    if best is None or worth.board.base is None:
        return
    price, gained = best.value(WorthFigure.PER_GAINED), best.value(WorthFigure.GAINED)
    assert price is not None
    assert gained is not None
    cost = (
        "nothing more, as all of it is owned," if price == 0 else money_text(price, worth.currency)
    )
    yield (
        f"The cheapest gained frame is that of {best.column.name}: {cost} for each of the "
        f"{gained:.1f} frames per second it gains over {worth.board.base.name}."
    )
    for row in worth.rows:
        if row.column.role is Role.TESTED and (said := _row_words(row, worth.currency)):
            yield said


def _row_words(row: WorthRow, currency: str) -> str:
    parts = []
    if (cost := row.value(WorthFigure.COST)) is not None:
        parts.append(f"{money_text(cost, currency)} still to buy")
    if (watts := row.value(WorthFigure.LOAD_W)) is not None:
        parts.append(f"{watts:.0f} watts at the wall while playing")
    if (noise := row.value(WorthFigure.NOISE)) is not None:
        parts.append(f"{noise:.1f} decibels where you sit")
    return f"{row.column.name}: {list_text(parts)}." if parts else ""


def _disclosures(analysis: Analysis) -> Iterator[str]:
    for one in analysis.review.writeup.disclosures:
        way = "by" if one.terms == "bought" else "from"
        yield f"{one.what}: {one.terms}{f' {way} {one.by}' if one.by else ''}."
