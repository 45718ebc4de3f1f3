"""Figures that somebody typed: rates or scores read off a screen, or a change alone."""

from typing import Annotated, Self, TypeAlias

from pydantic import Field, model_validator

from blunt_ruler.core.measure.reading import HowRead
from blunt_ruler.core.values import Name, Value, Words

Fps: TypeAlias = Annotated[float, Field(gt=0, le=100_000)]


class PartScore(Value):
    """One part of a synthetic test's score, and its weight in the whole where it is known."""

    name: Name
    score: float = Field(gt=0, le=1e9)
    weight: float | None = Field(None, gt=0, le=1)


class TypedFigures(Value):
    """Figures read off a screen: rates in frames per second, or a score with its parts.

    A range stands as its middle, looks as their mean, a bound as the bound; how it was read says.
    """

    average_fps: Fps | None = None
    average_how: HowRead = HowRead()
    low_1_how: HowRead = HowRead()
    low_1_fps: Fps | None = None
    low_01_fps: Fps | None = None
    minimum_fps: Fps | None = None
    maximum_fps: Fps | None = None
    score: float | None = Field(None, gt=0, le=1e9)
    parts: tuple[PartScore, ...] = ()
    change: float | None = Field(None, gt=-1, le=1000)  # published without any rate, as a share
    change_of: Words = ""  # of what, in the words of those who published it

    @model_validator(mode="after")
    def _says_something(self) -> Self:
        if (self.average_fps, self.score, self.change, self.parts) == (None, None, None, ()):
            raise ValueError("neither an average nor a score")
        return self
