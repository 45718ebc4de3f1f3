"""Open or make the file behind a logbook, or say in one sentence why not.

A file that is not ours, is newer, or is damaged is refused before anything is written to it.
"""

import shutil
import sqlite3
from contextlib import closing
from pathlib import Path

from blunt_ruler.logbook.errors import DamagedLogbook, LogbookBusy, NewerLogbook, NotALogbook
from blunt_ruler.logbook.schema import APPLICATION_ID, MIGRATIONS, SCHEMA_VERSION, TABLES

SQLITE_MAGIC = b"SQLite format 3\x00"
HEADER_BYTES = 100  # fixed by the SQLite file format


def connect(path: Path) -> sqlite3.Connection:
    """A connection as every part of the application uses it: explicit transactions.

    It alters nothing by itself; the first write asks for `write_ahead`.
    """
    db = sqlite3.connect(path, isolation_level=None, timeout=10.0, check_same_thread=False)
    db.execute("PRAGMA foreign_keys = ON")
    db.execute("PRAGMA synchronous = FULL")  # an acknowledged edit outlives a power cut
    return db


def write_ahead(db: sqlite3.Connection) -> None:
    """Switch the file to a write-ahead log, so that readers never wait for a writer."""
    db.execute("PRAGMA journal_mode = WAL")


def create(path: Path) -> sqlite3.Connection:
    """A new, empty logbook file; NotALogbook where something is already there."""
    if path.exists():
        raise NotALogbook(str(path), "a file of that name is already there", "Choose another name")
    try:
        db = connect(path)
        db.execute("BEGIN IMMEDIATE")
        _bring_up(db, from_version=0)
        db.execute("COMMIT")
    except sqlite3.OperationalError as error:
        raise LogbookBusy(
            str(path), f"cannot make the file ({error})", "Choose a folder you may write to"
        ) from error
    return db


def open_existing(path: Path) -> sqlite3.Connection:
    """A connection to a logbook that has been checked and, if older, brought up to date."""
    version = _checked_version(path)
    try:
        db = connect(path)
    except sqlite3.OperationalError as error:
        raise LogbookBusy(
            str(path), f"cannot be opened for writing ({error})", "Copy it to a folder of your own"
        ) from error
    except sqlite3.DatabaseError as error:
        raise _damaged(path, str(error)) from error
    try:
        _check_rows(db, path)
        if version < SCHEMA_VERSION:
            _migrate(db, path, version)
    except BaseException:
        db.close()
        raise
    return db


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
    application_id, version = _identity(path)
    if application_id != APPLICATION_ID:
        raise NotALogbook(
            str(path), "this database belongs to another program", "Choose a .blunt file"
        )
    if version > SCHEMA_VERSION:
        raise NewerLogbook(
            str(path),
            f"the logbook has format {version} and this Blunt Ruler reads up to {SCHEMA_VERSION}",
            "Open it with a newer Blunt Ruler; the file was not changed",
        )
    return version


def _identity(path: Path) -> tuple[int, int]:
    """(application id, schema version), the write-ahead log included, by a read-only look."""
    try:
        with closing(sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro", uri=True)) as db:
            application_id = db.execute("PRAGMA application_id").fetchone()[0]
            version = db.execute("PRAGMA user_version").fetchone()[0]
    except sqlite3.OperationalError as error:
        raise LogbookBusy(
            str(path), f"cannot be opened ({error})", "Copy it to a folder of your own"
        ) from error
    except sqlite3.DatabaseError as error:
        raise _damaged(path, str(error)) from error
    return application_id, version


def _check_rows(db: sqlite3.Connection, path: Path) -> None:
    """SQLite's own check of every table but the traces, whose address is their checksum."""
    try:
        there = {name for (name,) in db.execute("SELECT name FROM sqlite_master")}
        for table in there & {*TABLES, "journal", "journal_images", "mappings"}:
            found = db.execute(f"PRAGMA quick_check({table})").fetchone()
            if found[0] != "ok":
                raise _damaged(path, str(found[0]).splitlines()[-1])
    except sqlite3.DatabaseError as error:
        raise _damaged(path, str(error)) from error


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
    part = target.with_name(target.name + ".part")
    part.unlink(missing_ok=True)
    try:
        with closing(sqlite3.connect(part)) as copy:
            db.backup(copy)
            copy.execute("PRAGMA journal_mode = DELETE")
        shutil.move(part, target)
    except (sqlite3.Error, OSError) as error:
        part.unlink(missing_ok=True)
        raise LogbookBusy(
            str(target), f"the copy could not be written ({error})", "Choose another folder"
        ) from error
