"""The rig page: host, card, dock, link and state of one rig, each with its form."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QFrame,
    QPushButton,
)

from blunt_ruler.core.records.edits import put
from blunt_ruler.core.records.hardware import Rig, RigState
from blunt_ruler.core.records.records import Contents, Record
from blunt_ruler.core.rigs.compatibility import check_fit, fit_line
from blunt_ruler.core.rigs.rig_edits import (
    PART_MODELS,
    PART_TABLES,
    choose_part,
    new_part,
    rigs_with,
)
from blunt_ruler.core.text import capital, count_text
from blunt_ruler.ui.chosen import Chosen
from blunt_ruler.ui.layouts import beside, stacked
from blunt_ruler.ui.part_form import PartForm, heading
from blunt_ruler.ui.snapshot import Snapshot, new_id
from blunt_ruler.ui.stop import Page
from blunt_ruler.ui.widgets import allow, label, scroll_column

WIDE = ("name", "hops", "notes", "ports", "adapters", "screen_path")


class _Section(QFrame):
    """One part of the rig: which one it is, and its fields.

    Signals:
        edited(Edit): this edit, please.
    """

    edited = pyqtSignal(object)

    def __init__(self, kind: str) -> None:
        super().__init__()
        self.setObjectName("card")
        self.kind = kind
        self._contents: Contents | None = None
        self._rig: Rig | None = None
        self.choice = QComboBox()
        self.choice.setAccessibleName(f"The {kind} of this rig")
        self.choice.activated.connect(lambda _index: self._on_chosen())
        self.new = QPushButton("New")
        self.new.setAccessibleName(f"New {kind}")
        self.new.clicked.connect(lambda: self._on_new(None))
        self.duplicate = QPushButton("Duplicate")
        self.duplicate.setAccessibleName(f"Duplicate the {kind}")
        self.duplicate.clicked.connect(lambda: self._on_new(self.choice.currentData()))
        self.shared = label("", "small")
        self.form = PartForm(PART_MODELS[kind], WIDE, of=kind)
        self.form.part_changed.connect(self._on_part_changed)
        stacked(
            beside(heading(kind.upper()), (self.choice, 1), self.new, self.duplicate),
            self.shared,
            self.form,
            spacing=7,
            margins=(12, 9, 12, 10),
            on=self,
        )

    def show_rig(self, contents: Contents, rig: Rig) -> None:
        """Show this part of a rig."""
        self._contents, self._rig = contents, rig
        table = getattr(contents, PART_TABLES[self.kind])
        part_id = getattr(rig, f"{self.kind}_id")
        self.choice.clear()
        self.choice.addItem("none", None)
        for part in table.values():
            self.choice.addItem(part.name, part.id)
        self.choice.setCurrentIndex(max(self.choice.findData(part_id), 0))
        part = table.get(part_id or "")
        allow(self.duplicate, "" if part is not None else f"No {self.kind} is chosen for this rig")
        users = rigs_with(contents, self.kind, part_id) if part_id else ()
        others = count_text(len(users), "rig")
        self.shared.setText(f"Used by {others}: an edit changes them all." if users[1:] else "")
        self.shared.setVisible(len(users) > 1)
        self.form.setVisible(part is not None)
        self.form.show_part(part)

    def _on_chosen(self) -> None:
        if self._contents is not None and self._rig is not None:
            part_id = self.choice.currentData()
            self.edited.emit(choose_part(self._contents, self._rig.id, self.kind, part_id))

    def _on_new(self, like: str | None) -> None:
        if self._contents is not None and self._rig is not None:
            self.edited.emit(new_part(self._contents, self._rig.id, self.kind, new_id, like))

    def _on_part_changed(self, part: Record, says: str) -> None:
        self.edited.emit(put(f"{says} of {getattr(part, 'name', '')}", part))


class RigPage(Page):
    """All sections of a rig."""

    def __init__(self, chosen: Chosen) -> None:
        super().__init__()
        self._chosen = chosen
        self._rig: Rig | None = None
        self.rig_form = PartForm(Rig, WIDE)
        self.rig_form.part_changed.connect(self._on_rig_changed)
        self.state_form = PartForm(RigState)
        self.state_form.part_changed.connect(self._on_state_changed)
        self.sections = {kind: _Section(kind) for kind in PART_MODELS}
        column = scroll_column(self)
        column.setSpacing(9)
        column.addWidget(_framed("rig", self.rig_form))
        for section in self.sections.values():
            section.edited.connect(self.edited)
            column.addWidget(section)
        column.addWidget(_framed("state", self.state_form))
        column.addStretch(1)

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Show the chosen rig as it is stored."""
        contents = snapshot.contents
        rig = self._rig = contents.rigs.get(self._chosen.rig)
        if rig is None:
            return
        self._line = fit_line(rig.name, check_fit(contents, rig.id))
        self.rig_form.show_part(rig)
        self.state_form.show_part(rig.state, rig.id)
        for section in self.sections.values():
            section.show_rig(contents, rig)

    def _on_rig_changed(self, rig: Rig, says: str) -> None:
        self.edited.emit(put(f"{says} of {rig.name}", rig))

    def _on_state_changed(self, state: RigState, says: str) -> None:
        if self._rig is not None:
            rig = self._rig.model_copy(update={"state": state})
            self.edited.emit(put(f"{says} of {rig.name}", rig))


def _framed(words: str, form: PartForm) -> QFrame:
    frame = QFrame()
    frame.setObjectName("card")
    stacked(heading(words.upper()), form, spacing=7, margins=(12, 9, 12, 10), on=frame)
    frame.setAccessibleName(capital(words))
    return frame
