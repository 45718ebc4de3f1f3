"""The verdict page: audiences with their lines, every rig held against them, and the sentences."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QPushButton,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from blunt_ruler.core.records.pricing import Audience
from blunt_ruler.core.records.records import Review
from blunt_ruler.core.sentences import Sentence
from blunt_ruler.core.text import THIN, capital
from blunt_ruler.core.worth.report import Worth
from blunt_ruler.core.worth.verdict import LineCheck, judgements, verdict_sentences
from blunt_ruler.ui import theme
from blunt_ruler.ui.part_form import PartForm
from blunt_ruler.ui.tables import FIGURES, table
from blunt_ruler.ui.widgets import card, label

SENTENCE_ROLE = Qt.ItemDataRole.UserRole + 9
MARKS = {True: "✓ ", False: "✕ ", None: "? "}


class VerdictPage(QWidget):
    """For whom what makes sense.

    Signals:
        review_changed(object, str): the review as it should be, and the words of the edit.
        sentence_chosen(object): a sentence whose figures should be shown.
    """

    review_changed = pyqtSignal(object, str)
    sentence_chosen = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self._worth: Worth | None = None
        self._place = 0
        self._key = ""
        self.audience = QComboBox()
        self.audience.setAccessibleName("For whom")
        self.audience.activated.connect(self._on_audience)
        self.add = QPushButton("Add an audience")
        self.add.clicked.connect(self._on_add)
        self.drop = QPushButton("Take it away")
        self.drop.clicked.connect(self._on_drop)
        bar = QHBoxLayout()
        bar.setSpacing(6)
        bar.addWidget(label("for", "quiet", wrap=False))
        bar.addWidget(self.audience, 1)
        bar.addWidget(self.add)
        bar.addWidget(self.drop)
        self.form = PartForm(Audience, blank="no line", columns=4)
        self.form.part_changed.connect(self._on_lines)
        self.held = table("Every rig against the lines", ["Rig"], [0])
        self.held.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.said = table("Sentences of the verdict", ["The verdict, sentence by sentence"], [0])
        self.said.setWordWrap(True)
        self.said.setUniformRowHeights(False)
        self.said.currentItemChanged.connect(self._on_sentence)
        self.own = QLineEdit()
        self.own.setAccessibleName("The sentence in your words")
        self.own.editingFinished.connect(self._on_own)
        self.back = QPushButton("Back to the computed sentence")
        self.back.clicked.connect(lambda: self._put_own(""))
        foot = QHBoxLayout()
        foot.addWidget(self.own, 1)
        foot.addWidget(self.back)
        around = QVBoxLayout(self)
        around.setContentsMargins(0, 0, 0, 0)
        around.setSpacing(8)
        around.addLayout(bar)
        around.addWidget(card(self.form))
        around.addWidget(self.held, 5)
        around.addWidget(self.said, 5)
        around.addLayout(foot)

    def show_worth(self, worth: Worth) -> None:
        """Show the review's audiences with one of them chosen."""
        self._worth = worth
        audiences = worth.review.audiences
        self._place = min(self._place, max(len(audiences) - 1, 0))
        self.audience.clear()
        for one in audiences:
            self.audience.addItem(one.name)
        self.audience.setCurrentIndex(self._place if audiences else -1)
        self.drop.setEnabled(bool(audiences))
        self.form.show_part(audiences[self._place] if audiences else None, f"{self._place}")
        self._show_held(worth, audiences[self._place] if audiences else None)
        self._show_sentences(worth)

    def _show_held(self, worth: Worth, audience: Audience | None) -> None:
        self.held.clear()
        if audience is None:
            self.held.setHeaderLabels(["Add an audience to hold the rigs against their lines"])
            return
        judged = judgements(worth, audience)
        lines = judged[0].checks if judged else ()
        units = [_unit(one.limit) for one in lines]
        names = [capital(one.short) for one in lines]
        named = [f"{n}\n{u}" if u else n for n, u in zip(names, units, strict=True)]
        heads = ["Rig", *named, "Sense"]
        tips = ["", *(capital(one.says) for one in lines), "Whether every line holds"]
        self.held.setColumnCount(len(heads))
        self.held.setHeaderLabels(heads)
        top, head = self.held.headerItem(), self.held.header()
        for place in range(1, len(heads)):
            if top is not None:
                top.setTextAlignment(place, FIGURES)
                top.setToolTip(place, tips[place])
            if head is not None:
                head.setSectionResizeMode(place, QHeaderView.ResizeMode.ResizeToContents)
                head.setFixedHeight(46)
        colours = theme.current()
        shade = {True: colours.gain, False: colours.loss, None: colours.caution}
        for one in judged:
            texts = [f"{MARKS[check.holds]}{_number(check)}" for check in one.checks]
            item = QTreeWidgetItem(
                [one.row.column.name, *texts, f"{MARKS[one.makes_sense]}{one.word}"]
            )
            item.setToolTip(0, one.row.column.name)
            for place, check in enumerate(one.checks, start=1):
                item.setTextAlignment(place, FIGURES)
                item.setForeground(place, QColor(shade[check.holds]))
                way = "at most" if check.at_most else "at least"
                missing = f"; {', '.join(check.answer.missing)} is not known"
                item.setToolTip(
                    place, f"asked: {way} {check.limit}{missing if check.holds is None else ''}"
                )
            item.setTextAlignment(len(heads) - 1, FIGURES)
            item.setForeground(len(heads) - 1, QColor(shade[one.makes_sense]))
            self.held.addTopLevelItem(item)

    def _show_sentences(self, worth: Worth) -> None:
        own = {one.key: one for one in worth.review.writeup.own_words}
        self.said.blockSignals(True)
        self.said.clear()
        for one in verdict_sentences(worth):
            mine = own.get(one.key)
            words = one.computed if mine is None else f"{mine.says}  (your words)"
            if mine is not None and mine.instead_of != one.computed:
                words += "  (the figures have changed since)"
            item = QTreeWidgetItem([words])
            item.setData(0, SENTENCE_ROLE, one)
            item.setToolTip(0, one.computed)
            self.said.addTopLevelItem(item)
            if one.key == self._key:
                self.said.setCurrentItem(item)
        self.said.blockSignals(False)
        self._show_own()

    def chosen(self) -> Sentence | None:
        """The chosen sentence, as computed."""
        item = self.said.currentItem()
        return None if item is None else item.data(0, SENTENCE_ROLE)

    def _on_sentence(self, _item: object, _before: object) -> None:
        one = self.chosen()
        self._key = one.key if one else ""
        self._show_own()
        if one is not None:
            self.sentence_chosen.emit(one)

    def _show_own(self) -> None:
        one = self.chosen()
        self.own.setEnabled(one is not None)
        own = {o.key: o.says for o in self._review().writeup.own_words} if self._worth else {}
        mine = own.get(one.key) if one else None
        self.own.setText("" if one is None else mine or one.computed)
        self.own.setCursorPosition(0)
        self.own.setPlaceholderText("Choose a sentence to say it in your words")
        self.back.setEnabled(mine is not None)

    def _review(self) -> Review:
        assert self._worth is not None
        return self._worth.review

    def _on_own(self) -> None:
        if self.own.isModified():
            self.own.setModified(False)
            self._put_own(self.own.text())

    def _put_own(self, words: str) -> None:
        one = self.chosen()
        if one is None or self._worth is None:
            return
        review = self._review()
        changed = review.writeup.said(one.key, words, one.computed)
        if changed != review.writeup:
            verb = "say a sentence of the verdict" if words else "take back own words"
            self.review_changed.emit(review.model_copy(update={"writeup": changed}), verb)

    def _on_audience(self, place: int) -> None:
        self._place = place
        if self._worth is not None:
            self.show_worth(self._worth)

    def _put_audiences(self, audiences: list[Audience], words: str) -> None:
        review = self._review()
        self.review_changed.emit(review.model_copy(update={"audiences": tuple(audiences)}), words)

    def _on_lines(self, audience: object, field: str) -> None:
        audiences = list(self._review().audiences)
        audiences[self._place] = audience  # type: ignore[call-overload]
        self._put_audiences(audiences, f"{field} of {audience.name}")  # type: ignore[attr-defined]

    def _on_add(self) -> None:
        if self._worth is None:
            return
        audiences = list(self._review().audiences)
        self._place = len(audiences)
        name = "Anyone" if not audiences else f"Audience {len(audiences) + 1}"
        self._put_audiences([*audiences, Audience(name=name)], "add an audience")

    def _on_drop(self) -> None:
        audiences = list(self._review().audiences)
        gone = audiences.pop(self._place)
        self._put_audiences(audiences, f"take {gone.name} away")


def _unit(text: str) -> str:
    """The unit of a figure, blank for a share."""
    unit = text.rpartition(THIN)[2]
    return "" if unit in ("%", text) else unit


def _number(check: LineCheck) -> str:
    """A figure without the unit that stands in its column's head."""
    text, unit = check.figure.text, _unit(check.limit)
    return text.removesuffix(f"{THIN}{unit}") if unit else text
