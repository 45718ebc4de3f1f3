"""How a sheet is saved as PNG and as SVG, and how wide words are on it: by matplotlib."""

import io
import logging
import warnings
from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager
from functools import cache, lru_cache
from html import escape
from itertools import groupby
from pathlib import Path
from typing import Any

import numpy as np
from matplotlib import rc_context
from matplotlib.artist import Artist
from matplotlib.axes import Axes
from matplotlib.backends.backend_agg import FigureCanvasAgg
from matplotlib.collections import LineCollection
from matplotlib.figure import Figure
from matplotlib.font_manager import FontProperties, fontManager
from matplotlib.lines import Line2D
from matplotlib.patches import Polygon, Rectangle
from matplotlib.text import Text
from PIL import Image
from PIL.PngImagePlugin import PngInfo

from blunt_ruler.core.drawing.palette import Theme, mark_corners
from blunt_ruler.core.drawing.picture import (
    MEDIUM,
    SEMIBOLD,
    Area,
    Box,
    Item,
    Line,
    Mark,
    Words,
)
from blunt_ruler.core.text import HARD, THIN, in_place
from blunt_ruler.exchange.charts.sheet import CLEAR, HEIGHT, SIZES, SVG_KIND, WIDTH, ChartSheet
from blunt_ruler.exchange.printing.fonts import font_file
from blunt_ruler.exchange.printing.letters import FALLBACK, are_own, fonts_of, names_of

POINTS = 0.72  # in a pixel of a 100 dpi sheet

PNG_EFFORT = 6  # of 9, which takes three times as long for 2 % fewer bytes
# Outlines in place of text, so that a chart looks the same without Barlow; fixed ids.
SVG_STYLE: Any = {"svg.fonttype": "path", "svg.hashsalt": "blunt-ruler"}


# It would tell everyone who writes a report that the other font has no semi-bold.
logging.getLogger("matplotlib.font_manager").setLevel(logging.ERROR)


def saved(sheet: ChartSheet, kinds: Iterable[str]) -> dict[str, bytes]:
    """A sheet as the wanted kinds: SVG_KIND, CLEAR, or one of SIZES as PNG.

    It is drawn once for all sizes: the smaller picture is the larger one made small.
    """
    wanted = set(kinds)
    figure = _figure(sheet)
    found = {}
    if wanted & SIZES.keys():
        found = _pngs(figure, sheet, wanted & SIZES.keys())
    if CLEAR in wanted:
        found[CLEAR] = _clear(figure, sheet)
    if SVG_KIND in wanted:
        found[SVG_KIND] = _svg(figure, sheet)
    figure.clear()
    figure.canvas = None  # type: ignore[assignment]  # they hold one another, megabytes each
    return found


@lru_cache(maxsize=50_000)
def measure(words: str, size: float, weight: int) -> float:
    """How wide words are, in pixels of a sheet."""
    shown = _shown(words)
    font = _font(weight, shown).copy()
    font.set_size(size * POINTS)
    with _quietly():
        width, _, _ = _ruler().get_text_width_height_descent(shown, font, ismath=False)
    return float(width)


@cache
def _ruler() -> Any:
    return FigureCanvasAgg(_blank()).get_renderer()  # type: ignore[no-untyped-call]


def _shown(words: str) -> str:
    """Words as they are drawn."""
    return in_place(words.replace(THIN, HARD))


def _blank() -> Figure:
    figure = Figure(figsize=(WIDTH / 100, HEIGHT / 100), dpi=100)
    axes = figure.add_axes((0.0, 0.0, 1.0, 1.0))
    axes.set_xlim(0, WIDTH)
    axes.set_ylim(HEIGHT, 0)
    axes.axis("off")
    return figure


def _figure(sheet: ChartSheet) -> Figure:
    figure = _blank()
    figure.set_facecolor(sheet.theme.card)
    axes, place = figure.axes[0], 0
    # The lines of a scale are alike and many: one artist for all is ten times as quick.
    for alike, run in groupby(sheet.items, key=_likeness):
        items = list(run)
        drawn = (
            [_lines(axes, items)]
            if alike is not None
            else [_artist(axes, sheet.theme, *one) for one in items]
        )
        for made, (item, _, _) in zip(drawn, items, strict=False):
            place += 1
            made.set_zorder(place)  # what is drawn later lies above
            if item.key:
                made.set_gid(item.key)
    return figure


def _likeness(placed: tuple[Item, float, float]) -> tuple[str, float, float] | None:
    """What lines that are drawn together share; None for what is drawn alone."""
    item = placed[0]
    if isinstance(item, Line) and not item.key:
        return item.colour, item.width, item.dash
    return None


def _lines(axes: Axes, items: Sequence[tuple[Item, float, float]]) -> Artist:
    first = items[0][0]
    assert isinstance(first, Line)
    width, paths = first.width * POINTS, []
    for item, dx, dy in items:
        assert isinstance(item, Line)
        paths.append([(x + dx, y + dy) for x, y in item.points])
    # Dashes of a collection are in widths of its line, as those of a line are.
    dashes = (0.0, (first.dash / first.width, 2.0)) if first.dash else "solid"
    return axes.add_collection(
        LineCollection(
            paths,
            colors=first.colour,
            linewidths=width,
            linestyles=[dashes],
            capstyle="butt",
            joinstyle="miter",
        ),
        autolim=False,
    )


def _font(weight: int, words: str) -> FontProperties:
    """What draws words: one file where it has all letters, for matplotlib weighs every font there
    is for each size of each family.
    """
    return _own_font(weight) if are_own(words) else _with_others(weight, fonts_of(words))


@cache
def _own_font(weight: int) -> FontProperties:
    return FontProperties(fname=font_file(weight))


@cache
def _with_others(weight: int, others: tuple[Path, ...]) -> FontProperties:
    fontManager.addfont(str(font_file(weight)))
    for other in others:
        fontManager.addfont(str(other))
    families = {MEDIUM: "Barlow Medium", SEMIBOLD: "Barlow SemiBold"}
    family = families.get(weight, "Barlow")
    return FontProperties(family=[family, FALLBACK, *names_of(others)], weight=weight)


@contextmanager
def _quietly() -> Iterator[None]:
    """A letter that no font has is drawn as a box; `fonts.boxed_words` tells of it."""
    with warnings.catch_warnings():
        warnings.filterwarnings("ignore", r"Glyph .* missing")
        yield


def _text(axes: Axes, x: float, y: float, words: str, size: float, weight: int) -> Text:
    shown = _shown(words)
    return axes.text(
        *(x, y, shown),
        fontproperties=_font(weight, shown),
        fontsize=size * POINTS,
        va="baseline",
        parse_math=False,
    )


def _artist(axes: Axes, theme: Theme, item: Item, dx: float, dy: float) -> Artist:
    match item:
        case Box():
            corner = (item.x + dx, item.y + dy)
            box = Rectangle(corner, item.width, item.height, facecolor=item.colour, linewidth=0)
            if item.hatched:
                box.set_hatch("///")
                box.set_edgecolor(theme.card)
            return axes.add_patch(box)
        case Line():
            xs, ys = zip(*((x + dx, y + dy) for x, y in item.points), strict=True)
            line = Line2D(xs, ys, color=item.colour, linewidth=item.width * POINTS)
            line.set_solid_capstyle("butt")
            line.set_solid_joinstyle("miter")
            if item.dash:
                line.set_dashes((item.dash * POINTS / line.get_linewidth(), 2.0))
            return axes.add_line(line)
        case Area():
            corners = [(x + dx, y + dy) for x, y in item.points]
            edge = item.edge or "none"
            return axes.add_patch(
                Polygon(corners, closed=True, facecolor=item.colour, edgecolor=edge)
            )
        case Words():
            left, baseline = item.x + dx, item.baseline + dy
            made = _text(axes, left, baseline, item.text, item.size, item.weight)
            made.set_color(item.colour)
            return made
        case Mark():
            around = mark_corners(item.shape, item.x + dx, item.y + dy, item.size)
            mark = Polygon(around, closed=True, facecolor=item.colour, edgecolor=item.edge)
            return axes.add_patch(mark)


def _pngs(figure: Figure, sheet: ChartSheet, sizes: Iterable[str]) -> dict[str, bytes]:
    """The sheet as PNG, drawn at the largest of the sizes that are wanted."""
    whole = Image.fromarray(_dots(figure, max(sizes, key=SIZES.__getitem__))[:, :, :3].copy())
    found = {}
    for size in sizes:
        width, height = (round(side * SIZES[size]) for side in (WIDTH, HEIGHT))
        shown = whole
        if whole.size != (width, height):
            shown = whole.resize((width, height), Image.Resampling.HAMMING)
        found[size] = _png(shown, sheet)
    return found


def _clear(figure: Figure, sheet: ChartSheet) -> bytes:
    """The sheet as PNG at its largest size, with nothing where nothing is drawn."""
    figure.set_facecolor("none")
    dots = _dots(figure, max(SIZES, key=SIZES.__getitem__))
    figure.set_facecolor(sheet.theme.card)
    return _png(Image.fromarray(dots.copy()), sheet)


def _dots(figure: Figure, size: str) -> "np.ndarray[Any, Any]":
    """The figure drawn at one of SIZES, shape (height, width, 4)."""
    figure.set_dpi(100.0 * SIZES[size])
    canvas = FigureCanvasAgg(figure)
    with _quietly():
        canvas.draw()  # type: ignore[no-untyped-call]
    dots = np.asarray(canvas.buffer_rgba())  # type: ignore[no-untyped-call]
    figure.set_dpi(100.0)
    return dots


def _png(picture: Image.Image, sheet: ChartSheet) -> bytes:
    told = PngInfo()
    told.add_itxt("Title", sheet.title)
    out = io.BytesIO()
    picture.save(out, "png", compress_level=PNG_EFFORT, pnginfo=told)
    return out.getvalue()


def _svg(figure: Figure, sheet: ChartSheet) -> bytes:
    """The sheet as SVG with its title and what it shows in words."""
    out = io.BytesIO()
    with rc_context(SVG_STYLE), _quietly():
        metadata = {"Date": None, "Creator": None}
        figure.savefig(out, format="svg", metadata=metadata)
    head, body = out.getvalue().decode().split("<svg ", 1)
    inside, rest = body.split(">", 1)
    title, says = (escape(words, quote=False) for words in (sheet.title, sheet.says))
    told = f"<title>{title}</title><desc>{says}</desc>"
    return f'{head}<svg role="img" {inside}>{told}{rest}'.encode()
