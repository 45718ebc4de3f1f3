"""How many repeats are enough: to show a difference, and where more would change nothing.

n runs on each side show a difference d at a run-to-run spread v where the two-sided t test at 5 %
has a power of 80 %: by the non-central t on 2n − 2 degrees of freedom and d/v·√(n/2), as few runs
know their spread poorly (the tests hold it against statsmodels).
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

from blunt_ruler.core.errors import BadFigure
from blunt_ruler.core.measure.robust_line import root
from blunt_ruler.core.measure.special import nctdtr, stdtrit
from blunt_ruler.core.once import Handover
from blunt_ruler.core.plan.passes_taken import passes_taken
from blunt_ruler.core.records.records import Contents, Review

LEVEL, POWER = 0.05, 0.8
MOST = 1_000_000
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
    return _repeats_for(difference / spread)


def power(repeats: int, effect: float) -> float:
    """How often a t test of two times so many runs shows a difference of `effect` spreads."""
    freedom = 2.0 * repeats - 2.0
    beyond = float(stdtrit(freedom, 1.0 - LEVEL / 2.0))
    shift = effect * math.sqrt(repeats / 2.0)
    # Far beyond, the tail on the other side is nothing, and the series no longer converges.
    other = float(nctdtr(freedom, shift, -beyond)) if shift < 8 else 0.0
    return 1.0 - float(nctdtr(freedom, shift, beyond)) + other


@lru_cache(maxsize=4096)
def _repeats_for(effect: float) -> int:
    """The fewest runs on each side with the power, at least 2, by halving."""
    low, high = 1, 2
    while high < MOST and power(high, effect) < POWER:
        low, high = high, 2 * high
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (low, middle) if power(middle, effect) >= POWER else (middle, high)
    return high


@lru_cache(maxsize=64)
def _effect_shown(repeats: int) -> float:
    """The difference in spreads that so many runs on each side have the power to show."""
    if repeats < 2:
        return math.inf  # a single run on each side knows no spread
    return root(lambda effect: power(repeats, effect) - POWER, 1e-3, 60.0)


def smallest_shown(repeats: int, spread: float) -> float:
    """The smallest difference that n repeats on each side can show at the same power."""
    return _effect_shown(repeats) * spread


def pooled_spread(rates_of_cells: Sequence[Sequence[float]]) -> SpreadSeen:
    """Spread of log rates within cells, pooled; 2 % assumed where no cell has two runs."""
    squares = sum(_squares(tuple(rates)) for rates in rates_of_cells)
    freedom = sum(len(rates) - 1 for rates in rates_of_cells if rates)
    if freedom == 0 or squares == 0.0:
        return SpreadSeen(ASSUMED_SPREAD, 0)
    return SpreadSeen(math.sqrt(squares / freedom), freedom)


@lru_cache(maxsize=50_000)  # each is asked for with its case, and with all
def _squares(rates: tuple[float, ...]) -> float:
    """Σ(log rate − its mean)²."""
    logs = [math.log(rate) for rate in rates]
    mean = math.fsum(logs) / max(len(logs), 1)
    return math.fsum((one - mean) ** 2 for one in logs)


def rates_by_case(
    contents: Contents, review: Review, handover: Handover | None = None
) -> dict[str, list[tuple[float, ...]]]:
    """Kept rates on every rig of a review that has some, by case."""
    rig_ids = {seat.rig_id for seat in review.seats}
    rates: dict[str, list[tuple[float, ...]]] = {}
    for (rig_id, case_id), passes in passes_taken(contents, handover).items():
        if passes.rates and rig_id in rig_ids:
            rates.setdefault(case_id, []).append(passes.rates)
    return rates


def spread_of_case(rates: Sequence[Sequence[float]], pooled: SpreadSeen) -> SpreadSeen:
    """A case's own spread over its rigs, whose rates are given, where four or more degrees of
    freedom tell it.
    """
    own = pooled_spread(rates)
    return own if own.freedom >= 4 else pooled
