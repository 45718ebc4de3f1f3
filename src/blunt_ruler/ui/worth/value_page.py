"""The value page: money against frames for every rig, two rigs drawn level, and the plot."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QSizePolicy,
    QSlider,
)

from blunt_ruler.core.claims.prices import EACH_WORDS, level_sentence, turning_sentence
from blunt_ruler.core.records.edits import change_review
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.text import percent_text
from blunt_ruler.core.worth.comparing import cheapest_gain, draw_level
from blunt_ruler.core.worth.figures import VALUE_FIGURES, WorthFigure, money_text
from blunt_ruler.core.worth.money import efficient
from blunt_ruler.core.worth.report import Worth
from blunt_ruler.ui.desk.chosen import Chosen
from blunt_ruler.ui.kit.layouts import beside, stacked
from blunt_ruler.ui.kit.widgets import ElidedLabel, allow, label
from blunt_ruler.ui.worth.figures_table import FiguresTable
from blunt_ruler.ui.worth.page import WorthPage
from blunt_ruler.ui.worth.paint import WorthPlot

MOST_CHANGE = 50  # per cent either way


class ValuePage(WorthPage):
    """Cost for each frame, and what a price would have to be."""

    def __init__(self, chosen: Chosen) -> None:
        super().__init__(chosen)
        self._worth: Worth | None = None
        self._rig_id = ""
        self.table = FiguresTable("Money and frames of every rig", VALUE_FIGURES, marks=True)
        self.table.rig_chosen.connect(self.chosen.choose)
        self.plot = WorthPlot()
        self.plot.rig_chosen.connect(self.chosen.choose)
        self.other, self.kind = QComboBox(), QComboBox()
        for figure, words in EACH_WORDS.items():
            self.kind.addItem(f"per {words}", figure)
        self.kind.setCurrentIndex(2)
        self.against = QComboBox()
        for box, name in (
            (self.other, "Draw level with"),
            (self.kind, "Draw level per"),
            (self.against, "Another rig of the logbook"),
        ):
            box.setAccessibleName(name)
            box.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
            box.setMinimumWidth(90)
        self.other.activated.connect(lambda _index: self._say_level())
        self.kind.activated.connect(lambda _index: self._say_level())
        self.against.activated.connect(lambda _index: self._on_against())
        row = QHBoxLayout()
        row.setSpacing(6)
        for words, box, share in (
            ("level with", self.other, 2),
            ("", self.kind, 2),
            ("set beside", self.against, 2),
        ):
            if words:
                row.addWidget(label(words, "quiet", wrap=False))
            row.addWidget(box, share)
        self.level = label("", "says")
        self.turning = label("", "quiet")
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(-MOST_CHANGE, MOST_CHANGE)
        self.slider.setPageStep(10)
        self.slider.setAccessibleName("Change the price of the chosen rig, per cent")
        self.slider.valueChanged.connect(self._on_slide)
        self.changed = ElidedLabel("quiet")
        slide = beside(
            label("if its price moved", "quiet", wrap=False), (self.slider, 1), (self.changed, 2)
        )
        stacked(
            self.table, row, self.level, self.turning, slide, (self.plot, 5), spacing=7, on=self
        )

    def fill(self, contents: Contents, worth: Worth, rig_id: str) -> None:
        """Show all rigs with one of them chosen."""
        fresh = rig_id != self._rig_id
        self._worth, self._rig_id = worth, rig_id
        self.table.show_worth(worth, rig_id)
        chosen = self.other.currentData()
        self.other.clear()
        for row in worth.rows:
            if row.rig_id != rig_id:
                self.other.addItem(row.column.name, row.rig_id)
        place = self.other.findData(chosen)
        best = cheapest_gain(worth, but=rig_id)
        if place < 0 and best is not None:
            place = self.other.findData(best.rig_id)
        self.other.setCurrentIndex(max(place, 0))
        self._fill_against(contents, worth)
        if fresh:
            self.slider.setValue(0)
        self._say_level()
        self._on_slide()

    def _fill_against(self, contents: Contents, worth: Worth) -> None:
        seated = {seat.rig_id for seat in worth.review.seats}
        self.against.clear()
        self.against.addItem("no other rig", None)
        for rig in contents.rigs.values():
            if rig.id not in seated:
                self.against.addItem(rig.name, rig.id)
        self.against.setCurrentIndex(max(self.against.findData(worth.review.worth.against), 0))
        other = self.against.count() > 1
        allow(self.against, "" if other else "The logbook holds no rig outside this review")

    def _on_against(self) -> None:
        """Set the review against another rig of the logbook, or none."""
        worth, rig_id = self._worth, self.against.currentData()
        if worth is not None and worth.review.worth.against != rig_id:
            settings = worth.review.worth.model_copy(update={"against": rig_id})
            self.edited.emit(change_review(worth.review, "set another rig beside", worth=settings))

    def _say_level(self) -> None:
        worth, other = self._worth, self.other.currentData()
        if worth is None or other is None:
            self.level.setText("")
            return
        level = draw_level(worth, self._rig_id, other, self.kind.currentData())
        self.level.setText(level_sentence(worth, level).computed if level else "")
        turning = turning_sentence(worth, self._rig_id)
        self.turning.setText(turning.computed if turning else "")
        self.turning.setVisible(turning is not None)

    def _on_slide(self) -> None:
        worth = self._worth
        if worth is None:
            return
        change = self.slider.value() / 100.0
        points = worth.points()
        if self._rig_id in points:
            price, frames = points[self._rig_id]
            points[self._rig_id] = (price * (1.0 + change), frames)
            best = efficient(points)
            row = worth.row(self._rig_id)
            gained = row.value(WorthFigure.GAINED) if row else None
            each = (
                f", {money_text(price * (1.0 + change) / gained, worth.currency)} per gained frame"
                if gained and gained > 0
                else ""
            )
            place = "nothing is cheaper and faster" if self._rig_id in best else "beaten"
            moved = percent_text(change, signed=True)
            now = money_text(price * (1.0 + change), worth.currency)
            self.changed.show_words(f"{moved}: {now}{each}; {place}")
        else:
            self.changed.show_words("its price is not fully known")
        known = self._rig_id in points
        allow(self.slider, "" if known else "Its price or its frames are not known")
        self.plot.show_points(worth, points, self._rig_id)
