"""The history of edits: the journal as a list, so that every corrected figure can be seen."""

from collections.abc import Sequence

from PyQt6.QtWidgets import (
    QDialog,
    QHeaderView,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from blunt_ruler.logbook import JournalEntry
from blunt_ruler.ui.kit.layouts import STRETCH, beside
from blunt_ruler.ui.kit.tips import plain_tip
from blunt_ruler.ui.kit.widgets import label

ALL_THE_ROOM = QHeaderView.ResizeMode.Stretch
AS_ITS_WORDS = QHeaderView.ResizeMode.ResizeToContents
STATE_WORDS = {"done": "", "undone": "undone", "dropped": "undone, replaced by a later edit"}


class HistoryDialog(QDialog):
    """Every edit, the newest first, with the rows it changed below it."""

    def __init__(self, entries: Sequence[JournalEntry], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("History of edits")
        self.resize(760, 480)
        self.tree = QTreeWidget()
        self.tree.setAccessibleName("Edits, newest first")
        self.tree.setHeaderLabels(["Edit", "When (UTC)", ""])
        head = self.tree.header()
        if head is not None:
            head.setStretchLastSection(False)
            for place, mode in enumerate((ALL_THE_ROOM, AS_ITS_WORDS, AS_ITS_WORDS)):
                head.setSectionResizeMode(place, mode)
        for entry in entries:
            when = entry.at.replace("T", " ").removesuffix("+00:00")
            top = QTreeWidgetItem([entry.label, when, STATE_WORDS[entry.state]])
            for image in entry.images[:200]:
                what = "added" if image.before is None else "removed" if image.after is None else ""
                child = QTreeWidgetItem([f"{image.table} {image.id}", what or "changed", ""])
                child.setToolTip(0, plain_tip(f"before: {image.before}\nafter: {image.after}"))
                top.addChild(child)
            self.tree.addTopLevelItem(top)
        close = QPushButton("Close")
        close.clicked.connect(self.accept)
        around = QVBoxLayout(self)
        around.addWidget(label("What was changed, and when. Undo takes back the newest.", "quiet"))
        around.addWidget(self.tree)
        around.addLayout(beside(STRETCH, close))
