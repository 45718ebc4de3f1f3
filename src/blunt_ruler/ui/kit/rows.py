"""Plain tables: rows of anything, columns that say what to show of a row.

One model and one view serve every table that only lists. A choice survives other rows where its
key is still there.
"""

from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass
from typing import Any

from PyQt6.QtCore import (
    QAbstractTableModel,
    QItemSelectionModel,
    QModelIndex,
    QRect,
    QSize,
    Qt,
    pyqtSignal,
)
from PyQt6.QtGui import QColor, QFont, QResizeEvent
from PyQt6.QtWidgets import QHeaderView, QStyledItemDelegate, QStyleOptionViewItem, QTreeView

from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.explained import explained
from blunt_ruler.ui.kit.tips import plain_tip

FIGURES = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
WORDS = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
NOTHING = "empty"  # what a screen reader reads of a blank cell
LEAST = 120  # pixels that a stretching column keeps where others can give way
MOST_WRAPPED = 400  # cells whose heights are measured one by one
AIR = 4  # pixels
ROW_ROLE = Qt.ItemDataRole.UserRole + 1


@dataclass(frozen=True, slots=True)
class Column:
    """What one column shows of a row.

    Attributes:
        width: in pixels; 0 stretches, None fits what is in it.
        figures: whether it holds numbers, which stand to the right.
        gives_up: a narrow window hides the column; the lowest number goes first, 0 never goes.
        colour: the name of a colour of the theme, blank for ink.
        tip, head_tip, says: tooltip, tooltip of the head, and what a screen reader reads.
        sort: what rows are sorted by, the text where it is None.
        bold: whether a row's text stands out.
    """

    head: str
    text: Callable[[Any], str]
    width: int | None = 0
    figures: bool = False
    gives_up: int = 0
    colour: Callable[[Any], str] | None = None
    tip: Callable[[Any], str] | None = None
    head_tip: str = ""
    says: Callable[[Any], str] | None = None
    sort: Callable[[Any], Any] | None = None
    bold: Callable[[Any], bool] | None = None


class _Wrapped(QStyledItemDelegate):
    """Cells as high as their words need in the width of their column: a tree view asks for the
    height of a line without a width.
    """

    def __init__(self, view: QTreeView) -> None:
        super().__init__(view)
        self._view = view

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        option.rect = QRect(0, 0, self._view.columnWidth(index.column()), 1)
        hint = super().sizeHint(option, index)
        return QSize(hint.width(), hint.height() + AIR)  # signs of other fonts are higher


class RowsModel(QAbstractTableModel):
    """Rows under columns; each row is found under ROW_ROLE."""

    def __init__(
        self,
        columns: Sequence[Column],
        key: Callable[[Any], Hashable] = lambda row: row,
    ) -> None:
        """`key` is what stays of a row when its values change."""
        super().__init__()
        self.columns = tuple(columns)
        self.rows: tuple[Any, ...] = ()
        self.key = key
        self._sorted: tuple[int, Qt.SortOrder] | None = None

    def show_rows(self, rows: Sequence[Any], columns: Sequence[Column] | None = None) -> None:
        """Show other rows, and other columns where they are given."""
        rows = self._in_order(tuple(rows))
        same = [self.key(row) for row in rows] == [self.key(row) for row in self.rows]
        if same and rows and columns is None:
            self.rows = rows
            last = self.index(len(rows) - 1, len(self.columns) - 1)
            self.dataChanged.emit(self.index(0, 0), last)
            return
        self.beginResetModel()
        self.rows = rows
        self.columns = self.columns if columns is None else tuple(columns)
        self.endResetModel()

    def sort(self, column: int, order: Qt.SortOrder = Qt.SortOrder.AscendingOrder) -> None:
        """Sort the rows by a column, and those that are shown later; -1 for as they come.

        They are sorted here and not by a model of Qt's, which asks for a key at every comparison:
        2 s for 10,000 rows.
        """
        self._sorted = (column, order) if 0 <= column < len(self.columns) else None
        self.layoutAboutToBeChanged.emit()
        rows = self._in_order(self.rows)
        place = {id(row): at for at, row in enumerate(rows)}
        before = self.persistentIndexList()
        after = [self.index(place[id(self.rows[one.row()])], one.column()) for one in before]
        self.rows = rows
        self.changePersistentIndexList(before, after)
        self.layoutChanged.emit()

    def _in_order(self, rows: tuple[Any, ...]) -> tuple[Any, ...]:
        """Rows in the order they were sorted by; equal ones stay as they come."""
        if self._sorted is None:
            return rows
        at, order = self._sorted
        column = self.columns[at]
        down = order is Qt.SortOrder.DescendingOrder
        return tuple(sorted(rows, key=column.sort or column.text, reverse=down))

    def place_of(self, key: Hashable) -> int:
        """The place of the row with a key, -1 where there is none."""
        return next((place for place, row in enumerate(self.rows) if self.key(row) == key), -1)

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(self.rows)

    def columnCount(self, parent: QModelIndex = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(self.columns)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if not index.isValid():
            return None
        row, column = self.rows[index.row()], self.columns[index.column()]
        match role:
            case Qt.ItemDataRole.DisplayRole:
                return column.text(row)
            case Qt.ItemDataRole.ToolTipRole:
                return plain_tip(column.tip(row)) or None if column.tip else None
            case Qt.ItemDataRole.AccessibleTextRole:
                return (column.says or column.text)(row) or NOTHING
            case Qt.ItemDataRole.TextAlignmentRole:
                return FIGURES if column.figures else WORDS
            case Qt.ItemDataRole.ForegroundRole:
                name = column.colour(row) if column.colour else ""
                return QColor(getattr(theme.current(), name)) if name else None
            case Qt.ItemDataRole.FontRole:
                return _bold() if column.bold and column.bold(row) else None
            case _ if role == ROW_ROLE:
                return row
        return None

    def headerData(
        self,
        section: int,
        orientation: Qt.Orientation,
        role: int = Qt.ItemDataRole.DisplayRole,
    ) -> object:
        if orientation is not Qt.Orientation.Horizontal or section >= len(self.columns):
            return None
        column = self.columns[section]
        match role:
            case Qt.ItemDataRole.DisplayRole:
                return column.head
            case Qt.ItemDataRole.ToolTipRole:
                return column.head_tip or explained(column.head) or None
            case Qt.ItemDataRole.TextAlignmentRole:
                return FIGURES if column.figures else WORDS
        return None


def _bold() -> QFont:
    return theme.font(theme.SIDE, theme.BOLD)


class RowsTable(QTreeView):
    """A table over rows whose columns give way, in a stated order, so that names stay readable.

    Signals:
        row_chosen(object): this row, by mouse or key.
        row_activated(object): this row, by Enter or a double click.
    """

    row_chosen = pyqtSignal(object)
    row_activated = pyqtSignal(object)

    def __init__(
        self,
        name: str,
        columns: Sequence[Column],
        key: Callable[[Any], Hashable] = lambda row: row,
        head_height: int | None = None,
    ) -> None:
        super().__init__()
        self.rows_model = RowsModel(columns, key)
        self.rows_model.setParent(self)
        self.setModel(self.rows_model)
        self.setAccessibleName(name)
        self.setRootIsDecorated(False)
        self.setItemsExpandable(False)
        self.setUniformRowHeights(True)
        self.activated.connect(lambda index: self.row_activated.emit(index.data(ROW_ROLE)))
        selection = self.selectionModel()
        assert selection is not None
        selection.currentRowChanged.connect(self._on_current)
        self._filling = False
        self._pressed: dict[int, int] = {}
        self._head_height = head_height
        self._size_columns()

    def show_rows(self, rows: Sequence[Any], columns: Sequence[Column] | None = None) -> None:
        """Show other rows; the chosen one stays chosen where it is still there."""
        chosen = self.chosen()
        widths = [column.width for column in self.rows_model.columns]
        self._filling = True
        if self.wordWrap():
            across = len(columns if columns is not None else self.rows_model.columns)
            self.setUniformRowHeights(len(rows) * across > MOST_WRAPPED)
        self.rows_model.show_rows(rows, columns)
        if widths != [column.width for column in self.rows_model.columns]:
            self._size_columns()  # else those that were dragged stay
        if chosen is not None:
            self.choose(self.rows_model.key(chosen))
        self._filling = False
        self.make_room()

    def wrap_words(self) -> None:
        """Let words run over several lines, in as high a row as they need; very many rows are all
        as high as the first.
        """
        self.setWordWrap(True)
        self.setUniformRowHeights(False)
        self.setItemDelegate(_Wrapped(self))

    def choose(self, key: Hashable) -> bool:
        """Choose the row with a key, without saying so; whether it is there."""
        return self.choose_place(self.rows_model.place_of(key))

    def choose_place(self, place: int) -> bool:
        """Choose the row at a place, without saying so; whether there is one."""
        if not 0 <= place < len(self.rows_model.rows):
            return False
        filling, self._filling = self._filling, True
        selection = self.selectionModel()
        if selection is not None:
            flags = QItemSelectionModel.SelectionFlag
            selection.setCurrentIndex(
                self.rows_model.index(place, 0), flags.ClearAndSelect | flags.Rows
            )
        self._filling = filling
        return True

    def chosen(self) -> Any:
        """The chosen row, None where none is."""
        place = self.currentIndex().row()
        return self.rows_model.rows[place] if 0 <= place < len(self.rows_model.rows) else None

    def texts(self) -> list[list[str]]:
        """What the table shows, row by row."""
        return [
            [column.text(row) for column in self.rows_model.columns] for row in self.rows_model.rows
        ]

    def _on_current(self, current: QModelIndex, _before: QModelIndex) -> None:
        if current.isValid() and not self._filling:
            self.row_chosen.emit(current.data(ROW_ROLE))

    def _size_columns(self) -> None:
        head = self.header()
        if head is None:
            return
        if self._head_height is not None:
            head.setFixedHeight(self._head_height)
        self._pressed.clear()
        head.setStretchLastSection(False)
        mode = QHeaderView.ResizeMode
        for place, column in enumerate(self.rows_model.columns):
            if column.width:
                head.setSectionResizeMode(place, mode.Interactive)
                head.resizeSection(place, column.width)
            else:
                fits = mode.ResizeToContents if column.width is None else mode.Stretch
                head.setSectionResizeMode(place, fits)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.make_room()
        if self.wordWrap():
            self.scheduleDelayedItemsLayout()

    def make_room(self) -> None:
        """Hide what a narrow window gives up, then press the rest together; undone with room."""
        head, view = self.header(), self.viewport()
        if head is None or view is None:
            return
        mode = QHeaderView.ResizeMode
        for place, width in self._pressed.items():
            head.setSectionResizeMode(place, mode.Interactive)
            head.resizeSection(place, width)
        self._pressed.clear()
        columns = self.rows_model.columns
        order = sorted((one.gives_up, place) for place, one in enumerate(columns) if one.gives_up)
        for _, place in order:
            self.setColumnHidden(place, False)
        modes = {place: head.sectionResizeMode(place) for place in range(head.count())}
        wanted = LEAST * sum(one is mode.Stretch for one in modes.values())

        def lack() -> int:
            fixed = [place for place, one in modes.items() if one is not mode.Stretch]
            return wanted - view.width() + sum(head.sectionSize(place) for place in fixed)

        for _, place in order:
            if lack() <= 0:
                return
            self.setColumnHidden(place, True)
        if wanted and lack() > 0:
            self._press(head, [p for p, one in modes.items() if one is mode.Interactive], lack())

    def _press(self, head: QHeaderView, places: Sequence[int], lack: int) -> None:
        """Take what stretching columns lack off others, down to what is in these."""
        spare = {
            place: head.sectionSize(place)
            - max(head.sectionSizeHint(place), self.sizeHintForColumn(place))
            for place in places
            if not head.isSectionHidden(place)
        }
        spare = {place: room for place, room in spare.items() if room > 0}
        share = min(lack / max(sum(spare.values()), 1), 1.0)
        for place, room in spare.items():
            self._pressed[place] = head.sectionSize(place)
            # Not dragged by anyone, so not remembered as a width that was given.
            head.setSectionResizeMode(place, QHeaderView.ResizeMode.Fixed)
            head.resizeSection(place, round(self._pressed[place] - share * room))
