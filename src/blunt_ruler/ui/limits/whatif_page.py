"""What if: sliders over a measured cell, the prediction at once, what was measured beside it."""

import math

from PyQt6.QtCore import QLineF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPen
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QGridLayout,
    QPushButton,
    QSizePolicy,
    QSlider,
    QVBoxLayout,
    QWidget,
)

from blunt_ruler.core.drawing.ticks import scale_to
from blunt_ruler.core.limits.cells import SLOT_LATENCY_MS, TUNNEL_LATENCY_MS, Cell
from blunt_ruler.core.limits.next_measurement import SIZES
from blunt_ruler.core.limits.report import LimitsReport
from blunt_ruler.core.limits.whatif import Change, Predicted
from blunt_ruler.core.limits.words import fit_words
from blunt_ruler.core.rigs.links import usual_links
from blunt_ruler.core.text import amount, fps_text
from blunt_ruler.ui.desk.chosen import Chosen
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.layouts import STRETCH, stacked
from blunt_ruler.ui.kit.painting import painted
from blunt_ruler.ui.kit.widgets import allow, empty, label
from blunt_ruler.ui.limits.page import LimitsPage
from blunt_ruler.ui.limits.paint import ShareBar

STEPS = 400
NARROWEST, WIDEST = 0.5, 64.0
SLOWEST, FASTEST = 0.4, 3.0


class _PredictionRule(QWidget):
    """A prediction with its interval on the ruler, and what was measured of this case."""

    def __init__(self) -> None:
        super().__init__()
        self._predicted: Predicted | None = None
        self._measured: list[tuple[str, float, bool]] = []
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setMinimumHeight(110)

    def show_prediction(
        self, predicted: Predicted, measured: list[tuple[str, float, bool]]
    ) -> None:
        """Show a prediction; `measured` holds (rig, rate, whether it is the chosen one)."""
        self._predicted, self._measured = predicted, measured
        self.setAccessibleName(
            f"Predicted {predicted.average_fps:.1f}, 80 per cent between "
            f"{predicted.low_80:.1f} and {predicted.high_80:.1f}"
        )
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(500, 118)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        found = self._predicted
        if found is None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        colours = theme.current()
        most = max([found.high_80, *(rate for _, rate, _ in self._measured)]) * 1.05
        scale = scale_to(most, most_majors=10)
        left, room = 12.0, self.width() - 40.0

        def x(fps: float) -> float:
            return left + scale.share(fps) * room

        middle = 34.0
        painter.fillRect(
            QRectF(x(0), middle - 1.5, x(found.average_fps) - x(0), 3), QColor(colours.blue)
        )
        painter.fillRect(
            QRectF(x(found.low_80), middle - 8, x(found.high_80) - x(found.low_80), 16),
            QColor(colours.selected),
        )
        painter.fillRect(QRectF(x(found.average_fps) - 2, middle - 12, 4, 24), QColor(colours.blue))
        painter.setFont(theme.font(theme.SMALL))
        for _name, rate, chosen in self._measured:
            painter.setPen(QPen(QColor(colours.ink if chosen else colours.steel), 1.5))
            painter.drawLine(QLineF(x(rate), middle + 16, x(rate), middle + 30))
            if chosen:
                painter.drawText(
                    QRectF(x(rate) - 80, 2, 160, 16),
                    Qt.AlignmentFlag.AlignHCenter,
                    f"as measured {fps_text(rate)}",
                )
                painter.drawLine(QLineF(x(rate), 18, x(rate), middle + 30))
        top = middle + 34
        painter.fillRect(QRectF(left - 3, top, room + 6, 22), QColor(colours.rule))
        painter.setPen(QPen(QColor(colours.ink), 1))
        for value in scale.majors():
            painter.drawLine(QLineF(x(value), top, x(value), top + 9))
            painter.drawText(
                QRectF(x(value) - 24, top + 8, 48, 15), Qt.AlignmentFlag.AlignHCenter, f"{value:g}"
            )


class WhatIfPage(LimitsPage):
    """Sliders for link, CPU and card, a size, a screen path; the answer moves with them."""

    def __init__(self, chosen: Chosen) -> None:
        super().__init__(chosen)
        self._cell: Cell | None = None
        self._shown: tuple[object, ...] = ()
        self.predicted: Predicted | None = None
        self._latency_ms: float | None = None
        grid = QGridLayout()
        grid.setHorizontalSpacing(12)
        grid.setVerticalSpacing(6)
        self.link = self._slider("Link bandwidth, GB/s")
        self.cpu = self._slider("CPU speed against the rig's")
        self.card = self._slider("Card speed against the rig's")
        self.values = {}
        for row, (name, slider) in enumerate(
            (("link", self.link), ("CPU", self.cpu), ("card", self.card))
        ):
            grid.addWidget(label(name, "quiet", wrap=False), row, 0)
            grid.addWidget(slider, row, 1)
            self.values[name] = label("", "figure", wrap=False)
            self.values[name].setFixedWidth(92)
            grid.addWidget(self.values[name], row, 2)
        self.preset = QComboBox()
        self.preset.setAccessibleName("A link by its name")
        self.preset.addItem("a link by name", None)
        for link in usual_links():
            latency_ms = TUNNEL_LATENCY_MS if link.tunnel else SLOT_LATENCY_MS
            self.preset.addItem(link.name, (link.gb_per_s, latency_ms))
        self.preset.activated.connect(self._on_preset)
        self.resolution = QComboBox()
        self.resolution.setAccessibleName("Resolution")
        self.resolution.addItem("as measured", None)
        for name, mpx in SIZES.items():
            self.resolution.addItem(name, mpx)
        self.resolution.activated.connect(lambda _index: self._predict())
        self.back = QCheckBox("picture sent back over the link")
        self.back.toggled.connect(lambda _on: self._predict())
        self.reset = QPushButton("As measured")
        self.reset.clicked.connect(self._reset)
        grid.addWidget(self.preset, 0, 3)
        grid.addWidget(self.resolution, 1, 3)
        grid.addWidget(self.back, 2, 3)
        grid.addWidget(self.reset, 3, 3)
        grid.setColumnStretch(1, 1)
        self.says = label("", "says")
        self.says.setStyleSheet("font-size: 20px; font-weight: 600;")
        self.more = label("", "quiet")
        self.outside = label("", "caution")
        self.rule = _PredictionRule()
        self.shares = QVBoxLayout()
        self.left_out = label("", "small")
        stacked(
            grid,
            self.says,
            self.more,
            self.rule,
            self.shares,
            self.outside,
            self.left_out,
            STRETCH,
            spacing=10,
            on=self,
        )

    def _slider(self, name: str) -> QSlider:
        slider = QSlider(Qt.Orientation.Horizontal)
        slider.setRange(0, STEPS)
        slider.setAccessibleName(name)
        slider.valueChanged.connect(lambda _value: self._predict())
        return slider

    def fill(self, report: LimitsReport) -> None:
        """Start from the chosen cell; what is asked of it stays while it is the same."""
        found = report.cell(self.chosen.rig, self.chosen.case)
        self._cell = found[1] if found else None
        withheld = report.withheld.get((self.chosen.rig, self.chosen.case))
        why = "Choose a result in the fit: a valid figure of a described rig"
        allow(self, "" if found else f"Nothing is predicted: {withheld.why}" if withheld else why)
        self.left_out.setText(fit_words(report))
        shown = (self.chosen.rig, self.chosen.case, report.fit)
        if shown[:2] == self._shown[:2] and shown[2] is self._shown[2]:
            self._predict()
            return
        self._shown = shown
        self._reset()

    def _bandwidth(self) -> float:
        assert self.report is not None and self._cell is not None and self.report.fit is not None
        return min(self.report.fit.measured.links[self._cell.link].gb_per_s, WIDEST)

    def _reset(self) -> None:
        if self._cell is None or self.report is None:
            self.says.setText("Choose a cell that was measured.")
            return
        for slider in (self.link, self.cpu, self.card):
            slider.blockSignals(True)
        self.link.setValue(_place(self._bandwidth(), NARROWEST, WIDEST))
        self.cpu.setValue(_place(1.0, SLOWEST, FASTEST))
        self.card.setValue(_place(1.0, SLOWEST, FASTEST))
        for slider in (self.link, self.cpu, self.card):
            slider.blockSignals(False)
        self.back.blockSignals(True)
        self.back.setChecked(self._cell.sent_back_mb > 0)
        self.back.blockSignals(False)
        self.resolution.setCurrentIndex(0)
        self.preset.setCurrentIndex(0)
        self._latency_ms = None
        self._predict()

    def _on_preset(self, index: int) -> None:
        asked = self.preset.itemData(index)
        self._latency_ms = None if asked is None else asked[1]
        if asked is not None:
            self.link.setValue(_place(asked[0], NARROWEST, WIDEST))
        self._predict()

    def change(self) -> Change:
        """What the sliders ask for; a slider at its start asks for nothing."""
        at_start = self.link.value() == _place(self._bandwidth(), NARROWEST, WIDEST)
        neutral = _place(1.0, SLOWEST, FASTEST)
        cpu, card = (
            1.0 if slider.value() == neutral else _value(slider.value(), SLOWEST, FASTEST)
            for slider in (self.cpu, self.card)
        )
        return Change(
            gb_per_s=None if at_start else _value(self.link.value(), NARROWEST, WIDEST),
            cpu_speed=cpu,
            card_speed=card,
            megapixels=self.resolution.currentData(),
            sent_back=self.back.isChecked(),
            latency_ms=self._latency_ms,
        )

    def _predict(self) -> None:
        report, cell = self.report, self._cell
        if report is None or cell is None or report.fit is None:
            return
        change = self.change()
        found = self.predicted = report.what_if(cell, change)
        shown = change.gb_per_s if change.gb_per_s is not None else self._bandwidth()
        self.values["link"].setText(amount(round(shown, 1), "GB/s"))
        self.values["CPU"].setText(f"×{change.cpu_speed:.2f}")
        self.values["card"].setText(f"×{change.card_speed:.2f}")
        self.says.setText(
            f"{fps_text(found.average_fps)} frames per second, 80\u202f% between "
            f"{fps_text(found.low_80)} and {fps_text(found.high_80)}"
        )
        low = f"1 % low about {fps_text(found.low_1_fps)}; " if found.low_1_fps else ""
        limit = "no single limit" if found.limit == "mixed" else f"limit: {found.limit}"
        self.more.setText(f"{low}{limit}.")
        self.outside.setText(
            f"Outside what was measured: {'; '.join(found.outside)}." if found.outside else ""
        )
        measured = [
            (report.contents.rigs[one.rig].name, one.average_fps, one.rig == cell.rig)
            for one in report.fit.measured.cells
            if one.case == cell.case
        ]
        self.rule.show_prediction(found, measured)
        empty(self.shares)
        self.shares.addWidget(
            ShareBar([found.shares["card"], found.shares["cpu"], found.shares["link"]])
        )


def _place(value: float, low: float, high: float) -> int:
    """Where a value stands on a logarithmic slider."""
    return round(STEPS * math.log(max(value, low) / low) / math.log(high / low))


def _value(place: int, low: float, high: float) -> float:
    return low * math.pow(high / low, place / STEPS)
