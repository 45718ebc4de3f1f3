"""What every record is made of: the immutable value, its texts and its quantities.

A field is declared once, with its unit, its bounds and what it is; the forms derive from that.
"""

from enum import StrEnum
from typing import Annotated, Any, TypeAlias

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, StringConstraints

from blunt_ruler.core.text import shown, shown_line

LONGEST_NAME = 120  # letters

Name: TypeAlias = Annotated[
    str,
    StringConstraints(strip_whitespace=True, min_length=1, max_length=LONGEST_NAME),
    AfterValidator(shown_line),
]
LONGEST_WORDS = 4000
Words: TypeAlias = Annotated[
    str,
    StringConstraints(strip_whitespace=True, max_length=LONGEST_WORDS),
    AfterValidator(shown),
]


def quantity(
    unit: str, says: str, *, above: float | None = None, least: float = 0, most: float = 1e6
) -> Any:
    """A number that may be unknown, with its unit, bounds and what it is; forms derive from it."""
    return Field(
        None,
        gt=above,
        ge=None if above is not None else least,
        le=most,
        description=says,
        json_schema_extra={"unit": unit},
    )


def words(says: str) -> Any:
    """A text that may be empty, and what it is."""
    return Field("", description=says)


class Ranked(StrEnum):
    """Words in an order: `rank` counts from the first."""

    rank: int

    def __init__(self, _word: str) -> None:
        self.rank = len(type(self).__members__)


class Value(BaseModel):
    """An immutable value that refuses fields it does not know."""

    # Validators are built when first needed: the window is up before it needs any.
    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True)
