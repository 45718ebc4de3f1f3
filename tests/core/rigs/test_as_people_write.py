"""Meters, money, plugs and built-in graphics in the words that people use."""

import pytest

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.hardware import Card, PlugKind, RigState
from blunt_ruler.core.records.pricing import Price, Readings
from blunt_ruler.core.records.records import Meters
from blunt_ruler.core.rigs.fields import with_field
from blunt_ruler.core.rigs.notation import parse_plugs, plugs_text
from blunt_ruler.core.rigs.plugs import feed
from blunt_ruler.core.rigs.strip import Place
from blunt_ruler.core.rigs.typed_places import type_place, typed_says
from blunt_ruler.core.rigs.worth_notation import noise_text, parse_noise
from blunt_ruler.core.worth.running import Shown, noise_dba


@pytest.mark.parametrize(
    ("field", "text", "value"),
    [
        ("card_c", "66-72", 69),
        ("card_c", "66 to 72 °C", 69),
        ("card_w", "~85", 85),
        ("card_w", "about 190 W", 190),
        ("wall_w", "0.4 kW", 400),
        ("card_mhz", "2.4 GHz", 2400),
        ("memory_mhz", "9000 MHz", 9000),
        ("cpu_w", "65 W", 65),
        ("card_busy_pct", "97 %", 97),
        ("memory_gb", "7.2 GB", 7.2),
    ],
)
def test_a_meter_is_read_as_it_is_written(field, text, value):
    assert getattr(with_field(Meters(), field, text), field) == pytest.approx(value)


def test_several_meters_go_in_at_once():
    read = with_field(
        Meters(noise_dba=31), "card_w", "card 97 %, 68 °C, 190 W, core 88 %, wall 310 W"
    )
    assert read == Meters(card_busy_pct=97, card_c=68, card_w=190, core_busy_pct=88, wall_w=310,
                          noise_dba=31)  # fmt: skip
    read = with_field(Meters(), "card_c", "2400 MHz; mem 9 GHz; cpu 65 W; 38 dBA")
    assert read == Meters(card_mhz=2400, memory_mhz=9000, cpu_w=65, noise_dba=38)
    with pytest.raises(UserFixable, match="“fast” is not a reading that is known"):
        with_field(Meters(), "card_c", "68 °C, fast")


@pytest.mark.parametrize(
    ("text", "amount", "currency"),
    [("$389", 389, "USD"), ("389 USD", 389, "USD"), ("£305.50", 305.5, "GBP"),
     ("549 €", 549, "EUR"), ("€1 549", 1549, "EUR"), ("389", 389, "EUR"), ("chf 410", 410, "CHF")],
)  # fmt: skip
def test_a_price_brings_its_currency(text, amount, currency):
    price = with_field(Price(id="p", amount=1, currency="EUR"), "amount", text)
    assert (price.amount, price.currency) == (amount, currency)


@pytest.mark.parametrize(
    ("words", "kind", "count", "watts"),
    [
        ("8 pin x3", PlugKind.PIN_8, 3, None),
        ("4-pin peripheral plug", PlugKind.PERIPHERAL, 1, None),
        ("two 4-pin", PlugKind.PERIPHERAL, 2, None),
        ("barrel", PlugKind.BARREL, 1, None),
        ("DC barrel 330 W", PlugKind.BARREL, 1, 330),
        ("USB-C power", PlugKind.USB_C, 1, None),
        ("USB-C 140 W", PlugKind.USB_C, 1, 140),
    ],
)
def test_plugs_of_small_supplies_are_read(words, kind, count, watts):
    (plug,) = parse_plugs(words)
    assert (plug.kind, plug.count, plug.watts) == (kind, count, watts)
    assert parse_plugs(plugs_text([plug])) == (plug,)
    assert not feed([plug], [plug]).short


@pytest.mark.parametrize("words", ["8-pin 330 W", "12V-2x6 140 W", "barrel 5000 W"])
def test_a_level_that_a_plug_has_not_is_refused(words):
    with pytest.raises(UserFixable):
        parse_plugs(words)


def test_a_power_limit_is_a_percentage_of_the_rating():
    rated = {"card_power_limit_w": 200.0, "cpu_power_limit_w": None}
    assert with_field(RigState(), "card_power_limit_w", "112 %", rated).card_power_limit_w == 224
    assert with_field(RigState(), "card_power_limit_w", "180 W", rated).card_power_limit_w == 180
    with pytest.raises(UserFixable, match="rating that is not known"):
        with_field(RigState(), "cpu_power_limit_w", "80 %", rated)


def test_noise_without_a_distance_is_kept_and_summed_with_none(demo_contents):
    (reading,) = parse_noise("card fan 34 dBA")
    assert reading.distance_m is None
    assert noise_text([reading]) == "card fan 34 dB(A)"
    rig = next(iter(demo_contents.rigs))
    held = Readings(id=rig, rig_id=rig, noise=(reading,))
    contents = demo_contents.with_records({"readings": {rig: held}})
    shown = Shown((), (), ())
    answer = noise_dba(contents, rig, shown, 1.0)
    assert answer.value is None
    assert "distance of every noise reading" in " ".join(answer.missing)


def ids():
    return iter(f"new{n}" for n in range(9)).__next__


def test_built_in_is_the_hosts_own_graphics(demo_contents):
    rig = next(one for one in demo_contents.rigs.values() if one.host_id and one.card_id)
    host = demo_contents.hosts[rig.host_id]
    assert host.built_in_card_id
    if rig.card_id == host.built_in_card_id:
        assert type_place(demo_contents, [rig.id], Place.CARD, "built-in", ids()) is None
    other = next(
        one for one in demo_contents.rigs.values()
        if one.host_id == host.id and one.card_id != host.built_in_card_id
    )  # fmt: skip
    edit = type_place(demo_contents, [other.id], Place.CARD, "Integrated graphics", ids())
    assert [one.card_id for one in edit.put] == [host.built_in_card_id]
    card = demo_contents.cards[host.built_in_card_id]
    assert card.name in typed_says(demo_contents, other.id, Place.CARD, "built-in")


def test_built_in_is_known_from_another_rig_or_made(demo_contents):
    host = next(one for one in demo_contents.hosts.values() if one.built_in_card_id)
    forgotten = host.model_copy(update={"built_in_card_id": None})
    contents = demo_contents.with_records({"hosts": {host.id: forgotten}})
    on_host = [one for one in contents.rigs.values() if one.host_id == host.id]
    uses = [one for one in on_host if one.card_id == host.built_in_card_id]
    rig = next(one for one in on_host if one not in uses)
    edit = type_place(contents, [rig.id], Place.CARD, "built-in", ids())
    known = {type(one).__name__: one for one in edit.put}
    assert known["Host"].built_in_card_id == known["Rig"].card_id
    assert ("Card" in known) == (not uses)
    if "Card" in known:
        assert known["Card"].built_in


@pytest.mark.parametrize(
    ("typed", "built_in"),
    [
        ("built-in iG-6", True),
        ("iGPU iG-6", True),
        ("Integrated graphics X", True),
        ("Marram 99", False),
        ("Igpurite 5", False),
    ],
)
def test_a_new_card_that_is_called_built_in_is(demo_contents, typed, built_in):
    rig = next(iter(demo_contents.rigs.values()))
    edit = type_place(demo_contents, [rig.id], Place.CARD, typed, ids())
    card = next(one for one in edit.put if isinstance(one, Card))
    assert (card.name, card.built_in) == (typed, built_in)
    said = typed_says(demo_contents, rig.id, Place.CARD, typed)
    assert ("built into the host" in said) == built_in
