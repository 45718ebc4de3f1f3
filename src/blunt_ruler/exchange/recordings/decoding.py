"""Decode a recording picture by picture, with PyAV, which is imported where it is used.

What comes out is small: a few crops in colour, or every fourth point of the brightness. Times are
the pictures' own, so that a recording of varying rate is no special case.
"""

from collections import deque
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.types import ByteArray

ENDINGS = (".mp4", ".mkv", ".webm", ".mov")
# A file may name others, and places in the network, in formats that are lists: none is followed.
SAFE = {
    "protocol_whitelist": "file",
    "format_whitelist": "mov,mp4,m4a,3gp,3g2,mj2,matroska,webm",
}
STEP = 4  # every fourth point of the brightness is enough to see whether a picture is new
LARGEST = 8192  # pixels of a side
LOOKED_AT = 12  # pictures that tell the rate where the file does not
WHAT_TO_INSTALL = "Reading recordings needs more packages: pip install 'blunt-ruler[recording]'"


class BadRecording(UserFixable):
    """A file from which no picture can be had."""


@dataclass(frozen=True, slots=True)
class RecordingFacts:
    """What a recording says of itself, its sides as one looks at it."""

    path: Path
    width: int
    height: int
    fps: float
    duration_s: float
    turned: int = 0  # degrees by which its pictures are turned for showing


def is_recording(path: Path) -> bool:
    """Whether a file is one of those that hold recordings, by its ending."""
    return path.suffix.lower() in ENDINGS


@contextmanager
def _opened(path: Path) -> Iterator[tuple[Any, Any]]:
    """A container and its pictures; BadRecording says what is wrong with the file."""
    try:
        import av
        from av.error import FFmpegError
    except ImportError as error:
        raise BadRecording(path.name, "it cannot be read here", WHAT_TO_INSTALL) from error
    if not path.is_file():
        raise BadRecording(path.name, "there is no such file", "Check the name")
    if not path.stat().st_size:
        raise BadRecording(path.name, "it is empty", "Record again, or copy it again")
    try:
        with av.open(str(path), options=dict(SAFE)) as container:
            if not container.streams.video:
                raise BadRecording(
                    path.name, "it holds no pictures", "Choose a recording of the screen"
                )
            stream = container.streams.video[0]
            stream.thread_type = "AUTO"
            if not 0 < stream.width <= LARGEST or not 0 < stream.height <= LARGEST:
                raise BadRecording(
                    path.name,
                    f"its pictures are {stream.width} × {stream.height} points",
                    f"Sides of up to {LARGEST} can be read",
                )
            yield container, stream
    except FFmpegError as error:
        raise BadRecording(
            path.name,
            f"it cannot be decoded ({str(error.strerror or error).lower()[:80]})",
            "It may be damaged, protected or no recording; save it as MP4",
        ) from error


def facts_of(path: Path) -> RecordingFacts:
    """Size, rate and length of a recording; BadRecording where it cannot be read."""
    with _opened(path) as (container, stream):
        times: list[float] = []
        turned = 0
        for frame in container.decode(stream):
            turned = int(getattr(frame, "rotation", 0) or 0) % 360
            times.append(float(frame.time or 0.0))
            if len(times) == LOOKED_AT:
                break
        if not times:
            raise BadRecording(path.name, "no picture of it can be decoded", "Record it again")
        steps = np.diff(times)
        fps = 1.0 / float(np.median(steps)) if steps.size and np.median(steps) > 0 else 0.0
        if stream.average_rate and 0.5 < float(stream.average_rate) < 2000:
            fps = float(stream.average_rate)
        if stream.duration is not None and stream.time_base is not None:
            seconds = float(stream.duration * stream.time_base)
        else:
            seconds = (container.duration or 0) / 1e6
        width, height = stream.width, stream.height
        if turned in (90, 270):
            width, height = height, width
        return RecordingFacts(path, width, height, fps, seconds, turned)


class Picture:
    """One decoded picture: its moment in s, brightness and colour where they are asked for."""

    __slots__ = ("_colour", "_frame", "_turned", "at_s")

    def __init__(self, frame: Any, turned: int) -> None:
        self.at_s = float(frame.time)
        self._frame = frame
        self._turned = turned
        self._colour: ByteArray | None = None

    def brightness(self) -> ByteArray:
        """Every fourth point of every fourth line, shape (height / 4, width / 4), as decoded."""
        frame = self._frame
        if not frame.format.name.startswith(("yuv", "nv12", "gray")) or "p1" in frame.format.name:
            frame = frame.reformat(format="gray")
        plane = frame.planes[0]
        whole = np.frombuffer(plane, np.uint8)[: plane.line_size * frame.height]
        rows = whole.reshape(frame.height, plane.line_size)[:, : frame.width]
        return np.ascontiguousarray(rows[STEP // 2 :: STEP, STEP // 2 :: STEP])

    def colour(self) -> ByteArray:
        """The whole picture as one looks at it, shape (height, width, 3), red first."""
        if self._colour is None:
            found = self._frame.to_ndarray(format="rgb24")
            if self._turned:
                found = np.ascontiguousarray(np.rot90(found, self._turned // 90))
            self._colour = found
        return self._colour

    def crop(self, x: int, y: int, w: int, h: int) -> ByteArray:
        """A part of it, shape (h, w, 3), red first; cut off at the edges."""
        return self.colour()[max(y, 0) : max(y + h, 0), max(x, 0) : max(x + w, 0)].copy()


def pictures(
    facts: RecordingFacts, from_s: float = 0.0, to_s: float | None = None
) -> Iterator[Picture]:
    """The pictures from one moment to another, in their order.

    A recording that ends early or is damaged inside gives those that can be decoded.
    """
    from av.error import FFmpegError

    with _opened(facts.path) as (container, stream):
        if from_s > 0:
            container.seek(int(from_s / stream.time_base), stream=stream)
        last_s = -1.0
        try:
            for frame in container.decode(stream):
                if frame.time is None or frame.time <= last_s or frame.time < from_s - 1e-6:
                    continue
                if to_s is not None and frame.time >= to_s - 1e-6:
                    return
                last_s = float(frame.time)
                yield Picture(frame, facts.turned)
        except FFmpegError:
            if last_s < 0:
                raise


def moments(from_s: float, to_s: float, count: int) -> list[float]:
    """The middles of so many equal parts of a stretch."""
    return [from_s + (to_s - from_s) * (at + 0.5) / count for at in range(count)]


def pictures_near(
    facts: RecordingFacts, wanted: Sequence[float], from_s: float = 0.0
) -> Iterator[Picture]:
    """A picture for each of some moments, in their order, that is quickly had: the key picture
    before it, from which decoding begins; the one at the moment where that was given already, or
    stands before `from_s`.
    """
    last_s = -1.0
    for moment in wanted:
        picture = _key_picture(facts, moment)
        if picture is None or picture.at_s <= last_s or picture.at_s < from_s:
            picture = picture_at(facts, moment)
        last_s = picture.at_s
        yield picture


def _key_picture(facts: RecordingFacts, second: float) -> Picture | None:
    """The last picture before a moment that is decoded without others; None where none can be."""
    from av.error import FFmpegError

    with _opened(facts.path) as (container, stream):
        try:
            container.seek(int(second / stream.time_base), stream=stream)
            frame = next(container.decode(stream), None)
        except FFmpegError:
            return None
        known = frame is not None and frame.time is not None and frame.time <= second
        return Picture(frame, facts.turned) if known else None


def picture_at(facts: RecordingFacts, second: float) -> Picture:
    """The picture that stands at a moment; the last one for a moment after the end."""
    found = None
    for picture in pictures(facts, max(second - 2.0 / max(facts.fps, 1.0), 0.0)):
        if picture.at_s > second + 1e-6 and found is not None:
            break
        found = picture
        if picture.at_s > second + 1e-6:
            break
    if found is None:
        last = deque(pictures(facts, max(facts.duration_s - 5.0, 0.0)), maxlen=1)
        found = last.pop() if last else None
    if found is None:
        raise BadRecording(
            facts.path.name, f"there is no picture at {second:.2f} s", "Choose an earlier moment"
        )
    return found
