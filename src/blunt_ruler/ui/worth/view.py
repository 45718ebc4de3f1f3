"""The Worth view: what each rig costs, draws and weighs, and for whom it makes sense."""

from PyQt6.QtWidgets import QComboBox, QSizePolicy, QWidget

from blunt_ruler.core.records.records import Role
from blunt_ruler.ui.desk.snapshot import Snapshot
from blunt_ruler.ui.desk.stop import Stop
from blunt_ruler.ui.worth.instead_page import InsteadPage
from blunt_ruler.ui.worth.prices_page import PricesPage
from blunt_ruler.ui.worth.running_page import RunningPage
from blunt_ruler.ui.worth.value_page import ValuePage
from blunt_ruler.ui.worth.verdict_page import VerdictPage

VALUE, PRICES, INSTEAD = "Value", "Prices", "Instead"
RUNNING, VERDICT = "Running", "Verdict"


class WorthStop(Stop):
    """What each rig is worth."""

    sketch = "bars"
    begins_at = ("Describe a rig", "Bench")

    def __init__(self) -> None:
        super().__init__("Worth")
        self.rig = QComboBox()
        self.rig.setAccessibleName("Rig")
        self.rig.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.rig.setMaximumWidth(260)
        self.rig.activated.connect(lambda _index: self.chosen.choose(self.rig.currentData()))
        self.bar.row.addWidget(self.rig, 2)
        self.chosen.changed.connect(self._show_chosen)
        self.add_page(VALUE, lambda: ValuePage(self.chosen))
        self.add_page(PRICES, lambda: PricesPage(self.chosen))
        self.add_page(INSTEAD, lambda: InsteadPage(self.chosen))
        self.add_page(RUNNING, lambda: RunningPage(self.chosen))
        self.add_page(VERDICT, lambda: VerdictPage(self.chosen))
        self.body.addWidget(self.bar)
        self.body.addWidget(self.pages, 1)
        QWidget.setTabOrder(self.bar.buttons[VERDICT], self.rig)

    def missing(self, snapshot: Snapshot) -> str:
        """Worth needs a rig."""
        if snapshot.analysis is None or not snapshot.analysis.worth.rows:
            return "No rig is in this review yet: describe one at the Bench, or import a log."
        return ""

    def arrive(self, snapshot: Snapshot) -> None:
        """Offer the rigs."""
        assert snapshot.analysis is not None
        worth = snapshot.analysis.worth
        self.rig.clear()
        for row in worth.rows:
            self.rig.addItem(row.column.name, row.rig_id)
        if worth.row(self.chosen.rig) is None:
            tested = [row.rig_id for row in worth.rows if row.column.role is Role.TESTED]
            self.chosen.rig = (tested or [worth.rows[0].rig_id])[0]
        self._show_chosen()

    def _show_chosen(self) -> None:
        self.rig.setCurrentIndex(self.rig.findData(self.chosen.rig))
