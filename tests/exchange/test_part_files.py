"""Parts in and out, the shipped catalogue, and the list that is printed."""

from itertools import count

import pytest

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.hardware import Card, Link
from blunt_ruler.core.records.records import Contents
from blunt_ruler.demo import scenario
from blunt_ruler.exchange.documents.preflight_sheet import preflight_html
from blunt_ruler.exchange.parts.part_files import (
    BadParts,
    catalogue,
    parts_csv,
    parts_json,
    read_parts,
)
from blunt_ruler.logbook import Logbook

EMPTY = Contents.empty()
PARTS = (*scenario.HOSTS, *scenario.CARDS, *scenario.DOCKS, *scenario.LINKS)


def new_id():
    numbers = count()
    return lambda: f"n{next(numbers)}"


def bare(parts):
    return [part.model_copy(update={"id": "", **_no_ids(part)}) for part in parts]


def _no_ids(part):
    return {name: None for name in type(part).model_fields if name.endswith("_id")}


@pytest.mark.parametrize("write", [parts_json, parts_csv])
def test_parts_come_back_as_they_went(write):
    assert bare(read_parts(write(PARTS), EMPTY, new_id())) == bare(PARTS)


def test_a_part_of_that_name_is_changed_and_keeps_what_is_unsaid():
    contents = EMPTY.with_records({"cards": {card.id: card for card in scenario.CARDS}})
    (card,) = read_parts("kind,name,length_mm\ncard,Marram 12,250\n", contents, new_id())
    assert (card.id, card.length_mm, card.board_power_w) == ("m12", 250, 180)


def test_parts_are_typed_as_one_speaks_them():
    text = (
        "kind;name;hops;hot_plug;board_power_w;power_inputs\n"
        "link;My cord;port: 4.0 x4, cord: 4.0 x4;no;;\n"
        "card;My card;;;115,5;6-pin + 8-pin\n"
    ).replace(", cord", "; cord")
    text = text.replace("port: 4.0 x4; cord: 4.0 x4", '"port: 4.0 x4; cord: 4.0 x4"')
    link, card = read_parts(text, EMPTY, new_id())
    assert isinstance(link, Link)
    assert [hop.lanes for hop in link.hops] == [4, 4]
    assert link.hot_plug is False
    assert isinstance(card, Card)
    assert card.board_power_w == 115.5
    assert len(card.power_inputs) == 2


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "kind and name are missing"),
        ("kind,name\n", "it holds no part"),
        ("name\nx\n", "kind and name are missing"),
        ("kind,name\nfan,x\n", "no kind “fan”"),
        ("kind,name,colour\ncard,x,red\n", "no field “colour”"),
        ("kind,name,lanes\ncard,x,3\n", "part 2, lanes: “3”"),
        ("kind,name,length_mm\ncard,x,-1\n", "part 2, length_mm: “-1"),
        ("kind,name\ncard,x,y\n", "row 2: it has more fields"),
        ('{"kind": "card"', "this is not JSON"),
        ("[1]", "it is not an object"),
        ('{"kind": "card"}', "name"),
    ],
)
def test_wrong_parts_are_named_by_row_and_field(text, says):
    with pytest.raises(BadParts, match=says) as caught:
        read_parts(text, EMPTY, new_id(), "parts.csv")
    assert isinstance(caught.value, UserFixable)
    assert "\n" not in str(caught.value)


def test_the_catalogue_is_generic_and_whole():
    parts = catalogue(new_id())
    assert len(parts) >= 18
    assert len({part.name for part in parts}) == len(parts)
    links = [part for part in parts if isinstance(part, Link)]
    assert all(link.hops for link in links)
    tunnels = {hop.tunnel_gbps for link in links for hop in link.hops if hop.tunnel_gbps}
    assert tunnels == {20, 40, 80, 120}


def test_the_printed_list_holds_steps_cautions_and_findings(demo_book):
    with Logbook.open(demo_book) as book:
        contents = book.contents()
    html = preflight_html(contents, "sluice-marram-16", "2026-10-05")
    assert "Seat the Marram 16" in html
    assert "Never open a power supply" in html
    assert "licensed electrician" in html
    assert "caution: The Marram 16 is 2.7 slots wide" in html
    assert "☐ skipped" in preflight_html(contents, "groyne-marram-12", "2026-10-05")
    rig = contents.rigs["sluice-marram-16"].model_copy(update={"name": "<b>&"})
    changed = contents.with_records({"rigs": {rig.id: rig}})
    assert "<b>&amp;" not in preflight_html(changed, rig.id, "2026-10-05")
