"""The guided tour of docs/first-review.md, followed key by key as it is written there."""

import re
from pathlib import Path

import pytest
from PyQt6.QtGui import QKeySequence
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from reach import stop

from blunt_ruler.core.records.roles import Role

TOUR = Path(__file__).parents[2] / "docs" / "first-review.md"
NAMED = {"Enter": "Return", "Esc": "Escape"}
TOKEN = re.compile(r"`([^`]+)`|([A-Z][\w+]*)(?: \((\d+) times\))?")


def keys_of_the_tour():
    """The keys of each numbered step: what is typed, and keys by their names."""
    text = TOUR.read_text("utf-8")
    steps = re.split(r"\n(?=\d+\. )", text)
    found = []
    for step in steps[1:]:
        (line,) = re.findall(r"\*Keys:\*(.*?)(?:\n\n|\Z)", step, re.DOTALL)
        found.append(tokens_of(line))
    return found


def tokens_of(text):
    tokens = []
    for typed, key, times in TOKEN.findall(" ".join(text.split())):
        tokens += [("type", typed)] if typed else [("press", key)] * int(times or 1)
    return tokens


def play(tokens, window, settle):
    for kind, what in tokens:
        at = QApplication.focusWidget() or window
        if kind == "type":
            for letter in what:
                QTest.keyClicks(QApplication.focusWidget() or window, letter)
        else:
            sequence = QKeySequence("+".join(NAMED.get(one, one) for one in what.split("+")))
            combination = sequence[0]
            QTest.keyClick(at, combination.key(), combination.keyboardModifiers())
            if "+" in what:  # a command, whose work is waited for
                settle(window)
    settle(window)


@pytest.fixture
def followed(window, settle, tmp_path, monkeypatch):
    """The window after each step, as the tour says it."""
    monkeypatch.setattr(
        "blunt_ruler.ui.shell.window.remembered.first_logbook_path", lambda: tmp_path / "tour.blunt"
    )
    window.go_to("Board")

    def follow(steps):
        for tokens in steps:
            play(tokens, window, settle)
            yield window.controllers[window.current_stop].stop

    return follow(keys_of_the_tour())


def test_the_tour_leads_where_it_says(window, followed, settle, monkeypatch):
    from blunt_ruler.ui.runs import whole_plan

    short = whole_plan.Setting
    monkeypatch.setattr(
        whole_plan, "Setting", lambda title, size, preset, _s: short(title, size, preset, 30.0)
    )

    def contents():
        return window.desk.snapshot.contents

    next(followed)
    assert window.desk.snapshot.path.name == "tour.blunt"
    bench = next(followed)
    rigs = {rig.name: rig for rig in contents().rigs.values()}
    assert list(rigs) == ["Built-in iG-6", "Sluice Marram 12", "Workbench Marram 12"]
    hosts = [contents().host_of(rig.id).name for rig in rigs.values()]
    assert hosts == ["Quillon 24", "Quillon 24", "Workbench"]
    assert contents().link_of(rigs["Sluice Marram 12"].id).hops[0].tunnel_gbps == 40
    assert bench.rigs.on_ghost()
    next(followed)
    assert len(window.desk.snapshot.review.case_ids) == 1
    runs = next(followed)
    assert len(contents().runs) == 9
    assert runs.current == "Findings"
    checked = window.desk.snapshot.analysis.checked
    menus = [one for one in checked.findings if one.check == "menu_left_in"]
    assert {contents().runs[one.run_id].repeat for one in menus} == {2}
    assert "faulty on purpose" in window.banner.words.text()
    board = next(followed)
    assert "Marram 12" in board.blunt.text()
    assert window.desk.snapshot.review.rig_in(Role.BASE) == rigs["Built-in iG-6"].id
    assert window.desk.snapshot.review.references == (rigs["Workbench Marram 12"].id,)
    assert [step.accessibleName() for step in followed] == ["Limits", "Worth", "Write-up"]
    assert (
        "3 cells over 3 rigs and 1 case are ready to export"
        in stop(window, "Write-up").blunt.text()
    )


def test_figures_by_eye_take_less(window, settle, tmp_path, monkeypatch):
    monkeypatch.setattr(
        "blunt_ruler.ui.shell.window.remembered.first_logbook_path", lambda: tmp_path / "eye.blunt"
    )
    window.go_to("Board")
    said = re.search(r"take less: (.*?)\n\n", TOUR.read_text("utf-8"), re.DOTALL)[1]
    play(tokens_of(said), window, settle)
    assert "Sluice" in stop(window, "Board").blunt.text()
    assert len(window.desk.snapshot.contents.runs) == 3
