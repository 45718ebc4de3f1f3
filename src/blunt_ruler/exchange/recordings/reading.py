"""Go through a recording once: read its boxes several times a second, and see which pictures are
new. Plain functions, so that a process of its own can run them.
"""

import math
import zlib
from array import array
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import groupby

import numpy as np

from blunt_ruler.core.recordings.found_boxes import Found, boxes_of
from blunt_ruler.core.recordings.quantities import RATES, Box, Quantity, figure_in
from blunt_ruler.core.recordings.second_look import (
    Doubt,
    looked_at_twice,
    stood_out,
    to_look_at_closely,
)
from blunt_ruler.core.recordings.series import Look, Series, series_of, usually
from blunt_ruler.core.types import ByteArray, FloatArray, IntArray, Progress, no_progress
from blunt_ruler.exchange.recordings.decoding import (
    STEP,
    Picture,
    RecordingFacts,
    moments,
    pictures,
    pictures_near,
)
from blunt_ruler.exchange.recordings.recognising import AT_ONCE, texts_in, texts_on

LOOKS_PER_S = 16.0  # at most; a counter is looked at as often as its figures change
BEGINS, SLOWEST = 2, 4  # one of so many looks is taken at first, and where figures stand long
TRIED = 8  # figures after which that is known
TRIED_WITHIN_S = 300.0  # else they are looked at as at first
SEEN = 4.0  # times that a figure should be seen while it stands
SAME = 0.6  # levels of brightness, on average, below which a crop is the one before
LOOKED_AT = 7  # pictures that are searched for counters
FITTED_ON = 5
TRIMS = ((0.0, 0.0), (0.12, 0.12), (0.22, 0.22), (0.3, 0.0), (0.0, 0.3), (-0.15, -0.15))
GAINED = 0.01  # of the score that another cut of a box must win
MOST_PICTURES = 16  # that are looked at for a figure in doubt
APART_S = 3.0  # between two of them, from which on a film is sought and not gone through
READ = 0.85  # of the work is done when every picture has gone by, about
WHOLE = 3  # of them as a whole; then only where counters stand
BANDS = 12  # of a picture, from top to bottom: what is torn differs in some
THUMB = (12, 20)


@dataclass(frozen=True, slots=True)
class Motion:
    """How each picture differs from the one before it.

    Attributes:
        at_s: when each picture was shown, shape (n,).
        bands: mean difference of brightness in each band, shape (n, BANDS); the first row is NaN.
        thumbs: a small picture of each, shape (n, 12, 20).
    """

    at_s: FloatArray
    bands: FloatArray
    thumbs: ByteArray


@dataclass(frozen=True, slots=True)
class Read:
    """What a recording gave: a series for each box, crops for what is asked about, and motion."""

    facts: RecordingFacts
    boxes: tuple[Box, ...]
    series: tuple[Series, ...]
    crops: tuple[dict[float, ByteArray], ...] = ()
    motion: Motion | None = None


@dataclass(frozen=True, slots=True)
class _Crops(Mapping[float, ByteArray]):
    """Crops by moment, each unpacked when it is asked for: an hour's would fill the memory."""

    packed: dict[float, bytes]
    shape: tuple[int, ...]

    def __getitem__(self, at_s: float) -> ByteArray:
        return np.frombuffer(zlib.decompress(self.packed[at_s]), np.uint8).reshape(self.shape)

    def __iter__(self) -> Iterator[float]:
        return iter(self.packed)

    def __len__(self) -> int:
        return len(self.packed)


@dataclass(slots=True)
class _Reader:
    """One box while a recording goes by."""

    box: Box
    every: int = BEGINS  # of the looks at the recording
    place: tuple[int, int, int, int] = (0, 0, 0, 0)  # x, y, w, h of what is read of the box
    looks: dict[float, Look] = field(default_factory=dict)
    kept: dict[float, bytes] = field(default_factory=dict)
    shape: tuple[int, ...] = ()
    last: ByteArray | None = None
    last_at: float = -1.0
    last_text: str = ""
    repeats: list[tuple[float, float]] = field(default_factory=list)  # (moment, of which it is)

    def stood(self, every_s: float) -> list[float]:
        """How long each figure stood so far, looks being `every_s` apart at most."""
        copies = [(at, self.looks[of].text) for at, of in self.repeats if of in self.looks]
        texts = sorted([*copies, *((at, look.text) for at, look in self.looks.items())])
        figures = [figure_in(text, self.box.quantity) for _, text in texts]
        told = (one for one in figures if one is not None)
        return [every_s * self.every * len([*same]) for _, same in groupby(told)]

    def same_as_last(self, crop: ByteArray) -> bool:
        if self.last is None or self.last.shape != crop.shape:
            return False
        return float(np.abs(crop.astype(np.int16) - self.last).mean()) < SAME

    def keep(self, at_s: float, crop: ByteArray, text: str, score: float) -> None:
        """Keep a crop where the text changes or is not clear: what may be asked about."""
        if text != self.last_text or score < 0.9:
            self.kept[at_s] = zlib.compress(crop.tobytes(), 1)
            self.shape = crop.shape
        self.last_text = text

    def crops(self) -> _Crops:
        return _Crops(self.kept, self.shape)


def read_recording(
    facts: RecordingFacts,
    boxes: Sequence[Box],
    from_s: float = 0.0,
    to_s: float | None = None,
    *,
    moving: bool = False,
    step: Progress = no_progress,
) -> Read:
    """Read some boxes between two moments; `moving` looks at every picture for what is new."""
    readers = [_Reader(box) for box in boxes if box.quantity is not Quantity.IGNORE]
    end_s = facts.duration_s if to_s is None else min(to_s, facts.duration_s)
    _fit(readers, facts, from_s, end_s)
    every = max(1.0 / LOOKS_PER_S, 1.0 / max(facts.fps, 1e-9))
    waiting: list[tuple[_Reader, float, ByteArray]] = []
    motion = _Motion(facts, boxes) if moving else None
    next_s, count = from_s, 0
    is_paced, tried_until_s = False, from_s + TRIED_WITHIN_S
    for picture in pictures(facts, from_s, to_s):
        if motion is not None:
            motion.take(picture.at_s, picture.brightness())
        if not readers or picture.at_s < next_s - 0.25 / max(facts.fps, 1.0):
            continue
        next_s = max(next_s + every, picture.at_s + 0.5 * every)
        for reader in readers:
            if count % reader.every:
                continue
            crop = picture.crop(*reader.place)
            if reader.same_as_last(crop):
                reader.repeats.append((picture.at_s, reader.last_at))
                continue
            reader.last, reader.last_at = crop, picture.at_s
            waiting.append((reader, picture.at_s, crop))
        count += 1
        if len(waiting) >= AT_ONCE:
            _recognise(waiting)
            is_paced = is_paced or picture.at_s > tried_until_s or _pace(readers, every)
            step("Reading", READ * min((picture.at_s - from_s) / max(end_s - from_s, 1e-9), 1.0))
    _recognise(waiting)
    series = []
    for number, reader in enumerate(readers):
        step("Comparing the figures", READ + 0.05 * number / len(readers))
        for at, of in reader.repeats:
            if of in reader.looks:
                first = reader.looks[of]
                reader.looks[at] = Look(at, first.text, first.score, first.centres)
        looks = [reader.looks[at] for at in sorted(reader.looks)]
        if looks:
            raw = series_of(looks, reader.box.quantity, every * reader.every)
            series.append(looked_at_twice(raw, reader.looks, reader.crops()))
        else:
            series.append(Series(reader.box.quantity, (), every * reader.every))
    series = _looked_at_closely(series, readers, facts, step)
    crops = [
        _of_the_asked(one, reader.crops()) for one, reader in zip(series, readers, strict=True)
    ]
    return Read(
        facts,
        tuple(reader.box for reader in readers),
        tuple(series),
        tuple(crops),
        None if motion is None else motion.told(),
    )


def _spread(facts: RecordingFacts, from_s: float, to_s: float) -> list[Picture]:
    """A few pictures spread evenly between two moments."""
    return list(pictures_near(facts, moments(from_s, to_s, FITTED_ON), from_s))


def _fit(readers: Sequence[_Reader], facts: RecordingFacts, from_s: float, to_s: float) -> None:
    """Choose for each box how much of its height is read: a box drawn with much room above and
    below, or too tight, is recognised worse. As in most of a few pictures; where the figures are
    clear as the box is drawn, no other cut is tried.
    """
    shown = _spread(facts, from_s, to_s) if readers else []
    for reader in readers:
        box = reader.box
        best = -1.0
        for top, bottom in TRIMS:
            y, end = box.y + round(top * box.h), box.y + box.h - round(bottom * box.h)
            y = max(y, 0)
            place = (box.x, y, box.w, max(min(end, facts.height) - y, 4))
            texts = texts_in([picture.crop(*place) for picture in shown])
            told = [one.score for one in texts if figure_in(one.text, box.quantity) is not None]
            if sum(told) > best + GAINED * FITTED_ON:
                best, reader.place = sum(told), place
            if len(told) > 0.5 * len(texts) and sum(told) > (1.0 - GAINED) * len(told):
                break


def _pace(readers: Sequence[_Reader], every_s: float) -> bool:
    """Look as often as the figures change, once that is known of some counter: the counters of an
    overlay are renewed together.
    """
    stood = [reader.stood(every_s) for reader in readers]
    if max(map(len, stood), default=0) < TRIED:
        return False
    known = [usually(one) for one in stood if len(one) >= TRIED // 2]
    wanted = max(min(known) / SEEN / every_s, 1.0)
    for reader in readers:
        slowest = BEGINS if reader.box.quantity in RATES else SLOWEST
        reader.every = max(one for one in (1, BEGINS, slowest) if one <= wanted)
    return True


def _recognise(waiting: list[tuple[_Reader, float, ByteArray]]) -> None:
    texts = texts_in([crop for _, _, crop in waiting])
    for (reader, at, crop), (text, score, centres) in zip(waiting, texts, strict=True):
        reader.looks[at] = Look(at, text, score, centres)
        reader.keep(at, crop, text, score)
    waiting.clear()


def _looked_at_closely(
    series: Sequence[Series],
    readers: Sequence[_Reader],
    facts: RecordingFacts,
    step: Progress,
) -> list[Series]:
    """The series without the doubts that every picture in which a figure stood dispels: looks are
    taken of a few pictures a second, and a film has more.
    """
    doubts = [
        (doubt, reader)
        for one, reader in zip(series, readers, strict=True)
        for doubt in to_look_at_closely(one)
    ]
    clear = set()
    for number, (at, crops) in enumerate(_crops_of(doubts, facts)):
        step("Looking at doubts again", READ + 0.05 + (0.95 - READ) * number / len(doubts))
        doubt, reader = doubts[at]
        if crops and _is_clear(doubt, crops, reader.box.quantity):
            clear.add((reader.box, doubt.held.from_s))
    return [
        replace(
            one,
            held=tuple(
                replace(held, doubt="") if (reader.box, held.from_s) in clear else held
                for held in one.held
            ),
        )
        for one, reader in zip(series, readers, strict=True)
    ]


def _crops_of(
    doubts: Sequence[tuple[Doubt, _Reader]], facts: RecordingFacts
) -> Iterator[tuple[int, list[ByteArray]]]:
    """For each figure in doubt, by its place, the crops of the pictures in which it stood, of
    `MOST_PICTURES` at most, as soon as it has gone by. Those near each other are gone through at
    once: a film is decoded from key to key picture.
    """
    spans = [(doubt.held.from_s, doubt.held.to_s) for doubt, _ in doubts]
    order = sorted(range(len(spans)), key=lambda at: spans[at])
    groups: list[list[int]] = []
    for at in order:
        if groups and spans[at][0] < max(spans[one][1] for one in groups[-1]) + APART_S:
            groups[-1].append(at)
        else:
            groups.append([at])
    for group in groups:
        end_s = max(spans[at][1] for at in group)
        found: dict[int, list[ByteArray]] = {at: [] for at in group}  # as they begin
        for count, picture in enumerate(pictures(facts, spans[group[0]][0], end_s)):
            gone = []
            for at, crops in found.items():
                first, end = spans[at]
                step = max(math.ceil((end - first) * facts.fps / MOST_PICTURES), 1)
                if picture.at_s < first:
                    break
                if picture.at_s >= end:
                    gone.append(at)
                elif count % step == 0:
                    crops.append(picture.crop(*doubts[at][1].place))
            for at in gone:
                yield at, found.pop(at)
        yield from found.items()


def _is_clear(doubt: Doubt, crops: Sequence[ByteArray], quantity: Quantity) -> bool:
    """Whether the pictures in which a figure stood, and their mean, dispel the doubt about it."""
    value = doubt.held.value
    reads = [figure_in(text.text, quantity) for text in texts_in(crops)]
    own = [crop for crop, read in zip(crops, reads, strict=True) if read == value] or list(crops)
    mean = np.asarray(np.stack(own).mean(axis=0).round(), dtype=np.uint8)
    (whole,) = texts_in([mean])
    return stood_out(doubt, reads, figure_in(whole.text, quantity), whole.score)


def _of_the_asked(series: Series, crops: Mapping[float, ByteArray]) -> dict[float, ByteArray]:
    """A crop for each figure that is asked about, by when it began."""
    found = {}
    for held in series.asked:
        inside = [at for at in crops if held.from_s - 1e-6 <= at < held.to_s - 1e-6]
        if inside:
            found[held.from_s] = crops[min(inside)]
    return found


def found_boxes(
    facts: RecordingFacts,
    from_s: float = 0.0,
    to_s: float | None = None,
    step: Progress = no_progress,
) -> tuple[Box, ...]:
    """Boxes proposed from pictures spread evenly between two moments."""
    end_s = facts.duration_s if to_s is None else to_s
    seen: list[list[Found]] = []
    where: tuple[int, int, int, int] | None = None
    step("Looking for counters", 0.0)
    shown = pictures_near(facts, moments(from_s, end_s, LOOKED_AT), from_s)
    for number, picture in enumerate(shown, 1):
        if where is None:
            seen.append(texts_on(picture.colour()))
        else:
            found = texts_on(picture.crop(*where))
            seen.append([replace(one, x=one.x + where[0], y=one.y + where[1]) for one in found])
        step("Looking for counters", number / LOOKED_AT)
        if number == WHOLE:
            where = _around(boxes_of(seen, facts.width, facts.height), facts)
    return boxes_of(seen, facts.width, facts.height)


def fits(facts: RecordingFacts, boxes: Sequence[Box]) -> bool:
    """Whether known boxes hold figures in a recording too: each in most of a few pictures."""
    own = [box for box in boxes if box.quantity is not Quantity.IGNORE]
    inside = all(box.x + box.w <= facts.width and box.y + box.h <= facts.height for box in own)
    if not own or not inside:
        return False
    shown = _spread(facts, 0.0, facts.duration_s)
    for box in own:
        texts = texts_in([picture.crop(box.x, box.y, box.w, box.h) for picture in shown])
        clear = [
            one
            for one in texts
            if one.score > 0.9 and figure_in(one.text, box.quantity) is not None
        ]
        if len(clear) < 0.6 * FITTED_ON:
            return False
    return True


def _around(boxes: Sequence[Box], facts: RecordingFacts) -> tuple[int, int, int, int] | None:
    """The part of the picture, x, y, w, h, with some boxes and their labels; None without any."""
    if not boxes:
        return None
    room = 8 * max(box.h for box in boxes)
    x = max(min(box.x for box in boxes) - room, 0)
    y = max(min(box.y for box in boxes) - room // 2, 0)
    right = min(max(box.x + box.w for box in boxes) + room // 2, facts.width)
    bottom = min(max(box.y + box.h for box in boxes) + room // 2, facts.height)
    return x, y, right - x, bottom - y


class _Motion:
    """Differences from picture to picture, outside the boxes, which change by themselves."""

    def __init__(self, facts: RecordingFacts, boxes: Sequence[Box]) -> None:
        self._boxes = boxes if not facts.turned else ()
        self._at: list[float] = []
        self._bands = array("f")
        self._thumbs = bytearray()  # an hour holds 200,000
        self._last: ByteArray | None = None
        self._ends: list[int] = []
        self._mask: FloatArray | None = None
        self._share = np.zeros(BANDS)
        self._thumb: tuple[IntArray, ...] = ()  # the points that make a small picture

    def take(self, at_s: float, light: ByteArray) -> None:
        """The next picture, every fourth point of its brightness."""
        if self._mask is None or self._mask.shape != light.shape:
            self._begin(light)
        assert self._mask is not None
        if self._last is None or self._last.shape != light.shape:
            self._bands.extend([math.nan] * BANDS)
        else:
            moved = np.abs(light.astype(np.int16) - self._last) * self._mask
            sums = np.add.reduceat(moved.sum(axis=1), self._ends)
            self._bands.extend(sums / np.maximum(self._share, 1.0))
        self._last = light
        self._at.append(at_s)
        self._thumbs += light[self._thumb].tobytes()

    def _begin(self, light: ByteArray) -> None:
        self._mask = np.ones(light.shape)
        for box in self._boxes:
            top, left = max(box.y // STEP - 1, 0), max(box.x // STEP - 1, 0)
            bottom, right = (box.y + box.h) // STEP + 2, (box.x + box.w) // STEP + 2
            self._mask[top:bottom, left:right] = 0.0
        rows, columns = (
            np.linspace(0, size - 1, count).astype(int)
            for size, count in zip(light.shape, THUMB, strict=True)
        )
        self._thumb = np.ix_(rows, columns)
        self._ends = [light.shape[0] * band // BANDS for band in range(BANDS)]
        self._share = np.add.reduceat(self._mask.sum(axis=1), self._ends)

    def told(self) -> Motion:
        return Motion(
            np.array(self._at),
            np.array(self._bands, dtype=float).reshape(len(self._at), BANDS),
            np.frombuffer(bytes(self._thumbs), np.uint8).reshape(len(self._at), *THUMB),
        )
