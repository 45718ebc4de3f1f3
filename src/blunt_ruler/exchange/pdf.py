"""The one way to PDF: pages by reportlab in the shipped Barlow, a foot on every page.

Letters that Barlow's Latin set lacks come from another font. The same flow gives the same bytes.
"""

import io
from collections.abc import Sequence
from functools import cache
from html import escape
from itertools import groupby
from pathlib import Path
from typing import Any

from matplotlib import get_data_path
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
from blunt_ruler.core.text import THIN
from blunt_ruler.exchange.fonts import FALLBACK, font_file

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
    """Words with marks for the layout: letters that Barlow lacks in the other font."""
    _fonts()
    known = pdfmetrics.getFont(REGULAR).face.charToGlyph
    runs = groupby(words.replace(THIN, "\u00a0"), key=lambda letter: ord(letter) in known)
    return "".join(
        escape("".join(run), quote=False)
        if there
        else f'<font name="{FALLBACK}">{escape("".join(run), quote=False)}</font>'
        for there, run in runs
    )


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
        canvas.setFont(REGULAR, 8)
        canvas.setFillColor(HexColor(PAPER.steel))
        canvas.drawString(margin, 9 * mm, foot)
        canvas.drawRightString(size[0] - margin, 9 * mm, f"page {page_of.page}")
        canvas.restoreState()

    made.build(list(flow), onFirstPage=draw_foot, onLaterPages=draw_foot)
    return out.getvalue()


@cache
def _fonts() -> None:
    for weight in (400, 600, 700):
        with font_file(weight) as path:
            pdfmetrics.registerFont(TTFont(f"Barlow-{weight}", str(path)))
    # Pictures as they are, not as letters: smaller, and a second less for each report.
    rl_config.useA85 = 0
    other = Path(get_data_path(), "fonts", "ttf", "DejaVuSans.ttf")
    pdfmetrics.registerFont(TTFont(FALLBACK, str(other)))
