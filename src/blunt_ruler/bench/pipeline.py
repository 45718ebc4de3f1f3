"""A frame pipeline played event by event.

Three workers share one clock: the CPU prepares a frame and hands its upload to the link; the
card draws it in slices, fetching what it lacks over the same link; the presenter shows it, after
the picture was sent back where the panel is the host's. At most three frames are under way. Who
waits for which transfer is a title's `Flow`. Frame times are not computed from any formula of the
parts: they are what comes out when the workers wait for one another.

Written by hand rather than on a general event library because a simulated minute at 400 frames
per second must play in well under a second.
"""

import heapq
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field, replace
from enum import StrEnum

QUEUE_FRAMES = 3
MS_PER_MB_AT_1_GB_PER_S = 1.0  # 1 MB at 1 GB/s, decimal units


class Flow(StrEnum):
    """Who waits for what a frame moves over the link."""

    QUEUED = "queued"  # uploads run beside the CPU; the card waits for every other fetch
    WAITED_FOR = "waited for"  # the CPU waits until its upload has arrived
    SERIAL = "serial"  # the CPU moves upload and fetches one after another, and waits for all
    OVERLAPPED = "overlapped"  # all fetches run under the drawing
    UNPACKED = "unpacked"  # the CPU unpacks what it uploads

    @property
    def words(self) -> str:
        """The same in a sentence about a title."""
        return FLOW_WORDS[self]


FLOW_WORDS = {
    Flow.QUEUED: "uploads run beside its CPU, and the card waits for every other fetch",
    Flow.WAITED_FOR: "its CPU waits for each upload",
    Flow.SERIAL: "its CPU moves uploads and fetches one after another, and waits for all",
    Flow.OVERLAPPED: "all its fetches run under the drawing",
    Flow.UNPACKED: "its CPU unpacks what it uploads",
}


@dataclass(slots=True)
class Channel:
    """One direction of the link: transfers in the order they are asked for, one at a time."""

    gb_per_s: float
    free_at_ms: float = 0.0
    moved_mb: float = 0.0

    def transfer(self, now_ms: float, megabytes: float) -> float:
        """Queue a transfer and give the moment its last byte arrives."""
        start_ms = max(now_ms, self.free_at_ms)
        self.free_at_ms = start_ms + megabytes / self.gb_per_s * MS_PER_MB_AT_1_GB_PER_S
        self.moved_mb += megabytes
        return self.free_at_ms


@dataclass(frozen=True, slots=True)
class FrameWork:
    """What one frame asks of the parts. Times in ms at the present clocks, sizes in MB."""

    cpu_ms: float
    upload_mb: float
    card_ms: float
    fetches: int
    fetch_mb: float
    picture_back_mb: float
    streamed_mb: float = 0.0


@dataclass(frozen=True, slots=True)
class Limits:
    """What holds frames back from outside: a cap on the CPU's pace, a wait for the refresh."""

    cap_fps: float | None = None
    refresh_hz: float | None = None


@dataclass(slots=True)
class Played:
    """What happened so far, growing while the pipeline plays; moments in ms."""

    shown_ms: list[float] = field(default_factory=list)
    cpu_busy_ms: float = 0.0
    card_busy_ms: float = 0.0


Gauge = Callable[[float, Played, float], None]
"""Called at every tick with (now in ms, what happened so far, MB moved over the link so far)."""


class Pipeline:
    """Workers, link and clock of one run. `work_of(index, now_ms)` gives each frame's work."""

    def __init__(
        self,
        work_of: Callable[[int, float], FrameWork],
        down: Channel,
        up: Channel,
        latency_ms: float,
        limits: Limits,
        flow: Flow = Flow.QUEUED,
        gauge: Gauge | None = None,
        tick_ms: float = 100.0,
    ) -> None:
        self._work_of = work_of
        self._down = down
        self._up = up
        self._latency_ms = latency_ms
        self._limits = limits
        self._flow = flow
        self._ready: list[tuple[FrameWork, float]] = []  # handed to the card, with upload's end
        self._shown = 0
        self._now_ms = 0.0
        self.played = Played()
        self._workers: list[Iterator[float | None]] = [self._cpu(), self._card()]
        if gauge is not None:
            self._workers.append(self._ticks(gauge, tick_ms))
        self._agenda = [(0.0, order) for order in range(len(self._workers))]
        self._waiting: set[int] = set()

    def play(self, until_ms: float) -> Played:
        """Play on to a moment, reading the gauges at every tick."""
        workers, agenda, waiting = self._workers, self._agenda, self._waiting
        while agenda and agenda[0][0] < until_ms:
            self._now_ms, worker = agenda[0]
            seen = (self._shown, len(self._ready))
            next_ms = next(workers[worker])
            if next_ms is None:
                heapq.heappop(agenda)
                waiting.add(worker)
            else:
                heapq.heapreplace(agenda, (next_ms, worker))
            if waiting and seen != (self._shown, len(self._ready)):
                for woken in waiting:  # a frame was handed over or shown: who waits looks again
                    heapq.heappush(agenda, (self._now_ms, woken))
                waiting.clear()
        return self.played

    def _cpu(self) -> Iterator[float | None]:
        """Prepare frame after frame, as long as the queue has room.

        A worker yields the moment it goes on, or None to wait for the other.
        """
        index = 0
        next_start_ms = 0.0
        while True:
            while index - self._shown >= QUEUE_FRAMES:
                yield None
            if self._now_ms < next_start_ms:
                yield next_start_ms
            if self._limits.cap_fps is not None:
                next_start_ms = max(self._now_ms, next_start_ms) + 1000.0 / self._limits.cap_fps
            work = self._work_of(index, self._now_ms)
            yield self._now_ms + work.cpu_ms
            self.played.cpu_busy_ms += work.cpu_ms
            if work.streamed_mb:  # textures for later frames share the road with this one
                self._down.transfer(self._now_ms, work.streamed_mb)
            moved_mb = work.upload_mb
            if self._flow is Flow.SERIAL:
                moved_mb += work.fetches * work.fetch_mb
                work = replace(work, fetches=0)
            arrived_ms = self._down.transfer(self._now_ms, moved_mb) + self._latency_ms
            if self._flow in (Flow.SERIAL, Flow.WAITED_FOR):
                yield arrived_ms
            self._ready.append((work, arrived_ms))
            index += 1

    def _card(self) -> Iterator[float | None]:
        """Draw frame after frame in slices, waiting for uploads and fetches."""
        index = 0
        while True:
            while index >= len(self._ready):
                yield None
            work, arrived_ms = self._ready[index]
            if arrived_ms > self._now_ms:
                yield arrived_ms
            slice_ms = work.card_ms / (work.fetches + 1)
            for number in range(work.fetches + 1):
                # Every other fetch is needed at once; the rest run under the slice.
                fetched_ms = 0.0
                if number < work.fetches:
                    fetched_ms = (
                        self._down.transfer(self._now_ms, work.fetch_mb) + 2.0 * self._latency_ms
                    )
                    if number % 2 == 0 and self._flow is not Flow.OVERLAPPED:
                        yield fetched_ms
                self.played.card_busy_ms += slice_ms
                yield max(self._now_ms + slice_ms, fetched_ms)
            shown_ms = self._now_ms
            if work.picture_back_mb:
                shown_ms = self._up.transfer(shown_ms, work.picture_back_mb) + self._latency_ms
                yield shown_ms  # the card keeps the picture until it has left
            yield from self._present(shown_ms)
            index += 1

    def _present(self, shown_ms: float) -> Iterator[float | None]:
        """Show a finished picture, at a refresh where one is waited for."""
        if self._limits.refresh_hz is not None:
            period_ms = 1000.0 / self._limits.refresh_hz
            shown_ms = (int(shown_ms / period_ms - 1e-9) + 1) * period_ms
            yield shown_ms  # the card's buffer stays taken until the refresh
        last_ms = self.played.shown_ms[-1] if self.played.shown_ms else -1.0
        self.played.shown_ms.append(max(shown_ms, last_ms + 1e-3))
        self._shown += 1

    def _ticks(self, gauge: Gauge, tick_ms: float) -> Iterator[float | None]:
        while True:
            gauge(self._now_ms, self.played, self._down.moved_mb + self._up.moved_mb)
            yield self._now_ms + tick_ms
