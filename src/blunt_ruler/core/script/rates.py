"""Frame rates and differences of them: whose each one is."""

import re
from collections.abc import Iterator
from dataclasses import replace

from blunt_ruler.core.script import cues
from blunt_ruler.core.script.mentions import What
from blunt_ruler.core.script.named import IN_ORDER, NamedSentence
from blunt_ruler.core.script.numerals import Hedge, Number
from blunt_ruler.core.script.statements import NOT_A_FACT, Kind, Reading, Statement


class RateReader(NamedSentence):
    """Frame rates of a sentence."""

    def _of_rate(self, one: Number, place: int, before: str, after: str) -> Statement:
        if cues.NOTHING.search(self.words[: one.start]):  # “nothing dropped below 30”
            turned = {Hedge.UNDER: Hedge.AT_LEAST, Hedge.OVER: Hedge.UP_TO}
            if cues.REACHES.search(before):  # “nobody gets to sixty”
                turned[Hedge.NONE] = Hedge.UNDER
            one = replace(one, hedge=turned.get(one.hedge, one.hedge))
        metric = self._metric(one, before, after)
        following = cues.AFTER.match(
            re.sub(r"^\s*(?:fps|frames(?: per second)?|frames?)", "", after)
        )
        if cues.OR_MORE.match(after):
            following = None
        first = self._row(place)[0]
        if first in self._gained:  # “trails it by 37, 22 and 6”
            before = self._window(first)[0]
        last = [*cues.CUE.finditer(before)]
        gained = following is not None and (following["more"] or following["less"])
        gained = gained or (
            bool(last)
            and not cues.TO_END.search(before)
            and cues.CHANGES_BY.search(before[last[-1].start() :])
            and not re.search(r"\bat\s*$|\bof\s*$|\bfrom\s*$", before)
        )
        is_within = cues.WITHIN.search(before) is not None
        if is_within and cues.EACH_OTHER.search(after):
            return Statement(one.start, one.end, (), one, why_unclear=NOT_A_FACT)
        if is_within:
            one = replace(one, hedge=Hedge.UNDER)
        gap = is_within or cues.GAP.match(self.words[one.end :]) or cues.GAP.match(after)
        if gap or cues.DIFFERENCE.search(before):
            found = [*self._read(Kind.MORE, one, before, after, metric)]
            ways = [replace(r, kind=Kind.GAINED, word=word)
                    for r in found for word in ("more", "less")]  # fmt: skip
            other_way = [replace(r, rig=r.base, base=r.rig, as_said=False) for r in ways]
            vague = "whose gap it is"
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
            self._gained.add(place)
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
            scopes = [*self._scopes(one, is_rate=True)]
            for titles, size, preset in scopes:
                as_said = (titles, size, preset) == scopes[0]
                for rig in self._each(rigs):
                    yield Reading(Kind.RATE, rig, "", metric, titles, size, preset, as_said=as_said)

    def _rate_rigs(self, one: Number, place: int, before: str) -> Iterator[frozenset[str]]:
        if one.end in self._labelled:
            yield self._labelled[one.end].keys
            return
        pairs = self._pair(place) or self._of_compared(place)
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
        if (respective := self._respective(one.start)) is not None:
            yield respective
            return
        end = self.numbers[place + 1].start if place + 1 < len(self.numbers) else len(self.words)
        behind = [m for m in self._rigs if one.end <= m.start < end]
        ahead = [m for m in self._rigs if m.end <= one.start]
        led_off = (
            ahead
            and cues.LEADS_OFF.search(self.words[: ahead[-1].start])
            and not any(ahead[-1].end <= n.start < one.start for n in self.numbers)
        )
        if led_off and behind and "," in self.words[one.end : behind[0].start]:
            yield ahead[-1].keys  # “on the edge it is 103, on the cable 69”
            return
        if (
            behind
            and re.fullmatch(
                r"\s*(?:fps|frames(?: per second)?|frames?|%|per ?cent|percent)?\s*(?:average|"
                r"on average|1% lows?)?[\s,]*"
                r"(?:on|in|for|with|from|through|over|of|at|by)?\s*"
                r"(?:(?:the|its|an?|our|my)\b(?:\s+[a-z]+(?:ed|y|al|ow|ide|ain))?)?\s*",
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
                if not inside:
                    self._was.add(one.start)
                falls = cues.FALLS.search(self.words[: one.start]) is not None
                tests = self._keys(What.TITLE) & self._tests  # what moves data is best built in
                reference = self._roles.reference if falls and not tests else ""
                other = reference or self._roles.base
                return inside[0].keys if inside else frozenset({other})
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

    def _of_compared(self, place: int) -> frozenset[str] | None:
        """“It is slower than the cord, 245 to 247”: the first is of whom it is said, the second of
        whom that is held against.
        """
        for at in (place, place - 1):
            if not 0 <= at < len(self.numbers) - 1:
                continue
            one, other = self.numbers[at], self.numbers[at + 1]
            ahead = [m for m in self._rigs if m.end <= one.start]
            if (
                cues.TO_OTHER.fullmatch(self.words[one.end : other.start]) is None
                or not ahead
                or self._mark(ahead[-1]) != "than"
                or cues.RIGHT_BEFORE.fullmatch(self.words[ahead[-1].end : one.start]) is None
            ):
                continue
            if at != place:
                return ahead[-1].keys
            own = [m for m in ahead[:-1] if not self._is_base(m)]
            return own[-1].keys if own else self._before.rigs or None
        return None
