"""The write-up as PDF: A4 or Letter, Barlow inside, a foot on every page."""

import io
from collections.abc import Mapping
from functools import cache
from html import escape
from itertools import groupby
from pathlib import Path
from typing import Any

from matplotlib import get_data_path
from reportlab.lib import pagesizes
from reportlab.lib.colors import HexColor
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.platypus import (
    Image,
    KeepTogether,
    ListFlowable,
    ListItem,
    SimpleDocTemplate,
    Spacer,
    Table,
    TableStyle,
)
from reportlab.platypus import Paragraph as Text

from blunt_ruler.core.drawing.palette import PAPER
from blunt_ruler.core.sentences import Sentence, plain
from blunt_ruler.core.text import THIN
from blunt_ruler.core.writeup.document import Bullets, ChartKey, Document, Grid, Paragraph
from blunt_ruler.exchange.fonts import font_file
from blunt_ruler.exchange.writeup.page import is_numeric

PAGE_SIZES = {"A4": pagesizes.A4, "Letter": pagesizes.LETTER}
MARGIN = 16 * mm
REGULAR, SEMIBOLD, BOLD = "Barlow-400", "Barlow-600", "Barlow-700"
FALLBACK = "DejaVu Sans"  # comes with matplotlib; for letters that Barlow's Latin set lacks


@cache
def _fonts() -> None:
    for weight in (400, 600, 700):
        with font_file(weight) as path:
            pdfmetrics.registerFont(TTFont(f"Barlow-{weight}", str(path)))
    other = Path(get_data_path(), "fonts", "ttf", "DejaVuSans.ttf")
    pdfmetrics.registerFont(TTFont(FALLBACK, str(other)))


def _styles() -> dict[str, ParagraphStyle]:
    body = ParagraphStyle("body", fontName=REGULAR, fontSize=10, leading=14, spaceAfter=6)
    return {
        "body": body,
        "title": ParagraphStyle("title", fontName=BOLD, fontSize=22, leading=26, spaceAfter=4),
        "line": ParagraphStyle("line", fontName=SEMIBOLD, fontSize=14, leading=18, spaceAfter=4),
        "head": ParagraphStyle(
            "head", fontName=BOLD, fontSize=14, leading=18, spaceBefore=12, spaceAfter=5
        ),
        "quiet": ParagraphStyle("quiet", parent=body, textColor=HexColor(PAPER.steel)),
        "cell": ParagraphStyle("cell", parent=body, fontSize=8, leading=10, spaceAfter=0),
        "right": ParagraphStyle(
            "right", parent=body, fontSize=8, leading=10, spaceAfter=0, alignment=2
        ),
    }


def pdf(document: Document, charts: Mapping[ChartKey, bytes], page: str = "A4") -> bytes:
    """The write-up as PDF. `charts` are PNG images of the document's charts."""
    _fonts()
    styles, size, out = _styles(), PAGE_SIZES[page], io.BytesIO()
    room = size[0] - 2 * MARGIN
    by = f"Tested by {document.byline}. " if document.byline else ""
    dated = f"Figures as of {document.as_of}." if document.as_of else ""
    flow: list[Any] = [
        Text(_words(document.title), styles["title"]),
        Text(_words(document.line), styles["line"]),
        Text(_words(by + dated), styles["quiet"]),
    ]
    for section in document.sections:
        parts: list[Any] = []
        for block in section.blocks:
            if isinstance(block, Paragraph):
                words = " ".join(_sentence(one) for one in block.sentences)
                parts.append(Text(words, styles["body"]))
            elif isinstance(block, Bullets):
                items = [
                    ListItem(Text(_sentence(one), styles["body"]), leftIndent=12)
                    for one in block.sentences
                ]
                bullets = ListFlowable(items, bulletType="bullet", start="–", bulletFontSize=8)
                parts.append(bullets)
            elif isinstance(block, Grid):
                parts.append(_grid(block, room, styles))
            elif block.key in charts:
                image = Image(io.BytesIO(charts[block.key]), room, room * 9 / 16)
                caption = Text(_words(f"{block.title}."), styles["quiet"])
                parts.append(KeepTogether([image, caption]))
        # A heading never stands alone at the foot of a page.
        head = Text(_words(section.title), styles["head"])
        flow += [KeepTogether([head, *parts[:1]]), *parts[1:]]
    made = SimpleDocTemplate(
        out,
        pagesize=size,
        leftMargin=MARGIN,
        rightMargin=MARGIN,
        topMargin=MARGIN,
        bottomMargin=18 * mm,
        title=document.title,
        author=document.byline or None,
        invariant=True,  # no clock, no random id
    )

    def foot(canvas: Any, page_of: Any) -> None:
        canvas.saveState()
        canvas.setFont(REGULAR, 8)
        canvas.setFillColor(HexColor(PAPER.steel))
        canvas.drawString(MARGIN, 9 * mm, f"{document.title}, {document.as_of}")
        canvas.drawRightString(size[0] - MARGIN, 9 * mm, f"page {page_of.page}")
        canvas.restoreState()

    made.build(flow, onFirstPage=foot, onLaterPages=foot)
    return out.getvalue()


def _words(text: str) -> str:
    """Words as the layout takes them: letters that Barlow lacks in the other font."""
    known = pdfmetrics.getFont(REGULAR).face.charToGlyph
    runs = groupby(text.replace(THIN, "\u00a0"), key=lambda letter: ord(letter) in known)
    return "".join(
        escape("".join(run), quote=False)
        if there
        else f'<font name="{FALLBACK}">{escape("".join(run), quote=False)}</font>'
        for there, run in runs
    )


def _sentence(one: Sentence) -> str:
    if one.own is None:
        return _words(one.computed)
    changed = " The figures have changed since." if one.stale else ""
    mark = _words(f"(the reviewer’s words; computed: {one.computed}{changed})")
    return f'{_words(one.own)} <font color="{PAPER.steel}">{mark}</font>'


def _grid(grid: Grid, room: float, styles: Mapping[str, ParagraphStyle]) -> KeepTogether:
    right = styles["right" if is_numeric(grid) else "cell"]
    small = len(grid.heads) > 9
    if small:
        right = ParagraphStyle("small", parent=right, fontSize=6.6, leading=8.4)

    def line(cells: tuple[Any, ...], bold: bool = False) -> list[Text]:
        texts = [_words(plain([cell])) for cell in cells]
        if bold:
            texts = [f'<font name="{SEMIBOLD}">{text}</font>' for text in texts]
        return [Text(text, right if place else styles["cell"]) for place, text in enumerate(texts)]

    first = 0.3 if len(grid.heads) < 8 else 0.2
    rest = (1.0 - first) / max(len(grid.heads) - 1, 1)
    table = Table(
        [line(grid.heads, bold=True), *(line(row) for row in grid.rows)],
        colWidths=[room * first, *[room * rest] * (len(grid.heads) - 1)],
        repeatRows=1,
    )
    table.setStyle(
        TableStyle(
            [
                ("LINEBELOW", (0, 0), (-1, 0), 1.0, HexColor(PAPER.ink)),
                ("LINEBELOW", (0, 1), (-1, -1), 0.4, HexColor(PAPER.line)),
                ("VALIGN", (0, 0), (-1, -1), "TOP"),
                ("VALIGN", (0, 0), (-1, 0), "BOTTOM"),
                ("LEFTPADDING", (0, 0), (-1, -1), 2),
                ("RIGHTPADDING", (0, 0), (-1, -1), 2),
                ("TOPPADDING", (0, 0), (-1, -1), 2),
                ("BOTTOMPADDING", (0, 0), (-1, -1), 3),
            ]
        )
    )
    says = Text(_words(f"{grid.says}."), styles["quiet"])
    return KeepTogether([says, table, Spacer(1, 8)])
