"""The Link page of the Board: how wide a link a card needs, and which rig lies below its width."""

from PyQt6.QtWidgets import QComboBox

from blunt_ruler.core.board.board import Board
from blunt_ruler.core.drawing.link_curve import draw_link_curve
from blunt_ruler.core.drawing.palette import rig_shades
from blunt_ruler.core.limits.link_curve import (
    LinkCurve,
    below_words,
    cards_of,
    curve_line,
    doubling_words,
    link_curve,
)
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.types import Progress
from blunt_ruler.ui.board.pages import DrawnPage
from blunt_ruler.ui.desk.jobs import Job, Jobs
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.layouts import STRETCH, beside
from blunt_ruler.ui.kit.picture_view import PictureView
from blunt_ruler.ui.kit.widgets import card, label


class LinkPage(DrawnPage):
    """Frames against link, one card at a time: how wide a link it needs, and who is below it."""

    ALL = "all titles"

    def __init__(self) -> None:
        super().__init__()
        self.jobs = Jobs(threads=1, parent=self)
        self._job: Job | None = None
        self._asked: object = None
        self.card = QComboBox()
        self.card.setAccessibleName("Card")
        self.card.setMinimumWidth(150)
        self.title = QComboBox()
        self.title.setAccessibleName("Title")
        self.title.setMinimumWidth(180)
        for box in (self.card, self.title):
            box.activated.connect(lambda _index: self._work())
        self.picture = PictureView()
        self.picture.setAccessibleName("Frames against the width of the link")
        self.below = label("", "caution")
        self.doublings = label("", "quiet")
        self.note = label(
            "The curve is the model's mean over the cases that every rig with this card has, its "
            "band 80 %, the picture on the card; points are rigs, "
            "95 %, with their 1 % low under them. A triangle is a rig with another host.",
            "small",
        )
        self.column.addLayout(
            beside(
                label("card", "quiet", wrap=False),
                self.card,
                label("title", "quiet", wrap=False),
                self.title,
                STRETCH,
            )
        )
        self.column.addWidget(card(self.picture), 1)
        for words in (self.below, self.doublings, self.note):
            self.column.addWidget(words)

    def fill(self, contents: Contents, board: Board) -> None:
        """Offer the cards and titles that were measured, and draw the chosen."""
        analysis = self._snapshot.analysis if self._snapshot else None
        report = analysis.limits if analysis else None
        fit = report.fit if report else None
        for widget in (self.card, self.title):
            widget.setVisible(fit is not None)
        if fit is None or report is None:
            self._show_nothing(report.why_not if report else "")
            return
        chosen, title = self.card.currentData(), self.title.currentText()
        self.card.clear()
        for key in cards_of(fit, contents):
            self.card.addItem(contents.cards[key].name, key)
        self.card.setCurrentIndex(max(self.card.findData(chosen), 0))
        self.title.clear()
        self.title.addItems([self.ALL, *dict.fromkeys(row.title for row in board.rows)])
        self.title.setCurrentIndex(max(self.title.findText(title), 0))
        self._work()

    def _work(self) -> None:
        snapshot, card_id = self._snapshot, self.card.currentData()
        if snapshot is None or snapshot.analysis is None or not card_id:
            self._show_nothing("No add-in card was measured on a link yet.")
            return
        fit, board = snapshot.analysis.limits.fit, snapshot.analysis.board
        title = self.title.currentText() if self.title.currentIndex() > 0 else ""
        if fit is None:
            return
        asked = self._asked = (snapshot, card_id, title)
        contents = snapshot.contents

        def work(step: Progress) -> LinkCurve | None:
            step("Drawing the curve", 0.0)
            return link_curve(contents, board, fit, card_id, title)

        def done(curve: LinkCurve | None) -> None:
            if self._asked is asked:
                self._show(curve, board)

        if self._job is not None:
            self._job.cancel()
        self._job = self.jobs.run("Drawing the curve", work, done, self.error_raised.emit)

    def _show_nothing(self, why: str) -> None:
        """No curve, for a reason; what was said of another goes."""
        self._line, self._asked = why, None
        self.picture.hide()
        self.below.setText("")
        self.doublings.setText("")

    def _show(self, curve: LinkCurve | None, board: Board) -> None:
        if curve is None:
            self._show_nothing("No case is shared by the rigs of this card.")
            self.refreshed.emit()
            return
        self.picture.show()
        self._line = curve_line(curve)
        below = [below_words(one, curve) for one in curve.points if one.is_below]
        self.below.setText(" ".join(below))
        self.below.setVisible(bool(self.below.text()))
        self.doublings.setText(f"Each further doubling: {', '.join(doubling_words(curve))}.")
        heard = [
            f"{one.name}: {one.gb_per_s:.1f} GB/s, {one.fps:.1f} frames per second, curve "
            f"{one.curve_fps:.1f}"
            for one in curve.points
        ]
        self.picture.setAccessibleDescription("; ".join(heard))
        shades = rig_shades(board, theme.current())
        self.picture.show_picture(lambda picture: draw_link_curve(picture, curve), shades)
        self.refreshed.emit()
