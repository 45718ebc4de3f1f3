"""A picture as values: boxes, lines, words and marks, from the top left, the later above.

What is drawn in the window and what is printed is composed once, here and beside; painters only
carry it out. Sizes grow with `unit`: 1 in the window, more on a chart that is seen from afar.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import TypeAlias

from blunt_ruler.core.drawing.palette import Theme
from blunt_ruler.core.drawing.ticks import Scale

REGULAR, MEDIUM, SEMIBOLD, BOLD = 400, 500, 600, 700
Measure: TypeAlias = Callable[[str, float, int], float]
"""How wide words are, in pixels: words, size in pixels, weight."""
Point: TypeAlias = tuple[float, float]


@dataclass(frozen=True, slots=True)
class Box:
    """A filled rectangle. `key` names the figure it stands for; a hatch is seen without colour."""

    x: float
    y: float
    width: float
    height: float
    colour: str
    key: str = ""
    hatched: bool = False


@dataclass(frozen=True, slots=True)
class Line:
    """A line through points; `dash` is the length of a dash, 0 for a whole line."""

    points: tuple[Point, ...]
    colour: str
    width: float
    dash: float = 0.0
    key: str = ""


@dataclass(frozen=True, slots=True)
class Area:
    """A filled shape with corners; `edge` is the colour of its outline, blank for none."""

    points: tuple[Point, ...]
    colour: str
    edge: str = ""
    key: str = ""


@dataclass(frozen=True, slots=True)
class Words:
    """Words from their left end, standing on `baseline`."""

    x: float
    baseline: float
    text: str
    size: float
    weight: int
    colour: str
    key: str = ""


@dataclass(frozen=True, slots=True)
class Mark:
    """A mark around a point; its shape tells points apart without colour."""

    x: float
    y: float
    shape: int
    size: float
    colour: str
    edge: str
    key: str = ""


Item: TypeAlias = Box | Line | Area | Words | Mark


class Picture:
    """Items on a sheet of a width and a height in pixels."""

    def __init__(
        self,
        theme: Theme,
        width: float,
        height: float,
        measure: Measure,
        shades: Mapping[str, str],
        unit: float = 1.0,
        figure: float = 13.0,
    ) -> None:
        """`shades` are the colours of rigs; `figure` is the size of figures beside their bars."""
        self.theme, self.width, self.height = theme, width, height
        self.unit, self.measure, self.shades = unit, measure, shades
        self.small, self.body, self.figure_size = 12.0 * unit, 14.0 * unit, figure * unit
        self.items: list[Item] = []

    def box(
        self,
        x: float,
        y: float,
        width: float,
        height: float,
        colour: str,
        key: str = "",
        hatched: bool = False,
    ) -> None:
        """A filled rectangle."""
        self.items.append(Box(x, y, max(width, 0.0), height, colour, key, hatched))

    def line(
        self,
        points: Sequence[Point],
        colour: str,
        width: float = 1.0,
        dash: float = 0.0,
        key: str = "",
    ) -> None:
        """A line through points; width and dash in units."""
        self.items.append(Line(tuple(points), colour, width * self.unit, dash * self.unit, key))

    def area(self, points: Sequence[Point], colour: str, edge: str = "", key: str = "") -> None:
        """A filled shape with corners."""
        self.items.append(Area(tuple(points), colour, edge, key))

    def words(
        self,
        x: float,
        middle: float,
        text: str,
        *,
        size: float = 0.0,
        weight: int = REGULAR,
        colour: str = "",
        align: str = "left",
        most: float = 0.0,
        key: str = "",
    ) -> float:
        """Words around the height `middle`, cut to `most`; how wide they are."""
        size = size or self.small
        text = self.cut(text, size, weight, most) if most else text
        width = self.measure(text, size, weight)
        left = x - width * {"left": 0.0, "center": 0.5, "right": 1.0}[align]
        baseline = middle + 0.35 * size  # half the height of capitals
        self.items.append(Words(left, baseline, text, size, weight, colour or self.theme.ink, key))
        return width

    def cut(self, text: str, size: float, weight: int, most: float) -> str:
        """Words that end in an ellipsis where they are wider than `most`."""
        if self.measure(text, size, weight) <= most:
            return text
        fits = 0
        for step in (64, 32, 16, 8, 4, 2, 1):
            longer = fits + step
            if longer < len(text) and self.measure(f"{text[:longer]}…", size, weight) <= most:
                fits = longer
        return f"{text[:fits].rstrip()}…"

    def figure(self, x: float, middle: float, text: str) -> None:
        """A figure beside its bar, on paper, so that no line runs through it."""
        gap, size = 3.0 * self.unit, self.figure_size
        width = self.measure(text, size, BOLD)
        self.box(x - gap, middle - 0.62 * size, width + 2 * gap, 1.24 * size, self.theme.card)
        self.words(x, middle, text, size=size, weight=BOLD)

    def mark(
        self,
        x: float,
        y: float,
        shape: int,
        colour: str,
        size: float,
        key: str = "",
        edge: str = "",
    ) -> None:
        """A mark around a point; its size in units."""
        edge = edge or self.theme.card
        self.items.append(Mark(x, y, shape, size * self.unit, colour, edge, key))

    def rule(self, left: float, right: float, top: float, scale: Scale, unit: str) -> None:
        """A graduated rule with its numbers; what it measures stands at its right end."""
        u, theme = self.unit, self.theme
        self.box(left - 3 * u, top, right - left + 6 * u, 22 * u, theme.rule)
        for value in scale.minors():
            x = left + scale.share(value) * (right - left)
            self.line([(x, top), (x, top + 5 * u)], theme.steel)
        for value in scale.majors():
            x = left + scale.share(value) * (right - left)
            self.line([(x, top), (x, top + 9 * u)], theme.ink)
            self.words(x, top + 15.5 * u, f"{value:g}", align="center")
        self.words(right + 16 * u, top + 11 * u, unit, colour=theme.steel)


def overlap(one: tuple[float, ...], other: tuple[float, ...]) -> bool:
    """Whether two boxes (left, top, right, bottom) lie over one another."""
    return one[0] < other[2] and other[0] < one[2] and one[1] < other[3] and other[1] < one[3]


def apart(places: Sequence[float], least: float) -> list[float]:
    """Rising places pushed down until they stand at least so far apart."""
    spread: list[float] = []
    for place in places:
        spread.append(max(place, spread[-1] + least) if spread else place)
    return spread
