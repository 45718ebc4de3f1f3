"""What the Runs stop wishes, done: traces fetched, runs taken in, the inbox watched."""

from __future__ import annotations

import time
from collections.abc import Iterable
from importlib import import_module
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject, pyqtSignal

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.text import count_text
from blunt_ruler.ui.desk.controller import Controller, Hub, Offer
from blunt_ruler.ui.desk.jobs import Job
from blunt_ruler.ui.desk.stop import Stop
from blunt_ruler.ui.kit.faults import sentence

if TYPE_CHECKING:
    from blunt_ruler.bench.inbox import Inbox
    from blunt_ruler.core.records.records import Run, Trace
    from blunt_ruler.core.runs.matching import Match
    from blunt_ruler.core.types import Progress
    from blunt_ruler.exchange.logs.frame_logs import LogReading
    from blunt_ruler.ui.runs.findings_page import FindingsPage
    from blunt_ruler.ui.runs.hands_free_page import HandsFreePage
    from blunt_ruler.ui.runs.list_page import ListPage
    from blunt_ruler.ui.runs.work_page import WorkPage


class RunsController(Controller):
    """Between the Runs stop, the desk and the inbox.

    Signals:
        log_finished(Path): a log in the inbox is complete; sent from the inbox's thread.
        folder_there(bool): the watched folder was taken away, or is there again; likewise.
        rig_taken(Path, list): what the bench played on one rig for a logbook; from its thread.
    """

    log_finished = pyqtSignal(object)
    folder_there = pyqtSignal(bool)
    rig_taken = pyqtSignal(object, object)
    name = "Runs"

    def __init__(self, hub: Hub, parent: QObject) -> None:
        super().__init__(hub, parent)
        self._inbox: Inbox | None = None
        self._grown: dict[Path, tuple[Run, Trace]] = {}
        self._work: WorkPage | None = None
        self._list: ListPage | None = None
        self._hands_page: HandsFreePage | None = None
        self._notes: list[tuple[Path, str]] = []  # what became of logs of the inbox
        self.log_finished.connect(self._on_log)
        self.folder_there.connect(self._on_folder)
        self._all: Job | None = None
        self.rig_taken.connect(self._on_rig_taken)

    def build(self) -> Stop:
        """The view."""
        from blunt_ruler.ui.runs import view

        stop = view.RunsStop()
        stop.when_built(view.AT_WORK, self._connect_work)
        stop.when_built(view.HANDS_FREE, self._connect_hands)
        stop.when_built(view.LIST, self._connect_list)
        stop.when_built(view.FINDINGS, self._connect_findings)
        return stop

    def _connect_work(self, page: WorkPage) -> None:
        self._work = page
        if self._inbox is not None:
            page.inbox.show_folder(self._inbox.folder, self._inbox.is_there)
        for path, words in self._notes:
            page.inbox.add(path, words)
        page.arrivals_ready.connect(self.desk.bring_in)
        page.typing_requested.connect(self.hub.type_into)
        page.all_wanted.connect(self.take_all)
        page.inbox.watch_requested.connect(self.watch)
        page.inbox.log_wanted.connect(self.open_log)
        self.hub.strip.watch(page.taker.jobs)

    def _connect_hands(self, page: HandsFreePage) -> None:
        from platformdirs import user_cache_path

        from blunt_ruler.ui.desk.settings import config_folder
        from blunt_ruler.ui.kit.sound import Sounds
        from blunt_ruler.ui.runs.consent import Consents

        self._hands_page = page
        sounds = Sounds(user_cache_path("blunt-ruler") / "sounds")
        page.command.consents = Consents(config_folder() / "allowed.json")
        self.hub.strip.watch(page.command.jobs)
        page.watch_requested.connect(self.watch)
        page.sounded.connect(sounds.play)
        page.show_folder(self._inbox.folder if self._inbox is not None else None)

    @property
    def _hands(self) -> HandsFreePage:
        assert self._hands_page is not None
        return self._hands_page

    @property
    def _hands_run(self) -> bool:
        return self._hands_page is not None and self._hands_page.is_running

    def _connect_list(self, page: ListPage) -> None:
        self._list = page
        page.import_requested.connect(lambda: self.hub.import_logs(None))
        page.recording_requested.connect(self.hub.ask_recording)
        page.trim_requested.connect(self.desk.trim)
        page.trace_requested.connect(
            lambda sha256: self.desk.load_traces(
                [sha256], lambda traces: page.show_trace(sha256, traces[0]), _bring_in_plots
            )
        )
        page.pictures_requested.connect(
            lambda sha256: self.desk.load_picture(
                sha256, lambda png: page.show_pictures(sha256, png)
            )
        )
        page.picture_wanted.connect(self.hub.show_recording)
        page.overlay_requested.connect(
            lambda sha256s: self.desk.load_traces(sha256s, page.show_overlaid)
        )

    def _connect_findings(self, page: FindingsPage) -> None:
        page.trim_all_requested.connect(self.desk.trim_all)
        page.read_again_requested.connect(self.desk.read_again)

    def offers(self) -> Iterable[Offer]:
        """The next run of the plan."""
        yield Offer("Take the next run", self.take_next, "Ctrl+T")
        yield Offer("Simulate all runs of the plan", self.take_all, "Ctrl+Shift+A")

    def take_next(self) -> None:
        """Take the next run of the plan on the simulated bench."""
        from blunt_ruler.ui.runs.view import AT_WORK

        self.hub.go_to(self.name)
        self.stop.show_page(AT_WORK)
        self.work.take_run()

    def take_all(self) -> None:
        """Play every pass that the plan still wants on the simulated bench, and take them in rig
        after rig.
        """
        from blunt_ruler.ui.runs.whole_plan import SOUND, arrival_of, passes_left, played

        analysis = self.snapshot.analysis
        plan = analysis.bench_plan if analysis is not None else None
        if self._all is not None or plan is None:
            return
        self.hub.go_to(self.name)
        contents, book = self.snapshot.contents, self.snapshot.path
        passes, left_out, why = passes_left(contents, plan)
        cannot = f"{count_text(left_out, 'pass', 'passes')} left: the simulated bench can't play "
        cannot = f"{cannot}{'it' if left_out == 1 else 'them'}: {why}." if left_out else ""
        if not passes:
            self.banner.show_said(cannot or "Nothing is left to take: the plan is done.")
            return

        planted = any(one.faults != SOUND for one in passes)

        def work(step: Progress) -> str:
            arrivals: list[Any] = []
            for one, trace in played(passes, step):
                if arrivals and arrivals[-1][0].rig != contents.rigs[one.rig_id].name:
                    self.rig_taken.emit(book, arrivals)
                    arrivals = []
                arrivals.append((arrival_of(contents, one), trace))
            self.rig_taken.emit(book, arrivals)
            found = " One of them is faulty on purpose." if planted else ""
            taken = f"{count_text(len(passes), 'pass', 'passes')} taken on the simulated bench."
            return " ".join(f"{taken}{found} {cannot}".split())

        self._all = self.jobs.run(
            "Playing all runs of the plan",
            work,
            lambda said: self._on_all_taken(said, planted),
            self._on_all_failed,
            self._on_all_cancelled,
        )

    def _on_rig_taken(self, book: Path, arrivals: list[Any]) -> None:
        snapshot = self.desk.snapshot
        if snapshot is not None and snapshot.path == book:  # not another that was opened since
            self.desk.bring_in(arrivals)

    def _on_all_taken(self, said: str, planted: bool) -> None:
        self._all = None
        if planted:
            self.banner.ask(said, "Show the findings", self.show_findings)
        else:
            self.banner.show_said(said)

    def show_findings(self) -> None:
        """What the checks found."""
        from blunt_ruler.ui.runs.view import FINDINGS

        self.hub.go_to(self.name)
        self.stop.show_page(FINDINGS)

    def _on_all_failed(self, error: Exception) -> None:
        self._all = None
        self.banner.show_error(error)

    def _on_all_cancelled(self) -> None:
        self._all = None

    @property
    def work(self) -> WorkPage:
        """The sheet at work, looked at from now on."""
        from blunt_ruler.ui.runs.view import AT_WORK

        if self._work is None:
            self.stop.show_page(AT_WORK)
            assert self._work is not None
        return self._work

    # The inbox

    def watch(self, folder: Path | None) -> None:
        """Watch a folder for logs in place of the present one; none for None."""
        if self._inbox is not None:
            self._inbox.stop()
            self._inbox = None
        if folder is not None:
            from blunt_ruler.bench.inbox import Inbox

            inbox = Inbox(folder, self.log_finished.emit, on_folder=self.folder_there.emit)
            try:
                inbox.start()
            except UserFixable as error:
                self.banner.show_error(error)
                folder = None
            else:
                self._inbox = inbox
        if self._work is not None:
            self._work.inbox.show_folder(folder)
        if self._hands_page is not None:
            self._hands_page.show_folder(folder)

    def _on_folder(self, is_there: bool) -> None:
        if self._inbox is not None and self._work is not None:
            self._work.inbox.show_folder(self._inbox.folder, is_there)

    def close(self) -> None:
        """Let go of the inbox and end what is under way."""
        if self._inbox is not None:
            self._inbox.stop()
        super().close()
        for page in (self._work, self._list, self._hands_page):
            if page is not None:
                page.wait()

    def let_go(self) -> None:
        """Forget the view; the inbox stays watched."""
        for page in (self._work, self._list, self._hands_page):
            if page is not None:
                page.wait()
        if self._all is not None:
            self._all.cancel()
        self._work = self._list = self._hands_page = self._all = None
        self._grown.clear()
        self._notes.clear()
        super().let_go()

    def _on_log(self, path: Path) -> None:
        """Read a finished log and take it in where its place is sure."""
        snapshot = self.desk.snapshot
        if snapshot is None or snapshot.review is None:
            return
        contents, review = snapshot.contents, snapshot.review
        expected = self._expected()
        namesakes = [run for run in contents.runs.values() if run.origin.file == path.name]

        def work(step: Progress) -> tuple[LogReading, Match | None, float]:
            from blunt_ruler.core.runs.matching import match_log
            from blunt_ruler.exchange.logs.frame_logs import read_log

            reading = read_log(path, step=step)
            try:
                ended_s = path.stat().st_mtime
            except OSError:  # it was taken away as soon as it was read
                ended_s = time.time()
            match = match_log(contents, review, path.stem, reading.says, expected)
            return reading, match, ended_s

        def done(found: tuple[LogReading, Match | None, float]) -> None:
            if namesakes:
                self._compare(path, *found, namesakes)
            else:
                self._place(path, *found)

        self.jobs.run(
            f"Reading {path.name}",
            work,
            done,
            lambda error: self._note(path, sentence(error)),
        )

    def _expected(self) -> tuple[str, str] | None:
        """Rig and case of the pass that is under way, or that is next."""
        from blunt_ruler.core.plan.next_pass import next_pass

        review, analysis = self.snapshot.review, self.snapshot.analysis
        if self._hands_run:
            going = self._hands.going
        elif self._work is not None:
            going = self._work.going
        else:
            plan = analysis.bench_plan if analysis is not None else None
            going = next_pass(self.snapshot.contents, review, plan) if review and plan else None
        return (going.rig_id, going.case_id) if going is not None else None

    def _note(self, path: Path, words: str) -> None:
        """Say what became of a log, on the sheet at work."""
        self._notes.append((path, words))
        if self._work is not None:
            self._work.inbox.add(path, words)

    def _compare(
        self,
        path: Path,
        reading: LogReading,
        match: Match | None,
        ended_s: float,
        namesakes: list[Run],
    ) -> None:
        """A log under a name that was taken in before: the same, a longer one, or another."""
        from blunt_ruler.core.runs.matching import Kinship, kinship

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
                self._note(path, "taken in already")
            elif Kinship.LONGER in kin and reading.trace is not None:
                run = traced[kin.index(Kinship.LONGER)]
                before, now = traces[kin.index(Kinship.LONGER)], reading.trace
                self._grown[path] = (run, now)
                self._note(
                    path,
                    f"has grown from {before.frame_times_ms.size} to {now.frame_times_ms.size} "
                    "frames since it was taken in; Enter puts the longer one in its place",
                )
            else:
                self._place(path, reading, match, ended_s)

        shas = [str(run.trace_sha256) for run in traced]
        if shas:
            self.desk.load_traces(shas, compared)
        else:
            compared([])

    def open_log(self, path: Path) -> None:
        """Put a grown log in the place of the shorter one; look at any other by hand."""
        run, trace = self._grown.pop(path, (None, None))
        if run is None or trace is None:
            self.hub.import_logs([path])
            return
        self.desk.put_longer(run, trace)
        self._note(path, "the longer one is in its place")

    def _place(self, path: Path, reading: LogReading, match: Match | None, ended_s: float) -> None:
        if reading.asks:
            self._note(path, f"can be read as {reading.question}; Enter opens it")
            return
        if match is None:
            self._note(path, "nothing tells its rig and case; Enter opens it")
            return
        contents = self.snapshot.contents
        where = f"{contents.rigs[match.rig_id].name}, {contents.case_label(match.case_id)}"
        mine = self._hands_run and (match.rig_id, match.case_id) == self._expected()
        if not (match.sure or mine) or reading.bad_rows:
            why = f"{len(reading.bad_rows)} bad rows" if reading.bad_rows else match.why
            self._note(path, f"perhaps {where} ({why}); Enter opens it")
            return
        from blunt_ruler.core.runs.import_runs import CaseName
        from blunt_ruler.exchange.logs.frame_logs import arrival_of

        case = contents.cases[match.case_id]
        named = CaseName(contents.titles[case.title_id].name)
        arrival = arrival_of(reading, contents.rigs[match.rig_id].name, named, case_id=case.id)
        page = self._hands if self._hands_run else self._work
        trace = page.watch.onto(reading.trace, ended_s) if page is not None else reading.trace
        self.desk.bring_in([(arrival, trace)])
        self._note(path, f"taken in as {where} ({match.why})")


def _bring_in_plots() -> None:
    """Import what draws traces, which takes half a second."""
    import_module("blunt_ruler.ui.runs.trace_panel")
