"""What changed while the test ran: parts replaced, drivers updated, each from a day on."""

from collections import Counter
from collections.abc import Sequence
from datetime import date

from PyQt6.QtWidgets import QPushButton

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.bench_notes import Change
from blunt_ruler.core.records.edits import put
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.runs.changes import (
    all_parted_off,
    changes_line,
    checked_day,
    drop_change,
    note_change,
)
from blunt_ruler.core.text import list_text
from blunt_ruler.ui.desk.chosen import Chosen
from blunt_ruler.ui.desk.snapshot import Snapshot, new_id
from blunt_ruler.ui.desk.stop import Page
from blunt_ruler.ui.kit.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.kit.part_form import PartForm
from blunt_ruler.ui.kit.rows import Column, RowsTable
from blunt_ruler.ui.kit.widgets import allow, card, label


class ChangesPage(Page):
    """Every change of the logbook, and the chosen one to put into words."""

    def __init__(self, chosen: Chosen) -> None:
        super().__init__()
        self._chosen = chosen
        self._contents: Contents | None = None
        self._change = ""
        self._parted: Counter[str] = Counter()
        self.table = RowsTable("What changed during the test", self._columns(), lambda one: one.id)
        self.table.wrap_words()
        self.table.row_chosen.connect(self._on_chosen)
        self.here = QPushButton("Note a change on the chosen rigs")
        self.here.clicked.connect(lambda: self._note((self._chosen.rig, *self._chosen.beside)))
        self.all = QPushButton("…on every rig")
        self.all.setAccessibleName("Note a change on every rig")
        self.all.clicked.connect(lambda: self._note(()))
        self.drop = QPushButton("Delete")
        self.drop.clicked.connect(self._on_drop)
        self.form = PartForm(Change, ("at", "what"), columns=1)
        self.form.part_changed.connect(self._on_change)
        self.wrong = label("", "error")
        stacked(
            beside(self.here, self.all, self.drop, STRETCH, spacing=6),
            (beside((self.table, 3), (card(self.form, self.wrong, stretch=True), 2), spacing=8), 1),
            spacing=7,
            on=self,
        )

    def _columns(self) -> tuple[Column, ...]:
        return (
            Column("From", lambda one: one.at[:16], 116),
            Column("What changed", lambda one: one.what, tip=lambda one: one.what),
            Column("Rigs", self._rigs, 190, tip=self._rigs, gives_up=1),
            Column("Passes before it", self._before, 116, figures=True),
        )

    def _rigs(self, change: Change) -> str:
        rigs = self._contents.rigs if self._contents else {}
        return list_text([rigs[key].name for key in change.rig_ids if key in rigs]) or "every rig"

    def _before(self, change: Change) -> str:
        return str(self._parted[change.id])

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Show every change of the logbook."""
        contents = self._contents = snapshot.contents
        self._line = changes_line(contents)
        self._parted = all_parted_off(contents)
        self.table.show_rows(tuple(contents.changes.values()))
        if not self.table.choose(self._change):
            self.table.choose_place(0)
        allow(self.here, "" if self._chosen.rig in contents.rigs else "No rig is chosen")
        allow(self.drop, "" if contents.changes else "No change is noted yet")
        self._on_chosen(self.table.chosen())

    def _on_chosen(self, change: Change | None) -> None:
        self._change = change.id if change is not None else ""
        self.form.show_part(change)
        self.wrong.hide()

    def _note(self, rig_ids: Sequence[str]) -> None:
        self._change = new_id()
        self.edited.emit(note_change(rig_ids, date.today().isoformat(), self._change))

    def _on_change(self, change: Change, says: str) -> None:
        try:
            made = change.model_copy(update={"at": checked_day(change.at)})
        except UserFixable as error:
            self.wrong.setText(str(error))
            self.wrong.show()
            return
        self.wrong.hide()
        self.edited.emit(put(f"{says} of a change", made))

    def _on_drop(self) -> None:
        change = self.table.chosen()
        if change is not None:
            self.edited.emit(drop_change(change))
