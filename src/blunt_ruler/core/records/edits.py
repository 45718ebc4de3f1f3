"""An edit as a value: its name for the Undo menu, what it puts in place and what it takes away.

Pure functions make edits out of what is there; whoever has the logbook writes them. Those that
need records alone stand here, others in the package of their subject.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from itertools import chain
from typing import Any

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.records import (
    TABLE_OF,
    Contents,
    Decision,
    Record,
    Review,
    Run,
)
from blunt_ruler.core.records.roles import Role
from blunt_ruler.core.values import LONGEST_NAME


@dataclass(frozen=True, slots=True)
class Edit:
    """One step that can be undone. `notice` is worth saying once it is done."""

    label: str
    put: tuple[Record, ...] = ()
    drop: tuple[Record, ...] = ()
    notice: str = ""

    def on(self, contents: Contents) -> Contents:
        """What a logbook holds once the edit is made."""
        changed: dict[str, dict[str, Record | None]] = {}
        for record in self.put:
            changed.setdefault(TABLE_OF[type(record)], {})[record.id] = record
        for record in self.drop:
            changed.setdefault(TABLE_OF[type(record)], {})[record.id] = None
        return contents.with_records(changed)

    def is_in(self, contents: Contents) -> bool:
        """Whether a logbook holds what the edit makes."""
        return all(
            getattr(contents, TABLE_OF[type(record)]).get(record.id) == record
            for record in self.put
        ) and not any(
            record.id in getattr(contents, TABLE_OF[type(record)]) for record in self.drop
        )


def free_name(wanted: str, taken: Iterable[str]) -> str:
    """A name that is not taken: "Sluice 2" where "Sluice" is; too long a one is cut."""
    names = set(taken)
    ends = chain([""], (f" {number}" for number in range(2, 10_000)))
    fitting = (f"{wanted[: LONGEST_NAME - len(end)].strip()}{end}" for end in ends)
    return next(name for name in fitting if name not in names)


def checked_name(
    typed: str, taken: Iterable[str], of: str, whose: str, wrong: type[UserFixable]
) -> str:
    """A name as it is kept, its blanks single. `wrong` where it is blank, too long or taken."""
    name = " ".join(typed.split())
    if not name or len(name) > LONGEST_NAME:
        what = "it is blank" if not name else f"it has {len(name)} letters"
        raise wrong(f"name of the {of}", what, f"Give 1 to {LONGEST_NAME} letters")
    if name in taken:
        raise wrong(f"name of the {of}", f"“{name}” is another {whose}", "Give another name")
    return name


def put(label: str, *records: Record) -> Edit:
    """An edit that puts records in place."""
    return Edit(label, records)


def change_review(review: Review, label: str, **fields: Any) -> Edit:
    """Other settings of a review."""
    return Edit(label, (review.model_copy(update=fields),))


def rename_rig(contents: Contents, rig_id: str, name: str) -> Edit:
    """Another name for a rig."""
    rig = contents.rigs[rig_id]
    return Edit(f"rename {rig.name}", (rig.model_copy(update={"name": name}),))


def give_role(contents: Contents, review: Review, rig_id: str, role: Role) -> Edit:
    """A rig as base, reference or under test; the role passes from its holder."""
    name = contents.rigs[rig_id].name
    return Edit(f"make {name} {role}", (review.with_role(rig_id, role),))


def one_more_reference(contents: Contents, review: Review, rig_id: str) -> Edit:
    """A rig as a further reference, beside the one that every cell's loss is against."""
    name = contents.rigs[rig_id].name
    return Edit(f"make {name} one more reference", (review.with_one_more_reference(rig_id),))


def leave_out(contents: Contents, review: Review, case_id: str, why: str | None) -> Edit:
    """A case kept out of the means with a reason, or let in again for None."""
    verb = "let in" if why is None else "leave out"
    return Edit(
        f"{verb} {contents.case_label(case_id)}", (review.with_case_left_out(case_id, why),)
    )


def weigh_case(contents: Contents, review: Review, case_id: str, weight: float) -> Edit:
    """Another weight of a case in the means."""
    return Edit(f"weigh {contents.case_label(case_id)}", (review.with_weight(case_id, weight),))


def decide(*runs: Run, decision: Decision) -> Edit:
    """Keep, redo or set aside a run, or some alike."""
    what = f"pass {runs[0].repeat}" if len(runs) == 1 else f"{len(runs)} passes"
    made = tuple(run.model_copy(update={"decision": decision}) for run in runs)
    return Edit(f"{decision} {what}", made)


def give_reason(run: Run, reason: str) -> Edit:
    """Why a run was decided as it was."""
    return Edit(f"reason for pass {run.repeat}", (run.model_copy(update={"reason": reason}),))
