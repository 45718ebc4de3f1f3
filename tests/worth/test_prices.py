"""Bundles, discounts, and prices of two days."""

import pytest
from pydantic import ValidationError

from blunt_ruler.core.records.hardware import Card, Dock, Host, Rig
from blunt_ruler.core.records.pricing import Price, PriceThen, WorthSettings
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.rigs.fields import field_text, read_field
from blunt_ruler.core.rigs.notation import BadSpec
from blunt_ruler.core.worth.costs import cost, cost_then, parts_list


def lab(*prices):
    return Contents.empty().with_records(
        {
            "hosts": {"h": Host(id="h", name="Quillon 24")},
            "cards": {"c": Card(id="c", name="Marram 12")},
            "docks": {"d": Dock(id="d", name="Sluice")},
            "rigs": {"r": Rig(id="r", name="Rig", host_id="h", card_id="c", dock_id="d")},
            "prices": {one.id: one for one in prices},
        }
    )


HOST = Price(id="h", amount=900, owned=True)
CARD = Price(
    id="c", amount=379, date="2026-11-01", earlier=(PriceThen(amount=429, date="2026-05-01"),)
)
DOCK = Price(
    id="d", amount=199, date="2026-10-01", earlier=(PriceThen(amount=219, date="2026-04-15"),)
)


def test_a_discount_is_a_line_below_zero():
    off = Price(id="x", rig_id="r", name="voucher", amount=-30)
    lines = parts_list(lab(HOST, CARD, DOCK, off), "r", WorthSettings())
    assert cost(lines, "Rig").value == 379 + 199 - 30
    with pytest.raises(ValidationError, match="a line beside the parts"):
        Price(id="c", amount=-5)


def test_discounts_above_the_parts_make_no_cost():
    off = Price(id="x", rig_id="r", name="voucher", amount=-3000)
    found = cost(parts_list(lab(HOST, CARD, DOCK, off), "r", WorthSettings()), "Rig")
    assert found.value is None
    assert found.missing == ("a price of Rig above its discounts",)


def test_a_bundle_has_the_price_of_what_it_covers():
    bundle = Price(id="x", rig_id="r", name="spring set", amount=500, covers=("card", "dock"))
    lines = parts_list(lab(HOST, CARD, DOCK, bundle), "r", WorthSettings())
    assert [line.bundle for line in lines] == ["", "spring set", "spring set", ""]
    assert cost(lines, "Rig").value == 500
    bare = parts_list(lab(HOST, bundle), "r", WorthSettings())
    assert cost(bare, "Rig").value == 500, "what it covers needs no price of its own"


def test_the_same_rig_on_an_earlier_day():
    contents = lab(HOST, CARD, DOCK)
    settings = WorthSettings(then="2026-05-01")
    assert cost_then(contents, "r", settings).value == 429 + 219
    assert cost_then(contents, "r", WorthSettings(then="2026-10-31")).value == 429 + 199
    assert cost_then(contents, "r", WorthSettings()) is None
    before = cost_then(contents, "r", WorthSettings(then="2026-01-01"))
    assert before.missing == (
        "the price of Marram 12 on 2026-01-01",
        "the price of Sluice on 2026-01-01",
    )
    assert CARD.on("") == 379


def test_earlier_prices_and_bundles_as_one_types_them():
    earlier = read_field(Price, "earlier", "399 on 2026-09-01; 429,50 @ 2026-05-01")
    assert earlier == (
        PriceThen(amount=429.5, date="2026-05-01"),
        PriceThen(amount=399, date="2026-09-01"),
    )
    assert read_field(Price, "earlier", field_text(earlier)) == earlier
    assert read_field(Price, "covers", "Card and dock") == ("card", "dock")
    for name, text in (("earlier", "cheaper in May"), ("covers", "fan")):
        with pytest.raises(BadSpec):
            read_field(Price, name, text)


def test_an_owned_part_is_owned_on_every_day():
    contents = lab(HOST, CARD.model_copy(update={"owned": True}), DOCK)
    assert cost_then(contents, "r", WorthSettings(then="2026-05-01")).value == 219
