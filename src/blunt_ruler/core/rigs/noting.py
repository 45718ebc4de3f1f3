"""Facts noted by name, as the forms of the window do: of rigs, parts, titles and alternatives."""

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, TypeVar

from pydantic import BaseModel

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.alternatives import Alternative
from blunt_ruler.core.records.edits import Edit
from blunt_ruler.core.records.hardware import Card, Dock, Host, Link, Rig, RigState
from blunt_ruler.core.records.pricing import Price, Readings, WorthSettings
from blunt_ruler.core.records.records import TABLE_OF, Contents, Record, Review, Title
from blunt_ruler.core.rigs.fields import FieldSpec, fields_of, with_field
from blunt_ruler.core.text import list_text


class BadNote(UserFixable):
    """A fact that cannot be noted: nothing has that name, or it has no such fact."""


@dataclass(frozen=True, slots=True)
class Noted:
    """Whom a fact is noted of: the value that has the fields, and the record it is kept in."""

    name: str
    value: BaseModel
    kept_in: Callable[[BaseModel], Record]


MODELS: Mapping[str, type[BaseModel]] = {
    "rig": Rig,
    "state": RigState,
    "readings": Readings,
    "host": Host,
    "card": Card,
    "dock": Dock,
    "link": Link,
    "price": Price,
    "worth": WorthSettings,
    "title": Title,
    "alternative": Alternative,
}
WORD = re.compile(r"\w+")
Kept = TypeVar("Kept", bound=Record)


def noted_of(
    contents: Contents, kind: str, name: str, new_id: Callable[[], str] | None = None
) -> Noted:
    """Whom a name means; with `new_id` an alternative that is not there yet is made. Raises
    BadNote.
    """
    if kind in ("state", "readings"):
        rig = _named(contents, name, Rig)
        if kind == "state":
            return Noted(rig.name, rig.state, lambda made: rig.model_copy(update={"state": made}))
        readings = contents.readings.get(rig.id) or Readings(id=rig.id, rig_id=rig.id)
        return Noted(rig.name, readings, _as_it_is)
    if kind == "worth":
        review = _named(contents, name, Review)
        return Noted(
            review.name, review.worth, lambda made: review.model_copy(update={"worth": made})
        )
    if kind == "price":
        part = _named(contents, name, Host, Card, Dock, Link)
        return Noted(name, contents.prices.get(part.id) or Price(id=part.id), _as_it_is)
    if new_id is not None and kind == "alternative" and not _matches(contents, name, Alternative):
        return Noted(name, Alternative(id=new_id(), name=name), _as_it_is)
    if kind not in MODELS:
        raise BadNote("note", f"there is no “{kind}”", f"Choose one of {', '.join(MODELS)}")
    model: Any = MODELS[kind]
    return Noted(name, _named(contents, name, model), _as_it_is)


def _as_it_is(made: BaseModel) -> Record:
    return made  # type: ignore[return-value]


def _all_of(contents: Contents, models: Sequence[type[Any]]) -> list[Any]:
    return [one for model in models for one in getattr(contents, TABLE_OF[model]).values()]


def _matches(contents: Contents, name: str, *models: type[Kept]) -> list[Kept]:
    every = _all_of(contents, models)
    return [one for one in every if name.lower() in (one.name.lower(), one.id)]


def _named(contents: Contents, name: str, *models: type[Kept]) -> Kept:
    found = _matches(contents, name, *models)
    if len(found) == 1:
        return found[0]
    what = " or ".join(model.__name__.lower() for model in models)
    if found:
        raise BadNote(what, f"{len(found)} are called “{name}”", "Give one of them another name")
    names = [one.name for one in _all_of(contents, models)]
    raise BadNote(what, f"none is called “{name}”", f"Choose from: {', '.join(names) or 'none'}")


def note_facts(
    contents: Contents, kind: str, name: str, facts: Sequence[str], new_id: Callable[[], str]
) -> Edit:
    """The edit that notes facts, each “what it is: its value”; an empty value makes it unknown."""
    whom = noted_of(contents, kind, name, new_id)
    value, said = whom.value, []
    for fact in facts:
        what, colon, text = fact.partition(":")
        if not colon:
            raise BadNote(f"“{fact}”", "it has no colon", "Write it like “lanes: 4”")
        spec = field_named(type(value), what)
        value = with_field(value, spec.name, text.strip())
        said.append(spec.says)
    return Edit(f"{list_text(said)} of {whom.name}"[:200], (whom.kept_in(value),))


def field_named(model: type[BaseModel], words: str) -> FieldSpec:
    """The field that words mean: its name or its label, or the one whose label has all of them."""
    said = " ".join(words.lower().split())
    specs = fields_of(model)
    exact = [one for one in specs if said in (one.name, one.says.lower())]
    asked = set(WORD.findall(said))
    close = [one for one in specs if asked <= set(WORD.findall(one.says.lower()))]
    found = exact or close
    if said and len(found) == 1:
        return found[0]
    known = ", ".join(one.says for one in (found or specs))
    why = "can be more than one fact" if found else "is not a fact of it"
    raise BadNote(f"“{words.strip()}”", f"it {why}", f"Choose one of: {known}")
