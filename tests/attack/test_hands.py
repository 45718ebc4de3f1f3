"""Random keys and clicks end nothing, tell of no fault and make no window beside the first."""

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest

ACTIONS = int(os.environ.get("ATTACK_ACTIONS", "60"))
SEED = int(os.environ.get("ATTACK_SEED", "5"))


@pytest.mark.deep
@pytest.mark.parametrize("book", ["demo", "new"])
def test_hands_that_know_nothing_break_nothing(demo_book, tmp_path, book):
    path = str(demo_book) if book == "demo" else ""
    homes = ("XDG_CONFIG_HOME", "XDG_CACHE_HOME", "XDG_DATA_HOME", "XDG_STATE_HOME")
    done = subprocess.run(
        [sys.executable, Path(__file__).with_name("hands.py"), path, str(SEED), str(ACTIONS)],
        env={**os.environ, **dict.fromkeys(homes, str(tmp_path)), "QT_QPA_PLATFORM": "offscreen"},
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, done.stderr[-3000:]
    found = json.loads(done.stdout.splitlines()[-1])
    assert found["faults"] == []
    assert found["strays"] == []
