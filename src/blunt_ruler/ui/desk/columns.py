"""Column widths that the user gave, remembered for each table by its name.

Columns that stretch are left to the window; a table that shows another number of columns keeps
its own widths.
"""

from collections.abc import Iterator

from PyQt6.QtWidgets import QHeaderView, QTableView, QTreeView, QWidget

from blunt_ruler.ui.desk.settings import Settings

GIVEN = "default widths"


def restore_columns(widget: QWidget, settings: Settings) -> None:
    """Give every table in a widget the widths it had at the last close."""
    for name, head in _heads(widget):
        began = _widths(head)
        head.setProperty(GIVEN, began)
        kept = settings.columns(name)
        if len(kept) != len(began):
            continue
        for place, width in enumerate(kept):
            if width > 0 and began[place] > 0:
                head.resizeSection(place, width)


def store_columns(widget: QWidget, settings: Settings) -> None:
    """Remember the widths that are no longer those a table began with."""
    for name, head in _heads(widget):
        now = _widths(head)
        if now != head.property(GIVEN):
            settings.set_columns(name, now)


def _heads(widget: QWidget) -> Iterator[tuple[str, QHeaderView]]:
    tables = [(view, view.horizontalHeader()) for view in widget.findChildren(QTableView)]
    trees = [(view, view.header()) for view in widget.findChildren(QTreeView)]
    for view, head in (*tables, *trees):
        if head is not None and view.accessibleName():
            yield view.accessibleName(), head


def _widths(head: QHeaderView) -> list[int]:
    """Width of each column that can be dragged, 0 for the others."""
    return [
        head.sectionSize(place)
        if head.sectionResizeMode(place) is QHeaderView.ResizeMode.Interactive
        and not head.isSectionHidden(place)
        else 0
        for place in range(head.count())
    ]
