"""The Bench, drawn: the chosen rig as a strip, all rigs as rows of the same strip, and below them
the shelf of parts, the link's ladder, the pre-flight list, and this machine.
"""

from dataclasses import replace
from functools import partial

from PyQt6.QtCore import QItemSelectionModel, QModelIndex, Qt, pyqtSignal
from PyQt6.QtGui import QKeySequence, QResizeEvent
from PyQt6.QtWidgets import QFrame, QPushButton, QToolButton

from blunt_ruler.bench.machines import machine_names
from blunt_ruler.core.drawing.strip import reach_of
from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.edits import Edit
from blunt_ruler.core.records.hardware import Rig
from blunt_ruler.core.records.records import Contents, Role
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.rigs.compatibility import FitFinding
from blunt_ruler.core.rigs.daily import daily_lines
from blunt_ruler.core.rigs.differences import differences_line, what_differs
from blunt_ruler.core.rigs.preflight import preflight_line
from blunt_ruler.core.rigs.rig_edits import (
    PART_TABLES,
    Part,
    duplicate_rig,
    in_review,
    join_or_leave,
    new_rig,
    rigs_with,
)
from blunt_ruler.core.rigs.strip import BLOCKS, PARTS, Place, Strip, block_words, rig_strip
from blunt_ruler.core.rigs.typed_places import put_part, type_place, type_rig
from blunt_ruler.core.text import MISSING, capital, count_text
from blunt_ruler.ui.bench.changes_page import ChangesPage
from blunt_ruler.ui.bench.dial_page import DialPage
from blunt_ruler.ui.bench.ladder_page import LadderPage
from blunt_ruler.ui.bench.machine_page import MachinePage
from blunt_ruler.ui.bench.marks import SeverityMark
from blunt_ruler.ui.bench.place_facts import PlaceFacts
from blunt_ruler.ui.bench.preflight_page import PreflightPage
from blunt_ruler.ui.bench.rigs_table import RigsTable
from blunt_ruler.ui.bench.shelf_page import ShelfPage
from blunt_ruler.ui.bench.strip_view import MARGIN, StripView
from blunt_ruler.ui.bench.trouble_page import TroublePage
from blunt_ruler.ui.desk.snapshot import Snapshot, new_id
from blunt_ruler.ui.desk.stop import Stop
from blunt_ruler.ui.kit.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.kit.tips import plain_tip
from blunt_ruler.ui.kit.widgets import Parts, allow, label, menu_button

SHELF, LADDER, PREFLIGHT = "Shelf", "Ladder", "Pre-flight"
CHANGES, TROUBLE = "Changes", "Trouble"
DIAL, MACHINE = "Dial", "Machine"
MOST_ROWS, FEWEST_ROWS = 7, 4
LARGEST = 1.5  # times the usual size, in a large window
ROOM_FOR_MORE_ROWS = 640  # pixels of height
MORE_ROOM = {MACHINE: 120, CHANGES: 100}  # of pages with rows and a form of their own


class BenchStop(Stop):
    """Rigs and what they are made of.

    Signals:
        parts_requested(str): "import", "paste", "export" or "catalogue".
    """

    parts_requested = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__("Bench")
        self.strip = StripView()
        self.strip.place_chosen.connect(self._on_place)
        self.strip.facts_wanted.connect(self._on_facts_wanted)
        self.strip.dropped.connect(lambda kind, part_id: self._on_dropped("", kind, part_id))
        self.strip_frame = QFrame()
        self.strip_frame.setObjectName("card")
        around = (MARGIN, MARGIN - 2, MARGIN, 4)
        stacked(self.strip, margins=around, on=self.strip_frame)
        self.rigs = RigsTable()
        self.rigs.typed.connect(self._on_typed)
        self.rigs.dropped.connect(self._on_dropped)
        self.rigs.facts_wanted.connect(self._on_facts_wanted)
        selection = self.rigs.selectionModel()
        assert selection is not None
        selection.selectionChanged.connect(lambda *_: self._on_selection())
        selection.currentChanged.connect(self._on_current)
        self.new = QPushButton("New rig")
        self.new.clicked.connect(self._on_new)
        self.duplicate = QPushButton("Duplicate")
        self.duplicate.setShortcut(QKeySequence("Ctrl+D"))
        self.duplicate.setToolTip("The same rig again, to change one part of it (Ctrl+D)")
        self.duplicate.clicked.connect(self._on_duplicate)
        self.join = QPushButton("Join review")
        self.join.clicked.connect(self._on_join)
        self.parts_menu = self._parts_menu()
        self.lasting = self.facts = PlaceFacts()
        self.facts.edited.connect(self.edited)
        self.evidence.add_lasting(self.facts)
        self.add_page(SHELF, lambda: ShelfPage(self.chosen))
        self.add_page(LADDER, lambda: LadderPage(self.chosen))
        self.add_page(PREFLIGHT, lambda: PreflightPage(self.chosen))
        self.add_page(CHANGES, lambda: ChangesPage(self.chosen))
        self.add_page(TROUBLE, lambda: TroublePage(self.chosen))
        self.add_page(DIAL, lambda: DialPage(self.chosen))
        self.add_page(MACHINE, lambda: MachinePage(self.chosen, machine_names()))
        self.when_built(SHELF, self._connect_shelf)
        self.bar.row.setSpacing(3)
        self.bar.page_chosen.connect(lambda _name: self._make_room())
        buttons = beside(
            self.bar, STRETCH, self.new, self.duplicate, self.join, self.parts_menu, spacing=3
        )
        for button in (self.new, self.duplicate, self.join, self.parts_menu):
            button.setStyleSheet("padding-left: 6px; padding-right: 6px;")
        self.body.addWidget(self.strip_frame)
        self.body.addWidget(self.rigs)
        self.body.addLayout(buttons)
        self.body.addWidget(self.pages, 1)
        self._restoring = False
        self._place = Place.RIG
        self._sent: list[Edit] = []
        self._on_desk: Snapshot | None = None
        self._strips_of: Contents | None = None
        self._strips: dict[str, Strip] = {}

    def _make_room(self) -> None:
        """A trouble needs the room of the strip, and of the facts beside it."""
        is_trouble = self.current == TROUBLE
        self.strip_frame.setVisible(not is_trouble and self._strip() is not None)
        self.facts.setVisible(not is_trouble)
        self._fit_rows()

    # What was sent and is not in the file yet

    def _send(self, edit: Edit) -> None:
        """Send an edit on its way, and show what it makes at once: one types on without waiting."""
        self._sent.append(edit)
        self._show()
        self.edited.emit(edit)

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Show what lies on the desk, and what is still on its way there."""
        self.take_note(snapshot)
        self._show()

    def take_note(self, snapshot: Snapshot) -> None:
        """What a snapshot holds has arrived, and all that was sent before it."""
        self._on_desk = snapshot
        for place in reversed(range(len(self._sent))):
            if self._sent[place].is_in(snapshot.contents):
                del self._sent[: place + 1]
                return

    def forget_sent(self) -> None:
        """What was sent will not arrive."""
        if self._sent:
            self._sent.clear()
            self._show()

    def _show(self) -> None:
        assert self._on_desk is not None
        contents, review = self._on_desk.contents, self._on_desk.review
        for edit in self._sent:
            contents = edit.on(contents)
        if self._sent and review is not None:
            review = contents.reviews.get(review.id, review)
        super().show_snapshot(replace(self._on_desk, contents=contents, review=review))

    def _connect_shelf(self, page: ShelfPage) -> None:
        page.part_wanted.connect(self._on_part_wanted)
        page.show_place(self._place)

    def _parts_menu(self) -> QToolButton:
        choices = {
            "Add the catalogue of generic parts": "catalogue",
            "Import parts from a file…": "import",
            "Paste parts (CSV or JSON)": "paste",
            "Export all parts…": "export",
        }
        return menu_button(
            "Parts",
            "Parts: catalogue, import, paste, export",
            {words: partial(self.parts_requested.emit, what) for words, what in choices.items()},
        )

    # Showing

    def arrive(self, snapshot: Snapshot) -> None:
        """List the rigs of the logbook, those of the review first, and draw the chosen one."""
        contents, review = snapshot.contents, snapshot.review
        picked = self.rigs.selected_rigs() or [self.chosen.rig]
        self._restoring = True
        self.rigs.show_rigs(contents, review)
        keys = [row.rig_id for row in self.rigs.grid.rows]
        rig = next((key for key in (*picked, self.chosen.rig) if key in keys), "")
        if not rig and keys:
            seats = review.seats if review else ()
            tested = [seat.rig_id for seat in seats if seat.role is Role.TESTED]
            rig = (tested or keys)[0]
        if self.rigs.on_ghost():
            self.chosen.rig = rig  # it is drawn, while the next one is named
        else:
            self._select(rig, [key for key in picked if key in keys])
        self._restoring = False
        self._fit_rows()
        self._choose_selected()
        for widget in (self.duplicate, self.join, self.pages):
            allow(widget, "" if keys else "No rig is described yet: type the name of one")
        self._show_choice()

    def _select(self, rig: str, picked: list[str]) -> None:
        selection = self.rigs.selectionModel()
        if selection is None or not rig:
            return
        if self.rigs.current_rig() != rig:
            self.rigs.choose(rig, self._place)
        flags = QItemSelectionModel.SelectionFlag
        rows = {row.rig_id: place for place, row in enumerate(self.rigs.grid.rows)}
        for key in {rig, *picked}:
            selection.select(self.rigs.grid.index(rows[key], 0), flags.Select | flags.Rows)

    def resizeEvent(self, a0: QResizeEvent | None) -> None:
        super().resizeEvent(a0)
        self._fit_rows()

    def _fit_rows(self) -> None:
        """As many rows as there is room for; more of them scroll."""
        grown = min(max(min(self.height() / 800, self.width() / 1280), 1.0), LARGEST)
        if grown != self.strip.unit:
            self.strip.grow(grown)
            self.rigs.grow(grown)
        needed = ROOM_FOR_MORE_ROWS + MORE_ROOM.get(self.current, 0)
        roomy = self.height() >= needed
        spare = max(int((self.height() - 800) // (30 * grown)), 0)
        most = (MOST_ROWS if roomy else FEWEST_ROWS) + spare
        self.rigs.setFixedHeight(self.rigs.height_wanted(most))

    def _choose_selected(self) -> None:
        picked = self.rigs.selected_rigs()
        rig = next(iter(picked), self.chosen.rig)
        self.chosen.blockSignals(True)
        self.chosen.choose(rig, beside=tuple(key for key in picked if key != rig))
        self.chosen.blockSignals(False)

    def _on_selection(self) -> None:
        if self._restoring:
            return
        self._choose_selected()
        self._show_choice()
        self.refresh()

    def _on_current(self, current: QModelIndex, previous: QModelIndex) -> None:
        if self._restoring or not current.isValid():
            return
        self._place = self.rigs.place()
        if current.row() == previous.row():  # else the selection follows, and shows it all
            self._show_choice()
            self.tell()

    def _on_place(self, place: Place) -> None:
        """A block of the strip was chosen: the cell of the chosen rig with it."""
        self._place = place
        self._restoring = True
        selection = self.rigs.selectionModel()
        rows = [row.rig_id for row in self.rigs.grid.rows]
        if selection is not None and self.chosen.rig in rows:
            at = self.rigs.grid.index(rows.index(self.chosen.rig), list(Place).index(place))
            selection.setCurrentIndex(at, QItemSelectionModel.SelectionFlag.NoUpdate)
        self._restoring = False
        self._show_choice()
        self.tell()

    def _show_choice(self) -> None:
        """Draw the chosen rig, its place chosen, and the facts of it."""
        snapshot, rig = self.snapshot, self._rig()
        if snapshot is None:
            return
        contents = snapshot.contents
        strip = self._strip()
        self.strip_frame.setVisible(strip is not None and self.current != TROUBLE)
        self.facts.setVisible(self.current != TROUBLE)
        if strip is not None:
            reach = reach_of([self._strip_of(contents, row.rig_id) for row in self.rigs.grid.rows])
            self.strip.show_strip(strip, reach, self._place)
        rigs = [contents.rigs[key] for key in (self.chosen.rig, *self.chosen.beside) if rig]
        self.facts.show_place(contents, rigs, self._place)
        if SHELF in self._built:
            page = self._built[SHELF]
            assert isinstance(page, ShelfPage)
            page.show_place(self._place)
        joined = in_review(snapshot.review, self.chosen.rig)
        self.join.setText("Leave review" if joined else "Join review")

    def choose_rig(self, rig_id: str, place: Place = Place.RIG) -> None:
        """Choose one rig alone, at a place."""
        self._place = place
        self.rigs.clearSelection()
        self.rigs.choose(rig_id, place)

    def _rig(self) -> Rig | None:
        return self.snapshot.contents.rigs.get(self.chosen.rig) if self.snapshot else None

    def _strip(self) -> Strip | None:
        rig = self._rig()
        return self._strip_of(self.snapshot.contents, rig.id) if rig and self.snapshot else None

    def _strip_of(self, contents: Contents, rig_id: str) -> Strip:
        """A rig's strip, worked out once for the contents it is of."""
        if self._strips_of is not contents:
            self._strips_of, self._strips = contents, {}
        if rig_id not in self._strips:
            self._strips[rig_id] = rig_strip(contents, rig_id)
        return self._strips[rig_id]

    def line(self) -> str:
        """What the strip says of the chosen rig; another page says its own."""
        strip = self._strip()
        if strip is None:
            return "No rig is described yet. Type the name of the first one below."
        return strip.says if self.current == SHELF else super().line()

    def take_focus(self) -> None:
        """Stand on the rigs, where one types: on the row of a new one where there is none."""
        if not self.rigs.currentIndex().isValid():
            self.rigs.setCurrentIndex(self.rigs.grid.index(0, 0))
        self.rigs.setFocus()

    # Evidence

    def parts(self) -> Parts | None:
        """What was found about the chosen place, who shares it, what differs, what would help."""
        if self.current == TROUBLE:
            return self.page(TROUBLE).evidence()
        snapshot, strip, rig = self.snapshot, self._strip(), self._rig()
        if snapshot is None or strip is None or rig is None:
            return [label("A rig is a host, a card, and what lies between.", "quiet")]
        contents, place = snapshot.contents, self._place
        parts: Parts = [label(str(place).upper(), "heading")]
        name = block_words(contents, rig, place)[0]
        parts.append(label(name if name != MISSING else f"no {place} chosen", "says"))
        parts += self._shared(contents, rig, place)
        found = strip.found_at(place) if place in BLOCKS else strip.findings
        if found:
            parts += [8, label("FOUND", "heading"), *map(_finding, found)]
        elif place is Place.RIG:
            quiet = "Nothing found in what is described. That is no guarantee: follow the makers' "
            parts += [8, label("FOUND", "heading"), label(f"{quiet}manuals.", "quiet")]
        if place in (Place.RIG, Place.STATE):
            parts += self._differs(snapshot, rig)
        if place is Place.RIG and (lines := [*daily_lines(rig)]):
            parts += [8, label("DAILY LIFE", "heading"), *map(label, lines)]
        parts += [8, label("WHAT WOULD HELP", "heading"), *self._help(contents, rig)]
        return parts

    def _shared(self, contents: Contents, rig: Rig, place: Place) -> Parts:
        several = len(self.chosen.beside) + 1
        if several > 1:
            return [label(f"{several} rigs are chosen: an edit changes all of them.", "quiet")]
        part_id = getattr(rig, f"{place}_id") if place in PARTS else None
        users = rigs_with(contents, place, part_id) if part_id else ()
        if not users[1:]:
            return []
        many = count_text(len(users), "rig")
        return [label(f"Used by {many}: an edit changes them all.", "quiet")]

    def _differs(self, snapshot: Snapshot, rig: Rig) -> Parts:
        base = snapshot.review.rig_in(Role.BASE) if snapshot.review else None
        others = self.chosen.beside or ((base,) if base and base != rig.id else ())
        if not others or others[0] not in snapshot.contents.rigs:
            return []
        parts: Parts = [8, label("WHAT DIFFERS", "heading")]
        parts.append(label(differences_line(snapshot.contents, others[0], rig.id), "quiet"))
        parts += [
            label(f"{one.field}: {one.first} → {one.second}", "small")
            for one in what_differs(snapshot.contents, others[0], rig.id)
            if one.part in ("rig", "state")
        ]
        return parts

    def _help(self, contents: Contents, rig: Rig) -> Parts:
        ladder = QPushButton("Where the bandwidth goes")
        ladder.clicked.connect(lambda: self.show_page(LADDER))
        allow(ladder, "" if rig.link_id else "This rig has no link")
        preflight = QPushButton("Go through the pre-flight")
        preflight.setToolTip(plain_tip(preflight_line(contents, rig.id)))
        preflight.clicked.connect(lambda: self.show_page(PREFLIGHT))
        return [ladder, preflight, label(preflight_line(contents, rig.id), "small")]

    # Edits

    def _say_wrong(self, error: UserFixable) -> None:
        self.error_raised.emit(error)

    def _on_typed(self, rig_id: str | None, place: Place, text: str) -> None:
        if self.snapshot is None:
            return
        contents, review = self.snapshot.contents, self.snapshot.review
        try:
            if rig_id is None:
                edit: Edit | None = type_rig(contents, review, text, new_id)
            else:
                whose = [rig_id]
                if place is not Place.RIG and rig_id in (self.chosen.rig, *self.chosen.beside):
                    whose = [self.chosen.rig, *self.chosen.beside]
                edit = type_place(contents, whose, place, text, new_id)
        except UserFixable as error:
            self.rigs.keep_wrong(rig_id, place, text, str(error))
            self._say_wrong(error)
            return
        self.rigs.keep_wrong(rig_id, place, "", "")
        if edit is None:
            return
        if rig_id is None:
            self._choose_made(edit)
        else:
            self._send(edit)

    def _on_dropped(self, rig_id: str, kind: str, part_id: str) -> None:
        page = self.page(SHELF)
        assert isinstance(page, ShelfPage)
        part = page.part(kind, part_id)
        if part is not None and self.snapshot is not None and (rig_id or self.chosen.rig):
            whose = [rig_id or self.chosen.rig]
            self.edited.emit(put_part(self.snapshot.contents, whose, kind, part))

    def _on_part_wanted(self, kind: str, part: Part) -> None:
        if self.snapshot is not None and self._rig() is not None:
            whose = [self.chosen.rig, *self.chosen.beside]
            self.edited.emit(put_part(self.snapshot.contents, whose, kind, part))

    def _on_facts_wanted(self) -> None:
        """Into the facts of what is chosen; an empty place is filled from the shelf first."""
        snapshot, rig = self.snapshot, self._rig()
        if snapshot is None or rig is None:
            return
        if self._place in PARTS:
            table = getattr(snapshot.contents, PART_TABLES[self._place])
            if getattr(rig, f"{self._place}_id") not in table:
                self.show_page(SHELF)
                page = self.page(SHELF)
                assert isinstance(page, ShelfPage)
                page.chips.setFocus()
                return
        self.facts.take_focus(self._place)

    def _on_new(self) -> None:
        if self.snapshot is not None:
            self._choose_made(new_rig(self.snapshot.contents, self.snapshot.review, new_id))

    def _on_duplicate(self) -> None:
        if self.snapshot is not None and self._rig() is not None:
            contents, review = self.snapshot.contents, self.snapshot.review
            self._choose_made(duplicate_rig(contents, review, self.chosen.rig, new_id))

    def _choose_made(self, edit: Edit) -> None:
        """Make an edit, and choose the rig that it makes."""
        self._send(edit)
        self.choose_rig(edit.put[0].id)

    def _on_join(self) -> None:
        if self.snapshot is not None and self.snapshot.review is not None:
            contents, review = self.snapshot.contents, self.snapshot.review
            self.edited.emit(join_or_leave(contents, review, self.chosen.rig))


def _finding(finding: FitFinding) -> QFrame:
    """A finding with its mark, and what to do about it."""
    frame = QFrame()
    frame.setAccessibleName(f"{finding.severity}: {finding.what}")
    kind = "" if finding.severity is not Severity.NOTE else "quiet"
    words = stacked(label(capital(finding.what), kind), label(f"{finding.do}.", "small"), spacing=1)
    mark = SeverityMark(finding.severity)
    beside((mark, Qt.AlignmentFlag.AlignTop), (words, 1), spacing=7, margins=(0, 0, 0, 4), on=frame)
    return frame
