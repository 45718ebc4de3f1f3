"""Comparisons without a number: “faster in every game”, “playable”, “link-bound”."""

import re
from collections.abc import Iterator, Sequence
from dataclasses import replace

from blunt_ruler.core.script import cues
from blunt_ruler.core.script.mentions import What
from blunt_ruler.core.script.named import MOST_READINGS, NamedSentence
from blunt_ruler.core.script.numerals import Unit
from blunt_ruler.core.script.statements import Kind, Reading, Statement

OF_NOBODY = "It names no rig: say which one is meant, or give the figures."


class WordReader(NamedSentence):
    """What a sentence states without a number."""

    def _of_words(self) -> Iterator[Statement]:
        taken = [(one.start, one.end) for one in self.numbers]
        for one in cues.LIMIT.finditer(self.words):
            yield self._of_limit(one)
            self._used.append(one.span())
        for one in cues.PLAYABLE.finditer(self.plain):
            self._used.append(one.span())
            kind = Kind.UNPLAYABLE if one["no"] else Kind.PLAYABLE
            ahead = self.words[max(0, one.start() - 30) : one.start()]
            negated = cues.NOT.search(ahead) is not None and not cues.BARELY.search(ahead)
            yield self._in_so_many(self._qualified(kind, one.start(), one.end(), negated))
        for one in cues.MOST.finditer(self.plain):
            self._used.append(one.span())
            if self._is_name(one):
                continue  # “the slowest link also draws the least”
            rigs = self._subject_at(one.start(), one.end(), Kind.MORE)
            behind = [m for m in self._rigs if m.start >= one.end()]
            if not [m for m in self._rigs if m.end <= one.start()] and behind:
                rigs = behind[0].keys
            readings = tuple(
                Reading(Kind.MOST, rig, word=one["word"].lower()) for rig in self._each(rigs)
            )
            yield Statement(one.start(), one.end(), readings)
        yield from self._of_extremes()
        for one in cues.QUALITY.finditer(self.plain):
            if self._is_taken(one, taken) or cues.OR.search(self.plain[: one.start()]):
                continue  # “faster, or level with it”: what stands first is held
            if cues.A_TOUCH.search(self.words[: one.start()]):
                continue  # “a frame ahead”: so much, and no more
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

    def _of_extremes(self) -> Iterator[Statement]:
        """“The loss is biggest in Tidewrack and smallest in Skitter”; a figure beside it says so
        itself.
        """
        led = cues.EXTREME_IN.search(self.plain)
        if led is None or any(one.unit is Unit.PERCENT for one in self.numbers):
            return
        like = Kind.LESS if led["less1"] or led["less2"] else Kind.MORE
        for one in (led, *cues.AND_EXTREME.finditer(self.plain, led.end())):
            said = one.groupdict()
            most = any(said.get(f"most{number}") for number in (1, 2, 3))
            title = next((m for m in self.mentions if m.what is What.TITLE and m.start >= one.end()
                          and m.start - one.end() <= 10), None)  # fmt: skip
            if title is None:
                continue
            metric = self._metric(None, self.words[: one.start()], "", one.start())
            found = [Reading(like, metric=metric, size=next(iter(self._keys(What.SIZE)), ""))]
            if self._rigs:
                before = self.words[: one.start()]
                found = [*self._read(like, None, before, "", metric, led.start())]
            word = f"{'most' if most else 'least'} {like}"
            readings = [replace(r, kind=Kind.EXTREME, titles=title.keys, word=word) for r in found]
            self._used.append(one.span())
            yield Statement(one.start(), title.end, tuple(dict.fromkeys(readings))[:MOST_READINGS])

    def _in_so_many(self, one: Statement) -> Statement:
        """“Playable in three of four games”: that many titles."""
        counted = self._counted
        if counted is None or counted.is_range:
            return one
        start, end = min(one.start, counted.start), max(one.end, counted.end)
        every = [replace(r, titles=frozenset(), word=f"{counted.low:.0f}") for r in one.readings]
        return replace(one, start=start, end=end, readings=tuple(dict.fromkeys(every)))

    def _is_name(self, one: re.Match[str]) -> bool:
        """Whether a superlative only says who is meant: “the slowest link draws the least”."""
        name = cues.AS_A_NAME.match(self.words[one.end() :])
        if name is None or any(m.end <= one.start() for m in self._rigs):
            return False
        after = one.end() + name.end()
        told = (m for m in self._rigs if after <= m.start)
        return name["copula"] is None or not any(
            cues.DETERMINERS.fullmatch(self.words[after : m.start]) for m in told
        )

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
        bases = {one.base for one in readings}
        against = any(m.start >= end and m.keys <= bases for m in self._rigs)
        return Statement(
            start, end, readings, None, negated and not never, vague, is_against=against
        )

    def _of_limit(self, one: re.Match[str]) -> Statement:
        part = next(name[1:] for name, value in one.groupdict().items() if value is not None)
        titles, size, preset = next(self._scopes(None, is_rate=False, at=one.start()))
        rigs = self._subject_at(one.start() + 1, one.end(), Kind.LESS)
        inside = [m for m in self._rigs if one.start() <= m.start <= one.end() and not m.is_part]
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
