"""What was mixed up: a figure that does not hold, but is the figure of something else."""

from collections.abc import Iterator
from dataclasses import replace

from blunt_ruler.core.claims.claim import Metric, Question
from blunt_ruler.core.claims.offer import Claims
from blunt_ruler.core.records.records import Role, Run
from blunt_ruler.core.script.fitting import figure_words, fits, value_in
from blunt_ruler.core.script.numbered import FIGURES, RATIOS
from blunt_ruler.core.script.numerals import Number, Unit
from blunt_ruler.core.script.statements import Kind, Reading
from blunt_ruler.core.script.truths import Found, Truths
from blunt_ruler.core.script.verdict import Verdict
from blunt_ruler.core.text import list_text

MOST_SET_ASIDE = 3  # runs that are tried as if they counted: each is a comparison of its own

FIGURE_OF = "That is the figure of "


def slip_of(reading: Reading, number: Number, truths: Truths) -> str:
    """What the figure is of, where it is none of what was said; blank where nothing fits it."""
    if reading.kind in RATIOS:
        return next(_of_ratio(reading, number, truths), "")
    if reading.kind in (Kind.RATE, Kind.SCORE):
        return next(_of_rate(reading, number, truths), "")
    if reading.kind is Kind.SHARE:
        return next(_of_share(reading, number, truths), "")
    return ""


def _of_ratio(r: Reading, number: Number, truths: Truths) -> Iterator[str]:
    found = truths.compared(r)
    if found is None:
        return
    said = _said(number)
    right = figure_words(r.kind, found.ratio)
    yield from _other_base(r, number, truths, found, said, right)
    yield from _other_kind(r, number, found, said, right)
    yield from _other_metric(r, number, truths)
    yield from _other_scope(r, number, truths)
    yield from _other_rig(r, number, truths, said)
    yield from _before_set_aside(r, number, truths)


def _said(number: Number) -> str:
    if number.unit is Unit.PERCENT:
        return f"{number.low:g}\u202f%"
    return f"{number.low:g} times" if number.unit is Unit.TIMES else f"{number.low:g}"


def _other_base(
    r: Reading, number: Number, truths: Truths, found: Found, said: str, right: str
) -> Iterator[str]:
    """The lead of the other one, told as this one's loss, or the other way round."""
    if number.unit is not Unit.PERCENT or found.ratio <= 0:
        return
    if r.kind is Kind.LESS and fits(number, (1.0 / found.ratio - 1.0) * 100.0):
        whose = truths.name(r.base)
        yield f"{said} is the lead of {whose}; the loss is {right}."
    if r.kind is Kind.MORE and fits(number, (1.0 - 1.0 / found.ratio) * 100.0):
        yield f"{said} is what {truths.name(r.base)} is behind it; the lead is {right}."


def _other_kind(r: Reading, number: Number, found: Found, said: str, right: str) -> Iterator[str]:
    kinds = {
        Kind.LESS: (Kind.KEPT, "{said} is what it keeps; it loses {right}."),
        Kind.KEPT: (Kind.LESS, "{said} is what it loses; it keeps {right}."),
    }
    other, words = kinds.get(r.kind, (None, ""))
    if other is not None and fits(number, value_in(other, found.ratio)):
        yield words.format(said=said, right=right)
    if r.kind is Kind.MORE and fits(number, found.ratio * 100.0):
        yield f"{said} is its share of the other's rate; it is {right} faster."
    if r.kind is Kind.TIMES and fits(number, found.ratio - 1.0):
        yield f"It is {number.low:g} times faster only on top: {right} as fast."
    if (
        r.kind in (Kind.MORE, Kind.LESS)
        and (found.ratio - 1.0) * (1 if r.kind is Kind.MORE else -1) < 0
    ):
        flipped = Kind.LESS if r.kind is Kind.MORE else Kind.MORE
        if fits(number, value_in(flipped, found.ratio)):
            yield "It is the other way round."


_METRIC_WORDS: dict[str, str] = {
    Metric.AVERAGE: "the average",
    Metric.LOW: "the 1% low",
    Metric.SCORE: "the score",
}


def _is_of(found: Found | None, r: Reading, number: Number) -> bool:
    return found is not None and fits(number, value_in(r.kind, found.ratio))


def _other_metric(r: Reading, number: Number, truths: Truths) -> Iterator[str]:
    for metric, words in _METRIC_WORDS.items():
        if metric == r.metric:
            continue
        of_tests = Metric.SCORE in (metric, r.metric)  # scores are of no game and no size
        over = replace(r, titles=frozenset(), size="") if of_tests else r
        other = truths.compared(replace(over, metric=metric))
        if _is_of(other, r, number):
            yield f"That is {words}, not {_METRIC_WORDS.get(r.metric, r.metric)}."


def _other_scope(r: Reading, number: Number, truths: Truths) -> Iterator[str]:
    sizes = [one for one in truths.sizes if one != r.size]
    if r.size or r.titles:
        right = [
            size for size in sizes if _is_of(truths.compared(replace(r, size=size)), r, number)
        ]
        if right:
            instead = f", not at {r.size}" if r.size else ""
            yield f"True at {list_text(right)}{instead}."
        whole = truths.compared(replace(r, titles=frozenset(), size="", preset=""))
        if _is_of(whole, r, number):
            yield "That is the mean over all titles."
    presets = {one.preset.strip().lower() for one in truths.contents.cases.values()} - {
        "",
        r.preset,
    }
    for preset in sorted(presets) if r.preset else ():
        if _is_of(truths.compared(replace(r, preset=preset)), r, number):
            yield f"True at {preset}, not at {r.preset}."
    whole = truths.compared(replace(r, titles=frozenset(), size=r.size, preset=""))
    parts = whole.claim.titles if whole is not None and whole.claim is not None else ()
    right = [
        one.of
        for one in parts
        if one.of not in r.titles and fits(number, value_in(r.kind, one.value))
    ]
    if right:
        instead = f"in {list_text(sorted(r.titles))}" if r.titles else "on average"
        yield f"True in {list_text(right[:2])}, not {instead}."


def _other_rig(r: Reading, number: Number, truths: Truths, said: str) -> Iterator[str]:
    for column in truths.board.columns:
        if column.rig_id in (r.rig, r.base):
            continue
        if _is_of(truths.compared(replace(r, rig=column.rig_id)), r, number):
            yield f"{said} is the figure of {truths.name(column.rig_id)}."
    for column in truths.board.columns:
        if column.rig_id in (r.rig, r.base):
            continue
        if _is_of(truths.compared(replace(r, base=column.rig_id)), r, number):
            yield f"True against {truths.name(column.rig_id)}, not against {truths.name(r.base)}."


def _of_rate(r: Reading, number: Number, truths: Truths) -> Iterator[str]:
    for metric, words in _METRIC_WORDS.items():
        if metric == r.metric or Metric.SCORE in (metric, r.metric):
            continue
        for one in truths.rates(replace(r, metric=metric)):
            if fits(number, one.value):
                yield f"That is {words} {truths.case_words(one.case)}."
    for other in truths.rates(replace(r, size="", preset="")):
        if fits(number, other.value):
            said = f", not at {r.size}" if r.size else ""
            yield f"True {truths.case_words(other.case)}{said}."
    for column in truths.board.columns:
        for one in truths.rates(replace(r, rig=column.rig_id)) if column.rig_id != r.rig else ():
            if fits(number, one.value):
                whose = truths.name(column.rig_id)
                yield f"{FIGURE_OF}{whose} {truths.case_words(one.case)}."
    for other in truths.rates(replace(r, titles=frozenset())):
        if fits(number, other.value):
            yield f"True {truths.case_words(other.case)}."
    for run_id in truths.set_aside(r):
        run = truths.contents.runs[run_id]
        average = run.average_fps
        if average is not None and fits(number, average):
            yield f"That is pass {run.repeat}, which was set aside{_why(run)}."
    yield from _before_set_aside(r, number, truths)


def _why(run: Run) -> str:
    return f" ({run.reason})" if run.reason else ""


def _before_set_aside(r: Reading, number: Number, truths: Truths) -> Iterator[str]:
    """The figure as it was while a run that is set aside now still counted."""
    for run_id in truths.set_aside(r)[:MOST_SET_ASIDE]:
        run = truths.contents.runs[run_id]
        claims = truths.before_set_aside(run_id)
        when = f"True before pass {run.repeat} was set aside{_why(run)}."
        if r.kind in RATIOS:
            then = _then(r, truths, claims)
            if then is not None and fits(number, value_in(r.kind, then)):
                yield when
        elif (cell := claims.board.cells.get((run.rig_id, run.case_id))) is not None:
            value = cell.low_1_fps if r.metric == Metric.LOW else cell.average_fps
            if value is not None and fits(number, value):
                yield when


def _then(r: Reading, truths: Truths, claims: Claims) -> float | None:
    subject, other = claims.board.column(r.rig), claims.board.column(r.base)
    if subject is None or other is None or r.metric not in (Metric.AVERAGE, Metric.LOW):
        return None
    question = Question.GAIN if other.role is Role.BASE else Question.LOSS
    found = claims.compared(question, subject, other, Metric(r.metric), truths.cases(r), r.size)
    return found.value.ratio if found is not None and found.value is not None else None


def _of_share(r: Reading, number: Number, truths: Truths) -> Iterator[str]:
    reference = truths.roles.reference
    whole = truths.compared(Reading(Kind.LESS, r.rig, reference))
    if whole is not None and fits(number, (1.0 - whole.ratio) * 100.0):
        yield "That is the whole loss, not this part of it."


def why_not(reading: Reading, number: Number | None, truths: Truths, verdict: Verdict) -> str:
    """The note of a reading that does not hold."""
    if verdict.note or number is None or reading.kind not in FIGURES:
        return verdict.note
    return slip_of(reading, number, truths)
