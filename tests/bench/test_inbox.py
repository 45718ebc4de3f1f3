"""The inbox waits for slow writers and forgets what vanishes; it changes nothing in the folder."""

import queue
import shutil
import subprocess
import sys
import threading
import time

import pytest

from blunt_ruler.bench.inbox import BadInbox, Inbox

SETTLED_S = 0.4


@pytest.fixture
def watched(tmp_path):
    ready, there = [], threading.Condition()

    def on_ready(path):
        with there:
            ready.append((path.name, path.read_text()))
            there.notify_all()

    inbox = Inbox(tmp_path, on_ready, SETTLED_S)
    inbox.start()

    def wait_for(count, within_s=20.0):
        with there:
            assert there.wait_for(lambda: len(ready) >= count, within_s), ready
        return ready

    yield tmp_path, wait_for, ready, inbox
    inbox.stop()


def test_a_finished_log_is_handed_over_once_and_left_as_it_is(watched):
    folder, wait_for, ready, _ = watched
    (folder / "a.csv").write_text("1\n2\n")
    assert wait_for(1) == [("a.csv", "1\n2\n")]
    time.sleep(3 * SETTLED_S)
    assert len(ready) == 1
    assert (folder / "a.csv").read_text() == "1\n2\n"


def test_a_log_that_grows_slowly_is_waited_for(watched):
    folder, wait_for, ready, inbox = watched
    with (folder / "slow.csv").open("w") as file:
        for row in range(8):
            file.write(f"{row}\n")
            file.flush()
            time.sleep(SETTLED_S / 3)
            assert not ready
        assert inbox.waiting
    assert wait_for(1) == [("slow.csv", "0\n1\n2\n3\n4\n5\n6\n7\n")]


def test_an_unfinished_name_counts_from_its_renaming_on(watched):
    folder, wait_for, ready, _ = watched
    part = folder / "run.csv.part"
    part.write_text("1\n2\n")
    time.sleep(3 * SETTLED_S)
    assert not ready
    part.rename(folder / "run.csv")
    assert wait_for(1) == [("run.csv", "1\n2\n")]


def test_a_log_that_vanishes_is_forgotten(watched):
    folder, wait_for, ready, inbox = watched
    gone = folder / "gone.csv"
    gone.write_text("1\n")
    gone.unlink()
    (folder / "stays.csv").write_text("2\n")
    assert wait_for(1) == [("stays.csv", "2\n")]
    time.sleep(2 * SETTLED_S)
    assert len(ready) == 1
    assert inbox.waiting == ()


def test_a_log_written_anew_is_handed_over_again_and_other_files_never(watched):
    folder, wait_for, _, _ = watched
    (folder / "notes.md").write_text("x")
    (folder / ".hidden.csv").write_text("x")
    (folder / "a.log").write_text("1\n")
    wait_for(1)
    (folder / "a.log").write_text("1\n2\n")
    assert [name for name, _ in wait_for(2)] == ["a.log", "a.log"]


def test_an_empty_file_is_waited_for(watched):
    folder, wait_for, ready, _ = watched
    (folder / "empty.csv").touch()
    time.sleep(3 * SETTLED_S)
    assert not ready
    (folder / "empty.csv").write_text("1\n")
    assert wait_for(1) == [("empty.csv", "1\n")]


def test_a_folder_that_is_not_there_is_refused(tmp_path):
    with pytest.raises(BadInbox, match="no such folder"):
        Inbox(tmp_path / "none", print).start()


def test_a_writer_that_rests_with_the_file_open_is_waited_for(watched):
    folder, wait_for, ready, _ = watched
    with (folder / "rests.csv").open("w") as file:
        file.write("1\n")
        file.flush()
        time.sleep(4 * SETTLED_S)
        assert not ready
        file.write("2\n")
    assert wait_for(1) == [("rests.csv", "1\n2\n")]


@pytest.mark.deep
def test_a_file_that_is_never_closed_is_taken_when_it_has_been_still_for_long(watched):
    folder, wait_for, _, _ = watched
    with (folder / "open.csv").open("w") as file:
        file.write("1\n")
        file.flush()
        assert wait_for(1) == [("open.csv", "1\n")]
        file.write("2\n")
        file.flush()
        assert wait_for(2)[1] == ("open.csv", "1\n2\n")


def test_a_new_recording_under_an_old_name_is_handed_over_again(watched):
    folder, wait_for, _, _ = watched
    (folder / "run.csv").write_text("1\n2\n")
    wait_for(1)
    (folder / "run.csv").write_text("7\n8\n")
    assert wait_for(2)[1] == ("run.csv", "7\n8\n")


def test_a_program_that_opens_the_file_while_it_is_looked_at_ends_nothing(tmp_path):
    """A lease that is broken raises a signal, whose usual action ends the process."""
    path = tmp_path / "run.csv"
    path.write_text("1\n")
    code = "import sys, time; from pathlib import Path; from blunt_ruler.bench import inbox\n"
    code += "end = time.monotonic() + 2\nprint('ready', flush=True)\n"
    code += "while time.monotonic() < end: inbox._is_closed(Path(sys.argv[1]))"
    looking = subprocess.Popen([sys.executable, "-c", code, path], stdout=subprocess.PIPE)
    assert looking.stdout.readline() == b"ready\n"
    while looking.poll() is None:
        path.open("a").close()
    looking.stdout.close()
    assert looking.returncode == 0


@pytest.fixture
def followed(tmp_path):
    """A folder that can be taken away: its logs as they come, and whether it is there."""
    folder = tmp_path / "logs"
    folder.mkdir()
    ready, there = queue.Queue(), queue.Queue()
    inbox = Inbox(folder, ready.put, SETTLED_S, there.put)
    inbox.start()
    yield folder, ready, there, inbox
    inbox.stop()


@pytest.mark.parametrize("how", ["removed", "renamed", "replaced"])
def test_a_folder_that_is_made_again_is_watched_again(followed, tmp_path, how):
    folder, ready, there, inbox = followed
    (folder / "a.csv").write_text("1")
    assert ready.get(timeout=10).name == "a.csv"
    if how == "replaced":  # in one step, as a share that is mounted over it does
        other = tmp_path / "other"
        other.mkdir()
        folder.rename(tmp_path / "aside")
        other.rename(folder)
    else:
        if how == "removed":
            shutil.rmtree(folder)
        else:
            folder.rename(tmp_path / "aside")
        assert there.get(timeout=10) is False
        assert not inbox.is_there
        folder.mkdir()
        assert there.get(timeout=10) is True
    if how != "removed":
        (tmp_path / "aside" / "stray.csv").write_text("1")
    until = time.monotonic() + 10
    while inbox._watched != (folder.stat().st_dev, folder.stat().st_ino):
        assert time.monotonic() < until
        time.sleep(0.05)
    (folder / "a.csv").write_text("1")
    (folder / "b.csv").write_text("1")
    names = sorted(ready.get(timeout=10).relative_to(folder).name for _ in range(2))
    assert names == ["a.csv", "b.csv"]
    assert ready.empty()


def test_a_folder_is_watched_again_under_its_old_name(followed, tmp_path):
    folder, ready, there, _ = followed
    folder.rename(tmp_path / "aside")
    assert there.get(timeout=10) is False
    (tmp_path / "aside" / "c.csv").write_text("1")
    (tmp_path / "aside").rename(folder)
    assert there.get(timeout=10) is True
    assert ready.get(timeout=10) == folder / "c.csv"
