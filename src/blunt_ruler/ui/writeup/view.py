"""The Write-up view: sections in order, a live preview, disclosures, narration, and the export."""

from collections.abc import Mapping, Sequence

from PyQt6 import sip
from PyQt6.QtCore import QUrl, pyqtSignal
from PyQt6.QtGui import QImage, QShowEvent, QTextDocument, QTextOption
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QStackedWidget,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

from blunt_ruler.core.sentences import Sentence
from blunt_ruler.core.writeup.compose import writeup_line
from blunt_ruler.core.writeup.document import ChartKey, Document
from blunt_ruler.core.writeup.trace import TracedFigure
from blunt_ruler.ui import theme
from blunt_ruler.ui.desk import Snapshot
from blunt_ruler.ui.figure_parts import figure_parts
from blunt_ruler.ui.widgets import PageBar, Stop, label
from blunt_ruler.ui.writeup.disclosures import DisclosuresPage
from blunt_ruler.ui.writeup.sections import SectionList

PREVIEW, DISCLOSURES, NARRATION = "Preview", "Disclosures", "Narration"
PAGES = (PREVIEW, DISCLOSURES, NARRATION)
SAYS = "says:"


class WriteUpStop(Stop):
    """Preview and export.

    Signals:
        review_changed(object, str): the review as it should be, and the words of the edit.
        export_requested(): ask where to write the report.
        shown(): the stop came on screen; a preview is worth making.
    """

    review_changed = pyqtSignal(object, str)
    export_requested = pyqtSignal()
    shown = pyqtSignal()

    def __init__(self) -> None:
        super().__init__("Write-up")
        self._spread: Snapshot | None = None
        self._said: dict[str, Sentence] = {}
        self._traced: Mapping[tuple[str, str, str], TracedFigure] = {}
        self._key = ""
        self.bar = PageBar(PAGES)
        self.export = QPushButton("Write the report…")
        self.export.setObjectName("primary")
        self.export.clicked.connect(self.export_requested)
        self.bar.row.addWidget(self.export)
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
        self.back = QPushButton("As computed")
        self.back.setToolTip("Back to the computed sentence")
        self.back.clicked.connect(lambda: self._put_own(""))
        foot = QHBoxLayout()
        foot.addWidget(self.own, 1)
        foot.addWidget(self.back)
        right = QVBoxLayout()
        right.setSpacing(6)
        right.addWidget(self.preview, 1)
        right.addLayout(foot)
        page = QWidget()
        row = QHBoxLayout(page)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(10)
        row.addWidget(self.sections)
        row.addLayout(right, 1)
        self.disclosures = DisclosuresPage()
        self.disclosures.writeup_changed.connect(self._on_writeup)
        self.narration = QTextBrowser()
        self.narration.setAccessibleName("Narration sheet")
        self.pages = QStackedWidget()
        for one in (page, self.disclosures, self.narration):
            self.pages.addWidget(one)
        self.bar.page_chosen.connect(self.pages.setCurrentIndex)
        self.body.addWidget(self.bar)
        self.body.addWidget(self.pages, 1)
        self._show_sentence()

    def showEvent(self, a0: QShowEvent | None) -> None:
        super().showEvent(a0)
        self.shown.emit()

    def show_spread(self, spread: Snapshot | None) -> None:
        """Show the write-up's settings; the preview follows when it is composed."""
        self._spread = spread
        board = spread.board if spread else None
        ready = board is not None and bool(board.cells)
        self.export.setEnabled(ready)
        for widget in (self.bar, self.pages):
            widget.setVisible(ready)
        if board is None or not ready:
            self.say("Nothing to write up yet: the Board has no figures. Import logs first.")
            self.preview.clear()
            self.narration.clear()
            self._said = {}
            self._show_sentence()
            return
        self.say(writeup_line(board))
        self.sections.show_writeup(board.review.writeup)
        self.disclosures.show_writeup(board.review.writeup)

    def show_document(
        self, document: Document, page: QTextDocument, traced: Sequence[TracedFigure]
    ) -> None:
        """Show a composed write-up and its page; the place in it stays."""
        bar = self.preview.verticalScrollBar()
        place = bar.value() if bar is not None else 0
        self._said = {one.key: one for section in document.sections for one in section.sentences}
        self._traced = {(one.figure, one.rig, one.case): one for one in traced}
        before = self.preview.document()
        page.setParent(self.preview)
        self.preview.setDocument(page)
        if before is not None and not sip.isdeleted(before):
            before.deleteLater()  # with its charts: nobody else takes it away
        if bar is not None:
            bar.setValue(place)
        self._show_sentence()

    def show_charts(self, images: Mapping[ChartKey, QImage]) -> None:
        """Put the charts into the page."""
        page = self.preview.document()
        if page is None:
            return
        for key, image in images.items():
            page.addResource(QTextDocument.ResourceType.ImageResource, chart_url(key), image)
        page.markContentsDirty(0, page.characterCount())

    def show_narration(self, markdown: str) -> None:
        """Show the narration sheet."""
        self.narration.setMarkdown(markdown)
        self.narration.document().setDocumentMargin(14)

    def show_page(self, name: str) -> None:
        """Show a page."""
        self.bar.show_page(name)

    # A sentence and the reviewer's words for it

    def _on_link(self, url: QUrl) -> None:
        if url.toString().startswith(SAYS):
            self.choose_sentence(url.toString().removeprefix(SAYS))

    def choose_sentence(self, key: str) -> None:
        """Choose a sentence by its key."""
        self._key = key
        self._show_sentence()
        self.own.setFocus()

    def _show_sentence(self) -> None:
        one = self._said.get(self._key)
        self.own.setEnabled(one is not None)
        self.back.setEnabled(one is not None and one.own is not None)
        if not self.own.isModified() or one is None:
            self.own.setText("" if one is None else one.words)
            self.own.setCursorPosition(0)
        if self.evidence is None:
            return
        if not self._said:
            self.evidence.show_parts([])
            return
        parts: list[object] = [label("THE CHOSEN SENTENCE", "heading")]
        if one is None:
            parts.append(
                label("Choose a sentence in the preview to see the figures it rests on.", "quiet")
            )
        else:
            parts.append(label(one.words, "says"))
            if one.own is not None:
                parts.append(label(f"In your words. Computed: {one.computed}", "quiet"))
            if one.stale:
                parts.append(label("The figures have changed since you wrote it.", "coming"))
            if self._spread is not None:
                parts += figure_parts(one, self._spread.contents, self._traced)
        self.evidence.show_parts(parts)  # type: ignore[arg-type]

    def _on_own(self) -> None:
        if self.own.isModified():
            self.own.setModified(False)
            self._put_own(self.own.text())

    def _put_own(self, words: str) -> None:
        one = self._said.get(self._key)
        if one is not None and self._spread is not None and self._spread.review is not None:
            writeup = self._spread.review.writeup.said(one.key, words, one.computed)
            self._on_writeup(writeup, "say a sentence" if words else "take back own words")

    def _on_writeup(self, writeup: object, words: str) -> None:
        if self._spread is not None and self._spread.review is not None:
            review = self._spread.review
            if review.writeup != writeup:
                self.review_changed.emit(review.model_copy(update={"writeup": writeup}), words)


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
        f"th, td {{ padding: 2px 6px; font-size: 12px; }} td {{ text-align: right; }} "
        f"figcaption, caption, .mark {{ color: {colours.steel}; }} "
        f".own {{ color: {colours.caution}; }} li {{ margin: 2px 0; }}"
    )
