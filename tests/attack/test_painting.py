"""Faults injected into everything that is painted, shown or called: the window lives on.

In a process of its own, since what goes wrong here ends a process in compiled code.
"""

import ast
import os
import subprocess
import sys
from pathlib import Path

import pytest

import blunt_ruler

UI = Path(blunt_ruler.__file__).parent / "ui"
WINDOW = """
import os, sys
sys.path.insert(0, {here!r})
from pathlib import Path
from blunt_ruler.demo.shipped import copy_demo
from blunt_ruler.ui.kit import painting
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.shell.app import make_app
from blunt_ruler.ui.kit.faults import Faults
from blunt_ruler.ui.desk.settings import Settings
from blunt_ruler.ui.shell.window import MainWindow
app = make_app([])
theme.apply_theme(app, theme.PAPER)
window = MainWindow(Settings())
faults = Faults(window)
told = []
faults.raised.connect(told.append)
faults.raised.connect(window.banner.show_error)
faults.install()
window.resize(1280, 800)
window.show()
window.desk.open(copy_demo(Path(sys.argv[1])))
import time
def settle(most=20.0):
    until = time.monotonic() + most
    while time.monotonic() < until:
        app.processEvents()
        found = window.desk.snapshot
        if found is not None and found.analysis.settled:
            break
        time.sleep(0.002)
    for _ in range(5):
        app.processEvents()
def visit():
    for name, controller in window.controllers.items():
        window.go_to(name)
        for page in tuple(controller.stop._factories):
            controller.stop.show_page(page)
            app.processEvents()
            window.grab()
settle()
visit()
"""
ALIVE = """
faults.remove()
app.processEvents()
visit()
window.go_to("Board")
assert window.grab().toImage().pixelColor(5, 300).isValid()
print("alive", len(told))
window.close()
os._exit(0)
"""


def run(tmp_path, code):
    script = tmp_path / "faulty.py"
    script.write_text(WINDOW.format(here=str(Path(__file__).parents[1] / "ui")) + code + ALIVE)
    done = subprocess.run(
        [sys.executable, str(script), str(tmp_path / "demo.blunt")],
        capture_output=True,
        text=True,
        timeout=180,
    )
    assert done.returncode == 0, done.stderr[-2000:]
    assert "alive" in done.stdout
    return done


FAULTS = """
from PyQt6.QtCore import QAbstractItemModel, QTimer

# All that is painted asks for the colours of the theme, inside its painter.
real = theme.current
def broken():
    frame = sys._getframe(1)
    names = set()
    while frame is not None:
        names.add(frame.f_code.co_name)
        frame = frame.f_back
    if names & {"paint_event", "paint"}:
        raise RuntimeError("no colours")
    return real()
theme.current = broken
visit()
theme.current = real
marked = {getattr(one, "__qualname__", "?") for one in painting._told}
print("marked", *sorted(marked))
assert len(told) <= len(marked) + 1, told

def below(kind):
    for one in kind.__subclasses__():
        yield one
        yield from below(one)
models = {one: one.data for one in below(QAbstractItemModel)
          if one.__module__.startswith("blunt_ruler") and "data" in vars(one)}
assert len(models) >= 4, models
def data(self, *given):
    raise RuntimeError("no data")
for one in models:
    one.data = data
told.clear()
visit()
for one, before in models.items():
    one.data = before
assert told

told.clear()
chosen = [name for name in window.controllers if name in {stops!r}]
for name in chosen:
    controller = window.controllers[name]
    stop = controller.stop
    def broken(snapshot, name=name):
        raise RuntimeError(f"no view of {name}")
    stop.show_snapshot = broken
    controller.mark_stale()
    QTimer.singleShot(0, lambda name=name: window.go_to(name))
    settle()
    del stop.show_snapshot
    time.sleep(1.1)
assert len(told) == len(chosen) > 1, told
"""


@pytest.mark.deep
def test_a_fault_in_whatever_is_painted_shown_or_called_is_survived_and_told_once(tmp_path):
    every = ("Bench", "Plan", "Runs", "Board", "Limits", "Worth", "Write-up")
    stops = every if os.environ.get("TEST_DEEP") else ("Bench", "Runs")
    done = run(tmp_path, FAULTS.replace("{stops!r}", repr(stops)))
    marked = done.stdout.split("marked", 1)[1].split()
    for name in ("CellPainter.paint", "RigHeader.paintSection", "Rail.paintEvent"):
        assert name in marked, marked


def test_nothing_makes_a_painter_of_its_own():
    """Who paints is given one by `ui/kit/painting.py`, which ends it whatever happens."""
    found = []
    for path in UI.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            called = isinstance(node, ast.Call) and getattr(node.func, "id", "") == "QPainter"
            if called and path.name != "painting.py":
                found.append(f"{path.name}, line {node.lineno}")
    assert not found
