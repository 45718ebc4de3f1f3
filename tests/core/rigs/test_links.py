"""The ladder against published tables and the programs that carry them, then against nonsense."""

import math
import re
import shutil
import subprocess
import xml.etree.ElementTree as ET

import pytest
from hypothesis import given
from hypothesis import strategies as st

from blunt_ruler.core.errors import BadFigure, UserFixable
from blunt_ruler.core.records.hardware import Blanking, Card, Hop, Link, Rig, Screen, ScreenPath
from blunt_ruler.core.rigs.links import (
    BadLink,
    bandwidth_ladder,
    bench_line,
    encoded_gb_per_s,
    ladder_of_rig,
    link_gb_per_s,
    link_width,
    negotiate,
    packet_efficiency,
    set_by_words,
    usual_links,
    why_below,
)
from blunt_ruler.core.rigs.notation import (
    BadSpec,
    adapters_text,
    hops_text,
    parse_adapters,
    parse_hop,
    parse_hops,
    parse_plugs,
    parse_screen,
    plugs_text,
    screen_text,
)
from blunt_ruler.core.rigs.video_timing import cvt, stream_gb_per_s, timed_stream_gb_per_s

TIMED = [blanking for blanking in Blanking if blanking is not Blanking.NONE]


def pcie(generation, lanes, name="hop"):
    return Hop(name=name, generation=generation, lanes=lanes)


# What the kernel prints, from its documentation: "126.016 Gb/s available PCIe bandwidth (8.0 GT/s
# PCIe x16 link)", "252.048 Gb/s … (16.0 GT/s PCIe x16 link)"; it cuts digits off: 0.02 %.
@pytest.mark.parametrize(("generation", "gbps"), [(3, 126.016), (4, 252.048)])
def test_rates_are_those_the_kernel_prints(generation, gbps):
    assert encoded_gb_per_s(generation, 16) * 8 == pytest.approx(gbps, rel=2e-4)


# The capability structure as the PCI Express base specification lays it out: capability 0x10 at
# 0x40, link status at 0x12 of it holds speed (bits 0–3) and width (bits 4–9).
def config_space(generation, lanes):
    config = bytearray(256)
    config[0:4] = (0xFD, 0xFF, 0x12, 0x00)
    config[0x06] = 0x10  # has a capability list
    config[0x0A:0x0C] = (0x00, 0x03)
    config[0x34] = 0x40
    config[0x40] = 0x10
    config[0x42] = 0x02
    config[0x52:0x54] = ((lanes << 4) | generation).to_bytes(2, "little")
    return bytes(config)


@pytest.mark.parametrize(
    ("generation", "lanes"), [(1, 1), (2, 4), (3, 16), (4, 4), (4, 8), (5, 16)]
)
def test_rates_are_those_lstopo_computes_from_a_device_tree(tmp_path, generation, lanes):
    if shutil.which("lstopo-no-graphics") is None:
        pytest.skip("needs the package hwloc-nox")
    device = tmp_path / "sys/devices/pci0000:00/0000:00:01.0"
    device.mkdir(parents=True)
    for name, content in (
        ("class", "0x030000"),
        ("vendor", "0xfffd"),
        ("device", "0x0012"),
        ("subsystem_vendor", "0xfffd"),
        ("subsystem_device", "0x0012"),
        ("revision", "0x00"),
    ):
        (device / name).write_text(f"{content}\n")
    (device / "config").write_bytes(config_space(generation, lanes))
    bus = tmp_path / "sys/bus/pci/devices"
    bus.mkdir(parents=True)
    (bus / "0000:00:01.0").symlink_to("../../../devices/pci0000:00/0000:00:01.0")
    cpu = tmp_path / "sys/devices/system/cpu/cpu0/topology"
    cpu.mkdir(parents=True)
    for name, content in (
        ("physical_package_id", "0"),
        ("core_id", "0"),
        ("thread_siblings", "1"),
        ("core_siblings", "1"),
        ("core_cpus", "1"),
        ("package_cpus", "1"),
    ):
        (cpu / name).write_text(f"{content}\n")
    (cpu.parent.parent / "online").write_text("0\n")
    (cpu.parent.parent / "possible").write_text("0\n")
    (tmp_path / "proc").mkdir()
    (tmp_path / "proc/cpuinfo").write_text("processor\t: 0\n\n")
    (tmp_path / "proc/meminfo").write_text("MemTotal: 1048576 kB\n")
    done = subprocess.run(
        ["lstopo-no-graphics", "--of", "xml", "--whole-io"],
        env={
            "PATH": "/usr/bin",
            "HWLOC_FSROOT": str(tmp_path),
            "HWLOC_THISSYSTEM": "0",
            "HWLOC_COMPONENTS": "linux,stop",
        },
        capture_output=True,
        text=True,
        check=True,
    )
    speeds = [
        float(node.get("pci_link_speed"))
        for node in ET.fromstring(done.stdout).iter("object")
        if node.get("pci_busid") == "0000:00:01.0"
    ]
    assert speeds == [pytest.approx(encoded_gb_per_s(generation, lanes), abs=2e-6)]


# Transcribed from the published standard, from memory: 20 bytes around each payload.
@pytest.mark.parametrize(("payload", "share"), [(128, 86.486), (256, 92.754), (512, 96.241)])
def test_packets_take_their_share(payload, share):
    assert packet_efficiency(4, payload) * 100 == pytest.approx(share, abs=1e-3)


def test_in_flits_packets_alone_get_7375_of_8000():
    # Transcribed from the published standard, from memory: 236 of 256 bytes at 64 GT/s.
    packets = encoded_gb_per_s(6, 1) * 236 / 242
    assert packets * 1000 == pytest.approx(7375.0)
    assert packet_efficiency(6, 256) < 236 / 242


def test_the_slowest_and_the_narrowest_hop_decide_and_are_named():
    agreed = negotiate([pcie(5, 8, "port"), pcie(3, 8, "cord"), pcie(4, 4, "dock"), pcie(4, 16)])
    assert (agreed.generation, agreed.lanes) == (3, 4)
    assert set_by_words(agreed) == "dock sets 4 lanes, cord generation 3"


@given(
    st.lists(
        st.tuples(st.integers(1, 6), st.sampled_from([1, 2, 4, 8, 16])), min_size=1, max_size=5
    ),
    st.sampled_from([128, 256, 512]),
    st.none() | st.sampled_from([20.0, 40.0, 80.0, 120.0]),
)
def test_every_rung_is_below_the_one_above_and_wider_never_carries_less(hops, payload, tunnel):
    described = [pcie(generation, lanes) for generation, lanes in hops]
    if tunnel:
        described.append(Hop(name="tunnel", tunnel_gbps=tunnel))
    ladder = bandwidth_ladder(described, payload)
    rates = [rung.gb_per_s for rung in ladder.rungs]
    if tunnel is None or ladder.payload_gb_per_s >= tunnel / 8 * 0.9:
        assert rates == sorted(rates, reverse=True)
    assert ladder.left_gb_per_s <= ladder.payload_gb_per_s
    assert ladder.practice_low_gb_per_s <= ladder.practice_high_gb_per_s
    wider = bandwidth_ladder(
        [pcie(hop.generation, 16) if hop.lanes else hop for hop in described], payload
    )
    assert wider.left_gb_per_s >= ladder.left_gb_per_s


def test_a_narrow_hop_behind_a_tunnel_caps_it():
    # A PCIe 3.0 x4 hop behind the tunnel caps it at 31.5 Gb/s before packets.
    ladder = bandwidth_ladder([Hop(name="cable", tunnel_gbps=40), pcie(3, 4)])
    assert ladder.encoded_gb_per_s * 8 == pytest.approx(31.508, abs=1e-3)
    assert ladder.left_gb_per_s < 31.508 / 8


def test_practice_ranges_are_those_of_the_trade():
    # Common practice, no source: 22–32 of a 40 Gb/s cable; 41–58 of the 64 Gb/s of a 4.0 x4 cord.
    cable = bandwidth_ladder([Hop(name="cable", tunnel_gbps=40), pcie(4, 4)])
    assert cable.practice_low_gb_per_s * 8 == pytest.approx(22)
    assert cable.practice_high_gb_per_s * 8 == pytest.approx(32)
    cord = bandwidth_ladder([pcie(4, 4)])
    assert cord.practice_low_gb_per_s * 8 == pytest.approx(41)
    assert cord.practice_high_gb_per_s * 8 == pytest.approx(58)


def test_a_picture_sent_back_goes_the_other_way():
    screen = Screen(width=1920, height=1080, refresh_hz=60)
    alone = bandwidth_ladder([pcie(4, 4)])
    ladder = bandwidth_ladder([pcie(4, 4)], screen_back=screen)
    assert ladder.return_gb_per_s == pytest.approx(1920 * 1080 * 4 * 60 / 1e9)
    assert ladder.left_gb_per_s == alone.left_gb_per_s
    assert ladder.left_back_gb_per_s == pytest.approx(alone.left_gb_per_s - ladder.return_gb_per_s)
    assert ladder.per_frame_mb(60) == pytest.approx(alone.left_gb_per_s * 1000 / 60)
    assert not ladder.back_is_narrow
    wide = Screen(width=3840, height=2160, refresh_hz=60)
    narrow = bandwidth_ladder([pcie(4, 4)], screen_back=wide, measured_gb_per_s=2.6)
    assert narrow.left_gb_per_s == 2.6
    assert narrow.left_back_gb_per_s == pytest.approx(2.6 - 3840 * 2160 * 4 * 60 / 1e9)
    assert narrow.back_is_narrow
    assert "leaves 0.6\u202fGB/s of the other direction" in bench_line(
        Rig(id="r", name="Rig"), narrow
    )


def test_a_switch_lets_each_stretch_have_its_own_rate():
    # Each hop by itself, 15.75 and 7.88 GB/s after line code; the slower counts (PCI Express code).
    switched = bandwidth_ladder([pcie(3, 16, "port"), pcie(4, 4, "switch")])
    assert switched.encoded_gb_per_s == pytest.approx(7.877, abs=1e-3)
    assert (switched.negotiated.generation, switched.negotiated.lanes) == (4, 4)
    plain = bandwidth_ladder([pcie(3, 16, "port"), pcie(4, 4, "card")])
    assert plain.encoded_gb_per_s == pytest.approx(3.938, abs=1e-3)
    behind = [pcie(3, 4, "port"), pcie(4, 16, "switch"), pcie(4, 8, "card")]
    assert bandwidth_ladder(behind).encoded_gb_per_s == pytest.approx(3.938, abs=1e-3)
    at_card = bandwidth_ladder(behind).at_card  # what its gauges read
    assert (at_card.generation, at_card.lanes) == (4, 8)
    link = Link(id="l", name="l", hops=(pcie(3, 16, "port"), pcie(4, 4, "dock")))
    assert link_gb_per_s(link) == pytest.approx(3.938, abs=1e-3)


@given(st.floats(0.1, 60))
def test_no_rung_stands_above_the_lowest_before_it(measured):
    rates = [r.gb_per_s for r in bandwidth_ladder([pcie(4, 4)], measured_gb_per_s=measured).rungs]
    assert rates == sorted(rates, reverse=True)


def test_a_display_stream_in_the_tunnel_is_served_first():
    link = Link(
        id="l",
        name="cable",
        hops=(Hop(name="port", tunnel_gbps=40), pcie(4, 4)),
        display=Screen(width=2560, height=1440, refresh_hz=60, bits_per_pixel=24),
    )
    rig = Rig(id="r", name="Rig", screen_path=ScreenPath.MONITOR_ON_HOST)
    card = Card(id="c", name="Card", generation=4, lanes=8)
    plain = ladder_of_rig(rig, link.model_copy(update={"display": None}), card)
    active = ladder_of_rig(rig, link, card)
    timed = link.model_copy(update={"display_blanking": Blanking.REDUCED})
    blanked = ladder_of_rig(rig, timed, card)
    stream = 2560 * 1440 * 3 * 60 / 1e9
    assert plain.left_gb_per_s - active.left_gb_per_s == pytest.approx(stream)
    # 241.50 MHz by VESA CVT reduced blanking (edid-decode), three bytes a pixel.
    assert plain.left_gb_per_s - blanked.left_gb_per_s == pytest.approx(241.5e6 * 3 / 1e9)
    assert "display stream" in active.rungs[3].why


def test_a_measured_figure_goes_before_the_sums_and_is_explained():
    ladder = bandwidth_ladder([pcie(4, 4)], measured_gb_per_s=2.6)
    assert ladder.left_gb_per_s == 2.6
    assert "half the lanes" in why_below(ladder)
    assert "a quarter of the lanes" in why_below(
        bandwidth_ladder([pcie(4, 4)], measured_gb_per_s=1.3)
    )
    assert why_below(bandwidth_ladder([pcie(4, 4)], measured_gb_per_s=6.4)) is None
    assert "look at the unit" in why_below(bandwidth_ladder([pcie(4, 4)], measured_gb_per_s=52.0))
    assert why_below(bandwidth_ladder([pcie(4, 4)])) is None


def test_nonsense_is_refused():
    with pytest.raises(BadLink, match="generation 9"):
        encoded_gb_per_s(9, 4)
    with pytest.raises(BadLink, match="3 lanes"):
        encoded_gb_per_s(4, 3)
    with pytest.raises(BadLink, match="100 bytes"):
        packet_efficiency(4, 100)
    with pytest.raises(BadLink, match="no hop says"):
        bandwidth_ladder([Hop(name="blank")])
    with pytest.raises(BadLink, match="does not fit"):
        bandwidth_ladder([pcie(1, 1)], screen_back=Screen(width=3840, height=2160, refresh_hz=60))
    for rate in (0.0, -1.0, float("nan")):
        with pytest.raises(BadFigure, match="is not a rate"):
            bandwidth_ladder([pcie(4, 4)]).per_frame_mb(rate)


# Pixel clocks in MHz as edid-decode computes them: CVT, and both versions of reduced blanking.
CLOCKS = {
    (1920, 1080, 60): (173.00, 138.50, 133.320),
    (1920, 1080, 120): (369.50, 285.50, 274.560),
    (1920, 1080, 144): (452.50, 346.50, 333.216),
    (2560, 1440, 60): (312.25, 241.50, 234.590),
    (2560, 1440, 144): (808.75, 604.25, 586.586),
    (3840, 2160, 60): (712.75, 533.25, 522.614),
    (3840, 2160, 120): (1498.25, 1097.75, 1075.804),
}


@pytest.mark.parametrize(("mode", "clocks"), CLOCKS.items(), ids=str)
def test_pixel_clocks_of_known_modes(mode, clocks):
    found = [cvt(*mode, blanking).pixel_clock_mhz for blanking in TIMED]
    assert found == pytest.approx(clocks, abs=1e-6)


@pytest.mark.parametrize(
    "size", [(1280, 720), (1360, 768), (1600, 1200), (2560, 1600), (3440, 1440)]
)
@pytest.mark.parametrize("hz", [60, 75, 165])
def test_timings_are_those_of_edid_decode(size, hz):
    if shutil.which("edid-decode") is None:
        pytest.skip("needs the package edid-decode")
    for number, blanking in enumerate(TIMED):
        mode = f"w={size[0]},h={size[1]},fps={hz},rb={number}"
        said = subprocess.run(
            ["edid-decode", "--cvt", mode], capture_output=True, text=True, check=True
        ).stdout
        clock = float(re.search(r"([\d.]+) MHz", said)[1])
        refresh = float(re.search(r"([\d.]+) Hz", said)[1])
        timing = cvt(*size, hz, blanking)
        # Its floating point may fall one step of the clock, 0.001 MHz, short.
        assert timing.pixel_clock_mhz == pytest.approx(clock, abs=0.0011)
        assert timing.refresh_hz == pytest.approx(refresh, abs=1e-3)


def test_blanking_costs_more_than_the_active_pixels():
    screen = Screen(width=1920, height=1080, refresh_hz=60, bits_per_pixel=24)
    active = stream_gb_per_s(screen)
    streams = [timed_stream_gb_per_s(screen, blanking) for blanking in TIMED]
    assert timed_stream_gb_per_s(screen, Blanking.NONE) == active
    assert active < streams[2] < streams[1] < streams[0]
    assert streams[1] == pytest.approx(138.5e6 * 3 / 1e9)


def test_a_mode_without_time_for_its_lines_is_refused():
    with pytest.raises(BadFigure, match="leaves no time"):
        cvt(1920, 1080, 2200, Blanking.REDUCED)
    with pytest.raises(BadFigure, match="is not a valid mode"):
        cvt(0, 1080, 60, Blanking.STANDARD)


@pytest.mark.parametrize(
    ("words", "hop"),
    [
        ("4.0x4", pcie(4, 4, "hop 1")),
        ("dock: 5.0 x8", pcie(5, 8, "dock")),
        ("PCIe 3 x16", pcie(3, 16, "hop 1")),
        ("cable: 40 Gb/s", Hop(name="cable", tunnel_gbps=40)),
        ("22,5 gbps", Hop(name="hop 1", tunnel_gbps=22.5)),
        # as people say them: common practice, no source
        ("PCIe Gen 4 x8", pcie(4, 8, "hop 1")),
        ("gen4x8", pcie(4, 8, "hop 1")),
        ("x8 gen 3", pcie(3, 8, "hop 1")),
        ("PCI Express 5.0, 16 lanes", pcie(5, 16, "hop 1")),
        ("4.0 4x", pcie(4, 4, "hop 1")),
        ("M.2 4.0 x4", pcie(4, 4, "M.2")),
        ("OCuLink PCIe 4.0 × 4", pcie(4, 4, "OCuLink")),
        ("Gen 4 x16 slot", pcie(4, 16, "slot")),
        ("USB4 40 Gb/s", Hop(name="USB4", tunnel_gbps=40)),
        ("40Gbps USB4 cable", Hop(name="USB4 cable", tunnel_gbps=40)),
        ("tunnel 20g", Hop(name="tunnel", tunnel_gbps=20)),
    ],
)
def test_hops_are_read_as_one_types_them(words, hop):
    assert parse_hop(words) == hop
    assert parse_hops(hops_text([hop])) == (hop,)


def open_pcie(least: tuple[int, int], most: tuple[int, int], name: str = "hop 1") -> Hop:
    """A hop known as a range: (generation, lanes) at the least and at the most."""
    return Hop(
        name=name,
        generation=most[0],
        lanes=most[1],
        generation_least=least[0] if least[0] != most[0] else None,
        lanes_least=least[1] if least[1] != most[1] else None,
    )


@pytest.mark.parametrize(
    ("words", "hop"),
    [
        ("3.0 to 4.0 x4", open_pcie((3, 4), (4, 4))),
        ("gen 3 or 4 x4", open_pcie((3, 4), (4, 4))),
        ("gen 3 or PCIe 4.0 x4", open_pcie((3, 4), (4, 4))),
        ("4.0 x4 or 3.0 x4", open_pcie((3, 4), (4, 4))),
        ("PCIe 3.0/4.0 x8", open_pcie((3, 8), (4, 8))),
        ("cord: 4.0 x4-8", open_pcie((4, 4), (4, 8), "cord")),
        ("4.0 x4 to x8", open_pcie((4, 4), (4, 8))),
        ("OCuLink, not known", open_pcie((3, 4), (4, 4), "OCuLink")),
        ("x8 ?", open_pcie((3, 8), (5, 8))),
        ("gen 4, lanes unknown", open_pcie((4, 4), (4, 16))),
        ("USB4 20-40 Gb/s", Hop(name="USB4", tunnel_gbps=40, gbps_least=20)),
        ("usb4 not sure", Hop(name="USB4", tunnel_gbps=80, gbps_least=20)),
    ],
)
def test_what_is_not_known_of_a_hop_is_a_range(words, hop):
    assert parse_hop(words) == hop
    assert parse_hops(hops_text([hop])) == (hop,)
    assert hop.slowest() != hop
    assert not hop.slowest().is_open


def test_a_range_goes_up_and_has_two_ends():
    for wrong in ({"generation_least": 4}, {"lanes_least": 8}, {"gbps_least": 20.0}):
        with pytest.raises(ValueError, match="below the most"):
            Hop.model_validate({"name": "cord", "generation": 4, "lanes": 4, **wrong})


def test_a_ladder_of_a_range_is_that_of_its_two_ends():
    hops = [open_pcie((3, 4), (4, 4), "cord"), pcie(4, 16, "card")]
    ladder = bandwidth_ladder(hops)
    slow, fast = bandwidth_ladder([pcie(3, 4)]), bandwidth_ladder([pcie(4, 4)])
    assert ladder.left_gb_per_s == fast.left_gb_per_s
    assert ladder.least_left_gb_per_s == slow.left_gb_per_s
    assert ladder.left_words == "3.7 to 7.3\u202fGB/s"
    assert ladder.should_come_up.generation == 3
    assert [one.least_gb_per_s for one in ladder.rungs] == [one.gb_per_s for one in slow.rungs]
    # Another hop that is slower settles it; so does a measured figure.
    assert bandwidth_ladder([*hops, pcie(3, 4, "dock")]).left_words == slow.left_words
    measured = bandwidth_ladder(hops, measured_gb_per_s=6.6)
    assert measured.slowest is None
    assert measured.left_words == "6.6\u202fGB/s"
    assert ladder.per_frame_words(60) == "60.9 to 121.8\u202fMB"
    # A slow figure is what the slower one moves: nothing is wrong with it.
    assert why_below(bandwidth_ladder(hops, measured_gb_per_s=2.9)) is None
    assert why_below(bandwidth_ladder([pcie(4, 4)], measured_gb_per_s=2.9)) is not None


def test_a_rig_whose_link_is_a_range_says_it_and_what_it_takes_to_know():
    link = Link(id="l", name="OCuLink", hops=(open_pcie((3, 4), (4, 4), "OCuLink"),))
    rig = Rig(id="r", name="Jetty", link_id="l")
    line = bench_line(rig, ladder_of_rig(rig, link, None), link)
    assert "Jetty has 3.7 to 7.3\u202fGB/s left for the game: OCuLink 3.0 to 4.0 ×4" in line
    assert "The generation of OCuLink is not known: read it under load" in line
    width = link_width(link)
    assert width.most == pytest.approx(2 * width.least, rel=0.01)
    assert link_gb_per_s(link) == pytest.approx(math.sqrt(width.least * width.most))


def test_plugs_adapters_and_screens_read_back():
    plugs = parse_plugs("8-pin ×2, 6-pin + 12V-2x6 450 W")
    assert [(one.kind, one.count, one.watts) for one in plugs] == [
        ("8-pin", 2, None),
        ("6-pin", 1, None),
        ("12V-2x6", 1, 450),
    ]
    assert parse_plugs(plugs_text(plugs)) == plugs
    for same in ("8-pin x2", "two 8-pin", "2x8-pin", "2 8 pin", "8 pin x2", "dual 8pin plugs"):
        assert parse_plugs("2x 8-pin") == parse_plugs(same), same
    assert parse_plugs("12VHPWR 600 W") == parse_plugs("12V-2x6 600 W")
    assert parse_plugs("16-pin") == parse_plugs("12v 2x6")
    assert parse_plugs("three 8-pin and a 6-pin") == parse_plugs("8-pin ×3, 6-pin")
    assert parse_plugs("6+2-pin+6 pin") == parse_plugs("6+2-pin, 6-pin")
    adapters = parse_adapters("8-pin ×2 -> 12V-2x6 300 W")
    assert parse_adapters(adapters_text(adapters)) == adapters
    screen = parse_screen("2560x1440@143,9x30")
    assert parse_screen(screen_text(screen)) == screen


@pytest.mark.parametrize(
    ("read", "words", "says"),
    [
        (parse_hop, "4.0x3", "no link has 3 lanes"),
        (parse_hop, "9.0x4", "generation 9"),
        (parse_hop, "fast", "is not a hop"),
        (parse_hop, "x8", "does not say its generation.*“5.0 x8”, “4.0 x8”, “3.0 x8”, or “3.0 to"),
        (parse_hop, "x4 to x8", "“x4 to x8” does not say its generation"),
        (parse_hop, "4.0 x4 to 40 Gb/s", "is not a range of one link"),
        (parse_hop, "3.0 x8 or 4.0 x4", "is not a range of one link"),
        (parse_hop, "not known", "is not a hop"),
        (parse_hop, "4.0 x4, not sure", "says all of it, and that it is not known"),
        (parse_hop, "M.2 x4", "does not say its generation.*“M.2 4.0 x4”"),
        (parse_hop, "OCuLink", "its rate, or its generation and lanes.*“OCuLink 4.0 x4”"),
        (parse_hop, "USB4", "“USB4 40 Gb/s”, “USB4 20 Gb/s”.*or “USB4 20 to 80 Gb/s” where"),
        (parse_hop, "gen 4", "how many lanes"),
        (parse_hop, "64 GB/s", "in bytes, 8 times as much as 64 Gb/s"),
        (parse_hop, "4.0 x4 40 Gb/s", "is not a hop"),
        (parse_hop, "4.5 x4", "is not a hop"),
        (parse_plugs, "9-pin", "is not a power plug"),
        (parse_plugs, "12V-2x6 500 W", "no such sense level"),
        (parse_plugs, "8-pin 150 W", "no such sense level"),
        (parse_plugs, "8-pin ×40", "40 plugs"),
        (parse_adapters, "8-pin", "is not an adapter"),
        (parse_screen, "big", "is not a screen"),
        (parse_screen, "4x4@60", "there is no screen"),
    ],
)
def test_specs_that_cannot_be_read_say_what_to_write(read, words, says):
    with pytest.raises(BadSpec, match=says):
        read(words)


@pytest.mark.deep
@given(st.text(max_size=30))
def test_any_words_give_a_spec_or_a_sentence(words):
    for read in (parse_hop, parse_hops, parse_plugs, parse_adapters, parse_screen):
        try:
            read(words)
        except UserFixable as error:
            assert str(error)


def test_in_flits_a_packet_carries_its_header_but_no_framing_of_its_own():
    # Transcribed from the published standard, from memory: 12 bytes of header in 236 of 242.
    for payload in (128, 256, 512):
        share = 236 / 242 * payload / (payload + 12)
        assert packet_efficiency(6, payload) == pytest.approx(share)


def test_a_tunnel_keeps_a_tenth_back():
    ladder = bandwidth_ladder([Hop(name="cable", tunnel_gbps=40), pcie(4, 16)])
    assert ladder.left_gb_per_s == pytest.approx(40 / 8 * 0.9)


def test_the_practice_range_ends_where_a_display_stream_leaves_less():
    ladder = bandwidth_ladder([Hop(name="cable", tunnel_gbps=40), pcie(4, 4)], display_gb_per_s=3.0)
    assert ladder.left_gb_per_s == pytest.approx(1.5)
    assert ladder.practice_low_gb_per_s == pytest.approx(1.5)
    assert ladder.practice_high_gb_per_s == pytest.approx(1.5)


def measured(share, of):
    return why_below(bandwidth_ladder([pcie(4, 4)], measured_gb_per_s=share * of))


def test_a_measured_figure_is_above_the_link_from_two_per_cent_on():
    most = bandwidth_ladder([pcie(4, 4)]).payload_gb_per_s
    assert measured(1.015, most) is None
    for share in (1.03, 1.1, 1.9):
        assert "above the" in measured(share, most)


def test_how_far_below_decides_what_is_likely():
    foot = bandwidth_ladder([pcie(4, 4)]).practice_low_gb_per_s
    assert measured(0.91, foot) is None
    for share, likely in (
        (0.89, "narrower or slower"),
        (0.61, "narrower or slower"),
        (0.59, "half the lanes"),
        (0.41, "half the lanes"),
        (0.39, "narrower or slower"),
        (0.29, "a quarter of the lanes"),
    ):
        assert likely in measured(share, foot), share


def test_usual_links_move_four_fifths_of_what_they_carry():
    # Common practice, no source: 0.82 of the rate after line code.
    rates = {link.name: link.gb_per_s for link in usual_links()}
    assert rates["PCIe 4.0 x4"] == pytest.approx(0.82 * encoded_gb_per_s(4, 4))
    assert rates["40 Gb/s tunnel"] == 2.6
