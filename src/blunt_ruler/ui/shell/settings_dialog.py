"""Settings: the look of the window, what it remembers, and where files are kept."""

from functools import partial
from pathlib import Path

from PyQt6.QtCore import Qt, QUrl, pyqtSignal
from PyQt6.QtGui import QDesktopServices
from PyQt6.QtWidgets import QComboBox, QDialog, QGridLayout, QLabel, QPushButton, QWidget

from blunt_ruler import diary
from blunt_ruler.core.text import capital
from blunt_ruler.ui.desk import settings as remembered
from blunt_ruler.ui.desk.settings import Memory, Settings
from blunt_ruler.ui.kit.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.kit.theme import ThemeName
from blunt_ruler.ui.kit.widgets import label

BUTTON_WIDTH = 76  # one edge for all of them


def places() -> dict[str, Path]:
    """Folders and what is kept in each."""
    return {
        "Logbooks made without asking": remembered.logbooks_folder(),
        "Your copy of the demo": remembered.demo_copy_path().parent,
        "Logbooks rescued when their file was gone": remembered.rescue_folder(),
        "Settings": remembered.config_folder(),
        "Faults, without your data": diary.log_path().parent,
    }


class SettingsDialog(QDialog):
    """Each change takes effect at once.

    Signals:
        theme_chosen(ThemeName): put the window into this theme.
    """

    theme_chosen = pyqtSignal(object)

    def __init__(self, settings: Settings, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._settings = settings
        self.setWindowTitle("Settings")
        self.setMinimumWidth(720)
        self.theme = QComboBox()
        for name in ThemeName:
            self.theme.addItem(capital(str(name)), name)
        self.theme.setCurrentIndex(self.theme.findData(settings.theme))
        self.theme.activated.connect(lambda _at: self.theme_chosen.emit(self.theme.currentData()))
        theme_label = QLabel("&Theme")
        theme_label.setBuddy(self.theme)
        self.size_box = QComboBox()
        for percent in remembered.SIZES:
            self.size_box.addItem(f"{percent}\u202f%", percent)
        self.size_box.setCurrentIndex(self.size_box.findData(settings.size))
        self.size_box.activated.connect(self._choose_size)
        size_label = QLabel("&Size of text and pictures")
        size_label.setBuddy(self.size_box)
        self.size_note = label("", "quiet", wrap=False)
        close = QPushButton("Close")
        close.setDefault(True)
        close.clicked.connect(self.accept)
        keys = label(
            "Ctrl+K lists every action with its key. Every edit is saved at once.", "quiet"
        )
        stacked(
            label("LOOK", "heading"),
            beside(
                theme_label,
                self.theme,
                14,
                size_label,
                self.size_box,
                self.size_note,
                STRETCH,
                spacing=10,
            ),
            8,
            label("REMEMBERED ON THIS COMPUTER", "heading"),
            self._memory_rows(),
            8,
            label("WHERE FILES ARE KEPT", "heading"),
            self._place_rows(),
            10,
            beside((keys, 1), close, spacing=12),
            spacing=7,
            margins=(20, 16, 20, 16),
            on=self,
        )

    def _choose_size(self, _at: int) -> None:
        self._settings.size = self.size_box.currentData()
        self.size_note.setText("at the next start")

    def _memory_rows(self) -> QGridLayout:
        grid = _grid()
        self.forget: dict[Memory, QPushButton] = {}
        self._counts: dict[Memory, QLabel] = {}
        for row, memory in enumerate(Memory):
            count = label("", "quiet", wrap=False)
            count.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            button = _button("Forget")
            button.setAccessibleName(f"Forget {memory}")
            button.clicked.connect(partial(self._forget, memory))
            self.forget[memory], self._counts[memory] = button, count
            grid.addWidget(label(capital(str(memory)), wrap=False), row, 0)
            grid.addWidget(count, row, 1)
            grid.addWidget(button, row, 2)
            self._show_count(memory)
        return grid

    def _show_count(self, memory: Memory) -> None:
        count = self._settings.count(memory)
        self._counts[memory].setText(str(count) if count else "none")
        self.forget[memory].setEnabled(count > 0)

    def _forget(self, memory: Memory) -> None:
        self._settings.forget(memory)
        self._show_count(memory)

    def _place_rows(self) -> QGridLayout:
        grid = _grid()
        self.opens: dict[str, QPushButton] = {}
        for row, (what, folder) in enumerate(places().items()):
            path = label(_shown(folder), "quiet", wrap=False)
            path.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
            path.setToolTip(str(folder))
            button = _button("Open")
            button.setAccessibleName(f"Open the folder: {what}")
            button.setEnabled(folder.is_dir())
            if not folder.is_dir():
                button.setToolTip("Nothing has been kept there yet")
            button.clicked.connect(partial(_open_folder, folder))
            self.opens[what] = button
            grid.addWidget(label(what, wrap=False), row, 0)
            grid.addWidget(path, row, 1)
            grid.addWidget(button, row, 2)
        return grid


def _button(words: str) -> QPushButton:
    button = QPushButton(words)
    button.setFixedWidth(BUTTON_WIDTH)
    return button


def _grid() -> QGridLayout:
    grid = QGridLayout()
    grid.setHorizontalSpacing(16)
    grid.setVerticalSpacing(4)
    grid.setColumnStretch(1, 1)
    return grid


def _shown(folder: Path) -> str:
    """A folder as people write it: the home folder is “~”."""
    home = Path.home()
    return f"~/{folder.relative_to(home)}" if folder.is_relative_to(home) else str(folder)


def _open_folder(folder: Path) -> None:
    QDesktopServices.openUrl(QUrl.fromLocalFile(str(folder)))
