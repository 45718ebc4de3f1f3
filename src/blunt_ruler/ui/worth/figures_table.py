"""Rigs down, figures of Worth across; an unknown one is a dash and its tip says why."""

from collections.abc import Sequence

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QResizeEvent
from PyQt6.QtWidgets import QHeaderView, QSizePolicy, QTreeWidgetItem, QVBoxLayout, QWidget

from blunt_ruler.core.text import capital, list_text
from blunt_ruler.core.worth.figures import FIGURES, WorthFigure, figure_head, figure_number
from blunt_ruler.core.worth.report import Worth
from blunt_ruler.ui import theme
from blunt_ruler.ui.tables import FIGURES as RIGHT
from blunt_ruler.ui.tables import table

RIG_ROLE = Qt.ItemDataRole.UserRole + 8
BEST = "◆ "
MOST_ROWS = 8
LONG_NAME = 11  # letters that stand in one column
HEAD, COLUMN, ROW = 46, 88, 26  # pixels
NARROW = 640  # pixels
# What a narrow window gives up; the evidence has it.
LESSER = (WorthFigure.PER_FRAME, WorthFigure.MONTHLY, WorthFigure.PER_GAINED_LOW)


def two_lines(head: str) -> str:
    """A head over two lines: its unit below, or its last word and unit where it is long."""
    name, _, unit = head.partition(", ")
    if len(name) > LONG_NAME and " " in name:
        first, _, last = name.rpartition(" ")
        return f"{first}\n{last}{f', {unit}' if unit else ''}"
    return f"{name}\n{unit}" if unit else name


class FiguresTable(QWidget):
    """Figures of every rig.

    Signals:
        rig_chosen(str): this rig.
    """

    rig_chosen = pyqtSignal(str)

    def __init__(self, name: str, figures: Sequence[WorthFigure], marks: bool = False) -> None:
        super().__init__()
        self._figures, self._marks = tuple(figures), marks
        places = tuple(range(1, len(self._figures) + 1))
        heads = ["Rig", *(FIGURES[one].short for one in self._figures)]
        hides = [place for place, one in enumerate(self._figures, start=1) if one in LESSER]
        self.tree = table(name, heads, [0, *[COLUMN] * len(places)], places, hides[::-1])
        self.tree.currentItemChanged.connect(self._on_chosen)
        head = self.tree.header()
        if head is not None:
            head.setFixedHeight(HEAD)
        around = QVBoxLayout(self)
        around.setContentsMargins(0, 0, 0, 0)
        around.addWidget(self.tree)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def show_worth(self, worth: Worth, rig_id: str) -> None:
        """Show every rig with one of them chosen."""
        self.tree.blockSignals(True)
        self.tree.clear()
        heads = [capital(figure_head(one, worth.currency)) for one in self._figures]
        self.tree.setHeaderLabels(["Rig", *map(two_lines, heads)])
        top = self.tree.headerItem()
        for place, figure in enumerate(self._figures, start=1):
            if top is not None:
                top.setToolTip(place, capital(FIGURES[figure].words))
        for row in worth.rows:
            texts = [figure_number(row.figures[one], one) for one in self._figures]
            mark = BEST if self._marks and row.efficient else ""
            item = QTreeWidgetItem([f"{mark}{row.column.name}", *texts])
            item.setData(0, RIG_ROLE, row.rig_id)
            role = f"{row.column.name}, {row.column.role}"
            best = ": nothing is cheaper and faster" if row.efficient and self._marks else ""
            item.setToolTip(0, f"{role}{best}")
            item.setData(0, Qt.ItemDataRole.AccessibleTextRole, f"{role}{best}")
            for place, figure in enumerate(self._figures, start=1):
                item.setTextAlignment(place, RIGHT)
                missing = row.figures[figure].missing
                if missing:
                    item.setToolTip(place, f"{capital(list_text(missing))} is not known.")
                    item.setForeground(place, QColor(theme.current().caution))
            self.tree.addTopLevelItem(item)
            if row.rig_id == rig_id:
                self.tree.setCurrentItem(item)
        self.tree.blockSignals(False)
        self.updateGeometry()

    def sizeHint(self) -> QSize:
        rows = min(max(self.tree.topLevelItemCount(), 2), MOST_ROWS)
        return QSize(600, HEAD + ROW * rows + 4)

    def _on_chosen(self, item: QTreeWidgetItem | None, _before: object) -> None:
        if item is not None:
            self.rig_chosen.emit(item.data(0, RIG_ROLE))


class FiguresGrid(QWidget):
    """The same the other way round: figures down in full words, rigs across.

    Signals:
        rig_chosen(str): this rig.
    """

    rig_chosen = pyqtSignal(str)

    def __init__(self, name: str, figures: Sequence[WorthFigure]) -> None:
        super().__init__()
        self._figures = tuple(figures)
        self._rig_ids: list[str] = []
        self.tree = table(name, ["Figure"], [0])
        self.tree.itemClicked.connect(self._on_clicked)
        self._worth: Worth | None = None
        around = QVBoxLayout(self)
        around.setContentsMargins(0, 0, 0, 0)
        around.addWidget(self.tree)

    def resizeEvent(self, a0: QResizeEvent | None) -> None:
        super().resizeEvent(a0)
        self._name_rows()

    def _name_rows(self) -> None:
        """Figures in full words, or in short ones where there is little room."""
        if self._worth is None:
            return
        for place, figure in enumerate(self._figures):
            said = FIGURES[figure]
            unit = figure_head(figure, self._worth.currency).removeprefix(said.short)
            words = said.words if self.width() >= NARROW else said.short
            item = self.tree.topLevelItem(place)
            if item is not None:
                item.setText(0, f"{capital(words)}{unit}")
                item.setToolTip(0, f"{capital(said.words)}{unit}")

    def show_worth(self, worth: Worth, rig_id: str) -> None:
        """Show every rig; the chosen one stands in bold."""
        self._worth = worth
        self._rig_ids = [row.rig_id for row in worth.rows]
        self.tree.clear()
        grown = self.tree.columnCount() != 1 + len(worth.rows)
        self.tree.setColumnCount(1 + len(worth.rows))
        names = [row.column.name.replace(" ", "\n", 1) for row in worth.rows]
        self.tree.setHeaderLabels(["Figure", *names])
        top, head = self.tree.headerItem(), self.tree.header()
        if head is not None:
            head.setFixedHeight(HEAD)
        for place, row in enumerate(worth.rows, start=1):
            if top is not None:
                top.setTextAlignment(place, RIGHT)
                top.setToolTip(place, row.column.name)
            if head is not None and grown:
                head.setSectionResizeMode(place, QHeaderView.ResizeMode.Interactive)
                head.resizeSection(place, COLUMN - 2)
        for figure in self._figures:
            texts = [figure_number(row.figures[figure], figure) for row in worth.rows]
            item = QTreeWidgetItem(["", *texts])
            for place, row in enumerate(worth.rows, start=1):
                item.setTextAlignment(place, RIGHT)
                if row.rig_id == rig_id:
                    item.setFont(place, theme.font(theme.SIDE, theme.BOLD))
                missing = row.figures[figure].missing
                if missing:
                    item.setText(place, "unknown")
                    item.setToolTip(place, f"{capital(list_text(missing))} is not known.")
                    item.setForeground(place, QColor(theme.current().caution))
            self.tree.addTopLevelItem(item)
        self._name_rows()

    def _on_clicked(self, _item: QTreeWidgetItem, place: int) -> None:
        if 0 < place <= len(self._rig_ids):
            self.rig_chosen.emit(self._rig_ids[place - 1])
