"""Read-along: the present line large, its chart beside it, the next line small, and a clock."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QElapsedTimer, QRectF, Qt, QTimer
from PyQt6.QtGui import QColor, QFontMetricsF, QKeyEvent, QPainter, QTransform
from PyQt6.QtWidgets import QWidget

from blunt_ruler.core.text import clock_text
from blunt_ruler.core.writeup.shots import Shot
from blunt_ruler.core.writeup.spoken import seconds_of
from blunt_ruler.exchange.charts.sheet import HEIGHT, WIDTH, ChartSheet
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.painting import painted
from blunt_ruler.ui.kit.picture_view import paint_sheet

SIZES = (56, 48, 40, 34, 28, 22)  # of the present line, pixels: the largest that fits
PACE_STEP, LEAST_PACE, MOST_PACE = 10, 60, 300
KEYS = "Space starts and stops · arrows go · +/− pace · M mirrors · Esc leaves"


@dataclass(frozen=True, slots=True)
class ReadLine:
    """One line with the chart it is said to."""

    words: str
    shot: int


def lines_of(shots: Sequence[Shot]) -> tuple[ReadLine, ...]:
    """The lines of charts in order; a chart that nothing is said to has its title as one."""
    found = []
    for number, one in enumerate(shots):
        found += [ReadLine(line, number) for line in one.lines or (f"[{one.full_title}]",)]
    return tuple(found)


class ReadAlong(QWidget):
    """A full screen to read from. `draw` composes a chart when it is first shown."""

    def __init__(
        self,
        shots: Sequence[Shot],
        draw: Callable[[int], ChartSheet],
        pace: int,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent, Qt.WindowType.Window)
        self.setWindowTitle("Read along")
        self.setAccessibleName("Read-along")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._shots, self._draw, self.pace = shots, draw, pace
        self.lines = lines_of(shots)
        self.place, self.mirrored = 0, False
        self._drawn: dict[int, ChartSheet] = {}
        self._clock, self._before_ms = QElapsedTimer(), 0
        self._running = False
        self._tick = QTimer(self)
        self._tick.setInterval(200)
        self._tick.timeout.connect(self._on_tick)
        self._tell()

    # Where one is

    @property
    def running(self) -> bool:
        """Whether the clock runs."""
        return self._running

    @property
    def elapsed_s(self) -> float:
        """How long has been read."""
        since = self._clock.elapsed() if self._running else 0
        return (self._before_ms + since) / 1000.0

    @property
    def due_s(self) -> float:
        """When the present line should have been begun at this pace."""
        return sum(seconds_of(one.words, self.pace) for one in self.lines[: self.place])

    @property
    def whole_s(self) -> float:
        """How long all of it takes at this pace."""
        return sum(seconds_of(one.words, self.pace) for one in self.lines)

    def go(self, by: int) -> None:
        """Go some lines on, or back."""
        self.place = min(max(self.place + by, 0), max(len(self.lines) - 1, 0))
        self._tell()

    def go_chart(self, by: int) -> None:
        """Go to the first line of the next chart, or of the one before."""
        if not self.lines:
            return
        shot = self.lines[self.place].shot + by
        found = [place for place, one in enumerate(self.lines) if one.shot == shot]
        if found:
            self.place = found[0]
        self._tell()

    def start_or_stop(self) -> None:
        """Let the clock run, or stop it."""
        if self._running:
            self._before_ms += self._clock.elapsed()
            self._tick.stop()
        else:
            self._clock.start()
            self._tick.start()
        self._running = not self._running
        self._tell()

    def change_pace(self, by: int) -> None:
        """Read faster or slower."""
        self.pace = min(max(self.pace + by, LEAST_PACE), MOST_PACE)
        self._tell()

    def mirror(self) -> None:
        """Turn left and right around, for a glass in front of the camera."""
        self.mirrored = not self.mirrored
        self._tell()

    def _on_tick(self) -> None:
        self.update()

    def _tell(self) -> None:
        if self.lines:
            line = self.lines[self.place]
            said = f"{line.words} Line {self.place + 1} of {len(self.lines)}."
            self.setAccessibleDescription(said)
        self.update()

    def keyPressEvent(self, a0: QKeyEvent | None) -> None:
        if a0 is None:
            return
        deeds: dict[int, Callable[[], object]] = {
            Qt.Key.Key_Right: lambda: self.go(1),
            Qt.Key.Key_Down: lambda: self.go(1),
            Qt.Key.Key_Left: lambda: self.go(-1),
            Qt.Key.Key_Up: lambda: self.go(-1),
            Qt.Key.Key_PageDown: lambda: self.go_chart(1),
            Qt.Key.Key_PageUp: lambda: self.go_chart(-1),
            Qt.Key.Key_Home: lambda: self.go(-len(self.lines)),
            Qt.Key.Key_End: lambda: self.go(len(self.lines)),
            Qt.Key.Key_Space: self.start_or_stop,
            Qt.Key.Key_Plus: lambda: self.change_pace(PACE_STEP),
            Qt.Key.Key_Equal: lambda: self.change_pace(PACE_STEP),
            Qt.Key.Key_Minus: lambda: self.change_pace(-PACE_STEP),
            Qt.Key.Key_M: self.mirror,
            Qt.Key.Key_Escape: self.close,
        }
        deed = deeds.get(a0.key())
        if deed is None:
            super().keyPressEvent(a0)
        else:
            deed()

    # Painted

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        colours = theme.current()
        painter.fillRect(self.rect(), QColor(colours.card))
        if not self.lines:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.mirrored:
            painter.setTransform(QTransform(-1, 0, 0, 1, self.width(), 0))
        margin = max(self.width() * 0.03, 20.0)
        chart_width = self.width() * 0.42
        text_width = self.width() - chart_width - 3 * margin
        foot = 54.0
        room = QRectF(margin, margin, text_width, (self.height() - foot - 2 * margin) * 0.66)
        line = self.lines[self.place]
        self._paint_line(painter, line.words, room)
        after = self.lines[self.place + 1].words if self.place + 1 < len(self.lines) else "End."
        below = QRectF(
            margin, room.bottom() + 16, text_width, self.height() - foot - room.bottom() - 30
        )
        painter.setFont(theme.font(22))
        painter.setPen(QColor(colours.steel))
        wrap = int(Qt.TextFlag.TextWordWrap)
        painter.drawText(below, wrap | int(Qt.AlignmentFlag.AlignTop), f"Next: {after}")
        self._paint_chart(painter, line.shot, margin + text_width + margin, margin, chart_width)
        self._paint_foot(painter, margin, foot)

    def _paint_line(self, painter: QPainter, words: str, room: QRectF) -> None:
        wrap = int(Qt.TextFlag.TextWordWrap) | int(Qt.AlignmentFlag.AlignTop)
        for pixels in SIZES:
            metrics = QFontMetricsF(theme.font(pixels, theme.SEMIBOLD))
            if metrics.boundingRect(room, wrap, words).height() <= room.height():
                break
        painter.setFont(theme.font(pixels, theme.SEMIBOLD))
        painter.setPen(QColor(theme.current().ink))
        painter.drawText(room, wrap, words)

    def _paint_chart(
        self, painter: QPainter, shot: int, left: float, top: float, width: float
    ) -> None:
        if shot not in self._drawn:
            self._drawn[shot] = self._draw(shot)
        scale = width / WIDTH
        painter.save()
        painter.translate(left, top)
        painter.scale(scale, scale)
        paint_sheet(painter, self._drawn[shot])
        painter.restore()
        painter.setPen(QColor(theme.current().line))
        painter.drawRect(QRectF(left, top, width, HEIGHT * scale))

    def _paint_foot(self, painter: QPainter, margin: float, foot: float) -> None:
        colours = theme.current()
        top = self.height() - foot
        whole = max(len(self.lines) - 1, 1)
        painter.fillRect(QRectF(0, top - 4, self.width(), 4), QColor(colours.line))
        painter.fillRect(
            QRectF(0, top - 4, self.width() * self.place / whole, 4), QColor(colours.brass)
        )
        painter.setFont(theme.font(18, theme.SEMIBOLD))
        painter.setPen(QColor(colours.ink))
        row = QRectF(margin, top, self.width() - 2 * margin, foot)
        middle = Qt.AlignmentFlag.AlignVCenter
        late = self.elapsed_s - self.due_s
        how = ""
        if self._running or self._before_ms:
            how = f" · {abs(late):.0f} s {'behind' if late > 0 else 'ahead'}"
        said = (
            f"{clock_text(self.elapsed_s)} of {clock_text(self.whole_s)}{how} · line "
            f"{self.place + 1} of {len(self.lines)} · {self.pace} words a minute"
        )
        painter.drawText(row, int(middle | Qt.AlignmentFlag.AlignLeft), said)
        painter.setFont(theme.font(theme.SIDE))
        painter.setPen(QColor(colours.steel))
        painter.drawText(row, int(middle | Qt.AlignmentFlag.AlignRight), KEYS)
