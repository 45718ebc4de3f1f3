"""Like for like: whether two cells differ in more than what the review varies.

Host, card, dock and link are what a review varies. What can be changed without a screwdriver
and still changes results must be the same on both sides, or the pair is mixed and says why.
Frames made by generation, or other settings than the case's, cannot be compared at all.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import compress
from operator import attrgetter
from typing import Any

from blunt_ruler.core.checks.all import Checked
from blunt_ruler.core.checks.findings import Finding
from blunt_ruler.core.compare.comparability import CellStanding, Standing, Unsound
from blunt_ruler.core.once import Handover
from blunt_ruler.core.records.bench_notes import Change
from blunt_ruler.core.records.hardware import Rig, RigState
from blunt_ruler.core.records.records import Contents, Decision, Review, Role, Run
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.rigs.differences import value_words
from blunt_ruler.core.runs.changes import change_words, counted_changes

FACTS = (
    *("power_mode", "dock_mode", "card_mode", "cpu_power_limit_w", "card_power_limit_w"),
    *("overclock", "driver", "resizable_bar", "built_in_memory_gb"),
)
UNKNOWN = (None, "")
EVERY_RIG_HAS = ("power_mode", "cpu_power_limit_w", "driver", "overclock")
FACT_WORDS = {
    **{name: str(RigState.model_fields[name].description) for name in FACTS},
    "screen_path": "screen path",
    "screen": "screen",
}


def differing_facts(
    contents: Contents, one: Rig, other: Rig, varies: Sequence[str] = ()
) -> tuple[str, ...]:
    """Facts of two rigs that should be the same and are not, each with both values.

    A fact that is noted on one of them only is no difference: `unnoted_facts` has it. What others
    published says itself that it is theirs; it is not held against them fact by fact.
    """
    return tuple(
        f"{FACT_WORDS[name]} ({value_words(mine)}, {value_words(theirs)})"
        for name, mine, theirs in _unlike(contents, one, other, varies)
        if mine not in UNKNOWN and theirs not in UNKNOWN
    )


def unnoted_facts(
    contents: Contents, one: Rig, other: Rig, varies: Sequence[str] = ()
) -> tuple[str, ...]:
    """Facts that are noted on one of two rigs only: “power mode of Workbench not noted”."""
    return tuple(
        f"{FACT_WORDS[name]} of {(one if mine in UNKNOWN else other).name} not noted"
        for name, mine, theirs in _unlike(contents, one, other, varies)
        if name in EVERY_RIG_HAS and (mine in UNKNOWN) != (theirs in UNKNOWN)
    )


def _unlike(
    contents: Contents, one: Rig, other: Rig, varies: Sequence[str]
) -> list[tuple[str, Any, Any]]:
    """(name, value, value) of facts that two rigs do not share, and that both should have."""
    if one.id == other.id or one.source or other.source:
        return []
    card, other_card = contents.card_of(one.id), contents.card_of(other.id)
    both_add_in = not any(c is None or c.built_in for c in (card, other_card))
    same_family = (card.driver_family if card else "") == (
        other_card.driver_family if other_card else ""
    )
    pairs = [(name, getattr(one.state, name), getattr(other.state, name)) for name in FACTS]
    pairs += [
        (name, getattr(one, name), getattr(other, name)) for name in ("screen_path", "screen")
    ]
    found = []
    for name, mine, theirs in pairs:
        if mine == theirs or name in varies:
            continue
        if name == "driver" and not same_family:
            continue  # another maker's card has another driver: that is the card
        if name == "screen_path" and not both_add_in:
            continue  # built-in graphics have no other output
        if name == "built_in_memory_gb" and both_add_in:
            continue
        found.append((name, mine, theirs))
    return found


def unsound_words(checked: Checked, handover: Handover | None = None) -> Unsound:
    """Kept runs with a blocking finding: what their cell is worth, and why."""
    reads = checked.by_run, checked.runs
    return (handover or Handover()).of(("unsound",), reads, lambda: _unsound(checked))


def _unsound(checked: Checked) -> Unsound:
    stopped = _stopped(checked.by_run)
    found = {}
    ids = map(attrgetter("id"), checked.runs)  # thousands, of which few are stopped
    for run in compress(checked.runs, map(stopped.__contains__, ids)):
        if run.decision is Decision.KEEP:
            blocking = stopped[run.id]
            hard = any(one.check.declared.unlike for one in blocking)
            words = f"pass {run.repeat}: {blocking[0].check.words}"
            found[run.id] = (Standing.NOT_COMPARABLE if hard else Standing.MIXED), words
    return found


def _stopped(by_run: Mapping[str, tuple[Finding, ...]]) -> dict[str, list[Finding]]:
    """The blocking findings of each run that has some."""
    return {
        run_id: blocking
        for run_id, found in by_run.items()
        if (blocking := [one for one in found if one.severity is Severity.BLOCKING])
    }


def _only_one_after(
    changes: Mapping[str, Change],
    mine: frozenset[str] | None,
    theirs: frozenset[str] | None,
    pair: set[str],
) -> tuple[str, ...]:
    """Changes of both rigs of a pair that only one of them was measured after."""
    if mine is None or theirs is None or mine == theirs:
        return ()
    return tuple(
        f"only one was measured after {change_words(one)}"
        for one in (changes[key] for key in mine ^ theirs)
        if not one.rig_ids or pair <= {*one.rig_ids}
    )


Faults = Mapping[str, tuple[Standing, tuple[str, ...]]]
"""What a rig's kept runs that a check stops are worth, by case, and why."""


@dataclass(frozen=True, slots=True)
class _Side:
    """A rig as it stands by itself: its name, its faults, and the changes its cells came after."""

    rig_id: str
    name: str
    faults: Faults
    after: Mapping[str, frozenset[str]]


def standings(
    contents: Contents,
    review: Review,
    kept: Mapping[str, Mapping[str, Sequence[Run]]],
    unsound: Unsound,
    handover: Handover | None = None,
) -> dict[tuple[str, str], CellStanding]:
    """The standing of every cell that has kept runs, given by rig and case; clean ones are left
    out.
    """
    handover = handover or Handover()
    faults = _faults(contents, kept, unsound)
    after = counted_changes(contents, kept, handover)

    def side(rig_id: str) -> _Side:
        name = contents.rigs[rig_id].name
        return _Side(rig_id, name, faults.get(rig_id, {}), after.get(rig_id, {}))

    others = tuple(
        None if one is None else side(one)
        for one in (review.rig_in(Role.BASE), review.rig_in(Role.REFERENCE))
    )
    changes = contents.changes
    found: dict[tuple[str, str], CellStanding] = {}
    for rig_id, own in kept.items():
        facts = tuple(
            ()
            if one is None or one.rig_id == rig_id
            else differing_facts(
                contents, contents.rigs[rig_id], contents.rigs[one.rig_id], review.varies
            )
            for one in others
        )
        reads = tuple(own), side(rig_id), others, facts, changes
        found |= handover.of(
            ("standing", review.id, rig_id, *(one and one.rig_id for one in others)),
            reads,
            lambda: _standings_of(*reads),  # noqa: B023
        )
    return found


def _faults(
    contents: Contents, kept: Mapping[str, Mapping[str, Sequence[Run]]], unsound: Unsound
) -> dict[str, dict[str, tuple[Standing, tuple[str, ...]]]]:
    """The faults of each rig that has some."""
    found: dict[str, dict[str, tuple[Standing, tuple[str, ...]]]] = {}
    stopped = (run for run_id in unsound if (run := contents.runs.get(run_id)))
    for rig_id, case_id in dict.fromkeys((run.rig_id, run.case_id) for run in stopped):
        own = [
            unsound[run.id] for run in kept.get(rig_id, {}).get(case_id, ()) if run.id in unsound
        ]
        if own:
            worst = max((one for one, _ in own), key=attrgetter("rank"))
            words = tuple(words for _, words in own)
            found.setdefault(rig_id, {})[case_id] = worst, words
    return found


def _standings_of(
    cases: Sequence[str],
    own: _Side,
    others: Sequence[_Side | None],
    facts: Sequence[tuple[str, ...]],
    changes: Mapping[str, Change],
) -> dict[tuple[str, str], CellStanding]:
    """The standings of one rig's cells against base and reference, in that order."""
    found = {}
    for case_id in cases:
        mine, words = own.faults.get(case_id, (Standing.CLEAN, ()))
        sides, said = [], [*words]
        for other, differing in zip(others, facts, strict=True):
            if other is None or other.rig_id == own.rig_id:
                sides.append(mine)
                continue
            apart = differing + _only_one_after(
                changes,
                own.after.get(case_id),
                other.after.get(case_id),
                {own.rig_id, other.rig_id},
            )
            their_side, their_words = other.faults.get(case_id, (Standing.CLEAN, ()))
            said += [f"{fact} against {other.name}" for fact in apart]
            said += [f"{other.name}, {one}" for one in their_words]
            mixed = Standing.MIXED if apart else Standing.CLEAN
            sides.append(max(mine, their_side, mixed, key=attrgetter("rank")))
        if any(side is not Standing.CLEAN for side in sides):
            standing = CellStanding(sides[0], sides[1], tuple(dict.fromkeys(said)))
            found[own.rig_id, case_id] = standing
    return found
