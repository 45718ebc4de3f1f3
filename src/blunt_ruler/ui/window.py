"""The main window: the rail, the stops, the actions, and the Desk between them."""

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QUrl, pyqtSignal
from PyQt6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent
from PyQt6.QtWidgets import (
    QApplication,
    QFileDialog,
    QHBoxLayout,
    QMainWindow,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from blunt_ruler.core.analysis.rail_states import STOPS, stop_states
from blunt_ruler.core.board.lenses import Lens
from blunt_ruler.ui import settings as remembered
from blunt_ruler.ui import theme
from blunt_ruler.ui.actions import make_actions
from blunt_ruler.ui.columns import restore_columns, store_columns
from blunt_ruler.ui.command_palette import CommandPalette
from blunt_ruler.ui.desk import Desk, Snapshot
from blunt_ruler.ui.jobs import Jobs
from blunt_ruler.ui.logbook_menu import logbook_menu
from blunt_ruler.ui.notices import Banner, WorkStrip
from blunt_ruler.ui.rail import Rail
from blunt_ruler.ui.welcome import WelcomeStop
from blunt_ruler.ui.widgets import Stop

if TYPE_CHECKING:
    from blunt_ruler.ui.bench.view import BenchStop
    from blunt_ruler.ui.board.view import BoardStop
    from blunt_ruler.ui.limits.view import LimitsStop
    from blunt_ruler.ui.plan.view import PlanStop
    from blunt_ruler.ui.runs.view import RunsStop
    from blunt_ruler.ui.worth.view import WorthStop
    from blunt_ruler.ui.writeup.view import WriteUpStop

LOGBOOK_FILTER = "Blunt Ruler logbooks (*.blunt)"
LOG_FILTER = "Frame logs (*.csv *.tsv *.txt *.log *.gz);;All files (*)"


class MainWindow(QMainWindow):
    """Everything on screen.

    Signals:
        theme_changed(): other colours are in use; what keeps its own must take them on.
    """

    theme_changed = pyqtSignal()

    def __init__(self, settings: remembered.Settings) -> None:
        super().__init__()
        self.setWindowTitle("Blunt Ruler")
        self.setMinimumSize(1024, 700)
        self.resize(1280, 800)
        self.setAcceptDrops(True)
        self.settings = settings
        self.desk = Desk(self)
        self.rail = Rail()
        self.banner = Banner()
        self.work = WorkStrip(self.desk.jobs)
        self.stack = QStackedWidget()
        self.welcome = WelcomeStop()
        self.stack.addWidget(self.welcome)
        self._stops: dict[str, Stop] = {}
        self._stale: set[str] = set()  # built, not on screen, and behind what lies on the desk
        self.current_stop = settings.stop if settings.stop in STOPS else "Board"
        self._waiting_logs: list[Path] = []
        self._lay_out()
        self.actions_by_name = make_actions(self)
        self.palette_list = CommandPalette(self, list(self.actions_by_name.values()))
        self._connect()
        self.show_spread(None)

    def _lay_out(self) -> None:
        middle = QVBoxLayout()
        middle.setContentsMargins(0, 0, 0, 0)
        middle.setSpacing(0)
        middle.addWidget(self.banner)
        middle.addWidget(self.stack, 1)
        middle.addWidget(self.work)
        around = QHBoxLayout()
        around.setContentsMargins(0, 0, 0, 0)
        around.setSpacing(0)
        around.addWidget(self.rail)
        around.addLayout(middle, 1)
        whole = QWidget()
        whole.setLayout(around)
        self.setCentralWidget(whole)

    # Stops are built, and what they need is imported, when they are first shown

    @property
    def bench(self) -> "BenchStop":
        """The Bench."""
        return self._stop("Bench")  # type: ignore[return-value]

    @property
    def plan(self) -> "PlanStop":
        """The Plan."""
        return self._stop("Plan")  # type: ignore[return-value]

    @property
    def board(self) -> "BoardStop":
        """The Board."""
        return self._stop("Board")  # type: ignore[return-value]

    @property
    def limits(self) -> "LimitsStop":
        """The Limits."""
        return self._stop("Limits")  # type: ignore[return-value]

    @property
    def runs(self) -> "RunsStop":
        """The list of runs."""
        return self._stop("Runs")  # type: ignore[return-value]

    @property
    def worth(self) -> "WorthStop":
        """The Worth."""
        return self._stop("Worth")  # type: ignore[return-value]

    @property
    def writeup(self) -> "WriteUpStop":
        """The Write-up."""
        return self._stop("Write-up")  # type: ignore[return-value]

    def _stop(self, name: str) -> Stop:
        """A stop, built when it is first asked for and brought up to date when it is needed."""
        if name in self._stale:
            self._stale.discard(name)
            self._stops[name].show_spread(self.desk.spread)
        if name not in self._stops:
            builders = {
                "Bench": self._build_bench,
                "Plan": self._build_plan,
                "Board": self._build_board,
                "Runs": self._build_runs,
                "Limits": self._build_limits,
                "Worth": self._build_worth,
                "Write-up": self._build_writeup,
            }
            stop = builders[name]()
            stop.show_spread(self.desk.spread)
            self.stack.addWidget(stop)
            restore_columns(stop, self.settings)
            self._stops[name] = stop
        return self._stops[name]

    def _build_bench(self) -> Stop:
        from blunt_ruler.ui.bench import deeds, view

        bench = view.BenchStop()
        self.bench_deeds = deeds.BenchDeeds(bench, self.desk, self.banner)
        return bench

    def _build_plan(self) -> Stop:
        from blunt_ruler.ui.plan import view

        plan = view.PlanStop()
        plan.edit_requested.connect(lambda label, records: self.desk.commit(label, put=records))
        plan.error_raised.connect(self.banner.show_error)
        plan.notice_raised.connect(self.banner.show_said)
        self.work.watch(plan.jobs)
        return plan

    def _build_board(self) -> Stop:
        from blunt_ruler.ui.board import view

        board = view.BoardStop()
        board.import_requested.connect(self.ask_import)
        board.role_requested.connect(self.desk.give_role)
        board.rename_requested.connect(self.desk.rename_rig)
        board.decision_requested.connect(self.desk.decide)
        board.review_changed.connect(lambda review, words: self.desk.commit(words, put=[review]))
        board.plan_requested.connect(self.desk.plan_one_more)
        board.notice_raised.connect(self.banner.show_said)
        self.theme_changed.connect(board.apply_theme)
        return board

    def _build_runs(self) -> Stop:
        from blunt_ruler.ui.runs import deeds, view

        runs = view.RunsStop()
        self.runs_deeds = deeds.RunsDeeds(runs, self.desk, self.banner)
        runs.import_requested.connect(self.ask_import)
        runs.logs_wanted.connect(self.import_logs)
        self.theme_changed.connect(runs.apply_theme)
        self.work.watch(runs.work.taker.jobs)
        return runs

    def _build_limits(self) -> Stop:
        from blunt_ruler.ui.limits import view

        limits = view.LimitsStop()
        limits.test_requested.connect(self.desk.plan_test)
        self.desk.limits_changed.connect(limits.show_report)
        self.theme_changed.connect(limits.apply_theme)
        if self.desk.limits is not None:
            limits.show_report(self.desk.limits)
        return limits

    def _build_worth(self) -> Stop:
        from blunt_ruler.ui.worth import view

        worth = view.WorthStop()
        worth.edit_requested.connect(lambda words, records: self.desk.commit(words, put=records))
        worth.drop_requested.connect(lambda words, records: self.desk.commit(words, drop=records))
        self.theme_changed.connect(worth.apply_theme)
        return worth

    def _build_writeup(self) -> Stop:
        from blunt_ruler.ui.writeup import deeds, view

        writeup = view.WriteUpStop()
        self.writeup_deeds = deeds.WriteUpDeeds(writeup, self.desk, self.banner)
        self.theme_changed.connect(self.writeup_deeds.refresh)
        self.work.watch(self.writeup_deeds.jobs)
        return writeup

    def _connect(self) -> None:
        self.desk.spread_changed.connect(self.show_spread)
        self.desk.error_raised.connect(self.banner.show_error)
        self.desk.notice_raised.connect(self.banner.show_said)
        self.desk.conflict_raised.connect(
            lambda found: self.banner.ask(found.words, "Put mine in its place", found.insist)
        )
        self.desk.rescued.connect(self._on_rescued)
        self.rail.stop_chosen.connect(self.go_to)
        self.rail.head.clicked.connect(self.show_logbook_menu)
        self.welcome.new_requested.connect(self.ask_new)
        self.welcome.open_requested.connect(self.ask_open)
        self.welcome.demo_requested.connect(self.open_demo)

    def _on_rescued(self, path: Path, why: str) -> None:
        self.banner.ask(
            f"{why[:1].upper()}{why[1:]}. Nothing is lost: what you see, and what you do from "
            f"now on, is kept in {path}.",
            "Save it elsewhere…",
            self.ask_copy,
        )

    # Showing

    def show_spread(self, spread: Snapshot | None) -> None:
        """Hand new values to the rail and to every view."""
        self._stale = set(self._stops)
        self.rail.show_states(
            stop_states(
                spread.contents if spread else None,
                spread.board if spread else None,
                spread.worth if spread else None,
            )
        )
        for words, action in self.actions_by_name.items():
            if action.property("needs_book"):
                action.setEnabled(spread is not None)
            if words in ("Undo", "Redo"):
                label = (spread.undo if words == "Undo" else spread.redo) if spread else None
                action.setEnabled(label is not None)
                action.setText(f"{words}: {label}" if label else words)
        self.go_to(self.current_stop)
        if spread is None:
            return
        name = spread.review.name if spread.review else spread.path.stem
        self.rail.show_logbook(name, str(spread.path))
        if self.focusWidget() in (None, self.rail.head) and self.current_stop == "Board":
            self.board.page.table.setFocus()
        self.setWindowTitle(f"{name} – {spread.path.name} – Blunt Ruler")
        self.settings.add_recent(spread.path)
        if self._waiting_logs:
            waiting, self._waiting_logs = self._waiting_logs, []
            self.import_logs(waiting)

    def go_to(self, name: str) -> None:
        """Show a stop; until a logbook is open every one shows the way in."""
        self.current_stop = name
        self.rail.show_current(name)
        waiting = self.desk.spread is None
        self.stack.setCurrentWidget(self.welcome if waiting else self._stop(name))

    def take_next(self) -> None:
        """Take the next run of the plan."""
        self.go_to("Runs")
        self.runs.take_next()

    def show_lens(self, lens: Lens) -> None:
        """Show the Board through a lens."""
        self.go_to("Board")
        self.board.show_lens(lens)

    def show_logbook_menu(self) -> None:
        """New, open, recent, copy, reviews, undo and redo, under the logbook's name."""
        logbook_menu(self).popup(self.rail.head.mapToGlobal(self.rail.head.rect().bottomLeft()))

    def pin_theme(self, name: theme.ThemeName) -> None:
        """Dress the application in a theme and remember it."""
        self.settings.theme = name
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        theme.apply_theme(app, theme.wanted_theme(name))
        self.theme_changed.emit()
        self.show_spread(self.desk.spread)

    # Logbooks

    def ask_new(self) -> None:
        """Ask for a name and make a logbook there."""
        text, _ = QFileDialog.getSaveFileName(
            self,
            "New logbook",
            "review.blunt",
            LOGBOOK_FILTER,
            options=QFileDialog.Option.DontConfirmOverwrite,
        )
        if text:
            self.desk.create(_with_ending(Path(text)))

    def ask_open(self) -> None:
        """Ask for a logbook and open it."""
        text, _ = QFileDialog.getOpenFileName(self, "Open a logbook", "", LOGBOOK_FILTER)
        if text:
            self.desk.open(Path(text))

    def ask_copy(self) -> None:
        """Ask where to put a copy of the logbook."""
        text, _ = QFileDialog.getSaveFileName(
            self, "Copy the logbook to", "copy.blunt", LOGBOOK_FILTER
        )
        if text:
            self.desk.copy_to(_with_ending(Path(text)))

    def open_demo(self) -> None:
        """Open the user's own copy of the demo, made at the first look."""
        from blunt_ruler.core.errors import UserFixable
        from blunt_ruler.demo.builder import copy_demo

        path = remembered.demo_copy_path()
        try:
            if not path.exists():
                copy_demo(path)
        except UserFixable as error:
            self.banner.show_error(error)
            return
        self.desk.open(path)

    # Importing

    def ask_import(self) -> None:
        """Ask for logs and look at them."""
        texts, _ = QFileDialog.getOpenFileNames(self, "Import logs", "", LOG_FILTER)
        if texts:
            self.import_logs([Path(text) for text in texts])

    def import_logs(self, paths: Sequence[Path]) -> None:
        """Show what logs hold before taking them in; starts a logbook where none is open."""
        if self.desk.spread is None:
            self._waiting_logs = list(paths)
            self.desk.create(remembered.first_logbook_path())
            return
        from blunt_ruler.ui.runs.import_dialog import ImportDialog

        dialog = ImportDialog(
            paths,
            self.desk.spread.contents,
            self.desk.spread.review,
            self.desk.remembered_mapping,
            self,
        )
        dialog.confirmed.connect(self._on_import_confirmed)
        dialog.open()
        self.import_dialog = dialog

    def _on_import_confirmed(self, arrivals: object, mappings: object) -> None:
        self.desk.import_arrivals(arrivals, mappings)  # type: ignore[arg-type]
        self.go_to("Board")

    def dragEnterEvent(self, a0: QDragEnterEvent | None) -> None:
        """Files are welcome anywhere on the window."""
        data = a0.mimeData() if a0 is not None else None
        if a0 is not None and data is not None and data.hasUrls():
            a0.acceptProposedAction()

    def dropEvent(self, a0: QDropEvent | None) -> None:
        """A logbook is opened, logs are looked at."""
        data = a0.mimeData() if a0 is not None else None
        if a0 is None or data is None:
            return
        a0.acceptProposedAction()
        self.take_dropped(data.urls())

    def take_dropped(self, urls: Sequence[QUrl]) -> None:
        """Open the logbook among dropped files, else import them all as logs."""
        paths = [Path(url.toLocalFile()) for url in urls if url.isLocalFile()]
        book = next((path for path in paths if path.suffix == ".blunt"), None)
        if book is not None:
            self.desk.open(book)
        elif paths:
            self.import_logs(paths)

    def show_history(self) -> None:
        """Show the journal."""
        from blunt_ruler.ui.history import HistoryDialog

        self.desk.load_history(lambda entries: HistoryDialog(entries, self).open())

    # Exports

    def ask_export(self) -> None:
        """Ask for a file name and write the Board there as tidy CSV."""
        text, _ = QFileDialog.getSaveFileName(self, "Export the Board", "board.csv", "*.csv")
        if text:
            self.export(Path(text))

    def export(self, path: Path) -> None:
        """Write the Board as tidy CSV, off the interface thread."""
        from blunt_ruler.exchange.reports import board_csv
        from blunt_ruler.files import write_whole

        spread = self.desk.spread
        if spread is None or spread.board is None:
            return
        contents, board = spread.contents, spread.board
        self.desk.jobs.run(
            f"Writing {path.name}",
            lambda _step: write_whole(path, board_csv(contents, board)),
            lambda written: self.banner.show_said(f"Written: {written}"),
            self.banner.show_error,
        )

    def write_report(self) -> None:
        """Ask in which formats the report is written, and where."""
        self.go_to("Write-up")
        self.writeup.export.click()

    def closeEvent(self, a0: QCloseEvent | None) -> None:
        """Finish edits under way, let go of the file, remember the window."""
        self.settings.geometry = self.saveGeometry()
        self.settings.stop = self.current_stop
        for stop in self._stops.values():
            store_columns(stop, self.settings)
        if "Runs" in self._stops:
            self.runs_deeds.close()
        if "Write-up" in self._stops:
            self.writeup_deeds.close()
        self.desk.close()
        for jobs in self.findChildren(Jobs):  # whoever started work: it is waited for
            jobs.close()
        super().closeEvent(a0)


def _with_ending(path: Path) -> Path:
    return path if path.suffix == ".blunt" else path.with_name(path.name + ".blunt")
