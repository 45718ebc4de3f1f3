"""Read and write core values in a logbook file, with undo for every edit.

There is no Save: `commit` has written when it returns. A logbook may be used from one thread
at a time; open a second one on the same file for work in the background.
"""

import hashlib
import logging
import sqlite3
import tempfile
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import ExitStack, contextmanager, suppress
from datetime import UTC, datetime
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeAlias

from pydantic import TypeAdapter, ValidationError

from blunt_ruler.core.records.records import (
    TABLE_OF,
    TABLES,
    Contents,
    Record,
    Review,
    Run,
    Trace,
)
from blunt_ruler.core.records.soundness import without_dangling
from blunt_ruler.core.types import Progress, no_progress
from blunt_ruler.core.writeup.corrections import PastEdit
from blunt_ruler.diary import timed
from blunt_ruler.logbook import journal, opening, sessions
from blunt_ruler.logbook.errors import (
    BadRecord,
    ChangedElsewhere,
    DamagedLogbook,
    LogbookBusy,
    LogbookGone,
    busy,
    short,
)
from blunt_ruler.logbook.signatures import is_ours, signature

if TYPE_CHECKING:  # polars comes with it
    from blunt_ruler.logbook.traces import Packed

log = logging.getLogger(__name__)

# One JSON list is validated several times faster than row by row, but holds up other threads.
ROWS_AT_ONCE = 500
RESTORE = "Go back to a copy from before the damage"

Changes: TypeAlias = Mapping[str, Mapping[str, Any]]
"""Table → id → record as it is now, None where it was taken away."""


@cache
def _adapter(table: str) -> TypeAdapter[list[Any]]:
    return TypeAdapter(list[TABLES[table]])  # type: ignore[valid-type]


def now_text() -> str:
    """This moment in UTC, to the second, as the journal keeps it."""
    return datetime.now(UTC).isoformat(timespec="seconds")


class Logbook:
    """One open logbook file. Use `create` or `open`; close it, or use it in a `with`."""

    def __init__(
        self,
        path: Path,
        db: sqlite3.Connection,
        clock: Callable[[], str],
        session: str | None = None,
    ) -> None:
        self.path = path
        self._db = db
        self._clock = clock
        self._write_ahead = False
        self._passed: set[int] = set()  # edits that undo and redo pass over
        self._session = sessions.begin() if session is None else session
        self._file = _file_at(path)
        self._seen_version = self._data_version()
        self.set_apart: tuple[str, ...] = ()
        """What the last reading of the contents could not use, in words."""

    @classmethod
    def create(
        cls,
        path: Path,
        clock: Callable[[], str] = now_text,
        session: str | None = None,
        review: Review | None = None,
    ) -> "Logbook":
        """Make a new file; NotALogbook where one of that name is already there.

        The `review` it begins with is in it from the first moment on, and no edit: no undo takes
        it away. A file made to be given away has a blank `session`: it says nothing of who made it.
        """

        def begin(db: sqlite3.Connection) -> None:
            if review is not None:
                journal.write_row(db, TABLE_OF[Review], review.id, review.model_dump_json())

        return cls(path, opening.create(path, begin), clock, session)

    @classmethod
    def open(cls, path: Path, clock: Callable[[], str] = now_text) -> "Logbook":
        """Open a file, checked first: NotALogbook, NewerLogbook, DamagedLogbook, LogbookBusy."""
        with timed(log, "logbook opened") as took:
            book = cls(path, opening.open_existing(path), clock)
            took.say(f"{path.stat().st_size / 1e6:.1f} MB")
        return book

    @classmethod
    @contextmanager
    def reading(cls, path: Path) -> Iterator["Logbook"]:
        """A logbook to be read and never altered, of any older format, on any disk."""
        with timed(log, "logbook opened to be read"), ExitStack() as stack:
            db = opening.open_to_read(path)
            if db is not None:
                book = stack.enter_context(cls(path, db, now_text, ""))
            else:
                folder = Path(stack.enter_context(tempfile.TemporaryDirectory()))
                book = stack.enter_context(cls.open(opening.copied(path, folder)))
            yield book

    def __enter__(self) -> "Logbook":
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def close(self) -> None:
        """Fold the write-ahead log into the file and let go of it."""
        sessions.end(self._session)
        self._db.close()

    # What others do to the file

    def _data_version(self) -> int:
        with suppress(sqlite3.Error):
            return int(self._db.execute("PRAGMA data_version").fetchone()[0])
        return -1

    def changed_elsewhere(self) -> bool:
        """Whether another connection has written since the contents were last read here."""
        return self._data_version() != self._seen_version

    def check_there(self) -> None:
        """LogbookGone where the file under its name is no longer the one that is open."""
        now = _file_at(self.path)
        if now == self._file and now is not None:
            return
        what = "is no longer there" if now is None else "was replaced by another file"
        raise LogbookGone(str(self.path), f"the logbook {what}", "Save it elsewhere")

    # Reading

    def contents(self, step: Progress = no_progress) -> Contents:
        """Everything but the traces. Records that cannot be read are named in `set_apart`.

        DamagedLogbook where the file itself cannot be read.
        """
        with timed(log, "records read") as took:
            self._seen_version = self._data_version()
            apart: list[str] = []
            found = Contents(**{table: self._read(table, apart, step) for table in TABLES})
            sound, dangling = without_dangling(found)
            self.set_apart = (*apart, *dangling)
            took.say(f"{len(sound.runs)} runs, {len(sound.rigs)} rigs, {len(sound.cases)} cases")
            took.say(f"{len(self.set_apart)} left out")
        return sound

    def _read(self, table: str, apart: list[str], step: Progress) -> Mapping[str, Any]:
        rows = self._select(f"SELECT id, body FROM {table} ORDER BY rowid")
        found: dict[str, Any] = {}
        for at in range(0, len(rows), ROWS_AT_ONCE):
            step(f"Reading {table}", at / len(rows))
            found.update(self._records(table, rows[at : at + ROWS_AT_ONCE], apart))
        return found

    def _records(
        self, table: str, rows: Sequence[tuple[Any, ...]], apart: list[str]
    ) -> Iterator[tuple[str, Any]]:
        """Id and record of each row; one that cannot be read is named, and the rest are given."""
        bodies = [row[1] for row in rows]
        try:
            if all(isinstance(body, str) for body in bodies):
                found = _adapter(table).validate_json(f"[{','.join(bodies)}]")
                if [record.id for record in found] == [row[0] for row in rows]:
                    yield from zip((row[0] for row in rows), found, strict=True)
                    return
        except ValidationError:
            pass
        for row_id, body in rows:
            try:
                record = self._parse(table, body)
                if record.id != row_id:
                    raise ValueError(f"its body names another id, “{record.id[:40]}”")
            except (ValueError, DamagedLogbook) as error:
                why = error.what if isinstance(error, DamagedLogbook) else str(error)
                apart.append(f"{table[:-1]} “{str(row_id)[:40]}”: {why}")
            else:
                yield row_id, record

    def _select(self, query: str, *values: str) -> list[tuple[Any, ...]]:
        try:
            return self._db.execute(query, values).fetchall()
        except sqlite3.DatabaseError as error:
            raise DamagedLogbook(
                str(self.path),
                f"the logbook cannot be read ({short(error)})",
                RESTORE,
            ) from error

    def _parse(self, table: str, body: Any) -> Any:
        """One record of a body; DamagedLogbook says which field is wrong."""
        try:
            if not isinstance(body, str):
                raise DamagedLogbook(str(self.path), "its body is not text", RESTORE)
            return _adapter(table).validate_json(f"[{body}]")[0]
        except (ValidationError, IndexError) as error:
            first = error.errors()[0] if isinstance(error, ValidationError) else None
            field = ".".join(str(part) for part in first["loc"][1:]) if first else ""
            message = first["msg"] if first else "it holds nothing"
            raise DamagedLogbook(
                str(self.path), f"field {field or 'body'}: {message}", RESTORE
            ) from error

    def _changes(self, images: Sequence[journal.Image], *, forwards: bool) -> Changes:
        """What images changed, as records by table and id; None for a record taken away."""
        changed: dict[str, dict[str, Any]] = {}
        for image in images:
            body = image.after if forwards else image.before
            record = None if body is None else self._parse(image.table, body)
            changed.setdefault(image.table, {})[image.id] = record
        return changed

    def trace(self, sha256: str) -> Trace:
        """The trace at an address; DamagedLogbook where it is gone or altered."""
        from blunt_ruler.logbook.traces import decode_trace  # polars is slow to import

        query = "SELECT CAST(parquet AS BLOB), frames, signed FROM traces WHERE sha256 = ?"
        found = self._select(query, sha256)
        if not found:
            raise DamagedLogbook(
                str(self.path), f"the trace {sha256[:12]} is missing", "Import its log again"
            )
        with timed(log, "trace read") as took:
            blob, frames, signed = found[0]
            own = is_ours(sha256, signed)
            trace = decode_trace(sha256, blob, frames, str(self.path), own=own)
            took.say(f"{trace.frame_times_ms.size} frames")
        return trace

    # Writing

    def add_trace(self, trace: Trace, level: int | None = None) -> str:
        """Store a trace once and give its address. Part of no undo: a run refers to it.

        `level` packs it tighter than usual, which takes longer.
        """
        from blunt_ruler.logbook.traces import LEVEL, packed

        return self.add_packed(packed(trace, level or LEVEL))

    def add_packed(self, trace: "Packed") -> str:
        """Store a trace that is packed already; its address."""
        signed = signature(trace.sha256) if self._session else None  # given away, it names nobody
        self._add_blob(*trace, signed)
        return trace.sha256

    def copy_trace(self, source: "Logbook", sha256: str) -> None:
        """Take a trace over from another logbook, byte for byte; DamagedLogbook if altered."""
        query = "SELECT frames, parquet, signed FROM traces WHERE sha256 = ?"
        rows = source._select(query, sha256)
        if not rows or not isinstance(rows[0][1], bytes):
            raise DamagedLogbook(
                str(source.path), f"the trace {sha256[:12]} is missing", "Import its log again"
            )
        if hashlib.sha256(rows[0][1]).hexdigest() != sha256:
            raise DamagedLogbook(
                str(source.path), f"the trace {sha256[:12]} is not what was stored", RESTORE
            )
        signed = signature(sha256) if self._session and is_ours(sha256, rows[0][2]) else None
        self._add_blob(sha256, int(rows[0][0]), rows[0][1], signed)

    def add_picture(self, png: bytes) -> str:
        """Store a picture once and give its address. Part of no undo: a run refers to it."""
        sha256 = hashlib.sha256(png).hexdigest()
        with self._transaction():
            self._db.execute("INSERT OR IGNORE INTO pictures VALUES (?, ?)", (sha256, png))
        return sha256

    def picture(self, sha256: str) -> bytes:
        """The picture at an address; DamagedLogbook where it is gone or altered."""
        rows = self._select("SELECT CAST(png AS BLOB) FROM pictures WHERE sha256 = ?", sha256)
        if not rows or hashlib.sha256(rows[0][0]).hexdigest() != sha256:
            raise DamagedLogbook(
                str(self.path), f"the picture {sha256[:12]} is missing or altered", RESTORE
            )
        return bytes(rows[0][0])

    def copy_behind(self, source: "Logbook", run: Run) -> None:
        """Take over from another logbook what stands behind a run: its trace, and the readings
        and pictures of a recording; DamagedLogbook if any is altered.
        """
        read = run.recording
        addresses = (run.trace_sha256, None if read is None else read.series_sha256)
        for sha256 in filter(None, addresses):
            self.copy_trace(source, sha256)
        if read is not None and read.pictures_sha256 is not None:
            self.add_picture(source.picture(read.pictures_sha256))

    def _add_blob(self, sha256: str, frames: int, blob: bytes, signed: str | None) -> None:
        with self._transaction():
            self._db.execute(
                "INSERT INTO traces (sha256, frames, parquet, signed) VALUES (?, ?, ?, ?)"
                " ON CONFLICT (sha256) DO UPDATE SET signed = coalesce(excluded.signed, signed)",
                (sha256, frames, blob, signed),
            )

    def commit(
        self,
        label: str,
        put: Sequence[Record] = (),
        drop: Sequence[Record] = (),
    ) -> Changes:
        """Write one edit: records to put in place, records to take away; what it changed.

        `label` is what the Undo menu calls it. An edit that changes nothing is not recorded.
        BadRecord where a record could not be read back as it is: then nothing is written.
        """
        with timed(log, "edit written") as took, self._transaction():
            images = [
                image
                for image in (
                    *(self._image(record, self._body(record)) for record in put),
                    *(self._image(record, None) for record in drop),
                )
                if image.before != image.after
            ]
            for image in images:
                journal.write_row(self._db, image.table, image.id, image.after)
            took.say(f"{len(images)} records changed")
            if images:
                journal.record(self._db, self._clock(), label[:400], images, self._session)
        return self._changes(images, forwards=True)

    def begin_review(self, review: Review) -> None:
        """Write the review that a logbook begins with; it is no edit, so no undo takes it away."""
        with self._transaction():
            journal.write_row(self._db, TABLE_OF[Review], review.id, self._body(review))

    def _body(self, record: Record) -> str:
        """The JSON of a record that reads back as the very record."""
        table = TABLE_OF[type(record)]
        name = str(getattr(record, "name", record.id))[:60]
        try:
            body = record.model_dump_json(warnings=False)
            if self._parse(table, body) == record:
                return body
            why = "a number in it is not finite, or a text is malformed"
        except (ValueError, DamagedLogbook) as error:  # also what cannot be written as UTF-8
            why = error.what if isinstance(error, DamagedLogbook) else str(error)
        why = " ".join(why.split())[:200]
        raise BadRecord(f"{table[:-1]} “{name}”", why, "Mend it; nothing was written")

    def _image(self, record: Record, after: str | None) -> journal.Image:
        table = TABLE_OF[type(record)]
        row = self._db.execute(f"SELECT body FROM {table} WHERE id = ?", (record.id,)).fetchone()
        return journal.Image(table, record.id, None if row is None else row[0], after)

    def undo(self) -> Changes:
        """Take back the edit that was done last; what changed, nothing where there is none.

        ChangedElsewhere where another window has changed what it changed: it is passed over from
        then on, so that the next call takes the one before.
        """
        return self._step(to_redo=False)

    def redo(self) -> Changes:
        """Do the edit again that was undone last; as `undo`."""
        return self._step(to_redo=True)

    def _step(self, *, to_redo: bool) -> Changes:
        found = self._next(to_redo=to_redo)
        if found is None:
            return {}
        try:
            with self._transaction():
                images = journal.replay(self._db, found.seq, forwards=to_redo)
                self._changes(images, forwards=to_redo)  # nothing is put back that cannot be read
        except ChangedElsewhere as error:
            raise self._pass_over(found, error.records, "changed in another window since") from None
        except BadRecord as error:
            why = "another window has used what it added since"
            raise self._pass_over(found, (), why) from error
        return self._changes(images, forwards=to_redo)

    def _next(self, *, to_redo: bool) -> journal.Candidate | None:
        """The edit that undo or redo takes next."""
        edits = journal.candidates(self._db, self._session, to_redo=to_redo)
        return next((edit for edit in edits if edit.seq not in self._passed), None)

    def _pass_over(self, edit: journal.Candidate, ids: Sequence[str], why: str) -> ChangedElsewhere:
        """Take no more notice of an edit that would lose what another window did; the error."""
        self._passed.add(edit.seq)
        return ChangedElsewhere(edit.label, why, "Change it by hand", tuple(ids))

    def next_undo(self) -> str | None:
        """Label of the edit that `undo` would take back."""
        found = self._next(to_redo=False)
        return None if found is None else found.label

    def next_redo(self) -> str | None:
        """Label of the edit that `redo` would do again."""
        found = self._next(to_redo=True)
        return None if found is None else found.label

    def history(self, limit: int = 200) -> tuple[journal.JournalEntry, ...]:
        """The newest edits first, with what they changed."""
        rows = self._db.execute(
            "SELECT seq, at, label, state FROM journal ORDER BY seq DESC LIMIT ?", (limit,)
        ).fetchall()
        return tuple(
            journal.JournalEntry(seq, at, label, state, journal.images_of(self._db, seq))
            for seq, at, label, state in rows
        )

    def edits(self) -> tuple[PastEdit, ...]:
        """Edits that stand and changed something already there, oldest first."""
        found: dict[int, PastEdit] = {}
        for seq, at, label, *row in self._select(
            "SELECT seq, at, label, tbl, before, after FROM journal JOIN journal_images USING (seq)"
            " WHERE state = 'done' AND before IS NOT NULL ORDER BY seq, journal_images.rowid"
        ):
            earlier = found[seq].rows if seq in found else ()
            found[seq] = PastEdit(at, label, (*earlier, (row[0], row[1], row[2])))
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

    def compact(self, page_bytes: int | None = None) -> None:
        """Give unused room back and leave one file without a write-ahead log beside it.

        Smaller pages waste less behind short traces.
        """
        self._db.execute("PRAGMA journal_mode = DELETE")
        if page_bytes is not None:
            self._db.execute(f"PRAGMA page_size = {int(page_bytes)}")
        self._db.execute("VACUUM")

    @contextmanager
    def _transaction(self) -> Iterator[None]:
        self.check_there()
        try:
            if not self._write_ahead:
                opening.write_ahead(self._db)
                self._write_ahead = True
            self._db.execute("BEGIN IMMEDIATE")
            try:
                yield
                self._db.execute("COMMIT")
            except BaseException:
                if self._db.in_transaction:  # SQLite may have taken it back by itself
                    self._db.execute("ROLLBACK")
                raise
        except sqlite3.IntegrityError as error:
            raise BadRecord(
                str(self.path), f"the edit does not fit the logbook ({error})", "Open it again"
            ) from error
        except sqlite3.OperationalError as error:
            raise busy(self.path, "the edit could not be written", error) from error
        except sqlite3.DatabaseError as error:
            raise DamagedLogbook(
                str(self.path), f"the edit could not be written ({short(error)})", RESTORE
            ) from error


def _file_at(path: Path) -> tuple[int, int] | None:
    """What tells a file from another one of the same name; None where there is none."""
    try:
        found = path.stat()
    except OSError:
        return None
    return found.st_dev, found.st_ino
