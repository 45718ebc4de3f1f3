"""Welcome, notices, settings, write-up and history: the small views a reviewer meets first."""

import json
from pathlib import Path

from PyQt6.QtCore import QByteArray, Qt
from PyQt6.QtWidgets import QAbstractButton, QFileDialog
from reach import stop

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.demo.shipped import copy_demo
from blunt_ruler.logbook import JournalEntry, Logbook
from blunt_ruler.logbook.journal import Image
from blunt_ruler.ui.desk.notices import Banner
from blunt_ruler.ui.desk.settings import MOST_RECENT, Settings, demo_copy_path, first_logbook_path
from blunt_ruler.ui.kit.theme import ThemeName
from blunt_ruler.ui.shell.history import HistoryDialog


def button(widget, words):
    return next(one for one in widget.findChildren(QAbstractButton) if one.text() == words)


def test_the_welcome_offers_three_ways_in(window, qtbot, settle, monkeypatch, tmp_path):
    assert window.stack.currentWidget() is window.welcome
    monkeypatch.setattr(
        QFileDialog, "getSaveFileName", lambda *_a, **_k: (str(tmp_path / "a.blunt"), "")
    )
    qtbot.mouseClick(button(window.welcome, "New logbook…"), Qt.MouseButton.LeftButton)
    settle(window)
    assert window.stack.currentWidget() is stop(window, "Board").view
    assert "No rigs in this review yet" in stop(window, "Board").blunt.text()
    monkeypatch.setattr(
        QFileDialog, "getOpenFileName", lambda *_a, **_k: (str(tmp_path / "none.blunt"), "")
    )
    button(window.welcome, "Open a logbook…").click()
    settle(window)
    assert "no such file" in window.banner.words.text()
    button(window.welcome, "Look at the demo").click()
    settle(window)
    assert window.desk.snapshot.path == demo_copy_path()


def test_the_first_key_of_the_empty_window_is_enough(window, qtbot, settle):
    """1 begins a logbook and asks for the first rig; nothing but keys."""
    qtbot.waitUntil(lambda: window.welcome.isAncestorOf(window.focusWidget()))
    qtbot.keyClick(window.focusWidget(), Qt.Key.Key_Right)
    assert window.focusWidget() is window.welcome.ways["2"]
    qtbot.keyClick(window.focusWidget(), Qt.Key.Key_1)
    settle(window)
    assert window.current_stop == "Board"
    editor = window.controllers["Board"].stop.cells.typing.editor
    assert editor.accessibleName() == "New rig"
    assert editor.hasFocus()


def test_three_is_the_demo(window, qtbot, settle):
    qtbot.keyClick(window.welcome.ways["1"], Qt.Key.Key_3)
    settle(window)
    assert window.desk.snapshot.path == demo_copy_path()


def test_leaving_a_file_dialog_changes_nothing(demo_window, settle, monkeypatch):
    for name in ("getSaveFileName", "getOpenFileName"):
        monkeypatch.setattr(QFileDialog, name, lambda *_a, **_k: ("", ""))
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *_a, **_k: ([], ""))
    before = demo_window.desk.snapshot
    for words in ("New logbook…", "Open a logbook…", "Copy the logbook to…", "Import logs…"):
        demo_window.actions_of.by_name[words].trigger()
    demo_window.actions_of.by_name["Export the Board as CSV…"].trigger()
    settle(demo_window)
    assert demo_window.desk.snapshot is before


def test_the_board_is_exported_from_its_action(demo_window, settle, monkeypatch, tmp_path):
    path = tmp_path / "board.csv"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_a, **_k: (str(path), ""))
    demo_window.actions_of.by_name["Export the Board as CSV…"].trigger()
    settle(demo_window)
    assert path.read_text("utf-8").startswith("review,rig")
    assert "Written" in demo_window.banner.words.text()


def test_an_export_that_cannot_be_written_says_so(demo_window, settle, tmp_path):
    (tmp_path / "file").write_text("")
    demo_window.controllers["Board"].export(tmp_path / "file" / "board.csv")
    settle(demo_window)
    assert "Choose another folder" in demo_window.banner.words.text()


def test_errors_stay_until_dismissed_and_news_goes(dressed, qtbot, monkeypatch):
    monkeypatch.setattr("blunt_ruler.ui.desk.notices.SAID_FOR_MS", 30)
    banner = Banner()
    qtbot.addWidget(banner)
    banner.show_said("Copied")
    assert banner.isVisible()
    qtbot.waitUntil(lambda: not banner.isVisible(), timeout=60_000)
    banner.show_said("Copied")
    banner.show_error(UserFixable("coast.csv", "it is empty", "Give another"))
    qtbot.wait(80)
    assert banner.isVisible()
    assert banner.words.text() == "coast.csv: it is empty. Give another."
    button(banner, "Dismiss").click()
    assert not banner.isVisible()


def test_settings_remember_themes_places_and_recent_logbooks(dressed, tmp_path):
    settings = Settings()
    assert settings.theme is ThemeName.AUTO
    assert settings.recent == []
    settings.theme = ThemeName.SLATE
    settings.geometry = QByteArray(b"here")
    for number in range(MOST_RECENT + 3):
        path = tmp_path / f"{number}.blunt"
        path.write_text("")
        settings.add_recent(path)
    (tmp_path / "9.blunt").unlink()
    again = Settings()
    assert again.theme is ThemeName.SLATE
    assert bytes(again.geometry) == b"here"
    assert again.recent[0].name == "10.blunt"
    assert len(again.recent) == MOST_RECENT - 1  # the one that is gone is not offered
    again._store.setValue("theme", "plaid")
    assert Settings().theme is ThemeName.AUTO


def test_a_logbook_made_without_asking_takes_a_free_name():
    first = first_logbook_path()
    assert first.parent.is_dir()
    first.write_text("")
    assert first_logbook_path().name == "logbook 2.blunt"


def test_the_history_shows_what_was_added_removed_and_undone(dressed, qtbot):
    removed, added = Image("rigs", "a", "{}", None), Image("rigs", "a", None, "{}")
    entries = [
        JournalEntry(2, "2026-10-05T10:00:00+00:00", "drop", "undone", (removed,)),
        JournalEntry(1, "2026-10-05T09:00:00+00:00", "add", "done", (added,)),
    ]
    dialog = HistoryDialog(entries)
    qtbot.addWidget(dialog)
    rows = [dialog.tree.topLevelItem(number) for number in range(2)]
    assert [row.text(0) for row in rows] == ["drop", "add"]
    assert rows[0].text(1) == "2026-10-05 10:00:00"
    assert rows[0].text(2) == "undone"
    assert [row.child(0).text(1) for row in rows] == ["removed", "added"]


def test_the_writeup_waits_for_figures(window, settle, tmp_path):
    window.desk.create(tmp_path / "new.blunt")
    settle(window)
    window.go_to("Write-up")
    assert "Nothing to write up yet" in stop(window, "Write-up").blunt.text()
    assert not stop(window, "Write-up").export.isEnabled()


def test_the_shipped_files_are_whole():
    import blunt_ruler

    root = Path(blunt_ruler.__file__).parent
    fonts = sorted(path.suffix for path in (root / "resources/fonts").iterdir())
    assert sorted(fonts) == [".ttf", ".ttf", ".ttf", ".ttf", ".txt"]
    assert json.loads((root / "exchange/parts/catalogue.json").read_text("utf-8"))
    sheet = (root / "resources/style.qss").read_text("utf-8")
    from dataclasses import fields

    from blunt_ruler.core.drawing.palette import Theme

    names = {f"${field.name}$" for field in fields(Theme)} | {"$arrow$", "$tick$"}
    used = {f"${part}$" for part in sheet.split("$")[1::2]}
    assert used <= names


def test_a_stop_with_nothing_to_show_draws_what_will_be_there(window, settle, tmp_path):
    from blunt_ruler.ui.kit.sketch import Sketch

    Logbook.create(tmp_path / "empty.blunt").close()
    window.desk.open(tmp_path / "empty.blunt")
    settle(window)
    for name, words, where in (
        ("Limits", "Go to Runs", "Runs"),
        ("Worth", "Describe a rig", "Bench"),
        ("Write-up", "Go to Runs", "Runs"),
    ):
        window.go_to(name)
        view = stop(window, name)
        (drawn,) = view.findChildren(Sketch)
        assert drawn.isVisible() and drawn.accessibleName()
        picture = drawn.grab().toImage()
        at = [(x, y) for x in range(picture.width()) for y in range(picture.height())]
        assert len({picture.pixel(*one) for one in at}) > 2
        button(view, words).click()
        assert window.current_stop == where
    assert [one.isVisible() for one in stop(window, "Runs").findChildren(Sketch)] == [True]
    window.desk.open(copy_demo(tmp_path / "demo.blunt"))
    settle(window)
    window.go_to("Worth")
    settle(window)
    assert not any(one.isVisible() for one in stop(window, "Worth").findChildren(Sketch))


def test_limits_that_lack_only_parts_of_rigs_lead_to_the_bench(window, settle, demo_book):
    with Logbook.open(demo_book) as book:
        bare = {"host_id": None, "card_id": None, "link_id": None}
        rigs = [one.model_copy(update=bare) for one in book.contents().rigs.values()]
        book.commit("names alone", put=rigs)
    window.desk.open(demo_book)
    settle(window)
    window.go_to("Limits")
    settle(window)
    view = stop(window, "Limits")
    assert "described rig" in view.blunt.text()
    button(view, "Describe rigs").click()
    assert window.current_stop == "Bench"
