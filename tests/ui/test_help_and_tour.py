"""F1 opens the page of the stop one is at; the tour goes through nine steps and can be left."""

import re
from importlib.resources import files
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt, QUrl
from PyQt6.QtGui import QKeySequence
from reach import stop

import blunt_ruler
from blunt_ruler.core.analysis.rail_states import STOPS
from blunt_ruler.ui.desk.settings import demo_copy_path
from blunt_ruler.ui.shell.help_window import PAGES
from blunt_ruler.ui.shell.tour import shipped_steps

HELP = files("blunt_ruler").joinpath("help")


@pytest.mark.parametrize("name", STOPS)
def test_f1_opens_the_page_of_the_stop(demo_window, name):
    demo_window.go_to(name)
    action = demo_window.actions_of.by_name["Help on this stop"]
    assert action.shortcut() == QKeySequence("F1")
    action.trigger()
    window = demo_window.help_window
    assert window.isVisible()
    assert window.text.toPlainText().startswith(name)
    assert window.pages.currentText() == name
    window.close()


def test_links_lead_to_other_pages_and_back(demo_window):
    demo_window.go_to("Limits")
    demo_window.show_help()
    window = demo_window.help_window
    window.text.anchorClicked.emit(QUrl("figures.md"))
    assert window.pages.currentText() == "Figures"
    assert "Limits" in window.text.toPlainText()
    window.back.click()
    assert window.pages.currentText() == "Limits"
    assert not window.back.isEnabled()
    window.close()


@pytest.mark.parametrize("page", PAGES.values())
def test_every_page_is_shipped_with_what_it_leads_to(page):
    text = HELP.joinpath(page).read_text("utf-8")
    for target in re.findall(r"\]\(([^)#]+)", text):
        assert HELP.joinpath(target).is_file(), target


def test_the_tour_shows_nine_steps_over_the_demo(window, settle, qtbot):
    window.begin_tour()
    settle(window)
    assert window.desk.snapshot.path == demo_copy_path()
    steps = shipped_steps()
    assert len(steps) == 9
    for step in steps:
        assert window.tour.isVisible()
        assert window.tour.heading.text() == step.heading
        assert window.current_stop == step.stop
        qtbot.wait(1)
        window.tour.next.click()
    assert not window.tour.isVisible()


def test_it_is_left_at_any_step_and_goes_back(demo_window, qtbot, monkeypatch):
    monkeypatch.setattr(demo_window, "open_demo", lambda: None)
    demo_window.begin_tour()
    tour = demo_window.tour
    assert not tour.back.isEnabled()
    tour.next.click()
    tour.next.click()
    tour.back.click()
    assert tour.at == 1
    qtbot.keyClick(tour, Qt.Key.Key_Escape)
    assert not tour.isVisible()
    demo_window.go_to("Plan")
    assert stop(demo_window, "Plan").isVisible()
    demo_window.begin_tour()
    assert tour.at == 0
    tour.leave.click()
    assert not tour.isVisible()


@pytest.mark.parametrize("size", [(1024, 700), (1280, 800), (2200, 1300)])
def test_its_card_stays_inside_the_window(demo_window, qtbot, monkeypatch, size):
    monkeypatch.setattr(demo_window, "open_demo", lambda: None)
    demo_window.begin_tour()
    demo_window.resize(*size)
    qtbot.wait(20)
    assert demo_window.rect().contains(demo_window.tour.geometry())
    demo_window.tour.hide()


SHORTCUT = re.compile(r"\b(?:Ctrl|Alt)\+(?:Shift\+)?[A-Z0-9]\b|\bF\d+\b")
OTHERS = {"Ctrl+D": "Duplicate"}  # shortcuts of buttons


def test_shortcuts_that_are_named_do_what_is_said_beside_them(demo_window, settle):
    actions = {
        action.shortcut().toString(): name
        for name, action in demo_window.actions_of.by_name.items()
        if action.shortcut()
    } | OTHERS
    root = Path(blunt_ruler.__file__).parents[2]
    pages = [*(root / "src/blunt_ruler/help").glob("*.md"), *root.glob("docs/*.md")]
    pages += [root / "README.md", root / "src/blunt_ruler/resources/tour.toml"]
    seen = 0
    for page in pages:
        text = re.sub(r"\*Keys:\*.*?\n\n", "", page.read_text("utf-8"), flags=re.DOTALL)
        for sentence in re.split(r"(?<=[.:;])\s", text):
            for key in SHORTCUT.findall(sentence):
                assert key in actions, f"{page.name}: {key} does nothing"
                words = {word.lower().rstrip("s") for word in re.findall(r"\w{4,}", actions[key])}
                said = {word.lower().rstrip("s") for word in re.findall(r"\w{4,}", sentence)}
                same = {one for one in words if any(two.startswith(one[:4]) for two in said)}
                assert same, f"{page.name}: {key} is “{actions[key]}”, not “{sentence.strip()}”"
                seen += 1
    assert seen > 15
