"""A rig as one strip: host, link, dock, card, picture, and what is left of the bandwidth between.

The figures of the ladder laid along the way that they take, with the findings of the fit at the
block they are about; and rigs below one another, so that one sees what differs.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from enum import StrEnum

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.hardware import Hop, Link, Rig, RigState, ScreenPath
from blunt_ruler.core.records.records import Contents, Review
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.rigs.compatibility import (
    FitFinding,
    Powering,
    check_fit,
    fit_line,
    powering,
)
from blunt_ruler.core.rigs.fields import field_text, fields_of
from blunt_ruler.core.rigs.links import (
    Ladder,
    bandwidth_ladder,
    card_hop,
    hop_words,
    ladder_or_why,
    not_known_words,
)
from blunt_ruler.core.rigs.notation import plugs_text
from blunt_ruler.core.rigs.video_timing import timed_stream_gb_per_s
from blunt_ruler.core.text import MISSING, THIN, amount, capital, percent_text

TAKES_NOTHING = 0.97  # of what others could carry: a place that leaves more is not called narrow


class Place(StrEnum):
    """What a rig is made of, in the order of the way from host to picture; the rig and its state
    stand before and behind.
    """

    RIG = "rig"
    HOST = "host"
    LINK = "link"
    DOCK = "dock"
    CARD = "card"
    PICTURE = "picture"
    STATE = "state"


BLOCKS = (Place.HOST, Place.LINK, Place.DOCK, Place.CARD, Place.PICTURE)
PARTS = BLOCKS[:4]

# The block that each check of the fit puts its mark on.
PLACE_OF_CHECK = {
    "described": Place.RIG,
    "length": Place.DOCK,
    "width": Place.DOCK,
    "adapter": Place.DOCK,
    "adapter_load": Place.DOCK,
    "outlets": Place.DOCK,
    "sense_level": Place.DOCK,
    "slot_power": Place.DOCK,
    "supply": Place.DOCK,
    "charging": Place.DOCK,
    "inputs": Place.CARD,
    "board_power": Place.CARD,
    "driver_clash": Place.CARD,
    "tunnel": Place.LINK,
    "hot_plug": Place.LINK,
}


@dataclass(frozen=True, slots=True)
class Block:
    """One block: its name ("–" for none), what is said under it, and the worst found about it."""

    place: Place
    name: str
    facts: tuple[str, ...]
    severity: Severity | None = None

    @property
    def is_there(self) -> bool:
        """Whether the rig has such a part."""
        return self.name != MISSING


@dataclass(frozen=True, slots=True)
class Strip:
    """A rig from host to picture.

    `left_gb_per_s` is what is left behind host, link and dock, on the way to the card: GB/s, None
    where nobody described enough or the card is built in; the last is what the ladder leaves for
    the game. `least_left_gb_per_s` is the same at the least, where a range is known.
    `could_gb_per_s` is what the card's own edge could take, `narrowest` the place that could carry
    least, None where all carry alike (within 3 %). `back_gb_per_s` is a picture that is sent back.
    """

    rig_id: str
    name: str
    blocks: tuple[Block, ...]
    could_gb_per_s: float | None
    left_gb_per_s: tuple[float | None, float | None, float | None]
    least_left_gb_per_s: tuple[float | None, float | None, float | None]
    narrowest: Place | None
    back_gb_per_s: float
    power: Powering | None
    findings: tuple[FitFinding, ...]
    says: str

    def block(self, place: Place) -> Block:
        """The block at a place."""
        return self.blocks[BLOCKS.index(place)]

    def found_at(self, place: Place) -> tuple[FitFinding, ...]:
        """What was found about one block."""
        dock = self.block(Place.DOCK).is_there
        return tuple(one for one in self.findings if _place_of(one, dock) is place)


def _place_of(finding: FitFinding, has_dock: bool) -> Place:
    """The block that a finding is about; without a dock the card stands in the host."""
    place = PLACE_OF_CHECK[finding.check]
    return Place.HOST if place is Place.DOCK and not has_dock else place


def rig_strip(contents: Contents, rig_id: str) -> Strip:
    """The strip of a rig as it is described."""
    rig = contents.rigs[rig_id]
    findings = check_fit(contents, rig_id)
    has_dock = contents.dock_of(rig_id) is not None
    blocks = []
    for place in BLOCKS:
        name, facts = block_words(contents, rig, place)
        worst = next((one.severity for one in findings if _place_of(one, has_dock) is place), None)
        blocks.append(Block(place, name, facts, worst))
    ladder, why_not = ladder_or_why(contents, rig)
    link = contents.link_of(rig_id)
    way = slow = _way(contents, rig, link, ladder)
    if link is not None and ladder is not None and ladder.slowest is not None:
        slowest = link.model_copy(update={"hops": tuple(hop.slowest() for hop in link.hops)})
        slow = _way(contents, rig, slowest, ladder.slowest)
    return Strip(
        rig_id=rig_id,
        name=rig.name,
        blocks=tuple(blocks),
        could_gb_per_s=way.could.get(Place.CARD),
        left_gb_per_s=way.left,
        least_left_gb_per_s=slow.left,
        narrowest=slow.narrowest,
        back_gb_per_s=ladder.return_gb_per_s if ladder else 0.0,
        power=powering(contents, rig_id),
        findings=findings,
        says=_says(contents, rig, ladder, why_not, (slow, way), findings),
    )


# The way


@dataclass(frozen=True, slots=True)
class _Way:
    """What each place could carry by itself, and what is left behind each on the whole way."""

    could: dict[Place, float]
    left: tuple[float | None, float | None, float | None]
    narrowest: Place | None


def own_hops(link: Link, has_dock: bool) -> dict[Place, tuple[Hop, ...]]:
    """The hops of a link by whose they are: the last is a dock's own end, the first the host's
    port; a single one in between or alone is the link's.
    """
    hops = link.hops
    ends = len(hops) - 1 if has_dock and len(hops) > 1 else len(hops)
    starts = 1 if ends > 1 else 0
    return {Place.HOST: hops[:starts], Place.LINK: hops[starts:ends], Place.DOCK: hops[ends:]}


def _way(contents: Contents, rig: Rig, link: Link | None, ladder: Ladder | None) -> _Way:
    """The narrowest place is the one that could carry least by itself, the link among equals.

    A measured bandwidth is of the whole way: it counts from the narrowest place on.
    """
    if link is None or ladder is None:
        return _Way({}, (None, None, None), None)
    of = own_hops(link, contents.dock_of(rig.id) is not None)
    of[Place.CARD] = card_hop(contents.card_of(rig.id))
    could = {place: left for place, hops in of.items() if (left := _left(link, hops)) is not None}
    ends = ladder.left_gb_per_s
    order = sorted(could, key=lambda place: (could[place], place is not Place.LINK))
    narrowest = order[0] if order else None
    least = min(could.values(), default=ends)
    if ends >= TAKES_NOTHING * max(could.values(), default=ends) or (
        least >= TAKES_NOTHING * max(could.values(), default=ends)
        and ends >= ladder.practice_low_gb_per_s
    ):
        narrowest = None  # all carry alike, and what is measured is what such links move
    behind_each: list[float | None] = []
    behind = False
    for place in (Place.HOST, Place.LINK, Place.DOCK):
        behind = behind or place is narrowest
        so_far = [could[one] for one in list(of)[: list(of).index(place) + 1] if one in could]
        behind_each.append(ends if behind and so_far else min(so_far, default=None))
    return _Way(could, (behind_each[0], behind_each[1], ends), narrowest)


def _left(link: Link, hops: Sequence[Hop]) -> float | None:
    """What some hops leave for payload; None where they say nothing."""
    display = 0.0
    if link.display and any(hop.tunnel_gbps is not None for hop in hops):
        display = timed_stream_gb_per_s(link.display, link.display_blanking)
    try:
        return bandwidth_ladder(
            hops, link.payload_bytes, None, None, display, link.devices
        ).left_gb_per_s
    except UserFixable:
        return None


def _says(
    contents: Contents,
    rig: Rig,
    ladder: Ladder | None,
    why_not: str,
    ways: tuple[_Way, _Way],
    findings: tuple[FitFinding, ...],
) -> str:
    """The finding of a strip in one sentence, what blocks the rig first.

    `ways` are the way at the least and at the most that is known of its hops.
    """
    card, host = contents.card_of(rig.id), contents.host_of(rig.id)
    if any(one.severity is Severity.BLOCKING for one in findings):
        return fit_line(rig.name, findings)
    if card is not None and card.built_in:
        where = f"the memory of {host.name}" if host else "its host's memory"
        return f"{card.name} shares {where}: no link stands before it."
    if ladder is None:
        return why_not
    how = "measured" if ladder.measured_gb_per_s is not None else "left for the game"
    slow, fast = ways
    if slow.narrowest is None:
        line = (
            f"No part of the path of {rig.name} is narrower than the rest: "
            f"{ladder.left_words} {how}."
        )
    else:
        verb = "is" if fast.narrowest is slow.narrowest else "may be"
        line = _narrow_line(contents, rig, slow, slow.narrowest, ladder, verb)
    if ladder.slowest is not None:
        line += f" {not_known_words(contents.link_of(rig.id))}"
    if ladder.back_is_narrow:
        back = amount(ladder.left_back_gb_per_s, "GB/s", 1)
        line += f" The picture sent back leaves {back} of the other direction."
    return line


COULD = {
    Place.HOST: "{}'s port could give",
    Place.LINK: "the {} could carry",
    Place.DOCK: "{}'s slot could carry",
    Place.CARD: "the {} could take",
}


def _narrow_line(
    contents: Contents, rig: Rig, way: _Way, narrowest: Place, ladder: Ladder, verb: str
) -> str:
    names = {place: block_words(contents, rig, place)[0] for place in PARTS}
    who = {
        Place.HOST: f"{names[Place.HOST]}'s port",
        Place.LINK: f"The {names[Place.LINK]}",
        Place.DOCK: f"{names[Place.DOCK]}'s own end",
        Place.CARD: f"The edge of the {names[Place.CARD]}",
    }[narrowest]
    wider = {place: could for place, could in way.could.items() if place is not narrowest}
    line = f"{who} {verb} the narrow place"
    # The card's own edge says what a full slot would give; else the widest of the others.
    best = Place.CARD if Place.CARD in wider else max(wider, key=lambda p: wider[p], default=None)
    if best is None or wider[best] <= ladder.left_gb_per_s:
        return f"{line}: it leaves {ladder.left_words}."
    whose = COULD[best].format(names[best])
    left = ladder.left_words.removesuffix(f"{THIN}GB/s")
    return f"{line}: it leaves {left} of the {amount(wider[best], 'GB/s', 1)} that {whose}."


# Words of the blocks


def block_words(contents: Contents, rig: Rig, place: Place) -> tuple[str, tuple[str, ...]]:
    """What a place of a rig is called, and at most two lines of facts about it."""
    name, facts = _WORDS[place](contents, rig)
    return name or MISSING, tuple(line for line in facts if line)


def _joined(*parts: str) -> str:
    return " · ".join(part for part in parts if part)


def _host(contents: Contents, rig: Rig) -> tuple[str, tuple[str, ...]]:
    host, link = contents.host_of(rig.id), contents.link_of(rig.id)
    if host is None:
        return "", ()
    cores = f"{host.cores}-core" if host.cores else ""
    limit = rig.state.cpu_power_limit_w or host.sustained_power_w
    power = amount(limit, "W") if limit else ""
    port = own_hops(link, contents.dock_of(rig.id) is not None)[Place.HOST] if link else ()
    return host.name, (_joined(cores, power), hop_words(port[0]) if port else _joined(*host.ports))


def _link(contents: Contents, rig: Rig) -> tuple[str, tuple[str, ...]]:
    link = contents.link_of(rig.id)
    if link is None:
        return "", ()
    own = own_hops(link, contents.dock_of(rig.id) is not None)[Place.LINK]
    hops = " → ".join(hop_words(hop) for hop in own)
    length = amount(link.length_m, "m") if link.length_m else ""
    measured = rig.measured_gb_per_s
    return link.name, (
        _joined(hops, length),
        f"measured {measured:.1f}" if measured else "not measured",
    )


def _dock(contents: Contents, rig: Rig) -> tuple[str, tuple[str, ...]]:
    dock, link = contents.dock_of(rig.id), contents.link_of(rig.id)
    if dock is None:
        return "", ()
    slot = own_hops(link, True)[Place.DOCK] if link else ()
    supply = amount(dock.supply_w, "W") if dock.supply_w else ""
    charges = f"charges {amount(dock.charging_w, 'W')}" if dock.charging_w else ""
    return dock.name, (_joined(hop_words(slot[-1]) if slot else "", supply), charges)


def _card(contents: Contents, rig: Rig) -> tuple[str, tuple[str, ...]]:
    card = contents.card_of(rig.id)
    if card is None:
        return "", ()
    power = amount(card.board_power_w, "W") if card.board_power_w else ""
    memory = amount(card.vram_gb, "GB") if card.vram_gb else ""
    length = amount(card.length_mm, "mm") if card.length_mm else ""
    held = "built in" if card.built_in else "soldered in" if card.soldered else ""
    return card.name, (
        _joined(power, memory, card.form),
        held or _joined(length, plugs_text(card.power_inputs)),
    )


PICTURE_WORDS = {
    ScreenPath.MONITOR_ON_CARD: "on the card",
    ScreenPath.SENT_BACK: "sent back",
    ScreenPath.MONITOR_ON_HOST: "on the host",
}


def _picture(_contents: Contents, rig: Rig) -> tuple[str, tuple[str, ...]]:
    screen = rig.screen
    if screen is None:
        return PICTURE_WORDS[rig.screen_path], ()
    facts = f"{screen.width} × {screen.height}", amount(screen.refresh_hz, "Hz")
    return PICTURE_WORDS[rig.screen_path], facts


def _state(_contents: Contents, rig: Rig) -> tuple[str, tuple[str, ...]]:
    plain = (rig.state.power_mode, rig.state.driver)
    rest = state_facts(rig.state.model_copy(update={"power_mode": "", "driver": ""}))
    return _joined(*plain, *rest), ()


def state_facts(state: RigState) -> tuple[str, ...]:
    """What is written down of a state and not as it is by default: "driver Dune 41.3"."""
    usual, said = RigState(), []
    for spec in fields_of(RigState):
        value = getattr(state, spec.name)
        if value != getattr(usual, spec.name):
            said.append(f"{spec.says} {field_text(value)}{THIN}{spec.unit}".rstrip(THIN))
    return tuple(said)


_WORDS: dict[Place, Callable[[Contents, Rig], tuple[str, tuple[str, ...]]]] = {
    Place.RIG: lambda _contents, rig: (rig.name, ()),
    Place.HOST: _host,
    Place.LINK: _link,
    Place.DOCK: _dock,
    Place.CARD: _card,
    Place.PICTURE: _picture,
    Place.STATE: _state,
}


# Rigs below one another


@dataclass(frozen=True, slots=True)
class RigRow:
    """A rig as a row: what stands at each place, and which of it the row above has too."""

    rig_id: str
    words: tuple[str, ...]
    same: tuple[bool, ...]
    joined: bool
    severity: Severity | None


def rig_rows(contents: Contents, review: Review | None) -> tuple[RigRow, ...]:
    """All rigs of a logbook, those of the review first, each beside what the one above has."""
    seated = [seat.rig_id for seat in review.seats] if review else []
    order = [*seated, *(key for key in contents.rigs if key not in seated)]
    rows: list[RigRow] = []
    above: Rig | None = None
    for rig_id in order:
        rig = contents.rigs[rig_id]
        words = tuple(block_words(contents, rig, place)[0] for place in Place)
        same = tuple(above is not None and _is_same(place, above, rig) for place in Place)
        worst = next((one.severity for one in check_fit(contents, rig_id)), None)
        rows.append(RigRow(rig_id, words, same, rig_id in seated, worst))
        above = rig
    return tuple(rows)


def _is_same(place: Place, one: Rig, other: Rig) -> bool:
    if place is Place.RIG:
        return False
    if place is Place.PICTURE:
        return (one.screen_path, one.screen) == (other.screen_path, other.screen)
    if place is Place.STATE:
        return one.state == other.state
    return bool(getattr(one, f"{place}_id") == getattr(other, f"{place}_id"))


def power_words(power: Powering | None) -> str:
    """What feeds the card, in one line: "supply 330 W → card 180 W + … 70 W: 24 % free"."""
    if power is None or power.card_w is None:
        return ""
    rating = "not described" if power.rating_w is None else amount(power.rating_w, "W")
    asked = f"card {amount(power.card_w, 'W')} + {power.rest_words} {amount(power.rest_w, 'W')}"
    line = f"supply of {power.owner} {rating} → {asked}"
    if power.free_share is None:
        return capital(line)
    free = power.free_share
    verdict = f"{percent_text(free)} free" if free >= 0 else f"{percent_text(-free)} too little"
    return f"{capital(line)}: {verdict}"
