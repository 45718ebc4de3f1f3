"""What each number, and each comparison without one, claims of whom.

A sentence is read from the number outwards: the words beside it say what it is a figure of
(“faster”, “of its speed”, “loses”).
"""

import re
from collections.abc import Iterator
from dataclasses import replace

from blunt_ruler.core.claims.claim import Metric
from blunt_ruler.core.script import cues, thresholds
from blunt_ruler.core.script.comparisons import OF_NOBODY, WordReader
from blunt_ruler.core.script.loose import LooseReader
from blunt_ruler.core.script.mentions import What
from blunt_ruler.core.script.named import IN_ORDER
from blunt_ruler.core.script.numerals import Hedge, Number, Unit
from blunt_ruler.core.script.rates import RateReader
from blunt_ruler.core.script.ratios import RatioReader
from blunt_ruler.core.script.statements import NOT_A_FACT, Kind, Reading, Statement

OF_SOME_GAMES = "Which games it means is not said: name them."
OF_THE_REST = "“The rest”, “the best one”: name what is meant."
OF_WHAT = "It names nobody: say what the figure is of."
BY_ORDER = "“The first”, “the last one”: name which one is meant."
LIMITS = (Hedge.OVER, Hedge.UNDER, Hedge.AT_LEAST, Hedge.UP_TO)
INHERITED = {Unit.PERCENT, Unit.TIMES, Unit.WATTS, Unit.MONEY, Unit.NOISE, Unit.RATE, Unit.BITS}


class SentenceReader(RatioReader, RateReader, WordReader, LooseReader):
    """One sentence, read in its context."""

    def statements(self) -> Iterator[Statement]:
        """Everything it states, numbers first."""
        unreal = cues.UNREAL.search(self.words) is not None
        found = [one for place in range(len(self.numbers)) for one in self._of_number(place)]
        found += self._of_words()
        for one in found:
            if unreal and one.number is None:
                continue
            if unreal or self._is_between_sizes(one):
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
            inherits = not self._rigs and not cues.PRONOUN.search(self.words[: one.start])
            bare = one.number is None and not self._is_playable(one)
            tied = bare or not one.readings or self._is_tied(one)
            one = replace(one, vague=self._vague(one), is_inherited=inherits, is_tied=tied)
            together = len(rigs) > 1 and any(rigs <= m for m in self._together)
            loose = () if together else tuple(self._loose(one))
            yield replace(one, together=together, loose=loose)

    @staticmethod
    def _is_playable(one: Statement) -> bool:
        return bool(one.readings) and one.readings[0].kind in (Kind.PLAYABLE, Kind.UNPLAYABLE)

    def _vague(self, one: Statement) -> str:
        """Why it is open who is meant, where a statement does not hold; blank where it is not."""
        if cues.ONE_BY_ORDER.search(self.words):
            return BY_ORDER
        if cues.SOME_GAMES.search(self.words[one.end :]):
            return OF_SOME_GAMES
        if cues.THE_REST.search(self.words):
            return OF_THE_REST
        if self._is_bare() or (
            one.number is not None and cues.THAT_IS.match(self.words) and not self._rigs
        ):
            return OF_WHAT
        return ""

    def _is_bare(self) -> bool:
        """Whether a sentence is nothing but numbers: “14, then 5, then 2.”"""
        letters = [*self.words]
        for number in self.numbers:
            letters[number.start : number.end] = " " * (number.end - number.start)
        return bool(self.numbers) and cues.BARE_NUMBERS.fullmatch("".join(letters)) is not None

    def _is_between_sizes(self, one: Statement) -> bool:
        """Whether a share is of one size against another: “going to 1440p takes a third off”."""
        return (
            one.number is not None
            and one.number.unit in (Unit.PERCENT, Unit.TIMES)
            and cues.TAKEN_OFF.match(self.words[one.number.end :]) is not None
            and any(
                m.end <= one.start and cues.BETWEEN_SIZES.search(self.words[: m.start])
                for m in self.mentions
                if m.what is What.SIZE
            )
        )

    def _is_of_every_game(self, one: Statement) -> bool:
        """Whether a rate is said of all games: “every game runs at more than sixty”."""
        named = any(m.what is What.TITLE for m in self.mentions)
        is_rate = bool(one.readings) and one.readings[0].kind is Kind.RATE
        return is_rate and not named and cues.EVERY_GAME.search(self.words) is not None

    def _of_number(self, place: int) -> Iterator[Statement]:
        one = self.numbers[place]
        before, after = self._window(place)
        last = self._row(place)[1]
        if (
            one.unit is Unit.NONE
            and self.numbers[last].unit
            in (
                Unit.PERCENT,
                Unit.TIMES,
                Unit.FPS,
            )
            and (one.is_word or not self.numbers[last].is_word)
        ):  # “306, a quarter more”
            one = replace(one, unit=self.numbers[last].unit)  # “75, 89 and 92 per cent”
            after = self._window(last)[1]
        own = any(number.unit is Unit.PERCENT for number in self.numbers)
        carried = self._before.unit is Unit.PERCENT and one.hedge is Hedge.NONE  # “it holds 72”
        keeps = None
        if one.unit is Unit.FPS or (one.unit is Unit.NONE and not own and not carried):
            keeps = thresholds.asked(self.words, before, after, one)
        if keeps is not None:
            yield self._of_threshold(keeps, one, place, before, after)
            return
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
                yield self._of_ratio(one, place, before, after)
            case Unit.FPS:
                yield self._of_rate(one, place, before, after)
            case Unit.POINTS:
                for step in (100.0, 10.0):  # nobody reads “4,400” off a screen
                    if one.step == 1.0 and one.low >= 1000.0 and one.low % step == 0.0:
                        one = replace(one, step=step)
                whose = self._rate_readings(one, place, before, after, Metric.SCORE)
                yield self._statement(one, [replace(r, kind=Kind.SCORE) for r in whose])
            case Unit.TITLES if cues.PLAYABLE.search(self.plain):
                self._counted = one
            case Unit.TITLES | Unit.TESTS | Unit.CASES:
                yield self._of_count(one, place, before, after)
            case _ if cues.THOSE.search(before):  # “for those 90 euros”: what was said before
                yield Statement(one.start, one.end, (), one, why_unclear=NOT_A_FACT)
            case _ if cues.MORE_THAN.match(after):
                yield Statement(one.start, one.end, (), one, why_unclear=NOT_A_FACT)
            case _:
                told = self._statement(one, self._facts(one, place))
                in_order = not self._rigs and bool(self._in_order(place))
                yield replace(told, why_unclear=IN_ORDER) if in_order else told

    def _of_threshold(
        self, keeps: thresholds.Keeps, one: Number, place: int, before: str, after: str
    ) -> Statement:
        """“holds 60 in every game”, “its lows never drop below 40”."""
        self._kind = Kind.KEEPS
        metric = self._metric(one, before, after)
        named = any(m.what is What.METRIC for m in self.mentions)
        named = named or cues.ON_AVERAGE.search(self.words) is not None
        is_open = not named and metric == Metric.AVERAGE and keeps in thresholds.OF_EITHER
        word = f"{keeps}{thresholds.EITHER}" if is_open else str(keeps)
        found = [
            replace(r, kind=Kind.KEEPS, word=word)
            for r in self._rate_readings(one, place, before, after, metric)
        ]
        if not self._keys(What.TITLE):
            sized = bool(self._keys(What.SIZE))
            whole = [replace(r, titles=frozenset(), size=r.size if sized else "") for r in found]
            if thresholds.OF_ALL.search(self.words):
                found = whole
            elif not any(m.what is What.PLACE for m in self.mentions):
                # Of the title spoken of, or of all: what is said of all is also true of it.
                of_all = keeps in (thresholds.Keeps.ALL, thresholds.Keeps.NONE)
                either = (whole, found) if of_all else (found, whole)
                found = [*either[0], *(replace(r, as_said=False) for r in either[1])]
        return self._statement(one, found)

    def _unit(self, one: Number, place: int, before: str, after: str) -> Unit:
        """The unit of a bare number: frames or points, where the words are about these."""
        if one.unit is not Unit.NONE:
            return one.unit
        in_row = self._window(self._row(place)[0])[0]
        if self._before.unit is Unit.PERCENT and cues.OF_SHARES.search(in_row):
            return Unit.PERCENT
        if self._before.unit is Unit.MONEY and cues.MORE_THAN.match(after):
            return Unit.MONEY  # “585 euros. The edge is 90 more.”
        if any(m.all_of and m.start - one.end in (0, 1) for m in self._rigs):
            self._of_rigs.add((one.start, one.end))
            return Unit.RIGS
        counted = [n for n in self.numbers if n.unit is Unit.TITLES and n.of is None]
        if counted and counted[0] is not one and cues.IN_SO_MANY.search(before):
            return Unit.TITLES
        titles = self._title_of(one)
        if titles and titles <= self._tests:
            return Unit.POINTS
        if cues.AVERAGES.search(before):  # “sets you back 675 and averages 92”
            return Unit.FPS
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
        goes_up = goes_up or cues.TO_END.search(before)
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
            if cues.THAN_SO_MUCH.search(after):  # “five of six titles more than double”
                return Statement(one.start, one.end, (), one, why_unclear=NOT_A_FACT)
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
        titles, size, preset = next(self._scopes(one, is_rate=True))
        if not self._keys(What.TITLE):
            titles, size, preset = frozenset(), "", ""
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
                yield Reading(Kind.FACT, rig, titles=titles, size=size, preset=preset)
