"""A picture of a recording with the boxes round its counters: drawn, moved and taken away."""

from collections.abc import Sequence
from dataclasses import replace

from PyQt6.QtCore import QPoint, QPointF, QRect, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QFontMetrics, QImage, QKeyEvent, QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from blunt_ruler.core.recordings.quantities import MEANINGS, Box, Quantity
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.painting import painted

SMALLEST = 6  # pixels of the recording that a drawn box must have
ARROWS = {
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Up: (0, -1),
    Qt.Key.Key_Down: (0, 1),
}


class RecordingPicture(QWidget):
    """The picture at a moment. Drag draws a box; a click chooses one; arrows move it, with Shift
    they change its size; Delete takes it away.

    Signals:
        boxes_changed(): a box was drawn, moved or taken away.
        box_chosen(int): the place of a box in the list.
    """

    boxes_changed = pyqtSignal()
    box_chosen = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Picture of the recording")
        self.setAccessibleDescription(self.__doc__ or "")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(320, 180)
        self.setCursor(Qt.CursorShape.CrossCursor)
        self.boxes: list[Box] = []
        self.chosen = -1
        self.tagged = True  # what each box counts is written beside it
        self.words = "Opening the recording …"
        self._image: QImage | None = None
        self._from: QPointF | None = None
        self._drawn: QRectF | None = None

    def show_picture(self, width: int, height: int, points: bytes) -> None:
        """Show a picture of three bytes a point, red first."""
        image = QImage(points, width, height, 3 * width, QImage.Format.Format_RGB888)
        self._image = image.copy()
        self.update()

    def show_boxes(self, boxes: Sequence[Box], chosen: int = -1) -> None:
        """Show other boxes, one of them as chosen."""
        self.boxes, self.chosen = list(boxes), chosen
        self.update()

    def show_words(self, words: str) -> None:
        """Say something in place of a picture."""
        self._image, self.words = None, words
        self.update()

    @property
    def has_picture(self) -> bool:
        """Whether there is a picture to draw boxes on."""
        return self._image is not None

    # Where things are

    def _place(self) -> QRectF:
        """Where the picture stands in the widget."""
        assert self._image is not None
        scale = min(self.width() / self._image.width(), self.height() / self._image.height())
        wide, tall = self._image.width() * scale, self._image.height() * scale
        return QRectF((self.width() - wide) / 2, (self.height() - tall) / 2, wide, tall)

    def _on_screen(self, box: Box) -> QRectF:
        assert self._image is not None
        place = self._place()
        scale = place.width() / self._image.width()
        return QRectF(
            place.x() + box.x * scale, place.y() + box.y * scale, box.w * scale, box.h * scale
        )

    def _in_picture(self, point: QPointF) -> QPointF:
        assert self._image is not None
        place = self._place()
        scale = self._image.width() / place.width()
        x = min(max((point.x() - place.x()) * scale, 0.0), self._image.width())
        y = min(max((point.y() - place.y()) * scale, 0.0), self._image.height())
        return QPointF(x, y)

    # Painting

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        colours = theme.current()
        painter.fillRect(self.rect(), QColor(colours.paper))
        if self._image is None:
            painter.setPen(QColor(colours.steel))
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(self.rect().adjusted(30, 0, -30, 0), flags, self.words)
            return
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(self._place(), self._image)
        painter.setFont(theme.font(theme.SMALL, theme.SEMIBOLD))
        tags = self._tags(painter.fontMetrics()) if self.tagged else {}
        for at in sorted(range(len(self.boxes)), key=lambda at: at == self.chosen):
            self._paint_box(painter, self.boxes[at], at == self.chosen, tags.get(at))
        if self._drawn is not None:
            painter.setPen(QPen(QColor(colours.blue), 2, Qt.PenStyle.DashLine))
            painter.drawRect(self._drawn)
        if self.hasFocus():
            painter.setPen(QPen(QColor(colours.blue), 2))
            painter.drawRect(QRectF(self.rect()).adjusted(1, 1, -1, -1))

    def _paint_box(self, painter: QPainter, box: Box, chosen: bool, tag: QRectF | None) -> None:
        colours = theme.current()
        place = self._on_screen(box)
        ink = QColor(colours.steel if box.quantity is Quantity.IGNORE else colours.blue)
        painter.setPen(QPen(QColor("white"), 4 if chosen else 3))
        painter.drawRect(place)
        painter.setPen(QPen(ink, 3 if chosen else 1.5))
        painter.drawRect(place)
        if tag is not None:
            painter.fillRect(tag, ink)
            painter.setPen(QColor(colours.card))
            words = MEANINGS[box.quantity].words
            painter.drawText(tag, Qt.AlignmentFlag.AlignCenter, words)

    def _tags(self, metrics: QFontMetrics) -> dict[int, QRectF]:
        """Where boxes are named, by their place among them: beside, below or above one, where
        neither another box nor its name is. The chosen one is always named; others are not where
        there is no room, nor where they are to be ignored.
        """
        boxes = [self._on_screen(box) for box in self.boxes]
        tags: dict[int, QRectF] = {}
        for at in sorted(range(len(boxes)), key=lambda at: at != self.chosen):
            if self.boxes[at].quantity is Quantity.IGNORE and at != self.chosen:
                continue
            place = boxes[at]
            wide = metrics.horizontalAdvance(MEANINGS[self.boxes[at].quantity].words) + 10.0
            left, down = min(place.left(), self.width() - wide - 2), place.center().y() - 7
            spots = ((place.right() + 3, down), (place.left() - wide - 3, down),
                     (left, place.bottom() + 4), (left, place.top() - 18))  # fmt: skip
            tried = [QRectF(x, y, wide, 14) for x, y in spots]
            inside = [one for one in tried if QRectF(self.rect()).contains(one)]
            taken = [*boxes, *tags.values()]
            free = [
                one for one in inside if not any(map(one.adjusted(0, 2, 0, -2).intersects, taken))
            ]
            if free or (at == self.chosen and inside):
                tags[at] = (free or inside[-1:])[0]
        return tags

    # Drawing and moving

    def mousePressEvent(self, a0: QMouseEvent | None) -> None:
        if a0 is None or self._image is None or a0.button() is not Qt.MouseButton.LeftButton:
            return
        self.setFocus()
        self._from = a0.position()
        self._drawn = None

    def mouseMoveEvent(self, a0: QMouseEvent | None) -> None:
        if a0 is not None and self._from is not None:
            self._drawn = QRectF(self._from, a0.position()).normalized()
            self.update()

    def mouseReleaseEvent(self, a0: QMouseEvent | None) -> None:
        if a0 is None or self._from is None or self._image is None:
            return
        first, last = self._in_picture(self._from), self._in_picture(a0.position())
        drawn = QRect(first.toPoint(), last.toPoint()).normalized()
        self._from = self._drawn = None
        if drawn.width() >= SMALLEST and drawn.height() >= SMALLEST:
            self.add(Box(drawn.x(), drawn.y(), drawn.width(), drawn.height(), Quantity.FPS))
        else:
            self._choose_at(last.toPoint())
        self.update()

    def _choose_at(self, point: QPoint) -> None:
        for at, box in enumerate(self.boxes):
            if QRect(box.x, box.y, box.w, box.h).contains(point):
                self.chosen = at
                self.box_chosen.emit(at)
                return

    def add(self, box: Box) -> None:
        """Add a box; the frame rate is told once, so a second one asks what it is."""
        if any(one.quantity is Quantity.FPS for one in self.boxes):
            box = replace(box, quantity=Quantity.IGNORE)
        self.boxes.append(box)
        self.chosen = len(self.boxes) - 1
        self.update()
        self.boxes_changed.emit()
        self.box_chosen.emit(self.chosen)

    def remove_chosen(self) -> None:
        """Take the chosen box away."""
        if 0 <= self.chosen < len(self.boxes):
            del self.boxes[self.chosen]
            self.chosen = min(self.chosen, len(self.boxes) - 1)
            self.update()
            self.boxes_changed.emit()

    def keyPressEvent(self, a0: QKeyEvent | None) -> None:
        if a0 is None:
            return
        key = Qt.Key(a0.key())
        if key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.remove_chosen()
        elif key in ARROWS and 0 <= self.chosen < len(self.boxes) and self._image is not None:
            self._move(*ARROWS[key], sized=bool(a0.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        else:
            super().keyPressEvent(a0)

    def _move(self, right: int, down: int, *, sized: bool) -> None:
        assert self._image is not None
        box = self.boxes[self.chosen]
        if sized:
            w = min(max(box.w + right, SMALLEST), self._image.width() - box.x)
            h = min(max(box.h + down, SMALLEST), self._image.height() - box.y)
            moved = replace(box, w=w, h=h)
        else:
            x = min(max(box.x + right, 0), self._image.width() - box.w)
            y = min(max(box.y + down, 0), self._image.height() - box.h)
            moved = replace(box, x=x, y=y)
        self.boxes[self.chosen] = moved
        self.update()
        self.boxes_changed.emit()
