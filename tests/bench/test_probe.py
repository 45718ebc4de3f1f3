"""The probe reads shipped trees, and survives trees that hold nonsense."""

from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from blunt_ruler.bench.machines import lay_out, machine_names
from blunt_ruler.bench.probe import NoTree, probe
from blunt_ruler.bench.specs import bench_rigs
from blunt_ruler.bench.synthetics import bus_sweep
from blunt_ruler.core.rigs.machine_report import card_seen, path_of


def test_a_shipped_machine_reads_as_it_was_written(tmp_path):
    machine = probe(lay_out("quillon-cable", tmp_path))
    card = card_seen(machine)
    assert (card.link.generation, card.link.lanes) == (4, 4)
    assert (card.link.most_generation, card.link.most_lanes) == (4, 16)
    assert [one.generation for one in path_of(card)] == [1, 1, 4, 4]
    assert (card.temperature_c, card.power_w, card.clock_mhz) == (58.0, 142.0, 2400.0)
    assert card.busy_share == 0.82
    assert card.memory_gb == pytest.approx(12.884901888)
    assert (machine.cores, machine.load_1_min) == (8, 3.52)
    (package,) = machine.packages  # the core is a part of it, not another one
    assert package.energy_j == pytest.approx(183465.921733)
    assert len(machine.displays) == 2


def test_every_shipped_machine_can_be_read(tmp_path):
    for name in machine_names():
        assert card_seen(probe(lay_out(name, tmp_path / name))).link.lanes in (2, 4)


# How the kernel writes speeds: "16.0 GT/s PCIe", older kernels "8 GT/s", or "Unknown"; a width of
# 255 is unknown. Read in the kernel's documentation.
@pytest.mark.parametrize(
    ("speed", "width", "expected"),
    [
        ("16.0 GT/s PCIe", "4", (4, 4)),
        ("8 GT/s", "16", (3, 16)),
        ("64.0 GT/s PCIe", "1", (6, 1)),
        ("Unknown", "255", (None, None)),
        ("", "", (None, None)),
        ("fast", "wide", (None, None)),
        ("3.7 GT/s", "-4", (None, None)),
    ],
)
def test_links_as_kernels_write_them(tmp_path, speed, width, expected):
    lay_out("quillon-cord", tmp_path)
    card = tmp_path / "sys/devices/pci0000:00/0000:00:01.1/0000:01:00.0"
    (card / "current_link_speed").write_text(speed)
    (card / "current_link_width").write_text(width)
    link = card_seen(probe(tmp_path)).link
    assert (link.generation, link.lanes) == expected


def test_a_tree_with_files_missing_gives_unknowns(tmp_path):
    lay_out("quillon-cord", tmp_path)
    for path in list(tmp_path.rglob("*")):
        if path.is_file() and path.name != "class":
            path.unlink()
    machine = probe(tmp_path)
    assert len(machine.displays) == 2
    assert machine.displays[0].power_w is None
    assert machine.packages == ()
    assert machine.cores is None


@settings(max_examples=25)
@given(st.binary(max_size=40))
def test_a_file_with_any_content_is_no_crash(tmp_path_factory, content):
    root = lay_out("quillon-cord", tmp_path_factory.mktemp("machine"))
    for path in root.rglob("*"):
        if path.is_file() and path.name != "class":
            path.write_bytes(content)
    probe(root)


def test_a_folder_without_a_tree_is_said(tmp_path):
    with pytest.raises(NoTree, match="no device tree"):
        probe(tmp_path)


@pytest.mark.skipif(not Path("/sys/devices").is_dir(), reason="needs a mounted device tree")
def test_this_machine_can_be_looked_at():
    assert probe().cores


def test_a_sweep_rises_to_what_the_link_moves():
    for rig in bench_rigs().values():
        sweep = bus_sweep(rig, seed=3)
        assert sweep[0][1] < sweep[-1][1]
        assert sweep[-1][1] == pytest.approx(rig.down_gb_per_s, rel=0.03)
        assert bus_sweep(rig, seed=3) == sweep
