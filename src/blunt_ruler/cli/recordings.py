"""The command that reads a recording of the screen, and what `import` needs of it."""

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from blunt_ruler.cli.common import BadOption, JsonFlag, app, print_json
from blunt_ruler.cli.long_work import shown_progress
from blunt_ruler.core.recordings.quantities import MEANINGS, Box, Quantity, box_words, parse_box
from blunt_ruler.core.text import count_text

if TYPE_CHECKING:
    from blunt_ruler.cli.documents import ReadRecording, RecordingBox
    from blunt_ruler.core.recordings.passes import ReadPass
    from blunt_ruler.core.recordings.picture_table import PictureCell
    from blunt_ruler.exchange.recordings.still import StillReading
    from blunt_ruler.exchange.recordings.whole import Asked, WholeReading

Boxes = Annotated[
    list[str] | None,
    typer.Option("--box", help="Where a figure stands and what it is, as x,y,w,h:fps; repeatable."),
]
FromS = Annotated[float | None, typer.Option("--from", help="Read from here, in seconds.")]
ToS = Annotated[float | None, typer.Option("--to", help="Read up to here, in seconds.")]
Count = Annotated[bool, typer.Option("--count", help="Count the pictures that are new.")]
Cut = Annotated[bool, typer.Option("--cut", help="Each pass seen in the pictures is a run.")]


def asked_for(
    boxes: Sequence[str] | None,
    from_s: float | None,
    to_s: float | None,
    *,
    count: bool,
    cut: bool,
    keep_pictures: bool = False,
) -> "Asked":
    """What the options ask for; BadOption where they cannot be meant."""
    from blunt_ruler.exchange.recordings.whole import Asked

    start = 0.0 if from_s is None else from_s
    if start < 0 or (to_s is not None and to_s <= start):
        raise BadOption("--from", "it does not lie before --to", "Give seconds from 0 on")
    if cut and (from_s is not None or to_s is not None):
        raise BadOption(
            "--cut", "passes are sought in the whole recording", "Leave --from and --to out"
        )
    spans = () if from_s is None and to_s is None else ((start, to_s or 1e9),)
    given = tuple(parse_box(words) for words in boxes) if boxes else None
    return Asked(given, spans, count, cut, keep_pictures)


def read_file(path: Path, asked: "Asked") -> "WholeReading":
    """Read a recording in a process of its own, with its progress on a terminal."""
    from blunt_ruler.exchange.recordings.apart import in_own_process
    from blunt_ruler.exchange.recordings.whole import read_whole

    with shown_progress() as step:
        return in_own_process(path, read_whole, (path, asked), step)


@app.command("read")
def read_command(
    recording: Annotated[
        Path,
        typer.Argument(help="A recording of the screen (mp4, mkv, webm, mov), or a picture of it."),
    ],
    box: Boxes = None,
    from_s: FromS = None,
    to_s: ToS = None,
    count: Count = False,
    cut: Cut = False,
    as_json: JsonFlag = False,
) -> None:
    """Read the counters in a recording of the screen, count its pictures, or read one picture."""
    from blunt_ruler.exchange.recordings.still import is_picture

    if is_picture(recording):
        still = still_of(recording)
        if as_json:
            print_json(still_document(recording, still))
        for line in () if as_json else still_lines(still):
            print(line)
        return
    found = read_file(recording, asked_for(box, from_s, to_s, count=count, cut=cut))
    if as_json:
        print_json(document_of(recording, found))
        return
    for line in lines_of(found):
        print(line)


def document_of(path: Path, found: "WholeReading") -> "ReadRecording":
    """What `read --json` prints."""
    from blunt_ruler.core.recordings.passes import figures_of

    runs: list[Any] = []
    notes: list[str] = []
    for one in found.passes:
        figures = figures_of(one)
        average = figures.average
        notes += [note for note in figures.notes if note not in notes]
        runs.append(
            {
                "from_s": one.from_s,
                "to_s": one.to_s,
                "average_fps": average and average.average,
                "average_low_95": average and average.low_95,
                "average_high_95": average and average.high_95,
                "low_1_fps": figures.low_1_fps,
                "minimum_fps": average and average.minimum,
                "maximum_fps": average and average.maximum,
                "from_pictures": figures.from_pictures,
                "readings": average.readings if average else 0,
                "asked": one.asked,
                "series": _readings(one),
            }
        )
    notes += notes_of(found)
    return {
        "file": str(path),
        "sha256": found.sha256,
        "recording_fps": round(found.facts.fps, 3),
        "duration_s": round(found.facts.duration_s, 3),
        "boxes": [_box_json(box) for box in found.read.boxes],
        "runs": runs,
        "counted": None
        if found.counted is None
        else {
            "average_fps": found.counted.average_fps,
            "period_ms": found.counted.period_ms,
            "freezes": [{"at_s": one.at_s, "ms": one.ms} for one in found.counted.freezes],
        },
        "notes": notes,
    }


def _box_json(box: Box) -> "RecordingBox":
    return {"x": box.x, "y": box.y, "w": box.w, "h": box.h, "quantity": box.quantity.value}


def _readings(one: "ReadPass") -> list[Any]:
    return [
        {
            "quantity": series.quantity.value,
            "at_s": round(held.from_s, 3),
            "value": held.value,
            "sure": held.is_sure,
        }
        for series in one.series
        for held in series.held
        if held.value is not None
    ]


def still_of(path: Path) -> "StillReading":
    """The figures of one picture, read in a process of its own."""
    from blunt_ruler.exchange.recordings.apart import in_own_process
    from blunt_ruler.exchange.recordings.still import read_still

    with shown_progress() as step:
        return in_own_process(path, read_still, (path,), step)


def still_values(still: "StillReading") -> dict[Quantity, float]:
    """What the figures of a picture are, the first of each kind that is sure."""
    found: dict[Quantity, float] = {}
    for one in still.figures:
        if one.value is not None and one.sure and one.box.quantity is not Quantity.IGNORE:
            found.setdefault(one.box.quantity, one.value)
    return found


def still_lines(still: "StillReading") -> list[str]:
    """What `read` prints of a picture, for people."""
    if still.is_table:
        rows = [" | ".join(_cell_words(cell) for cell in row) for row in still.rows]
        return [f"{still.path.name}: a table; (?) marks what is in doubt", *rows]
    if not still.figures:
        return [f"{still.path.name}: no figure was found"]
    return [
        f"{MEANINGS[one.box.quantity].words}: {one.text}"
        f"{f' ({one.label})' if one.label else ''}{'' if one.sure else ', in doubt'}"
        for one in still.figures
    ]


def _cell_words(cell: "PictureCell") -> str:
    return cell.text if cell.sure else f"{cell.text}(?)"


def still_document(path: Path, still: "StillReading") -> "ReadRecording":
    """What `read --json` prints of a picture: a recording of no length, with one run."""
    values = still_values(still)
    rate = values.get(Quantity.FPS)
    return {
        "file": str(path),
        "sha256": still.sha256,
        "recording_fps": 0.0,
        "duration_s": 0.0,
        "boxes": [_box_json(one.box) for one in still.figures],
        "runs": [
            {
                "from_s": 0.0, "to_s": 0.0, "average_fps": rate, "average_low_95": None,
                "average_high_95": None, "low_1_fps": values.get(Quantity.LOW_1),
                "minimum_fps": values.get(Quantity.MINIMUM),
                "maximum_fps": values.get(Quantity.MAXIMUM), "from_pictures": False,
                "readings": len(still.figures),
                "asked": sum(not one.sure for one in still.figures),
                "series": [
                    {"quantity": one.box.quantity.value, "at_s": 0.0, "value": one.value,
                     "sure": one.sure}
                    for one in still.figures
                    if one.value is not None
                ],
            }
        ],
        "counted": None,
        "notes": [] if still.figures else ["no figure was found"],
        "table": [[{"text": cell.text, "sure": cell.sure} for cell in row] for row in still.rows],
    }  # fmt: skip


def notes_of(found: "WholeReading") -> list[str]:
    """What is to be said of a whole recording."""
    notes = []
    if not found.read.boxes and found.counted is None:
        notes.append("no counter was found: give its box with --box, or use --count")
    if found.why_not_counted:
        notes.append(f"the pictures cannot be counted: {found.why_not_counted}")
    for series in found.read.series:
        figures = [held for held in series.held if held.value is not None]
        name = MEANINGS[series.quantity].words
        if not figures:
            notes.append(f"nothing was read in the box of {name}")
        elif len(series.asked) > 0.3 * len(figures):
            notes.append(f"the box of {name} is hard to read: {len(series.asked)} of "
                         f"{count_text(len(figures), 'figure')} are in doubt")  # fmt: skip
    return notes


def lines_of(found: "WholeReading") -> list[str]:
    """What `read` prints for people."""
    from blunt_ruler.core.recordings.passes import figures_of

    facts = found.facts
    lines = [
        f"{facts.path.name}: {facts.duration_s:.1f} s of {facts.width} × {facts.height} at "
        f"{facts.fps:.5g} fps"
    ]
    lines += [
        f"  {MEANINGS[box.quantity].words}: box {box_words(box)}"
        for box in found.read.boxes
        if box.quantity is not Quantity.IGNORE
    ]
    for one in found.passes:
        figures = figures_of(one)
        span = f"{one.from_s:.1f} to {one.to_s:.1f} s"
        if figures.average is None:
            lines.append(f"{span}: no frame rate is sure")
            continue
        average = figures.average
        how = "counted from pictures" if figures.from_pictures else "as the counter showed it"
        said = f"{average.average:.1f} fps ({average.low_95:.1f} to {average.high_95:.1f}), {how}"
        if figures.low_1_fps is not None:
            said += f", 1% low {figures.low_1_fps:.1f}"
        doubt = f"; {count_text(one.asked, 'figure')} in doubt left out" if one.asked else ""
        lines.append(f"{span}: {said}{doubt}")
        lines += [f"  {note}" for note in figures.notes]
    return [*lines, *notes_of(found)]
