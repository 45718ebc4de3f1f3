"""The trace of the chosen run: over time, as a distribution, as percentiles; and its trim."""

import numpy as np
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QDoubleSpinBox,
    QHBoxLayout,
    QPushButton,
    QStackedWidget,
    QWidget,
)

from blunt_ruler.core.measure.distribution import histogram, percentile_curve
from blunt_ruler.core.measure.trimming import offset_s
from blunt_ruler.core.recordings.quantities import MEANINGS, Quantity
from blunt_ruler.core.records.records import Run, Trace, Trim
from blunt_ruler.core.runs.read_runs import COUNTED_CHANNEL
from blunt_ruler.core.runs.trim_run import proposed
from blunt_ruler.core.types import FloatArray
from blunt_ruler.ui.desk.stop import PageBar
from blunt_ruler.ui.kit.layouts import stacked
from blunt_ruler.ui.kit.widgets import ElidedLabel, allow, label
from blunt_ruler.ui.runs.trace_plot import CurvePlot, Shown, TracePlot

VIEWS = ("Trace", "Distribution", "Percentiles")
NUDGE_S = 0.1


class TracePanel(QWidget):
    """Three views of a trace, and the trim below them.

    Signals:
        trim_requested(Run, object): keep this Trim of the run's trace, all of it for None.
        trim_tried(object): handles or fields stand at this Trim; nothing is stored yet.
        overlay_wanted(): the other passes of the cell are to be laid over.
        picture_wanted(Run, float): show the recording of a run, s after the run's start.
    """

    trim_requested = pyqtSignal(object, object)
    trim_tried = pyqtSignal(object)
    overlay_wanted = pyqtSignal()
    picture_wanted = pyqtSignal(object, float)

    def __init__(self) -> None:
        super().__init__()
        self._run: Run | None = None
        self._trace: Trace | None = None
        self._others: list[Trace] = []
        self.bar = PageBar(VIEWS)
        self.overlay = QCheckBox("other passes")
        self.overlay.setToolTip("Lay the other kept passes of this cell over it, lined up")
        self.overlay.toggled.connect(self._on_overlay)
        self.lanes = QCheckBox("telemetry")
        self.lanes.setChecked(True)
        self.lanes.toggled.connect(self._on_lanes)
        self.bar.row.addWidget(self.overlay)
        self.bar.row.addWidget(self.lanes)
        self.plot = TracePlot()
        self.plot.trim_dragged.connect(self._on_dragged)
        self.plot.clicked.connect(self._on_clicked)
        self.spread = CurvePlot("frame time, ms", "share of the time", "Distribution")
        self.percentiles = CurvePlot(
            "share of frames that are faster", "frame time, ms", "Percentiles"
        )
        ticks = [(-np.log10(1 - share), words) for share, words in PERCENTILE_TICKS]
        self.percentiles.getAxis("bottom").setTicks([ticks])
        self.views = QStackedWidget()
        for view in (self.plot, self.spread, self.percentiles):
            self.views.addWidget(view)
        self.bar.page_chosen.connect(lambda name: self.views.setCurrentIndex(VIEWS.index(name)))
        self.says = ElidedLabel("small")
        self.plot.cursor_moved.connect(self.says.show_words)
        stacked(self.bar, (self.views, 1), self._trim_bar(), spacing=5, on=self)

    def _trim_bar(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(6)
        self.from_s, self.to_s = (QDoubleSpinBox() for _ in range(2))
        for box, name in ((self.from_s, "Keep from, seconds"), (self.to_s, "Keep to, seconds")):
            box.setAccessibleName(name)
            box.setDecimals(3)
            box.setButtonSymbols(QDoubleSpinBox.ButtonSymbols.NoButtons)
            box.setSingleStep(NUDGE_S)
            box.setKeyboardTracking(False)
            box.setFixedWidth(92)
            box.valueChanged.connect(self._on_typed)
        self.propose = QPushButton("Propose")
        self.propose.setToolTip("Put the handles where menu, loading and tail end")
        self.propose.clicked.connect(self.propose_trim)
        self.apply = QPushButton("Trim")
        self.apply.clicked.connect(self.apply_trim)
        self.whole = QPushButton("Whole trace")
        self.whole.clicked.connect(self._on_whole)
        row.addWidget(label("keep", "quiet", wrap=False))
        row.addWidget(self.from_s)
        row.addWidget(label("to", "quiet", wrap=False))
        row.addWidget(self.to_s)
        row.addWidget(label("s", "quiet", wrap=False))
        for button in (self.propose, self.apply, self.whole):
            button.setStyleSheet("padding-left: 8px; padding-right: 8px;")
            row.addWidget(button)
        row.addWidget(self.says, 1)
        return row

    def apply_theme(self) -> None:
        """Take on another theme's colours."""
        for view in (self.plot, self.spread, self.percentiles):
            view.apply_theme()
        self._draw_curves()

    # Showing

    def show_run(
        self, run: Run | None, trace: Trace | None, low: tuple[float, str] | None = None
    ) -> None:
        """Show a run's trace, or nothing; `low` is the review's 1 % low, fps, and its words."""
        self._run, self._trace, self._others = run, trace, []
        self._low = low
        for widget in (self.from_s, self.to_s, self.propose, self.apply, self.whole, self.overlay):
            allow(widget, "" if trace is not None and run is not None and run.trace_sha256
                  else "Choose a run with a trace")  # fmt: skip
        self._draw()
        if trace is not None and self._has_frames and self.overlay.isChecked():
            self.overlay_wanted.emit()

    @property
    def _has_frames(self) -> bool:
        """Whether frame times are shown, not readings of a recording."""
        return self._run is not None and self._run.trace_sha256 is not None

    def _on_clicked(self, second: float) -> None:
        if self._run is not None and self._run.recording is not None:
            self.picture_wanted.emit(self._run, second)

    def _draw_readings(self, trace: Trace) -> None:
        """The readings of a recording over time, in place of frame times."""
        at_s = np.cumsum(trace.frame_times_ms) / 1000.0 - trace.frame_times_ms[0] / 1000.0
        lanes = dict(trace.telemetry)
        nothing = np.full(at_s.size, np.nan)
        counter = lanes.pop(MEANINGS[Quantity.FPS].channel, None)
        counted = lanes.pop(COUNTED_CHANNEL, None)
        rates = next((one for one in (counter, counted) if one is not None), nothing)
        self.plot.show_trace(Shown(rates, lanes, rates_at_s=at_s))
        self._draw_curves()

    def show_others(self, traces: list[Trace]) -> None:
        """Lay the other passes of the cell over, lined up by their scenes."""
        self._others = traces
        self._draw()

    def _draw(self) -> None:
        run, trace = self._run, self._trace
        if run is None or trace is None:
            self.plot.show_trace(None)
            self._draw_curves()
            return
        if not self._has_frames:
            self._draw_readings(trace)
            return
        trim = run.trim or Trim()
        low, words = self._low or (None, "")
        times = trace.frame_times_ms
        others = [(one.frame_times_ms, offset_s(times, one.frame_times_ms)) for one in self._others]
        self.plot.show_trace(
            Shown(times, trace.telemetry, low, words, (trim.from_s, trim.to_s), others)
        )
        for box, least in ((self.from_s, 0.0), (self.to_s, 0.001)):
            box.blockSignals(True)
            box.setRange(least, round(self.plot.end_s, 3))
        self.from_s.setValue(trim.from_s or 0.0)
        self.to_s.setValue(self.plot.end_s if trim.to_s is None else trim.to_s)
        for box in (self.from_s, self.to_s):
            box.blockSignals(False)
        allow(self.whole, "" if run.trim is not None else "Nothing is cut off it")
        self._draw_curves()

    def _draw_curves(self) -> None:
        there = self._trace is not None and self._has_frames
        traces = [self._trace, *self._others] if there else []
        times = [one.frame_times_ms for one in traces if one is not None]
        self.spread.show_curves([histogram(one) for one in times], steps=True)
        self.percentiles.show_curves([_on_log(*percentile_curve(one)) for one in times])

    def _on_overlay(self, on: bool) -> None:
        if on:
            self.overlay_wanted.emit()
        else:
            self.show_others([])

    def _on_lanes(self, on: bool) -> None:
        self.plot.show_lanes = on
        self._draw()

    # The trim

    def tried(self) -> Trim | None:
        """The trim that handles and fields stand at; None for the whole trace."""
        from_s, to_s = self.from_s.value(), self.to_s.value()
        start = from_s if from_s > 0 else None
        end = to_s if to_s < self.plot.end_s - 1e-3 else None
        if start is None and end is None:
            return None
        return Trim(from_s=start, to_s=end, why=self._why)

    _why = ""

    def propose_trim(self) -> None:
        """Put the handles where the checks would."""
        if self._run is None or self._trace is None:
            return
        trim = proposed(self._run, self._trace)
        if trim is None:
            self.says.show_words("Nothing to cut: no menu, loading or tail stands out.")
            return
        self._put(trim.from_s or 0.0, self.plot.end_s if trim.to_s is None else trim.to_s)
        self._why = trim.why
        self.says.show_words(trim.why)
        self.trim_tried.emit(self.tried())

    def apply_trim(self) -> None:
        """Store the trim that is tried."""
        if self._run is not None and self._trace is not None:
            self.trim_requested.emit(self._run, self.tried())

    def _on_whole(self) -> None:
        if self._run is not None:
            self.trim_requested.emit(self._run, None)

    def _on_dragged(self, from_s: float, to_s: float) -> None:
        self._put(from_s, to_s)
        self._why = ""
        self.trim_tried.emit(self.tried())

    def _on_typed(self) -> None:
        self.plot.show_kept(self.from_s.value(), self.to_s.value())
        self._why = ""
        self.trim_tried.emit(self.tried())

    def _put(self, from_s: float, to_s: float) -> None:
        for box, value in ((self.from_s, from_s), (self.to_s, to_s)):
            box.blockSignals(True)
            box.setValue(value)
            box.blockSignals(False)
        self.plot.show_kept(from_s, to_s)


PERCENTILE_TICKS = (
    (0.5, "50 %"),
    (0.9, "90 %"),
    (0.99, "99 %"),
    (0.999, "99.9 %"),
    (0.9999, "99.99 %"),
)


def _on_log(share: FloatArray, times_ms: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Percentiles against −log₁₀ of what is left above, so that the slow end has room."""
    return -np.log10(1.0 - share), times_ms
