"""Two writers, kills in every phase, damaged and hostile files, full disks."""

import json
import os
import random
import resource
import signal
import sqlite3
import subprocess
import sys
import time
from contextlib import closing

import numpy as np
import pytest

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.hardware import Rig, RigState
from blunt_ruler.core.records.records import Case, Origin, Review, ReviewRig, Run, Title, Trace
from blunt_ruler.logbook import BadRecord, ChangedElsewhere, Logbook, schema

EDITS = int(os.environ.get("ATTACK_EDITS", "60"))
KILLS = int(os.environ.get("ATTACK_KILLS", "4"))
FLIPS = int(os.environ.get("ATTACK_FLIPS", "20"))


def filled(path):
    with Logbook.create(path) as book:
        trace = book.add_trace(Trace(np.full(200, 16.7), {"GPU %": np.arange(200.0)}))
        book.commit(
            "fill",
            put=[
                Rig(id="r1", name="Cable"),
                Title(id="t1", name="Skitter"),
                Case(id="c1", title_id="t1"),
                Run(id="run1", rig_id="r1", case_id="c1", origin=Origin(kind="log"),
                    trace_sha256=trace),
                Review(id="v1", name="Review", seats=(ReviewRig(rig_id="r1"),), case_ids=("c1",)),
            ],
        )  # fmt: skip
        book.compact()
    return path


# Two writers


@pytest.mark.parametrize("seed", range(3))
def test_two_writers_lose_nothing_and_undo_nothing_of_each_other(tmp_path, seed):
    rng = random.Random(seed)
    path = filled(tmp_path / "shared.blunt")
    books = [Logbook.open(path), Logbook.open(path)]
    stands: list[list[str]] = [[], []]  # rigs that each writer made and has not undone
    undone: list[list[str]] = [[], []]
    for number in range(EDITS):
        who = rng.randrange(2)
        book, mine = books[who], stands[who]
        how = rng.random()
        if how < 0.6:
            key = f"{who}-{number}"
            book.commit(f"add {key}", put=[Rig(id=key, name=f"Rig {key}")])
            mine.append(key)
            undone[who].clear()
        elif how < 0.85:
            expected = mine.pop() if mine else None
            # What stood before both were opened is anyone's.
            assert book.next_undo() == (f"add {expected}" if expected else "fill")
            if expected:
                book.undo()
                undone[who].append(expected)
        elif undone[who]:
            book.redo()
            mine.append(undone[who].pop())
        there = set(books[1 - who].contents().rigs)
        assert there == {"r1", *stands[0], *stands[1]}
    for book in books:
        assert not book.set_apart
        book.close()


def test_undo_of_what_another_changed_since_is_refused(tmp_path):
    path = filled(tmp_path / "shared.blunt")
    with Logbook.open(path) as one, Logbook.open(path) as other:
        rig = one.contents().rigs["r1"]
        one.commit("rename", put=[rig.model_copy(update={"name": "Cord"})])
        assert other.changed_elsewhere()
        assert other.contents().rigs["r1"].name == "Cord"
        other.commit("rename again", put=[rig.model_copy(update={"name": "Edge"})])
        with pytest.raises(ChangedElsewhere, match="changed in another window since"):
            one.undo()
        assert one.contents().rigs["r1"].name == "Edge"


def test_edits_of_a_closed_window_can_be_undone_by_the_next(tmp_path):
    path = filled(tmp_path / "shared.blunt")
    with Logbook.open(path) as one:
        one.commit("add", put=[Rig(id="r2", name="Cord")])
    with Logbook.open(path) as two:
        assert two.next_undo() == "add"
        two.undo()
        assert "r2" not in two.contents().rigs


# Kills in every phase


PHASES = {
    "creation": "Logbook.create(path).close()",
    "first edit of a copy": """
with Logbook.open(path) as book:
    book.commit("one", put=[Rig(id="k", name="K" * 100)])
""",
    "many edits": """
with Logbook.open(path) as book:
    for n in range(1000):
        book.commit("one", put=[Rig(id=f"k{n}", name="K" * 100)])
""",
    "a migration": """
from blunt_ruler.logbook import opening
Logbook.open(path).close()
""",
    "a trace": """
import numpy as np
from blunt_ruler.core.records.records import Trace
with Logbook.open(path) as book:
    book.add_trace(Trace(np.random.default_rng(1).gamma(9, 2, 300_000), {}))
""",
}
KILLED = """
import os, sys, threading, signal
from pathlib import Path
from blunt_ruler.core.records.hardware import (Rig)
from blunt_ruler.logbook import Logbook
import blunt_ruler.logbook.traces
path = Path(sys.argv[1])
print("ready", flush=True)
sys.stdin.readline()
{work}
print("done", flush=True)
"""


def as_format_5(path):
    """The file as format 5 had it: made by the statements of that time, and filled row by row."""
    older = path.with_suffix(".5")
    with closing(sqlite3.connect(older)) as db, db:
        for version in range(1, 6):
            for statement in schema.MIGRATIONS[version]:
                db.execute(statement)
        db.execute("ATTACH ? AS newer", (str(path),))
        kept = [
            name
            for (name,) in db.execute("SELECT name FROM main.sqlite_master WHERE type = 'table'")
        ]
        for table in kept:
            names = [row[1] for row in db.execute(f"PRAGMA main.table_info({table})")]
            columns = ", ".join(names)
            db.execute(f"INSERT INTO main.{table} ({columns}) SELECT {columns} FROM newer.{table}")
        db.execute(f"PRAGMA application_id = {schema.APPLICATION_ID}")
        db.execute("PRAGMA user_version = 5")
    older.replace(path)


@pytest.mark.deep
@pytest.mark.parametrize("phase", PHASES)
def test_killed_in_any_phase_the_logbook_opens_and_holds_what_it_held(tmp_path, phase):
    for number in range(KILLS):
        path = tmp_path / f"{number}.blunt"
        if phase != "creation":
            filled(path)
        if phase == "a migration":
            as_format_5(path)
        code = KILLED.format(work=PHASES[phase])
        process = subprocess.Popen(
            [sys.executable, "-c", code, str(path)],
            stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True,
        )  # fmt: skip
        assert process.stdout.readline() == "ready\n"
        process.stdin.write("\n")
        process.stdin.flush()
        time.sleep(random.Random(number).uniform(0, 0.03))
        process.send_signal(signal.SIGKILL)
        process.communicate()
        if phase == "creation" and not path.exists():
            continue
        with Logbook.open(path) as book:
            contents = book.contents()
            assert not book.set_apart
            if phase != "creation":
                assert contents.runs["run1"].trace_sha256
                assert book.trace(contents.runs["run1"].trace_sha256).frame_times_ms.size == 200
            book.commit("after", put=[Rig(id="after", name="After")])


HOT = """
import os, sqlite3, sys
db = sqlite3.connect(sys.argv[1], isolation_level=None)
db.execute("PRAGMA cache_size = 1")
db.execute("BEGIN IMMEDIATE")
for n in range(3000):
    db.execute("INSERT INTO mappings VALUES (?, ?)", (str(n), '"' + "x" * 500 + '"'))
os._exit(9)
"""


def test_a_hot_journal_is_rolled_back_at_the_next_opening(tmp_path):
    path = filled(tmp_path / "copy.blunt")
    subprocess.run([sys.executable, "-c", HOT, str(path)], check=False)
    assert path.with_name("copy.blunt-journal").exists()
    with Logbook.open(path) as book:
        assert list(book.contents().rigs) == ["r1"]
        assert book.mapping("7") is None


def test_a_journal_that_names_another_file_deletes_nothing(tmp_path):
    """A super-journal record, as the SQLite file format has it: page, name, length, sum, magic."""
    path = filled(tmp_path / "gift.blunt")
    subprocess.run([sys.executable, "-c", HOT, str(path)], check=False)
    precious = tmp_path / "precious.txt"
    precious.write_text("x")  # SQLite leaves an empty one alone
    name = str(precious).encode()
    journal = path.with_name("gift.blunt-journal")
    parts = [(0x40000000 // 4096 + 1).to_bytes(4, "big"), name, len(name).to_bytes(4, "big")]
    parts += [(sum(name) & 0xFFFFFFFF).to_bytes(4, "big"), bytes.fromhex("d9d505f920a163d7")]
    journal.write_bytes(journal.read_bytes() + b"".join(parts))
    before = journal.read_bytes()
    for open_it in (Logbook.open, lambda path: Logbook.reading(path).__enter__()):
        with pytest.raises(UserFixable, match="names another file"):
            open_it(path)
    assert precious.exists()
    assert journal.read_bytes() == before


@pytest.mark.parametrize("how", ["pipe", "link", "folder", "link to nothing"])
def test_what_lies_beside_a_logbook_and_is_no_file_is_refused(tmp_path, how):
    precious = tmp_path / "precious.txt"
    precious.write_text("kept")
    paths = []
    for ending in ("-journal", "-wal", "-shm"):
        paths.append(filled(tmp_path / f"gift{ending}.blunt"))
        beside = paths[-1].with_name(paths[-1].name + ending)
        if how == "pipe":
            os.mkfifo(beside)
        elif how == "folder":
            beside.mkdir()
        else:
            beside.symlink_to(precious if how == "link" else tmp_path / "nothing")
    code = """
import sys
from pathlib import Path
from blunt_ruler.core.errors import UserFixable
from blunt_ruler.logbook import Logbook
for path in map(Path, sys.argv[1:]):
    for open_it in (Logbook.open, lambda path: Logbook.reading(path).__enter__()):
        try:
            open_it(path)
        except UserFixable as error:
            print(error)
"""
    done = subprocess.run(
        [sys.executable, "-c", code, *map(str, paths)], capture_output=True, text=True, timeout=20
    )
    assert done.stdout.count("it is not a file of its own") == 2 * len(paths), done.stderr
    assert precious.read_text() == "kept"


def test_a_copy_to_be_read_needs_room_and_takes_no_link(tmp_path, monkeypatch):
    from blunt_ruler.logbook import opening

    path = filled(tmp_path / "gift.blunt")
    link = tmp_path / "link.blunt"
    link.symlink_to(path)
    into = tmp_path / "copy"
    into.mkdir()
    assert opening.copied(link, into).read_bytes() == path.read_bytes()
    used = type("Usage", (), {"free": 10})
    monkeypatch.setattr(opening.shutil, "disk_usage", lambda _folder: used)
    with pytest.raises(UserFixable, match="there is no room"):
        opening.copied(path, into)


# Damaged and hostile files


HOSTILE = {
    "a trigger": "CREATE TRIGGER swallow AFTER INSERT ON runs BEGIN DELETE FROM runs; END",
    "a view in the place of a table": "DROP TABLE plans; CREATE VIEW plans AS SELECT 1 AS id",
    "a view that never ends": "DROP VIEW results; CREATE VIEW results AS WITH RECURSIVE n(x) AS "
    "(SELECT 1 UNION ALL SELECT x + 1 FROM n) SELECT x FROM n",
    "a missing column": "ALTER TABLE traces DROP COLUMN frames",
    "an extra table": "CREATE TABLE more (x)",
    "an older format than it has": "PRAGMA user_version = 1",
    "no format": "PRAGMA user_version = 0",
    "a missing table": "DROP TABLE mappings",
    "statistics of another program": "ANALYZE",
    "a trigger with a hidden name": """
PRAGMA writable_schema = ON;
INSERT INTO sqlite_master VALUES ('trigger', 'sqlite_x', 'runs', 0,
  'CREATE TRIGGER sqlite_x AFTER INSERT ON runs BEGIN UPDATE runs SET body = body; END')""",
    "a trigger in the place of an index": """
PRAGMA writable_schema = ON;
UPDATE sqlite_master SET type = 'trigger', sql =
  'CREATE TRIGGER runs_by_cell AFTER INSERT ON runs BEGIN DELETE FROM rigs; END'
WHERE name = 'runs_by_cell'""",
}


@pytest.mark.parametrize("how", HOSTILE)
def test_a_file_that_is_not_made_as_ours_is_refused_unchanged(tmp_path, how):
    path = filled(tmp_path / "odd.blunt")
    db = sqlite3.connect(path)
    db.executescript(HOSTILE[how])
    db.close()
    before, folder = path.read_bytes(), sorted(tmp_path.iterdir())
    with pytest.raises(UserFixable) as refused:
        Logbook.open(path)
    assert "\n" not in str(refused.value)
    assert path.read_bytes() == before
    assert sorted(tmp_path.iterdir()) == folder


def test_records_that_cannot_be_used_are_set_apart_and_the_rest_is_there(tmp_path):
    path = filled(tmp_path / "odd.blunt")
    db = sqlite3.connect(path)
    db.execute("PRAGMA foreign_keys = OFF")
    run = json.loads(db.execute("SELECT body FROM runs").fetchone()[0])
    for key, change in (
        ("dangling", {"rig_id": "nobody"}),
        ("infinite", {"figures": {"frames": 1e999}}),
        ("long", {"reason": "x" * 5000}),
    ):
        body = json.dumps({**run, "id": key, **change}).replace("Infinity", "1e999")
        db.execute("INSERT INTO runs (id, body) VALUES (?, ?)", (key, body))
    db.execute("PRAGMA ignore_check_constraints = ON")
    db.execute("INSERT INTO rigs (id, body) VALUES ('blob', CAST('{\"id\": \"blob\"}' AS BLOB))")
    db.execute("INSERT INTO rigs (id, body) VALUES ('words', '\"words\"')")
    db.commit()
    db.close()
    with Logbook.open(path) as book:
        contents = book.contents()
        assert list(contents.runs) == ["run1"]
        assert list(contents.rigs) == ["r1"]
        assert {words.split("“")[1].split("”")[0] for words in book.set_apart} == {
            "dangling", "infinite", "long", "blob", "words",
        }  # fmt: skip
        book.commit("rename", put=[contents.rigs["r1"].model_copy(update={"name": "Cord"})])
        assert book.contents().rigs["r1"].name == "Cord"


def test_bytes_changed_anywhere_give_the_records_or_a_sentence(tmp_path):
    raw = filled(tmp_path / "sound.blunt").read_bytes()
    path = tmp_path / "flipped.blunt"
    for seed in range(FLIPS):
        rng = random.Random(seed)
        changed = bytearray(raw)
        for _ in range(rng.randrange(1, 30)):
            changed[rng.randrange(len(changed))] = rng.randrange(256)
        if rng.random() < 0.2:
            changed = changed[: rng.randrange(1, len(changed))]
        path.write_bytes(changed)
        try:
            with Logbook.open(path) as book:
                contents = book.contents()
                for run in contents.runs.values():
                    if run.trace_sha256:
                        book.trace(run.trace_sha256)
                book.edits()
                book.undo()
        except UserFixable as error:
            assert "\n" not in str(error)
        for leftover in tmp_path.glob("flipped*"):
            leftover.unlink()


# What may be written, and where


@pytest.mark.parametrize(
    "record",
    [
        Rig(id="r1", name="x").model_copy(update={"name": "y" * 500}),
        Rig(id="r1", name="x").model_copy(update={"notes": "n" * 9000}),
        Rig(
            id="r1",
            name="x",
            state=RigState().model_copy(update={"cpu_power_limit_w": float("inf")}),
        ),
        Rig(id="r1", name="x").model_copy(update={"name": "\ud800"}),
        Review(id="v1", name="v").model_copy(update={"target_fps": (float("nan"),)}),
        Run(id="run1", rig_id="r1", case_id="c1", origin=Origin(kind="log")).model_copy(
            update={"repeat": 10**9}
        ),
    ],
    ids=["long name", "long notes", "infinity", "half a letter", "no number", "large number"],
)
def test_what_could_not_be_read_back_is_not_written(tmp_path, record):
    path = filled(tmp_path / "book.blunt")
    with Logbook.open(path) as book:
        before = book.contents()
        with pytest.raises(BadRecord, match="nothing was written"):
            book.commit("edit", put=[record])
        assert book.contents() == before
        assert not book.set_apart


def test_a_trace_with_telemetry_beyond_any_gauge_is_refused(tmp_path):
    with (
        Logbook.open(filled(tmp_path / "book.blunt")) as book,
        pytest.raises(UserFixable, match="no gauge shows more"),
    ):
        book.add_trace(Trace(np.full(5, 16.7), {"GPU %": np.array([1, 2, 3, 1e300, 5])}))


def limited(code, path, blocks):
    """Run some code in a process that may write files of so many bytes only."""
    return subprocess.run(
        [sys.executable, "-c", code, str(path)],
        preexec_fn=lambda: resource.setrlimit(resource.RLIMIT_FSIZE, (blocks, blocks)),
        capture_output=True, text=True, check=False,
    )  # fmt: skip


@pytest.mark.deep
def test_a_file_size_limit_is_one_sentence_and_leaves_nothing_half_done(tmp_path):
    demo = tmp_path / "demo.blunt"
    code = "import sys; from blunt_ruler.cli import main; main(['demo', '--out', sys.argv[1]])"
    result = limited(code, demo, 500_000)
    assert result.returncode == 2
    assert result.stderr.count("\n") == 1
    assert "larger than files may be" in result.stderr
    assert not list(tmp_path.iterdir())
    path = filled(tmp_path / "book.blunt")
    code = """
import sys
from pathlib import Path
import numpy as np
from blunt_ruler.core.records.records import Trace
from blunt_ruler.core.records.hardware import (Rig)
from blunt_ruler.logbook import Logbook, LogbookBusy
with Logbook.open(Path(sys.argv[1])) as book:
    book.commit("small", put=[Rig(id="small", name="Small")])
    try:
        book.add_trace(Trace(np.random.default_rng(1).gamma(9, 2, 300_000), {}))
    except LogbookBusy as error:
        print(error)
"""
    result = limited(code, path, 400_000)
    assert "could not be written: the disk" in result.stdout, result.stderr
    with Logbook.open(path) as book:
        assert "small" in book.contents().rigs


def test_a_link_is_replaced_and_never_followed(tmp_path):
    from blunt_ruler.files import write_whole

    (tmp_path / "precious").write_text("kept")
    link = tmp_path / "report.md"
    link.symlink_to(tmp_path / "precious")
    write_whole(link, "new")
    assert (tmp_path / "precious").read_text() == "kept"
    assert link.read_text() == "new"
    assert not link.is_symlink()


def test_who_may_read_a_file_is_as_the_umask_says(tmp_path):
    from blunt_ruler.files import write_whole

    before = os.umask(0o077)
    try:
        write_whole(tmp_path / "report.md", "x")
        with Logbook.create(tmp_path / "book.blunt"):
            pass
    finally:
        os.umask(before)
    for name in ("report.md", "book.blunt"):
        assert (tmp_path / name).stat().st_mode & 0o077 == 0


def test_formats_are_made_of_what_they_say():
    for version in schema.MIGRATIONS:
        assert "table runs on runs" in schema.expected_structure(version)
