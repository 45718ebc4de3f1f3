"""Does the card fit, and can it be powered and driven? Findings, never a promise.

An x16 slot may draw 75 W (PCI Express CEM, transcribed from memory); for plugs see `plugs`. The
transient factor and the headroom are common practice, no source; both are stated with the finding.
"""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from operator import attrgetter

from blunt_ruler.core.records.hardware import (
    Card,
    Dock,
    Host,
    Link,
    Plugs,
    Rig,
    SlotFeed,
    is_fixed,
)
from blunt_ruler.core.records.records import Contents, Decision
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.rigs.links import has_tunnel
from blunt_ruler.core.rigs.notation import plugs_text
from blunt_ruler.core.rigs.plugs import PLUG_W, SATA_W, UNSENSED_W, feed
from blunt_ruler.core.text import amount, count_text, percent_text

SLOT_W = 75.0
TRANSIENT = 1.3
HEADROOM = 0.20
DOCK_OWN_W = 10.0
CPU_W, HOST_OWN_W = 65.0, 60.0  # board, memory, drives, fans; common practice, no source


@dataclass(frozen=True, slots=True)
class FitFinding:
    """What was found against a rig: what, the two numbers, and what to do."""

    check: str
    severity: Severity
    what: str
    numbers: Mapping[str, float | str]
    do: str


@dataclass(frozen=True, slots=True)
class _Described:
    """A rig with the parts it is made of."""

    rig: Rig
    host: Host | None
    card: Card | None
    dock: Dock | None
    link: Link | None
    built_in: Card | None


def check_fit(contents: Contents, rig_id: str) -> tuple[FitFinding, ...]:
    """Everything found against a rig, the worst first. Nothing found is not a promise."""
    described = _described(contents, rig_id)
    fixed = is_fixed(described.card, described.dock)
    checks = [one for one in CHECKS if not (fixed and one in OF_AN_OPEN_SLOT)]
    found = [finding for check in checks for finding in check(described)]
    found = [_settled(one, contents, described.rig) for one in found]
    return tuple(sorted(found, key=attrgetter("severity.rank")))


def _passes(contents: Contents, rig_id: str) -> int:
    """How many passes with a figure were kept of a rig: what ran, works."""
    return sum(
        run.decision is Decision.KEEP and run.average_fps is not None
        for (rig, _), runs in contents.by_cell.items()
        if rig == rig_id
        for run in runs
    )


def _settled(found: FitFinding, contents: Contents, rig: Rig) -> FitFinding:
    """A finding beside what settles it: what was changed to make it fit, or passes that ran."""
    if found.severity is not Severity.BLOCKING or found.check not in SIZES:
        return found  # that a supply has borne a card so far settles nothing
    if rig.modified:
        return replace(
            found,
            severity=Severity.NOTE,
            what=f"{found.what.rstrip('.')}; made to fit: {rig.modified.rstrip('.')}.",
            do="Cut edges are sharp, chips short out boards, and the warranty may end",
        )
    if passes := _passes(contents, rig.id):
        ran = f"{count_text(passes, 'pass', 'passes')} ran on it all the same"
        return replace(
            found,
            severity=Severity.CAUTION,
            what=f"{found.what.rstrip('.')}; {ran}.",
            do="Correct the description, or write what was changed to make it fit",
        )
    return found


def _described(contents: Contents, rig_id: str) -> _Described:
    host = contents.host_of(rig_id)
    built_in_id = host.built_in_card_id if host else None
    return _Described(
        rig=contents.rigs[rig_id],
        host=host,
        card=contents.card_of(rig_id),
        dock=contents.dock_of(rig_id),
        link=contents.link_of(rig_id),
        built_in=contents.cards.get(built_in_id) if built_in_id else None,
    )


def fit_line(name: str, findings: tuple[FitFinding, ...]) -> str:
    """The findings in one sentence. Never "safe"."""
    if not findings:
        return f"Nothing found against {name}."
    blocking = sum(finding.severity is Severity.BLOCKING for finding in findings)
    if blocking:
        return f"{name} will not work as described: {findings[0].what}"
    cautions = sum(finding.severity is Severity.CAUTION for finding in findings)
    if cautions:
        return f"{count_text(cautions, 'thing')} to look at on {name}: {findings[0].what}"
    return f"Nothing stops {name}; {count_text(len(findings), 'thing')} to know."


def _length(of: _Described) -> Iterator[FitFinding]:
    if of.card and of.dock and of.card.length_mm and of.dock.length_mm:
        card, room = of.card.length_mm, of.dock.length_mm
        if card > room:
            yield FitFinding(
                "length",
                Severity.BLOCKING,
                f"the {of.card.name} is {amount(card, 'mm')} long and {of.dock.name} "
                f"holds {amount(room, 'mm')}.",
                {"card_mm": card, "room_mm": room},
                "Take a shorter card or an open dock; do not bend or cut to make it fit",
            )


def _width(of: _Described) -> Iterator[FitFinding]:
    if of.card and of.dock and of.card.slots_wide and of.dock.slots_wide:
        card, room = of.card.slots_wide, of.dock.slots_wide
        if card > room:
            yield FitFinding(
                "width",
                Severity.BLOCKING,
                f"the {of.card.name} is {card:g} slots wide and the bracket of {of.dock.name} has "
                f"{room:g}.",
                {"card_slots": card, "room_slots": room},
                "Take a slimmer card or a wider bracket",
            )


def _plugs(of: _Described) -> Iterator[FitFinding]:
    """Power inputs against outlets, adapters used where they help."""
    if of.card is None or of.dock is None or not of.card.power_inputs:
        return
    unstated_w = max((of.card.board_power_w or 0.0) - SLOT_W, 0.0)
    fed = feed(of.card.power_inputs, of.dock.outlets, of.rig.adapters, unstated_w)
    for adapter in of.rig.adapters:
        yield from _adapter_load(adapter.takes, adapter.gives)
    for adapter, free in fed.stuck:
        yield FitFinding(
            "adapter",
            Severity.BLOCKING,
            f"an adapter takes {plugs_text([adapter.takes])} and {of.dock.name} has "
            f"{count_text(free, 'such plug')} free.",
            {"takes": adapter.takes.count, "free": free},
            "Take another adapter or a supply with more outlets",
        )
    for wanted, got in fed.short:
        yield FitFinding(
            "outlets",
            Severity.BLOCKING,
            f"the {of.card.name} needs {plugs_text([wanted])} and {of.dock.name} offers "
            f"{got or 'none'}.",
            {"needed": wanted.count, "offered": got},
            "Take a supply with that outlet, or the card maker's own adapter",
        )
    if fed.if_split:
        yield FitFinding(
            "outlets",
            Severity.CAUTION,
            f"the {of.card.name} has a 6-pin input and {of.dock.name} offers 8-pin: it fits where "
            "the lead is 6+2-pin, and most are.",
            {"needed": "6-pin", "offered": "8-pin"},
            "Look at the lead, and describe it as 6+2-pin if it splits",
        )
    for asked, level in fed.weak:
        yield FitFinding(
            "sense_level",
            Severity.BLOCKING,
            f"the {of.card.name} wants {amount(asked, 'W')} through its 12V-2x6 plug, whose "
            f"sense level is {amount(level, 'W')}.",
            {"needed_w": asked, "level_w": level},
            "Take a cable and supply of a higher sense level",
        )


def _adapter_load(takes: Plugs, gives: Plugs) -> Iterator[FitFinding]:
    carries = PLUG_W.get(takes.kind, takes.watts or UNSENSED_W) * takes.count
    asks = PLUG_W.get(gives.kind, gives.watts or UNSENSED_W) * gives.count
    if asks > carries:
        yield FitFinding(
            "adapter_load",
            Severity.BLOCKING,
            f"an adapter makes {amount(asks, 'W')} out of plugs that carry {amount(carries, 'W')}.",
            {"asks_w": asks, "carries_w": carries},
            "Take an adapter with enough plugs behind it",
        )


def _inputs_carry(of: _Described) -> Iterator[FitFinding]:
    """Board power against what slot and plugs may carry together."""
    if of.card is None or of.card.built_in or of.card.board_power_w is None:
        return
    plugs = sum(
        PLUG_W.get(one.kind, one.watts or 600.0) * one.count for one in of.card.power_inputs
    )
    if of.card.board_power_w > plugs + SLOT_W:
        yield FitFinding(
            "inputs",
            Severity.CAUTION,
            f"the {of.card.name} draws {amount(of.card.board_power_w, 'W')} and its slot "
            "and plugs carry "
            f"{amount(plugs + SLOT_W, 'W')}.",
            {"board_w": of.card.board_power_w, "carried_w": plugs + SLOT_W},
            "Look at the board power and the power inputs again",
        )


def _slot_feed(of: _Described) -> Iterator[FitFinding]:
    if of.dock is None or of.card is None or of.card.built_in:
        return
    if of.dock.slot_feed is SlotFeed.SATA:
        yield FitFinding(
            "slot_power",
            Severity.BLOCKING if not of.card.power_inputs else Severity.CAUTION,
            f"the slot of {of.dock.name} is fed by a SATA plug, which gives at most "
            f"{amount(SATA_W, 'W')} "
            f"at 12 V, and a card may draw {amount(SLOT_W, 'W')} through a slot.",
            {"given_w": SATA_W, "may_draw_w": SLOT_W},
            "Feed the slot from an 8-pin or 6-pin plug of the supply",
        )
    if of.dock.slot_feed is SlotFeed.HOST and of.link is not None:
        yield FitFinding(
            "slot_power",
            Severity.CAUTION,
            f"the host feeds the slot of {of.dock.name} over the link: "
            f"{amount(SLOT_W, 'W')} that its port "
            "may not have.",
            {"may_draw_w": SLOT_W, "port_w": "unknown"},
            "Look up what the host's port gives, or feed the slot from the supply",
        )


def supply_load_w(card: Card, dock: Dock) -> tuple[float, float]:
    """What a dock's supply is asked for, W: (steady, at the card's peaks).

    Card, charging offered to the host, and the dock itself; an unknown draw of the dock counts as
    `DOCK_OWN_W`, an unknown board power as none.
    """
    power, rest = card.board_power_w or 0.0, _beside_card_w(dock)
    return power + rest, power * TRANSIENT + rest


def _beside_card_w(dock: Dock) -> float:
    """Charging offered to the host, and the dock itself."""
    own = dock.own_power_w if dock.own_power_w is not None else DOCK_OWN_W
    return (dock.charging_w or 0.0) + own


@dataclass(frozen=True, slots=True)
class Powering:
    """Whose supply feeds an add-in card, what it gives, and what hangs on it, in W.

    None for a rating or a board power that nobody described.
    """

    owner: str
    rating_w: float | None
    rest_w: float
    rest_words: str
    card_w: float | None = None

    @property
    def free_share(self) -> float | None:
        """1 − (card + rest) / rating: what stays free with all drawing steadily."""
        if self.rating_w is None or self.card_w is None:
            return None
        return 1.0 - (self.card_w + self.rest_w) / self.rating_w


def powering(contents: Contents, rig_id: str) -> Powering | None:
    """What feeds the add-in card of a rig; None without one, or where nobody said what holds it."""
    of = _described(contents, rig_id)
    return None if of.card is None or of.card.built_in else _supply_of(of)


def _supply_of(of: _Described) -> Powering | None:
    """The dock's supply, or the host's own where the card sits in its slot."""
    card_w = of.card.board_power_w if of.card else None
    if of.dock is not None and not of.dock.is_fed_by_host:
        return Powering(
            of.dock.name, of.dock.supply_w, _beside_card_w(of.dock), "charging and dock", card_w
        )
    if of.host is None or of.host.charging_w or (of.link is not None and has_tunnel(of.link)):
        return None  # the card stands in something that nobody described
    cpu = of.rig.state.cpu_power_limit_w or of.host.sustained_power_w
    rest = (CPU_W if cpu is None else cpu) + HOST_OWN_W
    said = "CPU (not described, taken as 65\u202fW)" if cpu is None else "CPU"
    words = f"{said} and the rest of the host"
    return Powering(of.host.name, of.host.supply_w, rest, words, card_w)


def _supply(of: _Described) -> Iterator[FitFinding]:
    """Supply rating against card and all else that it feeds, steady and at peaks."""
    if of.card is None or of.card.built_in:
        return
    supply = _supply_of(of)
    if supply is None:
        return
    board_w = of.card.board_power_w
    if board_w is None:
        yield FitFinding(
            "board_power",
            Severity.CAUTION,
            f"the board power of the {of.card.name} is not described, so the supply of "
            f"{supply.owner} cannot be checked.",
            {"card_w": "unknown", "supply_w": supply.rating_w or "unknown"},
            "Look it up in the maker's data sheet",
        )
        return
    if supply.rating_w is None:
        yield FitFinding(
            "supply",
            Severity.NOTE,
            f"the supply of {supply.owner} is not described, so the {amount(board_w, 'W')} of "
            f"the {of.card.name} cannot be checked.",
            {"card_w": board_w, "supply_w": "unknown"},
            "Read the rating off the supply's label",
        )
        return
    steady, peak = board_w + supply.rest_w, board_w * TRANSIENT + supply.rest_w
    rating = supply.rating_w
    room = rating * (1.0 - HEADROOM)
    parts = f"card {amount(board_w, 'W')}, {supply.rest_words} {amount(supply.rest_w, 'W')}"
    if steady > rating:
        yield FitFinding(
            "supply",
            Severity.BLOCKING,
            f"{supply.owner} is asked for {amount(steady, 'W')} ({parts}) and its supply gives "
            f"{amount(rating, 'W')}.",
            {"asked_w": steady, "supply_w": rating},
            "Take a larger supply or a card of less power",
        )
    elif peak > rating or steady > room:
        yield FitFinding(
            "supply",
            Severity.CAUTION,
            f"{supply.owner} is asked for {amount(steady, 'W')} ({parts}), "
            f"{amount(peak, 'W')} at peaks of "
            f"{TRANSIENT:g} times the card; its supply gives {amount(rating, 'W')}, "
            f"{amount(room, 'W')} with "
            f"{percent_text(HEADROOM)} kept free.",
            {"peak_w": peak, "supply_w": rating},
            "Take a larger supply, or lower the card's power limit and write it down",
        )


def _charging(of: _Described) -> Iterator[FitFinding]:
    if of.host is None or of.dock is None or of.host.charging_w is None:
        return
    offered = of.dock.charging_w or 0.0
    if of.link is not None and has_tunnel(of.link) and offered < of.host.charging_w:
        yield FitFinding(
            "charging",
            Severity.CAUTION,
            f"{of.host.name} asks for {amount(of.host.charging_w, 'W')} and "
            f"{of.dock.name} charges with "
            f"{amount(offered, 'W')}.",
            {"asked_w": of.host.charging_w, "offered_w": offered},
            "Plug in the host's own charger: a host that runs down changes results",
        )


def _drivers(of: _Described) -> Iterator[FitFinding]:
    if of.card is None or of.built_in is None or of.card.built_in or not of.rig.state.built_in_on:
        return
    if of.card.driver_family and of.card.driver_family == of.built_in.driver_family:
        yield FitFinding(
            "driver_clash",
            Severity.CAUTION,
            f"{of.built_in.name} and {of.card.name} are both driven by the {of.card.driver_family} "
            "driver, and the built-in graphics are on.",
            {"built_in": of.built_in.name, "card": of.card.name},
            "Install the newest driver that names both, or switch the built-in graphics off",
        )


def _tunnel(of: _Described) -> Iterator[FitFinding]:
    if of.link is None or of.host is None or not has_tunnel(of.link):
        return
    system = of.host.operating_system or "its operating system"
    if of.host.drives_tunnel is False:
        yield FitFinding(
            "tunnel",
            Severity.BLOCKING,
            f"{of.link.name} is a tunnel and {system} on {of.host.name} cannot drive one.",
            {"link": of.link.name, "system": system},
            "Take another operating system or a direct link",
        )
    elif of.host.drives_tunnel is None:
        yield FitFinding(
            "tunnel",
            Severity.NOTE,
            f"{of.link.name} is a tunnel; whether {system} on {of.host.name} drives it is not "
            "said.",
            {"link": of.link.name, "system": system},
            "Try it before the bench day and write it down",
        )


def _hot_plug(of: _Described) -> Iterator[FitFinding]:
    if of.link is None or of.dock is None or of.link.hot_plug:
        return
    yield FitFinding(
        "hot_plug",
        Severity.NOTE,
        f"{of.link.name} is {'not ' if of.link.hot_plug is False else 'not known to be '}made to "
        "be plugged while running.",
        {"link": of.link.name, "hot_plug": "no" if of.link.hot_plug is False else "unknown"},
        "Switch off and unplug both host and dock before touching the link",
    )


def _nothing_described(of: _Described) -> Iterator[FitFinding]:
    missing = [
        name
        for name, part in (("host", of.host), ("card", of.card), ("link", of.link))
        if part is None and not (name == "link" and of.card is not None and of.card.built_in)
    ]
    if missing:
        yield FitFinding(
            "described",
            Severity.NOTE,
            f"no {' or '.join(missing)} is described, so nothing can be checked.",
            {"described": 3 - len(missing), "parts": 3},
            "Describe it, or choose a part that is described already",
        )


CHECKS: tuple[Callable[[_Described], Iterator[FitFinding]], ...] = (
    _nothing_described,
    _length,
    _width,
    _plugs,
    _inputs_carry,
    _slot_feed,
    _supply,
    _charging,
    _drivers,
    _tunnel,
    _hot_plug,
)
SIZES = ("length", "width")
OF_AN_OPEN_SLOT = (_length, _width, _plugs, _inputs_carry, _slot_feed)
"""What does not concern a dock with its card built in."""
