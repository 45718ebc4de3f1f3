"""Read a Linux machine, read-only, through its device tree: links, temperatures, power, clocks.

Everything is read under a root path, so that a tree laid out in a folder stands in for a machine
in tests and in the demo. Any file may be absent or hold nonsense; then the value is unknown.
"""

import re
from collections.abc import Iterator
from pathlib import Path

import psutil

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.rigs.links import GENERATION_OF
from blunt_ruler.core.rigs.machine_report import (
    CpuPackage,
    DisplayDevice,
    LinkState,
    Machine,
    card_seen,
)

DISPLAY_CLASS = "0x03"
UNKNOWN_WIDTH = 255  # the kernel's word for a link that is down
SPEED = re.compile(r"(\d+(?:\.\d+)?) GT/s")


class NoTree(UserFixable):
    """The path holds no device tree."""


def probe(root: Path = Path("/")) -> Machine:
    """Read a machine. Raises NoTree where the root has no `sys/devices`."""
    devices = root / "sys" / "devices"
    if not devices.is_dir():
        raise NoTree(str(root), "there is no device tree under it", "Give a root with sys/devices")
    displays = tuple(
        _display(folder, devices)
        for folder in sorted(_pci_folders(devices))
        if (_text(folder / "class") or "").startswith(DISPLAY_CLASS)
    )
    own = root.resolve() == Path("/")
    return Machine(
        root=str(root),
        displays=displays,
        packages=tuple(packages_in(root)),
        cores=psutil.cpu_count(logical=False) if own else _cores(root / "proc" / "cpuinfo"),
        load_1_min=psutil.getloadavg()[0] if own else _first_number(root / "proc" / "loadavg"),
    )


def device_folder(root: Path) -> Path | None:
    """Where the add-in card of a machine tells of itself; None where no card is seen.

    Raises NoTree where the root has no `sys/devices`.
    """
    machine = probe(root)
    if not machine.displays:
        return None
    address = card_seen(machine).link.address
    return next(f for f in _pci_folders(root / "sys" / "devices") if f.name == address)


def _pci_folders(devices: Path) -> Iterator[Path]:
    """Every PCI function: a folder that has a class, below a root complex."""
    for root_complex in sorted(devices.glob("pci*")):
        for found in root_complex.rglob("class"):
            # Links lead out of the tree and round in circles; the functions are real folders.
            if found.is_file() and not found.parent.is_symlink():
                yield found.parent


def _display(folder: Path, devices: Path) -> DisplayDevice:
    bridges = []
    above = folder.parent
    while above != devices and above.parent != devices and devices in above.parents:
        bridges.append(read_link(above))
        above = above.parent
    hwmon = next(iter(sorted((folder / "hwmon").glob("hwmon*"))), folder / "hwmon")
    busy = number_in(folder / "gpu_busy_percent")
    memory = number_in(folder / "mem_info_vram_total")
    power = number_in(hwmon / "power1_average") or number_in(hwmon / "power1_input")
    return DisplayDevice(
        link=read_link(folder),
        bridges=tuple(bridges),
        vendor=_text(folder / "vendor") or "",
        device=_text(folder / "device") or "",
        busy_share=scaled(busy, 100.0),
        memory_gb=scaled(memory, 1e9),
        temperature_c=scaled(number_in(hwmon / "temp1_input"), 1000.0),
        power_w=scaled(power, 1e6),
        clock_mhz=scaled(number_in(hwmon / "freq1_input"), 1e6),
    )


def read_link(folder: Path) -> LinkState:
    """What a device tells of its link; None for what it does not."""
    return LinkState(
        address=folder.name,
        generation=_generation(folder / "current_link_speed"),
        lanes=_lanes(folder / "current_link_width"),
        most_generation=_generation(folder / "max_link_speed"),
        most_lanes=_lanes(folder / "max_link_width"),
    )


def packages_in(root: Path) -> Iterator[CpuPackage]:
    """CPU packages only: subzones have two colons in their name."""
    folder = root / "sys" / "class" / "powercap"
    for zone in sorted(folder.glob("*:*")) if folder.is_dir() else ():
        energy = number_in(zone / "energy_uj")
        name = _text(zone / "name") or zone.name
        if zone.name.count(":") == 1 and energy is not None:
            yield CpuPackage(
                name, energy / 1e6, scaled(number_in(zone / "max_energy_range_uj"), 1e6)
            )


def _text(path: Path) -> str | None:
    try:
        return path.read_text("utf-8", errors="replace").strip() or None
    except OSError:
        return None


def number_in(path: Path) -> float | None:
    """The number a file holds; None where it is absent or holds none."""
    text = _text(path)
    try:
        value = float(text) if text is not None else None
    except ValueError:
        return None
    return value if value is None or abs(value) < 1e18 else None


def _first_number(path: Path) -> float | None:
    text = _text(path)
    try:
        return float(text.split()[0]) if text else None
    except ValueError:
        return None


def scaled(value: float | None, per: float) -> float | None:
    """A value in a larger unit; None stays None."""
    return None if value is None else value / per


def _generation(path: Path) -> int | None:
    match = SPEED.search(_text(path) or "")
    return GENERATION_OF.get(float(match[1])) if match else None


def _lanes(path: Path) -> int | None:
    value = number_in(path)
    return int(value) if value is not None and 0 < value < UNKNOWN_WIDTH else None


def _cores(path: Path) -> int | None:
    text = _text(path)
    count = len(re.findall(r"^processor\s*:", text, re.MULTILINE)) if text else 0
    return count or None
