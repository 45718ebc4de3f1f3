"""Figures against the logbook: shares, rates, counts, and what is described of a rig."""

import re
from dataclasses import replace

from blunt_ruler.core.claims.claim import Metric
from blunt_ruler.core.claims.offer import SOUND_ON
from blunt_ruler.core.claims.standing import Standing
from blunt_ruler.core.limits.words import told_texts
from blunt_ruler.core.measure.kinds import Bound
from blunt_ruler.core.runs.score_parts import split_key
from blunt_ruler.core.script.fitting import ROUNDING, figure_words, fits, is_near, value_in
from blunt_ruler.core.script.numerals import Hedge, Number, Unit
from blunt_ruler.core.script.statements import Kind, Reading
from blunt_ruler.core.script.truths import Fact, Found, Truths
from blunt_ruler.core.script.verdict import UNHEARD, Verdict
from blunt_ruler.core.text import capital, count_text, list_text, percent_text
from blunt_ruler.core.worth.figures import FIGURES as WORTH
from blunt_ruler.core.worth.figures import WorthFigure, figure_text

NOT_TOLD_APART = "The figure is right, but passes vary by more than the difference: say so."
WHICH_FACT = "The figure is right of something else of this rig: say of what."
WHICH_CASE = "The figure is right of this rig in one case: say in which."
WITH_UNSOUND = "The figure is right with the cases that are left out."
ENDS = (Hedge.LARGEST, Hedge.SMALLEST)
RATIOS = (Kind.MORE, Kind.LESS, Kind.KEPT, Kind.TIMES, Kind.SLOWER_TIMES)
FIGURES = {
    Kind.MORE: "gain",
    Kind.LESS: "loss",
    Kind.KEPT: "kept",
    Kind.TIMES: "times",
    Kind.SLOWER_TIMES: "times",
    Kind.RATE: "average_fps",
    Kind.GAINED: "gained_fps",
    Kind.SCORE: "score",
    Kind.COUNT: "titles",
    Kind.SHARE: "loss",
}


def ratio(reading: Reading, number: Number, truths: Truths) -> Verdict:
    """One rig over another: more, less, kept, or in times."""
    found = truths.compared(reading)
    if found is None:
        return UNHEARD
    truth = truths.sentence(reading, found)
    value = value_in(reading.kind, found.ratio)
    figure = figure_words(reading.kind, found.ratio)
    shown = value / 100.0 if number.unit is Unit.PERCENT else value
    is_bound = found.claim is not None and found.claim.bound is not Bound.POINT
    ends = _ends(reading.kind, found.least, found.most)
    right = (
        _fits_bound(number, value, found.claim.bound, reading.kind)  # type: ignore[union-attr]
        if is_bound
        else fits(number, value, *ends)
        or (number.is_range and _fits_interval(number, reading, found, truths))
        or (
            number.hedge in ENDS
            and fits(number, value, *_ends(reading.kind, *truths.ends_by_case(reading)))
        )
    )
    if number.is_range and ends[0] is not None and ends[1] is not None:
        unit = "\u202f%" if number.unit is Unit.PERCENT else " times"
        digits = 0 if number.unit is Unit.PERCENT else 2
        truth = f"{truth[:-1]}, {ends[0]:.{digits}f} to {ends[1]:.{digits}f}{unit} by title."
    note = open_words = ""
    if right and found.standing is Standing.OPEN and not number.is_range and not is_bound:
        right = False
        open_words = NOT_TOLD_APART
    elif not right and found.claim is not None and not number.is_range:
        left_out = next((one for one in found.claim.caveats if SOUND_ON in one), "")
        note = f"{capital(left_out)}." if left_out else ""
        every = truths.ratio_of_all(reading) if left_out else None
        if every is not None and fits(number, value_in(reading.kind, every)):
            open_words = f"{WITH_UNSOUND} {note}"
    elif right and found.standing is Standing.LEVEL:
        note = "The two are level: the difference is within 3\u202f%."
    same_way = value > 0 or reading.kind in (Kind.KEPT, Kind.TIMES, Kind.SLOWER_TIMES)
    repair = figure if same_way else ""
    of = FIGURES[reading.kind]
    return Verdict(right, truth, repair, shown, note, of, open_words=open_words)


def within(reading: Reading, number: Number, truths: Truths) -> Verdict:
    """“within 3 per cent of the tower”: no farther apart than that."""
    found = truths.compared(reading)
    if found is None:
        return UNHEARD
    apart = abs(found.ratio - 1.0) * 100.0
    truth = truths.sentence(replace(reading, kind=Kind.LESS), found)
    right = apart <= number.low + ROUNDING * number.step
    return Verdict(right, truth, percent_text(apart / 100.0), apart / 100.0, "", "change")


def _fits_bound(number: Number, value: float, bound: Bound, kind: Kind) -> bool:
    """A bound holds as a bound: “at least 40 %”."""
    turned = bound.turned() if kind in (Kind.LESS, Kind.SLOWER_TIMES) else bound
    wanted = {
        Bound.AT_LEAST: (Hedge.AT_LEAST, Hedge.OVER),
        Bound.AT_MOST: (Hedge.UP_TO, Hedge.UNDER),
    }
    if number.hedge not in wanted.get(turned, ()):
        return False
    return abs(value - number.low) <= ROUNDING * number.step or fits(number, value)


def _ends(kind: Kind, least: float | None, most: float | None) -> tuple[float | None, float | None]:
    """The least and most of some ratios, as what is said of them."""
    if least is None or most is None:
        return None, None
    values = sorted((value_in(kind, least), value_in(kind, most)))
    return values[0], values[1]


def _fits_interval(number: Number, reading: Reading, found: Found, truths: Truths) -> bool:
    """“12 to 14 per cent” may also be the interval, of these titles or of titles like these, or
    the least and most of single cases.
    """
    value = found.claim.value if found.claim is not None else None
    pairs = [(found.low, found.high)]
    if value is not None:
        pairs.append((value.like_low, value.like_high))
    pairs.append(truths.ends_by_case(reading))
    for low, high in pairs:
        if low is not None and high is not None:
            ends = sorted((value_in(reading.kind, low), value_in(reading.kind, high)))
            if is_near(number, number.low, ends[0]) and is_near(number, number.high, ends[1]):
                return True
    return False


def rate(reading: Reading, number: Number, truths: Truths) -> Verdict:
    """A frame rate or a score of a rig, in one case or over several."""
    figure = {Metric.LOW: "low_1_fps", Metric.SCORE: "score", "0.1% low": "low_01_fps"}.get(
        reading.metric, "average_fps"
    )
    rates = truths.rates(reading)
    if reading.metric == Metric.SCORE and not reading.titles and len(truths.tests) > 1:
        return _one_of(reading, number, truths, figure)
    if not rates:
        return UNHEARD
    truth = truths.rate_sentence(reading, rates)
    values = [one.value for one in rates]
    if number.is_range:
        right = fits(number, values[0], min(values), max(values))
        return Verdict(right, truth, "", None, "", figure)
    fitting = [one for one in rates if fits(number, one.value)]
    if len(rates) == 1:
        one = rates[0]
        is_bound = one.bound is not Bound.POINT
        ok = bool(fitting) and (
            not is_bound or number.hedge in (Hedge.AT_LEAST, Hedge.OVER, Hedge.UP_TO)
        )
        note = f"The figure is only known to be {one.bound} that." if fitting and not ok else ""
        said = truths.rate_text(one.value, reading.metric)
        return Verdict(ok, truth, said, one.value, note, figure, one.case)
    if not reading.titles and not reading.every and reading.metric != Metric.SCORE:
        mean = _mean_rate(reading, truths)
        if mean is not None and not reading.size and fits(number, mean[0]):
            return Verdict(True, mean[1], "", mean[0], "", "mean_fps")
    if reading.every and len(fitting) < len(rates):
        worst = next(one for one in rates if not fits(number, one.value))
        said = (
            f"Not {truths.case_words(worst.case)}: {truths.rate_text(worst.value, reading.metric)}."
        )
        only = truths.rate_sentence(reading, [worst])
        return Verdict(False, only, "", worst.value, said, figure, worst.case)
    edges = {
        Hedge.UP_TO: max(values),
        Hedge.AT_LEAST: min(values),
        Hedge.OVER: min(values),
        Hedge.UNDER: max(values),
    }
    if number.hedge in edges:
        return Verdict(
            fits(number, edges[number.hedge]), truth, "", edges[number.hedge], "", figure
        )
    if fitting and len(fitting) == len(rates):
        return Verdict(True, truth, "", fitting[0].value, "", figure)
    whole = [one for one in fitting if not split_key(one.case)[1]]
    if reading.metric == Metric.SCORE and whole:
        return Verdict(True, truth, "", whole[0].value, "", figure, whole[0].case)
    if fitting:
        case, value = fitting[0].case, fitting[0].value
        said = f"True {truths.case_words(case)}; say so, for its other cases differ."
        return Verdict(False, truth, "", value, "", figure, case, said)
    return Verdict(False, truth, "", None, "", figure)


def _one_of(reading: Reading, number: Number, truths: Truths, figure: str) -> Verdict:
    rates = truths.rates(reading)
    if not rates:
        return UNHEARD
    right = [one for one in rates if fits(number, one.value)]
    truth = truths.rate_sentence(reading, rates)
    if right:
        return Verdict(True, truth, "", right[0].value, "", figure, right[0].case)
    return Verdict(False, truth, "", None, "", figure)


def _mean_rate(reading: Reading, truths: Truths) -> tuple[float, str] | None:
    row = truths.analysis.worth.row(reading.rig)
    figure = WorthFigure.LOW if reading.metric == Metric.LOW else WorthFigure.FRAMES
    value = row.value(figure) if row is not None else None
    if row is None or value is None:
        return None
    text = figure_text(row.figures[figure], figure, "")
    what = "1% low" if figure is WorthFigure.LOW else "average"
    return (
        value,
        f"{truths.subject(reading.rig)} has a mean {what} of {text} over the shared cases.",
    )


def gained(reading: Reading, number: Number, truths: Truths) -> Verdict:
    """Frames per second more or less than another rig."""
    own = truths.rates(reading.rate_of(reading.rig, reading.metric))
    theirs = truths.rates(reading.rate_of(reading.base, reading.metric))
    other = {one.case: one.value for one in theirs}
    apart = [(one.case, one.value - other[one.case]) for one in own if one.case in other]
    sign = -1.0 if reading.word == "less" else 1.0
    if not apart:
        return UNHEARD
    if len(apart) > 1 and not reading.titles:
        row, against = map(truths.analysis.worth.row, (reading.rig, reading.base))
        low = reading.metric == Metric.LOW
        figure = WorthFigure.GAINED_LOW if low else WorthFigure.GAINED
        mean = row.value(figure) if row is not None else None
        if mean is None or reading.size:
            return UNHEARD
        if reading.base != truths.roles.base:
            less = against.value(figure) if against is not None else None
            if less is None:
                return UNHEARD
            mean -= less
        way = "more" if mean > 0 else "less"
        truth = (f"{truths.subject(reading.rig)} does {abs(mean):.1f} fps {way} than "
                 f"{truths.name(reading.base)} over the shared cases.")  # fmt: skip
        return Verdict(fits(number, sign * mean), truth, f"{abs(mean):.1f}", mean, "", "gained_fps")
    right = [(case, by) for case, by in apart if fits(number, sign * by)]
    case, by = right[0] if right else apart[0]
    way = "more" if by > 0 else "less"
    truth = (f"{truths.subject(reading.rig)} does {abs(by):.1f} fps {way} than "
             f"{truths.name(reading.base)} {truths.case_words(case)}.")  # fmt: skip
    repair = f"{abs(by):.1f}" if len(apart) == 1 and sign * by > 0 else ""
    return Verdict(bool(right), truth, repair, by, "", "gained_fps", case)


def count(reading: Reading, number: Number, truths: Truths, words: str) -> Verdict:
    """In how many titles one rig is ahead of another; without a way, how many there are."""
    if not reading.word:
        there = truths.counts.get(number.unit, frozenset())
        if not there:
            return UNHEARD
        right = any(fits(number, float(one)) for one in there)
        nouns = {Unit.TITLES: "title", Unit.TESTS: "test", Unit.RUNS: "run", Unit.PASSES: "pass",
                 Unit.RIGS: "rig"}  # fmt: skip
        named = nouns.get(number.unit, "case")
        most = max(there)
        return Verdict(
            right or None,
            f"The review has {count_text(most, named)}.",
            str(most),
            float(most),
            "",
            "count",
        )
    found = truths.compared(reading)
    claim = found.claim if found is not None else None
    if found is None or claim is None:
        return UNHEARD
    counts = claim.counts
    if counts is None:
        if len(claim.scope.titles) < 2:
            return UNHEARD
        return Verdict(
            False,
            truths.sentence(reading, found),
            "",
            None,
            "The titles together are not told apart.",
            "titles",
        )
    ahead, behind = counts.every_ahead, counts.every_behind
    k = {str(Kind.FASTER): ahead, str(Kind.SLOWER): behind}.get(reading.word, counts.level)
    clearly = {str(Kind.FASTER): counts.clearly_ahead, str(Kind.SLOWER): counts.clearly_behind}.get(
        reading.word, k
    )
    n = counts.titles
    if number.of is not None and number.of > max((n, *truths.counts.get(Unit.TITLES, ()))):
        return UNHEARD  # “89 out of 147” are frames
    is_all = (
        re.search(
            r"\ball\s+(?:of\s+)?(?:the\s+|our\s+|these\s+|my\s+)?$", words[: number.start], re.I
        )
        is not None
    )
    said = int(number.low)
    right = said in (k, clearly)
    if number.of is not None:
        right = right and number.of == n
    elif is_all:
        right = said == k == n
    way = {str(Kind.FASTER): "faster", str(Kind.SLOWER): "slower"}.get(reading.word, "level")
    whom = (
        f"than {truths.name(reading.base)}"
        if way != "level"
        else f"with {truths.name(reading.base)}"
    )
    what = "test" if reading.metric == Metric.SCORE else "title"
    lows = {Metric.LOW: " in its 1% lows", Metric.SCORE: " in its scores"}.get(reading.metric, "")  # type: ignore[call-overload]
    told = f"{truths.subject(reading.rig)} is {way} {whom}{lows}"
    truth = f"{told} in {k or 'none'} of {count_text(n, what)}."
    repair = f"{k} of {n}" if number.of is not None else str(k)
    return Verdict(right, truth, repair, float(k), "", "titles")


def share(reading: Reading, number: Number, truths: Truths) -> Verdict:
    """What a part takes of a loss against the review's reference."""
    if not truths.analysis.limits.lost_by_part(reading.rig):
        return UNHEARD
    texts = {part: share for part, share, _ in told_texts(truths.analysis.limits, reading.rig)}
    if reading.word not in texts:
        return UNHEARD
    share = texts[reading.word]
    column, reference = truths.column(reading.rig), truths.board.reference
    if column is None or reference is None:
        return UNHEARD
    what = {
        "link": f"the {column.link}", "host": f"the {column.host}", "screen": "the screen path",
    }.get(reading.word, "the card")  # fmt: skip
    truth = (f"{capital(what)} costs {truths.name(reading.rig)} {percent_text(share)} of what "
             f"{reference.name} does.")  # fmt: skip
    right = fits(number, share * 100.0)
    return Verdict(right, truth, percent_text(share), share, "", f"loss_{reading.word}")


def fact(reading: Reading, number: Number, truths: Truths, words: str) -> Verdict:
    """A price, watts, a size: something that is described or reckoned of a rig."""
    if number.unit in truths.counts:
        return count(Reading(Kind.COUNT), number, truths, words)
    if number.unit is Unit.NONE:
        return UNHEARD
    if number.unit is Unit.MONEY and number.step < 0.1 and round(number.low * 100) % 10 == 0:
        number = replace(number, step=0.1)  # “9.60” is how one says a price of 9.62
    every = [one for one in truths.facts if one.unit is number.unit]
    own = [one for one in every if not reading.rig or not one.rigs or reading.rig in one.rigs]
    cases = truths.cases(replace(reading, metric=Metric.AVERAGE)) if reading.titles else None
    of_case = [one for one in own if cases and one.case in cases]
    somewhere = [one for one in own if one.case]
    own = of_case or [one for one in own if not one.case]  # “306 watts in Tidewrack at 1080p”
    said = f" {words.lower()} "
    asked = [one for one in own if any(f" {cue}" in said for cue in one.cues)]
    told = {one: max(len(cue) for cue in one.cues if f" {cue}" in said) for one in asked}
    most = max(told.values(), default=0)  # “per frame gained” is more than “per frame”
    closest = [one for one, length in told.items() if length == most > 8]
    closest = [one for one in own if one.words.lower() in said] or closest
    chosen = closest or asked or own
    right = [one for one in chosen if fits(number, one.value)]
    if right:
        return _known(right[0], True, truths)
    if reading.rig and (there := [one for one in somewhere if fits(number, one.value)]):
        return replace(_known(there[0], False, truths), open_words=WHICH_CASE)  # in some game
    other = [one for one in own if one not in chosen and reading.rig in one.rigs]
    sharp = number.step < max(1.0, 0.015 * number.low) and number.hedge in (Hedge.NONE, Hedge.ABOUT)
    exact = [one for one in other if fits(number, one.value)] if sharp else []
    if reading.rig and exact and asked:  # “divide the price by the frames: it comes out at 9.62”
        return replace(_known(exact[0], False, truths), open_words=WHICH_FACT)
    about = {one.words for one in chosen if one.rigs}
    if reading.rig and len(about) == 1 and (asked or len({one.words for one in own}) == 1):
        return _known(chosen[0], False, truths)
    if asked and reading.rig:
        return _known((closest or asked)[0], False, truths)
    usual = [one for one in own if one.words in _USUAL and reading.rig in one.rigs and one.value]
    if usual and abs(number.low / usual[0].value - 1.0) < _LIKE:  # “the cable is 655 euros”
        return _known(usual[0], False, truths)
    return UNHEARD


_USUAL = frozenset(
    WORTH[one].words
    for one in (WorthFigure.COST, WorthFigure.LOAD_W, WorthFigure.WEIGHT, WorthFigure.NOISE)
)
_LIKE = 0.35  # a figure that is farther off is of something else


def _known(fact: Fact, right: bool, truths: Truths) -> Verdict:
    return Verdict(right, fact_sentence(fact, truths), _text(fact), fact.value, "", fact.words)


def fact_sentence(fact: Fact, truths: Truths) -> str:
    """A fact with whose it is: “Cost to buy of the cord: 585 EUR.”"""
    whose = list_text([truths.name(one) for one in sorted(fact.rigs)[:1]])
    return f"{capital(fact.words)}{f' of {whose}' if whose else ''}: {_text(fact)}."


def _text(fact: Fact) -> str:
    return fact.text or f"{fact.value:g} {fact.unit}"
