"""The sections of a write-up as a list: which are shown, and in which order."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeySequence, QShortcut
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QWidget,
)

from blunt_ruler.core.records.writeup_settings import SECTION_TITLES, SectionKey, WriteUp
from blunt_ruler.ui.kit.layouts import stacked
from blunt_ruler.ui.kit.widgets import label

KEY_ROLE = Qt.ItemDataRole.UserRole + 10


class SectionList(QWidget):
    """Tick what is shown, move what should come earlier.

    Signals:
        writeup_changed(object, str): the write-up as it should be, and the words of the edit.
        section_chosen(str): show this section.
    """

    writeup_changed = pyqtSignal(object, str)
    section_chosen = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self._writeup = WriteUp()
        self.list = QListWidget()
        self.list.setAccessibleName("Sections in their order; tick those that are shown")
        self.list.itemChanged.connect(self._on_ticked)
        self.list.currentItemChanged.connect(self._on_chosen)
        self.up, self.down = QPushButton("Earlier"), QPushButton("Later")
        buttons = QHBoxLayout()
        for button, by, keys in ((self.up, -1, "Alt+Up"), (self.down, 1, "Alt+Down")):
            button.clicked.connect(lambda _on, by=by: self._move(by))
            button.setToolTip(keys)
            shortcut = QShortcut(QKeySequence(keys), self)
            shortcut.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
            shortcut.activated.connect(lambda by=by: self._move(by))
            buttons.addWidget(button)
        stacked(
            label("SECTIONS", "heading", wrap=False), (self.list, 1), buttons, spacing=6, on=self
        )

    def show_writeup(self, writeup: WriteUp) -> None:
        """Show the sections; the chosen one stays chosen."""
        chosen = self.chosen()
        self._writeup = writeup
        self.list.blockSignals(True)
        self.list.clear()
        everything = writeup.model_copy(update={"hidden": ()})
        for key in everything.sections():
            item = QListWidgetItem(SECTION_TITLES[key])
            item.setData(KEY_ROLE, key)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            shown = key not in writeup.hidden
            item.setCheckState(Qt.CheckState.Checked if shown else Qt.CheckState.Unchecked)
            self.list.addItem(item)
            if key == chosen:
                self.list.setCurrentItem(item)
        self.list.blockSignals(False)

    def chosen(self) -> SectionKey | None:
        """The chosen section."""
        item = self.list.currentItem()
        return None if item is None else item.data(KEY_ROLE)

    def _on_chosen(self, item: QListWidgetItem | None, _before: object) -> None:
        if item is not None:
            self.section_chosen.emit(str(item.data(KEY_ROLE)))

    def _on_ticked(self, item: QListWidgetItem) -> None:
        key, show = item.data(KEY_ROLE), item.checkState() is Qt.CheckState.Checked
        verb = "show" if show else "hide"
        self.writeup_changed.emit(
            self._writeup.shown(key, show), f"{verb} the section {SECTION_TITLES[key]}"
        )

    def _move(self, by: int) -> None:
        key = self.chosen()
        if key is None:
            return
        changed = self._writeup.moved(key, by)
        if changed != self._writeup:
            way = "earlier" if by < 0 else "later"
            self.writeup_changed.emit(changed, f"move {SECTION_TITLES[key]} {way}")
