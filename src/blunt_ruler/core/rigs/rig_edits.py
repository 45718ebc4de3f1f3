"""Edits of rigs and parts as the records they put in place: new, duplicate, choose, join."""

from collections.abc import Callable, Iterable
from typing import TypeVar

from blunt_ruler.core.records.hardware import Card, Dock, Host, Link, Rig, Tick, TickState
from blunt_ruler.core.records.records import Case, Contents, Record, Review, ReviewRig
from blunt_ruler.core.runs.import_runs import CaseName, cases_named

NewId = Callable[[], str]
PART_MODELS: dict[str, type[Host] | type[Card] | type[Dock] | type[Link]] = {
    "host": Host,
    "card": Card,
    "dock": Dock,
    "link": Link,
}
PART_TABLES = {"host": "hosts", "card": "cards", "dock": "docks", "link": "links"}

Named = TypeVar("Named", Host, Card, Dock, Link, Rig)


def free_name(wanted: str, taken: Iterable[str]) -> str:
    """A name that is not taken: "Sluice 2" where "Sluice" is."""
    names = set(taken)
    if wanted not in names:
        return wanted
    return next(name for number in range(2, 10_000) if (name := f"{wanted} {number}") not in names)


def new_rig(contents: Contents, review: Review | None, new_id: NewId) -> tuple[Record, ...]:
    """A blank rig on the first host there is, in the review."""
    host = next(iter(contents.hosts), None)
    name = free_name("New rig", (rig.name for rig in contents.rigs.values()))
    rig = Rig(id=new_id(), name=name, host_id=host)
    return _joined(rig, review)


def duplicate_rig(
    contents: Contents, review: Review | None, rig_id: str, new_id: NewId
) -> tuple[Record, ...]:
    """A copy of a rig that shares its parts, in the review: to change one thing on it."""
    rig = contents.rigs[rig_id]
    return _joined(_copy(rig, (one.name for one in contents.rigs.values()), new_id), review)


def _joined(rig: Rig, review: Review | None) -> tuple[Record, ...]:
    return (rig,) if review is None else (rig, with_seat(review, rig.id))


def _copy(part: Named, taken: Iterable[str], new_id: NewId) -> Named:
    return part.model_copy(update={"id": new_id(), "name": free_name(part.name, taken)})


def with_seat(review: Review, rig_id: str) -> Review:
    """The review with a rig in it."""
    if any(seat.rig_id == rig_id for seat in review.seats):
        return review
    return review.model_copy(update={"seats": (*review.seats, ReviewRig(rig_id=rig_id))})


def without_seat(review: Review, rig_id: str) -> Review:
    """The review without a rig; its runs stay in the logbook."""
    seats = tuple(seat for seat in review.seats if seat.rig_id != rig_id)
    return review.model_copy(update={"seats": seats})


def with_part(contents: Contents, rig_id: str, kind: str, part_id: str | None) -> Rig:
    """A rig with another host, card, dock or link, or none."""
    return contents.rigs[rig_id].model_copy(update={f"{kind}_id": part_id})


def new_part(
    contents: Contents, rig_id: str, kind: str, new_id: NewId, like: str | None = None
) -> tuple[Record, ...]:
    """A new part on a rig, blank or a copy of one, and the rig that now has it."""
    table = getattr(contents, PART_TABLES[kind])
    names = [one.name for one in table.values()]
    part = (
        _copy(table[like], names, new_id)
        if like is not None
        else PART_MODELS[kind](id=new_id(), name=free_name(f"New {kind}", names))
    )
    return part, contents.rigs[rig_id].model_copy(update={f"{kind}_id": part.id})


def rigs_with(contents: Contents, kind: str, part_id: str) -> tuple[Rig, ...]:
    """The rigs that share a part: an edit of it changes them all."""
    return tuple(rig for rig in contents.rigs.values() if getattr(rig, f"{kind}_id") == part_id)


def tick(rig_id: str, step: str, state: TickState, at: str, reading: str, new_id: NewId) -> Tick:
    """A pre-flight tick."""
    return Tick(id=new_id(), rig_id=rig_id, step=step, state=state, at=at, reading=reading)


RESOLUTIONS = ("1080p", "1440p", "2160p")
PRESETS = ("Low", "Medium", "High")


def with_cases(
    contents: Contents, review: Review, wanted: Iterable[CaseName], new_id: NewId
) -> tuple[Record, ...]:
    """New titles and cases for some names, and the review that takes them in."""
    made, ids = cases_named(contents, wanted, new_id)
    added = [case_id for case_id in dict.fromkeys(ids) if case_id not in review.case_ids]
    return (*made, review.model_copy(update={"case_ids": (*review.case_ids, *added)}))


def three_resolutions(contents: Contents, review: Review) -> tuple[CaseName, ...]:
    """Every title of a review at three resolutions, with the scene and preset it has."""
    return tuple(
        CaseName(name, case.scene, resolution, case.preset)
        for name, case in _first_cases(contents, review).items()
        for resolution in RESOLUTIONS
    )


def three_presets(contents: Contents, review: Review) -> tuple[CaseName, ...]:
    """Every title of a review at three presets: to find the settings each rig can play."""
    return tuple(
        CaseName(name, case.scene, case.resolution, preset)
        for name, case in _first_cases(contents, review).items()
        for preset in PRESETS
    )


def _first_cases(contents: Contents, review: Review) -> dict[str, Case]:
    found: dict[str, Case] = {}
    for case_id in review.case_ids:
        case = contents.cases[case_id]
        found.setdefault(contents.titles[case.title_id].name, case)
    return found
