"""The table on a picture, cell by cell: what is in doubt is marked, and settled with one key."""

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QColor, QIcon, QKeyEvent, QPixmap
from PyQt6.QtWidgets import QTableWidget, QTableWidgetItem

from blunt_ruler.core.recordings.picture_table import PictureRow
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.painting import painting

DOUBT = Qt.ItemDataRole.UserRole
WIDEST = 170
MARK = 16  # pixels


def _question_mark() -> QIcon:
    image = QPixmap(MARK, MARK)
    image.fill(Qt.GlobalColor.transparent)
    with painting(image) as pen:
        pen.setFont(theme.font(theme.BODY, theme.BOLD))
        pen.setPen(QColor(theme.current().caution))
        pen.drawText(image.rect(), Qt.AlignmentFlag.AlignCenter, "?")
    return QIcon(image)


class PictureTable(QTableWidget):
    """Shows what was read of a table. Enter takes a cell in doubt as it stands and goes on to the
    next; a cell that is corrected is in doubt no longer.

    Signals:
        looked_at(PictureCell): a cell was chosen.
        settled(): a cell was settled or corrected.
    """

    looked_at = pyqtSignal(object)
    settled = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("The table on the picture")
        self.setTabKeyNavigation(False)
        self.setShowGrid(False)
        self._rows: tuple[PictureRow, ...] = ()
        self._filling = False
        self.itemChanged.connect(self._on_changed)
        self.currentCellChanged.connect(self._on_current)

    def show_rows(self, rows: Sequence[PictureRow]) -> None:
        """Show a table; the first cell in doubt is chosen."""
        self._rows = tuple(rows)
        self._filling = True
        self.setRowCount(len(rows))
        self.setColumnCount(len(rows[0]) if rows else 0)
        for at, row in enumerate(rows):
            for column, cell in enumerate(row):
                item = QTableWidgetItem(cell.text)
                if cell.is_figure:
                    side = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
                    item.setTextAlignment(side)
                self._mark(item, doubt=not cell.sure)
                self.setItem(at, column, item)
        self._filling = False
        self.resizeColumnsToContents()
        for column in range(self.columnCount()):
            self.setColumnWidth(column, min(self.columnWidth(column) + 8, WIDEST))
        self.go_on()

    def rows(self) -> list[list[str]]:
        """What the cells say, as corrected."""
        return [
            [self._item(row, column).text().strip() for column in range(self.columnCount())]
            for row in range(self.rowCount())
        ]

    @property
    def in_doubt(self) -> list[tuple[int, int]]:
        """Rows and columns of the cells that nobody has settled."""
        return [
            (row, column)
            for row in range(self.rowCount())
            for column in range(self.columnCount())
            if self._item(row, column).data(DOUBT)
        ]

    def go_on(self) -> None:
        """Choose the first cell in doubt."""
        first = next(iter(self.in_doubt), None)
        if first is not None:
            self.setCurrentCell(*first)

    def settle(self) -> None:
        """Take the chosen cell as it stands, and go on to the next in doubt."""
        item = self.currentItem()
        if item is not None and item.data(DOUBT):
            self._mark(item, doubt=False)
            self.settled.emit()
            self.go_on()

    def _item(self, row: int, column: int) -> QTableWidgetItem:
        item = self.item(row, column)
        assert item is not None
        return item

    def _mark(self, item: QTableWidgetItem, *, doubt: bool) -> None:
        """Mark a cell by a mark beside it as well as by colour, and to be heard."""
        colours = theme.current()
        was, self._filling = self._filling, True
        item.setData(DOUBT, doubt)
        item.setIcon(_question_mark() if doubt else QIcon())
        item.setForeground(QColor(colours.caution if doubt else colours.ink))
        item.setToolTip("In doubt: Enter takes it as it stands, F2 corrects it" if doubt else "")
        words = item.text() or "blank"
        heard = f"{words}, in doubt" if doubt else words
        item.setData(Qt.ItemDataRole.AccessibleTextRole, heard)
        self._filling = was

    def _on_changed(self, item: QTableWidgetItem) -> None:
        if self._filling:
            return
        self._mark(item, doubt=False)
        self.settled.emit()

    def _on_current(self, row: int, column: int, _row: int, _column: int) -> None:
        if 0 <= row < len(self._rows):
            self.looked_at.emit(self._rows[row][column])

    def keyPressEvent(self, e: QKeyEvent | None) -> None:
        enter = (Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if e is not None and e.key() in enter and self.state() is not self.State.EditingState:
            self.settle()
            e.accept()
            return
        super().keyPressEvent(e)
