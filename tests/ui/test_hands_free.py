"""Hands free: a script stands in for the game; it is started, timed, its log taken and judged."""

import re
import sys

import pytest
from PyQt6.QtWidgets import QAbstractSlider
from reach import stop

from blunt_ruler.core.analysis.hands_free import BadCommand, Told, parse_command
from blunt_ruler.core.measure.telemetry import Gauge
from blunt_ruler.core.records.records import Title
from blunt_ruler.ui.runs.consent import command_of
from blunt_ruler.ui.runs.hands_free_page import Phase

AT = "Runs"

GAME = """
import sys, time, random
folder, spread, frame_ms = sys.argv[1], float(sys.argv[2]), float(sys.argv[3])
random.seed(time.time_ns())
time.sleep(1.0)
level = frame_ms * random.gauss(1.0, spread)
rows = "\\n".join(f"{n},{level * random.gauss(1.0, 0.03):.3f}" for n in range(150))
open(f"{folder}/capture {time.time_ns()}.csv", "w").write("frame,frame time ms\\n" + rows + "\\n")
"""


@pytest.fixture
def hands(demo_window, settle, tmp_path):
    """The page on a cell of the demo, twenty times as fast as life, with an inbox."""
    (tmp_path / "game.py").write_text(GAME)
    folder = tmp_path / "in box"
    folder.mkdir()
    desk = demo_window.desk
    plan = desk.snapshot.contents.plans["which-link"]

    def shorten(_book, contents):
        short = plan.model_copy(update={"cool_down_s": 2.0, "repeats": 9})
        review = contents.reviews["which-link"]
        lines = review.thresholds.model_copy(update={"shortest_s": 0.5})
        return {
            "plans": {plan.id: short},
            "reviews": {review.id: review.model_copy(update={"thresholds": lines})},
        }

    desk.edit("shorten", shorten)
    settle(demo_window)
    demo_window.go_to("Runs")
    runs = stop(demo_window, "Runs")
    runs.show_page("Hands free")
    settle(demo_window)
    page = runs.page("Hands free")
    page.pace = 20.0  # passes of the demo take half a minute
    page.log_wait_s = 160.0
    demo_window.controllers["Runs"].watch(folder)
    page.test_folder = folder
    return page


def title_of(page, window):
    contents = window.desk.snapshot.contents
    return contents.titles[contents.cases[page.going.case_id].title_id]


def command(page, window, settle, spread="0.002", frame_ms="10"):
    """Write a start command to the title's facts."""
    script = page.test_folder.parent / "game.py"
    words = f'"{sys.executable}" "{script}" "{page.test_folder}" {spread} {frame_ms}'
    title = title_of(page, window).model_copy(update={"start_command": words})
    window.desk.edit("command", lambda _book, _contents: {"titles": {title.id: title}})
    settle(window)


def allow(page, qtbot):
    """Read a command to its end, and allow it."""
    tick, bar = page.command.allowed, page.command.text.verticalScrollBar()
    qtbot.waitUntil(lambda: page.command._file is not None, timeout=60_000)
    qtbot.wait(20)
    while bar.value() < bar.maximum():
        bar.triggerAction(QAbstractSlider.SliderAction.SliderPageStepAdd)
    qtbot.waitUntil(tick.isEnabled, timeout=60_000)
    tick.click()


def test_a_command_runs_only_when_shown_and_allowed_once(hands, demo_window, qtbot, settle):
    command(hands, demo_window, settle)
    assert hands.command.text.toPlainText().startswith(sys.executable)
    assert not hands.start.isEnabled()
    hands.toggle()  # as a shortcut would
    assert not hands.is_running
    allow(hands, qtbot)
    assert hands.start.isEnabled()
    command(hands, demo_window, settle, spread="0.003")  # another command was never shown
    assert not hands.start.isEnabled()
    command(hands, demo_window, settle)
    qtbot.waitUntil(hands.start.isEnabled, timeout=60_000)  # the first was not forgotten


def test_passes_follow_until_the_cell_is_as_narrow_as_the_plan_asks(
    hands, demo_window, qtbot, settle
):
    command(hands, demo_window, settle)
    allow(hands, qtbot)
    hands.machine.setCurrentText("play quillon-cord")
    rig_id, case_id = hands.going.rig_id, hands.going.case_id
    before = set(demo_window.desk.snapshot.contents.runs)
    notes = []
    hands.sounded.connect(notes.append)
    hands.start.click()
    qtbot.waitUntil(lambda: hands.phase is Phase.PASS, timeout=60_000)
    qtbot.waitUntil(lambda: not hands.is_running, timeout=60_000)
    runs = demo_window.desk.snapshot.contents.runs
    new = [run for key, run in runs.items() if key not in before]
    assert new
    assert {(run.rig_id, run.case_id) for run in new} == {(rig_id, case_id)}
    assert all(run.observed.gauge(Gauge.CARD_BUSY) is not None for run in new)
    assert notes
    assert hands.figure.text() not in ("", "–")
    assert hands.words.text().startswith("frames per second, 1")


def test_without_a_log_it_says_what_to_look_at(hands, demo_window, qtbot, settle):
    hands.log_wait_s = 10.0
    assert hands.start.isEnabled()  # no command: the title is started by hand
    hands.start.click()
    qtbot.waitUntil(lambda: not hands.is_running, timeout=60_000)
    assert "No log arrived within" in hands.found.text()
    assert "Is the capture on" in hands.then.text()


NO_COMMANDS = [
    ("/no/such/game -x", "/no/such/game is not there"),
    ("no-such-game -x", "there is no program “no-such-game”"),
    ("./game", "“./game” is not a full path"),
    ("games/run --fast", "is not a full path"),
    ("~/game", "is not a full path"),
    ('"open', "Close the quotes"),
    ('"" -x', "it is blank"),
    ("/etc/passwd", "is not a program"),
    ("/bin", "is not a program"),
    ("/bin/echo a\u3164b", "U+3164, which cannot be seen"),
    ("/bin/echo a\u00adb", "U+00AD, which cannot be seen"),
    ("/bin/echo a\tb", "U+0009, which cannot be seen"),
    ("/bin/echo a\u202eb", "U+202E, which cannot be seen"),
    ("/bin/echo a\x00b", "U+0000, which cannot be seen"),
]


@pytest.mark.parametrize(("text", "says"), NO_COMMANDS)
def test_what_is_no_command_says_why(text, says):
    with pytest.raises(BadCommand, match=re.escape(says)):
        command_of(text)


def test_a_name_is_looked_for_on_the_path_but_never_where_one_stands(tmp_path, monkeypatch):
    (tmp_path / "game").write_text("#!/bin/sh\n")
    (tmp_path / "game").chmod(0o755)
    monkeypatch.chdir(tmp_path)
    for path in ("", ".", ":/bin", "bin:/bin", f"./../{tmp_path.name}"):
        monkeypatch.setenv("PATH", path)
        with pytest.raises(BadCommand, match="no program “game”"):
            command_of("game")
    monkeypatch.setenv("PATH", f".:{tmp_path}")
    assert command_of("game -x").parts == (str(tmp_path / "game"), "-x")


def test_a_command_that_cannot_be_run_is_neither_allowed_nor_run(hands, demo_window, settle):
    for text, says in (NO_COMMANDS[0], NO_COMMANDS[5], ("/bin/echo a\u202eb", "U+FFFD")):
        title = title_of(hands, demo_window).model_dump() | {"start_command": text}
        title = Title.model_validate(title)
        demo_window.desk.edit("x", lambda _book, _contents, one=title: {"titles": {one.id: one}})
        settle(demo_window)
        assert says in hands.command.text.toPlainText()
        assert hands.command.allowed.isHidden()
        assert not hands.start.isEnabled()
        assert says in hands.start.toolTip()
        assert hands.title.words == ""
        hands.toggle()
        assert not hands.is_running
        assert not hands.title.is_running


def give(page, window, settle, qtbot, words):
    """A title with a start command that is allowed."""
    title = title_of(page, window).model_copy(update={"start_command": words})
    window.desk.edit("command", lambda _book, _contents: {"titles": {title.id: title}})
    settle(window)
    if not page.command.allowed.isChecked():
        allow(page, qtbot)


@pytest.mark.parametrize(
    ("ends", "says"), [("exit 3", "ended with code 3"), ("kill -SEGV $$", "by signal 11")]
)
def test_a_title_that_ends_early_halts_the_sitting(hands, demo_window, qtbot, settle, ends, says):
    give(hands, demo_window, settle, qtbot, f"sh -c '{ends}'")
    hands.start.click()
    qtbot.waitUntil(lambda: not hands.is_running, timeout=60_000)
    assert says in hands.found.text()
    assert "before the pass was over" in hands.found.text()


def test_a_title_that_ends_well_but_early_is_noted(hands, demo_window, qtbot, settle):
    give(hands, demo_window, settle, qtbot, "sh -c 'exit 0'")
    hands.start.click()
    qtbot.waitUntil(lambda: hands.phase is Phase.PASS, timeout=60_000)
    assert "ended with code 0" in hands.then.text()
    hands.start.click()


def test_consent_that_is_withdrawn_ends_the_title_and_says_so(hands, demo_window, qtbot, settle):
    give(hands, demo_window, settle, qtbot, "sleep 600")
    hands.start.click()
    assert hands.title.is_running
    hands.command.allowed.click()
    assert not hands.is_running
    assert "may not be run any more" in hands.found.text()
    qtbot.waitUntil(lambda: not hands.title.is_running, timeout=60_000)
    hands.toggle()
    assert not hands.is_running
    assert not hands.title.is_running


def test_another_title_does_not_start_while_the_first_runs(hands, demo_window, qtbot, settle):
    give(hands, demo_window, settle, qtbot, "sleep 600")
    hands.start.click()
    qtbot.waitUntil(lambda: hands.phase is Phase.PASS, timeout=60_000)
    hands._halt(Told("60", "", "done", "Next.", False))  # as when the cell is done
    assert hands.title.is_running
    give(hands, demo_window, settle, qtbot, "sleep 601")
    assert not hands.start.isEnabled()
    assert "sleep 600 is still running" in hands.start.toolTip()
    hands.toggle()
    assert not hands.is_running
    assert hands.title.words.endswith("sleep 600")
    assert hands.end.isVisible()
    hands.end.click()
    qtbot.waitUntil(hands.start.isEnabled, timeout=60_000)


def test_stop_ends_the_title(hands, demo_window, qtbot, settle):
    give(hands, demo_window, settle, qtbot, "sh -c 'sleep 600 & sleep 600'")
    hands.start.click()
    qtbot.waitUntil(lambda: hands.phase is Phase.PASS, timeout=60_000)
    hands.start.click()
    qtbot.waitUntil(lambda: not hands.title.is_running, timeout=60_000)
    assert hands.found.text() == "Stopped."


def test_stop_stops_and_the_same_case_goes_on(hands, qtbot):
    going = hands.going
    hands.start.click()
    qtbot.waitUntil(lambda: hands.phase is Phase.PASS, timeout=60_000)
    hands.start.click()
    assert not hands.is_running
    assert hands.found.text() == "Stopped."
    assert hands.going == going


@pytest.mark.parametrize(
    ("text", "parts"),
    [
        ("game --benchmark 1", ("game", "--benchmark", "1")),
        ('"/my games/run" "a b"', ("/my games/run", "a b")),
        ("/spiele/größe -x", ("/spiele/größe", "-x")),
        ("game; rm -r x", ("game;", "rm", "-r", "x")),  # no shell: words, and nothing else
        ("game | tee $HOME", ("game", "|", "tee", "$HOME")),
    ],
)
def test_a_command_is_a_program_and_its_arguments(text, parts):
    assert parse_command(text) == parts


def test_a_command_is_a_fact_of_its_title():
    assert Title.model_fields["start_command"].description == "start command"
