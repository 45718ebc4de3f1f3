"""The pages of the Limits: cells, loss, ceiling, next test."""

import numpy as np
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QPushButton,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from blunt_ruler.core.limits.next_test import Question, Test
from blunt_ruler.core.limits.report import (
    PART_WORDS,
    LimitsReport,
    ceiling_words,
    narrowest_words,
    size_words,
    split_rows,
    tests_for,
)
from blunt_ruler.core.limits.split import PARTS, over_review
from blunt_ruler.core.limits.whatif import card_speeds
from blunt_ruler.core.text import capital, fps_text, percent_text
from blunt_ruler.ui import theme
from blunt_ruler.ui.limits.paint import SHARES_ROLE, SharesDelegate, Waterfall
from blunt_ruler.ui.tables import FIGURES, table
from blunt_ruler.ui.widgets import label

KEY_ROLE = Qt.ItemDataRole.UserRole + 6


def _short(report: LimitsReport, case_id: str) -> str:
    """A case by title and settings."""
    row = next(row for row in report.board.rows if row.case_id == case_id)
    return f"{row.title} {row.settings}"


class CellsPage(QWidget):
    """Every fitted cell with its limit and its shares.

    Signals:
        cell_chosen(str, str): this rig and case.
    """

    cell_chosen = pyqtSignal(str, str)

    def __init__(self) -> None:
        super().__init__()
        self.tree = table(
            "Cells and their limits",
            ["Case", "Rig", "Measured", "Fitted", "Off", "Limit", "Card, CPU, link"],
            [0, 150, 76, 66, 60, 54, 130],
            (2, 3, 4),
            gives_up=(3, 2),  # the Board has the rates
        )
        self.delegate = SharesDelegate()
        self.tree.setItemDelegateForColumn(6, self.delegate)
        self.delegate.setParent(self.tree)
        self.tree.currentItemChanged.connect(self._on_chosen)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.tree)

    def show_report(self, report: LimitsReport) -> None:
        """Show every cell; those that fit badly are marked."""
        self.tree.blockSignals(True)
        self.tree.clear()
        fit = report.fit
        if fit is not None:
            fitted = np.exp(fit.measured.log_rates() - fit.residuals)
            faulty = set(fit.faulty)
            contents, shares = report.contents, fit.times.limits
            for index, cell in enumerate(fit.measured.cells):
                off = float(np.expm1(fit.residuals[index]))
                item = QTreeWidgetItem(
                    [
                        _short(report, cell.case),
                        contents.rigs[cell.rig].name,
                        fps_text(cell.average_fps),
                        fps_text(float(fitted[index])),
                        percent_text(off, signed=True, decimals=1),
                        fit.limit_of(index),
                        "",
                    ]
                )
                item.setData(6, SHARES_ROLE, shares[:, index].tolist())
                item.setData(0, KEY_ROLE, (cell.rig, cell.case))
                for place in (2, 3, 4):
                    item.setTextAlignment(place, FIGURES)
                if index in faulty:
                    item.setForeground(4, QColor(theme.current().loss))
                    item.setToolTip(4, "Fits badly and counted little: look at its runs first")
                item.setToolTip(0, contents.case_label(cell.case))
                self.tree.addTopLevelItem(item)
        self.tree.blockSignals(False)

    def choose(self, rig_id: str, case_id: str) -> None:
        """Choose a cell."""
        for row in range(self.tree.topLevelItemCount()):
            item = self.tree.topLevelItem(row)
            if item is not None and item.data(0, KEY_ROLE) == (rig_id, case_id):
                self.tree.blockSignals(True)
                self.tree.setCurrentItem(item)
                self.tree.blockSignals(False)
                return

    def _on_chosen(self, item: QTreeWidgetItem | None, _before: object) -> None:
        if item is not None:
            self.cell_chosen.emit(*item.data(0, KEY_ROLE))


class LossPage(QWidget):
    """The waterfall of the chosen cell, and the losses of every rig over the review."""

    def __init__(self) -> None:
        super().__init__()
        self.words = label("", "says")
        self.waterfall = Waterfall()
        self.bounds = label("", "quiet")
        parts = [capital(PART_WORDS[name]) for name in (*PARTS, "unexplained")]
        self.tree = table(
            "Losses over the review",
            ["Rig, mean over its cases", *parts],
            [0, *[104] * 5],
            (1, 2, 3, 4, 5),
        )
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(self.words)
        column.addWidget(self.waterfall)
        column.addWidget(self.bounds)
        column.addWidget(self.tree, 1)

    def show_cell(self, report: LimitsReport, rig_id: str, case_id: str) -> None:
        """Show the loss of one cell and of every rig."""
        contents = report.contents
        split = report.split(rig_id, case_id)
        self.waterfall.setVisible(split is not None)
        self.bounds.setVisible(split is not None)
        reference = report.board.reference
        if split is None or reference is None:
            self.words.setText(
                "Choose a cell of a rig under test: the reference has the same case measured."
                if reference
                else "No reference rig is chosen: a loss needs one."
            )
        else:
            name = contents.rigs[rig_id].name
            self.words.setText(
                f"{name} gives {fps_text(split.average_fps)}, {reference.name} "
                f"{fps_text(split.reference_fps)}: {split.lost_fps:.1f} frames per second lost."
            )
            self.waterfall.show_loss(
                (reference.name, split.reference_fps), (name, split.average_fps), split_rows(split)
            )
            told = [
                f"{PART_WORDS[part]} {one.low_fps:.1f} to {one.high_fps:.1f}"
                for part, one in split.parts.items()
                if abs(one.fps) >= 0.05
            ]
            self.bounds.setText(f"80\u202f% bounds: {', '.join(told)} frames per second.")
        self.tree.clear()
        for column in report.board.columns:
            shares = over_review(report.splits, column.rig_id)
            if shares:
                texts = [percent_text(shares[part]) for part in (*PARTS, "unexplained")]
                item = QTreeWidgetItem([column.name, *texts])
                for place in range(1, 6):
                    item.setTextAlignment(place, FIGURES)
                self.tree.addTopLevelItem(item)


class CeilingPage(QWidget):
    """Where a faster card stops paying, and how narrow a link may be."""

    def __init__(self) -> None:
        super().__init__()
        self.tree = table(
            "Ceilings",
            ["Host", "Link", "At", "Ceiling", "Cards on it, with their speed", "Verdict"],
            [124, 138, 56, 66, 0, 190],
            (3,),
        )
        self.narrow = label("", "quiet")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(
            label(
                "The ceiling is the card speed, the yardstick card being 1, beyond which 10 % more "
                "card gives under 3 % over the titles measured there.",
                "quiet",
            )
        )
        column.addWidget(self.tree, 1)
        column.addWidget(self.narrow)

    def show_report(self, report: LimitsReport) -> None:
        """Show every host and link at every measured size."""
        self.tree.clear()
        fit = report.fit
        if fit is None:
            return
        contents, speeds = report.contents, card_speeds(fit)
        for one in report.ceilings:
            cards = ", ".join(
                f"{contents.cards[card].name} {speeds[card]:.2f}"
                for card in (*one.fitting, *one.wasted)
            )
            item = QTreeWidgetItem(
                [
                    contents.hosts[one.host].name,
                    one.link,
                    size_words(one.megapixels),
                    f"{one.card_speed:.2f}",
                    cards,
                    capital(ceiling_words(report, one)),
                ]
            )
            item.setTextAlignment(3, FIGURES)
            item.setToolTip(5, item.text(5))
            if one.wasted:
                item.setForeground(5, QColor(theme.current().loss))
            self.tree.addTopLevelItem(item)
        size = min(cell.megapixels for cell in fit.measured.cells)
        words = [
            narrowest_words(report, card, size)
            for card in speeds
            if not contents.cards[card].built_in
        ]
        yard = contents.hosts[fit.measured.host].name
        self.narrow.setText(
            f"The narrowest link that costs a card under 5 % at {size_words(size)} in the {yard}: "
            f"{'; '.join(word for word in words if word)}."
        )


class NextPage(QWidget):
    """Which test would settle what is open, for each minute of bench time.

    Signals:
        test_requested(Test): send this test to the plan.
    """

    test_requested = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self._report: LimitsReport | None = None
        self._cell = ("", "")
        self.question = QComboBox()
        self.question.setAccessibleName("The open question")
        self.question.setMinimumWidth(220)
        for question in Question:
            self.question.addItem(str(question), question)
        self.question.activated.connect(lambda _index: self._fill())
        self.send = QPushButton("Send it to the plan")
        self.send.setObjectName("primary")
        self.send.clicked.connect(self._on_send)
        self.spread = label("", "quiet")
        bar = QHBoxLayout()
        bar.addWidget(label("to know", "quiet", wrap=False))
        bar.addWidget(self.question)
        bar.addWidget(self.spread, 1)
        bar.addWidget(self.send)
        self.tree = table(
            "Tests that would tell most",
            ["Test", "Minutes", "Narrows by", "A minute"],
            [0, 80, 96, 90],
            (1, 2, 3),
        )
        self.tree.itemActivated.connect(lambda _item, _column: self._on_send())
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(bar)
        column.addWidget(self.tree, 1)

    def show_cell(self, report: LimitsReport, rig_id: str, case_id: str) -> None:
        """Rank the tests for a question about one cell."""
        self._report, self._cell = report, (rig_id, case_id)
        self._fill()

    def _fill(self) -> None:
        self.tree.clear()
        if self._report is None:
            return
        question = Question(self.question.currentData())
        tests, spread = tests_for(self._report, question, *self._cell)
        self.spread.setText(
            f"known now to ±{spread * 128:.1f}\u202f% (80\u202f%)" if spread else ""
        )
        for test in tests:
            item = QTreeWidgetItem(
                [
                    test.says,
                    f"{test.minutes:.0f}",
                    percent_text(test.narrows, decimals=1),
                    percent_text(test.per_minute, decimals=2),
                ]
            )
            item.setData(0, KEY_ROLE, test)
            for place in (1, 2, 3):
                item.setTextAlignment(place, FIGURES)
            self.tree.addTopLevelItem(item)
        if tests:
            self.tree.setCurrentItem(self.tree.topLevelItem(0))
        self.send.setEnabled(bool(tests))

    def _on_send(self) -> None:
        item = self.tree.currentItem()
        test = item.data(0, KEY_ROLE) if item is not None else None
        if isinstance(test, Test):
            self.test_requested.emit(test)
