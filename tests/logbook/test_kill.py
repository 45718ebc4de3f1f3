"""Killed at any moment, a logbook keeps every edit it acknowledged."""

import random
import signal
import subprocess
import sys
import time

import pytest

from blunt_ruler.logbook import Logbook

WRITER = """
import sys
from pathlib import Path
from blunt_ruler.core.records.hardware import (Rig)
from blunt_ruler.logbook import Logbook
path = Path(sys.argv[1])
with Logbook.open(path) if path.exists() else Logbook.create(path) as book:
    number = len(book.contents().rigs)
    while True:
        book.commit(f"add {number}", put=[Rig(id=f"r{number}", name=f"Rig {number}")])
        print(number, flush=True)
        number += 1
"""


@pytest.mark.parametrize("seed", [0, 1, *(pytest.param(n, marks=pytest.mark.deep) for n in (2, 3))])
def test_sigkill_in_the_middle_of_writes_loses_nothing_acknowledged(tmp_path, seed):
    path = tmp_path / "review.blunt"
    acknowledged = -1
    for _ in range(3):
        writer = subprocess.Popen(
            [sys.executable, "-c", WRITER, str(path)], stdout=subprocess.PIPE, text=True
        )
        first = writer.stdout.readline()
        time.sleep(random.Random(seed).uniform(0.0, 0.12))
        writer.send_signal(signal.SIGKILL)
        rest, _ = writer.communicate()
        lines = (first + rest).split()
        acknowledged = max(acknowledged, int(lines[-1]))
        with Logbook.open(path) as book:
            rigs = list(book.contents().rigs)
            assert len(rigs) in (acknowledged + 1, acknowledged + 2)
            assert rigs == [f"r{number}" for number in range(len(rigs))]
            # Rows and journal agree: as many edits as rigs, and the newest can be undone.
            assert book.next_undo() == f"add {len(rigs) - 1}"
            acknowledged = len(rigs) - 1
