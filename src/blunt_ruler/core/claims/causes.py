"""What took a loss, and what it is worth: claims that rest on the fit and on prices."""

from collections.abc import Iterator, Sequence

import numpy as np

from blunt_ruler.core.board.board import Column
from blunt_ruler.core.claims.claim import Claim, ClaimKind, Metric, Part, Question, Scope
from blunt_ruler.core.claims.names import place_words, subject_words
from blunt_ruler.core.claims.offer import Claims, ranked
from blunt_ruler.core.claims.prices import worth_line
from blunt_ruler.core.claims.speak import ends_text, share_lost
from blunt_ruler.core.claims.standing import MARGIN, Standing, mean_standing
from blunt_ruler.core.compare.results import RigMean
from blunt_ruler.core.limits.fit import Fit
from blunt_ruler.core.limits.next_measurement import Question as Unsettled
from blunt_ruler.core.limits.report import LimitsReport, tests_for
from blunt_ruler.core.limits.split import PARTS
from blunt_ruler.core.limits.whatif import WIDEST_GB_PER_S, Ceiling, slot_gain
from blunt_ruler.core.limits.words import (
    PART_WORDS,
    WIDE,
    remembered_words,
    size_words,
    told_texts,
)
from blunt_ruler.core.records.roles import Role
from blunt_ruler.core.text import capital, list_text, percent_text
from blunt_ruler.core.worth.comparing import cheapest_gain
from blunt_ruler.core.worth.report import Worth

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
    if low <= 0.0 and not is_told_apart(limits, column):
        return None  # no loss for sure, and none of it for sure to this part
    what = {
        "link": f"the {column.link}" if column.link else "its link",
        "host": f"the {column.host}" if column.host else "its host",
        "screen": "sending the picture back",
        "card": "its card",
    }[part]
    same = column.card == reference.card and column.card != column.name
    subject = subject_words(column, claims.board.columns)
    whom = f"the {column.card}" if part == "link" and column.card != column.name else subject
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


def limits_line(report: LimitsReport, rig_id: str | None) -> str:
    """What took a rig's frames, in one sentence."""
    if report.fit is None:
        return report.why_not
    column = report.board.column(rig_id)
    shares = report.lost_by_part(rig_id or "")
    if column is None or not shares:
        return _taken_line(report, rig_id) or _fit_line(report.fit)
    texts = told_texts(report, column.rig_id)
    names = ", ".join(f"{PART_WORDS[name]} {text}" for name, _, text in texts)
    said = f"{loss_words(report, column)}: {names}"
    if not is_divided(report, column):
        return f"{loss_words(report, column)}, so there is no loss to divide."
    if _is_wide(report, column.rig_id):
        said += _settling(report, column.rig_id)
    if beside := remembered_words(report.fit).removeprefix(" and "):
        said += f". Also uses {beside}"
    if column.rig_id in report.moved:
        said += ". The first answer after the last change was provisional: this one corrects it"
    return f"{said}."


def _mean_loss(report: LimitsReport, column: Column) -> RigMean | None:
    total = report.board.totals.get(column.rig_id)
    return total.of_reference if total is not None else None


def is_told_apart(report: LimitsReport, column: Column) -> bool:
    """Whether a rig's mean loss, or gain, against the reference is sure."""
    mean = _mean_loss(report, column)
    return mean is not None and mean_standing(mean, MARGIN).is_sure


def is_divided(report: LimitsReport, column: Column) -> bool:
    """Whether there is a loss to divide: a sure one, or parts that make up for one another."""
    shares = report.lost_by_part(column.rig_id)
    return is_told_apart(report, column) or any(abs(shares[one]) >= LEAST_PART for one in PARTS)


def loss_words(report: LimitsReport, column: Column) -> str:
    """A rig's mean loss against the reference, as the Board has it: “On average … loses 21 %”."""
    mean, reference = _mean_loss(report, column), report.board.reference
    assert mean is not None and reference is not None
    standing = mean_standing(mean, MARGIN)
    if standing is Standing.LEVEL:
        within = percent_text(MARGIN)
        return f"On average {column.name} is level with {reference.name} (within {within})"
    if standing is Standing.OPEN:
        said = f"On average {column.name} is not told apart from {reference.name}"
        return f"{said} ({ends_text(*mean.these)})"
    if mean.ratio > 1.0:
        more = percent_text(mean.ratio - 1.0)
        return f"On average {column.name} is {more} faster than {reference.name}"
    lost = percent_text(share_lost(mean.ratio))
    return f"On average {column.name} loses {lost} against {reference.name}"


def _fit_line(fit: Fit) -> str:
    off = percent_text(float(np.median(np.abs(fit.residuals))), decimals=1)
    return f"The fit is within {off} of half the {len(fit.measured.cells)} cells."


def _taken_line(report: LimitsReport, rig_id: str | None) -> str:
    """What the link takes of a rig that no reference stands beside, by the model; blank for a rig
    without a link.
    """
    fit, reference = report.fit, report.board.reference
    cells = [cell for cell in fit.measured.cells if cell.rig == rig_id] if fit else []
    if fit is None or reference is not None or not cells:
        return ""
    if fit.measured.links[cells[0].link].gb_per_s >= WIDEST_GB_PER_S:
        return ""
    low, high = (percent_text(one) for one in slot_gain(fit, cells))
    name = report.contents.rigs[cells[0].rig].name
    said = f"Between {low} and {high}" if low != high else f"About {low}"
    return (
        f"{said} more than {name} gives would come of the same card in a full slot of the same "
        "host, by the model: that is what its link takes. Measure one as the reference to see."
    )


def _is_wide(report: LimitsReport, rig_id: str) -> bool:
    """Whether the data leave open by over a few per cent what a part took."""
    return any(high - low > 2 * WIDE for low, high in report.part_reach(rig_id).values())


def _settling(report: LimitsReport, rig_id: str) -> str:
    """The one test that would narrow most what the link took; blank where none would."""
    case = next((one.case for one in report.splits if one.rig == rig_id), "")
    tests, _ = tests_for(report, Unsettled.LINK, rig_id, case)
    best = max(tests, key=lambda test: test.narrows, default=None)
    if best is None or best.narrows < 0.1:
        return ""
    return f"; {best.says} would narrow that by {percent_text(best.narrows)}"


def ceiling_line(report: LimitsReport) -> str:
    """Which card is wasted on the narrowest link, or that none is."""
    if report.fit is None:
        return report.why_not
    wasted = [one for one in report.ceilings if one.wasted]
    unsure = [one for one in report.ceilings if one.open]
    if not report.ceilings:
        return "No add-in card was measured on a link that is described."
    links = report.fit.measured.links

    def narrowest(some: Sequence[Ceiling]) -> Ceiling:
        return min(some, key=lambda one: (links[one.link].gb_per_s, -one.megapixels))

    def named(cards: Sequence[str]) -> str:
        return list_text([report.contents.cards[card].name for card in cards])

    if not wasted and not unsure:
        return "No measured card is beyond what its link and CPU can use, at any measured size."
    if not wasted:
        one = narrowest(unsure)
        return (
            "No measured card is surely beyond what its link and CPU can use; on the "
            f"{one.link} at {size_words(one.megapixels)} it is open for {named(one.open)}."
        )
    worst = narrowest(wasted)
    names = named(worst.wasted)
    fine = [
        one.megapixels
        for one in report.ceilings
        if one.link == worst.link and one.megapixels > worst.megapixels and not one.wasted
    ]
    below = f"below {size_words(min(fine))}" if fine else "at every measured size"
    return (
        f"{capital(below)} the {worst.link} cannot keep {names} busy: a card 10\u202f% faster "
        "would gain under 3\u202f%."
    )
