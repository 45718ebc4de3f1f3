"""Read a bus sweep that another program wrote: blocks and the rate each was copied at."""

import re
from pathlib import Path

from blunt_ruler.exchange.log_layout import find_layout, table_rows
from blunt_ruler.exchange.log_numbers import as_number
from blunt_ruler.exchange.log_text import BadLog, load_text

RATE_UNITS = {"gb/s": 1.0, "mb/s": 1e-3, "gib/s": 1.073741824, "mib/s": 1.048576e-3}
RATE_UNIT = re.compile(r"[GM]i?B/s", re.IGNORECASE)


def read_sweep(path: Path) -> float:
    """The bandwidth of a sweep in GB/s: the highest rate of its last column that names a rate.

    The unit stands in the header (GB/s, MB/s, GiB/s, MiB/s). BadLog says what is missing.
    """
    log = load_text(path)
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
    rates = []
    for line, row in table_rows(log.utf8, layout):
        value = as_number(row[index], layout.decimal) if index < len(row) else None
        if value is None or not 0 < value < 1e7:
            raise BadLog(
                f"{path.name}, row {line}", "the rate is no number above 0", "Mend the row"
            )
        rates.append(value * factor)
    return max(rates)
