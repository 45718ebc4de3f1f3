"""Journals, settings and part files drawn from a description of their forms, in child processes:
an abort, a hang or an exception that is no sentence is a failure. Traces: test_foreign_traces.
"""

import os
import subprocess
import sys
from pathlib import Path

import pytest

TRIES = int(os.environ.get("ATTACK_FUZZ", "40"))
SEED = int(os.environ.get("ATTACK_SEED", "1"))


@pytest.mark.parametrize("kind", ["journals", "settings", "parts"])
def test_any_file_of_its_kind_is_read_or_refused(kind, tmp_path):
    done = subprocess.run(
        [
            sys.executable,
            Path(__file__).with_name("fuzz.py"),
            kind,
            str(TRIES),
            str(SEED),
            tmp_path,
        ],
        capture_output=True,
        text=True,
        check=False,
    )
    last = (tmp_path / "last").read_text("utf-8")[:2000]
    assert done.returncode == 0, f"{done.returncode}\n{last}\n{done.stderr[-3000:]}"
