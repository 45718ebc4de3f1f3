"""Guards for every test: settings of their own, no display, no thread left behind."""

import gc
import json
import os
import threading
from collections.abc import Iterator
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
# Of three workers on two cores: more threads than cores only wait for one another.
for _threads in ("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS", "POLARS_MAX_THREADS"):
    os.environ.setdefault(_threads, "1")
for _name in ("DATA", "CONFIG", "DOCUMENTS"):
    os.environ.pop(f"XDG_{_name}_DIR", None)

import pytest
from hypothesis import settings
from xdist.remote import Producer
from xdist.scheduler import LoadFileScheduling

# Generated cases are few and the same in every run; a failure found here is found by everyone.
settings.register_profile("suite", max_examples=60, deadline=None, derandomize=True)
settings.load_profile("suite")


def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    """Long tests wait for `make test-deep`, unless one of them is asked for by its name."""
    if os.environ.get("TEST_DEEP") or any("::" in name for name in config.args):
        return
    for item in items:
        if item.get_closest_marker("deep"):
            item.add_marker(pytest.mark.skip(reason="long: make test-deep"))


def pytest_xdist_make_scheduler(config: pytest.Config, log: Producer) -> LoadFileScheduling:
    """A file goes to one worker whole, and all that ask one bench for its rates go to the same:
    what it played is played once.
    """

    class ByBench(LoadFileScheduling):  # type: ignore[misc]
        def _split_scope(self, nodeid: str) -> str:
            file = super()._split_scope(nodeid)
            return "limits" if "/limits/" in file else file

    return ByBench(config, log)


@pytest.fixture(autouse=True)
def own_settings(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """No test reads or writes the settings or documents of whoever runs it."""
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    monkeypatch.setenv("HOME", str(tmp_path / "home"))


@pytest.fixture(autouse=True)
def no_thread_left() -> Iterator[None]:
    """A test that leaves a Python thread behind would disturb the next one."""
    before = set(threading.enumerate())
    yield
    from blunt_ruler import limited

    shared = {pool._executor_manager_thread for pool in limited._SHARED.values()}  # at rest
    new = set(threading.enumerate()) - before - shared
    left = [thread for thread in new if not thread.daemon and thread.is_alive()]
    assert not left, f"threads left behind: {left}"


@pytest.fixture(autouse=True, scope="module")
def what_stays_is_spared() -> Iterator[None]:
    """What a module leaves behind for good, results above all, is looked through once: searches
    for garbage would take longer and longer, and at last longer than the tests.
    """
    yield
    gc.collect()
    gc.freeze()


@pytest.fixture(scope="session")
def shipped_demo() -> Path:
    """The demo logbook as it is shipped; read only."""
    import blunt_ruler.demo

    return Path(blunt_ruler.demo.__file__).parent / "demo.blunt"


@pytest.fixture(scope="session")
def demo_copy(tmp_path_factory) -> Path:
    """One copy of the demo logbook for every test that only reads it."""
    from blunt_ruler.demo.shipped import copy_demo

    return copy_demo(tmp_path_factory.mktemp("demo") / "demo.blunt")


@pytest.fixture(scope="session")
def demo_contents(demo_copy):
    """What the demo logbook holds."""
    from blunt_ruler.logbook import Logbook

    with Logbook.open(demo_copy) as book:
        return book.contents()


@pytest.fixture(scope="session")
def demo_edits(demo_copy):
    """The edits that stand in the demo's journal."""
    from blunt_ruler.logbook import Logbook

    with Logbook.open(demo_copy) as book:
        return book.edits()


@pytest.fixture(scope="session")
def demo_analysis(demo_contents):
    """All that follows from the demo's first review."""
    from blunt_ruler.core.analysis.analyse import analyse

    return analyse(demo_contents, demo_contents.reviews["which-link"])


@pytest.fixture
def demo_book(tmp_path: Path) -> Path:
    """A copy of the demo logbook to work on."""
    from blunt_ruler.demo.shipped import copy_demo

    return copy_demo(tmp_path / "demo.blunt")


@pytest.fixture
def run(capsys):
    """Run a command in this process: (exit code, stdout, stderr)."""
    from blunt_ruler.cli import main

    def run(*arguments):
        with pytest.raises(SystemExit) as ended:
            main([str(argument) for argument in arguments])
        out, err = capsys.readouterr()
        return ended.value.code, out, err

    return run


@pytest.fixture
def as_json(run):
    """Run a command with --json: what it printed, as a value."""

    def as_json(*arguments):
        code, out, err = run(*arguments, "--json")
        assert (code, err) == (0, "")
        return json.loads(out)

    return as_json


@pytest.fixture(scope="session")
def deep() -> bool:
    """Whether there is time for many trials: `make test-deep`."""
    return bool(os.environ.get("TEST_DEEP"))
