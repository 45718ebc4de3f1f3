"""Where the model itself is wrong: cells whose pattern of residuals has a name.

The model knows a card, a CPU and a link. A card whose memory overflows, a cap, a title that lowers
its own resolution and one slow core are none of these. Each is told by what the cells around it do:
they fit, this one does not. Such a cell teaches the fit nothing, and no share and no prediction is
made of it.
"""

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import TypeVar

import numpy as np

from blunt_ruler.core.board.board import Board
from blunt_ruler.core.limits.cells import Cell
from blunt_ruler.core.limits.fit import Fit
from blunt_ruler.core.measure.held_rates import held_rates
from blunt_ruler.core.measure.telemetry import Gauge
from blunt_ruler.core.once import Handover
from blunt_ruler.core.records.records import Case, Contents
from blunt_ruler.core.text import amount, percent_text

SLOWER = 0.06  # log rate under the fit from which on a cell is looked at
BEYOND = 4.0  # and so many of the residuals' own spread
FULL = 0.96  # of a card's memory: it is in use, and more was wanted
WIDER, LEVEL = 1.5, 1.06  # times as many pixels, and rates that do not answer to them
AT_WORK = 93.0  # per cent of the time: the card waits for nothing
APART = 1.1  # paces of two cards that no CPU holds both at


class Kind(StrEnum):
    """What the model does not know."""

    MEMORY = "memory"
    CAP = "cap"
    RESOLUTION = "own size"
    CORE = "one core"


@dataclass(frozen=True, slots=True)
class Misfit:
    """A cell that no share and no prediction is made of: what it looks like, and why."""

    rig: str
    case: str
    kind: Kind
    why: str


Withheld = dict[tuple[str, str], Misfit]
"""Misfits by rig and case."""


def misfits(
    fit: Fit, contents: Contents, board: Board, handover: Handover | None = None
) -> Withheld:
    """The cells of a fit that follow a pattern the model does not know."""
    found: Withheld = {}
    look = _Look(fit, contents, board, handover or Handover())
    for rule in (_capped, _overflowing, _scaling_itself, _slow_core):
        for one in rule(look):
            found.setdefault((one.rig, one.case), one)
    return found


class _Look:
    """A fit with what its cells are off by, and how far that is out of the ordinary."""

    def __init__(self, fit: Fit, contents: Contents, board: Board, handover: Handover) -> None:
        self.fit, self.contents, self.board, self._handover = fit, contents, board, handover
        self.cells = fit.measured.cells
        self.off = fit.residuals
        usual = float(np.median(np.abs(self.off))) * 1.4826
        self.limit = max(SLOWER, BEYOND * usual)
        self.fits = max(SLOWER / 2.0, 3.0 * usual)
        # Cells that are slower than all else says, out of the ordinary.
        out = np.flatnonzero(self.off < -self.limit).tolist()
        self.slow = tuple((index, self.cells[index]) for index in out)

    def case(self, cell: Cell) -> Case:
        return self.contents.cases[cell.case]

    def reading(self, cell: Cell, gauge: Gauge) -> float | None:
        """The mean of a gauge over the runs of a cell; None where nobody read it."""
        runs = self.board.runs.get((cell.rig, cell.case), ())
        past = frozenset(run.id for run in runs if run.id in self.board.past)
        place = ("reading", cell.rig, cell.case, gauge)
        return self._handover.of(place, (runs, past), lambda: self._read(cell, gauge))

    def _read(self, cell: Cell, gauge: Gauge) -> float | None:
        runs = self.board.counted(cell.rig, cell.case)
        values = [value for run in runs if (value := run.reading(gauge)) is not None]
        return sum(values) / len(values) if values else None

    def readings(self, places: Sequence[int], gauge: Gauge) -> list[float]:
        """What was read of a gauge in some cells."""
        found = (self.reading(self.cells[at], gauge) for at in places)
        return [value for value in found if value is not None]

    def short(self, index: int) -> str:
        """How far a cell lies under the fit, in words."""
        return percent_text(1.0 - float(np.exp(self.off[index])))


One = TypeVar("One")


def _grouped(every: Iterable[One], key: Callable[[One], str]) -> dict[str, list[One]]:
    groups: dict[str, list[One]] = {}
    for one in every:
        groups.setdefault(key(one), []).append(one)
    return groups


def _capped(look: _Look) -> Iterator[Misfit]:
    """A rate on a refresh step, where the fit has more and another cell stands there too."""
    held: dict[tuple[str, str], str] = {}
    slow = {cell.rig for _, cell in look.slow}
    own_cells = (cell for cell in look.cells if cell.rig in slow)
    for rig, own in _grouped(own_cells, key=lambda cell: cell.rig).items():
        labels = {look.contents.case_label(cell.case): cell for cell in own}
        found = held_rates({label: (cell.average_fps,) for label, cell in labels.items()})
        held |= {(rig, labels[label].case): f"{one.step:g}" for label, one in found.items()}
    for index, cell in look.slow:
        step = held.get((cell.rig, cell.case))
        if step is not None:
            why = f"it sits on {step} where the other cells allow {look.short(index)} more: a cap"
            yield Misfit(cell.rig, cell.case, Kind.CAP, why)


def _overflowing(look: _Look) -> Iterator[Misfit]:
    """Slow on a card whose memory is full, or is less than a larger card holds of the same case;
    or, where nobody read it, at a preset above one that fits, while larger cards fit both.
    """
    cards = look.contents.cards
    for index, cell in look.slow:
        vram = cards[cell.card].vram_gb
        if vram is None:
            continue
        larger = [
            (at, other)
            for at, other in enumerate(look.cells)
            if other.case == cell.case
            and other.card != cell.card
            and (cards[other.card].vram_gb or 0.0) > vram
            and abs(look.off[at]) < look.fits
        ]
        own = look.reading(cell, Gauge.CARD_MEMORY)
        wanted = max(
            (look.reading(other, Gauge.CARD_MEMORY) or 0.0 for _, other in larger), default=0.0
        )
        size = amount(vram, "GB")
        if wanted > vram:
            why = (
                f"the case takes {amount(round(wanted, 1), 'GB')} on a larger card, this has {size}"
            )
        elif own is not None and own >= FULL * vram:
            why = (
                f"all {size} of the card are in use, and it is {look.short(index)} slower than fits"
            )
        elif own is None and larger and _lower_preset_fits(look, cell):
            why = f"a lower preset and a larger card fit, with {size} this one does not"
        else:
            continue
        yield Misfit(cell.rig, cell.case, Kind.MEMORY, f"{why}: the memory overflows")


def _lower_preset_fits(look: _Look, cell: Cell) -> bool:
    """Whether a lighter preset, in the title's own order from slow to fast, fits on the rig."""
    case = look.case(cell)
    order = list(look.contents.titles[case.title_id].presets)
    if case.preset not in order:
        return False
    lower = set(order[order.index(case.preset) + 1 :])
    return any(
        other.rig == cell.rig
        and look.case(other).title_id == case.title_id
        and look.case(other).preset in lower
        and look.case(other).resolution == case.resolution
        and abs(look.off[at]) < look.fits
        for at, other in enumerate(look.cells)
    )


def _scaling_itself(look: _Look) -> Iterator[Misfit]:
    """A title that more pixels do not slow although the card is at work all the time; or, where
    nobody read that, one that each of two cards on one host holds at a pace of its own.
    """
    for own in _grouped(enumerate(look.cells), key=lambda pair: pair[1].family).values():
        paces: dict[str, dict[str, float]] = {}
        at_work = False
        for of_rig in _grouped(own, key=lambda pair: pair[1].rig).values():
            largest, pace = _flat(of_rig)
            if largest is None:
                continue
            cell = look.cells[largest]
            paces.setdefault(cell.host, {})[cell.card] = pace
            at_work |= (look.reading(cell, Gauge.CARD_BUSY) or 0.0) >= AT_WORK
        apart = any(max(of.values()) > APART * min(of.values()) for of in paces.values())
        unread = apart and not look.readings([at for at, _ in own], Gauge.CARD_BUSY)
        if not (at_work or unread):
            continue
        for _, cell in own:
            why = (
                "the card sets its pace and more pixels do not slow it: the title lowers its own "
                "resolution"
            )
            yield Misfit(cell.rig, cell.case, Kind.RESOLUTION, why)


def _flat(own: list[tuple[int, Cell]]) -> tuple[int | None, float]:
    """(place of the largest of some cells of one rig, its rate) where pixels do not matter to
    them; None where they do, or where there are too few sizes to tell.
    """
    by_size = sorted(own, key=lambda pair: pair[1].megapixels)
    (_, small), (at, large) = by_size[0], by_size[-1]
    rates = [cell.average_fps for _, cell in own]
    if large.megapixels < WIDER * small.megapixels or max(rates) > LEVEL * min(rates):
        return None, 0.0
    return at, large.average_fps


def _slow_core(look: _Look) -> Iterator[Misfit]:
    """A title that is slow in every cell of one host alone, with one core at its end if read."""
    slow = dict(look.slow)
    groups: dict[tuple[str, str], list[int]] = {}
    for at, cell in enumerate(look.cells):
        groups.setdefault((cell.family, cell.host), []).append(at)
    for (family, host), own in groups.items():
        bad = [at for at in own if at in slow]
        if len(bad) < 2 or len(bad) < len(own) / 2:
            continue
        elsewhere = [
            at for (f, h), ats in groups.items() if f == family and h != host for at in ats
        ]
        others = [at for (f, h), ats in groups.items() if f != family and h == host for at in ats]
        if not elsewhere or not others:
            continue
        if np.median(np.abs(look.off[elsewhere])) > look.fits:
            continue
        if np.median(np.abs(look.off[others])) > look.fits:
            continue
        cores = look.readings(bad, Gauge.CPU_CORE)
        if cores and max(cores) < 85.0:
            continue
        for at in bad:
            cell = look.cells[at]
            why = (
                f"{look.short(at)} slower than fits, in this title and on this host alone: one "
                "slow core holds it"
            )
            yield Misfit(cell.rig, cell.case, Kind.CORE, why)
