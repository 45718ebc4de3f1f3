"""An edit that was made out of what was on screen, put onto what is there by now.

A hand types faster than edits reach the file and come back. An edit puts whole records, so one made
out of what the screen showed would take back whatever was done in between; here only what it meant
to change is changed.
"""

from collections.abc import Hashable, Iterable
from dataclasses import replace
from typing import Any, cast

from pydantic import BaseModel

from blunt_ruler.core.records.edits import Edit
from blunt_ruler.core.records.records import TABLE_OF, Contents, Record, Review
from blunt_ruler.core.records.roles import Role


def rebased(edit: Edit, seen: Contents, now: Contents) -> Edit:
    """The edit as it would have been made out of `now`, where it was made out of `seen`.

    What both changed is as the edit has it, since it was made later. A record that is gone by now
    is put back as the edit has it.
    """
    if seen is now:
        return edit

    def onto(record: Record) -> Record:
        table = TABLE_OF[type(record)]
        was, there = getattr(seen, table).get(record.id), getattr(now, table).get(record.id)
        if was is None or there is None or there is was or there == was:
            return record
        merged = _merged(was, record, there)
        return _one_base(merged, record) if isinstance(record, Review) else cast(Record, merged)

    put = tuple(map(onto, edit.put))
    return edit if put == edit.put else replace(edit, put=put)


def _one_base(merged: Review, mine: Review) -> Review:
    """A review whose base is mine, where two edits chose one each."""
    chosen = mine.rig_in(Role.BASE)
    bases = [seat.rig_id for seat in merged.seats if seat.role is Role.BASE]
    if len(bases) < 2 or chosen is None:
        return merged
    seats = tuple(
        seat.model_copy(update={"role": Role.TESTED})
        if seat.role is Role.BASE and seat.rig_id != chosen
        else seat
        for seat in merged.seats
    )
    return merged.model_copy(update={"seats": seats})


def _merged(was: Any, mine: Any, there: Any) -> Any:
    """What is there, with what I changed of what was."""
    if mine == was:
        return there
    if there == was:
        return mine
    if isinstance(mine, BaseModel) and type(mine) is type(was) is type(there):
        fields = type(mine).model_fields
        merged = {
            name: _merged(getattr(was, name), getattr(mine, name), getattr(there, name))
            for name in fields
        }
        return there.model_copy(update=merged)
    if isinstance(mine, tuple) and isinstance(was, tuple) and isinstance(there, tuple):
        return _merged_rows(was, mine, there)
    return mine


def _merged_rows(
    was: tuple[Any, ...], mine: tuple[Any, ...], there: tuple[Any, ...]
) -> tuple[Any, ...]:
    """Rows that are there, without those that I took out, with those that I added or changed; in
    my order where I only moved some.
    """
    before, own, others = _by_key(was), _by_key(mine), _by_key(there)
    if len(before) < len(was) or len(own) < len(mine) or len(others) < len(there):
        return mine  # rows that are alike cannot be told apart
    if before.keys() == own.keys() == others.keys() and list(before) == list(others):
        order: Iterable[Hashable] = own
    else:
        kept = [key for key in others if key in own or key not in before]
        order = [*kept, *(key for key in own if key not in before and key not in others)]
    return tuple(
        _merged(before.get(key), own[key], others[key])
        if key in own and key in others
        else own[key]
        if key in own
        else others[key]
        for key in order
    )


def _by_key(rows: tuple[Any, ...]) -> dict[Hashable, Any]:
    """Rows by what tells them apart: the rig or the id they name, their key, or themselves."""
    found: dict[Hashable, Any] = {}
    for row in rows:
        names = (getattr(row, name, None) for name in ("rig_id", "case_id", "id", "name"))
        found[next((name for name in names if name is not None), row)] = row
    return found
