"""How many repeats are enough: to show a difference, and where more would change nothing.

n = 2 ((z₀.₉₇₅ + z₀.₈) v/d)² runs on each side show a difference d at a run-to-run spread v, at
5 % two-sided with a power of 80 % (normal approximation; the test holds it against the exact
power of the t test in statsmodels).
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import NormalDist

from blunt_ruler.core.errors import BadFigure
from blunt_ruler.core.records.records import Contents, Decision, Review

Z = NormalDist().inv_cdf(0.975) + NormalDist().inv_cdf(0.8)
ASSUMED_SPREAD = 0.02


@dataclass(frozen=True, slots=True)
class SpreadSeen:
    """Run-to-run spread as a share of the rate, and on how many degrees of freedom it rests."""

    spread: float
    freedom: int

    @property
    def is_assumed(self) -> bool:
        """Whether nothing was measured yet."""
        return self.freedom == 0


def repeats_needed(difference: float, spread: float) -> int:
    """Runs on each side to show a difference, both as shares of the rate; at least 2."""
    if not (difference > 0 and spread > 0):
        raise BadFigure(
            "repeats", f"difference {difference:g} at spread {spread:g}", "Give both above 0"
        )
    return max(math.ceil(2.0 * (Z * spread / difference) ** 2 - 1e-9), 2)


def smallest_shown(repeats: int, spread: float) -> float:
    """(z₀.₉₇₅ + z₀.₈) v √(2/n): the smallest difference that n repeats on each side can show."""
    return Z * spread * math.sqrt(2.0 / repeats)


def pooled_spread(rates_of_cells: Sequence[Sequence[float]]) -> SpreadSeen:
    """Spread of log rates within cells, pooled; 2 % assumed where no cell has two runs."""
    squares, freedom = 0.0, 0
    for rates in rates_of_cells:
        if len(rates) > 1:
            logs = [math.log(rate) for rate in rates]
            mean = math.fsum(logs) / len(logs)
            squares += math.fsum((one - mean) ** 2 for one in logs)
            freedom += len(logs) - 1
    if freedom == 0 or squares == 0.0:
        return SpreadSeen(ASSUMED_SPREAD, 0)
    return SpreadSeen(math.sqrt(squares / freedom), freedom)


def rates_by_cell(contents: Contents, review: Review) -> dict[tuple[str, str], list[float]]:
    """Kept rates of every cell of a review."""
    rig_ids = {seat.rig_id for seat in review.seats}
    rates: dict[tuple[str, str], list[float]] = {}
    for run in contents.runs.values():
        if run.decision is Decision.KEEP and run.rig_id in rig_ids and run.average_fps:
            rates.setdefault((run.rig_id, run.case_id), []).append(run.average_fps)
    return rates


def spread_of_case(
    rates: dict[tuple[str, str], list[float]], case_id: str, pooled: SpreadSeen
) -> SpreadSeen:
    """A case's own spread over its rigs where four or more degrees of freedom tell it."""
    own = pooled_spread([values for (_, case), values in rates.items() if case == case_id])
    return own if own.freedom >= 4 else pooled
