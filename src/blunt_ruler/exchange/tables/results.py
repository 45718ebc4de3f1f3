"""Runs for a comparison, out of a table of results in a file.

The table is read as a pasted one is; what would be asked about then is refused with the same words.
Columns frames and duration_s, where there are some, make a rate a counted one.
"""

from collections.abc import Mapping
from pathlib import Path

from blunt_ruler.core.compare.results import Measurement
from blunt_ruler.core.measure.reading import FROM_LOG
from blunt_ruler.core.runs.entry import parse_entry
from blunt_ruler.exchange.logs.text import BadLog
from blunt_ruler.exchange.tables.cells import BadSheet
from blunt_ruler.exchange.tables.files import read_sheets
from blunt_ruler.exchange.tables.reading import understand
from blunt_ruler.exchange.tables.sheet import Sheet, SheetCell


def read_results(path: Path) -> tuple[Measurement, ...]:
    """The runs of a table. BadLog names what is wrong and where, or what can be read two ways."""
    found: list[Measurement] = []
    for part in read_sheets(path):
        where = part.where(path)
        try:
            sheet = understand(part.rows, source=path.name)
        except BadSheet as error:
            raise BadLog(where, error.what, error.fix) from error
        _refuse(sheet, where)
        found += [run for cell in sheet.cells for run in _measurements(cell)]
    return tuple(found)


def _refuse(sheet: Sheet, where: str) -> None:
    """BadLog for what can be read two ways, and for a cell that cannot be read."""
    for question in sheet.asked:
        readings = " or ".join(f"“{one}”" for one in question.readings)
        raise BadLog(
            where,
            f"it can be read two ways: {question.words}",
            f"Take it into a logbook with import --answer {question.about}=…"
            + (f" ({readings})" if readings else ""),
        )
    for cell in sheet.cells:
        if cell.wrong:
            raise BadLog(f"{where}, {cell.where}", cell.wrong.rstrip("."), "Correct the cell")


def _measurements(cell: SheetCell) -> list[Measurement]:
    """The runs of a cell: one for each pass; none for scores, percentages and what did not run."""
    if cell.score or cell.percent:
        return []
    found = []
    for number, one in enumerate(parse_entry(cell.text).passes):
        assert one.average_fps is not None
        frames, duration_s = _counted(cell.passes[number] if number < len(cell.passes) else {})
        counted = frames is not None and len(cell.passes) > number
        found.append(
            Measurement(
                rig=cell.rig,
                case=cell.case,
                average_fps=one.average_fps,
                low_1_fps=one.low_1_fps,
                low_01_fps=one.low_01_fps,
                frames=frames,
                duration_s=duration_s,
                how=FROM_LOG if counted else one.average_how,
                low_how=FROM_LOG if counted else one.low_1_how,
            )
        )
    return found


def _counted(one: Mapping[str, str]) -> tuple[int | None, float | None]:
    """Frames and seconds of a pass, where both stand beside it."""
    try:
        frames, duration_s = float(one["frames"]), float(one["duration_s"].replace(",", "."))
    except (KeyError, ValueError):
        return None, None
    return (int(frames), duration_s) if frames > 0 and duration_s > 0 else (None, None)
