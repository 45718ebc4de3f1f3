"""Hops, plugs and adapters as one types them, and read back.

"host port: 4.0 x4", "cable: 40 Gb/s", "8-pin ×2", "12V-2x6 300 W", "8-pin ×2 → 12V-2x6 300 W".
A spec is typed the way it is spoken; what cannot be read is named with what to write instead.
"""

import re
from collections.abc import Sequence

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.numbers import number
from blunt_ruler.core.records.hardware import Adapter, Hop, PlugKind, Plugs, Screen
from blunt_ruler.core.rigs.links import GT_PER_S, LANES

PCIE = re.compile(r"(?:pcie?\s*)?(\d+)(?:\.0)?\s*[x×]\s*(\d+)$", re.IGNORECASE)
TUNNEL = re.compile(r"(?:tunnel\s*)?(\d+(?:[.,]\d+)?)\s*(?:gb/s|gbps|g)$", re.IGNORECASE)
PLUGS = re.compile(
    r"(?:(\d+)\s*[x×]\s+)?(12v-2x6|6\+2-pin|8-pin|6-pin|sata)"
    r"(?:\s+(\d+)\s*w)?(?:\s*[x×]\s*(\d+))?(?:\s+(\d+)\s*w)?$",
    re.IGNORECASE,
)
SCREEN = re.compile(r"(\d+)\s*[x×]\s*(\d+)\s*@\s*(\d+(?:[.,]\d+)?)(?:\s*[x×]\s*(\d+))?$")
KINDS = {kind.lower(): kind for kind in PlugKind}
SENSE_LEVELS_W = (150, 300, 450, 600)


class BadSpec(UserFixable):
    """A spec that cannot be read."""


def parse_hop(words: str, place: int = 1) -> Hop:
    """One hop: an optional name with a colon, then generation x lanes or a tunnel's rate."""
    name, colon, spec = words.rpartition(":")
    name = name.strip() if colon else f"hop {place}"
    spec = spec.strip()
    if match := PCIE.match(spec):
        generation, lanes = int(match[1]), int(match[2])
        if generation not in GT_PER_S:
            raise BadSpec(
                f"hop {place}", f"there is no PCI Express generation {generation}", "Give 1 to 6"
            )
        if lanes not in LANES:
            raise BadSpec(f"hop {place}", f"no link has {lanes} lanes", "Give 1, 2, 4, 8 or 16")
        return Hop(name=name, generation=generation, lanes=lanes)
    if match := TUNNEL.match(spec):
        return Hop(name=name, tunnel_gbps=number(match[1]))
    raise BadSpec(f"hop {place}", f"“{words.strip()}” is no hop", "Write “4.0 x4” or “40 Gb/s”")


def parse_hops(text: str) -> tuple[Hop, ...]:
    """Hops, one a line, from the host to the dock."""
    lines = [line for line in text.splitlines() if line.strip()]
    return tuple(parse_hop(line, number) for number, line in enumerate(lines, start=1))


def hop_text(hop: Hop) -> str:
    """A hop as `parse_hop` reads it."""
    if hop.generation is not None:
        return f"{hop.name}: {hop.generation}.0 x{hop.lanes}"
    return f"{hop.name}: {hop.tunnel_gbps:g} Gb/s"


def hops_text(hops: Sequence[Hop]) -> str:
    """Hops as `parse_hops` reads them."""
    return "\n".join(hop_text(hop) for hop in hops)


def parse_plugs(words: str) -> tuple[Plugs, ...]:
    """Plugs, parted by commas or "+": "8-pin ×2, 6-pin"."""
    plugs = []
    for part in re.split(r",|\+(?!2-pin)", words):
        if not part.strip():
            continue
        match = PLUGS.match(part.strip())
        if match is None:
            raise BadSpec(
                "plugs",
                f"“{part.strip()}” is no power plug",
                "Write “8-pin ×2”, “6+2-pin”, “6-pin”, “SATA” or “12V-2x6 300 W”",
            )
        kind = KINDS[match[2].lower()]
        watts = match[3] or match[5]
        if watts is not None and (kind is not PlugKind.PIN_16 or int(watts) not in SENSE_LEVELS_W):
            raise BadSpec(
                "plugs",
                f"“{part.strip()}” has no such sense level",
                "A 12V-2x6 plug has 150, 300, 450 or 600 W",
            )
        count = int(match[1] or match[4] or 1)
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
                f"“{part.strip()}” is no adapter",
                "Write what it takes and gives: “8-pin ×2 → 12V-2x6 300 W”",
            )
        adapters.append(Adapter(takes=sides[0][0], gives=sides[1][0]))
    return tuple(adapters)


def adapters_text(adapters: Sequence[Adapter]) -> str:
    """Adapters as `parse_adapters` reads them."""
    return "; ".join(f"{plugs_text([one.takes])} → {plugs_text([one.gives])}" for one in adapters)


def parse_screen(words: str) -> Screen:
    """A screen: "1920x1080@60" or, with its bits per pixel, "1920x1080@60x32"."""
    match = SCREEN.match(words.strip())
    if match is None:
        raise BadSpec("screen", f"“{words}” is no screen", "Write it as 1920x1080@60x32")
    width, height, hz = int(match[1]), int(match[2]), number(match[3])
    bits = int(match[4] or 32)
    if not (16 <= width <= 16384 and 16 <= height <= 16384 and 0 < hz <= 1000 and 8 <= bits <= 64):
        raise BadSpec("screen", f"there is no screen of “{words}”", "Give one such as 1920x1080@60")
    return Screen(width=width, height=height, refresh_hz=hz, bits_per_pixel=bits)


def screen_text(screen: Screen) -> str:
    """A screen as `parse_screen` reads it."""
    return f"{screen.width}x{screen.height}@{screen.refresh_hz:g}x{screen.bits_per_pixel}"
