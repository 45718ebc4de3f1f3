"""Figures that no trace stands behind: what they alone, and beside one another, can tell.

A cap, a menu or a stall cannot be seen in them; a figure that sits on a refresh step, or that
stands in many cells, can.
"""

from collections import defaultdict
from collections.abc import Iterator, Sequence

from blunt_ruler.core.checks.findings import About, Check, Finding, RunFacts
from blunt_ruler.core.checks.registry import AllRuns, Scope, check
from blunt_ruler.core.measure.held_rates import Held, held_rates
from blunt_ruler.core.measure.kinds import AT_CAP, COUNTED
from blunt_ruler.core.measure.means import harmonic_mean
from blunt_ruler.core.records.records import Run
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.text import count_text, list_text

MANY = 4  # cells with one and the same figure; common practice, no source
SHARE = 0.25  # and of all typed cells


def read_by_eye(run: Run) -> bool:
    """Whether a run is a rate that no machine wrote down."""
    return run.average_fps is not None and run.how_read.kind not in COUNTED


def _by_hand(repeats: Sequence[RunFacts]) -> tuple[RunFacts, ...]:
    """The runs of a cell that eyes read."""
    return tuple(facts for facts in repeats if read_by_eye(facts.run))


@check(Scope.REVIEW)
def held_figures(all_runs: AllRuns) -> Iterator[Finding]:
    """Typed rates that sit on a refresh step, twice or beaten by more pixels: one finding a rig
    and step.
    """
    contents = all_runs.described
    rates: dict[str, dict[str, list[float]]] = defaultdict(dict)
    typed: dict[tuple[str, str], Sequence[RunFacts]] = {}
    by_hand = all_runs.in_cells("by hand", _by_hand)
    eyed = {rig_id for (rig_id, _), found in by_hand.items() if found}
    for (rig_id, case_id), repeats in all_runs.sound.items():
        if rig_id not in eyed:
            continue
        each = [rate for facts in repeats if (rate := facts.run.average_fps)]
        if not each:
            continue
        rates[rig_id][contents.case_label(case_id)] = each
        cap = contents.cases[case_id].frame_cap_fps
        wanted = cap is not None and abs(harmonic_mean(each) / cap - 1.0) <= 1.0 - AT_CAP
        if len(by_hand[rig_id, case_id]) == len(repeats) and not wanted:
            typed[rig_id, contents.case_label(case_id)] = repeats
    for rig_id, cases in rates.items():
        by_step: dict[float, list[tuple[str, Held]]] = defaultdict(list)
        for case, held in held_rates(cases).items():
            if (rig_id, case) in typed:
                by_step[held.step].append((case, held))
        for step, found in by_step.items():
            yield _held(step, found, [f for case, _ in found for f in typed[rig_id, case]])


def _held(step: float, found: Sequence[tuple[str, Held]], runs: Sequence[RunFacts]) -> Finding:
    beaten = [case for case, held in found if held.beaten]
    again = max(held.times for _, held in found)
    signs = [f"{count_text(again, 'cell')} on {step:g}"] if again > 1 else [f"it sits on {step:g}"]
    if beaten:
        signs.append("more pixels are faster")
    elif again >= MANY - 1:
        signs.append("too often to be chance")
    names = list_text([case for case, _ in found[:2]])
    more = f" and {len(found) - 2} more" if len(found) > 2 else ""
    return Finding(
        Check.HELD_FIGURE,
        Severity.BLOCKING if len(signs) > 1 else Severity.CAUTION,
        runs[0].run.id,
        f"{names}{more} sit on {step:g}: held by a cap or a refresh lock?",
        "Switch the cap and the lock off and read again, or write the cap down with the case.",
        {"step": step, "cells": float(len(found))},
        tuple(facts.run.id for facts in runs[1:]),
        signs=tuple(signs),
        about=About.CASE,
    )


@check(Scope.REVIEW)
def same_figure(all_runs: AllRuns) -> Iterator[Finding]:
    """One and the same figure typed into many cells."""
    cells: dict[float, list[Sequence[RunFacts]]] = defaultdict(list)
    typed = 0
    for by_hand in all_runs.in_cells("by hand", _by_hand).values():
        typed += bool(by_hand)
        for rate in {facts.run.average_fps for facts in by_hand}:
            if rate is not None:
                cells[rate].append(by_hand)
    for rate, found in cells.items():
        if len(found) < max(MANY, SHARE * typed):
            continue
        runs = [facts.run.id for repeats in found for facts in repeats]
        yield Finding(
            Check.SAME_FIGURE,
            Severity.CAUTION,
            runs[0],
            f"{rate:g} appears in {count_text(len(found), 'cell')}.",
            "Look at where the figures come from: a cap, a lock, or one figure copied on.",
            {"figure": rate, "cells": float(len(found))},
            tuple(runs[1:]),
            signs=(f"{count_text(len(found), 'cell')} say the same",),
            about=About.CASE,
        )
