"""A sheet of paper that charts are drawn on, in pixels of 1280 × 720, and how it is saved.

Type is large: a chart is looked at on a phone, or for two seconds in a paused video.
"""

import io
import logging
import warnings
import xml.etree.ElementTree as ET
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from typing import Any

from matplotlib import rc_context
from matplotlib.artist import Artist
from matplotlib.backends.backend_agg import FigureCanvasAgg
from matplotlib.figure import Figure
from matplotlib.font_manager import FontProperties, fontManager
from matplotlib.lines import Line2D
from matplotlib.patches import Polygon, Rectangle
from matplotlib.text import Text

from blunt_ruler.core.drawing.palette import PAPER, Theme, mark_corners
from blunt_ruler.core.drawing.picture import (
    BOLD,
    MEDIUM,
    REGULAR,
    SEMIBOLD,
    Area,
    Box,
    Item,
    Line,
    Mark,
    Picture,
    Words,
)
from blunt_ruler.core.text import THIN
from blunt_ruler.exchange.fonts import FALLBACK, font_file

WIDTH, HEIGHT = 1280.0, 720.0
MARGIN = 48.0
TITLE, SMALL = 38.0, 21.0  # pixels at 1280 wide
SIZES = {"1280x720": 100, "1920x1080": 150}  # pixels → dots per inch of a 12.8-inch sheet
SVG = "http://www.w3.org/2000/svg"

# Outlines in place of text, so that a chart looks the same without Barlow; fixed ids.
PNG_EFFORT = 3  # of 9: a third more bytes for a third of the time
SVG_STYLE: Any = {"svg.fonttype": "path", "svg.hashsalt": "blunt-ruler"}


# It would tell everyone who writes a report that the other font has no semi-bold.
logging.getLogger("matplotlib.font_manager").setLevel(logging.ERROR)


@cache
def _font(weight: int) -> FontProperties:
    with font_file(weight) as path:
        fontManager.addfont(str(path))
    families = {MEDIUM: "Barlow Medium", SEMIBOLD: "Barlow SemiBold"}
    family = families.get(weight, "Barlow")
    return FontProperties(family=[family, FALLBACK], weight=weight)


@contextmanager
def _quietly() -> Iterator[None]:
    """A letter that neither font has is drawn as a box, and no more is said of it."""
    with warnings.catch_warnings():
        warnings.filterwarnings("ignore", r"Glyph .* missing")
        yield


class ChartCanvas:
    """One chart: a title, pictures painted below it, a foot; 1280 pixels wide and 720 high."""

    def __init__(self, title: str, says: str, theme: Theme = PAPER) -> None:
        self.theme = theme
        self.title, self.says = title, says
        self._figure = Figure(figsize=(WIDTH / 100, HEIGHT / 100), dpi=100)
        self._figure.set_facecolor(theme.card)
        self._axes = self._figure.add_axes((0.0, 0.0, 1.0, 1.0))
        self._axes.set_xlim(0, WIDTH)
        self._axes.set_ylim(HEIGHT, 0)
        self._axes.axis("off")
        self._drawn = 0
        self._measure = FigureCanvasAgg(self._figure).get_renderer()  # type: ignore[no-untyped-call]
        self._widths: dict[tuple[str, float, int], float] = {}
        self._say(title, 48.0, TITLE, BOLD, theme.ink)

    def foot(self, words: str) -> None:
        """The line at the bottom: base, reference, school."""
        self._say(words, HEIGHT - 29, SMALL, REGULAR, self.theme.steel)

    def _say(self, words: str, middle: float, size: float, weight: int, colour: str) -> None:
        width = WIDTH - 2 * MARGIN
        line = Picture(self.theme, width, HEIGHT, self.measure, {})
        line.words(0.0, middle, words, size=size, weight=weight, colour=colour, most=width)
        self.paint(line, MARGIN, 0.0)

    def measure(self, words: str, size: float, weight: int) -> float:
        """How wide words are."""
        key = (words, size, weight)
        if key not in self._widths:
            made = self._text(0.0, 0.0, words, size, weight)
            with _quietly():
                self._widths[key] = float(made.get_window_extent(self._measure).width)
            made.remove()
        return self._widths[key]

    def _text(self, x: float, y: float, words: str, size: float, weight: int) -> Text:
        return self._axes.text(
            *(x, y, words.replace(THIN, "\u00a0")),
            fontproperties=_font(weight),
            fontsize=size * 0.72,  # points of a 100 dpi sheet
            va="baseline",
            parse_math=False,
        )

    def paint(self, picture: Picture, dx: float, dy: float) -> None:
        """Carry a picture out, its top left corner at (dx, dy)."""
        for item in picture.items:
            made = self._artist(item, dx, dy)
            self._drawn += 1
            made.set_zorder(self._drawn)  # what is drawn later lies above
            if item.key:
                made.set_gid(item.key)

    def _artist(self, item: Item, dx: float, dy: float) -> Artist:
        match item:
            case Box():
                corner = (item.x + dx, item.y + dy)
                box = Rectangle(corner, item.width, item.height, facecolor=item.colour, linewidth=0)
                if item.hatched:
                    box.set_hatch("///")
                    box.set_edgecolor(self.theme.card)
                return self._axes.add_patch(box)
            case Line():
                xs, ys = zip(*((x + dx, y + dy) for x, y in item.points), strict=True)
                line = Line2D(xs, ys, color=item.colour, linewidth=item.width * 0.72)
                line.set_solid_capstyle("butt")
                line.set_solid_joinstyle("miter")
                if item.dash:
                    line.set_dashes((item.dash * 0.72 / line.get_linewidth(), 2.0))
                return self._axes.add_line(line)
            case Area():
                corners = [(x + dx, y + dy) for x, y in item.points]
                edge = item.edge or "none"
                area = Polygon(corners, closed=True, facecolor=item.colour, edgecolor=edge)
                return self._axes.add_patch(area)
            case Words():
                made = self._text(
                    item.x + dx, item.baseline + dy, item.text, item.size, item.weight
                )
                made.set_color(item.colour)
                return made
            case Mark():
                around = mark_corners(item.shape, item.x + dx, item.y + dy, item.size)
                mark = Polygon(around, closed=True, facecolor=item.colour, edgecolor=item.edge)
                return self._axes.add_patch(mark)

    def let_go(self) -> None:
        """Free what was drawn: a figure and its canvas hold one another, megabytes each."""
        self._figure.clear()
        self._figure.canvas = None  # type: ignore[assignment]
        del self._measure, self._axes

    def png(self, size: str = "1280x720") -> bytes:
        """The chart as PNG at one of SIZES."""
        out = io.BytesIO()
        options: dict[str, Any] = {
            "metadata": {"Software": None, "Title": self.title},
            "pil_kwargs": {"compress_level": PNG_EFFORT},
        }
        with _quietly():
            self._figure.savefig(
                out, format="png", dpi=SIZES[size], facecolor=self.theme.card, **options
            )
        return out.getvalue()

    def svg(self) -> bytes:
        """The chart as SVG with its title and what it shows in words."""
        out = io.BytesIO()
        with rc_context(SVG_STYLE), _quietly():
            metadata = {"Date": None, "Creator": None}
            self._figure.savefig(out, format="svg", metadata=metadata)
        ET.register_namespace("", SVG)
        ET.register_namespace("xlink", "http://www.w3.org/1999/xlink")
        root = ET.fromstring(out.getvalue())
        root.set("role", "img")
        for place, (tag, words) in enumerate((("title", self.title), ("desc", self.says))):
            made = ET.Element(f"{{{SVG}}}{tag}")
            made.text = words
            root.insert(place, made)
        body: bytes = ET.tostring(root, encoding="utf-8", xml_declaration=True)
        return body + b"\n"
