"""Boxes proposed from the texts that were found on a few pictures of a recording.

A counter is a figure that stands at one place in most of the pictures. What it counts is told by
the words before it on its line, by its unit, or by the words above it; a figure without any, alone,
is taken for the frame rate, the one that overlays show without a label. Proposals only.
"""

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from statistics import median
from typing import TypeVar

from blunt_ruler.core.recordings.quantities import Box, Quantity, is_unit, quantity_of

UNIT = r"(?:fps|w|%|°?c|mhz|gb|mb|ghz|ms)"
FIGURE_WORD = re.compile(
    rf"^\W*(?:\d{{1,3}}[,.']\d{{3}}|\d{{1,6}}(?:[.,]\d{{1,2}})?)\s*{UNIT}?\W*$", re.I
)
LABEL_FIGURE = re.compile(r"^(1|0[.,]1|99)\s*%$")  # of “1% low”
# Whose figures follow: one of these names heads the rest of a line, or the lines below it.
DEVICE = re.compile(r"\b(?:cpu|processor|ram|gpu|vram|card|graphics)", re.I)
# An average so far is no rate at a moment: the mean of it over a pass would be no average.
AVERAGED = re.compile(r"\bavg|average|\bmean\b", re.I)
REACH = 6.0  # heights from word to word of a label and its figure in an overlay
HEADED = 2.5  # heights from line to line that a heading reaches over
MOST_PICTURES = 0.5  # of the pictures in which a counter is found
SURE = 0.6
WIDER = 1.8  # than usual: two words in one
ROOM = 0.35  # of its height that a box has around the figures seen in it


@dataclass(frozen=True, slots=True)
class Found:
    """A word on a picture with how sure it is, and its place in pixels."""

    text: str
    sure: float
    x: int
    y: int
    w: int
    h: int

    @property
    def middle(self) -> float:
        """The height at which it stands."""
        return self.y + self.h / 2


Placed = TypeVar("Placed", Found, Box)


@dataclass(frozen=True, slots=True)
class _Label:
    """What stands around a figure: the device named before it, its words, and its unit."""

    device: str
    words: str
    unit: str

    @property
    def quantity(self) -> Quantity | None:
        return quantity_of(f"{self.device} {self.words}", self.unit)

    def __str__(self) -> str:
        return f"{self.words} {self.unit}".strip()


@dataclass(slots=True)
class _Counter:
    seen: list[tuple[int, Found]]
    labels: list[_Label]

    @property
    def last(self) -> Found:
        return self.seen[-1][1]


def boxes_of(pictures: Sequence[Sequence[Found]], width: int, height: int) -> tuple[Box, ...]:
    """Boxes round the figures that stand in most pictures of a size, from the top, what they count
    guessed; `IGNORE` where nothing says what.
    """
    counters: list[_Counter] = []
    for number, words in enumerate(pictures):
        lines = on_lines(words)
        for word in words:
            if word.sure < SURE or not _is_figure(word, words):
                continue
            counter = next((one for one in counters if _same_place(one.last, word)), None)
            if counter is None:
                counters.append(counter := _Counter([], []))
            counter.seen.append((number, word))
            counter.labels.append(_label(word, words, lines))
    kept = [
        one
        for one in counters
        if len({number for number, _ in one.seen}) >= max(MOST_PICTURES * len(pictures), 1)
    ]
    labels = [word for words in pictures for word in words if not FIGURE_WORD.match(word.text)]
    boxes = [_box(one, labels, kept, width, height) for one in kept]
    for at, one in enumerate(kept):
        if any(AVERAGED.search(str(label)) for label in one.labels):
            boxes[at] = replace(boxes[at], quantity=Quantity.IGNORE)
    rated = any(box.quantity is Quantity.FPS for box in boxes)
    unnamed = [at for at, box in enumerate(boxes) if box.quantity is Quantity.IGNORE]
    blank = [at for at in unnamed if not any(map(str, kept[at].labels))]
    if not rated and len(blank) == 1:
        boxes[blank[0]] = replace(boxes[blank[0]], quantity=Quantity.FPS)
    return _once([box for line in on_lines(_apart(boxes)) for box in line])


def _once(boxes: Sequence[Box]) -> tuple[Box, ...]:
    """The boxes, those of a quantity that an earlier one shows to be ignored."""
    told: list[Box] = []
    for box in boxes:
        seen = any(other.quantity is box.quantity for other in told)
        told.append(replace(box, quantity=Quantity.IGNORE) if seen else box)
    return tuple(told)


def figures_on(words: Sequence[Found]) -> tuple[tuple[Found, Quantity, str], ...]:
    """Every figure on one picture, from the top: its word, what its label says it is, and the
    label. On a screen of results the label may stand far to the left.
    """
    told = []
    words = with_thousands(words)
    lines = on_lines(words)
    for word in (word for line in lines for word in line):
        if not _is_figure(word, words, reach=math.inf):
            continue
        label = _label(word, words, lines, reach=math.inf)
        told.append((word, label.quantity or Quantity.IGNORE, str(label)))
    return tuple(told)


def on_lines(words: Sequence[Placed]) -> list[list[Placed]]:
    """Words or boxes line by line from the top, each line from the left."""
    lines: list[list[Placed]] = []
    for word in sorted(words, key=lambda one: one.middle):
        last = lines[-1][-1] if lines else None
        if last is not None and abs(last.middle - word.middle) < 0.5 * max(last.h, word.h):
            lines[-1].append(word)
        else:
            lines.append([word])
    return [sorted(line, key=lambda one: one.x) for line in lines]


def with_thousands(words: Sequence[Found]) -> list[Found]:
    """The words, with figures parted by a space in front of their thousands as one."""
    told: list[Found] = []
    for word in (word for line in on_lines(words) for word in line):
        last = told[-1] if told else None
        if (
            last is not None
            and re.fullmatch(r"\d{1,3}", last.text)
            and re.fullmatch(r"\d{3}", word.text)
            and abs(last.middle - word.middle) < 0.5 * word.h
            and 0 <= word.x - (last.x + last.w) < 0.75 * word.h
        ):
            wide = word.x + word.w - last.x
            sure = min(last.sure, word.sure)
            told[-1] = replace(last, text=last.text + word.text, sure=sure, w=wide)
        else:
            told.append(word)
    return told


def _is_figure(word: Found, words: Sequence[Found], reach: float = REACH) -> bool:
    """Whether a word is a figure, and not the "1%" of a label, whose own figure stands behind it,
    each word at most `reach` heights from the one before it.
    """
    if not FIGURE_WORD.match(word.text):
        return False
    if not LABEL_FIGURE.match(word.text):
        return True
    right = word.x + word.w
    for other in _row(word, words):
        if other.x <= word.x:
            continue
        if other.x - right > reach * word.h:
            return True
        if FIGURE_WORD.match(other.text):
            return False
        right = other.x + other.w
    return True


def _has_digit(text: str) -> bool:
    return any(sign.isdigit() for sign in text)


def _row(word: Found, words: Sequence[Found]) -> list[Found]:
    """The words at its height, it among them, from the left."""
    row = [one for one in words if abs(one.middle - word.middle) < 0.5 * max(word.h, one.h)]
    return sorted(row, key=lambda one: one.x)


def _label(
    word: Found,
    words: Sequence[Found],
    lines: Sequence[Sequence[Found]],
    reach: float = REACH,
) -> _Label:
    """The label before a figure, at most `reach` heights away, and its unit; without either what
    stands right above it.
    """
    row = _row(word, words)
    leads = bool(FIGURE_WORD.match(row[0].text)) and not LABEL_FIGURE.match(row[0].text)
    before = _before(word, row, leads, reach * word.h)
    unit = "".join(sign for sign in word.text if not sign.isdigit() and sign not in ".,")
    after = [one for one in row if one.x >= word.x + word.w - 2]
    if not unit and after and after[0].x - (word.x + word.w) < 1.2 * word.h:
        text = after[0].text
        names = len(text) <= 5 and not _has_digit(text) and not DEVICE.search(text)
        unit = text if is_unit(text) or (leads and names) else ""
    told = " ".join(before) or ("" if unit else _above(word, words))
    return _Label(_device(word, row, lines), told, unit)


def _above(word: Found, words: Sequence[Found]) -> str:
    """What stands right above a figure, neither a figure nor the unit of one."""
    above = [
        one.text
        for one in words
        if 0 < word.middle - one.middle < 2.2 * word.h
        and one.x < word.x + word.w
        and word.x < one.x + one.w
        and not FIGURE_WORD.match(one.text)
        and not is_unit(one.text)
    ]
    return above[-1] if above else ""


def _before(word: Found, row: Sequence[Found], leads: bool, reach: float) -> list[str]:
    """The words between a figure and the figure before it on its row, without the unit of that.

    From word to word they are at most `reach` pixels apart. “FPS” behind a figure is its unit only
    on a row that begins with a figure.
    """
    before: list[str] = []
    left = word.x
    for other in reversed([one for one in row if one.x < word.x]):
        if left - (other.x + other.w) > reach:
            break
        if FIGURE_WORD.match(other.text) and not LABEL_FIGURE.match(other.text):
            if before and is_unit(before[0]) and (leads or before[0].lower() != "fps"):
                before = before[1:]
            break
        before.insert(0, other.text)
        left = other.x
    return before


def _device(word: Found, row: Sequence[Found], lines: Sequence[Sequence[Found]]) -> str:
    """The device whose figure a word is: the last one named before it on its line, else in the
    nearest heading above it, a line of names without figures; blank where none is.
    """
    if before := _devices(row, word.x):
        return before[-1].text
    own = next(at for at, line in enumerate(lines) if word in line)
    for below, line in pairwise(lines[own::-1]):
        if below[0].middle - line[0].middle > HEADED * word.h:
            break
        above = _devices(line, word.x + word.w)
        if above and not any(_has_digit(other.text) for other in line):
            return above[-1].text
    return ""


def _devices(line: Sequence[Found], up_to: float) -> list[Found]:
    return [one for one in line if one.x < up_to and DEVICE.search(one.text)]


def _same_place(one: Found, other: Found) -> bool:
    """Whether two figures stand where one counter would show them."""
    if abs(one.middle - other.middle) > 0.5 * max(one.h, other.h):
        return False
    left, right = abs(one.x - other.x), abs(one.x + one.w - other.x - other.w)
    return min(left, right) < 1.2 * max(one.h, other.h)


def _box(
    counter: _Counter,
    labels: Sequence[Found],
    counters: Sequence[_Counter],
    width: int,
    height: int,
) -> Box:
    every = [word for _, word in counter.seen]
    usual = median(word.w for word in every)
    words = [word for word in every if word.w <= WIDER * usual]  # some run into what is behind
    line = round(median(word.h for word in words))
    room = max(round(ROOM * line), 2)
    left = min(word.x for word in words)
    right = max(word.x + word.w for word in words)
    top = round(median(word.y for word in words)) - room // 2
    bottom = round(median(word.y + word.h for word in words)) + room // 2
    widest = max(word.w for word in words)
    digit = widest / max(max(len(word.text) for word in words), 1)
    middle = (top + bottom) / 2
    others = [word for one in counters if one is not counter for _, word in one.seen]
    beside = [one for one in [*labels, *others] if abs(one.middle - middle) < 0.5 * line]
    stop_left = max((one.x + one.w for one in beside if one.x + one.w <= left + 2), default=0)
    stop_right = min((one.x for one in beside if one.x >= right - 2), default=width)
    x = max(round(left - digit - room), stop_left + 1, 0)
    end = min(round(right + digit + room), max(stop_right - 1, right), width)
    told = [one.quantity for one in counter.labels if one.quantity is not None]
    quantity = max(set(told), key=told.count) if told else Quantity.IGNORE
    y = max(top, 0)
    return Box(x, y, end - x, min(bottom, height) - y, quantity)


def _apart(boxes: Sequence[Box]) -> list[Box]:
    """Boxes without those that lie over a larger one."""
    kept: list[Box] = []
    for box in sorted(boxes, key=lambda one: -one.w * one.h):
        if not any(box.overlaps(other) and _mostly_inside(box, other) for other in kept):
            kept.append(box)
    return kept


def _mostly_inside(box: Box, other: Box) -> bool:
    across = min(box.x + box.w, other.x + other.w) - max(box.x, other.x)
    down = min(box.y + box.h, other.y + other.h) - max(box.y, other.y)
    return across * down > 0.5 * box.w * box.h
