"""The parts list of a rig with prices, and what it adds up to."""

from collections.abc import Iterator
from dataclasses import dataclass

from blunt_ruler.core.records.hardware import Rig, is_fixed
from blunt_ruler.core.records.pricing import Price, WorthSettings
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.worth.answers import Answer, asked, known, total, unknown

HOST, CARD, DOCK, LINK, BESIDE = "host", "card", "dock", "link", "beside"


@dataclass(frozen=True, slots=True)
class Line:
    """One line of a parts list. `price_id` is where its price is kept.

    `comes_to` is what it adds in the review's currency, 0 for something already owned unless the
    review counts it; `worth` is the same with owned things counted.
    """

    kind: str
    what: str
    price_id: str
    price: Price | None
    comes_to: Answer
    worth: Answer
    bundle: str = ""  # the line that has its price, where it has none of its own

    @property
    def owned(self) -> bool:
        """Whether it is already there."""
        return self.price is not None and self.price.owned


def parts_list(
    contents: Contents, rig_id: str, settings: WorthSettings, on: str = ""
) -> tuple[Line, ...]:
    """What a rig consists of, part by part, then what it needs beside them.

    With a day, at the newest prices of that day. A part that a bundle has the price of costs
    nothing by itself, nor does a card that is built into its box or host and has no price.
    """
    rig = contents.rigs[rig_id]
    beside = [price for price in contents.prices.values() if price.rig_id == rig_id]
    bundles: dict[str, str] = {kind: price.name for price in beside for kind in price.covers}
    if (around := _sold_with(contents, rig)) is not None:
        bundles.setdefault(CARD, around)
    return (
        *(
            _line(contents, settings, *part, on, bundles.get(part[0], ""))
            for part in _parts(contents, rig)
        ),
        *(
            _line(contents, settings, BESIDE, price.name or "something beside", price.id, on)
            for price in beside
        ),
    )


def _sold_with(contents: Contents, rig: Rig) -> str | None:
    """What a card that cannot be taken out is sold with, where it has no price of its own."""
    card, dock = contents.card_of(rig.id), contents.dock_of(rig.id)
    if card is None or not is_fixed(card, dock) or card.id in contents.prices:
        return None
    around = dock or contents.host_of(rig.id)
    return around.name if around is not None else None


def _parts(contents: Contents, rig: Rig) -> Iterator[tuple[str, str, str]]:
    host, card = contents.host_of(rig.id), contents.card_of(rig.id)
    dock, link = contents.dock_of(rig.id), contents.link_of(rig.id)
    if host is not None:
        yield HOST, host.name, host.id
    if card is not None and not card.built_in:  # built-in graphics come with the host
        yield CARD, card.name, card.id
    if dock is not None:
        yield DOCK, dock.name, dock.id
    if link is not None and link.cords != 0:  # a slot or an edge is not bought apart
        yield LINK, link.name, link.id


def _line(
    contents: Contents,
    settings: WorthSettings,
    kind: str,
    what: str,
    key: str,
    on: str = "",
    bundle: str = "",
) -> Line:
    price = contents.prices.get(key)
    worth = known(0.0) if bundle else in_currency(price, what, settings, on)
    owned = price is not None and price.owned and not settings.count_owned
    return Line(kind, what, key, price, known(0.0) if owned else worth, worth, bundle)


def in_currency(price: Price | None, what: str, settings: WorthSettings, on: str = "") -> Answer:
    """A price times its count in the review's currency, of a day where one is given."""
    then = f" on {on}" if on else ""
    if price is None or (each := price.on(on)) is None:
        return unknown(f"the price of {what}{then}")
    amount = each * price.count
    if price.currency == settings.currency:
        return known(amount)
    rate = next((one.rate for one in settings.rates if one.currency == price.currency), None)
    rated = asked(rate, f"the rate of {price.currency} in {settings.currency}")
    return rated if rated.value is None else known(amount * rated.value)


def cost(lines: tuple[Line, ...], rig_name: str) -> Answer:
    """What is still to be bought; unknown while one price is, or where discounts exceed it."""
    if not lines:
        return unknown(f"the parts of {rig_name}")
    whole = total(line.comes_to for line in lines)
    if whole.value is not None and whole.value < 0:
        return unknown(f"a price of {rig_name} above its discounts")
    return whole


def cost_then(contents: Contents, rig_id: str, settings: WorthSettings) -> Answer | None:
    """What a rig cost on the day that the review sets beside; None where it sets none."""
    if not settings.then:
        return None
    lines = parts_list(contents, rig_id, settings, settings.then)
    return cost(lines, contents.rigs[rig_id].name)
