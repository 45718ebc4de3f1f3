"""The frame-time trace, drawn by pyqtgraph: a million frames pan and zoom smoothly."""

import pyqtgraph as pg

from blunt_ruler.core.frames import frame_ends_s
from blunt_ruler.core.types import FloatArray
from blunt_ruler.ui import theme


class TracePlot(pg.PlotWidget):  # type: ignore[misc]
    """Frame time over the time of the trace, with the stated low as a line."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Frame-time trace")
        self.setMinimumHeight(120)
        self.setMenuEnabled(False)
        self.hideButtons()
        self.setFrameShape(pg.QtWidgets.QFrame.Shape.NoFrame)
        self._curve = self.plot([], [])
        self._curve.setDownsampling(auto=True, method="peak")
        self._curve.setClipToView(True)
        self._low = self.plot([], [])
        self._low_words = pg.TextItem(anchor=(0, 1))
        self.addItem(self._low_words, ignoreBounds=True)
        self._low_words.hide()
        self.dress()

    def dress(self) -> None:
        """Take on the theme's colours."""
        colours = theme.current()
        self.setBackground(colours.card)
        for side, words in (("bottom", "seconds"), ("left", "frame time, ms")):
            axis = self.getAxis(side)
            axis.setPen(pg.mkPen(colours.steel))
            axis.setTextPen(pg.mkPen(colours.steel))
            axis.setTickFont(theme.font(theme.SMALL))
            axis.enableAutoSIPrefix(False)
            axis.setLabel(words, **{"font-size": "12px", "color": colours.steel})
        self.getAxis("left").setWidth(56)
        self.showGrid(y=True, alpha=0.12)
        self._curve.setPen(pg.mkPen(colours.blue, width=1))
        self._low.setPen(pg.mkPen(colours.loss, width=1))

    def show_trace(self, frame_times_ms: FloatArray | None, low_fps: float | None = None) -> None:
        """Show a trace from its start, or nothing."""
        if frame_times_ms is None:
            self._curve.setData([], [])
            self._low.setData([], [])
            self._low_words.hide()
            return
        ends_s = frame_ends_s(frame_times_ms)
        self._curve.setData(ends_s, frame_times_ms)
        tallest = float(frame_times_ms.max())
        self.getViewBox().setLimits(xMin=0, xMax=float(ends_s[-1]), yMin=0)
        self.setXRange(0, float(ends_s[-1]), padding=0)
        self.setYRange(0, tallest * 1.06, padding=0)
        self._low_words.setVisible(low_fps is not None)
        if low_fps is None:
            self._low.setData([], [])
            return
        low_ms = 1000.0 / low_fps
        self._low.setData([0.0, float(ends_s[-1])], [low_ms, low_ms])
        self._low_words.setText(f"1 % low, {low_fps:.1f} fps", color=theme.current().loss)
        self._low_words.setPos(0.0, low_ms)
