"""Rates of a bare table that look held: a cap or a refresh lock, seen without a trace.

A table has only averages, so this is a suspicion: a rate on a refresh step that stands there
again, or that more pixels beat. Such a cell is mixed and, by default, kept out of means.
"""

from collections import defaultdict
from collections.abc import Mapping, Sequence

from blunt_ruler.core.compare.comparability import CellStanding, Standing
from blunt_ruler.core.compare.compare import Measurement
from blunt_ruler.core.measure.means import harmonic_mean
from blunt_ruler.core.measure.trace_summary import REFRESH_HZ
from blunt_ruler.core.resolution import megapixels

ON_STEP = 0.006
BEATEN_BY = 1.03  # common practice, no source: three per cent are level


def held_standings(
    runs: Sequence[Measurement], base: str, reference: str | None
) -> dict[tuple[str, str], CellStanding]:
    """Cells whose rate looks held, and cells set against one."""
    rates: dict[str, dict[str, list[float]]] = defaultdict(lambda: defaultdict(list))
    for run in runs:
        rates[run.rig][run.case].append(run.average_fps)
    held = {
        (rig, case): words
        for rig, cases in rates.items()
        for case, words in held_rates(
            {case: harmonic_mean(all_) for case, all_ in cases.items()}
        ).items()
    }
    found = {}
    for rig, cases in rates.items():
        for case in cases:
            own = held.get((rig, case))
            sides, said = [], [own] if own else []
            for other in (base, reference):
                theirs = held.get((other, case)) if other else None
                sides.append(Standing.MIXED if own or theirs else Standing.CLEAN)
                if theirs and other != rig:
                    said.append(f"{other}: {theirs}")
            if said:
                found[rig, case] = CellStanding(sides[0], sides[1], tuple(said))
    return found


def held_rates(rates: Mapping[str, float]) -> dict[str, str]:
    """Cases of one rig, by their labels, whose rate looks held, and why."""
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
        again = sum(abs(other / step - 1.0) <= ON_STEP for other in rates.values()) > 1
        if beaten or again:
            why = "more pixels are faster" if beaten else "it stands there more than once"
            found[case] = f"the rate sits on {step:g}, and {why}: held by a cap?"
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
