"""Menus: under the logbook's name, on the head of a column, and what they do."""

import pytest
from PyQt6.QtWidgets import QLabel, QMenu
from reach import stop

from blunt_ruler.core.records.records import Role
from blunt_ruler.ui.bench.marks import SeverityMark
from blunt_ruler.ui.shell.logbook_menu import logbook_menu


def entries(menu):
    return {action.text(): action for action in menu.actions() if action.text()}


@pytest.fixture
def menu(demo_window, qtbot):
    def menu():
        made = logbook_menu(
            demo_window, demo_window.desk, demo_window.settings, demo_window.actions_of.menus
        )
        qtbot.addWidget(made)
        return made

    return menu


def test_the_menu_names_reviews_files_and_edits(menu, demo_window):
    found = entries(menu())
    assert {"Which link", "Which card", "New logbook…", "Open a logbook…"} <= set(found)
    assert {"Copy the logbook to…", "Bring in", "Edit", "Quit"} <= set(found)
    assert found["Which link"].isChecked()
    assert not found["Which card"].isChecked()


def test_a_review_is_chosen_from_it(menu, demo_window, settle):
    entries(menu())["Which card"].trigger()
    settle(demo_window)
    assert demo_window.desk.snapshot.review.id == "which-card"
    assert entries(menu())["Which card"].isChecked()


def test_recent_logbooks_are_offered_with_their_whole_path(menu, demo_window, settle, tmp_path):
    from blunt_ruler.demo.shipped import copy_demo

    other = copy_demo(tmp_path / "other.blunt")
    demo_window.desk.open(other)
    settle(demo_window)
    recent = next(one for one in menu().findChildren(QMenu) if one.title() == "Recent logbooks")
    offered = entries(recent)
    assert list(offered) == ["other.blunt", "demo.blunt"]
    assert offered["demo.blunt"].toolTip().endswith("demo.blunt")
    offered["demo.blunt"].trigger()
    settle(demo_window)
    assert demo_window.desk.snapshot.path.name == "demo.blunt"


def test_without_a_logbook_it_still_opens(window, qtbot):
    menu = logbook_menu(window, window.desk, window.settings, window.actions_of.menus)
    qtbot.addWidget(menu)
    found = entries(menu)
    assert "New logbook…" in found
    assert not found["Save"].isEnabled()
    assert not entries(found["Bring in"].menu())["Import logs…"].isEnabled()


def test_every_action_stands_in_it_with_its_key(menu, demo_window):
    made = menu()
    under = [entry.menu() for entry in made.actions() if entry.menu() is not None]
    found = {one for part in (made, *under) for one in part.actions()}
    assert set(demo_window.actions_of.by_name.values()) <= found
    assert demo_window.actions_of.by_name["Import logs…"].shortcut().toString() == "Ctrl+I"


def test_a_column_is_given_a_role_from_its_head(demo_window, settle, monkeypatch):
    monkeypatch.setattr(QMenu, "popup", lambda *_a: None)  # no pointer to grab without a screen
    page = stop(demo_window, "Board").cells
    page.heads.menu(2)
    menu = page.findChildren(QMenu)[-1]
    found = entries(menu)
    assert set(found) == {
        "Make it the base",
        "Make it the reference",
        "Make it under test",
        "One more reference",
        "Rename…",
        "Take it out of the review",
    }
    assert not found["Make it under test"].isEnabled()
    found["Make it the reference"].trigger()
    settle(demo_window)
    assert demo_window.desk.snapshot.review.rig_in(Role.REFERENCE) == "groyne-marram-12"
    menu.close()
    page.heads.menu(99)  # beyond the last column nothing opens


def test_what_was_found_against_a_rig_has_a_shape_and_words(demo_window, qtbot):
    demo_window.go_to("Bench")
    bench = stop(demo_window, "Bench")
    bench.choose_rig("sluice-marram-16")
    words = [one.text() for one in bench.evidence.findChildren(QLabel)]
    assert any("is asked for" in one for one in words)
    assert bench.evidence.findChildren(SeverityMark)
    bench.choose_rig("workbench-marram-12")
    qtbot.wait(5)
    assert not [one for one in bench.evidence.findChildren(SeverityMark) if one.isVisible()]
    words = [one.text() for one in bench.evidence.findChildren(QLabel) if one.isVisible()]
    assert any("no guarantee" in one for one in words), "nothing found is never called safe"


def test_a_typed_run_shows_what_was_typed(demo_window, settle):
    demo_window.go_to("Runs")
    runs = stop(demo_window, "Runs")
    runs.show_page("All runs")
    runs.show_run("built-in-ig-6_low-lantern-1080p_typed")
    settle(demo_window)
    words = " | ".join(one.text() for one in runs.evidence.findChildren(QLabel))
    assert "Typed figures, no trace" in words
    assert "519.0" in words
    runs.show_run("built-in-ig-6_lattice_1")
    settle(demo_window)
    words = " | ".join(one.text() for one in runs.evidence.findChildren(QLabel))
    assert "score" in words
