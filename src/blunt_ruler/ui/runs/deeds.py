"""What the Runs view wishes, done: edits on the desk, traces fetched, the inbox watched."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from blunt_ruler.bench.inbox import Inbox
from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.intake import Arrival, CaseName
from blunt_ruler.core.matching import Match, match_log
from blunt_ruler.exchange.frame_logs import LogReading, origin_of, read_log, typed_of
from blunt_ruler.ui.desk import Desk
from blunt_ruler.ui.jobs import Jobs
from blunt_ruler.ui.notices import Banner
from blunt_ruler.ui.runs.view import RunsStop


class RunsDeeds(QObject):
    """Between the Runs view and the desk.

    Signals:
        log_finished(Path): a log in the inbox is complete; sent from the inbox's thread.
    """

    log_finished = pyqtSignal(object)

    def __init__(self, runs: RunsStop, desk: Desk, banner: Banner) -> None:
        super().__init__(runs)
        self._runs = runs
        self._desk = desk
        self._banner = banner
        self._inbox: Inbox | None = None
        self.jobs = Jobs(threads=1, parent=self)
        self.log_finished.connect(self._on_log)
        runs.decision_requested.connect(desk.decide)
        runs.reason_requested.connect(desk.give_reason)
        runs.trim_requested.connect(desk.trim)
        runs.arrivals_ready.connect(desk.import_arrivals)
        runs.edit_requested.connect(desk.commit)
        runs.inbox_requested.connect(self.watch)
        runs.error_raised.connect(banner.show_error)
        runs.trace_requested.connect(
            lambda sha256: desk.load_trace(sha256, lambda trace: runs.show_trace(sha256, trace))
        )
        runs.overlay_requested.connect(
            lambda sha256s: desk.load_traces(sha256s, runs.list.show_overlaid)
        )
        desk.checked_changed.connect(runs.show_checked)
        runs.show_checked(desk.checked)

    def watch(self, folder: Path | None) -> None:
        """Watch a folder for logs in place of the present one; none for None."""
        if self._inbox is not None:
            self._inbox.stop()
            self._inbox = None
        if folder is not None:
            inbox = Inbox(folder, self.log_finished.emit)
            try:
                inbox.start()
            except UserFixable as error:
                self._banner.show_error(error)
                folder = None
            else:
                self._inbox = inbox
        self._runs.show_inbox(folder)

    def close(self) -> None:
        """Let go of the inbox and end what is under way."""
        if self._inbox is not None:
            self._inbox.stop()
        self.jobs.close()
        self._runs.wait()

    def _on_log(self, path: Path) -> None:
        """Read a finished log and take it in where its place is sure."""
        spread = self._desk.spread
        if spread is None or spread.review is None:
            return
        if any(run.origin.file == path.name for run in spread.contents.runs.values()):
            self._runs.work.inbox.add(path, "taken in already")
            return
        contents, review = spread.contents, spread.review
        going = self._runs.work.going
        expected = (going.rig_id, going.case_id) if going else None

        def work(step: Callable[[str, float], None]) -> tuple[LogReading, Match | None]:
            reading = read_log(path, step=step)
            return reading, match_log(contents, review, path.stem, reading.says, expected)

        self.jobs.run(
            f"Reading {path.name}",
            work,
            lambda found: self._place(path, *found),
            lambda error: self._runs.work.inbox.add(path, str(error)),
        )

    def _place(self, path: Path, reading: LogReading, match: Match | None) -> None:
        spread = self._desk.spread
        if spread is None:
            return
        if reading.asks:
            self._runs.work.inbox.add(path, f"can be read as {reading.question}; Enter opens it")
            return
        if match is None:
            self._runs.work.inbox.add(path, "nothing tells its rig and case; Enter opens it")
            return
        contents = spread.contents
        where = f"{contents.rigs[match.rig_id].name}, {contents.case_label(match.case_id)}"
        if not match.sure or reading.bad_rows:
            why = f"{len(reading.bad_rows)} bad rows" if reading.bad_rows else match.why
            self._runs.work.inbox.add(path, f"perhaps {where} ({why}); Enter opens it")
            return
        case = contents.cases[match.case_id]
        arrival = Arrival(
            rig=contents.rigs[match.rig_id].name,
            case=CaseName(contents.titles[case.title_id].name),
            case_id=case.id,
            figures=None,
            trace_sha256=None,
            typed=typed_of(reading),
            origin=origin_of(reading),
            taken_at=reading.modified_at,
        )
        self._desk.import_arrivals([(arrival, reading.trace)])
        self._runs.work.inbox.add(path, f"taken in as {where} ({match.why})")
