"""Notices inside the window: errors and news as a banner, work under way as a strip."""

import logging
from collections.abc import Callable

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import (
    QApplication,
    QFrame,
    QProgressBar,
    QPushButton,
    QWidget,
)

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.diary import details
from blunt_ruler.ui.desk.jobs import Job, Jobs
from blunt_ruler.ui.kit import faults
from blunt_ruler.ui.kit.layouts import beside
from blunt_ruler.ui.kit.widgets import label

log = logging.getLogger(__name__)

SAID_FOR_MS = 6000
SHOW_WORK_AFTER_MS = 200  # quick work comes and goes without a flash


class Banner(QFrame):
    """One sentence at the top of the window until it is dismissed, with what can be done."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("banner")
        self.words = label("")
        self.words.setAccessibleName("Notice")
        self.offer = QPushButton()
        self.offer.clicked.connect(self._on_offer)
        self.copy = QPushButton("Copy the details")
        self.copy.clicked.connect(self._on_copy)
        close = QPushButton("Dismiss")
        close.clicked.connect(self.hide)
        beside((self.words, 1), self.offer, self.copy, close, margins=(12, 6, 8, 6), on=self)
        self._offered: Callable[[], None] | None = None
        self._details = ""
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.hide)
        self.hide()

    def show_error(self, error: BaseException) -> None:
        """A user-fixable error as its sentence; anything else as our fault, with its details."""
        words = faults.sentence(error)
        ours = not isinstance(error, UserFixable) and words.startswith("A fault")
        if ours:
            log.error("fault: %s", details(error))
        self._timer.stop()
        self._show("error", words, details=details(error) if ours else "")

    def show_said(self, words: str) -> None:
        """News that goes away by itself."""
        if self.isVisible() and self.property("kind") == "error":
            return  # what is wrong stays until it is dismissed
        self._show("said", words)
        self._timer.start(SAID_FOR_MS)

    def ask(self, words: str, offer: str, work: Callable[[], None], details: str = "") -> None:
        """Something wrong that a button can put right; it stays until it is dismissed."""
        self._timer.stop()
        self._show("error", words, offer=offer, details=details)
        self._offered = work

    def _show(self, kind: str, words: str, *, details: str = "", offer: str = "") -> None:
        self._details, self._offered = details, None
        self.copy.setVisible(bool(details))
        self.offer.setVisible(bool(offer))
        self.offer.setText(offer)
        self.setProperty("kind", kind)
        style = self.style()
        if style is not None:
            style.unpolish(self)
            style.polish(self)
        self.words.setText(words)
        self.show()

    def _on_offer(self) -> None:
        work = self._offered
        self.hide()
        if work is not None:
            work()

    def _on_copy(self) -> None:
        clipboard = QApplication.clipboard()
        if clipboard is not None:
            clipboard.setText(self._details)


class WorkStrip(QFrame):
    """What is being done in the background, how far it is, and Cancel."""

    def __init__(self, jobs: Jobs, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("strip")
        self._going: dict[Job, tuple[str, float]] = {}  # the oldest first
        self.words = label("", "quiet", wrap=False)
        self.bar = QProgressBar()
        self.bar.setRange(0, 1000)
        self.bar.setTextVisible(False)
        self.cancel = QPushButton("Cancel")
        self.cancel.clicked.connect(self._on_cancel)
        beside(self.words, (self.bar, 1), self.cancel, spacing=14, margins=(16, 4, 16, 4), on=self)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.show)
        self.watch(jobs)
        self.hide()

    def watch(self, jobs: Jobs) -> None:
        """Show the work of some more jobs."""
        jobs.started.connect(self._on_started)

    def _on_started(self, job: Job) -> None:
        self._going[job] = (job.words, 0.0)
        job.progressed.connect(lambda words, share: self._on_progress(job, words, share))
        job.ended.connect(lambda: self._on_ended(job))
        self._timer.start(SHOW_WORK_AFTER_MS)
        self._present()

    def _on_progress(self, job: Job, words: str, share: float) -> None:
        self._going[job] = (words, share)
        self._present()

    def _on_ended(self, job: Job) -> None:
        self._going.pop(job, None)
        self._present()

    def _present(self) -> None:
        """Show what has gone on longest; a short look at the file behind it does not hide it."""
        if not self._going:
            self._timer.stop()
            self.hide()
            return
        words, share = next(iter(self._going.values()))
        self.words.setText(words)
        self.bar.setValue(round(share * 1000))

    def _on_cancel(self) -> None:
        shown = next(iter(self._going), None)
        if shown is not None:
            shown.cancel()
