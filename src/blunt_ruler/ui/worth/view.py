"""The Worth view: what each rig costs, draws and weighs, and for whom it makes sense."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QSizePolicy, QStackedWidget, QVBoxLayout

from blunt_ruler.core.records.pricing import WorthSettings
from blunt_ruler.core.records.records import Role
from blunt_ruler.core.sentences import Sentence
from blunt_ruler.core.worth.figures import FIGURES, WorthFigure, figure_text
from blunt_ruler.core.worth.report import Worth
from blunt_ruler.core.worth.sentences import basis_words, missing_words, worth_line
from blunt_ruler.core.worth.verdict import verdict_line
from blunt_ruler.ui.desk import Snapshot
from blunt_ruler.ui.figure_parts import figure_parts
from blunt_ruler.ui.widgets import PageBar, Stop, figure_row, label
from blunt_ruler.ui.worth.prices_page import PricesPage
from blunt_ruler.ui.worth.running_page import RunningPage
from blunt_ruler.ui.worth.value_page import ValuePage
from blunt_ruler.ui.worth.verdict_page import VerdictPage

VALUE, PRICES, RUNNING, VERDICT = "Value", "Prices", "Running", "Verdict"
PAGES = (VALUE, PRICES, RUNNING, VERDICT)
SHOWN = (
    WorthFigure.COST,
    WorthFigure.VALUE,
    WorthFigure.FRAMES,
    WorthFigure.GAINED,
    WorthFigure.PER_FRAME,
    WorthFigure.PER_GAINED,
    WorthFigure.PER_GAINED_LOW,
    WorthFigure.MONTHLY,
    WorthFigure.LOAD_W,
    WorthFigure.ENERGY_COST,
    WorthFigure.NOISE,
    WorthFigure.WEIGHT,
)


class WorthStop(Stop):
    """What each rig is worth.

    Signals:
        edit_requested(str, list): an edit by name and the records it puts.
        drop_requested(str, list): an edit by name and the records it takes away.
    """

    edit_requested = pyqtSignal(str, object)
    drop_requested = pyqtSignal(str, object)

    def __init__(self) -> None:
        super().__init__("Worth")
        self._spread: Snapshot | None = None
        self._rig_id = ""
        self._sentence: Sentence | None = None
        self.bar = PageBar(PAGES)
        self.rig = QComboBox()
        self.rig.setAccessibleName("Rig")
        self.rig.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.rig.setMaximumWidth(260)
        self.rig.activated.connect(lambda _index: self.choose(self.rig.currentData()))
        self.bar.row.addWidget(self.rig, 2)
        self.value, self.prices = ValuePage(), PricesPage()
        self.running, self.verdict = RunningPage(), VerdictPage()
        self.pages = QStackedWidget()
        for page in (self.value, self.prices, self.running, self.verdict):
            self.pages.addWidget(page)
        self.bar.page_chosen.connect(self._on_page)
        for chooser in (self.value, self.running):
            chooser.rig_chosen.connect(self.choose)
        for editor in (self.prices, self.running):
            editor.edit_requested.connect(self.edit_requested)
        self.prices.drop_requested.connect(self.drop_requested)
        self.value.against_requested.connect(self._on_against)
        self.running.settings_changed.connect(self._on_settings)
        self.verdict.review_changed.connect(
            lambda review, words: self.edit_requested.emit(words, [review])
        )
        self.verdict.sentence_chosen.connect(self._on_sentence)
        whole = QVBoxLayout()
        whole.setSpacing(9)
        whole.addWidget(self.bar)
        whole.addWidget(self.pages, 1)
        self.body.addLayout(whole, 1)

    @property
    def _worth(self) -> Worth | None:
        return self._spread.worth if self._spread else None

    def show_spread(self, spread: Snapshot | None) -> None:
        """Show the worth of the present review."""
        self._spread = spread
        worth = self._worth
        there = worth is not None and bool(worth.rows)
        for widget in (self.bar, self.pages):
            widget.setVisible(there)
        if worth is None or not there:
            self.rig.clear()
            self.say(
                "No rig is in a review yet: import a log, and its rig joins."
                if spread
                else "No logbook is open. Make a new one or open one from the menu at top left."
            )
            if self.evidence is not None:
                self.evidence.show_parts([])
            return
        self.rig.clear()
        for row in worth.rows:
            self.rig.addItem(row.column.name, row.rig_id)
        if worth.row(self._rig_id) is None:
            tested = [row.rig_id for row in worth.rows if row.column.role is Role.TESTED]
            self._rig_id = (tested or [worth.rows[0].rig_id])[0]
        self.verdict.show_worth(worth)
        self.choose(self._rig_id)

    def choose(self, rig_id: str) -> None:
        """Choose a rig for all pages."""
        spread, worth = self._spread, self._worth
        if spread is None or worth is None or worth.row(rig_id) is None:
            return
        self._rig_id = rig_id
        self.rig.setCurrentIndex(self.rig.findData(rig_id))
        self.value.show_rig(spread.contents, worth, rig_id)
        self.prices.show_rig(spread.contents, worth, rig_id)
        self.running.show_rig(spread.contents, worth, rig_id)
        self._say()
        self._show_evidence()

    def show_page(self, name: str) -> None:
        """Show a page."""
        self.bar.show_page(name)

    def _on_page(self, index: int) -> None:
        self.pages.setCurrentIndex(index)
        self._say()
        self._show_evidence()

    def _page(self) -> str:
        return PAGES[self.pages.currentIndex()]

    def _say(self) -> None:
        if self._worth is not None:
            page = self._page()
            self.say(verdict_line(self._worth) if page == VERDICT else worth_line(self._worth))

    def _show_evidence(self) -> None:
        worth = self._worth
        row = worth.row(self._rig_id) if worth else None
        if self.evidence is None or worth is None or row is None:
            return
        parts: list[object] = []
        if self._page() == VERDICT and self._sentence is not None and self._spread is not None:
            parts += [label("THE CHOSEN SENTENCE", "heading")]
            parts += [label(self._sentence.computed, "quiet")]
            parts += [*figure_parts(self._sentence, self._spread.contents), 12]
        parts += [label(row.column.name.upper(), "heading")]
        for one in SHOWN:
            text = figure_text(row.figures[one], one, worth.currency)
            parts.append(figure_row(FIGURES[one].short, text))
        own = [one for one in worth.missing if any(_concerns(one.blocks, row.column.name))]
        if own:
            parts += [12, label("NOT KNOWN", "heading")]
            parts += [label(missing_words(one), "quiet") for one in own[:6]]
        parts += [
            12,
            label("ON WHAT IT RESTS", "heading"),
            label(f"{basis_words(worth)}.", "quiet"),
        ]
        self.evidence.show_parts(parts)  # type: ignore[arg-type]

    def _on_sentence(self, sentence: Sentence) -> None:
        self._sentence = sentence
        self._show_evidence()

    def _on_settings(self, settings: WorthSettings, words: str) -> None:
        if self._worth is not None:
            review = self._worth.review.model_copy(update={"worth": settings})
            self.edit_requested.emit(words, [review])

    def _on_against(self, rig_id: str | None) -> None:
        worth = self._worth
        if worth is not None and worth.review.worth.against != rig_id:
            settings = worth.review.worth.model_copy(update={"against": rig_id})
            self._on_settings(settings, "set another rig beside")

    def apply_theme(self) -> None:
        """Take on another theme's colours."""
        self.show_spread(self._spread)


def _concerns(blocks: object, name: str) -> list[bool]:
    return [name in rigs for rigs in blocks.values()]  # type: ignore[attr-defined]
