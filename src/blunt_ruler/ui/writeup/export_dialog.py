"""Ask in which formats a report is written, and where."""

from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QPlainTextEdit, QWidget

from blunt_ruler.core.text import capital, count_text
from blunt_ruler.core.writeup.private_words import PrivateWords
from blunt_ruler.exchange.documents.writeup.files import Format
from blunt_ruler.ui.kit.layouts import stacked
from blunt_ruler.ui.kit.widgets import label
from blunt_ruler.ui.writeup.folder_dialog import FolderDialog

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


class ExportDialog(FolderDialog):
    """Formats, the bundle, and the folder.

    Signals:
        confirmed(list, bool, Path): these formats, a bundle too or not, into this folder.
    """

    confirmed = pyqtSignal(object, bool, object)

    def __init__(self, name: str, folder: Path, parent: QWidget | None = None) -> None:
        buttons = ("Write the files", "Cancel")
        super().__init__("Write the report", "the report", folder, buttons, parent)
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
            "Bundle: this review's runs and traces for others to check, and all of it in one zip"
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
        around.addSpacing(6)
        around.addLayout(self.folder_row())
        around.addWidget(self.problem)
        around.addLayout(self.button_row())
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

    def lacking(self) -> str:
        """That nothing is ticked."""
        if self.formats() or self.bundle.isChecked():
            return ""
        return "Nothing is ticked. Tick at least one format."

    def confirm(self) -> None:
        """Tell the formats, the bundle and the folder."""
        self.confirmed.emit(self.formats(), self.bundle.isChecked(), self.chosen_folder)
        self.accept()
