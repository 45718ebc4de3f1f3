"""Files that the window is given: a logbook is opened, tables and scores go to the Board, logs are
looked at before they are taken in.
"""

import tempfile
from collections.abc import Callable, Sequence
from importlib import import_module
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject, QPoint, QUrl, pyqtSignal
from PyQt6.QtGui import QDragEnterEvent, QDropEvent
from PyQt6.QtWidgets import QApplication, QFileDialog, QWidget

from blunt_ruler.folders import about_how_many
from blunt_ruler.ui.desk import settings as remembered
from blunt_ruler.ui.desk.desk import Desk
from blunt_ruler.ui.desk.notices import Banner
from blunt_ruler.ui.desk.snapshot import Snapshot
from blunt_ruler.ui.shell.given import LOG_FILTER, RECORDING_FILTER, logbook_among

if TYPE_CHECKING:
    from blunt_ruler.core.recordings.quantities import Box
    from blunt_ruler.core.records.records import Run
    from blunt_ruler.core.runs.import_runs import Arrival
    from blunt_ruler.core.types import Progress
    from blunt_ruler.exchange.given_files import Given
    from blunt_ruler.ui.board.controller import BoardController
    from blunt_ruler.ui.runs.import_dialog import ImportDialog
    from blunt_ruler.ui.runs.recording_dialog import RecordingDialog
    from blunt_ruler.ui.runs.still_dialog import StillDialog


def _is_package(path: Path) -> bool:
    """Whether a file is a published review; no other than a zip is looked into."""
    if path.suffix.lower() != ".zip":
        return False
    from blunt_ruler.exchange.documents.data_package import is_package

    return is_package(path)


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
        self,
        desk: Desk,
        banner: Banner,
        board: "Callable[[], BoardController]",
        settings: remembered.Settings,
        window: QWidget,
    ) -> None:
        super().__init__(window)
        self._desk, self._banner, self._board, self._window = desk, banner, board, window
        self._settings = settings
        self._dropped_at: QPoint | None = None  # where a recording names its cell
        self._waiting: tuple[Path, Sequence[Path]] | None = None  # logs, and over which logbook
        self.dialog: ImportDialog | None = None
        self.recording: RecordingDialog | None = None
        self.still: StillDialog | None = None
        self._temporary: list[tempfile.TemporaryDirectory[str]] = []  # they go with this
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
            self._dropped_at = self._window.mapToGlobal(event.position().toPoint())
            self.take_dropped(data.urls())

    def take_dropped(self, urls: Sequence[QUrl]) -> None:
        """Open the logbook among dropped files, and look at the others as logs."""
        paths = [Path(url.toLocalFile()) for url in urls if url.isLocalFile()]
        book = logbook_among(paths)
        self.take(book, [path for path in paths if path != book])

    def take(self, book: Path | None, logs: Sequence[Path]) -> None:
        """Open a logbook, and look at logs over it; without one over that which is open."""
        package = next((path for path in logs if _is_package(path)), None)
        if package is not None:
            self.take_package(package)
        elif book is not None:
            self._waiting = (book, logs) if logs else None
            self._desk.open(book)
        elif logs:
            self.import_logs(logs)

    def take_package(self, path: Path) -> None:
        """Bring the rigs of a published review in as references; with no logbook open, open a copy
        of its own.
        """
        if self._desk.snapshot is not None:
            self._board().bring_in(path)
            return

        def work(step: "Progress") -> Path:
            from blunt_ruler.exchange.documents.data_package import take_logbook_out

            return take_logbook_out(path, remembered.free_logbook_path(path.stem), step)

        self._desk.jobs.run(f"Reading {path.name}", work, self._desk.open, self._banner.show_error)

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

            given = sorted_out(paths)
            for module in ("import_dialog",) if given.logs else ():
                import_module(f"blunt_ruler.ui.runs.{module}")  # it takes its time, here
            if given.recordings:
                import_module("blunt_ruler.ui.runs.recording_dialog")
            if given.pictures:
                import_module("blunt_ruler.ui.runs.still_dialog")
            return given

        def failed(error: Exception) -> None:
            self.on_leave()
            self._banner.show_error(error)

        self._desk.jobs.run("Looking at the files", work, self._show, failed)

    def ask_folder(self) -> None:
        """Ask for a folder and look at the logs in it."""
        text = QFileDialog.getExistingDirectory(self._window, "Import a folder of logs")
        if text:
            self.import_logs([Path(text)])

    def ask_recording(self) -> None:
        """Ask for a recording of the screen, and read it."""
        text, _ = QFileDialog.getOpenFileName(
            self._window, "Read a recording", "", RECORDING_FILTER
        )
        if text:
            self.import_logs([Path(text)])

    def read_demo(self) -> None:
        """Read the recording that comes with the demo."""
        from blunt_ruler.files import shipped

        self.import_logs([shipped("demo", "tidewrack.mp4")])

    def _read(self, path: Path, at_s: float = 0.0, boxes: "tuple[Box, ...] | None" = None) -> None:
        """Look at a recording before what it shows is taken in."""
        from blunt_ruler.ui.runs.recording_dialog import RecordingDialog

        snapshot = self._desk.snapshot
        assert snapshot is not None
        cell = self._cell_named(snapshot)
        self.recording = dialog = RecordingDialog(
            *(path, snapshot.contents, snapshot.review, self._settings, self._window),
            cell=cell,
            at_s=at_s,
            boxes=boxes,
        )
        dialog.confirmed.connect(self._bring_in_read)
        dialog.confirmed.connect(lambda *_: self.confirmed.emit())
        dialog.open()

    def read_clipboard(self) -> None:
        """Read the picture that lies on the clipboard."""
        board = QApplication.clipboard()
        image = board.image() if board is not None else None
        if image is None or image.isNull():
            self._banner.show_said("There is no picture on the clipboard.")
            return
        folder = tempfile.TemporaryDirectory(prefix="blunt-ruler-")
        self._temporary.append(folder)
        path = Path(folder.name) / "clipboard.png"
        image.save(str(path), "PNG")
        self.import_logs([path])

    def _read_still(self, path: Path) -> None:
        """Look at the figures of a picture before they are taken in."""
        from blunt_ruler.ui.runs.still_dialog import StillDialog

        snapshot = self._desk.snapshot
        assert snapshot is not None
        cell = self._cell_named(snapshot)
        self.still = dialog = StillDialog(
            path, snapshot.contents, snapshot.review, self._window, cell=cell
        )
        dialog.confirmed.connect(self._bring_in_read)
        dialog.table_confirmed.connect(
            lambda name, rows: self._board().show_tables(name, [("", rows)])
        )
        dialog.confirmed.connect(lambda *_: self.confirmed.emit())
        dialog.open()

    def _bring_in_read(self, arriving: "Sequence[tuple[Arrival, Any, Any]]") -> None:
        """Take in what was read, and stand on the cell of its first run."""
        first = arriving[0][0]
        self._board().stand_on(first.rig, first.case.label)
        self._desk.bring_in_read(arriving)

    def _cell_named(self, snapshot: Snapshot) -> tuple[str, str]:
        """Rig and case, by name, of the Board's cell that a recording was dropped on; blank where
        it was not dropped on one.
        """
        dropped, self._dropped_at = self._dropped_at, None
        cell = self._board().cell_at(dropped) if dropped is not None else None
        contents = snapshot.contents
        if cell is None or cell[0] not in contents.rigs or cell[1] not in contents.cases:
            return "", ""
        return contents.rigs[cell[0]].name, contents.case_label(cell[1])

    def show_recording(self, run: "Run", second: float) -> None:
        """Show the picture that a run's figure was read from, `second` after its start; asks where
        the recording lies where that is not known.
        """
        from blunt_ruler.core.recordings.quantities import Box, Quantity

        read = run.recording
        if read is None:
            return
        path = self._settings.recording(read.sha256)
        if path is None:
            text, _ = QFileDialog.getOpenFileName(
                self._window, f"Where is {run.origin.file}?", run.origin.file, RECORDING_FILTER
            )
            if not text:
                return
            path = Path(text)
        boxes = tuple(Box(b.x, b.y, b.w, b.h, Quantity(b.quantity)) for b in read.boxes)
        self._read(path, read.from_s + second, boxes)

    def _show(self, given: "Given") -> None:
        if self._desk.snapshot is None:
            self._banner.show_said("The logbook was closed: the files were not taken in.")
            return
        shown = (*given.recordings, *given.pictures)
        if given.recordings:
            self._read(given.recordings[0])
        elif given.pictures:
            self._read_still(given.pictures[0])
        if len(shown) > 1:
            self._banner.show_said(f"One is read at a time: {shown[0].name} is open.")
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
