"""What the Write-up view wishes, done: previews composed and reports written, off the interface."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QObject, Qt, QThread
from PyQt6.QtGui import QImage, QTextDocument

from blunt_ruler.core.analysis.analyse import Analysis
from blunt_ruler.core.writeup.compose import compose
from blunt_ruler.core.writeup.corrections import Edit
from blunt_ruler.core.writeup.document import ChartKey, Document
from blunt_ruler.core.writeup.narration import narration
from blunt_ruler.core.writeup.trace import TracedFigure, traced_figures
from blunt_ruler.ui import theme
from blunt_ruler.ui.desk import Desk
from blunt_ruler.ui.jobs import Job, Jobs
from blunt_ruler.ui.notices import Banner
from blunt_ruler.ui.writeup.export_dialog import ExportDialog
from blunt_ruler.ui.writeup.view import WriteUpStop, chart_url, page_style

CHART_WIDTH = 540  # pixels in the preview
Step = Callable[[str, float], None]
Composed = tuple[Document, QTextDocument, tuple[TracedFigure, ...], str]


class WriteUpDeeds(QObject):
    """Between the Write-up view and the desk."""

    def __init__(self, writeup: WriteUpStop, desk: Desk, banner: Banner) -> None:
        super().__init__(writeup)
        self._view, self._desk, self._banner = writeup, desk, banner
        self._analysis: Analysis | None = desk.analysis
        self._composing: Job | None = None
        self._turn = 0  # of two previews under way only the newest is shown
        self._folder: Path | None = None
        # Two threads: a report that is being written does not hold the preview up.
        self.jobs = Jobs(threads=2, parent=self)
        writeup.review_changed.connect(lambda review, words: desk.commit(words, put=[review]))
        writeup.export_requested.connect(self.ask_export)
        writeup.shown.connect(self.refresh)
        desk.analysed.connect(self._on_analysed)
        desk.spread_changed.connect(lambda _spread: self.refresh())

    def close(self) -> None:
        """Stop what is under way."""
        self.jobs.close()

    def _on_analysed(self, analysis: Analysis) -> None:
        self._analysis = analysis
        self.refresh()

    def _latest(self) -> Analysis | None:
        """The last analysis with the review as it is now: own words and order show at once."""
        spread = self._desk.spread
        if self._analysis is None or spread is None or spread.review is None:
            return None
        if spread.board is None or spread.worth is None:
            return None
        if self._analysis.review.id != spread.review.id:
            return None
        return replace(
            self._analysis,
            contents=spread.contents,
            review=spread.review,
            board=spread.board,
            worth=spread.worth,
        )

    def refresh(self) -> None:
        """Compose the preview anew, while someone looks."""
        analysis = self._latest()
        if analysis is not None and self._view.isVisible():
            self._desk.load_edits(lambda edits: self._compose(analysis, edits))

    def _compose(self, analysis: Analysis, edits: Sequence[Edit]) -> None:
        if self._composing is not None:
            self._composing.cancel()
        self._turn += 1
        turn, style, home = self._turn, page_style(), self.thread()

        def work(step: Step) -> Composed:
            step("Composing the write-up", 0.1)
            return _composed(analysis, edits, style, home)

        def done(found: Composed) -> None:
            if turn != self._turn:
                return
            document, page, traced, sheet = found
            self._view.show_document(document, page, traced)
            self._view.show_narration(sheet)
            self._draw(analysis, document, turn)

        self._composing = self.jobs.run(
            "Composing the write-up", work, done, self._banner.show_error
        )

    def _draw(self, analysis: Analysis, document: Document, turn: int) -> None:
        colours, dots = theme.current(), self._view.devicePixelRatioF()

        def work(step: Step) -> dict[ChartKey, QImage]:
            from blunt_ruler.exchange.writeup.files import Charts

            images = {}
            charts = Charts(analysis, document, colours)
            for number, key in enumerate(charts.keys()):
                step("Drawing the charts", number / len(charts.keys()))
                sheet = charts.sheet(key)
                image = QImage.fromData(sheet.png())
                sheet.let_go()
                smooth = Qt.TransformationMode.SmoothTransformation
                images[key] = image.scaledToWidth(round(CHART_WIDTH * dots), smooth)
                images[key].setDevicePixelRatio(dots)
            return images

        def done(images: dict[ChartKey, QImage]) -> None:
            if turn == self._turn:
                self._view.show_charts(images)

        self._composing = self.jobs.run("Drawing the charts", work, done, self._banner.show_error)

    # Export

    def ask_export(self) -> None:
        """Ask for formats and a folder."""
        spread = self._desk.spread
        if spread is None or spread.review is None:
            return
        folder = self._folder or spread.path.parent / f"{spread.path.stem} report"
        self.dialog = ExportDialog(spread.review.name, folder, self._view.window())
        self.dialog.confirmed.connect(self.write)
        self.dialog.open()

    def write(self, formats: Sequence[object], bundle: bool, folder: Path) -> None:
        """Write the report; edits that are under way are in it."""
        analysis, spread = self._latest(), self._desk.spread
        if analysis is None or spread is None:
            self._banner.show_said("The runs are still being checked: try again in a moment.")
            return
        self._folder = folder
        source, review_id = spread.path, analysis.review.id

        def start(edits: Sequence[Edit]) -> None:
            def work(step: Step) -> int:
                from blunt_ruler.exchange.writeup.files import write_files

                paths = write_files(analysis, edits, folder, formats, step)  # type: ignore[arg-type]
                if bundle:
                    from blunt_ruler.logbook.bundle import BUNDLE_NAME, write_bundle

                    step("Writing the bundle", 0.9)
                    paths = (*paths, *write_bundle(source, review_id, folder / BUNDLE_NAME))
                return len(paths)

            self.jobs.run(
                "Writing the report",
                work,
                lambda count: self._banner.show_said(f"{count} files written to {folder}"),
                self._banner.show_error,
            )

        self._desk.load_edits(start)


def _composed(
    analysis: Analysis, edits: Sequence[Edit], style: str, home: QThread | None
) -> Composed:
    """A write-up, its page as a document of Qt's, its figures, and the narration."""
    from blunt_ruler.exchange.writeup.page import html_page
    from blunt_ruler.exchange.writeup.text import narration_sheet

    document = compose(analysis, edits)
    sources = {key: chart_url(key).toString() for key in document.charts}
    page = QTextDocument()
    page.setDefaultFont(theme.font(theme.SIDE))
    page.setDefaultStyleSheet(style)
    blank = QImage(CHART_WIDTH, CHART_WIDTH * 9 // 16, QImage.Format.Format_ARGB32_Premultiplied)
    blank.fill(0)
    for key in document.charts:
        page.addResource(QTextDocument.ResourceType.ImageResource, chart_url(key), blank)
    page.setHtml(html_page(document, sources, dressed=False))
    page.moveToThread(home)
    sheet = narration_sheet(document.title, narration(analysis))
    return document, page, traced_figures(analysis), sheet
