"""Bars from the 1% low to the average, a rig each, under the headings of their cases.

What is printed can be read on a phone at a third of the sheet's size.
"""

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass

from blunt_ruler.core.drawing.picture import BOLD, SEMIBOLD, Picture
from blunt_ruler.core.drawing.ticks import scale_to

SIDE, END = 262.0, 168.0  # pixels: names on the left, figures on the right
HEAD, MOST_STEP = 30.0, 54.0
NAME, FIGURE, LOW = 22.0, 25.0, 20.0


@dataclass(frozen=True, slots=True)
class DrawnBar:
    """One bar: which rig's, its figures, and how they are printed."""

    rig_id: str
    name: str
    value: float
    text: str
    low: float | None
    low_text: str
    key: str = ""


def draw_bars(
    picture: Picture,
    groups: Sequence[tuple[str, Sequence[DrawnBar]]],
    hatched: Collection[str],
    top_value: float,
) -> None:
    """Groups of bars, all on one scale up to `top_value`; rigs that are `hatched` are so drawn."""
    theme = picture.theme
    heads = sum(bool(label) for label, _ in groups)
    bars = sum(len(of_group) for _, of_group in groups)
    step = min((picture.height - heads * HEAD) / max(bars, 1), MOST_STEP)
    scale = scale_to(top_value * 1.02, most_majors=6)
    left, right = SIDE, picture.width - END
    y = 0.0
    for label, of_group in groups:
        if label:
            picture.words(0.0, y + HEAD / 2, label, size=NAME, weight=SEMIBOLD, most=picture.width)
            picture.line([(0.0, y + HEAD - 1), (picture.width, y + HEAD - 1)], theme.line, 0.6)
            y += HEAD
        for bar in of_group:
            _bar(picture, bar, y, step, (left, right), scale.share, bar.rig_id in hatched)
            y += step


def _bar(
    picture: Picture,
    bar: DrawnBar,
    top: float,
    step: float,
    room: tuple[float, float],
    share: Callable[[float], float],
    hatched: bool,
) -> None:
    left, right = room
    middle, thick = top + step / 2, min(step * 0.56, 26.0)
    shade = picture.shades.get(bar.rig_id, picture.theme.wide)
    end = left + share(bar.value) * (right - left)
    start = left if bar.low is None else left + share(min(bar.low, bar.value)) * (right - left)
    size = min(NAME, step * 0.62)
    picture.words(SIDE - 14, middle, bar.name, size=size, align="right", most=SIDE - 16)
    if bar.low is not None:
        picture.box(left, middle - 2.0, start - left, 4.0, shade)
    picture.box(start, middle - thick / 2, max(end - start, 3.0), thick, shade, bar.key, hatched)
    picture.box(end - 3.0, middle - thick / 2 - 3, 3.0, thick + 6, picture.theme.ink)
    width = picture.words(end + 10, middle, bar.text, size=min(FIGURE, step * 0.7), weight=BOLD)
    if bar.low_text:
        picture.words(
            end + 20 + width,
            middle,
            f"low {bar.low_text}",
            size=min(LOW, step * 0.6),
            colour=picture.theme.steel,
        )
