"""A logbook in use while others write to it too, and while its file may be taken away.

Keeps the latest contents, takes in what others wrote before every edit, knows which records they
changed and when, and goes on in a copy where the file is gone. Not for two threads at once.
"""

from collections.abc import Callable, Sequence
from dataclasses import fields, replace
from pathlib import Path

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.edits import Edit
from blunt_ruler.core.records.rebase import rebased
from blunt_ruler.core.records.records import TABLE_OF, Contents, Record, Run
from blunt_ruler.core.records.review_edits import first_review
from blunt_ruler.core.runs.published import bring_up
from blunt_ruler.core.runs.read_again import read_again
from blunt_ruler.core.types import Progress
from blunt_ruler.logbook.errors import ChangedElsewhere
from blunt_ruler.logbook.rescue import rescue
from blunt_ruler.logbook.store import Changes, Logbook

Make = Callable[[Logbook, Contents], Edit | Changes]


class SharedBook:
    """A logbook, its latest contents, and how often others changed it (`others`)."""

    def __init__(
        self,
        book: Logbook,
        copy_path: Callable[[Path], Path],
        on_rescued: Callable[[Path, str], None],
    ) -> None:
        self.book = book
        self.contents = book.contents()
        self.others = 0
        self._changed: dict[tuple[str, str], int] = {}
        self._new_id: Callable[[], str] | None = None
        self._copy_path = copy_path
        self._on_rescued = on_rescued

    def always_review(self, new_id: Callable[[], str]) -> None:
        """Begin a review where the logbook has none, now and after every edit, and make columns of
        what others published.
        """
        self._new_id = new_id
        self._begin_review()
        brought_up = bring_up(self.contents, new_id)
        if brought_up is not None:
            self.edit(lambda _book, _contents: brought_up)

    def _begin_review(self) -> None:
        if self._new_id is not None and not self.contents.reviews:
            self.book.begin_review(first_review(self._new_id))
            self.contents = self.book.contents()

    def refresh(self) -> bool:
        """Take in what others wrote, or go on in a copy; whether anything is another now."""
        try:
            self.book.check_there()
        except UserFixable as error:
            target = self._copy_path(self.book.path)
            self.book = rescue(self.book, self.contents, target)
            self.contents = self.book.contents()
            self._on_rescued(target, error.what)
            return True
        if not self.book.changed_elsewhere():
            return False
        before, read = self.contents, self.book.contents()
        self.others += 1
        tables = {}
        for field in fields(before):
            old, new = getattr(before, field.name), getattr(read, field.name)
            # A record that is as it was stays the same object: what was made of it stands.
            tables[field.name] = {
                key: old[key] if old.get(key) == record else record for key, record in new.items()
            }
            for key in old.keys() | new.keys():
                if old.get(key) is not tables[field.name].get(key):
                    self._changed[field.name, key] = self.others
        self.contents = replace(read, **tables)
        return True

    def edit(self, make: Make, seen: int | None = None, shown: Contents | None = None) -> None:
        """Make an edit out of the latest contents and write it.

        With `seen`, ChangedElsewhere where it touches a record that others changed after that.
        One that was made out of what was `shown` takes nothing back that was done since.
        """
        self.refresh()
        made = make(self.book, self.contents)
        if isinstance(made, Edit):
            touched = self._touched([*made.put, *made.drop], seen) if seen is not None else []
            if touched:
                raise ChangedElsewhere(
                    made.label, f"{touched[0]} was changed in another window since", "Choose", ()
                )
            if shown is not None:
                made = rebased(made, shown, self.contents)
            made = self.book.commit(made.label, made.put, made.drop)
        self.contents = self.contents.with_records(made)
        self._begin_review()  # the edit that is undone may have brought the only one

    def _touched(self, records: Sequence[Record], seen: int) -> list[str]:
        """Names of records that others changed after they were seen."""
        return [
            f"pass {record.repeat}"
            if isinstance(record, Run)
            else str(getattr(record, "name", "it"))[:60]
            for record in records
            if self._changed.get((TABLE_OF[type(record)], record.id), 0) > seen
        ]

    def observe_old_runs(self, step: Progress) -> bool:
        """Read the traces of runs from before traces were summed up; whether there were any.

        The summaries stay in memory: they are written when their runs are next edited.
        """
        unread = [
            run for run in self.contents.runs.values() if run.trace_sha256 and run.observed is None
        ]
        if not unread:
            return False
        summed = {}
        for number, run in enumerate(unread):
            step("Reading traces for the checks", number / len(unread))
            summed[run.id] = read_again(run, self.book.trace(str(run.trace_sha256)))
        self.contents = self.contents.with_records({"runs": summed})
        return True

    def close(self) -> None:
        """Let go of the file."""
        self.book.close()
