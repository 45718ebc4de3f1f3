"""The dial: one card in one slot at fewer lanes and lower generations, each state a rig of its own.

A state is the same rig whose link has one more hop, named by `SET_IN_FIRMWARE`, that says what the
firmware's menu holds it to. Ladder, strip, checks and Limits read it like any hop; the plan counts
a restart for it and no swap.
"""

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from blunt_ruler.core.records.edits import Edit, free_name
from blunt_ruler.core.records.hardware import Hop, Link, Rig
from blunt_ruler.core.records.records import Contents, Record, Review
from blunt_ruler.core.rigs.links import (
    LANES,
    card_hop,
    encoded_gb_per_s,
    has_tunnel,
    is_behind_switch,
    negotiate_at_card,
    not_known_words,
)
from blunt_ruler.core.rigs.rig_edits import with_seat
from blunt_ruler.core.text import count_text, list_text
from blunt_ruler.core.values import LONGEST_NAME

SET_IN_FIRMWARE = "set in firmware"
GENERATIONS = (5, 4, 3, 2, 1)
STEPS = (
    "Let the card reach its usual heat and take the passes of the present state first.",
    "Shut down properly, start again and open the firmware's menu as the board's manual says.",
    "Find the speed of the slot (generation) and its width (bifurcation or lanes). Write down what "
    "stands there, then set the state; change nothing else.",
    "Save and start. Read the negotiated generation and lanes while a load runs: a card at rest "
    "shows less.",
    "Where the menu offers no width, leave the lanes alone; covering a card's contacts is not a "
    "substitute.",
    "When everything is measured, restore the old value.",
)
_NAMED = re.compile(r"^(?P<rig>.+) at (?P<generation>[1-6])\.0 x(?P<lanes>1|2|4|8|16)$")


@dataclass(frozen=True, slots=True, order=True)
class DialState:
    """A generation and a number of lanes that a slot is held to."""

    generation: int
    lanes: int

    @property
    def name(self) -> str:
        """As people say it: "3.0 x8"."""
        return f"{self.generation}.0 x{self.lanes}"

    @property
    def gb_per_s(self) -> float:
        """Rate after line code, GB/s, one direction."""
        return encoded_gb_per_s(self.generation, self.lanes)


def why_no_dial(contents: Contents, rig_id: str) -> str:
    """Why a rig has no dial; blank where it has one."""
    rig = contents.rigs.get(rig_id)
    if rig is None:
        return "Choose a rig"
    card, link = contents.card_of(rig_id), contents.link_of(rig_id)
    if card is None or card.built_in or link is None:
        return f"{rig.name} has no add-in card in a slot"
    if rig.origin or rig.source:
        return f"{rig.name} is not on this bench"
    if has_tunnel(link):
        return f"The tunnel of {rig.name} has no lanes to set"
    if any(is_behind_switch(hop) for hop in link.hops):
        return f"A switch stands between the slot and the card of {rig.name}"
    if is_dialled(link):
        return f"{rig.name} is a state of the dial itself"
    if any(hop.is_open for hop in link.hops):
        return not_known_words(link).rstrip(".")
    if own_state(contents, rig_id) is None:
        return f"Describe the hops of {link.name} with generation and lanes"
    return ""


def own_state(contents: Contents, rig_id: str) -> DialState | None:
    """What a rig negotiates as described; None where it does not say."""
    if rig_id not in contents.rigs:
        return None
    link, card = contents.link_of(rig_id), contents.card_of(rig_id)
    if link is None or card is None:
        return None
    agreed = negotiate_at_card((*link.hops, *card_hop(card)))
    return DialState(agreed.generation, agreed.lanes) if agreed else None


def dial_states(contents: Contents, rig_id: str) -> tuple[DialState, ...]:
    """States below a rig's own, the widest generation first."""
    own = own_state(contents, rig_id)
    if own is None or why_no_dial(contents, rig_id):
        return ()
    return tuple(
        state
        for generation in GENERATIONS
        for lanes in sorted(LANES, reverse=True)
        if generation <= own.generation and lanes <= own.lanes
        if (state := DialState(generation, lanes)) != own
    )


def usual_states(contents: Contents, rig_id: str) -> tuple[DialState, ...]:
    """The few states that tell most: each about half of the one before."""
    own, found = own_state(contents, rig_id), list[DialState]()
    states = sorted(dial_states(contents, rig_id), key=lambda one: -one.gb_per_s)
    last = own.gb_per_s if own else 0.0
    for state in states:
        if state.gb_per_s <= 0.55 * last and len(found) < 5:
            found.append(state)
            last = state.gb_per_s
    return tuple(found)


def dialled(contents: Contents, rig_id: str) -> dict[DialState, str]:
    """States of a rig that are rigs already, by the rig's id."""
    own, found = contents.rigs[rig_id], {}
    for rig in contents.rigs.values():
        link = contents.link_of(rig.id)
        state = dialled_state(link) if link else None
        if state and (rig.host_id, rig.card_id, rig.dock_id) == (
            own.host_id,
            own.card_id,
            own.dock_id,
        ):
            found[state] = rig.id
    return found


def turn_dial(
    contents: Contents,
    review: Review | None,
    rig_id: str,
    states: Sequence[DialState],
    new_id: Callable[[], str],
) -> Edit:
    """States of a rig as rigs of their own, in the review; what is a rig already is left alone."""
    rig, link = contents.rigs[rig_id], contents.link_of(rig_id)
    assert link is not None
    there = dialled(contents, rig_id)
    names = [one.name for one in contents.rigs.values()]
    links = [one.name for one in contents.links.values()]
    made: list[Record] = []
    for state in states:
        if state in there:
            continue
        held = _held(link, state, _named(link.name, state, links), new_id())
        copy = rig.model_copy(
            update={
                "id": new_id(),
                "name": _named(rig.name, state, names),
                "link_id": held.id,
                "measured_gb_per_s": None,
                "measured_how": "",
                "sweep": (),
            }
        )
        made += [copy, held]
        review = with_seat(review, copy.id) if review else None
    if review is not None and made:
        made.append(review)
    count = sum(isinstance(one, Rig) for one in made)
    return Edit(f"{count_text(count, 'state')} of the dial of {rig.name}", tuple(made))


def _named(name: str, state: DialState, taken: list[str]) -> str:
    """The name with its state behind it, which a long name gives way to; then it is taken."""
    end = f" at {state.name}"
    taken.append(free_name(f"{name[: LONGEST_NAME - len(end)].strip()}{end}", taken))
    return taken[-1]


def _held(link: Link, state: DialState, name: str, link_id: str) -> Link:
    hop = Hop(name=SET_IN_FIRMWARE, generation=state.generation, lanes=state.lanes)
    hops = (*link.hops[:1], hop, *link.hops[1:])
    return link.model_copy(update={"id": link_id, "name": name, "hops": hops})


def is_dialled(link: Link) -> bool:
    """Whether a link is held back by the firmware's menu."""
    return dialled_state(link) is not None


def dialled_state(link: Link) -> DialState | None:
    """What the firmware's menu holds a link to; None where it does not."""
    for hop in link.hops:
        if hop.name == SET_IN_FIRMWARE and hop.generation and hop.lanes:
            return DialState(hop.generation, hop.lanes)
    return None


def is_same_way(one: Link | None, other: Link | None) -> bool:
    """Whether two links differ in nothing but what the firmware's menu holds them to."""
    if one is None or other is None or not (is_dialled(one) or is_dialled(other)):
        return False
    return _free(one) == _free(other)


def _free(link: Link) -> tuple[Hop, ...]:
    return tuple(hop for hop in link.hops if hop.name != SET_IN_FIRMWARE)


def state_named(rig_name: str) -> tuple[str, DialState] | None:
    """The rig and the state that the name of a dialled rig says; None for another name."""
    found = _NAMED.match(rig_name)
    if found is None:
        return None
    return found["rig"], DialState(int(found["generation"]), int(found["lanes"]))


def dial_line(contents: Contents, rig_id: str) -> str:
    """What the dial would tell, or what it holds already."""
    why = why_no_dial(contents, rig_id)
    if why:
        return f"{why}."
    rig, own = contents.rigs[rig_id], own_state(contents, rig_id)
    there = sorted(dialled(contents, rig_id), reverse=True)
    if there:
        return f"{rig.name} stands at {own.name if own else ''} and, by the dial, at " + (
            f"{list_text([one.name for one in there])}."
        )
    return (
        f"The same card in the same slot at fewer lanes tells the link from the host: {rig.name} "
        f"stands at {own.name if own else ''}."
    )
