"""Start the application: fonts, theme, window, and what was asked for on the command line."""

import gc
import logging
import os
import signal
import sys
from collections.abc import Callable, Sequence
from importlib import import_module
from pathlib import Path
from pkgutil import walk_packages
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, QTimer
from PyQt6.QtGui import QIcon
from PyQt6.QtWidgets import QApplication

from blunt_ruler import diary, ui
from blunt_ruler.files import shipped
from blunt_ruler.ui.desk import settings as remembered
from blunt_ruler.ui.desk.jobs import Jobs
from blunt_ruler.ui.desk.snapshot import Snapshot
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.faults import Faults
from blunt_ruler.ui.kit.focus_ring import FocusRing
from blunt_ruler.ui.kit.room import RoomForDialogs
from blunt_ruler.ui.kit.winning_keys import WinningKeys
from blunt_ruler.ui.shell.given import logbook_among
from blunt_ruler.ui.shell.unclean import ended_unexpectedly
from blunt_ruler.ui.shell.window import MainWindow

if TYPE_CHECKING:
    from blunt_ruler.core.types import Progress

GARBAGE_AFTER = (10_000, 20, 20)  # objects of each generation
PICTURE_AFTER_MS = 1500  # the logbook is read and drawn by then
STARTED_AFTER_MS = 5000  # what is kept for good has been made by then


class SpareSearches(QObject):
    """Keeps what is there for good out of searches for garbage, which stop everything: modules
    and the window, and of each logbook what was read and worked out when it was opened. A review
    of ten thousand runs takes 0.3 s to look through; what edits leave behind is still found.
    """

    def __init__(self, window: MainWindow) -> None:
        super().__init__(window)
        self._known: Path | None = None
        gc.set_threshold(*GARBAGE_AFTER)
        window.desk.changed.connect(self._on_changed)

    def begin(self) -> None:
        """The window stands: search from now on."""
        gc.freeze()
        gc.enable()

    def _on_changed(self, snapshot: Snapshot) -> None:
        settled = snapshot.analysis is None or snapshot.analysis.settled
        if not settled or snapshot.path == self._known:
            return
        if self._known is not None:  # what is left of the logbook before is garbage by now
            gc.unfreeze()
            gc.collect()
        self._known = snapshot.path
        gc.freeze()


def bring_in_ahead(window: MainWindow, done: Callable[[], None]) -> None:
    """Import what stops and pages that were not looked at yet will need, while nobody waits for it;
    what dialogs need takes much room, and comes when they are asked for.
    """

    def work(step: "Progress") -> None:
        for module in walk_packages(ui.__path__, f"{ui.__name__}."):
            if module.name.endswith((".view", "page", "pages")):
                step(module.name, 0.0)
                import_module(module.name)

    def failed(error: Exception) -> None:
        window.banner.show_error(error)
        done()

    Jobs(threads=1, parent=window).run("Bringing in", work, lambda _nothing: done(), failed)


def make_app(
    arguments: list[str], make: Callable[[list[str]], QApplication] | None = None
) -> QApplication:
    """The dressed QApplication, without a window yet; one of another make where it is given."""
    # As an argument: setStyle would hand back the style, and wrapping one takes 10 ms.
    name = arguments[:1] or ["blunt-ruler"]
    words = [*name, "-style", "Fusion", *arguments[1:]]
    app = make(words) if make is not None else QApplication(words)
    app.setApplicationName("blunt-ruler")
    app.setApplicationDisplayName("Blunt Ruler")
    app.setDesktopFileName("blunt-ruler")
    theme.load_fonts()
    FocusRing(app)
    WinningKeys(app)
    return app


def _app_of_size(percent: int, make: Callable[[], QApplication]) -> QApplication:
    """The application with everything so large; programs that it starts hear nothing of it."""
    if percent == remembered.SIZES[0] or "QT_SCALE_FACTOR" in os.environ:
        return make()
    os.environ["QT_SCALE_FACTOR"] = str(percent / 100)  # Qt reads it as the application is made
    try:
        return make()
    finally:
        del os.environ["QT_SCALE_FACTOR"]


def run_app(
    files: Sequence[Path] = (),
    *,
    demo: bool = False,
    quit_after_s: float | None = None,
    picture: Path | None = None,
) -> int:
    """Show the window until it is closed; its exit code."""
    with diary.kept():
        return _run_app(files, demo, quit_after_s, picture)


def _run_app(
    files: Sequence[Path], demo: bool, quit_after_s: float | None, picture: Path | None
) -> int:
    # What computes on threads hands over soon: the window draws meanwhile.
    sys.setswitchinterval(0.0005)
    settings = remembered.Settings()
    watched = _watched() if diary.log.isEnabledFor(logging.DEBUG) else None
    app = _app_of_size(settings.size, lambda: make_app(sys.argv[:1], watched))
    if settings.size != remembered.SIZES[0]:
        RoomForDialogs(app)
    theme.apply_theme(app, theme.wanted_theme(settings.theme))
    faults = Faults(app)
    faults.install()
    window = MainWindow(settings)
    hints = app.styleHints()
    if hints is not None:
        hints.colorSchemeChanged.connect(lambda _scheme: window.wear_theme())
    faults.raised.connect(window.banner.show_error)
    if settings.geometry is not None and picture is None:
        window.restoreGeometry(settings.geometry)
    window.show()
    window.drawn.connect(lambda: app.setWindowIcon(QIcon(str(shipped("resources", "icon.svg")))))
    ended = ended_unexpectedly()
    window.mark.listen()
    if ended:
        window.go_to("Board")
    if ended and not files and not demo:
        window.drawn.connect(lambda: window.offer(ended[-1]))
    elif demo:
        window.show_last_look(remembered.demo_copy_path())
        window.drawn.connect(window.open_demo)
    else:
        # Logs are looked at over the logbook of last time.
        book = logbook_among(files) or next(iter(settings.recent), None)
        logs = [path for path in files if path != book]
        if book is not None:
            window.show_last_look(book)
        window.drawn.connect(lambda: window.taking.take(book, logs))
    if picture is not None:
        QTimer.singleShot(PICTURE_AFTER_MS, lambda: save_picture(window, picture))
    if quit_after_s is not None:
        QTimer.singleShot(max(round(quit_after_s * 1000), 1), window.close)
    spare = SpareSearches(window)
    QTimer.singleShot(STARTED_AFTER_MS, lambda: bring_in_ahead(window, spare.begin))
    # Python sees Ctrl+C only when the event loop lets it run now and then.
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        # Not at once: a signal may come in the middle of a drawing, or of a close.
        signal.signal(number, lambda *_: QTimer.singleShot(0, window.close))
    beat = QTimer()
    beat.timeout.connect(lambda: None)
    beat.start(250)
    code = app.exec()
    window.close_jobs()
    faults.remove()
    return code


def _watched() -> Callable[[list[str]], QApplication]:
    from blunt_ruler.ui.shell.loop_watch import WatchedApplication

    return WatchedApplication


def save_picture(window: MainWindow, path: Path) -> None:
    """Save what the window shows as PNG and say where."""
    path.parent.mkdir(parents=True, exist_ok=True)
    if window.grab().save(str(path), "PNG"):
        print(f"A picture of the window is in {path}", flush=True)
    else:
        print(f"{path}: the picture could not be saved. Choose another folder.", file=sys.stderr)
