"""What the Runs view wishes, done: edits on the desk, traces fetched, the inbox watched."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from blunt_ruler.bench.inbox import Inbox
from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.records import Run, Trace
from blunt_ruler.core.runs.import_runs import Arrival, CaseName
from blunt_ruler.core.runs.matching import Kinship, Match, kinship, match_log
from blunt_ruler.exchange.frame_logs import LogReading, origin_of, read_log, typed_of
from blunt_ruler.ui.desk import Desk
from blunt_ruler.ui.faults import sentence
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
        self._grown: dict[Path, tuple[Run, Trace]] = {}
        self.jobs = Jobs(threads=1, parent=self)
        self.log_finished.connect(self._on_log)
        runs.decision_requested.connect(desk.decide)
        runs.reason_requested.connect(desk.give_reason)
        runs.trim_requested.connect(desk.trim)
        runs.arrivals_ready.connect(desk.import_arrivals)
        runs.edit_requested.connect(desk.commit)
        runs.inbox_requested.connect(self.watch)
        runs.work.inbox.log_wanted.connect(self.open_log)
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
        contents, review = spread.contents, spread.review
        going = self._runs.work.going
        expected = (going.rig_id, going.case_id) if going else None
        namesakes = [run for run in contents.runs.values() if run.origin.file == path.name]

        def work(step: Callable[[str, float], None]) -> tuple[LogReading, Match | None]:
            reading = read_log(path, step=step)
            return reading, match_log(contents, review, path.stem, reading.says, expected)

        def done(found: tuple[LogReading, Match | None]) -> None:
            reading, match = found
            if namesakes:
                self._compare(path, reading, match, namesakes)
            else:
                self._place(path, reading, match)

        self.jobs.run(
            f"Reading {path.name}",
            work,
            done,
            lambda error: self._runs.work.inbox.add(path, sentence(error)),
        )

    def _compare(
        self, path: Path, reading: LogReading, match: Match | None, namesakes: list[Run]
    ) -> None:
        """A log under a name that was taken in before: the same, a longer one, or another."""
        traced = [run for run in namesakes if run.trace_sha256]

        def compared(traces: list[Trace]) -> None:
            kin = [
                kinship(trace.frame_times_ms, reading.trace.frame_times_ms)
                if reading.trace is not None
                else Kinship.OTHER
                for trace in traces
            ]
            sampled = reading.sampled and any(
                run.average_fps == reading.average_fps for run in namesakes
            )
            if Kinship.SAME in kin or sampled:
                self._runs.work.inbox.add(path, "taken in already")
            elif Kinship.LONGER in kin and reading.trace is not None:
                run = traced[kin.index(Kinship.LONGER)]
                before, now = traces[kin.index(Kinship.LONGER)], reading.trace
                self._grown[path] = (run, now)
                self._runs.work.inbox.add(
                    path,
                    f"has grown from {before.frame_times_ms.size} to {now.frame_times_ms.size} "
                    "frames since it was taken in; Enter puts the longer one in its place",
                )
            else:
                self._place(path, reading, match)

        shas = [str(run.trace_sha256) for run in traced]
        if shas:
            self._desk.load_traces(shas, compared)
        else:
            compared([])

    def open_log(self, path: Path) -> None:
        """Put a grown log in the place of the shorter one; look at any other by hand."""
        run, trace = self._grown.pop(path, (None, None))
        if run is None or trace is None:
            self._runs.logs_wanted.emit([path])
            return
        self._desk.put_longer(run, trace)
        self._runs.work.inbox.add(path, "the longer one is in its place")

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
