"""The one door by which runs come into a logbook: measured, observed, their traces kept."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

from blunt_ruler.core.records.edits import Edit
from blunt_ruler.core.records.records import Contents, Review, Trace
from blunt_ruler.core.runs.import_runs import Arrival, seen_in, take_in
from blunt_ruler.logbook.store import Logbook
from blunt_ruler.logbook.traces import Packed, packed
from blunt_ruler.processes import spread_out

Arrivals = Sequence[tuple[Arrival, Trace | Packed | None]]
"""Runs on their way in with their traces, packed where that was done where they were read."""


def ready(arriving: tuple[Arrival, Trace | Packed | None]) -> tuple[Arrival, Packed | None]:
    """An arrival with what its trace shows, figures and summary, and the trace as it is stored.
    What takes long of an import, and touches no logbook.
    """
    arrival, trace = arriving
    if not isinstance(trace, Trace):
        return arrival, trace
    if arrival.figures is None or arrival.observed is None:
        figures, observed = seen_in(trace, arrival.origin.file or "trace")
        arrival = replace(arrival, figures=figures, observed=observed)
    return arrival, packed(trace)


def keep_trace(book: Logbook, arrival: Arrival, trace: Trace | Packed | None) -> Arrival:
    """An arrival with its trace stored, and with what its trace says: figures and summary."""
    arrival, done = ready((arrival, trace))
    return arrival if done is None else replace(arrival, trace_sha256=book.add_packed(done))


def bring_in(
    book: Logbook,
    contents: Contents,
    review: Review | None,
    arrivals: Arrivals,
    new_id: Callable[[], str],
    confirmed: Mapping[str, str] | None = None,
) -> Edit:
    """Store the traces of some runs and give the edit that takes them into a review.

    `confirmed` maps log headers to the mapping (JSON) confirmed for them.
    """
    for header, body in (confirmed or {}).items():
        book.remember_mapping(header, body)
    # Many are made ready on all cores, and each is stored as it comes back.
    is_ready = not any(isinstance(trace, Trace) for _, trace in arrivals)
    coming = arrivals if is_ready else spread_out(ready, arrivals)
    placed = [keep_trace(book, arrival, trace) for arrival, trace in coming]
    records, _ = take_in(contents, review, placed, new_id)
    return Edit(_label(placed), records)


def _label(placed: Sequence[Arrival]) -> str:
    """An import's name in the journal."""
    if len(placed) != 1:
        return f"import {len(placed)} runs"
    origin = placed[0].origin
    if origin.kind == "log" and origin.file:
        return f"import {origin.file}"
    return f"take a {origin.kind} run of {placed[0].case.label}"
