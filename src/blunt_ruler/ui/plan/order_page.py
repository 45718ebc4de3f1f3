"""The order page: every step of the bench days, and rigs that stay where they are."""

from dataclasses import dataclass
from typing import Any

from PyQt6.QtWidgets import QCheckBox, QPushButton

from blunt_ruler.core.plan.plan_edits import set_plan
from blunt_ruler.core.plan.timetable import Timed
from blunt_ruler.ui.desk.snapshot import Snapshot
from blunt_ruler.ui.desk.stop import Page
from blunt_ruler.ui.kit.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.kit.rows import Column, RowsTable
from blunt_ruler.ui.plan.shown_plan import ShownPlan


@dataclass(frozen=True, slots=True)
class _Step:
    timed: Timed
    rig: str
    case: str
    late: bool

    @property
    def what(self) -> str:
        """What is done, with the number of the pass."""
        repeat = self.timed.item.repeat
        return str(self.timed.item.kind) + ("" if repeat is None else f" {repeat}")


def _colour(step: _Step) -> str:
    return "loss" if step.late else ""


COLUMNS = (
    Column("Starts", lambda s: s.timed.starts.replace("T", " ")[5:], 104, colour=_colour),
    Column("What", lambda s: s.what, 92, colour=_colour),
    Column("Rig", lambda s: s.rig, tip=lambda s: s.rig, colour=_colour),
    Column("Case", lambda s: s.case, tip=lambda s: s.case, colour=_colour),
    Column("Minutes", lambda s: f"{s.timed.item.minutes:.1f}", 80, figures=True, colour=_colour),
)


class OrderPage(Page):
    """The order of the bench days."""

    def __init__(self, shown: ShownPlan) -> None:
        super().__init__()
        self._shown = shown
        self._snapshot: Snapshot | None = None
        self.table = RowsTable(
            "Order of the bench days", COLUMNS, key=lambda step: step.timed.starts
        )
        self.spread = QCheckBox("repeats spread over rounds")
        self.spread.setToolTip(
            "Each round visits every title once, so that a drift shows; else all repeats of a "
            "case come at once, which loads and sets less"
        )
        self.spread.clicked.connect(self._on_spread)
        self.lock = QPushButton("Lock the rigs up to here")
        self.lock.setToolTip("They stay at the start of the order, as they are now")
        self.lock.clicked.connect(self._on_lock)
        self.unlock = QPushButton("Unlock all")
        self.unlock.clicked.connect(lambda: self._set("unlock the rigs", first_rigs=()))
        stacked((self.table, 1), beside(self.spread, STRETCH, self.lock, self.unlock), on=self)

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Show the order of the plan."""
        self._snapshot = snapshot
        plan, contents = self._shown.plan, snapshot.contents
        if plan is None:
            return
        self.spread.setChecked(plan.plan.spread_repeats)
        late = {timed.starts for timed in plan.table.late}
        self.table.show_rows(
            [
                _Step(
                    timed,
                    contents.rigs[timed.item.rig_id].name,
                    contents.case_label(timed.item.case_id) if timed.item.case_id else "",
                    timed.starts in late,
                )
                for day in plan.table.days
                for timed in day.items
            ]
        )

    def _on_spread(self, on: bool) -> None:
        words = "spread the repeats" if on else "take repeats at once"
        self._set(words, spread_repeats=on)

    def _on_lock(self) -> None:
        """Keep the rigs of the order where they are, up to the chosen step."""
        step, plan = self.table.chosen(), self._shown.plan
        if step is None or plan is None:
            self.notice_raised.emit("Choose a step first: the rigs up to it are locked.")
            return
        tour = plan.order.tour.order
        if step.timed.item.rig_id in tour:
            upto = tour.index(step.timed.item.rig_id) + 1
            self._set("lock the first rigs", first_rigs=tour[:upto])

    def _set(self, says: str, **fields: Any) -> None:
        if self._snapshot is not None and self._snapshot.review is not None:
            contents, review = self._snapshot.contents, self._snapshot.review
            edit = set_plan(contents, review, says, **fields)
            if edit is not None:
                self.edited.emit(edit)
