"""Values that no review holds: far dates, endless numbers, deep JSON, in parts and in logbooks."""

import json
import os
import sqlite3

import pytest

from blunt_ruler.core.analysis.analyse import analyse
from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.runs.changes import BadDay, checked_day
from blunt_ruler.core.writeup.compose import compose
from blunt_ruler.exchange.parts.part_files import MOST_BYTES, read_part_file
from blunt_ruler.logbook import Logbook

FAR = (
    "0001-01-01T00:00:00+14:00",
    "9999-12-31T23:59:59-14:00",
    "0001-01-01",
    "9999-12-31",
    "1969-12-31T23:59:59",
)
PARTS = {
    "deep": '{"kind": "card", "name": ' + "[" * 100_000,
    "deep and closed": '{"kind": "card", "name": ' + "[" * 100_000 + "]" * 100_000 + "}",
    "endless": '{"kind": "card", "name": "C", "length_mm": ' + "9" * 5000 + "}",
    "large": '{"kind": "card", "name": "C", "length_mm": 1e400}',
    "no number": '{"kind": "card", "name": "C", "length_mm": NaN}',
    "long name": json.dumps({"kind": "card", "name": "C" * 100_000}),
    "long field": json.dumps({"kind": "card", "name": "C", "x" * 100_000: 1}),
    "long kind": json.dumps({"kind": "k" * 100_000, "name": "C"}),
    "nested": json.dumps({"kind": "card", "name": {"a": [1]}}),
    "wide": "kind,name\n" + ",".join("x" * 9 for _ in range(50_000)),
    "NULs": "\x00" * 5000,
    "quotes": 'kind,name\ncard,"' + "x" * 300_000,
}


@pytest.mark.parametrize("how", PARTS)
def test_parts_that_are_none_are_one_sentence(tmp_path, how):
    path = tmp_path / "parts.json"
    path.write_text(PARTS[how])
    with pytest.raises(UserFixable) as refused:
        read_part_file(path, Contents.empty(), lambda: "id")
    said = str(refused.value)
    assert "\n" not in said
    assert len(said) < 1000


def test_parts_of_any_length_or_from_a_pipe_are_refused(tmp_path):
    large = tmp_path / "large.csv"
    with large.open("wb") as file:
        file.write(b"kind,name\n")
        file.truncate(MOST_BYTES + 1)
    pipe = tmp_path / "pipe.csv"
    os.mkfifo(pipe)
    for path, says in (
        (large, "larger than 8 MB"),
        (pipe, "not a file but"),
        (tmp_path, "cannot be read"),
    ):
        with pytest.raises(UserFixable, match=says):
            read_part_file(path, Contents.empty(), lambda: "id")


@pytest.mark.parametrize("far", FAR)
def test_far_days_are_refused_where_they_are_typed(far):
    with pytest.raises(BadDay, match="is not a date"):
        checked_day(far)


@pytest.mark.parametrize("far", FAR)
def test_a_logbook_with_far_moments_is_read_checked_and_written_up(demo_book, far):
    """A moment that cannot be is none: the runs keep their figures."""
    with sqlite3.connect(demo_book) as db:
        db.execute("UPDATE runs SET body = json_set(body, '$.taken_at', ?)", (far,))
        db.execute("UPDATE ticks SET body = json_set(body, '$.at', ?)", (far,))
        body = json.dumps({"id": "x", "at": far, "what": "driver"})
        db.execute("INSERT INTO changes (id, body) VALUES ('x', ?)", (body,))
        db.execute("UPDATE plans SET body = json_set(body, '$.hours.first_day', ?)", (far,))
        db.execute("UPDATE plans SET body = json_set(body, '$.hours.deadline', ?)", (far,))
        db.execute("UPDATE journal SET at = ?", (far,))
    db.close()
    with Logbook.open(demo_book) as book:
        contents, edits = book.contents(), book.edits()
        assert not book.set_apart
    assert all(run.moment is None for run in contents.runs.values())
    analysis = analyse(contents, contents.reviews["which-link"])
    assert compose(analysis, edits).sections
    _ = analysis.bench_plan


@pytest.mark.parametrize(
    "change",
    [
        lambda body: body.replace('"repeat":1', f'"repeat":{"9" * 5000}'),
        lambda body: body[:-1] + ',"notes":' + "[" * 100_000 + "]" * 100_000 + "}",
        lambda body: body.replace('"repeat":1', '"repeat":1e400'),
    ],
    ids=["endless", "deep", "large"],
)
def test_a_record_that_cannot_be_is_set_apart_in_a_sentence(demo_book, change):
    with sqlite3.connect(demo_book) as db:
        db.execute("PRAGMA ignore_check_constraints = ON")
        key, body = db.execute(
            "SELECT id, body FROM runs WHERE body LIKE '%\"repeat\":1,%'"
        ).fetchone()
        try:
            db.execute("UPDATE runs SET body = ? WHERE id = ?", (change(body), key))
        except sqlite3.OperationalError:  # SQLite's own JSON finds it too deep: it cannot be stored
            return
    db.close()
    with Logbook.open(demo_book) as book:
        assert len(book.contents().runs) == 223
        (said,) = book.set_apart
        assert len(said) < 400


def test_a_journal_of_others_that_cannot_be_read_corrects_nothing(demo_book):
    with sqlite3.connect(demo_book) as db:
        for number, body in enumerate(("[" * 100_000, "1" * 5000, "[]", '{"id": 7}', "{")):
            db.execute(
                "INSERT INTO journal (seq, at, label, state) VALUES (?, 'now', 'x', 'done')",
                (9000 + number,),
            )
            db.execute(
                "INSERT INTO journal_images VALUES (?, 'runs', 'x', ?, ?)",
                (9000 + number, body, body),
            )
    db.close()
    with Logbook.open(demo_book) as book:
        contents, edits = book.contents(), book.edits()
    analysis = analyse(contents, contents.reviews["which-link"])
    assert compose(analysis, edits).sections
