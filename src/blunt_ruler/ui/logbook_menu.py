"""The menu under the logbook's name: reviews, files, edits."""

from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QMenu

if TYPE_CHECKING:
    from blunt_ruler.ui.window import MainWindow


def logbook_menu(window: "MainWindow") -> QMenu:
    """Reviews, new, open, recent, copy, undo and redo, of the window's present logbook."""
    menu = QMenu(window)
    spread = window.desk.spread
    if spread is not None and len(spread.contents.reviews) > 1:
        for review in spread.contents.reviews.values():
            entry = menu.addAction(review.name)
            if entry is not None:
                entry.setCheckable(True)
                entry.setChecked(spread.review is review)
                entry.triggered.connect(
                    lambda _checked, key=review.id: window.desk.choose_review(key)
                )
        menu.addSeparator()
    for words in ("New logbook…", "Open a logbook…"):
        menu.addAction(window.actions_by_name[words])
    recent = menu.addMenu("Recent logbooks")
    if recent is not None:
        for path in window.settings.recent:
            entry = recent.addAction(path.name)
            if entry is not None:
                entry.setToolTip(str(path))
                entry.triggered.connect(lambda _checked, path=path: window.desk.open(path))
        recent.setEnabled(bool(window.settings.recent))
        recent.setToolTipsVisible(True)
    for words in ("Copy the logbook to…", "Look at the demo"):
        menu.addAction(window.actions_by_name[words])
    menu.addSeparator()
    for words in ("Import logs…", "Undo", "Redo", "History of edits", "All actions…"):
        menu.addAction(window.actions_by_name[words])
    menu.addSeparator()
    menu.addAction(window.actions_by_name["Quit"])
    return menu
