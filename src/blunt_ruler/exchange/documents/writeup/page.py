"""The write-up as one HTML file: fonts and charts inside it, no scripts, every figure marked.

A figure is `<span class="figure" data-figure data-rig data-case data-value>`; a sentence is
`<span data-says="key">`. Both can be read back.
"""

import base64
import re
from collections.abc import Mapping

from blunt_ruler.core.drawing.palette import PAPER
from blunt_ruler.core.sentences import Figure
from blunt_ruler.core.text import bound, in_place
from blunt_ruler.core.writeup.document import (
    Block,
    Bullets,
    ChartKey,
    Document,
    Grid,
    Paragraph,
)
from blunt_ruler.exchange.documents.templates import render
from blunt_ruler.exchange.printing.fonts import font_file

WEIGHTS = (400, 600, 700)


def html_page(document: Document, sources: Mapping[ChartKey, str], dressed: bool = True) -> str:
    """The page. `sources` are the addresses of the document's charts.

    Undressed it has no style and no fonts, and each sentence is a link of its key: what the
    window's preview shows.
    """
    page = bound(_rendered(document, sources, dressed))
    return re.sub(">[^<]+<", lambda between: in_place(between[0]), page)


def _rendered(document: Document, sources: Mapping[ChartKey, str], dressed: bool) -> str:
    return render(
        "page.html.j2",
        document=document,
        theme=PAPER,
        dressed=dressed,
        fonts=[(weight, _font(weight)) for weight in WEIGHTS] if dressed else [],
        charts=sources,
        kind_of=_kind,
        is_numeric=is_numeric,
    )


def inside(images: Mapping[ChartKey, bytes], kind: str = "svg+xml") -> dict[ChartKey, str]:
    """Images as addresses that hold them, so that a page needs no file beside it."""
    return {
        key: f"data:image/{kind};base64,{base64.b64encode(image).decode()}"
        for key, image in images.items()
    }


def is_numeric(grid: Grid) -> bool:
    """Whether a table holds figures, which stand to the right."""
    return any(isinstance(cell, Figure) for row in grid.rows for cell in row)


def _kind(block: Block) -> str:
    if isinstance(block, Paragraph):
        return "paragraph"
    if isinstance(block, Bullets):
        return "bullets"
    return "grid" if isinstance(block, Grid) else "chart"


def _font(weight: int) -> str:
    return base64.b64encode(font_file(weight).read_bytes()).decode()
