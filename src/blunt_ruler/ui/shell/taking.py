"""Files that the window is given: a logbook is opened, tables and scores go to the Board, logs are
looked at before they are taken in.
"""

from collections.abc import Callable, Sequence
from importlib import import_module
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, QUrl, pyqtSignal
from PyQt6.QtGui import QDragEnterEvent, QDropEvent
from PyQt6.QtWidgets import QFileDialog, QWidget

from blunt_ruler.folders import about_how_many
from blunt_ruler.ui.desk import settings as remembered
from blunt_ruler.ui.desk.desk import Desk
from blunt_ruler.ui.desk.notices import Banner
from blunt_ruler.ui.desk.snapshot import Snapshot
from blunt_ruler.ui.shell.given import LOG_FILTER, logbook_among

if TYPE_CHECKING:
    from blunt_ruler.core.types import Progress
    from blunt_ruler.exchange.given_files import Given
    from blunt_ruler.ui.board.controller import BoardController
    from blunt_ruler.ui.runs.import_dialog import ImportDialog


def _prepare(paths: Sequence[Path]) -> None:
    """Start the processes that read many logs while these are still dragged or told apart."""
    from blunt_ruler.processes import FEWEST, other_cores, start_ahead

    if about_how_many(paths) >= FEWEST:
        start_ahead(1 + other_cores(), "blunt_ruler.exchange.logs.figures")


class Taking(QObject):
    """Takes what is dropped on the window, given with the command, or chosen.

    Signals:
        confirmed(): logs are being taken in.
    """

    confirmed = pyqtSignal()

    def __init__(
        self, desk: Desk, banner: Banner, board: "Callable[[], BoardController]", window: QWidget
    ) -> None:
        super().__init__(window)
        self._desk, self._banner, self._board, self._window = desk, banner, board, window
        self._waiting: tuple[Path, Sequence[Path]] | None = None  # logs, and over which logbook
        self.dialog: ImportDialog | None = None
        self._desk.changed.connect(self._on_changed)

    # Dragging and dropping

    def on_enter(self, event: QDragEnterEvent) -> None:
        """Files are welcome anywhere on the window; for many, processes start meanwhile."""
        data = event.mimeData()
        if data is not None and data.hasUrls():
            event.acceptProposedAction()
            _prepare([Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()])

    def on_leave(self) -> None:
        """Nothing is to be read: the processes that were started for it end."""
        from blunt_ruler.processes import end_ahead

        end_ahead()

    def on_drop(self, event: QDropEvent) -> None:
        """Take what is dropped."""
        data = event.mimeData()
        if data is not None:
            event.acceptProposedAction()
            self.take_dropped(data.urls())

    def take_dropped(self, urls: Sequence[QUrl]) -> None:
        """Open the logbook among dropped files, and look at the others as logs."""
        paths = [Path(url.toLocalFile()) for url in urls if url.isLocalFile()]
        book = logbook_among(paths)
        self.take(book, [path for path in paths if path != book])

    def take(self, book: Path | None, logs: Sequence[Path]) -> None:
        """Open a logbook, and look at logs over it; without one over that which is open."""
        if book is not None:
            self._waiting = (book, logs) if logs else None
            self._desk.open(book)
        elif logs:
            self.import_logs(logs)

    def _on_changed(self, snapshot: Snapshot) -> None:
        if self._waiting is not None and self._waiting[0] == snapshot.path:
            (_, logs), self._waiting = self._waiting, None
            self.import_logs(logs)

    # Importing

    def import_logs(self, paths: Sequence[Path] | None) -> None:
        """Show what logs hold before taking them in, asking which for None; starts a logbook
        where none is open.
        """
        if paths is None:
            texts, _ = QFileDialog.getOpenFileNames(self._window, "Import logs", "", LOG_FILTER)
            paths = [Path(text) for text in texts]
            if not paths:
                return
        if self._desk.snapshot is None:
            self._waiting = remembered.first_logbook_path(), paths
            self._desk.create(self._waiting[0])
            return
        _prepare(paths)
        self.dialog = None

        def work(_step: "Progress") -> "Given":
            from blunt_ruler.exchange.given_files import sorted_out

            import_module("blunt_ruler.ui.runs.import_dialog")  # it takes its time, here
            return sorted_out(paths)

        def failed(error: Exception) -> None:
            self.on_leave()
            self._banner.show_error(error)

        self._desk.jobs.run("Looking at the files", work, self._show, failed)

    def ask_folder(self) -> None:
        """Ask for a folder and look at the logs in it."""
        text = QFileDialog.getExistingDirectory(self._window, "Import a folder of logs")
        if text:
            self.import_logs([Path(text)])

    def _show(self, given: "Given") -> None:
        if given.scores:
            self._board().take_scores(given.scores)
        for path in given.tables:
            self._board().take_table(path)
        if given.left:
            self._banner.show_said(given.left)
        if given.logs:
            self._look_at(given.logs)
        self.on_leave()  # few logs, or none, take no processes

    def _look_at(self, logs: Sequence[Path]) -> None:
        """Show what logs hold before they are taken in."""
        from blunt_ruler.ui.runs.import_dialog import ImportDialog

        snapshot = self._desk.snapshot
        assert snapshot is not None
        self.dialog = dialog = ImportDialog(
            *(logs, snapshot.contents, snapshot.review),
            *(self._desk.remembered_mapping, self._window),
        )
        dialog.confirmed.connect(self._desk.bring_in)
        dialog.confirmed.connect(lambda *_: self.confirmed.emit())
        dialog.open()
