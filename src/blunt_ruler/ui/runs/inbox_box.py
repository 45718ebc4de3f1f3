"""The inbox on the sheet: which folder is watched, and what became of each log in it."""

from pathlib import Path

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QFileDialog,
    QFrame,
    QListWidget,
    QListWidgetItem,
    QPushButton,
)

from blunt_ruler.ui.kit.layouts import beside, stacked
from blunt_ruler.ui.kit.tips import plain_tip
from blunt_ruler.ui.kit.widgets import ElidedLabel, label


class InboxBox(QFrame):
    """The watched folder and its logs, the newest on top.

    Signals:
        watch_requested(object): watch this folder, none for None.
        log_wanted(Path): look at this log and take it in by hand.
    """

    watch_requested = pyqtSignal(object)
    log_wanted = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("card")
        self.words = ElidedLabel("quiet")
        self.choose = QPushButton("Choose a folder…")
        self.choose.clicked.connect(self._ask)
        self.unwatch = QPushButton("Stop watching")
        self.unwatch.clicked.connect(lambda: self.watch_requested.emit(None))
        self.arrived = QListWidget()
        self.arrived.setAccessibleName("Logs in the inbox")
        self.arrived.setMaximumHeight(96)
        self.arrived.itemActivated.connect(
            lambda item: self.log_wanted.emit(item.data(Qt.ItemDataRole.UserRole))
        )
        stacked(
            beside(
                label("INBOX", "heading", wrap=False), (self.words, 1), self.choose, self.unwatch
            ),
            self.arrived,
            margins=(16, 8, 12, 8),
            on=self,
        )
        self.show_folder(None)

    def _ask(self) -> None:
        text = QFileDialog.getExistingDirectory(self, "Folder where logs arrive")
        if text:
            self.watch_requested.emit(Path(text))

    def show_folder(self, folder: Path | None, is_there: bool = True) -> None:
        """Say which folder is watched, and whether it is there."""
        self.unwatch.setVisible(folder is not None)
        self.arrived.setVisible(folder is not None and self.arrived.count() > 0)
        self.words.show_words(
            "Choose the folder where your capture program drops its logs: each is taken in as it "
            "is finished."
            if folder is None
            else f"Watching {folder}"
            if is_there
            else f"{folder} is gone. It is watched again when it is back."
        )

    def add(self, path: Path, words: str) -> None:
        """Say what became of a log; one that waits is opened with Enter."""
        item = QListWidgetItem(f"{path.name}: {words}")
        item.setData(Qt.ItemDataRole.UserRole, path)
        item.setToolTip(plain_tip(item.text()))
        self.arrived.insertItem(0, item)
        self.arrived.show()
