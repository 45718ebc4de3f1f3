"""The Write-up view: a live preview of the report and the exports."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QTextBrowser

from blunt_ruler.core.blunt_lines import writeup_line
from blunt_ruler.exchange.reports import board_markdown
from blunt_ruler.ui.desk import Spread
from blunt_ruler.ui.parts import Stop, label


class WriteUpStop(Stop):
    """Preview and export.

    Signals:
        export_requested(str): "csv" or "md": the reviewer wants a file of it.
    """

    export_requested = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__("Write-up", evidence=False)
        bar = QHBoxLayout()
        self.csv_button = QPushButton("Export tidy CSV…")
        self.csv_button.clicked.connect(lambda: self.export_requested.emit("csv"))
        self.markdown_button = QPushButton("Export Markdown…")
        self.markdown_button.clicked.connect(lambda: self.export_requested.emit("md"))
        for button in (self.markdown_button, self.csv_button):
            bar.addWidget(button)
        bar.addStretch(1)
        bar.addWidget(label("Charts, PDF and HTML are coming.", "quiet", wrap=False))
        self.preview = QTextBrowser()
        self.preview.setAccessibleName("Preview of the report")
        self.preview.setOpenLinks(False)
        self.body.addLayout(bar)
        self.body.addWidget(self.preview, 1)

    def show_spread(self, spread: Spread | None) -> None:
        """Show the report of the present review."""
        board = spread.board if spread else None
        ready = board is not None and bool(board.cells)
        for button in (self.csv_button, self.markdown_button):
            button.setEnabled(ready)
        self.preview.setVisible(ready)
        if board is None or not ready:
            self.say("Nothing to write up yet: the Board has no figures. Import logs first.")
            return
        self.say(writeup_line(board))
        self.preview.setMarkdown(board_markdown(board))
