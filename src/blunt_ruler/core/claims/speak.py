"""A claim in words. Every figure in it keeps its source.

All voices print the same digits: what is 21 % on the Board is “21 per cent” aloud.
"""

import re
from collections.abc import Sequence

from blunt_ruler.core.board.board import Column
from blunt_ruler.core.board.lines import bound_words
from blunt_ruler.core.claims.claim import Claim, ClaimKind, Metric, Question
from blunt_ruler.core.claims.names import base_words, capital_subject, number_words, place_words
from blunt_ruler.core.claims.standing import Standing
from blunt_ruler.core.measure.kinds import Bound
from blunt_ruler.core.sentences import Figure, Sentence, Span
from blunt_ruler.core.text import THIN, capital, count_text, list_text, percent_text

TWICE = 1.995  # from here on a ratio is told in times
WIDE = 0.10  # titles that differ by more have their range told


def speak(claim: Claim, columns: Sequence[Column]) -> Sentence:
    """A claim on paper, with what belongs beside it; `columns` are the rigs of its review."""
    if claim.says:
        spans: tuple[Span, ...] = (claim.says,)
    else:
        subject = capital_subject(claim.subject, columns)
        spans = (f"{subject} ", *clause(claim), ".", *(f" {one}" for one in beside(claim)))
    against = claim.against.rig_id if claim.against else ""
    key = f"{claim.question}.{claim.metric}.{claim.subject.rig_id}.{against}.{claim.scope.group}"
    return Sentence(key, spans)


def clause(claim: Claim) -> tuple[Span, ...]:
    """What is said of the subject, and over what; without a full stop."""
    return (*predicate(claim), *over_words(claim))


def aloud(words: str) -> str:
    """Words as they are read out: signs and units become words, figures stay."""
    words = re.sub(r"(?<=\d)\+(?!\d)", " or more", words.replace("−", "minus "))
    words = re.sub(r" ?\+ ?(?=\D)", " plus ", words).replace("+", "plus ")
    return words.replace(f"{THIN}%", " per cent").replace("1% low", "one per cent low")


def times_words(ratio: float, rough: bool = False) -> str:
    """A ratio in times, without trailing zeros: 2.5, 2.57, 12.3; one decimal where `rough`."""
    fine = ratio < 9.995 and not rough
    return (f"{ratio:.2f}" if fine else f"{ratio:.1f}").rstrip("0").rstrip(".")


def share_lost(ratio: float) -> float:
    """1 − ratio, rounded to whole per cents as it is printed everywhere."""
    return round((1.0 - ratio) * 100.0) / 100.0


def kept_text(ratio: float) -> str:
    """What is kept, so that it and the printed loss add up to 100 %."""
    return percent_text(1.0 - share_lost(ratio))


def predicate(claim: Claim) -> tuple[Span, ...]:
    """What is said of the subject: “is 2.5 times as fast as the built-in iG-6”."""
    if claim.kind in (ClaimKind.KEPT, ClaimKind.UNEXPLAINED):
        return _kept(claim)
    return _compared(claim)


def _figure(claim: Claim, text: str) -> Figure:
    base = claim.against.name if claim.against else ""
    return Figure(text, claim.figure, claim.subject.rig_id, "", claim.figure_value, base)


WORDS = {  # more, less, times, verb
    Metric.AVERAGE: ("faster", "slower", "as fast as", "is"),
    Metric.LOW: ("higher", "lower", "as high as", "has 1% lows"),
    Metric.SCORE: ("higher", "lower", "as high as", "scores"),
}


def _bound(claim: Claim, turned: bool = True) -> str:
    """ "at least " before a bound, "about " before what eyes read."""
    bound = claim.bound.turned() if turned and claim.change < 0 else claim.bound
    return "about " if bound is Bound.POINT and claim.by_eye else bound_words(bound)


def _compared(claim: Claim) -> tuple[Span, ...]:
    assert claim.value is not None and claim.against is not None
    metric = claim.spoken_as
    more, less, times, verb = WORDS[metric]
    other = base_words(claim.against)
    way = more if claim.change >= 0 else less
    if metric is Metric.LOW:
        other = f"those of {other}"
    match claim.standing:
        case Standing.LEVEL:
            margin = percent_text(claim.margin)
            what = {Metric.LOW: "has 1% lows level with", Metric.SCORE: "scores level with"}
            return (f"{what.get(metric, 'is level with')} {other} (within {margin})",)
        case Standing.OPEN if claim.bound is Bound.POINT:
            what = {Metric.LOW: "has 1% lows not told apart from",
                    Metric.SCORE: "has scores not told apart from"}  # fmt: skip
            words = what.get(metric, "is not told apart from")
            return (f"{words} {other} ({interval_text(claim)})",)
        case Standing.SLIGHT:
            figure = _figure(claim, percent_text(abs(claim.change)))
            return f"{verb} slightly {way} than {other} (", figure, ")"
    if claim.value.ratio >= TWICE:
        figure = _figure(claim, f"{times_words(claim.value.ratio, claim.by_eye)} times")
        return f"{verb} {_bound(claim)}", figure, f" {times} {other}"
    figure = _figure(claim, percent_text(abs(claim.change)))
    return f"{verb} {_bound(claim)}", figure, f" {way} than {other}"


KEPT_WORDS = {  # more, less, what is kept, its verb, level, open
    Metric.AVERAGE: ("faster", "slower", "speed", "is", "is as fast as", "is not told apart from"),
    Metric.LOW: ("higher", "lower", "1% lows", "has 1% lows", "has the 1% lows it has",
                 "has 1% lows not told apart from"),
    Metric.SCORE: ("higher", "lower", "score", "scores", "scores the same as",
                   "has scores not told apart from"),
}  # fmt: skip


def _kept(claim: Claim) -> tuple[Span, ...]:
    """A card against itself elsewhere: “keeps 75 % of its speed in the tower”."""
    assert claim.value is not None and claim.against is not None
    place = place_words(claim.against, claim.place)
    metric = claim.spoken_as
    more, less, kept, verb, level, apart = KEPT_WORDS[metric]
    way = more if claim.change >= 0 else less
    figure = _figure(claim, percent_text(abs(claim.change)))
    if claim.standing is Standing.LEVEL:
        return (f"{level} {place} (within {percent_text(claim.margin)})",)
    if claim.standing is Standing.OPEN and claim.bound is Bound.POINT:
        itself = "itself" if metric is Metric.AVERAGE else "those"
        return (f"{apart} {itself} {place} ({interval_text(claim)})",)
    if claim.standing is Standing.SLIGHT:
        return f"{verb} slightly {way} than {place} (", figure, ")"
    if claim.change > 0:
        why = ", which is unexplained" if claim.kind is ClaimKind.UNEXPLAINED else ""
        return f"{verb} {_bound(claim)}", figure, f" {way} than {place}{why}"
    ratio = claim.value.ratio
    part = Figure(
        *(kept_text(ratio), claim.kept_figure, claim.subject.rig_id, "", ratio),
        base=claim.against.name,
    )
    return f"keeps {_bound(claim, turned=False)}", part, f" of its {kept} {place}"


def interval_text(claim: Claim, like: bool = False) -> str:
    """An interval as changes: “−3 % to +5 %”; of these titles, or of titles like these."""
    value = claim.value
    if value is None:
        return ""
    return ends_text(*((value.like_low, value.like_high) if like else (value.low, value.high)))


def ends_text(least: float | None, most: float | None) -> str:
    """Two ends of a ratio as changes: “−3 % to +5 %”; open on a side where it has no end there."""
    low, high = (
        None if end is None else percent_text(end - 1.0, signed=True).removeprefix("±")
        for end in (least, most)
    )
    if low is None and high is None:
        return ""
    if low is None:
        return f"up to {high}"
    return f"from {low} up" if high is None else f"{low} to {high}"


def over_words(claim: Claim) -> tuple[Span, ...]:
    """Over what it holds: “ in all 3 titles, by 6 % to 90 %”."""
    titles, counts = claim.scope.titles, claim.counts
    at = f" at {claim.scope.group}" if claim.scope.group else ""
    what = "test" if claim.metric is Metric.SCORE else "title"
    if len(titles) == 1:
        return (f" in {titles[0]}{f', {claim.scope.part}' if claim.scope.part else ''}{at}",)
    n = len(titles)
    if claim.scope.part:
        what = f"{claim.scope.part} part"
    carrier = claim.part("carrier")
    if carrier is not None:
        more, less, *_ = WORDS[claim.spoken_as]
        turned = f"{less if claim.change >= 0 else more}{' on average' if n > 2 else ''}"
        told = {Standing.LEVEL: "level", Standing.OPEN: "not told apart"}
        others = told.get(carrier.standing, turned)
        rest = "the other" if n == 2 else f"the other {number_words(n - 1)}"
        return (f"{at} on average, but only through {carrier.of}; {others} in {rest}",)
    if counts is None:
        return (f"{at} on average over {count_text(n, what)}",)
    ahead = claim.change >= 0
    if (counts.every_ahead if ahead else counts.every_behind) == n:
        more, less, *_ = WORDS[claim.spoken_as]
        every = "both" if n == 2 else f"all {n}"
        return (f"{at} on average, {more if ahead else less} in {every} {what}s"
                f"{range_words(claim)}",)  # fmt: skip
    return (f"{at} on average: {_each_way(claim)}",)


def range_words(claim: Claim) -> str:
    """The range of titles that differ widely: “ (6 % to 90 %)”."""
    ratios = [one.value for one in claim.titles if one.bound is Bound.POINT]
    if claim.kind is ClaimKind.KEPT or len(ratios) < 2:
        return ""
    least, most = min(ratios), max(ratios)
    if most - least < WIDE:
        return ""
    if claim.value is not None and claim.value.ratio >= TWICE:
        low, high = (times_words(one, claim.by_eye) for one in (least, most))
        return f" ({low} to {high} times)"
    near, far = sorted((least - 1.0, most - 1.0), key=abs)
    return f" ({percent_text(abs(near))} to {percent_text(abs(far))})"


def _each_way(claim: Claim) -> str:
    """“faster in 5 of 7, level in 1, slower in Skitter (−4 %)”."""
    counts = claim.counts
    assert counts is not None
    more, less, _, _ = WORDS[claim.spoken_as]
    n = counts.titles
    sides = [(more, counts.every_ahead, 1), (less, counts.every_behind, -1)]
    sides.sort(key=lambda one: -one[1])
    said: list[str] = []
    for way, count, sign in sides:
        if not count:
            continue
        names = [
            (one.of, one.value)
            for one in claim.titles
            if one.standing.is_sure and sign * (one.value - 1.0) > 0
        ]
        if said and count <= 2 and len(names) == count:
            listed = list_text(
                [f"{name} ({percent_text(value - 1.0, signed=True)})" for name, value in names]
            )
            said.append(f"{way} in {listed}")
        else:
            said.append(f"{way} in {count} of {n}" if not said else f"{way} in {count}")
    if counts.level:
        said.insert(1, f"level in {counts.level}")
    if counts.open:
        open_titles = [one.of for one in claim.titles if one.standing is Standing.OPEN]
        few = len(open_titles) == counts.open <= 2
        where = list_text(open_titles) if few else str(counts.open)
        said.append(f"not told apart in {where}")
    return ", ".join(said)


def beside(claim: Claim) -> list[str]:
    """What belongs beside it on paper: other titles, bounds, and what a reader should know."""
    said = []
    if claim.question is Question.GAIN and claim.metric is Metric.AVERAGE:
        said.append(like_words(claim))
    said += [f"{capital(one)}." for one in claim.caveats]
    return [one for one in said if one]


def like_words(claim: Claim) -> str:
    """What can be said of titles like these; blank for a single title."""
    n = len(claim.scope.titles)
    if n < 2 or claim.value is None:
        return ""
    if claim.value.like_low is None or claim.value.like_high is None:
        return f"{capital(number_words(n))} titles say little about others."
    ends = interval_text(claim, like=True)
    if claim.value.like_low < 1.0 < claim.value.like_high:
        return f"Other titles may not agree: {ends}."
    return f"Other titles like these: {ends}."


def low_words(claim: Claim) -> str:
    """“, but its lows gain only 10 %”, where lows tell another story; blank where they do not."""
    said, low = low_clause(claim), claim.part("low")
    if not said or low is None or claim.value is None:
        return ""
    better = low.standing.is_sure and low.value >= claim.value.ratio
    return f", {'and' if better else 'but'} {said}"


def low_clause(claim: Claim) -> str:
    """What its lows do, where they tell another story: “its lows gain only 10 %”."""
    low = claim.part("low")
    if low is None or claim.value is None or not claim.is_notable:
        return ""
    if low.standing is Standing.LEVEL:
        return "its lows are level"
    if low.standing is Standing.OPEN:
        return "its lows are not told apart"
    change = percent_text(abs(low.value - 1.0))
    if claim.question is Question.LOSS:
        return f"its lows are {change} {'lower' if low.value < 1.0 else 'higher'}"
    if low.value >= TWICE:
        return f"its lows are {times_words(low.value)} times as high"
    if low.value < 1.0:
        return f"its lows lose {change}"
    return f"its lows gain {'only ' if low.value < claim.value.ratio else ''}{change}"
