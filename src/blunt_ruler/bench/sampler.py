"""Read a Linux machine four times a second while a pass runs, read-only, on a thread of its own.

What `probe` reads once with all bridges is found once here; then only the files that move are read:
the card's gauges and its link, the time the cores were busy, the energy the CPU took.
"""

import threading
import time
from pathlib import Path

import numpy as np

from blunt_ruler.bench.probe import device_folder, number_in, packages_in, read_link, scaled
from blunt_ruler.core.measure.machine_samples import (
    BUSY,
    GENERATION,
    LANES,
    POWER,
    TEMPERATURE,
    Samples,
)
from blunt_ruler.core.rigs.machine_report import CpuPackage

EVERY_S = 0.25
CARD_FILES = {
    BUSY: ("gpu_busy_percent", 1.0),
    "card memory GB": ("mem_info_vram_used", 1e9),
}
HWMON_FILES = {
    POWER: (("power1_average", "power1_input"), 1e6),
    "card clock MHz": (("freq1_input",), 1e6),
    TEMPERATURE: (("temp1_input",), 1e3),
}


class Sampler:
    """Samples one machine from `start` until `stop`. Raises NoTree where there is none to read."""

    def __init__(self, root: Path = Path("/"), every_s: float = EVERY_S) -> None:
        self._root, self._every_s = root, every_s
        self._device = device_folder(root)
        self._stopped = threading.Event()
        self._thread = threading.Thread(target=self._run, name="sampler", daemon=True)
        self._at: list[float] = []
        self._rows: list[dict[str, float]] = []
        self._cores: dict[str, tuple[float, float]] = {}
        self._energy: dict[str, float] = {}
        self._read_at = 0.0

    def start(self) -> None:
        """Begin to read."""
        self._thread.start()

    def stop(self) -> Samples:
        """Read a last time and give all that was read."""
        self._stopped.set()
        if self._thread.is_alive():
            self._thread.join()
        return self.samples()

    def samples(self) -> Samples:
        """What was read so far."""
        rows, at = list(self._rows), np.array(self._at[: len(self._rows)])
        names = dict.fromkeys(name for row in rows for name in row)
        return Samples(
            at, {name: np.array([row.get(name, np.nan) for row in rows]) for name in names}
        )

    def _run(self) -> None:
        due = time.monotonic()
        while True:
            self.look()
            due += self._every_s
            if self._stopped.wait(max(due - time.monotonic(), 0.0)):
                return

    def look(self) -> None:
        """Read once."""
        row: dict[str, float] = {}
        if self._device is not None:
            link = read_link(self._device)
            pairs: list[tuple[str, float | None]] = [
                (LANES, link.lanes),
                (GENERATION, link.generation),
            ]
            for name, (file, per) in CARD_FILES.items():
                pairs.append((name, scaled(number_in(self._device / file), per)))
            hwmon = next(iter(sorted((self._device / "hwmon").glob("hwmon*"))), self._device)
            for name, (files, per) in HWMON_FILES.items():
                read = (number_in(hwmon / file) for file in files)
                pairs.append((name, scaled(next((v for v in read if v is not None), None), per)))
            row |= {name: float(value) for name, value in pairs if value is not None}
        row |= self._cpu()
        self._at.append(time.time())
        self._rows.append(row)

    def _cpu(self) -> dict[str, float]:
        """Load in all and of the busiest core, and watts, since the look before."""
        now = _busy_times(self._root / "proc" / "stat")
        before, self._cores = self._cores, now
        loads = {
            name: 100.0 * (busy - before[name][0]) / (whole - before[name][1])
            for name, (busy, whole) in now.items()
            if name in before and whole > before[name][1]
        }
        found = {}
        if "cpu" in loads:
            found["cpu total %"] = loads.pop("cpu")
        if loads:
            found["cpu busiest core %"] = max(loads.values())
        packages = list(packages_in(self._root))
        if packages:
            at = time.monotonic()
            known = dict.fromkeys(one.name for one in packages) == dict.fromkeys(self._energy)
            seconds = at - self._read_at
            if known and seconds > 0:
                took = [_took(one, self._energy[one.name]) for one in packages]
                if min(took) >= 0:
                    found["cpu power W"] = sum(took) / seconds
            self._read_at = at
            self._energy = {one.name: one.energy_j for one in packages}
        return found


def _took(package: CpuPackage, before_j: float) -> float:
    """Joules since a look before; a counter that went round since goes on from nought."""
    took = package.energy_j - before_j
    return took + (package.wraps_at_j or 0.0) if took < 0 else took


def _busy_times(path: Path) -> dict[str, tuple[float, float]]:
    """cpu, cpu0 … → (busy, whole) time since the start, in ticks; idle and waiting are not busy."""
    try:
        lines = path.read_text("ascii", errors="replace").splitlines()
    except OSError:
        return {}
    found = {}
    for line in lines:
        name, *fields = line.split() or [""]
        if not name.startswith("cpu") or len(fields) < 5:
            continue
        try:
            ticks = [float(field) for field in fields[:8]]
        except ValueError:
            continue
        found[name] = (sum(ticks) - ticks[3] - ticks[4], sum(ticks))
    return found
