"""The pages of the Limits: cells, loss, ceiling, next test."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import partial

import numpy as np
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QPushButton

from blunt_ruler.core.claims.causes import ceiling_line
from blunt_ruler.core.drawing.limits import (
    ceilings_heard,
    ceilings_height,
    draw_ceilings,
)
from blunt_ruler.core.limits.next_measurement import NextTest, Question
from blunt_ruler.core.limits.report import LimitsReport, tests_for
from blunt_ruler.core.limits.split import PARTS
from blunt_ruler.core.limits.whatif import card_speeds
from blunt_ruler.core.limits.words import (
    PART_WORDS,
    lost_as_printed,
    narrowest_words,
    part_span,
    size_words,
    whole_shares,
)
from blunt_ruler.core.text import THIN, capital, fps_text, percent_text
from blunt_ruler.core.types import Progress
from blunt_ruler.ui.desk.chosen import Chosen
from blunt_ruler.ui.desk.jobs import Job, Jobs
from blunt_ruler.ui.kit.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.kit.picture_view import PictureView
from blunt_ruler.ui.kit.rows import Column, RowsTable
from blunt_ruler.ui.kit.widgets import allow, card, label
from blunt_ruler.ui.limits.page import LimitsPage
from blunt_ruler.ui.limits.paint import BarDelegate, SharesDelegate, Waterfall, shares_words


@dataclass(frozen=True, slots=True)
class _Cell:
    """A fitted cell as a row."""

    key: tuple[str, str]
    case: str
    label: str
    rig: str
    measured_fps: float
    fitted_fps: float | None  # None where the model does not know what holds it
    off: float
    limit: str
    shares: tuple[float, ...]
    faulty: bool


CELL_COLUMNS = (
    Column("Case", lambda row: row.case, tip=lambda row: row.label),
    Column("Rig", lambda row: row.rig, 164),
    # The Board has the rates: a narrow window gives them up.
    Column("Measured", lambda row: fps_text(row.measured_fps), 76, figures=True, gives_up=2),
    Column(
        "Fitted",
        lambda row: "–" if row.fitted_fps is None else fps_text(row.fitted_fps),
        66,
        figures=True,
        gives_up=1,
    ),
    Column(
        "Off",
        lambda row: (
            "" if row.fitted_fps is None else percent_text(row.off, signed=True, decimals=1)
        ),
        60,
        figures=True,
        colour=lambda row: "loss" if row.faulty else "",
        tip=lambda row: (
            "Fits badly and counted little: look at its runs first" if row.faulty else ""
        ),
    ),
    Column("Limit", lambda row: row.limit, 76),
    Column(
        "Card, CPU, link",
        lambda _row: "",
        116,
        says=lambda row: shares_words(row.shares or ()) or "withheld",
    ),
)


class CellsPage(LimitsPage):
    """Every fitted cell with its limit and its shares."""

    def __init__(self, chosen: Chosen) -> None:
        super().__init__(chosen)
        self.table = RowsTable("Cells and their limits", CELL_COLUMNS, key=lambda row: row.key)
        self.delegate = SharesDelegate(self.table)
        self.table.setItemDelegateForColumn(len(CELL_COLUMNS) - 1, self.delegate)
        self.table.row_chosen.connect(lambda row: self.chosen.choose(*row.key))
        stacked(self.table, on=self)

    def fill(self, report: LimitsReport) -> None:
        """Show every cell; those that fit badly are marked."""
        fit = report.fit
        assert fit is not None
        fitted = np.exp(fit.measured.log_rates() - fit.residuals)
        faulty, contents, shares = set(fit.faulty), report.contents, fit.times.limits
        short = {row.case_id: f"{row.title} {row.settings}" for row in report.board.rows}
        self.table.show_rows(
            [
                _Cell(
                    key=(cell.rig, cell.case),
                    case=short[cell.case],
                    label=contents.case_label(cell.case),
                    rig=contents.rigs[cell.rig].name,
                    measured_fps=cell.average_fps,
                    fitted_fps=float(fitted[index]),
                    off=float(np.expm1(fit.residuals[index])),
                    limit=fit.limit_of(index),
                    shares=tuple(shares[:, index].tolist()),
                    faulty=index in faulty,
                )
                for index, cell in enumerate(fit.measured.cells)
            ]
            + [
                _Cell(
                    key=key,
                    case=short[one.case],
                    label=f"{contents.case_label(one.case)}: {one.why}",
                    rig=contents.rigs[one.rig].name,
                    measured_fps=report.board.cells[key].average_fps,
                    fitted_fps=None,
                    off=0.0,
                    limit=str(one.kind),
                    shares=(),
                    faulty=True,
                )
                for key, one in report.withheld.items()
            ]
        )
        self.table.choose((self.chosen.rig, self.chosen.case))


LOSS_PARTS = (*PARTS, "unexplained")


def _share(name: str, row: tuple[str, Mapping[str, float]]) -> str:
    return percent_text(row[1][name])


class LossPage(LimitsPage):
    """The waterfall of the chosen cell, and the losses of every rig over the review."""

    def __init__(self, chosen: Chosen) -> None:
        super().__init__(chosen)
        self.words = label("", "says")
        self.waterfall = Waterfall()
        self.bounds = label("", "quiet")
        self.table = RowsTable(
            "Losses over the review",
            [
                Column("Rig, mean over its cases", lambda row: row[0]),
                *(
                    Column(
                        capital(PART_WORDS[name]),
                        partial(_share, name),
                        104,
                        figures=True,
                    )
                    for name in LOSS_PARTS
                ),
            ],
            key=lambda row: row[0],
        )
        stacked(self.words, self.waterfall, self.bounds, (self.table, 1), spacing=8, on=self)

    def fill(self, report: LimitsReport) -> None:
        """Show the loss of the chosen cell and of every rig."""
        contents, rig_id = report.contents, self.chosen.rig
        split = report.split(rig_id, self.chosen.case)
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
                f"{fps_text(split.reference_fps)}: {lost_as_printed(split):.1f} frames per second "
                "lost."
            )
            self.waterfall.show_loss(split, reference.name, name, report.board)
            told = [
                f"{PART_WORDS[part]} {part_span(split, part)}"
                for part, one in split.parts.items()
                if abs(one.fps) >= 0.05
            ]
            words = f"80{THIN}% bounds: {', '.join(told)} frames per second"
            self.bounds.setText(f"{words}, including the unexplained.")
        rows = [
            (column.name, whole_shares(report.lost_by_part(column.rig_id)))
            for column in report.board.columns
        ]
        self.table.show_rows([row for row in rows if row[1]])


class CeilingPage(LimitsPage):
    """Where a faster card stops paying, and how narrow a link may be."""

    def __init__(self, chosen: Chosen) -> None:
        super().__init__(chosen)
        self.narrow = label("", "quiet")
        self.picture = PictureView()
        self.picture.setAccessibleName("Ceilings: how far card speed pays on each link")
        stacked(
            card(self.picture),
            label(
                "The ceiling is the card speed, the yardstick card being 1, beyond which 10 % more "
                "card gives under 3 % over the titles measured there, with its 80 % interval. A "
                "red triangle is a card beyond it, a diamond one of which that is open.",
                "quiet",
            ),
            self.narrow,
            STRETCH,
            on=self,
        )

    def line(self) -> str:
        """Which card is wasted on the narrowest link."""
        return ceiling_line(self.report) if self.report else ""

    def fill(self, report: LimitsReport) -> None:
        """Show every host and link at every measured size."""
        fit = report.fit
        assert fit is not None
        contents, speeds = report.contents, card_speeds(fit)
        self.picture.setAccessibleDescription(ceilings_heard(report))
        self.picture.show_picture(
            lambda picture: draw_ceilings(picture, report), {}, ceilings_height(report)
        )
        size = min(cell.megapixels for cell in fit.measured.cells)
        words = [
            narrowest_words(report, card, size)
            for card in speeds
            if not contents.cards[card].built_in
        ]
        yard = contents.hosts[fit.measured.host].name
        self.narrow.setText(
            f"The narrowest link that costs a card under 5 % at {size_words(size)} in the {yard}: "
            f"{', '.join(word for word in words if word)}."
        )


class NextPage(LimitsPage):
    """Which test would settle what is open, for each minute of bench time.

    Signals:
        test_requested(NextTest): send this test to the plan.
    """

    test_requested = pyqtSignal(object)

    def __init__(self, chosen: Chosen) -> None:
        super().__init__(chosen)
        self.jobs = Jobs(threads=1, parent=self)
        self._ranking: Job | None = None
        self.question = QComboBox()
        self.question.setAccessibleName("The open question")
        self.question.setMinimumWidth(220)
        for question in Question:
            self.question.addItem(str(question), question)
        self.question.activated.connect(lambda _index: self._rank())
        self.send = QPushButton("Send it to the plan")
        self.send.setObjectName("primary")
        self.send.clicked.connect(self._on_send)
        self.known = label("", "quiet")
        self.table = RowsTable(
            "Tests that would tell most",
            [
                Column("Test", lambda test: test.says),
                Column("Minutes", lambda test: f"{test.minutes:.0f}", 70, figures=True),
                Column(
                    "Narrows by",
                    lambda test: percent_text(test.narrows, decimals=1),
                    96,
                    figures=True,
                ),
                Column(
                    "A minute",
                    lambda test: percent_text(test.per_minute, decimals=2),
                    90,
                    figures=True,
                ),
                Column("Against the best", lambda _test: "", 120, says=self._against_best),
            ],
        )
        self.table.wrap_words()
        self.bars = BarDelegate(self.table)
        self.table.setItemDelegateForColumn(4, self.bars)
        self.table.row_activated.connect(lambda _test: self._on_send())
        stacked(
            beside(
                label("to know", "quiet", wrap=False), self.question, (self.known, 1), self.send
            ),
            (self.table, 1),
            on=self,
        )

    def fill(self, report: LimitsReport) -> None:
        """Rank the tests for a question about the chosen cell."""
        self._rank()

    def _rank(self) -> None:
        report = self.report
        if report is None:
            return
        if self._ranking is not None:
            self._ranking.cancel()
        question = Question(self.question.currentData())
        cell = (self.chosen.rig, self.chosen.case)
        asked = (report, question, cell)

        def work(step: Progress) -> tuple[tuple[NextTest, ...], float]:
            step("Ranking the tests", 0.0)
            return tests_for(report, question, *cell)

        def done(found: tuple[tuple[NextTest, ...], float]) -> None:
            now = (self.report, self.question.currentData(), (self.chosen.rig, self.chosen.case))
            if asked == now:
                self._show(*found)

        self._ranking = self.jobs.run("Ranking the tests", work, done, self.error_raised.emit)

    def _show(self, tests: tuple[NextTest, ...], within: float) -> None:
        self.known.setText(f"known now to ±{within * 100:.1f}{THIN}% (80{THIN}%)" if within else "")
        most = max((one.per_minute for one in tests), default=1.0)
        self.bars.shares = {one: one.per_minute / most for one in tests} if most > 0 else {}
        self.table.show_rows(tests)
        self.table.choose_place(0)
        allow(self.send, "" if tests else "No test would tell more")

    def _against_best(self, test: NextTest) -> str:
        return f"{percent_text(self.bars.shares.get(test, 0.0))} of the best"

    def _on_send(self) -> None:
        test = self.table.chosen()
        if isinstance(test, NextTest):
            self.test_requested.emit(test)
