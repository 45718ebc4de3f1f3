"""Ask in which formats a report is written, and where."""

from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QDialog,
    QFileDialog,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QWidget,
)

from blunt_ruler.core.text import capital, count_text
from blunt_ruler.core.writeup.private_words import PrivateWords
from blunt_ruler.exchange.documents.writeup.files import Format
from blunt_ruler.ui.kit.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.kit.widgets import allow, label

SAYS = {
    Format.HTML: "one page with fonts and charts inside, every figure traceable",
    Format.PDF: "the same for print, A4",
    Format.MD: "Markdown, and a narration sheet",
    Format.CSV: "the Board and every figure with the runs behind it, tidy",
    Format.ODS: "every table as a workbook with true numbers",
    Format.JSON: "everything for other programs, with its schema",
    Format.SVG: "charts as vectors",
    Format.PNG: "charts at 1280 × 720 and 1920 × 1080",
}


LISTED = 4  # lines of private texts on screen at once


class ExportDialog(QDialog):
    """Formats, the bundle, and the folder.

    Signals:
        confirmed(list, bool, Path): these formats, a bundle too or not, into this folder.
    """

    confirmed = pyqtSignal(object, bool, object)

    def __init__(self, name: str, folder: Path, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Write the report")
        self.setMinimumWidth(620)
        self.boxes: dict[Format, QCheckBox] = {}
        around = stacked(
            label(f"Write “{name}” as", "head"), spacing=7, margins=(20, 16, 20, 16), on=self
        )
        for one in Format:
            box = QCheckBox(f"{one.upper()}: {SAYS[one]}")
            box.setChecked(True)
            box.toggled.connect(lambda _on: self._check())
            self.boxes[one] = box
            around.addWidget(box)
        self.bundle = QCheckBox(
            "Bundle: a logbook with this review's runs and traces, for others to check, and hashes"
        )
        self.bundle.toggled.connect(lambda _on: self._check())
        self.bundle.toggled.connect(lambda _on: self._show_private())
        around.addWidget(self.bundle)
        self.private = QPlainTextEdit()
        self.private.setReadOnly(True)
        self.private.setTabChangesFocus(True)
        self.private.setAccessibleName("What the bundle says that may be private")
        self.private.setFixedHeight(LISTED * self.private.fontMetrics().lineSpacing() + 18)
        self.private_says = label("", "error")
        around.addWidget(self.private_says)
        around.addWidget(self.private)
        self._private: Sequence[PrivateWords] = ()
        self._show_private()
        self.folder = QLineEdit(str(folder))
        self.folder.setAccessibleName("Folder")
        self.folder.textEdited.connect(lambda _text: self._check())
        choose = QPushButton("Choose…")
        choose.clicked.connect(self._on_choose)
        around.addSpacing(6)
        around.addLayout(
            beside(label("into the folder", "quiet", wrap=False), (self.folder, 1), choose)
        )
        self.problem = label("", "error")
        around.addWidget(self.problem)
        self.go, leave = QPushButton("Write the files"), QPushButton("Leave it")
        self.go.setObjectName("primary")
        self.go.setDefault(True)
        self.go.clicked.connect(self._on_go)
        leave.clicked.connect(self.reject)
        around.addLayout(beside(STRETCH, leave, self.go))
        self._check()

    def formats(self) -> list[Format]:
        """The ticked formats."""
        return [one for one, box in self.boxes.items() if box.isChecked()]

    def show_private(self, found: Sequence[PrivateWords]) -> None:
        """Name what a bundle would give away; nothing where it was not found."""
        self._private = found
        self._show_private()

    def _show_private(self) -> None:
        self.private_says.setText(
            f"The bundle holds {count_text(len(self._private), 'text')} that may be private. "
            "Change them in the logbook first, or leave the bundle out."
        )
        self.private.setPlainText("\n".join(capital(str(one)) for one in self._private))
        for part in (self.private_says, self.private):
            part.setVisible(bool(self._private) and self.bundle.isChecked())
        self.adjustSize()

    def _check(self) -> None:
        text = self.folder.text().strip()
        words = ""
        if not self.formats() and not self.bundle.isChecked():
            words = "Nothing is ticked. Tick at least one format."
        elif not text:
            words = "No folder is named. Type one or choose it."
        elif Path(text).is_file():
            words = f"“{text}” is a file, not a folder. Name a folder."
        self.problem.setText(words)
        self.problem.setVisible(bool(words))
        allow(self.go, words)

    def _on_choose(self) -> None:
        text = QFileDialog.getExistingDirectory(self, "Folder for the report", self.folder.text())
        if text:
            self.folder.setText(text)
            self._check()

    def _on_go(self) -> None:
        folder = Path(self.folder.text().strip()).expanduser()
        self.confirmed.emit(self.formats(), self.bundle.isChecked(), folder)
        self.accept()
