"""One picture of a screen of results or of an overlay: its figures, each with its label, and the
table that it shows where it shows one.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from io import BytesIO
from pathlib import Path

import numpy as np

from blunt_ruler.core.recordings.found_boxes import figures_on
from blunt_ruler.core.recordings.picture_table import CLEAR, PictureRow, has_heads, table_on
from blunt_ruler.core.recordings.quantities import Box, Quantity, figure_in
from blunt_ruler.core.runs.import_runs import Arrival, CaseName
from blunt_ruler.core.runs.read_runs import Source, arrival_of_still
from blunt_ruler.core.types import ByteArray, Progress, no_progress
from blunt_ruler.exchange.recordings.decoding import (
    LARGEST,
    WHAT_TO_INSTALL,
    BadRecording,
)
from blunt_ruler.files import sha256_of

PICTURE_ENDINGS = (".png", ".jpg", ".jpeg")


@dataclass(frozen=True, slots=True)
class StillFigure:
    """A figure on a picture; `value` is None where it cannot be read as what it is."""

    label: str
    text: str
    box: Box
    value: float | None
    sure: bool


@dataclass(frozen=True, slots=True)
class StillReading:
    """A picture and its figures, from the top; `rows` are its table, none where its figures do
    not stand in rows and columns.
    """

    path: Path
    sha256: str
    width: int
    height: int
    figures: tuple[StillFigure, ...]
    points: bytes
    rows: tuple[PictureRow, ...] = ()

    @property
    def is_table(self) -> bool:
        """Whether it shows a table with heads, and not one run's results."""
        return has_heads(self.rows)


def is_picture(path: Path) -> bool:
    """Whether a file is a picture, by its ending."""
    return path.suffix.lower() in PICTURE_ENDINGS


def read_still(path: Path, step: Progress = no_progress) -> StillReading:
    """The figures of a picture; BadRecording where it cannot be opened."""
    points = _opened(path)
    step("Reading the picture", 0.3)
    try:
        from blunt_ruler.exchange.recordings.recognising import texts_on

        words = texts_on(points)
    except ImportError as error:
        raise BadRecording(path.name, "it cannot be read here", WHAT_TO_INSTALL) from error
    figures = []
    for word, quantity, label in figures_on(words):
        box = Box(max(word.x, 0), max(word.y, 0), max(word.w, 1), max(word.h, 1), quantity)
        guess = quantity if quantity is not Quantity.IGNORE else Quantity.SCORE
        value = figure_in(word.text, guess)
        figures.append(StillFigure(label, word.text, box, value, word.sure >= CLEAR))
    height, width = points.shape[:2]
    return StillReading(
        path, sha256_of(path), width, height, tuple(figures), points.tobytes(), table_on(words)
    )


def _opened(path: Path) -> ByteArray:
    try:
        from PIL import Image
    except ImportError as error:
        raise BadRecording(path.name, "it cannot be read here", WHAT_TO_INSTALL) from error
    if not path.is_file() or not path.stat().st_size:
        raise BadRecording(path.name, "there is nothing in it", "Choose another picture")
    try:
        with Image.open(path, formats=("PNG", "JPEG")) as image:
            if max(image.size) > LARGEST:
                size = f"it has {image.size[0]} × {image.size[1]} points"
                raise BadRecording(path.name, size, f"Sides of up to {LARGEST} can be read")
            return np.asarray(image.convert("RGB"))
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError) as error:
        raise BadRecording(
            path.name, "it cannot be opened as a picture", "Save it again, as PNG"
        ) from error


def cut_out(reading: StillReading, boxes: tuple[Box, ...]) -> bytes:
    """A PNG of some boxes below each other: what stands behind the figures."""
    from PIL import Image

    whole = Image.frombytes("RGB", (reading.width, reading.height), reading.points)
    parts = [whole.crop((box.x, box.y, box.x + box.w, box.y + box.h)) for box in boxes]
    for part in parts:
        part.thumbnail((320, 90))
    wide = max((part.width for part in parts), default=1)
    sheet = Image.new("RGB", (wide, sum(part.height + 4 for part in parts) or 1), (255, 255, 255))
    y = 0
    for part in parts:
        sheet.paste(part, (0, y))
        y += part.height + 4
    packed = BytesIO()
    sheet.quantize(64).save(packed, "PNG", optimize=True)
    return packed.getvalue()


def arriving_still(
    reading: StillReading,
    figures: Mapping[Quantity, float],
    rig: str,
    case: CaseName,
    *,
    asked: int = 0,
) -> tuple[Arrival, None, bytes]:
    """Chosen figures of a picture as a run on its way in, and what stands behind them."""
    boxes = tuple(one.box for one in reading.figures if one.box.quantity in figures)
    modified = datetime.fromtimestamp(reading.path.stat().st_mtime, UTC)
    source = Source(
        reading.path.name, reading.sha256, reading.width, reading.height, 0.0, boxes,
        modified.isoformat(timespec="seconds"),
    )  # fmt: skip
    arrival = arrival_of_still(figures, source, rig, case, asked=asked)
    return arrival, None, cut_out(reading, boxes)
