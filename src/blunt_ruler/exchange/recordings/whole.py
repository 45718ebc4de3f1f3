"""A recording from end to end: boxes found or given, read, counted, and cut into passes.

Plain functions for the process that reads.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

import numpy as np

from blunt_ruler.core.recordings.cuts import Stretch, stretches
from blunt_ruler.core.recordings.passes import ReadPass, pass_of
from blunt_ruler.core.recordings.pictures import CannotCount, Counted, count_pictures
from blunt_ruler.core.recordings.quantities import Box, each_once
from blunt_ruler.core.records.records import Role, Trace
from blunt_ruler.core.runs.import_runs import Arrival, CaseName
from blunt_ruler.core.runs.read_runs import Source, arrival_of_pass
from blunt_ruler.core.types import Progress, no_progress
from blunt_ruler.exchange.recordings.decoding import RecordingFacts, facts_of
from blunt_ruler.exchange.recordings.evidence import pictures_of_each
from blunt_ruler.exchange.recordings.reading import Read, fits, found_boxes, read_recording
from blunt_ruler.files import sha256_of


@dataclass(frozen=True, slots=True)
class Asked:
    """What to do with a recording.

    Attributes:
        boxes: None to look for them.
        spans: passes, from and to in s; none for one from end to end.
        cut: propose passes from the pictures, where no spans are given.
    """

    boxes: tuple[Box, ...] | None = None
    spans: tuple[tuple[float, float], ...] = ()
    count: bool = False
    cut: bool = False
    keep_pictures: bool = False


@dataclass(frozen=True, slots=True)
class WholeReading:
    """What came of it; `why_not_counted` where pictures could not be counted."""

    facts: RecordingFacts
    sha256: str
    read: Read
    passes: tuple[ReadPass, ...]
    stretches: tuple[Stretch, ...] = ()
    counted: Counted | None = None
    why_not_counted: str = ""
    pictures: tuple[bytes, ...] = ()


def look_at(
    path: Path, known: Sequence[tuple[Box, ...]] = (), step: Progress = no_progress
) -> tuple[RecordingFacts, tuple[Box, ...], bool]:
    """What a recording says of itself, the boxes of its counters, and whether these are the ones
    of an overlay that is known.
    """
    facts = facts_of(path)
    recognised = next((boxes for boxes in known if fits(facts, boxes)), None)
    if recognised is not None:
        return facts, recognised, True
    return facts, found_boxes(facts, step=step), False


def read_whole(path: Path, asked: Asked, step: Progress = no_progress) -> WholeReading:
    """Read a recording as asked."""
    facts = facts_of(path)
    boxes = asked.boxes
    if boxes is None:
        boxes = found_boxes(facts, *_outer(asked.spans), step=_part(step, 0.0, 0.25))
    boxes = each_once([box.checked(facts.width, facts.height) for box in boxes])
    from_s, to_s = _outer(asked.spans)
    moving = asked.count or (asked.cut and not asked.spans)
    start = 0.0 if asked.boxes is not None else 0.25
    read = read_recording(facts, boxes, from_s, to_s, moving=moving, step=_part(step, start, 0.95))
    shown: tuple[Stretch, ...] = ()
    if read.motion is not None:
        motion = read.motion
        shown = stretches(motion.at_s, motion.bands, motion.thumbs, to_s or facts.duration_s)
    spans = asked.spans or _passes_among(shown, asked.cut) or ((0.0, facts.duration_s),)
    counted, why = _counted(read, facts, spans) if asked.count else (None, "")
    passes = tuple(pass_of(read.series, counted, *span) for span in spans)
    pictures: tuple[bytes, ...] = ()
    if asked.keep_pictures and read.boxes:
        pictures = pictures_of_each(facts, read.boxes, spans, _part(step, 0.95, 1.0))
    return WholeReading(facts, sha256_of(path), read, passes, shown, counted, why, pictures)


def _outer(spans: Sequence[tuple[float, float]]) -> tuple[float, float | None]:
    if not spans:
        return 0.0, None
    return min(span[0] for span in spans), max(span[1] for span in spans)


def _passes_among(shown: Sequence[Stretch], cut: bool) -> tuple[tuple[float, float], ...]:
    return tuple((one.from_s, one.to_s) for one in shown if one.what == "pass") if cut else ()


def _counted(
    read: Read, facts: RecordingFacts, spans: Sequence[tuple[float, float]]
) -> tuple[Counted | None, str]:
    """The pictures of the passes, counted; or why they cannot be."""
    motion = read.motion
    assert motion is not None
    inside = np.zeros(motion.at_s.size, dtype=bool)
    for first, last in spans:
        inside |= (motion.at_s >= first) & (motion.at_s < last)
    at_s = motion.at_s[inside]
    # Where a recorder leaves out repeats, its rate is that of its shortest steps.
    steps = np.diff(at_s)
    fps = max(facts.fps, 1.0 / float(np.quantile(steps, 0.05))) if steps.size else facts.fps
    try:
        return count_pictures(at_s, motion.bands[inside], fps), ""
    except CannotCount as error:
        return None, f"{error.what}. {error.fix}"


def _part(step: Progress, first: float, last: float) -> Progress:
    """Progress of one part of the work as a part of the whole."""
    return lambda words, share: step(words, first + (last - first) * share)


def arriving_passes(
    path: Path,
    found: WholeReading,
    places: Sequence[tuple[str, CaseName]],
    *,
    role: Role | None = None,
) -> list[tuple[Arrival, Trace, bytes | None]]:
    """Each pass as a run of its rig and case on its way in, its series, and its pictures;
    NothingRead where one has no rate.
    """
    facts = found.facts
    modified = datetime.fromtimestamp(path.stat().st_mtime, UTC).isoformat(timespec="seconds")
    source = Source(
        path.name, found.sha256, facts.width, facts.height, facts.fps, found.read.boxes, modified
    )
    pictures = found.pictures or (None,) * len(found.passes)
    return [
        (*arrival_of_pass(one, source, rig, case, role=role), picture)
        for one, picture, (rig, case) in zip(found.passes, pictures, places, strict=True)
    ]
