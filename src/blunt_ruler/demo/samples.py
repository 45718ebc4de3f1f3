"""Sample files to try the program with: logs, one faulty, a spreadsheet, a script, a report.

All are of the made-up rigs and titles; the same version writes the same bytes.
"""

from collections.abc import Sequence
from pathlib import Path

from blunt_ruler.bench.log_files import HABITS, write_log
from blunt_ruler.bench.simulator import Faults, Setting, play_run
from blunt_ruler.bench.specs import bench_rigs, bench_titles
from blunt_ruler.core.analysis.analyse import Analysis, analyse
from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.types import Progress, no_progress
from blunt_ruler.exchange.documents.writeup.files import Format, write_files
from blunt_ruler.exchange.tables.workbooks import workbook_of
from blunt_ruler.files import make_folder, shipped, write_whole
from blunt_ruler.logbook import Logbook

SEED = 40
SECONDS = 60.0
MENU_S = 12.0
LOGS = (
    ("Built-in iG-6", "plain"),
    ("Sluice Marram 12", "decimal comma"),
    ("Workbench Marram 12", "running clock"),
)
FAULTY = "Sluice Marram 12"
TITLE, RESOLUTION, PRESET = "Tidewrack", "1080p", "High"
SCRIPT = """\
The dock makes Tidewrack at 1080p run 2.5 times as fast as the built-in graphics.
In the tower the same card reaches 120 frames per second there.
The Sluice keeps 75 percent of the card's speed in the tower, and it is faster than the built-in
graphics in every game.
"""
READ_ME = """\
Sample files for Blunt Ruler. Every rig, card and title in them is made up.

logs/            one run of one title on three rigs, as three programs might write them
                 Try: drop the folder on the window.
faulty log/      a run that began in the menu
                 Try: import it, then look at Runs, Findings.
results.csv      average and 1% low of five rigs in ten cases, as a spreadsheet has them
results.ods      the same as a workbook
                 Try: drop one on the Board of a new logbook.
script.txt       three sentences about the demo, one of them wrong
                 Try: open the demo, then Write-up, Script, and paste it.
report/          the demo's review, written up
                 Try: open report.html in a browser.
"""


class FolderInUse(UserFixable):
    """Samples were to go where something is already."""


def write_samples(folder: Path, step: Progress = no_progress) -> tuple[Path, ...]:
    """Write the samples into a folder that is empty or not there yet; the paths of all files."""
    make_folder(folder)
    if any(folder.iterdir()):
        raise FolderInUse(str(folder), "there is something in it already", "Name an empty folder")
    paths = [write_whole(folder / "READ ME.txt", READ_ME)]
    paths.append(write_whole(folder / "script.txt", SCRIPT))
    for number, (rig, habit) in enumerate(LOGS):
        step("Playing the logs", 0.1 * number)
        paths.append(_log(folder / "logs", rig, habit, Faults()))
    step("Playing the logs", 0.3)
    paths.append(_log(folder / "faulty log", FAULTY, "plain", Faults(menu_s=MENU_S)))
    step("Writing the report", 0.4)
    with Logbook.reading(shipped("demo", "demo.blunt")) as book:
        contents, edits = book.contents(), book.edits()
    analysis = analyse(contents, next(iter(contents.reviews.values())))
    rows = _results(analysis)
    text = "\n".join(",".join(map(str, row)) for row in rows) + "\n"
    paths.append(write_whole(folder / "results.csv", text))
    paths.append(write_whole(folder / "results.ods", workbook_of({"results": rows})))

    def later(words: str, share: float) -> None:
        step(words, 0.5 + 0.5 * share)

    wanted = (Format.HTML, Format.PDF)
    paths += write_files(analysis, edits, make_folder(folder / "report"), wanted, later)
    return tuple(paths)


def _log(folder: Path, rig: str, habit: str, faults: Faults) -> Path:
    """One run in a log whose name says the rig and the case."""
    setting = Setting(bench_titles()[TITLE], RESOLUTION, PRESET, SECONDS)
    trace = play_run(bench_rigs()[rig], setting, SEED, 1, faults)
    words = [rig, TITLE, RESOLUTION, PRESET]
    name = "_".join(word.lower().replace(" ", "-") for word in words)
    return write_log(make_folder(folder) / f"{name}.csv", trace, HABITS[habit])


def _results(analysis: Analysis) -> list[Sequence[object]]:
    """A row for each case, with average and 1% low of every rig side by side."""
    board = analysis.board
    heads = [f"{one.name} {what}" for one in board.columns for what in ("avg fps", "1% low")]
    rows: list[Sequence[object]] = [("Title", "Resolution", "Preset", *heads)]
    for row in board.rows:
        if row.kind != "game":
            continue
        case = analysis.contents.cases[row.case_id]
        cells = [board.cells.get((one.rig_id, row.case_id)) for one in board.columns]
        figures = [
            "" if value is None else round(value, 1)
            for cell in cells
            for value in ((cell.average_fps, cell.low_1_fps) if cell else (None, None))
        ]
        rows.append((row.title, case.resolution, case.preset, *figures))
    return rows
