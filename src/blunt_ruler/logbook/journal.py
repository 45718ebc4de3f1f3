"""The journal: what every edit changed, so that it can be undone, redone and read later.

An entry holds the rows before and after. It is recorded in the same transaction as the edit,
so there is never one without the other. A new edit drops the redo tail, but dropped entries
stay readable: they are the history of corrected figures.
"""

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Image:
    """One row before and after an edit; None where it was not there."""

    table: str
    id: str
    before: str | None
    after: str | None


@dataclass(frozen=True, slots=True)
class JournalEntry:
    """One edit as the history shows it. `state` is done, undone or dropped."""

    seq: int
    at: str
    label: str
    state: str
    images: tuple[Image, ...]


def write_row(db: sqlite3.Connection, table: str, row_id: str, body: str | None) -> None:
    """Put a row's body in place, or take the row away for None."""
    if body is None:
        db.execute(f"DELETE FROM {table} WHERE id = ?", (row_id,))
    else:
        db.execute(
            f"INSERT INTO {table} (id, body) VALUES (?, ?) "
            "ON CONFLICT (id) DO UPDATE SET body = excluded.body",
            (row_id, body),
        )


def record(db: sqlite3.Connection, at: str, label: str, images: Sequence[Image]) -> int:
    """Write one entry inside the caller's transaction; its number."""
    db.execute("UPDATE journal SET state = 'dropped' WHERE state = 'undone'")
    seq = db.execute(
        "INSERT INTO journal (at, label, state) VALUES (?, ?, 'done')", (at, label)
    ).lastrowid
    assert seq is not None
    db.executemany(
        "INSERT INTO journal_images (seq, tbl, id, before, after) VALUES (?, ?, ?, ?, ?)",
        [(seq, image.table, image.id, image.before, image.after) for image in images],
    )
    return seq


def next_to_undo(db: sqlite3.Connection) -> tuple[int, str] | None:
    """Number and label of the newest edit that stands."""
    row = db.execute(
        "SELECT seq, label FROM journal WHERE state = 'done' ORDER BY seq DESC LIMIT 1"
    ).fetchone()
    return None if row is None else (row[0], row[1])


def next_to_redo(db: sqlite3.Connection) -> tuple[int, str] | None:
    """Number and label of the oldest undone edit."""
    row = db.execute(
        "SELECT seq, label FROM journal WHERE state = 'undone' ORDER BY seq LIMIT 1"
    ).fetchone()
    return None if row is None else (row[0], row[1])


def images_of(db: sqlite3.Connection, seq: int) -> tuple[Image, ...]:
    """The rows an entry changed."""
    return tuple(
        Image(*row)
        for row in db.execute(
            "SELECT tbl, id, before, after FROM journal_images WHERE seq = ? ORDER BY rowid", (seq,)
        )
    )


def replay(db: sqlite3.Connection, seq: int, *, forwards: bool) -> tuple[Image, ...]:
    """Put the rows of an entry as they were after it (forwards) or before it; those rows."""
    images = images_of(db, seq)
    for image in images:
        write_row(db, image.table, image.id, image.after if forwards else image.before)
    db.execute(
        "UPDATE journal SET state = ? WHERE seq = ?", ("done" if forwards else "undone", seq)
    )
    return images
