"""Every check, with what it is shown: a scope says when its turn comes.

Scopes follow one another in the order below; after each, runs with a blocking finding leave the
sound ones. What the scene itself can make is weighed after the first (see sharing). Inside a
scope no check knows of another, so their order means nothing.
"""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from enum import IntEnum
from typing import Any, TypeVar

from blunt_ruler.core.checks.consensus import Expected
from blunt_ruler.core.checks.findings import Finding, RunFacts
from blunt_ruler.core.checks.told import Cells, Told
from blunt_ruler.core.once import Cell, Handover
from blunt_ruler.core.records.records import Contents, Run
from blunt_ruler.core.records.thresholds import Thresholds

Value = TypeVar("Value")


class Scope(IntEnum):
    """What a check is shown."""

    RUN = 1  # one run alone: RunFacts, Thresholds
    SLIP = 2  # a cell's unexplained runs beside its sound ones, for plain faults: Repeats
    COURSE = 3  # the same, for passes that leave the course of the others: Repeats
    REPEATS = 4  # the same, for odd repeats that nothing explains: Repeats
    TRACES = 5  # all runs, sound or not: AllRuns
    REVIEW = 6  # sound runs across rigs, cases and days: AllRuns


@dataclass(frozen=True, slots=True)
class Repeats:
    """One cell: runs that nothing has explained yet, and its sound ones."""

    runs: Sequence[RunFacts]
    sound: Sequence[RunFacts]
    spread: float  # run-to-run, of the title
    thresholds: Thresholds
    expected: Callable[[], Expected | None] = lambda: None  # by the plan's other cells


@dataclass(frozen=True, slots=True)
class AllRuns:
    """All runs that are checked, as they were added, and what is told of them so far; `contents`
    is None for loose logs.
    """

    contents: Contents | None
    runs: Sequence[Run]
    told: Told
    spreads: Mapping[str, float]  # by title
    thresholds: Thresholds
    handover: Handover

    @property
    def sound(self) -> Cells:
        """Kept runs that nothing blocks, by cell."""
        return self.told.sound

    @property
    def of_rig(self) -> dict[str, list[Sequence[RunFacts]]]:
        """The sound cells of each rig."""
        found: dict[str, list[Sequence[RunFacts]]] = {}
        for (rig_id, _), repeats in self.sound.items():
            found.setdefault(rig_id, []).append(repeats)
        return found

    def in_cells(self, what: str, find: Callable[[Sequence[RunFacts]], Value]) -> dict[Cell, Value]:
        """What is found in the sound runs of every cell by themselves."""
        sound = self.sound
        reads = {cell: (repeats,) for cell, repeats in sound.items()}
        return self.handover.of_cells((what,), reads, lambda cell: find(sound[cell]))

    @property
    def described(self) -> Contents:
        """What is described of rigs and cases; only a logbook has it."""
        assert self.contents is not None
        return self.contents


Find = TypeVar("Find", bound=Callable[..., Iterator[Finding]])
CHECKS: dict[Scope, list[Callable[..., Iterator[Finding]]]] = {scope: [] for scope in Scope}


def check(scope: Scope) -> Callable[[Find], Find]:
    """Register a check under its scope."""

    def register(find: Find) -> Find:
        CHECKS[scope].append(find)
        return find

    return register


def found_by(scope: Scope, *shown: Any) -> Iterator[Finding]:
    """What all checks of a scope find in what they are shown."""
    for find in CHECKS[scope]:
        yield from find(*shown)
