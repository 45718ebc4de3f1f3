"""The one door by which runs come into a logbook: measured, observed, their traces kept."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

from blunt_ruler.core.records.edits import Edit
from blunt_ruler.core.records.records import Contents, Review, Trace
from blunt_ruler.core.runs.import_runs import Arrival, seen_in, take_in
from blunt_ruler.logbook.store import Logbook

Arrivals = Sequence[tuple[Arrival, Trace | None]]


def keep_trace(book: Logbook, arrival: Arrival, trace: Trace | None) -> Arrival:
    """An arrival with its trace stored, and with what its trace says: figures and summary."""
    if trace is None:
        return arrival
    figures, observed = seen_in(trace, arrival.origin.file or "trace")
    return replace(arrival, trace_sha256=book.add_trace(trace), observed=observed, figures=figures)


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
    placed = [keep_trace(book, arrival, trace) for arrival, trace in arrivals]
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
