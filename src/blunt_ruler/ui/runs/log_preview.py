"""What was found in one log: its layout, its first rows, its trace and figures, to be confirmed."""

from collections.abc import Sequence
from functools import cached_property

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLayout,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from blunt_ruler.core.measure.frames import FrameFigures, LowSchool, why_no_low
from blunt_ruler.core.text import capital, count_text, duration_text, fps_text
from blunt_ruler.exchange.logs.columns import Guess
from blunt_ruler.exchange.logs.frame_logs import LogReading
from blunt_ruler.exchange.logs.words import UNIT_WORDS, LogMapping, Unit
from blunt_ruler.ui.kit.layouts import beside, stacked
from blunt_ruler.ui.kit.tips import no_shortcut, plain_tip
from blunt_ruler.ui.kit.widgets import allow, label
from blunt_ruler.ui.runs.trace_plot import Shown, TracePlot

MOST_CHOICES = 6  # ways to read one log that are offered at once


class LogPreview(QWidget):
    """Shows a reading; the column and the unit can be chosen otherwise.

    Signals:
        mapping_chosen(LogMapping): the reviewer took another column or unit.
    """

    mapping_chosen = pyqtSignal(object)

    def __init__(self, school: LowSchool) -> None:
        super().__init__()
        self._school = school
        self.found = label("", "quiet")
        self.column_box = QComboBox()
        self.column_box.setAccessibleName("Column of the frame times")
        self.unit_box = QComboBox()
        self.unit_box.setAccessibleName("What its numbers are")
        for unit, words in UNIT_WORDS.items():
            self.unit_box.addItem(words, unit)
        self.column_box.activated.connect(lambda _index: self._on_mapping_chosen())
        self.unit_box.activated.connect(lambda _index: self._on_mapping_chosen())
        self.why = label("", "quiet")
        self.warnings = label("", "caution")
        self.rows = QTableWidget()
        self.rows.setAccessibleName("First rows of the log")
        self.rows.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        side = self.rows.verticalHeader()
        assert side is not None
        side.setDefaultSectionSize(22)
        self.rows.setShowGrid(False)
        left = QVBoxLayout()
        left.setSpacing(6)
        grid = QGridLayout()
        grid.setVerticalSpacing(6)
        grid.addWidget(label("column", "quiet", wrap=False), 0, 0)
        grid.addWidget(self.column_box, 0, 1)
        grid.addWidget(label("is", "quiet", wrap=False), 1, 0)
        grid.addWidget(self.unit_box, 1, 1)
        grid.setColumnStretch(1, 1)
        self.choices = [QPushButton() for _ in range(MOST_CHOICES)]
        choices = QHBoxLayout()
        self._asks: Sequence[Guess] = ()
        for index, button in enumerate(self.choices):
            button.hide()
            button.clicked.connect(lambda _checked, at=index: self._on_choice(at))
            choices.addWidget(button)
        choices.addStretch(1)
        for part in (self.found, grid, self.why, self.warnings, choices):
            left.addLayout(part) if isinstance(part, QLayout) else left.addWidget(part)
        left.addWidget(self.rows, 1)
        self._place = QVBoxLayout()  # of the plot
        self.figures = label("", "says", wrap=False)
        self.more_figures = label("", "quiet", wrap=False)
        beside(
            (left, 2),
            (stacked(self.figures, self.more_figures, (self._place, 1), spacing=6), 3),
            spacing=18,
            on=self,
        )

    @cached_property
    def plot(self) -> TracePlot:
        """The trace; made for the first, for it takes longer than all else."""
        plot = TracePlot()
        self._place.addWidget(plot)
        return plot

    def show_log(
        self, name: str, reading: LogReading | None, figures: FrameFigures | None, error: str
    ) -> None:
        """Show what was read of a log, why it was not, or that it is being read."""
        for box in (self.column_box, self.unit_box):
            allow(box, "" if reading is not None else error or "Wait until the log is read")
        if reading is None:
            self.found.setText(error or f"Reading {name} …")
            for words in (self.why, self.warnings, self.figures, self.more_figures):
                words.setText("")
            self._offer(())
            self.rows.clear()
            self.rows.setRowCount(0)
            if self._place.count():
                self.plot.show_trace(None)
            return
        self.found.setText(f"{capital(reading.layout.words())}.")
        self.column_box.clear()
        self.column_box.addItems(list(reading.numeric_columns))
        self.column_box.setCurrentText(reading.mapping.column)
        self.unit_box.setCurrentIndex(self.unit_box.findData(reading.mapping.unit))
        self.why.setText(f"Taken so because {reading.why}." if reading.why else "")
        self.warnings.setText("\n".join([*reading.notes, *_asked(reading.asks)]))
        self._offer(reading.asks)
        self._show_rows(reading)
        if reading.trace is None or figures is None:
            self._show_samples(reading)
            return
        low = figures.low_1.by(self._school)
        lows = why_no_low(figures.frames, 0.01)
        self.figures.setText(
            f"{fps_text(figures.average_fps)} frames per second, 1 % low {fps_text(low)}"
        )
        self.more_figures.setText(
            lows
            or f"{count_text(figures.frames, 'frame')} in {duration_text(figures.duration_s)}, "
            f"1 % low: {self._school}"
        )
        low_words = "" if low is None else f"1 % low, {self._school}, {fps_text(low)} fps"
        self.plot.show_trace(Shown(reading.trace.frame_times_ms, {}, low, low_words))

    def _offer(self, asks: Sequence[Guess]) -> None:
        """A button for each way in which the log can be read, with its figure."""
        self._asks = asks
        for index, button in enumerate(self.choices):
            button.setVisible(index < len(asks))
            if index < len(asks):
                guess = asks[index]
                name = guess.mapping.rows_are or guess.mapping.column
                words = f"{name[:24]}: {fps_text(guess.average_fps)} fps"
                button.setText(no_shortcut(words))
                button.setToolTip(plain_tip(guess.words))

    def _on_choice(self, index: int) -> None:
        self.mapping_chosen.emit(self._asks[index].mapping)

    def _show_samples(self, reading: LogReading) -> None:
        sampled = reading.sampled
        assert sampled is not None
        self.figures.setText(f"{fps_text(sampled.average_fps)} frames per second, no lows")
        self.more_figures.setText(
            f"{count_text(sampled.samples, 'sample')}; 95 % interval of the average "
            f"{fps_text(sampled.low_95)} to {fps_text(sampled.high_95)}"
        )
        self.plot.show_trace(None)

    def _show_rows(self, reading: LogReading) -> None:
        self.rows.setColumnCount(len(reading.layout.names))
        self.rows.setHorizontalHeaderLabels(list(reading.layout.names))
        self.rows.setRowCount(len(reading.first_rows))
        first = reading.layout.lines_before + 1
        self.rows.setVerticalHeaderLabels(
            [str(first + index) for index in range(len(reading.first_rows))]
        )
        for row, fields in enumerate(reading.first_rows):
            for column, text in enumerate(fields[: self.rows.columnCount()]):
                self.rows.setItem(row, column, QTableWidgetItem(text))
        self.rows.resizeColumnsToContents()

    def _on_mapping_chosen(self) -> None:
        self.mapping_chosen.emit(
            LogMapping(column=self.column_box.currentText(), unit=Unit(self.unit_box.currentData()))
        )


def _asked(asks: Sequence[Guess]) -> list[str]:
    """What stands over the buttons that choose a reading; nothing where there are none."""
    if not asks:
        return []
    if asks[0].mapping.rows_of:
        return ["It holds several sources. Choose one; import the log again for another:"]
    return ["It can be read in more ways than one, with other figures:"]
