"""What a sentence names, and who is spoken of in it: rigs by their part, titles, sizes, measures.

A rig before a figure is whom it is said of, a rig behind “than”, “over” or “against” is what it is
measured from. What is left unsaid is carried from the sentence before; what even that leaves open
is read in each way it can be.
"""

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

from blunt_ruler.core.claims.claim import Metric
from blunt_ruler.core.script import cues
from blunt_ruler.core.script.mentions import Mention, Vocabulary, What, blanked
from blunt_ruler.core.script.numerals import Hedge, Number, Unit, numbers
from blunt_ruler.core.script.statements import Kind, Reading, Statement

MOST_READINGS = 10
LONG_AGO = 20  # sentences: what repeats is read once, so that a context must not count on
IN_ORDER = "Read in the order of the rigs, which the sentence does not give: name them."
OPEN_KINDS = (Kind.LESS, Kind.MORE, Kind.KEPT)  # what a share alone may be of


@dataclass(frozen=True, slots=True)
class Context:
    """What a sentence leaves for the next: whom it was about, against whom, and where."""

    rigs: frozenset[str] = frozenset()
    base: frozenset[str] = frozenset()
    titles: frozenset[str] = frozenset()
    size: str = ""
    is_size_sure: bool = True  # said of these titles, not of others before
    preset: str = ""
    metric: str = Metric.AVERAGE
    kind: Kind | None = None
    recent: tuple[str, ...] = ()  # rigs that were named, the last one first
    unit: Unit = Unit.NONE  # of its last number that has one
    topic: str = ""  # what a question before asked about: “What about lows?”
    since_lows: int = LONG_AGO  # sentences since lows were named, counted no further
    listed: tuple[str, ...] = ()  # titles that were gone through one by one, in that order


@dataclass(frozen=True, slots=True)
class Roles:
    """The rigs of a review by what they are for; `twins` are whom each one's loss is held to, and
    `cards` says which card each has.
    """

    base: str
    reference: str
    tested: tuple[str, ...]
    twins: dict[str, tuple[str, ...]]
    cards: dict[str, str]


class NamedSentence:
    """One sentence with what is named in it, in its context."""

    def __init__(
        self,
        words: str,
        vocabulary: Vocabulary,
        roles: Roles,
        before: Context,
        tests: frozenset[str],
    ) -> None:
        self.words, self._roles, self._before, self._tests = words, roles, before, tests
        self._vocabulary = vocabulary
        self.mentions = self._with_the_others(vocabulary.mentions(words))
        self.blank = blanked(words, self.mentions)
        self.numbers = numbers(self.blank)
        named = (What.METRIC, What.EVERY, What.PLACE, What.SIZE, What.PRESET)
        self.plain = blanked(words, self.mentions, named)  # names hold words that mean nothing here
        self._together = {m.keys for m in self.mentions if m.all_of}
        self._of_both: dict[frozenset[str], frozenset[str]] = {}
        self._rigs = [one for one in self.mentions if one.what is What.RIG]
        self._find_both()
        self._labelled = self._labels()
        self._paired = self._labelled or self._pairs()
        self._used: list[tuple[int, int]] = []
        self._gained: set[int] = set()  # places of numbers that say how much more, or less
        self._asked: Kind | None = None  # what is being read
        self._open_kinds: set[int] = set()  # where shares start whose kind no word here says
        self._of_rigs: set[tuple[int, int]] = set()  # numbers that count rigs
        self._kind = before.kind
        self._kind_is_said = False  # whether it is of this sentence
        self._rig: frozenset[str] = frozenset()
        self._base: frozenset[str] = frozenset()
        self._is_carried = False  # whether “they” are the lows of the sentence before
        self._counted: Number | None = None  # in how many titles something is playable
        self._was: set[int] = set()  # where numbers start that are of what it was before

    def _with_the_others(self, named: tuple[Mention, ...]) -> tuple[Mention, ...]:
        """What is named, and “the other two” as those under test that nobody has named yet."""
        if (said := cues.THE_OTHERS.search(self.words)) is None:
            return named
        rigs = [m for m in named if m.what is What.RIG]
        known = frozenset(key for m in rigs for key in m.keys) or self._before.rigs
        others = frozenset(self._roles.tested) - known
        if not known or not others or any(m.start < said.end() and said.start() < m.end
                                          for m in rigs):  # fmt: skip
            return named
        them = Mention(said.start("whom"), said.end(), What.RIG, others, all_of=True)
        return tuple(sorted((*named, them), key=lambda m: m.start))

    def _find_both(self) -> None:
        """“Both the Groyne and the Breakwater”: what is said of them is said of each."""
        for one, other in pairwise(self._rigs):
            led = cues.BOTH.search(self.words[: one.start])
            if led and cues.LIST.fullmatch(self.words[one.end : other.start]):
                both = one.keys | other.keys
                self._together.add(both)
                self._of_both |= {one.keys: both, other.keys: both}

    def _pairs(self) -> dict[int, Mention]:
        """“12 per cent on the cable and 7 on the cord”: where each number ends, whose it is.

        One alone may stand before whom it is measured against; two in the same way do not.
        """
        found = {
            one.end: m
            for one in self.numbers
            for m in self._rigs
            if one.end <= m.start
            and cues.PAIRED.fullmatch(self.words[one.end : m.start])
            and (self._mark(m) != "over" or (m.is_part and m.part == "link"))
        }
        return found if len({m.keys for m in found.values()}) > 1 else {}

    def _labels(self) -> dict[int, Mention]:
        """“43 integrated, 115 adapter, 131 tower”: where each number ends, whose it is."""
        found = {
            one.end: m
            for one in self.numbers
            for m in self._rigs
            if one.end <= m.start and cues.LABELLED.fullmatch(self.words[one.end : m.start])
        }
        led = any(m.end <= self.numbers[0].start for m in self._rigs) if self.numbers else True
        whole = len(found) == len(self.numbers) and len({m.keys for m in found.values()}) > 1
        return found if whole and not led else {}

    def context(self) -> Context:
        """What it leaves for the next sentence."""
        before = self._before
        titles = self._keys(What.TITLE)
        sizes, presets = self._keys(What.SIZE), self._keys(What.PRESET)
        metrics = [one for one in self.mentions if one.what is What.METRIC]
        drops = not titles and any(m.what is What.EVERY for m in self.mentions)
        subjects = [one.keys for one in self._rigs if not self._is_base(one)]
        open_names = (m.keys for m in self._rigs if len(m.keys) > 1 and not m.all_of)
        left_open = next((keys for keys in open_names if self._rig and self._rig < keys), None)
        rigs = left_open or self._rig or (subjects[0] if subjects else before.rigs)
        carried = "" if drops else before.size
        if titles and carried not in self._vocabulary.sizes_of(titles):
            carried = ""  # another game, which has not been measured at that size
        return Context(
            rigs=rigs,
            base=self._base,
            titles=titles or (frozenset() if drops else before.titles),
            size=next(iter(sizes), carried) if len(sizes) < 2 else "",
            is_size_sure=bool(sizes) or (before.is_size_sure and titles <= before.titles),
            preset=next(iter(presets), "" if drops else before.preset) if len(presets) < 2 else "",
            metric=next(iter(metrics[-1].keys))
            if metrics
            else before.topic or (before.metric if self._is_carried else Metric.AVERAGE),
            kind=self._kind or self._last_cue(),
            recent=self._recent(rigs),
            unit=self._last_unit(),
            topic=next(iter(metrics[-1].keys)) if metrics and self._is_question else "",
            since_lows=self._since_lows(metrics),
            listed=self._gone_through() or (() if titles else before.listed),
        )

    def _last_unit(self) -> Unit:
        """Of the last number that has one; “the dock keeps 72” leaves per cent where they were."""
        own = next((n.unit for n in reversed(self.numbers) if n.unit), Unit.NONE)
        shares = self._before.unit is Unit.PERCENT and self._kind in OPEN_KINDS
        return Unit.PERCENT if shares and own is Unit.NONE and self.numbers else own

    def _gone_through(self) -> tuple[str, ...]:
        """“52 in Tidewrack, 61 in Skitter”: titles, each with a figure."""
        found = [next(iter(m.keys)) for m in self.mentions
                 if m.what is What.TITLE and len(m.keys) == 1]  # fmt: skip
        each = tuple(dict.fromkeys(found))
        return each if 1 < len(each) <= len(self.numbers) else ()

    def _since_lows(self, metrics: Sequence[Mention]) -> int:
        """How many sentences ago lows were named; long ago where averages are named again."""
        named = {key for m in metrics for key in m.keys}
        if Metric.LOW in named:
            return 0
        return LONG_AGO if Metric.AVERAGE in named else min(self._before.since_lows + 1, LONG_AGO)

    @property
    def _is_question(self) -> bool:
        return self.words.rstrip().endswith("?") and not self.numbers

    def _last_cue(self) -> Kind | None:
        """What a sentence without a figure was about: “what do you lose?”"""
        found = [] if self.numbers else [*cues.CUE.finditer(self.plain)]
        if not found:
            return None
        return Kind.MORE if found[-1]["more"] else Kind.LESS if found[-1]["less"] else Kind.KEPT

    def _recent(self, rigs: frozenset[str]) -> tuple[str, ...]:
        """Rigs that were named for sure, the one spoken of first."""
        named = [key for m in reversed(self._rigs) if len(m.keys) == 1 for key in m.keys]
        first = [*rigs] if len(rigs) == 1 else []
        return tuple(dict.fromkeys((*first, *named, *self._before.recent)))[:6]

    def _keys(self, what: What) -> frozenset[str]:
        return frozenset(key for one in self.mentions if one.what is what for key in one.keys)

    # Who, against whom, in what, over what

    def _is_base(self, mention: Mention) -> bool:
        mark = self._mark(mention)
        if mark == "over" and mention.is_part and mention.part == "link":
            if any(m is not mention and cues.FIRM_MARK.search(self.words[: m.start])
                   for m in self._rigs):  # fmt: skip
                return False
            start = self.words[: mention.start]
            loses = self._asked not in (Kind.MORE, Kind.TIMES)
            if loses and cues.LEADS_OFF.search(start):  # “over the cord you lose a tenth”
                return False
        if mark == "of" and cues.SHARE_OF.search(self.words[: mention.start]):
            return True
        return bool(mark) and mark not in cues.WEAK

    def _is_place(self, mention: Mention) -> bool:
        return self._mark(mention) in cues.WEAK

    def _mark(self, mention: Mention) -> str:
        """The word that leads to a rig: “than”, “over”, “in”."""
        found = cues.MARK.search(self.words[max(0, mention.start - 60) : mention.start])
        if found is None:
            return ""
        mark = found["mark"].lower()
        if mark == "by" and cues.PASSIVE.search(self.words[: mention.start]):
            return ""
        return mark

    def _read(
        self,
        kind: Kind,
        one: Number | None,
        before: str,
        after: str,
        metric: str,
        at: int | None = None,
        level: bool = False,
    ) -> Iterator[Reading]:
        """Every way to read a comparison: the likeliest first."""
        place = at if at is not None else (one.start if one is not None else 0)
        end = one.end if one is not None else place
        self._asked = kind
        rigs = self._subject_at(place, end, kind)
        move = self._move()
        passive = cues.PASSIVE.search(before) or cues.PASSIVE.search(self.words)
        named = self._base_at(place, end, rigs, kind)
        joined = [m for m in self._rigs if not self._is_base(m)]
        if (
            level
            and not named
            and len(joined) >= 2
            and self._is_list(joined[-2].end, joined[-1].start)
        ):
            rigs, named = joined[-2].keys, joined[-1].keys
        if passive and len(self._rigs) >= 2:
            rigs, named = self._rigs[1].keys, self._rigs[0].keys
        if (
            re.search(r"(?:'s|its|the) (?:lead|advantage)\b", self.words[: place + 40], re.I)
            and kind is Kind.MORE
        ):
            owners = [
                m
                for m in self._rigs
                if re.match(r"(?:'s)? (?:lead|advantage)", self.words[m.end : m.end + 14])
                or self.words[m.start : m.end].lower().endswith("'s")
            ]
            if owners:
                rigs = owners[0].keys
                others = [m.keys for m in self._rigs if not m.keys & rigs]
                named = others[0] if others else named
        if move is not None and kind in (Kind.MORE, Kind.LESS, Kind.TIMES):
            rigs, named = move
        rigs, named = self._of_one_card(rigs, named), self._of_one_card(named, rigs)
        self._base = self._base or named
        scopes = [*self._scopes(one, is_rate=False, at=place)]
        for number, (titles, size, preset) in enumerate(scopes):
            for which, rig in enumerate(self._each(rigs)):
                for order, base in enumerate(self._bases(kind, rig, named)):
                    if base != rig:
                        yield Reading(
                            kind, rig, base, metric, titles, size, preset,
                            as_said=number == 0 and which == 0 and order == 0,
                        )  # fmt: skip

    def _of_one_card(self, rigs: frozenset[str], others: frozenset[str]) -> frozenset[str]:
        """Of rigs that a name leaves open, those with a card of the others: “OCuLink against USB4”
        is of one card over both.
        """
        if len(rigs) < 2 or rigs in self._together or rigs in self._of_both:
            return rigs
        cards = {self._roles.cards.get(one) for one in others} - {None}
        return frozenset(one for one in rigs if self._roles.cards.get(one) in cards) or rigs

    def _move(self) -> tuple[frozenset[str], frozenset[str]] | None:
        """“Moving from the laptop to the dock”: (to what, from what)."""
        for one, other in pairwise(self._rigs):
            between = self.words[one.end : other.start]
            if cues.MOVES.search(self.words[: one.start]) and cues.TO_RIG.fullmatch(between):
                return other.keys, one.keys
        return None

    def _subject(self, one: Number, before: str) -> frozenset[str]:
        return self._subject_at(one.start, one.end, Kind.LESS)

    def _subject_at(self, place: int, end: int, kind: Kind) -> frozenset[str]:
        """Whom it is said of: the nearest rig before it that is no base, “it” for the last one."""
        ahead = [m for m in self._rigs if m.end <= place]
        own = [m for m in ahead if not self._is_base(m)]
        firm = [m for m in own if not self._is_place(m)]
        if (respective := self._respective(place)) is not None:
            return respective
        clause = self._clause_start(place)
        led, adjacent = self._led_behind(end, kind)
        if led and (adjacent or not firm):
            return led
        if not firm and self._before.rigs and cues.PRONOUN.search(self.words[:place]):
            return self._before.rigs
        near = [m for m in firm if m.start >= clause] or [
            m for m in own if m.start >= clause and not firm
        ]
        near = near or firm or own
        if near:
            chosen = near[-1]
            if (
                chosen.is_part
                and chosen.part == "host"
                and len(chosen.keys) > 1
                and self._before.rigs
            ):
                return chosen.keys & self._before.rigs or self._before.rigs
            return chosen.keys
        if cues.PRONOUN.search(self.words[:place]) and self._before.rigs:
            return self._before.rigs
        behind = [m for m in self._rigs if m.start >= end and not self._is_base(m)]
        behind = [m for m in behind if self._mark(m) not in ("of",)] or behind
        if behind and kind is Kind.KEPT and behind[0].is_part and self._mark(behind[0]) == "over":
            return behind[0].keys
        if behind and kind is not Kind.KEPT:
            marks = ("for", "on", "with", "in", "through", "by", "")
            is_led = self._mark(behind[0]) in marks
            is_reference = self._roles.reference in behind[0].keys
            if (is_led or not self._before.rigs) and not (
                kind is Kind.LESS and is_reference and self._before.rigs
            ):
                return behind[0].keys
        return self._before.rigs or frozenset(self._roles.tested)

    def _led_behind(self, end: int, kind: Kind) -> tuple[frozenset[str], bool]:
        """“You give up 8 per cent with the Breakwater”: whom a figure is of, and whether nothing
        lies between.
        """
        if end in self._paired:
            return self._paired[end].keys, True
        following = next((n.start for n in self.numbers if n.start > end), len(self.words))
        behind = [m for m in self._rigs if end <= m.start < following]
        is_times = kind in (Kind.TIMES, Kind.SLOWER_TIMES) and bool(behind)
        if is_times and cues.DETERMINERS.fullmatch(self.words[end : behind[0].start]):
            behind = behind[1:]  # “2.15 times the base for the Sluice”
        for m in behind:
            if self._mark(m) in ("with", "for") and not cues.BREAK.search(
                self.words[end : m.start]
            ):
                return m.keys, cues.RIGHT_BEHIND.fullmatch(self.words[end : m.start]) is not None
        return frozenset(), False

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

    def _row(self, at: int) -> tuple[int, int]:
        """The first and the last of the numbers in a row with one: “53, 67 and 73”."""
        first = last = at
        while first > 0 and self._is_list(self.numbers[first - 1].end, self.numbers[first].start):
            first -= 1
        while last + 1 < len(self.numbers) and self._is_list(
            self.numbers[last].end, self.numbers[last + 1].start
        ):
            last += 1
        return first, last

    def _in_order(self, at: int) -> str:
        """Whose a number is in a row of at least three that name nobody: the rigs' own order, of
        those under test, with the reference behind or the base before; blank where none fits.
        """
        first, last = self._row(at)
        roles = self._roles
        orders = (
            roles.tested,
            (*roles.tested, roles.reference),
            (roles.base, *roles.tested, roles.reference),
        )
        fitting = [one for one in orders if len(one) == last - first + 1 >= 3]
        if self._title_in_row(self.numbers[at]):
            return ""  # in the order of the titles
        start, end = self.numbers[first].start, self.numbers[last].end
        named = any(start - 40 <= m.start < end and not m.all_of for m in self._rigs)
        return fitting[0][at - first] if fitting and not named else ""

    def _respective(self, place: int) -> frozenset[str] | None:
        """“The Groyne and the Breakwater keep 89 % and 92 %”: in the order of both lists."""
        starts = [one.start for one in self.numbers]
        if place not in starts:
            return None
        at = starts.index(place)
        first, last = self._row(at)
        count = last - first + 1
        ahead = [m for m in self._rigs if m.end <= starts[first] and not self._is_base(m)]
        if ahead and ahead[-1].all_of and len(ahead[-1].keys) == count > 1:
            inside = [one for one in self._roles.tested if one in ahead[-1].keys]
            return frozenset(inside[at - first : at - first + 1]) or None
        if count < 2 or len(ahead) < count:
            return None
        names = ahead[-count:]
        if any(not self._is_list(a.end, b.start) for a, b in pairwise(names)):
            return None
        return names[at - first].keys

    def _is_list(self, start: int, end: int) -> bool:
        """Whether only “and” or a comma lies between two places."""
        return cues.LIST.fullmatch(self.words[start:end]) is not None

    def _clause_start(self, place: int) -> int:
        breaks = [*cues.BREAK.finditer(self.words[:place])]
        return breaks[-1].end() if breaks else 0

    def _base_at(self, place: int, end: int, rigs: frozenset[str], kind: Kind) -> frozenset[str]:
        """Against whom, where it is said: behind “than”, “over”, “of”, or where a card stands."""
        others = [m for m in self._rigs if m.keys - rigs or len(rigs) > 1]
        others = [m for m in others if m.keys != rigs and m not in self._paired.values()]
        following = next((n.start for n in self.numbers if n.start > end), len(self.words))
        clause = self._clause_start(place)
        groups = (
            [m for m in others if end <= m.start < following],
            [m for m in others if clause <= m.start and m.end <= place],
            [m for m in others if m.start >= following],
            [m for m in others if m.end <= place],
        )
        weak_too = kind in (Kind.KEPT, Kind.LESS)
        if kind in (Kind.TIMES, Kind.SLOWER_TIMES) and groups[0]:
            first = groups[0][0]
            if cues.DETERMINERS.fullmatch(self.words[end : first.start]):
                return first.keys  # “3.2 times the base”
        for number, group in enumerate(groups):
            for m in group:
                mark = self._mark(m)
                strong = self._is_base(m)
                if number == 2 and mark in ("to", "from"):
                    continue
                up_on = mark == "on" and re.search(
                    r"\b(?:up|down)\b", self.words[clause : m.start], re.I
                )
                if (mark == "of" and number == 0) or (up_on and number == 0):
                    return m.keys
                if strong or (
                    weak_too
                    and not m.all_of
                    and number in (0, 1, 2)
                    and m.start > self._first_subject(rigs)
                    and mark in ("of", "in", "on", "inside", "through")
                ):
                    return m.keys
                if (
                    weak_too
                    and number == 0
                    and re.search(
                        r"\bof (?:what |the speed |its speed )", self.words[end : m.start], re.I
                    )
                ):
                    return m.keys
        return frozenset()

    def _first_subject(self, rigs: frozenset[str]) -> int:
        """Where the subject is named first; before everything where it is carried."""
        return next((m.start for m in self._rigs if m.keys == rigs), -1)

    def _bases(self, kind: Kind, rig: str, named: frozenset[str]) -> Iterator[str]:
        """What it is measured from: as said, else the base of a gain and the twin of a loss."""
        roles = self._roles
        if named:
            twins = list(roles.twins.get(rig, ()))
            ordered = sorted(named, key=lambda one: (*self._nearness(one, twins), one))
            yield from [one for one in ordered if one != rig][:3]
            return
        twins = list(roles.twins.get(rig, ()))
        carried = [one for one in self._before.base if one != rig]
        if rig == roles.reference and kind in (Kind.MORE, Kind.TIMES):
            carried = [one for one in self._before.rigs if one != rig] or carried
        gains = kind in (Kind.MORE, Kind.TIMES)
        usual = [roles.base, *twins] if gains else [*twins, roles.base]
        if rig == roles.base:
            usual = [roles.reference]
        within = [one for one in self._base if one != rig]
        if len(within) == 1:
            usual = [within[0], *usual]  # as before in the same sentence
        elif len(carried) == 1 and (gains or carried[0] != roles.base):
            usual = [carried[0], *usual]
        beside = [key for m in self._rigs if len(m.keys) == 1 for key in m.keys]
        usual = [*usual[:2], *(one for one in beside if one != rig), *usual[2:]]
        yield from [one for one in dict.fromkeys(usual) if one and one != rig][:4]

    def _nearness(self, rig: str, twins: Sequence[str]) -> tuple[int, bool]:
        """How near a rig is to what a loss would be held to: twins first, then the base."""
        place = twins.index(rig) if rig in twins else len(twins)
        return place, rig != self._roles.base

    def _each(self, rigs: frozenset[str]) -> list[str]:
        """Rigs that a name leaves open: the one named last, else those under test."""
        if rigs in self._of_both:
            return sorted(self._of_both[rigs])
        if len(rigs) < 2:
            return [*rigs]
        if rigs in self._together:
            return sorted(rigs)
        tested = [one for one in self._roles.tested if one in rigs]
        recent = [one for one in self._before.recent if one in rigs]
        known = [one for one in recent if one in tested] or recent
        return known[:1] or (tested or sorted(rigs))[:4]

    def _metric(self, one: Number | None, before: str, after: str, at: int | None = None) -> str:
        place = one.start if one is not None else at or 0
        end = one.end if one is not None else place
        near = [m for m in self.mentions if m.what is What.METRIC]
        behind = [
            m for m in near if end <= m.start and cues.NAMES_METRIC.match(self.blank[end : m.start])
        ]
        behind = [m for m in behind if not cues.BREAK.search(self.words[end : m.start])]
        following = next((n.start for n in self.numbers if n.start > end), len(self.words))
        behind = [m for m in behind if m.start < following]
        start = place - len(before)
        ahead = [m for m in near if start <= m.start and m.end <= place]
        earlier = [m for m in near if m.end <= place and not re.search(
            r";|\b(?:but|while|whereas)\b", self.words[m.end : place])]  # fmt: skip
        titles = self._title_of(one) if one is not None else self._keys(What.TITLE)
        if titles and titles <= self._tests:
            return Metric.SCORE
        for group in (behind[:1], ahead[-1:], earlier[-1:]):
            for m in group:
                key = next(iter(m.keys))
                if key == Metric.SCORE and cues.GAMES.search(self.words[m.end : place]):
                    return Metric.AVERAGE  # “don't trust scores: the games say 25”
                return key
        if self._before.metric != Metric.AVERAGE and cues.THEY_ARE.search(self.words[:place]):
            self._is_carried = True
            return self._before.metric
        if self._before.metric != Metric.AVERAGE and (
            re.match(r"\s*(?:and |but )?(?:they|these|those|there,? they)\b", self.words, re.I)
            or cues.OWN.match(self.words)  # “The tower's is 89.”
            or cues.THAT_FIGURE.search(self.words)
        ):
            return self._before.metric
        return self._before.topic or Metric.AVERAGE

    def _title_of(self, one: Number) -> frozenset[str]:
        return self._near(What.TITLE, one.start, one.end)

    def _near(self, what: What, place: int, end: int) -> frozenset[str]:
        """What is named nearest to a number: right behind it, else before it, else anywhere."""
        every = [m for m in self.mentions if m.what is what]
        every = [m for m in every if not cues.EXCEPT.search(self.words[: m.start])]
        if what is What.SIZE and (own := self._size_in_row(every, place)):
            return own
        end = self._end_of_pair(end)
        following = next((n.start for n in self.numbers if n.start > end), len(self.words))
        behind = [m for m in every if end <= m.start < following]
        if behind and any(m.end <= place for m in every):  # “103 to 96, in the other 142”
            last = behind[-1]
            if "," in self.words[end : last.start] and self._leads_on(last.end):
                behind = []
        if behind and not cues.BREAK.search(self.words[end : behind[0].start]):
            ahead = [m for m in every if m.end <= place]
            lead = re.search(
                r"\b(?:in|at|for|on|of)\s+(?:the\s+)?$", self.words[end : behind[0].start], re.I
            )
            if lead or not ahead:
                return self._listed(behind, behind[0])
        ahead = [m for m in every if m.end <= place]
        if ahead:
            return self._listed([*reversed(ahead)], ahead[-1])
        rest = [m for m in every if m.start >= end]
        return self._listed(rest, rest[0]) if rest else frozenset()

    def _end_of_pair(self, end: int) -> int:
        """Where the second of “247 instead of 305” ends: both are of the same."""
        following = next((n for n in self.numbers if n.start > end), None)
        if following is None or not cues.TO_OTHER.fullmatch(self.words[end : following.start]):
            return end
        return following.end

    def _leads_on(self, end: int) -> bool:
        """Whether the next number stands right behind a name."""
        following = next((n.start for n in self.numbers if n.start > end), None)
        return following is not None and len(self.words[end:following].split()) <= 3

    def _size_in_row(self, sizes: Sequence[Mention], place: int) -> frozenset[str]:
        """“From 69 to 53 to 35 as we go from 1080p to 1440p to 4K”: in the order of both."""
        rates = [one for one in self.numbers if one.end <= sizes[0].start] if sizes else []
        if len(sizes) < 2 or len(rates) != len(sizes):
            return frozenset()
        at = [one.start for one in rates]
        return sizes[at.index(place)].keys if place in at else frozenset()

    def _title_in_row(self, one: Number) -> str:
        """Of which title a number is, in a row as long as a list of titles, which stands behind it
        or before it, or was gone through in the sentence before: “94, 101 and 71 in Tidewrack,
        Skitter and Low Lantern”; blank where there is no such list.
        """
        starts = [number.start for number in self.numbers]
        at = starts.index(one.start) if one.start in starts else -1
        if at < 0 or any(m.all_of for m in self._rigs):
            return ""
        first, last = self._row(at)
        count = last - first + 1
        named = [m for m in self.mentions if m.what is What.TITLE]
        start, end = self.numbers[first].start, self.numbers[last].end
        apart = all(m.end <= start for m in named) or all(m.start >= end for m in named)
        is_list = len(named) == count and all(
            self._is_list(a.end, b.start) for a, b in pairwise(named)
        )
        own = tuple(min(m.keys) for m in named) if is_list and apart else ()
        listed = own if named else self._before.listed
        return listed[at - first] if 1 < count == len(listed) else ""

    def _listed(self, found: Sequence[Mention], first: Mention) -> frozenset[str]:
        """“Tidewrack and Skitter”: names in a row."""
        keys, last = set(first.keys), first
        for m in found[1:]:
            a, b = sorted((last, m), key=lambda one: one.start)
            if (
                re.fullmatch(
                    r"\s*(?:,|and|or|, and|&)\s*(?:in |at )?", self.words[a.end : b.start], re.I
                )
                is None
            ):
                break
            keys |= m.keys
            last = m
        return frozenset(keys)

    def _scopes(
        self, one: Number | None, is_rate: bool, at: int | None = None
    ) -> Iterator[tuple[frozenset[str], str, str]]:
        """(titles, size, preset) as said, then as the sentence before leaves it open."""
        place = one.start if one is not None else at or 0
        end = one.end if one is not None else place
        in_row = self._title_in_row(one) if one is not None else ""
        titles = frozenset({in_row}) if in_row else self._near(What.TITLE, place, end)
        sizes, presets = self._near(What.SIZE, place, end), self._near(What.PRESET, place, end)
        size, preset = next(iter(sorted(sizes)), ""), next(iter(sorted(presets)), "")
        before = self._before
        if cues.ALL_SIZES.search(self.words):
            before = replace(before, size="")
        if in_row and not self._keys(What.TITLE):
            yield titles, size or before.size, preset or before.preset
            return
        if titles:
            yield titles, size, preset
            if not size and before.size:
                yield titles, before.size, preset
            return
        every = any(m.what is What.EVERY for m in self.mentions)
        there = any(m.what is What.PLACE for m in self.mentions)
        carried = before.titles
        if every and not is_rate:
            yield frozenset(), size, preset
            if not size and before.size and not before.titles:
                yield frozenset(), before.size, preset
            return
        if carried and (is_rate or there or size):
            yield carried, size or before.size, preset or before.preset
            if before.size and not size and not before.is_size_sure:
                yield carried, "", preset or before.preset
            if not there and (every or not is_rate):
                yield frozenset(), size, preset
            return
        if carried:
            yield carried, size or before.size, preset or before.preset
            yield frozenset(), size, preset
            return
        if before.size and not size:
            yield frozenset(), before.size, preset or before.preset
        yield frozenset(), size, preset

    def _statement(self, one: Number, readings: Sequence[Reading] | Iterator[Reading]) -> Statement:
        found = [*dict.fromkeys(readings)][:MOST_READINGS]
        if found and found[0].rig and one.start not in self._was:
            self._rig = self._rig or frozenset({found[0].rig})
        negated = cues.NOT.search(self.words[max(0, one.start - 30) : one.start]) is not None and (
            one.hedge in (Hedge.NONE, Hedge.ABOUT)
        )
        return Statement(one.start, one.end, tuple(found), one, negated)
