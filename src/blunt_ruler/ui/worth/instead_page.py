"""What one could buy instead, that nobody benchmarked, and what the chosen rig needs to win."""

from PyQt6.QtWidgets import QLineEdit, QPushButton

from blunt_ruler.core.records.alternatives import Alternative
from blunt_ruler.core.records.edits import Edit, free_name, put
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.text import MISSING
from blunt_ruler.core.worth.alternatives import (
    alternative_sentence,
    later,
    later_sentence,
    to_win,
    to_win_sentence,
)
from blunt_ruler.core.worth.figures import money_text
from blunt_ruler.core.worth.report import AlternativeRow, Worth
from blunt_ruler.ui.desk.chosen import Chosen
from blunt_ruler.ui.desk.snapshot import new_id
from blunt_ruler.ui.kit.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.kit.part_form import PartForm
from blunt_ruler.ui.kit.rows import Column, RowsTable
from blunt_ruler.ui.kit.widgets import allow, card, label, scrolling
from blunt_ruler.ui.worth.page import WorthPage


class InsteadPage(WorthPage):
    """Alternatives with a price and frames that were published or estimated."""

    def __init__(self, chosen: Chosen) -> None:
        super().__init__(chosen)
        self._currency = self._one = ""
        self.table = RowsTable(
            "What one could buy instead", self._columns(""), key=lambda row: row.alternative.id
        )
        self.table.row_chosen.connect(self._on_row)
        self.add = QPushButton("Add an alternative")
        self.add.clicked.connect(self._on_add)
        self.drop = QPushButton("Delete")
        self.drop.clicked.connect(self._on_drop)
        self.form_head = label("", "heading", wrap=False)
        self.form = PartForm(Alternative, ("notes",))
        self.form.part_changed.connect(self._on_change)
        self._is_new = False
        self.itself, self.later = label("", "quiet"), label("", "quiet")
        stacked(
            beside(self.add, self.drop, STRETCH, spacing=6),
            (self.table, 4),
            self.itself,
            (scrolling(card(self.form_head, self.form, stretch=True)), 6),
            self.later,
            spacing=7,
            on=self,
        )

    @staticmethod
    def _columns(currency: str) -> tuple[Column, ...]:
        def money(value: float | None) -> str:
            return MISSING if value is None else money_text(value, currency)

        return (
            Column("What", lambda row: row.alternative.name),
            Column("Kind", lambda row: row.alternative.kind, 190, gives_up=1),
            Column("Price", lambda row: money(row.cost.value), 96, figures=True),
            Column("Frames, fps", _frames, 104, figures=True),
            Column("Per gained", lambda row: money(row.per_gained.value), 104, figures=True),
            Column("Frames are", lambda row: row.alternative.frames_are, 96, gives_up=2),
        )

    def fill(self, contents: Contents, worth: Worth, rig_id: str) -> None:
        """Show every alternative beside the chosen rig; the chosen one stays chosen."""
        fresh, self._currency = worth.currency != self._currency, worth.currency
        self.table.show_rows(worth.alternatives, self._columns(worth.currency) if fresh else None)
        if not self.table.choose(self._one):
            self.table.choose_place(0)
        row = worth.row(rig_id)
        found = later(contents, worth, row) if row is not None else None
        self.later.setText(later_sentence(worth, found).computed if found is not None else "")
        self._show(self.table.chosen())

    def line(self) -> str:
        """What the chosen rig would need to win over the chosen alternative."""
        return self._line

    def _on_row(self, one: AlternativeRow | None) -> None:
        self._show(one)
        self.refreshed.emit()

    def _show(self, one: AlternativeRow | None) -> None:
        allow(self.drop, "" if one is not None else "No alternative is noted yet")
        worth = self.worth
        if one is None or worth is None:
            self.form_head.setText("NO ALTERNATIVE IS NOTED YET")
            self._line = "Nothing that one could buy instead is noted yet."
            self.itself.setText(
                "Add a laptop with its own card, a used tower or a stronger processor, with its "
                "price and what frames were published or are expected."
            )
            self.itself.show()
            self.form.show_part(None)
            return
        self._one = one.alternative.id
        self.form_head.setText(one.alternative.name.upper())
        self.form.show_part(one.alternative)
        if self._is_new:
            self._is_new = False
            name = self.form.fields["name"].box
            assert isinstance(name, QLineEdit)
            name.setFocus()
            name.selectAll()
        said = alternative_sentence(worth, one).computed
        row = worth.row(self.chosen.rig)
        found = to_win(row, one) if row is not None else None
        self._line = to_win_sentence(worth, found).computed if found is not None else said
        self.itself.setText(said if found is not None else "")
        self.itself.setVisible(found is not None)

    def _on_change(self, one: Alternative, field: str) -> None:
        self.edited.emit(put(f"{field} of {one.name}", one))

    def _on_add(self) -> None:
        if self.contents is None or self.worth is None:
            return
        self._one, self._is_new = new_id(), True
        taken = [one.name for one in self.contents.alternatives.values()]
        name = free_name("Another computer", taken)
        made = Alternative(id=self._one, name=name, currency=self.worth.currency)
        self.edited.emit(put("add an alternative", made))

    def _on_drop(self) -> None:
        one = self.table.chosen()
        if one is not None:
            self.edited.emit(Edit(f"delete {one.alternative.name}", drop=(one.alternative,)))


def _frames(row: AlternativeRow) -> str:
    if row.frames.value is None:
        return MISSING
    if row.least is not None and row.most is not None:
        return f"{row.least:.0f}–{row.most:.0f}"
    return f"{row.frames.value:.0f}"
