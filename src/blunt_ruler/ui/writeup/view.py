"""The Write-up view: a live preview, disclosures, narration, and the export."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QPushButton, QTextBrowser

from blunt_ruler.core.writeup.compose import writeup_line
from blunt_ruler.ui.desk.snapshot import Snapshot
from blunt_ruler.ui.desk.stop import Page, Stop
from blunt_ruler.ui.kit.layouts import stacked
from blunt_ruler.ui.kit.widgets import allow
from blunt_ruler.ui.writeup.charts_page import ChartsPage
from blunt_ruler.ui.writeup.disclosures import DisclosuresPage
from blunt_ruler.ui.writeup.points_page import PointsPage
from blunt_ruler.ui.writeup.preview_page import PreviewPage
from blunt_ruler.ui.writeup.script_page import ScriptPage

PREVIEW, DISCLOSURES, NARRATION = "Preview", "Disclosures", "Narration"
POINTS = "For and against"
SCRIPT, CHARTS = "Script", "Charts"


class NarrationPage(Page):
    """The narration sheet."""

    def __init__(self) -> None:
        super().__init__()
        self.sheet = QTextBrowser()
        self.sheet.setAccessibleName("Narration sheet")
        stacked(self.sheet, on=self)

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """The sheet follows when it is composed."""
        scores = snapshot.analysis.scores.board if snapshot.analysis else None
        self._line = writeup_line(snapshot.board, scores) if snapshot.board else ""

    def show_narration(self, markdown: str) -> None:
        """Show the narration."""
        self.sheet.setMarkdown(markdown)
        document = self.sheet.document()
        if document is not None:
            document.setDocumentMargin(14)


class WriteUpStop(Stop):
    """Preview and export.

    Signals:
        export_requested(): ask where to write the report.
        shown(): the stop came on screen or has other contents; a preview is worth making.
    """

    sketch = "page"
    begins_at = ("Go to Runs", "Runs")

    export_requested = pyqtSignal()
    shown = pyqtSignal()

    def __init__(self) -> None:
        super().__init__("Write-up")
        self.export = QPushButton("Write the report…")
        self.export.setObjectName("primary")
        self.export.clicked.connect(self.export_requested)
        self.add_page(PREVIEW, PreviewPage)
        self.add_page(DISCLOSURES, DisclosuresPage)
        self.add_page(POINTS, PointsPage)
        self.add_page(NARRATION, NarrationPage)
        self.add_page(SCRIPT, ScriptPage)
        self.add_page(CHARTS, ChartsPage)
        self.bar.row.addWidget(self.export)
        self.body.addWidget(self.bar)
        self.body.addWidget(self.pages, 1)

    @property
    def preview(self) -> PreviewPage:
        """The preview."""
        page = self.page(PREVIEW)
        assert isinstance(page, PreviewPage)
        return page

    @property
    def narration(self) -> NarrationPage:
        """The narration sheet."""
        page = self.page(NARRATION)
        assert isinstance(page, NarrationPage)
        return page

    @property
    def points(self) -> PointsPage:
        """The sheets for and against."""
        page = self.page(POINTS)
        assert isinstance(page, PointsPage)
        return page

    @property
    def charts(self) -> ChartsPage:
        """The charts in running order."""
        page = self.page(CHARTS)
        assert isinstance(page, ChartsPage)
        return page

    @property
    def script(self) -> ScriptPage:
        """What will be said."""
        page = self.page(SCRIPT)
        assert isinstance(page, ScriptPage)
        return page

    def missing(self, snapshot: Snapshot) -> str:
        """A report needs figures."""
        rates = snapshot.board is not None and bool(snapshot.board.cells)
        there = rates or (snapshot.analysis is not None and not snapshot.analysis.scores.is_empty)
        allow(self.export, "" if there else "The Board has no figures to write up yet")
        return (
            ""
            if there
            else ("Nothing to write up yet: the Board has no figures. Import logs first.")
        )

    def arrive(self, snapshot: Snapshot) -> None:
        """Something else is to be written up."""
        self.shown.emit()

    def showEvent(self, a0: QShowEvent | None) -> None:
        super().showEvent(a0)
        self.shown.emit()
