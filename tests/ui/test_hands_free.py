"""Hands free: a script stands in for the game; it is started, timed, its log taken and judged."""

import sys

import pytest
from reach import stop

from blunt_ruler.core.analysis.hands_free import BadCommand, parse_command
from blunt_ruler.core.measure.telemetry import Gauge
from blunt_ruler.core.records.records import Title
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


def test_a_command_runs_only_when_shown_and_allowed_once(hands, demo_window, settle):
    command(hands, demo_window, settle)
    assert hands.command.toolTip().startswith(sys.executable)
    assert not hands.start.isEnabled()
    hands.toggle()  # as a shortcut would
    assert not hands.is_running
    hands.allowed.click()
    assert hands.start.isEnabled()
    assert demo_window.settings.is_allowed(hands._command())
    command(hands, demo_window, settle, spread="0.003")  # another command was never shown
    assert not hands.start.isEnabled()


def test_passes_follow_until_the_cell_is_as_narrow_as_the_plan_asks(
    hands, demo_window, qtbot, settle
):
    command(hands, demo_window, settle)
    hands.allowed.click()
    hands.machine.setCurrentText("play quillon-cord")
    rig_id, case_id = hands.going.rig_id, hands.going.case_id
    before = set(demo_window.desk.snapshot.contents.runs)
    notes = []
    hands.sounded.connect(notes.append)
    hands.start.click()
    qtbot.waitUntil(lambda: hands.phase is Phase.PASS, timeout=5000)
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
    qtbot.waitUntil(lambda: not hands.is_running, timeout=10_000)
    assert "No log arrived within" in hands.found.text()
    assert "Is the capture on" in hands.then.text()


def test_a_program_that_is_not_there_is_one_sentence(hands, demo_window, qtbot, settle):
    title = title_of(hands, demo_window).model_copy(update={"start_command": "/no/such/game -x"})
    demo_window.desk.edit("command", lambda _book, _contents: {"titles": {title.id: title}})
    settle(demo_window)
    hands.allowed.click()
    hands.start.click()
    qtbot.waitUntil(lambda: not hands.is_running, timeout=10_000)
    assert "/no/such/game -x could not be started" in hands.found.text()


def test_a_command_that_cannot_be_read_is_neither_allowed_nor_run(hands, demo_window, settle):
    title = title_of(hands, demo_window).model_copy(update={"start_command": '"open'})
    demo_window.desk.edit("command", lambda _book, _contents: {"titles": {title.id: title}})
    settle(demo_window)
    assert "No closing quotation" in hands.command.toolTip()
    assert hands.allowed.isHidden()
    assert not hands.start.isEnabled()
    assert "Close the quotes" in hands.start.toolTip()


def test_stop_stops_and_the_same_case_goes_on(hands, qtbot):
    going = hands.going
    hands.start.click()
    qtbot.waitUntil(lambda: hands.phase is Phase.PASS, timeout=5000)
    hands.start.click()
    assert not hands.is_running
    assert hands.found.text() == "Stopped."
    assert hands.going == going


@pytest.mark.parametrize(
    ("text", "parts"),
    [
        ("game --benchmark 1", ("game", "--benchmark", "1")),
        ('"/my games/run" "a b"', ("/my games/run", "a b")),
        ("game; rm -r x", ("game;", "rm", "-r", "x")),  # no shell: words, and nothing else
        ("game | tee $HOME", ("game", "|", "tee", "$HOME")),
    ],
)
def test_a_command_is_a_program_and_its_arguments(text, parts):
    assert parse_command(text) == parts


@pytest.mark.parametrize(("text", "says"), [('"open', "No closing quotation"), ("  ", "blank")])
def test_a_command_that_is_none_says_so(text, says):
    with pytest.raises(BadCommand, match=says):
        parse_command(text)


def test_a_command_is_a_fact_of_its_title():
    assert Title.model_fields["start_command"].description == "start command"
