"""Keep what is known of a logbook whose file is gone: deleted, moved, replaced or cut short."""

from contextlib import suppress
from dataclasses import fields
from pathlib import Path

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.records import Contents, Run
from blunt_ruler.logbook.store import Logbook


def rescue(book: Logbook, contents: Contents, target: Path) -> Logbook:
    """A logbook at `target` with all that the open one holds; the open one is let go.

    What is still open can be copied whole, journal and traces included, even when it has no name
    any more. Where it cannot be read, the contents in memory are written, with the traces that
    still can be read; a run keeps its figures without its trace.
    """
    try:
        book.copy_to(target)
        made = Logbook.open(target)
        made.contents()
    except UserFixable:
        target.unlink(missing_ok=True)
        made = _from_memory(book, contents, target)
    with suppress(Exception):  # there is nothing left to let go of properly
        book.close()
    return made


def _from_memory(book: Logbook, contents: Contents, target: Path) -> Logbook:
    made = Logbook.create(target, review=next(iter(contents.reviews.values()), None))
    records = [record for f in fields(contents) for record in getattr(contents, f.name).values()]
    kept = []
    for record in records:
        if isinstance(record, Run):
            try:
                made.copy_behind(book, record)
            except UserFixable:
                record = record.without_evidence()
        kept.append(record)
    made.commit("rescue what was in memory", put=kept)
    return made
