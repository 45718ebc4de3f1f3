"""A sheet of paper that charts are drawn on, in pixels of 1280 × 720, and how it is saved.

Type is large: a chart is looked at on a phone, or for two seconds in a paused video.
"""

import io
import logging
import warnings
import xml.etree.ElementTree as ET
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from functools import cache
from typing import Any

from matplotlib import rc_context
from matplotlib.backends.backend_agg import FigureCanvasAgg
from matplotlib.figure import Figure
from matplotlib.font_manager import FontProperties, fontManager
from matplotlib.lines import Line2D
from matplotlib.patches import Polygon, Rectangle
from matplotlib.text import Text

from blunt_ruler.core.drawing.palette import PAPER, Theme, mark_corners
from blunt_ruler.core.drawing.ticks import Scale
from blunt_ruler.core.text import THIN
from blunt_ruler.exchange.fonts import font_file

WIDTH, HEIGHT = 1280.0, 720.0
MARGIN = 48.0
TITLE, BODY, SMALL = 38.0, 25.0, 21.0  # pixels at 1280 wide
MARK = 11.0
REGULAR, SEMIBOLD, BOLD = 400, 600, 700
SIZES = {"1280x720": 100, "1920x1080": 150}  # pixels → dots per inch of a 12.8-inch sheet
SVG = "http://www.w3.org/2000/svg"

# Outlines in place of text, so that a chart looks the same without Barlow; fixed ids.
SVG_STYLE: Any = {"svg.fonttype": "path", "svg.hashsalt": "blunt-ruler"}


# It would tell everyone who writes a report that the other font has no semi-bold.
logging.getLogger("matplotlib.font_manager").setLevel(logging.ERROR)
FALLBACK = "DejaVu Sans"  # comes with matplotlib; for letters that Barlow's Latin set lacks


@cache
def _font(weight: int) -> FontProperties:
    with font_file(weight) as path:
        fontManager.addfont(str(path))
    family = "Barlow SemiBold" if weight == SEMIBOLD else "Barlow"
    return FontProperties(family=[family, FALLBACK], weight=weight)


@contextmanager
def _quietly() -> Iterator[None]:
    """A letter that neither font has is drawn as a box, and no more is said of it."""
    with warnings.catch_warnings():
        warnings.filterwarnings("ignore", r"Glyph .* missing")
        yield


class ChartCanvas:
    """One chart being drawn: pixels from the top left, 1280 wide and 720 high."""

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
        self.text(MARGIN, 62, title, TITLE, BOLD, most=WIDTH - 2 * MARGIN)

    def _width(self, made: Text) -> float:
        with _quietly():
            return float(made.get_window_extent(self._measure).width)

    def _above(self) -> int:
        """What is drawn later lies above."""
        self._drawn += 1
        return self._drawn

    def text(
        self,
        x: float,
        y: float,
        words: str,
        size: float = BODY,
        weight: int = REGULAR,
        colour: str = "",
        align: str = "left",
        most: float = 0.0,
        name: str = "",
    ) -> float:
        """Words with their baseline at y; narrowed until they take at most `most`. Their width."""
        made = self._axes.text(
            *(x, y, words.replace(THIN, "\u00a0")),
            fontproperties=_font(weight),
            fontsize=size * 0.72,  # points of a 100 dpi sheet
            color=colour or self.theme.ink,
            ha=align,
            va="baseline",
            zorder=self._above(),
            parse_math=False,
        )
        if name:
            made.set_gid(name)
        width = self._width(made)
        while most and width > most and len(words) > 4:
            words = f"{words.rstrip('…')[:-2].rstrip()}…"
            made.set_text(words.replace(THIN, "\u00a0"))
            width = self._width(made)
        return width

    def figure(self, x: float, y: float, words: str) -> None:
        """A large figure beside its bar, on paper so that no line runs through it."""
        self.box(x - 5, y - 27, self.width_of(words, 30, BOLD) + 10, 34, self.theme.card)
        self.text(x, y, words, 30, BOLD)

    def width_of(self, words: str, size: float, weight: int) -> float:
        """How wide words would be."""
        made = self._axes.text(
            0, 0, words.replace(THIN, "\u00a0"), fontproperties=_font(weight), fontsize=size * 0.72
        )
        made.set_parse_math(False)
        width = self._width(made)
        made.remove()
        return width

    def box(
        self,
        x: float,
        y: float,
        width: float,
        height: float,
        colour: str,
        name: str = "",
        hatch: str = "",
    ) -> None:
        """A filled rectangle from its top left corner; a hatch is drawn in the sheet's colour."""
        patch = Rectangle((x, y), max(width, 0.0), height, facecolor=colour, linewidth=0)
        patch.set_zorder(self._above())
        if hatch:
            patch.set_hatch(hatch)
            patch.set_edgecolor(self.theme.card)
        if name:
            patch.set_gid(name)
        self._axes.add_patch(patch)

    def line(
        self,
        points: Sequence[tuple[float, float]],
        colour: str,
        width: float = 1.5,
        dashes: tuple[float, float] | None = None,
        name: str = "",
    ) -> None:
        """A line through some points."""
        xs, ys = zip(*points, strict=True)
        drawn = Line2D(xs, ys, color=colour, linewidth=width * 0.72, zorder=self._above())
        self._axes.add_line(drawn)
        drawn.set_solid_capstyle("butt")
        if dashes:
            drawn.set_dashes(dashes)
        if name:
            drawn.set_gid(name)

    def mark(self, x: float, y: float, shape: int, colour: str, name: str = "") -> None:
        """A mark of one of four shapes: shape tells points apart without colour."""
        points = mark_corners(shape, x, y, MARK)
        patch = Polygon(points, closed=True, facecolor=colour, edgecolor=self.theme.card)
        patch.set_zorder(self._above())
        if name:
            patch.set_gid(name)
        self._axes.add_patch(patch)

    def rule(self, left: float, right: float, y: float, scale: Scale, unit: str) -> None:
        """A graduated rule with its numbers; the unit stands at its right end."""
        self.box(left - 4, y, right - left + 8, 40, self.theme.rule)
        for value in scale.minors():
            x = left + scale.share(value) * (right - left)
            self.line([(x, y), (x, y + 8)], self.theme.steel, 1.2)
        for value in scale.majors():
            x = left + scale.share(value) * (right - left)
            self.line([(x, y), (x, y + 14)], self.theme.ink, 1.6)
            self.text(x, y + 35, f"{value:g}", SMALL, align="center")
        self.text(right + 34, y + 30, unit, SMALL, colour=self.theme.steel)

    def foot(self, words: str) -> None:
        """The line at the bottom: base, reference, school."""
        self.text(
            MARGIN, HEIGHT - 22, words, SMALL, colour=self.theme.steel, most=WIDTH - 2 * MARGIN
        )

    def let_go(self) -> None:
        """Free what was drawn: a figure and its canvas hold one another, megabytes each."""
        self._figure.clear()
        self._figure.canvas = None  # type: ignore[assignment]
        del self._measure, self._axes

    def png(self, size: str = "1280x720") -> bytes:
        """The chart as PNG at one of SIZES."""
        out = io.BytesIO()
        options: dict[str, Any] = {"metadata": {"Software": None, "Title": self.title}}
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
