"""Actions by name, made from what is offered: the window's own, and those of the stops."""

from collections.abc import Iterable

from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QWidget

from blunt_ruler.ui.desk.controller import Offer
from blunt_ruler.ui.desk.snapshot import Snapshot
from blunt_ruler.ui.kit.tips import no_shortcut, plain_tip


class Actions:
    """Every action of a window; those that need a logbook wait for one."""

    def __init__(self, parent: QWidget, offers: Iterable[Offer]) -> None:
        self.by_name: dict[str, QAction] = {}
        self.menus: dict[str, list[QAction]] = {}
        self._need_book: list[QAction] = []
        for offer in offers:
            action = QAction(offer.words, parent)
            if offer.keys:
                action.setShortcuts(QKeySequence.listFromString(offer.keys))
            action.triggered.connect(lambda _checked, offer=offer: offer.slot())
            parent.addAction(action)
            self.by_name[offer.words] = action
            self.menus.setdefault(offer.menu, []).append(action)
            if offer.needs_book:
                self._need_book.append(action)
        self._wait_for_book()

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Offer what can be done with a logbook open; undo and redo by their names."""
        for action in self._need_book:
            action.setEnabled(True)
            action.setToolTip("")
        self._name_edits(snapshot.undo, snapshot.redo)

    def show_nothing(self) -> None:
        """Offer what can be done with no logbook open."""
        self._wait_for_book()
        self._name_edits(None, None)

    def _wait_for_book(self) -> None:
        for action in self._need_book:
            action.setEnabled(False)
            action.setToolTip("Open or make a logbook first")

    def _name_edits(self, undo: str | None, redo: str | None) -> None:
        for words, label in (("Undo", undo), ("Redo", redo)):
            self.by_name[words].setEnabled(label is not None)
            self.by_name[words].setToolTip(
                plain_tip(label or f"There is nothing to {words.lower()}")
            )
            self.by_name[words].setText(no_shortcut(f"{words}: {label}" if label else words))
