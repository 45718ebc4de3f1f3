"""Rates that sit on a refresh step, told from rates alone: by standing there again, or by being
beaten by more pixels.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

from blunt_ruler.core.measure.means import harmonic_mean
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


def held_rates(passes: Mapping[str, Sequence[float]]) -> dict[str, Held]:
    """Cases of one rig, by their labels, whose rate looks held, and why; each with its passes. A
    cap holds all of them: where one is off the step by more, none is held.
    """
    return dict(_held_rates(tuple((case, tuple(rates)) for case, rates in passes.items())))


@lru_cache(maxsize=512)
def _held_rates(items: tuple[tuple[str, tuple[float, ...]], ...]) -> dict[str, Held]:
    passes = dict(items)
    rates = {case: harmonic_mean(every) for case, every in items}
    steps = sorted({float(hz) for hz in REFRESH_HZ} | {hz / 2 for hz in REFRESH_HZ})
    found = {}
    for case, rate in rates.items():
        step = min(steps, key=lambda hz: abs(rate / hz - 1.0))
        if any(abs(one / step - 1.0) > ON_STEP for one in passes[case]):
            continue
        beaten = any(
            other_rate > rate * BEATEN_BY and _more_pixels(case, other)
            for other, other_rate in rates.items()
        )
        times = sum(
            all(abs(one / step - 1.0) <= ON_STEP for one in every) for every in passes.values()
        )
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
