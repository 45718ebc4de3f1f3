"""Overlays as a recording shows them: rows of a label and a figure in a corner of the picture.

Every style is invented; none is any program's. They differ where real ones do: letters and their
size, colour, outline, a box behind, where they stand, how often they renew, digits as wide as each
other or not.
"""

from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np
from matplotlib import get_data_path
from PIL import Image, ImageDraw, ImageFont

from blunt_ruler.core.types import ByteArray

OWN_FONTS = Path(__file__).parents[2] / "resources" / "fonts"
PLAIN_FONTS = Path(get_data_path()) / "fonts" / "ttf"

Colour = tuple[int, int, int]


@dataclass(frozen=True, slots=True)
class Style:
    """How an overlay looks.

    Attributes:
        size: height of its letters as a share of the picture's.
        behind: how much of the scene the box behind it covers, 0 to 1.
        renews_s: how long a figure stands.
        units: whether the unit is written behind the figure.
        rows: what it tells, from the top: quantities of `LABELS`.
    """

    name: str
    font: str
    size: float
    colour: Colour
    label_colour: Colour
    outline: int = 0
    behind: float = 0.0
    corner: str = "top left"
    renews_s: float = 0.5
    units: bool = True
    rows: tuple[str, ...] = ("fps", "card_w", "load", "temperature")


LABELS = {
    "fps": ("FPS", "", 0),
    "low": ("1% LOW", "", 0),
    "card_w": ("CARD", "W", 0),
    "wall_w": ("WALL", "W", 0),
    "load": ("LOAD", "%", 0),
    "temperature": ("TEMP", "°C", 0),
    "memory": ("MEM", "GB", 1),
    "clock": ("CLOCK", "MHz", 0),
}
"""Quantity → its label, its unit, and its decimals."""

STYLES = {
    style.name: style
    for style in (
        Style("plain", "DejaVuSansMono-Bold.ttf", 0.032, (240, 240, 240), (240, 240, 240), 0, 0.55),
        Style("outlined", "barlow-latin-700-normal.ttf", 0.04, (255, 214, 64), (255, 255, 255), 2,
              corner="top right", renews_s=1.0),
        Style("small", "DejaVuSans.ttf", 0.021, (120, 235, 160), (235, 235, 235), 1,
              corner="bottom left", renews_s=0.5, units=False),
        Style("boxed", "DejaVuSans-Bold.ttf", 0.028, (120, 200, 255), (200, 200, 200), 0, 0.85,
              renews_s=0.25, rows=("fps", "low", "card_w", "load")),
        Style("serif", "DejaVuSerif.ttf", 0.03, (255, 140, 120), (255, 140, 120), 1, 0.35,
              corner="bottom right", renews_s=0.8, rows=("fps", "memory", "clock")),
        Style("lone", "barlow-latin-600-normal.ttf", 0.06, (120, 255, 120), (120, 255, 120), 2,
              corner="top right", renews_s=0.5, units=False, rows=("fps",)),
    )
}  # fmt: skip


class Place(NamedTuple):
    """Where one figure stands in the picture, in pixels, its label left out."""

    x: int
    y: int
    w: int
    h: int


class Overlay:
    """An overlay on pictures of one size: draws its rows, and knows where each figure stands."""

    def __init__(self, style: Style, width: int, height: int) -> None:
        self.style = style
        self._size = (width, height)
        self._px = max(round(style.size * height), 9)
        self._font = _font(style.font, self._px)
        self._line = round(self._px * 1.35)
        self._margin = round(0.018 * height)
        pad = style.outline + round(self._px * 0.35)
        labels = [LABELS[row][0] for row in style.rows] if self._has_labels else [""]
        self._figure_x = pad + max(self._wide(one) for one in labels)
        self._figure_x += round(self._px * 0.8) if self._has_labels else 0
        widest = max(self._wide(_figure_text(style, row, "8888")) for row in style.rows)
        self._patch = (self._figure_x + widest + pad, self._line * len(style.rows) + 2 * pad)
        self._pad = pad
        across, down = style.corner.split()[::-1]
        self._at = (
            self._margin if across == "left" else width - self._margin - self._patch[0],
            self._margin if down == "top" else height - self._margin - self._patch[1],
        )

    @property
    def _has_labels(self) -> bool:
        return len(self.style.rows) > 1

    def _wide(self, text: str) -> int:
        return int(np.ceil(self._font.getlength(text)))

    def places(self) -> dict[str, Place]:
        """Where each figure stands, with room around it: quantity → place."""
        room = round(self._px * 0.25)
        return {
            row: Place(
                self._at[0] + self._figure_x - room,
                self._at[1] + self._pad + self._line * at - room // 2,
                self._patch[0] - self._figure_x + room,
                self._line + room,
            )
            for at, row in enumerate(self.style.rows)
        }

    def draw(self, picture: ByteArray, figures: dict[str, str]) -> None:
        """Draw the figures on a picture, shape (height, width, 3), in place."""
        patch, cover = self._drawn(tuple(figures[row] for row in self.style.rows))
        x, y = self._at
        part = picture[y : y + patch.shape[0], x : x + patch.shape[1]]
        part[:] = (part * (1.0 - cover) + patch * cover).astype(np.uint8)

    def _drawn(self, texts: tuple[str, ...]) -> tuple[np.ndarray, np.ndarray]:
        """The colours of the patch, shape (h, w, 3), and how much each covers, shape (h, w, 1)."""
        style = self.style
        image = Image.new("RGBA", self._patch, (12, 14, 18, round(255 * style.behind)))
        pen = ImageDraw.Draw(image)
        for at, (row, text) in enumerate(zip(style.rows, texts, strict=True)):
            y = self._pad + self._line * at
            outline: dict[str, Any] = {
                "stroke_width": style.outline,
                "stroke_fill": (0, 0, 0, 255),
            }
            if self._has_labels:
                ink = (*style.label_colour, 255)
                pen.text((self._pad, y), LABELS[row][0], ink, self._font, **outline)
            ink = (*style.colour, 255)
            pen.text(
                (self._figure_x, y), _figure_text(style, row, text), ink, self._font, **outline
            )
        drawn = np.asarray(image, dtype=np.float32)
        return drawn[..., :3], drawn[..., 3:] / 255.0


def _figure_text(style: Style, row: str, text: str) -> str:
    unit = LABELS[row][1] if style.units else ""
    return f"{text} {unit}".strip()


@lru_cache(maxsize=32)
def _font(name: str, px: int) -> ImageFont.FreeTypeFont:
    own = OWN_FONTS / name
    return ImageFont.truetype(str(own if own.exists() else PLAIN_FONTS / name), px)
