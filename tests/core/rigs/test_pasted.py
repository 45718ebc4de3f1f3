"""What other systems show, as people paste it: common practice, no source.

The rates of generations are those of PCI Express (2.5, 5, 8, 16, 32 GT/s), from memory.
"""

import pytest

from blunt_ruler.core.rigs.machine_report import besides_line, device_line
from blunt_ruler.core.rigs.pasted import NothingTold, TwoTold, as_machine, read_pasted

LISTING = """\
00:02.0 VGA compatible controller: Maker iG-6
\tLnkCap:\tPort #0, Speed 2.5GT/s, Width x1, ASPM L0s
\tLnkSta:\tSpeed 2.5GT/s, Width x1
00:1c.0 PCI bridge: Maker root port
\tLnkSta:\tSpeed 5GT/s, Width x2
03:00.0 3D controller: Maker Marram 12
\tLnkCap:\tPort #0, Speed 16GT/s, Width x16, ASPM L1
\tLnkSta:\tSpeed 8GT/s (downgraded), Width x4 (downgraded)
\tLnkCap2: Supported Link Speeds: 2.5-16GT/s
\tLnkCtl2: Target Link Speed: 16GT/s
"""


@pytest.mark.parametrize(
    ("text", "now", "most"),
    [
        ("PCIe x16 4.0 @ x4 3.0", (3, 4), (4, 16)),
        ("PCIe x16 4.0 @ x4 1.1", (1, 4), (4, 16)),
        ("x4 3.0", (3, 4), (None, None)),
        ("PCIe 3.0 x4", (3, 4), (None, None)),
        ("Gen3 x4", (3, 4), (None, None)),
        ("PCI Express x4 Gen 3", (3, 4), (None, None)),
        ("x4 @ 8.0 GT/s", (3, 4), (None, None)),
        ("running at 4x Gen 3", (3, 4), (None, None)),
        ("x8", (None, 8), (None, None)),
        ("PCI Express 3.0 x4 (max 4.0 x16)", (3, 4), (4, 16)),
        ("current_link_speed: 8.0 GT/s PCIe\ncurrent_link_width: 4\nmax_link_speed: 16.0 GT/s PCIe"
         "\nmax_link_width: 16", (3, 4), (4, 16)),
        ("Current Link Width: x4\nMaximum Link Width: x16\nCurrent Link Speed: 8.0 GT/s", (3, 4),
         (None, 16)),
        ("PCIe Generation\n  Max : 4\n  Current : 3\nLink Width\n  Max : 16x\n  Current : 4x",
         (3, 4), (4, 16)),
        ("PCIe Generation Max: 4 Current: 3\nLink Width Max: 16x Current: 4x", (3, 4), (4, 16)),
        ("Link speed: 2.5 GT/s, link width: x1", (1, 1), (None, None)),
        ("Maximum PCI Express link: x16 4.0\nCurrent: x8 4.0", (4, 8), (4, 16)),
    ],
)  # fmt: skip
def test_a_link_is_recognised_as_systems_write_it(text, now, most):
    (link,) = read_pasted(text).links
    assert (link.generation, link.lanes) == now
    assert (link.most_generation, link.most_lanes) == most


def test_of_a_whole_listing_the_graphics_devices_count():
    builtin, card = read_pasted(LISTING).links
    assert (builtin.address, builtin.lanes) == ("00:02.0", 1)
    assert (card.generation, card.lanes, card.most_generation, card.most_lanes) == (3, 4, 4, 16)
    line = device_line(as_machine(read_pasted(LISTING)).displays[1])
    assert line == "03:00.0 runs at PCIe 3.0 x4 of 4.0 x16."


def test_drivers_and_codes_are_told_besides():
    machine = as_machine(
        read_pasted("Driver Version: 31.0.15.5222\nThis device cannot start. (Code 10)")
    )
    assert besides_line(machine) == "Besides: driver version 31.0.15.5222, code 10."
    assert device_line(machine.displays[0]) == "the pasted text reports no link."
    assert read_pasted("Stop code: DEVICE_POWER_FAILURE (0x119)").faults == (
        "DEVICE_POWER_FAILURE",
        "0x119",
    )


@pytest.mark.parametrize(
    "text",
    ["", "hello", "Bus width 256 bit", "Speed unknown, Width x0", "2560x1440, 2x smoothing"],
)
def test_what_is_no_reading_is_not_taken_for_one(text):
    with pytest.raises(NothingTold):
        read_pasted(text)


@pytest.mark.parametrize(
    "text", ["x4 1.1\nx4 3.0", "PCIe 4.0 x16 slot running at 3.0 x4", "width: x8\nwidth: x4"]
)
def test_two_links_are_both_named_and_none_is_chosen(text):
    with pytest.raises(TwoTold, match="it describes two links"):
        read_pasted(text)


def test_a_long_text_is_no_hang():
    with pytest.raises(NothingTold):
        read_pasted("max " * 100_000 + "\n" + "width " * 100_000 + "x" * 400_000)
