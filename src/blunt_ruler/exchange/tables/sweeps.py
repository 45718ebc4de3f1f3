"""Read a bus sweep that another program wrote: blocks and the rate each was copied at."""

import re
from pathlib import Path

from blunt_ruler.exchange.logs.layout import find_layout, table_rows
from blunt_ruler.exchange.logs.numbers import as_number
from blunt_ruler.exchange.logs.text import BadLog, load_text

RATE_UNITS = {"gb/s": 1.0, "mb/s": 1e-3, "gib/s": 1.073741824, "mib/s": 1.048576e-3}
RATE_UNIT = re.compile(r"[GM]i?B/s", re.IGNORECASE)

MOST_BYTES = 20 * 1024**2


BLOCK_UNITS = {
    "kb": 1e-3,
    "mb": 1.0,
    "gb": 1e3,
    "kib": 1.024e-3,
    "mib": 1.048576,
    "gib": 1073.741824,
}
BLOCK_UNIT = re.compile(r"\b([KMG]i?B)\b(?!/s)", re.IGNORECASE)


def read_sweep(path: Path) -> float:
    """The bandwidth of a sweep in GB/s: the highest rate of its last column that names a rate."""
    return max(rate for _, rate in read_curve(path))


def read_curve(path: Path) -> tuple[tuple[float, float], ...]:
    """(block in MB, GB/s) of a sweep, block by block; 0 for blocks that no column names.

    The unit stands in the header (GB/s, MB/s, GiB/s, MiB/s). BadLog says what is missing.
    """
    log = load_text(path, MOST_BYTES)
    layout = find_layout(log, path.name)
    named = [
        (index, RATE_UNITS[found[0].lower()])
        for index, name in enumerate(layout.names)
        if (found := RATE_UNIT.search(name))
    ]
    if not named:
        raise BadLog(
            path.name,
            "no column names a rate in GB/s, MB/s, GiB/s or MiB/s",
            "Name it in the header",
        )
    index, factor = named[-1]
    blocks = [
        (place, BLOCK_UNITS[found[1].lower()])
        for place, name in enumerate(layout.names)
        if place != index and (found := BLOCK_UNIT.search(name))
    ]
    rates = []
    for line, row in table_rows(log.utf8, layout):
        value = as_number(row[index], layout.decimal) if index < len(row) else None
        if value is None or not 0 < value < 1e7:
            raise BadLog(
                f"{path.name}, row {line}", "the rate is not a number above 0", "Mend the row"
            )
        block = 0.0
        if blocks and blocks[0][0] < len(row):
            block = (as_number(row[blocks[0][0]], layout.decimal) or 0.0) * blocks[0][1]
        rates.append((block, value * factor))
    return tuple(rates)
