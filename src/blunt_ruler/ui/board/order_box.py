"""How the Board's rows are ordered and its means taken: under the evidence, folded away."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QLineEdit,
    QMenu,
    QSizePolicy,
    QToolButton,
    QWidget,
)

from blunt_ruler.core.board.lenses import Lens
from blunt_ruler.core.board.row_order import Arrangement, GroupBy
from blunt_ruler.core.compare.like_for_like import FACT_WORDS
from blunt_ruler.core.measure.frames import LowSchool
from blunt_ruler.core.measure.kinds import MEAN_WORDS, MeanSchool
from blunt_ruler.core.records.edits import change_review
from blunt_ruler.core.records.records import Review
from blunt_ruler.core.text import list_text
from blunt_ruler.ui.kit.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.kit.widgets import ElidedLabel, Fold, give_way

VARIABLE = tuple(FACT_WORDS)
SORTS = ("in that order", "chosen rig, largest first", "chosen rig, smallest first")


class OrderBox(QWidget):
    """Filter, group, sort, collapse; the school of the means, over which cases.

    Signals:
        arrangement_changed(): rows are to be shown another way.
        edited(Edit): this edit, please.
    """

    arrangement_changed = pyqtSignal()
    edited = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self._review: Review | None = None
        self.words = QLineEdit()
        self.words.setPlaceholderText("Filter cases")
        self.words.setAccessibleName("Filter cases")
        self.words.setClearButtonEnabled(True)
        self.words.textChanged.connect(lambda _text: self.arrangement_changed.emit())
        self.group = self._box("Group rows by", [str(one) for one in GroupBy])
        self.sort = self._box("Sort rows", list(SORTS))
        self.collapse = self._check("collapse titles", "Each title as one row, its mean")
        self.mean = QComboBox()
        self.mean.setAccessibleName("How means are computed")
        for school in MeanSchool:
            self.mean.addItem(MEAN_WORDS[school], school)
        self.mean.activated.connect(self._on_mean)
        self.clean = QCheckBox("clean only")
        self.clean.setToolTip("Means take only pairs that differ in nothing but what is varied")
        self.clean.clicked.connect(self._on_clean)
        self.lows = QComboBox()
        self.lows.setAccessibleName("How lows are computed")
        for low in LowSchool:
            self.lows.addItem(f"1 % low: {low}", low)
        self.lows.activated.connect(self._on_lows)
        self.varies = QToolButton()
        self.varies.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.varies.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.varies.setToolTip("Pairs that differ in these alone are clean")
        menu = QMenu(self.varies)
        self.facts: dict[str, QAction] = {}
        for name in VARIABLE:
            fact = menu.addAction(FACT_WORDS[name])
            if fact is not None:
                fact.setCheckable(True)
                fact.triggered.connect(self._on_varies)
                self.facts[name] = fact
        self.varies.setMenu(menu)
        self.shared = QCheckBox("shared")
        self.shared.setToolTip("All means over the cases that every measured rig has")
        self.shared.clicked.connect(self._on_shared)
        self.once = QCheckBox("each title once")
        self.once.setToolTip("The cases of a title count as one in a mean")
        self.once.clicked.connect(self._on_once)
        self.head = Fold("Means, order and filter")
        self.basis = ElidedLabel("small")
        self.inner = QWidget()
        stacked(
            self.mean,
            beside(self.clean, self.shared, STRETCH, spacing=10),
            self.once,
            self.varies,
            self.lows,
            self.words,
            self.group,
            self.sort,
            self.collapse,
            spacing=6,
            on=self.inner,
        )
        self.inner.hide()
        self.head.toggled.connect(self.inner.setVisible)
        stacked(self.head, self.inner, self.basis, spacing=6, margins=(16, 6, 16, 10), on=self)

    def _box(self, name: str, words: list[str]) -> QComboBox:
        box = QComboBox()
        box.setAccessibleName(name)
        give_way(box, 400, 60)
        box.addItems(words)
        box.activated.connect(lambda _index: self.arrangement_changed.emit())
        return box

    def _check(self, words: str, says: str) -> QCheckBox:
        box = QCheckBox(words)
        box.setToolTip(says)
        box.toggled.connect(lambda _on: self.arrangement_changed.emit())
        return box

    def search(self) -> None:
        """Type into the filter, unfolded."""
        self.head.setChecked(True)
        self.words.setFocus()
        self.words.selectAll()

    def show_review(self, review: Review | None) -> None:
        """Show how the review takes its means."""
        self._review = review
        self.setEnabled(review is not None)
        if review is not None:
            self.mean.setCurrentIndex(self.mean.findData(review.mean))
            self.clean.setChecked(review.clean_only)
            self.shared.setChecked(review.shared_cases)
            self.once.setChecked(review.each_title_once)
            self.lows.setCurrentIndex(self.lows.findData(review.low_school))
            for name, fact in self.facts.items():
                fact.setChecked(name in review.varies)
            said = list_text([FACT_WORDS[name] for name in review.varies if name in FACT_WORDS])
            self.varies.setText(f"varies: {said}" if said else "varies nothing on purpose")
            self.varies.setAccessibleName(f"What the review varies on purpose: {said or 'nothing'}")

    def show_all(self) -> None:
        """Hide and fold nothing."""
        self.words.clear()
        self.collapse.setChecked(False)

    def sorted_by_lens(self) -> bool:
        """Whether rows are sorted by what the lens shows."""
        return self.sort.currentIndex() > 0

    def arrangement(self, rig_id: str | None, lens: Lens) -> Arrangement:
        """What the bar asks for, sorting by a rig through a lens."""
        return Arrangement(
            words=self.words.text(),
            group=GroupBy(self.group.currentText()),
            collapse=self.collapse.isChecked(),
            sort_rig=rig_id if self.sorted_by_lens() else None,
            lens=lens,
            smallest_first=self.sort.currentIndex() == 2,
        )

    def _on_mean(self) -> None:
        if self._review is not None:
            school = MeanSchool(self.mean.currentData())
            self.edited.emit(
                change_review(self._review, f"take the {MEAN_WORDS[school]}", mean=school)
            )

    def _on_shared(self, on: bool) -> None:
        if self._review is not None:
            words = "means over shared cases" if on else "means over each rig's own cases"
            self.edited.emit(change_review(self._review, words, shared_cases=on))

    def _on_once(self, on: bool) -> None:
        if self._review is not None:
            words = "means of titles, each once" if on else "means of cases, each once"
            self.edited.emit(change_review(self._review, words, each_title_once=on))

    def _on_lows(self) -> None:
        if self._review is not None:
            school = LowSchool(self.lows.currentData())
            self.edited.emit(change_review(self._review, f"use {school} lows", low_school=school))

    def _on_varies(self) -> None:
        if self._review is not None:
            chosen = tuple(name for name, fact in self.facts.items() if fact.isChecked())
            kept = tuple(name for name in self._review.varies if name not in self.facts)
            self.edited.emit(
                change_review(self._review, "what is varied on purpose", varies=(*kept, *chosen))
            )

    def _on_clean(self, on: bool) -> None:
        if self._review is not None:
            words = "means of clean pairs only" if on else "means of mixed pairs too"
            self.edited.emit(change_review(self._review, words, clean_only=on))
