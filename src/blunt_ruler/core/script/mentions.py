"""Rigs, titles, sizes, settings and measures as a script names them.

People call a rig by what distinguishes it: “the dock”, “the cable”, “the tower”, “the 40-gigabit
box”. Every word of a rig's parts that others do not share is a name of it; what several share
(“the Marram 12”) names all of these, and words beside it narrow it down: “the Marram 12 in the
tower”.
"""

import re
from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from blunt_ruler.core.board.board import Board, Column, Row
from blunt_ruler.core.board.playable import PRESETS
from blunt_ruler.core.claims.claim import Metric
from blunt_ruler.core.measure.resolution import pixels
from blunt_ruler.core.records.hardware import Link
from blunt_ruler.core.records.records import Contents, Role
from blunt_ruler.core.rigs.links import has_tunnel
from blunt_ruler.core.rigs.typed_places import NAMED_BUILT_IN


class What(StrEnum):
    """What a mention is of."""

    RIG = "rig"
    TITLE = "title"
    SIZE = "size"
    PRESET = "preset"
    METRIC = "metric"
    EVERY = "every"  # “on average”, “in all games”: not one title
    PLACE = "there"


@dataclass(frozen=True, slots=True)
class Mention:
    """Something named in a sentence: `keys` are ids of rigs, names of titles, sizes, presets or
    measures; `is_part` says that a rig is named by its link or host alone.
    """

    start: int
    end: int
    what: What
    keys: frozenset[str]
    is_part: bool = False
    part: str = ""  # "link" or "host", where `is_part`
    by_card: bool = False
    is_loose: bool = False  # “the laptop” may also be the laptop with a dock
    all_of: bool = False  # “every dock”, “the docks”: all of several rigs


LOW_01 = "0.1% low"
MINIMUM = "minimum"

_METRICS = (
    (LOW_01, r"(?<![\d.])(?:0\.1|(?:zero |nough[t] )?point one) ?(?:%|per ?cent|"
        r"percent)?[ -]lows?\b"),
    (Metric.LOW, r"(?:\bthe )?(?<![\d.,])\b(?:1|one) ?(?:%|per ?cent|percent)[ -]?(?:lows?|"
        r"minimums?)\b|"
                 r"\blow (?:1|one) ?(?:%|per ?cent\b|percent\b)|"
                 r"\bp1\b|99th percentiles?|\blows\b|\b(?:the|its|their|a) low\b(?! settings?|"
                     r" preset)|\blow(?= (?:is|was|of|drops|falls)\b)|"
                 r"\blow frame rates?\b|\blow end\b"),
    (MINIMUM, r"\bminimums?(?: fps| frame rates?)?\b|\bminima\b"),
    (Metric.SCORE, r"\bscor(?:es?|ed|ing)\b|\bsynthetics?(?: tests?)?\b"),
    (Metric.AVERAGE, r"\b(?:the |its |an? )?averages?\b(?! over| of all)|\bavg\b|\bmean\b|"
                     r"\bframe ?rates?\b|\bspeed\b|\bperformance\b"),
)  # fmt: skip
_EVERY = (
    r"\bon average\b|\boverall\b|\bin total\b|\bacross (?:the board|all|every|the|our|these|my)\b|"
    r"\b(?:in|over|of|for) (?:all|every|each)(?: of)?(?: the| our| these| my)?"
    r"(?: \w+)? ?(?:games?|titles?|tests?|cases?)\b|\beverywhere\b|\b(?:the|a) mean\b|"
    r"\baveraged\b|\bthe average over\b|\bas a whole\b|"
    r"\b(?:over|across|for|in) everything\b|\ball in all\b|\ball told\b|\btaken together\b|"
    r"\bdepending on (?:the|which) (?:game|title)\b|\bfrom (?:game to game|title to title)\b"
)
_PLACE = r"\b(?:there|in this (?:game|title|one)|in that (?:game|title|one)|here)\b"
_SIZES = (
    r"\b\d{3,4}p\b|\b[2458] ?k\b|\b\d{3,4} ?[x×] ?\d{3,4}\b|\b(?:ultra[ -]?|full[ -]?|"
    r"quad[ -]?)hd\b|"
    r"\b(?:fhd|qhd|wqhd|uhd)\b|\bten[ -]eighty(?:[ -]?p)?\b|\bfourteen[ -]forty(?:[ -]?p)?\b|"
    r"\btwenty[ -]one[ -]sixty(?:[ -]?p)?\b|\bfour[ -]k\b|"
    r"\b(?:at|in) (?:720|900|1080|1440|1600|2160)\b(?! ?(?:fps|frames))"
)
_SIZE_WORDS = {
    "fullhd": "1080p", "fhd": "1080p", "tenighty": "1080p", "teneighty": "1080p",
    "fourteenforty": "1440p", "qhd": "1440p", "wqhd": "1440p", "quadhd": "1440p",
    "uhd": "2160p", "ultrahd": "2160p", "twentyonesixty": "2160p", "fourk": "4k",
}  # fmt: skip
_PRESET = r"(?:settings?|presets?|details?|quality)"
GLUE = re.compile(
    r"[\s,]*(?:(?:hooked|plugged|hung|running|connected|attached|sitting|hanging)\s+)?(?:(?:up|in)\s+)?"
    r"(?:(?:over|in|inside|on|off|through|via|behind|with|to|at the end of|of)\s+)?"
    r"(?:(?:the|a|an|its|their|our|that|same|card|itself|is)\s+)*"
)
_COMMON = frozenset(
    """
    the and with card cards graphics gpu of for in on a an is at to by mini box new old pro big
    small its case cases measured rig rigs test tests part parts laptop desktop machine computer
    low high max ultra medium run turn night mode link no one all gen generation gb port ports
    pcie usb express over from what it same lap match walk frame frames side end
    """.split()
)
_STRANGER = re.compile(
    r"\b(?P<lead>[Ii]n|[Oo]n|[Aa]t|[Oo]ver|[Tt]han|[Aa]gainst|[Tt]he|[Tt]o|[Oo]f|"
    r"[Ww]ith|[Ff]rom|vs\.?|versus|"
    r"[Ff]or|[Mm]y|[Oo]ur|[Aa]n?)\s+(?P<name>[A-Z][a-z]\w*(?:[ -][A-Z0-9]\w*)*)"
)
_FIRST_STRANGER = re.compile(
    r"^\W*(?P<name>[A-Z][a-z]+(?:[ -][A-Z0-9]\w*)*)\s+(?:is|keeps|loses|does|gains|runs|"
    r"reaches|averages|"
    r"costs|draws|beats|trails|manages|gets|falls|drops|leads|scores|wins)\b"
)
# What a card outside a machine, or another machine, is called by anybody.
_OUTSIDE = re.compile(
    r"(?<!out of )\b(?:the|this|that|my|our|your|an?|with|over|via|through)\s+"
    r"(?P<name>e-?gpus?|external (?:gpus?|graphics(?: cards?)?|cards?)|docks?|enclosures?|"
    r"box(?:es)?|adapt[eo]rs?|risers?|cables?|cords?)\b(?! (?:costs?|is (?:long|short|thick))\b)",
    re.I,
)
_ELSEWHERE = re.compile(
    r"\b(?:the|this|that|my|our|your|an?)\s+(?P<name>handhelds?|laptops?|notebooks?|tablets?|"
    r"phones?|consoles?|desktops?|towers?|workstations?)\b(?! (?:mode|pc))",
    re.I,
)
_STANDARD = re.compile(r"(?<!has )(?<!have )\b(?P<name>USB ?4|OCuLink)\b(?! ports?\b)")
_CAPITALS = frozenset(
    """
    it that this there here he she they we you i everything nothing what which who one each every
    both all some most many none no so then now but and or if when while where why how here's
    that's it's our my your its their his her the a an in on at of to for from with over against
    another other neither either monday tuesday wednesday thursday friday saturday sunday january
    february march april may june july august september october november december english fps cpu
    gpu oculink thunder half twice nobody anyone first second third last next performance speed
    result results average
    """.split()
)
_ALL_OF = re.compile(
    r"\b(?:every|each|all|both|any|none of)(?: of)?(?: the| these| our| my)?"
    r"(?: two| three| four| five)?\s+$",
    re.I,
)
_SOME_OF = re.compile(r"\b(?:one|some|most|two|either) of (?:the|these|our|my)\s+$", re.I)
_WORD = re.compile(r"[^\W\d_][\w-]{2,}")


class Vocabulary:
    """What can be named in one review."""

    def __init__(
        self,
        contents: Contents,
        board: Board,
        tests: Sequence[Row] = (),
        parts: Mapping[str, frozenset[str]] | None = None,
    ) -> None:
        self.board = board
        self._rigs = _rig_names(contents, board)
        self._sizes = {row.resolution for row in board.rows if row.resolution}
        names: dict[str, list[tuple[What, frozenset[str]]]] = defaultdict(list)
        for name, (keys, _) in self._rigs.items():
            names[name].append((What.RIG, keys))
        of_titles = _title_names(board, tests, set(self._rigs))
        of_titles |= {one: of for one, of in (parts or {}).items() if one not in self._rigs}
        for name, titles in of_titles.items():
            names[name].append((What.TITLE, titles))
        self._partial = {name for name in of_titles if " " not in name}
        self._names = {name: found[0] for name, found in names.items()}
        self._pattern = _any_of(names)
        self._known = _words_of(contents)
        self._outside = {
            one.rig_id: _plain(" ".join((one.name, one.link or "")))
            for one in board.columns
            if not (_is_built_in(one) or one.role is Role.REFERENCE or one.source)
        }
        presets = {one.lower() for one in PRESETS} | {"ultra", "minimum"}
        presets |= {case.preset.strip().lower() for case in contents.cases.values()} - {""}
        listed = "|".join(re.escape(one) for one in sorted(presets, key=len, reverse=True))
        self._presets = re.compile(
            rf"\b(?:at|on|in|with|against|versus|"
            rf"vs\.?)\s(?:the\s)?(?P<a>{listed})\b(?:\s{_PRESET})?"
            rf"(?!\s(?:frame|1|lows?\b))|\b(?P<b>{listed})\s{_PRESET}\b",
            re.I,
        )
        self._others = re.compile(
            "|".join(
                f"(?P<{name}>{pattern})"
                for name, pattern in (
                    ("size", _SIZES),
                    *((f"m{place}", pattern) for place, (_, pattern) in enumerate(_METRICS)),
                    ("every", _EVERY),
                    ("place", _PLACE),
                )
            ),
            re.I,
        )

    def sizes_of(self, titles: frozenset[str]) -> tuple[str, ...]:
        """The sizes that some titles were measured at."""
        return tuple(dict.fromkeys(row.resolution for row in self.board.rows
                                   if row.title in titles and row.resolution))  # fmt: skip

    def mentions(self, words: str) -> tuple[Mention, ...]:
        """Everything named in a sentence, in order."""
        found = [*self._named(words)]
        blank = blanked(words, found)
        found += self._preset_mentions(blank)
        found += self._other_mentions(blanked(words, found))
        found += self._strangers(blanked(words, found))
        found += self._by_kind(blanked(words, found))
        found.sort(key=lambda one: one.start)
        return tuple(_narrowed(words, found))

    def _strangers(self, words: str) -> Iterator[Mention]:
        """Names that nothing here has: what is said of them is not in the logbook."""
        for pattern in (_STRANGER, _FIRST_STRANGER, _STANDARD):
            for one in pattern.finditer(words):
                name = one["name"]
                first = name.split()[0].lower()
                is_word = first in self._known or first in _CAPITALS or name.isupper()
                if is_word and pattern is not _STANDARD:
                    continue
                lead = (one.groupdict().get("lead") or "").lower()
                what = What.TITLE if lead in ("in", "at", "for") else What.RIG
                yield Mention(one.start("name"), one.end("name"), what, frozenset({f"?{name}"}))

    def _by_kind(self, words: str) -> Iterator[Mention]:
        """“The dock”, “the handheld”, where nothing here is called so: whatever is of that kind,
        or nobody.
        """
        for one in _OUTSIDE.finditer(words):
            name = _plain(one["name"])
            single = name.removesuffix("es") if name.endswith("xes") else name.removesuffix("s")
            called = [key for key, said in self._outside.items() if single in said.split()]
            keys = frozenset(called or self._outside or (f"?{name}",))
            several = len(keys) > 1 and name != single
            yield Mention(*one.span("name"), What.RIG, keys, all_of=several)
        for one in _ELSEWHERE.finditer(words):
            name = _plain(one["name"])
            if not self._known & {name, name.removesuffix("s")}:
                yield Mention(*one.span("name"), What.RIG, frozenset({f"?{name}"}))

    def _named(self, words: str) -> Iterator[Mention]:
        written = any(letter.isupper() for letter in words[1:])
        for one in self._pattern.finditer(words):
            if written and _plain(one[0]) in self._partial and not one[0][0].isupper():
                continue  # “falls” is no game where others have capitals
            name = _plain(one[0])
            plural = name not in self._names
            name = name.removesuffix("s") if plural else name
            what, keys = self._names[name]
            kind = self._rigs.get(name, (keys, ""))[1]
            ahead = words[max(0, one.start() - 30) : one.start()]
            led = _ALL_OF.search(ahead) is not None
            plural = plural and _SOME_OF.search(ahead) is None
            yield Mention(
                one.start(),
                one.end(),
                what,
                keys,
                is_part=what is What.RIG and kind in ("link", "host"),
                part=kind if what is What.RIG and kind in ("link", "host") else "",
                by_card=what is What.RIG and kind == "card",
                is_loose=what is What.RIG and name in _MACHINES,
                all_of=what is What.RIG and len(keys) > 1 and (plural or led),
            )

    def _preset_mentions(self, words: str) -> Iterator[Mention]:
        for one in self._presets.finditer(words):
            name = "a" if one["a"] else "b"
            yield Mention(
                one.start(name), one.end(), What.PRESET, frozenset({one[name].strip().lower()})
            )

    def _other_mentions(self, words: str) -> Iterator[Mention]:
        for one in self._others.finditer(words):
            kind = one.lastgroup or ""
            if kind == "size":
                yield Mention(one.start(), one.end(), What.SIZE, self._size(one[0]))
            elif kind == "every":
                yield Mention(one.start(), one.end(), What.EVERY, frozenset())
            elif kind == "place":
                yield Mention(one.start(), one.end(), What.PLACE, frozenset())
            else:
                metric = str(_METRICS[int(kind[1:])][0])
                yield Mention(one.start(), one.end(), What.METRIC, frozenset({metric}))

    def _size(self, said: str) -> frozenset[str]:
        """Sizes of the review that are as large as what is said; what is said, where none is."""
        plain = re.sub(r"[\s-]|^(?:at|in)\s", "", said.lower().strip())
        plain = _SIZE_WORDS.get(plain.rstrip("p"), plain)
        if plain.isdigit():
            plain += "p"
        wanted = pixels(plain)
        same = {one for one in self._sizes if pixels(one) == wanted and wanted is not None}
        return frozenset(same or {plain})


NUMBERLESS = (What.EVERY, What.PLACE)


def blanked(words: str, found: Sequence[Mention], but: Sequence[What] = NUMBERLESS) -> str:
    """The words with what was named blanked out, `but` for mentions of some kinds."""
    letters = [*words]
    for one in found:
        if one.what not in but:
            letters[one.start : one.end] = " " * (one.end - one.start)
    return "".join(letters)


def _narrowed(words: str, found: Sequence[Mention]) -> Iterator[Mention]:
    """Mentions of rigs that stand together become one: “the Marram 12 in the tower”."""
    before: Mention | None = None
    for one in found:
        if before is not None and before.what is What.RIG and one.what is What.RIG:
            between = words[before.end : one.start]
            both = before.keys & one.keys
            if both and len(between) < 40 and GLUE.fullmatch(between):
                before = replace(
                    before,
                    end=one.end,
                    keys=both,
                    is_part=before.is_part and one.is_part,
                    part=before.part if before.is_part and one.is_part else "",
                    by_card=before.by_card and one.by_card,
                )
                continue
        if before is not None:
            yield before
        before = one
    if before is not None:
        yield before


def _any_of(names: dict[str, list[tuple[What, frozenset[str]]]]) -> re.Pattern[str]:
    ordered = sorted(names, key=len, reverse=True)
    if not ordered:
        return re.compile(r"(?!)")
    patterns = [
        re.escape(one).replace(r"\ ", r"[\s-]+").replace("\\-", "[\\s-]?") for one in ordered
    ]
    return re.compile(rf"(?<![\w])(?:{'|'.join(patterns)})(?:'s|s)?(?![\w])", re.I)


def _plain(said: str) -> str:
    plain = re.sub(r"[\s-]+", " ", said.lower())
    return plain.removesuffix("'s").strip()


def _words_of(contents: Contents) -> frozenset[str]:
    """Every word of a name that the logbook knows, of parts and of what runs on them."""
    said = [one.name for table in (contents.hosts, contents.cards, contents.docks, contents.links,
                                   contents.rigs, contents.titles, contents.reviews)
            for one in table.values()]  # fmt: skip
    said += [text for host in contents.hosts.values() for text in (host.cpu, host.operating_system)]
    said += [
        text for rig in contents.rigs.values() for text in (rig.state.driver, rig.source, rig.notes)
    ]
    said += [text for case in contents.cases.values() for text in (case.scene, case.preset)]
    return frozenset(word for one in said for word in re.findall(r"[a-z]\w*", one.lower()))


Names = dict[str, tuple[frozenset[str], str]]


def _rig_names(contents: Contents, board: Board) -> Names:
    """Name → (ids of the rigs it names, what part names them)."""
    found: dict[str, tuple[set[str], str]] = {}

    def add(name: str, rig_id: str, kind: str, anyhow: bool = False) -> None:
        plain = _plain(name)
        if len(plain) < 2 or (plain in _COMMON and not anyhow) or plain.isdigit():
            return
        keys, known = found.setdefault(plain, (set(), kind))
        keys.add(rig_id)
        if kind == "rig" and known != "rig":
            found[plain] = keys, kind

    titles = {word for row in board.rows for word in _WORD.findall(row.title.lower())}
    for column in board.columns:
        for name, kind in _called(column):
            add(name, column.rig_id, kind, anyhow=True)
        link = contents.link_of(column.rig_id) if column.rig_id in contents.rigs else None
        for name in _links_called(link) if link is not None else ():
            add(name, column.rig_id, "link")
        for name in _lanes_called(column.name):
            add(name, column.rig_id, "link")
        for name, kind in _names_of(contents, column):
            add(name, column.rig_id, kind, anyhow=kind == "rig")
            for word in _WORD.findall(name.lower()) if kind != "card" else ():
                if word not in titles:
                    add(word, column.rig_id, kind)
    whole = {one.rig_id for one in board.columns}
    of_name = defaultdict(set)
    for column in board.columns:
        of_name[_plain(column.name)].add(column.rig_id)
    # “USB4”, where one rig is called just that and another “USB4 dock”, is the first.
    found |= {name: (keys, "rig") for name, keys in of_name.items() if name in found}
    return {
        name: (frozenset(keys), kind)
        for name, (keys, kind) in found.items()
        if kind in ("rig", "card") or len(keys) < len(whole) or len(whole) == 1
    }


_MACHINES = ("laptop", "notebook", "handheld")
_ALONE = ("alone", "on its own", "by itself", "itself", "graphics")


def _is_built_in(column: Column) -> bool:
    """Whether a rig is built-in graphics: by its card, its name, or as a base nobody described."""
    told = column.built_in or NAMED_BUILT_IN.search(column.name) is not None
    return told or (column.role is Role.BASE and not column.card)


def _called(column: Column) -> Iterator[tuple[str, str]]:
    """What anyone would call a rig of its kind."""
    if _is_built_in(column):
        for name in ("built-in graphics", "built-in", "builtin graphics", "integrated graphics",
                     "integrated", "igpu", "onboard graphics", "on-board graphics", "onboard",
                     "internal graphics", "integrated gpu", "built-in gpu", *_MACHINES,
                     *(f"{one} {alone}" for one in _MACHINES for alone in _ALONE)):  # fmt: skip
            yield name, "rig"
    number = re.search(r"\d+\w*$", column.card)
    if number is not None and not column.built_in:
        yield f"the {number[0]}", "card"
    if column.role is Role.BASE:
        yield "base", "rig"
        yield "baseline", "rig"
    if column.role is Role.REFERENCE:
        for name in ("reference", "tower", "desktop", "desktop tower", "full slot"):
            yield name, "rig"


def _names_of(contents: Contents, column: Column) -> Iterator[tuple[str, str]]:
    """What a rig is called by its own name or a part's, and by which part."""
    yield column.name, "rig"
    apart = re.sub(re.escape(column.card), " ", column.name, flags=re.I).strip()
    if apart != column.name and apart:
        yield apart, "rig"
    if column.card and column.card != column.name:
        yield column.card, "card"
    if column.source:
        yield column.source, "rig"
    if column.rig_id not in contents.rigs:
        return
    dock, host = contents.dock_of(column.rig_id), contents.host_of(column.rig_id)
    if dock is not None:
        yield dock.name, "rig"
        yield "dock enclosure", "rig"
    if host is not None:
        yield host.name, "host"
    if (link := contents.link_of(column.rig_id)) is not None:
        yield link.name, "link"


def _lanes_called(name: str) -> Iterator[str]:
    """“PCIe 4.0 x4”, “x4 Gen4”: “x4”, “four lanes”, “Gen 4”, “PCIe 4”."""
    for lanes in re.findall(r"\bx(\d+)\b", name, re.I):
        said = (lanes, *_LANES.get(lanes, (lanes,)))
        yield from (f"x{lanes}", *(f"{one}{tail}" for one in said for tail in LANE_TAILS))
    for number in re.findall(r"\b(?:Gen(?:eration)?|PCIe)[ -]?(\d)(?:\.0)?\b", name, re.I):
        yield from (f"{one} {number}" for one in ("gen", "generation", "PCIe", "PCIe gen"))
        yield from (f"gen{number}", f"PCIe {number}.0", f"PCIe{number}")


LANE_TAILS = (" lanes", "-lane", " lane", "-lane dock", "-lane link", "-lane one")


def _links_called(link: Link) -> Iterator[str]:
    """“x4”, “four lanes”, “the 40-gigabit”, “the tunnel”."""
    yield from _lanes_called(link.name)
    for rate in re.findall(r"\b(\d+) ?Gb/s", link.name):
        yield from (f"{rate} gigabit", f"{rate} gigabits", f"{rate} Gb/s", f"{rate} Gbps")
        if rate in _TENS:
            yield f"{_TENS[rate]} gigabit"
    if has_tunnel(link):
        yield from ("tunnel", "USB4", "USB 4", "USB-C", "Type-C")
    named = " ".join((link.name, *(hop.name for hop in link.hops))).lower()
    if not has_tunnel(link) and re.search(r"\b(?:oculink|cord)\b", named):
        yield "OCuLink"
    for hop in link.hops:
        if " " in hop.name and not hop.name.lower().endswith("port"):
            yield hop.name


_TENS = {"10": "ten", "20": "twenty", "40": "forty", "80": "eighty"}
_LANES = {
    "1": ("one", "single"),
    "2": ("two",),
    "4": ("four",),
    "8": ("eight",),
    "16": ("sixteen",),
}


def _title_names(board: Board, tests: Sequence[Row], taken: set[str]) -> dict[str, frozenset[str]]:
    found: dict[str, set[str]] = defaultdict(set)
    for row in (*board.rows, *tests):
        found[_plain(row.title)].add(row.title)
        for word in _WORD.findall(row.title.lower()):
            plain = _plain(word)
            if len(plain) > 4 and plain not in _COMMON and plain not in taken:
                found[plain].add(row.title)
        if row.scene and len(row.scene) > 4:
            found[_plain(row.scene)].add(row.title)
    return {
        name: frozenset(titles)
        for name, titles in found.items()
        if len(titles) == 1 or any(name == _plain(one) for one in titles)
    }
