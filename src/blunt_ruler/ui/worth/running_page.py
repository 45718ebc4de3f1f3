"""The running page: power, heat, noise and what there is to carry, and the readings behind them."""

from PyQt6.QtWidgets import QHBoxLayout

from blunt_ruler.core.drawing.stacks import draw_stacks, stacks_height
from blunt_ruler.core.drawing.worth import watt_stacks
from blunt_ruler.core.records.edits import change_review, put
from blunt_ruler.core.records.pricing import Readings, WorthSettings
from blunt_ruler.core.records.records import Contents, Review
from blunt_ruler.core.worth.figures import RUNNING_FIGURES
from blunt_ruler.core.worth.report import Worth
from blunt_ruler.core.worth.sentences import running_line
from blunt_ruler.ui.desk.chosen import Chosen
from blunt_ruler.ui.kit.layouts import stacked
from blunt_ruler.ui.kit.part_form import PartForm
from blunt_ruler.ui.kit.picture_view import PictureView
from blunt_ruler.ui.kit.widgets import ElidedLabel, card, scrolling
from blunt_ruler.ui.worth.figures_table import FiguresGrid
from blunt_ruler.ui.worth.page import WorthPage

MONEY = "MONEY AND ENERGY OF THIS REVIEW"


class RunningPage(WorthPage):
    """What rigs draw, and how hot, loud and heavy they are."""

    def __init__(self, chosen: Chosen) -> None:
        super().__init__(chosen)
        self._name = ""
        self._review: Review | None = None
        self.table = FiguresGrid("Power, heat, noise and weight of every rig", RUNNING_FIGURES)
        self.table.rig_chosen.connect(self.chosen.choose)
        self.head = ElidedLabel("heading")
        self.readings = PartForm(Readings, ("noise", "notes"), of="readings")
        self.readings.fields["noise"].setToolTip("card fan 34 at 0.5 m; supply 28 at 0.5 m")
        self.readings.part_changed.connect(
            lambda part, field: self.edited.emit(put(f"{field} of {self._name}", part))
        )
        self.settings = PartForm(WorthSettings, ("rates",), of="review")
        self.settings.part_changed.connect(self._on_settings)
        money = ElidedLabel("heading")
        money.show_words(MONEY)
        forms = QHBoxLayout()
        forms.setSpacing(10)
        for head, form in (
            (self.head, self.readings),
            (money, self.settings),
        ):
            forms.addWidget(scrolling(card(head, form, stretch=True)), 1)
        self.picture = PictureView()
        self.picture.setAccessibleName("What each rig draws at the wall")
        stacked(card(self.picture), (self.table, 5), (forms, 6), spacing=8, on=self)

    def line(self) -> str:
        """What the chosen rig draws."""
        return self._line

    def _on_settings(self, settings: WorthSettings, words: str) -> None:
        if self._review is not None:
            self.edited.emit(change_review(self._review, words, worth=settings))

    def fill(self, contents: Contents, worth: Worth, rig_id: str) -> None:
        """Show all rigs with one of them chosen, and its readings."""
        self._name, self._review = contents.rigs[rig_id].name, worth.review
        self.table.show_worth(worth, rig_id)
        self._line = running_line(worth, rig_id)
        stacks = watt_stacks(worth, rig_id)
        self.picture.setAccessibleDescription("; ".join(f"{s.name} {s.says}" for s in stacks))
        self.picture.show_picture(
            lambda picture: draw_stacks(picture, stacks, "W"), {}, stacks_height(len(stacks))
        )
        self.head.show_words(f"READINGS OF {self._name.upper()}")
        read = contents.readings.get(rig_id) or Readings(id=rig_id, rig_id=rig_id)
        self.readings.show_part(read)
        self.settings.show_part(worth.review.worth, worth.review.id)
