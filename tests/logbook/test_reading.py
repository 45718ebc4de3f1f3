"""Logbooks that are read and never written: on disks that cannot be written to, of older formats,
in the midst of edits; and what is left of a file whose making was cut off.
"""

import hashlib
import os
import sqlite3
import subprocess
import sys
from pathlib import Path

import pytest

from blunt_ruler.core.records.hardware import Rig
from blunt_ruler.core.records.review_edits import first_review
from blunt_ruler.files import placed, staged, write_whole
from blunt_ruler.logbook import Logbook, LogbookBusy
from blunt_ruler.logbook.schema import APPLICATION_ID, MIGRATIONS

READ_ONLY = """
import os, sys
from pathlib import Path
path = Path(sys.argv[1])
from blunt_ruler.logbook import Logbook
os.setgroups([])
os.setgid(65534)
os.setuid(65534)  # root may write anywhere
with Logbook.reading(path) as book:
    print(*book.contents().rigs)
"""


@pytest.fixture
def folder(tmp_path):
    """A folder that others may read and nobody else may write to."""
    found = tmp_path / "disk"
    found.mkdir()
    yield found
    found.chmod(0o755)


def read_by_others(path):
    """The rigs that somebody reads who may not write there."""
    for parent in (path.parent, *path.parent.parents):
        if parent.stat().st_uid == os.getuid() and parent != Path("/"):
            parent.chmod(parent.stat().st_mode | 0o055)
    path.parent.chmod(0o555)
    for one in path.parent.iterdir():
        one.chmod(0o444)
    done = subprocess.run(
        [sys.executable, "-c", READ_ONLY, str(path)], capture_output=True, text=True, check=False
    )
    assert done.returncode == 0, done.stderr
    return done.stdout.split()


needs_root = pytest.mark.skipif(os.getuid() != 0, reason="another user is needed")


@needs_root
def test_a_read_only_disk_is_read(folder):
    path = folder / "a.blunt"
    with Logbook.create(path) as book:
        book.commit("name", put=[Rig(id="r1", name="Cable")])
    assert read_by_others(path) == ["r1"]


@needs_root
def test_edits_beside_the_file_are_read_from_a_read_only_disk(folder):
    path = folder / "a.blunt"
    book = Logbook.create(path)
    book.commit("name", put=[Rig(id="r1", name="Cable")])
    assert path.with_name("a.blunt-wal").stat().st_size
    saved = {one.name: one.read_bytes() for one in folder.iterdir() if not one.name.endswith("shm")}
    book.close()
    for one in folder.iterdir():
        one.unlink()
    for name, raw in saved.items():  # as a copy of the folder holds it
        (folder / name).write_bytes(raw)
    assert read_by_others(path) == ["r1"]


def test_reading_alters_nothing_and_brings_no_older_file_up(tmp_path):
    path = tmp_path / "old.blunt"
    with sqlite3.connect(path) as db:
        for number in range(1, 6):
            for statement in MIGRATIONS[number]:
                db.execute(statement)
        body = Rig(id="r", name="Rig").model_dump_json()
        db.execute("INSERT INTO rigs (id, body) VALUES ('r', ?)", (body,))
        db.execute(f"PRAGMA application_id = {APPLICATION_ID}")
        db.execute("PRAGMA user_version = 5")
    db.close()
    before = hashlib.sha256(path.read_bytes()).hexdigest()
    with Logbook.reading(path) as book:
        assert list(book.contents().rigs) == ["r"]
    assert hashlib.sha256(path.read_bytes()).hexdigest() == before
    assert [one.name for one in tmp_path.iterdir()] == ["old.blunt"]


def test_what_another_is_writing_is_read_as_it_stands(tmp_path):
    path = tmp_path / "a.blunt"
    with Logbook.create(path) as book:
        book.commit("name", put=[Rig(id="r1", name="Cable")])
        with Logbook.reading(path) as reader:
            assert list(reader.contents().rigs) == ["r1"]
            with pytest.raises(LogbookBusy):
                reader.commit("no", put=[Rig(id="r2", name="Cord")])
        book.commit("name", put=[Rig(id="r3", name="Edge")])


# Cut off in the making


CREATE = """
import sys
from pathlib import Path
from blunt_ruler.core.records.review_edits import first_review
from blunt_ruler.logbook import Logbook
path = Path(sys.argv[1])
Logbook.create(path, review=first_review(lambda: "v")).close()
"""


def killed_at_each_write(folder):
    """The folder after a creation that was killed at its first, second … change of the disk."""
    for number in range(400):
        here = folder / str(number)
        here.mkdir()
        code = f"""
import os, signal, sqlite3
left = {number}
def counted(real):
    def call(*given, **named):
        global left
        left -= 1
        if left < 0:
            os.kill(os.getpid(), signal.SIGKILL)
        return real(*given, **named)
    return call
for name in ("fsync", "link", "unlink", "rename", "replace", "open", "mkdir", "scandir", "stat"):
    setattr(os, name, counted(getattr(os, name)))
class Counted(sqlite3.Connection):
    execute = counted(sqlite3.Connection.execute)
    close = counted(sqlite3.Connection.close)
real = sqlite3.connect
sqlite3.connect = lambda *given, **named: real(*given, factory=Counted, **named)
{CREATE}"""
        done = subprocess.run([sys.executable, "-c", code, str(here / "a.blunt")], check=False)
        yield here
        if done.returncode == 0:
            return
    raise AssertionError("it never ended by itself")


@pytest.mark.deep
def test_killed_at_any_step_of_its_making_a_logbook_is_not_there_or_whole(tmp_path):
    wholes = 0
    for here in killed_at_each_write(tmp_path):
        path = here / "a.blunt"
        if path.exists():
            with Logbook.open(path) as book:
                assert list(book.contents().reviews) == ["v"]
            wholes += 1
        else:
            Logbook.create(path, review=first_review(lambda: "v")).close()
        assert [one.name for one in here.iterdir()] == ["a.blunt"]
    assert wholes


def test_a_logbook_is_made_with_its_review_and_every_command_takes_it(tmp_path):
    path = tmp_path / "a.blunt"
    Logbook.create(path, review=first_review(lambda: "v")).close()
    bare = tmp_path / "b.blunt"
    Logbook.create(bare).close()  # as versions before left one that was killed
    for logbook in (path, bare):
        done = subprocess.run(
            [sys.executable, "-m", "blunt_ruler", "check", str(logbook)],
            capture_output=True,
            text=True,
            check=False,
        )
        assert (done.returncode, done.stderr) == (0, "")
        assert "Nothing was found" in done.stdout


def test_what_a_killed_writer_left_is_removed_by_the_next(tmp_path):
    code = "import os, sys; from pathlib import Path; from blunt_ruler.files import placed\n"
    code += "with placed(Path(sys.argv[1])) as part: part.write_text('half'); os._exit(9)"
    path = tmp_path / "report.md"
    subprocess.run([sys.executable, "-c", code, str(path)], check=False)
    (left,) = tmp_path.iterdir()
    assert left.name.endswith(".part")
    with placed(path) as part:
        part.write_text("mine")
        with placed(path) as other:  # one that is still being written stays
            other.write_text("whole")
        assert part.exists()
    assert [one.name for one in tmp_path.iterdir()] == ["report.md"]
    assert path.read_text() == "mine"


def test_files_that_belong_together_are_there_together_or_not_at_all(tmp_path):
    folder = tmp_path / "report"
    with pytest.raises(KeyError), staged(folder) as part:
        write_whole(part / "report.md", "one")
        raise KeyError
    assert not folder.exists()
    folder.mkdir()
    (folder / "report.md").write_text("earlier")
    with pytest.raises(KeyError), staged(folder) as part:
        write_whole(part / "report.md", "one")
        raise KeyError
    assert [one.read_text() for one in folder.iterdir()] == ["earlier"]
    with staged(folder) as part:
        write_whole(part / "report.md", "one")
        write_whole(part / "charts" / "a.svg", "two")
    names = sorted(str(one.relative_to(folder)) for one in folder.rglob("*"))
    assert names == ["charts", "charts/a.svg", "report.md"]


def test_files_that_cannot_all_be_put_in_place_are_named(tmp_path):
    (tmp_path / "b.md").mkdir()
    with pytest.raises(Exception, match=r"complete are a\.md"), staged(tmp_path) as part:
        write_whole(part / "a.md", "one")
        write_whole(part / "b.md", "two")
    assert sorted(one.name for one in tmp_path.iterdir()) == ["a.md", "b.md"]
