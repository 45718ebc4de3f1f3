"""A chart as a value: pictures on a sheet of 1280 × 720 pixels with a title and a foot.

Type is large: a chart is looked at on a phone, or for two seconds in a paused video. `canvas`
saves a sheet as a picture, `printed` puts it on a page.
"""

from dataclasses import dataclass, field

from blunt_ruler.core.drawing.palette import PAPER, Theme
from blunt_ruler.core.drawing.picture import BOLD, REGULAR, Item, Measure, Picture

WIDTH, HEIGHT = 1280.0, 720.0
MARGIN = 48.0
# What a sheet is saved as: SVG, PNG without a background, or PNG of a size, in pixels → how much
# larger than a sheet.
SVG_KIND = "svg"
SIZES = {"1280x720": 1.0, "1920x1080": 1.5}
CLEAR = "clear"  # 1920 × 1080 without a background, to be laid over a film
TITLE, SMALL = 38.0, 21.0  # pixels at 1280 wide


@dataclass(frozen=True, slots=True)
class ChartSheet:
    """What is drawn, the later above, each item with where its picture's top left corner is."""

    title: str
    says: str
    measure: Measure
    theme: Theme = PAPER
    items: list[tuple[Item, float, float]] = field(default_factory=list)

    def head(self) -> None:
        """The title as the line at the top."""
        self._say(self.title, 48.0, TITLE, BOLD, self.theme.ink)

    def foot(self, words: str) -> None:
        """The line at the bottom: base, reference, school."""
        self._say(words, HEIGHT - 29, SMALL, REGULAR, self.theme.steel)

    def _say(self, words: str, middle: float, size: float, weight: int, colour: str) -> None:
        width = WIDTH - 2 * MARGIN
        line = Picture(self.theme, width, HEIGHT, self.measure, {})
        line.words(0.0, middle, words, size=size, weight=weight, colour=colour, most=width)
        self.paint(line, MARGIN, 0.0)

    def paint(self, picture: Picture, dx: float, dy: float) -> None:
        """Put a picture on the sheet, its top left corner at (dx, dy)."""
        self.items.extend((item, dx, dy) for item in picture.items)
