"""Hops, plugs and adapters as one types them, and read back.

"host port: 4.0 x4", "cable: 40 Gb/s", "8-pin ×2", "12V-2x6 300 W", "8-pin ×2 → 12V-2x6 300 W".
A spec is typed the way it is spoken; what cannot be read is named with what to write instead.
"""

import re
from collections.abc import Sequence

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.numbers import number
from blunt_ruler.core.records.hardware import (
    SENSE_LEVELS_W,
    Adapter,
    Device,
    Hop,
    PlugKind,
    Plugs,
    Screen,
    Way,
)
from blunt_ruler.core.rigs.links import GT_PER_S, LANES, hop_words
from blunt_ruler.core.text import THIN

# What people call a hop before they say how wide it is (names of standards and of things).
MEDIA = re.compile(
    r"m\.?2|oculink|usb\s?4|tunnel|edge|slot|socket|riser|cord|cable|adapter|connector|port|host|dock"
    r"|bridge|link|pci\s?express|pcie?",
    re.IGNORECASE,
)
WIDTH = re.compile(r"(?<![\w.])[x×]\s*(\d+)\b|\b(\d+)\s*(?:lanes?\b|[x×](?![\w]))", re.IGNORECASE)
GENERATION = re.compile(
    r"(?:\bgen(?:eration)?\.?\s*|\bv)?(?<![\d.,])(\d{1,2})(?:\.0)?(?![\d.,])", re.IGNORECASE
)
GLUED = re.compile(r"(?<=\d)\s*[x×]\s*(?=\d)")  # "4.0x4"
RATE = re.compile(r"(\d+(?:[.,]\d+)?)\s*(gb/s|gbps|gbit/s|gb|g)(?![\w/])", re.IGNORECASE)
LIKELY = {
    "oculink": (("OCuLink 4.0 x4", "OCuLink 3.0 x4"), "OCuLink 3.0 to 4.0 x4"),
    "usb4": (("USB4 40 Gb/s", "USB4 20 Gb/s", "USB4 80 Gb/s"), "USB4 20 to 80 Gb/s"),
    "tunnel": (("tunnel 40 Gb/s", "tunnel 20 Gb/s"), "tunnel 20 to 40 Gb/s"),
    "m2": (("M.2 4.0 x4", "M.2 3.0 x4"), "M.2 3.0 to 4.0 x4"),
}
PLUGS = re.compile(
    r"(?:(\d+)\s*[x×]?\s+|(\d+)\s*[x×]\s*)?(12v-2x6|6\+2-pin|8-pin|6-pin|4-pin|sata|barrel|usb-c)"
    r"(?:\s+(\d+)\s*w)?(?:\s*[x×]\s*(\d+))?(?:\s+(\d+)\s*w)?$",
    re.IGNORECASE,
)
# Plugs as people write them (common practice, no source), as they are called here.
PLUG_WORDS = (
    (re.compile(r"\b(?:12vhpwr|12v[- ]?2x6|(?:12\+4|16)[- ]?pins?)", re.IGNORECASE), "12V-2x6"),
    (re.compile(r"\b(6\+2|8|6|4)[- ]?pins?\b", re.IGNORECASE), r"\1-pin"),
    (re.compile(r"\b4-pin peripheral|\bperipheral 4-pin|\bperipheral\b", re.I), "4-pin"),
    (re.compile(r"\b(?:dc )?barrel(?: jack)?\b|\bdc jack\b", re.IGNORECASE), "barrel"),
    (re.compile(r"\busb[- ]?c(?: pd| power(?: delivery)?)?\b|\busb pd\b", re.IGNORECASE), "USB-C"),
    (re.compile(r"\b(?:one|a|single)\s+(?=\S*-pin|12v|sata)", re.IGNORECASE), ""),
    (re.compile(r"\b(?:two|dual|double)\s+", re.IGNORECASE), "2 "),
    (re.compile(r"\b(?:three|triple)\s+", re.IGNORECASE), "3 "),
    (re.compile(r"\bfour\s+", re.IGNORECASE), "4 "),
    (re.compile(r"\s+(?:plugs?|connectors?|power|leads?)$", re.IGNORECASE), ""),
)
DEVICE = re.compile(
    r"(?P<name>[^\d\s].{0,80}?)"
    r"(?:[\s,:]+(?P<rate>\d+(?:[.,]\d+)?)\s*(?P<scale>[GM]|[gm](?=bps|bit))"
    r"(?P<unit>[Bb])(?:/s|ps|it/s))?"
    r"(?:\s+(?P<way>both ways|to it|from it))?"
)
A_RATE = re.compile(r"\d\s*[gm]b", re.IGNORECASE)  # “gb/s” may be bits or bytes
SCREEN = re.compile(r"(\d+)\s*[x×]\s*(\d+)\s*@\s*(\d+(?:[.,]\d+)?)(?:\s*[x×]\s*(\d+))?$")
KINDS = {kind.lower(): kind for kind in PlugKind}


# Two ends of a range: "3.0 to 4.0", "x4 or x8", "20-40 Gb/s"; the second may leave its mark out.
RANGE = re.compile(
    r"(?<![\w.,])(gen(?:eration)?\.?\s*|v|[x×]\s*)?(\d+(?:[.,]\d+)?)(?:\s*(?:lanes?|gb/s|gbps))?"
    r"\s*(?:to|or|-|–|/)\s*((?:gen(?:eration)?\.?\s*|v|[x×]\s*)?)(\d+(?:[.,]\d+)?)(?![\w.,])",
    re.IGNORECASE,
)
BETWEEN = re.compile(r"\s+(?:to|or)\s+|\s*/\s*(?!s\b)", re.IGNORECASE)
NOT_KNOWN = re.compile(
    r"[,(]?\s*(?:(?:generation|gen|width|lanes|rate|speed)\s+)?"
    r"(?:\b(?:not known|unknown|not sure|unsure|don['’]?t know)\b|\?+)\s*\)?",
    re.IGNORECASE,
)


class BadSpec(UserFixable):
    """A spec that cannot be read."""


class Incomplete(BadSpec):
    """A link named by its standard or its width alone: others of that name are slower or faster.

    `likely` are the ones that may be meant, as `parse_hop` reads them, and last a range of them.
    """

    def __init__(self, where: str, what: str, fix: str, likely: Sequence[str] = ()) -> None:
        super().__init__(where, what, fix)
        self.likely = tuple(likely)


def parse_hop(words: str, place: int = 1) -> Hop:
    """One hop: an optional name with a colon, then generation and lanes or a tunnel's rate, in any
    order, and what it is: "4.0 x4", "PCIe Gen 4 x8", "M.2 4.0 x4", "USB4 40 Gb/s".

    A range may stand for what is not known: "3.0 to 4.0 x4", "OCuLink, not known". Raises
    Incomplete, with the likely ones, where a standard or a width is named alone.
    """
    named, colon, spec = words.rpartition(":")
    unsaid = NOT_KNOWN.search(spec)
    if unsaid is not None:
        known = NOT_KNOWN.sub(" ", spec).strip(" ,")
        try:
            hop = parse_hop(f"{named}{colon}{known}", place)
        except Incomplete as error:
            return parse_hop(f"{named}{colon}{error.likely[-1]}", place)
        if hop.is_open:
            return hop
        raise Incomplete(
            _where(place),
            f"“{words.strip()}” says all of it, and that it is not known",
            "Write a range of what it may be, such as “3.0 to 4.0 x4”, or leave the doubt out",
            (known,),
        )
    ends = _ends(spec)
    if ends is None:
        return _hop(words, place, words)
    one, other = (_hop(f"{named}{colon}{end}", place, words) for end in ends)
    return _range(words, place, one, other)


def _ends(spec: str) -> tuple[str, ...] | None:
    """The two ends of a range, each as a spec of its own; None where there is none.

    What names a thing, as the 4 of USB4 does, is no end.
    """
    sides = BETWEEN.split(spec)
    if len(sides) == 2 and all(map(_says_all, sides)):
        return tuple(sides)
    hidden = MEDIA.sub(lambda found: " " * len(found[0]), spec)
    found = RANGE.search(hidden)
    if found is None:
        return None
    before, after = spec[: found.start()], spec[found.end() :]
    first, second = found[1] or "", found[3] or found[1] or ""
    return f"{before}{first}{found[2]}{after}", f"{before}{second}{found[4]}{after}"


def _says_all(spec: str) -> bool:
    width = WIDTH.search(spec)
    return bool(RATE.search(spec) or (width and GENERATION.search(spec.replace(width[0], " "))))


def _range(words: str, place: int, one: Hop, other: Hop) -> Hop:
    """A hop that may be either of two, or between them."""
    least, most = sorted((one, other), key=_order)
    pairs = [
        (getattr(least, key), getattr(most, key)) for key in ("generation", "lanes", "tunnel_gbps")
    ]
    if any((low is None) != (high is None) or (low and low > high) for low, high in pairs):
        raise BadSpec(
            _where(place), f"“{words.strip()}” is not a range of one link", "Write “3.0 to 4.0 x4”"
        )
    ends = [low if low != high else None for low, high in pairs]
    keys = ("generation_least", "lanes_least", "gbps_least")
    return Hop.model_validate({**most.model_dump(), **dict(zip(keys, ends, strict=True))})


def _where(place: int) -> str:
    return f"hop {place}" if place > 1 else "link"


def _order(hop: Hop) -> tuple[float, float, float]:
    return (hop.tunnel_gbps or 0.0, hop.generation or 0, hop.lanes or 0)


def _hop(words: str, place: int, typed: str) -> Hop:
    """One hop of which all is said; what was typed is named where it is not."""
    where, wrong = _where(place), f"“{typed.strip()}” is not a hop"
    name, colon, spec = words.rpartition(":")
    spec = GLUED.sub(" x", spec.strip())
    media = [found[0] for found in MEDIA.finditer(spec)]
    name = name.strip() if colon else _medium(media) or f"hop {place}"
    left = re.sub(r",(?=\s|$)", " ", MEDIA.sub(" ", spec))
    rate, width = RATE.search(left), WIDTH.search(left)
    if rate is not None and width is None and not left.replace(rate[0], "", 1).strip(" ,"):
        if "B" in rate[2]:
            raise BadSpec(
                where,
                f"“{rate[0]}” is in bytes, 8 times as much as {rate[1]} Gb/s",
                f"Write “{rate[1]} Gb/s”, or generation and lanes like “4.0 x16”",
            )
        return Hop(name=name, tunnel_gbps=number(rate[1]))
    left = left.replace(width[0], " ", 1) if width is not None else left
    generation = GENERATION.search(left)
    if generation is not None:
        left = left.replace(generation[0], " ", 1)
    if left.strip(" ,") or rate is not None:
        raise BadSpec(where, wrong, "Write “4.0 x4” or “40 Gb/s”")
    lanes = int(width[1] or width[2]) if width is not None else None
    if lanes is not None and lanes not in LANES:
        raise BadSpec(where, f"no link has {lanes} lanes", "Give 1, 2, 4, 8 or 16")
    number_of = int(generation[1]) if generation is not None else None
    if number_of is not None and number_of not in GT_PER_S:
        raise BadSpec(where, f"there is no PCI Express generation {number_of}", "Give 1 to 6")
    if number_of is not None and lanes is not None:
        return Hop(name=name, generation=number_of, lanes=lanes)
    if lanes is None and number_of is None and not any(_key(one) in LIKELY for one in media):
        raise BadSpec(where, wrong, "Write “4.0 x4” or “40 Gb/s”")
    likely, not_known = _likely(media, number_of, lanes)
    raise Incomplete(
        where,
        f"“{typed.strip()}” does not say {_missing(number_of, lanes)}",
        f"Write {', '.join(f'“{one}”' for one in likely)}, or “{not_known}” where it is not known",
        (*likely, not_known),
    )


def _key(medium: str) -> str:
    return medium.lower().replace(".", "").replace(" ", "")


def _medium(media: Sequence[str]) -> str:
    """What a hop is called by what it is: not by the standard that all of them follow."""
    return " ".join(one for one in media if not _key(one).startswith("pci"))


def _missing(generation: int | None, lanes: int | None) -> str:
    if generation is None:
        return "its generation" if lanes is not None else "its rate, or its generation and lanes"
    return "how many lanes it has"


def _likely(
    media: Sequence[str], generation: int | None, lanes: int | None
) -> tuple[tuple[str, ...], str]:
    """What may be meant, and the range of it (common practice, no source)."""
    named = _medium(media)
    before = f"{named} " if named else ""
    if lanes is not None:
        newest = 4 if lanes <= 4 else 5
        likely = tuple(f"{before}{one}.0 x{lanes}" for one in range(newest, 2, -1))
        return likely, f"{before}3.0 to {newest}.0 x{lanes}"
    if generation is not None:
        likely = tuple(f"{before}{generation}.0 x{one}" for one in (4, 8, 16))
        return likely, f"{before}{generation}.0 x4 to x16"
    return next(LIKELY[_key(one)] for one in media if _key(one) in LIKELY)


def parse_hops(text: str) -> tuple[Hop, ...]:
    """Hops, one a line, from the host to the dock."""
    lines = [line for line in text.splitlines() if line.strip()]
    return tuple(parse_hop(line, number) for number, line in enumerate(lines, start=1))


def hop_text(hop: Hop) -> str:
    """A hop as `parse_hop` reads it."""
    return f"{hop.name}: {hop_words(hop).replace(THIN, ' ').replace('×', 'x')}"


def hops_text(hops: Sequence[Hop]) -> str:
    """Hops as `parse_hops` reads them."""
    return "\n".join(hop_text(hop) for hop in hops)


def parse_plugs(words: str) -> tuple[Plugs, ...]:
    """Plugs, parted by commas, "+" or "and": "8-pin ×2, 6-pin", "two 8-pin and a 6-pin"."""
    plugs = []
    for part in re.split(r",|(?<!6)\+|(?<=6)\+(?!2)|\band\b", words):
        if not part.strip():
            continue
        plain = part.strip()
        for found, put in PLUG_WORDS:
            plain = found.sub(put, plain)
        match = PLUGS.match(plain)
        if match is None:
            raise BadSpec(
                "plugs",
                f"“{part.strip()}” is not a power plug",
                "Write “8-pin ×2”, “6+2-pin”, “12V-2x6 300 W”, “SATA”, “4-pin” or “barrel 330 W”",
            )
        kind = KINDS[match[3].lower()]
        watts = match[4] or match[6]
        rated = kind in (PlugKind.BARREL, PlugKind.USB_C) and 1 <= int(watts or 1) <= 1000
        sensed = kind is PlugKind.PIN_16 and int(watts or 0) in SENSE_LEVELS_W
        if watts is not None and not (rated or sensed):
            raise BadSpec(
                "plugs",
                f"“{part.strip()}” has no such sense level",
                "A 12V-2x6 plug has 150, 300, 450 or 600 W, a barrel or USB-C plug its own",
            )
        count = int(match[1] or match[2] or match[5] or 1)
        if not 1 <= count <= 12:
            raise BadSpec("plugs", f"{count} plugs of a kind", "Give 1 to 12")
        plugs.append(
            Plugs.model_validate(
                {"kind": kind, "count": count, "watts": int(watts) if watts else None}
            )
        )
    return tuple(plugs)


def plugs_text(plugs: Sequence[Plugs]) -> str:
    """Plugs as `parse_plugs` reads them."""
    return ", ".join(
        f"{one.kind}{f' {one.watts} W' if one.watts else ''}"
        f"{f' ×{one.count}' if one.count > 1 else ''}"
        for one in plugs
    )


def parse_adapters(words: str) -> tuple[Adapter, ...]:
    """Adapters, parted by semicolons: "8-pin ×2 → 12V-2x6 300 W"."""
    adapters = []
    for part in words.split(";"):
        if not part.strip():
            continue
        takes, arrow, gives = part.replace("->", "→").partition("→")
        sides = [parse_plugs(takes), parse_plugs(gives)] if arrow else []
        if len(sides) != 2 or any(len(side) != 1 for side in sides):
            raise BadSpec(
                "adapters",
                f"“{part.strip()}” is not an adapter",
                "Write what it takes and gives: “8-pin ×2 → 12V-2x6 300 W”",
            )
        adapters.append(Adapter(takes=sides[0][0], gives=sides[1][0]))
    return tuple(adapters)


def adapters_text(adapters: Sequence[Adapter]) -> str:
    """Adapters as `parse_adapters` reads them."""
    return "; ".join(f"{plugs_text([one.takes])} → {plugs_text([one.gives])}" for one in adapters)


def parse_devices(words: str) -> tuple[Device, ...]:
    """Devices that share a link, parted by semicolons, each with what it takes and which way it
    goes, where somebody knows: "capture card 0.5 GB/s from it; network 10 Gb/s; storage".
    """
    found = []
    for part in (one.strip() for one in words.split(";") if one.strip()):
        match = DEVICE.fullmatch(part)
        taken = match and match["rate"]
        if (
            match is None
            or not match["name"].strip(" ,:")
            or A_RATE.search(match["name"])
            or (taken and not 0 < _in_gb_per_s(match) <= 200)
        ):
            raise BadSpec(
                "other devices",
                f"“{part}” is not a device and its bandwidth",
                "Write “capture card 0.5 GB/s from it; network 10 Gb/s; storage”",
            )
        way = Way(" ".join(match["way"].lower().split())) if match["way"] else Way.BOTH
        rate = _in_gb_per_s(match) if taken else None
        found.append(Device(name=match["name"].strip(" ,:"), gb_per_s=rate, way=way))
    return tuple(found)


def _in_gb_per_s(match: re.Match[str]) -> float:
    scale = {"G": 1.0, "M": 1e-3}[match["scale"].upper()]
    return number(match["rate"]) * scale / (1.0 if match["unit"] == "B" else 8.0)


def devices_text(devices: Sequence[Device]) -> str:
    """Devices as `parse_devices` reads them."""
    return "; ".join(
        " ".join(
            (
                *(one.name, *([f"{one.gb_per_s:g} GB/s"] if one.gb_per_s else [])),
                *([one.way] if one.way is not Way.BOTH else []),
            )
        )
        for one in devices
    )


def parse_screen(words: str) -> Screen:
    """A screen: "1920x1080@60" or, with its bits per pixel, "1920x1080@60x32"."""
    match = SCREEN.match(words.strip())
    if match is None:
        raise BadSpec("screen", f"“{words}” is not a screen", "Write it as 1920x1080@60x32")
    width, height, hz = int(match[1]), int(match[2]), number(match[3])
    bits = int(match[4] or 32)
    if not (16 <= width <= 16384 and 16 <= height <= 16384 and 0 < hz <= 1000 and 8 <= bits <= 64):
        raise BadSpec(
            "screen", f"there is no screen called “{words}”", "Give one such as 1920x1080@60"
        )
    return Screen(width=width, height=height, refresh_hz=hz, bits_per_pixel=bits)


def screen_text(screen: Screen) -> str:
    """A screen as `parse_screen` reads it."""
    return f"{screen.width}x{screen.height}@{screen.refresh_hz:g}x{screen.bits_per_pixel}"
