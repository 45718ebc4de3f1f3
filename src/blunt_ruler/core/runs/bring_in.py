"""Rigs and runs of another logbook brought into this one: as columns that say where they are from.

They are copies, without traces, and stay as they are: nothing is typed into them. A title or case
that stands here under the same words and facts is the same; a rig of the same name is asked about
once.
"""

from collections.abc import Callable
from dataclasses import dataclass

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.edits import Edit, free_name
from blunt_ruler.core.records.hardware import Card, Dock, Host, Link
from blunt_ruler.core.records.records import Case, Contents, Record, Review, Title
from blunt_ruler.core.text import count_text, list_text

NewId = Callable[[], str]
PARTS = (("host_id", "hosts"), ("card_id", "cards"), ("dock_id", "docks"), ("link_id", "links"))


class NothingToBring(UserFixable):
    """Another logbook that has no rig with runs."""


@dataclass(frozen=True, slots=True)
class Brought:
    """The edit that brings them in, and the names that stand in both logbooks."""

    edit: Edit
    same_names: tuple[str, ...]


def bring_in(
    contents: Contents,
    review: Review,
    other: Contents,
    origin: str,
    new_id: NewId,
    *,
    same_rigs: bool = False,
    as_references: bool = False,
) -> Brought:
    """Every rig of another logbook that has runs, with its parts and runs, into a review.

    With `same_rigs` a rig of the same name is taken for the one that is here, and its runs join;
    else it stays apart. Rigs that stay apart come `as_references`, behind those there are, where
    that is asked. Raises NothingToBring where no rig has a run.
    """
    return _Bringing(contents, review, other, origin, new_id, same_rigs, as_references).brought()


class _Bringing:
    def __init__(
        self,
        contents: Contents,
        review: Review,
        other: Contents,
        origin: str,
        new_id: NewId,
        same_rigs: bool,
        as_references: bool,
    ) -> None:
        self._here, self._review, self._other = contents, review, other
        self._as_references = as_references
        self._origin, self._new_id, self._same_rigs = origin, new_id, same_rigs
        self._made: dict[str, Record] = {}
        self._parts: dict[tuple[str, str], str] = {}
        self._titles: dict[str, str] = {}
        self._cases: dict[str, str] = {}

    def brought(self) -> Brought:
        """The edit."""
        other, origin = self._other, self._origin
        with_runs = {run.rig_id for run in other.runs.values()}
        rigs = [rig for rig in other.rigs.values() if rig.id in with_runs]
        if not rigs:
            raise NothingToBring(origin, "no rig in it has a run", "Choose another logbook")
        here = {rig.name.lower(): rig for rig in self._here.rigs.values()}
        same = tuple(rig.name for rig in rigs if rig.name.lower() in here)
        taken = [rig.name for rig in self._here.rigs.values()]
        ids: dict[str, str] = {}
        for rig in rigs:
            known = here.get(rig.name.lower()) if self._same_rigs else None
            if known is not None:
                ids[rig.id] = known.id
                continue
            name = free_name(rig.name, taken)
            if name != rig.name:
                name = free_name(f"{rig.name}, {origin}", taken)
            taken.append(name)
            ids[rig.id] = self._new_id()
            parts = {field: self._part(table, getattr(rig, field)) for field, table in PARTS}
            made = rig.model_copy(
                update={"id": ids[rig.id], "name": name, "origin": origin, **parts}
            )
            self._made[made.id] = made
        review = self._review
        repeats: dict[tuple[str, str], int] = {}
        for run in self._here.runs.values():
            key = run.rig_id, run.case_id
            repeats[key] = max(repeats.get(key, 0), run.repeat)
        for run in other.runs.values():
            case_id = self._case(other.cases[run.case_id])
            key = ids[run.rig_id], case_id
            repeats[key] = repeats.get(key, 0) + 1
            copied = run.without_evidence().model_copy(
                update={
                    "id": self._new_id(),
                    "rig_id": ids[run.rig_id],
                    "case_id": case_id,
                    "repeat": repeats[key],
                    "trim": None,
                }
            )
            self._made[copied.id] = copied
            review = review.joined_by(ids[run.rig_id], case_id)
        for rig_id in ids.values() if self._as_references else ():
            if rig_id in self._made:
                review = review.with_one_more_reference(rig_id)
        counted = count_text(len(rigs), "rig")
        names = list_text([rig.name for rig in rigs[:3]])
        edit = Edit(
            f"bring in {counted} of {origin}"[:200],
            (*self._made.values(), review),
            notice=f"{counted} of {origin} stand in this review: {names}"
            f"{f' and {len(rigs) - 3} more' if len(rigs) > 3 else ''}.",
        )
        return Brought(edit, same)

    def _part(self, table: str, part_id: str | None) -> str | None:
        """A part of the other logbook: the same one here where nothing but its id differs."""
        if part_id is None or part_id not in getattr(self._other, table):
            return None
        key = (table, part_id)
        if key not in self._parts:
            part: Host | Card | Dock | Link = getattr(self._other, table)[part_id]
            update: dict[str, object] = {}
            if isinstance(part, Host) and part.built_in_card_id:
                update["built_in_card_id"] = self._part("cards", part.built_in_card_id)
            mine = part.model_copy(update=update)
            self._parts[key] = self._same(table, mine) or self._add(mine)
        return self._parts[key]

    def _same(self, table: str, record: Record) -> str | None:
        for known in getattr(self._here, table).values():
            if known.model_copy(update={"id": record.id}) == record:
                return str(known.id)
        return None

    def _add(self, record: Record) -> str:
        made = record.model_copy(update={"id": self._new_id()})
        self._made[made.id] = made
        return made.id

    def _title(self, title: Title) -> str:
        if title.id not in self._titles:
            known = next(
                (t for t in self._here.titles.values() if t.name.lower() == title.name.lower()),
                None,
            )
            self._titles[title.id] = known.id if known is not None else self._add(title)
        return self._titles[title.id]

    def _case(self, case: Case) -> str:
        if case.id not in self._cases:
            title = self._title(self._other.titles[case.title_id])
            mine = case.model_copy(update={"title_id": title, "scene_has": ()})
            known = next(
                (
                    one.id
                    for one in self._here.cases.values()
                    if one.model_copy(update={"id": mine.id, "scene_has": ()}) == mine
                ),
                None,
            )
            self._cases[case.id] = known or self._add(mine)
        return self._cases[case.id]
