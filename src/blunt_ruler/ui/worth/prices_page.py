"""The prices page: the parts list of a rig, and the price of the chosen line."""

from collections.abc import Sequence

from PyQt6.QtWidgets import QPushButton, QVBoxLayout

from blunt_ruler.core.drawing.stacks import draw_stacks, stacks_height
from blunt_ruler.core.drawing.worth import cost_stacks
from blunt_ruler.core.records.edits import Edit, put
from blunt_ruler.core.records.pricing import Price
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.text import MISSING, count_text
from blunt_ruler.core.worth.answers import total
from blunt_ruler.core.worth.costs import BESIDE, Line
from blunt_ruler.core.worth.figures import money_text
from blunt_ruler.core.worth.report import Worth, WorthRow
from blunt_ruler.core.worth.sentences import prices_line
from blunt_ruler.ui.desk.chosen import Chosen
from blunt_ruler.ui.desk.snapshot import new_id
from blunt_ruler.ui.kit.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.kit.part_form import PartForm
from blunt_ruler.ui.kit.picture_view import PictureView
from blunt_ruler.ui.kit.rows import Column, RowsTable
from blunt_ruler.ui.kit.widgets import allow, card, empty, figure_row, label, scrolling
from blunt_ruler.ui.worth.page import WorthPage


def _money(line: Line) -> str:
    price = line.price
    if line.bundle:
        return f"in {line.bundle}"
    if price is None or price.amount is None:
        return MISSING
    return money_text(price.amount, price.currency)


def _owned(line: Line) -> str:
    return "yes" if line.owned else "no" if line.price is not None else MISSING


class PricesPage(WorthPage):
    """The parts list of a rig."""

    def __init__(self, chosen: Chosen) -> None:
        super().__init__(chosen)
        self._worth: Worth | None = None
        self._contents: Contents | None = None
        self._rig_id = ""
        self._line_id = ""
        self.table = RowsTable(
            "Parts list of the rig", self._columns(""), key=lambda line: line.price_id
        )
        self.table.row_chosen.connect(self._show_line)
        self.sums = QVBoxLayout()
        self.add = QPushButton("Add another item")
        self.add.clicked.connect(self._on_add)
        self.drop = QPushButton("Remove from the list")
        self.drop.clicked.connect(self._on_drop)
        self.form_head = label("", "heading", wrap=False)
        self.shared = label("", "small")
        self.form = PartForm(Price, ("name", "earlier", "notes"))
        self.form.part_changed.connect(self._on_price)
        self.picture = PictureView()
        self.picture.setAccessibleName("What each rig costs, part by part")
        self.frame = card(self.picture)
        price = scrolling(card(self.form_head, self.shared, self.form, stretch=True))
        stacked(
            self.frame,
            (self.table, 5),
            self.sums,
            beside(self.add, self.drop, STRETCH),
            (price, 6),
            spacing=8,
            on=self,
        )

    @staticmethod
    def _columns(currency: str) -> tuple[Column, ...]:
        return (
            Column(
                "What",
                lambda line: line.what,
                tip=lambda line: line.price.notes if line.price is not None else "",
            ),
            Column("Kind", lambda line: line.kind, 62, gives_up=2),
            Column("Price", _money, 96, figures=True),
            Column(
                "Count",
                lambda line: str(1 if line.price is None else line.price.count),
                56,
                figures=True,
                gives_up=3,
            ),
            Column("Owned", _owned, 62, gives_up=4),
            Column(
                "Price date",
                lambda line: (line.price.date if line.price is not None else "") or MISSING,
                104,
                gives_up=1,
            ),
            Column(
                "Comes to",
                lambda line: (
                    MISSING
                    if line.comes_to.value is None
                    else money_text(line.comes_to.value, currency)
                ),
                104,
                figures=True,
            ),
        )

    def fill(self, contents: Contents, worth: Worth, rig_id: str) -> None:
        """Show the parts list of a rig; the chosen line stays chosen."""
        fresh = self._worth is None or self._worth.currency != worth.currency
        self._contents, self._worth, self._rig_id = contents, worth, rig_id
        row = worth.row(rig_id)
        lines = row.lines if row else ()
        self.table.show_rows(lines, self._columns(worth.currency) if fresh else None)
        if not self.table.choose(self._line_id):
            self.table.choose_place(0)
        self._show_sums(row, worth.currency)
        self._line = prices_line(worth, rig_id)
        stacks = cost_stacks(worth, rig_id)
        self.picture.setAccessibleDescription("; ".join(f"{s.name} {s.says}" for s in stacks))
        self.picture.show_picture(
            lambda picture: draw_stacks(picture, stacks, worth.currency),
            {},
            stacks_height(len(stacks)),
        )
        self._show_line(self.chosen_line())

    def line(self) -> str:
        """What the chosen rig costs."""
        return self._line

    def _show_sums(self, row: WorthRow | None, currency: str) -> None:
        empty(self.sums)
        lines: Sequence[Line] = row.lines if row else ()
        if row is not None and row.then is not None and self._worth is not None:
            then = row.then
            text = (
                money_text(then.value, currency)
                if then.value is not None
                else f"not known: {', '.join(then.missing)}"
            )
            self.sums.addLayout(figure_row(f"on {self._worth.review.worth.then}", text))
        for words, parts in (
            ("still to buy", [line.comes_to for line in lines]),
            ("with what is already owned", [line.worth for line in lines]),
        ):
            summed = total(parts)
            text = (
                money_text(summed.value, currency)
                if summed.value is not None and lines
                else f"not known: {', '.join(summed.missing) or 'no parts'}"
            )
            self.sums.addLayout(figure_row(words, text))

    def chosen_line(self) -> Line | None:
        """The chosen line of the list."""
        line: Line | None = self.table.chosen()
        return line

    def _show_line(self, line: Line | None) -> None:
        beside = line is not None and line.kind == BESIDE
        allow(
            self.drop,
            "" if beside else "Parts stay with their rig: choose an added line",
        )
        allow(self.add, "" if self._rig_id else "No rig is in this review yet")
        if line is None or self._worth is None or self._contents is None:
            self.form_head.setText("NO PART IS DESCRIBED YET")
            self.shared.setText("Choose host, card, dock and link of this rig on the Bench.")
            self.form.show_part(None)
            return
        self._line_id = line.price_id
        self.form_head.setText(f"PRICE OF {line.what.upper()}")
        users = sum(
            line.price_id in (rig.host_id, rig.card_id, rig.dock_id, rig.link_id)
            for rig in self._contents.rigs.values()
        )
        self.shared.setText(
            f"Used by {count_text(users, 'rig')}: an edit changes them all." if users > 1 else ""
        )
        self.shared.setVisible(users > 1)
        for name in ("name", "covers"):
            self.form.fields[name].setVisible(line.kind == BESIDE)
        self.form.show_part(line.price or Price(id=line.price_id, currency=self._worth.currency))

    def _on_price(self, price: Price, field: str) -> None:
        line = self.chosen_line()
        name = line.what if line else "a part"
        self.edited.emit(put(f"{field} of {name}", price))

    def _on_add(self) -> None:
        if self._worth is None:
            return
        key = new_id()
        self._line_id = key
        made = Price(
            id=key, rig_id=self._rig_id, name="Another item", currency=self._worth.currency
        )
        self.edited.emit(put("add an item", made))

    def _on_drop(self) -> None:
        line = self.chosen_line()
        if line is not None and line.price is not None and line.kind == BESIDE:
            self.edited.emit(Edit(f"take {line.what} off the list", drop=(line.price,)))
