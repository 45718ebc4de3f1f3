"""The journal: what every edit changed, so that it can be undone, redone and read later.

An entry holds the rows before and after. It is recorded in the same transaction as the edit,
so there is never one without the other. Undo takes the edit that was done last, redo the one that
was undone last: `turn` counts both. A new edit drops the redo tail of its own session and of all
closed ones, but dropped entries stay readable: they are the history of corrected figures.
"""

import sqlite3
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from blunt_ruler.core.records.records import TABLES
from blunt_ruler.logbook.errors import ChangedElsewhere, DamagedLogbook
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

    It ends what its own session, or one that is closed, could redo.
    """
    open_elsewhere = _OpenElsewhere(session)
    authors = db.execute("SELECT DISTINCT session FROM journal WHERE state = 'undone'").fetchall()
    db.executemany(
        "UPDATE journal SET state = 'dropped' WHERE state = 'undone' AND session = ?",
        [(author,) for (author,) in authors if not open_elsewhere(author)],
    )
    seq = db.execute(
        f"INSERT INTO journal (at, label, state, session, turn) VALUES (?, ?, 'done', ?, {_NEXT})",
        (at, label, session),
    ).lastrowid
    assert seq is not None
    db.executemany(
        "INSERT INTO journal_images (seq, tbl, id, before, after) VALUES (?, ?, ?, ?, ?)",
        [(seq, image.table, image.id, image.before, image.after) for image in images],
    )
    return seq


_NEXT = "(SELECT coalesce(max(turn), 0) + 1 FROM journal)"


@dataclass(frozen=True, slots=True)
class Candidate:
    """An edit that undo or redo may take next."""

    seq: int
    label: str


def candidates(db: sqlite3.Connection, session: str, *, to_redo: bool) -> Iterator[Candidate]:
    """Edits to undo or to redo, the latest first: one's own and those of closed sessions."""
    open_elsewhere = _OpenElsewhere(session)
    for seq, label, author in db.execute(
        "SELECT seq, label, session FROM journal WHERE state = ? ORDER BY turn DESC",
        ("undone" if to_redo else "done",),
    ):
        if not open_elsewhere(author):
            yield Candidate(int(seq), str(label))


class _OpenElsewhere:
    """Whether the session that wrote an edit is another one that may be open; asked once of each.

    An edit of another open window is that window's to undo and redo.
    """

    def __init__(self, session: str) -> None:
        self._known: dict[str, bool] = {session: False}

    def __call__(self, author: str) -> bool:
        if author not in self._known:
            self._known[author] = may_be_open(author)
        return self._known[author]


def images_of(db: sqlite3.Connection, seq: int) -> tuple[Image, ...]:
    """The rows an entry changed."""
    rows = db.execute(
        "SELECT tbl, id, before, after FROM journal_images WHERE seq = ? ORDER BY rowid", (seq,)
    ).fetchall()
    for row in rows:
        if row[0] not in TABLES:  # names of tables go into statements
            raise DamagedLogbook(
                "journal",
                f"edit {seq} names the table “{str(row[0])[:40]}”, which does not exist",
                "Go back to a copy from before the damage",
            )
    return tuple(Image(*row) for row in rows)


def replay(db: sqlite3.Connection, seq: int, *, forwards: bool) -> tuple[Image, ...]:
    """Put the rows of an entry as they were after it (forwards) or before it; those rows.

    ChangedElsewhere where a row is no longer as the entry left it: a change would be lost.
    """
    images = images_of(db, seq)
    for image in images:
        now = db.execute(f"SELECT body FROM {image.table} WHERE id = ?", (image.id,)).fetchone()
        was = image.before if forwards else image.after
        if (now[0] if now else None) != was:
            raise ChangedElsewhere(
                image.table, "changed in another window since", "Change it by hand", (image.id,)
            )
        write_row(db, image.table, image.id, image.after if forwards else image.before)
    db.execute(
        f"UPDATE journal SET state = ?, turn = {_NEXT} WHERE seq = ?",
        ("done" if forwards else "undone", seq),
    )
    return images
