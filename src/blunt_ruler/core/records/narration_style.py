"""How a reviewer wants a narration: spelling, money, numbers and pace."""

from enum import StrEnum
from typing import Annotated, TypeAlias

from pydantic import Field

from blunt_ruler.core.values import Value

Pace: TypeAlias = Annotated[int, Field(ge=60, le=300, description="words a minute")]


class Spelling(StrEnum):
    """Whose spelling."""

    BRITISH = "British"
    AMERICAN = "American"


class MoneyStyle(StrEnum):
    """How money is said."""

    CODE = "755 EUR"
    WORDS = "755 euros"
    SYMBOL = "€755"


class NumberStyle(StrEnum):
    """How figures are written."""

    DIGITS = "digits"
    WORDS = "words"


class Style(Value):
    """How a narration is written, and at what pace it is read: 150 words a minute is usual for
    such videos (common practice, no source).
    """

    spelling: Spelling = Spelling.BRITISH
    money: MoneyStyle = MoneyStyle.CODE
    numbers: NumberStyle = NumberStyle.DIGITS
    pace: Pace = 150
