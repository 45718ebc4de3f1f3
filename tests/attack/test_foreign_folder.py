"""A folder from a stranger, with a file for every module of the standard library and of ours: it is
looked through and worked in, and nothing of it is run.
"""

import os
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

BIN = Path(sys.executable).parent
MARK = "import os; open(os.path.join(os.path.dirname(__file__), 'was-run'), 'a').write(__name__)\n"
OURS = ("numpy", "scipy", "polars", "pydantic", "matplotlib", "typer", "click", "python_calamine")
NAMES = sorted({*sys.stdlib_module_names, *OURS} - set(sys.builtin_module_names))


# `python -m` itself imports these from there before anything of ours: docs/security.md says so.
PYTHONS_OWN = set(
    subprocess.run(
        [sys.executable, "-P", "-c", "import runpy, sys; print(*sys.modules)"],
        capture_output=True,
        text=True,
        check=True,
    ).stdout.split()
)


@pytest.fixture(scope="module")
def folder(tmp_path_factory, demo_book_of):
    found = tmp_path_factory.mktemp("from a stranger")
    for name in NAMES:
        if name not in PYTHONS_OWN:
            (found / f"{name}.py").write_text(MARK)
    rng = np.random.default_rng(1)
    (found / "logs").mkdir()
    for number in range(70):  # so many are read by several processes
        times = "\n".join(f"{t:.2f}" for t in rng.gamma(40, 0.4, 300))
        (found / "logs" / f"{number}.csv").write_text(f"frame time ms\n{times}\n")
    demo_book_of(found / "demo.blunt")
    return found


@pytest.fixture(scope="module")
def demo_book_of():
    from blunt_ruler.demo.shipped import copy_demo

    return copy_demo


COMMANDS = {
    "metrics of a folder": ["metrics", "logs"],
    "import of a folder": ["import", "new.blunt", "logs", "--rig", "R", "--case", "T / 1080p"],
    "a report": ["report", "demo.blunt", "--out", "report", "--format", "svg"],
    "a workbook": ["import-scores", "new.blunt", "scores.ods"],
}


@pytest.mark.parametrize("how", ["command", pytest.param("module", marks=pytest.mark.deep)])
@pytest.mark.parametrize(
    "name",
    [
        pytest.param(name, marks=[pytest.mark.deep] if name != "metrics of a folder" else [])
        for name in COMMANDS
    ],
)
def test_nothing_in_the_folder_one_stands_in_is_run(folder, name, how):
    start = [BIN / "blunt-ruler"] if how == "command" else [sys.executable, "-m", "blunt_ruler"]
    asked = {key: value for key, value in os.environ.items() if key != "PYTHONSAFEPATH"}
    subprocess.run(
        [*start, *COMMANDS[name]],
        cwd=folder,
        env={**asked, "OMP_NUM_THREADS": "1"},
        capture_output=True,
        check=False,
        timeout=120,
    )
    if name == "import of a folder":
        assert (folder / "new.blunt").exists()
        (folder / "new.blunt").unlink()
    ran = folder / "was-run"
    assert not ran.exists(), ran.read_text()


@pytest.mark.deep
def test_the_window_runs_nothing_there_either(folder):
    asked = {key: value for key, value in os.environ.items() if key != "PYTHONSAFEPATH"}
    asked |= {"QT_QPA_PLATFORM": "offscreen", "XDG_CONFIG_HOME": str(folder)}
    done = subprocess.run(
        [BIN / "blunt-ruler", "open", "demo.blunt", "--quit-after", "6"],
        cwd=folder,
        env=asked,
        capture_output=True,
        check=False,
        timeout=120,
    )
    assert done.returncode == 0, done.stderr
    ran = folder / "was-run"
    assert not ran.exists(), ran.read_text()


def test_a_title_that_is_started_finds_its_own_modules():
    """What keeps our own processes safe is not handed on to the programs of others."""
    from blunt_ruler import processes

    assert processes.SAFE_PATH in os.environ
    assert processes.SAFE_PATH not in processes.environment_of_others()
