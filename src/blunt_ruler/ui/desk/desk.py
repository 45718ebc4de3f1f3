"""The Desk: the one object that touches the logbook on behalf of the window.

It sends edits to the logbook on a thread of their own, in order, and says what came of them as
one `Snapshot`. What takes longer to work out follows as another; one whose contents are no
longer those on the desk is thrown away. Views read snapshots and send wishes.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any, Literal

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.machine import give_back_memory
from blunt_ruler.ui.desk.jobs import Job, Jobs, Work
from blunt_ruler.ui.desk.snapshot import Snapshot, new_id

if TYPE_CHECKING:  # the window is up before it needs any of these; they come with the first logbook
    from blunt_ruler.core.analysis.analyse import Analysis
    from blunt_ruler.core.checks.findings import Finding
    from blunt_ruler.core.records.edits import Edit
    from blunt_ruler.core.records.records import Contents, Review, Run, Trace, Trim
    from blunt_ruler.core.types import Progress
    from blunt_ruler.core.writeup.corrections import PastEdit
    from blunt_ruler.logbook import ChangedElsewhere, JournalEntry, Logbook
    from blunt_ruler.logbook.intake import Arrivals
    from blunt_ruler.logbook.shared import Make, SharedBook
    from blunt_ruler.logbook.store import Changes

    MakeEdit = Callable[[Contents, Review], Edit | None]

LOOK_EVERY_MS = 1500
GIVE_BACK_AFTER_MS = 4000
MANY_CELLS = 400  # fewer are fitted anew before another process has started


@dataclass(frozen=True, slots=True)
class Conflict:
    """An edit of records that another window changed since they were seen here.

    `offer` names what can be done about it; blank where there is nothing.
    """

    words: str
    offer: str
    accept: Callable[[], None]


class Desk(QObject):
    """Applies edits and offers the snapshots they lead to.

    Signals:
        changed(Snapshot): new values are on the desk.
        error_raised(object): an exception to show.
        notice_raised(str): something worth a line: what was undone, where a copy was put.
        conflict_raised(Conflict): an edit waits for a choice.
        opening(Path): a logbook is about to be opened.
        replaced(): another logbook takes the place of the one before; a snapshot of it follows.
        rescued(Path, str): the file is gone; edits go on in a copy at this path, and why.
    """

    changed = pyqtSignal(object)
    error_raised = pyqtSignal(object)
    notice_raised = pyqtSignal(str)
    conflict_raised = pyqtSignal(object)
    opening = pyqtSignal(object)
    replaced = pyqtSignal()
    rescued = pyqtSignal(object, str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        # One thread: edits reach the file in the order they were made.
        self.jobs = Jobs(threads=1, parent=self)
        self.analyses = Jobs(threads=1, parent=self)
        self.foreseeing = Jobs(threads=1, parent=self)  # takes longest: nothing waits behind it
        self.snapshot: Snapshot | None = None
        self._shared: SharedBook | None = None
        self._settled: Analysis | None = None  # the last whole one: what reads the same stays
        self._analysing: Job | None = None
        self._next: Callable[[], Job] | None = None  # what is begun when the window has drawn
        self._review_id: str | None = None  # the desk's thread turns to it, in the order of edits
        self._closing = self._shut = False
        self._looking: Job | None = None
        self._look = QTimer(self)
        self._look.setInterval(LOOK_EVERY_MS)
        self._look.timeout.connect(self.look_for_others)

    # Logbooks

    def open(self, path: Path) -> None:
        """Open a logbook in place of the present one, which stays if the new one is refused."""
        self.opening.emit(path)
        self._replace_book(lambda kind: kind.open(path), f"Opening {path.name}")

    def create(self, path: Path) -> None:
        """Make a new logbook and open it."""

        def make(kind: type[Logbook]) -> Logbook:
            from blunt_ruler.core.records.review_edits import first_review

            return kind.create(path, review=first_review(new_id))

        self._replace_book(make, f"Making {path.name}")

    def _replace_book(self, make: Callable[[type[Logbook]], Logbook], words: str) -> None:
        def work(step: Progress) -> Snapshot:
            from blunt_ruler.logbook import Logbook
            from blunt_ruler.logbook.shared import SharedBook
            from blunt_ruler.ui.desk.settings import rescue_path

            step(words, 0.1)
            book = make(Logbook)
            try:
                step("Reading runs and reviews", 0.4)
                shared = SharedBook(book, rescue_path, self.rescued.emit)
                shared.always_review(new_id)
                step("Building the Board", 0.8)
                before = self._settled
                if before is not None and before.contents == shared.contents:
                    shared.contents = (
                        before.contents
                    )  # the same objects: what is known of them stands
                else:
                    before = None  # what is found in one logbook says nothing of another
                snapshot = self._take_snapshot(shared, None, before)
            except BaseException:
                book.close()
                raise
            if self._shared is not None:
                self._shared.close()
            self._shared = shared
            return snapshot

        def done(snapshot: Snapshot) -> None:
            another = self.snapshot is not None and self.snapshot.path != snapshot.path
            if another:
                self._forget_the_one_before()
            self._settled, self._shut = None, False
            self._show(snapshot)
            if another:
                QTimer.singleShot(GIVE_BACK_AFTER_MS, self._give_back_memory)
            self._look.start()
            self._say_set_apart()
            self._observe_old_runs()

        self._run(words, work, done)

    def _forget_the_one_before(self) -> None:
        """Nothing is kept of a logbook that is closed: views, snapshots, what is remembered."""
        if self._analysing is not None:
            self._analysing.cancel()
            self._analysing = None
        self.snapshot = self._next = None
        self.replaced.emit()

    def _give_back_memory(self) -> None:
        """What a closed logbook took goes back to the system, once it has been let go of."""
        if not self._closing:
            self.foreseeing.run(
                "Giving memory back",
                lambda _step: give_back_memory(),
                lambda _done: None,
                self.error_raised.emit,
            )

    def _say_set_apart(self) -> None:
        """Name the records of the present logbook that could not be read."""
        apart = self._shared.book.set_apart if self._shared is not None else ()
        if not apart:
            return
        from blunt_ruler.logbook import DamagedLogbook

        more = f" and {len(apart) - 2} more" if len(apart) > 2 else ""
        self.error_raised.emit(
            DamagedLogbook(
                self._open_book().book.path.name,
                f"left out because it cannot be read: {'; '.join(apart[:2])}{more}",
                "Everything else can be used; an older copy may still have it",
            )
        )

    def _observe_old_runs(self) -> None:
        """Sum up traces of runs from before that was done, so that checks can see them."""
        assert self.snapshot is not None
        runs = self.snapshot.contents.runs.values()
        if any(run.trace_sha256 and run.observed is None for run in runs):
            self._run(
                "Reading traces for the checks",
                lambda step: (self._open_book().observe_old_runs(step), self._now())[1],
                self._show,
            )

    def look_for_others(self) -> None:
        """Take in what another window wrote, and notice when the file is gone."""
        if self._looking is not None or self._shared is None or self._closing:
            return

        def work(_step: Progress) -> Snapshot | None:
            return self._now() if self._open_book().refresh() else None

        def done(snapshot: Snapshot | None) -> None:
            self._looking = None
            if snapshot is not None:
                self._show(snapshot)

        def failed(error: Exception) -> None:
            self._looking = None
            self._look.stop()  # said once; the next edit says it again
            self.error_raised.emit(error)

        self._looking = self.jobs.run("Looking at the file", work, done, failed)

    def copy_to(self, target: Path) -> None:
        """Put a whole copy of the logbook somewhere."""
        self._run(
            f"Copying to {target.name}",
            lambda _step: self._open_book().book.copy_to(target),
            lambda _done: self.notice_raised.emit(f"Copied to {target}"),
        )

    def shut(self) -> None:
        """Let go of the present logbook, once the edits under way are in its file."""

        def work(_step: Progress) -> None:
            shared, self._shared = self._shared, None
            if shared is not None:
                shared.close()

        self._look.stop()
        self._shut, self._settled = True, None
        self._forget_the_one_before()
        self._run("Closing the logbook", work, lambda _done: None)
        QTimer.singleShot(GIVE_BACK_AFTER_MS, self._give_back_memory)

    def close(self) -> None:
        """Finish what is under way and let go of the file."""
        self._look.stop()
        self._closing = True  # what still comes back from a thread must start nothing new
        self.analyses.close()
        self.foreseeing.close()
        self.jobs.close()
        if self._shared is not None:
            self._shared.close()
            self._shared = None

    # Edits

    def apply(self, edit: Edit | None) -> None:
        """Write one edit, none for None; the views hear of it when it is in the file.

        One that touches a record which another window changed since is asked about. It was made
        out of what is shown, which edits on their way have changed by then: they stand.
        """
        if edit is not None:
            shown = self.snapshot
            seen = shown.others if shown is not None else 0
            contents = shown.contents if shown is not None else None
            self.edit(edit.label, lambda _book, _contents: edit, edit.notice, seen, shown=contents)

    def make(self, words: str, make: MakeEdit) -> None:
        """Write what `make` makes out of the latest contents and of the present review."""

        def made(_book: Logbook, contents: Contents) -> Edit | Changes:
            review = _review_of(contents, self._review_id)
            edit = make(contents, review) if review is not None else None
            return edit if edit is not None and (edit.put or edit.drop) else {}

        self.edit(words, made)

    def edit(
        self,
        words: str,
        make: Make,
        notice: str | None = None,
        seen: int | None = None,
        then: Callable[[], None] = lambda: None,
        shown: Contents | None = None,
    ) -> None:
        """Write what `make` makes out of the latest contents, on the desk's thread; `then` follows
        there when it is written.
        """

        def work(_step: Progress) -> Snapshot:
            self._open_book().edit(make, seen, shown)
            then()
            return self._now()

        def done(snapshot: Snapshot) -> None:
            self._show(snapshot)
            if notice:
                self.notice_raised.emit(notice)

        def failed(error: Exception) -> None:
            from blunt_ruler.logbook import ChangedElsewhere

            if not isinstance(error, ChangedElsewhere) or seen is None:
                self.error_raised.emit(error)
                return
            self.refresh()  # show what is there now
            self.conflict_raised.emit(
                Conflict(
                    f"“{error.where}” was not done: {error.what}. What is there now stays unless "
                    "you put yours in its place.",
                    "Put mine in its place",
                    lambda: self.edit(words, make, notice, then=then),
                )
            )

        self.jobs.run(words, work, done, failed)

    def refresh(self, then: Callable[[], None] = lambda: None) -> None:
        """Show what is there now."""
        self.edit("Looking again", lambda _book, _contents: {}, then=then)

    def trim(self, run: Run, trim: Trim | None) -> None:
        """Keep a part of a run's trace, or all of it for None; the trace itself stays whole."""
        from blunt_ruler.core.runs.trim_run import trim_edit

        def make(book: Logbook, contents: Contents) -> Edit:
            now = contents.runs[run.id]
            return trim_edit(now, book.trace(str(now.trace_sha256)), trim)

        self.edit("Trimming", make)

    def trim_all(self, finding: Finding) -> None:
        """Trim every pass of a finding as proposed, as one edit."""
        from blunt_ruler.core.checks.answers import trim_all

        self.edit("Trimming", lambda book, contents: trim_all(contents, finding, book.trace))

    def read_again(self) -> None:
        """Read every trace again that an earlier version read, as one edit."""
        from blunt_ruler.core.runs.read_again import read_again, read_again_edit, to_read_again

        def work(step: Progress) -> Snapshot:
            book = self._open_book()
            runs = to_read_again(book.book.contents())
            read = []
            for number, run in enumerate(runs):
                step("Reading traces again", number / len(runs))
                read.append(read_again(run, book.book.trace(str(run.trace_sha256))))
            book.edit(lambda _book, contents: read_again_edit(contents, read), None)
            return self._now()

        self._run("Reading traces again", work, self._show)

    def put_longer(self, run: Run, trace: Trace) -> None:
        """Put a longer trace of the same recording in the place of a run's."""
        from blunt_ruler.core.runs.trim_run import longer_edit

        def make(book: Logbook, contents: Contents) -> Edit:
            return longer_edit(contents.runs[run.id], trace, book.add_trace(trace))

        self.edit("Putting the longer recording in", make)

    def bring_in(self, arrivals: Arrivals, confirmed: Mapping[str, str] | None = None) -> None:
        """Store traces and take their runs into the present review, as one edit.

        `confirmed` maps log headers to the mapping (JSON) confirmed for them.
        """
        from blunt_ruler.logbook.intake import bring_in

        def make(book: Logbook, contents: Contents) -> Edit:
            review = _review_of(contents, self._review_id)
            return bring_in(book, contents, review, arrivals, new_id, confirmed)

        self.edit("Importing", make)

    def bring_in_read(self, arriving: Sequence[Any]) -> None:
        """Take passes read from a recording into the present review, as one edit.

        Each as (arrival, series, pictures or None).
        """
        from blunt_ruler.logbook.recordings import ArrivingPass, bring_in_passes

        def make(book: Logbook, contents: Contents) -> Edit:
            review = _review_of(contents, self._review_id)
            passes = [ArrivingPass(*one) for one in arriving]
            return bring_in_passes(book, contents, review, passes, new_id)

        self.edit("Taking in what was read", make)

    def undo(self) -> None:
        """Take back the newest edit."""
        label = self.snapshot.undo if self.snapshot else None
        if label:
            self._step("undo", label, f"Undone: {label}")

    def redo(self) -> None:
        """Do the last undone edit again."""
        label = self.snapshot.redo if self.snapshot else None
        if label:
            self._step("redo", label, f"Done again: {label}")

    def _step(self, verb: Literal["undo", "redo"], label: str, notice: str) -> None:
        """Undo or redo; an edit that another window has overwritten is named, the next offered."""

        def work(_step: Progress) -> Snapshot:
            self._open_book().edit(lambda book, _: book.undo() if verb == "undo" else book.redo())
            return self._now()

        def done(snapshot: Snapshot) -> None:
            self._show(snapshot)
            self.notice_raised.emit(notice)

        def failed(error: Exception) -> None:
            from blunt_ruler.logbook import ChangedElsewhere

            if isinstance(error, ChangedElsewhere):
                self._run("Looking again", lambda _: self._now(), partial(offer_next, error))
            else:
                self.error_raised.emit(error)

        def offer_next(error: ChangedElsewhere, snapshot: Snapshot) -> None:
            self._show(snapshot)
            following = snapshot.undo if verb == "undo" else snapshot.redo
            words, offer = f"Can't {verb} “{error.where}”: {error.what}.", ""
            if following:
                offer = f"{verb.capitalize()} “{following}”"
                words += f" {offer} instead?"
            self.conflict_raised.emit(Conflict(words, offer, getattr(self, verb)))

        self.jobs.run(f"{verb.capitalize()}: {label}", work, done, failed)

    def apply_to_review(self, edit: Edit, review_id: str | None) -> None:
        """Apply an edit of reviews and show another review than the present one."""
        turn = partial(self._turn_to, review_id)
        self.edit(edit.label, lambda _book, _contents: edit, edit.notice, then=turn)

    def choose_review(self, review_id: str) -> None:
        """Show another review of the logbook."""
        self.refresh(partial(self._turn_to, review_id))

    def _turn_to(self, review_id: str | None) -> None:
        """Edits are of another review from now on; on the desk's thread."""
        self._review_id = review_id

    # Reading

    def load_traces(
        self,
        sha256s: Sequence[str],
        finished: Callable[[list[Trace]], None],
        prepare: Callable[[], object] = lambda: None,
    ) -> None:
        """Fetch traces; `finished` is called with them on the interface thread. What else takes
        long before they can be shown, `prepare` does off it.
        """

        def work(step: Progress) -> list[Trace]:
            prepare()
            traces = []
            for number, sha256 in enumerate(sha256s):
                step("Reading traces", number / len(sha256s))
                traces.append(self._open_book().book.trace(sha256))
            return traces

        self._run("Reading traces", work, finished)

    def load_picture(self, sha256: str, finished: Callable[[bytes], None]) -> None:
        """Fetch the picture behind a run; `finished` is called on the interface thread."""
        self._run(
            "Reading pictures", lambda _step: self._open_book().book.picture(sha256), finished
        )

    def load_history(self, finished: Callable[[Sequence[JournalEntry]], None]) -> None:
        """Fetch the newest journal entries."""
        self._run("Reading the history", lambda _step: self._open_book().book.history(), finished)

    def load_edits(self, finished: Callable[[Sequence[PastEdit]], None]) -> None:
        """Fetch the edits that stand; `finished` is called with them on the interface thread."""
        self._run("Reading the journal", lambda _step: self._open_book().book.edits(), finished)

    def remembered_mapping(self, header: str) -> str | None:
        """The mapping confirmed earlier for a header. Called from reading threads."""
        if self.snapshot is None:
            return None
        from blunt_ruler.logbook import Logbook

        # A connection of its own: the logbook's one belongs to the desk's thread.
        with Logbook.open(self.snapshot.path) as book:
            return book.mapping(header)

    def _open_book(self) -> SharedBook:
        if self._shared is None:
            raise UserFixable("logbook", "none is open any more", "Open it, and do it again")
        return self._shared

    # Snapshots

    def _now(self) -> Snapshot:
        """What lies on the desk now; on the desk's thread."""
        return self._take_snapshot(self._open_book(), self._review_id, self._settled)

    def _take_snapshot(
        self, shared: SharedBook, review_id: str | None, before: Analysis | None
    ) -> Snapshot:
        from blunt_ruler.core.analysis.analyse import begin
        from blunt_ruler.core.analysis.rail_states import stop_states

        review, contents = _review_of(shared.contents, review_id), shared.contents
        analysis = begin(contents, review, before) if review else None
        # While it settles, the rail says of the later stops what it said of them before.
        same = before is not None and self.snapshot is not None and before.review.id == review_id
        said = self.snapshot.states if same and self.snapshot is not None else None
        snapshot = Snapshot(
            path=shared.book.path,
            contents=contents,
            review=review,
            analysis=analysis,
            undo=shared.book.next_undo(),
            redo=shared.book.next_redo(),
            others=shared.others,
            states=stop_states(contents, analysis, said),
        )
        self._turn_to(review.id if review else None)
        return snapshot

    def _show(self, snapshot: Snapshot) -> None:
        """Put a snapshot on the desk and work out what it still lacks, in the background."""
        if self._closing or self._shut:
            return
        self.snapshot = snapshot
        self._next = None
        if self._analysing is not None:
            self._analysing.cancel()
            self._analysing = None
        analysis = snapshot.analysis
        if analysis is not None and analysis.settled:
            self._settled = analysis
        self.changed.emit(snapshot)
        if analysis is None or (analysis.settled and analysis.is_whole):
            return
        begun, before = analysis, self._settled

        def work(step: Progress) -> Snapshot:
            from blunt_ruler.core.analysis.analyse import fit_whole, foresee_links, settle
            from blunt_ruler.core.analysis.rail_states import stop_states

            if not begun.settled:
                found = settle(begun.contents, begun.review, step, before, begun)
            elif begun.limits.quick:
                found = fit_whole(begun, step)
            elif (fit := begun.limits.fit) is None or len(fit.measured.every) < MANY_CELLS:
                found = foresee_links(begun, step)  # what takes longest comes last
            else:
                from blunt_ruler.core.limits.report import links_left_out, with_foreseen
                from blunt_ruler.processes import computed_apart

                going = partial(step, "Leaving links out in turn", 0.9)
                left_out = computed_apart(links_left_out, (fit,), going)
                found = replace(begun, limits=with_foreseen(begun.limits, left_out))
            states = stop_states(found.contents, found)
            return replace(snapshot, analysis=found, states=states)

        if not begun.settled:
            jobs, words = self.analyses, "Checking the runs"
        elif begun.limits.quick:
            jobs, words = self.analyses, "Fitting the limits"
        else:
            jobs, words = self.foreseeing, "Leaving links out in turn"
        # The window draws first what it was given: both at once would hold each other up.
        self._next = partial(jobs.run, words, work, self._on_analysed, self.error_raised.emit)
        QTimer.singleShot(0, self._go_on)

    def _go_on(self) -> None:
        if self._next is not None and not self._closing:
            begin, self._next = self._next, None
            self._analysing = begin()

    def _on_analysed(self, found: Snapshot) -> None:
        snapshot = self.snapshot
        # One that comes late, of contents that are no longer on the desk, says nothing of these.
        if (
            self._closing
            or snapshot is None
            or found.contents is not snapshot.contents
            or found.review is not snapshot.review
        ):
            return
        self._show(replace(snapshot, analysis=found.analysis, states=found.states))

    def _run(self, words: str, work: Work, finished: Callable[[Any], None]) -> None:
        self.jobs.run(words, work, finished, self.error_raised.emit)


def _review_of(contents: Contents, review_id: str | None) -> Review | None:
    """The chosen review, the first where there is no such one."""
    return contents.reviews.get(review_id or "") or next(iter(contents.reviews.values()), None)
