"""What every stop is: a blunt line, pages that are built when they are first shown, evidence.

A page takes snapshots in and says its line and its evidence; the stop shows one page at a time
and brings it up to date when it is looked at, so that nothing is worked out for a hidden one.
"""

from collections.abc import Callable, Sequence
from typing import Any

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QFontMetrics, QKeyEvent, QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import (
    QApplication,
    QButtonGroup,
    QFrame,
    QLayout,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from blunt_ruler.ui.desk.chosen import Chosen
from blunt_ruler.ui.desk.snapshot import Snapshot
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.focus_ring import first_of, focus_before, focus_last
from blunt_ruler.ui.kit.layouts import STRETCH, beside, stacked, widgets_in
from blunt_ruler.ui.kit.painting import painted
from blunt_ruler.ui.kit.sketch import Sketch
from blunt_ruler.ui.kit.widgets import BluntLine, Parts, empty

EVIDENCE_WIDTH, HANDLE_WIDTH = 262, 24
PAGE_BUTTON_ROOM = 18  # the chosen one is bold: room for its words, padding and edge


def fit_words(button: QPushButton) -> None:
    """Make room for a button's words in bold, as they are when it is chosen."""
    button.setStyleSheet("padding-left: 6px; padding-right: 6px;")
    bold = QFontMetrics(theme.font(theme.BODY, theme.SEMIBOLD))
    button.setMinimumWidth(bold.horizontalAdvance(button.text()) + PAGE_BUTTON_ROOM)


class Evidence(QFrame):
    """The right column: the sentence, what supports it, and what would settle it."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setObjectName("evidence")
        self.setFixedWidth(EVIDENCE_WIDTH)
        self.setAccessibleName(name)
        inner = QWidget()
        self.column = stacked(spacing=6, margins=(16, 15, 16, 8))
        self._lasting = stacked(spacing=0)
        stacked(self.column, self._lasting, STRETCH, spacing=0, on=inner)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setWidget(inner)
        self._whole = stacked((scroll, 1), spacing=0, on=self)
        self.stays: list[QWidget] = []

    def add_lasting(self, widget: QWidget) -> None:
        """A widget under the parts that stays, whatever they are: forms that one types into."""
        self._lasting.addWidget(widget)
        self.stays.append(widget)

    def set_foot(self, widget: QWidget) -> None:
        """A widget that stays under the column, whatever it shows."""
        self._whole.addWidget(widget)
        self.stays.append(widget)

    def show_parts(self, parts: Parts) -> None:
        """Show parts from the top. What is just being typed in the column goes on."""
        typed = self._being_typed()
        empty(self.column)
        for part in parts:
            if isinstance(part, int):
                self.column.addSpacing(part)
            elif isinstance(part, QLayout):
                self.column.addLayout(part)
            else:
                self.column.addWidget(part)
        first = first_of(*self.stays)
        if first is not None:
            focus_before(first, *widgets_in(self.column))
        if typed is None:
            return
        name, text, place = typed
        again = self.findChild(QLineEdit, name)
        if again is not None:
            again.setText(text)
            again.setModified(True)
            again.setCursorPosition(place)
            again.setFocus()

    def _being_typed(self) -> tuple[str, str, int] | None:
        """Name, text and cursor of an entry of the column that is being typed into.

        It is about to be taken away, and then it must not say that its editing is finished.
        """
        entry = QApplication.focusWidget()
        if not isinstance(entry, QLineEdit) or not self.isAncestorOf(entry):
            return None
        if not entry.objectName() or not entry.isModified():
            return None
        entry.blockSignals(True)
        typed = entry.objectName(), entry.text(), entry.cursorPosition()
        entry.setObjectName("")
        return typed


class _Handle(QToolButton):
    """The edge of the closed drawer."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("handle")
        self.setAccessibleName("Show the evidence")
        self.setToolTip("Show the evidence (F4)")
        self.setFixedWidth(HANDLE_WIDTH)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Expanding)

    def paintEvent(self, a0: QPaintEvent | None) -> None:
        super().paintEvent(a0)
        self._paint_over(a0)

    @painted
    def _paint_over(self, painter: QPainter) -> None:
        painter.setPen(QColor(theme.current().steel))
        painter.setFont(theme.font(theme.SMALL, theme.SEMIBOLD))
        painter.translate(self.width() / 2, self.height() / 2)
        painter.rotate(-90)
        room = QRectF(-120, -self.width() / 2, 240, self.width())
        painter.drawText(room, Qt.AlignmentFlag.AlignCenter, "EVIDENCE  F4")


class PageBar(QWidget):
    """Buttons that choose among the pages of a stop, and room for more on the right.

    Signals:
        page_chosen(str): the name of the chosen page.
    """

    page_chosen = pyqtSignal(str)

    def __init__(self, names: Sequence[str] = ()) -> None:
        super().__init__()
        self.row = beside(STRETCH, spacing=6, on=self)
        self._group = QButtonGroup(self)
        self.buttons: dict[str, QPushButton] = {}
        for name in names:
            self.add(name)

    def add(self, name: str) -> None:
        """Another page, behind the others."""
        button = QPushButton(name)
        button.setCheckable(True)
        button.setChecked(not self.buttons)
        fit_words(button)
        button.clicked.connect(lambda _on: self.page_chosen.emit(name))
        self._group.addButton(button)
        self.row.insertWidget(len(self.buttons), button)
        self.buttons[name] = button

    def choose(self, name: str) -> None:
        """Choose a page by its name."""
        self.buttons[name].setChecked(True)
        self.page_chosen.emit(name)

    @property
    def chosen(self) -> str:
        """The name of the chosen page."""
        return next(name for name, button in self.buttons.items() if button.isChecked())


class Page(QWidget):
    """One page of a stop.

    Signals:
        edited(Edit): this edit, please.
        made(str, MakeEdit): an edit made out of what the review then is, please, and its words.
        refreshed(): its line or its evidence is another now.
        notice_raised(str): something worth a line.
        error_raised(object): an exception to show.
    """

    edited = pyqtSignal(object)
    made = pyqtSignal(str, object)
    refreshed = pyqtSignal()
    notice_raised = pyqtSignal(str)
    error_raised = pyqtSignal(object)
    _line = ""
    lasting: QWidget | None = None  # under its evidence, and it stays: forms one types into

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Take in what lies on the desk. Called while the page is looked at."""
        raise NotImplementedError

    def line(self) -> str:
        """The blunt line while this page is looked at: what was last found, or worked out here."""
        return self._line

    def search(self) -> bool:
        """Go to where one types what is searched for; False where nothing can be searched."""
        return False

    def evidence(self) -> Parts | None:
        """What the evidence column shows; None takes the column away."""
        return None

    def apply_theme(self) -> None:
        """Other colours are in use; a snapshot follows, so only what it does not draw anew."""


class _Pages(QStackedWidget):
    """Pages of which the one on screen alone says how much room they need: a tall one that was
    looked at before would push the rows above it into the buttons.
    """

    def __init__(self) -> None:
        super().__init__()
        self.currentChanged.connect(lambda _at: self.updateGeometry())

    def minimumSizeHint(self) -> QSize:
        """What the page on screen needs."""
        page = self.currentWidget()
        return QSize() if page is None else page.minimumSizeHint()


class Stop(QWidget):
    """One stop of the rail.

    A subclass adds its pages, puts `bar` and `pages` into `body`, and says by `missing` what
    keeps it from showing anything yet. Where a choice is shared by all pages, it is `chosen`.

    Signals:
        edited(Edit): this edit, please.
        made(str, MakeEdit): an edit made out of what the review then is, please, and its words.
        notice_raised(str): something worth a line.
        error_raised(object): an exception to show.
        page_built(Page): a page is there now.
        stop_wanted(str): go to another stop, please.

    A stop with nothing to show yet draws what will be there, `sketch`, and has a button to where
    that begins: `begins_at`, the words on it and the stop.
    """

    sketch = ""
    begins_at = ("", "")

    edited = pyqtSignal(object)
    made = pyqtSignal(str, object)
    notice_raised = pyqtSignal(str)
    error_raised = pyqtSignal(object)
    page_built = pyqtSignal(object)
    stop_wanted = pyqtSignal(str)

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setObjectName("view")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAccessibleName(name)
        self.snapshot: Snapshot | None = None
        self.blunt = BluntLine()
        self.bar = PageBar()
        self.bar.page_chosen.connect(lambda _name: self._present())
        self.pages = _Pages()
        self._factories: dict[str, Callable[[], Page]] = {}
        self._built: dict[str, Page] = {}
        self._stale: set[str] = set()
        self._connects: dict[str, list[Callable[[Any], object]]] = {}
        self.chosen = Chosen(self)
        self.chosen.changed.connect(self.refresh)
        self.body = QVBoxLayout()
        self.body.setSpacing(10)
        self._nothing: QWidget | None = None  # made where a stop is empty
        self._go: QPushButton  # below what is drawn there
        self._left = left = stacked(
            (self.blunt, Qt.AlignmentFlag.AlignTop),
            (self.body, 1),
            spacing=8,
            margins=(18, 13, 16, 14),
        )
        self._around = beside((left, 1), spacing=0, on=self)
        self.evidence = Evidence(f"Evidence for {name}")
        self._around.addWidget(self.evidence)
        self.handle = _Handle()
        self.handle.clicked.connect(self.toggle_evidence)
        self.handle.hide()
        self._around.addWidget(self.handle)
        self._narrow, self._evidence_wanted, self._has_evidence = False, True, True

    # What a stop is made of

    def add_page(self, name: str, factory: Callable[[], Page]) -> None:
        """Another page, made when it is first looked at."""
        self._factories[name] = factory
        self.bar.add(name)

    def when_built(self, name: str, connect: Callable[[Any], object]) -> None:
        """Do something with a page once it is there, at once where it is."""
        if name in self._built:
            connect(self._built[name])
        else:
            self._connects.setdefault(name, []).append(connect)

    def missing(self, _snapshot: Snapshot) -> str:
        """What keeps the stop from showing anything yet, as its line; blank for nothing."""
        return ""

    def arrive(self, snapshot: Snapshot) -> None:
        """Take a snapshot into what stands beside the pages: choosers, buttons, lists."""

    def take_focus(self) -> None:
        """The window has nothing better to give the focus to."""

    def page(self, name: str) -> Page:
        """A page by its name."""
        if name not in self._built:
            page = self._factories[name]()
            page.edited.connect(self.edited)
            page.made.connect(self.made)
            page.notice_raised.connect(self.notice_raised)
            page.error_raised.connect(self.error_raised)
            page.refreshed.connect(lambda: self._on_refreshed(name))
            self.pages.addWidget(page)
            if page.lasting is not None:
                self.evidence.add_lasting(page.lasting)
            self._built[name] = page
            focus_last(*self.evidence.stays)
            self._stale.add(name)
            for connect in self._connects.get(name, ()):
                connect(page)
            self.page_built.emit(page)
        return self._built[name]

    def _on_refreshed(self, name: str) -> None:
        if self.current == name:
            self.tell()

    @property
    def current(self) -> str:
        """The name of the page that is looked at."""
        return self.bar.chosen

    # Showing

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Show what lies on the desk."""
        self.snapshot = snapshot
        missing = self.missing(snapshot)
        for widget in (self.bar, self.pages):
            widget.setVisible(not missing)
        is_known = snapshot.analysis is not None or snapshot.review is None
        self._show_nothing(bool(missing) and is_known, snapshot)
        if missing:
            self.blunt.say(missing)
            self.evidence.show_parts([])
            return
        self.arrive(snapshot)
        self.refresh()

    def begins(self, snapshot: Snapshot) -> tuple[str, str]:
        """Where that begins which is missing: the words on the button, and the stop."""
        del snapshot
        return self.begins_at

    def _show_nothing(self, on: bool, snapshot: Snapshot) -> None:
        """Draw what will be there, above the button to where it begins."""
        if on and self._nothing is None and self.sketch:
            self._go = QPushButton()
            self._go.clicked.connect(self._on_go)
            self._nothing = QWidget()
            middle = Qt.AlignmentFlag.AlignHCenter
            stacked(
                STRETCH, (Sketch(self.sketch), middle), (self._go, middle), STRETCH, STRETCH,
                spacing=16, on=self._nothing,
            )  # fmt: skip
            self._left.addWidget(self._nothing, 3)
        if self._nothing is not None:
            self._go.setText(self.begins(snapshot)[0])
            self._nothing.setVisible(on)

    def _on_go(self) -> None:
        if self.snapshot is not None:
            self.stop_wanted.emit(self.begins(self.snapshot)[1])

    def refresh(self) -> None:
        """Bring the page that is looked at up to date; the others when they are next shown."""
        self._stale = set(self._built)
        self._present()

    def show_page(self, name: str) -> None:
        """Look at a page."""
        self.bar.choose(name)

    def turn_page(self, by: int) -> None:
        """Look at the page `by` places on; the first follows the last."""
        names = list(self.bar.buttons)
        if len(names) > 1 and not self.bar.isHidden():
            self.show_page(names[(names.index(self.current) + by) % len(names)])

    def search(self) -> bool:
        """Go to where one types what is searched for; False where nothing can be searched."""
        return not self.bar.isHidden() and self.page(self.current).search()

    def apply_theme(self) -> None:
        """Other colours are in use."""
        for page in self._built.values():
            page.apply_theme()

    def _present(self) -> None:
        page = self.page(self.current)
        self.pages.setCurrentWidget(page)
        if self.snapshot is None or self.missing(self.snapshot):
            return
        if self.current in self._stale:
            self._stale.discard(self.current)
            page.show_snapshot(self.snapshot)
        self.tell()

    def line(self) -> str:
        """The blunt line: that of the page, unless a stop says one for all."""
        return self.page(self.current).line()

    def parts(self) -> Parts | None:
        """The evidence: that of the page, unless a stop has one for all."""
        return self.page(self.current).evidence()

    def tell(self) -> None:
        """Say the line of what is looked at, and show its evidence."""
        if self.snapshot is None or self.missing(self.snapshot):
            return
        self.blunt.say(self.line())
        for name, page in self._built.items():
            if page.lasting is not None:
                page.lasting.setVisible(name == self.current)
        parts = self.parts()
        self._has_evidence = parts is not None
        self._place_evidence()
        self.evidence.show_parts(parts or [])

    # The evidence: a column where there is room, else a drawer over the right edge

    def set_narrow(self, narrow: bool) -> None:
        """Keep the evidence in a drawer, or let it stand beside the pages."""
        if narrow == self._narrow:
            return
        self._narrow, self._evidence_wanted = narrow, not narrow
        if narrow:
            self._around.removeWidget(self.evidence)
        else:
            self._around.insertWidget(1, self.evidence)
        self._place_evidence()

    def toggle_evidence(self) -> None:
        """Open or close the drawer; where there is room, show or hide the column."""
        if self._has_evidence:
            self._evidence_wanted = not self._evidence_wanted
            self._place_evidence()

    def _place_evidence(self) -> None:
        shown = self._has_evidence and self._evidence_wanted
        self.handle.setVisible(self._has_evidence and (self._narrow or not shown))
        self.evidence.setVisible(shown)
        if shown and self._narrow:
            width = self.evidence.width()
            self.evidence.setGeometry(self.width() - width, 0, width, self.height())
            self.evidence.raise_()

    def resizeEvent(self, a0: QResizeEvent | None) -> None:
        super().resizeEvent(a0)
        if self._narrow:
            self._place_evidence()

    def keyPressEvent(self, a0: QKeyEvent | None) -> None:
        closes = a0 is not None and a0.key() == Qt.Key.Key_Escape and self._narrow
        if closes and self.evidence.isVisible():
            self.toggle_evidence()
        else:
            super().keyPressEvent(a0)
