"""Read and write core values in a logbook file, with undo for every edit.

There is no Save: `commit` has written when it returns. A logbook may be used from one thread
at a time; open a second one on the same file for work in the background.
"""

import sqlite3
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from datetime import UTC, datetime
from functools import cache
from pathlib import Path
from typing import Any, TypeAlias

from pydantic import TypeAdapter, ValidationError

from blunt_ruler.core.models import Contents, Record, Trace
from blunt_ruler.core.writeup.corrections import Edit
from blunt_ruler.logbook import journal, opening
from blunt_ruler.logbook.errors import DamagedLogbook, LogbookBusy
from blunt_ruler.logbook.schema import TABLE_OF, TABLES

# One JSON list is validated several times faster than row by row, but holds up other threads.
ROWS_AT_ONCE = 500

Changes: TypeAlias = Mapping[str, Mapping[str, Any]]
"""Table → id → record as it is now, None where it was taken away."""


@cache
def _adapter(table: str) -> TypeAdapter[list[Any]]:
    return TypeAdapter(list[TABLES[table]])  # type: ignore[misc]


def now_text() -> str:
    """This moment in UTC, to the second, as the journal keeps it."""
    return datetime.now(UTC).isoformat(timespec="seconds")


class Logbook:
    """One open logbook file. Use `create` or `open`; close it, or use it in a `with`."""

    def __init__(self, path: Path, db: sqlite3.Connection, clock: Callable[[], str]) -> None:
        self.path = path
        self._db = db
        self._clock = clock
        self._write_ahead = False

    @classmethod
    def create(cls, path: Path, clock: Callable[[], str] = now_text) -> "Logbook":
        """Make a new, empty file; NotALogbook where one of that name is already there."""
        return cls(path, opening.create(path), clock)

    @classmethod
    def open(cls, path: Path, clock: Callable[[], str] = now_text) -> "Logbook":
        """Open a file, checked first: NotALogbook, NewerLogbook, DamagedLogbook, LogbookBusy."""
        return cls(path, opening.open_existing(path), clock)

    def __enter__(self) -> "Logbook":
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def close(self) -> None:
        """Fold the write-ahead log into the file and let go of it."""
        self._db.close()

    # Reading

    def contents(self) -> Contents:
        """Everything but the traces. DamagedLogbook where a row is not what it should be."""
        return Contents(**{table: self._read(table) for table in TABLES})

    def _read(self, table: str) -> Mapping[str, Any]:
        bodies = [row[0] for row in self._select(f"SELECT body FROM {table} ORDER BY rowid")]
        records = {}
        for start in range(0, len(bodies), ROWS_AT_ONCE):
            for record in self._parse(table, bodies[start : start + ROWS_AT_ONCE], start):
                records[record.id] = record
        return records

    def _select(self, query: str, *values: str) -> list[tuple[Any, ...]]:
        try:
            return self._db.execute(query, values).fetchall()
        except sqlite3.DatabaseError as error:
            raise DamagedLogbook(
                str(self.path),
                f"the logbook cannot be read ({error})",
                "Go back to a copy from before the damage",
            ) from error

    def _parse(self, table: str, bodies: Sequence[str], start: int = 0) -> list[Any]:
        try:
            return _adapter(table).validate_json(f"[{','.join(bodies)}]")
        except ValidationError as error:
            first = error.errors()[0]
            row = start + (int(first["loc"][0]) if first["loc"] else 0)
            field = ".".join(str(part) for part in first["loc"][1:])
            raise DamagedLogbook(
                str(self.path),
                f"row {row + 1} of {table}, field {field}: {first['msg']}",
                "Go back to a copy from before the damage",
            ) from error

    def _changes(self, images: Sequence[journal.Image], *, forwards: bool) -> Changes:
        """What images changed, as records by table and id; None for a record taken away."""
        changed: dict[str, dict[str, Any]] = {}
        for image in images:
            body = image.after if forwards else image.before
            record = None if body is None else self._parse(image.table, [body])[0]
            changed.setdefault(image.table, {})[image.id] = record
        return changed

    def trace(self, sha256: str) -> Trace:
        """The trace at an address; DamagedLogbook where it is gone or altered."""
        from blunt_ruler.logbook.traces import decode_trace  # polars is slow to import

        found = self._select("SELECT CAST(parquet AS BLOB) FROM traces WHERE sha256 = ?", sha256)
        if not found:
            raise DamagedLogbook(
                str(self.path), f"the trace {sha256[:12]} is missing", "Import its log again"
            )
        return decode_trace(sha256, found[0][0], str(self.path))

    def has_trace(self, sha256: str) -> bool:
        """Whether a trace is already stored."""
        return (
            self._db.execute("SELECT 1 FROM traces WHERE sha256 = ?", (sha256,)).fetchone()
            is not None
        )

    # Writing

    def add_trace(self, trace: Trace) -> str:
        """Store a trace once and give its address. Part of no undo: a run refers to it."""
        from blunt_ruler.logbook.traces import encode_trace

        sha256, blob = encode_trace(trace)
        with self._transaction():
            self._db.execute(
                "INSERT OR IGNORE INTO traces (sha256, frames, parquet) VALUES (?, ?, ?)",
                (sha256, trace.frame_times_ms.size, blob),
            )
        return sha256

    def commit(
        self,
        label: str,
        put: Sequence[Record] = (),
        drop: Sequence[Record] = (),
    ) -> Changes:
        """Write one edit: records to put in place, records to take away; what it changed.

        `label` is what the Undo menu calls it. An edit that changes nothing is not recorded.
        """
        with self._transaction():
            images = [
                image
                for image in (
                    *(self._image(record, record.model_dump_json()) for record in put),
                    *(self._image(record, None) for record in drop),
                )
                if image.before != image.after
            ]
            for image in images:
                journal.write_row(self._db, image.table, image.id, image.after)
            if images:
                journal.record(self._db, self._clock(), label, images)
        return self._changes(images, forwards=True)

    def _image(self, record: Record, after: str | None) -> journal.Image:
        table = TABLE_OF[type(record)]
        row = self._db.execute(f"SELECT body FROM {table} WHERE id = ?", (record.id,)).fetchone()
        return journal.Image(table, record.id, None if row is None else row[0], after)

    def undo(self) -> Changes:
        """Take back the newest standing edit; what changed, nothing where there is none."""
        return self._step(journal.next_to_undo, forwards=False)

    def redo(self) -> Changes:
        """Do the last undone edit again; what changed, nothing where there is none."""
        return self._step(journal.next_to_redo, forwards=True)

    def _step(
        self,
        which: Callable[[sqlite3.Connection], tuple[int, str] | None],
        *,
        forwards: bool,
    ) -> Changes:
        with self._transaction():
            found = which(self._db)
            if found is None:
                return {}
            images = journal.replay(self._db, found[0], forwards=forwards)
        return self._changes(images, forwards=forwards)

    def next_undo(self) -> str | None:
        """Label of the edit that `undo` would take back."""
        found = journal.next_to_undo(self._db)
        return None if found is None else found[1]

    def next_redo(self) -> str | None:
        """Label of the edit that `redo` would do again."""
        found = journal.next_to_redo(self._db)
        return None if found is None else found[1]

    def history(self, limit: int = 200) -> tuple[journal.JournalEntry, ...]:
        """The newest edits first, with what they changed."""
        rows = self._db.execute(
            "SELECT seq, at, label, state FROM journal ORDER BY seq DESC LIMIT ?", (limit,)
        ).fetchall()
        return tuple(
            journal.JournalEntry(*row, images=journal.images_of(self._db, row[0])) for row in rows
        )

    def edits(self) -> tuple[Edit, ...]:
        """Edits that stand and changed something already there, oldest first."""
        found: dict[int, Edit] = {}
        for seq, at, label, *row in self._select(
            "SELECT seq, at, label, tbl, before, after FROM journal JOIN journal_images USING (seq)"
            " WHERE state = 'done' AND before IS NOT NULL ORDER BY seq, journal_images.rowid"
        ):
            earlier = found[seq].rows if seq in found else ()
            found[seq] = Edit(at, label, (*earlier, tuple(row)))  # type: ignore[arg-type]
        return tuple(found.values())

    # Column mappings, remembered by the header of the log

    def mapping(self, header: str) -> str | None:
        """The mapping (JSON) confirmed earlier for a log with this header."""
        row = self._db.execute("SELECT body FROM mappings WHERE header = ?", (header,)).fetchone()
        return None if row is None else str(row[0])

    def remember_mapping(self, header: str, body: str) -> None:
        """Keep a confirmed mapping (JSON) for the next log with this header."""
        with self._transaction():
            self._db.execute("INSERT OR REPLACE INTO mappings VALUES (?, ?)", (header, body))

    def copy_to(self, target: Path) -> None:
        """A whole copy of the logbook in one file, even while it is being written to."""
        if target.exists() and target.samefile(self.path):
            raise LogbookBusy(str(target), "that is the logbook itself", "Choose another name")
        opening.copy_to(self._db, target)

    def compact(self) -> None:
        """Give unused room back and leave one file without a write-ahead log beside it."""
        self._db.execute("PRAGMA journal_mode = DELETE")
        self._db.execute("VACUUM")

    @contextmanager
    def _transaction(self) -> Iterator[None]:
        try:
            if not self._write_ahead:
                opening.write_ahead(self._db)
                self._write_ahead = True
            self._db.execute("BEGIN IMMEDIATE")
            try:
                yield
                self._db.execute("COMMIT")
            except BaseException:
                self._db.execute("ROLLBACK")
                raise
        except sqlite3.OperationalError as error:
            raise LogbookBusy(
                str(self.path),
                f"the edit could not be written ({error})",
                "Nothing was changed; free the file or the disk and try again",
            ) from error
