"""Pieces of the window on their own: background work, the desk, the rail, painted parts, sizes."""

import re
import subprocess
import sys
import threading
import time
from pathlib import Path

import pytest
from PyQt6.QtCore import QRect
from PyQt6.QtGui import QColor
from reach import Hand

from blunt_ruler.core.analysis.rail_states import StopState, empty_states
from blunt_ruler.core.board.board import build_board
from blunt_ruler.core.drawing.ticks import scale_to
from blunt_ruler.core.records.hardware import Rig
from blunt_ruler.core.records.records import Review, ReviewRig, Role
from blunt_ruler.core.rigs.links import ladder_or_why
from blunt_ruler.logbook import Logbook
from blunt_ruler.ui.bench.ladder_page import LadderDrawing, RigLadder
from blunt_ruler.ui.board.ruler import Ruler
from blunt_ruler.ui.desk.jobs import Jobs
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.widgets import BluntLine, ElidedLabel
from blunt_ruler.ui.shell import app
from blunt_ruler.ui.shell.rail import MARKS_PER_STOP, WIDTH, Rail

ROOT = Path(__file__).parent.parent.parent


@pytest.fixture
def jobs(qtbot):
    jobs = Jobs(threads=1)
    yield jobs
    jobs.close()


def test_work_ends_in_exactly_one_way_on_the_interface_thread(jobs, qtbot):
    seen = []

    def fail(_step):
        raise ValueError("no")

    jobs.run("ok", lambda _step: 7, seen.append, seen.append)
    jobs.run("bad", fail, seen.append, lambda error: seen.append(str(error)))
    qtbot.waitUntil(lambda: len(seen) == 2, timeout=60_000)
    assert seen == [7, "no"]
    qtbot.waitUntil(lambda: not jobs._running, timeout=60_000)


def test_one_thread_keeps_the_order(jobs, qtbot):
    seen = []
    for number in range(20):
        jobs.run(f"{number}", lambda _step, n=number: n, seen.append, seen.append)
    qtbot.waitUntil(lambda: len(seen) == 20, timeout=60_000)
    assert seen == list(range(20))


def test_closing_cancels_what_listens_finishes_the_rest_and_tells_nobody(qtbot):
    jobs = Jobs(threads=1)
    told, done = [], []

    def listens(step):
        while True:
            step("on and on", 0.5)
            time.sleep(0.002)

    jobs.run("listens", listens, told.append, told.append, lambda: told.append("cancelled"))
    jobs.run("deaf", lambda _step: done.append("deaf"), told.append, told.append)
    jobs.close()
    qtbot.waitUntil(lambda: not jobs._running, timeout=60_000)
    assert (done, told) == (["deaf"], [])
    jobs.run("late", lambda _step: done.append("late"), told.append, told.append)
    qtbot.wait(30)
    assert (done, told) == (["deaf"], [])


def test_quick_edits_reach_the_file_in_order_and_closing_loses_none(demo_window, qtbot, settle):
    path = demo_window.desk.snapshot.path
    for number in range(25):
        rig = demo_window.desk.snapshot.contents.rigs["groyne-marram-12"]
        renamed = rig.model_copy(update={"name": f"n{number}"})
        Hand(demo_window).put(f"edit {number}", renamed)
    demo_window.close()
    with Logbook.open(path) as book:
        assert book.contents().rigs["groyne-marram-12"].name == "n24"
        assert book.next_undo() == "edit 24"


def test_the_rail_fills_as_the_work_advances(dressed, qtbot):
    rail = Rail()
    qtbot.addWidget(rail)
    rail.resize(WIDTH, 800)
    brass = QColor(theme.PAPER.brass).rgb()

    def filled(share):
        states = empty_states()
        rail.show_states(states | {"Runs": StopState("x", share)})
        image = rail.grab().toImage()
        return sum(
            image.pixel(WIDTH - 3, y) == brass and image.pixel(WIDTH - 3, y - 1) != brass
            for y in range(1, image.height())
        )

    assert [filled(share) for share in (0.0, 0.5, 1.0)] == [0, MARKS_PER_STOP // 2, MARKS_PER_STOP]
    assert rail.stops["Runs"].accessibleName() == "Runs, x"


@pytest.mark.parametrize("width", [360, 530, 790, 1700])
def test_the_blunt_line_stands_on_two_lines(dressed, qtbot, width):
    line = BluntLine()
    qtbot.addWidget(line)
    line.resize(width, 52)
    line.show()
    line.say(
        "Through the 40 Gb/s cable, the Marram 12 runs 2.7 times as fast as the built-in iG-6 and "
        "keeps 76 % of its speed in the Workbench tower."
    )
    pixels = int(re.search(r"font-size: (\d+)px", line.styleSheet())[1])
    metrics = line.fontMetrics()
    taken = metrics.boundingRect(QRect(0, 0, width, 999), 0x1000, line.text()).height()
    assert pixels in BluntLine.SIZES
    if width >= 530:
        assert taken <= 2.2 * metrics.lineSpacing()
    if width >= 790:
        assert pixels == BluntLine.SIZES[0]


def test_a_long_name_is_elided_and_shown_whole_in_its_tooltip(dressed, qtbot):
    name = ElidedLabel()
    qtbot.addWidget(name)
    name.resize(80, 20)
    name.show_words("A name that is much longer than eighty pixels")
    assert name.text().endswith("…")
    assert name.toolTip() == "A name that is much longer than eighty pixels"


@pytest.fixture
def wide_board(demo_book):
    """Twelve rigs, some without a run."""
    with Logbook.open(demo_book) as book:
        contents = book.contents()
    extra = {f"x{number}": Rig(id=f"x{number}", name=f"Extra rig {number}") for number in range(3)}
    contents = contents.with_records({"rigs": extra})
    seats = tuple(
        ReviewRig(rig_id=rig_id, role=Role.BASE if rig_id == "built-in-ig-6" else Role.TESTED)
        for rig_id in contents.rigs
    )
    review = Review(id="wide", name="Wide", seats=seats, case_ids=tuple(contents.cases))
    return contents, build_board(contents, review)


@pytest.mark.parametrize("name", ["PAPER", "SLATE"])
@pytest.mark.parametrize("size", [(330, 120), (1600, 400)])
def test_ruler_and_ladder_paint_any_size_in_both_themes(dressed, qtbot, wide_board, name, size):
    contents, board = wide_board
    theme.apply_theme(dressed, getattr(theme, name))
    try:
        ruler = Ruler()
        qtbot.addWidget(ruler)
        ruler.resize(*size)
        for row in board.rows:
            ruler.show_case(board, row, "sluice-marram-12")
            assert not ruler.grab().isNull()
        for rig in contents.rigs.values():
            drawing = LadderDrawing(
                RigLadder(rig, *ladder_or_why(contents, rig)), scale_to(32.0), with_why=True
            )
            qtbot.addWidget(drawing)
            drawing.resize(*size)
            assert not drawing.grab().isNull()
    finally:
        theme.apply_theme(dressed, theme.PAPER)


@pytest.mark.parametrize(
    "size",
    [
        (1024, 700),
        pytest.param((1280, 800), marks=pytest.mark.deep),
        pytest.param((2560, 1440), marks=pytest.mark.deep),
    ],
)
@pytest.mark.parametrize("name", ["Bench", "Runs", "Board", "Write-up"])
def test_nothing_reaches_past_its_view(demo_window, settle, name, size):
    demo_window.resize(*size)
    demo_window.go_to(name)
    settle(demo_window)
    stop = demo_window.stack.currentWidget()
    beside = stop.evidence if stop.evidence.isVisible() else stop.handle
    right = beside.geometry().left()
    for child in stop.findChildren(type(stop.blunt).__mro__[1]):
        if child.isVisible() and child.parent() is stop:
            assert child.geometry().right() <= right or child.geometry().left() >= right
    items = [stop.body.itemAt(index) for index in range(stop.body.count())]
    shown = [item for item in items if item.widget() is None or item.widget().isVisible()]
    assert shown
    for item in shown:
        assert item.geometry().right() <= right


def test_the_other_stops_are_brought_in_while_nobody_waits(demo_window, settle, monkeypatch):
    brought, done, main = [], [], threading.current_thread()

    def note(name):
        brought.append((name, threading.current_thread() is main))

    monkeypatch.setattr(app, "import_module", note)
    app.bring_in_ahead(demo_window, lambda: done.append(1))
    settle(demo_window)
    assert done == [1]
    names = {name for name, _ in brought}
    assert names >= {f"blunt_ruler.ui.{stop}.view" for stop in ("bench", "runs", "worth")}
    assert not any(on_screen for _, on_screen in brought)
    assert "blunt_ruler.ui.runs.import_dialog" not in names
    monkeypatch.setattr(app, "import_module", lambda name: 1 / 0)
    app.bring_in_ahead(demo_window, lambda: done.append(2))
    settle(demo_window)
    assert done == [1, 2]
    assert "ZeroDivisionError" in demo_window.banner.words.text()


def run_window(tmp_path, *words, **env):
    done = subprocess.run(
        [sys.executable, "-m", "blunt_ruler", *map(str, words)],
        capture_output=True,
        text=True,
        env={"QT_QPA_PLATFORM": "offscreen", "PATH": "/usr/bin:/bin", "HOME": str(tmp_path), **env},
        timeout=60,
    )
    assert done.returncode == 0, done.stderr
    assert "Traceback" not in done.stderr
    return done


def test_a_log_that_is_opened_begins_a_logbook(tmp_path, logs):
    run_window(tmp_path, logs[0], "--quit-after", "3")
    (book,) = tmp_path.rglob("*.blunt")
    with Logbook.open(book) as opened:
        assert not opened.contents().runs  # until somebody has looked at it


def test_without_a_display_a_picture_is_saved_and_it_ends_by_itself(tmp_path, demo_book):
    picture = tmp_path / "window.png"
    words = ("open", demo_book, "--picture", picture, "--quit-after", "3")
    done = run_window(tmp_path, *words, QT_SCALE_FACTOR="2")
    assert str(picture) in done.stdout
    header = picture.read_bytes()[:24]
    assert header.startswith(b"\x89PNG")
    assert int.from_bytes(header[16:20], "big") >= 2 * 1024  # drawn at 200 %


def test_pictures_are_few_and_each_is_linked():
    pictures = sorted((ROOT / "docs/screenshots").glob("*.png"))
    pages = "".join(
        page.read_text("utf-8") for page in [ROOT / "README.md", *ROOT.glob("docs/*.md")]
    )
    assert 0 < len(pictures) < 20
    assert not [picture.name for picture in pictures if picture.name not in pages]


@pytest.mark.parametrize("width", [500, 760, 1200])
def test_the_sentence_on_top_is_never_cut(qtbot, width):
    line = BluntLine()
    qtbot.addWidget(line)
    line.resize(width, 52)
    line.show()
    for words in (
        "Short.",
        "The Sluice keeps 75 % of its speed. " * 5,
        "Once more, at length. " * 20,
    ):
        line.say(words)
        qtbot.waitUntil(lambda: line.height() >= line.heightForWidth(width) - 4)
    line.say("Short.")
    assert line.height() == 52
