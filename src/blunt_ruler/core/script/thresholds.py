"""Whether a rig keeps a frame rate: “holds 60”, “never drops below 60”, “can't reach 60”.

Said of an average, of 1% lows, or of neither: then it holds where both agree, and is unclear where
the average keeps the rate and the lows do not.
"""

import re
from collections.abc import Sequence
from dataclasses import replace
from enum import StrEnum

from blunt_ruler.core.claims.claim import Metric
from blunt_ruler.core.measure.kinds import Bound
from blunt_ruler.core.script.cues import NO_ONE, NOUN
from blunt_ruler.core.script.fitting import ROUNDING
from blunt_ruler.core.script.mentions import LOW_01
from blunt_ruler.core.script.numerals import Hedge, Number
from blunt_ruler.core.script.statements import Reading
from blunt_ruler.core.script.truths import Rate, Truths
from blunt_ruler.core.script.verdict import UNHEARD, Verdict


class Keeps(StrEnum):
    """How many of the cases stay above a frame rate."""

    ALL = "all"
    NOT_ALL = "not all"
    NONE = "none"
    SHORT = "short"  # none of them, or some: the words leave it open


OF_EITHER = (Keeps.ALL, Keeps.NOT_ALL)
EITHER = " by average or lows"  # behind the word of a reading whose measure nobody named

_NOT = r"(?:not|n[o'’]t|never|cannot|can[’']t|fails? to|failed to|unable to|without)\b"
_WELL = r"(?: \w+ly| well| just| always| even| far| almost)*"
_DROPS = r"(?:drop|fall|dip|sink|go|slip|get)(?:s|p?ing|ped|es)?|fell|sank|went|slipped|got"
_RISES = r"(?:get|go|climb|rise|come|run)s?"
_KEEPS = r"(?:hold|keep|maintain|sustain|stay|remain)(?:s|ing|ed)?|held|kept"
_REACH = r"(?:reach|hit|make|manage|break|touch|see|crack|pass|attain)(?:es|s|ing|ed)?|get(?:s)? to"
_STEADY = r"(?:(?: an?| the| its| a| steady| solid| locked| stable| constant| smooth| clean))*"
_OWN = r"(?: (?:its|their|the) (?:1% )?(?:lows?|averages?|frame ?rates?|minimums?|games?))?"
_KINDS = tuple(
    (keeps, wants, re.compile(rf"{words}\s*$", re.I))
    for keeps, wants, words in (
        (Keeps.ALL, "below", rf"\b(?:\w*{_NOT})(?: \w+){{0,2}}? (?:{_DROPS}){_WELL}"),
        (Keeps.NOT_ALL, "at", rf"\b(?:\w*{_NOT})(?: \w+){{0,2}}? (?:{_KEEPS}){_OWN}{_STEADY}"),
        (Keeps.NOT_ALL, "above", rf"\b(?:\w*{_NOT})(?: \w+){{0,2}}? (?:{_KEEPS}){_OWN}{_WELL}"),
        (Keeps.NONE, "at", rf"\b(?:\w*{_NOT})(?: \w+){{0,1}}? (?:{_REACH}){_STEADY}"),
        (Keeps.NONE, "above", rf"\b(?:\w*{_NOT})(?: \w+){{0,1}}? (?:{_RISES}){_WELL}"),
        (Keeps.NOT_ALL, "below", rf"\b(?:{_DROPS}){_WELL}"),
        (Keeps.NONE, "below", rf"\b(?:{_KEEPS}){_OWN}{_WELL}"),
        (Keeps.SHORT, "at", r"\b(?:miss(?:es|ed|ing)?|falls? short of|fell short of)"),
        (Keeps.ALL, "above", rf"\b(?:{_KEEPS}|runs?|ran|plays?){_OWN}{_WELL}"),
        (Keeps.ALL, "at", rf"\b(?:holds?|held|maintains?|sustains?){_STEADY}"),
    )
)
_WANTED = {
    "below": (Hedge.UNDER,),
    "above": (Hedge.OVER, Hedge.AT_LEAST),
    "at": (Hedge.NONE, Hedge.ABOUT, Hedge.AT_LEAST, Hedge.OVER),
}
_HEDGE = re.compile(
    r"\s*\b(?:above|over|below|under|beneath|north of|at least|more than|at)\s*$", re.I
)
_OTHER_THING = re.compile(  # “holds 60 samples”
    r"\s*(?!fps|frames|everywhere|anywhere|throughout|all|any|even|almost|most|only|now|too|\w+ly)"
    r"[a-z]",
    re.I,
)
_SOME = re.compile(  # “in four of the six games”, “except in …”: not of all of them
    r"\b(?:in|of) (?:\d+|one|two|three|four|five|six|seven|eight|nine|ten|most|some|half|several)"
    r" (?:out )?of\b|\b(?:except|apart from|other than|all but|nothing but)\b",
    re.I,
)
OF_ALL = re.compile(
    r"\b(?:any|every|each|all)\b(?: one)?(?: of)?(?: the| our| my| these)?(?: \w+)? ?"
    r"(?:games?|titles?|cases?)\b|\b(?:everywhere|anywhere|throughout|across the board)\b",
    re.I,
)


def asked(words: str, before: str, after: str, number: Number) -> Keeps | None:
    """What the words around a number say of who keeps it; None where they say nothing of that."""
    if number.is_range or _SOME.search(words) or NO_ONE.search(words[: number.start]):
        return None
    if NOUN.match(after) and _OTHER_THING.match(after):
        return None
    led = _HEDGE.sub("", before)
    for keeps, wants, pattern in _KINDS:
        if number.hedge in _WANTED[wants] and pattern.search(led):
            return keeps
    return None


def kept(reading: Reading, number: Number, truths: Truths) -> Verdict:
    """Whether the cases of a reading stay at or above a frame rate."""
    keeps = Keeps(reading.word.removesuffix(EITHER))
    found = _of_measure(reading, keeps, number, truths)
    if not reading.word.endswith(EITHER):
        return found
    lows = _of_measure(replace(reading, metric=Metric.LOW), keeps, number, truths)
    if lows.fits is None or found.fits is None or lows.fits == found.fits:
        return found
    both = f"{found.true_sentence} {lows.true_sentence}"
    return replace(found, fits=False, true_sentence=both, open_words=WHICH_MEASURE)


WHICH_MEASURE = "Averages and 1% lows differ here: say which is meant."
WHICH_CASES = "Some cases do and some do not: say which."


_FIGURES: dict[str, tuple[str, str]] = {
    Metric.LOW: ("low_1_fps", "in its 1% lows"),
    LOW_01: ("low_01_fps", "in its 0.1% lows"),
}


def _of_measure(reading: Reading, keeps: Keeps, number: Number, truths: Truths) -> Verdict:
    rates = truths.rates(reading)
    if not rates:
        return UNHEARD
    least = number.low - ROUNDING * number.step
    under = [one for one in rates if one.value < least]
    open_ends = {Bound.AT_MOST: under, Bound.AT_LEAST: [one for one in rates if one not in under]}
    if any(one.bound is not Bound.POINT and one not in open_ends[one.bound] for one in rates):
        return UNHEARD  # “at most 70” says nothing of 60
    some = 0 < len(under) < len(rates)
    right = {
        Keeps.ALL: not under,
        Keeps.NOT_ALL: bool(under),
        Keeps.NONE: len(under) == len(rates),
        Keeps.SHORT: len(under) == len(rates),
    }[keeps]
    open_words = WHICH_CASES if some and keeps is Keeps.SHORT else ""
    figure = _FIGURES.get(reading.metric, ("average_fps", ""))[0]
    worst = min(rates, key=lambda one: one.value)
    truth = _told(reading, number, rates, under, truths)
    return Verdict(right, truth, "", worst.value, "", figure, worst.case, open_words)


def _told(
    reading: Reading, number: Number, rates: Sequence[Rate], under: Sequence[Rate], truths: Truths
) -> str:
    """“The dock stays above 60 fps on average in every measured case: 68 or more.”"""
    subject = truths.subject(reading.rig)
    by = _FIGURES.get(reading.metric, ("", "on average"))[1]
    limit = f"{number.low:g} fps"

    def named(some: Sequence[Rate]) -> str:
        return truths.cases_with_rates(some, reading.metric)

    if len(rates) == 1:
        way = "below" if under else "at or above"
        return f"{subject} is {way} {limit} {by} {named(rates)}."
    cases = f"all {len(rates)} cases" if len(rates) > 2 else "both cases"
    if not under:
        least = named([min(rates, key=lambda one: one.value)])
        return f"{subject} is at or above {limit} {by} in {cases}, lowest {least}."
    if len(under) == len(rates):
        most = named([max(rates, key=lambda one: one.value)])
        return f"{subject} is below {limit} {by} in {cases}, highest {most}."
    return f"{subject} is below {limit} {by} {named(under)}."
