"""What the logbook remembers: sound cells of other reviews that the fit of this one learns from.

Titles, cards, hosts and links carry over. A cell counts only where its rig is in the state in
which this review has the same host and card: another power limit is another speed. What lies
further back than this review's own runs may have drifted since, with the version of the title and
with the driver; the fit leaves that open.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta

from blunt_ruler.core.board.board import Board, build_board
from blunt_ruler.core.compare.comparability import Standing, Unsound
from blunt_ruler.core.limits.cells import Cell, Found, Measured, found_in, speed_guess
from blunt_ruler.core.once import Handover
from blunt_ruler.core.records.hardware import Rig
from blunt_ruler.core.records.records import Contents, Review, Run
from blunt_ruler.core.runs.changes import moment_of

NEAR = timedelta(days=14)  # so far from this review's runs nothing is held to have changed
UNDATED = "an unrecorded day"


@dataclass(frozen=True, slots=True)
class Memory:
    """Cells of other reviews with their parts, and how many reviews gave one.

    `read` is what they were made of: while that is the same, so are they.
    """

    found: Found = field(default_factory=Found)
    reviews: int = 0
    read: tuple[object, ...] = ()

    @property
    def cells(self) -> tuple[Cell, ...]:
        """The remembered cells."""
        return self.found.cells


def remember(
    contents: Contents,
    board: Board,
    unsound: Unsound,
    before: Memory | None = None,
    handover: Handover | None = None,
) -> Memory:
    """What the other reviews of a logbook know that the Board of this one does not.

    `before` is taken over where it would read the same.
    """
    handover = handover or Handover()
    review = board.review
    others = [one for one in contents.reviews.values() if one.id != review.id]
    if not review.remembers or not others:
        return Memory()
    runs = _runs_of(contents, board, others)
    words = {run.id: unsound[run.id] for run in runs if run.id in unsound}
    parts = (contents.hosts, contents.cards, contents.links, contents.rigs, contents.changes)
    times = _span(board, handover)
    read = (others, runs, words, *parts, contents.titles, contents.cases, review.seats, times)
    if before is not None and before.read == read:
        return before
    known = {key for key, cell in board.cells.items() if cell.standing.worst is Standing.CLEAN}
    states = _States(contents, [seat.rig_id for seat in review.seats])
    cells: list[Cell] = []
    whole = Found()
    gave = 0
    for other in others:
        theirs = build_board(contents, other, unsound, handover)
        found = found_in(contents, theirs, handover, strict=False)
        fresh = []
        for cell in found.cells:
            if (cell.rig, cell.case) in known or not states.fit(contents.rigs[cell.rig]):
                continue
            known.add((cell.rig, cell.case))
            fresh.append(replace(cell, time=_time_of(theirs, cell, times)))
        gave += bool(fresh)
        cells += fresh
        whole = whole.joined(found)
    used = {cell.link for cell in cells}
    links = {name: link for name, link in whole.links.items() if name in used}
    return Memory(Found(tuple(cells), links, whole.watts), gave, read)


def with_memory(measured: Measured, memory: Memory) -> Measured:
    """The cells of a review with the remembered ones beside them."""
    own = measured.watts.get(measured.card, 1.0)
    return replace(
        measured,
        beside=memory.cells,
        reviews=memory.reviews,
        links={**memory.found.links, **measured.links},
        card_guess={**speed_guess(memory.found.watts, own), **measured.card_guess},
    )


def _runs_of(contents: Contents, board: Board, others: Sequence[Review]) -> tuple[Run, ...]:
    """Runs that other reviews hold in cells which the Board does not have."""
    wanted = {
        (seat.rig_id, case) for one in others for seat in one.seats for case in one.case_ids
    } - board.runs.keys()
    return tuple(run for run in contents.runs.values() if (run.rig_id, run.case_id) in wanted)


class _States:
    """The state each host and card is remembered in: as this review has it, else as first seen."""

    def __init__(self, contents: Contents, rig_ids: Sequence[str]) -> None:
        self._known: dict[str, tuple[object, ...]] = {}
        for rig_id in rig_ids:
            if rig_id in contents.rigs:
                self.fit(contents.rigs[rig_id])

    def fit(self, rig: Rig) -> bool:
        """Whether a rig's host and card are in the state that counts; the first seen decides."""
        state = rig.state
        parts = (
            (rig.host_id, (state.power_mode, state.cpu_power_limit_w)),
            (rig.card_id, (state.card_mode, state.card_power_limit_w, state.overclock)),
        )
        return not rig.source and all(
            self._known.setdefault(str(key), how) == how for key, how in parts
        )


def _span(board: Board, handover: Handover) -> tuple[datetime, datetime] | None:
    """From the first to the last counted run of a Board; None where none has a date."""
    every: list[datetime] = []
    for key in board.cells:
        counted = board.counted(*key)
        every += handover.of(("span", *key), (counted,), lambda: _ends(counted))  # noqa: B023
    return (min(every), max(every)) if every else None


def _ends(runs: Sequence[Run]) -> tuple[datetime, ...]:
    """The first and the last moment of some runs; nothing where none has a date."""
    every = [at for run in runs if (at := moment_of(run.taken_at))]
    return (min(every), max(every)) if every else ()


def _time_of(board: Board, cell: Cell, now: tuple[datetime, datetime] | None) -> str:
    """The month a cell is remembered from, blank where it lies beside this review's runs."""
    runs = board.counted(cell.rig, cell.case)
    moments = sorted(at for run in runs if (at := moment_of(run.taken_at)))
    if not moments:
        return UNDATED
    at = moments[len(moments) // 2]
    if now is not None and now[0] - NEAR <= at <= now[1] + NEAR:
        return ""
    return f"{at:%Y-%m}"
