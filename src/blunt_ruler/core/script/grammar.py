"""What each number, and each comparison without one, claims of whom.

A sentence is read from the number outwards: the words beside it say what it is a figure of
(“faster”, “of its speed”, “loses”).
"""

import re
from collections.abc import Iterator, Sequence
from dataclasses import replace

from blunt_ruler.core.claims.claim import Metric
from blunt_ruler.core.script import cues
from blunt_ruler.core.script.mentions import Mention, What
from blunt_ruler.core.script.named import NamedSentence
from blunt_ruler.core.script.numerals import Hedge, Number, Unit
from blunt_ruler.core.script.statements import NOT_A_FACT, Kind, Reading, Statement

MOST_READINGS = 10
MOST_LOOSE = 240
LIMITS = (Hedge.OVER, Hedge.UNDER, Hedge.AT_LEAST, Hedge.UP_TO)
NEAR, FAR = 4, 12  # words between a name and a figure that belongs to it
IN_ORDER = "Read in the order of the rigs, which is not said: name them."
OF_NOBODY = "It is said of no rig: say which one is meant, or give the figures."
FIRM_KINDS = (Kind.MORE, Kind.LESS, Kind.KEPT, Kind.TIMES, Kind.SLOWER_TIMES, Kind.RATE)
INHERITED = {Unit.PERCENT, Unit.TIMES, Unit.WATTS, Unit.MONEY, Unit.NOISE}
"""Units that a bare number takes over from the others of its sentence."""


class SentenceReader(NamedSentence):
    """One sentence, read in its context."""

    def statements(self) -> Iterator[Statement]:
        """Everything it states, numbers first."""
        unreal = cues.UNREAL.search(self.words) is not None
        found = [one for place in range(len(self.numbers)) for one in self._of_number(place)]
        found += self._of_words()
        for one in found:
            if unreal and one.number is None:
                continue
            if unreal:
                one = replace(one, readings=(), why_unclear=NOT_A_FACT)
            if one.number is None and cues.NO_ONE.match(self.words):
                one = replace(one, readings=(), why_unclear=OF_NOBODY)
            if self._is_of_every_game(one):
                sized = any(m.what is What.SIZE for m in self.mentions)
                each = [
                    replace(r, titles=frozenset(), size=r.size if sized else "", every=True)
                    for r in one.readings
                ]
                one = replace(one, readings=tuple(dict.fromkeys(each)))
            rigs = {reading.rig for reading in one.readings}
            together = len(rigs) > 1 and any(rigs <= m for m in self._together)
            loose = () if together else tuple(self._loose(one))
            yield replace(one, together=together, loose=loose)

    def _is_of_every_game(self, one: Statement) -> bool:
        """Whether a rate is said of all games: “every game runs at more than sixty”."""
        named = any(m.what is What.TITLE for m in self.mentions)
        is_rate = bool(one.readings) and one.readings[0].kind is Kind.RATE
        return is_rate and not named and cues.EVERY_GAME.search(self.words) is not None

    def _is_whose(self, one: Statement) -> bool:
        """Whether the words say whose a figure is."""
        first = one.readings[0]
        # A name that several rigs share leaves open which one is meant.
        own = [m for m in self._rigs if first.rig in m.keys and (len(m.keys) == 1 or m.all_of)]
        if first.kind is Kind.RATE:
            return any(self._words_to(m, one) <= NEAR for m in own)
        if any(m.end <= one.start and self._words_to(m, one) <= FAR for m in own):
            return True
        if self._respective(one.start) is not None or self._led_behind(one.end, first.kind)[1]:
            return True
        others = [m for m in self._rigs if first.rig not in m.keys and not self._is_base(m)]
        it = cues.PRONOUN.search(self.words[: one.start]) is not None
        return it and not others and self._before.rigs == frozenset({first.rig})

    def _is_against_whom(self, one: Statement) -> bool:
        """Whether the words say what a figure is measured from, or leave no choice."""
        first = one.readings[0]
        others = [m for m in self._rigs if first.rig not in m.keys]
        told = [m for m in others if first.base in m.keys and self._mark(m)]
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
        measures = dict.fromkeys(
            key for m in self.mentions if m.what is What.METRIC for key in sorted(m.keys)
        )
        others = [key for key in measures if key != first.metric]
        if first.metric == Metric.SCORE and cues.GAMES.search(self.words):
            yield replace(first, metric=Metric.AVERAGE, titles=frozenset())
        averages = cues.AVERAGES.search(self.words[: one.start]) is not None
        if others and averages:  # “lows on the cable average 61”
            yield from (replace(first, metric=key) for key in others)
        if first.kind not in (*FIRM_KINDS, Kind.FACT, Kind.GAINED, Kind.SCORE):
            return
        named = dict.fromkeys(key for m in self._rigs for key in sorted(m.keys))
        every = [*dict.fromkeys((*named, *self._before.recent[:2], self._roles.base))]
        is_whose, is_against = self._is_whose(one), is_rate or self._is_against_whom(one)
        if is_whose and is_against:
            return
        rigs = [first.rig] if is_whose else every
        bases = [""] if is_rate else [first.base]
        if not is_against:
            bases = [*dict.fromkeys((*every, self._roles.reference))]
        titles = {first.titles}
        if not any(m.what is What.TITLE for m in self.mentions):
            titles |= {self._before.titles, frozenset()}
        sizes = {first.size}
        if not any(m.what is What.SIZE for m in self.mentions):
            sizes |= {self._before.size, ""}
        found = 0
        for rig in rigs:
            for base in bases:
                for title in sorted(titles, key=sorted):
                    for size in sorted(sizes):
                        if rig and rig != base and found < MOST_LOOSE:
                            found += 1
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

    # A number

    def _window(self, place: int) -> tuple[str, str]:
        """The words before and after a number, up to the numbers beside it and to a break."""
        one = self.numbers[place]
        start = self.numbers[place - 1].end if place else 0
        end = self.numbers[place + 1].start if place + 1 < len(self.numbers) else len(self.words)
        before, after = self.plain[start : one.start], self.plain[one.end : end]
        breaks = [*cues.BREAK.finditer(before)]
        before = before[breaks[-1].end() :] if breaks else before
        cut = cues.BREAK.search(after)
        return before, after[: cut.start()] if cut else after

    def _of_number(self, place: int) -> Iterator[Statement]:
        one = self.numbers[place]
        before, after = self._window(place)
        last = self._row(place)[1]
        if one.unit is Unit.NONE and self.numbers[last].unit in (
            Unit.PERCENT,
            Unit.TIMES,
            Unit.FPS,
        ):
            one = replace(one, unit=self.numbers[last].unit)  # “75, 89 and 92 per cent”
            after = self._window(last)[1]
        unit = self._unit(one, place, before, after)
        if (
            unit is Unit.NONE
            and one.step < 1.0
            and 1.0 < one.low < 20.0
            and re.match(r"\s*as\b", after)
        ):
            unit = Unit.TIMES
        if unit is Unit.TITLES and one.unit is Unit.NONE and one.of is None:
            of = next((n for n in self.numbers if n.unit is Unit.TITLES), None)
            one = replace(one, of=None if of is None else int(of.low))
        one = replace(one, unit=unit)
        share = unit in (Unit.PERCENT, Unit.TIMES) and one.is_word
        match unit:
            case _ if share and (cues.A_FRAME.match(after) or cues.OF_A_GAP.match(after)):
                # “half a frame”, “halves the gap”: of no rate
                yield Statement(one.start, one.end, (), one, why_unclear=NOT_A_FACT)
            case Unit.PERCENT | Unit.TIMES:
                yield self._of_ratio(one, before, after)
            case Unit.FPS:
                yield self._of_rate(one, place, before, after)
            case Unit.POINTS:
                if one.step == 1.0 and one.low >= 1000.0 and one.low % 100.0 == 0.0:
                    one = replace(one, step=100.0)  # nobody reads “4,400” off a screen
                whose = self._rate_readings(one, place, before, after, Metric.SCORE)
                yield self._statement(one, [replace(r, kind=Kind.SCORE) for r in whose])
            case Unit.TITLES | Unit.TESTS | Unit.CASES:
                yield self._of_count(one, place, before, after)
            case _ if cues.THOSE.search(before):  # “for those 90 euros”: what was said before
                yield Statement(one.start, one.end, (), one, why_unclear=NOT_A_FACT)
            case _ if cues.MORE_THAN.match(after):
                yield Statement(one.start, one.end, (), one, why_unclear=NOT_A_FACT)
            case _:
                yield self._statement(one, self._facts(one, place))

    def _unit(self, one: Number, place: int, before: str, after: str) -> Unit:
        """The unit of a bare number: frames or points, where the words are about these."""
        if one.unit is not Unit.NONE:
            return one.unit
        if any(m.all_of and m.start - one.end in (0, 1) for m in self._rigs):
            self._of_rigs.add((one.start, one.end))
            return Unit.RIGS
        counted = [n for n in self.numbers if n.unit is Unit.TITLES and n.of is None]
        if counted and counted[0] is not one and cues.IN_SO_MANY.search(before):
            return Unit.TITLES
        titles = self._title_of(one)
        if titles and titles <= self._tests:
            return Unit.POINTS
        metrics = {key for m in self.mentions if m.what is What.METRIC for key in m.keys}
        led = cues.LEADS.search(
            cues.HEDGED.sub("", before).rstrip()
        ) is not None or self._after_name(one)
        led = led or cues.HEDGED.sub("", before).strip(" ,:") == ""
        ahead = [n.unit for n in self.numbers if n.end <= one.start and n.unit is not Unit.NONE]
        others = set(ahead[-1:])
        goes_up = cues.FROM.search(self.words[: one.start]) or (
            place > 0
            and cues.TO_END.search(self.words[self.numbers[place - 1].end : one.start])
            and cues.FROM.search(self.words[: self.numbers[place - 1].start])
        )
        if goes_up and others == {Unit.TIMES} and one.low >= 5.0:  # “doubles, from 39 to 89”
            return Unit.FPS
        asked_for = cues.ASKED_FOR.search(self.words[: one.start])
        asked_for = asked_for or cues.PER_FRAME.search(self.words)
        if led and others <= {Unit.MONEY} and asked_for and not cues.NOUN.match(after):
            return Unit.MONEY  # “the cord costs 585, the edge 675”
        if led and len(others) == 1 and others <= INHERITED and not cues.NOUN.match(after):
            return next(iter(others))
        if not led or cues.NOUN.match(after) or one.low < 5.0:
            return Unit.NONE
        if metrics == {str(Metric.SCORE)}:
            return Unit.POINTS
        if cues.THAT_NUMBER.search(before) and self._before.kind in (
            Kind.MORE,
            Kind.LESS,
            Kind.KEPT,
        ):
            return Unit.PERCENT
        rates = (
            Unit.FPS in {number.unit for number in self.numbers} or self._before.kind is Kind.RATE
        )
        if rates or metrics or titles or (self._before.titles and self._rigs):
            return Unit.FPS
        return Unit.NONE

    def _after_name(self, one: Number) -> bool:
        """Whether something is named right before a number: “the dock only 69”."""
        named = (m for m in self.mentions if m.what in (What.RIG, What.TITLE, What.METRIC))
        return any(
            m.end <= one.start and cues.SO_MUCH.fullmatch(self.words[m.end : one.start])
            for m in named
        )

    def _of_ratio(self, one: Number, before: str, after: str) -> Statement:
        if one.unit is Unit.PERCENT and cues.WITHIN.search(before):
            return self._within(one, before, after)
        kind = self._kind_of(one, before, after)
        if (extreme := cues.EXTREME.search(before)) is not None and one.hedge is Hedge.NONE:
            most = extreme["most"] is not None
            one = replace(one, hedge=Hedge.LARGEST if most else Hedge.SMALLEST)
        if one.is_range and one.low < 0:
            kind = Kind.MORE
        if kind is None and any(words.match(after) for _, words in cues.OTHER_MEASURES):
            kind = Kind.MORE
        if kind is None and (cues.DIFFERENCE.search(before) or cues.DIFFERENCE.match(after)):
            kind = Kind.LESS
        if kind is None:
            return Statement(one.start, one.end, (), one, why_unclear="what it is a share of")
        self._kind = kind
        metric = self._metric(one, before, after)
        for other, words in cues.OTHER_MEASURES:
            found = words.match(after) or (words.search(before) if other == "load_w" else None)
            if found is not None:
                metric, kind = other, Kind.LESS if found.groupdict().get("less") else Kind.MORE
        if cues.NO_MEASURE.match(after):
            return Statement(one.start, one.end, (), one, why_unclear=NOT_A_FACT)
        readings = [*self._read(kind, one, before, after, metric)]
        if one.unit is Unit.PERCENT and (
            cues.DIFFERENCE.search(before) or cues.DIFFERENCE.match(after)
        ):
            every = [
                replace(r, kind=k, as_said=False) for k in (Kind.LESS, Kind.MORE) for r in readings
            ]
            vague = "of what the difference is a share"
            return replace(self._statement(one, every), why_unclear=vague)
        if (
            kind in (Kind.LESS, Kind.KEPT)
            and one.unit is Unit.PERCENT
            and not self._is_against(one)
        ):
            shares = [*self._shares(one, before, after)]
            if not shares and cues.COSTS.search(before):
                rigs = dict.fromkeys(r.rig for r in readings)
                shares_too = [Reading(Kind.SHARE, rig, word=part, as_said=False)
                              for rig in rigs for part in ("link", "host")]  # fmt: skip
                readings = [*readings, *shares_too]
            readings = [*shares, *(replace(r, as_said=not shares and r.as_said) for r in readings)]
        return self._statement(one, readings)

    def _within(self, one: Number, before: str, after: str) -> Statement:
        """“level with the tower, within 3 per cent”."""
        metric = self._metric(one, before, after)
        found = self._read(Kind.LESS, one, self.words[: one.start], after, metric, level=True)
        readings = tuple(dict.fromkeys(replace(r, kind=Kind.LEVEL) for r in found))
        return Statement(one.start, one.end, readings[:MOST_READINGS], one)

    def _is_against(self, one: Number) -> bool:
        """Whether a loss is said to be against a rig: then it is the whole of it."""
        marks = [self._mark(m) for m in self._rigs]
        return any(
            mark in ("against", "than", "versus", "vs", "compared to", "compared with")
            for mark in marks
        )

    def _kind_of(self, one: Number, before: str, after: str) -> Kind | None:
        """What a share or a multiple is a figure of."""
        found = [*cues.CUE.finditer(before)]
        last = found[-1] if found else None
        following = cues.AFTER.match(after)
        if one.unit is Unit.TIMES:
            said = following.lastgroup if following else ""
            if one.low < 1.0:
                return Kind.TIMES
            return Kind.SLOWER_TIMES if said == "less" else Kind.TIMES
        if one.is_word and re.match(r"\s*(?:as|the)\b", after) and one.low == 50.0:
            return Kind.KEPT
        if following is not None and following["of"]:
            if cues.IS_LOST.search(after):
                return Kind.LESS
            if cues.OF_NO_RATE.match(after):
                return None
            fragment = not self.words[: one.start].strip() or one.hedge is not Hedge.NONE
            if last is None and fragment and self._before.kind in (Kind.MORE, Kind.LESS):
                return self._before.kind
            if last is not None and last["less"] and not cues.TO_END.search(before):
                return Kind.LESS
            if last is not None and last["more"] and "gain" in last[0].lower():
                return Kind.MORE
            return Kind.LESS if cues.IS_LOST.search(after) else Kind.KEPT
        if following is not None:
            if following["as"]:
                return Kind.KEPT
            kind = Kind.MORE if following["more"] else Kind.LESS
            if cues.LEAD.search(after) and kind is Kind.MORE:
                return Kind.MORE
            return kind
        if cues.TO_END.search(before):
            if nouns := [*cues.NOUNS.finditer(self.plain[: one.start])]:
                return Kind.LESS if nouns[-1]["less"] else Kind.MORE
            return self._kind if self._kind in (Kind.MORE, Kind.LESS, Kind.KEPT) else Kind.KEPT
        if last is not None:
            return Kind.MORE if last["more"] else Kind.LESS if last["less"] else Kind.KEPT
        if one.sign:
            return Kind.MORE if one.sign > 0 else Kind.LESS
        if re.match(r"\s*over\b", after) and any(
            m.start >= one.end and self._mark(m) == "over" for m in self._rigs
        ):
            return Kind.MORE
        if nouns := [*cues.NOUNS.finditer(self.plain[: one.start])]:
            return Kind.LESS if nouns[-1]["less"] else Kind.MORE
        if self._kind in (Kind.MORE, Kind.LESS, Kind.KEPT):
            return self._kind
        return None

    def _of_rate(self, one: Number, place: int, before: str, after: str) -> Statement:
        if cues.NOTHING.search(self.words[: one.start]):  # “nothing dropped below 30”
            turned = {Hedge.UNDER: Hedge.AT_LEAST, Hedge.OVER: Hedge.UP_TO}
            one = replace(one, hedge=turned.get(one.hedge, one.hedge))
        metric = self._metric(one, before, after)
        following = cues.AFTER.match(
            re.sub(r"^\s*(?:fps|frames(?: per second)?|frames?)", "", after)
        )
        if cues.OR_MORE.match(after):
            following = None
        last = [*cues.CUE.finditer(before)]
        gained = following is not None and (following["more"] or following["less"])
        gained = gained or (
            bool(last)
            and not cues.TO_END.search(before)
            and re.search(r"gain|add|los[et]|cost|by\s*$", before[last[-1].start() :], re.I)
            and not re.search(r"\bat\s*$|\bof\s*$|\bfrom\s*$", before)
        )
        gap = cues.GAP.match(self.words[one.end :]) or cues.GAP.match(after)
        if gap or cues.DIFFERENCE.search(before):
            found = [*self._read(Kind.MORE, one, before, after, metric)]
            ways = [replace(r, kind=Kind.GAINED, word=word)
                    for r in found for word in ("more", "less")]  # fmt: skip
            other_way = [replace(r, rig=r.base, base=r.rig, as_said=False) for r in ways]
            vague = "of whom the gap is"
            return replace(self._statement(one, [*ways, *other_way]), why_unclear=vague)
        if gained:
            less = (following is not None and following["less"]) or (
                not (following is not None and following["more"])
                and bool(last)
                and last[-1]["less"]
            )
            kind = Kind.LESS if less else Kind.MORE
            found = [*self._read(kind, one, before, after, metric)]
            word = "less" if less else "more"
            return self._statement(one, [replace(r, kind=Kind.GAINED, word=word) for r in found])
        self._kind = Kind.RATE
        found = [*self._rate_readings(one, place, before, after, metric)]
        if rig := self._in_order(place):
            readings = tuple(dict.fromkeys(replace(r, rig=rig) for r in found))
            return Statement(one.start, one.end, readings, one, why_unclear=IN_ORDER)
        return self._statement(one, found)

    def _rate_readings(
        self, one: Number, place: int, before: str, after: str, metric: str
    ) -> Iterator[Reading]:
        """Whose rate it is: the rig right behind it, else the nearest before it."""
        own = self._rate_rigs(one, place, before)
        for rigs in own:
            for titles, size, preset in self._scopes(one, is_rate=True):
                for rig in self._each(rigs):
                    yield Reading(Kind.RATE, rig, "", metric, titles, size, preset)

    def _rate_rigs(self, one: Number, place: int, before: str) -> Iterator[frozenset[str]]:
        pairs = self._pair(place)
        if pairs is not None:
            yield pairs
            return
        if (
            any(
                m.end <= one.start and cues.WITHOUT.search(self.words[: m.start])
                for m in self._rigs
            )
            and self._roles.base
        ):
            yield frozenset({self._roles.base})  # “without the dock you get 11”
            return
        end = self.numbers[place + 1].start if place + 1 < len(self.numbers) else len(self.words)
        behind = [m for m in self._rigs if one.end <= m.start < end]
        ahead = [m for m in self._rigs if m.end <= one.start]
        if (
            behind
            and re.fullmatch(
                r"\s*(?:fps|frames(?: per second)?|frames?|%|per ?cent|percent)?\s*(?:average|"
                r"on average|1% lows?)?[\s,]*"
                r"(?:on|in|for|with|from|through|over|of|at|by)?\s*(?:the|its|an?|our|my)?\s*",
                self.words[one.end : behind[0].start],
                re.I,
            )
            and re.search(
                r"\b(?:on|in|for|with|from|through|over|of|by)\b",
                self.words[one.end : behind[0].start],
                re.I,
            )
        ):
            yield behind[0].keys
            return
        if ahead:  # “against the tower's 107”, “the dock does 69”
            yield ahead[-1].keys
        elif self._before.rigs:
            yield self._before.rigs
        elif behind:
            yield behind[0].keys
        else:
            yield frozenset(self._roles.tested)

    def _pair(self, place: int) -> frozenset[str] | None:
        """“takes it from 28 to 69”: the first is the base's, the second the rig's."""
        one = self.numbers[place]
        first = cues.FROM.search(self.words[: one.start])
        second = place > 0 and cues.TO_END.search(
            self.words[self.numbers[place - 1].end : one.start]
        )
        was_first = place > 0 and cues.FROM.search(self.words[: self.numbers[place - 1].start])
        sizes = [m for m in self.mentions if m.what is What.SIZE]
        if len(sizes) > 1:
            return None
        if first and place + 1 < len(self.numbers):
            between = self.words[one.end : self.numbers[place + 1].start]
            inside = [m for m in self._rigs if one.end <= m.start < self.numbers[place + 1].start]
            if re.search(r"\bto\b", between):
                return inside[0].keys if inside else frozenset({self._roles.base})
        if second and was_first:
            behind = [m for m in self._rigs if one.end <= m.start]
            ahead = [
                m
                for m in self._rigs
                if m.end <= self.numbers[place - 1].start
                and not self._is_base(m)
                and self._roles.base not in m.keys
            ]
            if behind and re.match(
                r"\s*(?:fps|frames(?: per second)?)?\s*(?:on|in|with|through|over)\b",
                self.words[one.end :],
                re.I,
            ):
                return behind[0].keys
            if ahead:
                return ahead[-1].keys
            return self._before.rigs or frozenset(self._roles.tested)
        return None

    def _of_count(self, one: Number, place: int, before: str, after: str) -> Statement:
        """“faster in five of seven titles”; without a way it is how many there are."""
        if place and cues.IN_SO_MANY.search(before):  # “under 30 in four of the six games”
            limit = self.numbers[place - 1]
            if limit.unit in (Unit.FPS, Unit.NONE) and limit.hedge in LIMITS:
                return Statement(one.start, one.end, (), one, why_unclear=NOT_A_FACT)
        clause = self.plain[: one.start]
        breaks = [*cues.BREAK.finditer(clause)]
        own = clause[breaks[-1].end() :] if breaks else clause
        found = [*cues.QUALITY.finditer(own)]
        ways = [*cues.CUE.finditer(own)]
        if not found and not ways:
            found, ways = [*cues.QUALITY.finditer(after)], [*cues.CUE.finditer(after)]
        if not found and not ways and one.of is not None:
            found = [*cues.QUALITY.finditer(self.plain)]
        way = ""
        if found:
            last = found[-1]
            way = str(last.lastgroup)
            offset = self.words.find(last[0])
            self._used.append((offset, offset + len(last[0])))
        elif ways and (one.of is not None or re.search(r"\ball\s*$", before)):
            last = ways[-1]
            way = "faster" if last["more"] else "slower"
        if not way or (one.of is None and cues.OVER_SO_MANY.search(before)):
            return self._statement(one, [Reading(Kind.COUNT)])
        metric = self._metric(one, before, after)
        kind = {"faster": Kind.FASTER, "slower": Kind.SLOWER, "level": Kind.LEVEL}[way]
        like = Kind.MORE if kind is not Kind.SLOWER else Kind.LESS
        readings = [
            replace(r, kind=Kind.COUNT, word=str(kind), titles=frozenset())
            for r in self._read(like, one, before, after, metric)
        ]
        return self._statement(one, [*dict.fromkeys(readings)])

    def _facts(self, one: Number, place: int) -> Iterator[Reading]:
        """Whose price or power it is: “585 euros for the Groyne”, else the nearest before it."""
        led, is_right_behind = self._led_behind(one.end, Kind.FACT)
        told = led if is_right_behind else self._respective(one.start)
        shared = cues.SHARE_OF  # “92 per cent of desktop speed for 675 euros”: not the desktop's
        ahead = [
            m.keys
            for m in self._rigs
            if m.end <= one.start and not shared.search(self.words[: m.start])
        ]
        behind = [m.keys for m in self._rigs if m.start >= one.end]
        if not told and (rig := self._in_order(place)):
            told = frozenset({rig})
        rigs = [told] if told else ahead[-1:] or behind[:1]
        for keys in rigs or [self._before.rigs or frozenset({""})]:
            for rig in sorted(keys) or [""]:
                yield Reading(Kind.FACT, rig)

    def _shares(self, one: Number, before: str, after: str) -> Iterator[Reading]:
        """“the cable costs 20 %”, “6 % to the host”: a part of the loss."""
        start = one.start - len(before)
        said = [m for m in self._rigs if m.is_part and start <= m.start and m.end <= one.start]
        subject = self._subject(one, before) or self._before.rigs
        named = re.match(
            r"\s*(?:%|per ?cent|percent)?\s*(?:goes |is lost |is down |are lost |go )?(?:to|"
                r"because of|due to|down to|from) (?:the |its )?(?P<w>link|cable|cord|host|cpu|"
                r"processor|screen path|tunnel)\b",
            self.words[one.end :], re.I,
        )  # fmt: skip
        word = re.search(
            r"\b(?P<w>link|cable|cord|tunnel|host|cpu|processor|screen path)\b[^,;.]{0,30}?\b"
            r"(?:costs?|takes?|took|eats?|swallows?|is responsible for|accounts? for|"
                r"is to blame for)\b[^,;.%]{0,50}$",
            self.words[start : one.start], re.I,
        )  # fmt: skip
        found = named or word
        if found is None and said and cues.COSTS.search(self.words[said[-1].end : one.start]):
            part = said[-1].part
            for rig in self._each(said[-1].keys & frozenset(self._roles.tested)):
                yield Reading(Kind.SHARE, rig, word=part or "link")
            return
        if found is None:
            return
        part = {"cpu": "host", "processor": "host", "host": "host", "screen path": "screen"}.get(
            found["w"].lower(), "link"
        )
        rigs = subject if not said else (said[-1].keys if part == "link" else subject)
        after_rigs = [m.keys for m in self._rigs if m.start > one.start - 40 and not m.is_part]
        if part == "host" and after_rigs and len(rigs) != 1:
            rigs = after_rigs[0]
        narrowed = rigs & frozenset(self._roles.tested)
        for rig in self._each(narrowed or rigs):
            yield Reading(Kind.SHARE, rig, word=part)

    def _statement(self, one: Number, readings: Sequence[Reading] | Iterator[Reading]) -> Statement:
        found = [*dict.fromkeys(readings)][:MOST_READINGS]
        if found and found[0].rig:
            self._rig = self._rig or frozenset({found[0].rig})
        negated = cues.NOT.search(self.words[max(0, one.start - 30) : one.start]) is not None and (
            one.hedge in (Hedge.NONE, Hedge.ABOUT)
        )
        return Statement(one.start, one.end, tuple(found), one, negated)

    # Words without a number

    def _of_words(self) -> Iterator[Statement]:
        taken = [(one.start, one.end) for one in self.numbers]
        for one in cues.LIMIT.finditer(self.words):
            yield self._of_limit(one)
            self._used.append(one.span())
        for one in cues.PLAYABLE.finditer(self.plain):
            self._used.append(one.span())
            kind = Kind.UNPLAYABLE if one["no"] else Kind.PLAYABLE
            negated = (
                cues.NOT.search(self.words[max(0, one.start() - 30) : one.start()]) is not None
            )
            yield self._qualified(kind, one.start(), one.end(), negated)
        for one in cues.MOST.finditer(self.plain):
            self._used.append(one.span())
            rigs = self._subject_at(one.start(), one.end(), Kind.MORE)
            behind = [m for m in self._rigs if m.start >= one.end()]
            if not [m for m in self._rigs if m.end <= one.start()] and behind:
                rigs = behind[0].keys
            readings = tuple(
                Reading(Kind.MOST, rig, word=one["word"].lower()) for rig in self._each(rigs)
            )
            yield Statement(one.start(), one.end(), readings)
        for one in cues.QUALITY.finditer(self.plain):
            if self._is_taken(one, taken):
                continue
            negated = (
                cues.NOT.search(self.words[max(0, one.start() - 30) : one.start()]) is not None
            )
            kind = {"faster": Kind.FASTER, "slower": Kind.SLOWER, "level": Kind.LEVEL}[
                str(one.lastgroup)
            ]
            said = one[0].lower()
            if said in ("no slower", "no faster"):
                kind, negated = (Kind.SLOWER if "slower" in said else Kind.FASTER), True
            yield self._qualified(kind, one.start(), one.end(), negated)
        for one in cues.LOWS_ARE.finditer(self.plain):
            if not self._is_taken(one, taken) and any(
                m.what is What.METRIC and m.end <= one.start() for m in self.mentions
            ):
                kind = Kind.FASTER if one["up"] else Kind.SLOWER
                yield self._qualified(kind, one.start(), one.end(), " no " in f" {one[0]} ")

    def _is_taken(self, one: re.Match[str], taken: Sequence[tuple[int, int]]) -> bool:
        """Whether a number has used these words, or a name."""
        if any(a < one.end() and one.start() < b for a, b in self._used):
            return True
        for m in self.mentions:
            if m.start <= one.start() and one.end() <= m.end:
                return True
        for start, end in taken:
            if (start, end) in self._of_rigs:
                continue
            between = (
                self.words[end : one.start()]
                if end <= one.start()
                else self.words[one.end() : start]
            )
            count = len(between.split())
            near = 3 if end <= one.start() else 4
            if count <= near and not cues.BREAK.search(between) and "," not in between.strip(", "):
                return True
        return False

    def _qualified(self, kind: Kind, start: int, end: int, negated: bool) -> Statement:
        clause = self.words[self._clause_start(start) :]
        cut = cues.BREAK.search(self.words, end)
        clause = self.words[self._clause_start(start) : cut.start() if cut else len(self.words)]
        never = cues.NEVER.search(clause) is not None
        every = cues.EVERY.search(clause) is not None
        most = cues.MOST_OF.search(clause) is not None
        without = frozenset(
            key for m in self.mentions if m.what is What.TITLE
            and cues.EXCEPT.search(self.words[: m.start]) for key in m.keys
        )  # fmt: skip
        metric = self._metric(None, self.words[self._clause_start(start) : start], "", start)
        behind = [m for m in self.mentions if m.what is What.METRIC and 0 <= m.start - end <= 2]
        if behind:
            metric = next(iter(behind[0].keys))
        like = Kind.LESS if kind is Kind.SLOWER else Kind.MORE
        word = "never" if never else "most" if most else ""
        found = []
        for r in self._read(like, None, self.words[:start], "", metric, start, kind is Kind.LEVEL):
            titles = frozenset() if every or never or most else r.titles
            found.append(replace(r, kind=kind, every=every or never or bool(without), word=word,
                                 titles=titles, without=without))  # fmt: skip
        readings = tuple(dict.fromkeys(found))[:MOST_READINGS]
        if readings and readings[0].rig:
            self._rig = self._rig or frozenset({readings[0].rig})
        negated = negated or cues.NONE_OF.search(self.words[:start]) is not None
        nobody = kind is Kind.LEVEL and not self._rigs and not cues.PRONOUN.search(self.words)
        vague = OF_NOBODY if nobody else ""
        return Statement(start, end, readings, None, negated and not never, vague)

    def _of_limit(self, one: re.Match[str]) -> Statement:
        part = next(name[1:] for name, value in one.groupdict().items() if value is not None)
        titles, size, preset = next(self._scopes(None, is_rate=False, at=one.start()))
        rigs = self._subject_at(one.start() + 1, one.end(), Kind.LESS)
        inside = [m for m in self._rigs if one.start() <= m.start < one.end() and not m.is_part]
        if inside:
            rigs = inside[0].keys
        rigs = (rigs & frozenset(self._roles.tested)) or rigs
        negated = cues.NOT.search(
            self.words[max(0, one.start() - 30) : one.start()]
        ) is not None or bool(re.search(r"\b(?:not|isn't|never)\b", one[0], re.I))
        readings = tuple(
            Reading(Kind.LIMIT, rig, titles=titles, size=size, preset=preset, word=part)
            for rig in self._each(rigs)
        )
        return Statement(one.start(), one.end(), readings, None, negated)
