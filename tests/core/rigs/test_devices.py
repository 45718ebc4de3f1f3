"""Devices that share a link with the card and are no cards: they take bandwidth, and no more."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from blunt_ruler.core.records.hardware import Device, Link, Way
from blunt_ruler.core.rigs.fields import field_text, with_field
from blunt_ruler.core.rigs.links import BadLink, bandwidth_ladder, devices_words
from blunt_ruler.core.rigs.notation import BadSpec, parse_devices, parse_hops, parse_screen

FOUR_LANES = parse_hops("OCuLink 4.0x4")
# 16 GT/s × 128/130 × 4 / 8 × 256/276: PCI Express Base, with packets as links.py says.
WHOLE = 16 * 128 / 130 * 4 / 8 * 256 / 276


def left(devices="", **others):
    ladder = bandwidth_ladder(FOUR_LANES, devices=parse_devices(devices), **others)
    return ladder.left_gb_per_s, ladder.left_back_gb_per_s


@pytest.mark.parametrize(
    ("said", "takes", "takes_back"),
    [
        ("", 0, 0),
        ("capture card 0.5 GB/s from it", 0, 0.5),
        ("network 10 Gb/s", 1.25, 1.25),
        ("copy to a disk 800 MB/s to it", 0.8, 0),
        ("capture card 500 MB/s from it; network 2.5Gbit/s; storage", 0.3125, 0.8125),
    ],
)
def test_each_way_loses_what_they_take(said, takes, takes_back):
    assert left(said) == (pytest.approx(WHOLE - takes), pytest.approx(WHOLE - takes_back))


def test_what_nobody_noted_takes_nothing_and_is_named():
    ladder = bandwidth_ladder(FOUR_LANES, devices=parse_devices("storage"))
    assert ladder.left_gb_per_s == pytest.approx(WHOLE)
    assert ladder.rungs[-1].why.endswith("what storage takes is not noted")


def test_a_measured_bandwidth_is_taken_as_it_is():
    assert left("network 10 Gb/s", measured_gb_per_s=5.0)[0] == 5.0


def test_practice_and_what_a_picture_leaves_shrink_with_it():
    alone = bandwidth_ladder(FOUR_LANES, screen_back=parse_screen("1920x1080@60"))
    shared = bandwidth_ladder(
        FOUR_LANES,
        screen_back=parse_screen("1920x1080@60"),
        devices=parse_devices("network 1 GB/s"),
    )
    for one in ("practice_low_gb_per_s", "left_gb_per_s", "left_back_gb_per_s"):
        assert getattr(shared, one) == pytest.approx(getattr(alone, one) - 1.0), one


@pytest.mark.parametrize("way", ["", " from it", " to it"])
def test_more_than_the_link_carries_is_refused(way):
    with pytest.raises(BadLink, match=r"other devices take 9\.00.GB/s"):
        left(f"storage 9 GB/s{way}")


@pytest.mark.parametrize(
    "words", ["3 GB/s", "storage 300 GB/s", "network 0 GB/s", "a 1 GB/s up", "net 5 gb/s", " : "]
)
def test_what_is_no_device_is_refused_in_a_sentence(words):
    with pytest.raises(BadSpec, match="not a device"):
        parse_devices(words)


@given(
    st.lists(
        st.builds(
            Device,
            name=st.sampled_from(["capture card", "network", "storage hub 2", "camera"]),
            gb_per_s=st.none() | st.integers(1, 4000).map(lambda one: one / 1000),
            way=st.sampled_from(Way),
        ),
        max_size=4,
    )
)
def test_they_read_back_as_written(devices):
    link = Link(id="l", name="Cord", devices=tuple(devices))
    text = field_text(link.devices)
    assert with_field(Link(id="l", name="Cord"), "devices", text).devices == link.devices


def test_the_report_names_them():
    link = Link(id="l", name="Cord", devices=parse_devices("capture card 0.5 GB/s from it; disk"))
    assert devices_words(link) == "capture card (0.50\u202fGB/s from it) and disk"
    assert devices_words(None) == ""
