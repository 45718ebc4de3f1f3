"""What a share or a multiple is a figure of, and of whom: “a third slower”, “twice as fast”."""

import re
from collections.abc import Iterator
from dataclasses import replace

from blunt_ruler.core.script import cues
from blunt_ruler.core.script.mentions import What
from blunt_ruler.core.script.named import IN_ORDER, MOST_READINGS, OPEN_KINDS, NamedSentence
from blunt_ruler.core.script.numerals import Hedge, Number, Unit
from blunt_ruler.core.script.statements import NOT_A_FACT, Kind, Reading, Statement

INSTEAD = "It is set against another figure: say what that one is."
OF_SIZES = "It compares two resolutions: give the frame rates of both."


NO_FRAMES = {Unit.MONEY, Unit.WATTS, Unit.NOISE, Unit.WEIGHT, Unit.RATE, Unit.BITS, Unit.MEMORY}


class RatioReader(NamedSentence):
    """Shares and multiples of a sentence."""

    def _of_ratio(self, one: Number, place: int, before: str, after: str) -> Statement:
        if one.unit is Unit.PERCENT and cues.WITHIN.search(before):
            if cues.EACH_OTHER.search(after) and cues.THE_TWO.search(self.words[: one.start]):
                return Statement(one.start, one.end, (), one, why_unclear=NOT_A_FACT)
            return self._within(one, before, after)
        if cues.PART_OF_THAT.match(self.words):
            return Statement(one.start, one.end, (), one, why_unclear=NOT_A_FACT)
        kind = self._kind_of(one, before, after)
        if (extreme := cues.EXTREME.search(before)) is not None and one.hedge is Hedge.NONE:
            most = extreme["most"] is not None
            one = replace(one, hedge=Hedge.LARGEST if most else Hedge.SMALLEST)
        at_end = cues.WORST_CASE.search(self.words)
        if at_end is not None and one.hedge in (Hedge.NONE, Hedge.ABOUT):
            most = (at_end["worst"] is not None) == (kind in (Kind.LESS, Kind.SLOWER_TIMES))
            one = replace(one, hedge=Hedge.LARGEST if most else Hedge.SMALLEST)
        if one.is_range and one.low < 0:
            kind = Kind.MORE
        if kind is None and any(other.says.match(after) for other in cues.OTHER_MEASURES):
            kind = Kind.MORE
        if kind is None and (cues.DIFFERENCE.search(before) or cues.DIFFERENCE.match(after)):
            kind = Kind.LESS
        if kind is None:
            return Statement(one.start, one.end, (), one, why_unclear="what it is a share of")
        self._kind = kind
        if cues.INSTEAD.search(before):
            rest = self._read(kind, one, before, after, self._metric(one, before, after))
            return replace(self._statement(one, rest), why_unclear=INSTEAD)
        metric = self._metric(one, before, after)
        for other in cues.OTHER_MEASURES:
            found = other.says.match(after)
            if found is None and other.key == "load_w":
                found = other.says.search(before)
            if found is None and other.verb.search(before):
                found = other.much.match(after)
            if found is not None:
                metric, kind = other.key, Kind.LESS if found.groupdict().get("less") else Kind.MORE
            if other.part.match(after):
                metric, kind = other.key, Kind.KEPT
        if any(m.what is What.SIZE and cues.FIRM_MARK.search(self.words[: m.start])
               for m in self.mentions):  # fmt: skip
            return Statement(one.start, one.end, (), one, why_unclear=OF_SIZES)
        of_that = cues.THAT_IS.match(self.words) and self._before.unit in NO_FRAMES
        if cues.NO_MEASURE.match(after) or cues.CARRIES.search(before) or of_that:
            return Statement(one.start, one.end, (), one, why_unclear=NOT_A_FACT)
        readings = [*self._read(kind, one, before, after, metric)]
        if one.unit is Unit.PERCENT and (
            cues.DIFFERENCE.search(before) or cues.DIFFERENCE.match(after)
        ):
            every = [
                replace(r, kind=k, as_said=False) for k in (Kind.LESS, Kind.MORE) for r in readings
            ]
            vague = "what the difference is a share of"
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
        if rig := self._in_order(place):
            ordered = tuple(dict.fromkeys(replace(r, rig=rig) for r in readings if r.base != rig))
            return Statement(one.start, one.end, ordered, one, why_unclear=IN_ORDER)
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
        """What a share or a multiple is a figure of: as said, else as in what was said before."""
        kind, is_said = self._kind_said(one, before, after)
        if kind is not None or is_said:
            self._kind_is_said = self._kind_is_said or kind is not None
            return kind
        following, is_fragment = cues.AFTER.match(after), self._is_fragment(one, before)
        if not self._kind_is_said and not is_fragment:
            self._open_kinds.add(one.start)
        is_share = following is not None and following["of"] is not None
        is_of_rig = any(
            cues.OF_RIG.fullmatch(self.words[one.end : m.start])
            for m in self._rigs
            if m.start >= one.end
        )
        if is_share and not (is_fragment and (self._kind_is_said or not is_of_rig)):
            return Kind.KEPT
        if self._kind in OPEN_KINDS:
            return self._kind
        return Kind.KEPT if is_share or cues.TO_END.search(before) else None

    def _kind_said(self, one: Number, before: str, after: str) -> tuple[Kind | None, bool]:
        """(the kind that the words beside a figure say, whether they say any)."""
        found = [*cues.CUE.finditer(before)]
        last = found[-1] if found else None
        following = cues.AFTER.match(after)
        if one.unit is Unit.TIMES:
            is_less = following is not None and following.lastgroup == "less" and one.low >= 1.0
            return (Kind.SLOWER_TIMES if is_less else Kind.TIMES), True
        if one.is_word and re.match(r"\s*(?:as|the)\b", after) and one.low == 50.0:
            return (Kind.LESS if cues.IS_LOST.search(after) else Kind.KEPT), True
        if following is not None and following["of"]:
            if cues.IS_LOST.search(after):
                return Kind.LESS, True
            if cues.OF_NO_RATE.match(after):
                return None, True
            if last is not None and last["less"] and not cues.TO_END.search(before):
                return Kind.LESS, True
            if last is not None and last["more"] and "gain" in last[0].lower():
                return Kind.MORE, True
            if last is None and self._is_fragment(one, before):
                return None, False
            is_speed = last is not None or cues.OF_SPEED.match(after) is not None
            return (Kind.KEPT, True) if is_speed else (None, False)
        if following is not None:
            if following["as"]:
                return Kind.KEPT, True
            return (Kind.MORE if following["more"] else Kind.LESS), True
        if cues.TO_END.search(before):
            nouns = [*cues.NOUNS.finditer(self.plain[: one.start])]
            return (_kind_of_noun(nouns[-1]), True) if nouns else (None, False)
        if last is not None:
            kind = Kind.MORE if last["more"] else Kind.LESS if last["less"] else Kind.KEPT
            return kind, True
        if one.sign:
            return (Kind.MORE if one.sign > 0 else Kind.LESS), True
        if re.match(r"\s*over\b", after) and any(
            m.start >= one.end and self._mark(m) == "over" for m in self._rigs
        ):
            return Kind.MORE, True
        nouns = [*cues.NOUNS.finditer(self.plain[: one.start])]
        return (_kind_of_noun(nouns[-1]), True) if nouns else (None, False)

    def _is_fragment(self, one: Number, before: str) -> bool:
        """“Short answer: a quarter of the card”: an answer to what was said before."""
        alone = not before.strip(" ,") or one.hedge is not Hedge.NONE
        return alone and self._before.kind in (Kind.MORE, Kind.LESS)

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


def _kind_of_noun(noun: re.Match[str]) -> Kind:
    return Kind.LESS if noun["less"] else Kind.MORE
