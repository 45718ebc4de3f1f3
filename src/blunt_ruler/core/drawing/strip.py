"""A rig's strip: blocks from host to picture, and a pipe as thick as the GB/s left between them.

Red is the stretch behind the narrow place; the pale mouth before the card is what it could take.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from blunt_ruler.core.drawing.picture import BOLD, SEMIBOLD, Picture
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.rigs.links import span_words
from blunt_ruler.core.rigs.strip import BLOCKS, Block, Place, Strip, power_words
from blunt_ruler.core.text import THIN

HEIGHT = 166.0  # units
BLOCK_TOP, BLOCK_HEIGHT = 4.0, 82.0
SHORT_BLOCK = 44.0
THICKEST, THINNEST = 40.0, 3.0  # of the pipe
PAD = 9.0
MARKS = {Severity.BLOCKING: 0, Severity.CAUTION: 2, Severity.NOTE: 1}
LEGEND = (
    "GB/s left behind each block; the pipe is as thick as what it carries, the pale mouth what "
    "the card could take. Red: behind the narrow place."
)


@dataclass(frozen=True, slots=True)
class BlockBox:
    """Where a block stands, in pixels."""

    place: Place
    left: float
    top: float
    width: float
    height: float

    @property
    def right(self) -> float:
        """Its right edge."""
        return self.left + self.width

    def holds(self, x: float, y: float) -> bool:
        """Whether a point lies in it."""
        return self.left <= x <= self.right and self.top <= y <= self.top + self.height


def block_boxes(
    width: float, unit: float = 1.0, top: float | None = None, height: float | None = None
) -> tuple[BlockBox, ...]:
    """The five blocks over a width, evenly, with room for a figure between."""
    top = BLOCK_TOP * unit if top is None else top
    height = BLOCK_HEIGHT * unit if height is None else height
    gap = min(max(0.062 * width, 34.0 * unit), 74.0 * unit)
    each = (width - gap * (len(BLOCKS) - 1)) / len(BLOCKS)
    return tuple(
        BlockBox(place, index * (each + gap), top, each, height)
        for index, place in enumerate(BLOCKS)
    )


def reach_of(strips: Sequence[Strip]) -> float:
    """The most that any pipe of some strips carries or its card could take: GB/s."""
    found = [one.could_gb_per_s for one in strips]
    found += [left for one in strips for left in one.left_gb_per_s]
    return max((one for one in found if one is not None), default=1.0)


def draw_strip(
    picture: Picture, strip: Strip, reach: float, chosen: Place | None = None, legend: bool = True
) -> None:
    """One rig's strip with its facts, its marks and its power."""
    u = picture.unit
    boxes = block_boxes(picture.width, u)
    _pipe(picture, strip, boxes, reach, (BLOCK_TOP + BLOCK_HEIGHT + 12.0) * u)
    passes = strip.left_gb_per_s[2] is not None
    for box in boxes:
        _block(picture, strip.block(box.place), box, chosen is box.place, passes)
    y = (BLOCK_TOP + BLOCK_HEIGHT + 32.0) * u
    _power(picture, strip, boxes, y)
    if legend and strip.left_gb_per_s[2] is not None:
        picture.words(0.0, 156.0 * u, LEGEND, colour=picture.theme.steel, most=picture.width)


def draw_strips(picture: Picture, strips: Sequence[Strip]) -> None:
    """Strips of several rigs below one another, on one scale, each under its name."""
    u, reach = picture.unit, reach_of(strips)
    step = picture.height / max(len(strips), 1)
    tall = min(SHORT_BLOCK * u, step - 38.0 * u)
    for index, strip in enumerate(strips):
        top = index * step
        picture.words(0.0, top + 9 * u, strip.name, size=picture.body, weight=BOLD)
        boxes = block_boxes(picture.width, u, top + 21.0 * u, tall)
        _pipe(picture, strip, boxes, reach, top + 21.0 * u + tall + 9.0 * u)
        for box in boxes:
            block = strip.block(box.place)
            if block.is_there or strip.left_gb_per_s[2] is None:
                _short_block(picture, block, box)


def _thick(picture: Picture, gb_per_s: float, reach: float, tall: float) -> float:
    most = min(THICKEST * picture.unit, 0.8 * tall)
    return max(most * gb_per_s / reach, THINNEST * picture.unit)


def _pipe(
    picture: Picture, strip: Strip, boxes: Sequence[BlockBox], reach: float, figures_at: float
) -> None:
    """The three stretches from host to card, their figures at a height, and the card's mouth."""
    theme, u = picture.theme, picture.unit
    middle, tall = boxes[0].top + boxes[0].height / 2, boxes[0].height
    if strip.left_gb_per_s[2] is None:
        if strip.block(Place.CARD).is_there and not strip.block(Place.LINK).is_there:
            picture.line([(boxes[0].right, middle), (boxes[3].left, middle)], theme.line, 2.0)
        return
    if strip.could_gb_per_s is not None:
        half = _thick(picture, strip.could_gb_per_s, reach, tall) / 2
        left, right = boxes[3].left - 0.45 * (boxes[3].left - boxes[2].right), boxes[3].left
        end = _thick(picture, strip.left_gb_per_s[2], reach, tall) / 2
        mouth = [(left, middle - end), (right, middle - half)]
        mouth += [(right, middle + half), (left, middle + end)]
        picture.area(mouth, theme.rule, theme.line)
    before: float | None = None
    for index, value in enumerate(strip.left_gb_per_s):
        start = boxes[index].right
        end_at = boxes[index + 1].left
        gap = end_at - start
        if not strip.blocks[index].is_there and before is not None:
            start = boxes[index].left  # nothing stands there: the pipe runs on
        if value is None:
            picture.line([(start, middle), (end_at, middle)], theme.line, 2.0)
            continue
        red = strip.narrowest is not None and index == _gap_of(strip.narrowest)
        colour = theme.loss if red else theme.narrow
        first = _thick(picture, before if before is not None else value, reach, tall) / 2
        last = _thick(picture, value, reach, tall) / 2
        bend = start + 0.5 * (end_at - start)
        shape = [(start, middle - first), (bend, middle - last), (end_at, middle - last)]
        shape += [(end_at, middle + last), (bend, middle + last), (start, middle + first)]
        key = f"left_gb_per_s.{strip.rig_id}" if index == 2 else ""
        picture.area(shape, colour, key=key)
        ink = theme.loss if red else theme.ink
        least = strip.least_left_gb_per_s[index]
        words = span_words(value if least is None else least, value)
        if gap < (64 if least == value else 110) * u:
            words = words.removesuffix(f"{THIN}GB/s")
        at = boxes[index].right + gap / 2
        picture.words(at, figures_at, words, weight=BOLD, colour=ink, align="center")
        before = value
    if strip.back_gb_per_s > 0:
        y = middle + 0.3 * tall
        picture.line([(boxes[4].left, y), (boxes[3].right, y)], theme.caution, 2.0)


def _gap_of(narrowest: Place) -> int:
    return min(BLOCKS.index(narrowest), 2)


def _outline(picture: Picture, box: BlockBox, colour: str, width: float) -> None:
    corners = [(box.left, box.top), (box.right, box.top), (box.right, box.top + box.height)]
    corners += [(box.left, box.top + box.height), (box.left, box.top)]
    picture.line(corners, colour, width)


def _paper(picture: Picture, block: Block, box: BlockBox, chosen: bool) -> None:
    theme = picture.theme
    plain = theme.paper if block.is_there else theme.card
    fill = theme.selected if chosen else plain
    picture.box(box.left, box.top, box.width, box.height, fill)
    edge = theme.blue if chosen else theme.line
    _outline(picture, box, edge, 2.0 if chosen else 1.0)


def _block(picture: Picture, block: Block, box: BlockBox, chosen: bool, passes: bool) -> None:
    u, theme = picture.unit, picture.theme
    if passes and not block.is_there:  # the pipe runs on where nothing stands
        if chosen:
            _outline(picture, box, theme.blue, 2.0)
        at = box.left + box.width / 2, box.top + box.height - 11 * u
        picture.words(*at, f"no {block.place}", colour=theme.steel, align="center")
        return
    _paper(picture, block, box, chosen)
    x, room = box.left + PAD * u, box.width - 2 * PAD * u
    title = str(block.place).upper()
    picture.words(x, box.top + 13 * u, title, size=11 * u, weight=SEMIBOLD, colour=theme.steel)
    ink = theme.ink if block.is_there else theme.steel
    name = block.name if block.is_there else "none"
    _name(picture, x, box.top + 31 * u, name, ink, room)
    for line, fact in enumerate(block.facts):
        middle = box.top + (50 + 17 * line) * u
        picture.words(x, middle, fact, colour=theme.steel, most=room)
    _mark(picture, block, box)


def _name(picture: Picture, x: float, y: float, name: str, ink: str, room: float) -> None:
    """A block's name, smaller where it would not fit."""
    fits = picture.measure(name, picture.body, SEMIBOLD) <= room
    size = picture.body if fits else picture.small
    picture.words(x, y, name, size=size, weight=SEMIBOLD, colour=ink, most=room)


def _short_block(picture: Picture, block: Block, box: BlockBox) -> None:
    u, theme = picture.unit, picture.theme
    _paper(picture, block, box, False)
    x, room = box.left + PAD * u, box.width - 2 * PAD * u
    middle = box.top + box.height / 2
    ink = theme.ink if block.is_there else theme.steel
    name = block.name if block.is_there else "none"
    facts = block.facts[:1] if box.height >= 40 * u else ()
    up = 9 * u if facts else 0.0
    room -= 12 * u if block.severity is not None else 0.0
    _name(picture, x, middle - up, name, ink, room)
    for fact in facts:
        picture.words(x, middle + up, fact, colour=theme.steel, most=room)
    _mark(picture, block, box)


def _mark(picture: Picture, block: Block, box: BlockBox) -> None:
    if block.severity is None:
        return
    u, theme = picture.unit, picture.theme
    colours = {
        Severity.BLOCKING: theme.loss,
        Severity.CAUTION: theme.caution,
        Severity.NOTE: theme.steel,
    }
    at = box.right - 11 * u, box.top + 12 * u
    picture.mark(*at, MARKS[block.severity], colours[block.severity], 5.0)


def _power(picture: Picture, strip: Strip, boxes: Sequence[BlockBox], y: float) -> None:
    """A line from what feeds the card to the card, and what is asked of it."""
    words = power_words(strip.power)
    if not words or strip.power is None:
        return
    u, theme = picture.unit, picture.theme
    place = Place.DOCK if strip.block(Place.DOCK).is_there else Place.HOST
    source, card = boxes[BLOCKS.index(place)], boxes[3]
    free = strip.power.free_share
    tight = free is not None and free < 0.2
    colour = (
        theme.loss if free is not None and free < 0 else theme.caution if tight else theme.steel
    )
    left, right = source.left + source.width / 2, card.left + card.width / 2
    foot = source.top + source.height
    picture.line([(left, foot), (left, y), (right, y), (right, foot)], colour, 1.5)
    picture.mark(right, foot + 4 * u, 2, colour, 3.5)
    width = picture.measure(words, picture.small, SEMIBOLD)
    at = min(max((left + right) / 2, width / 2), picture.width - width / 2)
    if width > picture.width:
        at = picture.width / 2
    picture.words(
        at, y + 13 * u, words, weight=SEMIBOLD, colour=colour, align="center", most=picture.width
    )
