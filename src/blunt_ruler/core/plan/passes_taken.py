"""What a plan reads of the runs there are, by cell: an edit has only its own cell read anew."""

from collections.abc import Mapping
from functools import partial
from typing import NamedTuple

from blunt_ruler.core.kept import Kept
from blunt_ruler.core.records.by_cell import Cell, runs_by_cell
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


_PASSES: Kept[Passes] = Kept()
_BY_CELL: Kept[Mapping[Cell, Passes]] = Kept(8)


def passes_taken(contents: Contents) -> Mapping[Cell, Passes]:
    """The passes of every cell that has runs."""
    read = contents.runs, contents.changes, contents.rigs
    return _BY_CELL.of(read, lambda: _passes_taken(contents))


def _passes_taken(contents: Contents) -> Mapping[Cell, Passes]:
    past = superseded(contents)
    found = {}
    for cell, runs in runs_by_cell(contents).items():
        gone = frozenset(run.id for run in runs if run.id in past) if past else frozenset()
        found[cell] = _PASSES.of((runs,), partial(_passes, runs, gone), gone)
    return found


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
