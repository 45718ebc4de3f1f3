"""A sheet on a page of a PDF: its lines and words themselves, not a picture of them."""

from typing import Any

from reportlab.lib.colors import HexColor
from reportlab.platypus import Flowable

from blunt_ruler.core.drawing.palette import mark_corners
from blunt_ruler.core.drawing.picture import Area, Box, Item, Line, Mark, Words
from blunt_ruler.exchange.charts.sheet import HEIGHT, WIDTH, ChartSheet
from blunt_ruler.exchange.printing.pdf import printed_stretches

EDGE = 1.4  # how wide the outline of a shape is, in pixels of a sheet
HATCH = 9.0  # from one line of a hatch to the next


class PrintedSheet(Flowable):  # type: ignore[misc]  # reportlab has no types
    """A sheet that is `width` points wide."""

    def __init__(self, sheet: ChartSheet, width: float) -> None:
        super().__init__()
        self._sheet = sheet
        self.width, self.height = width, width * HEIGHT / WIDTH

    def wrap(self, _width: float, _height: float) -> tuple[float, float]:
        """The room it takes."""
        return self.width, self.height

    def draw(self) -> None:
        """Put it on the canvas of the page, whose y runs upwards."""
        page = self.canv
        scale = self.width / WIDTH
        page.saveState()
        page.scale(scale, scale)
        page.setFillColor(HexColor(self._sheet.theme.card))
        page.rect(0, 0, WIDTH, HEIGHT, stroke=0, fill=1)
        for item, dx, dy in self._sheet.items:
            self._put(page, item, dx, dy)
        page.restoreState()

    def _put(self, page: Any, item: Item, dx: float, dy: float) -> None:
        match item:
            case Box():
                left, bottom = item.x + dx, HEIGHT - (item.y + dy + item.height)
                page.setFillColor(HexColor(item.colour))
                page.rect(left, bottom, item.width, item.height, stroke=0, fill=1)
                if item.hatched:
                    self._hatch(page, left, bottom, item.width, item.height)
            case Line():
                path = page.beginPath()
                for place, (x, y) in enumerate(item.points):
                    (path.lineTo if place else path.moveTo)(x + dx, HEIGHT - y - dy)
                page.setStrokeColor(HexColor(item.colour))
                page.setLineWidth(item.width)
                page.setDash([item.dash, 2.0 * item.width] if item.dash else [])
                page.drawPath(path, stroke=1, fill=0)
                page.setDash([])
            case Area():
                self._shape(page, [(x + dx, y + dy) for x, y in item.points], item)
            case Mark():
                around = mark_corners(item.shape, item.x + dx, item.y + dy, item.size)
                self._shape(page, around, item)
            case Words():
                left, baseline = item.x + dx, HEIGHT - item.baseline - dy
                page.setFillColor(HexColor(item.colour))
                for font, stretch in printed_stretches(item.text, item.weight):
                    page.setFont(font, item.size)
                    page.drawString(left, baseline, stretch)
                    left += page.stringWidth(stretch, font, item.size)

    def _shape(self, page: Any, corners: list[tuple[float, float]], item: Area | Mark) -> None:
        path = page.beginPath()
        for place, (x, y) in enumerate(corners):
            (path.lineTo if place else path.moveTo)(x, HEIGHT - y)
        path.close()
        page.setFillColor(HexColor(item.colour))
        if item.edge:
            page.setStrokeColor(HexColor(item.edge))
            page.setLineWidth(EDGE)
        page.drawPath(path, stroke=bool(item.edge), fill=1)

    def _hatch(self, page: Any, left: float, bottom: float, width: float, height: float) -> None:
        page.saveState()
        inside = page.beginPath()
        inside.rect(left, bottom, width, height)
        page.clipPath(inside, stroke=0, fill=0)
        page.setStrokeColor(HexColor(self._sheet.theme.card))
        page.setLineWidth(EDGE)
        at = -height
        while at < width:
            page.line(left + at, bottom, left + at + height, bottom + height)
            at += HATCH
        page.restoreState()
