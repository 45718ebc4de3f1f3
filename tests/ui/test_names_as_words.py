"""Names of strangers with tags, entities, turned-around letters and breaks in them: on every page
they are words and nothing else.
"""

import html
import re
import sqlite3

import pytest
from PyQt6.QtCore import QAbstractItemModel, QModelIndex, Qt
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QAbstractButton, QLabel, QTableView, QTreeView, QWidget
from reach import every_page

from blunt_ruler.core.records.edits import Edit
from blunt_ruler.logbook import Logbook
from blunt_ruler.ui.shell.logbook_menu import logbook_menu

BAIT = "<b>x</b><!-- seen? --> &amp;q \u202egnp\nz"
SHOWN = "<b>x</b><!-- seen? --> &amp;q \ufffdgnp z"
TABLES = ("rigs", "hosts", "links", "docks", "cards", "titles", "reviews", "supplies")
ROLES = (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.ToolTipRole)


@pytest.fixture
def baited(window, demo_book, settle):
    with sqlite3.connect(demo_book) as db:
        there = {name for (name,) in db.execute("select name from sqlite_schema")}
        for table in there & set(TABLES):
            db.execute(
                f"update {table} set body = json_set(body, '$.name', json_extract(body, '$.name')"
                " || ?) where json_extract(body, '$.name') is not null",
                (f" {BAIT}",),
            )
    with Logbook.open(demo_book) as book:
        contents = book.contents()
        assert not book.set_apart
        for table in ("rigs", "titles", "cards"):
            assert all(SHOWN in one.name for one in getattr(contents, table).values()), table
    window.desk.open(demo_book)
    settle(window)
    return window


def is_plain(text):
    """Whether Qt shows the text letter by letter, or it is markup in which the bait is escaped."""
    assert "\u202e" not in text
    if not Qt.mightBeRichText(text):
        return True
    return "<b>x" not in text and "<!--" not in text


def texts_of_model(model: QAbstractItemModel, most_rows=40):
    root = QModelIndex()
    for row in range(min(model.rowCount(root), most_rows)):
        for column in range(model.columnCount(root)):
            for role in ROLES:
                yield role, model.index(row, column, root).data(role)
    for way, count in (
        (Qt.Orientation.Horizontal, model.columnCount(root)),
        (Qt.Orientation.Vertical, min(model.rowCount(root), most_rows)),
    ):
        for section in range(count):
            for role in ROLES:
                yield role, model.headerData(section, way, role)


def faults_of(window):
    """What a look at all that is on screen finds, and how often the bait was met."""
    found, met = [], 0
    for part in (window, *window.findChildren(QWidget)):
        where = f"{type(part).__name__} {part.accessibleName()[:40]!r}"
        if not is_plain(part.toolTip()):
            found.append(f"tooltip of {where}: {part.toolTip()!r}")
        met += "<b>x" in html.unescape(part.toolTip())
        is_auto = isinstance(part, QLabel) and part.textFormat() == Qt.TextFormat.AutoText
        if is_auto and not is_plain(part.text()):
            found.append(f"label {where}: {part.text()!r}")
        if isinstance(part, QAbstractButton) and re.search("(?<!&)&amp", part.text()):
            found.append(f"button {where}: {part.text()!r}")
        if isinstance(part, QTableView | QTreeView) and part.model() is not None:
            for role, value in texts_of_model(part.model()):
                if isinstance(value, str):
                    met += "<b>x" in html.unescape(value)
                    if role == Qt.ItemDataRole.ToolTipRole and not is_plain(value):
                        found.append(f"cell of {where}: {value!r}")
    for action in window.findChildren(QAction):
        if re.search("(?<!&)&amp", action.text()):
            found.append(f"action {action.text()!r}")
        if not is_plain(action.toolTip()):
            found.append(f"tooltip of an action: {action.toolTip()!r}")
    return found, met


def test_on_every_page_names_are_words(baited, settle):
    found, met = [], 0
    for name, page in every_page(baited, settle):
        faults, there = faults_of(baited)
        found += [f"{name}, {page}: {fault}" for fault in faults]
        met += there
    assert not found, "\n".join(sorted(set(found)))
    assert met > 200, "the bait is on screen"


def test_the_menu_under_the_logbook_names_reviews_as_they_are(baited, settle):
    review = baited.desk.snapshot.review

    edit = Edit("rename <b>to</b> Q & A", (review.model_copy(update={"name": "Q & A"}),))
    baited.desk.apply(edit)
    settle(baited)
    menu = logbook_menu(baited, baited.desk, baited.settings, baited.actions_of.menus)
    under = [entry.menu() for entry in menu.actions() if entry.menu() is not None]
    texts = [action.text() for part in (menu, *under) for action in part.actions()]
    assert "Q && A" in texts
    assert "Undo: rename <b>to</b> Q && A" in texts
