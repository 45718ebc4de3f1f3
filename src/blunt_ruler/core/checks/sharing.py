"""What a scene itself can make is weighed against the other passes before a run is accused.

What every pass of a case shows alike is the scene, or a habit kept each time: one caution for the
case, with one answer. What a pass shows alone among its repeats has a second, independent sign.
"""

import math
from collections import defaultdict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

import numpy as np

from blunt_ruler.core.checks.findings import About, Check, Finding, RunFacts
from blunt_ruler.core.checks.one_run import parts_wait
from blunt_ruler.core.checks.repeats import by_cell
from blunt_ruler.core.measure.profile import Profile, profile_from
from blunt_ruler.core.measure.telemetry import Gauge
from blunt_ruler.core.measure.trace_summary import EARLY_S, Observed
from blunt_ruler.core.records.records import Decision
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.text import count_text

LEVEL = 0.12  # log rate: less is no level of its own, then stillness is compared
NUDGE_S = 1.0
STUTTER_ERRORS = 2.5
STILL, FAR = math.log(0.6), math.log(2.2)  # restlessness, and rate, against the rest of a run
LENGTH = 0.9  # of a run, that another must last to be held against it
ALIKE = 0.5  # another pass shows the same where it shows at least this much of it
SAME_RATE = 0.01
LEAST_HELD = 0.3  # of the seconds of another rig, at that rate
FREEZE_MOVES = 0.02  # of the run: a shorter freeze hardly moves the average

Found = Mapping[str, Sequence[Finding]]


def _same_ends(own: Observed, other: Observed) -> bool:
    """Every stretch that stands apart in one does so in the other, by its course: as high or as
    low against the rest, or as still.
    """
    mine, theirs = profile_from(own.profile), profile_from(other.profile)
    if mine is None or theirs is None:
        return all(
            there >= ALIKE * here
            for here, there in (
                (own.head_s, other.head_s),
                (own.tail_s, other.tail_s),
                (own.middle_s, other.middle_s),
            )
            if here
        )
    ends_s = mine.log_rates.size * mine.window_s
    later_s = theirs.log_rates.size * theirs.window_s - ends_s
    middle_s = own.middle_from_s + own.middle_s
    return all(
        _alike_at(mine, theirs, from_s, to_s, shift_s)
        for from_s, to_s, shift_s in (
            (0.0, own.head_s, 0.0),
            (ends_s - own.tail_s, ends_s, later_s),
            (own.middle_from_s, middle_s if not (own.head_s or own.tail_s) else 0.0, 0.0),
        )
        if to_s - from_s >= mine.window_s
    )


def _alike_at(mine: Profile, theirs: Profile, from_s: float, to_s: float, shift_s: float) -> bool:
    """Whether two courses stand apart alike in a stretch, which may come a little off."""
    level, still = _stands(mine, from_s, to_s)
    for nudge_s in (0.0, -NUDGE_S, NUDGE_S):
        there = _stands(theirs, from_s + shift_s + nudge_s, to_s + shift_s + nudge_s)
        if abs(level) >= LEVEL:
            if there[0] * level > 0 and abs(there[0]) >= ALIKE * abs(level):
                return True
        elif there[1] <= ALIKE * still:
            return True
    return False


def _stands(profile: Profile, from_s: float, to_s: float) -> tuple[float, float]:
    """(level, stillness) of a stretch against the rest, as logarithms; 0 where there is none."""
    at = (np.arange(profile.log_rates.size) + 0.5) * profile.window_s
    inside = (at >= from_s) & (at <= to_s)
    if not inside.any() or inside.all():
        return 0.0, 0.0
    restless = np.log(np.maximum(profile.restless, 1e-3))
    return (
        float(np.median(profile.log_rates[inside]) - np.median(profile.log_rates[~inside])),
        float(np.median(restless[inside]) - np.median(restless[~inside])),
    )


def _same_hold(own: Observed, other: Observed) -> bool:
    """Held at the same rate, or just as steady at its own."""
    if own.edge_share and own.step_share < ALIKE:
        return other.edge_share >= ALIKE * own.edge_share
    return (
        max(
            other.step_share / own.step_share if own.step_share else 0.0,
            other.grid_share if own.grid_share >= other.grid_share * ALIKE else 0.0,
        )
        >= 0.8
    )


def _same_fall(own: Observed, other: Observed) -> bool:
    mine, theirs = own.gauge(Gauge.CARD_CLOCK), other.gauge(Gauge.CARD_CLOCK)
    if mine is not None and theirs is not None and mine.start and theirs.start:
        return 1.0 - theirs.end / theirs.start >= ALIKE * (1.0 - mine.end / mine.start)
    return other.slope_per_min <= ALIKE * own.slope_per_min


def _same_groups(own: Observed, other: Observed) -> bool:
    """Frames that alternate as much, or that last the same in groups as much."""
    if own.pairing >= own.twins:
        return other.pairing >= ALIKE * own.pairing
    return other.twins >= ALIKE * own.twins


def _same_stutter(own: Observed, other: Observed) -> bool:
    """As much stutter at first, as far as counts of some twenty seconds tell."""
    mine, theirs = (one.early_stutters_per_min * EARLY_S / 60.0 for one in (own, other))
    return theirs >= min(ALIKE * mine, mine - STUTTER_ERRORS * math.sqrt(mine))


# When another pass shows the same, for each check whose finding the scene can make.
SAME: Mapping[Check, Callable[[Observed, Observed], bool]] = {
    Check.MENU_LEFT_IN: _same_ends,
    Check.FRAME_CAP: _same_hold,
    Check.DRIFT: _same_fall,
    Check.FIRST_PASS_STUTTER: _same_stutter,
    Check.GENERATED_FRAMES: _same_groups,
    Check.FREEZE: lambda own, other: other.longest_ms >= ALIKE * own.longest_ms,
}


def weigh(found: Found, runs: Sequence[RunFacts]) -> list[Finding]:
    """The findings of runs by themselves, weighed."""
    weighed: list[Finding] = []
    facts_of = {facts.run.id: facts for facts in runs}
    by_case: dict[str, list[RunFacts]] = defaultdict(list)
    for facts in runs:
        if facts.observed is not None and facts.run.decision is Decision.KEEP:
            by_case[facts.run.case_id].append(facts)
    cells = by_cell([facts for all_ in by_case.values() for facts in all_])
    shared: dict[tuple[Check, About, str, str], list[Finding]] = defaultdict(list)
    for run_id, findings in found.items():
        facts = facts_of[run_id]
        for one in findings:
            if not one.check.declared.scene:
                weighed.append(one)
                continue
            if facts.case is not None and one.check in facts.case.scene_has:
                continue
            cell = cells.get((facts.run.rig_id, facts.run.case_id), ())
            about, one = _against(one, facts, cell, by_case.get(facts.run.case_id, ()))
            if about is About.RUN:
                weighed.append(one)
            else:
                rig_id = facts.run.rig_id if about is About.CELL else ""
                shared[one.check, about, rig_id, facts.run.case_id].append(one)
    for (check, about, rig_id, case_id), findings in shared.items():
        passes = cells[rig_id, case_id] if about is About.CELL else by_case[case_id]
        if about is About.CASE and _is_scene(check, [facts_of[one.run_id] for one in findings]):
            continue
        if 2 * len(findings) < len(passes):
            continue  # the others show half of it, and no check speaks of them: nothing is odd
        run_ids = [one.run_id for one in findings]
        run_ids += [one.run.id for one in passes if one.run.id not in run_ids]
        weighed.append(_for_all(check, about, findings[0], run_ids))
    return weighed


def _against(
    one: Finding, facts: RunFacts, cell: Sequence[RunFacts], case: Sequence[RunFacts]
) -> tuple[About, Finding]:
    """Whom a finding is about once the other passes are seen, and the finding with its signs."""
    stands = (
        one.check.declared.two_signs_stand and len(one.signs) > 1
    )  # a refresh rate, or idle parts
    beside = _others(facts, cell)
    elsewhere = [*beside, *(one for one in case if one.run.rig_id != facts.run.rig_id)]
    if one.check is Check.FRAME_CAP and (rigs := _held_alike(facts, case)):
        words = count_text(rigs, "other rig")
        one, stands = replace(one, signs=(*one.signs, f"{words} at the same rate")), True
    if not stands and elsewhere and _most_share(one.check, facts, elsewhere):
        return About.CASE, one
    if not stands and beside and _most_share(one.check, facts, beside):
        return About.CELL, one
    witnesses = beside or elsewhere
    without = [other for other in witnesses if not _shares(one.check, facts, other)]
    if without and 2 * len(without) > len(witnesses):
        where = "" if beside else " on other rigs"
        words = count_text(len(without), "other pass", "other passes")
        one = replace(one, signs=(*one.signs, f"{words}{where} without it"))
    stops = len(one.signs) > 1
    if one.check is Check.FREEZE:
        stops = stops and float(one.evidence["share"]) >= FREEZE_MOVES
    severity = Severity.BLOCKING if stops else Severity.CAUTION
    return About.RUN, replace(one, severity=severity)


def _held_alike(facts: RunFacts, case: Sequence[RunFacts]) -> int:
    """How many rigs with other cards hold the very rate that a run does: no scene makes that, nor
    does a CPU that they share where the log shows that it waits.
    """
    seen = facts.observed
    assert seen is not None
    held = seen.step_fps if seen.step_share >= seen.edge_share else seen.edge_fps
    found, waits = set(), parts_wait(facts)
    for other in case:
        theirs = other.observed
        if theirs is None or other.card == facts.card or not (waits or _hosts_differ(facts, other)):
            continue
        rates = ((theirs.step_fps, theirs.step_share), (theirs.edge_fps, theirs.edge_share))
        if any(
            share >= LEAST_HELD and abs(rate / held - 1.0) <= SAME_RATE for rate, share in rates
        ):
            found.add(other.run.rig_id)
    return len(found)


def _hosts_differ(one: RunFacts, other: RunFacts) -> bool:
    hosts = [facts.rig.host_id if facts.rig else None for facts in (one, other)]
    return None not in hosts and hosts[0] != hosts[1]


def _others(facts: RunFacts, cell: Sequence[RunFacts]) -> list[RunFacts]:
    """The other passes of its cell that last as long: one cut short says nothing of what it leaves
    out.
    """
    least = LENGTH * facts.duration_s
    return [one for one in cell if one.run.id != facts.run.id and one.duration_s >= least]


def _is_scene(check: Check, runs: Sequence[RunFacts]) -> bool:
    """Whether what passes on several rigs show alike can only be the scene: a fall that unlike
    cards share is no heat, and a light or heavy end where frames change as elsewhere is no menu.
    """
    if len({facts.run.rig_id for facts in runs}) < 2:
        return False
    if check is Check.DRIFT:
        return True
    if check is not Check.MENU_LEFT_IN:
        return False
    return all(_moves_at_its_ends(facts.observed) for facts in runs if facts.observed)


def _moves_at_its_ends(seen: Observed) -> bool:
    profile = profile_from(seen.profile)
    if profile is None or (seen.middle_s and not (seen.head_s or seen.tail_s)):
        return False
    ends_s = profile.log_rates.size * profile.window_s
    parts = ((0.0, seen.head_s), (ends_s - seen.tail_s, ends_s))
    ends = [_stands(profile, *part) for part in parts if part[1] - part[0] >= profile.window_s]
    return all(still > STILL and abs(level) < FAR for level, still in ends)


def _shares(check: Check, facts: RunFacts, other: RunFacts) -> bool:
    assert facts.observed is not None and other.observed is not None
    return SAME[check](facts.observed, other.observed)


def _most_share(check: Check, facts: RunFacts, others: Sequence[RunFacts]) -> bool:
    """Whether two in three show the same: one odd pass makes no sound one look odd."""
    return 3 * sum(_shares(check, facts, other) for other in others) >= 2 * len(others)


def _for_all(check: Check, about: About, first: Finding, run_ids: Sequence[str]) -> Finding:
    """One caution for a cell or a case, in place of one for each of its passes."""
    whose = "of this case" if about is About.CASE else "on this rig"
    return replace(
        first,
        severity=Severity.CAUTION,
        says=f"every pass {whose} shows it: {first.says[:-1]}; {check.declared.scene}.",
        remedy="Look once, and answer for all: trim all or take them again, or choose “Part "
        "of the scene”.",
        others=tuple(run_ids[1:]),
        about=about,
    )
