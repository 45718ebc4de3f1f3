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
    from blunt_ruler.core.script.check import Checker
    from blunt_ruler.core.script.statements import Held
    from blunt_ruler.core.types import Progress
    from blunt_ruler.core.writeup.corrections import PastEdit
    from blunt_ruler.core.writeup.document import ChartKey, Document
    from blunt_ruler.core.writeup.private_words import PrivateWords
    from blunt_ruler.core.writeup.shots import Shot
    from blunt_ruler.core.writeup.trace import TracedFigure
    from blunt_ruler.exchange.charts.sheet import ChartSheet
    from blunt_ruler.exchange.documents.writeup.files import Format
    from blunt_ruler.ui.writeup.charts_page import ChartsPage
    from blunt_ruler.ui.writeup.export_dialog import ExportDialog
    from blunt_ruler.ui.writeup.script_page import ScriptPage
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
        self._checker: Checker | None = None
        self._checking, self._to_check = False, ""
        self._turn = 0  # of two previews under way only the newest is shown
        self._folder: Path | None = None
        self._drawn: tuple[tuple[Any, ...], dict[ChartKey, QImage]] | None = None

    def build(self) -> WriteUpStop:
        """The view."""
        from blunt_ruler.ui.writeup.view import WriteUpStop

        stop = WriteUpStop()
        stop.export_requested.connect(self.ask_export)
        stop.shown.connect(self.refresh)
        stop.when_built("Script", self._on_script)
        stop.when_built("Charts", self._on_charts)
        return stop

    def _on_script(self, page: ScriptPage) -> None:
        page.check_wanted.connect(self.check_script)
        page.file_chosen.connect(self.read_script)
        page.save_wanted.connect(lambda path, text: self.write(path, lambda: text))
        page.narration_wanted.connect(self.begin_script)

    @property
    def view(self) -> WriteUpStop:
        """The view, as what it is."""
        return cast("WriteUpStop", self.stop)

    def let_go(self) -> None:
        """Forget the view, and the charts that were drawn."""
        self._composing = self._drawn = self._folder = self._checker = None
        self._checking = False
        self._turn += 1
        super().let_go()

    def offers(self) -> Iterable[Offer]:
        """The report."""
        yield Offer("Write the report…", self.write_report, "Ctrl+E")
        yield Offer("Read along, full screen", self.read_along, "F5")
        yield Offer("Check what will be said", self.open_script, "Ctrl+Shift+K")
        yield Offer("Fill for and against from the findings", self.fill_points, "Ctrl+Shift+F")

    def print_page(self) -> bool:
        """Ask where to put the report for print."""
        from blunt_ruler.exchange.documents.writeup.files import Format

        self.write_report()
        for one, box in self.dialog.boxes.items() if self.view.export.isEnabled() else ():
            box.setChecked(one is Format.PDF)
        return True

    def fill_points(self) -> None:
        """Add what the findings say to the sheets for and against."""
        self.hub.go_to(self.name)
        self.view.show_page("For and against")
        self.view.points.fill.click()

    def write_report(self) -> None:
        """Ask in which formats the report is written, and where; or say why it cannot be."""
        self.hub.go_to(self.name)
        if self.view.export.isEnabled():
            self.view.export.click()
        else:
            self.banner.show_said(f"{self.view.export.toolTip()}.")

    def refresh(self) -> None:
        """Compose the preview anew, while someone looks."""
        if self.desk.snapshot is None:  # asked a moment ago, of a logbook that is closed by now
            return
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

    # Charts in running order

    def _on_charts(self, page: ChartsPage) -> None:
        page.shots_wanted.connect(self.find_shots)
        page.sheet_wanted.connect(self.draw_sheet)
        page.write_wanted.connect(self.ask_charts)
        page.read_wanted.connect(self.read_along)

    def find_shots(self) -> None:
        """Work out every chart there is."""
        analysis = self.snapshot.analysis
        if analysis is None or not analysis.settled:
            return

        def work(_step: Progress) -> tuple[Shot, ...]:
            from blunt_ruler.core.writeup.shots import every_shot

            return every_shot(analysis)

        def done(shots: tuple[Shot, ...]) -> None:
            if self.snapshot.analysis is analysis:
                self.view.charts.show_shots(shots)

        self.jobs.run("Looking for charts", work, done, self.banner.show_error)

    def _sheet(self, shot: Shot, among: Sequence[Shot]) -> ChartSheet:
        from blunt_ruler.core.writeup.shots import top_values
        from blunt_ruler.exchange.charts.shots import draw_shot
        from blunt_ruler.ui.kit.picture_view import measure

        analysis = self.snapshot.analysis
        assert analysis is not None
        tops = top_values(among)
        return draw_shot(analysis, shot, measure, theme.current(), tops.get(shot.title, 0.0))

    def draw_sheet(self, shot: Shot) -> None:
        """Draw one chart for the page."""

        def work(_step: Progress) -> ChartSheet:
            return self._sheet(shot, self.view.charts.shots)

        self.jobs.run("Drawing a chart", work, self.view.charts.show_sheet, self.banner.show_error)

    def ask_charts(self) -> None:
        """Ask how and where the charts are written."""
        from blunt_ruler.ui.writeup.charts_dialog import ChartsDialog

        snapshot = self.snapshot
        folder = snapshot.path.parent / f"{snapshot.path.stem} charts"
        self.charts_dialog = ChartsDialog(folder, self.view.window())
        self.charts_dialog.confirmed.connect(self.write_charts)
        self.charts_dialog.open()

    def write_charts(self, kinds: Sequence[str], themes: Sequence[str], folder: Path) -> None:
        """Write the charts of the running order, numbered, with their chapters."""
        analysis = self.snapshot.analysis
        if analysis is None:
            return

        def work(step: Progress) -> int:
            from blunt_ruler.core.writeup.shots import running_order
            from blunt_ruler.exchange.documents.writeup.running import write_shots

            shots = running_order(analysis)
            return len(write_shots(analysis, shots, folder, kinds, themes, step))

        def done(count: int) -> None:
            self.banner.show_said(f"{count} files written to {folder}.")

        self.jobs.run("Writing the charts", work, done, self.banner.show_error)

    def read_along(self) -> None:
        """Read the lines of the running order full screen."""
        from blunt_ruler.core.writeup.shots import running_order
        from blunt_ruler.ui.writeup.read_along import ReadAlong

        analysis = self.snapshot.analysis
        if analysis is None or not analysis.settled:
            self.banner.show_said("The runs are still being checked: try again in a moment.")
            return

        def work(_step: Progress) -> tuple[Shot, ...]:
            return running_order(analysis)

        def done(shots: tuple[Shot, ...]) -> None:
            pace = analysis.review.writeup.style.pace
            parent = self.view.window()

            def draw(at: int) -> ChartSheet:
                return self._sheet(shots[at], shots)

            self.reading = ReadAlong(shots, draw, pace, parent)
            self.reading.showFullScreen()

        self.jobs.run("Composing the narration", work, done, self.banner.show_error)

    # Script

    def check_script(self, text: str) -> None:
        """Hold a text against the logbook; while one is under way only the newest is next."""
        analysis = self.snapshot.analysis
        if analysis is None or not analysis.settled:
            return  # another snapshot follows
        self._to_check = text
        if self._checking:
            return
        from blunt_ruler.core.script.check import Checker

        if self._checker is None or self._checker.analysis is not analysis:
            self._checker = Checker(analysis)
        checker, inserted = self._checker, self.view.script.inserted
        self._checking = True

        def work(step: Progress) -> tuple[Held, ...]:
            return checker.check(text, step, inserted)

        def done(held: tuple[Held, ...]) -> None:
            self._checking = False
            self.view.script.show_held(text, held)
            if self._to_check != text or self.snapshot.analysis is not checker.analysis:
                self.check_script(self._to_check)

        def failed(error: Exception) -> None:
            self._checking = False
            self.banner.show_error(error)

        def cancelled() -> None:
            self._checking = False

        self.jobs.run("Checking the script", work, done, failed, cancelled)

    def read_script(self, path: Path) -> None:
        """Put the text of a file on the sheet."""

        def work(_step: Progress) -> str:
            from blunt_ruler.exchange.scripts import load_script

            return load_script(path)

        self.jobs.run(
            "Reading the script", work, self.view.script.show_text, self.banner.show_error
        )

    def begin_script(self) -> None:
        """Put what the program would say on the sheet, below what is there."""
        analysis = self.snapshot.analysis
        if analysis is None:
            return

        def work(_step: Progress) -> str:
            from blunt_ruler.core.writeup.narration import narration

            return "\n\n".join(" ".join(cue.lines) for cue in narration(analysis))

        def done(said: str) -> None:
            written = self.view.script.sheet.toPlainText().rstrip()
            self.view.script.show_text(f"{written}\n\n{said}" if written else said)

        self.jobs.run("Composing the narration", work, done, self.banner.show_error)

    def open_script(self) -> None:
        """Show the script's sheet."""
        self.hub.go_to(self.name)
        self.view.show_page("Script")
        self.view.script.sheet.setFocus()

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
                    from blunt_ruler.exchange.documents.data_package import (
                        PACKAGE_NAME,
                        write_package,
                    )
                    from blunt_ruler.logbook.bundle import BUNDLE_NAME, write_bundle

                    step("Writing the bundle", 0.9)
                    bundle_paths = write_bundle(source, review_id, folder / BUNDLE_NAME)
                    package = write_package(folder / PACKAGE_NAME, whole, edits, bundle_paths[0])
                    paths = (*paths, *bundle_paths, package)
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
