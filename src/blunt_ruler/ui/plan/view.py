"""The Plan view: matrix, order and times of a review, and what is asked of the plan."""

from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QPushButton

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.numbers import read_number
from blunt_ruler.core.plan.bench_plan import BenchPlan
from blunt_ruler.core.plan.matrix import plan_of
from blunt_ruler.core.plan.plan_edits import set_plan
from blunt_ruler.ui.desk.snapshot import Snapshot
from blunt_ruler.ui.desk.stop import Stop
from blunt_ruler.ui.kit.tips import plain_tip
from blunt_ruler.ui.kit.widgets import Parts, label
from blunt_ruler.ui.plan.matrix_page import MatrixPage
from blunt_ruler.ui.plan.order_page import OrderPage
from blunt_ruler.ui.plan.shown_plan import ShownPlan
from blunt_ruler.ui.plan.times_page import TimesPage

MATRIX, ORDER, TIMES = "Matrix", "Order", "Times"
QUESTIONS = {"link": "which link", "card": "which card", "gain": "what is gained"}


class PlanStop(Stop):
    """What is to be measured, in which order, and when.

    Signals:
        derive_requested(object, int): the plan shortened to so many hours, with a seed.
        sheet_requested(): ask where to put the run sheet.
    """

    sketch = "boxes"
    begins_at = ("Describe rigs", "Bench")

    derive_requested = pyqtSignal(object, int)
    sheet_requested = pyqtSignal()

    def __init__(self) -> None:
        super().__init__("Plan")
        self._errors: dict[QLineEdit, UserFixable] = {}  # of entries that keep what was typed
        self.shown = ShownPlan(self.say_wrong)
        self.body.addLayout(self._settings_bar())
        self.wrong = label("", "error")
        self.wrong.hide()
        self.body.addWidget(self.wrong)
        self.add_page(MATRIX, lambda: MatrixPage(self.shown))
        self.add_page(ORDER, lambda: OrderPage(self.shown))
        self.add_page(TIMES, lambda: TimesPage(self.shown))
        self.sheet = QPushButton("Run sheet…")
        self.sheet.setObjectName("primary")
        self.sheet.clicked.connect(self.sheet_requested)
        self.bar.row.addWidget(self.sheet)
        self.body.addWidget(self.bar)
        self.body.addWidget(self.pages, 1)

    def _settings_bar(self) -> QHBoxLayout:
        bar = QHBoxLayout()
        bar.setSpacing(6)
        self.repeats = self._entry("Repeats", 44)
        self.repeats.editingFinished.connect(self._on_repeats)
        self.difference = self._entry("Difference to show, per cent", 44)
        self.difference.editingFinished.connect(self._on_difference)
        self.hours = self._entry("Hours there are", 54)
        self.hours.setPlaceholderText("all")
        self.hours.editingFinished.connect(self._on_asked)
        self.seed = self._entry("Seed", 44)
        self.seed.setText("0")
        self.seed.editingFinished.connect(self._on_asked)
        self.question = QComboBox()
        self.question.setAccessibleName("What the review asks")
        self.question.setMinimumWidth(118)
        for key, words in QUESTIONS.items():
            self.question.addItem(words, key)
        self.question.activated.connect(
            lambda _index: self._set("the question", question=self.question.currentData())
        )
        for words, widget in (
            ("repeats", self.repeats),
            ("difference %", self.difference),
            ("hours", self.hours),
            ("seed", self.seed),
        ):
            name = label(words, "quiet", wrap=False)
            name.setBuddy(widget)
            name.setToolTip(plain_tip(widget.accessibleName()))
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

    # Showing

    def take_focus(self) -> None:
        """Stand in the matrix; where it has no case, in the entry of one."""
        page = self.page(MATRIX)
        assert isinstance(page, MatrixPage)
        if self.current == MATRIX:
            (page.matrix if page.model.rowCount() else page.case).setFocus()

    def line(self) -> str:
        """What the plan comes to, on every page."""
        return self.shown.line()

    def parts(self) -> Parts | None:
        """The clock, and whether the repeats are enough."""
        return self.shown.evidence()

    def missing(self, snapshot: Snapshot) -> str:
        """A plan needs a review."""
        if snapshot.review is None:
            return "Nothing to plan yet: the review needs rigs and cases. Describe rigs first."
        return ""

    def arrive(self, snapshot: Snapshot) -> None:
        """Take in the plan; one for some hours is worked out anew."""
        review, analysis = snapshot.review, snapshot.analysis
        if review is None or analysis is None:
            return
        plan = plan_of(snapshot.contents, review)
        for entry, text in (
            (self.repeats, f"{plan.repeats}"),
            (self.difference, f"{plan.difference * 100:g}"),
        ):
            if not entry.hasFocus() and entry not in self._errors:
                entry.setText(text)
        self.question.setCurrentIndex(self.question.findData(plan.question))
        self.shown.take(snapshot.contents, review, analysis.bench_plan)
        self._on_asked(show=False)

    def _on_asked(self, show: bool = True) -> None:
        """Other hours or another seed: the whole plan is there, any other has to be derived."""
        snapshot = self.snapshot
        if snapshot is None or snapshot.analysis is None:
            return
        hours = self._read(self.hours, "hours there are", most=10_000.0)
        seed = self._read(self.seed, "seed", "0", most=1e9, least=0.0)
        if self.hours in self._errors or self.seed in self._errors:
            return
        if snapshot.analysis.no_plan:
            self.wrong.setText(snapshot.analysis.no_plan)
            self.wrong.show()
        elif hours is not None or seed:
            self.derive_requested.emit(hours, int(seed or 0))
        elif show and snapshot.analysis.bench_plan is not None:
            self.show_plan(snapshot, snapshot.analysis.bench_plan)

    def show_plan(self, snapshot: Snapshot, plan: BenchPlan) -> None:
        """Show a plan, unless other contents came meanwhile."""
        now = self.snapshot
        if now is None or now.contents is not snapshot.contents or now.review is None:
            return
        self.shown.take(now.contents, now.review, plan)
        self.refresh()

    def say_wrong(self, error: Exception | None) -> None:
        """Say what is wrong with what was typed; nothing for None."""
        if error is not None and not isinstance(error, UserFixable):
            self.error_raised.emit(error)
            return
        said = " ".join(map(str, filter(None, (*self._errors.values(), error))))
        self.wrong.setText(said)
        self.wrong.setVisible(bool(said))

    # Edits

    def _read(self, entry: QLineEdit, what: str, blank: str = "", **limits: Any) -> float | None:
        """The number in an entry. One that is wrong stays, with its sentence, until it is put
        right.
        """
        self._errors.pop(entry, None)
        value = None
        try:
            value = read_number(entry.text() or blank, what, **limits)
        except UserFixable as error:
            self._errors[entry] = error
        self.say_wrong(None)
        return value

    def _set(self, says: str, **fields: Any) -> None:
        snapshot = self.snapshot
        if snapshot is not None and snapshot.review is not None:
            edit = set_plan(snapshot.contents, snapshot.review, says, **fields)
            if edit is not None:
                self.edited.emit(edit)

    def _on_repeats(self) -> None:
        value = self._read(self.repeats, "repeats", "-", most=50.0, least=1.0)
        if value is not None:
            self._set("repeats", repeats=int(value))

    def _on_difference(self) -> None:
        value = self._read(self.difference, "difference", "-", most=100.0)
        if value is not None:
            self._set("the difference", difference=value / 100.0)
