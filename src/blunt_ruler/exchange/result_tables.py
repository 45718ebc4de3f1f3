"""Read a table of results that was kept by hand: one row per run.

Columns rig, title, scene, resolution, preset, run, average_fps, low_1_fps; rig, title and
average_fps must be there, others are allowed and left alone, but frames and duration_s are used
where they stand. Delimiter, decimal mark and encoding are found as for a frame log.
"""

from pathlib import Path

from blunt_ruler.core.compare import Measurement
from blunt_ruler.core.models import case_label
from blunt_ruler.core.text import list_text
from blunt_ruler.exchange.log_layout import (
    BLANKS,
    BadLog,
    as_number,
    find_layout,
    load_text,
    table_rows,
)

NEEDED = ("rig", "title", "average_fps")


def read_results(path: Path) -> tuple[Measurement, ...]:
    """The runs of a table. BadLog names the column or row that is wrong."""
    log = load_text(path)
    layout = find_layout(log, path.name)
    names = [name.strip().lower() for name in layout.names]
    missing = [name for name in NEEDED if name not in names]
    if missing:
        raise BadLog(
            path.name,
            f"the columns {list_text(missing)} are missing"
            if len(missing) > 1
            else f"the column {missing[0]} is missing",
            "Name the columns rig,title,scene,resolution,preset,run,average_fps,low_1_fps",
        )
    runs = []
    for line, row in table_rows(log.utf8, layout):
        if len(row) != len(names):
            raise BadLog(
                f"{path.name}, row {line}",
                f"{len(row)} fields where the table has {len(names)} columns",
                "Mend the row",
            )
        runs.append(_measurement(dict(zip(names, row, strict=True)), layout.decimal, path, line))
    return tuple(runs)


def _measurement(fields: dict[str, str], decimal: str, path: Path, line: int) -> Measurement:
    where = f"{path.name}, row {line}"

    def number(column: str) -> float | None:
        held = fields.get(column, "").strip()
        if held.lower() in BLANKS:
            return None
        value = as_number(held, decimal)
        if value is None or not 0 < value < float("inf"):
            raise BadLog(
                where, f"{column} holds “{held}”", "Give a number above 0, or leave it blank"
            )
        return value

    rig, title = fields["rig"].strip(), fields["title"].strip()
    if not rig or not title:
        raise BadLog(where, f"the {'rig' if not rig else 'title'} is blank", "Fill it in")
    average = number("average_fps")
    if average is None:
        raise BadLog(where, "average_fps is blank", "Fill it in, or take the row out")
    frames = number("frames")
    return Measurement(
        rig=rig,
        case=case_label(
            title, *(fields.get(part, "").strip() for part in ("scene", "resolution", "preset"))
        ),
        average_fps=average,
        low_1_fps=number("low_1_fps"),
        frames=None if frames is None else int(frames),
        duration_s=number("duration_s"),
    )
