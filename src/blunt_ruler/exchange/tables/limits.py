"""Read a table of results with the parts they were measured on, for the Limits.

Columns rig, host, card, link, link_gb_per_s, title, scene, resolution, preset, run, average_fps;
optional link_latency_ms, return_gb_per_s and case_kind. A table to predict needs no average_fps.
"""

import math
from collections import defaultdict
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from blunt_ruler.core.limits.cells import (
    ASSUMED_SPREAD,
    MEASURED_SPREAD,
    SENT_BACK_MB_PER_MPX,
    SLOT_LATENCY_MS,
    Cell,
    FittedLink,
    Measured,
)
from blunt_ruler.core.measure.means import harmonic_mean
from blunt_ruler.core.measure.resolution import megapixels
from blunt_ruler.core.records.records import case_label
from blunt_ruler.exchange.logs.text import BadLog
from blunt_ruler.exchange.tables.rows import HandRow, hand_rows

NEEDED = ("rig", "host", "card", "link", "link_gb_per_s", "title", "resolution")


@dataclass(frozen=True, slots=True)
class _Row:
    cell: Cell
    link: FittedLink
    average_fps: float | None


def _row(row: HandRow, has_rate: bool) -> _Row:
    for column in NEEDED:
        row.needed(column)
    size = megapixels(row.text("resolution"))
    if size is None:
        raise BadLog(
            row.where, f"resolution holds “{row.text('resolution')}”", "Write it like 1440p"
        )
    rate = row.number("average_fps") if has_rate else None
    if has_rate and rate is None:
        raise BadLog(row.where, "average_fps is blank", "Fill it in, or take the row out")
    width = row.number("link_gb_per_s")
    if width is None:
        raise BadLog(row.where, "link_gb_per_s is blank", "Say what the link moves, in GB/s")
    latency, back = row.number("link_latency_ms", or_zero=True), row.number("return_gb_per_s")
    title, scene, preset = (row.text(name) for name in ("title", "scene", "preset"))
    cell = Cell(
        rig=row.text("rig"),
        case=case_label(title, scene, row.text("resolution"), preset),
        family=case_label(title, scene, "", preset),
        megapixels=size,
        host=row.text("host"),
        card=row.text("card"),
        link=row.text("link"),
        average_fps=rate or 1.0,
        spread=ASSUMED_SPREAD,
        # A picture sent back goes the other way; told as megabytes at the speed of this way.
        sent_back_mb=0.0 if back is None else SENT_BACK_MB_PER_MPX * size * width / back,
    )
    link = FittedLink(
        cell.link, width, MEASURED_SPREAD, SLOT_LATENCY_MS if latency is None else latency
    )
    return _Row(cell, link, rate)


def read_limit_table(path: Path, reference: str | None) -> Measured:
    """The cells of a table, repeats put together; the yardsticks are the reference rig's parts.

    BadLog names the column or row that is wrong.
    """
    wanted = (*NEEDED, "average_fps")
    rows = [_row(row, True) for row in hand_rows(path, wanted, ",".join(wanted))]
    grouped: dict[tuple[str, str], list[_Row]] = defaultdict(list)
    for row in rows:
        grouped[row.cell.rig, row.cell.case].append(row)
    cells = []
    for group in grouped.values():
        rates = [row.average_fps for row in group if row.average_fps]
        spread = float(np.std(np.log(rates), ddof=1)) if len(rates) > 1 else ASSUMED_SPREAD
        error = max(spread, 0.005) / math.sqrt(len(rates))
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
    links = {row.link.name: row.link for row in rows}
    return Measured(tuple(cells), links, yard.host, yard.card, {})


def read_cells_to_predict(path: Path) -> tuple[list[Cell], dict[str, FittedLink]]:
    """The cells of a table without rates, and their links."""
    rows = [_row(row, False) for row in hand_rows(path, NEEDED, ",".join(NEEDED))]
    return [row.cell for row in rows], {row.link.name: row.link for row in rows}
