"""The Bench view: the rigs on the left, and five pages about the chosen one."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QMenu,
    QPushButton,
    QToolButton,
)

from blunt_ruler.bench.machines import machine_names
from blunt_ruler.core.records.edits import Edit
from blunt_ruler.core.records.hardware import Rig
from blunt_ruler.core.records.records import Role
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.rigs.compatibility import check_fit
from blunt_ruler.core.rigs.differences import differences_line, what_differs
from blunt_ruler.core.rigs.links import ladder_or_why
from blunt_ruler.core.rigs.preflight import preflight_line
from blunt_ruler.core.rigs.rig_edits import duplicate_rig, in_review, join_or_leave, new_rig
from blunt_ruler.core.text import THIN
from blunt_ruler.ui import theme
from blunt_ruler.ui.bench.fit_page import FitPage
from blunt_ruler.ui.bench.ladder_page import LadderPage
from blunt_ruler.ui.bench.machine_page import MachinePage
from blunt_ruler.ui.bench.preflight_page import PreflightPage
from blunt_ruler.ui.bench.rig_page import RigPage
from blunt_ruler.ui.layouts import beside, stacked
from blunt_ruler.ui.snapshot import Snapshot, new_id
from blunt_ruler.ui.stop import Stop
from blunt_ruler.ui.widgets import Parts, allow, figure_row, label

RIG, LADDER, FIT, PREFLIGHT, MACHINE = "Rig", "Ladder", "Fit", "Pre-flight", "Machine"


class BenchStop(Stop):
    """Rigs and what they are made of.

    Signals:
        parts_requested(str): "import", "paste", "export" or "catalogue".
    """

    parts_requested = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__("Bench")
        self.rigs = QListWidget()
        self.rigs.setAccessibleName("Rigs")
        self.rigs.setFixedWidth(166)
        self.rigs.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.rigs.setTextElideMode(Qt.TextElideMode.ElideRight)
        self.rigs.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.rigs.itemSelectionChanged.connect(self._on_selection)
        self.new = QPushButton("New rig")
        self.new.clicked.connect(self._on_new)
        self.duplicate = QPushButton("Duplicate")
        self.duplicate.clicked.connect(self._on_duplicate)
        self.join = QPushButton("Join the review")
        self.join.clicked.connect(self._on_join)
        self.parts_menu = self._parts_menu()
        left = stacked((self.rigs, 1), spacing=6)
        row = QHBoxLayout()
        row.setSpacing(6)
        for button in (self.new, self.duplicate):
            button.setStyleSheet("padding-left: 6px; padding-right: 6px;")
            row.addWidget(button)
        left.addLayout(row)
        left.addWidget(self.join)
        left.addWidget(self.parts_menu)
        self.add_page(RIG, lambda: RigPage(self.chosen))
        self.add_page(LADDER, lambda: LadderPage(self.chosen))
        self.add_page(FIT, lambda: FitPage(self.chosen))
        self.add_page(PREFLIGHT, lambda: PreflightPage(self.chosen))
        self.add_page(MACHINE, lambda: MachinePage(self.chosen, machine_names()))
        self.body.addLayout(
            beside(left, (stacked(self.bar, (self.pages, 1), spacing=9), 1), spacing=14), 1
        )

    def _parts_menu(self) -> QToolButton:
        button = QToolButton()
        button.setText("Parts ▾")
        button.setAccessibleName("Parts: catalogue, import, paste, export")
        button.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        button.setSizePolicy(self.join.sizePolicy())
        menu = QMenu(button)
        for words, what in (
            ("Add the catalogue of generic parts", "catalogue"),
            ("Import parts from a file…", "import"),
            ("Paste parts (CSV or JSON)", "paste"),
            ("Export all parts…", "export"),
        ):
            action = menu.addAction(words)
            if action is not None:
                action.triggered.connect(
                    lambda _checked, what=what: self.parts_requested.emit(what)
                )
        button.setMenu(menu)
        return button

    # Showing

    def arrive(self, snapshot: Snapshot) -> None:
        """List the rigs of the logbook, those of the review first."""
        review = snapshot.review
        seated = [seat.rig_id for seat in review.seats] if review else []
        order = [*seated, *(key for key in snapshot.contents.rigs if key not in seated)]
        picked = set(self._selected()) or {self.chosen.rig}
        self.rigs.blockSignals(True)
        self.rigs.clear()
        for rig_id in order:
            rig = snapshot.contents.rigs[rig_id]
            item = QListWidgetItem(rig.name)
            item.setData(Qt.ItemDataRole.UserRole, rig_id)
            item.setToolTip(rig.name if rig_id in seated else f"{rig.name}, not in this review")
            if rig_id not in seated:
                item.setForeground(QColor(theme.current().steel))
                item.setData(Qt.ItemDataRole.AccessibleTextRole, f"{rig.name}, not in this review")
            self.rigs.addItem(item)
            item.setSelected(rig_id in picked)
        if not self.rigs.selectedItems() and order:
            tested = (
                [seat.rig_id for seat in review.seats if seat.role is Role.TESTED] if review else []
            )
            self.rigs.setCurrentRow(order.index((tested or order)[0]))
        self.rigs.blockSignals(False)
        self._choose_selected()
        for widget in (self.duplicate, self.join, self.pages):
            allow(widget, "" if order else "No rig is described yet: choose New rig")
        joined = in_review(review, self.chosen.rig)
        self.join.setText("Leave the review" if joined else "Join the review")

    def _selected(self) -> list[str]:
        return [item.data(Qt.ItemDataRole.UserRole) for item in self.rigs.selectedItems()]

    def _choose_selected(self) -> None:
        picked = self._selected()
        rig = self.chosen.rig if self.chosen.rig in picked else next(iter(picked), "")
        self.chosen.blockSignals(True)
        self.chosen.choose(rig, beside=tuple(key for key in picked if key != rig))
        self.chosen.blockSignals(False)

    def _on_selection(self) -> None:
        self._choose_selected()
        if self.snapshot is not None:
            joined = in_review(self.snapshot.review, self.chosen.rig)
            self.join.setText("Leave the review" if joined else "Join the review")
        self.refresh()

    def choose_rig(self, rig_id: str) -> None:
        """Choose one rig alone."""
        self.rigs.clearSelection()
        for row in range(self.rigs.count()):
            item = self.rigs.item(row)
            if item is not None and item.data(Qt.ItemDataRole.UserRole) == rig_id:
                self.rigs.setCurrentItem(item)

    def line(self) -> str:
        """What the page says of the chosen rig."""
        if self._rig() is None:
            return "No rig is described yet. Choose New rig to describe the first one."
        return super().line()

    def _rig(self) -> Rig | None:
        return self.snapshot.contents.rigs.get(self.chosen.rig) if self.snapshot else None

    def parts(self) -> Parts | None:
        """Fit, link, pre-flight and differences of the chosen rig, whatever page is shown."""
        snapshot, rig = self.snapshot, self._rig()
        if snapshot is None or rig is None:
            return []
        contents = snapshot.contents
        findings = check_fit(contents, rig.id)
        parts: Parts = [label("FIT AND POWER", "heading")]
        parts += [
            figure_row(str(severity), str(sum(one.severity is severity for one in findings)))
            for severity in Severity
        ]
        parts.append(10)
        ladder, _ = ladder_or_why(contents, rig)
        if ladder is not None:
            parts += [
                label("LINK", "heading"),
                figure_row("left for the game", f"{ladder.left_gb_per_s:.2f}{THIN}GB/s"),
                *(
                    [
                        figure_row(
                            "left on the way back", f"{ladder.left_back_gb_per_s:.2f}{THIN}GB/s"
                        )
                    ]
                    if ladder.return_gb_per_s
                    else []
                ),
                figure_row("a frame at 60 fps", f"{ladder.per_frame_mb(60.0):.1f}{THIN}MB"),
                10,
            ]
        parts += [
            label("PRE-FLIGHT", "heading"),
            label(preflight_line(contents, rig.id), "quiet"),
            10,
        ]
        base = snapshot.review.rig_in(Role.BASE) if snapshot.review else None
        others = self.chosen.beside or ((base,) if base and base != rig.id else ())
        if others:
            parts += [
                label("WHAT DIFFERS", "heading"),
                label(differences_line(contents, others[0], rig.id), "quiet"),
            ]
            parts += [
                label(f"{one.field}: {one.first} → {one.second}", "small")
                for one in what_differs(contents, others[0], rig.id)
                if one.part != one.field
            ]
        return parts

    # Edits

    def _on_new(self) -> None:
        if self.snapshot is not None:
            self._choose_made(new_rig(self.snapshot.contents, self.snapshot.review, new_id))

    def _on_duplicate(self) -> None:
        if self.snapshot is not None and self._rig() is not None:
            contents, review = self.snapshot.contents, self.snapshot.review
            self._choose_made(duplicate_rig(contents, review, self.chosen.rig, new_id))

    def _choose_made(self, edit: Edit) -> None:
        """Make an edit, and choose the rig that it makes once it is there."""
        self.rigs.blockSignals(True)
        self.rigs.clearSelection()
        self.rigs.blockSignals(False)
        self.chosen.rig = edit.put[0].id
        self.edited.emit(edit)

    def _on_join(self) -> None:
        if self.snapshot is not None and self.snapshot.review is not None:
            contents, review = self.snapshot.contents, self.snapshot.review
            self.edited.emit(join_or_leave(contents, review, self.chosen.rig))
