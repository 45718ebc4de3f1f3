"""The running page: power, heat, noise and what there is to carry, and the readings behind them."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from blunt_ruler.core.records.pricing import Readings, WorthSettings
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.worth.figures import RUNNING_FIGURES
from blunt_ruler.core.worth.report import Worth
from blunt_ruler.ui.part_form import PartForm
from blunt_ruler.ui.widgets import ElidedLabel, card, scrolling
from blunt_ruler.ui.worth.figures_table import FiguresGrid

MONEY = "MONEY AND ENERGY OF THIS REVIEW"


class RunningPage(QWidget):
    """What rigs draw, and how hot, loud and heavy they are.

    Signals:
        rig_chosen(str): this rig.
        edit_requested(str, list): an edit by name and the records it puts.
        settings_changed(object, str): other settings of the review's worth, and what moved.
    """

    rig_chosen = pyqtSignal(str)
    edit_requested = pyqtSignal(str, object)
    settings_changed = pyqtSignal(object, str)

    def __init__(self) -> None:
        super().__init__()
        self._name = ""
        self.table = FiguresGrid("Power, heat, noise and weight of every rig", RUNNING_FIGURES)
        self.table.rig_chosen.connect(self.rig_chosen)
        self.head = ElidedLabel("heading")
        self.readings = PartForm(Readings, ("noise", "notes"), of="readings")
        self.readings.fields["noise"].setToolTip("card fan 34 at 0.5 m; supply 28 at 0.5 m")
        self.readings.part_changed.connect(
            lambda part, field: self.edit_requested.emit(f"{field} of {self._name}", [part])
        )
        self.settings = PartForm(WorthSettings, ("rates",), of="review")
        self.settings.part_changed.connect(self.settings_changed)
        money = ElidedLabel("heading")
        money.show_words(MONEY)
        forms = QHBoxLayout()
        forms.setSpacing(10)
        for head, form in (
            (self.head, self.readings),
            (money, self.settings),
        ):
            forms.addWidget(scrolling(card(head, form, stretch=True)), 1)
        around = QVBoxLayout(self)
        around.setContentsMargins(0, 0, 0, 0)
        around.setSpacing(8)
        around.addWidget(self.table, 5)
        around.addLayout(forms, 6)

    def show_rig(self, contents: Contents, worth: Worth, rig_id: str) -> None:
        """Show all rigs with one of them chosen, and its readings."""
        self._name = contents.rigs[rig_id].name
        self.table.show_worth(worth, rig_id)
        self.head.show_words(f"READINGS OF {self._name.upper()}")
        read = contents.readings.get(rig_id) or Readings(id=rig_id, rig_id=rig_id)
        self.readings.show_part(read)
        self.settings.show_part(worth.review.worth, worth.review.id)
