"""The Limits view: what took the frames, and what another link would give."""

from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QSizePolicy

from blunt_ruler.core.records.records import Role
from blunt_ruler.ui.desk.snapshot import Snapshot
from blunt_ruler.ui.desk.stop import Stop
from blunt_ruler.ui.limits.pages import CeilingPage, CellsPage, LossPage, NextPage
from blunt_ruler.ui.limits.whatif_page import WhatIfPage

CELLS, LOSS, WHAT_IF, CEILING, NEXT = "Cells", "Loss", "What if", "Ceiling", "Next test"


class LimitsStop(Stop):
    """What took the frames."""

    sketch = "curve"
    begins_at = ("Go to Runs", "Runs")

    def __init__(self) -> None:
        super().__init__("Limits")
        self.rig, self.case = QComboBox(), QComboBox()
        row = QHBoxLayout()
        row.setSpacing(6)
        for box, name, share in ((self.rig, "Rig", 2), (self.case, "Case", 3)):
            box.setAccessibleName(name)
            box.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
            box.activated.connect(lambda _index: self._on_boxes())
            row.addWidget(box, share)
        self.chosen.changed.connect(self._show_chosen)
        self.add_page(CELLS, lambda: CellsPage(self.chosen))
        self.add_page(LOSS, lambda: LossPage(self.chosen))
        self.add_page(WHAT_IF, lambda: WhatIfPage(self.chosen))
        self.add_page(CEILING, lambda: CeilingPage(self.chosen))
        self.add_page(NEXT, lambda: NextPage(self.chosen))
        self.body.addWidget(self.bar)
        self.body.addLayout(row)
        self.body.addWidget(self.pages, 1)

    def begins(self, snapshot: Snapshot) -> tuple[str, str]:
        """Where rigs are described, where that alone is wanting."""
        analysis = snapshot.analysis
        wants_parts = analysis is not None and analysis.limits.wants_parts
        return ("Describe rigs", "Bench") if wants_parts else self.begins_at

    def missing(self, snapshot: Snapshot) -> str:
        """Why there is no fit, or that it is under way."""
        there = ""
        if snapshot.analysis is None:
            there = "No limits yet: they need rates of some cases on some rigs. Import logs first."
        elif snapshot.analysis.limits.fit is None:
            there = snapshot.analysis.limits.why_not
        for box in (self.rig, self.case):
            box.setVisible(not there)
        return there

    def arrive(self, snapshot: Snapshot) -> None:
        """Offer the rigs and cases that were fitted."""
        analysis = snapshot.analysis
        if analysis is None or analysis.limits.fit is None:
            return
        report, contents = analysis.limits, snapshot.contents
        cells = analysis.limits.fit.measured.cells
        rigs = list(dict.fromkeys(cell.rig for cell in cells))
        cases = list(dict.fromkeys(cell.case for cell in cells))
        for box, keys, names in (
            (self.rig, rigs, [contents.rigs[one].name for one in rigs]),
            (self.case, cases, [contents.case_label(one) for one in cases]),
        ):
            box.clear()
            for key, name in zip(keys, names, strict=True):
                box.addItem(name, key)
        if report.cell(self.chosen.rig, self.chosen.case) is None:
            roles = {seat.rig_id: seat.role for seat in analysis.review.seats}
            tested = [rig for rig in rigs if roles.get(rig) is Role.TESTED] or rigs
            self.chosen.rig, self.chosen.case = tested[0], cases[0]
        self._show_chosen()

    def _show_chosen(self) -> None:
        self.rig.setCurrentIndex(self.rig.findData(self.chosen.rig))
        self.case.setCurrentIndex(self.case.findData(self.chosen.case))

    def _on_boxes(self) -> None:
        self.chosen.choose(self.rig.currentData(), self.case.currentData())
