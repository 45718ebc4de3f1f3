"""The disclosures page: where tested things came from, and who tested them."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from blunt_ruler.core.records.writeup_settings import Disclosure, WriteUp
from blunt_ruler.ui.part_form import PartForm
from blunt_ruler.ui.tables import table
from blunt_ruler.ui.widgets import card, label


class DisclosuresPage(QWidget):
    """What a reader must know of where things came from.

    Signals:
        writeup_changed(object, str): the write-up as it should be, and the words of the edit.
    """

    writeup_changed = pyqtSignal(object, str)

    def __init__(self) -> None:
        super().__init__()
        self._writeup = WriteUp()
        self._place = 0
        self.byline = QLineEdit()
        self.byline.setAccessibleName("Tested by")
        self.byline.setPlaceholderText("who tested it, as it should be printed")
        self.byline.editingFinished.connect(self._on_byline)
        by = QHBoxLayout()
        by.addWidget(label("tested by", "quiet", wrap=False))
        by.addWidget(self.byline, 1)
        self.tree = table("Disclosures", ["What", "How it came", "From whom"], [0, 150, 200])
        self.tree.currentItemChanged.connect(self._on_chosen)
        self.add, self.drop = QPushButton("Add a disclosure"), QPushButton("Take it away")
        self.add.clicked.connect(self._on_add)
        self.drop.clicked.connect(self._on_drop)
        deeds = QHBoxLayout()
        deeds.addWidget(self.add)
        deeds.addWidget(self.drop)
        deeds.addStretch(1)
        self.form = PartForm(Disclosure, ("notes",))
        self.form.part_changed.connect(self._on_part)
        around = QVBoxLayout(self)
        around.setContentsMargins(0, 0, 0, 0)
        around.setSpacing(8)
        around.addLayout(by)
        around.addWidget(
            label(
                "Name every tested thing that was lent, given, sponsored or bought for the test, "
                "and what was asked in return. What is neither owned nor named is printed as "
                "not stated.",
                "quiet",
            )
        )
        around.addWidget(self.tree, 1)
        around.addLayout(deeds)
        around.addWidget(card(self.form))
        around.addStretch(1)

    def show_writeup(self, writeup: WriteUp) -> None:
        """Show the disclosures; the chosen one stays chosen."""
        self._writeup = writeup
        if not self.byline.isModified():
            self.byline.setText(writeup.byline)
        self._place = min(self._place, max(len(writeup.disclosures) - 1, 0))
        self.tree.blockSignals(True)
        self.tree.clear()
        for place, one in enumerate(writeup.disclosures):
            item = QTreeWidgetItem([one.what, str(one.terms), one.by])
            item.setToolTip(0, one.notes)
            self.tree.addTopLevelItem(item)
            if place == self._place:
                self.tree.setCurrentItem(item)
        self.tree.blockSignals(False)
        self._show_form()

    def _show_form(self) -> None:
        there = bool(self._writeup.disclosures)
        self.drop.setEnabled(there)
        shown = self._writeup.disclosures[self._place] if there else None
        self.form.show_part(shown, f"{self._place}")

    def _on_chosen(self, item: QTreeWidgetItem | None, _before: object) -> None:
        if item is not None:
            self._place = self.tree.indexOfTopLevelItem(item)
            self._show_form()

    def _on_byline(self) -> None:
        self.byline.setModified(False)
        if self.byline.text().strip() != self._writeup.byline:
            changed = self._writeup.model_copy(update={"byline": self.byline.text().strip()})
            self.writeup_changed.emit(changed, "who tested it")

    def _put(self, disclosures: list[Disclosure], words: str) -> None:
        changed = self._writeup.model_copy(update={"disclosures": tuple(disclosures)})
        self.writeup_changed.emit(changed, words)

    def _on_part(self, part: object, field: str) -> None:
        disclosures = list(self._writeup.disclosures)
        disclosures[self._place] = part  # type: ignore[call-overload]
        self._put(disclosures, f"{field} of a disclosure")

    def _on_add(self) -> None:
        self._place = len(self._writeup.disclosures)
        self._put([*self._writeup.disclosures, Disclosure(what="A tested thing")], "disclose")

    def _on_drop(self) -> None:
        disclosures = list(self._writeup.disclosures)
        gone = disclosures.pop(self._place)
        self._put(disclosures, f"take the disclosure of {gone.what} away")
