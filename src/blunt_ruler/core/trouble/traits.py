"""What a rig is, as far as it makes a cause likelier or less likely."""

from collections.abc import Iterator

from blunt_ruler.core.records.hardware import ScreenPath, is_fixed
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.rigs.links import has_tunnel

LONG_M = 0.6  # a cord from here on loses rate at generation 4: common practice, no source
LITTLE, MUCH = 0.2, 0.4  # of the supply left free


def traits(contents: Contents, rig_id: str) -> frozenset[str]:
    """The traits of a rig; what is not described is none."""
    return frozenset(_traits(contents, rig_id)) if rig_id in contents.rigs else frozenset()


def _traits(contents: Contents, rig_id: str) -> Iterator[str]:
    rig = contents.rigs[rig_id]
    host, card, dock = (
        contents.host_of(rig_id),
        contents.card_of(rig_id),
        contents.dock_of(rig_id),
    )
    link = contents.link_of(rig_id)
    if link is not None:
        yield "tunnel" if has_tunnel(link) else "no-tunnel"
        if link.length_m is not None and link.length_m >= LONG_M:
            yield "long-cord"
        if any((hop.generation or 0) >= 4 for hop in link.hops):
            yield "generation-4"
        if "m.2" in " ".join((link.name, *(hop.name for hop in link.hops))).lower():
            yield "m2"
        if link.hot_plug:
            yield "hot-plug-made"
    if is_fixed(card, dock):
        yield "sealed"
    if dock is not None and dock.is_fed_by_host:
        yield "fed-by-host"
    if card is not None and not card.power_inputs and (card.board_power_w or 0.0) <= 75.0:
        yield "no-plugs"
    if dock is None:
        yield "no-dock"
    elif dock.supply_w:
        yield "own-supply"
        used = (dock.own_power_w or 0.0) + ((card.board_power_w or 0.0) if card else 0.0)
        free = 1.0 - used / dock.supply_w
        if card is not None and card.board_power_w:
            if free < LITTLE:
                yield "little-headroom"
            elif free > MUCH:
                yield "much-headroom"
    asked = host.charging_w if host is not None else None
    given = dock.charging_w if dock is not None else None
    if asked and given is not None and given < asked:
        yield "weak-charging"
    built_in = contents.cards.get(host.built_in_card_id or "") if host is not None else None
    if card is not None and built_in is not None and card.driver_family and built_in.driver_family:
        same = card.driver_family.lower() == built_in.driver_family.lower()
        yield "one-driver-family" if same or card.built_in else "two-driver-families"
    yield {
        ScreenPath.MONITOR_ON_CARD: "monitor-on-card",
        ScreenPath.MONITOR_ON_HOST: "monitor-on-host",
        ScreenPath.SENT_BACK: "picture-back",
    }[rig.screen_path]
    yield "overclocked" if rig.state.overclock.strip() else "stock-clocks"
