"""What one could buy instead and nobody benchmarked: a laptop with its own card, a used tower."""

from enum import StrEnum

from pydantic import Field

from blunt_ruler.core.records.pricing import Currency
from blunt_ruler.core.records.typed_figures import TypedFigures
from blunt_ruler.core.values import Name, Value, Words, words


class AlternativeKind(StrEnum):
    """What is bought in place of a rig."""

    LAPTOP = "laptop with its own card"
    TOWER = "used tower"
    PROCESSOR = "stronger built-in graphics"
    OTHER = "something else"


class FramesAre(StrEnum):
    """Where the frames of an alternative come from."""

    ESTIMATED = "estimated"
    PUBLISHED = "published"


class Alternative(Value):
    """Something with a price, and frames that were published or estimated, over the cases that the
    review's rigs share. It is beside the rigs, never among them.
    """

    id: str
    name: Name
    kind: AlternativeKind = Field(AlternativeKind.OTHER, description="what it is")
    amount: float | None = Field(None, ge=0, le=1e7, description="price of one")
    currency: Currency = Field("EUR", description="currency")
    frames: TypedFigures | None = Field(
        None,
        description="mean frames",
        json_schema_extra={"example": "85, 75-90, 20% behind a rig"},
    )
    frames_are: FramesAre = Field(FramesAre.ESTIMATED, description="its frames are")
    source: Words = words("where its frames are from")
    date: Words = words("price date")
    notes: Words = words("notes")
