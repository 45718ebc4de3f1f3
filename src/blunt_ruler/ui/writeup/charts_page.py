"""The tray: which charts are shown in what order, what is said to each, and for how long."""

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeySequence, QPainter, QShortcut
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QSizePolicy,
    QSpinBox,
    QWidget,
)

from blunt_ruler.core.records.edits import change_review
from blunt_ruler.core.records.narration_style import MoneyStyle, NumberStyle, Spelling, Style
from blunt_ruler.core.records.records import Review
from blunt_ruler.core.text import clock_text, count_text
from blunt_ruler.core.writeup.shots import Shot, usual_order, whole_keys
from blunt_ruler.core.writeup.spoken import seconds_of
from blunt_ruler.exchange.charts.sheet import HEIGHT, WIDTH, ChartSheet
from blunt_ruler.ui.desk.snapshot import Snapshot
from blunt_ruler.ui.desk.stop import Page
from blunt_ruler.ui.kit.layouts import STRETCH, beside, stacked
from blunt_ruler.ui.kit.painting import painted
from blunt_ruler.ui.kit.picture_view import paint_sheet
from blunt_ruler.ui.kit.widgets import Parts, allow, label

CHOICES = (("spelling", Spelling), ("money", MoneyStyle), ("numbers", NumberStyle))


class SheetView(QWidget):
    """A chart as it will be, as large as there is room."""

    def __init__(self) -> None:
        super().__init__()
        self._sheet: ChartSheet | None = None
        policy = QSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)
        self.setMinimumSize(240, 135)
        self.setAccessibleName("The chosen chart")

    def heightForWidth(self, a0: int) -> int:
        return round(a0 * HEIGHT / WIDTH)

    def show_sheet(self, sheet: ChartSheet | None) -> None:
        """Show another chart, or none."""
        self._sheet = sheet
        self.setAccessibleDescription("" if sheet is None else f"{sheet.title}. {sheet.says}")
        self.update()

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        if self._sheet is None:
            return
        scale = min(self.width() / WIDTH, self.height() / HEIGHT)
        painter.scale(scale, scale)
        paint_sheet(painter, self._sheet)


class ChartsPage(Page):
    """The tray on the left, the chosen chart and its lines on the right.

    Signals:
        shots_wanted(): every chart there is, please.
        sheet_wanted(Shot): draw this one.
        write_wanted(): ask where the charts are written.
        read_wanted(): read along.
    """

    shots_wanted = pyqtSignal()
    sheet_wanted = pyqtSignal(object)
    write_wanted = pyqtSignal()
    read_wanted = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self._review: Review | None = None
        self._shots: tuple[Shot, ...] = ()
        self._filling = False
        self.tray = QListWidget()
        self.tray.setAccessibleName("Charts in running order; tick those that are shown")
        self.tray.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.tray.setFixedWidth(270)
        self.tray.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.tray.currentItemChanged.connect(lambda _new, _old: self._on_chosen())
        self.tray.itemChanged.connect(lambda _item: self._on_order())
        model = self.tray.model()
        assert model is not None
        model.rowsMoved.connect(lambda *_moved: self._on_order())
        self.up, self.down = QPushButton("Up"), QPushButton("Down")
        self.up.setToolTip("Alt+Up")
        self.down.setToolTip("Alt+Down")
        for button, keys, by in ((self.up, "Alt+Up", -1), (self.down, "Alt+Down", 1)):
            shortcut = QShortcut(QKeySequence(keys), self)
            shortcut.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
            shortcut.activated.connect(lambda by=by: self.move_chosen(by))
            button.clicked.connect(lambda _on, by=by: self.move_chosen(by))
        self.usual = QPushButton("Usual order")
        self.usual.clicked.connect(lambda: self._put_charts(()))
        self.view = SheetView()
        self.next = QPushButton("Next sheet")
        self.next.clicked.connect(self._on_next)
        self._page = 0
        self.pace = QSpinBox()
        self.pace.setRange(60, 300)
        self.pace.setSingleStep(10)
        self.pace.setSuffix(" words a minute")
        self.pace.setButtonSymbols(QSpinBox.ButtonSymbols.NoButtons)
        self.pace.setToolTip("Up and down change it by ten")
        self.pace.setAccessibleName("Pace, words a minute")
        self.pace.editingFinished.connect(self._on_style)
        self.boxes: dict[str, QComboBox] = {}
        for name, kind in CHOICES:
            box = self.boxes[name] = QComboBox()
            box.addItems([str(one) for one in kind])
            box.setAccessibleName(f"Narration: {name}")
            box.activated.connect(lambda _place: self._on_style())
        self.write = QPushButton("Write the charts…")
        self.write.clicked.connect(self.write_wanted)
        self.read = QPushButton("Read along")
        self.read.setToolTip("Full screen: the lines to read, with their charts (F5)")
        self.read.clicked.connect(self.read_wanted)
        left = stacked(
            (self.tray, 1), beside(self.up, self.down, self.usual, STRETCH, spacing=6), spacing=7
        )
        right = stacked(
            self.view,
            beside(*self.boxes.values(), self.pace, STRETCH, spacing=6),
            STRETCH,
            beside(self.next, STRETCH, self.read, self.write, spacing=6),
            spacing=8,
        )
        beside(left, (right, 1), spacing=12, on=self)

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Show the review's tray; what its charts hold is asked for."""
        review = self._review = snapshot.review
        if review is None:
            return
        style = review.writeup.style
        self.pace.blockSignals(True)
        self.pace.setValue(style.pace)
        self.pace.blockSignals(False)
        for name, box in self.boxes.items():
            box.setCurrentText(str(getattr(style, name)))
        self.shots_wanted.emit()

    @property
    def shots(self) -> tuple[Shot, ...]:
        """Every chart there is."""
        return self._shots

    def show_shots(self, shots: Sequence[Shot]) -> None:
        """Fill the tray: chosen charts in their order, then the others."""
        review = self._review
        if review is None:
            return
        self._shots = tuple(shots)
        every = whole_keys(shots)
        chosen = [key for key in review.writeup.charts if key in every]
        if not review.writeup.charts:
            chosen = list(whole_keys(usual_order(shots)))
        at = self._chosen_key()
        self._filling = True
        self.tray.clear()
        for key in (*chosen, *(one for one in every if one not in chosen)):
            sheets = self._sheets_of(key)
            item = QListWidgetItem(self._item_words(sheets))
            item.setData(Qt.ItemDataRole.UserRole, key)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            state = Qt.CheckState.Checked if key in chosen else Qt.CheckState.Unchecked
            item.setCheckState(state)
            item.setToolTip(sheets[0].title)
            self.tray.addItem(item)
        self._filling = False
        self._choose_key(at)
        self._tell()

    def _item_words(self, sheets: Sequence[Shot]) -> str:
        pages = f", {count_text(len(sheets), 'sheet')}" if len(sheets) > 1 else ""
        seconds = sum(one.seconds(self.pace.value()) for one in sheets)
        return f"{sheets[0].title}{pages}{f' · {seconds:.0f} s' if seconds else ''}"

    def _sheets_of(self, key: str) -> list[Shot]:
        return [one for one in self._shots if one.whole_key == key]

    def _chosen_key(self) -> str:
        item = self.tray.currentItem()
        return "" if item is None else str(item.data(Qt.ItemDataRole.UserRole))

    def _choose_key(self, key: str) -> None:
        for place in range(self.tray.count()):
            item = self.tray.item(place)
            if item is not None and item.data(Qt.ItemDataRole.UserRole) == key:
                self.tray.setCurrentRow(place)
                return
        if self.tray.count():
            self.tray.setCurrentRow(0)

    def _on_chosen(self) -> None:
        if self._filling:
            return
        self._page = 0
        self._show_page()
        self.refreshed.emit()

    def _on_next(self) -> None:
        self._page += 1
        self._show_page()

    def _show_page(self) -> None:
        sheets = self._sheets_of(self._chosen_key())
        allow(self.next, "" if len(sheets) > 1 else "It has one sheet")
        if sheets:
            self.sheet_wanted.emit(sheets[self._page % len(sheets)])

    def show_sheet(self, sheet: ChartSheet) -> None:
        """Show a chart that was drawn."""
        self.view.show_sheet(sheet)

    def order(self) -> tuple[str, ...]:
        """The keys of the ticked charts, in their order."""
        items = [self.tray.item(place) for place in range(self.tray.count())]
        return tuple(
            str(item.data(Qt.ItemDataRole.UserRole))
            for item in items
            if item is not None and item.checkState() is Qt.CheckState.Checked
        )

    def move_chosen(self, by: int) -> None:
        """Move the chosen chart up or down."""
        row = self.tray.currentRow()
        to = row + by
        if row < 0 or not 0 <= to < self.tray.count():
            return
        self._filling = True
        item = self.tray.takeItem(row)
        self.tray.insertItem(to, item)
        self.tray.setCurrentRow(to)
        self._filling = False
        self._on_order()

    def _on_order(self) -> None:
        if not self._filling:
            self._put_charts(self.order())

    def _put_charts(self, charts: tuple[str, ...]) -> None:
        review = self._review
        if review is not None and charts != review.writeup.charts:
            writeup = review.writeup.model_copy(update={"charts": charts})
            self.edited.emit(change_review(review, "order the charts", writeup=writeup))

    def _on_style(self) -> None:
        review = self._review
        if review is None:
            return
        style = Style(
            spelling=Spelling(self.boxes["spelling"].currentText()),
            money=MoneyStyle(self.boxes["money"].currentText()),
            numbers=NumberStyle(self.boxes["numbers"].currentText()),
            pace=self.pace.value(),
        )
        if style != review.writeup.style:
            writeup = review.writeup.model_copy(update={"style": style})
            self.edited.emit(change_review(review, "change the narration's style", writeup=writeup))

    def _tell(self) -> None:
        chosen = [one for key in self.order() for one in self._sheets_of(key)]
        seconds = sum(one.seconds(self.pace.value()) for one in chosen)
        allow(self.write, "" if chosen else "No chart is ticked")
        allow(self.read, "" if chosen else "No chart is ticked")
        self._line = (
            f"{count_text(len(chosen), 'chart')} in running order, "
            f"{clock_text(seconds)} to read at {self.pace.value()} words a minute."
            if chosen
            else "No chart is ticked: tick those that you will show."
        )
        self.refreshed.emit()

    def evidence(self) -> Parts | None:
        """What is said to the chosen chart, each line with its seconds."""
        sheets = self._sheets_of(self._chosen_key())
        parts: Parts = [label("WHAT IS SAID TO IT", "heading")]
        lines = [line for one in sheets for line in one.lines]
        if not lines:
            return [*parts, label("Nothing: it is shown for a few seconds.", "quiet")]
        for line in lines:
            parts.append(label(f"{seconds_of(line, self.pace.value()):.1f} s", "quiet"))
            parts.append(label(line))
        return parts
