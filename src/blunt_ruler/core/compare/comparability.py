"""Like for like as values: how far two cells can be set against one another, and why not.

`like_for_like` finds out; comparisons and the Board only read it.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import TypeAlias

from blunt_ruler.core.values import Ranked

LEVEL_MARGIN = 0.03  # of averages and scores: what is called level lies within it


class Standing(Ranked):
    """How far two cells can be set against one another."""

    CLEAN = "clean"
    MIXED = "mixed"
    NOT_COMPARABLE = "not comparable"


Unsound: TypeAlias = Mapping[str, tuple[Standing, str]]
"""Runs that the checks block: how far they can still be compared, and why not further."""


@dataclass(frozen=True, slots=True)
class CellStanding:
    """The standing of a cell against base and reference, and the facts that differ."""

    against_base: Standing = Standing.CLEAN
    against_reference: Standing = Standing.CLEAN
    differs: tuple[str, ...] = ()

    @property
    def worst(self) -> Standing:
        """The worse of the two."""
        base, reference = self.against_base, self.against_reference
        return base if base.rank >= reference.rank else reference


CLEAN = CellStanding()


def cell_standing_words(standing: CellStanding) -> str:
    """A standing with its reasons, in words."""
    if not standing.differs:
        return str(standing.worst)
    return f"{standing.worst}: {'; '.join(standing.differs)}"


def to_make_clean(standing: CellStanding) -> str:
    """What to do about a mixed or incomparable cell."""
    if standing.worst is Standing.CLEAN:
        return "Nothing: it is clean."
    return (
        f"Make the same on both rigs, or say that the review varies it: "
        f"{'; '.join(standing.differs)}. Then take the case again."
    )
