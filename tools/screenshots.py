"""Take the pictures of docs/screenshots from the demo data, at 1280 × 800.

Runs on Qt's offscreen platform, so that it needs no display. `--out` and `--size` serve for
looking at other sizes; `--only` takes some of the pictures.
"""

import argparse
import os
import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QElapsedTimer, Qt
from PyQt6.QtWidgets import QApplication, QWidget

from blunt_ruler.core.board.lenses import Lens
from blunt_ruler.demo.builder import copy_demo
from blunt_ruler.ui import theme
from blunt_ruler.ui.app import make_app
from blunt_ruler.ui.settings import Settings
from blunt_ruler.ui.window import MainWindow


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


def analysed(window: MainWindow) -> None:
    wait_until(lambda: window.desk.analysis is not None and not window.desk.checks._running)


@contextmanager
def demo_window(folder: Path, size: tuple[int, int]) -> Iterator[MainWindow]:
    """The window on a fresh copy of the demo."""
    settings = Settings()
    settings.stop = "Board"  # not where the last picture was taken
    window = MainWindow(settings)
    window.resize(*size)
    window.show()
    window.desk.open(copy_demo(folder / "demo.blunt"))
    analysed(window)
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


def board(window: MainWindow, _folder: Path) -> QWidget:
    window.go_to("Board")
    return window


def board_gain(window: MainWindow, _folder: Path) -> QWidget:
    window.go_to("Board")
    window.board.show_lens(Lens.GAIN)
    return window


def board_page(name: str) -> Callable[[MainWindow, Path], QWidget]:
    def pose(window: MainWindow, _folder: Path) -> QWidget:
        window.go_to("Board")
        window.board.show_page(name)
        return window

    return pose


def limits(page: str, review: str = "which-link") -> Callable[[MainWindow, Path], QWidget]:
    def pose(window: MainWindow, _folder: Path) -> QWidget:
        if review != "which-link":
            window.desk.choose_review(review)
            wait_until(lambda: window.desk.spread.review.id == review)
        wait_until(
            lambda: (
                window.desk.limits is not None
                and window.desk.limits.board.review.id == review
                and not window.desk.checks._running
            )
        )
        window.go_to("Limits")
        window.limits.show_page(page)
        window.limits.choose("sluice-marram-12", "tidewrack-1080p")
        if page == "What if":
            window.limits.what_if.preset.setCurrentIndex(4)
            window.limits.what_if._on_preset(4)
        return window

    return pose


def board_card(window: MainWindow, _folder: Path) -> QWidget:
    window.desk.choose_review("which-card")
    wait_until(lambda: window.desk.spread.review.id == "which-card")
    window.board.show_lens(Lens.LOSS)
    return window


def runs(page: str) -> Callable[[MainWindow, Path], QWidget]:
    def pose(window: MainWindow, _folder: Path) -> QWidget:
        window.go_to("Runs")
        stop = window.runs
        wait_until(lambda: bool(stop.list.checked.findings) and stop.work.going is not None)
        faulty = next(line.run for line in stop.list.model.lines if "menu" in line.run.reason)
        stop.show_run(faulty.id)
        wait_until(lambda: stop.list.panel is not None)
        stop.show_page(page)
        if page == "All runs":
            stop.list.panel.propose_trim()
            wait_until(lambda: stop.list._cut is not None)
        if page == "At work":
            stop.take_next()
            wait_until(lambda: not stop.work.taker.is_running)
            wait_until(lambda: not window.desk.jobs._running and stop.work._plot is not None)
            wait_until(lambda: not stop.work.jobs._running)
        if page == "Type in":
            stop.typing.begin("Built-in iG-6", "Low Lantern / harbour night / 1080p / High")
            QApplication.clipboard().setText(
                "Built-in iG-6\tSkitter / bot match / 1080p / Low\t79,2\t58,1\n"
                "Sluice Marram 12\tSkitter / bot match / 1080p / Low\t58.1\t191\n"
                "Groyne Marram 12\tTidewrack / coast run / 1080p / High\t9O.2"
            )
            stop.typing.grid.setCurrentCell(1, 0)
            stop.typing.paste_rows()
        return window

    return pose


def import_logs(window: MainWindow, folder: Path) -> QWidget:
    window.import_logs(simulated_logs(folder))
    dialog = window.import_dialog
    wait_until(lambda: dialog.go.isEnabled() or bool(dialog.problem.text()))
    dialog.case_for_all.setCurrentText("Glass Orchard / mirror walk / 1440p / High")
    return dialog


def worth(page: str, rig_id: str = "groyne-marram-12") -> Callable[[MainWindow, Path], QWidget]:
    def pose(window: MainWindow, _folder: Path) -> QWidget:
        window.go_to("Worth")
        window.worth.show_page(page)
        window.worth.choose(rig_id)
        if page == "Verdict":
            window.worth.verdict.said.setCurrentItem(window.worth.verdict.said.topLevelItem(5))
        return window

    return pose


def write_up(page: str = "Preview") -> Callable[[MainWindow, Path], QWidget]:
    def pose(window: MainWindow, _folder: Path) -> QWidget:
        window.go_to("Write-up")
        window.writeup.show_page(page)
        deeds = window.writeup_deeds
        wait_until(lambda: bool(window.writeup._said) and not deeds.jobs._running)
        window.writeup.choose_sentence("verdict.rig.groyne-marram-12")
        window.writeup.export.setFocus()
        return window

    return pose


def export(window: MainWindow, folder: Path) -> QWidget:
    write_up()(window, folder)
    window.writeup_deeds._folder = Path("Which link report")
    window.writeup.export.click()
    return window.writeup_deeds.dialog


def all_actions(window: MainWindow, _folder: Path) -> QWidget:
    window.go_to("Board")
    window.palette_list.open()
    return window


def bench(page: str, *rig_ids: str) -> Callable[[MainWindow, Path], QWidget]:
    def pose(window: MainWindow, _folder: Path) -> QWidget:
        window.go_to("Bench")
        stop = window.bench
        stop.choose_rig(rig_ids[0])
        for row in range(stop.rigs.count()):
            item = stop.rigs.item(row)
            item.setSelected(item.data(Qt.ItemDataRole.UserRole) in rig_ids)
        stop.show_page(page)
        if page == "Machine":
            stop.machine_page.stand_in.setCurrentText("quillon-cord-two-lanes")
            stop.machine_page.watch.setChecked(True)
            wait_until(lambda: bool(stop.machine_page.strip.toPlainText()))
            stop.machine_page.watch.setChecked(False)
        return window

    return pose


def plan(page: str, hours: str = "") -> Callable[[MainWindow, Path], QWidget]:
    def pose(window: MainWindow, _folder: Path) -> QWidget:
        window.go_to("Plan")
        stop = window.plan
        stop.hours.setText(hours)
        stop.hours.editingFinished.emit()
        stop.show_page(page)
        wait_until(lambda: not stop.jobs._running)
        return window

    return pose


PICTURES: dict[str, tuple[Callable[[MainWindow, Path], QWidget], theme.ThemeName]] = {
    "board": (board, theme.ThemeName.PAPER),
    "board-slate": (board, theme.ThemeName.SLATE),
    "board-gain": (board_gain, theme.ThemeName.PAPER),
    "board-card": (board_card, theme.ThemeName.PAPER),
    "board-scaling": (board_page("Scaling"), theme.ThemeName.PAPER),
    "board-playable": (board_page("Playable"), theme.ThemeName.PAPER),
    "board-scores": (board_page("Scores"), theme.ThemeName.PAPER),
    "limits": (limits("Cells"), theme.ThemeName.PAPER),
    "limits-slate": (limits("Cells"), theme.ThemeName.SLATE),
    "limits-loss": (limits("Loss"), theme.ThemeName.PAPER),
    "limits-what-if": (limits("What if"), theme.ThemeName.PAPER),
    "limits-ceiling": (limits("Ceiling", "which-card"), theme.ThemeName.PAPER),
    "limits-next": (limits("Next test"), theme.ThemeName.PAPER),
    "runs-work": (runs("At work"), theme.ThemeName.PAPER),
    "runs": (runs("All runs"), theme.ThemeName.PAPER),
    "runs-slate": (runs("All runs"), theme.ThemeName.SLATE),
    "runs-findings": (runs("Findings"), theme.ThemeName.PAPER),
    "runs-typing": (runs("Type in"), theme.ThemeName.PAPER),
    "runs-thresholds": (runs("Thresholds"), theme.ThemeName.PAPER),
    "import": (import_logs, theme.ThemeName.PAPER),
    "write-up": (write_up(), theme.ThemeName.PAPER),
    "all-actions": (all_actions, theme.ThemeName.PAPER),
    "bench-rig": (bench("Rig", "sluice-marram-12"), theme.ThemeName.PAPER),
    "bench-ladder": (bench("Ladder", "sluice-marram-12"), theme.ThemeName.PAPER),
    "bench-ladders": (
        bench("Ladder", "sluice-marram-12", "groyne-marram-12", "workbench-marram-12"),
        theme.ThemeName.SLATE,
    ),
    "bench-fit": (bench("Fit", "sluice-marram-16"), theme.ThemeName.PAPER),
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
    "write-up-narration": (write_up("Narration"), theme.ThemeName.PAPER),
    "export": (export, theme.ThemeName.PAPER),
}
IN_DOCS = (
    *("board", "board-slate", "board-playable", "runs", "runs-work", "import", "write-up"),
    *("limits", "limits-what-if", "worth", "worth-verdict"),
    *("bench-rig", "bench-ladder", "bench-fit", "bench-preflight"),
    *("runs-findings", "bench-machine", "plan", "plan-order"),
)


def main() -> None:
    """Take the pictures that were asked for."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--out", type=Path, default=Path("docs/screenshots"))
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


if __name__ == "__main__":
    main()
