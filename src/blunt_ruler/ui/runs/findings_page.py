"""What the checks found, worst first, with the remedy at hand; and the lines they draw."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QPushButton,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from blunt_ruler.core.checks.all import NOTHING, Checked
from blunt_ruler.core.checks.findings import Finding
from blunt_ruler.core.records.records import Decision, Run
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.records.thresholds import Thresholds
from blunt_ruler.core.text import capital
from blunt_ruler.ui import theme
from blunt_ruler.ui.desk import Snapshot
from blunt_ruler.ui.part_form import PartForm
from blunt_ruler.ui.runs.evidence import Parts, finding_parts
from blunt_ruler.ui.tables import table
from blunt_ruler.ui.widgets import figure_row, label, scrolling

FINDING_ROLE = Qt.ItemDataRole.UserRole


class FindingsPage(QWidget):
    """All findings of the logbook.

    Signals:
        run_chosen(str): show this run in the list.
        decision_requested(Run, Decision): redo it or set it aside.
        evidence_changed(list): what the evidence column is to show.
    """

    run_chosen = pyqtSignal(str)
    decision_requested = pyqtSignal(object, object)
    evidence_changed = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self._spread: Snapshot | None = None
        self.checked = NOTHING
        self.tree = table("Findings", ["Finding", "Run", "What it says"], [178, 268, 0])
        self.tree.currentItemChanged.connect(lambda _now, _before: self.show_evidence())
        self.tree.itemActivated.connect(lambda _item, _column: self._on_show())
        self.show_run = QPushButton("Show the run")
        self.show_run.clicked.connect(self._on_show)
        self.redo = QPushButton("Redo it")
        self.redo.clicked.connect(lambda: self._decide(Decision.REDO))
        self.aside = QPushButton("Set it aside")
        self.aside.clicked.connect(lambda: self._decide(Decision.SET_ASIDE))
        self.nothing = label("Nothing was found in these runs; that is no promise.", "quiet")
        foot = QHBoxLayout()
        foot.addStretch(1)
        for button in (self.show_run, self.redo, self.aside):
            foot.addWidget(button)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.tree, 1)
        column.addWidget(self.nothing)
        column.addLayout(foot)

    def show_spread(self, spread: Snapshot | None) -> None:
        """Take in what lies on the desk."""
        self._spread = spread
        self.show_checked(self.checked)

    def show_checked(self, checked: Checked) -> None:
        """Show what the checks found; the choice survives where it is still there."""
        chosen = self.chosen()
        self.checked = checked
        spread = self._spread
        self.tree.clear()
        colours = theme.current()
        for finding in checked.findings:
            run = spread.contents.runs.get(finding.run_id) if spread else None
            if spread is None or run is None:
                continue
            case = spread.contents.cases[run.case_id]
            where = (
                f"{spread.contents.rigs[run.rig_id].name}, "
                f"{spread.contents.titles[case.title_id].name} {case.resolution}, "
                f"pass {run.repeat}"
            )
            aside = "" if run.decision is Decision.KEEP else f" ({run.decision})"
            item = QTreeWidgetItem([finding.check.words, where + aside, capital(finding.says)])
            item.setData(0, FINDING_ROLE, finding)
            stop = finding.severity is Severity.BLOCKING and run.decision is Decision.KEEP
            item.setForeground(0, QColor(colours.loss if stop else colours.ink))
            for place in range(3):
                item.setToolTip(place, item.text(place))
            self.tree.addTopLevelItem(item)
            if chosen is not None and (finding.check, finding.run_id) == (
                chosen.check,
                chosen.run_id,
            ):
                self.tree.setCurrentItem(item)
        if self.tree.currentItem() is None and self.tree.topLevelItemCount():
            self.tree.setCurrentItem(self.tree.topLevelItem(0))
        there = bool(self.tree.topLevelItemCount())
        self.nothing.setVisible(not there)
        for button in (self.show_run, self.redo, self.aside):
            button.setEnabled(there)
        self.show_evidence()

    def chosen(self) -> Finding | None:
        """The chosen finding."""
        item = self.tree.currentItem()
        return None if item is None else item.data(0, FINDING_ROLE)

    def _run(self) -> Run | None:
        finding = self.chosen()
        if finding is None or self._spread is None:
            return None
        return self._spread.contents.runs.get(finding.run_id)

    def show_evidence(self) -> None:
        """Show the chosen finding with its evidence."""
        finding = self.chosen()
        if finding is None:
            self.evidence_changed.emit([])
            return
        parts: Parts = [*finding_parts(finding), 8, label("EVIDENCE", "heading")]
        for name, value in finding.evidence.items():
            text = value if isinstance(value, str) else f"{value:g}"
            parts.append(figure_row(_words(name), text))
        run = self._run()
        if run is not None and run.reason:
            parts += [8, label(f"{run.decision}: {run.reason}", "quiet")]
        self.evidence_changed.emit(parts)

    def _on_show(self) -> None:
        finding = self.chosen()
        if finding is not None:
            self.run_chosen.emit(finding.run_id)

    def _decide(self, decision: Decision) -> None:
        run = self._run()
        if run is not None:
            self.decision_requested.emit(run, decision)


def _words(name: str) -> str:
    """A key of evidence as words, its unit spelled as usual."""
    words = name.replace("_", " ")
    for unit in ("MHz", "Hz", "GB", "MB"):
        words = words.removesuffix(f" {unit.lower()}") + (
            f", {unit}" if words.endswith(f" {unit.lower()}") else ""
        )
    return words


class ThresholdsPage(QWidget):
    """Where the checks draw their lines, for this review.

    Signals:
        thresholds_changed(Thresholds, str): other lines, and the words of the one that moved.
    """

    thresholds_changed = pyqtSignal(object, str)

    def __init__(self) -> None:
        super().__init__()
        self.form = PartForm(Thresholds)
        self.form.part_changed.connect(self.thresholds_changed)
        self.defaults = QPushButton("Back to the defaults")
        self.defaults.clicked.connect(
            lambda: self.thresholds_changed.emit(Thresholds(), "the defaults")
        )
        inner = QWidget()
        around = QVBoxLayout(inner)
        around.setContentsMargins(0, 0, 12, 0)
        around.addWidget(
            label(
                "A check speaks when a run passes its line. These are the lines of this review; "
                "what was found is said anew when one moves.",
                "quiet",
            )
        )
        around.addWidget(self.form)
        around.addStretch(1)
        foot = QHBoxLayout()
        foot.addStretch(1)
        foot.addWidget(self.defaults)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(scrolling(inner), 1)
        column.addLayout(foot)

    def show_spread(self, spread: Snapshot | None) -> None:
        """Show the lines of the present review."""
        review = spread.review if spread else None
        self.form.show_part(review.thresholds if review else None, review.id if review else "")
        self.defaults.setEnabled(review is not None and review.thresholds != Thresholds())
