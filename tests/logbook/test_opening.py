"""Files that are refused are refused in one sentence and left as they are."""

import sqlite3

import pytest

from blunt_ruler.core.records.hardware import Rig
from blunt_ruler.logbook import (
    DamagedLogbook,
    Logbook,
    LogbookBusy,
    NewerLogbook,
    NotALogbook,
    opening,
    schema,
)

NEXT = schema.SCHEMA_VERSION + 1


@pytest.fixture
def path(tmp_path):
    path = tmp_path / "review.blunt"
    with Logbook.create(path) as book:
        book.commit("rigs", put=[Rig(id=f"r{n}", name=f"Rig {n} " + "x" * 90) for n in range(300)])
        book.compact()
    return path


def refused(path, error, says):
    before = path.read_bytes()
    with pytest.raises(error, match=says) as caught:
        Logbook.open(path).contents()
    assert path.read_bytes() == before
    assert str(path) in str(caught.value)
    assert "\n" not in str(caught.value)


def test_the_file_says_what_it_is(path):
    header = path.read_bytes()[:100]
    assert int.from_bytes(header[68:72], "big") == schema.APPLICATION_ID
    assert int.from_bytes(header[60:64], "big") == schema.SCHEMA_VERSION


def test_a_newer_logbook_is_refused_with_both_versions(path):
    with sqlite3.connect(path) as db:
        db.execute("PRAGMA user_version = 99")
    refused(
        path, NewerLogbook, f"format 99 and this Blunt Ruler reads up to {schema.SCHEMA_VERSION}"
    )


def test_another_programs_database_is_refused(tmp_path):
    path = tmp_path / "other.blunt"
    with sqlite3.connect(path) as db:
        db.execute("CREATE TABLE x (y)")
    refused(path, NotALogbook, "belongs to another program")


@pytest.mark.parametrize("content", [b"", b"frame time ms\n16.7\n", b"SQLite format 3\x00" * 3])
def test_a_file_that_is_no_database_is_refused(tmp_path, content):
    path = tmp_path / "log.csv"
    path.write_bytes(content)
    refused(path, NotALogbook, "not a Blunt Ruler logbook")


def test_a_missing_file_is_not_made(tmp_path):
    with pytest.raises(NotALogbook, match="no such file"):
        Logbook.open(tmp_path / "none.blunt")
    assert not (tmp_path / "none.blunt").exists()


def test_a_cut_file_is_refused(path):
    path.write_bytes(path.read_bytes()[:-5000])
    refused(path, DamagedLogbook, "damaged")


def test_a_scrambled_page_is_refused(path):
    raw = bytearray(path.read_bytes())
    root = (
        sqlite3.connect(path)
        .execute("SELECT rootpage FROM sqlite_master WHERE name = 'rigs'")
        .fetchone()[0]
    )
    raw[(root - 1) * 4096 : (root - 1) * 4096 + 200] = b"\xa5" * 200
    path.write_bytes(raw)
    refused(path, DamagedLogbook, "damaged")


def test_a_record_that_is_not_what_it_should_be_is_set_apart_and_named(path):
    with sqlite3.connect(path) as db:
        db.execute("UPDATE rigs SET body = '{\"id\": \"r7\"}' WHERE id = 'r7'")
        db.execute('UPDATE rigs SET body = \'{"id": "r9", "name": "x"}\' WHERE id = \'r8\'')
    with Logbook.open(path) as book:
        contents = book.contents()
        assert len(contents.rigs) == 298
        assert [words.split(":")[0] for words in book.set_apart] == ["rig “r7”", "rig “r8”"]
        assert "field name" in book.set_apart[0]
        assert "another id" in book.set_apart[1]
        book.commit("rename", put=[contents.rigs["r1"].model_copy(update={"name": "One"})])
        assert book.contents().rigs["r1"].name == "One"


def test_a_new_logbook_never_replaces_a_file(path):
    before = path.read_bytes()
    with pytest.raises(NotALogbook, match="already there"):
        Logbook.create(path)
    assert path.read_bytes() == before


def test_a_folder_that_cannot_be_written_is_said(tmp_path):
    with pytest.raises(LogbookBusy, match="cannot make the file"):
        Logbook.create(tmp_path / "nowhere" / "review.blunt")


def test_an_older_logbook_is_copied_before_it_is_brought_up(path, monkeypatch):
    monkeypatch.setattr(opening, "SCHEMA_VERSION", NEXT)
    monkeypatch.setitem(schema.MIGRATIONS, NEXT, ("CREATE TABLE later (x)",))
    old = path.read_bytes()
    with Logbook.open(path) as book:
        assert len(book.contents().rigs) == 300
        assert book._db.execute("PRAGMA user_version").fetchone() == (NEXT,)
    copy = path.with_name(f"review.before-format-{NEXT}.blunt")
    monkeypatch.undo()
    with Logbook.open(copy) as book:
        assert len(book.contents().rigs) == 300
    assert int.from_bytes(old[60:64], "big") == NEXT - 1


def test_a_migration_that_fails_leaves_the_old_format(path, monkeypatch):
    monkeypatch.setattr(opening, "SCHEMA_VERSION", NEXT)
    monkeypatch.setitem(schema.MIGRATIONS, NEXT, ("CREATE TABLE later (x)", "NONSENSE"))
    with pytest.raises(sqlite3.OperationalError):
        Logbook.open(path)
    monkeypatch.undo()
    with Logbook.open(path) as book:
        assert len(book.contents().rigs) == 300
        tables = book._db.execute("SELECT name FROM sqlite_master").fetchall()
    assert ("later",) not in tables


@pytest.mark.deep
def test_any_single_flipped_byte_is_refused_or_harmless(path, tmp_path):
    # Every byte of the first page's start, then every 1999th: a clear sentence, never a traceback.
    raw = path.read_bytes()
    for place in [*range(120), *range(120, len(raw), 1999)]:
        copy = tmp_path / "flipped.blunt"
        changed = bytearray(raw)
        changed[place] ^= 0x5A
        copy.write_bytes(changed)
        try:
            with Logbook.open(copy) as book:
                book.contents()
        except (DamagedLogbook, NewerLogbook, NotALogbook, LogbookBusy):
            pass
        for leftover in tmp_path.glob("flipped*"):
            leftover.unlink()
