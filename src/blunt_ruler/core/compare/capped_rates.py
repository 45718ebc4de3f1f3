"""Rates of a bare table that look held: a cap or a refresh lock, seen without a trace.

A table has only averages, so this is a suspicion: a rate on a refresh step that stands there
again, or that more pixels beat. Such a cell is mixed and, by default, kept out of means.
"""

from collections import defaultdict
from collections.abc import Sequence

from blunt_ruler.core.compare.comparability import CellStanding, Standing
from blunt_ruler.core.compare.results import Measurement
from blunt_ruler.core.measure.held_rates import held_rates


def held_standings(
    runs: Sequence[Measurement], base: str, reference: str | None
) -> dict[tuple[str, str], CellStanding]:
    """Cells whose rate looks held, and cells set against one."""
    rates: dict[str, dict[str, list[float]]] = defaultdict(lambda: defaultdict(list))
    for run in runs:
        rates[run.rig][run.case].append(run.average_fps)
    held = {
        (rig, case): found_.words
        for rig, cases in rates.items()
        for case, found_ in held_rates(cases).items()
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
