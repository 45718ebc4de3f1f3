"""Frame times over time with telemetry lanes under them, drawn by pyqtgraph.

A million frames pan and zoom smoothly: what is drawn is thinned to the peaks of what is seen.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import pyqtgraph as pg
from PyQt6.QtCore import pyqtSignal

from blunt_ruler.core.measure.frames import find_stutter, frame_ends_s
from blunt_ruler.core.measure.telemetry import Gauge, gauge_of
from blunt_ruler.core.types import FloatArray
from blunt_ruler.ui.kit import theme

LANES = (
    Gauge.CARD_BUSY,
    Gauge.CPU_CORE,
    Gauge.CARD_CLOCK,
    Gauge.LINK_TRAFFIC,
    Gauge.CARD_POWER,
    Gauge.CARD_TEMPERATURE,
)
LANE_HEIGHT = 32
MOST_LANES = 4
AXIS_ROOM = 24  # for the seconds under the last lane
MOST_STUTTER_MARKS = 2000
AXIS_WIDTH = 58


@dataclass(frozen=True, slots=True)
class Shown:
    """What a plot shows: a trace, its stated low, the other passes of its cell."""

    frame_times_ms: FloatArray
    telemetry: Mapping[str, FloatArray]
    low_fps: float | None = None
    low_words: str = ""
    kept: tuple[float | None, float | None] | None = None  # where it can be trimmed
    others: Sequence[tuple[FloatArray, float]] = ()  # (frame times, offset in s)
    rates_at_s: FloatArray | None = None  # rates at these moments are shown, not frame times


class TracePlot(pg.GraphicsLayoutWidget):  # type: ignore[misc]
    """Frame time over the time of the trace, telemetry lanes below, one cursor through all.

    Signals:
        trim_dragged(float, float): a handle of the trim was moved to (from, to) in seconds.
        cursor_moved(str): what stands at the cursor, in words.
        clicked(float): the plot was clicked at a moment, in seconds.
    """

    trim_dragged = pyqtSignal(float, float)
    cursor_moved = pyqtSignal(str)
    clicked = pyqtSignal(float)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Frame-time trace")
        self.setMinimumHeight(120)
        self.setFrameShape(pg.QtWidgets.QFrame.Shape.NoFrame)
        self.ci.layout.setSpacing(0)
        self.ci.layout.setContentsMargins(0, 0, 0, 0)
        self._shown: Shown | None = None
        self._ends_s: FloatArray = np.array([])
        self.main = self.addPlot(row=0, col=0, enableMenu=False)
        self.main.hideButtons()
        self._others: list[pg.PlotDataItem] = []
        self.curve = self.main.plot([], [])
        self.curve.setDownsampling(auto=True, method="peak")
        self.curve.setClipToView(True)
        self._low = pg.InfiniteLine(angle=0, movable=False)
        self._low_words = pg.TextItem(anchor=(0, 1))
        self._stutters = pg.ScatterPlotItem(size=7, symbol="t")
        self.region = pg.LinearRegionItem(movable=True)
        self.region.setZValue(-5)
        self.region.sigRegionChangeFinished.connect(self._on_region)
        for item in (self._low, self._stutters, self.region):
            self.main.addItem(item, ignoreBounds=True)
        self.main.addItem(self._low_words, ignoreBounds=True)
        self.lanes: list[pg.PlotItem] = []
        self._lane_values: list[tuple[Gauge, FloatArray]] = []
        self._cursors: list[pg.InfiniteLine] = []
        self._add_cursor(self.main)
        self.cursor_s = 0.0
        self.scene().sigMouseMoved.connect(self._on_mouse)
        self.scene().sigMouseClicked.connect(self._on_click)
        self.show_lanes = True
        self.apply_theme()
        self.show_trace(None)

    def apply_theme(self) -> None:
        """Take on the theme's colours."""
        colours = theme.current()
        self.setBackground(colours.card)
        for plot, words in ((self.main, self._left()), *((lane, "") for lane in self.lanes)):
            for side in ("bottom", "left"):
                axis = plot.getAxis(side)
                axis.setPen(pg.mkPen(colours.line))
                axis.setTextPen(pg.mkPen(colours.steel))
                axis.setTickFont(theme.font(theme.SMALL))
                axis.enableAutoSIPrefix(False)
            if words:
                plot.setLabel("left", words, **{"font-size": "12px", "color": colours.steel})
            plot.getAxis("left").setWidth(AXIS_WIDTH)
            plot.showGrid(y=True, alpha=0.12)
        self.curve.setPen(pg.mkPen(colours.blue, width=1))
        for lane in self.lanes:
            lane.curve.setPen(pg.mkPen(colours.steel, width=1))
            lane.words.fill = pg.mkBrush(colours.card)
        for item in self._others:
            item.setPen(pg.mkPen(colours.line, width=1))
        self._low.setPen(pg.mkPen(colours.loss, width=1))
        self._stutters.setBrush(pg.mkBrush(colours.caution))
        self._stutters.setPen(pg.mkPen(None))
        kept = pg.mkColor(colours.blue)
        kept.setAlpha(24)
        self.region.setBrush(kept)
        for line in self.region.lines:
            line.setPen(pg.mkPen(colours.blue, width=2))
            line.setHoverPen(pg.mkPen(colours.ink, width=3))
        for cursor in self._cursors:
            cursor.setPen(pg.mkPen(colours.steel, width=1))

    def _left(self) -> str:
        shown = self._shown
        return "frame time, ms" if shown is None or shown.rates_at_s is None else "fps"

    def _show_rates(self, rates: FloatArray, at_s: FloatArray) -> None:
        """Rates as a counter showed them; a gap where nothing was sure."""
        self._ends_s = at_s
        self.curve.setData(at_s, rates, connect="finite")
        end_s = float(at_s[-1])
        sound = rates[np.isfinite(rates)]
        tallest = float(sound.max()) * 1.15 if sound.size else 1.0
        self.main.getViewBox().setLimits(xMin=0, xMax=end_s, yMin=0)
        self.main.setXRange(0, end_s, padding=0)
        self.main.setYRange(0, tallest, padding=0)
        for item in (self._low, self._low_words, self._stutters, self.region):
            item.setVisible(False)

    def show_trace(self, shown: Shown | None) -> None:
        """Show a trace from its start, or nothing."""
        self._shown = shown
        visible = shown is not None
        for item in (self._low, self._low_words, self._stutters, self.region):
            item.setVisible(visible)
        for item in self._others:
            self.main.removeItem(item)
        self._others = []
        if shown is None:
            self.curve.setData([], [])
            self._lay_lanes({})
            return
        self.main.setLabel("left", self._left())
        times = shown.frame_times_ms
        if shown.rates_at_s is not None:
            self._show_rates(times, shown.rates_at_s)
            self._lay_lanes(shown.telemetry)
            return
        self._ends_s = frame_ends_s(times)
        end_s = float(self._ends_s[-1])
        colours = theme.current()
        for other_ms, offset_s in shown.others:
            item = self.main.plot(frame_ends_s(other_ms) - offset_s, other_ms)
            item.setPen(pg.mkPen(colours.line, width=1))
            item.setDownsampling(auto=True, method="peak")
            item.setClipToView(True)
            item.setZValue(-3)
            self._others.append(item)
        self.curve.setData(self._ends_s, times)
        at = np.flatnonzero(find_stutter(times).is_stutter)[:MOST_STUTTER_MARKS]
        self._stutters.setData(self._ends_s[at], times[at])
        tallest = float(np.quantile(times, 0.9995)) * 1.3
        self.main.getViewBox().setLimits(xMin=0, xMax=end_s, yMin=0)
        self.main.setXRange(0, end_s, padding=0)
        self.main.setYRange(0, tallest, padding=0)
        self.region.setVisible(shown.kept is not None)
        if shown.kept is not None:
            self.show_kept(*shown.kept)
        self._low.setVisible(shown.low_fps is not None)
        self._low_words.setVisible(shown.low_fps is not None)
        if shown.low_fps is not None:
            low_ms = 1000.0 / shown.low_fps
            self._low.setPos(low_ms)
            self._low_words.setText(shown.low_words, color=colours.loss)
            self._low_words.setPos(0.0, low_ms)
        self._lay_lanes(shown.telemetry)

    def show_kept(self, from_s: float | None, to_s: float | None) -> None:
        """Move the handles of the trim."""
        if self._shown is None:
            return
        end_s = float(self._ends_s[-1])
        self.region.blockSignals(True)
        self.region.setBounds((0.0, end_s))
        self.region.setRegion((from_s or 0.0, end_s if to_s is None else to_s))
        self.region.blockSignals(False)

    @property
    def end_s(self) -> float:
        """Where the trace ends, in seconds; 0 without one."""
        return float(self._ends_s[-1]) if self._ends_s.size else 0.0

    def _lay_lanes(self, telemetry: Mapping[str, FloatArray]) -> None:
        """One lane for each known gauge, most telling first."""
        found: dict[Gauge, FloatArray] = {}
        for channel, values in telemetry.items():
            known = gauge_of(channel)
            if known is not None and known[0] not in found:
                found[known[0]] = values * known[1]
        wanted = (
            [gauge for gauge in LANES if gauge in found][:MOST_LANES] if self.show_lanes else []
        )
        laid = [gauge for gauge, _ in self._lane_values]
        self._lane_values = [(gauge, found[gauge]) for gauge in wanted]
        if wanted != laid or len(self.lanes) != len(wanted):  # building them takes long
            self._build_lanes(wanted)
        for lane, (gauge, values) in zip(self.lanes, self._lane_values, strict=True):
            self._fill_lane(lane, gauge, values)

    def _build_lanes(self, wanted: Sequence[Gauge]) -> None:
        """Empty lanes, as many as are wanted."""
        for row, lane in enumerate(self.lanes, start=1):
            self.removeItem(lane)
            self.ci.layout.setRowFixedHeight(row, 0)
        self.lanes = []
        self._cursors = self._cursors[:1]
        self.main.getAxis("bottom").setStyle(showValues=not wanted)
        self.main.setLabel("bottom", "" if wanted else "seconds")
        for row in range(1, len(wanted) + 1):
            lane = self.addPlot(row=row, col=0, enableMenu=False)
            lane.hideButtons()
            lane.setMouseEnabled(x=True, y=False)
            height = LANE_HEIGHT + (AXIS_ROOM if row == len(wanted) else 0)
            lane.setFixedHeight(height)
            self.ci.layout.setRowFixedHeight(row, height)
            lane.setXLink(self.main)
            lane.curve = lane.plot([], [])
            lane.curve.setDownsampling(auto=True, method="subsample")
            lane.curve.setClipToView(True)
            lane.getAxis("left").setTicks([[]])
            lane.getAxis("bottom").setStyle(showValues=row == len(wanted))
            lane.words = pg.TextItem(anchor=(0, 0), fill=theme.current().card)
            lane.words.setFont(theme.font(theme.SMALL))
            lane.addItem(lane.words, ignoreBounds=True)
            self.lanes.append(lane)
            self._add_cursor(lane)
        self.apply_theme()

    def _fill_lane(self, lane: pg.PlotItem, gauge: Gauge, values: FloatArray) -> None:
        """Show a gauge in a lane."""
        lane.curve.setData(self._ends_s, values)
        top = 105.0 if gauge.endswith("%") else float(np.nanmax(values)) * 1.15 + 1e-6
        low = 0.0 if gauge.endswith("%") else min(float(np.nanmin(values)) * 0.85, 0.0)
        lane.setYRange(low, top, padding=0)
        name, _, unit = gauge.partition(",")
        ends = dict.fromkeys(f"{end(values):.4g}" for end in (np.nanmin, np.nanmax))
        span = " to ".join(ends)
        lane.words.setText(f"{name} {span}{unit}", color=theme.current().ink)
        lane.words.setPos(0.0, top)

    def _add_cursor(self, plot: pg.PlotItem) -> None:
        cursor = pg.InfiniteLine(angle=90, movable=False)
        cursor.hide()
        plot.addItem(cursor, ignoreBounds=True)
        self._cursors.append(cursor)

    def _on_mouse(self, position: object) -> None:
        if self._shown is None or not self._ends_s.size:
            return
        second = float(self.main.getViewBox().mapSceneToView(position).x())
        if 0.0 <= second <= self.end_s:
            self.put_cursor(second)

    def _on_click(self, event: object) -> None:
        position = event.scenePos()  # type: ignore[attr-defined]
        second = float(self.main.getViewBox().mapSceneToView(position).x())
        if self._ends_s.size and 0.0 <= second <= self.end_s:
            self.put_cursor(second)
            self.clicked.emit(second)

    def put_cursor(self, second: float) -> None:
        """Put the cursor of all lanes at a moment and say what stands there."""
        self.cursor_s = second
        for cursor in self._cursors:
            cursor.setPos(second)
            cursor.show()
        if self._shown is None:
            return
        at = min(int(np.searchsorted(self._ends_s, second)), self._ends_s.size - 1)
        unit, digits = ("ms", 2) if self._shown.rates_at_s is None else ("fps", 1)
        said = [f"{second:.2f} s", f"{self._shown.frame_times_ms[at]:.{digits}f} {unit}"]
        said += [
            f"{str(gauge).split(',')[0]} {values[at]:g}" for gauge, values in self._lane_values
        ]
        self.cursor_moved.emit(" · ".join(said))

    def _on_region(self) -> None:
        from_s, to_s = self.region.getRegion()
        self.trim_dragged.emit(float(from_s), float(to_s))


class CurvePlot(pg.PlotWidget):  # type: ignore[misc]
    """A single curve over one axis: the distribution of frame times, or their percentiles."""

    def __init__(self, bottom: str, left: str, name: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setMenuEnabled(False)
        self.hideButtons()
        self.setFrameShape(pg.QtWidgets.QFrame.Shape.NoFrame)
        self._words = (bottom, left)
        self._items: list[pg.PlotDataItem] = []
        self.apply_theme()

    def apply_theme(self) -> None:
        """Take on the theme's colours."""
        colours = theme.current()
        self.setBackground(colours.card)
        for side, words in zip(("bottom", "left"), self._words, strict=True):
            axis = self.getAxis(side)
            axis.setPen(pg.mkPen(colours.line))
            axis.setTextPen(pg.mkPen(colours.steel))
            axis.setTickFont(theme.font(theme.SMALL))
            axis.enableAutoSIPrefix(False)
            axis.setLabel(words, **{"font-size": "12px", "color": colours.steel})
        self.getAxis("left").setWidth(AXIS_WIDTH)
        self.showGrid(y=True, alpha=0.12)

    def show_curves(
        self, curves: Sequence[tuple[FloatArray, FloatArray]], *, steps: bool = False
    ) -> None:
        """Show curves, the first as the chosen one; with `steps` x holds bin edges."""
        for item in self._items:
            self.removeItem(item)
        self._items = []
        colours = theme.current()
        for index, (x, y) in reversed(list(enumerate(curves))):
            pen = pg.mkPen(
                colours.blue if index == 0 else colours.line, width=2 if not index else 1
            )
            self._items.append(self.plot(x, y, pen=pen, stepMode="center" if steps else None))
        self.enableAutoRange()
