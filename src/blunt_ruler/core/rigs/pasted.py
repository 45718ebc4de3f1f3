"""What other systems show of a link, a driver or a fault, recognised in text as it was pasted.

Speeds and widths are those of PCI Express; how listings, device pages and command lines write them
is common practice, no source.
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass, replace

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.rigs.links import GENERATION_OF, LANES
from blunt_ruler.core.rigs.machine_report import (
    DisplayDevice,
    LinkState,
    Machine,
    link_words,
)

PLAIN = "the pasted text"
MOST_TEXT = 1_000_000  # characters: a listing of a whole machine has a tenth of it
MOST_LINE = 300  # characters: no reading is longer, and patterns stay quick
MOST_LINES = 300  # of a device

_BUS = r"pci[\s-]?e(?:xpress)?\s*"
_GEN = r"gen(?:eration)?\.?\s*"
_PAIR = re.compile(
    rf"(?:\bx\s?(?P<w1>\d\d?)|\b(?P<w2>\d\d?)\s?x)\s+(?:@\s*)?(?:{_BUS})?"
    rf"(?:{_GEN}(?P<g1>[1-6])(?:\.[0-2])?|(?P<g2>[1-6])\.[0-2])\b(?!\s*GT)"  # x4 3.0, 4x Gen 3
    rf"|(?:{_BUS}(?:{_GEN})?|\b{_GEN})(?P<g3>[1-6])(?:\.[0-2])?\s*@?\s*"
    r"(?:x\s?(?P<w3>\d\d?)\b|(?P<w4>\d\d?)\s?x\b)"  # PCIe 3.0 x4, Gen3 x4
    r"|(?<![\d.])(?P<g4>[1-6])\.[0-2]\s+x\s?(?P<w5>\d\d?)\b",  # 3.0 x4
    re.I,
)
_RATE = re.compile(r"(?P<rate>\d{1,2}(?:\.\d+)?)\s*GT/s", re.I)
_LANES = re.compile(
    r"\bx\s?(?P<w>\d\d?)\b|\b(?P<v>\d\d?)\s?x\b|\b(?P<l>\d\d?)\s?lanes?\b|"
    r"(?:width|lanes?)\s*[:=]\s*(?P<n>\d\d?)\b",
    re.I,
)
_ALONE = re.compile(r"\s*x\s?\d\d?\s*", re.I)
_HEADER = re.compile(
    r"^(?:[0-9a-f]{4}:)?(?P<at>[0-9a-f]{2}:[0-9a-f]{2}\.[0-7])\s+(?P<what>[^:]+):", re.I
)
_DISPLAY = re.compile(r"\b(?:vga|3d controller|display)\b", re.I)
_MOST = re.compile(r"\b(?:max(?:imum)?|capab\w*|lnkcap|supported)\b|max_link|lnkcap", re.I)
_NOW = re.compile(r"\b(?:current(?:ly)?|now|negotiated|lnksta)\b|current_link|lnksta", re.I)
_SPEED = re.compile(r"\b(?:link[ _]?)?(?:speed|gen(?:eration)?)\b|link_speed", re.I)
_WIDE = re.compile(r"\bwidth\b|link_width|\blanes?\b", re.I)
_DRIVER = re.compile(
    r"\bdriver\s*(?:version|ver\.?|package version)?\s*[:=]?\s*v?(?P<v>\d+(?:\.\d+){1,4})\b", re.I
)
_BARE = re.compile(r"\s*(?:max(?:imum)?|current)\s*[:=]\s*\S+\s*$", re.I)  # below “Link Width”
_FAULT = re.compile(
    r"\b(?i:code)[ \t:]*(?P<code>\d{1,3})\b|\b(?P<hex>0x[0-9a-f]{2,16})\b|"
    r"\b(?P<stop>[A-Z]{3,}(?:_[A-Z0-9]{2,}){1,6})\b"
)


_OTHER = re.compile(r"\b(?:lnkcap2|lnkctl2?|lnksta2|target)\b", re.I)  # not how it runs


class NothingTold(UserFixable):
    """The text has no reading that is known."""


class TwoTold(UserFixable):
    """The text tells two links, and not of which device each is."""


@dataclass(frozen=True, slots=True)
class Pasted:
    """What a text told: a link for each device, the driver, and faults in their own words."""

    links: tuple[LinkState, ...]
    driver: str = ""
    faults: tuple[str, ...] = ()


def read_pasted(text: str) -> Pasted:
    """Recognise links, driver and faults.

    A listing of a whole machine counts for its graphics devices only. Raises NothingTold where
    there is nothing of the kind, and TwoTold where two readings of a link differ.
    """
    links: list[LinkState] = []
    faults: dict[str, None] = {}
    driver = ""
    for name, lines in _devices([one[:MOST_LINE] for one in text[:MOST_TEXT].splitlines()]):
        link = LinkState(name, None, None, None, None)
        heading = ""
        for line in lines[:MOST_LINES]:
            bare = _BARE.match(line)
            heading = heading if bare else line.strip()
            link = _with(link, f"{heading} {line.strip()}" if bare else line)
            if not driver and (found := _DRIVER.search(line)):
                driver = found["v"]
            if name == PLAIN:
                faults |= dict.fromkeys(_faults(line))
        if link != LinkState(name, None, None, None, None):
            links.append(link)
    if not links and not driver and not faults:
        raise NothingTold(
            "the pasted text",
            "no link, driver version or error code is recognised in it",
            "Paste lines such as “x4 3.0”, “Speed 8 GT/s, Width x4” or “Driver version 31.0.15”",
        )
    return Pasted(tuple(links), driver, tuple(faults))


def _devices(lines: list[str]) -> Iterator[tuple[str, list[str]]]:
    """The lines of each graphics device of a listing; all of them where it is none."""
    heads = [(place, found) for place, line in enumerate(lines) if (found := _HEADER.match(line))]
    if not heads:
        yield PLAIN, lines
        return
    ends = [*(place for place, _ in heads[1:]), len(lines)]
    for (place, head), end in zip(heads, ends, strict=True):
        if _DISPLAY.search(head["what"]):
            yield head["at"], lines[place + 1 : end]


def _with(link: LinkState, line: str) -> LinkState:
    """What a line adds to a link."""
    if _OTHER.search(line):
        return link
    pairs = [(_generation(one), _width(one)) for one in _PAIR.finditer(line)]
    if len(pairs) == 2 and "@" in line:  # “x16 4.0 @ x4 3.0”: what it can, and what it is
        return _told(_told(link, *pairs[0], most=True), *pairs[1], most=False)
    parts = [*_parts(line)]
    for part in parts:
        most = _is_most(part if _NOW.search(part) or _MOST.search(part) else parts[0])
        for pair in (own := [*_PAIR.finditer(part)]):
            link = _told(link, _generation(pair), _width(pair), most=most)
        if own:
            continue
        rate = _RATE.search(part)
        rest = _RATE.sub(" ", part)
        generation = GENERATION_OF.get(float(rate["rate"])) if rate else None
        is_wide = _WIDE.search(rest) is not None
        if generation is None and not is_wide and _SPEED.search(rest):
            told = re.search(r"[\s:=]([1-6])(?:\.0)?\s*$", rest)
            generation = int(told[1]) if told else None
        lanes = None
        if found := _LANES.search(rest if rate or is_wide or _ALONE.fullmatch(rest) else ""):
            lanes = int(found["w"] or found["v"] or found["l"] or found["n"])
        link = _told(link, generation, lanes, most=most)
    return link


def _parts(line: str) -> Iterator[str]:
    """The parts of a line: “Speed 8GT/s, Width x4”; “Max: 4 Current: 3” keeps what it is of."""
    both = re.match(
        r"(?P<of>.*?\b(?:width|speed|gen(?:eration)?|lanes?)\b[^:=]*?)\s*[:=]?\s*"
        r"(?P<k>max|current)[\w ]*[:=]\s*(?P<a>[\w. /]+?)[\s,;]+(?P<l>max|current)[\w ]*[:=]"
        r"\s*(?P<b>[\w. /]+?)\s*$",
        line,
        re.I,
    )
    if both:
        yield f"{both['k']} {both['of']}: {both['a']}"
        yield f"{both['l']} {both['of']}: {both['b']}"
    else:
        yield from re.split(r"[,;(]", line)


def _is_most(words: str) -> bool:
    return _MOST.search(words) is not None and _NOW.search(words) is None


def _told(link: LinkState, generation: int | None, lanes: int | None, *, most: bool) -> LinkState:
    lanes = lanes if lanes in LANES else None
    had = (link.most_generation, link.most_lanes) if most else (link.generation, link.lanes)
    now = (had[0] or generation, had[1] or lanes)
    if now != (generation or had[0], lanes or had[1]):
        raise TwoTold(
            link.address,
            f"it describes two links, {link_words(*had)} and {link_words(generation, lanes)}",
            "Paste the lines of the card alone, read under load",
        )
    if most:
        return replace(link, most_generation=now[0], most_lanes=now[1])
    return replace(link, generation=now[0], lanes=now[1])


def _generation(one: re.Match[str]) -> int:
    return int(one["g1"] or one["g2"] or one["g3"] or one["g4"])


def _width(one: re.Match[str]) -> int:
    return int(one["w1"] or one["w2"] or one["w3"] or one["w4"] or one["w5"])


def _faults(line: str) -> Iterator[str]:
    for one in _FAULT.finditer(line):
        yield f"code {one['code']}" if one["code"] else one[0]


def as_machine(pasted: Pasted) -> Machine:
    """A look at a machine as far as the text tells of it."""
    links = pasted.links or (LinkState(PLAIN, None, None, None, None),)
    devices = (DisplayDevice(one, (), "", "", None, None, None, None, None) for one in links)
    return Machine(PLAIN, tuple(devices), (), None, None, pasted.driver, pasted.faults)
