"""The menu under the logbook's name: reviews, files, edits."""

from collections.abc import Mapping

from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QMenu, QWidget

from blunt_ruler.ui.desk.desk import Desk
from blunt_ruler.ui.desk.settings import Settings
from blunt_ruler.ui.kit.tips import no_shortcut, plain_tip

REVIEW_ACTIONS = (
    "New review…",
    "Rename the review…",
    "Duplicate the review…",
    "Delete the review",
)


def logbook_menu(
    parent: QWidget, desk: Desk, settings: Settings, actions: Mapping[str, QAction]
) -> QMenu:
    """Reviews, new, open, recent, copy, undo and redo, of the present logbook."""
    menu = QMenu(parent)
    snapshot = desk.snapshot
    if snapshot is not None:
        for review in snapshot.contents.reviews.values():
            entry = menu.addAction(no_shortcut(review.name))
            if entry is not None:
                entry.setCheckable(True)
                entry.setChecked(snapshot.review is review)
                entry.triggered.connect(lambda _checked, key=review.id: desk.choose_review(key))
        menu.addSeparator()
        for words in REVIEW_ACTIONS:
            menu.addAction(actions[words])
        menu.addSeparator()
    for words in ("New logbook…", "Open a logbook…"):
        menu.addAction(actions[words])
    recent = menu.addMenu("Recent logbooks")
    if recent is not None:
        for path in settings.recent:
            entry = recent.addAction(no_shortcut(path.name))
            if entry is not None:
                entry.setToolTip(plain_tip(str(path)))
                entry.triggered.connect(lambda _checked, path=path: desk.open(path))
        recent.setEnabled(bool(settings.recent))
        recent.setToolTipsVisible(True)
    for words in ("Copy the logbook to…", "Look at the demo", "Tour of the demo"):
        menu.addAction(actions[words])
    menu.addSeparator()
    for words in (
        "Import logs…",
        "Import a folder of logs…",
        "Read a recording…",
        "Undo",
        "Redo",
        "History of edits",
        "All actions…",
        "Help on this stop",
    ):
        menu.addAction(actions[words])
    menu.addSeparator()
    menu.addAction(actions["Quit"])
    return menu
