"""The Bench view: the rigs on the left, and five pages about the chosen one."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
)

from blunt_ruler.bench.machines import machine_names
from blunt_ruler.bench.specs import bench_rigs
from blunt_ruler.core.records.hardware import Rig
from blunt_ruler.core.records.records import Review, Role
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.rigs.compatibility import check_fit, fit_line
from blunt_ruler.core.rigs.differences import differences_line, what_differs
from blunt_ruler.core.rigs.links import bench_line
from blunt_ruler.core.rigs.preflight import preflight_line
from blunt_ruler.core.rigs.rig_edits import duplicate_rig, new_rig, with_seat, without_seat
from blunt_ruler.ui import theme
from blunt_ruler.ui.bench.fit_page import FitPage
from blunt_ruler.ui.bench.ladder_page import LadderPage, rig_ladder
from blunt_ruler.ui.bench.machine_page import MachinePage
from blunt_ruler.ui.bench.preflight_page import PreflightPage
from blunt_ruler.ui.bench.rig_page import RigPage
from blunt_ruler.ui.desk import Snapshot, new_id
from blunt_ruler.ui.widgets import PageBar, Stop, figure_row, label

PAGES = ("Rig", "Ladder", "Fit", "Pre-flight", "Machine")


class BenchStop(Stop):
    """Rigs and what they are made of.

    Signals:
        edit_requested(str, list): an edit by name and the records it puts.
        parts_requested(str): "import", "paste", "export" or "catalogue".
    """

    edit_requested = pyqtSignal(str, object)
    parts_requested = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__("Bench")
        self._spread: Snapshot | None = None
        self._rig_id: str | None = None
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
        self.parts = self._parts_menu()
        left = QVBoxLayout()
        left.setSpacing(6)
        left.addWidget(self.rigs, 1)
        row = QHBoxLayout()
        row.setSpacing(6)
        for button in (self.new, self.duplicate):
            button.setStyleSheet("padding-left: 6px; padding-right: 6px;")
            row.addWidget(button)
        left.addLayout(row)
        left.addWidget(self.join)
        left.addWidget(self.parts)
        self.rig_page = RigPage()
        self.ladder_page = LadderPage()
        self.fit_page = FitPage()
        self.preflight_page = PreflightPage()
        self.machine_page = MachinePage(machine_names())
        self.pages = QStackedWidget()
        for page in (
            self.rig_page,
            self.ladder_page,
            self.fit_page,
            self.preflight_page,
            self.machine_page,
        ):
            self.pages.addWidget(page)
        for editor in (self.rig_page, self.ladder_page):
            editor.edit_requested.connect(self.edit_requested)
        self.bar = PageBar(PAGES)
        self.bar.page_chosen.connect(self._on_page)
        right = QVBoxLayout()
        right.setSpacing(9)
        right.addWidget(self.bar)
        right.addWidget(self.pages, 1)
        both = QHBoxLayout()
        both.setSpacing(14)
        both.addLayout(left)
        both.addLayout(right, 1)
        self.body.addLayout(both, 1)

    def _parts_menu(self) -> QToolButton:
        from PyQt6.QtWidgets import QMenu

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

    def show_spread(self, spread: Snapshot | None) -> None:
        """Show the rigs of the logbook, those of the review first."""
        self._spread = spread
        if spread is None:
            self.say("No logbook is open. Make a new one or open one from the menu at top left.")
            return
        seated = [seat.rig_id for seat in spread.review.seats] if spread.review else []
        order = [*seated, *(key for key in spread.contents.rigs if key not in seated)]
        chosen = set(self._selected()) or {self._rig_id}
        self.rigs.blockSignals(True)
        self.rigs.clear()
        for rig_id in order:
            rig = spread.contents.rigs[rig_id]
            item = QListWidgetItem(rig.name)
            item.setData(Qt.ItemDataRole.UserRole, rig_id)
            item.setToolTip(rig.name if rig_id in seated else f"{rig.name}, not in this review")
            if rig_id not in seated:
                item.setForeground(QColor(theme.current().steel))
                item.setData(Qt.ItemDataRole.AccessibleTextRole, f"{rig.name}, not in this review")
            self.rigs.addItem(item)
            item.setSelected(rig_id in chosen)
        if not self.rigs.selectedItems() and order:
            tested = next((key for key in seated if self._role(spread.review, key)), order[0])
            self.rigs.setCurrentRow(order.index(tested))
        self.rigs.blockSignals(False)
        self._on_selection()

    @staticmethod
    def _role(review: Review | None, rig_id: str) -> bool:
        return review is not None and any(
            seat.rig_id == rig_id and seat.role is Role.TESTED for seat in review.seats
        )

    def _selected(self) -> list[str]:
        return [item.data(Qt.ItemDataRole.UserRole) for item in self.rigs.selectedItems()]

    def choose_rig(self, rig_id: str) -> None:
        """Choose one rig alone."""
        self._rig_id = rig_id
        self.rigs.clearSelection()
        for row in range(self.rigs.count()):
            item = self.rigs.item(row)
            if item is not None and item.data(Qt.ItemDataRole.UserRole) == rig_id:
                self.rigs.setCurrentItem(item)

    def show_page(self, name: str) -> None:
        """Show a page about the chosen rig."""
        self.bar.show_page(name)

    def _on_page(self, index: int) -> None:
        self.pages.setCurrentIndex(index)
        if PAGES[index] != "Machine":
            self.machine_page.watch.setChecked(False)
        self._on_selection()

    def _on_selection(self) -> None:
        spread = self._spread
        chosen = self._selected()
        has_rig = spread is not None and bool(chosen)
        for widget in (self.duplicate, self.join, self.pages):
            widget.setEnabled(has_rig)
        if spread is None:
            return
        if not chosen:
            self.say("No rig is described yet. Choose New rig to describe the first one.")
            if self.evidence is not None:
                self.evidence.show_parts([])
            return
        if self._rig_id not in chosen:
            self._rig_id = chosen[0]
        assert self._rig_id is not None
        contents, rig = spread.contents, spread.contents.rigs[self._rig_id]
        seated = spread.review is not None and any(
            seat.rig_id == rig.id for seat in spread.review.seats
        )
        self.join.setText("Leave the review" if seated else "Join the review")
        page = PAGES[self.pages.currentIndex()]
        findings = check_fit(contents, rig.id)
        match page:
            case "Rig":
                self.rig_page.show_rig(contents, rig)
            case "Ladder":
                others = [contents.rigs[key] for key in chosen if key != rig.id]
                self.ladder_page.show_rigs(contents, [rig, *others], rig.name in bench_rigs())
            case "Fit":
                self.fit_page.show_findings(rig.name, findings)
            case "Pre-flight":
                self.preflight_page.show_rig(contents, rig)
            case "Machine":
                self.machine_page.show_rig(contents, rig)
        if page == "Pre-flight":
            self.say(preflight_line(contents, rig.id))
        elif page == "Ladder":
            climbed = rig_ladder(contents, rig)
            self.say(bench_line(rig, climbed.ladder) if climbed.ladder else climbed.why_not)
        else:
            self.say(fit_line(rig.name, findings))
        self._show_evidence(rig)

    def _show_evidence(self, rig: Rig) -> None:
        spread = self._spread
        if self.evidence is None or spread is None:
            return
        contents = spread.contents
        findings = check_fit(contents, rig.id)
        counts = [
            figure_row(str(severity), str(sum(one.severity is severity for one in findings)))
            for severity in Severity
        ]
        climbed = rig_ladder(contents, rig)
        parts: list[object] = [label("FIT AND POWER", "heading"), *counts, 10]
        if climbed.ladder is not None:
            left = climbed.ladder.left_gb_per_s
            parts += [
                label("LINK", "heading"),
                figure_row("left for the game", f"{left:.2f}\u202fGB/s"),
                figure_row(
                    "host to card alone", f"{climbed.ladder.left_down_gb_per_s:.2f}\u202fGB/s"
                ),
                figure_row("a frame at 60 fps", f"{climbed.ladder.per_frame_mb(60.0):.1f}\u202fMB"),
                10,
            ]
        parts += [
            label("PRE-FLIGHT", "heading"),
            label(preflight_line(contents, rig.id), "quiet"),
            10,
        ]
        base_id = spread.review.rig_in(Role.BASE) if spread.review else None
        compared = [key for key in self._selected() if key != rig.id] or [
            key for key in (base_id,) if key and key != rig.id
        ]
        if compared:
            other = compared[0]
            parts += [
                label("WHAT DIFFERS", "heading"),
                label(differences_line(contents, other, rig.id), "quiet"),
            ]
            for one in what_differs(contents, other, rig.id):
                if one.part != one.field:
                    parts.append(label(f"{one.field}: {one.first} → {one.second}", "small"))
        self.evidence.show_parts(parts)  # type: ignore[arg-type]

    # Edits

    def _on_new(self) -> None:
        if self._spread is not None:
            records = new_rig(self._spread.contents, self._spread.review, new_id)
            self._choose_after(records[0])
            self.edit_requested.emit("new rig", list(records))

    def _on_duplicate(self) -> None:
        if self._spread is not None and self._rig_id is not None:
            records = duplicate_rig(
                self._spread.contents, self._spread.review, self._rig_id, new_id
            )
            self._choose_after(records[0])
            self.edit_requested.emit("duplicate a rig", list(records))

    def _choose_after(self, rig: object) -> None:
        assert isinstance(rig, Rig)
        self.rigs.blockSignals(True)
        self.rigs.clearSelection()
        self.rigs.blockSignals(False)
        self._rig_id = rig.id

    def _on_join(self) -> None:
        spread = self._spread
        if spread is None or spread.review is None or self._rig_id is None:
            return
        name = spread.contents.rigs[self._rig_id].name
        if any(seat.rig_id == self._rig_id for seat in spread.review.seats):
            review = without_seat(spread.review, self._rig_id)
            self.edit_requested.emit(f"take {name} out of the review", [review])
        else:
            review = with_seat(spread.review, self._rig_id)
            self.edit_requested.emit(f"{name} joins the review", [review])
