"""Notices inside the window: errors and news as a banner, work under way as a strip."""

import logging

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QProgressBar, QPushButton, QWidget

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.ui.jobs import Job, Jobs
from blunt_ruler.ui.parts import label

log = logging.getLogger(__name__)

SAID_FOR_MS = 6000
SHOW_WORK_AFTER_MS = 200  # quick work comes and goes without a flash


class Banner(QFrame):
    """One sentence at the top of the window until it is dismissed."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("banner")
        self.words = label("")
        self.words.setAccessibleName("Notice")
        close = QPushButton("Dismiss")
        close.clicked.connect(self.hide)
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 6, 8, 6)
        row.addWidget(self.words, 1)
        row.addWidget(close)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.hide)
        self.hide()

    def show_error(self, error: Exception) -> None:
        """A user-fixable error as its sentence; anything else as our fault, with its name."""
        self._timer.stop()
        if isinstance(error, UserFixable):
            words = str(error)
        else:
            log.error("fault in the background", exc_info=error)
            words = (
                f"A fault inside Blunt Ruler stopped this ({type(error).__name__}: {error}). "
                "Nothing was changed; the log on the terminal has the details."
            )
        self._show("error", words)

    def show_said(self, words: str) -> None:
        """News that goes away by itself."""
        self._show("said", words)
        self._timer.start(SAID_FOR_MS)

    def _show(self, kind: str, words: str) -> None:
        self.setProperty("kind", kind)
        style = self.style()
        if style is not None:
            style.unpolish(self)
            style.polish(self)
        self.words.setText(words)
        self.show()


class WorkStrip(QFrame):
    """What is being done in the background, how far it is, and Cancel."""

    def __init__(self, jobs: Jobs, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("strip")
        self._job: Job | None = None
        self.words = label("", "quiet", wrap=False)
        self.bar = QProgressBar()
        self.bar.setRange(0, 1000)
        self.bar.setTextVisible(False)
        self.cancel = QPushButton("Cancel")
        self.cancel.clicked.connect(self._on_cancel)
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 4, 16, 4)
        row.setSpacing(14)
        row.addWidget(self.words)
        row.addWidget(self.bar, 1)
        row.addWidget(self.cancel)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.show)
        self.watch(jobs)
        self.hide()

    def watch(self, jobs: Jobs) -> None:
        """Show the work of some more jobs."""
        jobs.started.connect(self._on_started)

    def _on_started(self, job: Job) -> None:
        self._job = job
        self.words.setText(job.words)
        self.bar.setValue(0)
        job.progressed.connect(self._on_progress)
        job.ended.connect(lambda: self._on_ended(job))
        self._timer.start(SHOW_WORK_AFTER_MS)

    def _on_progress(self, words: str, share: float) -> None:
        self.words.setText(words)
        self.bar.setValue(round(share * 1000))

    def _on_ended(self, job: Job) -> None:
        if self._job is job:
            self._timer.stop()
            self._job = None
            self.hide()

    def _on_cancel(self) -> None:
        if self._job is not None:
            self._job.cancel()
