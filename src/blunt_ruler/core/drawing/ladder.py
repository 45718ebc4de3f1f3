"""The link ladder: every rung a step, shorter than the one above it, on one scale for all rigs."""

from collections.abc import Sequence
from math import log2

from blunt_ruler.core.drawing.palette import blend
from blunt_ruler.core.drawing.picture import BOLD, MEDIUM, SEMIBOLD, Picture
from blunt_ruler.core.drawing.ticks import Scale, scale_to
from blunt_ruler.core.rigs.links import Ladder, Rung, span_words
from blunt_ruler.core.text import THIN

STEP, STEP_WITH_WHY, HEAD, RULE = 30.0, 44.0, 30.0, 40.0  # units
NAME, FIGURE = 132.0, 150.0
LINK_NAME, LINK_UNIT = 178.0, 62.0


def ladder_height(ladder: Ladder | None, with_why: bool) -> float:
    """How high the picture of one rig wants to be, in units."""
    rungs = len(ladder.rungs) if ladder else 1
    return HEAD + rungs * (STEP_WITH_WHY if with_why else STEP) + RULE


def draw_ladder(
    picture: Picture, name: str, ladder: Ladder, scale: Scale, rig_id: str, with_why: bool
) -> None:
    """One rig's rungs down to what is left for the game; a band shows what such links move."""
    u, theme = picture.unit, picture.theme
    step = (STEP_WITH_WHY if with_why else STEP) * u
    left, right = NAME * u, picture.width - FIGURE * u
    bottom = HEAD * u + len(ladder.rungs) * step

    def x(gb_per_s: float) -> float:
        return left + scale.share(gb_per_s) * (right - left)

    picture.words(0.0, 13 * u, name, size=picture.body, weight=SEMIBOLD, most=picture.width)
    low, high = x(ladder.practice_low_gb_per_s), x(ladder.practice_high_gb_per_s)
    band = blend(theme.card, theme.brass, 0.35)
    picture.box(low, HEAD * u, high - low, bottom - HEAD * u, band)
    for index, rung in enumerate(ladder.rungs):
        last = index == len(ladder.rungs) - 1
        measured = rung.name == "as measured"
        colour = theme.wide if last else theme.loss if measured else theme.narrow
        top = HEAD * u + index * step
        key = f"left_gb_per_s.{rig_id}" if last else ""
        width = max(x(rung.gb_per_s) - left, 2.0)
        if rung.least_gb_per_s is not None:  # what is not known is pale
            picture.box(left, top + 8 * u, width, 14 * u, blend(theme.card, colour, 0.35))
            width = max(x(rung.least_gb_per_s) - left, 2.0)
        picture.box(left, top + 8 * u, width, 14 * u, colour, key)
        at = x(rung.gb_per_s)
        picture.line([(at, top + 4 * u), (at, top + 26 * u)], theme.ink)
        _words(picture, rung, top, left, right, last)
        if with_why:
            room = right - left + 140 * u
            picture.words(left + 2 * u, top + 32 * u, rung.why, colour=theme.steel, most=room)
    if ladder.measured_gb_per_s is not None:
        at = x(ladder.measured_gb_per_s)
        picture.line([(at, HEAD * u), (at, bottom + 6 * u)], theme.loss, 2.0)
        picture.line([(at - 5 * u, bottom + 6 * u), (at + 5 * u, bottom + 6 * u)], theme.loss, 2.0)
    picture.rule(left, right, bottom + 6 * u, scale, "GB/s")


def draw_links(picture: Picture, links: Sequence[tuple[str, Ladder, str]]) -> None:
    """Links side by side, a bar each: (name, ladder, rig). Pale is the line rate after its code,
    full what is left for the game; the bracket below is what such links move in practice.
    """
    u, theme = picture.unit, picture.theme
    reach = max((one.encoded_gb_per_s or one.left_gb_per_s for _, one, _ in links), default=1.0)
    scale = scale_to(reach * 1.3, most_majors=8)
    left, right = LINK_NAME * u, picture.width - LINK_UNIT * u
    top, bottom = 10 * u, picture.height - 30 * u
    step = (bottom - top) / max(len(links), 1)
    thick = min(25.0 * u, step * 0.4)

    def x(gb_per_s: float) -> float:
        return left + scale.share(gb_per_s) * (right - left)

    for index, (name, ladder, rig_id) in enumerate(links):
        y = top + (index + 0.5) * step
        room = left - 12 * u
        picture.words(0.0, y, name, size=picture.body, weight=SEMIBOLD, most=room)
        whole, kept = ladder.encoded_gb_per_s or 0.0, ladder.left_gb_per_s
        picture.box(left, y - thick / 2, x(whole) - left, thick, theme.rule)
        shade = picture.shades.get(rig_id, theme.wide)
        key = f"left_gb_per_s.{rig_id}"
        if ladder.slowest is not None:  # what is not known is pale
            pale = blend(theme.card, shade, 0.35)
            picture.box(left, y - thick / 2, x(kept) - left, thick, pale)
        least = ladder.least_left_gb_per_s
        picture.box(left, y - thick / 2, x(least) - left, thick, shade, key)
        low, high = x(ladder.practice_low_gb_per_s), x(ladder.practice_high_gb_per_s)
        foot, end = y + thick / 2, y + thick / 2 + 6 * u
        picture.line([(low, foot), (low, end), (high, end), (high, foot)], theme.steel, 1.2)
        how = "reckoned" if ladder.measured_gb_per_s is None else "measured"
        words = f"{ladder.left_words} {how}"
        at = max(x(whole), x(kept)) + 7 * u
        picture.words(at, y, words, size=picture.body, weight=BOLD)
    picture.rule(left, right, bottom, scale, "GB/s")


def _words(picture: Picture, rung: Rung, top: float, left: float, right: float, last: bool) -> None:
    u, theme = picture.unit, picture.theme
    ink = theme.ink if last else theme.steel
    weight = SEMIBOLD if last else MEDIUM
    middle = top + 15 * u
    room = left - 10 * u
    picture.words(0.0, middle, rung.name, size=13 * u, weight=weight, colour=ink, most=room)
    least = rung.gb_per_s if rung.least_gb_per_s is None else rung.least_gb_per_s
    spans = least != rung.gb_per_s  # a range takes the room of both figures
    picture.words(
        right + (150 if spans else 78) * u,
        middle,
        span_words(least, rung.gb_per_s, decimals=2),
        size=13 * u,
        weight=BOLD if last else MEDIUM,
        align="right",
    )
    if spans:
        return
    words = f"{rung.gbps:.1f}{THIN}Gb/s"
    picture.words(right + 150 * u, middle, words, colour=theme.steel, align="right")


CURVE_HEIGHT = 128.0


def draw_sweep(picture: Picture, sweep: Sequence[tuple[float, float]], practice: float) -> None:
    """A bus sweep: GB/s over the size of the block, each block twice as far as half of it."""
    u, theme = picture.unit, picture.theme
    known = sorted((block, rate) for block, rate in sweep if block > 0)
    if not known:
        return
    left, right = 44.0 * u, picture.width - 70.0 * u
    top, bottom = 24.0 * u, picture.height - 26.0 * u
    scale = scale_to(max([practice, *(rate for _, rate in known)]) * 1.05, most_majors=4)
    first, last = log2(known[0][0]), log2(known[-1][0])

    def place(block: float, rate: float) -> tuple[float, float]:
        share = (log2(block) - first) / ((last - first) or 1.0)
        return left + share * (right - left), bottom - scale.share(rate) * (bottom - top)

    picture.words(0.0, 8 * u, "the sweep: GB/s over the size of a block", colour=theme.steel)
    for value in scale.majors():
        y = place(known[0][0], value)[1]
        picture.line([(left, y), (right, y)], theme.line)
        picture.words(left - 8 * u, y, f"{value:g}", colour=theme.steel, align="right")
    points = [place(*pair) for pair in known]
    if len(points) > 1:
        picture.line(points, theme.wide, 2.3)
    for at in points:
        picture.mark(*at, 0, theme.wide, 3.5)
    for block, _ in known[:: max(len(known) // 6, 1)]:
        words = f"{block:g}{THIN}MB" if block >= 1 else f"{block * 1000:.0f}{THIN}KB"
        picture.words(place(block, 0.0)[0], bottom + 13 * u, words, align="center")
    (x, y), (_, rate) = points[-1], known[-1]
    picture.words(x + 9 * u, y, f"{rate:.2f}{THIN}GB/s", weight=BOLD)
