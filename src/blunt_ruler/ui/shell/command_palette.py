"""The command palette: every action by name, with its shortcut (Ctrl+K)."""

from collections.abc import Sequence

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QAction, QKeyEvent
from PyQt6.QtWidgets import (
    QFrame,
    QHeaderView,
    QLineEdit,
    QTreeWidget,
    QTreeWidgetItem,
    QWidget,
)

from blunt_ruler.ui.kit.layouts import stacked


class CommandPalette(QFrame):
    """A list over the window; typing narrows it, Enter does it, Escape leaves it."""

    def __init__(self, parent: QWidget, actions: Sequence[QAction]) -> None:
        super().__init__(parent)
        self.setObjectName("palette")
        self._actions = actions
        self.entry = QLineEdit()
        self.entry.setPlaceholderText("What do you want to do?")
        self.entry.setAccessibleName("Filter actions")
        self.list = QTreeWidget()
        self.list.setColumnCount(2)
        self.list.setHeaderHidden(True)
        self.list.setRootIsDecorated(False)
        head = self.list.header()
        if head is not None:
            head.setStretchLastSection(False)
            head.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
            head.setSectionResizeMode(1, QHeaderView.ResizeMode.ResizeToContents)
        self.list.setAccessibleName("Actions")
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        stacked(self.entry, self.list, margins=(10, 10, 10, 10), on=self)
        self.entry.textChanged.connect(self._fill)
        self.entry.installEventFilter(self)
        self.list.itemClicked.connect(self._do)
        self.hide()

    def open(self) -> None:
        """Show the palette over the middle of the window's upper half."""
        parent = self.parentWidget()
        assert parent is not None
        self.resize(460, min(420, parent.height() - 120))
        self.move((parent.width() - self.width()) // 2, 70)
        self.entry.clear()
        self._fill("")
        self.show()
        self.raise_()
        self.entry.setFocus()

    def _fill(self, words: str) -> None:
        self.list.clear()
        wanted = words.lower().split()
        for action in self._actions:
            name = action.text().replace("&&", "&")
            if not all(word in name.lower() for word in wanted):
                continue
            item = QTreeWidgetItem([name, action.shortcut().toString()])
            item.setData(0, Qt.ItemDataRole.UserRole, action)
            item.setTextAlignment(1, Qt.AlignmentFlag.AlignRight)
            item.setDisabled(not action.isEnabled())
            self.list.addTopLevelItem(item)
        self._move_to(0)

    def _move_to(self, row: int) -> None:
        if count := self.list.topLevelItemCount():
            self.list.setCurrentItem(self.list.topLevelItem(row % count))

    def _do(self, item: QTreeWidgetItem | None) -> None:
        if item is None or item.isDisabled():
            return
        self.hide()
        item.data(0, Qt.ItemDataRole.UserRole).trigger()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Keys of the entry that belong to the list; losing focus closes it."""
        if event is not None and event.type() == QEvent.Type.FocusOut:
            self.hide()
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            key = event.key()
            move = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(key))
            if move is not None:
                at = self.list.currentItem()
                self._move_to((self.list.indexOfTopLevelItem(at) if at else 0) + move)
                return True
            if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._do(self.list.currentItem())
                return True
            if key == Qt.Key.Key_Escape:
                self.hide()
                return True
        return super().eventFilter(watched, event)
