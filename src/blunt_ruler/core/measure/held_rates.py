"""Rates that sit on a refresh step, told from rates alone: by standing there again, or by being
beaten by more pixels.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

from blunt_ruler.core.measure.resolution import megapixels
from blunt_ruler.core.measure.trace_summary import REFRESH_HZ

ON_STEP = 0.006
BEATEN_BY = 1.03  # common practice, no source: three per cent are level


@dataclass(frozen=True, slots=True)
class Held:
    """A rate that looks held: on which step, in how many cells, and whether more pixels beat it."""

    step: float
    times: int
    beaten: bool

    @property
    def words(self) -> str:
        """Why it looks held."""
        why = "more pixels are faster" if self.beaten else "it stands there more than once"
        return f"the rate sits on {self.step:g}, and {why}: held by a cap?"


def held_rates(rates: Mapping[str, float]) -> dict[str, Held]:
    """Cases of one rig, by their labels, whose rate looks held, and why."""
    return dict(_held_rates(tuple(rates.items())))


@lru_cache(maxsize=512)
def _held_rates(items: tuple[tuple[str, float], ...]) -> dict[str, Held]:
    rates = dict(items)
    steps = sorted({float(hz) for hz in REFRESH_HZ} | {hz / 2 for hz in REFRESH_HZ})
    found = {}
    for case, rate in rates.items():
        step = min(steps, key=lambda hz: abs(rate / hz - 1.0))
        if abs(rate / step - 1.0) > ON_STEP:
            continue
        beaten = any(
            other_rate > rate * BEATEN_BY and _more_pixels(case, other)
            for other, other_rate in rates.items()
        )
        times = sum(abs(other / step - 1.0) <= ON_STEP for other in rates.values())
        if beaten or times > 1:
            found[case] = Held(step, times, beaten)
    return found


def _more_pixels(case: str, other: str) -> bool:
    """Whether two case labels differ only in the resolution, the other having more pixels."""
    one, two = case.split(" / "), other.split(" / ")
    if len(one) != len(two):
        return False
    apart = [(a, b) for a, b in zip(one, two, strict=True) if a != b]
    if len(apart) != 1:
        return False
    few, many = megapixels(apart[0][0]), megapixels(apart[0][1])
    return few is not None and many is not None and many > few
