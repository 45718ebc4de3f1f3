"""Machines that are not there: device trees written down, laid out in a folder when wanted, and
moving there while somebody reads.

Written as one text each, because a package cannot hold the links and colons of a real tree. The
probe reads the laid-out folder exactly as it reads a machine.
"""

import math
import threading
import tomllib
from pathlib import Path

from blunt_ruler.files import shipped


def machine_names() -> tuple[str, ...]:
    """Machines that are shipped."""
    return tuple(sorted(path.stem for path in shipped("bench", "machines").glob("*.toml")))


def lay_out(name: str, root: Path) -> Path:
    """Write a shipped machine's tree under a folder; that folder."""
    text = shipped("bench", "machines", f"{name}.toml").read_text("utf-8")
    for path, content in tomllib.loads(text)["files"].items():
        place = root / path
        place.parent.mkdir(parents=True, exist_ok=True)
        place.write_text(f"{content}\n", "utf-8")
    return root


CORES = 8
MOVES_EVERY_S = 0.05
TICKS_PER_S = 100.0


def move(root: Path, step: int, seconds: float = MOVES_EVERY_S) -> None:
    """Put a laid-out machine where it is after so many steps under load: the same every time."""
    devices = root / "sys" / "devices"
    for busy in devices.rglob("gpu_busy_percent"):
        card, wave = busy.parent, math.sin(step / 7.0)
        warm = 1.0 - math.exp(-step * seconds / 20.0)
        _write(busy, round(88 + 9 * wave))
        _write(card / "mem_info_vram_used", round((6.1 + 0.4 * warm) * 1e9))
        for hwmon in (card / "hwmon").glob("hwmon*"):
            _write(hwmon / "temp1_input", round(1000 * (52 + 21 * warm)))
            _write(hwmon / "power1_average", round(1e6 * (148 + 20 * wave)))
            _write(hwmon / "freq1_input", round(1e6 * (2410 - 60 * warm)))
    ticks = step * seconds * TICKS_PER_S
    shares = [0.62 + 0.2 * math.sin(step / 5.0), *([0.21] * (CORES - 1))]
    lines = []
    for name, share in (("cpu", sum(shares)), *((f"cpu{n}", one) for n, one in enumerate(shares))):
        whole = ticks * (CORES if name == "cpu" else 1)
        busy_ticks = min(share * ticks, whole)
        lines.append(f"{name} {busy_ticks:.0f} 0 0 {whole - busy_ticks:.0f} 0 0 0 0 0 0")
    (root / "proc").mkdir(exist_ok=True)
    _write(root / "proc" / "stat", "\n".join(lines))
    for energy in (root / "sys" / "class" / "powercap").glob("*/energy_uj"):
        _write(energy, round(1.8e11 + step * seconds * 31e6))


def _write(path: Path, content: object) -> None:
    path.write_text(f"{content}\n", "ascii")


class Moving:
    """Moves a laid-out machine on a thread of its own until `stop`."""

    def __init__(self, root: Path) -> None:
        self._root = root
        self._stopped = threading.Event()
        move(root, 0)
        self._thread = threading.Thread(target=self._run, name="moving machine", daemon=True)
        self._thread.start()

    def _run(self) -> None:
        step = 0
        while not self._stopped.wait(MOVES_EVERY_S):
            step += 1
            move(self._root, step)

    def stop(self) -> None:
        """Stand still."""
        self._stopped.set()
        self._thread.join()
