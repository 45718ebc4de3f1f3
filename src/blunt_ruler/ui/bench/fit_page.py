"""The fit and power page: everything found against a rig, the worst first."""

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPolygonF
from PyQt6.QtWidgets import QFrame, QWidget

from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.rigs.compatibility import FitFinding, check_fit, fit_line
from blunt_ruler.core.text import capital
from blunt_ruler.ui import theme
from blunt_ruler.ui.chosen import Chosen
from blunt_ruler.ui.layouts import beside, stacked
from blunt_ruler.ui.snapshot import Snapshot
from blunt_ruler.ui.stop import Page
from blunt_ruler.ui.widgets import empty, label, scroll_column


class SeverityMark(QWidget):
    """A shape for a severity, so that none is told by colour alone."""

    def __init__(self, severity: Severity) -> None:
        super().__init__()
        self._severity = severity
        self.setFixedSize(18, 18)

    def paintEvent(self, a0: QPaintEvent | None) -> None:
        from PyQt6.QtCore import QPointF

        colours = theme.current()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        match self._severity:
            case Severity.BLOCKING:
                painter.setBrush(QColor(colours.loss))
                painter.drawRect(2, 2, 14, 14)
            case Severity.CAUTION:
                painter.setBrush(QColor(colours.caution))
                painter.drawPolygon(QPolygonF([QPointF(9, 1), QPointF(17, 16), QPointF(1, 16)]))
            case Severity.NOTE:
                painter.setBrush(QColor(colours.steel))
                painter.drawEllipse(4, 4, 10, 10)


class FitPage(Page):
    """Findings as a list with their severity, the numbers in the sentence, and what to do."""

    def __init__(self, chosen: Chosen) -> None:
        super().__init__()
        self._chosen = chosen
        self.column = scroll_column(self)
        self.column.setSpacing(8)

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Show what was found against the chosen rig."""
        empty(self.column)
        rig = snapshot.contents.rigs.get(self._chosen.rig)
        if rig is None:
            return
        name, findings = rig.name, check_fit(snapshot.contents, rig.id)
        self._line = fit_line(name, findings)
        for finding in findings:
            self.column.addWidget(_card(finding))
        if not findings:
            self.column.addWidget(
                label(
                    f"Nothing found against {name}, from what is described. That is no promise: "
                    "measure, and follow the makers' manuals.",
                    "quiet",
                )
            )
        self.column.addStretch(1)


def _card(finding: FitFinding) -> QFrame:
    frame = QFrame()
    frame.setObjectName("card")
    frame.setAccessibleName(f"{finding.severity}: {finding.what}")
    row = beside(
        (SeverityMark(finding.severity), Qt.AlignmentFlag.AlignTop),
        spacing=12,
        margins=(12, 10, 12, 10),
        on=frame,
    )
    severity = label(str(finding.severity), "small", wrap=False)
    severity.setFixedWidth(54)
    row.addWidget(severity, 0, Qt.AlignmentFlag.AlignTop)
    row.addLayout(
        stacked(label(capital(finding.what)), label(f"{finding.do}.", "quiet"), spacing=3), 1
    )
    return frame
