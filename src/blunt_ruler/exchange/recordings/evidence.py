"""A picture of the boxes at five moments of a pass: what stands behind its figures."""

from collections.abc import Sequence
from io import BytesIO

from blunt_ruler.core.recordings.quantities import Box
from blunt_ruler.core.types import Progress, no_progress
from blunt_ruler.exchange.recordings.decoding import RecordingFacts, moments, pictures_near

MOMENTS = 5
ROOM = 4
TALLEST, WIDEST = 90, 320  # pixels of one crop: small, for many of them stand in a logbook


def pictures_of_each(
    facts: RecordingFacts,
    boxes: Sequence[Box],
    spans: Sequence[tuple[float, float]],
    step: Progress = no_progress,
) -> tuple[bytes, ...]:
    """A PNG as of `pictures_of` for each pass, from and to in s."""
    told = []
    for number, span in enumerate(spans):
        step("Keeping pictures", number / len(spans))
        told.append(pictures_of(facts, boxes, *span))
    return tuple(told)


def pictures_of(
    facts: RecordingFacts,
    boxes: Sequence[Box],
    from_s: float,
    to_s: float,
) -> bytes:
    """A PNG: a column for each of five moments, and in it the boxes below each other."""
    from PIL import Image

    columns = []
    for picture in pictures_near(facts, moments(from_s, to_s, MOMENTS), from_s):
        column = []
        for box in boxes:
            crop = Image.fromarray(picture.crop(box.x, box.y, box.w, box.h))
            crop.thumbnail((WIDEST, TALLEST))
            column.append(crop)
        columns.append(column)
    wide = max((crop.width for column in columns for crop in column), default=1) + ROOM
    tall = max(sum(crop.height + ROOM for crop in column) for column in columns) or 1
    sheet = Image.new("RGB", (wide * MOMENTS, tall), (255, 255, 255))
    for number, column in enumerate(columns):
        y = 0
        for crop in column:
            sheet.paste(crop, (number * wide, y))
            y += crop.height + ROOM
    packed = BytesIO()
    sheet.quantize(64).save(packed, "PNG", optimize=True)
    return packed.getvalue()
