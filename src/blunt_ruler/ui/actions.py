"""Every action of the window, declared once: its name, its keys, what it does."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtGui import QAction, QKeySequence

from blunt_ruler.core.analysis.rail_states import STOPS
from blunt_ruler.core.board.lenses import Lens
from blunt_ruler.core.records.roles import Role
from blunt_ruler.ui import theme

if TYPE_CHECKING:
    from blunt_ruler.ui.window import MainWindow


def make_actions(window: "MainWindow") -> dict[str, QAction]:
    """All actions by name. Those with the property `needs_book` wait for an open logbook."""
    actions: dict[str, QAction] = {}

    def add(
        words: str,
        keys: QKeySequence.StandardKey | str,
        slot: Callable[[], object],
        needs_book: bool = False,
    ) -> None:
        action = QAction(words, window)
        if keys:
            action.setShortcut(QKeySequence(keys))
        action.setProperty("needs_book", needs_book)
        action.triggered.connect(lambda _checked=False: slot())
        window.addAction(action)
        actions[words] = action

    keys = QKeySequence.StandardKey
    add("New logbook…", keys.New, window.ask_new)
    add("Open a logbook…", keys.Open, window.ask_open)
    add("Copy the logbook to…", "Ctrl+Shift+S", window.ask_copy, needs_book=True)
    add("Look at the demo", "", window.open_demo)
    add("Import logs…", "Ctrl+I", window.ask_import, needs_book=True)
    add("Take the next run", "Ctrl+T", window.take_next, needs_book=True)
    add("Undo", keys.Undo, window.desk.undo, needs_book=True)
    add("Redo", "Ctrl+Shift+Z", window.desk.redo, needs_book=True)
    add("History of edits", "Ctrl+H", window.show_history, needs_book=True)
    for number, name in enumerate(STOPS, start=1):
        add(f"Go to {name}", f"Alt+{number}", lambda n=name: window.go_to(n))
    for number, lens in enumerate(Lens, start=1):
        add(
            f"Lens: {lens}",
            f"Ctrl+{number}" if number < 10 else "",
            lambda one=lens: window.show_lens(one),
        )
    for role, key in ((Role.BASE, "B"), (Role.REFERENCE, "R"), (Role.TESTED, "T")):
        add(
            f"Chosen rig: make it {role}",
            f"Ctrl+Shift+{key}",
            lambda role=role: window.desk.give_role(window.board.chosen_rig(), role),
            needs_book=True,
        )
    add("Chosen rig: rename", "F2", lambda: window.board.rename_chosen(), needs_book=True)
    add("Copy the chosen cell", "Ctrl+Shift+C", lambda: window.board.copy_cell(), needs_book=True)
    for kind in ("text", "csv", "picture"):
        add(f"Copy the Board as {kind}", "", lambda kind=kind: window.board.copy_board(kind), True)
    add("Export the Board as CSV…", "", window.ask_export, True)
    add("Write the report…", "Ctrl+E", window.write_report, True)
    for name in theme.ThemeName:
        add(f"Theme: {name}", "", lambda name=name: window.pin_theme(name))
    add("Logbook menu", "Alt+L", window.show_logbook_menu)
    add("All actions…", "Ctrl+K", lambda: window.palette_list.open())
    add("Quit", keys.Quit, window.close)
    return actions
