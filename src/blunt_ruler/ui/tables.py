"""A plain table of words and figures, for the pages that only list."""

from collections.abc import Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QHeaderView, QTreeWidget

FIGURES = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
LEAST = 120  # pixels that a stretching column keeps where others can give way


class Table(QTreeWidget):
    """A table whose columns give way, in a stated order, so that its names stay readable."""

    def __init__(self, gives_up: Sequence[int] = (), least: int = LEAST) -> None:
        super().__init__()
        self._gives_up, self._least = tuple(gives_up), least

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.make_room()

    def make_room(self) -> None:
        """Hide what a narrow window gives up; show it again where there is room."""
        head, view = self.header(), self.viewport()
        if head is None or view is None or not self._gives_up:
            return
        for place in self._gives_up:
            self.setColumnHidden(place, False)
        stretch = QHeaderView.ResizeMode.Stretch
        modes = {place: head.sectionResizeMode(place) for place in range(head.count())}
        wanted = self._least * sum(mode is stretch for mode in modes.values())
        for place in self._gives_up:
            taken = sum(head.sectionSize(i) for i, mode in modes.items() if mode is not stretch)
            if view.width() - taken >= wanted:
                break
            self.setColumnHidden(place, True)


def table(
    name: str,
    heads: list[str],
    widths: list[int],
    figures: tuple[int, ...] = (),
    gives_up: Sequence[int] = (),
) -> Table:
    """A plain table; a width of 0 stretches, `figures` are columns of numbers.

    `gives_up` are the columns that a narrow window hides, the first to go first.
    """
    tree = Table(gives_up)
    tree.setAccessibleName(name)
    tree.setHeaderLabels(heads)
    tree.setRootIsDecorated(False)
    tree.setUniformRowHeights(True)
    top = tree.headerItem()
    for place in figures:
        if top is not None:
            top.setTextAlignment(place, FIGURES)
    head = tree.header()
    if head is not None:
        head.setStretchLastSection(False)
        for place, width in enumerate(widths):
            mode = QHeaderView.ResizeMode
            head.setSectionResizeMode(place, mode.Interactive if width else mode.Stretch)
            if width:
                head.resizeSection(place, width)
    return tree
