"""Work in other processes: the same results in the same order, stopped at once, never orphaned."""

import os
import signal
import subprocess
import sys
import time
from functools import partial
from pathlib import Path

import pytest

from blunt_ruler import processes
from blunt_ruler.core.errors import UserFixable

MANY = 64


def square(number):
    return number * number, os.getpid()


def odd_one(number, at):
    if number == at:
        raise UserFixable("item", f"{number} is odd", "Take another")
    return number


def forever(path):
    path.write_text(str(os.getpid()))
    while True:
        time.sleep(0.05)


def is_there(pid):
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    # A process that has ended stands there until somebody asks for it.
    return Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0] != "Z"


def wait_until(holds, most_s=20.0):
    end = time.monotonic() + most_s
    while not holds():
        assert time.monotonic() < end
        time.sleep(0.02)


def test_few_items_stay_here_and_many_are_spread_in_their_order(monkeypatch):
    monkeypatch.setattr(processes, "other_cores", lambda: 1)
    here = [*processes.spread_out(square, range(5))]
    assert {pid for _, pid in here} == {os.getpid()}
    there = [*processes.spread_out(square, range(MANY))]
    assert [number for number, _ in there] == [n * n for n in range(MANY)]
    assert len({pid for _, pid in there}) <= 2


def test_what_a_user_must_mend_is_raised_in_its_turn(monkeypatch):
    monkeypatch.setattr(processes, "other_cores", lambda: 1)
    got = []
    with pytest.raises(UserFixable, match="item: 40 is odd"):
        for number in processes.spread_out(partial(odd_one, at=40), range(MANY)):
            got.append(number)  # noqa: PERF402 (what came before the error is looked at)
    assert got == list(range(40))


def test_what_is_computed_apart_can_be_stopped_and_leaves_nothing(tmp_path, monkeypatch):
    monkeypatch.setattr(processes, "WAITS", 1)
    path = tmp_path / "pid"

    def going():
        if path.exists() and path.read_text():
            raise InterruptedError

    with pytest.raises(InterruptedError):
        processes.computed_apart(forever, (path,), going)
    wait_until(lambda: not is_there(int(path.read_text())))
    assert processes.computed_apart(pow, (2, 10), lambda: None) == 1024


LOST = """
import sys
from pathlib import Path
sys.path.insert(0, {tests!r})
from blunt_ruler.processes import pool_of
from test_processes import forever
if __name__ == "__main__":
    pool_of(1).submit(forever, Path({path!r}))
    while True:
        pass
"""


def test_a_worker_ends_when_its_parent_is_killed(tmp_path):
    path, script = tmp_path / "pid", tmp_path / "parent.py"
    script.write_text(LOST.format(tests=str(Path(__file__).parent), path=str(path)))
    parent = subprocess.Popen([sys.executable, script])
    try:
        wait_until(lambda: path.exists() and path.read_text())
    finally:
        parent.send_signal(signal.SIGKILL)
        parent.wait()
    wait_until(lambda: not is_there(int(path.read_text())))


def test_processes_that_were_started_ahead_are_used_up_by_few_items_too():
    processes.start_ahead(2, "json")
    assert list(processes.spread_out(abs, [-1, 2])) == [1, 2]
    assert not processes._ahead
