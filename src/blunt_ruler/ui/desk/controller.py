"""What every stop's controller is: it builds the view, offers actions, and fulfils wishes."""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QFileDialog

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.files import write_whole
from blunt_ruler.ui.desk.columns import restore_columns
from blunt_ruler.ui.desk.desk import Desk
from blunt_ruler.ui.desk.jobs import Jobs
from blunt_ruler.ui.desk.notices import Banner, WorkStrip
from blunt_ruler.ui.desk.settings import Settings
from blunt_ruler.ui.desk.snapshot import Snapshot
from blunt_ruler.ui.desk.stop import Stop

if TYPE_CHECKING:
    from blunt_ruler.core.records.records import Run
    from blunt_ruler.core.types import Progress


@dataclass(frozen=True, slots=True)
class Offer:
    """An action as it is offered: its words, its keys (several are parted by "; "), what it does,
    whether it needs a logbook to be open, and the menu it stands in.
    """

    words: str
    slot: Callable[[], object]
    keys: str = ""
    needs_book: bool = True
    menu: str = ""


@dataclass(frozen=True, slots=True)
class Hub:
    """What a controller may reach of the window."""

    desk: Desk
    banner: Banner
    strip: WorkStrip
    settings: Settings
    go_to: Callable[[str], None]
    import_logs: Callable[[Sequence[Path] | None], None]  # asks which for None
    ask_recording: Callable[[], None]
    type_into: Callable[[str, str], None]  # the Board's cell of a rig and case
    show_recording: "Callable[[Run, float], None]"  # the picture of a run, s from its start


class Controller(QObject):
    """Between one stop and the desk. `name` is the stop's on the rail.

    A subclass imports its view in `build`: stops come with what they need when first shown.
    """

    name = ""

    def __init__(self, hub: Hub, parent: QObject) -> None:
        super().__init__(parent)
        self.hub, self.desk, self.banner = hub, hub.desk, hub.banner
        self._view: Stop | None = None
        self._stale = False
        self._own_jobs: Jobs | None = None

    def build(self) -> Stop:
        """Make the view and connect what it wishes beyond edits."""
        raise NotImplementedError

    def offers(self) -> Iterable[Offer]:
        """The actions of this stop."""
        return ()

    def print_page(self) -> bool:
        """Print what this stop prints; False where it prints nothing."""
        return False

    @property
    def stop(self) -> Stop:
        """The view, built when it is first asked for and brought up to date when needed."""
        if self._view is None:
            self._view = stop = self.build()
            stop.edited.connect(self.desk.apply)
            stop.made.connect(self.desk.make)
            stop.notice_raised.connect(self.banner.show_said)
            stop.error_raised.connect(self.banner.show_error)
            stop.stop_wanted.connect(self.hub.go_to)
            stop.page_built.connect(lambda page: restore_columns(page, self.hub.settings))
            self._stale = True
        if self._stale and self.desk.snapshot is not None:
            self._stale = False
            self._view.show_snapshot(self.desk.snapshot)
        return self._view

    @property
    def built(self) -> Stop | None:
        """The view where there is one, as it stands."""
        return self._view

    def mark_stale(self) -> None:
        """There is another snapshot: take it in when the stop is next looked at."""
        self._stale = True

    def apply_theme(self) -> None:
        """Other colours are in use: draw anew."""
        if self._view is not None:
            self._view.apply_theme()
            self._stale = True

    def close(self) -> None:
        """Let go of what is held outside the window and wait for what is under way.

        What the desk still had to say may wish for work of this stop: there is none any more.
        """
        self.jobs.close()

    def let_go(self) -> None:
        """Forget the view with all that it shows: another logbook is opened."""
        Controller.close(self)
        self._own_jobs = None
        view, self._view = self._view, None
        if view is not None:
            for jobs in view.findChildren(Jobs):
                jobs.close()
            view.hide()
            view.setParent(None)
            view.deleteLater()

    # What controllers do alike

    @property
    def snapshot(self) -> Snapshot:
        """What lies on the desk; stops are shown with a logbook open."""
        assert self.desk.snapshot is not None
        return self.desk.snapshot

    @property
    def jobs(self) -> Jobs:
        """Work of this stop, off the interface thread, shown in the strip."""
        if self._own_jobs is None:
            self._own_jobs = Jobs(threads=2, parent=self)
            self.hub.strip.watch(self._own_jobs)
        return self._own_jobs

    def run(
        self, words: str, work: Callable[["Progress"], object], done: Callable[[Any], None]
    ) -> None:
        """Do some work off the interface thread; an error is shown."""
        self.jobs.run(words, work, done, self.banner.show_error)

    def write(self, path: Path, body: Callable[[], bytes | str]) -> None:
        """Write a file whole, off the interface thread, and say so."""
        self.run(
            f"Writing {path.name}",
            lambda _step: write_whole(path, body()),
            lambda written: self.banner.show_said(f"Written: {written}"),
        )

    def ask_save(self, title: str, name: str, kinds: str, then: Callable[[Path], None]) -> None:
        """Ask where to put a file."""
        text, _ = QFileDialog.getSaveFileName(self._view, title, name, kinds)
        if text:
            then(Path(text))

    def ask_open(self, title: str, kinds: str, then: Callable[[Path], None]) -> None:
        """Ask for a file."""
        text, _ = QFileDialog.getOpenFileName(self._view, title, "", kinds)
        if text:
            then(Path(text))

    def say_wrong(self, error: UserFixable) -> None:
        """Show what the user can put right."""
        self.banner.show_error(error)
