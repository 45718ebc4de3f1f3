"""The strip of the chosen rig: a block is chosen by click or arrow, a part is dropped on it."""

from PyQt6.QtCore import QEvent, Qt, pyqtSignal
from PyQt6.QtGui import QDragEnterEvent, QDropEvent, QHelpEvent, QKeyEvent, QMouseEvent
from PyQt6.QtWidgets import QToolTip

from blunt_ruler.core.drawing.strip import HEIGHT, block_boxes, draw_strip
from blunt_ruler.core.rigs.strip import BLOCKS, Place, Strip, power_words
from blunt_ruler.ui.bench.rigs_table import dragged_part
from blunt_ruler.ui.kit.picture_view import PictureView

MARGIN = 12


class StripView(PictureView):
    """One rig as blocks.

    Signals:
        place_chosen(Place): a block was clicked, or reached by an arrow.
        dropped(str, str): this kind of part was dropped on the rig, by its id.
        facts_wanted(): Enter on a block.
    """

    place_chosen = pyqtSignal(object)
    dropped = pyqtSignal(str, str)
    facts_wanted = pyqtSignal()

    def __init__(self) -> None:
        super().__init__(height=round(HEIGHT))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAcceptDrops(True)
        self.setAccessibleName("The chosen rig, from host to picture")
        self._strip: Strip | None = None
        self._place = Place.RIG

    def show_strip(self, strip: Strip | None, reach: float, place: Place) -> None:
        """Show a rig's strip with one place chosen."""
        self._strip, self._place = strip, place
        if strip is None:
            self.show_picture(None, {})
            self.setAccessibleDescription("")
            return
        self.show_picture(lambda picture: draw_strip(picture, strip, reach, place), {})
        self.setAccessibleDescription(_heard(strip))

    def grow(self, unit: float) -> None:
        """Be so much larger than usual."""
        self.unit = unit
        self._height = round(HEIGHT * unit)
        self.setFixedHeight(self._height)

    def _place_at(self, x: float, y: float) -> Place | None:
        boxes = block_boxes(self.width(), self.unit)
        return next((box.place for box in boxes if box.holds(x, y)), None)

    def mousePressEvent(self, a0: QMouseEvent | None) -> None:
        if a0 is not None:
            place = self._place_at(a0.position().x(), a0.position().y())
            if place is not None:
                self.place_chosen.emit(place)
        super().mousePressEvent(a0)

    def keyPressEvent(self, a0: QKeyEvent | None) -> None:
        if a0 is None:
            return
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(a0.key()))
        if step is not None:
            at = BLOCKS.index(self._place) if self._place in BLOCKS else -step
            self.place_chosen.emit(BLOCKS[max(0, min(at + step, len(BLOCKS) - 1))])
        elif a0.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.facts_wanted.emit()
        else:
            super().keyPressEvent(a0)

    def event(self, a0: QEvent | None) -> bool:
        if isinstance(a0, QHelpEvent) and self._strip is not None:
            place = self._place_at(a0.pos().x(), a0.pos().y())
            if place is not None:
                block = self._strip.block(place)
                found = [f"{one.severity}: {one.what}" for one in self._strip.found_at(place)]
                QToolTip.showText(
                    a0.globalPos(), "\n".join((block.name, *block.facts, *found)), self
                )
            return True
        return super().event(a0)

    def dragEnterEvent(self, a0: QDragEnterEvent | None) -> None:
        if a0 is not None and dragged_part(a0.mimeData()) and self._strip is not None:
            a0.acceptProposedAction()

    def dropEvent(self, a0: QDropEvent | None) -> None:
        part = dragged_part(a0.mimeData()) if a0 is not None else None
        if a0 is not None and part is not None:
            self.dropped.emit(*part)
            a0.acceptProposedAction()


def _heard(strip: Strip) -> str:
    """The strip as a screen reader reads it."""
    told = []
    for block in strip.blocks:
        facts = f" ({', '.join(block.facts)})" if block.facts else ""
        told.append(f"{block.place} {block.name if block.is_there else 'none'}{facts}")
    left = [
        f"{value:.1f} GB/s behind the {place}"
        for place, value in zip(BLOCKS, strip.left_gb_per_s, strict=False)
        if value is not None
    ]
    return "; ".join([*told, *left, *filter(None, [power_words(strip.power)])])
