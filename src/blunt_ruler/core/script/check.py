"""A whole script, sentence by sentence, against one review."""

import re
from collections import Counter
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from blunt_ruler.core.analysis.analyse import Analysis
from blunt_ruler.core.claims.claim import Metric
from blunt_ruler.core.script.fitting import fits
from blunt_ruler.core.script.grammar import SentenceReader
from blunt_ruler.core.script.hold import LOOSE, answer_of
from blunt_ruler.core.script.named import Context
from blunt_ruler.core.script.own import own_sentences, plain_words
from blunt_ruler.core.script.prose import LONGEST, Passage, passages
from blunt_ruler.core.script.slips import why_not
from blunt_ruler.core.script.statements import Answer, Held, Kind, Reading, Statement
from blunt_ruler.core.script.truths import WHOLE, Truths
from blunt_ruler.core.script.verdict import Verdict
from blunt_ruler.core.types import Progress, no_progress

_OF_A_PART = r"(?:scores?|parts?|tests?|results?|points|numbers?)\b"
MOST_KEPT = 4000  # sentences whose answers are remembered


@dataclass(frozen=True, slots=True)
class _Read:
    """A sentence's answers, with places inside it, and what it leaves for the next."""

    held: tuple[Held, ...]
    after: Context


class Checker:
    """Holds scripts against one review; a sentence in the same context is looked up once."""

    def __init__(self, analysis: Analysis) -> None:
        self.analysis = analysis
        self._known: dict[tuple[str, Context], _Read] = {}

    @cached_property
    def truths(self) -> Truths:
        """What the logbook knows."""
        return Truths(self.analysis)

    @cached_property
    def own(self) -> frozenset[str]:
        """The program's own sentences."""
        return own_sentences(self.analysis)

    def check(
        self, text: str, step: Progress = no_progress, inserted: Collection[str] = ()
    ) -> tuple[Held, ...]:
        """Every statement of a text with its answer, in order; `step` may raise to stop it.

        Sentences that were `inserted` from the logbook and no longer hold are said to be stale.
        """
        found: list[Held] = []
        context, paragraph = Context(), -1
        every = passages(text)
        for number, passage in enumerate(every):
            if number % 20 == 0:
                step("Checking the script", number / len(every))
            if passage.paragraph != paragraph:
                context = _fresh(context, passage)
                paragraph = passage.paragraph
            read = self._of(passage, context)
            stale = text[passage.start : passage.end] in inserted
            found += [_placed(one, passage, stale) for one in read.held]
            context = read.after
        return tuple(found)

    def _of(self, passage: Passage, context: Context) -> _Read:
        key = passage.words, context
        if key not in self._known:
            if len(self._known) >= MOST_KEPT:
                self._known.clear()
            self._known[key] = self._read(passage.words, context)
        return self._known[key]

    def _read(self, words: str, context: Context) -> _Read:
        if len(words) > LONGEST:
            end, note = len(words), "This sentence is too long to be read: put full stops into it."
            long = Held(0, end, 0, end, words[:80], Answer.UNCLEAR, note=note)
            return _Read((long,) if any(char.isdigit() for char in words) else (), context)
        truths = self.truths
        reader = SentenceReader(words, truths.vocabulary, truths.roles, context, truths.tests)
        statements = [self._of_part(words, one) for one in reader.statements()]
        if statements and plain_words(words) in self.own:
            return _Read((_of_ours(words, statements),), reader.context())
        held = _told_once([*worked_out(statements, [*self._answers(words, statements)])])
        return _Read(tuple(held), reader.context())

    def _of_part(self, words: str, one: Statement) -> Statement:
        """A statement about a score, of the part of its test that the words name."""
        if not any(r.metric == Metric.SCORE for r in one.readings):
            return one
        named = [part for part in sorted(self.truths.parts) if self._names_part(words, part)]
        if not named and re.search(r"\b(?:overall|total)\b", words, re.I):
            named = [WHOLE]
        if len(named) != 1:
            return one
        readings = tuple(replace(r, part=named[0]) for r in one.readings)
        return replace(
            one, readings=readings, loose=tuple(replace(r, part=named[0]) for r in one.loose)
        )

    def _names_part(self, words: str, part: str) -> bool:
        """Whether words name a part of a test: “the CPU score”, “Loom, kernels”, “the kernels”."""
        after = "" if part in self.truths.telling_parts else rf"[\s-]+(?:sub-?)?{_OF_A_PART}"
        either = rf"\b{re.escape(part)}\b{after}|, {re.escape(part)}\b"
        return re.search(either, words, re.I) is not None

    def _answers(self, words: str, statements: list[Statement]) -> Iterator[Held]:
        for statement in sorted(statements, key=lambda one: one.start):

            def why(reading: Reading, verdict: Verdict, of: Statement = statement) -> str:
                return why_not(reading, of.number, self.truths, verdict)

            answer, verdict, reading, readings = answer_of(statement, self.truths, words, why)
            yield Held(
                statement.start,
                statement.end,
                0,
                len(words),
                words[statement.start : statement.end],
                answer,
                verdict.figure,
                self._name(reading.rig) if reading else "",
                verdict.case,
                self._name(reading.base) if reading else "",
                verdict.value,
                verdict.note,
                verdict.true_sentence if answer is not Answer.UNKNOWN else "",
                verdict.repair if answer is Answer.FAILS else "",
                None,
                readings,
            )

    def _name(self, rig_id: str) -> str:
        column = self.truths.column(rig_id)
        return "" if column is None else column.name


def worked_out(statements: Sequence[Statement], held: Sequence[Held]) -> Iterator[Held]:
    """Answers, with a multiple or a difference that follows from two rates of the same sentence
    that hold: “from 55 to 190, that's three and a half times”.
    """
    rates = {
        (one.start, one.end): one.value
        for one in held
        if one.answer is Answer.HOLDS and one.figure == "average_fps" and one.value
    }
    of = {(one.start, one.end): one for one in statements}
    for one in held:
        before = [value for (_, end), value in sorted(rates.items()) if end <= one.start][-2:]
        said = of.get((one.start, one.end))
        fails = one.answer in (Answer.FAILS, Answer.UNCLEAR)
        if fails and len(before) == 2 and said is not None and said.number is not None:
            first, second = before
            kind = said.readings[0].kind if said.readings else None
            if kind is Kind.TIMES and fits(said.number, second / first):
                told = f"{second:.1f} fps are {second / first:.2f} times {first:.1f} fps."
                one = replace(one, answer=Answer.HOLDS, true_sentence=told, note="", repair="",
                              value=second / first, readings=())  # fmt: skip
            elif kind is Kind.GAINED and fits(said.number, abs(second - first)):
                told = f"{second:.1f} and {first:.1f} fps are {abs(second - first):.1f} fps apart."
                one = replace(one, answer=Answer.HOLDS, true_sentence=told, note="", repair="",
                              value=second - first, readings=())  # fmt: skip
        yield one


def _told_once(held: list[Held]) -> list[Held]:
    """Answers, where a sentence that tells several figures of one thing has not said of what the
    others are: “56, and with the others 71”, “2.7 times, 3.2 times, 3.3 times”. What is wrong of
    them is unclear.
    """
    told = Counter(_thing(one) for one in held if one.value is not None)
    right = {_thing(one): one.start for one in held if one.answer is Answer.HOLDS}
    return [
        replace(one, answer=Answer.UNCLEAR, note=LOOSE, repair="", readings=(one.true_sentence,))
        if one.answer is Answer.FAILS
        and not one.note
        and one.value is not None
        and (told[_thing(one)] > 2 or right.get(_thing(one), one.start) < one.start)
        else one
        for one in held
    ]


def _thing(one: Held) -> tuple[str, str, str, str, float | None]:
    """What a figure is of."""
    return one.figure, one.rig, one.base, one.case, one.value


def _fresh(context: Context, passage: Passage) -> Context:
    """A new paragraph keeps whom it is about; a new heading nothing of the place."""
    if passage.is_heading:
        return Context(rigs=context.rigs)
    return replace(context, base=frozenset(), kind=None)


def _of_ours(words: str, statements: list[Statement]) -> Held:
    start = min(one.start for one in statements)
    end = max(one.end for one in statements)
    return Held(start, end, 0, len(words), words[start:end], Answer.HOLDS, "sentence",
                note="A sentence of the report.", true_sentence=words)  # fmt: skip


STALE = "It was true when it was put in: the logbook has changed since."


def _placed(one: Held, passage: Passage, inserted: bool) -> Held:
    by = passage.start
    return replace(
        one,
        note=STALE if inserted and one.answer is Answer.FAILS else one.note,
        start=one.start + by,
        end=one.end + by,
        sentence_start=passage.start,
        sentence_end=passage.end,
        at_s=passage.at_s,
    )
