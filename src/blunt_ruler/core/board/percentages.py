"""Which percentage: four figures of one pair, each in a sentence that cannot be misread.

The commonest slip of the trade is to print the reference's lead, or the difference over the
midpoint, as if it were the loss.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from blunt_ruler.core.board.board import Board, Column
from blunt_ruler.core.board.lenses import BOUND_MARKS
from blunt_ruler.core.compare.compare import faster_by, gain, loss, midpoint_difference
from blunt_ruler.core.measure.kinds import Bound
from blunt_ruler.core.records.records import Role
from blunt_ruler.core.text import percent_text


@dataclass(frozen=True, slots=True)
class Statement:
    """One figure of a pair: its name, its value as a share, and the sentence it stands in."""

    name: str
    value: float
    says: str


GAIN, LOSS, LEAD, MIDPOINT = "gain", "loss", "the other's lead", "midpoint difference"


def pair_statements(
    own: str, own_rate: float, other: str, other_rate: float, bound: Bound = Bound.POINT
) -> tuple[Statement, ...]:
    """All four figures of a rig against another one: rates in the same unit, higher is better.

    `bound` is what their ratio is, where either is one; then only gain and loss are said.
    """
    more, less = gain(own_rate, other_rate), loss(own_rate, other_rate)
    lead, apart = faster_by(own_rate, other_rate), midpoint_difference(own_rate, other_rate)
    mark = BOUND_MARKS[bound]
    said = [
        Statement(GAIN, more, f"{own} gives {mark}{_more(more)} {other}: a share of {other}."),
        Statement(LOSS, less, f"{own} loses {mark}{_lost(less)} of {other}: a share of {other}."),
    ]
    if bound is Bound.POINT:
        said += [
            Statement(LEAD, lead, f"{other} gives {_more(lead)} {own}: a share of {own}."),
            Statement(
                MIDPOINT,
                apart,
                f"They lie {percent_text(abs(apart), decimals=1)} of their midpoint apart: neither "
                "a gain nor a loss.",
            ),
        ]
    return tuple(said)


def _more(share: float) -> str:
    return f"{percent_text(abs(share), decimals=1)} {'more' if share >= 0 else 'less'} than"


def _lost(share: float) -> str:
    if share < 0:
        return f"nothing and gains {percent_text(-share, decimals=1)}"
    return percent_text(share, decimals=1)


def cell_statements(board: Board, rig_id: str, case_id: str) -> tuple[tuple[str, Statement], ...]:
    """(the other rig, statement) of a cell against base and reference, four of each."""
    cell, column = board.cells.get((rig_id, case_id)), board.column(rig_id)
    if cell is None or column is None:
        return ()
    row = next((row for row in board.rows if row.case_id == case_id), None)
    turned = row is not None and row.lower_is_better
    found = []
    for other, bound in ((board.base, cell.over_bound), (board.reference, cell.of_bound)):
        theirs = board.cells.get((other.rig_id, case_id)) if other is not None else None
        if other is None or theirs is None or other.rig_id == rig_id or bound is Bound.OPEN:
            continue
        rates = cell.average_fps, theirs.average_fps
        if turned:  # less time is more speed
            rates = 1.0 / rates[0], 1.0 / rates[1]
        found += [
            (other.name, one)
            for one in pair_statements(column.name, rates[0], other.name, rates[1], bound)
        ]
    return tuple(found)


ROLE_WORDS = {"the base": Role.BASE, "base": Role.BASE,
              "the reference": Role.REFERENCE, "reference": Role.REFERENCE}  # fmt: skip


def rig_meant(words: str, columns: Sequence[Column]) -> Column | None:
    """The rig that a percentage is of: its name, its role, or words that one name alone has."""
    said = " ".join(words.lower().removeprefix("the ").split())
    if not said:
        return None
    if role := ROLE_WORDS.get(said):
        return next((one for one in columns if one.role is role), None)
    exact = [one for one in columns if one.name.lower() == said]
    has_all = [one for one in columns if set(said.split()) <= set(one.name.lower().split())]
    found = exact or has_all
    return found[0] if len(found) == 1 else None
