"""Rigs held against several references at once: each loss, and which reference is nearest.

The first reference is the one that every cell's loss is against; for each of the others the same
comparison is made over again with it in its place.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from math import log

from blunt_ruler.core.board.board import Board, Column, build_board
from blunt_ruler.core.board.lenses import ratio_mark
from blunt_ruler.core.compare.comparability import Unsound
from blunt_ruler.core.compare.results import RigMean
from blunt_ruler.core.once import Handover
from blunt_ruler.core.records.records import Contents, Role
from blunt_ruler.core.text import count_text, percent_text


@dataclass(frozen=True, slots=True)
class Held:
    """One rig against one reference: the mean over the cases both have, None where they share
    none.
    """

    rig: Column
    reference: Column
    mean: RigMean | None

    @property
    def change(self) -> float | None:
        """a/r − 1, as a share of the reference: below zero for a loss."""
        return None if self.mean is None else self.mean.ratio - 1.0


@dataclass(frozen=True, slots=True)
class References:
    """Every rig under test against every reference, and the cells behind the means."""

    held: tuple[Held, ...]
    boards: Mapping[str, Board]  # one for each reference

    def of_rig(self, rig_id: str) -> tuple[Held, ...]:
        """One rig against each reference."""
        return tuple(one for one in self.held if one.rig.rig_id == rig_id)

    def nearest(self, rig_id: str) -> Held | None:
        """The reference that a rig is nearest to on average, by the ratio either way."""
        with_mean = [one for one in self.of_rig(rig_id) if one.mean is not None]
        return min(with_mean, key=lambda one: abs(log(one.mean.ratio)), default=None)  # type: ignore[union-attr]


def hold_against(
    contents: Contents, board: Board, unsound: Unsound, handover: Handover | None = None
) -> References:
    """Every rig of a Board against each of its references."""
    review = board.review
    boards = {
        reference: board
        if len(review.references) == 1
        else build_board(contents, review.against(reference), unsound, handover)
        for reference in review.references
    }
    held = []
    for column in board.columns:
        if column.role is Role.REFERENCE or column.source:
            continue
        for reference, one in boards.items():
            against = one.column(reference)
            total = one.totals.get(column.rig_id)
            if against is not None:
                held.append(Held(column, against, total.of_reference if total else None))
    return References(tuple(held), boards)


def change_text(held: Held) -> str:
    """A mean change with its interval over these very titles: "−24 % (−26 to −22)", or "no shared
    case".
    """
    if held.mean is None:
        return "no shared case"
    mark = ratio_mark(held.mean.bound, held.mean.kinds)
    said = f"{mark}{percent_text(held.mean.ratio - 1.0, signed=True)}"
    low, high = held.mean.these
    if low is None or high is None:
        return said
    ends = [percent_text(end - 1.0, signed=True).removesuffix("\u202f%") for end in (low, high)]
    return f"{said} ({ends[0]} to {ends[1]})"


def reference_words(column: Column) -> str:
    """A reference as it is named in a sentence; a published figure says whose it is."""
    if column.source:
        return f"the figure published by {column.source} for {column.name}"
    return column.name


def held_basis(found: References, rig_id: str) -> str:
    """Over how many cases each mean is."""
    said = [
        f"{one.reference.name} {count_text(one.mean.cases, 'case')}"
        for one in found.of_rig(rig_id)
        if one.mean is not None
    ]
    return f"Over the cases that both have: {', '.join(said)}." if said else ""
