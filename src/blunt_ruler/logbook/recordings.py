"""Runs read from recordings come into a logbook with their series and their pictures."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from blunt_ruler.core.records.edits import Edit
from blunt_ruler.core.records.records import Contents, Review, Trace
from blunt_ruler.core.runs.import_runs import Arrival, take_in
from blunt_ruler.core.text import count_text
from blunt_ruler.logbook.store import Logbook


@dataclass(frozen=True, slots=True)
class ArrivingPass:
    """A pass on its way in, the series of its readings, and a picture of its boxes (PNG); what was
    read off a single picture has no series.
    """

    arrival: Arrival
    series: Trace | None
    pictures: bytes | None = None


def bring_in_passes(
    book: Logbook,
    contents: Contents,
    review: Review | None,
    passes: Sequence[ArrivingPass],
    new_id: Callable[[], str],
) -> Edit:
    """Store what stands behind some passes, and give the one edit that takes them in."""
    placed = []
    for one in passes:
        read = one.arrival.recording
        assert read is not None
        kept = read.model_copy(
            update={
                "series_sha256": None if one.series is None else book.add_trace(one.series),
                "pictures_sha256": None if one.pictures is None else book.add_picture(one.pictures),
            }
        )
        placed.append(replace(one.arrival, recording=kept))
    records, _ = take_in(contents, review, placed, new_id)
    name = placed[0].origin.file
    return Edit(f"read {count_text(len(placed), 'run')} from {name}"[:200], records)
