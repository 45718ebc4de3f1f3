"""A pasted or dropped table before it is taken in: what every row and column becomes."""

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QButtonGroup,
    QComboBox,
    QDialog,
    QHeaderView,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QWidget,
)

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.runs.entry import entry_text
from blunt_ruler.core.runs.import_runs import parse_case
from blunt_ruler.core.runs.sheets import Known, Sheet, SheetCell, as_scores, sheet_words, understand
from blunt_ruler.core.runs.typed_cells import entry_of
from blunt_ruler.core.text import capital, count_text, list_text
from blunt_ruler.ui import theme
from blunt_ruler.ui.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.tips import plain_tip
from blunt_ruler.ui.widgets import BluntLine, label

CASE_WIDTH = 300
COLUMN_WIDTH = 150


class SheetDialog(QDialog):
    """Shows one table, and takes it in as one edit.

    Signals:
        confirmed(Sheet): take these cells in.
    """

    confirmed = pyqtSignal(object)

    def __init__(
        self,
        where: str,
        tables: Sequence[tuple[str, list[list[str]]]],
        contents: Contents,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Take a table in")
        self.resize(980, 620)
        self._where, self._tables, self._contents = where, tables, contents
        self._sheet: Sheet | None = None
        self._asks = self._asks_kind = False
        self._scored: tuple[str, ...] = ()
        self.blunt = BluntLine()
        self.sheets = QComboBox()
        self.sheets.setAccessibleName("Sheet of the workbook")
        self.sheets.addItems([name or "the table" for name, _ in tables])
        self.sheets.setVisible(len(tables) > 1)
        self.sheets.activated.connect(self._on_sheet)
        self.ways: dict[str, QPushButton] = {}
        group = QButtonGroup(self)
        for layout in ("rigs across", "rigs down"):
            button = QPushButton(capital(layout))
            button.setCheckable(True)
            button.clicked.connect(lambda _on, layout=layout: self.turn(layout))
            group.addButton(button)
            self.ways[layout] = button
        self._group = group
        self.kinds: dict[bool, QPushButton] = {}
        self._kinds = QButtonGroup(self)
        for is_score, words in ((True, "Scores"), (False, "Frame rates")):
            button = QPushButton(words)
            button.setCheckable(True)
            button.clicked.connect(lambda _on, is_score=is_score: self.choose(is_score))
            self._kinds.addButton(button)
            self.kinds[is_score] = button
        self.asks_kind = label("", "quiet", wrap=False)
        self.table = QTableWidget()
        self.table.setAccessibleName("What the table becomes")
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setTabKeyNavigation(False)
        self.table.setShowGrid(False)
        self.notes = label("", "quiet")
        self.wrong = label("", "error")
        self.take = QPushButton("Take in")
        self.take.setObjectName("primary")
        self.take.clicked.connect(self._on_take)
        leave = QPushButton("Cancel")
        leave.clicked.connect(self.reject)
        stacked(
            self.blunt,
            beside(
                self.sheets,
                *self.ways.values(),
                STRETCH,
                self.asks_kind,
                *self.kinds.values(),
                spacing=6,
            ),
            (self.table, 1),
            self.notes,
            self.wrong,
            beside(STRETCH, leave, self.take, spacing=8),
            spacing=10,
            margins=(18, 14, 18, 14),
            on=self,
        )
        self._on_sheet(self._first_with_figures())

    def _first_with_figures(self) -> int:
        for number, (_, rows) in enumerate(self._tables):
            try:
                understand(rows)
            except UserFixable:
                continue
            self.sheets.setCurrentIndex(number)
            return number
        return 0

    def _on_sheet(self, number: int) -> None:
        try:
            sheet = understand(self._tables[number][1], Known.of(self._contents))
        except UserFixable as error:
            self._sheet = None
            self.table.setRowCount(0)
            self.table.setColumnCount(0)
            self.blunt.say(f"{self._where}: {error.what}. {error.fix}.")
            self._show_ways(None)
            self._say(None)
            return
        self._asks = not sheet.sure
        self._scored = (*sheet.scores, *sheet.may_score)
        self._asks_kind = bool(sheet.may_score)
        self._show(sheet)

    def turn(self, layout: str) -> None:
        """Say whether rigs stand across or down."""
        sheet = self._sheet
        if sheet is None or sheet.turned is None:
            return
        self._asks = False
        if sheet.layout != layout:
            from dataclasses import replace

            sheet = replace(sheet.turned, turned=replace(sheet, turned=None))
            self._scored = (*sheet.scores, *sheet.may_score)
            self._asks_kind = bool(sheet.may_score)
        self._show(sheet)

    def choose(self, is_score: bool) -> None:
        """Say whether the figures that look like scores are scores, or frame rates."""
        if self._sheet is not None:
            self._asks_kind = False
            self._show(as_scores(self._sheet, self._scored if is_score else ()))

    def _show(self, sheet: Sheet) -> None:
        self._sheet = sheet
        self._show_ways(sheet)
        if self._asks:
            names = list_text(sheet.rigs[:3])
            self.blunt.say(f"Are {names} rigs, or cases? The table does not say: choose below.")
        elif self._asks_kind:
            names = list_text(sheet.may_score[:3])
            self.blunt.say(
                f"Is {names} a score, or a frame rate? Scores join no mean of games."
                if len(sheet.may_score) == 1
                else f"Are {names} scores, or frame rates? Scores join no mean of games."
            )
        else:
            self.blunt.say(f"{self._where}: {sheet_words(sheet)}.")
        self._fill(sheet)
        self._say(sheet)

    def _show_ways(self, sheet: Sheet | None) -> None:
        self._group.setExclusive(False)
        for layout, button in self.ways.items():
            button.setVisible(sheet is not None and sheet.turned is not None)
            button.setChecked(sheet is not None and not self._asks and sheet.layout == layout)
        self._group.setExclusive(True)
        self._kinds.setExclusive(False)
        for is_score, button in self.kinds.items():
            button.setVisible(sheet is not None and bool(self._scored))
            button.setChecked(
                sheet is not None and not self._asks_kind and is_score == bool(sheet.scores)
            )
        self._kinds.setExclusive(True)
        shown = sheet is not None and bool(self._scored)
        self.asks_kind.setText(f"{list_text(self._scored[:2])}:" if shown else "")
        self.asks_kind.setVisible(shown)

    def _fill(self, sheet: Sheet) -> None:
        known = {rig.name.lower() for rig in self._contents.rigs.values()}
        labels = {
            self._contents.case_label(case_id).lower(): case_id for case_id in self._contents.cases
        }
        rigs, cases = sheet.rigs, sheet.cases
        cells = {(cell.rig, cell.case): cell for cell in sheet.cells}
        table = self.table
        table.clear()
        table.setColumnCount(len(rigs))
        table.setRowCount(len(cases))
        new = "\nnew"
        table.setHorizontalHeaderLabels([f"{n}{'' if n.lower() in known else new}" for n in rigs])
        table.setVerticalHeaderLabels(
            [f"{n}{'' if _label(n).lower() in labels else '  (new)'}" for n in cases]
        )
        side, head = table.verticalHeader(), table.horizontalHeader()
        if side is not None and head is not None:
            side.setMaximumWidth(CASE_WIDTH)
            head.setDefaultSectionSize(COLUMN_WIDTH)
            head.setSectionResizeMode(QHeaderView.ResizeMode.Interactive)
        for row, case in enumerate(cases):
            for column, rig in enumerate(rigs):
                cell = cells.get((rig, case))
                if cell is not None:
                    table.setItem(row, column, self._item(cell, labels.get(_label(case).lower())))

    def _item(self, cell: SheetCell, case_id: str | None) -> QTableWidgetItem:
        """A cell: what it becomes, what stood there, and why it cannot be taken."""
        rig_id = next(
            (r.id for r in self._contents.rigs.values() if r.name.lower() == cell.rig.lower()), None
        )
        stood = entry_text(entry_of(self._contents, rig_id, case_id)) if rig_id and case_id else ""
        item = QTableWidgetItem(f"{stood} → {cell.text}" if stood else cell.text)
        item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        if self._is_wrong(cell):
            item.setForeground(QColor(theme.current().loss))
            item.setToolTip(plain_tip(cell.wrong))
        return item

    def _is_wrong(self, cell: SheetCell) -> bool:
        """Whether a cell cannot be understood, whatever the answer to an open question is."""
        return bool(cell.wrong) and not (self._asks_kind and cell.case in self._scored)

    def _say(self, sheet: Sheet | None) -> None:
        wrong = [cell for cell in sheet.cells if self._is_wrong(cell)] if sheet else []
        self.notes.setText(capital("; ".join(sheet.notes)) if sheet else "")
        self.notes.setVisible(bool(sheet and sheet.notes))
        first = wrong[0] if wrong else None
        self.wrong.setText(
            f"{first.rig}, {first.case}: {first.wrong} It stays red in its cell." if first else ""
        )
        self.wrong.setVisible(first is not None)
        count = len(sheet.sound) if sheet else 0
        self.take.setText(f"Take in {count_text(count, 'figure')}" if count else "Take in")
        why = ""
        if not count:
            why = "No cell can be taken in"
        elif self._asks:
            why = "Choose whether rigs are in columns or rows"
        elif self._asks_kind:
            why = "Choose whether these are scores or frame rates"
        self.take.setEnabled(not why)
        self.take.setToolTip(plain_tip(why))

    def _on_take(self) -> None:
        if self._sheet is not None:
            self.confirmed.emit(self._sheet)
        self.accept()


def _label(case: str) -> str:
    """A case as the logbook calls it."""
    try:
        return parse_case(case).label
    except UserFixable:
        return case
