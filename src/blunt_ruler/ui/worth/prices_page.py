"""The prices page: the parts list of a rig, and the price of the chosen line."""

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QPushButton,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from blunt_ruler.core.records.pricing import Price
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.text import MISSING, count_text
from blunt_ruler.core.worth.answers import total
from blunt_ruler.core.worth.costs import BESIDE, Line
from blunt_ruler.core.worth.figures import money_text
from blunt_ruler.core.worth.report import Worth
from blunt_ruler.ui.desk import new_id
from blunt_ruler.ui.part_form import PartForm
from blunt_ruler.ui.tables import FIGURES, table
from blunt_ruler.ui.widgets import card, empty, figure_row, label, scrolling

LINE_ROLE = Qt.ItemDataRole.UserRole + 7
HEADS = ["What", "Kind", "Price", "Count", "Owned", "Of which day", "Comes to"]


class PricesPage(QWidget):
    """The parts list of a rig.

    Signals:
        edit_requested(str, list): an edit by name and the records it puts.
        drop_requested(str, list): an edit by name and the records it takes away.
    """

    edit_requested = pyqtSignal(str, object)
    drop_requested = pyqtSignal(str, object)

    def __init__(self) -> None:
        super().__init__()
        self._worth: Worth | None = None
        self._contents: Contents | None = None
        self._rig_id = ""
        self._line_id = ""
        widths = [0, 62, 96, 56, 62, 104, 104]
        self.tree = table("Parts list of the rig", HEADS, widths, (2, 3, 6), gives_up=(5, 1, 3))
        self.tree.currentItemChanged.connect(self._on_line)
        self.sums = QVBoxLayout()
        self.add = QPushButton("Add something beside the parts")
        self.add.clicked.connect(self._on_add)
        self.drop = QPushButton("Take it off the list")
        self.drop.clicked.connect(self._on_drop)
        deeds = QHBoxLayout()
        deeds.addWidget(self.add)
        deeds.addWidget(self.drop)
        deeds.addStretch(1)
        self.form_head = label("", "heading", wrap=False)
        self.shared = label("", "small")
        self.form = PartForm(Price, ("name", "notes"))
        self.form.part_changed.connect(self._on_price)
        price = scrolling(card(self.form_head, self.shared, self.form, stretch=True))
        around = QVBoxLayout(self)
        around.setContentsMargins(0, 0, 0, 0)
        around.setSpacing(8)
        around.addWidget(self.tree, 5)
        around.addLayout(self.sums)
        around.addLayout(deeds)
        around.addWidget(price, 6)

    def show_rig(self, contents: Contents, worth: Worth, rig_id: str) -> None:
        """Show the parts list of a rig; the chosen line stays chosen."""
        self._contents, self._worth, self._rig_id = contents, worth, rig_id
        row = worth.row(rig_id)
        lines = row.lines if row else ()
        self.tree.blockSignals(True)
        self.tree.clear()
        for line in lines:
            item = QTreeWidgetItem(self._texts(line, worth.currency))
            item.setData(0, LINE_ROLE, line)
            for place in (2, 3, 6):
                item.setTextAlignment(place, FIGURES)
            if line.price is not None and line.price.notes:
                item.setToolTip(0, line.price.notes)
            self.tree.addTopLevelItem(item)
        self.tree.blockSignals(False)
        self._show_sums(lines, worth.currency)
        ids = [line.price_id for line in lines]
        place = ids.index(self._line_id) if self._line_id in ids else 0
        if lines:
            self.tree.setCurrentItem(self.tree.topLevelItem(place))
        self._show_line(lines[place] if lines else None)

    @staticmethod
    def _texts(line: Line, currency: str) -> list[str]:
        price = line.price
        amount = None if price is None else price.amount
        owned = "yes" if line.owned else "no" if price is not None else MISSING
        return [
            line.what,
            line.kind,
            MISSING if amount is None or price is None else money_text(amount, price.currency),
            str(1 if price is None else price.count),
            owned,
            (price.date if price is not None else "") or MISSING,
            MISSING if line.comes_to.value is None else money_text(line.comes_to.value, currency),
        ]

    def _show_sums(self, lines: Sequence[Line], currency: str) -> None:
        empty(self.sums)
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

    def chosen(self) -> Line | None:
        """The chosen line."""
        item = self.tree.currentItem()
        return None if item is None else item.data(0, LINE_ROLE)

    def _on_line(self, _item: object, _before: object) -> None:
        self._show_line(self.chosen())

    def _show_line(self, line: Line | None) -> None:
        self.drop.setEnabled(line is not None and line.kind == BESIDE)
        self.add.setEnabled(bool(self._rig_id))
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
        self.form.fields["name"].setVisible(line.kind == BESIDE)
        self.form.show_part(line.price or Price(id=line.price_id, currency=self._worth.currency))

    def _on_price(self, price: object, field: str) -> None:
        line = self.chosen()
        name = line.what if line else "a part"
        self.edit_requested.emit(f"{field} of {name}", [price])

    def _on_add(self) -> None:
        if self._worth is None:
            return
        key = new_id()
        self._line_id = key
        made = Price(
            id=key, rig_id=self._rig_id, name="Something beside", currency=self._worth.currency
        )
        self.edit_requested.emit("add something beside the parts", [made])

    def _on_drop(self) -> None:
        line = self.chosen()
        if line is not None and line.price is not None and line.kind == BESIDE:
            self.drop_requested.emit(f"take {line.what} off the list", [line.price])
