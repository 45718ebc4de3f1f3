"""The strip of a rig: the ladder's own figures along the way, and what the row above has too."""

import math
import re
from pathlib import Path

import pytest

from blunt_ruler.core.limits.cells import fitted_link_of
from blunt_ruler.core.records.hardware import Card, Dock, Hop, Host, Link, Plugs, Rig, ScreenPath
from blunt_ruler.core.records.records import Contents, Review, ReviewRig
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.rigs import compatibility
from blunt_ruler.core.rigs.dial import why_no_dial
from blunt_ruler.core.rigs.links import (
    encoded_gb_per_s,
    ladder_or_why,
    link_gb_per_s,
    packet_efficiency,
)
from blunt_ruler.core.rigs.notation import BadSpec, parse_hops
from blunt_ruler.core.rigs.preflight import reading_says, steps_for
from blunt_ruler.core.rigs.strip import (
    PLACE_OF_CHECK,
    Place,
    own_hops,
    power_words,
    rig_rows,
    rig_strip,
)
from blunt_ruler.core.rigs.typed_places import (
    likely_links,
    put_part,
    type_place,
    type_rig,
    typed_says,
)


def lab(hops="port: 4.0 x4\ncord: 4.0 x4\nslot: 4.0 x4", dock=True, measured=None, **card):
    card = {"name": "Marram 12", "generation": 4, "lanes": 16, "board_power_w": 180, **card}
    rig = Rig(
        id="r",
        name="One",
        host_id="h",
        link_id="l",
        card_id="c",
        dock_id="d" if dock else None,
        measured_gb_per_s=measured,
    )
    empty = Contents.empty()
    return empty.with_records(
        {
            "hosts": {"h": Host(id="h", name="Quillon 24", supply_w=600)},
            "links": {"l": Link(id="l", name="cord", hops=parse_hops(hops))},
            "docks": {"d": Dock(id="d", name="Groyne", supply_w=450, own_power_w=6)},
            "cards": {"c": Card(id="c", **card)},
            "rigs": {"r": rig},
        }
    )


def test_the_last_figure_is_what_the_ladder_leaves(demo_contents):
    for rig_id, rig in demo_contents.rigs.items():
        ladder, _ = ladder_or_why(demo_contents, rig)
        left = rig_strip(demo_contents, rig_id).left_gb_per_s
        assert left[2] == (ladder.left_gb_per_s if ladder else None)
        known = [one for one in left if one is not None]
        assert known == sorted(known, reverse=True), "a pipe only gets thinner"


def test_hops_are_whose_they_are():
    link = Link(id="l", name="cord", hops=parse_hops("port: 5.0 x4\ncord: 3.0 x4\nslot: 4.0 x4"))
    of = own_hops(link, has_dock=True)
    assert [len(of[place]) for place in (Place.HOST, Place.LINK, Place.DOCK)] == [1, 1, 1]
    two = link.model_copy(update={"hops": link.hops[:2]})
    assert own_hops(two, has_dock=True)[Place.LINK] == two.hops[:1]
    assert own_hops(two, has_dock=False)[Place.HOST] == two.hops[:1]
    one = link.model_copy(update={"hops": link.hops[:1]})
    for has_dock in (True, False):
        assert own_hops(one, has_dock)[Place.LINK] == one.hops


@pytest.mark.parametrize(
    ("hops", "card", "narrowest"),
    [
        ("port: 5.0 x4\ncord: 3.0 x4\nslot: 4.0 x4", {}, Place.LINK),
        ("port: 3.0 x2\ncord: 4.0 x4\nslot: 4.0 x4", {}, Place.HOST),
        ("port: 5.0 x4\ncord: 5.0 x4\nslot: 3.0 x1", {}, Place.DOCK),
        ("port: 5.0 x8\ncord: 5.0 x8\nslot: 5.0 x8", {"generation": 3, "lanes": 4}, Place.CARD),
        ("port: 4.0 x4\ncable: 40 Gb/s\nslot: 4.0 x4", {}, Place.LINK),
        ("port: 4.0 x16\nslot: 4.0 x16\nback: 4.0 x16", {}, None),
    ],
)
def test_the_narrow_place_is_the_one_that_could_carry_least(hops, card, narrowest):
    strip = rig_strip(lab(hops, **card), "r")
    assert strip.narrowest is narrowest
    if narrowest is None:
        assert strip.says.startswith("No part of the path of One is narrower than the rest: ")
    else:
        assert "is the narrow place" in strip.says


def test_the_sentence_says_what_the_card_could_take():
    # 4.0 ×16 after 128b/130b and packets of 256 bytes: the ladder's own sum, done again here
    could = encoded_gb_per_s(4, 16) * packet_efficiency(4, 256)
    strip = rig_strip(lab(), "r")
    assert strip.says == (
        "The cord is the narrow place: it leaves 7.3 of the "
        f"{could:.1f}\u202fGB/s that the Marram 12 could take."
    )


def test_a_measured_figure_counts_from_the_narrow_place_on():
    left = rig_strip(lab("port: 4.0 x8\ncord: 4.0 x4\nslot: 4.0 x4", measured=6.4), "r")
    assert left.left_gb_per_s == (pytest.approx(14.6, abs=0.1), 6.4, 6.4)
    dock = rig_strip(lab("port: 4.0 x8\ncord: 4.0 x8\nslot: 4.0 x2", measured=3.2), "r")
    assert dock.left_gb_per_s == (pytest.approx(14.6, abs=0.1), pytest.approx(14.6, abs=0.1), 3.2)


def test_what_such_links_move_is_not_called_narrow_and_half_of_it_is():
    slot = "slot: 4.0 x16"
    assert rig_strip(lab(slot, dock=False, measured=25.7), "r").narrowest is None
    assert rig_strip(lab(slot, dock=False, measured=12.0), "r").narrowest is Place.LINK


def test_a_built_in_card_has_no_pipe():
    contents = lab()
    card = Card(id="c", name="iG-6", built_in=True)
    bare = contents.rigs["r"].model_copy(update={"link_id": None, "dock_id": None})
    contents = contents.with_records({"cards": {"c": card}, "rigs": {"r": bare}})
    strip = rig_strip(contents, "r")
    assert strip.left_gb_per_s == (None, None, None)
    assert strip.says == "iG-6 shares the memory of Quillon 24: no link stands before it."


def test_every_check_of_the_fit_has_a_block(demo_contents):
    body = Path(compatibility.__file__).read_text("utf-8")
    assert set(re.findall(r'FitFinding\(\s*"(\w+)"', body)) == set(PLACE_OF_CHECK)
    for rig_id in demo_contents.rigs:
        strip = rig_strip(demo_contents, rig_id)
        assert all(one.check in PLACE_OF_CHECK for one in strip.findings)


def test_marks_stand_where_the_trouble_is(demo_contents):
    strip = rig_strip(demo_contents, "sluice-marram-16")
    assert strip.block(Place.DOCK).severity is Severity.BLOCKING
    assert strip.block(Place.HOST).severity is None
    assert {one.check for one in strip.found_at(Place.DOCK)} >= {"width", "supply"}
    bare = lab(dock=False)
    short = bare.hosts["h"].model_copy(update={"supply_w": 200})
    in_host = rig_strip(bare.with_records({"hosts": {"h": short}}), "r")
    assert in_host.block(Place.HOST).severity is Severity.BLOCKING, "its supply feeds the card"


def test_power_says_what_is_free():
    # 1 − (180 + 6) / 450, worked by hand
    words = power_words(rig_strip(lab(power_inputs=(Plugs(kind="8-pin"),)), "r").power)
    assert words.endswith("card 180\u202fW + charging and dock 6\u202fW: 59\u202f% free")
    assert rig_strip(lab(board_power_w=600), "r").power.free_share == pytest.approx(-156 / 450)


def test_rows_are_pale_where_the_row_above_has_the_same():
    contents = lab()
    other = contents.rigs["r"].model_copy(
        update={"id": "s", "name": "Two", "link_id": None, "screen_path": ScreenPath.SENT_BACK}
    )
    contents = contents.with_records({"rigs": {"s": other}})
    review = Review(id="v", name="v", seats=(ReviewRig(rig_id="s"),))
    first, second = rig_rows(contents, review)
    assert (first.rig_id, second.rig_id) == ("s", "r"), "those of the review stand first"
    assert not any(first.same)
    same = dict(zip(Place, second.same, strict=True))
    assert [place for place in Place if not same[place]] == [Place.RIG, Place.LINK, Place.PICTURE]
    assert (first.joined, second.joined) == (True, False)


# What is typed


def ids():
    counted = iter(range(100))
    return lambda: f"new-{next(counted)}"


def test_a_part_is_known_by_its_name_and_a_new_one_is_made():
    contents = lab()
    assert type_place(contents, ["r"], Place.CARD, "marram 12", ids()) is None
    edit = type_place(contents, ["r"], Place.CARD, "Marram 16", ids())
    card, rig = edit.put
    assert (card.name, rig.card_id) == ("Marram 16", card.id)
    assert type_place(contents, ["r"], Place.DOCK, " none ", ids()).put[0].dock_id is None


def test_a_link_is_typed_as_it_is_spoken():
    link, _rig = type_place(lab(), ["r"], Place.LINK, "port: 4.0 x4; cable: 40 Gb/s", ids()).put
    assert link.hops == (
        Hop(name="port", generation=4, lanes=4),
        Hop(name="cable", tunnel_gbps=40),
    )
    plain, _rig = type_place(lab(), ["r"], Place.LINK, "a long cord", ids()).put
    assert (plain.name, plain.hops) == ("a long cord", ())
    for typed, likely in (
        ("OCuLink", "OCuLink 4.0 x4"),
        ("USB4", "USB4 40 Gb/s"),
        ("x8", "4.0 x8"),
        ("4.0 x4, not sure", "3.0 to 4.0 x4"),
    ):
        with pytest.raises(BadSpec, match=likely):
            type_place(lab(), ["r"], Place.LINK, typed, ids())


def test_a_link_of_which_not_all_is_known_carries_a_range():
    contents = lab(hops="")
    link, rig = type_place(contents, ["r"], Place.LINK, "OCuLink, not known", ids()).put
    assert link.name == "OCuLink", "it may become known"
    made = contents.with_records({"links": {link.id: link}, "rigs": {rig.id: rig}})
    strip = rig_strip(made, "r")
    assert strip.least_left_gb_per_s[2] == pytest.approx(0.5 * strip.left_gb_per_s[2], rel=0.01)
    assert "it leaves 3.7 to 7.3 of the 29.2" in strip.says
    assert "The generation of OCuLink is not known: read it under load" in strip.says
    assert "to" in why_no_dial(made, "r")
    steps = {step.key: step for step in steps_for(made, "r")}
    expected = steps["link_under_load"]
    assert expected.expected == "3.0 x4", "either is as described"
    assert reading_says(expected, "3.0 x4") is reading_says(expected, "4.0 x4") is None
    assert "3 expected" in reading_says(expected, "2.0 x4")
    with pytest.raises(BadSpec):
        reading_says(expected, "3.0 to 4.0 x4")


def test_a_range_opens_what_the_model_knows_of_a_link():
    contents = lab(hops="cord: 4.0 x4")
    sure = fitted_link_of(contents, contents.rigs["r"])
    link = contents.links["l"].model_copy(update={"hops": parse_hops("cord: 3.0 to 4.0 x4")})
    opened = contents.with_records({"links": {"l": link}})
    open_link = fitted_link_of(opened, opened.rigs["r"])
    assert open_link.spread > sure.spread
    # Both ends lie within one deviation of the middle.
    for hops in ("cord: 3.0 x4", "cord: 4.0 x4"):
        end = link_gb_per_s(Link(id="e", name="e", hops=parse_hops(hops)))
        assert abs(math.log(end / open_link.gb_per_s)) <= open_link.spread
    measured = opened.rigs["r"].model_copy(update={"measured_gb_per_s": 6.6})
    assert fitted_link_of(opened, measured).gb_per_s == 6.6


def test_a_standard_alone_offers_what_may_be_meant():
    assert likely_links("OCuLink")[-1] == "OCuLink 3.0 to 4.0 x4"
    assert likely_links("4.0 x4") == likely_links("a long cord") == ()


def test_the_picture_is_typed_as_a_way_or_a_screen():
    contents = lab()
    (rig,) = type_place(contents, ["r"], Place.PICTURE, "sent back", ids()).put
    assert rig.screen_path is ScreenPath.SENT_BACK
    (rig,) = type_place(contents, ["r"], Place.PICTURE, "2560x1440@144", ids()).put
    assert (rig.screen.width, rig.screen.refresh_hz) == (2560, 144)
    with pytest.raises(BadSpec, match="not a screen path"):
        type_place(contents, ["r"], Place.PICTURE, "on the wall", ids())


def test_a_name_of_a_rig_is_its_own():
    contents = lab()
    rig, seated = type_rig(contents, Review(id="v", name="v"), "Two", ids()).put
    assert (rig.name, rig.host_id, seated.seats[0].rig_id) == ("Two", "h", rig.id)
    with pytest.raises(BadSpec, match="another rig's"):
        type_rig(contents, None, "One", ids())
    with pytest.raises(BadSpec, match="it is blank"):
        type_place(contents, ["r"], Place.RIG, "  ", ids())


def test_a_generic_part_comes_into_the_logbook_with_the_rig():
    contents = lab()
    edit = put_part(contents, ["r"], "link", Link(id="g", name="Slot"))
    assert [type(one).__name__ for one in edit.put] == ["Link", "Rig"]
    known = put_part(contents, ["r"], "card", contents.cards["c"])
    assert [type(one).__name__ for one in known.put] == ["Rig"]


@pytest.mark.parametrize(
    ("place", "typed", "says"),
    [
        (Place.LINK, "4.0 x4", "a new link: 4.0 ×4"),
        (Place.LINK, "cord", "cord, on 1 rig so far"),
        (Place.DOCK, "", "no dock"),
        (Place.CARD, "Marram 16", "a new card"),
        (Place.PICTURE, "sent", "picture sent back to the host's panel"),
    ],
)
def test_the_hint_says_what_a_text_would_do(place, typed, says):
    assert typed_says(lab(), "r", place, typed) == says
