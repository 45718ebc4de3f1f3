"""Figures typed or pasted: own runs, marked as typed, or other people's published figures."""

from functools import partial

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QColor, QGuiApplication, QKeySequence, QShortcut
from PyQt6.QtWidgets import (
    QButtonGroup,
    QHBoxLayout,
    QHeaderView,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
)

from blunt_ruler.core.checks.all import runs_line
from blunt_ruler.core.records.edits import Edit, put
from blunt_ruler.core.records.records import PublishedFigure
from blunt_ruler.core.runs.typed_figures import (
    REFERENCE_COLUMNS,
    RUN_COLUMNS,
    CellError,
    errors_in,
    pasted_rows,
    reference_rows,
    typed_arrivals,
    typed_references,
)
from blunt_ruler.core.text import count_text
from blunt_ruler.logbook.store import now_text
from blunt_ruler.ui import theme
from blunt_ruler.ui.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.rows import Column, RowsTable
from blunt_ruler.ui.snapshot import Snapshot, new_id
from blunt_ruler.ui.stop import Page
from blunt_ruler.ui.widgets import label

FEWEST_ROWS = 12
OWN, PUBLISHED = "My runs", "Published elsewhere"


def _cell(place: int, row: tuple[PublishedFigure, list[str]]) -> str:
    return row[1][place]


class EntryPage(Page):
    """A grid that says of every cell whether it can stand.

    Signals:
        arrivals_ready(list): (Arrival, None) pairs to take in.
    """

    arrivals_ready = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self._snapshot: Snapshot | None = None
        self.columns = RUN_COLUMNS
        bar = QHBoxLayout()
        bar.setSpacing(6)
        group = QButtonGroup(self)
        self.kinds: dict[str, QPushButton] = {}
        for name in (OWN, PUBLISHED):
            button = QPushButton(name)
            button.setCheckable(True)
            button.clicked.connect(lambda _on, name=name: self.show_kind(name))
            group.addButton(button)
            self.kinds[name] = button
            bar.addWidget(button)
        self.kinds[OWN].setChecked(True)
        bar.addStretch(1)
        self.paste = QPushButton("Paste")
        self.paste.setToolTip("Rows from a spreadsheet or a text file (Ctrl+V in the grid)")
        self.paste.clicked.connect(self.paste_rows)
        self.clear = QPushButton("Clear")
        self.clear.clicked.connect(self._clear)
        self.take = QPushButton("Take them in")
        self.take.setObjectName("primary")
        self.take.clicked.connect(self.take_in)
        for button in (self.paste, self.clear, self.take):
            bar.addWidget(button)
        self.grid = QTableWidget()
        self.grid.setAccessibleName("Figures to take in")
        self.grid.setAlternatingRowColors(False)
        self.grid.itemChanged.connect(self._on_changed)
        shortcut = QShortcut(QKeySequence(QKeySequence.StandardKey.Paste), self.grid)
        shortcut.activated.connect(self.paste_rows)
        self.wrong = label("", "error")
        self.says = label("", "quiet")
        self.known = RowsTable(
            "References in this logbook",
            [
                Column(
                    column.heading,
                    partial(_cell, place),
                    74 if column.number else 0,
                    figures=column.number,
                )
                for place, column in enumerate(REFERENCE_COLUMNS)
            ],
            key=lambda row: row[0].id,
        )
        self.drop = QPushButton("Take the chosen reference away")
        self.drop.clicked.connect(self._on_drop)
        column = stacked(
            bar, self.says, (self.grid, 2), self.wrong, (self.known, 1), spacing=8, on=self
        )
        column.addLayout(beside(STRETCH, self.drop))
        self.show_kind(OWN)

    def show_kind(self, name: str) -> None:
        """Type own runs, or what others published."""
        self.kinds[name].setChecked(True)
        own = name == OWN
        self.columns = RUN_COLUMNS if own else REFERENCE_COLUMNS
        self.says.setText(
            "Average, lows and limits as read off a screen, or a score; each run is marked as "
            "typed. Write the case as “Title / scene / 1080p / High”."
            if own
            else "Figures that others published, with their source. They stand beside your runs "
            "and never enter a mean."
        )
        self._head_grid()
        self.grid.setRowCount(FEWEST_ROWS)
        self._clear()
        self.known.setVisible(not own)
        self.drop.setVisible(not own)
        self._show_known()

    def _head_grid(self) -> None:
        grid = self.grid
        grid.setColumnCount(len(self.columns))
        grid.setHorizontalHeaderLabels([column.heading for column in self.columns])
        head = grid.horizontalHeader()
        if head is None:
            return
        for place, column in enumerate(self.columns):
            mode = QHeaderView.ResizeMode.Fixed if column.number else QHeaderView.ResizeMode.Stretch
            head.setSectionResizeMode(place, mode)
            if column.number:
                head.resizeSection(place, 74)

    def line(self) -> str:
        """How many runs are sound."""
        if self._snapshot is None:
            return ""
        found = self._snapshot
        return runs_line(found.contents, found.review, found.checked)

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Take in what lies on the desk."""
        self._snapshot = snapshot
        self._show_known()

    def _show_known(self) -> None:
        if self._snapshot is None or self.columns is RUN_COLUMNS:
            return
        published = self._snapshot.contents.published.values()
        rows = reference_rows(self._snapshot.contents)
        self.known.show_rows([*zip(published, rows, strict=True)])
        self.drop.setEnabled(bool(rows))

    def begin(self, rig: str, case: str) -> None:
        """Start a row for a rig and case."""
        self.show_kind(OWN)
        self.grid.setItem(0, 0, QTableWidgetItem(rig))
        self.grid.setItem(0, 1, QTableWidgetItem(case))
        self.grid.setCurrentCell(0, 2)
        self.grid.setFocus()

    # Cells

    def rows(self) -> list[list[str]]:
        """What stands in the grid."""
        return [
            [
                item.text() if (item := self.grid.item(row, place)) is not None else ""
                for place in range(len(self.columns))
            ]
            for row in range(self.grid.rowCount())
        ]

    def paste_rows(self) -> None:
        """Put copied rows into the grid from the chosen row on."""
        clipboard = QGuiApplication.clipboard()
        rows = pasted_rows(clipboard.text() if clipboard else "", self.columns)
        start = max(self.grid.currentRow(), 0)
        self.grid.blockSignals(True)
        self.grid.setRowCount(max(self.grid.rowCount(), start + len(rows) + 1))
        for offset, cells in enumerate(rows):
            for place, text in enumerate(cells):
                self.grid.setItem(start + offset, place, QTableWidgetItem(text))
        self.grid.blockSignals(False)
        self._on_changed()

    def _on_changed(self, _item: object = None) -> None:
        """Mark every cell that cannot stand."""
        rows = self.rows()
        errors = {(error.row, error.column): error for error in errors_in(rows, self.columns)}
        colours = theme.current()
        self.grid.blockSignals(True)
        for row, cells in enumerate(rows):
            for place in range(len(cells)):
                error = errors.get((row, place))
                item = self.grid.item(row, place)
                if item is None:
                    if error is None:
                        continue
                    item = QTableWidgetItem("")
                    self.grid.setItem(row, place, item)
                item.setBackground(QColor(colours.side if error else colours.card))
                item.setForeground(QColor(colours.loss if error else colours.ink))
                item.setToolTip(error.says if error else "")
        self.grid.blockSignals(False)
        self._say(list(errors.values()))

    def _say(self, errors: list[CellError]) -> None:
        filled = sum(any(cell.strip() for cell in row) for row in self.rows())
        first = errors[0] if errors else None
        more = f" ({len(errors) - 1} more)" if len(errors) > 1 else ""
        self.wrong.setText(
            ""
            if first is None
            else f"Row {first.row + 1}, {self.columns[first.column].heading}: {first.says}{more}"
        )
        sound = filled - len({error.row for error in errors})
        self.take.setText(f"Take in {count_text(sound, 'row')}" if sound else "Take them in")
        self.take.setEnabled(sound > 0)

    def _clear(self) -> None:
        self.grid.clearContents()
        self._on_changed()

    def take_in(self) -> None:
        """Take the sound rows in; the others stay in the grid."""
        rows = self.rows()
        wrong = {error.row for error in errors_in(rows, self.columns)}
        sound = [row for index, row in enumerate(rows) if index not in wrong and any(row)]
        if not sound:
            return
        if self.columns is RUN_COLUMNS:
            self.arrivals_ready.emit([(one, None) for one in typed_arrivals(sound, now_text())])
        else:
            made = typed_references(sound, new_id)
            self.edited.emit(put(f"keep {count_text(len(made), 'reference')}", *made))
        left = [row for index, row in enumerate(rows) if index in wrong]
        self.grid.blockSignals(True)
        self.grid.clearContents()
        for index, cells in enumerate(left):
            for place, text in enumerate(cells):
                self.grid.setItem(index, place, QTableWidgetItem(text))
        self.grid.blockSignals(False)
        self._on_changed()

    def _on_drop(self) -> None:
        row = self.known.chosen()
        if row is not None:
            self.edited.emit(Edit(f"take away {row[0].source}", drop=(row[0],)))
