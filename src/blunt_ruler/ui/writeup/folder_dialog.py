"""A dialog that ends in a folder into which files are written."""

from pathlib import Path

from PyQt6.QtWidgets import QDialog, QFileDialog, QHBoxLayout, QLineEdit, QPushButton, QWidget

from blunt_ruler.ui.kit.layouts import STRETCH, beside
from blunt_ruler.ui.kit.widgets import allow, label


class FolderDialog(QDialog):
    """The folder, what is wrong with it or lacks, and the buttons; what else is asked is laid out
    above by those who inherit it, who then call `_check`.
    """

    def __init__(
        self, title: str, what: str, folder: Path, buttons: tuple[str, str], parent: QWidget | None
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self._what = what
        self.folder = QLineEdit(str(folder))
        self.folder.setAccessibleName("Folder")
        self.folder.textEdited.connect(lambda _text: self._check())
        self.problem = label("", "error")
        self.go, self.leave = QPushButton(buttons[0]), QPushButton(buttons[1])
        self.go.setObjectName("primary")
        self.go.setDefault(True)
        self.go.clicked.connect(self.confirm)
        self.leave.clicked.connect(self.reject)

    def folder_row(self) -> QHBoxLayout:
        """The folder with what it is for, and a button to look for another."""
        choose = QPushButton("Choose…")
        choose.clicked.connect(self._on_choose)
        return beside(label("into the folder", "quiet", wrap=False), (self.folder, 1), choose)

    def button_row(self) -> QHBoxLayout:
        """The buttons, at the right."""
        return beside(STRETCH, self.leave, self.go)

    @property
    def chosen_folder(self) -> Path:
        """The folder as it is typed."""
        return Path(self.folder.text().strip()).expanduser()

    def lacking(self) -> str:
        """What is not ticked, as a sentence; empty where nothing lacks."""
        raise NotImplementedError

    def confirm(self) -> None:
        """Tell what was chosen, and close."""
        raise NotImplementedError

    def _check(self) -> None:
        """Say what hinders writing."""
        text = self.folder.text().strip()
        words = self.lacking()
        if not words and not text:
            words = "No folder is named. Type one or choose it."
        elif not words and Path(text).is_file():
            words = f"“{text}” is a file, not a folder. Name a folder."
        self.problem.setText(words)
        self.problem.setVisible(bool(words))
        allow(self.go, words)

    def _on_choose(self) -> None:
        text = QFileDialog.getExistingDirectory(
            self, f"Folder for {self._what}", self.folder.text()
        )
        if text:
            self.folder.setText(text)
            self._check()
