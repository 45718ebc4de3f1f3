"""For and against, in the reviewer's words: one point a line, printed as a section."""

from PyQt6.QtCore import QEvent, QObject
from PyQt6.QtWidgets import QPlainTextEdit, QPushButton

from blunt_ruler.core.claims.offer import Claims
from blunt_ruler.core.claims.points import points_of
from blunt_ruler.core.records.edits import change_review
from blunt_ruler.core.records.records import Review
from blunt_ruler.core.values import LONGEST_WORDS
from blunt_ruler.core.writeup.closing import points_line
from blunt_ruler.ui.desk.snapshot import Snapshot
from blunt_ruler.ui.desk.stop import Page
from blunt_ruler.ui.kit.layouts import beside, stacked
from blunt_ruler.ui.kit.widgets import allow, label

SIDES = (("pros", "What speaks for it"), ("cons", "What speaks against it"))


class PointsPage(Page):
    """Two sheets side by side."""

    def __init__(self) -> None:
        super().__init__()
        self._review: Review | None = None
        self._claims: Claims | None = None
        self.sides: dict[str, QPlainTextEdit] = {}
        columns = beside(spacing=12)
        for name, says in SIDES:
            sheet = self.sides[name] = QPlainTextEdit()
            sheet.setAccessibleName(says)
            sheet.setPlaceholderText("one point a line")
            sheet.setTabChangesFocus(True)
            sheet.installEventFilter(self)
            columns.addLayout(stacked(label(says.upper(), "heading"), (sheet, 1), spacing=5), 1)
        self.fill = QPushButton("Fill from the findings")
        self.fill.setToolTip(
            "Adds what speaks for and against each rig to what is written (Ctrl+Shift+F)"
        )
        self.fill.clicked.connect(self._on_fill)
        kept = label("Kept when you leave the sheet, and printed after the verdict.", "quiet")
        stacked(
            (columns, 1),
            beside((kept, 1), self.fill),
            spacing=7,
            on=self,
        )

    def show_snapshot(self, snapshot: Snapshot) -> None:
        """Show the points; a sheet that is being written on stays as it is."""
        review = self._review = snapshot.review
        self._claims = snapshot.analysis.claims if snapshot.analysis else None
        if review is None:
            return
        found = self._claims is not None and bool(self._claims.subjects)
        allow(self.fill, "" if found else "No rig under test has been compared yet")
        self._line = points_line(review)
        for name, sheet in self.sides.items():
            text = "\n".join(getattr(review.writeup, name))
            if not sheet.hasFocus() and sheet.toPlainText() != text:
                sheet.setPlainText(text)

    def eventFilter(self, a0: QObject | None, a1: QEvent | None) -> bool:
        """A sheet is kept when the focus leaves it."""
        if a1 is not None and a1.type() == QEvent.Type.FocusOut:
            self._keep()
        return super().eventFilter(a0, a1)

    def _on_fill(self) -> None:
        """Add what the claims say, behind what is written already."""
        review, claims = self._review, self._claims
        if review is None or claims is None:
            return
        fields = {
            name: tuple(dict.fromkeys((*_points(self.sides[name].toPlainText()), *points)))
            for name, points in zip(("pros", "cons"), points_of(claims), strict=True)
        }
        for name, points in fields.items():
            self.sides[name].setPlainText("\n".join(points))
        writeup = review.writeup.model_copy(update=fields)
        if writeup != review.writeup:
            self.edited.emit(change_review(review, "fill for and against", writeup=writeup))

    def _keep(self) -> None:
        review = self._review
        if review is None:
            return
        fields = {name: _points(sheet.toPlainText()) for name, sheet in self.sides.items()}
        if any(getattr(review.writeup, name) != points for name, points in fields.items()):
            writeup = review.writeup.model_copy(update=fields)
            self.edited.emit(change_review(review, "for and against", writeup=writeup))


def _points(text: str) -> tuple[str, ...]:
    return tuple(line.strip()[:LONGEST_WORDS] for line in text.splitlines() if line.strip())
