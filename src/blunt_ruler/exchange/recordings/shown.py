"""Pictures of a recording as a window shows them, decoded in a process with limits that stays at
hand for the next.
"""

from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple, TypeVar

from blunt_ruler.exchange.recordings.decoding import (
    BadRecording,
    RecordingFacts,
    facts_of,
    picture_at,
)
from blunt_ruler.limited import OverLimit, Undecodable, limited

MEMORY_MB = 1_500

Result = TypeVar("Result")


class ShownPicture(NamedTuple):
    """A picture, its moment in s, its size, and its points: three bytes each, red first."""

    at_s: float
    width: int
    height: int
    points: bytes


def facts_apart(path: Path) -> RecordingFacts:
    """What a recording says of itself; BadRecording where it cannot be read."""
    return _apart(path, facts_of, path)


def picture_apart(facts: RecordingFacts, second: float) -> ShownPicture:
    """The picture that stands at a moment."""
    return _apart(facts.path, _shown, facts, second)


def _shown(facts: RecordingFacts, second: float) -> ShownPicture:
    picture = picture_at(facts, second)
    points = picture.colour()
    return ShownPicture(picture.at_s, points.shape[1], points.shape[0], points.tobytes())


def _apart(path: Path, work: Callable[..., Result], *arguments: object) -> Result:
    try:
        return limited(
            work, *arguments, module=facts_of.__module__, memory_mb=MEMORY_MB, shared=True
        )
    except (OverLimit, Undecodable) as error:
        raise BadRecording(
            path.name, f"it cannot be decoded ({error})", "Save it again, as MP4"
        ) from None
