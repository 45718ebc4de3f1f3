"""The times page: how long titles, swaps and days take. Forms come from the plan's own fields."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QTableWidget,
    QTableWidgetItem,
)

from blunt_ruler.core.plan.bench_order import swap_minutes
from blunt_ruler.core.plan.bench_plan import BenchPlan
from blunt_ruler.core.plan.matrix import plan_of
from blunt_ruler.core.records.edits import put
from blunt_ruler.core.records.plan_settings import Hours, Plan, SwapMinutes, TitleTimes
from blunt_ruler.core.records.records import Contents, Review
from blunt_ruler.ui.desk.snapshot import Snapshot
from blunt_ruler.ui.desk.stop import Page
from blunt_ruler.ui.kit.layouts import beside
from blunt_ruler.ui.kit.part_form import PartForm, heading
from blunt_ruler.ui.kit.widgets import card, label, scroll_column
from blunt_ruler.ui.plan.models import head_words
from blunt_ruler.ui.plan.shown_plan import ShownPlan


class TimesPage(Page):
    """Forms for the times of a title, of swaps, and of the days."""

    def __init__(self, shown: ShownPlan) -> None:
        super().__init__()
        self._shown = shown
        self._plan: Plan | None = None
        self._bench_plan: BenchPlan | None = None
        self.title = QComboBox()
        self.title.setAccessibleName("Title whose times are shown")
        self.title.activated.connect(lambda _index: self._show_title())
        self.learned = label("", "quiet")
        self.title_form = PartForm(TitleTimes)
        self.title_form.part_changed.connect(self._on_title)
        self.swap_form = PartForm(SwapMinutes)
        self.swap_form.part_changed.connect(lambda swaps, says: self._emit({"swaps": swaps}, says))
        self.between = QTableWidget()
        self.between.setAccessibleName("Minutes from each rig to each other")
        self.between.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.between.setTabKeyNavigation(False)
        self.hours_form = PartForm(Hours)
        self.hours_form.part_changed.connect(lambda hours, says: self._emit({"hours": hours}, says))
        column = scroll_column(self)
        for parts in (
            (beside(heading("TITLE"), (self.title, 1)), self.learned, self.title_form),
            (heading("SWAPS"), self.swap_form, self.between),
            (heading("HOURS"), self.hours_form),
        ):
            column.addWidget(card(*parts))
        column.addStretch(1)

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Show the times in force; measured ones are said to be."""
        contents, review = snapshot.contents, snapshot.review
        if review is None:
            return
        stored = self._plan = plan_of(contents, review)
        self._bench_plan = self._shown.plan
        chosen = self.title.currentData()
        self.title.clear()
        title_ids = dict.fromkeys(contents.cases[case].title_id for case in review.case_ids)
        for title_id in title_ids:
            self.title.addItem(contents.titles[title_id].name, title_id)
        self.title.setCurrentIndex(max(self.title.findData(chosen), 0))
        self.swap_form.show_part(stored.swaps)
        self.hours_form.show_part(stored.hours)
        self._show_between(contents, review, stored)
        self._show_title()

    def _show_between(self, contents: Contents, review: Review, plan: Plan) -> None:
        """Minutes between rigs as they follow from what differs."""
        rigs = [seat.rig_id for seat in review.seats]
        names = [contents.rigs[rig_id].name for rig_id in rigs]
        table = self.between
        table.setRowCount(len(rigs))
        table.setColumnCount(len(rigs))
        table.setHorizontalHeaderLabels([head_words(name) for name in names])
        table.setVerticalHeaderLabels([f"from {name}" for name in names])
        for row, one in enumerate(rigs):
            for column, other in enumerate(rigs):
                value = swap_minutes(contents, plan, one, other)
                item = QTableWidgetItem("–" if one == other else f"{value:g}")
                item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                table.setItem(row, column, item)
        table.resizeColumnsToContents()
        head = table.horizontalHeader()
        high = head.sizeHint().height() if head is not None else 36
        table.setFixedHeight(min(high + 8 + 31 * len(rigs), 280))

    def _show_title(self) -> None:
        title_id = self.title.currentData()
        if self._plan is None or title_id is None:
            self.title_form.show_part(None)
            return
        known = self._bench_plan.plan if self._bench_plan else self._plan
        times = known.times_of(title_id)
        learned = self._bench_plan.learned_titles if self._bench_plan else ()
        is_learned = title_id in learned
        self.learned.setText(
            f"As measured, and as the plan uses it: loading {times.load_s:g} s, one pass "
            f"{times.pass_s:g} s, settings {times.settings_s:g} s."
            if is_learned
            else "Not measured yet: the plan uses these figures."
        )
        fresh = self._plan.times_of(title_id)
        self.title_form.show_part(fresh, title_id)

    def _on_title(self, times: TitleTimes, says: str) -> None:
        if self._plan is not None:
            others = [one for one in self._plan.title_times if one.title_id != times.title_id]
            self._emit({"title_times": (*others, times)}, f"{says} of {self.title.currentText()}")

    def _emit(self, change: dict[str, object], says: str) -> None:
        if self._plan is not None:
            self.edited.emit(put(f"plan: {says}", self._plan.model_copy(update=change)))
