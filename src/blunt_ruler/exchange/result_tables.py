"""Read a table of results that was kept by hand: one row per run.

Columns rig, title, scene, resolution, preset, run, average_fps, low_1_fps; rig, title and
average_fps must be there, others are allowed and left alone, but frames and duration_s are used
where they stand. Delimiter, decimal mark and encoding are found as for a frame log.
"""

from pathlib import Path

from blunt_ruler.core.compare.compare import Measurement
from blunt_ruler.core.records.records import case_label
from blunt_ruler.exchange.hand_tables import HandRow, hand_rows
from blunt_ruler.exchange.log_text import BadLog

NEEDED = ("rig", "title", "average_fps")
WANTED = "rig,title,scene,resolution,preset,run,average_fps,low_1_fps"


def read_results(path: Path) -> tuple[Measurement, ...]:
    """The runs of a table. BadLog names the column or row that is wrong."""
    return tuple(_measurement(row) for row in hand_rows(path, NEEDED, WANTED))


def _measurement(row: HandRow) -> Measurement:
    average = row.number("average_fps")
    if average is None:
        raise BadLog(row.where, "average_fps is blank", "Fill it in, or take the row out")
    frames = row.number("frames")
    title = row.needed("title")
    return Measurement(
        rig=row.needed("rig"),
        case=case_label(title, *(row.text(part) for part in ("scene", "resolution", "preset"))),
        average_fps=average,
        low_1_fps=row.number("low_1_fps"),
        frames=None if frames is None else int(frames),
        duration_s=row.number("duration_s"),
    )
