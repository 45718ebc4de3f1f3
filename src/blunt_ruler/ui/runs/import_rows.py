"""The logs of an import as rows: what was found in each, and where it belongs.

A place is a word in a table until it is clicked or typed over: hundreds of boxes take seconds.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from PyQt6.QtCore import (
    QAbstractItemModel,
    QAbstractTableModel,
    QModelIndex,
    QPointF,
    QRectF,
    Qt,
    pyqtSignal,
)
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QHeaderView,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
    QWidget,
)

from blunt_ruler.core.measure.frames import FrameFigures, LowSchool
from blunt_ruler.core.records.records import Role
from blunt_ruler.core.text import fps_text
from blunt_ruler.exchange.logs.frame_logs import LogReading
from blunt_ruler.exchange.logs.words import LogMapping
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.painting import painted_part
from blunt_ruler.ui.kit.tips import plain_tip

COLUMNS = ("Log", "Average", "1 % low", "Rig", "Role", "Case")
LOG, AVERAGE, LOW, RIG, ROLE, CASE = range(len(COLUMNS))
PLACES = {RIG: "rig", ROLE: "role", CASE: "case"}  # columns that are chosen, and of what
ROW_HEIGHT = 36


@dataclass(slots=True)
class LogRow:
    """One log, the name it is shown by, where it belongs, and `chosen`, what the reviewer chose
    over what was found.
    """

    path: Path
    shown: Path
    rig: str = ""
    role: str = str(Role.TESTED)
    case: str = ""
    reading: LogReading | None = None
    figures: FrameFigures | None = None
    error: str = ""
    chosen: LogMapping | None = None


class LogRows(QAbstractTableModel):
    """The rows of an import.

    Signals:
        placed(int): somebody said where a log belongs, in this column.
    """

    placed = pyqtSignal(int)

    def __init__(self, rows: Sequence[LogRow], school: LowSchool) -> None:
        super().__init__()
        self.rows = rows
        self._school = school

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self.rows)

    def columnCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(COLUMNS)

    def headerData(
        self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> Any:
        if orientation is Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return COLUMNS[section]
        return None

    def flags(self, index: QModelIndex) -> Qt.ItemFlag:
        flags = super().flags(index)
        return flags | Qt.ItemFlag.ItemIsEditable if index.column() in PLACES else flags

    def text(self, row: int, column: int) -> str:
        """What stands in a cell."""
        one = self.rows[row]
        if column in PLACES:
            return str(getattr(one, PLACES[column]))
        if column == LOG:
            return one.error or str(one.shown)
        if column == LOW:
            return fps_text(one.figures.low_1.by(self._school) if one.figures else None)
        return fps_text(one.reading.average_fps if one.reading else None)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        row, column = index.row(), index.column()
        match role:
            case Qt.ItemDataRole.DisplayRole | Qt.ItemDataRole.EditRole:
                return self.text(row, column)
            case Qt.ItemDataRole.ToolTipRole:
                one = self.rows[row]
                return plain_tip(one.error or str(one.path)) if column == LOG else None
            case Qt.ItemDataRole.TextAlignmentRole if column in (AVERAGE, LOW):
                return Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            case Qt.ItemDataRole.AccessibleTextRole:
                words = f"{COLUMNS[column]} of {self.rows[row].shown}"
                return f"{words}: {self.text(row, column)}" if column != LOG else None
        return None

    def setData(self, index: QModelIndex, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        if role != Qt.ItemDataRole.EditRole or index.column() not in PLACES:
            return False
        self.place(index.row(), index.column(), str(value))
        return True

    def place(self, row: int, column: int, words: str) -> None:
        """Say where a log belongs."""
        if words != self.text(row, column):
            setattr(self.rows[row], PLACES[column], words)
            self.show_rows(row, row)
            self.placed.emit(column)

    def place_all(self, column: int, words: str) -> None:
        """Say it of all logs at once."""
        for one in self.rows:
            setattr(one, PLACES[column], words)
        self.show_rows(0, len(self.rows) - 1)
        self.placed.emit(column)

    def show_rows(self, first: int, last: int) -> None:
        """Draw rows anew."""
        self.dataChanged.emit(self.index(first, 0), self.index(last, len(COLUMNS) - 1))


class PlaceDelegate(QStyledItemDelegate):
    """A place with a mark that it can be chosen, and the box to choose or type it in."""

    def __init__(self, names: Mapping[int, Sequence[str]], parent: QWidget) -> None:
        super().__init__(parent)
        self._names = names

    @painted_part
    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        room = QRectF(option.rect).adjusted(3, 5, -3, -5)
        colours = theme.current()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        here = bool(option.state & QStyle.StateFlag.State_HasFocus)
        painter.setPen(QPen(QColor(colours.blue if here else colours.line), 2 if here else 1))
        painter.setBrush(QColor(colours.card))
        painter.drawRoundedRect(room, 4, 4)
        x, y = room.right() - 13, room.center().y() - 1
        painter.setPen(QPen(QColor(colours.steel), 1.5))
        painter.drawPolyline(
            QPolygonF([QPointF(x - 4, y - 2), QPointF(x, y + 2), QPointF(x + 4, y - 2)])
        )
        painter.setPen(QColor(colours.ink))
        words = room.adjusted(8, 0, -24, 0)
        text = painter.fontMetrics().elidedText(
            str(index.data()), Qt.TextElideMode.ElideRight, int(words.width())
        )
        painter.drawText(words, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, text)

    def createEditor(
        self, parent: QWidget | None, option: QStyleOptionViewItem, index: QModelIndex
    ) -> QWidget | None:
        box = QComboBox(parent)
        box.addItems(self._names[index.column()])
        if index.column() == ROLE:
            box.activated.connect(lambda _at: self._done(box))
        else:
            box.setEditable(True)
            box.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
            box.editTextChanged.connect(lambda _words: self.commitData.emit(box))
        box.setAccessibleName(str(index.data(Qt.ItemDataRole.AccessibleTextRole)))
        return box

    def _done(self, box: QComboBox) -> None:
        self.commitData.emit(box)
        self.closeEditor.emit(box)

    def setEditorData(self, editor: QWidget | None, index: QModelIndex) -> None:
        if isinstance(editor, QComboBox) and editor.currentText() != index.data():
            editor.blockSignals(True)
            editor.setCurrentText(str(index.data()))
            editor.blockSignals(False)
            if (line := editor.lineEdit()) is not None:
                line.selectAll()

    def setModelData(
        self, editor: QWidget | None, model: QAbstractItemModel | None, index: QModelIndex
    ) -> None:
        if isinstance(editor, QComboBox) and model is not None:
            model.setData(index, editor.currentText())

    def updateEditorGeometry(
        self, editor: QWidget | None, option: QStyleOptionViewItem, index: QModelIndex
    ) -> None:
        if editor is not None:
            editor.setGeometry(option.rect.adjusted(3, 4, -3, -4))


class LogTable(QTableView):
    """The table of the rows.

    Signals:
        row_chosen(int): another row is looked at.
    """

    row_chosen = pyqtSignal(int)

    def __init__(self, model: LogRows, names: Mapping[int, Sequence[str]]) -> None:
        super().__init__()
        self.setObjectName("boxes")
        self.setAccessibleName("Logs to import")
        model.setParent(self)  # it goes with the table and not before: nothing selects in it then
        self.setModel(model)
        self._delegate = PlaceDelegate(names, self)
        for column in PLACES:
            self.setItemDelegateForColumn(column, self._delegate)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        triggers = QAbstractItemView.EditTrigger
        self.setEditTriggers(triggers.AnyKeyPressed | triggers.EditKeyPressed)
        self.clicked.connect(self._on_clicked)
        self.setShowGrid(False)
        self.setWordWrap(False)
        side, head = self.verticalHeader(), self.horizontalHeader()
        assert side is not None
        assert head is not None
        side.hide()
        side.setDefaultSectionSize(ROW_HEIGHT)
        head.setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        for column, width in ((LOG, 240), (AVERAGE, 72), (LOW, 72), (RIG, 210), (ROLE, 130)):
            head.setSectionResizeMode(column, QHeaderView.ResizeMode.Fixed)
            head.resizeSection(column, width)
        self.setMinimumHeight(ROW_HEIGHT * min(len(model.rows), 5) + ROW_HEIGHT)

    def _on_clicked(self, index: QModelIndex) -> None:
        if index.column() not in PLACES:
            return
        self.edit(index)
        box = self.indexWidget(index)
        if isinstance(box, QComboBox) and index.column() == ROLE:
            box.showPopup()

    def currentChanged(self, current: QModelIndex, previous: QModelIndex) -> None:
        super().currentChanged(current, previous)
        if current.isValid() and current.row() != previous.row():
            self.row_chosen.emit(current.row())
