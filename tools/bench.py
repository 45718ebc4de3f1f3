"""Print the speed bars as ratios measured in this run: ours over the yardstick beside it.

Not a test: machines differ and the ratios are for looking at. Each pair is measured alternately
and the best of several tries is taken, so that other work on the machine counts little.
"""

import compileall
import gc
import json
import os
import sqlite3
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
import polars as pl

import blunt_ruler
from blunt_ruler.bench.simulator import Setting, play_run
from blunt_ruler.bench.specs import bench_rigs, bench_titles
from blunt_ruler.bench.wide import wide_review
from blunt_ruler.core.analysis.analyse import analyse, begin, fit_whole, settle
from blunt_ruler.core.board.board import build_board
from blunt_ruler.core.checks.all import check_runs
from blunt_ruler.core.limits.cells import Cell, FittedLink, Measured
from blunt_ruler.core.limits.fit import fit_limits
from blunt_ruler.core.limits.report import derive_limits
from blunt_ruler.core.measure.frames import measure
from blunt_ruler.core.records.bench_notes import Change
from blunt_ruler.core.records.hardware import Rig
from blunt_ruler.core.records.records import (
    TABLES,
    Case,
    Origin,
    Review,
    ReviewRig,
    Role,
    Run,
    Title,
)
from blunt_ruler.core.worth.report import derive_worth
from blunt_ruler.core.writeup.compose import compose
from blunt_ruler.demo.shipped import copy_demo
from blunt_ruler.exchange.documents.writeup.files import write_files
from blunt_ruler.exchange.logs.frame_logs import read_log
from blunt_ruler.logbook import Logbook
from figures import Figure, ratio, taken, tell

FRAMES = 1_000_000
RUNS = 5_000
HOMES = ("XDG_CONFIG_HOME", "XDG_CACHE_HOME", "XDG_DATA_HOME", "XDG_STATE_HOME")


def best_s(*works: Callable[[], object], tries: int = 5) -> list[float]:
    """Best time of each, in seconds, measured in turn."""
    best = [float("inf")] * len(works)
    for _ in range(tries):
        for index, work in enumerate(works):
            started = time.perf_counter()
            work()
            best[index] = min(best[index], time.perf_counter() - started)
    return best


def bench_metrics(times_ms: np.ndarray) -> None:
    ours, sort = best_s(lambda: measure(times_ms), lambda: np.sort(times_ms))
    ratio("all frame metrics of a million frames", ours, sort, 10, "numpy.sort")


def bench_import(times_ms: np.ndarray, folder: Path) -> None:
    rng = np.random.default_rng(2)
    log = folder / "million.csv"
    pl.DataFrame(
        {
            "elapsed s": np.round(np.cumsum(times_ms) / 1000, 5),
            "frame time ms": np.round(times_ms, 4),
            "card busy %": np.round(rng.normal(90, 3, FRAMES)),
            "card power W": np.round(rng.normal(150, 3, FRAMES), 1),
            "card temp C": np.round(rng.normal(60, 2, FRAMES)),
        }
    ).write_csv(log)
    ours, plain = best_s(lambda: read_log(log), lambda: pl.read_csv(log))
    ratio("a log of a million frames read", ours, plain, 2, "polars.read_csv")


def bench_logbook(times_ms: np.ndarray, folder: Path) -> None:
    path = folder / "many.blunt"
    figures = measure(times_ms[:6000])
    rigs = [Rig(id=f"rig{index}", name=f"Rig {index}") for index in range(12)]
    titles = [Title(id=f"title{index}", name=f"Title {index}") for index in range(20)]
    cases = [
        Case(id=f"case{index}", title_id=f"title{index // 3}", resolution=f"{index % 3}")
        for index in range(60)
    ]
    runs = [
        Run(
            id=f"run{index}",
            rig_id=f"rig{index % 12}",
            case_id=f"case{index // 12 % 60}",
            repeat=index // 720 + 1,
            origin=Origin(kind="log", file=f"{index}.csv", column="frame time ms", unit="ms"),
            figures=figures,
        )
        for index in range(RUNS)
    ]
    roles = {0: Role.BASE, 11: Role.REFERENCE}
    review = Review(
        id="review",
        name="Review",
        seats=tuple(
            ReviewRig(rig_id=rig.id, role=roles.get(index, Role.TESTED))
            for index, rig in enumerate(rigs)
        ),
        case_ids=tuple(case.id for case in cases),
    )
    with Logbook.create(path) as book:
        book.commit("fill", put=[*rigs, *titles, *cases, *runs, review])

    def ours() -> None:
        with Logbook.open(path) as book:
            contents = book.contents()
        build_board(contents, contents.reviews["review"])

    def bare() -> None:
        db = sqlite3.connect(path)
        for table in TABLES:
            for (body,) in db.execute(f"SELECT body FROM {table}"):
                json.loads(body)
        db.close()

    ratio(f"a logbook of {RUNS} runs to its Board", *best_s(ours, bare), 5, "sqlite3 and json")


START_BARE = """
from PyQt6.QtWidgets import QApplication, QMainWindow
app = QApplication([]); window = QMainWindow(); window.show(); app.processEvents()
"""
START_OURS = """
from blunt_ruler.ui.shell.app import make_app
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.desk.settings import Settings
from blunt_ruler.ui.shell.window import MainWindow
app = make_app([]); theme.apply_theme(app, theme.PAPER)
window = MainWindow(Settings()); window.show(); app.processEvents()
"""
# The command itself, with somebody who watches its window.
WATCHED = """
import os, sys
from PyQt6.QtWidgets import QApplication
from blunt_ruler.ui.shell import window
class Watched(window.MainWindow):
    def __init__(self, settings):
        super().__init__(settings)
        if {until!r} == "drawn":
            self.drawn.disconnect()
            self.drawn.connect(lambda: os._exit(0))
        self.desk.changed.connect(self.look)
    def look(self, snapshot):
        if {until!r} == "board" or snapshot.analysis.settled:
            QApplication.processEvents()
            os._exit(0)
window.MainWindow = Watched
from blunt_ruler.__main__ import main
main()
"""
LEAVE = """
import os; os._exit(0)
"""
MEMORY_AFTER = """
from pathlib import Path
status = Path("/proc/self/status").read_text().split("VmHWM:")[1]
print(status.split()[0])
window.close()
"""
OPEN_MANY = """
import sys, time
from dataclasses import replace
from functools import partial
from pathlib import Path
window.desk.open(Path(sys.argv[1]))
while window.desk.snapshot is None: app.processEvents(); time.sleep(0.002)
app.processEvents()
"""


def run_python(code: str, *arguments: str) -> str:
    done = subprocess.run(
        [sys.executable, "-c", code, *arguments], check=True, capture_output=True, text=True
    )
    return done.stdout


def bench_start(folder: Path) -> None:
    """From the command on, each against a bare window of PyQt6 with nothing else imported."""
    demo = str(copy_demo(folder / "demo.blunt"))
    works = {
        "window": lambda: run_python(WATCHED.format(until="drawn")),
        "board": lambda: run_python(WATCHED.format(until="board"), "open", demo),
        "analysed": lambda: run_python(WATCHED.format(until="analysed"), "open", demo),
        "bare": lambda: run_python(START_BARE + LEAVE),
    }
    *ours, bare = best_s(*works.values())
    ratio("window drawn", ours[0], bare, 2.5, "a bare window")
    taken("the demo's Board from the start", ours[1], 0.8)
    taken("the demo analysed from the start", ours[2], 1.5)
    command = [str(Path(sys.executable).parent / "blunt-ruler"), "open", demo]
    subprocess.run([*command, "--quit-after", "8"], check=True)  # it is looked back on from now on
    (looked,) = best_s(lambda: run_python(WATCHED.format(until="drawn"), "open", demo))
    taken("the last look from the start", looked)


def bench_memory(folder: Path) -> None:
    many = str(folder / "many.blunt")
    ours_kib = int(run_python(START_OURS + OPEN_MANY + MEMORY_AFTER, many))
    bare_kib = int(run_python(START_BARE + MEMORY_AFTER))
    above = (ours_kib - bare_kib) / 1024
    tell(Figure(f"memory over a bare window, {RUNS} runs", above, "MiB", high=300, noise=10))


SCROLL = """
import time
from blunt_ruler.core.board.board import build_board
from blunt_ruler.core.records.records import (
    Case, Contents, Origin, Review, ReviewRig, Role, Run, Title, TypedFigures
)
from blunt_ruler.core.records.bench_notes import Change
from blunt_ruler.core.records.hardware import Rig
from blunt_ruler.core.analysis.analyse import begin
from blunt_ruler.ui.desk.snapshot import Snapshot
from dataclasses import replace
from functools import partial
from pathlib import Path
rigs = {f"r{i}": Rig(id=f"r{i}", name=f"Rig {i}") for i in range(12)}
titles = {f"t{i}": Title(id=f"t{i}", name=f"Title {i}") for i in range(100)}
cases = {f"c{i}": Case(id=f"c{i}", title_id=f"t{i // 3}", resolution=f"{i % 3}")
         for i in range(300)}
runs = {f"{r}{c}": Run(id=f"{r}{c}", rig_id=r, case_id=c, origin=Origin(kind="typed"),
        typed=TypedFigures(average_fps=50.0 + i + k)) for i, r in enumerate(rigs)
        for k, c in enumerate(cases)}
review = Review(id="v", name="V", case_ids=tuple(cases), seats=tuple(
    ReviewRig(rig_id=r, role={0: Role.BASE, 11: Role.REFERENCE}.get(i, Role.TESTED))
    for i, r in enumerate(rigs)))
contents = Contents.empty().with_records(dict(rigs=rigs, titles=titles, cases=cases, runs=runs,
    reviews={"v": review}))
window.resize(1280, 800)
window.desk.snapshot = Snapshot(Path("x"), contents, review, begin(contents, review))
started = time.perf_counter()
window.desk.changed.emit(window.desk.snapshot); app.processEvents()
shown_s = time.perf_counter() - started
import gc
gc.freeze()  # as the program does once a logbook is settled (SpareSearches)
table = window.controllers["Board"].stop.cells.table
bar = table.verticalScrollBar()
slowest = total = 0.0
for step in range(200):
    started = time.perf_counter()
    bar.setValue(bar.value() + 37)
    table.viewport().repaint(); app.processEvents()
    taken = time.perf_counter() - started
    slowest = max(slowest, taken); total += taken
print(shown_s * 1000, total / 200 * 1000, slowest * 1000)
"""


def bench_scroll() -> None:
    shown, mean, slowest = map(float, run_python(START_OURS + SCROLL).split())
    taken("Board of 300 cases × 12 rigs, a scroll step", mean / 1000, 0.016)
    taken("Board of 300 cases × 12 rigs, slowest scroll step", slowest / 1000, 0.05)
    taken("Board of 300 cases × 12 rigs, first shown", shown / 1000)


def bench_simulator() -> None:
    slowest = 0.0
    for rig in bench_rigs().values():
        for title in bench_titles().values():
            started = time.perf_counter()
            play_run(rig, Setting(title, "1080p", "High", 60.0), seed=1)
            slowest = max(slowest, time.perf_counter() - started)
    taken("slowest simulated minute", slowest, 1.0)


def bench_answer() -> None:
    """An edit of one run on reviews of 1, 4 and 16 times the size, 12 rigs × 3 passes each."""
    parts: dict[str, list[float]] = {}
    for cases in (18, 75, 300):
        contents = wide_review(cases)
        review = contents.reviews["wide"]
        started = time.perf_counter()
        found = settle(contents, review, begun=begin(contents, review))
        parts.setdefault("from nothing", []).append(time.perf_counter() - started)
        gc.freeze()  # as the window does with a logbook that it has opened
        run = contents.runs["r3_c5_2"]
        each: dict[str, list[float]] = {}
        for number in range(1, 6):  # each time another edit: of one seen before much is remembered
            faster = (1.0 + 0.01 * number) * run.average_fps
            figures = run.figures.model_copy(update={"average_fps": faster})
            edited = contents.with_records(
                {"runs": {run.id: run.model_copy(update={"figures": figures})}}
            )
            rig = contents.rigs["r3"].model_copy(update={"name": f"Another name {number}"})
            renamed = contents.with_records({"rigs": {rig.id: rig}})
            before = [found]
            for name, work in (
                ("Board", lambda: begin(edited, review, found)),  # noqa: B023
                ("analysis", lambda: settle(edited, review, before=found, begun=before[-1])),  # noqa: B023
                ("whole fit", lambda: fit_whole(before[-1])),  # noqa: B023
                ("rename", lambda: begin(renamed, review, found)),  # noqa: B023
            ):
                started = time.perf_counter()
                before.append(work())
                each.setdefault(name, []).append(time.perf_counter() - started)
        for name, times in each.items():
            parts.setdefault(name, []).append(min(times))
    bars = {"Board": 0.050, "analysis": 0.300, "rename": 0.030}
    for name, (small, _, large) in parts.items():
        after = "" if name == "from nothing" else "an edit to "
        taken(f"10,800 runs: {after}{name}", large, bars.get(name))
        growth = large / small
        tell(Figure(f"16 × the runs: {after}{name}", growth, "×", high=16, noise=0.2 * growth))
    contents = wide_review(300)
    change = Change(id="x", at="2026-10-05T12:00:00", what="driver")
    noted = contents.with_records({"changes": {"x": change}})
    review = contents.reviews["wide"]
    found = settle(noted, review, begun=begin(noted, review))
    gc.freeze()
    run, times = contents.runs["r3_c5_2"], []
    for number in range(1, 6):
        figures = run.figures.model_copy(
            update={"average_fps": (1 + number / 100) * run.average_fps}
        )
        edited = noted.with_records({"runs": {run.id: run.model_copy(update={"figures": figures})}})
        started = time.perf_counter()
        begin(edited, review, found)
        times.append(time.perf_counter() - started)
    taken("10,800 runs, a Change noted: an edit to Board", min(times), 0.050)


# A folder dropped on a window that stands, dragged over it for so long before.
DROP = """
import sys, time
from pathlib import Path
from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDragEnterEvent, QDropEvent
folder, dragged_s = Path(sys.argv[1]), float(sys.argv[2])
def wait(holds):
    while not holds():
        app.processEvents()
        time.sleep(0.001)
window.desk.create(Path(sys.argv[3]))
wait(lambda: window.desk.snapshot is not None)
later = time.perf_counter() + 3
wait(lambda: time.perf_counter() > later)
data = QMimeData()
data.setUrls([QUrl.fromLocalFile(str(folder))])
how = Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
if dragged_s:
    window.dragEnterEvent(QDragEnterEvent(QPoint(9, 9), *how))
    later = time.perf_counter() + dragged_s
    wait(lambda: time.perf_counter() > later)
started = time.perf_counter()
window.dropEvent(QDropEvent(QPointF(9, 9), *how))
wait(lambda: window.taking.dialog is not None)
dialog = window.taking.dialog
wait(lambda: not dialog._progress)
taken = time.perf_counter() - started
assert all(file.figures for file in dialog._files)
print(taken, len(dialog._files), flush=True)
dialog.reject()
import os; os._exit(0)
"""


def bench_many_logs(folder: Path) -> None:
    """500 logs of 3,000 frames by the commands, against a loop of polars over the same files, and
    previewed in the window.
    """
    rng = np.random.default_rng(4)
    logs = folder / "logs"
    logs.mkdir()
    for number in range(500):
        times_ms = np.exp(rng.normal(2.6, 0.1, 3000))
        pl.DataFrame(
            {
                "elapsed s": np.round(np.cumsum(times_ms) / 1000, 5),
                "frame time ms": np.round(times_ms, 4),
                "card busy %": np.round(rng.normal(90, 3, 3000)),
                "card power W": np.round(rng.normal(150, 3, 3000), 1),
            }
        ).write_csv(logs / f"{number:03}.csv")
    paths = [str(path) for path in sorted(logs.iterdir())]
    loop = (
        "import polars as pl, sys\n"
        "for path in sys.argv[1:]: pl.read_csv(path)['frame time ms'].mean()"
    )
    command = [sys.executable, "-m", "blunt_ruler"]

    def run(*arguments: str) -> None:
        subprocess.run([*command, *arguments], check=True, capture_output=True)

    def import_all() -> None:
        (folder / "taken.blunt").unlink(missing_ok=True)
        run("import", str(folder / "taken.blunt"), *paths, "--rig", "R", "--case", "T / 1080p")

    metrics, imported, plain = best_s(
        lambda: run("metrics", "--json", *paths),
        import_all,
        lambda: run_python(loop, *paths),
        tries=3,
    )
    ratio("metrics of 500 logs", metrics, plain, 4, "a loop of polars")
    ratio("import of 500 logs", imported, plain, 6, "a loop of polars")
    for dragged_s, how in (
        (0.5, "dropped after half a second of dragging"),
        (0.0, "given at once"),
    ):
        times = []
        for number in range(3):
            book = str(folder / f"drop {dragged_s} {number}.blunt")
            done = run_python(START_OURS + DROP, str(logs), str(dragged_s), book)
            times.append(float(done.split()[0]))
        taken(f"a folder of 500 logs previewed, {how}", min(times), 2.0)


def bench_report(folder: Path) -> None:
    """The demo's report in every format."""
    with Logbook.open(copy_demo(folder / "written.blunt")) as book:
        contents, edits = book.contents(), book.edits()
    analysis = analyse(contents, contents.reviews["which-link"])
    started = time.perf_counter()
    files = write_files(analysis, edits, folder / "report")
    taken(f"the demo's report, {len(files)} files", time.perf_counter() - started, 4.0)


def bench_analysis(folder: Path) -> None:
    """What follows from the demo's review, each against building its Board; no bar is set."""
    with Logbook.open(copy_demo(folder / "analysed.blunt")) as book:
        contents, edits = book.contents(), book.edits()
    review = contents.reviews["which-link"]
    analysis = analyse(contents, review)
    board, checked, limits, worth, composed = best_s(
        lambda: build_board(contents, review),
        lambda: check_runs(contents, None, review.thresholds),
        lambda: derive_limits(contents, analysis.board, {}),
        lambda: derive_worth(contents, analysis.board),
        lambda: compose(analysis, edits),
        tries=3,
    )
    parts = (("checks", checked), ("limits", limits), ("worth", worth), ("write-up", composed))
    for name, seconds in (("Board", board), *parts):
        taken(f"the demo from nothing: {name}", seconds)


def bench_fit() -> None:
    """A fit of 3,000 cells from nothing, and the answer to one more cell."""
    rng = np.random.default_rng(3)
    links = {f"l{n}": FittedLink(f"l{n}", 1.5 * 2**n, 0.03, 0.02) for n in range(5)}
    asks = np.exp(rng.normal(np.log([6.0, 3.0, 1.4, 6.0, 14.0]), 0.4, (100, 5)))
    cells = []
    for family, (cpu, fixed, each, fetch, upload) in enumerate(asks):
        for link in links.values():
            for host, slow in (("h0", 1.0), ("h1", 1.3)):
                for size in (2.07, 3.69, 8.29):
                    draws = fixed + each * size + fetch / link.gb_per_s
                    ms = max(cpu * slow, draws, upload / link.gb_per_s)
                    cells.append(
                        Cell(
                            *(f"{host} {link.name}", f"{family} {size}", str(family), size),
                            *(host, "card", link.name),
                            1000.0 / ms * float(np.exp(rng.normal(0.0, 0.01))),
                            0.013,
                        )
                    )
    measured = Measured(tuple(cells), links, "h0", "card", {})
    started = time.perf_counter()
    fit = fit_limits(measured)
    cold = time.perf_counter() - started
    first = replace(cells[0], average_fps=1.05 * cells[0].average_fps)
    changed = replace(measured, cells=(first, *cells[1:]))
    started = time.perf_counter()
    fit_limits(changed, fit, quick=True)
    warm = time.perf_counter() - started
    taken(f"a fit of {len(cells)} cells from nothing", cold, 2.0)
    taken("one changed cell of these answered", warm, 0.150)


def main(names: list[str]) -> None:
    rng = np.random.default_rng(1)
    times_ms = np.exp(rng.normal(2.6, 0.15, FRAMES)) * (1 + 2 * (rng.random(FRAMES) < 0.002))
    # An installed package is compiled; a checkout is not until it has run once.
    compileall.compile_dir(Path(blunt_ruler.__file__).parent, quiet=1)
    with tempfile.TemporaryDirectory() as text:
        folder = Path(text)
        for home in HOMES:
            os.environ[home] = text
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
        works = {
            "metrics": lambda: bench_metrics(times_ms),
            "import": lambda: bench_import(times_ms, folder),
            "logbook": lambda: bench_logbook(times_ms, folder),
            "start": lambda: bench_start(folder),
            "memory": lambda: bench_memory(folder),
            "scroll": bench_scroll,
            "simulator": bench_simulator,
            "analysis": lambda: bench_analysis(folder),
            "answer": bench_answer,
            "logs": lambda: bench_many_logs(folder),
            "report": lambda: bench_report(folder),
            "fit": bench_fit,
        }
        for name in names or works:  # by their names, or all
            works[name]()


if __name__ == "__main__":
    main(sys.argv[1:])
