"""Bars of several parts, one below the other on one rule: what a rig costs, what it draws."""

from collections.abc import Sequence
from dataclasses import dataclass

from blunt_ruler.core.drawing.palette import contrast
from blunt_ruler.core.drawing.picture import BOLD, SEMIBOLD, Picture
from blunt_ruler.core.drawing.ticks import scale_to

NAME, FIGURE, RULE = 150.0, 96.0, 34.0  # units
ROW, BAR = 30.0, 15.0


@dataclass(frozen=True, slots=True)
class Piece:
    """One part of a bar; a pale one is there already. `shade` is the same for the same kind."""

    words: str
    value: float
    shade: int = 0
    pale: bool = False


@dataclass(frozen=True, slots=True)
class Stack:
    """A bar: whose it is, its parts, and what stands at its end. `key` is the rig."""

    name: str
    pieces: tuple[Piece, ...]
    says: str
    key: str = ""
    chosen: bool = False


def stacks_height(count: int) -> float:
    """How high a picture of so many bars wants to be, in units."""
    return max(count, 1) * ROW + RULE + 8.0


def draw_stacks(picture: Picture, stacks: Sequence[Stack], unit: str) -> None:
    """The bars on one rule; a part is named inside its piece where it fits."""
    u, theme = picture.unit, picture.theme
    reach = max((sum(max(p.value, 0.0) for p in one.pieces) for one in stacks), default=1.0) or 1.0
    scale = scale_to(reach, most_majors=8)
    left, right = NAME * u, picture.width - FIGURE * u
    shades = (theme.wide, theme.middle, theme.narrow, theme.built_in)
    step = min(ROW * u, (picture.height - RULE * u - 8 * u) / max(len(stacks), 1))

    def x(value: float) -> float:
        return left + scale.share(value) * (right - left)

    for index, stack in enumerate(stacks):
        middle = (index + 0.5) * step + 4 * u
        top = middle - BAR * u / 2
        if stack.chosen:
            picture.box(0.0, middle - step / 2 + u, picture.width, step - 2 * u, theme.selected)
        weight = BOLD if stack.chosen else SEMIBOLD
        picture.words(6 * u, middle, stack.name, weight=weight, most=left - 14 * u)
        at = 0.0
        for place, piece in enumerate(stack.pieces):
            if piece.value <= 0:
                continue
            start, end = x(at), x(at + piece.value)
            shade = theme.rule if piece.pale else shades[piece.shade % len(shades)]
            key = f"{stack.key}.{place}" if stack.key else ""
            picture.box(start, top, max(end - start - u, u), BAR * u, shade, key)
            words = f"{piece.words}, owned" if piece.pale else piece.words
            size = 11 * u
            if picture.measure(words, size, SEMIBOLD) < end - start - 8 * u:
                ink = max((theme.card, theme.ink), key=lambda one: contrast(one, shade))
                picture.words(start + 4 * u, middle, words, size=size, weight=SEMIBOLD, colour=ink)
            at += piece.value
        picture.words(x(at) + 7 * u, middle, stack.says, weight=BOLD, most=picture.width - x(at))
    if any(piece.value > 0 for stack in stacks for piece in stack.pieces):
        picture.rule(left, right, len(stacks) * step + 8 * u, scale, unit)
    elif stacks:  # a rule from 0 to 1 would measure nothing
        said = f"No bar yet: no figure in {unit} is noted"
        picture.words(left, len(stacks) * step + 20 * u, said, colour=theme.steel)
