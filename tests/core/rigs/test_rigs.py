"""Fit and power, pre-flight, fields of parts, differences, and what a machine shows."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.hardware import (
    Card,
    Dock,
    Host,
    Link,
    Rig,
    RigState,
    ScreenPath,
    SlotFeed,
    Tick,
    TickState,
)
from blunt_ruler.core.records.records import Contents, Origin, Run
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.rigs import rig_edits
from blunt_ruler.core.rigs.cautions import CAUTIONS, DEFER
from blunt_ruler.core.rigs.compatibility import check_fit, fit_line, supply_load_w
from blunt_ruler.core.rigs.differences import differences_line, what_differs
from blunt_ruler.core.rigs.fields import FieldKind, field_text, fields_of, read_field, with_field
from blunt_ruler.core.rigs.machine_report import (
    DisplayDevice,
    LinkState,
    Machine,
    NoCard,
    card_seen,
    compare_with_rig,
    comparison_line,
    described_by,
    device_line,
    watch_line,
)
from blunt_ruler.core.rigs.notation import BadSpec, parse_adapters, parse_hops, parse_plugs
from blunt_ruler.core.rigs.preflight import preflight_line, reading_says, skipped_before, steps_for

EMPTY = Contents.empty()


def bench(host=(), card=(), dock=(), link=(), rig=()):
    """A rig on a cable that nothing speaks against, with some fields changed."""
    hosts = {
        "name": "Quillon",
        "drives_tunnel": True,
        "charging_w": 60,
        "cores": 8,
        "built_in_card_id": "igpu",
    }
    cards = {
        "name": "Marram",
        "driver_family": "Dune",
        "board_power_w": 150,
        "power_inputs": parse_plugs("8-pin"),
        "slots_wide": 2,
        "length_mm": 240,
        "generation": 4,
        "lanes": 8,
        "vram_gb": 12,
    }
    docks = {
        "name": "Sluice",
        "supply_w": 400,
        "own_power_w": 10,
        "outlets": parse_plugs("8-pin ×2"),
        "slots_wide": 2.5,
        "length_mm": 300,
        "charging_w": 65,
    }
    links = {
        "name": "cable",
        "hops": parse_hops("port: 40 Gb/s\ndock: 4.0 x4"),
        "hot_plug": True,
    }
    rigs = {"name": "Rig", "host_id": "h", "card_id": "c", "dock_id": "d", "link_id": "l"}
    return replace(
        Contents.empty(),
        hosts={"h": Host(id="h", **{**hosts, **dict(host)})},
        cards={
            "c": Card(id="c", **{**cards, **dict(card)}),
            "igpu": Card(id="igpu", name="iG", built_in=True, driver_family="Lamplight"),
        },
        docks={"d": Dock(id="d", **{**docks, **dict(dock)})},
        links={"l": Link(id="l", **{**links, **dict(link)})},
        rigs={"r": Rig(id="r", **{**rigs, **dict(rig)})},
    )


def found(**changes):
    return {one.check: one for one in check_fit(bench(**changes), "r")}


def test_nothing_is_found_against_a_sound_rig_and_it_is_never_called_safe():
    assert found() == {}
    line = fit_line("Rig", check_fit(bench(), "r"))
    assert line == "Nothing found against Rig."
    assert "safe" not in line.lower()


CASES = [
    ("length", Severity.BLOCKING, {"card": {"length_mm": 320}}, ["320", "300"]),
    ("width", Severity.BLOCKING, {"card": {"slots_wide": 3}}, ["3", "2.5"]),
    (
        "outlets",
        Severity.BLOCKING,
        {"card": {"power_inputs": parse_plugs("8-pin ×3")}},
        ["×3", "2"],
    ),
    ("outlets", Severity.BLOCKING, {"card": {"power_inputs": parse_plugs("12V-2x6")}}, ["none"]),
    (
        "sense_level",
        Severity.BLOCKING,
        {
            "card": {"power_inputs": parse_plugs("12V-2x6 450 W"), "board_power_w": 100},
            "dock": {"outlets": parse_plugs("12V-2x6 300 W")},
        },
        ["450", "300"],
    ),
    (
        "adapter",
        Severity.BLOCKING,
        {"rig": {"adapters": parse_adapters("8-pin ×3 → 12V-2x6 450 W")}},
        ["×3", "2"],
    ),
    (
        "adapter_load",
        Severity.BLOCKING,
        {"rig": {"adapters": parse_adapters("8-pin → 12V-2x6 300 W")}},
        ["300", "150"],
    ),
    ("inputs", Severity.CAUTION, {"card": {"board_power_w": 240}}, ["240", "225"]),
    ("slot_power", Severity.CAUTION, {"dock": {"slot_feed": SlotFeed.SATA}}, ["54", "75"]),
    (
        "slot_power",
        Severity.BLOCKING,
        {"dock": {"slot_feed": SlotFeed.SATA}, "card": {"power_inputs": (), "board_power_w": 60}},
        ["54", "75"],
    ),
    ("slot_power", Severity.CAUTION, {"dock": {"slot_feed": SlotFeed.HOST}}, ["75"]),
    ("supply", Severity.BLOCKING, {"dock": {"supply_w": 200}}, ["225", "200"]),
    ("supply", Severity.CAUTION, {"dock": {"supply_w": 260}}, ["270", "260"]),
    ("supply", Severity.CAUTION, {"dock": {"supply_w": 280}}, ["225", "280", "224"]),
    ("supply", Severity.NOTE, {"dock": {"supply_w": None}}, ["150"]),
    ("charging", Severity.CAUTION, {"host": {"charging_w": 100}}, ["100", "65"]),
    ("driver_clash", Severity.CAUTION, {"card": {"driver_family": "Lamplight"}}, ["Lamplight"]),
    ("tunnel", Severity.BLOCKING, {"host": {"drives_tunnel": False}}, ["cannot drive"]),
    ("tunnel", Severity.NOTE, {"host": {"drives_tunnel": None}}, ["not said"]),
    ("hot_plug", Severity.NOTE, {"link": {"hot_plug": False}}, ["not made"]),
    ("hot_plug", Severity.NOTE, {"link": {"hot_plug": None}}, ["not known"]),
    ("described", Severity.NOTE, {"rig": {"link_id": None}}, ["no link"]),
]


@pytest.mark.parametrize(("check", "severity", "changes", "says"), CASES)
def test_each_finding_says_what_with_both_numbers_and_what_to_do(check, severity, changes, says):
    finding = found(**changes)[check]
    assert finding.severity is severity
    assert all(words in finding.what for words in says), finding.what
    assert len(finding.numbers) == 2
    assert finding.do


@pytest.mark.parametrize(("asked", "finds"), [(64, False), (65, False), (66, True)])
def test_a_dock_that_charges_as_much_as_the_host_asks_is_enough(asked, finds):
    assert ("charging" in found(host={"charging_w": asked})) is finds


def test_the_trades_own_sum_has_room():
    # Common practice, no source: a 330 W supply covers a 150 W card and 100 W of charging.
    changes = {"dock": {"supply_w": 330, "charging_w": 100}}
    assert "supply" not in found(**changes)


def test_an_adapter_that_fits_makes_the_outlet():
    changes = {
        "card": {"power_inputs": parse_plugs("12V-2x6 300 W"), "board_power_w": 200},
        "rig": {"adapters": parse_adapters("8-pin ×2 → 12V-2x6 300 W")},
    }
    assert found(**changes) == {}


@pytest.mark.parametrize(
    ("asks", "offers", "finds"),
    [
        ("6-pin", "6+2-pin", None),
        ("6-pin", "8-pin", Severity.CAUTION),  # it serves where the lead parts
        ("8-pin ×2", "6+2-pin ×2", None),
        ("8-pin ×2", "8-pin", Severity.BLOCKING),
        ("8-pin, 8-pin", "8-pin", Severity.BLOCKING),  # counted one by one
        ("8-pin, 6-pin", "6+2-pin, 8-pin", None),
        ("8-pin, 6-pin", "6+2-pin", Severity.BLOCKING),
        ("8-pin", "6-pin ×2", Severity.BLOCKING),
    ],
)
def test_every_plug_is_counted_and_none_used_twice(asks, offers, finds):
    one = found(
        card={"power_inputs": parse_plugs(asks), "board_power_w": 120},
        dock={"outlets": parse_plugs(offers)},
    ).get("outlets")
    assert (one.severity if one else None) is finds


def test_of_outlets_of_a_kind_each_keeps_its_sense_level():
    def level(asks, offers):
        return found(
            card={"power_inputs": parse_plugs(asks), "board_power_w": 300},
            dock={"outlets": parse_plugs(offers), "supply_w": 900},
        ).get("sense_level")

    assert level("12V-2x6 450 W", "12V-2x6 600 W, 12V-2x6 150 W") is None
    assert level("12V-2x6 450 W", "12V-2x6 150 W, 12V-2x6 600 W") is None
    assert "300" in level("12V-2x6 450 W", "12V-2x6 300 W, 12V-2x6 150 W").what


@pytest.mark.parametrize(
    ("supply_w", "card_w", "finds"),
    [
        (450, 450, Severity.BLOCKING),
        (650, 450, Severity.CAUTION),  # 450 + 105 + 60 W steady, 750 W at peaks
        (1000, 450, None),
        (None, 450, Severity.NOTE),
    ],
)
def test_a_towers_own_supply_carries_card_and_host(supply_w, card_w, finds):
    one = found(
        host={"supply_w": supply_w, "sustained_power_w": 105, "charging_w": None},
        card={"board_power_w": card_w, "power_inputs": ()},
        link={"hops": parse_hops("slot: 4.0 x16")},
        rig={"dock_id": None},
    ).get("supply")
    assert (one.severity if one else None) is finds


def test_a_missing_board_power_is_a_finding():
    assert found(card={"board_power_w": None})["board_power"].severity is Severity.CAUTION


def test_the_leads_of_the_demos_docks_serve_its_cards(demo_contents):
    for rig_id in demo_contents.rigs:
        plugs = [one for one in check_fit(demo_contents, rig_id) if one.check == "outlets"]
        assert not plugs, rig_id


def test_the_built_in_switched_off_does_not_clash():
    changes = {
        "card": {"driver_family": "Lamplight"},
        "rig": {"state": RigState(built_in_on=False)},
    }
    assert "driver_clash" not in found(**changes)


@given(st.floats(0, 2000), st.floats(0, 4900))
def test_more_supply_is_never_worse(card_w, supply_w):
    order = [None, *reversed(Severity)]

    def worst(watts):
        one = found(card={"board_power_w": card_w}, dock={"supply_w": watts}).get("supply")
        return order.index(one.severity if one else None)

    assert worst(supply_w + 50) <= worst(supply_w)


def step_keys(**changes):
    return [step.key for step in steps_for(bench(**changes), "r")]


def test_the_list_is_made_from_the_parts():
    keys = step_keys()
    assert keys[:5] == ["seat_card", "plug_power", "connect_link", "monitor", "power_on"]
    assert "authorise" in keys
    assert "authorise" not in step_keys(link={"hops": parse_hops("cord: 4.0 x4")})
    assert "built_in_off" in step_keys(rig={"state": RigState(built_in_on=False)})
    assert "seat_card" not in step_keys(card={"built_in": True})
    steps = {step.key: step for step in steps_for(bench(), "r")}
    assert "8-pin" in steps["plug_power"].do
    assert steps["link_under_load"].expected == "4.0 x4"
    assert steps["stress"].expected == "150"
    sent_back = bench(rig={"screen_path": ScreenPath.SENT_BACK})
    assert "goes back" in next(s.do for s in steps_for(sent_back, "r") if s.key == "monitor")


def test_cautions_stand_at_the_step_where_they_matter():
    steps = {step.key: step for step in steps_for(bench(card={"weight_kg": 1.8}), "r")}
    assert {"power_off", "never_open", "earth", "heavy"} <= set(steps["seat_card"].cautions)
    assert "under_load" in steps["connect_link"].cautions
    assert "second_supply" in steps["power_on"].cautions
    assert "hot" in steps["stress"].cautions
    cold = bench(link={"hot_plug": False, "ribbon": True}, dock={"open_frame": True})
    steps = {step.key: step for step in steps_for(cold, "r")}
    assert {"power_off", "ribbon"} <= set(steps["connect_link"].cautions)
    assert "open_board" in steps["seat_card"].cautions
    used = {key for step in steps.values() for key in step.cautions}
    assert used <= set(CAUTIONS)
    assert "licensed" in DEFER
    assert "manuals" in DEFER


@pytest.mark.parametrize(
    ("key", "reading", "says"),
    [
        ("link_under_load", "4.0 x4", None),
        ("link_under_load", "4.0 x2", "came up at 2 lanes, 4 expected"),
        ("link_under_load", "3.0 x4", "came up at generation 3, 4 expected"),
        ("stress", "148", None),
        ("stress", "101,5 W", "reached 101.5"),
        ("memory", "12", None),
        ("memory", "8", "is it the right card"),
        ("no_cap", "anything", None),
        ("stress", "", None),
    ],
)
def test_readings_are_held_against_the_description(key, reading, says):
    step = next(step for step in steps_for(bench(), "r") if step.key == key)
    got = reading_says(step, reading)
    assert got is None if says is None else says in got


def test_a_reading_that_cannot_be_read_is_refused():
    steps = {step.key: step for step in steps_for(bench(), "r")}
    with pytest.raises(BadSpec, match="is not a number"):
        reading_says(steps["stress"], "lots")
    with pytest.raises(BadSpec):
        reading_says(steps["link_under_load"], "wide")


def ticked(contents, *ticks):
    made = {
        f"t{number}": Tick(id=f"t{number}", rig_id="r", step=step, state=state, at=at)
        for number, (step, state, at) in enumerate(ticks)
    }
    return contents.with_records({"ticks": made})


def test_a_skipped_step_stays_on_the_runs_that_followed():
    contents = ticked(
        bench(),
        ("no_cap", TickState.SKIPPED, "2026-10-05T10:00:00"),
        ("no_cap", TickState.DONE, "2026-10-05T12:00:00"),
    )

    def at(moment):
        run = Run(id="x", rig_id="r", case_id="c", taken_at=moment, origin=Origin(kind="typed"))
        return skipped_before(contents, run)

    assert at("2026-10-05T09:00:00") == ()
    assert at("2026-10-05T11:00:00") == (
        "Switch refresh lock and frame cap off, driver and title alike.",
    )
    assert at("2026-10-05T13:00:00") == ()


def test_the_preflight_line_counts_and_warns():
    contents = bench()
    total = sum(not step.optional for step in steps_for(contents, "r"))
    assert f"{total} steps of {total} left" in preflight_line(contents, "r")
    keys = [step.key for step in steps_for(contents, "r")]
    done = ticked(contents, *((key, TickState.DONE, "2026-10-05") for key in keys))
    assert f"all {total} steps" in preflight_line(done, "r")
    skipped = ticked(contents, *((key, TickState.SKIPPED, "2026-10-05") for key in keys))
    assert "skipped" in preflight_line(skipped, "r")


@pytest.mark.parametrize("model", [Host, Card, Dock, Link, Rig, RigState])
def test_every_field_reads_back_what_it_shows(model):
    contents = bench(rig={"adapters": parse_adapters("8-pin ×2 → 12V-2x6 300 W")})
    part = {
        Host: contents.hosts["h"],
        Card: contents.cards["c"],
        Dock: contents.docks["d"],
        Link: contents.links["l"],
        Rig: contents.rigs["r"],
        RigState: RigState(driver="Dune 41", cpu_power_limit_w=15),
    }[model]
    for spec in fields_of(model):
        text = field_text(getattr(part, spec.name))
        assert with_field(part, spec.name, text) == part
        assert spec.says
        if spec.kind is FieldKind.CHOICE:
            assert text in spec.choices or not text


@pytest.mark.parametrize(
    ("name", "text", "says"),
    [
        ("slots_wide", "9", "at most 6 slots"),
        ("slots_wide", "wide", "Give a number in slots"),
        ("board_power_w", "-5", "at least 0"),
        ("lanes", "3", "Give one of"),
        ("generation", "9", "at most 6"),
        ("name", "  ", "Give a name"),
        ("power_inputs", "9-pin", "not a power plug"),
    ],
)
def test_a_value_that_cannot_be_is_refused_with_what_may(name, text, says):
    with pytest.raises(UserFixable, match=says):
        with_field(bench().cards["c"], name, text)


def test_numbers_are_read_with_units_and_commas():
    assert read_field(Card, "slots_wide", "2,7 slots") == 2.7
    assert read_field(Card, "length_mm", "30 cm") == 300
    assert read_field(Card, "length_mm", "11.8 in") == pytest.approx(299.72)
    assert read_field(Card, "length_mm", '11.8"') == pytest.approx(299.72)
    assert read_field(Card, "length_mm", "0,3m") == 300
    assert read_field(Card, "board_power_w", "180watts") == 180
    assert read_field(Card, "board_power_w", "") is None
    assert read_field(Link, "hot_plug", "unknown") is None
    assert read_field(Card, "lanes", "8") == 8


def test_what_differs_is_said_in_a_sentence_and_a_table():
    contents = bench()
    other = contents.rigs["r"].model_copy(
        update={"id": "s", "name": "Other", "card_id": "igpu", "state": RigState(driver="new")}
    )
    contents = contents.with_records({"rigs": {"s": other}})
    line = differences_line(contents, "r", "s")
    assert line == "Other differs from Rig in card (iG, not Marram)."
    table = {one.field: (one.first, one.second) for one in what_differs(contents, "r", "s")}
    assert table["board power"] == ("150\u202fW", "unknown")
    assert table["driver"] == ("unknown", "new")
    assert "do not differ" in differences_line(contents, "r", "r")


def test_duplicating_shares_parts_and_takes_a_free_name():
    ids = iter(f"n{number}" for number in range(9))
    contents = bench()
    (copy,) = rig_edits.duplicate_rig(contents, None, "r", lambda: next(ids)).put
    assert (copy.name, copy.card_id) == ("Rig 2", "c")
    card, rig = rig_edits.new_part(contents, "r", "card", lambda: next(ids), like="c").put
    assert (card.name, card.board_power_w, rig.card_id) == ("Marram 2", 150, card.id)
    blank, _ = rig_edits.new_part(contents, "r", "dock", lambda: next(ids)).put
    assert blank.name == "New dock"
    assert [one.id for one in rig_edits.rigs_with(contents, "card", "c")] == ["r"]


def seen(generation=4, lanes=4, busy=0.9, memory_gb=12.9):
    link = LinkState("0000:01:00.0", generation, lanes, 4, 8)
    device = DisplayDevice(link, (), "", "", busy, memory_gb, 60.0, 140.0, None)
    built_in = DisplayDevice(
        LinkState("0000:00:02.0", None, None, None, None), (), "", "", None, None, None, None, None
    )
    return Machine("/", (built_in, device), (), 8, 1.0)


def test_a_machine_is_compared_with_the_rig_as_described():
    contents = bench()
    assert compare_with_rig(contents, "r", seen()) == ()
    assert "nothing that contradicts" in comparison_line("Rig", ())
    narrow = compare_with_rig(contents, "r", seen(lanes=2, memory_gb=8.6))
    assert [one.what for one in narrow] == ["lanes", "memory"]
    assert "lanes 2, not 4" in comparison_line("Rig", narrow)
    with pytest.raises(NoCard):
        compare_with_rig(contents, "r", Machine("/", (), (), 8, None))
    assert "x4 of 4.0 x8" in device_line(card_seen(seen()))


def test_the_watch_flags_narrow_and_slow_under_load_but_not_at_idle():
    def watch(**state):
        return watch_line(card_seen(seen(**state)), 4, 4)

    assert "as it should be" in watch()
    assert watch(lanes=2).startswith("Narrow")
    assert watch(lanes=2, busy=0.0).startswith("Narrow")
    assert watch(generation=1, busy=0.02).endswith("is normal.")
    assert watch(generation=1, busy=0.95).startswith("Slow under load")
    assert "while a load runs" in watch(generation=1, busy=None)


def test_a_rig_is_filled_in_from_a_machine_where_it_tells():
    contents = bench(card={"vram_gb": None, "lanes": None})
    host, card, link = described_by(
        seen(), contents.hosts["h"], contents.cards["c"], contents.links["l"]
    )
    assert (host.cores, card.lanes, card.vram_gb) == (8, 8, 12)
    assert link == contents.links["l"]  # a tunnel's rate is not its bridges' to tell


@pytest.mark.parametrize(("board_w", "level_w", "enough"), [(360, 300, True), (380, 300, False)])
def test_the_slot_takes_75_watts_off_what_a_12v_2x6_plug_must_carry(board_w, level_w, enough):
    # PCI Express CEM, transcribed from memory: an x16 slot may draw 75 W.
    changes = {
        "card": {"power_inputs": parse_plugs("12V-2x6"), "board_power_w": board_w},
        "dock": {"outlets": parse_plugs(f"12V-2x6 {level_w} W"), "supply_w": 900},
    }
    seen = found(**changes).get("sense_level")
    assert (seen is None) is enough
    if seen:
        assert seen.numbers == {"needed_w": board_w - 75.0, "level_w": level_w}


def test_two_12v_2x6_plugs_carry_twice_their_level():
    changes = {
        "card": {"power_inputs": parse_plugs("12V-2x6 ×2"), "board_power_w": 600},
        "dock": {"outlets": parse_plugs("12V-2x6 300 W ×2"), "supply_w": 1200},
    }
    assert "sense_level" not in found(**changes)
    changes["card"]["board_power_w"] = 700
    assert "sense_level" in found(**changes)


def test_slot_and_plugs_together_carry_a_card():
    assert "inputs" not in found(card={"board_power_w": 225})
    assert "inputs" in found(card={"board_power_w": 226})


def test_a_12v_2x6_plug_that_states_no_level_carries_150_watts():
    # The lowest sense level of 12V-2x6, transcribed from memory of the standard.
    changes = {
        "card": {"power_inputs": parse_plugs("12V-2x6"), "board_power_w": 225},
        "dock": {"outlets": parse_plugs("12V-2x6"), "supply_w": 900},
    }
    assert "sense_level" not in found(**changes)
    changes["card"]["board_power_w"] = 230
    assert "sense_level" in found(**changes)


def test_a_dock_that_does_not_say_what_it_draws_counts_ten_watts():
    # Common practice, no source.
    contents = bench(dock={"own_power_w": None, "charging_w": 60})
    steady, _ = supply_load_w(contents.cards["c"], contents.docks["d"])
    assert steady == contents.cards["c"].board_power_w + 60 + 10


@pytest.mark.parametrize(("memory_gb", "differs"), [(11.5, False), (11.2, True), (14.3, False)])
def test_memory_may_be_twelve_per_cent_off(memory_gb, differs):
    # Decimal against binary gigabytes are 7.4 % apart, and a driver keeps some of it.
    odd = compare_with_rig(bench(), "r", seen(lanes=4, memory_gb=memory_gb))
    assert ("memory" in [one.what for one in odd]) is differs


@pytest.mark.parametrize("level", [150, 300, 450, 600])
def test_the_sense_levels_of_12v_2x6(level):
    # Transcribed from memory of the standard.
    assert parse_plugs(f"12V-2x6 {level} W")[0].watts == level
    with pytest.raises(BadSpec):
        parse_plugs(f"12V-2x6 {level + 45} W")
