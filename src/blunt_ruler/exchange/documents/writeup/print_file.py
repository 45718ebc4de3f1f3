"""The write-up as PDF: A4 or Letter, Barlow inside, a foot on every page."""

from collections.abc import Mapping
from typing import Any

from reportlab.lib.colors import HexColor
from reportlab.lib.styles import ParagraphStyle
from reportlab.platypus import (
    KeepTogether,
    ListFlowable,
    ListItem,
    Spacer,
    Table,
    TableStyle,
)
from reportlab.platypus import Paragraph as Text

from blunt_ruler.core.drawing.palette import PAPER
from blunt_ruler.core.sentences import Sentence, plain
from blunt_ruler.core.writeup.document import Bullets, ChartKey, Document, Grid, Paragraph
from blunt_ruler.exchange.charts.printed import PrintedSheet
from blunt_ruler.exchange.charts.sheet import ChartSheet
from blunt_ruler.exchange.documents.writeup.page import is_numeric
from blunt_ruler.exchange.printing.pdf import BOLD, SEMIBOLD, built, marked, page_size, style, text

MARGIN_MM = 16.0
MARGIN = MARGIN_MM * 72.0 / 25.4  # points


def _styles() -> dict[str, ParagraphStyle]:
    steel = HexColor(PAPER.steel)
    return {
        "body": style(10, 14, spaceAfter=6),
        "title": style(22, 26, BOLD, spaceAfter=4),
        "line": style(14, 18, SEMIBOLD, spaceAfter=4),
        "head": style(14, 18, BOLD, spaceBefore=12, spaceAfter=5),
        "quiet": style(10, 14, spaceAfter=6, textColor=steel),
        "cell": style(8, 10),
        "right": style(8, 10, alignment=2),
        "small": style(6.6, 8.4, alignment=2),
    }


def pdf(document: Document, charts: Mapping[ChartKey, ChartSheet], page: str = "A4") -> bytes:
    """The write-up as PDF, with the sheets of its charts."""
    styles = _styles()
    room = page_size(page)[0] - 2 * MARGIN
    by = f"Tested by {document.byline}. " if document.byline else ""
    dated = f"Figures as of {document.as_of}." if document.as_of else ""
    flow: list[Any] = [
        text(document.title, styles["title"]),
        text(document.line, styles["line"]),
        text(by + dated, styles["quiet"]),
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
                caption = text(f"{block.title}.", styles["quiet"])
                parts.append(KeepTogether([PrintedSheet(charts[block.key], room), caption]))
        # A heading never stands alone at the foot of a page.
        head = text(section.title, styles["head"])
        flow += [KeepTogether([head, *parts[:1]]), *parts[1:]]
    foot = f"{document.title}, {document.as_of}"
    return built(flow, document.title, foot, page, MARGIN_MM, document.byline)


def _sentence(one: Sentence) -> str:
    if one.own is None:
        return marked(one.computed)
    changed = " The figures have changed since." if one.stale else ""
    mark = marked(f"(the reviewer’s words; computed: {one.computed}{changed})")
    return f'{marked(one.own)} <font color="{PAPER.steel}">{mark}</font>'


def _grid(grid: Grid, room: float, styles: Mapping[str, ParagraphStyle]) -> KeepTogether:
    figures = "small" if len(grid.heads) > 9 else "right"
    right = styles[figures if is_numeric(grid) else "cell"]

    def line(cells: tuple[Any, ...], bold: bool = False) -> list[Text]:
        texts = [marked(plain([cell])) for cell in cells]
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
    says = text(f"{grid.says}.", styles["quiet"])
    return KeepTogether([says, table, Spacer(1, 8)])
