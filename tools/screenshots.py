"""Take the pictures of docs/screenshots from the demo data, at 1280 × 800.

Runs on Qt's offscreen platform, so that it needs no display. `--out` and `--size` serve for
looking at other sizes; `--only` takes some of the pictures.
"""

import argparse
import os
import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import Any, TypeAlias

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QElapsedTimer, QItemSelectionModel, Qt
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QApplication, QWidget

from blunt_ruler.core.board.lenses import Lens
from blunt_ruler.core.rigs.strip import Place
from blunt_ruler.demo.shipped import copy_demo
from blunt_ruler.ui.desk.jobs import Jobs
from blunt_ruler.ui.desk.settings import Settings
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.grid_editor import Way
from blunt_ruler.ui.shell.app import make_app
from blunt_ruler.ui.shell.window import MainWindow

Pose: TypeAlias = Callable[[MainWindow, Path], QWidget]
"""Brings a fresh window to what is pictured; gives the widget to take."""


def wait_until(ready: Callable[[], bool], within_ms: int = 90_000) -> None:
    """Let the window work until something holds."""
    timer = QElapsedTimer()
    timer.start()
    while not ready():
        QApplication.processEvents()
        if timer.elapsed() > within_ms:
            raise TimeoutError("the window did not get there")
    for _ in range(5):
        QApplication.processEvents()


def settle(window: MainWindow) -> None:
    """Wait until the review is analysed and nothing is under way."""

    def settled() -> bool:
        snapshot = window.desk.snapshot
        analysis = snapshot.analysis if snapshot else None
        return bool(analysis and analysis.settled) and not any(
            jobs._running for jobs in window.findChildren(Jobs)
        )

    wait_until(settled)


def shown(window: MainWindow, name: str, page: str = "") -> Any:
    """A stop of the rail, on one of its pages."""
    window.go_to(name)
    stop = window.controllers[name].stop
    if page:
        stop.show_page(page)
    settle(window)
    return stop


@contextmanager
def demo_window(folder: Path, size: tuple[int, int]) -> Iterator[MainWindow]:
    """The window on a fresh copy of the demo."""
    settings = Settings()
    settings.stop = "Board"  # not where the last picture was taken
    window = MainWindow(settings)
    window.resize(*size)
    window.show()
    window.desk.open(copy_demo(folder / "demo.blunt"))
    settle(window)
    try:
        yield window
    finally:
        window.close()
        (folder / "demo.blunt").unlink()


def simulated_logs(folder: Path) -> list[Path]:
    """Three logs of one case on three rigs, in three recorders' habits."""
    from blunt_ruler.bench.log_files import HABITS, write_log
    from blunt_ruler.bench.simulator import Setting, play_run
    from blunt_ruler.bench.specs import bench_rigs, bench_titles

    setting = Setting(bench_titles()["Glass Orchard"], "1440p", "High", 20.0)
    return [
        write_log(
            folder / f"{name.lower().replace(' ', '-')}_glass-orchard_1440p.csv",
            play_run(bench_rigs()[name], setting, seed=5),
            HABITS[habit],
        )
        for name, habit in (
            ("Built-in iG-6", "decimal comma"),
            ("Sluice Marram 12", "plain"),
            ("Workbench Marram 12", "running clock"),
        )
    ]


def stop(name: str, page: str = "") -> Pose:
    def pose(window: MainWindow, _folder: Path) -> QWidget:
        shown(window, name, page)
        return window

    return pose


def board(lens: Lens, review: str = "which-link") -> Pose:
    def pose(window: MainWindow, _folder: Path) -> QWidget:
        window.desk.choose_review(review)
        shown(window, "Board")
        window.controllers["Board"].show_lens(lens)
        settle(window)
        return window

    return pose


TYPED = (
    ("Built-in", "Sluice", "Tower, published by Harbour Quarterly"),
    (
        ("Tidewrack / coast run / 1080p / High", ("27", "69.5 70.4", "106")),
        ("Ninefold Siege / turn 200 / 1080p / Max", ("28-30", "~70", "")),
        ("Copper Meridian / night lap / 1080p / High", ("38", "", "")),
    ),
)


def typing(window: MainWindow, folder: Path) -> QWidget:
    """A Board that is being typed into, of a logbook begun by typing."""
    window.desk.create(folder / "typed.blunt")
    settle(window)
    cells = shown(window, "Board").cells
    rigs, rows = TYPED
    for rig in rigs:
        cells.typing.open_rig(rig)
        cells.typing.editor.finish(Way.STAY)
    for case, _ in rows:
        cells.typing.open_case(case)
        cells.typing.editor.finish(Way.STAY)
    settle(window)
    for row, (_, entries) in enumerate(rows):
        for column, entry in enumerate(entries):
            if entry:
                cells.typing.open_cell(cells.model.index(row, column), entry)
                cells.typing.editor.finish(Way.STAY)
                settle(window)
    cells.table.setCurrentIndex(cells.model.index(2, 1))
    cells.typing.open_cell(cells.model.index(2, 1), "89.4/77 90.1 ~91")
    return window


def limits(page: str, review: str = "which-link") -> Pose:
    def pose(window: MainWindow, _folder: Path) -> QWidget:
        window.desk.choose_review(review)
        stop = shown(window, "Limits", page)
        stop.chosen.choose("sluice-marram-12", "tidewrack-1080p")
        if page == "What if":
            preset = stop.page(page).preset
            preset.setCurrentIndex(4)
            preset.activated.emit(4)
        settle(window)
        return window

    return pose


def runs(page: str) -> Pose:
    def pose(window: MainWindow, _folder: Path) -> QWidget:
        stop = shown(window, "Runs")
        kept = window.desk.snapshot.contents.runs.values()
        stop.show_run(next(run for run in kept if "menu" in run.reason).id)
        stop.show_page(page)
        settle(window)
        made = stop.page(page)
        if page == "All runs":
            wait_until(lambda: made.panel is not None and made._trace is not None)
            made.panel.propose_trim()
            wait_until(lambda: made._cut is not None)
        if page == "At work":
            wait_until(lambda: made.going is not None)
            made.take_run()
            wait_until(lambda: not made.taker.is_running)
            settle(window)
        return window

    return pose


def import_logs(window: MainWindow, folder: Path) -> QWidget:
    window.taking.import_logs(simulated_logs(folder))
    wait_until(lambda: window.taking.dialog is not None)
    dialog = window.taking.dialog
    wait_until(lambda: dialog.go.isEnabled() or bool(dialog.problem.text()))
    dialog.case_for_all.setCurrentText("Glass Orchard / mirror walk / 1440p / High")
    return dialog


def recording(window: MainWindow, folder: Path) -> QWidget:
    window.taking.read_demo()
    wait_until(lambda: window.taking.recording is not None)
    dialog = window.taking.recording
    wait_until(lambda: dialog._job is None and dialog._facts is not None)
    dialog.count.setChecked(True)
    dialog.read.click()
    wait_until(lambda: dialog._job is None)
    dialog.rig.setEditText("Built-in iG-6")
    dialog.case.setEditText("Tidewrack / coast run / 1440p / High")
    dialog.strip.look_at(8.0)
    wait_until(lambda: not dialog._fetching and not dialog._soon.isActive())
    return dialog


def worth(page: str, rig_id: str = "groyne-marram-12") -> Pose:
    def pose(window: MainWindow, _folder: Path) -> QWidget:
        stop = shown(window, "Worth", page)
        stop.chosen.choose(rig_id)
        if page == "Verdict":
            said = stop.page(page).said
            said.setCurrentIndex(said.model().index(5, 0))
        return window

    return pose


def write_up(page: str = "Preview") -> Pose:
    def pose(window: MainWindow, _folder: Path) -> QWidget:
        stop = shown(window, "Write-up", page)
        wait_until(lambda: bool(stop.page("Preview")._said))
        settle(window)
        if page == "Preview":
            stop.preview.choose_sentence("verdict.rig.groyne-marram-12")
        stop.export.setFocus()
        return window

    return pose


def export(window: MainWindow, folder: Path) -> QWidget:
    write_up()(window, folder)
    controller = window.controllers["Write-up"]
    controller._folder = Path("Which link report")
    controller.stop.export.click()
    return controller.dialog


def all_actions(window: MainWindow, _folder: Path) -> QWidget:
    shown(window, "Board")
    window.palette_list.open()
    return window


def bench(page: str, *rig_ids: str, place: Place = Place.LINK) -> Pose:
    def pose(window: MainWindow, _folder: Path) -> QWidget:
        stop = shown(window, "Bench")
        stop.choose_rig(rig_ids[0], place)
        selection, rows = stop.rigs.selectionModel(), stop.rigs.grid.rows
        for at, row in enumerate(rows):
            if row.rig_id in rig_ids[1:]:
                flags = QItemSelectionModel.SelectionFlag
                selection.select(stop.rigs.grid.index(at, 0), flags.Select | flags.Rows)
        stop.show_page(page)
        settle(window)
        if page == "Machine":
            machine = stop.page(page)
            machine.stand_in.setCurrentText("quillon-cord-two-lanes")
            machine.watch.setChecked(True)
            wait_until(lambda: bool(machine.strip.toPlainText()))
            machine.watch.setChecked(False)
        return window

    return pose


def references(window: MainWindow, _folder: Path) -> QWidget:
    """The smaller card in a tower beside the larger one, and a figure that others published."""
    from blunt_ruler.core.records.edits import one_more_reference

    stop = shown(window, "Board")
    for rig_id in ("breakwater-marram-12", "groyne-marram-12"):
        snapshot = window.desk.snapshot
        window.desk.apply(one_more_reference(snapshot.contents, snapshot.review, rig_id))
        settle(window)
    stop.show_page("References")
    settle(window)
    return window


def hands_free(window: MainWindow, folder: Path) -> QWidget:
    """After the second pass of a case, with a made-up program to start it."""
    from blunt_ruler.core.analysis.hands_free import tell
    from blunt_ruler.core.plan.matrix import plan_of

    page = shown(window, "Runs", "Hands free").page("Hands free")
    snapshot = window.desk.snapshot
    contents, analysis = snapshot.contents, snapshot.analysis
    title = contents.titles[contents.cases[page.going.case_id].title_id]
    command = f"/usr/bin/env {title.name.lower().replace(' ', '-')} --benchmark coast --log inbox"
    changed = title.model_copy(update={"start_command": command})
    window.desk.edit("command", lambda _book, _contents: {"titles": {title.id: changed}})
    settle(window)
    wait_until(page.command.allowed.isEnabled)
    page.command.allowed.click()
    page.machine.setCurrentText("read this machine")
    page.show_folder(Path("captures"))
    run = contents.runs["groyne-marram-12_tidewrack-1080p_2"]
    plan = plan_of(contents, snapshot.review)
    told = tell(contents, analysis.board, analysis.checked, plan, run, 2)
    page._say(replace(told, then=page.line()))
    page.bar.setValue(1000)
    return window


def plan(page: str, hours: str = "") -> Pose:
    def pose(window: MainWindow, _folder: Path) -> QWidget:
        stop = shown(window, "Plan", page)
        stop.hours.setText(hours)
        stop.hours.editingFinished.emit()
        settle(window)
        stop.show_page(page)
        return window

    return pose


SAID = """# Tidewrack

In Tidewrack at 1080p the Sluice averages 69 fps, against 28 on the built-in graphics and 107
in the tower. It loses 53 % there. At 4K it drops to 35 fps, so the loss shrinks to 14 %.
The 1% lows are 69 fps at 1080p.

# Over all games

The Sluice is 270 % faster than the built-in graphics, and it is faster in all six titles.
The tower keeps a lead of 33 %. There is no difference between the Sluice and the Groyne.
A wider link would be 10 % faster.
"""


def script(window: MainWindow, _folder: Path) -> QWidget:
    """A script with slips in it."""
    page = shown(window, "Write-up", "Script").script
    page.sheet.setPlainText(SAID)
    wait_until(lambda: page._checked == page.sheet.toPlainText())
    page.step(1)
    settle(window)
    return window


def charts(window: MainWindow, _folder: Path) -> QWidget:
    """The charts of a video, one of them chosen."""
    page = shown(window, "Write-up", "Charts").charts
    wait_until(lambda: page.tray.count() > 4)
    page.tray.setCurrentRow(4)
    settle(window)
    return window


def trouble(window: MainWindow, _folder: Path) -> QWidget:
    """A trouble after three answers."""
    stop = shown(window, "Bench", "Trouble")
    stop.choose_rig("groyne-marram-12")
    page = stop.page("Trouble")
    page.seen.setCurrentText("the link has fewer lanes or a lower generation than described")
    page.when.setCurrentText("at start")
    page.note()
    settle(window)
    for answer in (True, False, False):
        page.answer(answer)
        settle(window)
    return window


PICTURES: dict[str, tuple[Pose, theme.ThemeName]] = {
    "board": (board(Lens.RATE), theme.ThemeName.PAPER),
    "board-slate": (board(Lens.RATE), theme.ThemeName.SLATE),
    "board-typing": (typing, theme.ThemeName.PAPER),
    "board-gain": (board(Lens.GAIN), theme.ThemeName.PAPER),
    "board-card": (board(Lens.LOSS, "which-card"), theme.ThemeName.PAPER),
    "board-scaling": (stop("Board", "Scaling"), theme.ThemeName.PAPER),
    "board-playable": (stop("Board", "Playable"), theme.ThemeName.PAPER),
    "board-link": (stop("Board", "Link"), theme.ThemeName.PAPER),
    "board-references": (references, theme.ThemeName.PAPER),
    "board-scores": (stop("Board", "Scores"), theme.ThemeName.PAPER),
    "limits": (limits("Cells"), theme.ThemeName.PAPER),
    "limits-slate": (limits("Cells"), theme.ThemeName.SLATE),
    "limits-loss": (limits("Loss"), theme.ThemeName.PAPER),
    "limits-what-if": (limits("What if"), theme.ThemeName.PAPER),
    "limits-ceiling": (limits("Ceiling", "which-card"), theme.ThemeName.PAPER),
    "limits-next": (limits("Next test"), theme.ThemeName.PAPER),
    "runs-work": (runs("At work"), theme.ThemeName.PAPER),
    "runs-hands-free": (hands_free, theme.ThemeName.PAPER),
    "runs-hands-free-slate": (hands_free, theme.ThemeName.SLATE),
    "runs": (runs("All runs"), theme.ThemeName.PAPER),
    "runs-slate": (runs("All runs"), theme.ThemeName.SLATE),
    "runs-findings": (runs("Findings"), theme.ThemeName.PAPER),
    "runs-thresholds": (runs("Thresholds"), theme.ThemeName.PAPER),
    "import": (import_logs, theme.ThemeName.PAPER),
    "recording": (recording, theme.ThemeName.PAPER),
    "recording-slate": (recording, theme.ThemeName.SLATE),
    "write-up": (write_up(), theme.ThemeName.PAPER),
    "all-actions": (all_actions, theme.ThemeName.PAPER),
    "bench": (bench("Shelf", "sluice-marram-12"), theme.ThemeName.PAPER),
    "bench-slate": (bench("Shelf", "groyne-marram-12"), theme.ThemeName.SLATE),
    "bench-ladder": (bench("Ladder", "sluice-marram-12"), theme.ThemeName.PAPER),
    "bench-ladders": (
        bench("Ladder", "sluice-marram-12", "groyne-marram-12", "workbench-marram-12"),
        theme.ThemeName.SLATE,
    ),
    "bench-fit": (
        bench("Shelf", "sluice-marram-16", place=Place.DOCK),
        theme.ThemeName.PAPER,
    ),
    "bench-changes": (bench("Changes", "groyne-marram-12"), theme.ThemeName.PAPER),
    "bench-dial": (bench("Dial", "workbench-marram-12"), theme.ThemeName.PAPER),
    "bench-preflight": (bench("Pre-flight", "groyne-marram-12"), theme.ThemeName.PAPER),
    "bench-machine": (bench("Machine", "groyne-marram-12"), theme.ThemeName.PAPER),
    "plan": (plan("Matrix", "3"), theme.ThemeName.PAPER),
    "plan-order": (plan("Order"), theme.ThemeName.SLATE),
    "plan-times": (plan("Times"), theme.ThemeName.PAPER),
    "worth": (worth("Value"), theme.ThemeName.PAPER),
    "worth-prices": (worth("Prices"), theme.ThemeName.PAPER),
    "worth-running": (worth("Running"), theme.ThemeName.PAPER),
    "worth-verdict": (worth("Verdict"), theme.ThemeName.PAPER),
    "worth-slate": (worth("Value"), theme.ThemeName.SLATE),
    "write-up-slate": (write_up(), theme.ThemeName.SLATE),
    "write-up-disclosures": (write_up("Disclosures"), theme.ThemeName.PAPER),
    "write-up-points": (write_up("For and against"), theme.ThemeName.PAPER),
    "write-up-narration": (write_up("Narration"), theme.ThemeName.PAPER),
    "export": (export, theme.ThemeName.PAPER),
    "script": (script, theme.ThemeName.PAPER),
    "script-slate": (script, theme.ThemeName.SLATE),
    "charts": (charts, theme.ThemeName.PAPER),
    "trouble": (trouble, theme.ThemeName.PAPER),
    "trouble-slate": (trouble, theme.ThemeName.SLATE),
}
IN_DOCS = (
    *("board", "board-typing", "board-scores", "board-link"),
    *("runs", "import", "recording", "write-up", "script", "charts"),
    *("limits", "limits-what-if", "worth", "worth-verdict"),
    *("bench", "bench-ladder", "trouble", "runs-findings", "plan"),
)
DOCS = Path("docs/screenshots")
HELP, HELP_WIDTH = Path("src/blunt_ruler/help/pictures"), 640
IN_HELP = ("bench", "plan", "runs", "board", "limits", "worth", "write-up")


def main() -> None:
    """Take the pictures that were asked for, and small ones for the help pages."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--out", type=Path, default=DOCS)
    parser.add_argument("--size", default="1280x800")
    parser.add_argument("--only", nargs="*", choices=PICTURES, default=IN_DOCS)
    options = parser.parse_args()
    size = tuple(int(part) for part in options.size.split("x"))
    options.out.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as text:
        folder = Path(text)
        os.environ["XDG_CONFIG_HOME"] = text
        app = make_app(["screenshots"])
        for name in options.only:
            pose, theme_name = PICTURES[name]
            theme.apply_theme(app, theme.wanted_theme(theme_name))
            with demo_window(folder, size) as window:
                posed = pose(window, folder)
                wait_until(lambda: True)
                picture = options.out / f"{name}.png"
                posed.grab().save(str(picture))
                if posed is not window:
                    posed.close()
                print(picture)
                if name in IN_HELP and options.out == DOCS:
                    small = (
                        posed.grab()
                        .toImage()
                        .scaledToWidth(HELP_WIDTH, Qt.TransformationMode.SmoothTransformation)
                    )
                    small.convertToFormat(QImage.Format.Format_RGB888).save(
                        str(HELP / f"{name}.png"), quality=0
                    )


if __name__ == "__main__":
    main()
