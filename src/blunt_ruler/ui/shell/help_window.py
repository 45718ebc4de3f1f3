"""Help where one is: the page of a stop, with pictures; and of figures, checks, formats."""

from PyQt6.QtCore import QUrl
from PyQt6.QtGui import (
    QDesktopServices,
    QKeySequence,
    QShortcut,
    QTextBlockFormat,
    QTextCursor,
    QTextDocument,
)
from PyQt6.QtWidgets import QComboBox, QDialog, QPushButton, QTextBrowser, QWidget

from blunt_ruler.core.analysis.rail_states import STOPS
from blunt_ruler.files import shipped
from blunt_ruler.ui.kit.layouts import STRETCH, beside, stacked

PARAGRAPH_GAP = 7.0
FURTHER = {
    "Words and questions": "glossary.md",
    "Figures": "figures.md",
    "Checks": "checks.md",
    "Trouble": "trouble.md",
    "Formats": "formats.md",
    "The logbook file": "logbook.md",
}
PAGES = {**{name: f"{name.lower()}.md" for name in STOPS}, **FURTHER}


class HelpWindow(QDialog):
    """Shipped pages beside the window; it stays open while one works."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Help")
        self.resize(720, 760)
        self._folder = shipped("help")
        self.pages = QComboBox()
        self.pages.setAccessibleName("Help page")
        self.pages.addItems(list(PAGES))
        self.pages.activated.connect(lambda _index: self.show_page(self.pages.currentText()))
        self.text = QTextBrowser()
        self.text.setAccessibleName("Help")
        self.text.setOpenLinks(False)
        self.text.anchorClicked.connect(self._on_link)
        self.back = QPushButton("Back")
        self.back.setEnabled(False)
        self.back.clicked.connect(self._on_back)
        close = QPushButton("Close")
        close.clicked.connect(self.close)
        self._before: list[str] = []
        self._name = ""
        stacked(
            beside(self.pages, self.back, STRETCH, close),
            (self.text, 1),
            margins=(12, 12, 12, 12),
            on=self,
        )
        QShortcut(QKeySequence("Alt+Left"), self, self._on_back)

    def open_page(self, name: str) -> None:
        """Show a page, by the name of a stop or of what it is about, and come to the front."""
        self.show_page(name)
        self.show()
        self.raise_()
        self.activateWindow()
        self.text.setFocus()

    def show_page(self, name: str) -> None:
        """Show a page; the one before can be gone back to."""
        if self._name and self._name != name:
            self._before.append(self._name)
        self._show(name)

    def _show(self, name: str) -> None:
        self._name = name
        self.pages.setCurrentText(name)
        self.back.setEnabled(bool(self._before))
        path = self._folder / PAGES[name]
        kind = QTextDocument.ResourceType.MarkdownResource
        self.text.setSource(QUrl.fromLocalFile(str(path)), kind)
        document = self.text.document()
        assert document is not None
        air = QTextBlockFormat()  # Markdown sets blocks hard upon one another
        air.setBottomMargin(PARAGRAPH_GAP)
        block = document.begin()
        while block.isValid():
            if QTextCursor(block).currentTable() is None:
                QTextCursor(block).mergeBlockFormat(air)
            block = block.next()

    def _on_back(self) -> None:
        if self._before:
            self._show(self._before.pop())

    def _on_link(self, url: QUrl) -> None:
        file = url.fileName()
        name = next((name for name, page in PAGES.items() if page == file), None)
        if name is not None:
            self.show_page(name)
        elif not url.isLocalFile() and not url.isRelative():
            QDesktopServices.openUrl(url)
