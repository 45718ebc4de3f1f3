"""A plain table of words and figures, for the pages that only list."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHeaderView, QTreeWidget

FIGURES = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter


def table(
    name: str, heads: list[str], widths: list[int], figures: tuple[int, ...] = ()
) -> QTreeWidget:
    """A plain table; a width of 0 stretches, `figures` are columns of numbers."""
    tree = QTreeWidget()
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
