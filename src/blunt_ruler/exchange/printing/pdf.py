"""The one way to PDF: pages by reportlab in the shipped Barlow, a foot on every page.

Letters that Barlow's Latin set lacks come from another font. The same flow gives the same bytes.

Why reportlab, by measurement: a table of 400 rows and seven columns, Latin, Chinese, Hebrew and
Arabic, over pages; seconds to import and to write, on one machine:

- reportlab 0.4 + 1.1; the same bytes twice
- Qt's QTextDocument and QPdfWriter 0.04 + 0.7; other bytes each time, and every command would need
  an application object
- fpdf2 2.8 0.4 + 1.4; other bytes each time
- WeasyPrint 0.8 + 3.6; the same bytes where a date is given, but it needs Pango on the machine
"""

import io
from collections.abc import Iterator, Sequence
from functools import cache
from html import escape
from itertools import groupby
from pathlib import Path
from typing import Any

from reportlab import rl_config
from reportlab.lib import pagesizes
from reportlab.lib.colors import HexColor
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.platypus import Paragraph as Text
from reportlab.platypus import SimpleDocTemplate

from blunt_ruler.core.drawing.palette import PAPER
from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.text import HARD, MARK, THIN, turned_stretches
from blunt_ruler.exchange.printing.fonts import font_file
from blunt_ruler.exchange.printing.letters import (
    FALLBACK,
    by_font,
    fallback_file,
    part_name,
    truetype,
)

PAGE_SIZES = {"A4": pagesizes.A4, "Letter": pagesizes.LETTER}
REGULAR, SEMIBOLD, BOLD = "Barlow-400", "Barlow-600", "Barlow-700"


def page_size(name: str) -> tuple[float, float]:
    """Width and height in points; UserFixable for a page that is not known."""
    if name not in PAGE_SIZES:
        raise UserFixable("page", f"there is no size “{name}”", f"Give {' or '.join(PAGE_SIZES)}")
    width, height = PAGE_SIZES[name]
    return float(width), float(height)


def style(size: float, leading: float, font: str = REGULAR, **more: Any) -> ParagraphStyle:
    """A style of text in the shipped font."""
    _fonts()
    return ParagraphStyle(f"{font} {size}", fontName=font, fontSize=size, leading=leading, **more)


def text(words: str, how: ParagraphStyle) -> Text:
    """Words as the layout takes them."""
    return Text(marked(words), how)


def marked(words: str) -> str:
    """Words with marks for the layout: letters that Barlow lacks in another font, and stretches
    written from right to left in the order in which they are seen, on one line.
    """
    return "".join(
        escape(stretch, quote=False)
        if font is None
        else f'<font name="{font}">{escape(stretch, quote=False)}</font>'
        for font, stretch in _stretches(words)
    )


def printed_stretches(words: str, weight: int) -> Iterator[tuple[str, str]]:
    """Words in the order in which they are seen, as stretches of one font each, by its name."""
    for font, stretch in _stretches(words):
        yield font or f"Barlow-{weight}", stretch


def _stretches(words: str) -> Iterator[tuple[str | None, str]]:
    """The same, with no name for the shipped font."""
    _fonts()
    known = pdfmetrics.getFont(REGULAR).face.charToGlyph
    words = words.replace(THIN, HARD).replace(MARK, "")
    if not words.isascii():
        words = "".join(
            _as_seen(stretch) if turned else stretch for turned, stretch in turned_stretches(words)
        )
    for path, part in by_font(words):
        for own, run in groupby(part, key=lambda letter: ord(letter) in known):
            letters = "".join(run)
            if own:
                yield None, letters
            elif path is None:
                yield FALLBACK, letters
            else:
                yield _part(path, "".join(sorted({*letters}))), letters


def _as_seen(words: str) -> str:
    """Words of a script that runs from right to left as they stand on paper from left to right."""
    from arabic_reshaper import reshape
    from bidi import get_display

    return str(get_display(reshape(words.replace(" ", HARD)), base_dir="R"))


@cache
def _part(path: Path, letters: str) -> str:
    """The name of a font with some letters of one of this machine, made known to the layout."""
    name = part_name(path, letters)
    pdfmetrics.registerFont(TTFont(name, io.BytesIO(truetype(path, letters))))
    return name


def built(
    flow: Sequence[Any],
    title: str,
    foot: str,
    page: str = "A4",
    margin_mm: float = 16.0,
    author: str = "",
) -> bytes:
    """A flow as PDF, with a foot and the page's number on every page."""
    _fonts()
    size, out, margin = page_size(page), io.BytesIO(), margin_mm * mm
    made = SimpleDocTemplate(
        out,
        pagesize=size,
        leftMargin=margin,
        rightMargin=margin,
        topMargin=margin,
        bottomMargin=margin + 2 * mm,
        title=title,
        author=author or None,
        invariant=True,  # no clock, no random id
    )

    def draw_foot(canvas: Any, page_of: Any) -> None:
        canvas.saveState()
        line = text(foot, style(8, 10, textColor=HexColor(PAPER.steel)))
        line.wrapOn(canvas, size[0] - 2 * margin - 20 * mm, 12)
        line.drawOn(canvas, margin, 9 * mm - 2)
        canvas.setFont(REGULAR, 8)
        canvas.setFillColor(HexColor(PAPER.steel))
        canvas.drawRightString(size[0] - margin, 9 * mm, f"page {page_of.page}")
        canvas.restoreState()

    made.build(list(flow), onFirstPage=draw_foot, onLaterPages=draw_foot)
    return out.getvalue()


@cache
def _fonts() -> None:
    for weight in (400, 500, 600, 700):
        pdfmetrics.registerFont(TTFont(f"Barlow-{weight}", str(font_file(weight))))
    # Pictures as they are, not as letters: smaller, and a second less for each report.
    rl_config.useA85 = 0
    pdfmetrics.registerFont(TTFont(FALLBACK, str(fallback_file())))
