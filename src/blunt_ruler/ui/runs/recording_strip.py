"""The time of a recording as a strip: what its pictures show, its passes, and where one looks."""

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from blunt_ruler.core.recordings.cuts import Stretch
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.painting import painted

HEIGHT = 46
NEAR = 6  # pixels within which a handle is taken
Span = tuple[float, float]


class RecordingStrip(QWidget):
    """Scrub with the mouse or with arrows (a picture each; with Shift a second). Handles of a pass
    are dragged, or put where one looks by the buttons beside it.

    Signals:
        moved(float): one looks at this moment, in s.
        span_changed(int, float, float): a pass runs from here to there.
    """

    moved = pyqtSignal(float)
    span_changed = pyqtSignal(int, float, float)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Time of the recording")
        self.setAccessibleDescription(self.__doc__ or "")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(HEIGHT)
        self.duration_s = 0.0
        self.fps = 30.0
        self.at_s = 0.0
        self.spans: list[Span] = []
        self.chosen = 0
        self.stretches: tuple[Stretch, ...] = ()
        self._held: tuple[int, int] | None = None  # (pass, end)

    def show_recording(self, duration_s: float, fps: float) -> None:
        """Show a recording from its start."""
        self.duration_s, self.fps, self.at_s = duration_s, max(fps, 1.0), 0.0
        self.update()

    def show_spans(self, spans: Sequence[Span], chosen: int) -> None:
        """Show passes, one of them as chosen."""
        self.spans, self.chosen = list(spans), chosen
        self.update()

    def look_at(self, second: float) -> None:
        """Put the cursor at a moment."""
        self.at_s = min(max(second, 0.0), max(self.duration_s - 0.5 / self.fps, 0.0))
        self.update()
        self.moved.emit(self.at_s)

    def _x(self, second: float) -> float:
        return 8 + (self.width() - 16) * second / max(self.duration_s, 1e-9)

    def _second(self, x: float) -> float:
        share = (x - 8) / max(self.width() - 16, 1)
        return min(max(share, 0.0), 1.0) * self.duration_s

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        colours = theme.current()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(theme.font(theme.SMALL))
        band = QRectF(8, 8, self.width() - 16, 16)
        painter.fillRect(band, QColor(colours.line))
        for one in self.stretches:
            if one.what != "pass":
                place = QRectF(self._x(one.from_s), 8, self._x(one.to_s) - self._x(one.from_s), 16)
                painter.fillRect(place, theme.blend(colours.line, colours.steel, 0.45))
        for at, (from_s, to_s) in enumerate(self.spans):
            place = QRectF(self._x(from_s), 8, self._x(to_s) - self._x(from_s), 16)
            share = 0.75 if at == self.chosen else 0.4
            painter.fillRect(place, theme.blend(colours.card, colours.blue, share))
            painter.setPen(QPen(QColor(colours.blue), 2))
            for end in (place.left(), place.right()):
                painter.drawLine(QPointF(end, 5), QPointF(end, 27))
            painter.setPen(QColor("white" if at == self.chosen else colours.ink))
            painter.drawText(place, Qt.AlignmentFlag.AlignCenter, str(at + 1))
        x = self._x(self.at_s)
        painter.setPen(QPen(QColor(colours.ink), 2))
        painter.drawLine(QPointF(x, 2), QPointF(x, 30))
        painter.setPen(QColor(colours.steel))
        foot = QRectF(8, 30, self.width() - 16, 15)
        painter.drawText(foot, Qt.AlignmentFlag.AlignLeft, "0 s")
        painter.drawText(foot, Qt.AlignmentFlag.AlignRight, f"{self.duration_s:.1f} s")
        words = f"{self.at_s:.2f} s"
        wide = painter.fontMetrics().horizontalAdvance(words)
        left = min(max(x - wide / 2, 48.0), self.width() - 70.0 - wide)
        painter.setPen(QColor(colours.ink))
        painter.drawText(QRectF(left, 30, wide + 2, 15), Qt.AlignmentFlag.AlignCenter, words)
        if self.hasFocus():
            painter.setPen(QPen(QColor(colours.blue), 1.5))
            painter.drawRect(QRectF(self.rect()).adjusted(1, 1, -1, -1))

    def mousePressEvent(self, a0: QMouseEvent | None) -> None:
        if a0 is None:
            return
        x = a0.position().x()
        ends = [
            (abs(self._x(end) - x), at, which)
            for at, span in enumerate(self.spans)
            for which, end in enumerate(span)
        ]
        nearest = min(ends, default=None)
        self._held = nearest[1:] if nearest is not None and nearest[0] <= NEAR else None
        if self._held is None:
            self.look_at(self._second(x))

    def mouseMoveEvent(self, a0: QMouseEvent | None) -> None:
        if a0 is None or not a0.buttons():
            return
        second = self._second(a0.position().x())
        if self._held is not None:
            self.put_end(*self._held, second)
        self.look_at(second)

    def mouseReleaseEvent(self, a0: QMouseEvent | None) -> None:
        self._held = None

    def put_end(self, at: int, which: int, second: float) -> None:
        """Move one end of a pass: 0 its beginning, 1 its end. It keeps half a second at least."""
        if not 0 <= at < len(self.spans):
            return
        from_s, to_s = self.spans[at]
        if which == 0:
            from_s = min(second, to_s - 0.5)
        else:
            to_s = max(second, from_s + 0.5)
        self.spans[at] = (max(from_s, 0.0), min(to_s, self.duration_s))
        self.update()
        self.span_changed.emit(at, *self.spans[at])

    def keyPressEvent(self, a0: QKeyEvent | None) -> None:
        if a0 is None:
            return
        step = 1.0 if a0.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1.0 / self.fps
        match Qt.Key(a0.key()):
            case Qt.Key.Key_Left:
                self.look_at(self.at_s - step)
            case Qt.Key.Key_Right:
                self.look_at(self.at_s + step)
            case Qt.Key.Key_Home:
                self.look_at(0.0)
            case Qt.Key.Key_End:
                self.look_at(self.duration_s)
            case _:
                super().keyPressEvent(a0)
