"""The Board view: rigs × cases, how it scales, what is playable, and scores."""

from typing import TYPE_CHECKING

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QStackedWidget

from blunt_ruler.core.board.lenses import Lens
from blunt_ruler.ui.board.evidence import Parts
from blunt_ruler.ui.board.page import BoardPage
from blunt_ruler.ui.desk import Snapshot
from blunt_ruler.ui.widgets import PageBar, Stop

if TYPE_CHECKING:
    from blunt_ruler.ui.board.pages import PlayablePage, ScalingPage, ScoresPage

CELLS, SCALING, PLAYABLE, SCORES = "Cells", "Scaling", "Playable", "Scores"
PAGES = (CELLS, SCALING, PLAYABLE, SCORES)


class BoardStop(Stop):
    """Gains and losses.

    Signals:
        role_requested(str, Role): give a rig a role in the review.
        rename_requested(str, str): give a rig another name.
        decision_requested(Run, Decision): keep, redo or set aside a run.
        import_requested(): the reviewer wants to import logs.
        review_changed(Review, str): the review as it should be, and a name for the edit.
        plan_requested(str, str): another pass of this rig and case, please.
        notice_raised(str): something worth a line.
    """

    role_requested = pyqtSignal(str, object)
    rename_requested = pyqtSignal(str, str)
    decision_requested = pyqtSignal(object, object)
    import_requested = pyqtSignal()
    review_changed = pyqtSignal(object, str)
    plan_requested = pyqtSignal(str, str)
    notice_raised = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__("Board")
        self._spread: Snapshot | None = None
        self.page = BoardPage()
        self.bar = PageBar(PAGES)
        self.pages = QStackedWidget()
        self.pages.addWidget(self.page)
        self._others: dict[str, ScalingPage | PlayablePage | ScoresPage] = {}
        self.bar.page_chosen.connect(self._on_page)
        self.body.addWidget(self.bar)
        self.body.addWidget(self.pages, 1)
        page = self.page
        page.role_requested.connect(self.role_requested)
        page.rename_requested.connect(self.rename_requested)
        page.decision_requested.connect(self.decision_requested)
        page.import_requested.connect(self.import_requested)
        page.review_changed.connect(self.review_changed)
        page.plan_requested.connect(self.plan_requested)
        page.copied.connect(self.said)
        page.evidence_changed.connect(self._show_evidence)
        page.line_changed.connect(lambda line: self._say_for(CELLS, line))

    # Pages other than the cells are built, and pyqtgraph imported, when they are first shown

    def other(self, name: str) -> "ScalingPage | PlayablePage | ScoresPage":
        """One of the other pages."""
        if name not in self._others:
            from blunt_ruler.ui.board import pages

            makers = {
                SCALING: pages.ScalingPage,
                PLAYABLE: pages.PlayablePage,
                SCORES: pages.ScoresPage,
            }
            made = makers[name]()
            made.line_changed.connect(lambda line: self._say_for(name, line))
            self._others[name] = made
            self.pages.addWidget(made)
            made.show_spread(self._spread)
        return self._others[name]

    @property
    def current(self) -> str:
        """The name of the shown page."""
        return next(name for name, button in self.bar.buttons.items() if button.isChecked())

    def show_page(self, name: str) -> None:
        """Show a page."""
        self.bar.show_page(name)

    def _on_page(self, index: int) -> None:
        name = PAGES[index]
        if self.evidence is not None:
            self.evidence.setVisible(name == CELLS)
        if name == CELLS:
            self.pages.setCurrentWidget(self.page)
            self.page.show_evidence()
            return
        page = self.other(name)
        self.pages.setCurrentWidget(page)
        if self._spread is not None:
            self.say(page.line)

    def _say_for(self, name: str, line: str) -> None:
        if self.current == name:
            self.say(line)

    def _show_evidence(self, parts: Parts) -> None:
        if self.evidence is not None and self.current == CELLS:
            self.evidence.show_parts(parts)

    def show_spread(self, spread: Snapshot | None) -> None:
        """Show the Board of the present review."""
        self._spread = spread
        self.page.show_spread(spread)
        for page in self._others.values():
            page.show_spread(spread)

    def apply_theme(self) -> None:
        """Take on another theme's colours."""
        for page in self._others.values():
            page.show_spread(self._spread)

    # What the window's actions reach

    def show_lens(self, lens: Lens) -> None:
        """Look at the cells another way."""
        self.show_page(CELLS)
        self.page.show_lens(lens)

    def chosen_rig(self) -> str | None:
        """Id of the rig whose column is chosen."""
        return self.page.chosen_rig()

    def rename_chosen(self) -> None:
        """Edit the name of the chosen rig where it stands."""
        self.page.rename_chosen()

    def copy_cell(self) -> None:
        """Put the chosen cell on the clipboard, with its bases."""
        self.page.copy_cell()

    def copy_board(self, kind: str) -> None:
        """Put the shown Board on the clipboard."""
        self.page.copy_board(kind)
