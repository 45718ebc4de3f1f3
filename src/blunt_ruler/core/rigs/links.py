"""What a link can carry: from the line rate down to what is left for the game.

Decimal units, one direction. Sources are the published standards:
rate after line code: PCI Express generations 1 and 2 8b/10b, 3 to 5 128b/130b, 6 flits of 256
bytes of which 242 are not error correction (transcribed from memory). Packets, generations 1 to
5: 8 bytes of framing, sequence and CRC and a header of 12 bytes (three double words, as the
completions of a card's reads have) around each payload; generation 6: 236 of the 242 bytes are
packets, with the same header. Tunnels: there is no fixed share for PCI Express; Linux keeps a
tenth of the rate back and serves display streams first. Practice ranges are common practice of
the trade, no source: a tunnel of 40 Gb/s moves 22 to 32, a direct link of 64 Gb/s 41 to 58.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from blunt_ruler.core.errors import BadFigure, UserFixable
from blunt_ruler.core.records.hardware import (
    Card,
    Device,
    Hop,
    Link,
    Rig,
    Screen,
    ScreenPath,
    Way,
)
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.rigs.video_timing import stream_gb_per_s, timed_stream_gb_per_s
from blunt_ruler.core.text import amount, list_text

GT_PER_S = {1: 2.5, 2: 5.0, 3: 8.0, 4: 16.0, 5: 32.0, 6: 64.0}
GENERATION_OF = {rate: generation for generation, rate in GT_PER_S.items()}
LINE_CODE = {1: 8 / 10, 2: 8 / 10, 3: 128 / 130, 4: 128 / 130, 5: 128 / 130, 6: 242 / 256}
LANES = (1, 2, 4, 8, 16)
PAYLOADS_BYTES = (128, 256, 512)
PACKET_FRAMING_BYTES = 8
PACKET_HEADER_BYTES = 12
FLIT_PACKET_SHARE = 236 / 242
TUNNEL_KEPT_BACK = 0.10
PRACTICE_OF_TUNNEL = (22 / 40, 32 / 40)
PRACTICE_OF_DIRECT = (41 / 64, 58 / 64)
BACK_NARROW = 0.5  # common practice, no source: read-backs share that direction with the picture
FAR_BELOW = 0.9  # a measured figure under 90 % of the practice range's foot wants a reason


class BadLink(UserFixable):
    """A link that no hardware has, or that is not described enough."""


@dataclass(frozen=True, slots=True)
class Negotiated:
    """What the hops agree on, and which of them holds the others back."""

    generation: int
    lanes: int
    generation_set_by: str
    lanes_set_by: str


@dataclass(frozen=True, slots=True)
class Rung:
    """One step of the ladder: what is left after it, and why it is there."""

    name: str
    gb_per_s: float
    why: str
    least_gb_per_s: float | None = None  # where only a range is known

    @property
    def gbps(self) -> float:
        """The same in gigabits per second."""
        return self.gb_per_s * 8.0


@dataclass(frozen=True, slots=True)
class Ladder:
    """Where the bandwidth of a link goes, from the host to the card.

    `rungs` go down from the line rate to `left_gb_per_s`, host to card: what the game needs. A
    picture that is sent back goes the other way and takes nothing from it, as these links carry
    both directions at once; `left_back_gb_per_s` is what it leaves of card to host.

    Where a hop's generation, width or rate is known as a range only, figures are of the most it
    may be, the foot of the practice range of the least; `slowest` is the ladder of the least, None
    where the bandwidth was measured.
    """

    negotiated: Negotiated | None
    at_card: Negotiated | None
    tunnel_gbps: float | None
    line_rate_gtps: float | None
    encoded_gb_per_s: float | None
    payload_bytes: int
    packet_efficiency: float | None
    payload_gb_per_s: float | None
    practice_low_gb_per_s: float
    practice_high_gb_per_s: float
    measured_gb_per_s: float | None
    return_gb_per_s: float
    left_gb_per_s: float
    left_back_gb_per_s: float
    rungs: tuple[Rung, ...]
    slowest: "Ladder | None" = None

    @property
    def least_left_gb_per_s(self) -> float:
        """What is left for the game at the least."""
        return (self.slowest or self).left_gb_per_s

    @property
    def left_words(self) -> str:
        """What is left for the game: "6.6 GB/s", as a range where only that is known."""
        return span_words(self.least_left_gb_per_s, self.left_gb_per_s)

    @property
    def should_come_up(self) -> Negotiated | None:
        """The least that the card itself should read."""
        return (self.slowest or self).at_card

    @property
    def back_is_narrow(self) -> bool:
        """Whether the picture takes so much of the way back that it is the narrow one."""
        return (
            self.return_gb_per_s > 0 and self.left_back_gb_per_s < BACK_NARROW * self.left_gb_per_s
        )

    def per_frame_words(self, at_fps: float) -> str:
        """The same in words, as a range where only that is known: "61.0 MB"."""
        low = (self.slowest or self).per_frame_mb(at_fps)
        return span_words(low, self.per_frame_mb(at_fps), "MB")

    def per_frame_mb(self, at_fps: float) -> float:
        """1000 · left / rate: megabytes each frame may move at a frame rate."""
        if not at_fps > 0:
            raise BadFigure("frame rate", f"{at_fps:g} is not a rate", "Give one above 0")
        return self.left_gb_per_s * 1000.0 / at_fps


def span_words(least: float, most: float, unit: str = "GB/s", decimals: int = 1) -> str:
    """A figure, or the range it lies in: "3.2 to 6.6 GB/s"."""
    low, high = f"{least:.{decimals}f}", amount(most, unit, decimals)
    return high if high.startswith(low) else f"{low} to {high}"


def encoded_gb_per_s(generation: int, lanes: int) -> float:
    """Rate after line code of a PCI Express stretch, in GB/s."""
    if generation not in GT_PER_S:
        raise BadLink("link", f"there is no PCI Express generation {generation}", "Give 1 to 6")
    if lanes not in LANES:
        raise BadLink(
            "link", f"no link has {lanes} lanes", f"Give one of {', '.join(map(str, LANES))}"
        )
    return GT_PER_S[generation] * LINE_CODE[generation] * lanes / 8.0


def packet_efficiency(generation: int, payload_bytes: int) -> float:
    """p / (p + header + framing): share of the encoded rate that is payload.

    p is the maximum payload size, 128, 256 or 512 bytes; from generation 6 on flits carry the
    framing, and 236 of their 242 bytes are packets.
    """
    if payload_bytes not in PAYLOADS_BYTES:
        raise BadLink("payload", f"no device uses {payload_bytes} bytes", "Give 128, 256 or 512")
    if generation >= 6:
        return FLIT_PACKET_SHARE * payload_bytes / (payload_bytes + PACKET_HEADER_BYTES)
    return payload_bytes / (payload_bytes + PACKET_HEADER_BYTES + PACKET_FRAMING_BYTES)


def stretches(hops: Sequence[Hop]) -> list[list[Hop]]:
    """PCI Express hops that negotiate together: a switch or a tunnel parts them.

    A hop whose name says “switch” stands behind one.
    """
    found: list[list[Hop]] = [[]]
    for hop in hops:
        if hop.tunnel_gbps is not None or is_behind_switch(hop):
            found.append([])
        if hop.generation is not None and hop.lanes is not None:
            found[-1].append(hop)
    return [one for one in found if one]


def has_tunnel(link: Link) -> bool:
    """Whether a stretch of a link is a tunnel."""
    return any(hop.tunnel_gbps is not None for hop in link.hops)


def is_behind_switch(hop: Hop) -> bool:
    """Whether a hop says by its name that a switch stands before it."""
    return "switch" in hop.name.lower()


def negotiate(hops: Sequence[Hop]) -> Negotiated | None:
    """What the slowest stretch agrees on; None without any PCI Express hop."""
    agreed = [_agreed(one) for one in stretches(hops)]
    return min(agreed, key=lambda one: encoded_gb_per_s(one.generation, one.lanes), default=None)


def negotiate_at_card(hops: Sequence[Hop]) -> Negotiated | None:
    """What the last stretch agrees on: what the card itself reads."""
    found = stretches(hops)
    return _agreed(found[-1]) if found else None


def _agreed(stretch: Sequence[Hop]) -> Negotiated:
    """The lowest generation and the fewest lanes over the hops of one stretch."""
    slowest = min(stretch, key=lambda hop: hop.generation or 0)
    narrowest = min(stretch, key=lambda hop: hop.lanes or 0)
    assert slowest.generation is not None
    assert narrowest.lanes is not None
    return Negotiated(slowest.generation, narrowest.lanes, slowest.name, narrowest.name)


def card_hop(card: Card | None) -> tuple[Hop, ...]:
    """The card's own edge as the last hop, where it is described."""
    if card is None or card.generation is None or card.lanes is None:
        return ()
    return (Hop(name=card.name, generation=card.generation, lanes=card.lanes),)


def bandwidth_ladder(
    hops: Sequence[Hop],
    payload_bytes: int = 256,
    screen_back: Screen | None = None,
    measured_gb_per_s: float | None = None,
    display_gb_per_s: float = 0.0,
    devices: Sequence[Device] = (),
) -> Ladder:
    """The ladder of some hops.

    Args:
        hops: from the host to the card, both ends included.
        payload_bytes: maximum payload size in force.
        screen_back: the picture that is sent back over the link, where one is.
        measured_gb_per_s: a measured bandwidth, which takes the place of the practice range.
        display_gb_per_s: a display stream that shares the tunnel and is served first.
        devices: what else the link carries: it is left out of what remains, each way by itself;
            a measured bandwidth is taken as measured beside them.

    Raises BadLink where nothing is described or what is left is nothing.
    """
    negotiated = negotiate(hops)
    tunnels = [hop for hop in hops if hop.tunnel_gbps is not None]
    if negotiated is None and not tunnels:
        raise BadLink("link", "no hop says what it can carry", "Give each a generation and lanes")
    rungs: list[Rung] = []
    line = encoded = efficiency = payload = None
    ceiling = float("inf")
    if negotiated is not None:
        line = GT_PER_S[negotiated.generation]
        encoded = encoded_gb_per_s(negotiated.generation, negotiated.lanes)
        efficiency = packet_efficiency(negotiated.generation, payload_bytes)
        payload = ceiling = encoded * efficiency
        agreed = f"generation {negotiated.generation}, {negotiated.lanes} lanes"
        rungs.append(Rung("line rate", line * negotiated.lanes / 8.0, set_by_words(negotiated)))
        rungs.append(Rung("after line code", encoded, agreed))
        rungs.append(Rung("after packets", payload, f"payload of {payload_bytes} bytes"))
    tunnel = min((hop.tunnel_gbps or 0.0 for hop in tunnels), default=None)
    if tunnel is not None:
        name = min(tunnels, key=lambda hop: hop.tunnel_gbps or 0.0).name
        ceiling = min(ceiling, tunnel / 8.0 * (1.0 - TUNNEL_KEPT_BACK) - display_gb_per_s)
        why = f"{name}, {amount(tunnel, 'Gb/s')} less a tenth kept back"
        if display_gb_per_s:
            why += f" and {amount(display_gb_per_s, 'GB/s', 2)} of display stream"
        rungs.append(Rung("inside the tunnel", max(ceiling, 0.0), why))
    low, high = _practice(negotiated, tunnel, ceiling)
    if measured_gb_per_s is not None:
        lowest = min((rung.gb_per_s for rung in rungs), default=measured_gb_per_s)
        ceiling = measured_gb_per_s
        why = "a measured figure goes before the sums"
        if measured_gb_per_s > lowest:
            ceiling, why = (
                lowest,
                f"{amount(measured_gb_per_s, 'GB/s', 2)} is more than it can carry",
            )
        rungs.append(Rung("as measured", ceiling, why))
    taken, taken_back = (taken_by(devices, way) for way in (Way.TO_IT, Way.FROM_IT))
    way_back = ceiling - taken_back
    if measured_gb_per_s is None and taken:
        ceiling -= taken
        low, high = max(low - taken, 0.0), max(min(high - taken, ceiling), 0.0)
        names = list_text([one.name for one in devices if _takes(one, Way.TO_IT)])
        rungs.append(Rung("beside other devices", max(ceiling, 0.0), f"{names} at work"))
    back = 0.0 if screen_back is None else stream_gb_per_s(screen_back)
    why = "what uploads and fetches share"
    if back:
        why += f"; the picture of {amount(back, 'GB/s', 2)} goes the other way"
    if unsaid := [one.name for one in devices if one.gb_per_s is None]:
        why += f"; what {list_text(unsaid)} {'takes' if len(unsaid) == 1 else 'take'} is not noted"
    rungs.append(Rung("left for the game", max(ceiling, 0.0), why))
    if (taken and ceiling <= 0) or (taken_back and way_back <= 0):
        raise BadLink(
            "link",
            f"other devices take {amount(max(taken, taken_back), 'GB/s', 2)}, all it carries",
            "Note what they take while the game runs, not the most they can",
        )
    if ceiling <= 0 or back >= max(way_back, 0.0):
        raise BadLink(
            "link",
            f"a display stream or picture of {amount(max(back, display_gb_per_s), 'GB/s', 2)} does "
            "not fit through it",
            "Put the monitor on the card, or take a lower resolution or refresh rate",
        )
    slowest = None
    if any(hop.is_open for hop in hops):
        at_least = [hop.slowest() for hop in hops]
        slowest = bandwidth_ladder(
            at_least, payload_bytes, screen_back, None, display_gb_per_s, devices
        )
        low = slowest.practice_low_gb_per_s
    if measured_gb_per_s is not None:
        slowest = None
    if slowest is not None:
        pairs = zip(rungs, slowest.rungs, strict=True)
        rungs = [
            replace(
                rung,
                least_gb_per_s=slow.gb_per_s,
                why=rung.why if rung.why == slow.why else open_words(hops),
            )
            for rung, slow in pairs
        ]
    return Ladder(
        negotiated=negotiated,
        at_card=negotiate_at_card(hops),
        tunnel_gbps=tunnel,
        line_rate_gtps=line,
        encoded_gb_per_s=encoded,
        payload_bytes=payload_bytes,
        packet_efficiency=efficiency,
        payload_gb_per_s=payload,
        practice_low_gb_per_s=low,
        practice_high_gb_per_s=high,
        measured_gb_per_s=measured_gb_per_s,
        return_gb_per_s=back,
        left_gb_per_s=ceiling,
        left_back_gb_per_s=max(way_back - back, 0.0),
        rungs=tuple(rungs),
        slowest=slowest,
    )


def _takes(device: Device, way: Way) -> bool:
    return device.gb_per_s is not None and device.way in (way, Way.BOTH)


def taken_by(devices: Sequence[Device], way: Way) -> float:
    """What other devices take of one way of a link, GB/s, as far as somebody said."""
    return sum(one.gb_per_s or 0.0 for one in devices if _takes(one, way))


def devices_words(link: Link | None) -> str:
    """What else a link carries: "capture card (0.5 GB/s from it) and storage"; blank for none."""
    return list_text(
        [
            f"{one.name} ({amount(one.gb_per_s, 'GB/s', 2)} {one.way})"
            if one.gb_per_s
            else one.name
            for one in (link.devices if link else ())
        ]
    )


def _practice(
    negotiated: Negotiated | None, tunnel_gbps: float | None, ceiling_gb_per_s: float
) -> tuple[float, float]:
    """What such links move in practice, never above what the sums allow."""
    ranges = []
    if negotiated is not None:
        line = GT_PER_S[negotiated.generation] * negotiated.lanes / 8.0
        ranges.append([share * line for share in PRACTICE_OF_DIRECT])
    if tunnel_gbps is not None:
        ranges.append([share * tunnel_gbps / 8.0 for share in PRACTICE_OF_TUNNEL])
    low, high = (min(ends) for ends in zip(*ranges, strict=True))
    return min(low, ceiling_gb_per_s), min(high, ceiling_gb_per_s)


def set_by_words(negotiated: Negotiated) -> str:
    """Which hop sets what: "the dock wires 4 lanes at generation 4"."""
    if negotiated.generation_set_by == negotiated.lanes_set_by:
        return (
            f"{negotiated.lanes_set_by} sets {negotiated.lanes} lanes and generation "
            f"{negotiated.generation}"
        )
    return (
        f"{negotiated.lanes_set_by} sets {negotiated.lanes} lanes, "
        f"{negotiated.generation_set_by} generation {negotiated.generation}"
    )


def hop_words(hop: Hop) -> str:
    """What a hop can carry, in words: "4.0 ×4", "3.0 to 4.0 ×4", "40 Gb/s"."""
    if hop.tunnel_gbps is not None:
        least = f"{hop.gbps_least:g} to " if hop.gbps_least else ""
        return least + amount(hop.tunnel_gbps, "Gb/s")
    if not (hop.generation and hop.lanes):
        return ""
    generation = f"{hop.generation_least}.0 to " if hop.generation_least else ""
    lanes = f"×{hop.lanes_least} to " if hop.lanes_least else ""
    return f"{generation}{hop.generation}.0 {lanes}×{hop.lanes}"


def not_known_words(link: Link | None) -> str:
    """What is not known of a link, and what it takes to know it; blank where all is."""
    hops = [hop for hop in link.hops if hop.is_open] if link else []
    if not hops or link is None:
        return ""
    unknown = [
        what
        for what, least in (
            ("generation", "generation_least"),
            ("width", "lanes_least"),
            ("rate", "gbps_least"),
        )
        if any(getattr(hop, least) is not None for hop in hops)
    ]
    verb, what = ("is", "it") if len(unknown) == 1 else ("are", "them")
    return (
        f"The {list_text(unknown)} of {link.name} {verb} not known: read {what} under load, or "
        "measure host to card."
    )


def open_words(hops: Sequence[Hop]) -> str:
    """The hops of which only a range is known: "OCuLink 3.0 to 4.0 ×4"."""
    return list_text([f"{one.name} {hop_words(one)}" for one in hops if one.is_open])


def screen_words(screen: Screen | None) -> str:
    """A screen in words: "1920 × 1080 at 60 Hz, 32 bits a pixel"."""
    if screen is None:
        return ""
    return (
        f"{screen.width} × {screen.height} at {screen.refresh_hz:g} Hz, "
        f"{screen.bits_per_pixel} bits a pixel"
    )


def ladder_of_rig(rig: Rig, link: Link | None, card: Card | None) -> Ladder:
    """The ladder of a rig as described: its link's hops, its card's edge, its screen path."""
    if link is None:
        raise BadLink(rig.name, "no link is described for it", "Choose or describe a link")
    sent_back = rig.screen_path is ScreenPath.SENT_BACK
    return bandwidth_ladder(
        (*link.hops, *card_hop(card)),
        link.payload_bytes,
        rig.screen if sent_back else None,
        rig.measured_gb_per_s,
        timed_stream_gb_per_s(link.display, link.display_blanking) if link.display else 0.0,
        link.devices,
    )


def why_below(ladder: Ladder) -> str | None:
    """How far a measured figure is under the ladder, and what is likely; None where it fits."""
    measured = ladder.measured_gb_per_s
    if measured is None:
        return None
    low = ladder.practice_low_gb_per_s
    top = min(
        rate
        for rate in (
            ladder.payload_gb_per_s,
            None if ladder.tunnel_gbps is None else ladder.tunnel_gbps / 8.0,
        )
        if rate is not None
    )
    if measured > top * 1.02:
        return (
            f"{amount(measured, 'GB/s', 2)} measured is above the "
            f"{amount(top, 'GB/s', 2)} that the link can carry: "
            "look at the unit, or at a hop that is described too slow"
        )
    if measured >= low * FAR_BELOW:
        return None
    share = measured / low
    likely = "a cord that came up narrower or slower than described"
    if 0.4 <= share <= 0.6:
        likely = "half the lanes, or one generation down"
    elif share < 0.3:
        likely = "a quarter of the lanes, or two generations down"
    return (
        f"{amount(measured, 'GB/s', 2)} measured is {100 * (1 - share):.0f} % under the "
        f"{amount(low, 'GB/s', 2)} that "
        f"such links move in practice; likely {likely}, a display stream on the same cable, or "
        "power saving on the link"
    )


@dataclass(frozen=True, slots=True)
class Width:
    """The most a link can carry in GB/s: the least and the most of it, where a range is known."""

    least: float
    most: float

    @property
    def middle(self) -> float:
        """The one figure that stands for it: √(least · most)."""
        return math.sqrt(self.least * self.most)


def link_width(link: Link | None) -> Width | None:
    """The most a link can carry: its slowest stretch. None where none is described."""
    hops = link.hops if link else ()
    most, least = _most_of(hops), _most_of([hop.slowest() for hop in hops])
    return None if most is None or least is None else Width(least, most)


def rig_width(contents: Contents, rig: Rig) -> Width | None:
    """The same of a rig, whose measured bandwidth goes before what is described."""
    if rig.measured_gb_per_s:
        return Width(rig.measured_gb_per_s, rig.measured_gb_per_s)
    return link_width(contents.link_of(rig.id))


def link_gb_per_s(link: Link | None) -> float | None:
    """One figure for `link_width`, the middle of a range; None where none is described."""
    width = link_width(link)
    return width.middle if width else None


def _most_of(hops: Sequence[Hop]) -> float | None:
    rates = [hop.tunnel_gbps / 8.0 for hop in hops if hop.tunnel_gbps is not None]
    if agreed := negotiate(hops):
        rates.append(encoded_gb_per_s(agreed.generation, agreed.lanes))
    return min(rates) if rates else None


@dataclass(frozen=True, slots=True)
class UsualLink:
    """A link as it is named in shops, with what it moves in practice."""

    name: str
    gb_per_s: float
    tunnel: bool = False


MOVED = 0.82  # of the encoded rate that copies reach; common practice, no source
USUAL = ((3, 2), (3, 4), (4, 2), (4, 4), (4, 8), (4, 16), (5, 4), (5, 16))
USUAL_TUNNELS = {40: 2.6, 80: 5.6}  # Gb/s: GB/s in practice; common practice, no source


def usual_links() -> tuple[UsualLink, ...]:
    """Links to ask about by their names."""
    direct = [
        UsualLink(f"PCIe {generation}.0 x{lanes}", encoded_gb_per_s(generation, lanes) * MOVED)
        for generation, lanes in USUAL
    ]
    tunnels = [UsualLink(f"{gbps} Gb/s tunnel", rate, True) for gbps, rate in USUAL_TUNNELS.items()]
    return (*direct, *tunnels)


def ladder_or_why(contents: Contents, rig: Rig) -> tuple[Ladder | None, str]:
    """A rig's ladder, or None and the sentence why it has none."""
    try:
        return ladder_of_rig(rig, contents.link_of(rig.id), contents.card_of(rig.id)), ""
    except UserFixable as error:
        return None, str(error)


def bench_line(rig: Rig, ladder: Ladder, link: Link | None = None) -> str:
    """What a rig's link leaves for the game, what sets it, and what is not known of it."""
    span = span_words(ladder.least_left_gb_per_s, ladder.left_gb_per_s)
    left = f"{span} left for the game"
    if ladder.measured_gb_per_s is not None:
        why = f"as measured ({rig.measured_how})" if rig.measured_how else "as measured"
    elif ladder.slowest is not None and link is not None:
        why = open_words(link.hops)
    elif ladder.tunnel_gbps is not None and (
        ladder.payload_gb_per_s is None
        or ladder.payload_gb_per_s > ladder.tunnel_gbps / 8.0 * (1.0 - TUNNEL_KEPT_BACK)
    ):
        why = f"the {ladder.tunnel_gbps:g}\u202fGb/s tunnel sets it"
    elif ladder.negotiated is not None:
        why = set_by_words(ladder.negotiated)
    else:
        why = "as described"
    practice = (
        f"{ladder.practice_low_gb_per_s:.1f} to "
        f"{ladder.practice_high_gb_per_s:.1f}\u202fGB/s in practice"
    )
    back = ""
    if ladder.back_is_narrow:
        back = (
            f" The picture sent back leaves {amount(ladder.left_back_gb_per_s, 'GB/s', 1)} of the "
            "other direction."
        )
    unknown = f" {not_known_words(link)}" if ladder.slowest else ""
    return f"{rig.name} has {left}: {why}; such links move {practice}.{back}{unknown}"
