"""The Limits view: what took the frames, and what another link would give."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QSizePolicy, QStackedWidget, QVBoxLayout

from blunt_ruler.core.limits.evidence import agreement, evidence_of, gauge_rows, gauges_of
from blunt_ruler.core.limits.report import (
    PART_WORDS,
    LimitsReport,
    ceiling_line,
    cell_limit_line,
    fit_words,
    limits_line,
    split_rows,
)
from blunt_ruler.core.records.records import Role
from blunt_ruler.core.text import MINUS, count_text
from blunt_ruler.ui.desk import Snapshot
from blunt_ruler.ui.limits.pages import CeilingPage, CellsPage, LossPage, NextPage
from blunt_ruler.ui.limits.paint import ShareBar
from blunt_ruler.ui.limits.whatif_page import WhatIfPage
from blunt_ruler.ui.widgets import PageBar, Stop, figure_row, label

CELLS, LOSS, WHAT_IF, CEILING, NEXT = "Cells", "Loss", "What if", "Ceiling", "Next test"
PAGES = (CELLS, LOSS, WHAT_IF, CEILING, NEXT)


class LimitsStop(Stop):
    """What took the frames.

    Signals:
        test_requested(Test): send this test to the plan.
    """

    test_requested = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__("Limits")
        self.report: LimitsReport | None = None
        self._chosen = ("", "")
        self.rig, self.case = QComboBox(), QComboBox()
        row = QHBoxLayout()
        row.setSpacing(6)
        for box, name, share in ((self.rig, "Rig", 2), (self.case, "Case", 3)):
            box.setAccessibleName(name)
            box.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
            box.activated.connect(lambda _index: self._on_boxes())
            row.addWidget(box, share)
        self.cells, self.loss = CellsPage(), LossPage()
        self.what_if, self.ceiling, self.next = WhatIfPage(), CeilingPage(), NextPage()
        self.cells.cell_chosen.connect(self.choose)
        self.next.test_requested.connect(self.test_requested)
        self.bar = PageBar(PAGES)
        self.pages = QStackedWidget()
        for page in (self.cells, self.loss, self.what_if, self.ceiling, self.next):
            self.pages.addWidget(page)
        self.bar.page_chosen.connect(self._on_page)
        whole = QVBoxLayout()
        whole.setSpacing(9)
        whole.addWidget(self.bar)
        whole.addLayout(row)
        whole.addWidget(self.pages, 1)
        self.body.addLayout(whole, 1)

    # Showing

    def show_spread(self, spread: Snapshot | None) -> None:
        """Until a fit is there, say what is under way or missing."""
        if spread is None:
            self.report = None
            self._fill()
            self.say("No logbook is open. Make a new one or open one from the menu at top left.")
        elif spread.review is None or spread.board is None:
            self.report = None
            self._fill()
            self.say(
                "No limits yet: they need rates of some cases on some rigs. Import logs first."
            )
        elif self.report is None:
            self.say("Fitting the limits of this review.")

    def show_report(self, report: LimitsReport) -> None:
        """Show a fit."""
        self.report = report
        self._fill()

    def _fill(self) -> None:
        report = self.report
        fit = report.fit if report else None
        for widget in (self.bar, self.pages, self.rig, self.case):
            widget.setEnabled(fit is not None)
            widget.setVisible(report is not None)
        if report is None or fit is None:
            if report is not None:
                self.say(report.why_not)
                self.cells.show_report(report)
            if self.evidence is not None:
                self.evidence.show_parts([])
            return
        contents = report.contents
        rigs = list(dict.fromkeys(cell.rig for cell in fit.measured.cells))
        cases = list(dict.fromkeys(cell.case for cell in fit.measured.cells))
        for box, keys, names in (
            (self.rig, rigs, [contents.rigs[one].name for one in rigs]),
            (self.case, cases, [contents.case_label(one) for one in cases]),
        ):
            box.clear()
            for key, name in zip(keys, names, strict=True):
                box.addItem(name, key)
        self.cells.show_report(report)
        self.ceiling.show_report(report)
        if report.cell(*self._chosen) is None:
            roles = {seat.rig_id: seat.role for seat in report.board.review.seats}
            tested = [rig for rig in rigs if roles.get(rig) is Role.TESTED] or rigs
            self._chosen = (tested[0], cases[0])
        self.choose(*self._chosen)

    def choose(self, rig_id: str, case_id: str) -> None:
        """Choose a cell for all pages."""
        report = self.report
        if report is None or report.fit is None:
            return
        self._chosen = (rig_id, case_id)
        self.rig.setCurrentIndex(self.rig.findData(rig_id))
        self.case.setCurrentIndex(self.case.findData(case_id))
        self.cells.choose(rig_id, case_id)
        self.loss.show_cell(report, rig_id, case_id)
        self.what_if.show_cell(report, rig_id, case_id)
        self.next.show_cell(report, rig_id, case_id)
        self._say()
        self._show_evidence()

    def _on_boxes(self) -> None:
        self.choose(self.rig.currentData(), self.case.currentData())

    def show_page(self, name: str) -> None:
        """Show a page."""
        self.bar.show_page(name)

    def _on_page(self, index: int) -> None:
        self.pages.setCurrentIndex(index)
        self._say()

    def _say(self) -> None:
        if self.report is None:
            return
        if PAGES[self.pages.currentIndex()] == CEILING:
            self.say(ceiling_line(self.report))
        else:
            self.say(limits_line(self.report, self._chosen[0]))

    def _show_evidence(self) -> None:
        report = self.report
        if self.evidence is None or report is None or report.fit is None:
            return
        found = report.cell(*self._chosen)
        if found is None:
            self.evidence.show_parts([label("This cell was not measured.", "quiet")])
            return
        index, cell = found
        shares = report.fit.times.limits[:, index]
        gauges = gauges_of(report.contents, report.board, cell.rig, cell.case)
        evidence = evidence_of(gauges)
        limit = report.fit.limit_of(index)
        parts: list[object] = [
            label("WHAT HOLDS IT BACK", "heading"),
            label(cell_limit_line(report, index), "says"),
            ShareBar(shares.tolist()),
            10,
            label("EVIDENCE", "heading"),
            *(figure_row(name, figure) for name, figure in gauge_rows(gauges)),
            *(label(one.words, "quiet") for one in evidence),
            label(agreement(limit, float(shares[0]), gauges, evidence)),
        ]
        split = report.split(cell.rig, cell.case)
        if split is not None:
            parts += [12, label(f"WHERE THE {split.lost_fps:.1f} FRAMES/S WENT", "heading")]
            for name, fps in split_rows(split).items():
                if abs(fps) >= 0.05:
                    sign = MINUS if fps > 0 else "+"
                    parts.append(figure_row(PART_WORDS[name], f"{sign}{abs(fps):.1f}"))
        parts += [12, label("THE FIT", "heading"), label(fit_words(report), "quiet")]
        resting = report.fit.rests_on_prior
        if resting:
            words = f"{count_text(len(resting), 'unknown')} rest on their prior"
            marked = label(f"{words}: the data did not narrow them.", "small")
            marked.setToolTip("\n".join(resting))
            parts.append(marked)
        self.evidence.show_parts(parts)  # type: ignore[arg-type]

    def apply_theme(self) -> None:
        """Take on another theme's colours."""
        self._fill()
