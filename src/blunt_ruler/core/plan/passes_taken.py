"""What a plan reads of the runs there are, by cell: an edit has only its own cell read anew."""

from collections.abc import Mapping
from typing import NamedTuple

from blunt_ruler.core.once import Cell, Handover
from blunt_ruler.core.records.records import Contents, Run
from blunt_ruler.core.runs.changes import counts, superseded


class Timed(NamedTuple):
    """When a run was taken, as it says, and how long its trace is."""

    taken_at: str
    duration_s: float


class Passes(NamedTuple):
    """The runs of a cell: how many figures are made of, their rates, and how long all took."""

    kept: int
    rates: tuple[float, ...]
    timed: tuple[Timed, ...]


def passes_taken(contents: Contents, handover: Handover | None = None) -> Mapping[Cell, Passes]:
    """The passes of every cell that has runs."""
    handover = handover or Handover()
    reads = contents.runs, contents.changes, contents.rigs
    return handover.of(("passes taken",), reads, lambda: _passes_taken(contents, handover))


def _passes_taken(contents: Contents, handover: Handover) -> Mapping[Cell, Passes]:
    past = superseded(contents, handover)
    reads = {}
    for cell, runs in contents.by_cell.items():
        gone = frozenset(run.id for run in runs if run.id in past) if past else frozenset[str]()
        reads[cell] = runs, gone
    return handover.of_cells(("passes",), reads, lambda cell: _passes(*reads[cell]))


def _passes(runs: tuple[Run, ...], gone: frozenset[str]) -> Passes:
    kept = [run for run in runs if counts(run, gone)]
    return Passes(
        len(kept),
        tuple(run.average_fps for run in kept if run.average_fps),
        tuple(
            Timed(run.taken_at, figures.duration_s)
            for run in runs
            if (figures := run.figures) is not None
        ),
    )
