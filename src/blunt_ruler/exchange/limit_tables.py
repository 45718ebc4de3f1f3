"""Read a table of results with the parts they were measured on, for the Limits.

Columns rig, host, card, link, link_gb_per_s, title, scene, resolution, preset, run, average_fps;
optional link_latency_ms, return_gb_per_s and case_kind. A table to predict needs no average_fps.
"""

import math
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from blunt_ruler.core.limits.cells import (
    ASSUMED_SPREAD,
    CELL_FLOOR,
    MEASURED_SPREAD,
    SENT_BACK_MB_PER_MPX,
    SLOT_LATENCY_MS,
    Cell,
    Measured,
    Road,
)
from blunt_ruler.core.means import harmonic_mean
from blunt_ruler.core.models import case_label
from blunt_ruler.core.resolution import megapixels
from blunt_ruler.core.text import list_text
from blunt_ruler.exchange.log_layout import BadLog, as_number, find_layout, load_text, table_rows

NEEDED = ("rig", "host", "card", "link", "link_gb_per_s", "title", "resolution")


@dataclass(frozen=True, slots=True)
class _Row:
    cell: Cell
    road: Road
    average_fps: float | None


def _rows(path: Path, needed: Sequence[str]) -> list[_Row]:
    log = load_text(path)
    layout = find_layout(log, path.name)
    names = [name.strip().lower() for name in layout.names]
    missing = [name for name in needed if name not in names]
    if missing:
        raise BadLog(
            path.name,
            f"{'the column' if len(missing) == 1 else 'the columns'} {list_text(missing)} "
            f"{'is' if len(missing) == 1 else 'are'} missing",
            f"Name the columns {','.join(needed)}",
        )
    found = []
    for line, fields in table_rows(log.utf8, layout):
        if len(fields) != len(names):
            raise BadLog(
                f"{path.name}, row {line}",
                f"{len(fields)} fields where the table has {len(names)} columns",
                "Mend the row",
            )
        row = {name: text.strip() for name, text in zip(names, fields, strict=True)}
        found.append(_row(row, layout.decimal, f"{path.name}, row {line}", "average_fps" in needed))
    return found


def _row(row: dict[str, str], decimal: str, where: str, has_rate: bool) -> _Row:
    def number(column: str, needed: bool) -> float | None:
        text = row.get(column, "")
        if not text and not needed:
            return None
        value = as_number(text, decimal)
        if value is None or not 0 < value < math.inf:
            raise BadLog(where, f"{column} holds “{text}”", "Give a number above 0")
        return value

    for column in NEEDED:
        if not row[column]:
            raise BadLog(where, f"{column} is blank", "Fill it in")
    size = megapixels(row["resolution"])
    if size is None:
        raise BadLog(where, f"resolution holds “{row['resolution']}”", "Write it like 1440p")
    rate = number("average_fps", has_rate) if has_rate else None
    width = number("link_gb_per_s", True)
    assert width is not None
    latency = number("link_latency_ms", False)
    back = number("return_gb_per_s", False)
    scene, preset = row.get("scene", ""), row.get("preset", "")
    cell = Cell(
        rig=row["rig"],
        case=case_label(row["title"], scene, row["resolution"], preset),
        family=case_label(row["title"], scene, "", preset),
        megapixels=size,
        host=row["host"],
        card=row["card"],
        road=row["link"],
        average_fps=rate or 1.0,
        spread=ASSUMED_SPREAD,
        # A picture sent back goes the other way; told as megabytes at the speed of this way.
        sent_back_mb=0.0 if back is None else SENT_BACK_MB_PER_MPX * size * width / back,
    )
    road = Road(
        row["link"], width, MEASURED_SPREAD, SLOT_LATENCY_MS if latency is None else latency
    )
    return _Row(cell, road, rate)


def read_limit_table(path: Path, reference: str | None) -> Measured:
    """The cells of a table, repeats put together; the yardsticks are the reference rig's parts.

    BadLog names the column or row that is wrong.
    """
    rows = _rows(path, (*NEEDED, "average_fps"))
    grouped: dict[tuple[str, str], list[_Row]] = defaultdict(list)
    for row in rows:
        grouped[row.cell.rig, row.cell.case].append(row)
    cells = []
    for group in grouped.values():
        rates = [row.average_fps for row in group if row.average_fps]
        spread = float(np.std(np.log(rates), ddof=1)) if len(rates) > 1 else ASSUMED_SPREAD
        error = math.hypot(max(spread, 0.005) / math.sqrt(len(rates)), CELL_FLOOR)
        first = group[0].cell
        cells.append(
            Cell(
                **{name: getattr(first, name) for name in Cell.__slots__}
                | {"average_fps": harmonic_mean(rates), "spread": error}
            )
        )
    rigs = list(dict.fromkeys(cell.rig for cell in cells))
    if reference is not None and reference not in rigs:
        raise BadLog(
            "--reference", f"the table has no rig “{reference}”", f"Name one of {', '.join(rigs)}"
        )
    yard = next(cell for cell in cells if cell.rig == (reference or rigs[-1]))
    roads = {row.road.name: row.road for row in rows}
    return Measured(tuple(cells), roads, yard.host, yard.card, {})


def read_cells_to_predict(path: Path) -> tuple[list[Cell], dict[str, Road]]:
    """The cells of a table without rates, and their links."""
    rows = _rows(path, NEEDED)
    return [row.cell for row in rows], {row.road.name: row.road for row in rows}
