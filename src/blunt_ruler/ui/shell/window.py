"""The main window: the rail, the stops, the actions, and the Desk between them.

It is drawn with the rail and the way in alone. What else it has is made when that stands on
screen, or when it is first asked for.
"""

from collections.abc import Callable, Iterator
from dataclasses import replace
from functools import cached_property, partial
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import (
    QCloseEvent,
    QDragEnterEvent,
    QDragLeaveEvent,
    QDropEvent,
    QKeySequence,
    QPaintEvent,
    QPixmap,
    QResizeEvent,
)
from PyQt6.QtWidgets import (
    QApplication,
    QFileDialog,
    QMainWindow,
    QScrollArea,
    QStackedWidget,
    QWidget,
)

from blunt_ruler.core.analysis.rail_states import STOPS, empty_states
from blunt_ruler.ui.desk import settings as remembered
from blunt_ruler.ui.desk.desk import Conflict, Desk
from blunt_ruler.ui.desk.jobs import Jobs
from blunt_ruler.ui.desk.notices import Banner, WorkStrip
from blunt_ruler.ui.desk.snapshot import Snapshot
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.held_keys import HeldKeys
from blunt_ruler.ui.kit.layouts import beside, stacked
from blunt_ruler.ui.kit.widgets import scrolling
from blunt_ruler.ui.shell import last_look
from blunt_ruler.ui.shell.given import LOGBOOK_FILTER, with_ending
from blunt_ruler.ui.shell.rail import Rail
from blunt_ruler.ui.shell.reviews import Reviews
from blunt_ruler.ui.shell.taking import Taking
from blunt_ruler.ui.shell.unclean import Ended, OpenMark
from blunt_ruler.ui.shell.welcome import Welcome

if TYPE_CHECKING:
    from blunt_ruler.core.types import Progress
    from blunt_ruler.ui.board.controller import BoardController
    from blunt_ruler.ui.desk.controller import Controller, Offer
    from blunt_ruler.ui.shell.actions import Actions
    from blunt_ruler.ui.shell.command_palette import CommandPalette
    from blunt_ruler.ui.shell.help_window import HelpWindow
    from blunt_ruler.ui.shell.tour import Step, Tour

NARROW_BELOW = 1180  # pixels
LEAST = (1024, 700)  # pixels in which every page can be read
FILE = "Logbook"  # the menu of files


class MainWindow(QMainWindow):
    """Everything on screen.

    Signals:
        drawn(): the window stands on screen for the first time.
    """

    drawn = pyqtSignal()

    def __init__(self, settings: remembered.Settings) -> None:
        super().__init__()
        self.setWindowTitle("Blunt Ruler")
        self.resize(1280, 800)
        self.setAcceptDrops(True)
        self.settings = settings
        self.desk = Desk(self)
        self.reviews = Reviews(self.desk, self)
        self.rail = Rail()
        self.banner = Banner()
        self.strip = WorkStrip(self.desk.jobs)
        self.stack = QStackedWidget()
        self.welcome = Welcome()
        self.stack.addWidget(self.welcome)
        self.help_window: HelpWindow | None = None
        self.tour: Tour | None = None
        self._is_drawn = False
        self.current_stop = settings.stop if settings.stop in STOPS else "Board"
        self._types_first = False
        self._held = HeldKeys(self)
        self.mark = OpenMark()
        self.taking = Taking(self.desk, self.banner, self._board, settings, self)
        self._lay_out()
        theme.dress(self)
        self._connect()
        self.drawn.connect(lambda: self.actions_of)
        self.rail.show_states(empty_states())
        self.go_to(self.current_stop)

    @cached_property
    def controllers(self) -> "dict[str, Controller]":
        """Those of all stops by their names, in the order of the rail."""
        from blunt_ruler.ui.desk.controller import Hub
        from blunt_ruler.ui.shell.stops import CONTROLLERS

        hub = Hub(
            self.desk,
            self.banner,
            self.strip,
            self.settings,
            self.go_to,
            self.taking.import_logs,
            self.taking.ask_recording,
            lambda rig_id, case_id: self._board().type_into(rig_id, case_id),
            self.taking.show_recording,
        )
        return {kind.name: kind(hub, self) for kind in CONTROLLERS}

    @cached_property
    def actions_of(self) -> "Actions":
        """Every action of the window."""
        from blunt_ruler.ui.shell.actions import Actions

        return Actions(self, self._offers())

    @cached_property
    def palette_list(self) -> "CommandPalette":
        """The list of actions over the window."""
        from blunt_ruler.ui.shell.command_palette import CommandPalette

        return CommandPalette(self, list(self.actions_of.by_name.values()))

    def paintEvent(self, a0: QPaintEvent | None) -> None:
        """The first time, what waited for it follows."""
        super().paintEvent(a0)
        if not self._is_drawn:
            self._is_drawn = True
            QTimer.singleShot(0, self.drawn.emit)

    def _lay_out(self) -> None:
        around = beside(
            self.rail,
            (stacked(self.banner, (self.stack, 1), self.strip, spacing=0, margins=(0, 0, 0, 0)), 1),
            spacing=0,
            margins=(0, 0, 0, 0),
        )
        self.whole = QWidget()
        self.whole.setLayout(around)
        if self.settings.size == remembered.SIZES[0]:
            self.setMinimumSize(*LEAST)
            self.setCentralWidget(self.whole)
            return
        # Everything is larger than the screen was made for: what does not fit is scrolled to.
        if (screen := self.screen()) is not None:
            self.resize(self.size().boundedTo(screen.availableSize()))
        self.whole.setMinimumSize(*LEAST)
        self.setMinimumSize(*(round(100 * one / self.settings.size) for one in LEAST))
        area = scrolling(self.whole)
        self.setCentralWidget(area)
        app = QApplication.instance()
        if isinstance(app, QApplication):
            app.focusChanged.connect(self._bring_into_view)

    def _bring_into_view(self, _before: QWidget | None, now: QWidget | None) -> None:
        area = self.centralWidget()
        if now is not None and isinstance(area, QScrollArea) and self.whole.isAncestorOf(now):
            area.ensureWidgetVisible(now)

    def _offers(self) -> "Iterator[Offer]":
        """Every action: the logbook's, then each stop's, then the window's."""
        from blunt_ruler.ui.desk.controller import Offer

        standards = QKeySequence.StandardKey  # here, for its names take long to make

        def keys(standard: QKeySequence.StandardKey) -> str:
            return QKeySequence(standard).toString()

        def always(words: str, slot: Callable[[], object], keys: str = "") -> Offer:
            return Offer(words, slot, keys, needs_book=False)

        def under(menu: str, *offers: Offer) -> Iterator[Offer]:
            return (replace(offer, menu=menu) for offer in offers)

        desk, taking = self.desk, self.taking
        yield from under(
            FILE,
            always("New logbook…", self.ask_new, keys(standards.New)),
            always("Open a logbook…", self.ask_open, keys(standards.Open)),
            always("Begin a logbook by typing", self.type_first),
            Offer("Save", self.say_saved, keys(standards.Save)),
            Offer("Copy the logbook to…", self.ask_copy, "Ctrl+Shift+S"),
            Offer("Print…", self.print_page, keys(standards.Print)),
            Offer("Close the logbook", self.close_logbook, "Ctrl+W"),
            always("Look at the demo", self.open_demo),
            always("Sample files…", self.ask_samples),
        )
        yield from under("Review", *self.reviews.offers())
        yield from under(
            "Bring in",
            Offer("Import logs…", lambda: taking.import_logs(None), "Ctrl+I"),
            Offer("Import a folder of logs…", taking.ask_folder, "Ctrl+Shift+I"),
            Offer("Read a recording…", taking.ask_recording, "Ctrl+Shift+O"),
            Offer("Read the picture on the clipboard", taking.read_clipboard, "Ctrl+Shift+V"),
            Offer("Read the demo's recording", taking.read_demo),
        )
        yield from under(
            "Edit",
            Offer("Undo", desk.undo, keys(standards.Undo)),
            Offer("Redo", desk.redo, "Ctrl+Shift+Z; Ctrl+Y"),
            Offer("History of edits", self.show_history, "Ctrl+H"),
            Offer("Find…", self.search, keys(standards.Find)),
            always("Settings…", self.show_settings, "Ctrl+,"),
        )
        for number, name in enumerate(STOPS, start=1):
            yield from under(
                "Go", Offer(f"Go to {name}", partial(self.stand_at, name), f"Alt+{number}", False)
            )
        yield from under(
            "Go",
            Offer("Next page", partial(self.turn_page, 1), "Ctrl+PgDown"),
            Offer("Page before", partial(self.turn_page, -1), "Ctrl+PgUp"),
        )
        for controller in self.controllers.values():
            yield from under(controller.name, *controller.offers())
        yield from under(
            "View",
            *(
                always(f"Theme: {choice}", partial(self.pin_theme, choice))
                for choice in theme.ThemeName
            ),
            Offer("Show or hide the evidence", self._toggle_evidence, "F4"),
            always("Full screen", self.fill_screen, "F11"),
        )
        yield from under(
            "Help",
            always("Help on this stop", self.show_help, keys(standards.HelpContents)),
            always("Tour of the demo", self.begin_tour),
            always("Logbook menu", self.show_logbook_menu, "Alt+L"),
            always("All actions…", lambda: self.palette_list.open(), "Ctrl+K"),
        )
        yield from under(FILE, always("Quit", self.close, keys(standards.Quit)))

    def _connect(self) -> None:
        self.desk.changed.connect(self._on_changed)
        self.desk.opening.connect(lambda path: self.mark.put(path, self.current_stop))
        self.desk.replaced.connect(self._let_go)
        self.desk.error_raised.connect(self._on_error)
        self.desk.notice_raised.connect(self.banner.show_said)
        self.desk.conflict_raised.connect(self._on_conflict)
        self.desk.rescued.connect(self._on_rescued)
        self.taking.confirmed.connect(lambda: self.go_to("Board"))
        self.rail.stop_chosen.connect(self.go_to)
        self.rail.head.clicked.connect(self.show_logbook_menu)
        self.welcome.type_requested.connect(self.type_first)
        self.welcome.logs_requested.connect(lambda: self.taking.import_logs(None))
        self.welcome.new_requested.connect(self.ask_new)
        self.welcome.open_requested.connect(self.ask_open)
        self.welcome.demo_requested.connect(self.open_demo)
        self.welcome.samples_requested.connect(self.ask_samples)

    def _on_error(self, error: Exception) -> None:
        if self._types_first:
            self._types_first = False
            self._held.let_go(give=False)
        self.banner.show_error(error)

    def _on_conflict(self, conflict: Conflict) -> None:
        self.banner.ask(conflict.words, conflict.offer, conflict.accept)

    def _on_rescued(self, path: Path, why: str) -> None:
        self.banner.ask(
            f"{why[:1].upper()}{why[1:]}. Nothing is lost: what you see, and what you do from "
            f"now on, is kept in {path}.",
            "Save it elsewhere…",
            self.ask_copy,
        )

    # Showing

    def _on_changed(self, snapshot: Snapshot) -> None:
        """Hand new values to the rail, to the actions and to every stop."""
        for controller in self.controllers.values():
            controller.mark_stale()
        self.rail.show_states(snapshot.states or empty_states())
        self.actions_of.show_snapshot(snapshot)
        at = self.focusWidget()
        nowhere = at in (None, self.rail.head) or self.welcome.isAncestorOf(at)
        self.go_to(self.current_stop)
        name = snapshot.review.name if snapshot.review else snapshot.path.stem
        self.rail.show_logbook(name, str(snapshot.path))
        if nowhere:
            self.controllers[self.current_stop].stop.take_focus()
        self.setWindowTitle(f"{name} – {snapshot.path.name} – Blunt Ruler")
        self.settings.add_recent(snapshot.path)
        if self._types_first:
            self._types_first = False
            self._board().begin_typing()
            self._held.let_go(give=True)

    def _let_go(self) -> None:
        """Nothing of the logbook before is kept: stops are made anew when they are shown."""
        from blunt_ruler.ui.desk.columns import store_columns

        for controller in self.controllers.values():
            if controller.built is not None:
                store_columns(controller.built, self.settings)
                self.stack.removeWidget(controller.built)
            controller.let_go()

    def go_to(self, name: str) -> None:
        """Show a stop; until a logbook is open every one shows the way in."""
        if name != self.current_stop and self.desk.snapshot is not None:
            self.mark.put(self.desk.snapshot.path, name)
        self.current_stop = name
        self.rail.show_current(name)
        if self.desk.snapshot is None:
            self.stack.setCurrentWidget(self.welcome)
            self.welcome.setFocus()
            return
        stop = self.controllers[name].stop
        if self.stack.indexOf(stop) < 0:
            self.stack.addWidget(stop)
        stop.set_narrow(self.is_narrow)
        self.stack.setCurrentWidget(stop)

    def stand_at(self, name: str) -> None:
        """Show a stop by key, ready to be typed into."""
        self.go_to(name)
        if self.desk.snapshot is not None:
            self.controllers[name].stop.take_focus()

    def show_logbook_menu(self) -> None:
        """New, open, recent, copy, reviews, undo and redo, under the logbook's name."""
        from blunt_ruler.ui.shell.logbook_menu import logbook_menu

        menu = logbook_menu(self, self.desk, self.settings, self.actions_of.menus)
        menu.popup(self.rail.head.mapToGlobal(self.rail.head.rect().bottomLeft()))

    def show_help(self) -> None:
        """Open the page of the stop that is looked at."""
        from blunt_ruler.ui.shell.help_window import HelpWindow

        if self.help_window is None:
            self.help_window = HelpWindow(self)
        self.help_window.open_page(self.current_stop)

    def begin_tour(self) -> None:
        """Show the demo around, which is opened where another logbook is."""
        from blunt_ruler.ui.shell.tour import Tour

        if self.tour is None:
            self.tour = Tour(self)
            self.tour.step_shown.connect(self._on_step)
        demo = remembered.demo_copy_path()
        if self.desk.snapshot is None or self.desk.snapshot.path.resolve() != demo.resolve():
            self.open_demo()
        self.tour.begin()

    def _on_step(self, step: "Step") -> None:
        """Go where a step of the tour leads; until the demo is open its first stop waits."""
        self.go_to(step.stop)
        if self.desk.snapshot is not None:
            self.controllers[step.stop].stop.show_page(step.page)

    def pin_theme(self, name: theme.ThemeName) -> None:
        """Put the application into a theme and remember it."""
        self.settings.theme = name
        self.wear_theme()

    def wear_theme(self) -> None:
        """Take on the wanted theme, which may follow that of the desktop."""
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        theme.apply_theme(app, theme.wanted_theme(self.settings.theme))
        theme.dress(self)
        for controller in self.controllers.values():
            controller.apply_theme()
        self.go_to(self.current_stop)

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
            self.desk.create(with_ending(Path(text)))

    def type_first(self) -> None:
        """Begin a logbook where they are kept, and type into its Board."""
        self._types_first = True
        self._held.hold()  # whoever types on is not waited for
        self.desk.create(remembered.first_logbook_path())

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
            self.desk.copy_to(with_ending(Path(text)))

    def offer(self, ended: Ended) -> None:
        """Offer the logbook that was open when a window ended unexpectedly; the Board comes first,
        for what was on screen then may end it again.
        """
        self.go_to("Board")
        offer = f"Open {ended.path.name}"
        self.banner.ask(ended.words, offer, lambda: self.desk.open(ended.path), ended.details)

    def open_demo(self) -> None:
        """Open the user's own copy of the demo, made at the first look."""
        from blunt_ruler.core.errors import UserFixable
        from blunt_ruler.demo.shipped import copy_demo

        path = remembered.demo_copy_path()
        try:
            if not path.exists():
                copy_demo(path)
        except UserFixable as error:
            self.banner.show_error(error)
            return
        self.desk.open(path)

    def ask_samples(self) -> None:
        """Ask for a folder and put the sample files into one of their own in it."""
        text = QFileDialog.getExistingDirectory(self, "Where to put the folder of sample files")
        if text:
            self.write_samples(Path(text) / "Blunt Ruler samples")

    def write_samples(self, folder: Path) -> None:
        """Write the sample files into a folder."""

        def work(step: "Progress") -> int:
            from blunt_ruler.demo.samples import write_samples

            return len(write_samples(folder, step))

        self._aside.run(
            "Writing sample files",
            work,
            lambda count: self.banner.show_said(
                f"{count} sample files are in {folder}. READ ME.txt says what each is for."
            ),
            self.banner.show_error,
        )

    @cached_property
    def _aside(self) -> Jobs:
        """Work that has nothing to do with the logbook."""
        jobs = Jobs(threads=1, parent=self)
        self.strip.watch(jobs)
        return jobs

    def say_saved(self) -> None:
        """Whoever asks to save is told that it is done, and where."""
        snapshot = self.desk.snapshot
        if snapshot is not None:
            self.banner.show_said(
                f"Saved already: every edit is written at once to {snapshot.path}."
            )

    def close_logbook(self) -> None:
        """Let go of the logbook; the way in is shown again."""
        self.setFocus()  # what is being typed is taken
        self.desk.shut()
        self.mark.take()
        self.actions_of.show_nothing()
        self.rail.show_states(empty_states())
        self.rail.show_nothing()
        self.setWindowTitle("Blunt Ruler")
        self.go_to(self.current_stop)

    def print_page(self) -> None:
        """Print what is looked at: a pre-flight list, a run sheet; elsewhere the report."""
        if not self.controllers[self.current_stop].print_page():
            self.controllers["Write-up"].print_page()

    def search(self) -> None:
        """Search what is looked at; where nothing can be searched, search the actions."""
        stop = self.controllers[self.current_stop].built
        if stop is None or not stop.search():
            self.palette_list.open()

    def turn_page(self, by: int) -> None:
        """Show the next page of the stop, or the one before; the first follows the last."""
        stop = self.controllers[self.current_stop].built
        if stop is not None:
            stop.turn_page(by)

    def fill_screen(self) -> None:
        """Fill the screen, or go back to a window."""
        self.setWindowState(self.windowState() ^ Qt.WindowState.WindowFullScreen)

    def show_settings(self) -> None:
        """What can be set, and where files are kept."""
        from blunt_ruler.ui.shell.settings_dialog import SettingsDialog

        self.settings_dialog = SettingsDialog(self.settings, self)
        self.settings_dialog.theme_chosen.connect(self.pin_theme)
        self.settings_dialog.open()

    def show_history(self) -> None:
        """Show the journal."""
        from blunt_ruler.ui.shell.history import HistoryDialog

        self.desk.load_history(lambda entries: HistoryDialog(entries, self).open())

    def _board(self) -> "BoardController":
        from blunt_ruler.ui.board.controller import BoardController

        board = self.controllers["Board"]
        assert isinstance(board, BoardController)
        return board

    # Dropping

    def dragEnterEvent(self, a0: QDragEnterEvent | None) -> None:
        """Files are welcome anywhere on the window."""
        if a0 is not None:
            self.taking.on_enter(a0)

    def dragLeaveEvent(self, a0: QDragLeaveEvent | None) -> None:
        """Nothing is dropped."""
        self.taking.on_leave()
        super().dragLeaveEvent(a0)

    def dropEvent(self, a0: QDropEvent | None) -> None:
        """A logbook is opened, logs are looked at."""
        if a0 is not None:
            self.taking.on_drop(a0)

    def resizeEvent(self, a0: QResizeEvent | None) -> None:
        """A narrow window keeps its room for the work: the rail and the evidence give way."""
        super().resizeEvent(a0)
        self.rail.set_narrow(self.is_narrow)
        if self.desk.snapshot is None:
            return
        stop = self.controllers[self.current_stop].built
        if stop is not None:
            stop.set_narrow(self.is_narrow)

    @property
    def is_narrow(self) -> bool:
        """Whether rail and evidence give way."""
        return max(self.width(), self.whole.minimumWidth()) < NARROW_BELOW

    def _toggle_evidence(self) -> None:
        stop = self.controllers[self.current_stop].built
        if stop is not None:
            stop.toggle_evidence()

    def closeEvent(self, a0: QCloseEvent | None) -> None:
        """Finish edits under way, let go of the file, remember the window."""
        self.settings.geometry = self.saveGeometry()
        self.settings.stop = self.current_stop
        self.mark.take()
        looked = self._look_back()
        from blunt_ruler.ui.desk.columns import store_columns

        for controller in self.controllers.values():
            if controller.built is not None:
                store_columns(controller.built, self.settings)
            controller.close()
        self.desk.close()
        self.close_jobs()
        if looked is not None:  # the file is as it will be found
            last_look.keep(self.settings, *looked)
        else:
            last_look.forget(self.settings)
        super().closeEvent(a0)

    def close_jobs(self) -> None:
        """Wait for work whoever started it; asked again once the loop has ended, since a timer
        that was due while the window closed may have begun some more."""
        for jobs in self.findChildren(Jobs):
            jobs.close()

    # The last look

    def show_last_look(self, path: Path) -> None:
        """Show what was on screen at the last close until the logbook is read."""
        picture = last_look.show(self.settings, self.whole, path)
        if picture is not None:
            self.desk.changed.connect(picture.deleteLater)
            self.desk.error_raised.connect(picture.deleteLater)

    def _look_back(self) -> tuple[QPixmap, Path] | None:
        """A picture of the window and whose it is; None where it does not show the whole yet."""
        snapshot = self.desk.snapshot
        if snapshot is None or snapshot.analysis is None:
            return None
        settled = snapshot.analysis.settled and not snapshot.analysis.limits.quick
        return (self.whole.grab(), snapshot.path) if settled else None
