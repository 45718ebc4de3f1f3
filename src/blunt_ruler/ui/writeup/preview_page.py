"""The preview page: sections in order, the report as it will be, and the reviewer's own words."""

from collections.abc import Mapping

from PyQt6 import sip
from PyQt6.QtCore import QUrl
from PyQt6.QtGui import QImage, QTextDocument, QTextOption
from PyQt6.QtWidgets import QLineEdit, QPushButton, QTextBrowser

from blunt_ruler.core.records.edits import change_review
from blunt_ruler.core.records.writeup_settings import WriteUp
from blunt_ruler.core.sentences import Sentence
from blunt_ruler.core.writeup.compose import writeup_line
from blunt_ruler.core.writeup.document import ChartKey, Document
from blunt_ruler.core.writeup.trace import TracedFigure
from blunt_ruler.ui.desk.snapshot import Snapshot
from blunt_ruler.ui.desk.stop import Page
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.figure_parts import figure_parts
from blunt_ruler.ui.kit.layouts import beside, stacked
from blunt_ruler.ui.kit.widgets import Parts, allow, label
from blunt_ruler.ui.writeup.sections import SectionList

SAYS = "says:"


class PreviewPage(Page):
    """The write-up as it will be; it follows when it is composed."""

    def __init__(self) -> None:
        super().__init__()
        self._snapshot: Snapshot | None = None
        self._said: dict[str, Sentence] = {}
        self._traced: Mapping[tuple[str, str, str], TracedFigure] = {}
        self._key = ""
        self.sections = SectionList()
        self.sections.setFixedWidth(196)
        self.sections.writeup_changed.connect(self._on_writeup)
        self.sections.section_chosen.connect(lambda key: self.preview.scrollToAnchor(key))
        self.preview = QTextBrowser()
        self.preview.setAccessibleName("Preview of the report; a sentence is a link to its figures")
        self.preview.setOpenLinks(False)
        self.preview.setPlaceholderText("Composing the write-up…")
        self.preview.setWordWrapMode(QTextOption.WrapMode.WordWrap)  # heads break between words
        self.preview.anchorClicked.connect(self._on_link)
        self.own = QLineEdit()
        self.own.setAccessibleName("The chosen sentence in your words")
        self.own.setPlaceholderText("Choose a sentence in the preview to say it in your words")
        self.own.editingFinished.connect(self._on_own)
        self.back = QPushButton("Restore")
        self.back.setToolTip("Back to the computed sentence")
        self.back.clicked.connect(lambda: self._put_own(""))
        beside(
            self.sections,
            (stacked((self.preview, 1), beside((self.own, 1), self.back), spacing=6), 1),
            spacing=10,
            on=self,
        )
        self._show_sentence()

    def line(self) -> str:
        """What can be exported."""
        snapshot = self._snapshot
        if snapshot is None or snapshot.board is None:
            return ""
        return writeup_line(
            snapshot.board, snapshot.analysis.scores.board if snapshot.analysis else None
        )

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Show the write-up's settings."""
        self._snapshot = snapshot
        if snapshot.review is not None:
            self.sections.show_writeup(snapshot.review.writeup)

    def show_document(
        self,
        document: Document,
        page: QTextDocument,
        traced: Mapping[tuple[str, str, str], TracedFigure],
    ) -> None:
        """Show a composed write-up and its page; the place in it stays."""
        bar = self.preview.verticalScrollBar()
        place = bar.value() if bar is not None else 0
        self._said = {one.key: one for section in document.sections for one in section.sentences}
        self._traced = traced
        before = self.preview.document()
        page.setParent(self.preview)
        self.preview.setDocument(page)
        if before is not None and not sip.isdeleted(before):
            before.deleteLater()  # with its charts: nobody else takes it away
        if bar is not None:
            bar.setValue(place)
        self._show_sentence()
        self.refreshed.emit()

    def show_charts(self, images: Mapping[ChartKey, QImage]) -> None:
        """Put the charts into the page."""
        page = self.preview.document()
        if page is None:
            return
        for key, image in images.items():
            page.addResource(QTextDocument.ResourceType.ImageResource, chart_url(key), image)
        viewport = self.preview.viewport()
        if viewport is not None:
            viewport.update()  # blanks of their size held their places: nothing is laid out anew

    # A sentence and the reviewer's words for it

    def _on_link(self, url: QUrl) -> None:
        if url.toString().startswith(SAYS):
            self.choose_sentence(url.toString().removeprefix(SAYS))

    def choose_sentence(self, key: str) -> None:
        """Choose a sentence by its key."""
        self._key = key
        self._show_sentence()
        self.own.setFocus()
        self.refreshed.emit()

    def _show_sentence(self) -> None:
        one = self._said.get(self._key)
        allow(self.own, "" if one else "Choose a sentence of the preview first")
        mine = one is not None and one.own is not None
        allow(self.back, "" if mine else "The computed sentence stands")
        if not self.own.isModified() or one is None:
            self.own.setText("" if one is None else one.words)
            self.own.setCursorPosition(0)

    def evidence(self) -> Parts | None:
        """The chosen sentence and the figures it rests on."""
        if not self._said or self._snapshot is None:
            return []
        one = self._said.get(self._key)
        parts: Parts = [label("THE CHOSEN SENTENCE", "heading")]
        if one is None:
            words = "Choose a sentence in the preview to see the figures it rests on."
            return [*parts, label(words, "quiet")]
        parts.append(label(one.words, "says"))
        if one.own is not None:
            parts.append(label(f"In your words. Computed: {one.computed}", "quiet"))
        if one.stale:
            parts.append(label("The figures have changed since you wrote it.", "coming"))
        return [*parts, *figure_parts(one, self._snapshot.contents, self._traced)]

    def _on_own(self) -> None:
        if self.own.isModified():
            self.own.setModified(False)
            self._put_own(self.own.text())

    def _put_own(self, words: str) -> None:
        one = self._said.get(self._key)
        review = self._snapshot.review if self._snapshot else None
        if one is not None and review is not None:
            writeup = review.writeup.said(one.key, words, one.computed)
            self._on_writeup(writeup, "say a sentence" if words else "take back own words")

    def _on_writeup(self, writeup: WriteUp, words: str) -> None:
        review = self._snapshot.review if self._snapshot else None
        if review is not None and review.writeup != writeup:
            self.edited.emit(change_review(review, words, writeup=writeup))


def chart_url(key: ChartKey) -> QUrl:
    """Where the preview's page looks for a chart."""
    return QUrl(f"chart:{key}")


def page_style() -> str:
    """The style of the preview in the present theme."""
    colours = theme.current()
    return (
        f"body {{ color: {colours.ink}; }} a {{ color: {colours.ink}; text-decoration: none; }} "
        f"h1 {{ font-size: 22px; }} h2 {{ font-size: 17px; color: {colours.ink}; }} "
        f"p.line {{ font-size: 16px; font-weight: 600; }} p.by {{ color: {colours.steel}; }} "
        f"th, td {{ padding: 2px 3px; font-size: 12px; }} td {{ text-align: right; }} "
        f"figcaption, caption, .mark {{ color: {colours.steel}; }} "
        f".own {{ color: {colours.caution}; }} li {{ margin: 2px 0; }}"
    )
