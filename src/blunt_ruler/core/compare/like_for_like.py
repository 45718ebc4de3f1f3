"""Like for like: whether two cells differ in more than what the review varies.

Host, card, dock and link are what a review varies. What can be changed without a screwdriver
and still changes results must be the same on both sides, or the pair is mixed and says why.
Frames made by generation, or other settings than the case's, cannot be compared at all.
"""

from collections.abc import Mapping, Sequence
from itertools import product
from operator import attrgetter

from blunt_ruler.core.checks.all import Checked
from blunt_ruler.core.checks.findings import Check
from blunt_ruler.core.compare.comparability import CellStanding, Standing, Unsound
from blunt_ruler.core.once import Handover
from blunt_ruler.core.records.hardware import Rig, RigState
from blunt_ruler.core.records.records import Contents, Decision, Review, Role, Run
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.rigs.differences import value_words
from blunt_ruler.core.runs.changes import change_words, counted_changes

NOT_COMPARABLE_FOR = frozenset({Check.GENERATED_FRAMES, Check.SETTINGS_CHANGED})


FACTS = (
    *("power_mode", "dock_mode", "card_mode", "cpu_power_limit_w", "card_power_limit_w"),
    *("overclock", "driver", "resizable_bar", "built_in_memory_gb"),
)
FACT_WORDS = {
    **{name: str(RigState.model_fields[name].description) for name in FACTS},
    "screen_path": "screen path",
    "screen": "screen",
}


def differing_facts(
    contents: Contents, one: Rig, other: Rig, varies: Sequence[str] = ()
) -> tuple[str, ...]:
    """Facts of two rigs that should be the same and are not, each with both values.

    What others published says itself that it is theirs; it is not held against them fact by fact.
    """
    if one.id == other.id or one.source or other.source:
        return ()
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
        found.append(f"{FACT_WORDS[name]} ({value_words(mine)}, {value_words(theirs)})")
    return tuple(found)


def unsound_words(checked: Checked) -> Unsound:
    """Kept runs with a blocking finding: what their cell is worth, and why."""
    stopped = {
        run_id: blocking
        for run_id, found in checked.by_run.items()
        if (blocking := [one for one in found if one.severity is Severity.BLOCKING])
    }
    found = {}
    for run in checked.runs if stopped else ():
        if run.id in stopped and run.decision is Decision.KEEP:
            blocking = stopped[run.id]
            hard = any(one.check in NOT_COMPARABLE_FOR for one in blocking)
            words = f"pass {run.repeat}: {blocking[0].check.words}"
            found[run.id] = (Standing.NOT_COMPARABLE if hard else Standing.MIXED), words
    return found


def _only_one_after(
    contents: Contents,
    past: Mapping[tuple[str, str], frozenset[str]],
    case_id: str,
    rig_id: str,
    other_id: str,
) -> tuple[str, ...]:
    """Changes of both rigs that only one of them was measured after."""
    mine, theirs = past.get((rig_id, case_id)), past.get((other_id, case_id))
    if mine is None or theirs is None or mine == theirs:
        return ()
    changes = [contents.changes[key] for key in mine ^ theirs]
    return tuple(
        f"only one was measured after {change_words(one)}"
        for one in changes
        if not one.rig_ids or {rig_id, other_id} <= {*one.rig_ids}
    )


def standings(
    contents: Contents,
    review: Review,
    kept: Mapping[tuple[str, str], Sequence[Run]],
    unsound: Unsound,
    handover: Handover | None = None,
) -> dict[tuple[str, str], CellStanding]:
    """The standing of every cell that has kept runs; clean ones are left out."""
    rigs = contents.rigs
    between: dict[tuple[str, str], tuple[str, ...]] = {}
    own: dict[tuple[str, str], tuple[Standing, tuple[str, ...]]] = {}
    stopped = (run for run_id in unsound if (run := contents.runs.get(run_id)))
    for key in dict.fromkeys((run.rig_id, run.case_id) for run in stopped):
        faults = [unsound[run.id] for run in kept.get(key, ()) if run.id in unsound]
        if faults:
            worst = max((one for one, _ in faults), key=attrgetter("rank"))
            own[key] = worst, tuple(words for _, words in faults)
    roles = (review.rig_in(Role.BASE), review.rig_in(Role.REFERENCE))
    past = counted_changes(contents, kept, handover)
    found = {}
    others = [one for one in roles if one is not None]
    for one_id, against in product({rig_id for rig_id, _ in kept}, others):
        between[one_id, against] = (
            ()
            if one_id == against
            else differing_facts(contents, rigs[one_id], rigs[against], review.varies)
        )
    differ = {rig_id for (rig_id, _), facts in between.items() if facts}
    doubted = {case_id for rig_id, case_id in own if rig_id in others}
    for rig_id, case_id in kept:
        if not (past or rig_id in differ or case_id in doubted or (rig_id, case_id) in own):
            continue  # as nearly all: it and what it is held against are clean
        mine, words = own.get((rig_id, case_id), (Standing.CLEAN, ()))
        sides = []
        said = [*words]
        for other_id in roles:
            if other_id is None or other_id == rig_id:
                sides.append(mine)
                continue
            facts = between[rig_id, other_id]
            if past:
                facts += _only_one_after(contents, past, case_id, rig_id, other_id)
            theirs = own.get((other_id, case_id))
            if not facts and theirs is None:
                sides.append(mine)
                continue
            their_side, their_words = theirs or (Standing.CLEAN, ())
            said += [f"{fact} against {rigs[other_id].name}" for fact in facts]
            said += [f"{rigs[other_id].name}, {one}" for one in their_words]
            mixed = Standing.MIXED if facts else Standing.CLEAN
            sides.append(max(mine, their_side, mixed, key=attrgetter("rank")))
        if any(side is not Standing.CLEAN for side in sides):
            found[rig_id, case_id] = CellStanding(sides[0], sides[1], tuple(dict.fromkeys(said)))
    return found
