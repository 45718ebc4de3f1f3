"""The disclosures page: where tested things came from, and who tested them."""

from typing import Any

from PyQt6.QtWidgets import QLineEdit, QPushButton

from blunt_ruler.core.records.edits import change_review
from blunt_ruler.core.records.records import Review
from blunt_ruler.core.records.writeup_settings import Disclosure, WriteUp
from blunt_ruler.core.writeup.compose import writeup_line
from blunt_ruler.ui.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.part_form import PartForm
from blunt_ruler.ui.rows import Column, RowsTable
from blunt_ruler.ui.snapshot import Snapshot
from blunt_ruler.ui.stop import Page
from blunt_ruler.ui.widgets import allow, card, label


class DisclosuresPage(Page):
    """What a reader must know of where things came from."""

    def __init__(self) -> None:
        super().__init__()
        self._writeup = WriteUp()
        self._review: Review | None = None
        self._place = 0
        self.byline = QLineEdit()
        self.byline.setAccessibleName("Tested by")
        self.byline.setPlaceholderText("who tested it, as it should be printed")
        self.byline.editingFinished.connect(self._on_byline)
        self.table = RowsTable(
            "Disclosures",
            [
                Column("What", lambda row: row[1].what, tip=lambda row: row[1].notes),
                Column("How it came", lambda row: str(row[1].terms), 150),
                Column("From whom", lambda row: row[1].by, 200),
            ],
            key=lambda row: row[0],
        )
        self.table.row_chosen.connect(self._on_chosen)
        self.add, self.drop = QPushButton("Add a disclosure"), QPushButton("Take it away")
        self.add.clicked.connect(self._on_add)
        self.drop.clicked.connect(self._on_drop)
        self.form = PartForm(Disclosure, ("notes",))
        self.form.part_changed.connect(self._on_part)
        stacked(
            beside(label("tested by", "quiet", wrap=False), (self.byline, 1)),
            label(
                "Name every tested thing that was lent, given, sponsored or bought for the test, "
                "and what was asked in return. What is neither owned nor named is printed as "
                "not stated.",
                "quiet",
            ),
            (self.table, 1),
            beside(self.add, self.drop, STRETCH),
            card(self.form),
            STRETCH,
            spacing=8,
            on=self,
        )

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Show the disclosures; the chosen one stays chosen."""
        review = self._review = snapshot.review
        if review is None or snapshot.board is None:
            return
        self._line = writeup_line(snapshot.board)
        writeup = self._writeup = review.writeup
        if not self.byline.isModified():
            self.byline.setText(writeup.byline)
        self._place = min(self._place, max(len(writeup.disclosures) - 1, 0))
        self.table.show_rows([*enumerate(writeup.disclosures)])
        self.table.choose(self._place)
        self._show_form()

    def _show_form(self) -> None:
        there = bool(self._writeup.disclosures)
        allow(self.drop, "" if there else "Nothing is disclosed yet")
        shown = self._writeup.disclosures[self._place] if there else None
        self.form.show_part(shown, f"{self._place}")

    def _on_chosen(self, row: tuple[int, Disclosure]) -> None:
        self._place = row[0]
        self._show_form()

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
        disclosures = list(self._writeup.disclosures)
        disclosures[self._place] = part
        self._put(disclosures, f"{field} of a disclosure")

    def _on_add(self) -> None:
        self._place = len(self._writeup.disclosures)
        self._put([*self._writeup.disclosures, Disclosure(what="A tested thing")], "disclose")

    def _on_drop(self) -> None:
        disclosures = list(self._writeup.disclosures)
        gone = disclosures.pop(self._place)
        self._put(disclosures, f"take the disclosure of {gone.what} away")
