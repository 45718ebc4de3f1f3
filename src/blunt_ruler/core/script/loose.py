"""What the words of a sentence leave open: each other way to read it.

Where one of these is true, a figure is unclear, not wrong.
"""

from collections.abc import Iterator, Sequence
from dataclasses import replace
from itertools import product

from blunt_ruler.core.claims.claim import Metric
from blunt_ruler.core.script import cues
from blunt_ruler.core.script.mentions import Mention, What
from blunt_ruler.core.script.named import OPEN_KINDS, NamedSentence
from blunt_ruler.core.script.numerals import Unit
from blunt_ruler.core.script.statements import Kind, Reading, Statement

MOST_LOOSE = 240
FIRM_KINDS = (Kind.MORE, Kind.LESS, Kind.KEPT, Kind.TIMES, Kind.SLOWER_TIMES, Kind.RATE)
RATIO_KINDS = (Kind.MORE, Kind.LESS, Kind.KEPT, Kind.TIMES, Kind.SLOWER_TIMES)
LATELY = 16  # sentences
NEAR, FAR = 4, 12  # words between a name and a figure that belongs to it


class LooseReader(NamedSentence):
    """Other readings of a sentence's statements."""

    def _is_whose(self, one: Statement) -> bool:
        """Whether the words say whose a figure is."""
        first = one.readings[0]
        # A name that several rigs share leaves open which one is meant.
        own = [m for m in self._rigs if first.rig in m.keys and not m.is_loose
               and (len(m.keys) == 1 or m.all_of)]  # fmt: skip
        if first.kind is Kind.RATE:
            return any(self._words_to(m, one) <= NEAR for m in own)
        if any(m.end <= one.start and self._words_to(m, one) <= FAR for m in own):
            return True
        if self._respective(one.start) is not None or self._led_behind(one.end, first.kind)[1]:
            return True
        others = [m for m in self._rigs if first.rig not in m.keys and not self._is_base(m)]
        it = cues.PRONOUN.search(self.words[: one.start]) is not None
        if first.rig == self._roles.base and first.kind in (Kind.MORE, Kind.TIMES):
            return False  # gains are of the others
        return it and not others and self._before.rigs == frozenset({first.rig})

    def _is_tied(self, one: Statement) -> bool:
        """Whether a figure can be of nobody else: its rig is the only one that is named, but for
        those that others are held against, or that the sentences before were about.
        """
        first = one.readings[0]
        if first.rig == self._roles.base and first.kind in (Kind.MORE, Kind.TIMES):
            return False  # gains are of the others
        if self._is_whose(one) or cues.SO_IT_IS.search(self.words[: one.start]):
            return True
        named = {key for m in self._rigs if len(m.keys) == 1 and not m.is_loose for key in m.keys}
        held_against = {first.base, self._roles.base, self._roles.reference}
        if first.rig in named:
            return named <= {first.rig, *held_against}
        vague = any(len(m.keys) > 1 and not m.all_of for m in self._rigs)
        return self._before.rigs == frozenset({first.rig}) and named <= held_against and not vague

    def _is_against_whom(self, one: Statement) -> bool:
        """Whether the words say what a figure is measured from, or leave no choice."""
        first = one.readings[0]
        others = [m for m in self._rigs if first.rig not in m.keys]
        told = [
            m
            for m in others
            if first.base in m.keys
            and self._mark(m)
            and not cues.BREAK.search(self.words[one.end : m.start])
        ]
        if first.kind is Kind.GAINED:  # “another 26 frames”: over whom may be said before
            return bool(told)
        return bool(told) or (not others and not self._before.recent[1:])

    def _words_to(self, m: Mention, one: Statement) -> int:
        """How many words lie between a name and a figure; many where another figure does."""
        start, end = (m.end, one.start) if m.end <= one.start else (one.end, m.start)
        if any(start <= n.start < end for n in self.numbers) or cues.BREAK.search(
            self.words[start:end]
        ):
            return 99
        return len(self.words[start:end].split())

    def _loose(self, one: Statement) -> Iterator[Reading]:
        """Every other reading of what is named here or just before, as far as it is left open."""
        if one.readings and one.number is None:
            yield from self._loose_words(one)
        if one.number is None or not one.readings:
            return
        first = one.readings[0]
        is_rate = first.kind in (Kind.RATE, Kind.FACT, Kind.SCORE)
        measured = [m for m in self.mentions if m.what is What.METRIC]
        measures = dict.fromkeys(key for m in measured for key in sorted(m.keys))
        others = [key for key in measures if key != first.metric]
        if first.metric == Metric.SCORE and cues.GAMES.search(self.words):
            yield replace(first, metric=Metric.AVERAGE, titles=frozenset())
        averages = cues.AVERAGES.search(self.words[: one.start]) is not None
        both = first.kind is Kind.RATE and {Metric.AVERAGE, Metric.LOW} <= {*measures}
        both = both and measured[-1].start < self.numbers[0].start  # “average, low: 224, 143”
        several = (  # “lows suffer as averages do: 26”
            len(measures) > 1
            and len(self.numbers) == 1
            and not cues.BREAK.search(self.words[measured[0].end : measured[-1].start])
        )
        if others and (averages or both or several):  # “lows on the cable average 61”
            yield from (replace(first, metric=key) for key in others)
        if first.kind not in (*FIRM_KINDS, Kind.FACT, Kind.GAINED, Kind.SCORE):
            return
        if not measured and first.metric == Metric.AVERAGE and self._before.since_lows < LATELY:
            yield replace(first, metric=Metric.LOW)  # lows were what it was about
        named = dict.fromkeys(key for m in self._rigs for key in sorted(m.keys))
        meant = self._before.recent[:2]
        if not named and cues.ONE_OF_THEM.search(self.words):
            meant = self._roles.tested
        against = (
            (self._roles.reference,) if cues.SET_AGAINST.search(self.words[: one.start]) else ()
        )
        is_spanning = one.number.is_range and not (named.keys() - {self._roles.base})
        if is_spanning:  # “it's between 2.7 and 3.3 times”: a range may span rigs
            meant = self._roles.tested
        if first.rig == self._roles.reference:  # “the tower, which gains 17 frames”: over any
            against = (*against, *self._roles.tested)
        every = [*dict.fromkeys((*named, *meant, self._roles.base, *against))]
        is_whose = not is_spanning and self._is_whose(one)
        is_against = is_rate or self._is_against_whom(one)
        kinds: tuple[Kind, ...] = (first.kind,)
        if first.kind in (*RATIO_KINDS, Kind.GAINED):
            yield from self._of_others(one, every)
        is_sized = bool(self._keys(What.SIZE))
        series = [n for n in self.numbers if n.unit in (one.number.unit, Unit.NONE)]
        steps = self._vocabulary.sizes_of(first.titles) if len(series) > 1 and not is_sized else ()
        if one.start in self._open_kinds and first.kind in OPEN_KINDS:
            kinds = OPEN_KINDS
        elif is_whose and is_against and not steps and first.kind is not Kind.RATE:
            return
        # A figure of frames may be so many more, or fewer.
        if first.kind is Kind.RATE and not first.every:
            for base in dict.fromkeys((*every, self._roles.reference)):
                if base != first.rig:
                    yield from (
                        replace(first, kind=Kind.GAINED, base=base, word=word)
                        for word in ("more", "less")
                    )
        rigs = [first.rig] if is_whose else every
        bases = [""] if is_rate else [first.base]
        if not is_against:
            bases = [*dict.fromkeys((*every, self._roles.reference))]
        titles = {first.titles}
        if not self._keys(What.TITLE):
            titles |= {self._before.titles, frozenset()}
        sizes = {first.size}
        if not is_sized:
            sizes |= {self._before.size, "", *steps}
        found = 0
        for rig, base, title, size, kind in product(
            rigs, bases, sorted(titles, key=sorted), sorted(sizes), kinds
        ):
            if rig and rig != base and found < MOST_LOOSE:
                found += 1
                yield replace(first, kind=kind, rig=rig, base=base, titles=title, size=size)

    def _is_led(self, m: Mention) -> bool:
        """Whether a rig behind “on” or “with” is whom it is said of: “on average the cord is”."""
        led_off = cues.LEADS_OFF.search(self.words[: m.start]) is not None
        return led_off or cues.DOES.match(self.words[m.end :]) is not None

    def _of_others(self, one: Statement, every: Sequence[str]) -> Iterator[Reading]:
        """A comparison of others that were named, or over all titles, as far as the words before it
        do not say whom it is of, behind it whom it is held against, and around it over what.
        """
        first = one.readings[0]
        if self._move() is not None:
            return  # from whom to whom is said
        sure = [m for m in self._rigs if len(m.keys) == 1 or m.all_of]
        subjects = {key for m in self._rigs if not self._is_base(m) for key in m.keys}
        is_own = (
            subjects - {self._roles.base, self._roles.reference} == {first.rig}
            or bool(self._led_behind(one.end, first.kind)[0])
            or self._respective(one.start) is not None
            or any(
                first.rig in m.keys
                and m.end <= one.start
                and not self._is_base(m)
                and (not self._is_place(m) or self._is_led(m))
                for m in sure
            )
        )
        is_held = any(first.base in m.keys and self._is_base(m) for m in sure)
        others = [*dict.fromkeys((*every, *self._before.recent[:3], self._roles.reference))]
        rigs = [first.rig] if is_own else others
        bases = [first.base] if is_held else others
        titles = {first.titles}
        if any(m.what is What.EVERY for m in self.mentions):
            titles.add(frozenset())
        for rig, base, title in product(rigs, bases, sorted(titles, key=sorted)):
            if rig != base and (rig, base, title) != (first.rig, first.base, first.titles):
                size = first.size if title else ""
                yield replace(first, rig=rig, base=base, titles=title, size=size)

    def _loose_words(self, one: Statement) -> Iterator[Reading]:
        """A comparison without a number, of others that are named here or were just before: where
        the clause names nobody it is open who is meant.
        """
        first = one.readings[0]
        if first.kind not in (Kind.FASTER, Kind.SLOWER, Kind.LEVEL, Kind.PLAYABLE):
            return
        start = self._clause_start(one.start)
        here = {key for m in self._rigs if start <= m.start < one.start for key in m.keys}
        if first.rig in here:
            return
        named = dict.fromkeys(key for m in self._rigs for key in sorted(m.keys))
        every = [*dict.fromkeys((*named, *self._before.recent[:2], *sorted(self._before.rigs)))]
        bases = [first.base]
        if first.kind is Kind.LEVEL:
            bases = [*dict.fromkeys((first.base, *every, self._roles.reference))]
        for rig in every:
            for base in bases:
                if rig and rig != base:
                    yield replace(first, rig=rig, base=base)
