"""What the Write-up wishes, done: previews composed and reports written, off the interface."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any, cast

from PyQt6.QtCore import QObject, QThread
from PyQt6.QtGui import QImage, QTextDocument

from blunt_ruler.ui.desk.controller import Controller, Hub, Offer
from blunt_ruler.ui.desk.jobs import Job
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.painting import painting

if TYPE_CHECKING:
    from blunt_ruler.core.analysis.analyse import Analysis
    from blunt_ruler.core.records.records import Contents, Review
    from blunt_ruler.core.types import Progress
    from blunt_ruler.core.writeup.corrections import PastEdit
    from blunt_ruler.core.writeup.document import ChartKey, Document
    from blunt_ruler.core.writeup.private_words import PrivateWords
    from blunt_ruler.core.writeup.trace import TracedFigure
    from blunt_ruler.exchange.charts.sheet import ChartSheet
    from blunt_ruler.exchange.documents.writeup.files import Format
    from blunt_ruler.ui.writeup.export_dialog import ExportDialog
    from blunt_ruler.ui.writeup.view import WriteUpStop

    Traced = dict[tuple[str, str, str], TracedFigure]
    Composed = tuple[Document, QTextDocument, Traced, str]

MOST_ROWS = 40  # of a table in the preview: of thousands the layout takes seconds
CHART_WIDTH = 500  # pixels: what a window of 1280 leaves, less the margins of a picture


class WriteUpController(Controller):
    """Between the Write-up and the desk."""

    name = "Write-up"

    def __init__(self, hub: Hub, parent: QObject) -> None:
        super().__init__(hub, parent)
        self._composing: Job | None = None
        self._turn = 0  # of two previews under way only the newest is shown
        self._folder: Path | None = None
        self._drawn: tuple[tuple[Any, ...], dict[ChartKey, QImage]] | None = None

    def build(self) -> WriteUpStop:
        """The view."""
        from blunt_ruler.ui.writeup.view import WriteUpStop

        stop = WriteUpStop()
        stop.export_requested.connect(self.ask_export)
        stop.shown.connect(self.refresh)
        return stop

    @property
    def view(self) -> WriteUpStop:
        """The view, as what it is."""
        return cast("WriteUpStop", self.stop)

    def let_go(self) -> None:
        """Forget the view, and the charts that were drawn."""
        self._composing = self._drawn = self._folder = None
        self._turn += 1
        super().let_go()

    def offers(self) -> Iterable[Offer]:
        """The report."""
        yield Offer("Write the report…", self.write_report, "Ctrl+E")
        yield Offer("Fill for and against from the findings", self.fill_points, "Ctrl+Shift+F")

    def fill_points(self) -> None:
        """Add what the findings say to the sheets for and against."""
        self.hub.go_to(self.name)
        self.view.show_page("For and against")
        self.view.points.fill.click()

    def write_report(self) -> None:
        """Ask in which formats the report is written, and where."""
        self.hub.go_to(self.name)
        self.view.export.click()

    def refresh(self) -> None:
        """Compose the preview anew, while someone looks."""
        analysis = self.snapshot.analysis
        if analysis is not None and self.view.isVisible():
            self.desk.load_edits(lambda edits: self._compose(analysis, edits))

    def _compose(self, analysis: Analysis, edits: Sequence[PastEdit]) -> None:
        if self._composing is not None:
            self._composing.cancel()
        self._turn += 1
        from blunt_ruler.ui.writeup.preview_page import page_style

        turn, style, home = self._turn, page_style(), self.thread()

        def work(step: Progress) -> Composed:
            step("Composing the write-up", 0.1)
            return _composed(analysis, edits, style, home)

        def done(found: Composed) -> None:
            if turn != self._turn:
                return
            document, page, traced, sheet = found
            self.view.preview.show_document(document, page, traced)
            self.view.narration.show_narration(sheet)
            self._draw(analysis, document, turn)

        self._composing = self.jobs.run(
            "Composing the write-up", work, done, self.banner.show_error
        )

    def _draw(self, analysis: Analysis, document: Document, turn: int) -> None:
        colours, dots = theme.current(), self.view.devicePixelRatioF()
        pictured = (colours, dots, *_pictured(analysis))
        same = self._drawn is not None and self._drawn[0] == pictured  # only words have changed
        drawn = dict(self._drawn[1]) if self._drawn is not None and same else {}
        if set(document.charts) <= set(drawn):
            self.view.preview.show_charts({key: drawn[key] for key in document.charts})
            return

        def work(step: Progress) -> dict[ChartKey, QImage]:
            from blunt_ruler.exchange.documents.writeup.files import Charts
            from blunt_ruler.ui.kit.picture_view import measure

            images = drawn
            charts = Charts(analysis, document, colours, measure)
            every = charts.keys()
            wanted = [key for key in every if key not in images]
            for number, key in enumerate(wanted):
                step("Drawing the charts", number / len(wanted))
                images[key] = _painted(charts.sheet(key), CHART_WIDTH * dots)
                images[key].setDevicePixelRatio(dots)
            return images

        def done(images: dict[ChartKey, QImage]) -> None:
            if turn == self._turn:
                self._drawn = pictured, images
                self.view.preview.show_charts(images)

        self._composing = self.jobs.run("Drawing the charts", work, done, self.banner.show_error)

    # Export

    def ask_export(self) -> None:
        """Ask for formats and a folder."""
        from blunt_ruler.ui.writeup.export_dialog import ExportDialog

        snapshot = self.snapshot
        if snapshot.review is None:
            return
        folder = self._folder or snapshot.path.parent / f"{snapshot.path.stem} report"
        self.dialog = ExportDialog(snapshot.review.name, folder, self.view.window())
        self.dialog.confirmed.connect(self.write_files)
        self.dialog.open()
        self._look_for_private(self.dialog, snapshot.contents, snapshot.review)

    def _look_for_private(self, dialog: ExportDialog, contents: Contents, review: Review) -> None:
        def work(_step: Progress) -> tuple[PrivateWords, ...]:
            from blunt_ruler.core.writeup.bundle import records_of
            from blunt_ruler.core.writeup.private_words import private_words

            return private_words(records_of(contents, review))

        self.jobs.run(
            "Looking for private texts", work, dialog.show_private, self.banner.show_error
        )

    def write_files(self, formats: Sequence[Format], bundle: bool, folder: Path) -> None:
        """Write the report; edits that are under way are in it."""
        analysis, source = self.snapshot.analysis, self.snapshot.path
        if analysis is None or not analysis.settled:
            self.banner.show_said("The runs are still being checked: try again in a moment.")
            return
        self._folder = folder
        review_id = analysis.review.id

        def start(edits: Sequence[PastEdit]) -> None:
            told: list[str] = []

            def work(step: Progress) -> int:
                from blunt_ruler.core.analysis.analyse import foresee_links
                from blunt_ruler.exchange.documents.writeup.files import write_files

                whole = foresee_links(analysis, step)
                paths = write_files(whole, edits, folder, formats, step, told.append)
                if bundle:
                    from blunt_ruler.logbook.bundle import BUNDLE_NAME, write_bundle

                    step("Writing the bundle", 0.9)
                    paths = (*paths, *write_bundle(source, review_id, folder / BUNDLE_NAME))
                return len(paths)

            self.jobs.run(
                "Writing the report",
                work,
                lambda count: self.banner.show_said(
                    " ".join((f"{count} files written to {folder}.", *told))
                ),
                self.banner.show_error,
            )

        self.desk.load_edits(start)


def _painted(sheet: ChartSheet, width: float) -> QImage:
    """A chart as the window shows it: what the report holds, in the window's own type."""
    from blunt_ruler.exchange.charts.sheet import HEIGHT, WIDTH
    from blunt_ruler.ui.kit.picture_view import paint_sheet

    scale = width / WIDTH
    image = QImage(round(width), round(HEIGHT * scale), QImage.Format.Format_RGB32)
    with painting(image) as painter:
        painter.scale(scale, scale)
        paint_sheet(painter, sheet)
    return image


def _pictured(analysis: Analysis) -> tuple[Any, ...]:
    """All that the charts show; two that are the same have the same charts."""
    board, limits, worth = analysis.board, analysis.limits, analysis.worth
    contents = analysis.contents
    return (
        board.cells,
        board.columns,
        board.rows,
        board.totals,
        limits.splits,
        worth.rows,
        worth.currency,
        analysis.review.target_fps,
        contents.rigs,
        contents.links,
        contents.hosts,
        contents.cards,
    )


def _composed(
    analysis: Analysis, edits: Sequence[PastEdit], style: str, home: QThread | None
) -> Composed:
    """A write-up, its page as a document of Qt's, its figures, and the narration."""
    from blunt_ruler.core.writeup.compose import compose
    from blunt_ruler.core.writeup.narration import narration
    from blunt_ruler.core.writeup.trace import traced_figures
    from blunt_ruler.exchange.documents.writeup.page import html_page
    from blunt_ruler.exchange.documents.writeup.text import narration_sheet
    from blunt_ruler.ui.writeup.preview_page import chart_url

    document = compose(analysis, edits)
    sources = {key: chart_url(key).toString() for key in document.charts}
    page = QTextDocument()
    page.setDefaultFont(theme.font(theme.SIDE))
    page.setDefaultStyleSheet(style)
    blank = QImage(CHART_WIDTH, CHART_WIDTH * 9 // 16, QImage.Format.Format_ARGB32_Premultiplied)
    blank.fill(0)
    for key in document.charts:
        page.addResource(QTextDocument.ResourceType.ImageResource, chart_url(key), blank)
    page.setHtml(html_page(document.shortened(MOST_ROWS), sources, dressed=False))
    page.setTextWidth(CHART_WIDTH)  # a scroll bar for lines that are not broken yet would flash
    page.moveToThread(home)
    sheet = narration_sheet(document.title, narration(analysis))
    traced = {(one.figure, one.rig, one.case): one for one in traced_figures(analysis)}
    return document, page, traced, sheet
