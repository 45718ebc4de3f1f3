"""The verdict page: audiences with their lines, every rig held against them, and the sentences."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QComboBox, QLineEdit, QPushButton

from blunt_ruler.core.claims.verdict import verdict_line, verdict_sentences
from blunt_ruler.core.records.edits import change_review, free_name
from blunt_ruler.core.records.pricing import Audience
from blunt_ruler.core.records.records import Contents, Review
from blunt_ruler.core.records.writeup_settings import OwnWords
from blunt_ruler.core.sentences import Sentence
from blunt_ruler.core.text import THIN, capital
from blunt_ruler.core.worth.answers import lacks_words
from blunt_ruler.core.worth.audiences import TEMPLATES
from blunt_ruler.core.worth.report import Worth
from blunt_ruler.core.worth.verdict import LineCheck, judgements
from blunt_ruler.ui.desk.chosen import Chosen
from blunt_ruler.ui.desk.jobs import Jobs
from blunt_ruler.ui.kit.figure_parts import figure_parts
from blunt_ruler.ui.kit.layouts import beside, stacked
from blunt_ruler.ui.kit.part_form import PartForm
from blunt_ruler.ui.kit.rows import Column, RowsTable
from blunt_ruler.ui.kit.tips import plain_tip
from blunt_ruler.ui.kit.widgets import Parts, allow, card, label, menu_button
from blunt_ruler.ui.worth.page import WorthPage

MARKS = {True: "✓ ", False: "✕ ", None: "? "}
SHADES = {True: "gain", False: "loss", None: "caution"}


@dataclass(frozen=True, slots=True)
class _Said:
    """A sentence of the verdict with the reviewer's own words for it."""

    sentence: Sentence
    own: OwnWords | None

    @property
    def words(self) -> str:
        """What the list shows."""
        if self.own is None:
            return self.sentence.computed
        stale = self.own.instead_of != self.sentence.computed
        changed = "  (the figures have changed since)" if stale else ""
        return f"{self.own.says}  (your words){changed}"


class VerdictPage(WorthPage):
    """For whom what makes sense."""

    def __init__(self, chosen: Chosen) -> None:
        super().__init__(chosen)
        self.jobs = Jobs(threads=1, parent=self)
        self._worth: Worth | None = None
        self._place = 0
        self._said_of = ""
        self.audience = QComboBox()
        self.audience.setAccessibleName("For whom")
        self.audience.activated.connect(self._on_audience)
        self.add = QPushButton("Add an audience")
        self.add.clicked.connect(self._on_add)
        self.drop = QPushButton("Delete")
        self.drop.clicked.connect(self._on_drop)
        self.templates = menu_button(
            "Templates",
            "Templates of audiences",
            {one.name: partial(self._put, one) for one in TEMPLATES},
        )
        bar = beside(
            label("for", "quiet", wrap=False),
            (self.audience, 1),
            self.add,
            self.templates,
            self.drop,
            spacing=6,
        )
        self.form = PartForm(Audience, blank="any", columns=4)
        self.form.part_changed.connect(self._on_lines)
        self.held = RowsTable(
            "Every rig against the lines",
            [Column("Rig", str)],
            key=lambda one: one.row.rig_id,
            head_height=46,
        )
        self.held.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.said = RowsTable(
            "Sentences of the verdict",
            [
                Column(
                    "The verdict, sentence by sentence",
                    lambda one: one.words,
                    tip=lambda one: one.sentence.computed,
                )
            ],
            key=lambda one: one.sentence.key,
        )
        self.said.wrap_words()
        self.said.row_chosen.connect(self._on_sentence)
        self.own = QLineEdit()
        self.own.setAccessibleName("The sentence in your words")
        self.own.editingFinished.connect(self._on_own)
        self.back = QPushButton("Restore the computed sentence")
        self.back.clicked.connect(lambda: self._put_own(""))
        stacked(
            bar,
            card(self.form),
            (self.held, 5),
            (self.said, 5),
            beside((self.own, 1), self.back),
            spacing=8,
            on=self,
        )

    def line(self) -> str:
        """For whom what makes sense."""
        return verdict_line(self._worth) if self._worth else ""

    def evidence(self) -> Parts | None:
        """The chosen sentence with its figures, and the chosen rig."""
        parts = super().evidence()
        one = self.chosen_sentence()
        if one is None or self.contents is None or parts is None:
            return parts
        return [
            label("THE CHOSEN SENTENCE", "heading"),
            label(one.computed, "quiet"),
            *figure_parts(one, self.contents),
            12,
            *parts,
        ]

    def fill(self, contents: Contents, worth: Worth, rig_id: str) -> None:
        """Show the review's audiences with one of them chosen."""
        self._worth = worth
        audiences = worth.review.audiences
        self._place = min(self._place, max(len(audiences) - 1, 0))
        self.audience.clear()
        for one in audiences:
            self.audience.addItem(one.name)
        self.audience.setCurrentIndex(self._place if audiences else -1)
        allow(self.drop, "" if audiences else "No audience has been added yet")
        self.form.show_part(audiences[self._place] if audiences else None, f"{self._place}")
        self._show_held(worth, audiences[self._place] if audiences else None)
        self._show_sentences(worth)

    def _show_held(self, worth: Worth, audience: Audience | None) -> None:
        if audience is None:
            asks = "Add an audience to check the rigs against its requirements"
            self.held.show_rows([], [Column(asks, str)])
            return
        judged = judgements(worth, audience)
        lines = judged[0].checks if judged else ()

        def line(place: int, check: LineCheck) -> Column:
            unit, name = _unit(check.limit), capital(check.short)
            return Column(
                f"{name}\n{unit}" if unit else name,
                lambda one: f"{MARKS[one.checks[place].holds]}{_number(one.checks[place])}",
                None,
                figures=True,
                head_tip=plain_tip(capital(check.says)),
                colour=lambda one: SHADES[one.checks[place].holds],
                tip=lambda one: _asked(one.checks[place]),
            )

        name = Column("Rig", lambda one: one.row.column.name, tip=lambda one: one.row.column.name)
        sense = Column(
            "Sense",
            lambda one: f"{MARKS[one.makes_sense]}{one.word}",
            None,
            figures=True,
            head_tip="Whether every line holds",
            colour=lambda one: SHADES[one.makes_sense],
        )
        columns = [name, *(line(place, one) for place, one in enumerate(lines)), sense]
        self.held.show_rows(judged, columns)

    def _show_sentences(self, worth: Worth) -> None:
        claims = self.claims
        self.jobs.cancel_all()
        if claims is None or claims.pairings.are_quick:
            self._put_sentences(worth, verdict_sentences(worth, claims) if claims else ())
            return
        if worth.review.id != self._said_of:
            self._put_sentences(worth, ())
        # Else they stay as they were until what is true now is worked out.
        self.jobs.run(
            "The verdict",
            lambda _step: verdict_sentences(worth, claims),
            lambda said: self._put_sentences(worth, said) if worth is self._worth else None,
            self.error_raised.emit,
        )

    def _put_sentences(self, worth: Worth, said: Sequence[Sentence]) -> None:
        self._said_of = worth.review.id
        own = {one.key: one for one in worth.review.writeup.own_words}
        self.said.show_rows([_Said(one, own.get(one.key)) for one in said])
        self._show_own()

    def chosen_sentence(self) -> Sentence | None:
        """The chosen sentence, as computed."""
        one = self.said.chosen()
        return None if one is None else one.sentence

    def _on_sentence(self, _row: object) -> None:
        self._show_own()
        self.refreshed.emit()

    def _show_own(self) -> None:
        if self.own.isModified() and self.own.hasFocus():
            return  # it is being typed
        one = self.chosen_sentence()
        allow(self.own, "" if one else "Choose a sentence first")
        own = {o.key: o.says for o in self._review().writeup.own_words} if self._worth else {}
        mine = own.get(one.key) if one else None
        self.own.setText("" if one is None else mine or one.computed)
        self.own.setCursorPosition(0)
        self.own.setPlaceholderText("Choose a sentence to say it in your words")
        allow(self.back, "" if mine is not None else "The computed sentence stands")

    def _review(self) -> Review:
        assert self._worth is not None
        return self._worth.review

    def _on_own(self) -> None:
        if self.own.isModified():
            self.own.setModified(False)
            self._put_own(self.own.text())

    def _put_own(self, words: str) -> None:
        one = self.chosen_sentence()
        if one is None or self._worth is None:
            return
        review = self._review()
        changed = review.writeup.said(one.key, words, one.computed)
        if changed != review.writeup:
            verb = "say a sentence of the verdict" if words else "take back own words"
            self.edited.emit(change_review(review, verb, writeup=changed))

    def _on_audience(self, place: int) -> None:
        self._place = place
        if self._worth is not None and self.contents is not None:
            self.fill(self.contents, self._worth, self.chosen.rig)

    def _put_audiences(self, audiences: list[Audience], words: str) -> None:
        self.edited.emit(change_review(self._review(), words, audiences=tuple(audiences)))

    def _on_lines(self, audience: Audience, field: str) -> None:
        audiences = list(self._review().audiences)
        audiences[self._place] = audience
        self._put_audiences(audiences, f"{field} of {audience.name}")

    def _on_add(self) -> None:
        if self._worth is not None:
            count = len(self._review().audiences)
            self._put(Audience(name=f"Audience {count + 1}" if count else "Anyone"))

    def _put(self, audience: Audience) -> None:
        """Add an audience, under a name that no other has."""
        if self._worth is None:
            return
        audiences = list(self._review().audiences)
        self._place = len(audiences)
        name = free_name(audience.name, [one.name for one in audiences])
        added = audience.model_copy(update={"name": name})
        self._put_audiences([*audiences, added], "add an audience")

    def _on_drop(self) -> None:
        audiences = list(self._review().audiences)
        gone = audiences.pop(self._place)
        self._put_audiences(audiences, f"take {gone.name} away")


def _asked(check: LineCheck) -> str:
    """What a line asks, and what is not known for it."""
    way = "at most" if check.at_most else "at least"
    missing = f"; {lacks_words(check.answer.missing, 'not known')}" if check.answer.missing else ""
    return f"asked: {way} {check.limit}{missing}"


def _unit(text: str) -> str:
    """The unit of a figure, blank for a share."""
    unit = text.rpartition(THIN)[2]
    return "" if unit in ("%", text) else unit


def _number(check: LineCheck) -> str:
    """A figure without the unit that stands in its column's head."""
    text, unit = check.figure.text, _unit(check.limit)
    return text.removesuffix(f"{THIN}{unit}") if unit else text
