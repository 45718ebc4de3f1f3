"""A window that was killed, or that crashed, does not take the next one with it."""

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from blunt_ruler.ui.desk.jobs import Jobs
from blunt_ruler.ui.shell.unclean import OpenMark, ended_unexpectedly

BIN = Path(sys.executable).parent / "blunt-ruler"
AGAIN = """
import sys
from pathlib import Path
from PyQt6.QtCore import QTimer
from blunt_ruler.ui.shell import window as windows
from blunt_ruler.ui.shell.app import run_app
class Watched(windows.MainWindow):
    def __init__(self, settings):
        super().__init__(settings)
        QTimer.singleShot(2500, self.look)
    def look(self):
        print(self.desk.snapshot is None, self.current_stop, self.banner.words.text(), sep="|")
        self.banner.offer.click()
        QTimer.singleShot(4000, self.look_again)
    def look_again(self):
        print(self.desk.snapshot.path.name, self.current_stop, sep="|")
        self.close()
import blunt_ruler.ui.shell.app
blunt_ruler.ui.shell.app.MainWindow = Watched
run_app([])
"""


@pytest.fixture
def window_on(demo_book):
    """A window of its own on the demo, once it shows it; ended at the end."""
    running = subprocess.Popen(
        [BIN, "open", demo_book],
        env={**os.environ, "QT_QPA_PLATFORM": "offscreen"},
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
    )
    marks = Path(os.environ["XDG_STATE_HOME"]) / "blunt-ruler" / "open"
    until = time.monotonic() + 30
    while not list(marks.glob("*.json")):
        assert time.monotonic() < until
        time.sleep(0.05)
    time.sleep(1.5)  # by then it remembers the logbook as the last one
    yield running, marks
    running.kill()
    running.communicate()


@pytest.mark.parametrize("how", ["killed", pytest.param("crashed", marks=pytest.mark.deep)])
def test_after_an_unclean_end_the_logbook_is_offered_at_the_board(window_on, how):
    running, _ = window_on
    running.send_signal(signal.SIGKILL if how == "killed" else signal.SIGSEGV)
    running.wait()
    done = subprocess.run(
        [sys.executable, "-c", AGAIN],
        env={**os.environ, "QT_QPA_PLATFORM": "offscreen"},
        capture_output=True,
        text=True,
        check=True,
        timeout=60,
    )
    first, then = done.stdout.splitlines()
    nothing, stop, words = first.split("|")
    assert (nothing, stop) == ("True", "Board")
    assert "ended unexpectedly with “demo.blunt” open" in words
    assert then == "demo.blunt|Board"
    assert ended_unexpectedly() == ()


@pytest.mark.parametrize("number", [signal.SIGTERM, signal.SIGHUP, signal.SIGINT])
def test_a_window_that_is_asked_to_end_closes_as_it_should(window_on, number):
    running, marks = window_on
    running.send_signal(number)
    assert running.wait(timeout=20) == 0
    assert not list(marks.iterdir())


def test_the_mark_of_a_window_that_is_open_is_left_alone(tmp_path):
    mark = OpenMark()
    mark.put(tmp_path / "a.blunt", "Runs")
    assert ended_unexpectedly() == ()
    (dead,) = (Path(os.environ["XDG_STATE_HOME"]) / "blunt-ruler" / "open").iterdir()
    dead.rename(dead.with_name("4194305.json"))  # more than any process has
    (ended,) = ended_unexpectedly()
    assert (ended.path, ended.stop) == (tmp_path / "a.blunt", "Runs")
    assert "open at Runs" in ended.words
    mark.take()


@pytest.mark.parametrize("text", ["", "{", "[]", '{"logbook": 1}', "[" * 100_000, "\x00\xff"])
def test_a_mark_that_cannot_be_read_is_nothing(text):
    folder = Path(os.environ["XDG_STATE_HOME"]) / "blunt-ruler" / "open"
    folder.mkdir(parents=True)
    (folder / "4194305.json").write_text(text)
    assert ended_unexpectedly() == ()
    assert not list(folder.iterdir())


def test_work_that_a_late_timer_begins_is_waited_for(window):
    assert window.close()
    ended: list[str] = []

    def work(step):
        time.sleep(0.3)
        ended.append("slept")
        step("and on", 0.5)
        ended.append("not asked to stop")

    Jobs(threads=1, parent=window).run("Late", work, ended.append, ended.append)
    window.close_jobs()
    assert ended == ["slept"]
