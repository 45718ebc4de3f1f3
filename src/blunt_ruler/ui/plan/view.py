"""The Plan view: matrix, order and times of a review, worked out off the interface thread."""

from collections.abc import Callable
from datetime import date
from pathlib import Path

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QPushButton,
    QStackedWidget,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.plan.bench_plan import (
    BenchPlan,
    derive_bench_plan,
    enough_line,
    plan_line,
    saved_words,
)
from blunt_ruler.core.plan.matrix import CellState, plan_of
from blunt_ruler.core.records.plan_settings import Plan
from blunt_ruler.core.records.records import Contents, Record, Review
from blunt_ruler.core.rigs.rig_edits import with_cases
from blunt_ruler.core.runs.import_runs import CaseName, parse_case
from blunt_ruler.core.text import count_text, duration_text
from blunt_ruler.ui.desk import Snapshot, new_id
from blunt_ruler.ui.jobs import Job, Jobs
from blunt_ruler.ui.plan.matrix_page import MatrixPage
from blunt_ruler.ui.plan.models import MatrixModel, OrderModel
from blunt_ruler.ui.plan.times_page import TimesPage
from blunt_ruler.ui.widgets import PageBar, Stop, figure_row, label

PAGES = ("Matrix", "Order", "Times")
QUESTIONS = {"link": "which link", "card": "which card", "gain": "what is gained"}
SHEETS = "PDF (*.pdf);;HTML (*.html);;CSV (*.csv);;ODS (*.ods);;Calendar (*.ics)"
LEFT_OUT_BY_HAND = "left out by hand"


class PlanStop(Stop):
    """What is to be measured, in which order, and when.

    Signals:
        edit_requested(str, list): an edit by name and the records it puts.
        error_raised(object): an exception to show.
        notice_raised(str): something worth a line.
    """

    edit_requested = pyqtSignal(str, object)
    error_raised = pyqtSignal(object)
    notice_raised = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__("Plan")
        self.jobs = Jobs(threads=1, parent=self)
        self._job: Job | None = None
        self._spread: Snapshot | None = None
        self.bench_plan: BenchPlan | None = None
        self.matrix_model = MatrixModel()
        self.order_model = OrderModel()
        self.body.addLayout(self._settings_bar())
        self.wrong = label("", "error")
        self.wrong.hide()
        self.body.addWidget(self.wrong)
        self.bar = self._page_bar()
        self.body.addWidget(self.bar)
        self.pages = QStackedWidget()
        self.bar.page_chosen.connect(self.pages.setCurrentIndex)
        self.matrix_page = MatrixPage(self.matrix_model)
        self.matrix_page.toggle_requested.connect(self._toggle_chosen)
        self.matrix_page.remove_requested.connect(self._remove_cases)
        self.matrix_page.add_requested.connect(self._add_case)
        self.matrix_page.template_requested.connect(self.add_template)
        self.pages.addWidget(self.matrix_page)
        self.pages.addWidget(self._order_page())
        self.times_page = TimesPage()
        self.times_page.plan_changed.connect(
            lambda plan, says: self.edit_requested.emit(f"plan: {says}", [plan])
        )
        self.pages.addWidget(self.times_page)
        self.body.addWidget(self.pages, 1)

    # Layout

    def _settings_bar(self) -> QHBoxLayout:
        bar = QHBoxLayout()
        bar.setSpacing(6)
        self.repeats = self._entry("Repeats", 44)
        self.repeats.editingFinished.connect(lambda: self._on_setting("repeats", self.repeats))
        self.difference = self._entry("Difference to show, per cent", 44)
        self.difference.editingFinished.connect(
            lambda: self._on_setting("difference", self.difference)
        )
        self.hours = self._entry("Hours there are", 54)
        self.hours.setPlaceholderText("all")
        self.hours.editingFinished.connect(self._work)
        self.seed = self._entry("Seed", 44)
        self.seed.setText("0")
        self.seed.editingFinished.connect(self._work)
        self.question = QComboBox()
        self.question.setAccessibleName("What the review asks")
        self.question.setMinimumWidth(118)
        for key, words in QUESTIONS.items():
            self.question.addItem(words, key)
        self.question.activated.connect(
            lambda _index: self._change("question", self.question.currentData(), "the question")
        )
        for words, widget in (
            ("repeats", self.repeats),
            ("difference %", self.difference),
            ("hours", self.hours),
            ("seed", self.seed),
        ):
            name = label(words, "quiet", wrap=False)
            name.setBuddy(widget)
            name.setToolTip(widget.accessibleName())
            bar.addWidget(name)
            bar.addWidget(widget)
        bar.addWidget(self.question)
        bar.addStretch(1)
        return bar

    def _entry(self, name: str, width: int) -> QLineEdit:
        entry = QLineEdit()
        entry.setAccessibleName(name)
        entry.setFixedWidth(width)
        entry.setAlignment(Qt.AlignmentFlag.AlignRight)
        return entry

    def _page_bar(self) -> PageBar:
        bar = PageBar(PAGES)
        self.sheet = QPushButton("Run sheet…")
        self.sheet.setObjectName("primary")
        self.sheet.clicked.connect(self._ask_sheet)
        bar.row.addWidget(self.sheet)
        return bar

    def _order_page(self) -> QWidget:
        table = QTableView()
        table.setModel(self.order_model)
        self.order_model.setParent(table)
        table.setAccessibleName("Order of the bench days")
        table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        table.setTabKeyNavigation(False)
        table.setShowGrid(False)
        table.setWordWrap(False)
        head, side = table.horizontalHeader(), table.verticalHeader()
        if side is not None:
            side.hide()
            side.setDefaultSectionSize(26)
        if head is not None:
            for column, width in ((0, 104), (1, 92), (4, 80)):
                head.setSectionResizeMode(column, QHeaderView.ResizeMode.Fixed)
                head.resizeSection(column, width)
            for column in (2, 3):
                head.setSectionResizeMode(column, QHeaderView.ResizeMode.Stretch)
        self.order = table
        self.lock = QPushButton("Lock the rigs up to here")
        self.lock.setToolTip("They stay at the start of the order, as they are now")
        self.lock.clicked.connect(self._on_lock)
        self.unlock = QPushButton("Unlock all")
        self.unlock.clicked.connect(lambda: self._change("first_rigs", (), "unlock the rigs"))
        foot = QHBoxLayout()
        foot.addStretch(1)
        foot.addWidget(self.lock)
        foot.addWidget(self.unlock)
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(table, 1)
        column.addLayout(foot)
        return page

    def _on_lock(self) -> None:
        """Keep the rigs of the order where they are, up to the chosen step."""
        rig_id = self.order_model.rig_at(self.order.currentIndex().row())
        if self.bench_plan is None or rig_id is None:
            self.notice_raised.emit("Choose a step first: the rigs up to it are locked.")
            return
        tour = self.bench_plan.order.tour.order
        if rig_id in tour:
            self._change("first_rigs", tour[: tour.index(rig_id) + 1], "lock the first rigs")

    # Showing

    def show_page(self, name: str) -> None:
        """Show a page of the plan."""
        self.bar.show_page(name)

    def show_spread(self, spread: Snapshot | None) -> None:
        """Work the plan of the present review out anew."""
        self._spread = spread
        ready = spread is not None and spread.review is not None
        for widget in (self.pages, self.sheet, self.repeats, self.hours, self.question):
            widget.setEnabled(ready)
        if spread is None:
            self.say("No logbook is open. Make a new one or open one from the menu at top left.")
            return
        if spread.review is None:
            self.say("Nothing to plan yet: the review needs rigs and cases. Describe rigs first.")
            return
        plan = plan_of(spread.contents, spread.review)
        for entry, text in (
            (self.repeats, f"{plan.repeats}"),
            (self.difference, f"{plan.difference * 100:g}"),
        ):
            if not entry.hasFocus():
                entry.setText(text)
        self.question.setCurrentIndex(self.question.findData(plan.question))
        self._work()

    def _work(self) -> None:
        """Work the plan out in the background; newer wishes take the place of older ones."""
        spread = self._spread
        if spread is None or spread.review is None:
            return
        contents, review = spread.contents, spread.review
        try:
            hours = _number(self.hours.text(), "hours there are", most=10_000.0)
            seed = _number(self.seed.text() or "0", "seed", most=1e9, least=0.0)
        except UserFixable as error:
            self._say_wrong(error)
            return
        self.wrong.hide()
        if self._job is not None:
            self._job.cancel()

        def work(step: Callable[[str, float], None]) -> BenchPlan:
            step("Working the plan out", 0.0)
            return derive_bench_plan(
                contents, review, hours_h=hours, seed=int(seed or 0), step=step
            )

        self._job = self.jobs.run(
            "Working the plan out",
            work,
            lambda bench_plan: self._show(contents, review, bench_plan),
            self._say_wrong,
        )

    def _say_wrong(self, error: Exception) -> None:
        if isinstance(error, UserFixable):
            self.wrong.setText(str(error))
            self.wrong.show()
        else:
            self.error_raised.emit(error)

    def _show(self, contents: Contents, review: Review, bench_plan: BenchPlan) -> None:
        self.bench_plan = bench_plan
        self.matrix_model.show_plan(contents, review, bench_plan)
        self.order_model.show_plan(contents, bench_plan)
        self.times_page.show_plan(contents, review, plan_of(contents, review), bench_plan)
        self.matrix_page.fit_columns(len(review.seats))
        self.say(plan_line(contents, review, bench_plan))
        self._show_evidence(contents, bench_plan)

    def _show_evidence(self, contents: Contents, bench_plan: BenchPlan) -> None:
        if self.evidence is None:
            return
        table, order = bench_plan.table, bench_plan.order
        parts: list[object] = [
            label("THE CLOCK", "heading"),
            figure_row("time", duration_text(order.minutes * 60)),
            figure_row("swaps", str(order.swaps)),
            figure_row("bench days", str(len(table.days))),
            figure_row("finishes", (table.finishes or "–").replace("T", " ")),
        ]
        if table.slack_days is not None:
            days = count_text(abs(table.slack_days), "day")
            parts.append(
                figure_row("before the deadline", days)
                if table.slack_days >= 0
                else label(f"Finishes {days} after the deadline.", "error")
            )
        parts += [10, label("AGAINST THE ORDER AS ENTERED", "heading")]
        parts.append(label(saved_words(bench_plan), "quiet"))
        parts += [10, label("ENOUGH REPEATS", "heading"), label(enough_line(contents, bench_plan))]
        if bench_plan.learned_titles:
            learned = count_text(len(bench_plan.learned_titles), "title")
            parts.append(label(f"Times of {learned} are as measured.", "small"))
        whys = list(dict.fromkeys(one.why for one in bench_plan.dropped))
        if whys:
            parts += [10, label("GIVEN UP", "heading")]
            parts += [label(why, "quiet") for why in whys]
            if not bench_plan.optimal:
                parts.append(label("Time ran out before this was proven the best.", "caution"))
        self.evidence.show_parts(parts)  # type: ignore[arg-type]

    # Edits

    def _plan(self) -> Plan | None:
        spread = self._spread
        if spread is None or spread.review is None:
            return None
        return plan_of(spread.contents, spread.review)

    def _change(self, field: str, value: object, says: str) -> None:
        plan = self._plan()
        if plan is not None and getattr(plan, field) != value:
            changed = plan.model_copy(update={field: value})
            self.edit_requested.emit(f"plan: {says}", [changed])

    def _on_setting(self, field: str, entry: QLineEdit) -> None:
        try:
            if field == "repeats":
                value = _number(entry.text() or "-", "repeats", most=50.0, least=1.0)
                self._change("repeats", int(value or 1), "repeats")
            else:
                value = _number(entry.text() or "-", "difference", most=100.0)
                self._change("difference", (value or 5.0) / 100.0, "the difference")
        except UserFixable as error:
            self._say_wrong(error)
            return
        self.wrong.hide()

    def _toggle_chosen(self) -> None:
        """Leave chosen cells out; where all are out already, take them in again."""
        plan, cells = self._plan(), self.matrix_page.chosen()
        if plan is None or not cells:
            return
        take_in = all(cell.state is CellState.EXCLUDED for cell in cells)
        for cell in cells:
            why = None if take_in else cell.why or LEFT_OUT_BY_HAND
            plan = plan.with_exclusion(cell.rig_id, cell.case_id, why)
        verb = "take in" if take_in else "leave out"
        self.edit_requested.emit(f"{verb} {count_text(len(cells), 'cell')}", [plan])

    def _add_case(self) -> None:
        try:
            named = parse_case(self.matrix_page.case.text())
        except UserFixable as error:
            self._say_wrong(error)
            return
        self._put_cases([named], f"add {named.label}")
        self.matrix_page.case.clear()

    def add_template(self, names: Callable[[Contents, Review], tuple[CaseName, ...]]) -> None:
        """Add the cases of a template."""
        spread = self._spread
        if spread is not None and spread.review is not None:
            self._put_cases(names(spread.contents, spread.review), "add a template of cases")

    def _put_cases(self, wanted: list[CaseName] | tuple[CaseName, ...], words: str) -> None:
        spread = self._spread
        if spread is None or spread.review is None:
            return
        records: tuple[Record, ...] = with_cases(spread.contents, spread.review, wanted, new_id)
        if records[-1] == spread.review:
            self.notice_raised.emit("Those cases are in the review already.")
            return
        self.wrong.hide()
        self.edit_requested.emit(words, list(records))

    def _remove_cases(self) -> None:
        """Take the chosen cases out of the review; their runs stay in the logbook."""
        spread = self._spread
        if spread is None or spread.review is None:
            return
        gone = {cell.case_id for cell in self.matrix_page.chosen()}
        if gone:
            kept = tuple(one for one in spread.review.case_ids if one not in gone)
            review = spread.review.model_copy(update={"case_ids": kept})
            words = f"take {count_text(len(gone), 'case')} out of the review"
            self.edit_requested.emit(words, [review])

    # The sheet

    def _ask_sheet(self) -> None:
        text, _ = QFileDialog.getSaveFileName(self, "Run sheet", "run-sheet.pdf", SHEETS)
        if text:
            self.write_sheet(Path(text))

    def write_sheet(self, path: Path) -> None:
        """Write the run sheet in the format of the name's ending, in the background."""
        spread, bench_plan = self._spread, self.bench_plan
        if spread is None or spread.review is None or bench_plan is None:
            return
        contents, review = spread.contents, spread.review

        def work(_step: object) -> Path:
            from blunt_ruler.exchange.run_sheet import write_sheet

            return write_sheet(contents, review, bench_plan.table, path, date.today().isoformat())

        self.jobs.run(
            f"Writing {path.name}",
            work,
            lambda written: self.notice_raised.emit(f"Written: {written}"),
            self.error_raised.emit,
        )


def _number(text: str, what: str, *, most: float, least: float | None = None) -> float | None:
    """A typed number within bounds, None for blank. UserFixable says what may stand there."""
    plain = text.strip().replace(",", ".")
    if not plain:
        return None
    try:
        value = float(plain)
    except ValueError:
        raise UserFixable(what, f"“{text}” is no number", "Give a number") from None
    low_enough = value >= least if least is not None else value > 0
    if not (low_enough and value <= most):
        bound = f"at least {least:g}" if least is not None else "above 0"
        raise UserFixable(what, f"“{text}” is out of range", f"Give {bound}, at most {most:g}")
    return value
