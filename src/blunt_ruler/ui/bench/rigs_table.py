"""The rigs of a logbook as rows of one strip: what the row above has too is pale.

The grid is typed into like the Board: a letter or Enter opens a cell, its names are completed,
and the row below the last one takes a new rig. Parts can be dropped on a cell.
"""

from PyQt6.QtCore import (
    QAbstractTableModel,
    QEvent,
    QMimeData,
    QModelIndex,
    Qt,
    pyqtSignal,
)
from PyQt6.QtGui import (
    QColor,
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QFont,
    QKeyEvent,
    QMouseEvent,
    QResizeEvent,
)
from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QTableView

from blunt_ruler.core.records.records import Contents, Review
from blunt_ruler.core.records.roles import Role
from blunt_ruler.core.rigs.rig_edits import PART_TABLES
from blunt_ruler.core.rigs.strip import PARTS, PICTURE_WORDS, Place, RigRow, rig_rows
from blunt_ruler.core.rigs.typed_places import likely_links, typed_says
from blunt_ruler.core.text import MISSING, capital
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.grid_editor import GridEditor, Way
from blunt_ruler.ui.kit.tips import plain_tip

PLACES = tuple(Place)
GHOST = "+ a rig: type a name"
PART_MIME = "application/x-blunt-ruler-part"
ROW = 30
TABS = {Qt.Key.Key_Tab: Way.RIGHT, Qt.Key.Key_Backtab: Way.LEFT}
ROLE_WORDS = {Role.BASE: "base", Role.REFERENCE: "ref."}


def part_mime(kind: str, part_id: str) -> QMimeData:
    """A part as it is dragged."""
    mime = QMimeData()
    mime.setData(PART_MIME, f"{kind} {part_id}".encode())
    return mime


def dragged_part(mime: QMimeData | None) -> tuple[str, str] | None:
    """The kind and id of a part that is dragged, None for anything else."""
    if mime is None or not mime.hasFormat(PART_MIME):
        return None
    kind, _, part_id = mime.data(PART_MIME).data().decode().partition(" ")
    return kind, part_id


class RigsModel(QAbstractTableModel):
    """Rows of rigs over their places, and a ghost below."""

    def __init__(self) -> None:
        super().__init__()
        self.rows: tuple[RigRow, ...] = ()
        self._roles: dict[str, str] = {}
        self.wrong: dict[tuple[str | None, Place], tuple[str, str]] = {}

    def show_rigs(self, contents: Contents, review: Review | None) -> None:
        """Show the rigs of a logbook, those of a review first."""
        rows = rig_rows(contents, review)
        self._roles = {
            seat.rig_id: ROLE_WORDS.get(seat.role, "") for seat in (review.seats if review else ())
        }
        if [row.rig_id for row in rows] == [row.rig_id for row in self.rows]:
            self.rows = rows
            last = self.index(len(rows), len(PLACES) - 1)
            self.dataChanged.emit(self.index(0, 0), last)
            return
        self.beginResetModel()
        self.rows = rows
        self.endResetModel()

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(self.rows) + 1

    def columnCount(self, parent: QModelIndex = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(PLACES)

    def is_ghost(self, index: QModelIndex) -> bool:
        """Whether a cell is of the row that takes a new rig."""
        return index.row() >= len(self.rows)

    def flags(self, index: QModelIndex) -> Qt.ItemFlag:
        found = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        place = PLACES[index.column()]
        if place is not Place.STATE and (not self.is_ghost(index) or place is Place.RIG):
            found |= Qt.ItemFlag.ItemIsEditable
        return found

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        place = PLACES[index.column()]
        colours = theme.current()
        rig = None if self.is_ghost(index) else self.rows[index.row()].rig_id
        if wrong := self.wrong.get((rig, place)):
            typed, why = wrong
            if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
                return typed
            if role == Qt.ItemDataRole.ToolTipRole:
                return plain_tip(why)
            if role == Qt.ItemDataRole.AccessibleTextRole:
                return why
            if role == Qt.ItemDataRole.ForegroundRole:
                return QColor(colours.loss)
        if rig is None:
            if place is not Place.RIG:
                says = role == Qt.ItemDataRole.AccessibleTextRole
                return f"{place} of a new rig" if says else None
            texts = (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole)
            if role in texts:
                return GHOST
            return QColor(colours.steel) if role == Qt.ItemDataRole.ForegroundRole else None
        row = self.rows[index.row()]
        words, same = row.words[index.column()], row.same[index.column()]
        match role:
            case Qt.ItemDataRole.DisplayRole:
                part = self._roles.get(row.rig_id, "") if place is Place.RIG else ""
                return f"{words}  {part}" if part else words
            case Qt.ItemDataRole.EditRole:
                return words
            case Qt.ItemDataRole.ToolTipRole:
                return plain_tip(self._tip(row, place, words))
            case Qt.ItemDataRole.AccessibleTextRole:
                kept = ", as in the row above" if same else ""
                return f"{place} of {row.words[0]}: {words}{kept}"
            case Qt.ItemDataRole.ForegroundRole:
                if same or (place is Place.RIG and not row.joined):
                    return theme.blend(colours.paper, colours.steel, 0.72 if same else 1.0)
                return QColor(colours.ink)
            case Qt.ItemDataRole.FontRole:
                return _inked() if not same and row.joined else None
        return None

    def _tip(self, row: RigRow, place: Place, words: str) -> str:
        if place is Place.RIG and not row.joined:
            return f"{words}, not in this review"
        return words

    def headerData(
        self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> object:
        if orientation is not Qt.Orientation.Horizontal:
            return None
        if role == Qt.ItemDataRole.DisplayRole:
            return str(PLACES[section])
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        return None


def _inked() -> QFont:
    return theme.font(theme.SIDE, theme.SEMIBOLD)


class RigsTable(QTableView):
    """The rows of rigs.

    Signals:
        typed(object, Place, str): at a place of this rig this was typed; None for the ghost.
        dropped(str, str, str): on this rig this kind of part was dropped, by its id.
        facts_wanted(): the chosen place has facts beside the table, and no cell to type into.
    """

    typed = pyqtSignal(object, object, str)
    dropped = pyqtSignal(str, str, str)
    facts_wanted = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.grid = RigsModel()
        self.setModel(self.grid)
        self.grid.setParent(self)  # so that the table never outlives its model
        self._contents: Contents | None = None
        self.editor: GridEditor | None = None
        self._typed_at: tuple[str | None, int] = (None, 0)  # rig and column of the open entry
        self._run_from: int | None = None  # the column where a run of Tabs began
        self.setAccessibleName("Rigs")
        self.setShowGrid(False)
        self.setWordWrap(False)
        self.setTabKeyNavigation(False)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.doubleClicked.connect(lambda index: self.open_cell(index))
        self.setAcceptDrops(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        side, head = self.verticalHeader(), self.horizontalHeader()
        assert side is not None
        assert head is not None
        side.hide()
        side.setDefaultSectionSize(ROW)
        head.setHighlightSections(False)
        head.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        head.setStretchLastSection(True)

    def show_rigs(self, contents: Contents, review: Review | None) -> None:
        """Show the rigs of a logbook."""
        self._contents = contents
        at = self.currentIndex()
        rig, column = self._row_key(at) if at.isValid() else "", at.column()
        self.grid.show_rigs(contents, review)
        if not self.currentIndex().isValid() and rig in self._rows():  # the rows are other ones
            self.setCurrentIndex(self._index(rig, column))
        if self.editor is not None:
            self.editor.setGeometry(self.visualRect(self._index(*self._typed_at)))

    def _row_key(self, index: QModelIndex) -> str | None:
        """The rig of a row, None for the ghost."""
        return None if self.grid.is_ghost(index) else self.grid.rows[index.row()].rig_id

    def _index(self, rig_id: str | None, column: int) -> QModelIndex:
        """The cell of a rig; on the ghost for None, and where the rig is gone."""
        rows = self._rows()
        row = rows.index(rig_id) if rig_id in rows else len(rows) - 1
        return self.grid.index(row, column)

    def _rows(self) -> list[str | None]:
        """The rig of every row, None for the ghost."""
        return [*(row.rig_id for row in self.grid.rows), None]

    def on_ghost(self) -> bool:
        """Whether the cursor stands where a new rig is named."""
        index = self.currentIndex()
        return index.isValid() and self.grid.is_ghost(index)

    def grow(self, by: float) -> None:
        """Rows so much higher than usual."""
        side = self.verticalHeader()
        if side is not None:
            side.setDefaultSectionSize(round(ROW * by))

    def height_wanted(self, most_rows: int) -> int:
        """How high it stands with all its rows, or with so many."""
        head = self.horizontalHeader()
        rows = min(self.grid.rowCount(), most_rows)
        side = self.verticalHeader()
        row = side.defaultSectionSize() if side is not None else ROW
        return rows * row + (head.sizeHint().height() if head is not None else 0) + 4

    def resizeEvent(self, e: QResizeEvent | None) -> None:
        super().resizeEvent(e)
        self.setColumnHidden(PLACES.index(Place.STATE), self.width() < STATE_ROOM)
        head = self.horizontalHeader()
        shown = [at for at in range(len(PLACES)) if not self.isColumnHidden(at)]
        whole = sum(SHARES[PLACES[at]] for at in shown)
        viewport = self.viewport()
        if head is None or viewport is None:
            return
        for at in shown:
            head.resizeSection(at, int(viewport.width() * SHARES[PLACES[at]] / whole))

    def keep_wrong(self, rig_id: str | None, place: Place, typed: str, why: str) -> None:
        """Keep in its cell what could not be understood, with the reason; blank lets it go."""
        if typed:
            self.grid.wrong[rig_id, place] = (typed, why)
        else:
            self.grid.wrong.pop((rig_id, place), None)
        at = self._index(rig_id, PLACES.index(place))
        self.grid.dataChanged.emit(at, at)

    # What is chosen

    def place(self) -> Place:
        """The place that is chosen."""
        index = self.currentIndex()
        return PLACES[index.column()] if index.isValid() else Place.RIG

    def current_rig(self) -> str:
        """Id of the rig that is chosen, blank on the ghost."""
        index = self.currentIndex()
        known = index.isValid() and not self.grid.is_ghost(index)
        return self.grid.rows[index.row()].rig_id if known else ""

    def selected_rigs(self) -> list[str]:
        """Ids of all selected rigs, the chosen one first."""
        selection = self.selectionModel()
        rows = selection.selectedRows() if selection is not None else []
        ids = [self.grid.rows[i.row()].rig_id for i in rows if not self.grid.is_ghost(i)]
        first = self.current_rig()
        return list(dict.fromkeys(([first] if first in ids else []) + ids))

    def choose(self, rig_id: str, place: Place) -> None:
        """Choose a rig alone, at a place."""
        row = next((i for i, one in enumerate(self.grid.rows) if one.rig_id == rig_id), -1)
        if row >= 0:
            self.setCurrentIndex(self.grid.index(row, PLACES.index(place)))

    # Typing and dropping

    def _names(self, place: Place, typed: str) -> list[str]:
        """What may be meant by what is typed at a place."""
        contents = self._contents
        if contents is None or place is Place.RIG:
            return []
        names = list(PICTURE_WORDS.values())
        if place in PARTS:
            names = [part.name for part in getattr(contents, PART_TABLES[place]).values()]
        likely = likely_links(typed) if place is Place.LINK else ()
        found = [name for name in names if typed.lower() in name.lower() and name != typed]
        return [*likely, *(name for name in found if name not in likely)]

    def open_cell(self, index: QModelIndex, text: str | None = None) -> None:
        """Type into a cell, with a text or what stands there."""
        contents = self._contents
        if index.isValid() and self.grid.is_ghost(index):
            index = self._index(None, 0)
        if contents is None or not self.grid.flags(index) & Qt.ItemFlag.ItemIsEditable:
            self.facts_wanted.emit()
            return
        place = PLACES[index.column()]
        rig = self._row_key(index)
        stands = index.data(Qt.ItemDataRole.EditRole) or ""
        said = str(stands) if text is None else text
        viewport = self.viewport()
        assert viewport is not None
        if self.editor is not None:
            self.editor.finish(Way.STAY)
        self._typed_at = (rig, index.column())
        self.editor = editor = GridEditor(
            viewport,
            self.visualRect(index),
            f"{capital(place)} as typed",
            "" if said == MISSING else said,
            lambda typed: typed_says(contents, rig, place, typed),
            lambda typed: self._names(place, typed),
        )
        if text is None:
            editor.selectAll()
        editor.left.connect(lambda typed, way: self._on_left(rig, place, typed, way))
        editor.given_up.connect(self._on_given_up)

    def _on_left(self, rig: str | None, place: Place, text: str, way: Way) -> None:
        self.editor = None
        names_new = rig is None and bool(text.strip())
        if rig is not None or names_new:
            self.typed.emit(rig, place, text)
        if names_new and (None, place) in self.grid.wrong:
            way = Way.STAY  # it stands there, red, to be put right
        if way is Way.DOWN:
            self._next_row(names_new)
        elif way is not Way.STAY:
            self._move(way)
        if way is not Way.STAY:
            self.setFocus()

    def _next_row(self, named: bool) -> None:
        """Down, to the column where a run of Tabs began; after a new name to the next one."""
        if named or self._run_from == 0:
            row = self.grid.rowCount() - 1 if named else self.currentIndex().row() + 1
            self.setCurrentIndex(self.grid.index(min(row, self.grid.rowCount() - 1), 0))
        elif self._run_from is not None:
            at = self.currentIndex()
            self.setCurrentIndex(at.siblingAtColumn(self._run_from))
            self._move(Way.DOWN)
        else:
            self._move(Way.DOWN)
        self._run_from = None

    def _move(self, way: Way) -> bool:
        """To the cell beside the chosen one; whether there is another."""
        down, right = {Way.DOWN: (1, 0), Way.UP: (-1, 0), Way.RIGHT: (0, 1), Way.LEFT: (0, -1)}[way]
        at = self.currentIndex()
        if way is Way.RIGHT and self._run_from is None:
            self._run_from = at.column()
        row = min(max(at.row() + down, 0), self.grid.rowCount() - 1)
        column = at.column() + right
        while 0 <= column < len(PLACES) and self.isColumnHidden(column):
            column += right
        if not 0 <= column < len(PLACES) or (right and self.grid.is_ghost(at)):
            return False
        if row == len(self.grid.rows) and column > 0:
            return False  # nothing but a name is typed there
        self.setCurrentIndex(self.grid.index(row, column))
        return (row, column) != (at.row(), at.column())

    def _on_given_up(self) -> None:
        self.editor = None
        self.setFocus()

    def event(self, event: QEvent | None) -> bool:
        """Tab goes through the places of a row, and on from its end."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            way = TABS.get(Qt.Key(event.key()))
            if way is not None and self.currentIndex().isValid() and self._move(way):
                return True
        return super().event(event)

    def keyPressEvent(self, e: QKeyEvent | None) -> None:
        if e is None:
            return
        index = self.currentIndex()
        plain = e.modifiers() in (Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier)
        if e.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_F2):
            self.open_cell(index)
        elif e.key() == Qt.Key.Key_Delete and self.place() in PARTS and self.current_rig():
            self.typed.emit(self.current_rig(), self.place(), "")
        elif plain and e.text().strip() and e.text().isprintable() and index.isValid():
            self.open_cell(index, e.text())
        else:
            self._run_from = None
            super().keyPressEvent(e)

    def mousePressEvent(self, e: QMouseEvent | None) -> None:
        self._run_from = None
        super().mousePressEvent(e)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None and dragged_part(event.mimeData()):
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent | None) -> None:
        if event is None:
            return
        index = self.indexAt(event.position().toPoint())
        if dragged_part(event.mimeData()) and index.isValid() and not self.grid.is_ghost(index):
            event.acceptProposedAction()
        else:
            event.ignore()

    def dropEvent(self, event: QDropEvent | None) -> None:
        if event is None:
            return
        part = dragged_part(event.mimeData())
        index = self.indexAt(event.position().toPoint())
        if part is not None and index.isValid() and not self.grid.is_ghost(index):
            self.dropped.emit(self.grid.rows[index.row()].rig_id, *part)
            event.acceptProposedAction()


STATE_ROOM = 640  # pixels
SHARES = {
    Place.RIG: 1.75,
    Place.HOST: 1.15,
    Place.LINK: 1.3,
    Place.DOCK: 0.85,
    Place.CARD: 0.85,
    Place.PICTURE: 0.85,
    Place.STATE: 0.95,
}
