"""The Board view: rigs × cases, how it scales, what is playable, and scores."""

from collections.abc import Callable
from importlib import import_module

from blunt_ruler.ui.board.page import BoardPage
from blunt_ruler.ui.desk.stop import Page, Stop
from blunt_ruler.ui.kit.focus_ring import focus_last

CELLS, SCALING, PLAYABLE, SCORES = "Cells", "Scaling", "Playable", "Scores"
REFERENCES, LINK = "References", "Link"


class BoardStop(Stop):
    """Gains and losses."""

    def __init__(self) -> None:
        super().__init__("Board")
        self.add_page(CELLS, BoardPage)
        self.add_page(SCALING, _later("ScalingPage"))
        self.add_page(LINK, _later("LinkPage", "link_page"))
        self.add_page(PLAYABLE, _later("PlayablePage"))
        self.add_page(SCORES, _later("ScoresPage"))
        self.add_page(REFERENCES, _later("ReferencesPage"))
        self.body.addWidget(self.bar)
        self.body.addWidget(self.pages, 1)
        self.bar.row.addWidget(self.cells.lens_bar, 1)
        focus_last(self.cells)  # it was made before the lenses stood beside the pages
        self.evidence.set_foot(self.cells.order_box)
        self.bar.page_chosen.connect(lambda _name: self._show_tools())
        self._show_tools()

    def _show_tools(self) -> None:
        """Lenses and order belong to the cells."""
        for tool in (self.cells.lens_bar, self.cells.order_box):
            tool.setVisible(self.current == CELLS)

    @property
    def cells(self) -> BoardPage:
        """Rigs × cases."""
        page = self.page(CELLS)
        assert isinstance(page, BoardPage)
        return page

    def search(self) -> bool:
        """Filter the cases, where the cells are looked at."""
        if self.current != CELLS or self.bar.isHidden():
            return super().search()
        if self.evidence.isHidden():
            self.toggle_evidence()
        self.cells.order_box.search()
        return True

    def take_focus(self) -> None:
        """The cells, where they are looked at; one of them is chosen."""
        if self.current == CELLS:
            table = self.cells.table
            at, grid = table.currentIndex(), table.grid
            if at.row() in (-1, grid.ghost_row) or at.column() == grid.ghost_column:
                table.setCurrentIndex(grid.index(0, 0))
            table.setFocus()


def _later(name: str, module: str = "pages") -> Callable[[], Page]:
    """A page whose module is imported when it is first shown."""

    def make() -> Page:
        found = import_module(f"blunt_ruler.ui.board.{module}")
        made: Page = getattr(found, name)()
        return made

    return make
