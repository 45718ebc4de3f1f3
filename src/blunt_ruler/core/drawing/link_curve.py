"""Frames against link on a rule graduated in lanes × generation; measured rigs as points."""

from collections.abc import Callable
from math import log
from typing import TypeAlias

from blunt_ruler.core.drawing.palette import blend
from blunt_ruler.core.drawing.picture import BOLD, SEMIBOLD, Picture, overlap
from blunt_ruler.core.drawing.ticks import scale_to
from blunt_ruler.core.limits.link_curve import LinkCurve, marks
from blunt_ruler.core.text import THIN

LEFT, RIGHT, TOP, FOOT = 46.0, 52.0, 26.0, 58.0  # units
Place: TypeAlias = Callable[[float, float], tuple[float, float]]
SHORT = {"PCIe ": "", " x": "×", " Gb/s tunnel": " Gb/s"}


def draw_link_curve(picture: Picture, curve: LinkCurve) -> None:
    """The curve with its 80 % band; points with 95 %; the knee and the half as marks."""
    u, theme = picture.unit, picture.theme
    left, right = LEFT * u, picture.width - RIGHT * u
    top, bottom = TOP * u, picture.height - FOOT * u
    reach = max([float(curve.high.max()), *(one.high for one in curve.points)])
    scale = scale_to(reach * 1.05, most_majors=6)
    first, last = log(curve.gb_per_s[0]), log(curve.gb_per_s[-1])

    def place(width: float, fps: float) -> tuple[float, float]:
        share = (log(width) - first) / (last - first)
        share = min(max(share, 0.0), 1.0)
        return left + share * (right - left), bottom - scale.share(fps) * (bottom - top)

    says = f"frames per second, {curve.over}, on {curve.host}"
    picture.words(left, 9 * u, says, colour=theme.steel)
    edge = picture.width - 4 * u
    picture.words(edge, 9 * u, "kept of the widest", colour=theme.steel, align="right")
    for value in scale.majors():
        y = place(1.0, value)[1]
        picture.line([(left, y), (right, y)], theme.line)
        picture.words(left - 7 * u, y, f"{value:g}", colour=theme.steel, align="right")
        kept = f"{value / curve.fps[-1] * 100:.0f}{THIN}%"
        picture.words(right + 7 * u, y, kept, colour=theme.steel)
    band = [place(w, f) for w, f in zip(curve.gb_per_s, curve.high, strict=True)]
    band += [place(w, f) for w, f in zip(curve.gb_per_s[::-1], curve.low[::-1], strict=True)]
    picture.area(band, blend(theme.card, theme.narrow, 0.28))
    picture.line(
        [place(w, f) for w, f in zip(curve.gb_per_s, curve.fps, strict=True)],
        theme.blue,
        2.3,
        key=f"link_curve.{curve.card_id}",
    )
    for words, width in curve.told.items():
        x = round(place(width, 0.0)[0]) + 0.5
        picture.line([(x, top), (x, bottom)], theme.caution, 1.0, 4.0)
        picture.words(x + 4 * u, top + 6 * u, words, weight=SEMIBOLD, colour=theme.caution)
    _points(picture, curve, place)
    _rule(picture, place, left, right, bottom)


def _points(picture: Picture, curve: LinkCurve, place: Place) -> None:
    u, theme = picture.unit, picture.theme
    taken: list[tuple[float, ...]] = []
    for one in curve.points:
        x, y = place(one.gb_per_s, one.fps)
        shade = theme.loss if one.is_below else picture.shades.get(one.rig_id, theme.wide)
        low, high = place(one.gb_per_s, one.low)[1], place(one.gb_per_s, one.high)[1]
        picture.line([(x, low), (x, high)], shade, 1.5)
        if one.low_1_fps is not None:
            foot = place(one.gb_per_s, one.low_1_fps)[1]
            picture.line([(x, y), (x, foot)], shade, 1.0, 2.0)
            picture.line([(x - 5 * u, foot), (x + 5 * u, foot)], shade, 2.0)
        picture.mark(x, y, 2 if one.other_host else 0, shade, 5.0, f"link_point.{one.rig_id}")
        words = f"{one.name}, another host" if one.other_host else one.name
        width = picture.measure(words, picture.small, BOLD)
        at = min(max(x, width / 2), picture.width - width / 2)
        foot = y if one.low_1_fps is None else place(one.gb_per_s, one.low_1_fps)[1]
        taken.append((x - 6 * u, y, x + 6 * u, foot))
        for down in (-15.0, 15.0, -15.0, 29.0, -29.0, 43.0, -43.0):
            box = (at - width / 2, y + down * u - 8 * u, at + width / 2, y + down * u + 8 * u)
            crossed = any(box[1] < line_y < box[3] for line_y in _heights(curve, place, box))
            if not crossed and not any(overlap(box, other) for other in taken):
                break
        taken.append(box)
        picture.words(at, y + down * u, words, weight=BOLD, align="center", colour=theme.ink)


def _heights(curve: LinkCurve, place: Place, box: tuple[float, ...]) -> list[float]:
    """Where the curve runs between the sides of a box."""
    spots = [place(w, f) for w, f in zip(curve.gb_per_s, curve.fps, strict=True)]
    return [y for x, y in spots if box[0] - 12 <= x <= box[2] + 12]


def _rule(picture: Picture, place: Place, left: float, right: float, top: float) -> None:
    """The rule: GB/s as numbers, and below them lanes × generation where they fit."""
    u, theme = picture.unit, picture.theme
    picture.box(left - 3 * u, top, right - left + 6 * u, 20 * u, theme.rule)
    for value in (1, 2, 4, 8, 16, 32):
        x = place(value, 0.0)[0]
        picture.line([(x, top), (x, top + 8 * u)], theme.ink)
        picture.words(x, top + 14 * u, f"{value}{THIN}GB/s", align="center", size=11 * u)
    ends = [left - 100 * u] * 2
    for one in marks():
        name = one.name
        for long, short in SHORT.items():
            name = name.replace(long, short)
        x = place(one.gb_per_s, 0.0)[0]
        width = picture.measure(name, 11 * u, SEMIBOLD)
        row = next((r for r in (0, 1) if x - width / 2 > ends[r] + 5 * u), None)
        if row is None or not left <= x <= right:
            continue
        end_of_name, ends[row] = ends[0], x + width / 2
        if row == 0 or x - 2 * u > end_of_name:
            picture.line([(x, top + 20 * u), (x, top + (24 + 12 * row) * u)], theme.steel)
        y = top + (30 + 12 * row) * u
        picture.words(x, y, name, size=11 * u, weight=SEMIBOLD, align="center", colour=theme.steel)
