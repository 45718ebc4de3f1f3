"""What differs between two rigs: one sentence and a table."""

from dataclasses import dataclass

from pydantic import BaseModel

from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.rigs.fields import field_text
from blunt_ruler.core.text import list_text

NOT_COMPARED = {"id", "name", "notes", "host_id", "card_id", "dock_id", "link_id", "state"}


@dataclass(frozen=True, slots=True)
class Difference:
    """One fact that differs: of which part, which field, and both values in words."""

    part: str
    field: str
    first: str
    second: str


def what_differs(contents: Contents, first_id: str, second_id: str) -> tuple[Difference, ...]:
    """Every described fact that differs between two rigs, part by part."""
    found: list[Difference] = []
    first, second = contents.rigs[first_id], contents.rigs[second_id]
    for part, table in (
        ("host", contents.hosts),
        ("card", contents.cards),
        ("dock", contents.docks),
        ("link", contents.links),
    ):
        one = table.get(getattr(first, f"{part}_id") or "")
        other = table.get(getattr(second, f"{part}_id") or "")
        if (one and one.id) == (other and other.id):
            continue
        found.append(
            Difference(part, part, one.name if one else "none", other.name if other else "none")
        )
        if one is not None and other is not None:
            found.extend(_fields(part, one, other))
    found.extend(_fields("rig", first, second))
    found.extend(_fields("state", first.state, second.state))
    return tuple(found)


def _fields(part: str, one: BaseModel, other: BaseModel) -> list[Difference]:
    different = []
    for name, field in type(one).model_fields.items():
        a, b = getattr(one, name), getattr(other, name)
        if name in NOT_COMPARED or a == b:
            continue
        unit = ""
        if isinstance(field.json_schema_extra, dict):
            unit = f"\u202f{field.json_schema_extra.get('unit', '')}"
        different.append(
            Difference(part, field.description or name, value_words(a, unit), value_words(b, unit))
        )
    return different


def value_words(value: object, unit: str = "") -> str:
    """A field's value as one reads it; unknown where nothing is said."""
    if value is None or value == () or value == "":
        return "unknown"
    number = isinstance(value, int | float) and not isinstance(value, bool)
    return f"{field_text(value)}{unit if number else ''}".replace("\n", "; ")


def differences_line(contents: Contents, first_id: str, second_id: str) -> str:
    """The difference in one sentence: the parts by name, the rest counted."""
    first, second = contents.rigs[first_id], contents.rigs[second_id]
    found = what_differs(contents, first_id, second_id)
    if not found:
        return f"{first.name} and {second.name} do not differ in anything described."
    parts = [one for one in found if one.part == one.field]
    if not parts:
        named = list_text([one.field for one in found[:3]])
        return f"{second.name} differs from {first.name} in {named}."
    said = list_text([f"{one.part} ({one.second}, not {one.first})" for one in parts])
    return f"{second.name} differs from {first.name} in {said}."
