"""The one door by which runs come into a logbook: measured, observed, their traces kept."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

from blunt_ruler.core.measure.frames import FrameFigures
from blunt_ruler.core.measure.trace_summary import Observed
from blunt_ruler.core.records.edits import Edit
from blunt_ruler.core.records.records import Contents, Review, Trace
from blunt_ruler.core.runs.import_runs import Arrival, seen_in, take_in
from blunt_ruler.logbook.store import Logbook
from blunt_ruler.processes import spread_out

Arrivals = Sequence[tuple[Arrival, Trace | None]]


def keep_trace(book: Logbook, arrival: Arrival, trace: Trace | None) -> Arrival:
    """An arrival with its trace stored, and with what its trace says: figures and summary."""
    return _kept(book, arrival, trace, _seen((arrival, trace)))


Seen = tuple[FrameFigures, Observed] | None


def _seen(arriving: tuple[Arrival, Trace | None]) -> Seen:
    arrival, trace = arriving
    if arrival.figures is not None and arrival.observed is not None:
        return arrival.figures, arrival.observed
    return None if trace is None else seen_in(trace, arrival.origin.file or "trace")


def _kept(book: Logbook, arrival: Arrival, trace: Trace | None, seen: Seen) -> Arrival:
    if trace is None or seen is None:
        return arrival
    figures, observed = seen
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
    # What many traces show is worked out on all cores, and each is stored as it comes back.
    is_seen = all(arrival.observed is not None for arrival, trace in arrivals if trace is not None)
    seen = map(_seen, arrivals) if is_seen else spread_out(_seen, arrivals)
    placed = [
        _kept(book, arrival, trace, one)
        for (arrival, trace), one in zip(arrivals, seen, strict=True)
    ]
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
