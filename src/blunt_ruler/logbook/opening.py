"""Open or make the file behind a logbook, or say in one sentence why not.

A file that is not ours, is newer, or is damaged is refused before anything is written to it.
"""

import os
import shutil
import sqlite3
import stat
import sys
from collections.abc import Callable
from contextlib import closing, suppress
from functools import cache
from pathlib import Path

from blunt_ruler.core.records.records import TABLES
from blunt_ruler.files import SQLITE_MAGIC, CannotWrite, placed, remove_stale
from blunt_ruler.logbook.errors import (
    DamagedLogbook,
    LogbookBusy,
    NewerLogbook,
    NotALogbook,
    busy,
    short,
)
from blunt_ruler.logbook.schema import (
    APPLICATION_ID,
    MIGRATIONS,
    SCHEMA_VERSION,
    expected_structure,
    structure,
)

BESIDE = ("", "-wal", "-shm", "-journal")
# Ends a rollback journal after the name of a super-journal, a file that SQLite deletes
# when the journal is played back (SQLite file format, section 3).
JOURNAL_MAGIC = bytes.fromhex("d9d505f920a163d7")
HEADER_BYTES = 100  # fixed by the SQLite file format


def connect(path: Path, how: str = "mode=rw") -> sqlite3.Connection:
    """A connection to a file that is there, as every part uses it: explicit transactions.

    It alters nothing by itself; the first write asks for `write_ahead`. Cells are checked before
    they are read, and what stands in the schema may call nothing that has effects, where SQLite
    can hold both that and the tables of a logbook.
    """
    db = sqlite3.connect(
        f"{path.absolute().as_uri()}?{how}",
        uri=True,
        isolation_level=None,
        timeout=10.0,
        check_same_thread=False,
    )
    if _json_is_harmless():
        db.execute("PRAGMA trusted_schema = OFF")
    db.execute("PRAGMA cell_size_check = ON")
    if sys.version_info >= (3, 12):
        db.setconfig(sqlite3.SQLITE_DBCONFIG_DEFENSIVE, True)
    db.execute("PRAGMA foreign_keys = ON")
    db.execute("PRAGMA synchronous = FULL")  # an acknowledged edit outlives a power cut
    return db


@cache
def _json_is_harmless() -> bool:
    """Whether this SQLite lets a schema that is not trusted call json_extract; 3.40 does not."""
    with closing(sqlite3.connect(":memory:")) as db:
        try:
            db.execute("PRAGMA trusted_schema = OFF")
            db.execute("CREATE TABLE t (a, b GENERATED ALWAYS AS (json_extract(a, '$.b')) STORED)")
        except sqlite3.Error:
            return False
    return True


def write_ahead(db: sqlite3.Connection) -> None:
    """Switch the file to a write-ahead log, so that readers never wait for a writer."""
    db.execute("PRAGMA journal_mode = WAL")


def create(path: Path, begin: Callable[[sqlite3.Connection], None]) -> sqlite3.Connection:
    """A new logbook file with what `begin` writes; NotALogbook where something is already there.

    It gets its name when it is whole: killed before that, nothing stands under the name.
    """
    already = NotALogbook(str(path), "a file of that name is already there", "Choose another name")
    if os.path.lexists(path):
        raise already
    if not path.parent.is_dir():
        raise LogbookBusy(
            str(path), "cannot make the file: the folder is not there", "Choose another folder"
        )
    try:
        with (
            placed(path, replace=False) as part,
            closing(sqlite3.connect(part, isolation_level=None)) as db,
        ):
            db.execute("BEGIN IMMEDIATE")
            _bring_up(db, from_version=0)
            begin(db)
            db.execute("COMMIT")
        return connect(path)
    except FileExistsError as error:
        raise already from error
    except sqlite3.Error as error:
        raise busy(path, "cannot make the file", error) from error
    except CannotWrite as error:
        raise LogbookBusy(str(path), f"cannot make the file: {error.what}", error.fix) from error


def open_existing(path: Path) -> sqlite3.Connection:
    """A connection to a logbook that has been checked and, if older, brought up to date."""
    remove_stale(path)
    version = _checked_version(path)
    try:
        db = connect(path)
    except sqlite3.OperationalError as error:
        raise busy(path, "cannot be opened for writing", error) from error
    except sqlite3.DatabaseError as error:
        raise _damaged(path, short(error)) from error
    try:
        _check_rows(db, path)
        if version < SCHEMA_VERSION:
            _migrate(db, path, version)
    except BaseException:
        db.close()
        raise
    return db


def open_to_read(path: Path) -> sqlite3.Connection | None:
    """A connection that writes nothing, also on a disk that cannot be written to.

    None where reading takes writing: the file is of an older format, or there is a journal beside
    it that only a writer can take in or take back. Then a copy must be read.
    """
    if path.with_name(f"{path.name}-journal").exists():
        return None
    try:
        if _checked_version(path) < SCHEMA_VERSION:
            return None
        db = connect(path, _reading(path))
        try:
            _check_rows(db, path)
        except BaseException:
            db.close()
            raise
    except LogbookBusy:
        if path.with_name(f"{path.name}-wal").exists():
            return None
        raise
    return db


def copied(path: Path, folder: Path) -> Path:
    """A logbook's copy in another folder, with what stands beside it."""
    real, copy = path.resolve(), folder / path.name
    if not path.is_file():
        return path  # whoever opens it says what is wrong
    _check_beside(path)
    there = [
        (beside, ending)
        for ending in BESIDE
        if (beside := real.with_name(real.name + ending)).exists()
    ]
    try:
        needed = sum(beside.stat().st_size for beside, _ in there)
        if needed > shutil.disk_usage(folder).free:
            raise LogbookBusy(
                str(path),
                f"it must be copied to be read, and there is no room for its {needed / 1e6:.0f} MB",
                f"Make room in {folder.parent}",
            )
        for beside, ending in there:
            shutil.copyfile(beside, copy.with_name(copy.name + ending), follow_symlinks=False)
    except OSError as error:
        raise busy(path, "cannot be copied to be read", error) from error
    return copy


def _reading(path: Path) -> str:
    """How a file is opened to be read: without a write-ahead log nothing but the file need be
    read, and nothing is made beside it.
    """
    alone = not path.with_name(f"{path.name}-wal").exists()
    return "mode=ro&immutable=1" if alone else "mode=ro"


def _checked_version(path: Path) -> int:
    """Schema version of a file that is ours and not newer, read without touching it."""
    if not path.is_file():
        raise NotALogbook(str(path), "there is no such file", "Check the name and the folder")
    try:
        with path.open("rb") as file:
            header = file.read(HEADER_BYTES)
    except OSError as error:
        raise LogbookBusy(
            str(path), f"cannot be read ({error.strerror})", "Check who may read it"
        ) from error
    if len(header) < HEADER_BYTES or not header.startswith(SQLITE_MAGIC):
        raise NotALogbook(str(path), "this is not a Blunt Ruler logbook", "Choose a .blunt file")
    if int.from_bytes(header[68:72], "big") != APPLICATION_ID:
        raise NotALogbook(
            str(path), "this database belongs to another program", "Choose a .blunt file"
        )
    _check_beside(path)
    _roll_back(path)
    version, made_of = _identity(path)
    if version > SCHEMA_VERSION:
        raise NewerLogbook(
            str(path),
            f"the logbook has format {version} and this Blunt Ruler reads up to {SCHEMA_VERSION}",
            "Open it with a newer Blunt Ruler; the file was not changed",
        )
    expected = expected_structure(version) if version in MIGRATIONS else {}
    if made_of != expected:
        odd = sorted(set(made_of.items()) ^ set(expected.items()))[0][0]
        raise DamagedLogbook(
            str(path),
            f"it claims format {version}, but “{odd[:60]}” does not match it",
            "Go back to a copy from before the damage; this file was not changed",
        )
    return version


def _check_beside(path: Path) -> None:
    """DamagedLogbook for what SQLite would follow beside a logbook and this program never makes: a
    link, a pipe, a journal that names another file, which SQLite would delete.
    """
    real = path.resolve()
    for ending in BESIDE[1:]:
        beside = real.with_name(real.name + ending)
        try:
            found = beside.lstat()
        except FileNotFoundError:
            continue
        except OSError as error:
            raise busy(path, "what lies beside it cannot be read", error) from error
        if not stat.S_ISREG(found.st_mode):
            raise DamagedLogbook(
                str(beside), "it is not a file of its own", "Remove it, and open the logbook again"
            )
    journal = real.with_name(f"{real.name}-journal")
    with suppress(FileNotFoundError), journal.open("rb") as file:
        size = file.seek(0, os.SEEK_END)
        file.seek(max(size - len(JOURNAL_MAGIC), 0))
        if size > len(JOURNAL_MAGIC) and file.read() == JOURNAL_MAGIC:
            raise DamagedLogbook(
                str(journal),
                "it names another file, which a logbook's journal never does",
                "Keep it away from the logbook, and open that again",
            )


def _roll_back(path: Path) -> None:
    """Let SQLite take back an edit that was cut off in the middle, before anything is read."""
    if not path.with_name(f"{path.name}-journal").exists():
        return
    try:
        with closing(connect(path)) as db:
            db.execute("SELECT 1 FROM sqlite_master").fetchone()
    except sqlite3.OperationalError as error:
        raise busy(path, "an edit was cut off and cannot be taken back", error) from error
    except sqlite3.DatabaseError as error:
        raise _damaged(path, short(error)) from error


def _identity(path: Path) -> tuple[int, dict[str, str]]:
    """(schema version, what it is made of), the write-ahead log included, by a read-only look."""
    try:
        with closing(connect(path, _reading(path))) as db:
            return int(db.execute("PRAGMA user_version").fetchone()[0]), structure(db)
    except sqlite3.OperationalError as error:
        if "UTF-8" in str(error):
            raise _damaged(path, short(error)) from error
        raise busy(path, "cannot be opened", error) from error
    except (sqlite3.DatabaseError, UnicodeDecodeError) as error:
        raise _damaged(path, short(error)) from error


def _check_rows(db: sqlite3.Connection, path: Path) -> None:
    """SQLite's own check of every table but the traces, whose address is their checksum."""
    try:
        there = {name for (name,) in db.execute("SELECT name FROM sqlite_master")}
        for table in sorted({*TABLES, "journal", "journal_images", "mappings"} & there):
            found = db.execute(f"PRAGMA quick_check({table})").fetchone()
            # A body that is no text is set apart when it is read, with all else kept.
            if found[0] != "ok" and "CHECK constraint" not in str(found[0]):
                raise _damaged(path, str(found[0]).splitlines()[-1][:120])
    except sqlite3.OperationalError as error:
        raise busy(path, "cannot be read", error) from error
    except sqlite3.DatabaseError as error:
        raise _damaged(path, short(error)) from error


def _damaged(path: Path, what: str) -> DamagedLogbook:
    return DamagedLogbook(
        str(path),
        f"the logbook is damaged ({what})",
        "Go back to a copy from before the damage; this file was not changed",
    )


def _migrate(db: sqlite3.Connection, path: Path, version: int) -> None:
    """Bring an older file up to date after setting a copy of it aside."""
    copy = path.with_name(f"{path.stem}.before-format-{SCHEMA_VERSION}{path.suffix}")
    copy_to(db, copy)
    write_ahead(db)
    db.execute("BEGIN IMMEDIATE")
    try:
        _bring_up(db, from_version=version)
        db.execute("COMMIT")
    except BaseException:
        if db.in_transaction:
            db.execute("ROLLBACK")
        raise


def _bring_up(db: sqlite3.Connection, from_version: int) -> None:
    for version in range(from_version + 1, SCHEMA_VERSION + 1):
        for statement in MIGRATIONS[version]:
            db.execute(statement)
    db.execute(f"PRAGMA application_id = {APPLICATION_ID}")
    db.execute(f"PRAGMA user_version = {SCHEMA_VERSION}")


def copy_to(db: sqlite3.Connection, target: Path) -> None:
    """A whole, consistent copy in one file, put in place only when complete."""
    if not target.parent.is_dir():
        raise LogbookBusy(str(target), "the folder is not there", "Choose another folder")
    try:
        with placed(target) as part, closing(sqlite3.connect(part)) as copy:
            db.backup(copy)
            copy.execute("PRAGMA journal_mode = DELETE")
    except sqlite3.Error as error:
        raise busy(target, "the copy could not be written", error) from error
    except CannotWrite as error:
        raise LogbookBusy(
            str(target), f"the copy could not be written: {error.what}", error.fix
        ) from error
