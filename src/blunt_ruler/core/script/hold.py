"""A statement against the logbook: does it hold, and what is true instead?"""

import re
from collections.abc import Callable
from dataclasses import replace
from itertools import combinations

from blunt_ruler.core.script import numbered, thresholds, unnumbered
from blunt_ruler.core.script.cues import OF_THAT
from blunt_ruler.core.script.fitting import fits, is_near
from blunt_ruler.core.script.numerals import Number, Unit
from blunt_ruler.core.script.slips import FIGURE_OF
from blunt_ruler.core.script.statements import NOT_A_FACT, Answer, Kind, Reading, Statement
from blunt_ruler.core.script.truths import Truths
from blunt_ruler.core.script.verdict import Verdict

FIGURED = {*numbered.FIGURES, Kind.FACT, Kind.LEVEL, Kind.KEEPS}  # what a figure can be of
NOT_FRAMES = (Unit.MONEY, Unit.WATTS)  # that a figure without a unit may be of
SAYS_FRAMES = re.compile(r"\b(?:fps|frames?)\b", re.I)
FAR = 2.5  # times: a slip is seldom so large
END_OF, BEGINS = re.compile(r"\d\s*(?:to|–|-)\s*$"), re.compile(r"\s*(?:to|–|-)\s*\d")
LOOSE = "The words leave open whose figure it is: say which."


def answer_of(
    statement: Statement, truths: Truths, words: str, why: Callable[[Reading, Verdict], str]
) -> tuple[Answer, Verdict, Reading | None, tuple[str, ...]]:
    """(answer, verdict, the reading it is of, all readings in words where it is unclear).

    `why` explains a reading that does not hold.
    """
    if not statement.readings:
        unsaid = statement.why_unclear == NOT_A_FACT
        note = "" if unsaid else statement.why_unclear
        return (Answer.UNKNOWN if unsaid else Answer.UNCLEAR), Verdict(None, note=note), None, ()
    judged = [(one, judge(one, statement, truths, words)) for one in statement.readings]
    known = [(one, found) for one, found in judged if found.fits is not None]
    if not known:
        return Answer.UNKNOWN, judged[0][1], statement.readings[0], ()
    if statement.together:
        answer = _together(known, statement.number)
        ahead, behind = words[: statement.start], words[statement.end :]
        is_end = END_OF.search(ahead) or BEGINS.match(behind)  # “the three docks 69 to 70”
        why_open = statement.why_unclear or (LOOSE if is_end else "")
        if answer[0] is Answer.FAILS and why_open:
            only = (answer[1].true_sentence,)
            return Answer.UNCLEAR, _with_note(answer[1], why_open), answer[2], only
        is_level = statement.readings[0].kind is Kind.LEVEL and not statement.is_against
        if answer[0] is Answer.FAILS and is_level:
            return _among(statement, truths, words) or answer
        return answer
    first, verdict = known[0]
    if verdict.fits:
        return Answer.HOLDS, verdict, first, ()
    for one, found in known[1:]:
        if found.fits and not one.as_said:
            that = OF_THAT.search(words[: statement.start]) is not None
            of_that = first.titles and not one.titles and that
            if _is_same_but_scope(first, one) and not of_that:
                return Answer.HOLDS, found, one, ()
            said = tuple(dict.fromkeys((verdict.true_sentence, found.true_sentence)))
            return Answer.UNCLEAR, verdict, first, said
    if first is not statement.readings[0] and statement.readings[0].as_said and not first.as_said:
        asked = statement.readings[0]
        # Another base than the one that was not measured will do; another rig or title will not.
        if asked.titles != first.titles or asked.rig != first.rig:
            return Answer.UNKNOWN, judged[0][1], asked, ()
    if statement.why_unclear:
        said = tuple(dict.fromkeys(found.true_sentence for _, found in known))[:2]
        return Answer.UNCLEAR, _with_note(verdict, statement.why_unclear), first, said
    if verdict.open_words:
        return (
            Answer.UNCLEAR,
            _with_note(verdict, verdict.open_words),
            first,
            (verdict.true_sentence,),
        )
    for one, found in known[1:]:
        if found.open_words and _is_same_but_scope(first, one):  # the size may be another's
            said = tuple(dict.fromkeys((verdict.true_sentence, found.true_sentence)))
            return Answer.UNCLEAR, _with_note(verdict, found.open_words), first, said
    if statement.loose and first.kind in numbered.RATIOS and not verdict.repair:
        # The other way round: more likely somebody else is meant than that much is wrong.
        return Answer.UNCLEAR, _with_note(verdict, LOOSE), first, (verdict.true_sentence,)
    if (spanned := _spanned(statement, truths, words)) is not None:
        return Answer.UNCLEAR, _with_note(verdict, LOOSE), first, spanned
    for one in statement.loose:
        found = judge(one, statement, truths, words)
        in_one_case = one.metric != first.metric and found.open_words
        if found.fits or in_one_case:
            said = tuple(dict.fromkeys((found.true_sentence, verdict.true_sentence)))
            return Answer.UNCLEAR, _with_note(verdict, LOOSE), first, said
    note = why(first, verdict)
    inherits = statement.is_inherited or bool(statement.vague)
    if inherits and note.startswith(FIGURE_OF):
        said = (verdict.true_sentence,)  # “305 for him”: the words may mean that other rig
        return Answer.UNCLEAR, _with_note(verdict, f"{LOOSE} {note}"), first, said
    says_frames = SAYS_FRAMES.search(words, statement.start, statement.end + 12) is not None
    is_share = not says_frames and _is_far_below(first, verdict, statement.number)
    if not statement.is_tied or is_share:
        return Answer.UNCLEAR, _with_note(verdict, LOOSE), first, (verdict.true_sentence,)
    other = _other_measure(first, statement.number, truths)
    if other is not None and not says_frames:
        return Answer.UNCLEAR, _with_note(verdict, LOOSE), first, (verdict.true_sentence, other)
    if statement.vague and not note:
        said = (verdict.true_sentence,)
        return Answer.UNCLEAR, _with_note(verdict, statement.vague), first, said
    for one, found in known[1:] if not note else ():
        if not one.as_said and _is_same_but_scope(first, one) and (slip := why(one, found)):
            return Answer.FAILS, _with_note(found, slip), one, ()
    return Answer.FAILS, _with_note(verdict, note), first, ()


def _is_far_below(first: Reading, verdict: Verdict, number: Number | None) -> bool:
    """Whether a figure lies so far below the rate that it must be a share."""
    if first.kind is not Kind.RATE or number is None or not verdict.value:
        return False
    return 0 < FAR * number.low < verdict.value


def _other_measure(reading: Reading, number: Number | None, truths: Truths) -> str | None:
    """What is true where frames may be money or watts: “the cord setup was 585, the cable one is
    755”, “the edge is 90 more”.
    """
    if number is None or reading.kind not in (Kind.RATE, Kind.GAINED):
        return None
    of_rig = [one for one in truths.facts if one.unit in NOT_FRAMES and reading.rig in one.rigs]
    if reading.kind is Kind.RATE:
        fitting = next((one for one in of_rig if fits(number, one.value)), None)
        return None if fitting is None else numbered.fact_sentence(fitting, truths)
    for one in of_rig:
        for other in truths.facts:
            is_like = other.words == one.words and reading.base in other.rigs
            if is_like and fits(number, abs(one.value - other.value)):
                return " ".join(numbered.fact_sentence(each, truths) for each in (one, other))
    return None


def _spanned(statement: Statement, truths: Truths, words: str) -> tuple[str, ...] | None:
    """What is true of the ends of a range where it spans rigs: “the docks add 80 to 100 frames”."""
    number = statement.number
    if number is None or not number.is_range:
        return None
    ends = (replace(number, high=number.low), replace(number, low=number.high))
    said = []
    for end in ends:
        at_end = replace(statement, number=end)
        told = (
            judge(one, at_end, truths, words) for one in (*statement.readings, *statement.loose)
        )
        fitting = next((one for one in told if one.fits), None)
        if fitting is None:
            return None
        said.append(fitting.true_sentence)
    return tuple(dict.fromkeys(said))


def _together(
    known: list[tuple[Reading, Verdict]], number: Number | None
) -> tuple[Answer, Verdict, Reading | None, tuple[str, ...]]:
    """Said of several rigs: it holds where it holds of each."""
    of_rig: dict[str, tuple[Reading, Verdict]] = {}
    for one, found in known:
        if one.rig not in of_rig or (found.fits and not of_rig[one.rig][1].fits):
            of_rig[one.rig] = one, found
    if number is not None and number.is_range:  # “the docks idle at 51 to 55”: from least to most
        values = [found.value for _, found in of_rig.values() if found.value is not None]
        ends = (number.low, min(values, default=0.0)), (number.high, max(values, default=0.0))
        if len(values) == len(of_rig) and all(is_near(number, *end) for end in ends):
            return Answer.HOLDS, known[0][1], known[0][0], ()
    some = any(found.fits for _, found in of_rig.values())
    for one, found in of_rig.values():
        if not found.fits and not (some and _is_cut_off(one, found, number)):
            return Answer.FAILS, found, one, ()
    first, verdict = known[0]
    return Answer.HOLDS, verdict, first, ()


def _is_cut_off(one: Reading, found: Verdict, number: Number | None) -> bool:
    """“All three stop at 69”: said of several, 69.8 without its decimals will do."""
    if one.kind is not Kind.RATE or found.value is None or number is None:
        return False
    return 0.0 <= found.value - number.low < number.step


def _among(
    statement: Statement, truths: Truths, words: str
) -> tuple[Answer, Verdict, Reading | None, tuple[str, ...]] | None:
    """Said to be level: “no difference between the docks” is of each against each."""
    rigs = [*dict.fromkeys(one.rig for one in statement.readings)]
    first = statement.readings[0]
    pairs = [replace(first, rig=rig, base=base) for rig, base in combinations(rigs, 2)]
    judged = [(one, judge(one, statement, truths, words)) for one in pairs]
    if not judged or not all(found.fits for _, found in judged):
        return None
    reading, verdict = judged[0]
    return Answer.HOLDS, verdict, reading, ()


def _with_note(verdict: Verdict, note: str) -> Verdict:
    return replace(verdict, note=note or verdict.note)


def _is_same_but_scope(one: Reading, other: Reading) -> bool:
    """Whether two readings differ in their titles or size alone: both are natural."""
    return (one.kind, one.rig, one.base, one.metric) == (
        other.kind, other.rig, other.base, other.metric
    )  # fmt: skip


def judge(reading: Reading, statement: Statement, truths: Truths, words: str) -> Verdict:
    """How one reading of a statement stands."""
    number = statement.number
    if number is not None and reading.kind in FIGURED:
        return _judge_figure(reading, number, truths, words)
    match reading.kind:
        case Kind.FASTER | Kind.SLOWER | Kind.LEVEL:
            found = unnumbered.way(reading, truths, statement.negated)
        case Kind.PLAYABLE | Kind.UNPLAYABLE:
            found = unnumbered.playable(reading, truths, statement.negated)
        case Kind.LIMIT:
            found = unnumbered.limit(reading, truths, statement.negated)
        case Kind.MOST:
            found = unnumbered.most(reading, truths)
        case Kind.EXTREME:
            found = unnumbered.extreme(reading, truths)
        case _:
            raise AssertionError(f"{reading.kind} without a figure")
    return found


def _judge_figure(reading: Reading, number: Number, truths: Truths, words: str) -> Verdict:
    match reading.kind:
        case Kind.RATE | Kind.SCORE:
            return numbered.rate(reading, number, truths)
        case Kind.GAINED:
            return numbered.gained(reading, number, truths)
        case Kind.COUNT:
            return numbered.count(reading, number, truths, words)
        case Kind.SHARE:
            return numbered.share(reading, number, truths)
        case Kind.FACT:
            return numbered.fact(reading, number, truths, words)
        case Kind.LEVEL:
            return numbered.within(reading, number, truths)
        case Kind.KEEPS:
            return thresholds.kept(reading, number, truths)
        case _:
            return numbered.ratio(reading, number, truths)
