"""The journal: what every edit changed, so that it can be undone, redone and read later.

An entry holds the rows before and after. It is recorded in the same transaction as the edit,
so there is never one without the other. A new edit drops the redo tail, but dropped entries
stay readable: they are the history of corrected figures.
"""

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass

from blunt_ruler.logbook.errors import ChangedElsewhere, DamagedLogbook
from blunt_ruler.logbook.schema import TABLES
from blunt_ruler.logbook.sessions import may_be_open


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


def record(
    db: sqlite3.Connection, at: str, label: str, images: Sequence[Image], session: str
) -> int:
    """Write one entry inside the caller's transaction; its number.

    It ends what the same session could redo.
    """
    db.execute(
        "UPDATE journal SET state = 'dropped' WHERE state = 'undone' AND session IN ('', ?)",
        (session,),
    )
    seq = db.execute(
        "INSERT INTO journal (at, label, state, session) VALUES (?, ?, 'done', ?)",
        (at, label, session),
    ).lastrowid
    assert seq is not None
    db.executemany(
        "INSERT INTO journal_images (seq, tbl, id, before, after) VALUES (?, ?, ?, ?, ?)",
        [(seq, image.table, image.id, image.before, image.after) for image in images],
    )
    return seq


def next_to_undo(db: sqlite3.Connection, session: str) -> tuple[int, str] | None:
    """Number and label of the newest edit that stands: one's own, or of a closed session."""
    return _next(db, session, "state = 'done' ORDER BY seq DESC")


def next_to_redo(db: sqlite3.Connection, session: str) -> tuple[int, str] | None:
    """Number and label of the oldest undone edit: one's own, or of a closed session."""
    return _next(db, session, "state = 'undone' ORDER BY seq")


def _next(db: sqlite3.Connection, session: str, which: str) -> tuple[int, str] | None:
    open_ones: dict[str, bool] = {session: False}
    for seq, label, author in db.execute(f"SELECT seq, label, session FROM journal WHERE {which}"):
        if author not in open_ones:
            open_ones[author] = may_be_open(author)
        if not open_ones[author]:
            return int(seq), str(label)
    return None


def images_of(db: sqlite3.Connection, seq: int) -> tuple[Image, ...]:
    """The rows an entry changed."""
    rows = db.execute(
        "SELECT tbl, id, before, after FROM journal_images WHERE seq = ? ORDER BY rowid", (seq,)
    ).fetchall()
    for row in rows:
        if row[0] not in TABLES:  # names of tables go into statements
            raise DamagedLogbook(
                "journal",
                f"edit {seq} names the table “{str(row[0])[:40]}”, which there is not",
                "Go back to a copy from before the damage",
            )
    return tuple(Image(*row) for row in rows)


def replay(db: sqlite3.Connection, seq: int, *, forwards: bool) -> tuple[Image, ...]:
    """Put the rows of an entry as they were after it (forwards) or before it; those rows."""
    images = images_of(db, seq)
    for image in images:
        now = db.execute(f"SELECT body FROM {image.table} WHERE id = ?", (image.id,)).fetchone()
        was = image.before if forwards else image.after
        if (now[0] if now else None) != was:
            raise ChangedElsewhere(
                image.table,
                "what this edit changed was changed elsewhere since",
                "Change it by hand, so that nothing of the other is lost",
                (image.id,),
            )
        write_row(db, image.table, image.id, image.after if forwards else image.before)
    db.execute(
        "UPDATE journal SET state = ? WHERE seq = ?", ("done" if forwards else "undone", seq)
    )
    return images
