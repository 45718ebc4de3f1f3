"""A dressed application, and windows that are closed again."""

import gc
import time
import weakref
from pathlib import Path

import numpy as np
import pytest
from PyQt6 import sip

from blunt_ruler.ui.desk.jobs import Jobs
from blunt_ruler.ui.kit import theme
from blunt_ruler.ui.kit.winning_keys import WinningKeys


@pytest.fixture(scope="session")
def dressed(qapp):
    theme.load_fonts()
    qapp.setStyle("Fusion")
    theme.apply_theme(qapp, theme.PAPER)
    WinningKeys(qapp)
    return qapp


@pytest.fixture
def looks_back():
    """A window that closes keeps a picture of itself."""
    return True


@pytest.fixture
def window(request, dressed, qtbot, own_settings, monkeypatch):
    """The window without a logbook. It keeps no picture of its last look, which takes as long as
    a short test, but where a test `looks_back`.
    """
    from blunt_ruler.ui.desk.settings import Settings
    from blunt_ruler.ui.shell.window import MainWindow

    if "looks_back" not in request.fixturenames:
        monkeypatch.setattr(MainWindow, "_look_back", lambda _window: None)
    settings = Settings()
    settings.stop = getattr(request.module, "AT", settings.stop)  # no other stop is made before it
    window = MainWindow(settings)
    window.show()
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow, timeout=60_000)
    yield window
    window.close()
    dressed.processEvents()  # what threads still had to say arrives while the window is there
    # What Qt has to say at the end of a window belongs to this test, not to a later one.
    sip.delete(window)
    gc.collect()
    gc.freeze()  # what is left is there for good: the next window need not have it looked through


@pytest.fixture(autouse=True)
def all_jobs(monkeypatch):
    """Every Jobs there is: looking for them among a window's children takes longer than most do."""
    known, make = weakref.WeakSet(), Jobs.__init__

    def noted(self, *given, **named):
        make(self, *given, **named)
        known.add(self)

    monkeypatch.setattr(Jobs, "__init__", noted)
    return known


@pytest.fixture
def settle(dressed, all_jobs):
    """Wait until nothing is under way and the window has drawn; the whole fit after a first
    answer, and links left out in turn, take longest and change least: they are waited for where
    they are `foreseen`.
    """

    def settle(window, foreseen=False):
        desk = getattr(window, "desk", None)

        def is_answered():
            """Whether all that is still to come may come later."""
            found = desk.snapshot.analysis if desk is not None and desk.snapshot else None
            return not foreseen and found is not None and found.settled

        until = time.monotonic() + 60.0
        still = 0
        window.setUpdatesEnabled(False)  # it is drawn when all is there, and looked at
        while still < 2:  # what ends may begin something else
            dressed.processEvents()
            later = (desk.analyses, desk.foreseeing) if is_answered() else ()
            going = any(jobs._running for jobs in all_jobs if jobs not in later)
            waits = desk is not None and desk._next is not None and not (desk._closing or later)
            still = 0 if going or waits else still + 1
            if still == 0:
                assert time.monotonic() < until, "something is under way for a minute"
                time.sleep(0.001)
        window.setUpdatesEnabled(True)

    return settle


@pytest.fixture
def demo_window(window, demo_book, settle, demo_analysis):
    """The window on a copy of the demo, which it finds analysed."""
    window.desk._settled = demo_analysis
    window.desk.open(demo_book)
    settle(window)
    return window


@pytest.fixture
def logs(tmp_path) -> list[Path]:
    """Three logs of one case on three rigs, as three programs might write them."""
    folder = tmp_path / "logs"
    folder.mkdir()
    rng = np.random.default_rng(5)
    paths = []
    for name, mean_ms in (("builtin", 40.0), ("cable", 16.0), ("tower", 10.0)):
        times = np.round(mean_ms * np.exp(rng.normal(0, 0.1, 1200)), 3)
        path = folder / f"{name}_coast_1080p.csv"
        if name == "builtin":
            text = "frame time ms;power\n" + "\n".join(f"{t};20,5" for t in times)
            text = text.replace(".", ",")
        elif name == "cable":
            text = "FPS\n" + "\n".join(f"{1000 / t:.5f}" for t in times)
        else:
            text = "elapsed s\tbusy\n" + "\n".join(f"{t:.6f}\t97" for t in np.cumsum(times) / 1000)
        path.write_text(text, "utf-8")
        paths.append(path)
    return paths
