"""Edits of rigs and parts: new, duplicate, choose, join, tick; and the cases of a review."""

from collections.abc import Callable, Collection, Iterable, Sequence
from typing import TypeAlias, TypeVar

from blunt_ruler.core.records.bench_notes import OwnStep
from blunt_ruler.core.records.edits import Edit, free_name
from blunt_ruler.core.records.hardware import Card, Dock, Host, Link, Rig, Tick, TickState
from blunt_ruler.core.records.records import Case, Contents, Record, Review, ReviewRig
from blunt_ruler.core.runs.import_runs import CaseName, cases_named
from blunt_ruler.core.text import count_text

NewId = Callable[[], str]
Part: TypeAlias = Host | Card | Dock | Link
PART_MODELS: dict[str, type[Host] | type[Card] | type[Dock] | type[Link]] = {
    "host": Host,
    "card": Card,
    "dock": Dock,
    "link": Link,
}
PART_TABLES = {"host": "hosts", "card": "cards", "dock": "docks", "link": "links"}

Named = TypeVar("Named", Host, Card, Dock, Link, Rig)


def new_rig(contents: Contents, review: Review | None, new_id: NewId) -> Edit:
    """A blank rig on the first host there is, in the review; the rig is put first."""
    host = next(iter(contents.hosts), None)
    name = free_name("New rig", (rig.name for rig in contents.rigs.values()))
    rig = Rig(id=new_id(), name=name, host_id=host)
    return Edit("new rig", _joined(rig, review))


def duplicate_rig(contents: Contents, review: Review | None, rig_id: str, new_id: NewId) -> Edit:
    """A copy of a rig that shares its parts, in the review: to change one thing on it."""
    copy = _copy(contents.rigs[rig_id], (one.name for one in contents.rigs.values()), new_id)
    return Edit("duplicate a rig", _joined(copy, review))


def _joined(rig: Rig, review: Review | None) -> tuple[Record, ...]:
    return (rig,) if review is None else (rig, with_seat(review, rig.id))


def _copy(part: Named, taken: Iterable[str], new_id: NewId) -> Named:
    return part.model_copy(update={"id": new_id(), "name": free_name(part.name, taken)})


def in_review(review: Review | None, rig_id: str) -> bool:
    """Whether a rig is in a review."""
    return review is not None and any(seat.rig_id == rig_id for seat in review.seats)


def join_or_leave(contents: Contents, review: Review, rig_id: str) -> Edit:
    """Take a rig into a review, or out of it where it is in."""
    name = contents.rigs[rig_id].name
    if in_review(review, rig_id):
        return Edit(f"take {name} out of the review", (without_seat(review, rig_id),))
    return Edit(f"{name} joins the review", (with_seat(review, rig_id),))


def with_seat(review: Review, rig_id: str) -> Review:
    """The review with a rig in it."""
    if in_review(review, rig_id):
        return review
    return review.model_copy(update={"seats": (*review.seats, ReviewRig(rig_id=rig_id))})


def without_seat(review: Review, rig_id: str) -> Review:
    """The review without a rig; its runs stay in the logbook."""
    seats = tuple(seat for seat in review.seats if seat.rig_id != rig_id)
    return review.model_copy(update={"seats": seats})


def choose_part(contents: Contents, rig_id: str, kind: str, part_id: str | None) -> Edit:
    """Another host, card, dock or link for a rig, or none."""
    rig = contents.rigs[rig_id].model_copy(update={f"{kind}_id": part_id})
    return Edit(f"{kind} of {rig.name}", (rig,))


def new_part(
    contents: Contents, rig_id: str, kind: str, new_id: NewId, like: str | None = None
) -> Edit:
    """A new part on a rig, blank or a copy of one; the part is put first."""
    table = getattr(contents, PART_TABLES[kind])
    names = [one.name for one in table.values()]
    part = (
        _copy(table[like], names, new_id)
        if like is not None
        else PART_MODELS[kind](id=new_id(), name=free_name(f"New {kind}", names))
    )
    rig = contents.rigs[rig_id].model_copy(update={f"{kind}_id": part.id})
    return Edit(f"new {kind} on {rig.name}", (part, rig))


def rigs_with(contents: Contents, kind: str, part_id: str) -> tuple[Rig, ...]:
    """The rigs that share a part: an edit of it changes them all."""
    return tuple(rig for rig in contents.rigs.values() if getattr(rig, f"{kind}_id") == part_id)


def tick_step(rig: Rig, step: str, state: TickState, at: str, reading: str, new_id: NewId) -> Edit:
    """Tick or skip a pre-flight step of a rig, at a moment as ISO text."""
    made = Tick(id=new_id(), rig_id=rig.id, step=step, state=state, at=at, reading=reading)
    return Edit(f"{state} a pre-flight step of {rig.name}", (made,))


def own_step(do: str, ask: bool, step_id: str) -> Edit:
    """A pre-flight step of one's own, asked of every rig."""
    made = OwnStep(id=step_id, do=do, ask=ask)
    return Edit("add a pre-flight step", (made,))


def drop_own_step(step: OwnStep) -> Edit:
    """A step of one's own taken away; its ticks stay in the logbook."""
    return Edit(f"take away the step “{step.do[:60]}”", drop=(step,))


def measured_bandwidth(
    rig: Rig, gb_per_s: float, how: str, sweep: Sequence[tuple[float, float]] = ()
) -> Edit:
    """A measured bandwidth for a rig, how it was measured, and the sweep's (block MB, GB/s)."""
    update = {
        "measured_gb_per_s": round(gb_per_s, 3),
        "measured_how": how,
        "sweep": tuple((float(block), round(float(rate), 4)) for block, rate in sweep),
    }
    return Edit(f"bus sweep of {rig.name}", (rig.model_copy(update=update),))


def add_parts(contents: Contents, parts: Sequence[Part], only_new: bool = False) -> Edit:
    """Parts for the logbook; with `only_new` those whose names it does not know yet."""
    known = {
        part.name for table in PART_TABLES.values() for part in getattr(contents, table).values()
    }
    added = tuple(part for part in parts if not (only_new and part.name in known))
    return Edit(
        f"add {len(added)} parts",
        added,
        notice=f"{len(added)} parts are in the logbook; choose them on a rig.",
    )


def all_parts(contents: Contents) -> tuple[Part, ...]:
    """Every host, card, dock and link of a logbook."""
    return tuple(
        part for table in PART_TABLES.values() for part in getattr(contents, table).values()
    )


def parts_line(kinds: Sequence[str], own: int, rig: str) -> str:
    """What a shelf of parts holds, and where Enter puts one."""
    what = f"{kinds[0]}s" if len(kinds) == 1 else "parts"
    where = f" Enter or a drag puts one on {rig}." if rig else ""
    return f"{own} {what} of this logbook, then generic ones.{where}"


RESOLUTIONS = ("1080p", "1440p", "2160p")
PRESETS = ("Low", "Medium", "High")


def add_cases(
    contents: Contents, review: Review, wanted: Sequence[CaseName], new_id: NewId
) -> Edit | None:
    """Titles and cases for some names, made where they are new, in the review; None where they
    are in it already.
    """
    made, ids = cases_named(contents, wanted, new_id)
    added = [case_id for case_id in dict.fromkeys(ids) if case_id not in review.case_ids]
    if not added:
        return None
    label = f"add {wanted[0].label}" if len(wanted) == 1 else "add a template of cases"
    cases = (*review.case_ids, *added)
    return Edit(label, (*made, review.model_copy(update={"case_ids": cases})))


def remove_cases(review: Review, gone: Collection[str]) -> Edit:
    """Cases taken out of the review; their runs stay in the logbook."""
    kept = tuple(one for one in review.case_ids if one not in gone)
    label = f"take {count_text(len(gone), 'case')} out of the review"
    return Edit(label, (review.model_copy(update={"case_ids": kept}),))


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
