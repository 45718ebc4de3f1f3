"""What every page of the Limits shares: the fit, the chosen cell, the line and the evidence."""

from PyQt6.QtWidgets import QPushButton

from blunt_ruler.core.claims.causes import limits_line
from blunt_ruler.core.limits.evidence import agreement, evidence_of, gauge_rows, gauges_of
from blunt_ruler.core.limits.report import LimitsReport
from blunt_ruler.core.limits.words import (
    PART_WORDS,
    cell_limit_line,
    fit_words,
    lost_as_printed,
    part_span,
    told_rows,
)
from blunt_ruler.core.records.review_edits import learn_from_others
from blunt_ruler.core.text import MINUS, capital
from blunt_ruler.ui.desk.chosen import Chosen
from blunt_ruler.ui.desk.snapshot import Snapshot
from blunt_ruler.ui.desk.stop import Page
from blunt_ruler.ui.kit.tips import plain_tip
from blunt_ruler.ui.kit.widgets import Parts, figure_row, label
from blunt_ruler.ui.limits.paint import ShareBar


class LimitsPage(Page):
    """A page about the fit and one of its cells."""

    def __init__(self, chosen: Chosen) -> None:
        super().__init__()
        self.chosen = chosen
        self.report: LimitsReport | None = None

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Take in the fit."""
        self.report = snapshot.analysis.limits if snapshot.analysis else None
        if self.report is not None and self.report.fit is not None:
            self.fill(self.report)

    def fill(self, report: LimitsReport) -> None:
        """Show a fit and the chosen cell."""
        raise NotImplementedError

    def line(self) -> str:
        """What took the frames of the chosen rig."""
        return limits_line(self.report, self.chosen.rig) if self.report else ""

    def evidence(self) -> Parts | None:
        """What holds the chosen cell back, what speaks for it, and how good the fit is."""
        report = self.report
        if report is None or report.fit is None:
            return []
        found = report.cell(self.chosen.rig, self.chosen.case)
        withheld = report.withheld.get((self.chosen.rig, self.chosen.case))
        if withheld is not None:
            return [
                label("NOT IN THE FIT", "heading"),
                label(f"{capital(withheld.why)}.", "says"),
                label("The fit leaves it out, so it has no shares and no prediction.", "quiet"),
            ]
        if found is None:
            return [label("This cell was not measured.", "quiet")]
        index, cell = found
        shares = report.fit.times.limits[:, index]
        gauges = gauges_of(report.contents, report.board, cell.rig, cell.case)
        evidence = evidence_of(gauges)
        limit = report.fit.limit_of(index)
        parts: Parts = [
            label("WHAT HOLDS IT BACK", "heading"),
            label(cell_limit_line(report, index), "says"),
            ShareBar(shares.tolist()),
            10,
            label("EVIDENCE", "heading"),
            *(figure_row(name, figure) for name, figure in gauge_rows(gauges)),
            *(label(one.words, "quiet") for one in evidence),
            label(agreement(limit, float(report.fit.times.card_works[index]), gauges, evidence)),
        ]
        split = report.split(cell.rig, cell.case)
        if split is not None:
            parts += [12, label(f"WHERE THE {lost_as_printed(split):.1f} FRAMES/S WENT", "heading")]
            for name, fps in told_rows(split):
                sign = MINUS if fps > 0 else "+" if fps < 0 else ""
                parts.append(figure_row(PART_WORDS[name], f"{sign}{abs(fps):.1f}"))
                if span := part_span(split, name, lost=False):
                    parts.append(figure_row("  80 % interval", span))
        fitted = label(fit_words(report), "quiet")
        fitted.setToolTip(plain_tip("\n".join(report.fit.rests_on_prior)))
        parts += [12, label("THE FIT", "heading"), fitted]
        others = len(report.contents.reviews) - 1
        if report.fit.measured.beside or (others and not report.board.review.remembers):
            parts.append(self._memory_button(report))
        return parts

    def _memory_button(self, report: LimitsReport) -> QPushButton:
        """What takes the other reviews out of the fit, or lets them in again."""
        review = report.board.review
        words = "Fit this review alone" if review.remembers else "Learn from the other reviews"
        button = QPushButton(words)
        button.clicked.connect(
            lambda _on: self.edited.emit(learn_from_others(review, not review.remembers))
        )
        return button
