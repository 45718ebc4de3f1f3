"""The order of a bench day: fewest swaps, settings grouped, repeats spread, a control at the end.

Pure arithmetic over the plan; the clock lays the order out over days.
"""

from collections.abc import Hashable, Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import groupby

import numpy as np

from blunt_ruler.core.plan.matrix import PlanCell
from blunt_ruler.core.plan.shortest_tour import Tour, cheapest_path
from blunt_ruler.core.records.hardware import Rig
from blunt_ruler.core.records.plan_settings import Plan
from blunt_ruler.core.records.records import Contents, Review, Role
from blunt_ruler.core.rigs.dial import is_same_way


class ItemKind(StrEnum):
    """What is done at one point of the order."""

    SET_UP = "set up"
    SWAP = "swap"
    LOAD = "load"
    SETTINGS = "settings"
    WARM_UP = "warm-up"
    PASS = "pass"
    CONTROL = "control"


@dataclass(frozen=True, slots=True)
class Item:
    """One thing to do."""

    kind: ItemKind
    rig_id: str
    case_id: str | None
    repeat: int | None
    minutes: float


@dataclass(frozen=True, slots=True)
class Order:
    """Everything to do, in order, against the orders one would take without a plan.

    `minutes_as_entered` is rig by rig as entered, case by case, all repeats of a case at once;
    `minutes_at_once` is the same in this order of rigs.
    """

    items: tuple[Item, ...]
    minutes: float
    swaps: int
    minutes_as_entered: float
    swaps_as_entered: int
    minutes_at_once: float
    tour: Tour
    seed: int

    @property
    def minutes_saved(self) -> float:
        """What the order saves against rig by rig as entered; negative where it takes longer."""
        return self.minutes_as_entered - self.minutes

    @property
    def minutes_spread(self) -> float:
        """What spreading the repeats over rounds costs."""
        return self.minutes - self.minutes_at_once


def swap_minutes(contents: Contents, plan: Plan, one_id: str, other_id: str) -> float:
    """Minutes to turn one rig into another: what differs, each once."""
    one, other = contents.rigs[one_id], contents.rigs[other_id]
    if one.id == other.id:
        return 0.0
    swaps = plan.swaps
    total = 0.0
    for kind, minutes in (
        ("host_id", swaps.host),
        ("card_id", swaps.card),
        ("dock_id", swaps.dock),
        ("link_id", swaps.link),
    ):
        if getattr(one, kind) != getattr(other, kind):
            links = contents.links.get(one.link_id or ""), contents.links.get(other.link_id or "")
            turned = kind == "link_id" and is_same_way(*links)
            total += swaps.state if turned else minutes  # by the firmware's menu: a restart
    if one.state.driver != other.state.driver:
        total += swaps.driver
    if one.state.model_copy(update={"driver": ""}) != other.state.model_copy(update={"driver": ""}):
        total += swaps.state
    return total


def _made_of(rig: Rig) -> Hashable:
    """What a swap depends on."""
    return rig.host_id, rig.card_id, rig.dock_id, rig.link_id, rig.state


def build_order(
    contents: Contents,
    review: Review,
    plan: Plan,
    cells: Sequence[PlanCell],
    seed: int = 0,
) -> Order:
    """The order for the cells that have passes left.

    Rigs go in the cheapest tour; inside a rig each round of repeats visits every title once, its
    settings together, titles shuffled anew each round by the seed, so that a drift cannot hide
    behind one title. Where the plan does not spread repeats, all of a case come at once. The
    base's first case is run again at the end.
    """
    todo = [cell for cell in cells if cell.left > 0]
    base = review.rig_in(Role.BASE)
    control = _control_case(todo, cells, base) if plan.control else None
    rigs = list(dict.fromkeys(cell.rig_id for cell in todo))

    # Of rigs that are made of the same, one swap tells of all.
    made_of = {rig_id: _made_of(contents.rigs[rig_id]) for rig_id in contents.rigs}
    known: dict[tuple[Hashable, Hashable], float] = {}

    def cost(a: str, b: str) -> float:
        pair = made_of[a], made_of[b]
        if pair not in known:
            known[pair] = swap_minutes(contents, plan, a, b)
        return known[pair]

    tour = cheapest_path(rigs, cost, plan.first_rigs, base if control else None)
    rng = np.random.default_rng(seed)
    of_rig: dict[str, list[PlanCell]] = {rig_id: [] for rig_id in rigs}
    for cell in todo:
        of_rig[cell.rig_id].append(cell)
    rounds = [
        (rig_id, cell.case_id, repeat)
        for rig_id in tour.order
        for repeat, cell in _rounds(contents, of_rig[rig_id], rng)
    ]
    at_once = _walk(contents, plan, _at_once(contents, todo, tour.order), control, base)
    spread = _walk(contents, plan, rounds, control, base)
    items = spread if plan.spread_repeats else at_once
    as_entered = _walk(contents, plan, _at_once(contents, todo, rigs), control, base)
    return Order(
        items=tuple(items),
        minutes=_minutes(items),
        swaps=_swaps(items),
        minutes_as_entered=_minutes(as_entered),
        swaps_as_entered=_swaps(as_entered),
        minutes_at_once=_minutes(at_once),
        tour=tour,
        seed=seed,
    )


def _control_case(
    todo: Sequence[PlanCell], cells: Sequence[PlanCell], base: str | None
) -> str | None:
    """The case that the base runs again at the end: its first one that is not left out."""
    if base is None or not todo:
        return None
    usable = (cell for cell in cells if cell.rig_id == base and cell.left + cell.done > 0)
    return next((cell.case_id for cell in usable), None)


def _at_once(
    contents: Contents, todo: Sequence[PlanCell], rigs: Sequence[str]
) -> list[tuple[str, str, int]]:
    """Rig by rig, title by title, case by case, all repeats of a case one after another."""
    titles = dict.fromkeys(contents.cases[cell.case_id].title_id for cell in todo)
    rig_at = {rig_id: at for at, rig_id in enumerate(rigs)}
    title_at = {title_id: at for at, title_id in enumerate(titles)}
    order = sorted(
        todo,
        key=lambda cell: (rig_at[cell.rig_id], title_at[contents.cases[cell.case_id].title_id]),
    )
    return [
        (cell.rig_id, cell.case_id, cell.done + number + 1)
        for cell in order
        for number in range(cell.left)
    ]


def _rounds(
    contents: Contents, cells: Sequence[PlanCell], rng: np.random.Generator
) -> Iterable[tuple[int, PlanCell]]:
    most = max((cell.left for cell in cells), default=0)
    for number in range(most):
        now = [cell for cell in cells if number < cell.left]
        by_title = groupby(
            sorted(now, key=lambda cell: contents.cases[cell.case_id].title_id),
            key=lambda cell: contents.cases[cell.case_id].title_id,
        )
        groups = [list(group) for _, group in by_title]
        for index in rng.permutation(len(groups)):
            for cell in groups[index]:
                yield cell.done + number + 1, cell


def _walk(
    contents: Contents,
    plan: Plan,
    visits: Sequence[tuple[str, str, int]],
    control: str | None,
    base: str | None,
) -> list[Item]:
    """Everything that has to be done to make some visits one after the other."""
    items: list[Item] = []
    at_rig = at_case = None
    cool = plan.cool_down_s / 60.0
    ends = [(base, control, None)] if control is not None and base is not None else []
    for rig_id, case_id, repeat in (*visits, *ends):
        assert rig_id is not None
        assert case_id is not None
        title_id = contents.cases[case_id].title_id
        times = plan.times_of(title_id)
        if at_rig != rig_id:
            if at_rig is None:  # the first rig stands there already
                items.append(Item(ItemKind.SET_UP, rig_id, None, None, 0.0))
            else:
                minutes = swap_minutes(contents, plan, at_rig, rig_id)
                items.append(Item(ItemKind.SWAP, rig_id, None, None, minutes))
            at_case = None
        loaded = at_case is not None and contents.cases[at_case].title_id == title_id
        if not loaded:
            items.append(Item(ItemKind.LOAD, rig_id, case_id, None, times.load_s / 60.0))
        if at_case != case_id:
            items.append(Item(ItemKind.SETTINGS, rig_id, case_id, None, times.settings_s / 60.0))
        if not loaded and times.warm_up:
            items.append(Item(ItemKind.WARM_UP, rig_id, case_id, None, times.pass_s / 60.0))
        kind = ItemKind.PASS if repeat is not None else ItemKind.CONTROL
        items.append(Item(kind, rig_id, case_id, repeat, times.pass_s / 60.0 + cool))
        at_rig, at_case = rig_id, case_id
    return items


def _minutes(items: Sequence[Item]) -> float:
    return sum(item.minutes for item in items)


def _swaps(items: Sequence[Item]) -> int:
    return sum(item.kind is ItemKind.SWAP for item in items)
