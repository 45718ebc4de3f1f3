"""A title's start command, shown whole, and whether it may be run."""

import math
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtGui import QFont, QResizeEvent, QShowEvent, QTextOption
from PyQt6.QtWidgets import QCheckBox, QPlainTextEdit, QWidget

from blunt_ruler.core.analysis.hands_free import BadCommand
from blunt_ruler.files import CannotWrite, cannot_write
from blunt_ruler.ui.desk.jobs import Jobs
from blunt_ruler.ui.kit.faults import sentence
from blunt_ruler.ui.kit.layouts import beside, stacked
from blunt_ruler.ui.kit.widgets import allow, label
from blunt_ruler.ui.runs.consent import (
    Consents,
    ProgramFile,
    StartCommand,
    command_of,
    identity_of,
    looked_at,
)

NO_COMMAND = (
    "No start command. Write one among the title's facts on the Board, or start the title by hand."
)
READING = "The program file is being read"
UNSEEN = "Scroll to the end of the command first"
NOT_ALLOWED = "Read the start command and allow it first"
MOST_LINES = 4
SLACK = 3  # pixels; with less, a single line can be scrolled


class CommandPanel(QWidget):
    """Asks whether a command may be run, once all of it has been on screen.

    Signals:
        changed(): whether the title can be started may be another thing now.
        withdrawn(): the command that was allowed is no longer.
        error_raised(object): a consent could not be kept.
    """

    changed = pyqtSignal()
    withdrawn = pyqtSignal()
    error_raised = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.consents: Consents | None = None
        self.command: StartCommand | None = None
        self.wrong = ""  # why there is no command although one is written down
        self.jobs = Jobs(threads=1, parent=self)
        self._asked: tuple[str, Path | None] | None = None
        self._file: ProgramFile | None = None
        self._lines_seen = self._width = self._around = 0
        self.text = QPlainTextEdit()
        self.text.setReadOnly(True)
        self.text.setUndoRedoEnabled(False)
        self.text.setTabChangesFocus(True)
        self.text.setWordWrapMode(QTextOption.WrapMode.WrapAnywhere)
        plain = QFont(self.text.font())
        plain.setFeature(QFont.Tag("liga"), 0)  # letter by letter, as it will be run
        self.text.setFont(plain)
        document = self.text.document()
        assert document is not None
        document.setDocumentMargin(0)  # so that a page further down leaves no line out
        self.text.setAccessibleName("The title's start command")
        self.allowed = QCheckBox("This command may be run")
        self.allowed.clicked.connect(self._on_clicked)
        self.says = label("", "quiet")
        stacked(beside((self.text, 1), self.allowed, spacing=12), self.says, spacing=4, on=self)
        bar = self._bar()
        bar.valueChanged.connect(self._look)
        bar.rangeChanged.connect(self._look)
        self.show_text("", None)

    def _bar(self) -> Any:
        return self.text.verticalScrollBar()

    # What is shown

    def show_text(self, text: str, logbook: Path | None) -> None:
        """Show the command of a title of a logbook; blank where it has none."""
        if (text, logbook) == self._asked:
            return
        self._asked, self._file, self.command, self.wrong = (text, logbook), None, None, ""
        self.jobs.cancel_all()
        try:
            self.command = command_of(text) if text.strip() else None
        except BadCommand as error:
            self.wrong = str(error)
        self._lines_seen = 0
        self._width = 0
        self.text.setPlainText(self.command.words if self.command else self.wrong)
        self.text.setVisible(bool(text.strip()))
        self.allowed.setVisible(self.command is not None)
        self.allowed.setChecked(False)
        self.says.setText("" if text.strip() else NO_COMMAND)
        if self.command is not None:
            self._read_program()
        self._show()
        QTimer.singleShot(0, self._look)  # when it is laid out

    def _lines(self) -> tuple[int, float]:
        """How many lines the command has on screen, and the height of one in pixels."""
        document = self.text.document()
        assert document is not None
        layout, block = document.documentLayout(), document.firstBlock()
        assert layout is not None
        lines = max(block.lineCount(), 1)
        return lines, layout.blockBoundingRect(block).height() / lines

    def _fit(self) -> None:
        """As high as the command, up to some lines; what is over is scrolled to."""
        viewport = self.text.viewport()
        assert viewport is not None
        lines, height = self._lines()
        if not self._around:  # frame and padding, once the style has set them
            self._around = self.text.height() - viewport.height()
        self.text.setFixedHeight(math.ceil(height * min(lines, MOST_LINES)) + SLACK + self._around)

    def _read_program(self) -> None:
        assert self.command is not None
        program, asked = self.command.program, self._asked
        self.says.setText(f"{READING} …")

        def done(file: ProgramFile) -> None:
            if asked == self._asked:
                self._file = file
                self.says.setText(
                    f"{program}, SHA-256 {file.sha256[:16]}…, is started in your home folder, and "
                    "what it prints is not kept. Consent is for this command, this program file, "
                    "this logbook and this computer."
                )
                self.allowed.setChecked(self._is_allowed())
                self._show()
                self.changed.emit()

        def failed(error: Exception) -> None:
            if asked == self._asked:
                self.wrong = sentence(error)
                self.says.setText(self.wrong)
                self._show()
                self.changed.emit()

        self.jobs.run(READING, lambda step: looked_at(program, step), done, failed)

    def _is_allowed(self) -> bool:
        command, file, consents = self.command, self._file, self.consents
        logbook = self._asked[1] if self._asked else None
        if command is None or file is None or consents is None or logbook is None:
            return False
        return consents.allows(command, file, logbook)

    @property
    def why_not(self) -> str:
        """Why the title cannot be started from here; blank where it can, or by hand."""
        if self.wrong or self.command is None:
            return self.wrong
        if self._file is None:
            return READING
        return "" if self.allowed.isChecked() else NOT_ALLOWED

    def is_as_allowed(self) -> bool:
        """Whether the program's file is still the one that was allowed; if not, it is read anew and
        has to be allowed again.
        """
        if self.command is None or self._file is None:
            return False
        try:
            if identity_of(self.command.program) == self._file.identity:
                return self._is_allowed()
        except BadCommand:
            pass
        asked, self._asked = self._asked, None
        assert asked is not None
        self.show_text(*asked)
        self.changed.emit()
        return False

    # What has been seen of it

    def showEvent(self, a0: QShowEvent | None) -> None:
        super().showEvent(a0)
        QTimer.singleShot(0, self._look)

    def resizeEvent(self, a0: QResizeEvent | None) -> None:
        super().resizeEvent(a0)
        QTimer.singleShot(0, self._look)

    def _look(self) -> None:
        """Count the lines that have been on screen without a gap from the first on."""
        bar, viewport = self._bar(), self.text.viewport()
        assert viewport is not None
        if not self.text.isVisible():
            return
        if viewport.width() != self._width:  # it has other lines now
            self._width, self._lines_seen = viewport.width(), 0
            self._fit()
        whole = int(viewport.height() / max(self._lines()[1], 1))
        if bar.value() <= self._lines_seen:
            self._lines_seen = max(self._lines_seen, bar.value() + whole)
        self._show()

    def _show(self) -> None:
        seen = self._lines()[0] <= self._lines_seen
        why = READING if self._file is None else "" if seen or self.allowed.isChecked() else UNSEEN
        allow(self.allowed, self.wrong or why)

    def _on_clicked(self, on: bool) -> None:
        command, file, logbook = self.command, self._file, self._asked and self._asked[1]
        if command is None or file is None or logbook is None or self.consents is None:
            self.allowed.setChecked(False)
            return
        try:
            self.consents.put(command, file, logbook, on)
        except OSError as error:
            self.allowed.setChecked(not on)
            self.error_raised.emit(_not_kept(error))
        self._show()
        self.changed.emit()
        if not self.allowed.isChecked():
            self.withdrawn.emit()


def _not_kept(error: OSError) -> CannotWrite:
    return cannot_write(Path(error.filename or "allowed.json"), error)
