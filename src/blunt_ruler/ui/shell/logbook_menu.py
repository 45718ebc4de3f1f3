"""The menu under the logbook's name: its reviews, and every action with its key."""

from collections.abc import Mapping, Sequence

from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QMenu, QWidget

from blunt_ruler.ui.desk.desk import Desk
from blunt_ruler.ui.desk.settings import Settings
from blunt_ruler.ui.kit.tips import no_shortcut, plain_tip


def logbook_menu(
    parent: QWidget,
    desk: Desk,
    settings: Settings,
    menus: Mapping[str, Sequence[QAction]],
) -> QMenu:
    """The reviews of the present logbook, what is done with files, and a menu for all else.

    `menus` has all actions by the menu they stand in; the first holds those of files and, last,
    the one that quits.
    """
    menu = QMenu(parent)
    snapshot = desk.snapshot
    (*files, leave), *others = menus.values()
    if snapshot is not None:
        for review in snapshot.contents.reviews.values():
            entry = menu.addAction(no_shortcut(review.name))
            if entry is not None:
                entry.setCheckable(True)
                entry.setChecked(snapshot.review is review)
                entry.triggered.connect(lambda _checked, key=review.id: desk.choose_review(key))
        menu.addSeparator()
    menu.addActions(files[:2])
    _add_recent(menu, desk, settings)
    menu.addActions(files[2:])
    menu.addSeparator()
    for name, actions in zip(list(menus)[1:], others, strict=True):
        under = menu.addMenu(name)
        if under is not None:
            under.addActions(actions)
    menu.addSeparator()
    menu.addAction(leave)
    return menu


def _add_recent(menu: QMenu, desk: Desk, settings: Settings) -> None:
    recent = menu.addMenu("Recent logbooks")
    if recent is None:
        return
    for path in settings.recent:
        entry = recent.addAction(no_shortcut(path.name))
        if entry is not None:
            entry.setToolTip(plain_tip(str(path)))
            entry.triggered.connect(lambda _checked, path=path: desk.open(path))
    recent.setEnabled(bool(settings.recent))
    recent.setToolTipsVisible(True)
