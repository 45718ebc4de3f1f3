"""The disclosures page: each tested thing with where it came from, and who tested it."""

from typing import Any

from PyQt6.QtWidgets import QLineEdit, QPushButton

from blunt_ruler.core.records.edits import change_review
from blunt_ruler.core.records.records import Review
from blunt_ruler.core.records.writeup_settings import Disclosure, Terms, WriteUp
from blunt_ruler.core.text import MISSING
from blunt_ruler.core.writeup.closing import Tested, disclosures_line, tested_things
from blunt_ruler.ui.desk.snapshot import Snapshot
from blunt_ruler.ui.desk.stop import Page
from blunt_ruler.ui.kit.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.kit.part_form import PartForm
from blunt_ruler.ui.kit.rows import Column, RowsTable
from blunt_ruler.ui.kit.widgets import allow, card, label

NOT_STATED = "not stated"


def _came(one: Tested) -> str:
    if one.disclosure is not None:
        return str(one.disclosure.terms)
    return str(Terms.OWN) if one.owned else NOT_STATED


class DisclosuresPage(Page):
    """What a reader must know of where things came from."""

    def __init__(self) -> None:
        super().__init__()
        self._writeup = WriteUp()
        self._review: Review | None = None
        self._chosen: Tested | None = None
        self.byline = QLineEdit()
        self.byline.setAccessibleName("Tested by")
        self.byline.setPlaceholderText("who tested it, as it should be printed")
        self.byline.editingFinished.connect(self._on_byline)
        self.table = RowsTable(
            "Tested things and where they came from",
            [
                Column(
                    "Tested thing",
                    lambda one: one.what,
                    tip=lambda one: one.disclosure.notes if one.disclosure else "",
                    bold=lambda one: one.is_silent,
                ),
                Column(
                    "How it came",
                    _came,
                    170,
                    colour=lambda one: "caution" if one.is_silent else "",
                    bold=lambda one: one.is_silent,
                ),
                Column(
                    "From whom",
                    lambda one: (one.disclosure.by if one.disclosure else "") or MISSING,
                    200,
                ),
            ],
            key=lambda one: one.what,
        )
        self.table.row_chosen.connect(self._on_chosen)
        self.add, self.drop = QPushButton("Add another thing"), QPushButton("Delete")
        self.add.clicked.connect(self._on_add)
        self.drop.clicked.connect(self._on_drop)
        self.form = PartForm(Disclosure, ("notes",))
        self.form.part_changed.connect(self._on_part)
        stacked(
            beside(label("tested by", "quiet", wrap=False), (self.byline, 1)),
            (self.table, 1),
            beside(self.add, self.drop, STRETCH),
            card(self.form),
            label(
                "What was lent, given, sponsored or bought for the test is named here, and what "
                "was asked in return. What is marked as owned among the prices needs no word.",
                "quiet",
            ),
            spacing=8,
            on=self,
        )

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Show every tested thing; the chosen one stays chosen."""
        review = self._review = snapshot.review
        if review is None:
            return
        self._line = disclosures_line(snapshot.contents, review)
        writeup = self._writeup = review.writeup
        if not self.byline.isModified():
            self.byline.setText(writeup.byline)
        self.table.show_rows(tested_things(snapshot.contents, review))
        if self._chosen is None or not self.table.choose(self._chosen.what):
            self.table.choose_place(0)
        self._on_chosen(self.table.chosen())

    def _on_chosen(self, one: Tested | None) -> None:
        self._chosen = one
        place = one.place if one is not None else None
        allow(self.drop, "" if place is not None else "Nothing is disclosed of it yet")
        shown = None
        if one is not None:
            usual = Terms.OWN if one.owned else Terms.LOAN
            shown = one.disclosure or Disclosure(what=one.what, terms=usual)
        self.form.show_part(shown, f"{place} {one.what if one else ''}")

    def _on_byline(self) -> None:
        self.byline.setModified(False)
        if self.byline.text().strip() != self._writeup.byline:
            self._change("who tested it", byline=self.byline.text().strip())

    def _change(self, words: str, **fields: Any) -> None:
        if self._review is not None:
            changed = self._writeup.model_copy(update=fields)
            self.edited.emit(change_review(self._review, words, writeup=changed))

    def _put(self, disclosures: list[Disclosure], words: str) -> None:
        self._change(words, disclosures=tuple(disclosures))

    def _on_part(self, part: Disclosure, field: str) -> None:
        one = self._chosen
        if one is None:
            return
        disclosures = list(self._writeup.disclosures)
        if one.place is None:
            disclosures.append(part)
        else:
            disclosures[one.place] = part
        self._chosen = Tested(part.what, part)
        self._put(disclosures, f"{field} of a disclosure")

    def _on_add(self) -> None:
        made = Disclosure(what="A tested thing")
        self._chosen = Tested(made.what, made)
        self._put([*self._writeup.disclosures, made], "disclose")

    def _on_drop(self) -> None:
        if self._chosen is not None and self._chosen.place is not None:
            disclosures = list(self._writeup.disclosures)
            gone = disclosures.pop(self._chosen.place)
            self._put(disclosures, f"take the disclosure of {gone.what} away")
