"""A narration sheet: what to say aloud, in running order, with figures rounded for speech.

A listener cannot look back at a table: so two digits, ratios in words, and the base named in
every sentence.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass

from blunt_ruler.core.analysis.analyse import Analysis
from blunt_ruler.core.board.board import Column
from blunt_ruler.core.board.lines import bound_words
from blunt_ruler.core.board.references import reference_words
from blunt_ruler.core.compare.results import RigMean
from blunt_ruler.core.limits.link_curve import first_curve
from blunt_ruler.core.limits.split import PARTS
from blunt_ruler.core.limits.words import PART_WORDS, WIDE
from blunt_ruler.core.records.records import Role
from blunt_ruler.core.records.writeup_settings import SECTION_TITLES, SectionKey
from blunt_ruler.core.text import count_text, list_text
from blunt_ruler.core.worth.comparing import cheapest_gain
from blunt_ruler.core.worth.figures import WorthFigure
from blunt_ruler.core.worth.report import WorthRow
from blunt_ruler.core.worth.verdict import verdict_line


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


def round_for_speech(value: float) -> str:
    """Two digits: 72.24 → "72", 1480 → "1,500", 8.94 → "8.9"."""
    if value == 0:
        return "0"
    step = 10.0 ** (math.floor(math.log10(abs(value))) - 1)
    rounded = math.copysign(math.floor(abs(value) / step + 0.5) * step, value)
    return f"{rounded:,.0f}" if abs(rounded) >= 10 else f"{rounded:.1f}".removesuffix(".0")


def money_for_speech(value: float) -> str:
    """A price as one says it: to the whole unit, small ones with one decimal, never another."""
    if abs(value) < 10:
        return f"{value:.1f}".removesuffix(".0")
    return f"{value:,.0f}"


def percent_for_speech(share: float) -> str:
    """A share as one says it: "about 25 per cent"; under one per cent it is "hardly anything"."""
    if abs(share) < 0.01:
        return "hardly anything"
    return f"about {round_for_speech(round(abs(share) * 100))} per cent"


def times_for_speech(ratio: float) -> str:
    """A ratio as one says it: "2.7 times as fast as", or the per cent faster or slower."""
    return _ratio_for_speech(ratio, "as fast as", "as fast as", "faster", "slower")


def scored_for_speech(ratio: float) -> str:
    """A ratio of scores as one says it: "2.7 times as much as", or the per cent more or less."""
    return _ratio_for_speech(ratio, "as much as", "the same as", "more", "less")


def _ratio_for_speech(ratio: float, times: str, alike: str, above: str, below: str) -> str:
    if ratio >= 1.95:
        return f"{round_for_speech(ratio)} times {times}"
    if abs(ratio - 1.0) < 0.01:
        return alike
    return f"{percent_for_speech(ratio - 1.0)} {above if ratio > 1 else below} than"


def _tested_columns(analysis: Analysis) -> Iterator[tuple[Column, RigMean | None, RigMean | None]]:
    for column in analysis.board.columns:
        total = analysis.board.totals.get(column.rig_id)
        if column.role is Role.TESTED and total is not None:
            yield column, total.over_base, total.of_reference


def _verdict(analysis: Analysis) -> Iterator[str]:
    yield verdict_line(analysis.worth)


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
    yield f"Behind the figures stand {count_text(runs, 'counted run')}."


def _results(analysis: Analysis) -> Iterator[str]:
    board = analysis.board
    for column, over_base, of_reference in _tested_columns(analysis):
        parts = []
        if over_base is not None and board.base is not None:
            if over_base.is_tie:
                parts.append(f"no difference from {board.base.name} that we can show")
            else:
                said = times_for_speech(over_base.ratio)
                parts.append(f"{bound_words(over_base.bound)}{said} {board.base.name}")
        if of_reference is not None and board.reference is not None:
            if of_reference.is_tie:
                parts.append(f"level with {board.reference.name}")
            else:
                said = times_for_speech(of_reference.ratio)
                parts.append(f"{bound_words(of_reference.bound)}{said} {board.reference.name}")
        if parts:
            yield f"{column.name}: {', and '.join(parts)}."
    yield from _nearest(analysis)
    yield from _scores(analysis)


def _nearest(analysis: Analysis) -> Iterator[str]:
    """Where a review has several references: which one each rig behaves like."""
    if len(analysis.references.boards) < 2:
        return
    for column, _, _ in _tested_columns(analysis):
        one = analysis.references.nearest(column.rig_id)
        if one is None or one.mean is None:
            continue
        said = "level with it" if one.mean.is_tie else f"{times_for_speech(one.mean.ratio)} it"
        yield (
            f"Of all that it was held against, {column.name} is nearest to "
            f"{reference_words(one.reference)}: {said}."
        )


def _scores(analysis: Analysis) -> Iterator[str]:
    """Synthetic tests: the graphics parts where there are, else the overalls."""
    scores = analysis.scores
    base = scores.board.base
    for column in scores.board.columns:
        typical = scores.typical_mean(column.rig_id)
        if column.role is not Role.TESTED or base is None or typical is None:
            continue
        what, _, mean = typical
        yield (
            f"In the {what} of {count_text(mean.cases, 'synthetic test')}, {column.name} scores "
            f"{scored_for_speech(mean.ratio)} {base.name}."
        )


def _limits(analysis: Analysis) -> Iterator[str]:
    for column, _, _ in _tested_columns(analysis):
        shares = analysis.limits.lost_by_part(column.rig_id)
        taken = sorted(
            ((share, part) for part, share in shares.items() if part in PARTS and share >= 0.01),
            reverse=True,
        )
        if taken and analysis.board.reference is not None:
            share, part = taken[0]
            low, high = analysis.limits.part_reach(column.rig_id)[part]
            said = percent_for_speech(share)
            if high - low > 2 * WIDE:
                said = f"between {percent_for_speech(low)} and {percent_for_speech(high)}"
            yield (
                f"What costs {column.name} most is the {PART_WORDS[part]}: {said} of what "
                f"{analysis.board.reference.name} does."
            )
    curve = first_curve(analysis.contents, analysis.board, analysis.limits.fit)
    if curve is not None and curve.knee_gb_per_s is not None:
        yield (
            f"The {curve.card} has enough at about {round_for_speech(curve.knee_gb_per_s)} "
            "gigabytes a second: a link twice as wide gives under 3 per cent."
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
        "nothing more, as all of it is owned,"
        if price == 0
        else f"{money_for_speech(price)} {worth.currency}"
    )
    yield (
        f"The cheapest gained frame is that of {best.column.name}: {cost} for each of the "
        f"{round_for_speech(gained)} frames per second it gains over {worth.board.base.name}."
    )
    for row in worth.rows:
        if row.column.role is Role.TESTED and (said := _row_words(row, worth.currency)):
            yield said


def _row_words(row: WorthRow, currency: str) -> str:
    parts = []
    if (cost := row.value(WorthFigure.COST)) is not None:
        parts.append(f"{money_for_speech(cost)} {currency} still to buy")
    if (watts := row.value(WorthFigure.LOAD_W)) is not None:
        parts.append(f"about {round_for_speech(watts)} watts at the wall while playing")
    if (noise := row.value(WorthFigure.NOISE)) is not None:
        parts.append(f"about {round_for_speech(noise)} decibels where you sit")
    return f"{row.column.name}: {list_text(parts)}." if parts else ""


def _disclosures(analysis: Analysis) -> Iterator[str]:
    for one in analysis.review.writeup.disclosures:
        way = "by" if one.terms == "bought" else "from"
        yield f"{one.what}: {one.terms}{f' {way} {one.by}' if one.by else ''}."
