"""The shelf: the logbook's parts and generic ones, put on the chosen rigs by Enter or by drag."""

from collections.abc import Sequence

from PyQt6.QtCore import QMimeData, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import QAbstractItemView, QListView, QListWidget, QListWidgetItem

from blunt_ruler.core.rigs.rig_edits import PART_TABLES, Part, all_parts, parts_line
from blunt_ruler.core.rigs.strip import PARTS, Place
from blunt_ruler.exchange.parts.part_files import catalogue
from blunt_ruler.ui.bench.rigs_table import part_mime
from blunt_ruler.ui.desk.chosen import Chosen
from blunt_ruler.ui.desk.snapshot import Snapshot, new_id
from blunt_ruler.ui.desk.stop import Page
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.kit.tips import plain_tip
from blunt_ruler.ui.kit.widgets import label

CHIP = QSize(186, 34)
PART_ROLE = Qt.ItemDataRole.UserRole
KIND_ROLE = Qt.ItemDataRole.UserRole + 1


class _Chips(QListWidget):
    """Parts beside one another; a dragged one says which it is."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("shelf")
        self.setAccessibleName("Shelf of parts")
        self.setFlow(QListView.Flow.LeftToRight)
        self.setWrapping(True)
        self.setResizeMode(QListView.ResizeMode.Adjust)
        self.setMovement(QListView.Movement.Static)
        self.setGridSize(CHIP)
        self.setSpacing(0)
        self.setTextElideMode(Qt.TextElideMode.ElideRight)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setDragEnabled(True)
        self.setDragDropMode(QAbstractItemView.DragDropMode.DragOnly)

    def mimeData(self, items: "Sequence[QListWidgetItem]") -> QMimeData:  # type: ignore[override]
        """The part that is dragged."""
        item = items[0]
        return part_mime(item.data(KIND_ROLE), item.data(PART_ROLE).id)


class ShelfPage(Page):
    """Parts of the chosen kind, those of the logbook first, then generic ones.

    Signals:
        part_wanted(str, Part): put this kind of part on the chosen rigs.
    """

    part_wanted = pyqtSignal(str, object)

    def __init__(self, chosen: Chosen) -> None:
        super().__init__()
        self._chosen = chosen
        self.place = Place.RIG
        self.generic: tuple[tuple[str, Part], ...] = tuple(
            (kind, part)
            for part in catalogue(new_id)
            for kind, table in PART_TABLES.items()
            if type(part).__name__.lower() == kind and table
        )
        self.says = label("", "quiet", wrap=False)
        self.chips = _Chips()
        self.chips.itemActivated.connect(self._on_activated)
        stacked(beside(self.says, STRETCH), (self.chips, 1), spacing=5, on=self)
        self._snapshot: Snapshot | None = None

    def show_place(self, place: Place) -> None:
        """Show the parts for a place; all of them where it is not a part's."""
        if place is not self.place:
            self.place = place
            if self._snapshot is not None:
                self.show_snapshot(self._snapshot)

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Show what the logbook has, and what it could have."""
        self._snapshot = snapshot
        contents = snapshot.contents
        rig = contents.rigs.get(self._chosen.rig)
        kinds = [str(self.place)] if self.place in PARTS else [str(place) for place in PARTS]
        row = self.chips.currentRow()
        self.chips.clear()
        own = 0
        for kind in kinds:
            on = getattr(rig, f"{kind}_id") if rig is not None else None
            table = getattr(contents, PART_TABLES[kind])
            for part in table.values():
                own += 1
                if part.id != on:
                    self._add(kind, part, "")
        names = {part.name for part in all_parts(contents)}
        for kind, part in self.generic:
            if kind in kinds and part.name not in names:
                self._add(kind, part, "generic")
        self.chips.setCurrentRow(min(max(row, 0), self.chips.count() - 1))
        self.says.setText(parts_line(kinds, own, rig.name if rig is not None else ""))

    def _add(self, kind: str, part: Part, mark: str) -> None:
        item = QListWidgetItem(part.name)
        item.setSizeHint(CHIP - QSize(8, 6))
        item.setData(PART_ROLE, part)
        item.setData(KIND_ROLE, kind)
        marked = f"{mark} " if mark else ""
        item.setToolTip(plain_tip(f"{part.name}, {marked}{kind}: Enter puts it in place"))
        item.setData(
            Qt.ItemDataRole.AccessibleTextRole, f"{part.name}, {f'{mark} ' if mark else ''}{kind}"
        )
        if mark:
            item.setForeground(QColor(theme.current().steel))
        self.chips.addItem(item)

    def _on_activated(self, item: QListWidgetItem) -> None:
        self.part_wanted.emit(item.data(KIND_ROLE), item.data(PART_ROLE))

    def part(self, kind: str, part_id: str) -> Part | None:
        """A part of the shelf by its id."""
        for row in range(self.chips.count()):
            item = self.chips.item(row)
            if item is not None and item.data(KIND_ROLE) == kind:
                part: Part = item.data(PART_ROLE)
                if part.id == part_id:
                    return part
        return None
