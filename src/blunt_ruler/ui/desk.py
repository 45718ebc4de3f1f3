"""The Desk: the one object that touches the logbook on behalf of the window.

It sends edits to the logbook on a thread of their own, in order, and tells the views what
changed: the contents and the Board built from them. Views read these values and send wishes.
"""

from __future__ import annotations

import uuid
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, fields, replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.roles import Role
from blunt_ruler.ui.jobs import Job, Jobs

if TYPE_CHECKING:  # the window is up before it needs any of these; they come with the first logbook
    from blunt_ruler.core.analysis.analyse import Analysis
    from blunt_ruler.core.board.board import Board
    from blunt_ruler.core.checks.all import Checked
    from blunt_ruler.core.compare.comparability import Standing
    from blunt_ruler.core.limits.next_test import Test
    from blunt_ruler.core.limits.report import LimitsReport
    from blunt_ruler.core.measure.trace_summary import Observed
    from blunt_ruler.core.records.hardware import TickState
    from blunt_ruler.core.records.records import (
        Contents,
        Decision,
        Record,
        Review,
        Run,
        Trace,
        Trim,
    )
    from blunt_ruler.core.runs.import_runs import Arrival
    from blunt_ruler.core.worth.report import Worth
    from blunt_ruler.core.writeup.corrections import Edit
    from blunt_ruler.logbook import Logbook


LOOK_EVERY_MS = 1500


def new_id() -> str:
    """An id that no other record has."""
    return uuid.uuid4().hex


@dataclass(frozen=True, slots=True)
class Snapshot:
    """What lies on the desk: a logbook's values as every view sees them."""

    path: Path
    contents: Contents
    review: Review | None
    board: Board | None
    worth: Worth | None
    undo: str | None
    redo: str | None
    others: int = 0
    """How often changes of other windows were taken in; what was seen of a record dates by it."""


@dataclass(frozen=True, slots=True)
class Conflict:
    """An edit of records that another window changed since they were seen here."""

    words: str
    insist: Callable[[], None]  # put the edit in place of the other's


class Desk(QObject):
    """Applies edits and offers the values they lead to.

    Signals:
        spread_changed(Snapshot): new values are on the desk.
        checked_changed(Checked): what the checks found on it.
        limits_changed(LimitsReport): what took the frames, fitted anew.
        analysed(Analysis): all that follows from the present review is worked out.
        error_raised(object): an exception to show.
        notice_raised(str): something worth a line: what was undone, where a copy was put.
        conflict_raised(Conflict): an edit waits for a choice.
        rescued(Path, str): the file is gone; edits go on in a copy at this path, and why.
    """

    spread_changed = pyqtSignal(object)
    checked_changed = pyqtSignal(object)
    limits_changed = pyqtSignal(object)
    analysed = pyqtSignal(object)
    error_raised = pyqtSignal(object)
    notice_raised = pyqtSignal(str)
    conflict_raised = pyqtSignal(object)
    rescued = pyqtSignal(object, str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        # One thread: edits reach the file in the order they were made.
        self.jobs = Jobs(threads=1, parent=self)
        self.checks = Jobs(threads=1, parent=self)
        self._checking: Job | None = None
        self._seen: dict[str, Observed] = {}
        self._book: Logbook | None = None
        self.spread: Snapshot | None = None
        self._closing = False
        self._checked: Checked | None = None
        self._unsound: dict[str, tuple[Standing, str]] = {}
        self.limits: LimitsReport | None = None
        self.analysis: Analysis | None = None
        self._limit_names: Mapping[tuple[str, str], str] = {}
        self._review_id: str | None = None
        self._others = 0
        self._foreign: dict[tuple[str, str], int] = {}
        self._looking: Job | None = None
        self._look = QTimer(self)
        self._look.setInterval(LOOK_EVERY_MS)
        self._look.timeout.connect(self.look_for_others)

    @property
    def checked(self) -> Checked:
        """What the checks found; nothing until they have run."""
        from blunt_ruler.core.checks.all import NOTHING

        return self._checked or NOTHING

    # Logbooks

    def open(self, path: Path) -> None:
        """Open a logbook in place of the present one, which stays if the new one is refused."""
        self._replace_book(lambda kind: kind.open(path), f"Opening {path.name}")

    def create(self, path: Path) -> None:
        """Make a new logbook and open it."""
        self._replace_book(lambda kind: kind.create(path), f"Making {path.name}")

    def _replace_book(self, make: Callable[[type[Logbook]], Logbook], words: str) -> None:
        def work(step: Callable[[str, float], None]) -> Snapshot:
            from blunt_ruler.logbook import Logbook

            step(words, 0.1)
            book = make(Logbook)
            try:
                step("Reading runs and reviews", 0.4)
                contents = book.contents()
                step("Building the Board", 0.8)
                spread = self._spread(book, contents, None)
            except BaseException:
                book.close()
                raise
            if self._book is not None:
                self._book.close()
            self._book = book
            self._foreign.clear()
            return spread

        def done(spread: Snapshot) -> None:
            self._on_spread(spread)
            self._look.start()
            self._say_set_apart()

        self._run(words, work, done)

    def _say_set_apart(self) -> None:
        """Name the records of the present logbook that could not be read."""
        apart = self._book.set_apart if self._book is not None else ()
        if not apart:
            return
        from blunt_ruler.logbook import DamagedLogbook

        more = f" and {len(apart) - 2} more" if len(apart) > 2 else ""
        self.error_raised.emit(
            DamagedLogbook(
                self._open_book().path.name,
                f"set apart, because it cannot be read: {'; '.join(apart[:2])}{more}",
                "All else can be used; an older copy may still have it",
            )
        )

    # Other windows and programs on the same file

    def look_for_others(self) -> None:
        """Take in what another window wrote, and notice when the file is gone."""
        if self._looking is not None or self._book is None or self._closing:
            return

        def work(_step: Callable[[str, float], None]) -> Snapshot | None:
            book = self._open_book()
            try:
                book.check_there()
            except UserFixable as error:
                return self._rescue(error)
            if not book.changed_elsewhere():
                return None
            self._take_in_others()
            assert self._latest is not None
            return self._spread(book, self._latest, self._review_id)

        def done(spread: Snapshot | None) -> None:
            self._looking = None
            if spread is not None:
                self._on_spread(spread)

        def failed(error: Exception) -> None:
            self._looking = None
            self._look.stop()  # said once; the next edit says it again
            self.error_raised.emit(error)

        self._looking = self.jobs.run("Looking at the file", work, done, failed)

    def _take_in_others(self) -> None:
        """Read what other windows wrote since; on the desk's thread."""
        before, fresh = self._latest, self._open_book().contents()
        self._latest = fresh
        if before is None:
            return
        self._others += 1
        for field in fields(fresh):
            old, new = getattr(before, field.name), getattr(fresh, field.name)
            for key in old.keys() | new.keys():
                if old.get(key) != new.get(key):
                    self._foreign[field.name, key] = self._others

    def _touched_by_others(self, records: Sequence[Record], seen: int) -> list[str]:
        """Names of records that another window changed after they were seen here."""
        from blunt_ruler.logbook.schema import TABLE_OF

        return [
            f"pass {record.repeat}"
            if hasattr(record, "repeat")
            else str(getattr(record, "name", "it"))[:60]
            for record in records
            if self._foreign.get((TABLE_OF[type(record)], record.id), 0) > seen
        ]

    def _rescue(self, error: UserFixable) -> Snapshot:
        """Go on in a copy, because the file is gone; on the desk's thread."""
        from blunt_ruler.logbook.rescue import rescue
        from blunt_ruler.ui.settings import rescue_path

        book, latest = self._open_book(), self._latest
        assert latest is not None
        target = rescue_path(book.path)
        self._book = rescue(book, latest, target)
        self._latest = self._book.contents()
        self.rescued.emit(target, error.what)
        return self._spread(self._book, self._latest, self._review_id)

    def copy_to(self, target: Path) -> None:
        """Put a whole copy of the logbook somewhere."""

        def work(_step: Callable[[str, float], None]) -> Path:
            self._open_book().copy_to(target)
            return target

        self._run(
            f"Copying to {target.name}",
            work,
            lambda path: self.notice_raised.emit(f"Copied to {path}"),
        )

    def close(self) -> None:
        """Finish what is under way and let go of the file."""
        self._look.stop()
        self._closing = True  # what still comes back from a thread must start nothing new
        self.checks.close()
        self.jobs.close()
        if self._book is not None:
            self._book.close()
            self._book = None

    # Edits

    def commit(self, label: str, put: Sequence[Record] = (), drop: Sequence[Record] = ()) -> None:
        """Write one edit; the views hear of it when it is in the file.

        One that touches a record which another window changed since is asked about.
        """
        seen = self.spread.others if self.spread is not None else 0

        def change(book: Logbook, _contents: Contents) -> Any:
            touched = self._touched_by_others([*put, *drop], seen)
            if touched:
                from blunt_ruler.logbook import ChangedElsewhere

                raise ChangedElsewhere(
                    label, f"{touched[0]} was changed in another window since", "Choose", ()
                )
            return book.commit(label, put, drop)

        def conflict(error: Exception) -> None:
            from blunt_ruler.logbook import ChangedElsewhere

            if not isinstance(error, ChangedElsewhere):
                self.error_raised.emit(error)
                return
            self._edit("Looking again", lambda _book, _contents: {})  # show what is there now
            self.conflict_raised.emit(
                Conflict(
                    f"“{error.where}” is not done: {error.what}. What is there now stays unless "
                    "you put yours in its place.",
                    lambda: self._edit(label, lambda book, _: book.commit(label, put, drop)),
                )
            )

        self._edit(label, change, failed=conflict)

    def give_role(self, rig_id: str | None, role: Role) -> None:
        """Make a rig base, reference or under test; the role passes from its holder."""
        spread = self.spread
        if spread is not None and spread.review is not None and rig_id is not None:
            name = spread.contents.rigs[rig_id].name
            self.commit(f"make {name} {role}", put=[spread.review.with_role(rig_id, role)])

    def rename_rig(self, rig_id: str, name: str) -> None:
        """Give a rig another name."""
        if self.spread is not None:
            rig = self.spread.contents.rigs[rig_id]
            self.commit(f"rename {rig.name}", put=[rig.model_copy(update={"name": name})])

    def decide(self, run: Run, decision: Decision) -> None:
        """Keep, redo or set aside a run."""
        self.commit(
            f"{decision} pass {run.repeat}", put=[run.model_copy(update={"decision": decision})]
        )

    def give_reason(self, run: Run, reason: str) -> None:
        """Say why a run was decided as it was."""
        self.commit(
            f"reason for pass {run.repeat}", put=[run.model_copy(update={"reason": reason})]
        )

    def plan_one_more(self, rig_id: str, case_id: str) -> None:
        """Ask the plan for one more pass of a cell than it has."""
        spread = self.spread
        if spread is None or spread.review is None:
            return
        from blunt_ruler.core.plan.matrix import plan_of

        plan = plan_of(spread.contents, spread.review).with_extra(rig_id, case_id, 1)
        words = f"{spread.contents.rigs[rig_id].name}, {spread.contents.case_label(case_id)}"
        self.commit(f"plan one more pass: {words}", put=[plan])
        self.notice_raised.emit(f"One more pass is planned: {words}.")

    def plan_test(self, test: Test) -> None:
        """Send a test that would tell most to the plan; a new resolution becomes a case."""
        spread = self.spread
        if spread is None or spread.review is None:
            return
        contents, review = spread.contents, spread.review
        if not test.like:
            self.notice_raised.emit(f"{test.says}: take it on the Bench, page Ladder.")
            return
        case_id, records = test.case, []
        if case_id is None:
            like = contents.cases[test.like]
            case = like.model_copy(update={"id": new_id(), "resolution": test.size})
            cases = (*review.case_ids, case.id)
            records = [case, review.model_copy(update={"case_ids": cases})]
            case_id = case.id
        from blunt_ruler.core.plan.matrix import plan_of

        plan = plan_of(contents, review).with_extra(test.rig, case_id, 1)
        self.commit(f"plan a test: {test.says}", put=[*records, plan])
        self.notice_raised.emit(f"Planned: {test.says}.")

    def tick(self, rig_id: str, step: str, state: TickState, reading: str) -> None:
        """Tick or skip a pre-flight step, now."""
        if self.spread is not None:
            name = self.spread.contents.rigs[rig_id].name
            from blunt_ruler.core.rigs import rig_edits
            from blunt_ruler.logbook.store import now_text

            made = rig_edits.tick(rig_id, step, state, now_text(), reading, new_id)
            self.commit(f"{state} a pre-flight step of {name}", put=[made])

    def trim(self, run: Run, trim: Trim | None) -> None:
        """Keep a part of a run's trace, or all of it for None; the trace itself stays whole."""

        def change(book: Logbook, contents: Contents) -> Any:
            now = contents.runs[run.id]
            from blunt_ruler.core.runs.trim_run import trimmed

            made = trimmed(now, book.trace(str(now.trace_sha256)), trim)
            return book.commit(f"{'trim' if trim else 'untrim'} pass {run.repeat}", put=[made])

        self._edit("Trimming", change)

    def put_longer(self, run: Run, trace: Trace) -> None:
        """Put a longer trace of the same recording in the place of a run's."""

        def change(book: Logbook, contents: Contents) -> Any:
            from blunt_ruler.core.runs.trim_run import trimmed

            sha256 = book.add_trace(trace)
            now = contents.runs[run.id].model_copy(update={"trace_sha256": sha256})
            return book.commit(
                f"put the longer recording in pass {run.repeat}", put=[trimmed(now, trace, None)]
            )

        self._edit("Putting the longer recording in", change)

    def undo(self) -> None:
        """Take back the newest edit."""
        label = self.spread.undo if self.spread else None
        if label:
            self._edit(f"Undo: {label}", lambda book, _: book.undo(), f"Undone: {label}")

    def redo(self) -> None:
        """Do the last undone edit again."""
        label = self.spread.redo if self.spread else None
        if label:
            self._edit(f"Redo: {label}", lambda book, _: book.redo(), f"Done again: {label}")

    def import_arrivals(
        self, arrivals: Sequence[tuple[Arrival, Trace | None]], keep: Any = None
    ) -> None:
        """Store traces and take their runs into the present review, as one edit.

        `keep` maps log headers to the mapping (JSON) confirmed for them.
        """

        def change(book: Logbook, contents: Contents) -> Any:
            for header, body in (keep or {}).items():
                book.remember_mapping(header, body)
            from blunt_ruler.core.measure.frames import measure
            from blunt_ruler.core.measure.trace_summary import observe
            from blunt_ruler.core.runs.import_runs import take_in

            placed = []
            for arrival, trace in arrivals:
                if trace is None:
                    placed.append(arrival)
                    continue
                sha256 = book.add_trace(trace)
                seen = observe(trace.frame_times_ms, trace.telemetry)
                figures = arrival.figures or measure(trace.frame_times_ms)
                placed.append(replace(arrival, trace_sha256=sha256, observed=seen, figures=figures))
            review = contents.reviews.get(self._review_id or "") or next(
                iter(contents.reviews.values()), None
            )
            records, _ = take_in(contents, review, placed, new_id)
            return book.commit(_import_words(placed), put=records)

        self._edit("Importing", change)

    def choose_review(self, review_id: str) -> None:
        """Show another review of the logbook."""
        self._review_id = review_id
        self._edit("Changing the review", lambda _book, _contents: {})

    def _edit(
        self,
        words: str,
        change: Callable[[Logbook, Contents], Any],
        said: str | None = None,
        failed: Callable[[Exception], None] | None = None,
    ) -> None:
        def work(_step: Callable[[str, float], None]) -> Snapshot:
            book = self._open_book()
            try:
                book.check_there()
            except UserFixable as error:
                self._rescue(error)
                book = self._open_book()
            if book.changed_elsewhere():
                self._take_in_others()
            assert self._latest is not None
            changed = change(book, self._latest)
            return self._spread(book, self._latest.with_records(changed), self._review_id)

        def done(spread: Snapshot) -> None:
            self._on_spread(spread)
            if said:
                self.notice_raised.emit(said)

        self.jobs.run(words, work, done, failed or self.error_raised.emit)

    # Reading

    def load_trace(self, sha256: str, finished: Callable[[Trace], None]) -> None:
        """Fetch a trace; `finished` is called with it on the interface thread."""
        self._run("Reading a trace", lambda _step: self._open_book().trace(sha256), finished)

    def load_traces(self, sha256s: Sequence[str], finished: Callable[[list[Trace]], None]) -> None:
        """Fetch several traces; `finished` is called with them on the interface thread."""

        def work(step: Callable[[str, float], None]) -> list[Trace]:
            traces = []
            for number, sha256 in enumerate(sha256s):
                step("Reading traces", number / len(sha256s))
                traces.append(self._open_book().trace(sha256))
            return traces

        self._run("Reading traces", work, finished)

    def load_history(self, finished: Callable[[Any], None]) -> None:
        """Fetch the newest journal entries."""
        self._run("Reading the history", lambda _step: self._open_book().history(), finished)

    def remembered_mapping(self, header: str) -> str | None:
        """The mapping confirmed earlier for a header. Called from reading threads."""
        if self.spread is None:
            return None
        from blunt_ruler.logbook import Logbook

        # A connection of its own: the logbook's one belongs to the desk's thread.
        with Logbook.open(self.spread.path) as book:
            return book.mapping(header)

    def _open_book(self) -> Logbook:
        assert self._book is not None, "no logbook is open"
        return self._book

    _latest: Contents | None = None
    """Contents after the last edit, on the desk's thread: edits queue faster than views hear."""

    def _spread(self, book: Logbook, contents: Contents, review_id: str | None) -> Snapshot:
        from blunt_ruler.core.analysis.analyse import worth_of

        self._latest = contents
        review = contents.reviews.get(review_id or "") or next(
            iter(contents.reviews.values()), None
        )
        board = self._board(contents, review) if review else None
        return Snapshot(
            path=book.path,
            contents=contents,
            review=review,
            board=board,
            worth=worth_of(contents, review, self.checked, board) if review and board else None,
            undo=book.next_undo(),
            redo=book.next_redo(),
            others=self._others,
        )

    def _board(self, contents: Contents, review: Review) -> Board:
        """The Board with what the last check and fit said, until the next one is done."""
        from blunt_ruler.core.board.board import build_board

        board = build_board(contents, review, self._unsound)
        return replace(board, limits=self._limit_names)

    def _on_spread(self, spread: Snapshot) -> None:
        if self._closing:
            return
        self.spread = spread
        self._review_id = spread.review.id if spread.review else None
        self.spread_changed.emit(spread)
        self._check(spread)

    def _check(self, spread: Snapshot) -> None:
        """Check all runs in the background; newer values take the place of older ones."""
        if self._checking is not None:
            self._checking.cancel()
        contents = spread.contents
        unread = [
            run
            for run in contents.runs.values()
            if run.trace_sha256 and run.observed is None and run.trace_sha256 not in self._seen
        ]

        def work(step: Callable[[str, float], None]) -> Checked | Analysis:
            from blunt_ruler.core.analysis.analyse import analyse
            from blunt_ruler.core.checks.all import check_runs
            from blunt_ruler.core.records.thresholds import Thresholds
            from blunt_ruler.core.runs.trim_run import observed_in
            from blunt_ruler.logbook import Logbook

            # Runs from before traces were read for checks: their traces are read now.
            if unread:
                with Logbook.open(spread.path) as book:
                    for number, run in enumerate(unread):
                        step("Reading traces for the checks", number / len(unread))
                        seen = observed_in(book.trace(str(run.trace_sha256)), run.trim)
                        self._seen[str(run.trace_sha256)] = seen
            filled = {
                run.id: run.model_copy(update={"observed": self._seen[run.trace_sha256]})
                for run in contents.runs.values()
                if run.observed is None and run.trace_sha256 in self._seen
            }
            whole = contents.with_records({"runs": filled})
            step("Checking the runs", 0.3)
            if spread.review is None:
                return check_runs(whole, None, Thresholds())
            return analyse(whole, spread.review, step)

        self._checking = self.checks.run(
            "Checking the runs", work, self._on_checked, self.error_raised.emit
        )

    def _on_checked(self, found: Checked | Analysis) -> None:
        if self._closing:
            return
        from blunt_ruler.core.analysis.analyse import Analysis
        from blunt_ruler.core.compare.like_for_like import unsound_words

        analysis = found if isinstance(found, Analysis) else None
        self._checked = analysis.checked if analysis else found  # type: ignore[assignment]
        self.limits = analysis.limits if analysis else None
        self.analysis = analysis
        self.checked_changed.emit(self.checked)
        spread = self.spread
        if spread is None or spread.review is None or analysis is None:
            return
        unsound, board = unsound_words(self.checked), analysis.board
        shown = spread.board
        if shown is None or unsound != self._unsound or board.limits != shown.limits:
            self._unsound, self._limit_names = unsound, board.limits
            self.spread = replace(spread, board=board, worth=analysis.worth)
            self.spread_changed.emit(self.spread)
        self.limits_changed.emit(analysis.limits)
        self.analysed.emit(analysis)

    def load_edits(self, finished: Callable[[Sequence[Edit]], None]) -> None:
        """Fetch the edits that stand; `finished` is called with them on the interface thread."""
        self._run("Reading the journal", lambda _step: self._open_book().edits(), finished)

    def _run(self, words: str, work: Any, finished: Callable[[Any], None]) -> None:
        self.jobs.run(words, work, finished, self.error_raised.emit)


def _import_words(placed: Sequence[Arrival]) -> str:
    """An import's name in the journal."""
    if len(placed) != 1:
        return f"import {len(placed)} runs"
    origin = placed[0].origin
    if origin.kind == "log" and origin.file:
        return f"import {origin.file}"
    return f"take a {origin.kind} run of {placed[0].case.label}"
