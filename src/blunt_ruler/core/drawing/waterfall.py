"""The waterfall: from the reference's rate down to the rig's, part by part, on the rule."""

from collections.abc import Mapping

from blunt_ruler.core.drawing.palette import Theme
from blunt_ruler.core.drawing.picture import MEDIUM, Picture
from blunt_ruler.core.drawing.ticks import scale_to
from blunt_ruler.core.limits.split import LossSplit
from blunt_ruler.core.limits.words import PART_WORDS, split_rows, told_rows
from blunt_ruler.core.text import MINUS, fps_text

LEFT, RIGHT, HEAD, RULE, STEP = 178.0, 90.0, 14.0, 30.0, 30.0  # units


def part_colours(theme: Theme) -> Mapping[str, str]:
    """Colours of the limits and of the parts of a loss; a word always stands beside them."""
    return {
        "card": theme.steel,
        "CPU": theme.caution,
        "host": theme.caution,
        "link": theme.blue,
        "screen": theme.loss,
        "unexplained": theme.line,
    }


def loss_parts(split: LossSplit) -> list[tuple[str, float, float]]:
    """The parts of a loss that are drawn: name, frames per second, and as they are printed, so
    that the printed ones add up.
    """
    exact = split_rows(split)
    return [(name, exact[name], told) for name, told in told_rows(split)]


def waterfall_height(split: LossSplit) -> float:
    """How high the picture wants to be, in units."""
    return HEAD + STEP * (len(loss_parts(split)) + 2) + RULE + 8.0


def draw_waterfall(picture: Picture, split: LossSplit, reference: str, rig: str) -> None:
    """A loss by its parts. `reference` and `rig` are the names of both ends."""
    u, theme = picture.unit, picture.theme
    parts, colours = loss_parts(split), part_colours(theme)
    left, right = LEFT * u, picture.width - RIGHT * u
    bottom = picture.height - RULE * u
    rows: list[tuple[str, float, float, str, str, str]] = [
        ("reference", 0.0, split.reference_fps, theme.reference, reference, "")
    ]
    level = split.reference_fps
    for name, fps, told in parts:
        words = f"{MINUS if told > 0 else '+' if told < 0 else ''}{abs(told):.1f}"
        rows.append((name, level - fps, level, colours[name], PART_WORDS[name], words))
        level -= fps
    shade = picture.shades.get(split.rig, theme.middle)
    rows.append(("rig", 0.0, split.average_fps, shade, rig, ""))
    reach = max(max(row[1], row[2]) for row in rows)
    scale = scale_to(max(reach, 10.0) * 1.04, most_majors=10)

    def x(fps: float) -> float:
        return left + scale.share(max(fps, 0.0)) * (right - left)

    step = (bottom - HEAD * u) / len(rows)
    thick = min(28.0 * u, step * 0.53)
    for index, (key, low, high, colour, name, words) in enumerate(rows):
        y = HEAD * u + (index + 0.5) * step
        if words:
            picture.line([(x(high), y - step + thick / 2), (x(high), y - thick / 2)], theme.line)
        low, high = sorted((low, high))
        size = picture.body if step >= 40 * u else 13 * u
        picture.words(12 * u, y, name, size=size, weight=MEDIUM, most=left - 20 * u)
        box = f"lost_{key}_fps.{split.rig}.{split.case}"
        picture.box(x(low), y - thick / 2, max(x(high) - x(low), 2.0 * u), thick, colour, box)
        picture.figure(x(high) + 7 * u, y, words or fps_text(high))
    picture.rule(left, right, bottom, scale, "frames/s")
