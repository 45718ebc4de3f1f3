"""The fields of parts as one reads and types them.

Each field is declared once, in `core.parts`; forms, files and comparisons all derive their words,
units, bounds and spelling from it here.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from enum import StrEnum
from functools import cache
from types import NoneType, UnionType
from typing import Any, Literal, TypeVar, Union, get_args, get_origin

from pydantic import BaseModel, ValidationError
from pydantic.fields import FieldInfo

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.numbers import number, number_in
from blunt_ruler.core.records.hardware import Adapter, Device, Hop, Plugs, Screen
from blunt_ruler.core.records.pricing import ExchangeRate, NoiseReading, PriceThen
from blunt_ruler.core.records.records import Meters, TestPart, TypedFigures
from blunt_ruler.core.rigs.meter_notation import meter_in, meters_in, money_in
from blunt_ruler.core.rigs.notation import (
    BadSpec,
    adapters_text,
    devices_text,
    hops_text,
    parse_adapters,
    parse_devices,
    parse_hops,
    parse_plugs,
    parse_screen,
    plugs_text,
    screen_text,
)
from blunt_ruler.core.rigs.worth_notation import (
    earlier_text,
    noise_text,
    parse_covers,
    parse_earlier,
    parse_frames,
    parse_noise,
    parse_rates,
    rates_text,
)
from blunt_ruler.core.runs.entry import pass_text
from blunt_ruler.core.runs.parts_notation import parse_parts, parts_text
from blunt_ruler.core.text import THIN, capital, list_text

UNKNOWN, YES, NO = "unknown", "yes", "no"
SHARE = "of 1"
TRUE_WORDS, FALSE_WORDS = (YES, "true"), (NO, "false")

Part = TypeVar("Part", bound=BaseModel)


class FieldKind(StrEnum):
    """How a field is typed."""

    TEXT = "text"
    NUMBER = "number"
    CHOICE = "choice"
    LINES = "lines"


@dataclass(frozen=True, slots=True)
class FieldSpec:
    """One field of a model: its name, what it is, its unit, how it is typed, and an example where
    it has a notation of its own.
    """

    name: str
    says: str
    unit: str
    kind: FieldKind
    choices: tuple[str, ...] = ()
    example: str = ""

    @property
    def typed_unit(self) -> str:
        """Its unit as one types it: a share is typed as per cent."""
        return "%" if self.unit == SHARE else self.unit

    @property
    def typed_scale(self) -> float:
        """How many of what is typed make one of what is stored."""
        return 100.0 if self.unit == SHARE else 1.0

    def text(self, value: Any) -> str:
        """A stored value as one types it; empty for unknown."""
        if value is not None and self.typed_scale != 1.0:
            return f"{round(value * self.typed_scale, 9):g}"
        return field_text(value)


@cache
def fields_of(model: type[BaseModel]) -> tuple[FieldSpec, ...]:
    """The fields that a form shows: those that say what they are, and the name."""
    specs = []
    for name, field in model.model_fields.items():
        if name == "name":
            specs.append(FieldSpec("name", "name", "", FieldKind.TEXT))
            continue
        if not field.description or name.endswith("_id"):
            continue
        extra = field.json_schema_extra
        said = extra if isinstance(extra, dict) else {}
        unit, example = (str(said.get(what, "")) for what in ("unit", "example"))
        kind, choices = _kind(field.annotation)
        specs.append(FieldSpec(name, field.description, unit, kind, choices, example))
    return tuple(specs)


def _kind(annotation: Any) -> tuple[FieldKind, tuple[str, ...]]:
    members = _members(annotation)
    plain = [one for one in members if one is not NoneType]
    optional = len(plain) < len(members)
    blank = (UNKNOWN,) if optional else ()
    first = plain[0] if plain else str
    if first is bool:
        return FieldKind.CHOICE, (*blank, YES, NO)
    if isinstance(first, type) and issubclass(first, StrEnum):
        return FieldKind.CHOICE, (*blank, *map(str, first))
    if get_origin(first) is Literal:
        return FieldKind.CHOICE, (*blank, *map(str, get_args(first)))
    if get_origin(first) is tuple:
        return (FieldKind.LINES if Hop in get_args(first) else FieldKind.TEXT), ()
    if first in (int, float):
        return FieldKind.NUMBER, ()
    return FieldKind.TEXT, ()


def _members(annotation: Any) -> tuple[Any, ...]:
    if get_origin(annotation) in (Union, UnionType):
        return tuple(part for one in get_args(annotation) for part in _members(one))
    if hasattr(annotation, "__metadata__"):  # Annotated[int, …]
        return _members(get_args(annotation)[0])
    return (annotation,)


def field_text(value: Any) -> str:
    """A field's value as one types it; empty for unknown."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return YES if value else NO
    if isinstance(value, int | float):
        return f"{value:g}"
    if isinstance(value, Screen):
        return screen_text(value)
    if isinstance(value, TypedFigures):
        return pass_text(value)
    if isinstance(value, tuple):
        hops = [one for one in value if isinstance(one, Hop)]
        plugs = [one for one in value if isinstance(one, Plugs)]
        adapters = [one for one in value if isinstance(one, Adapter)]
        noise = [one for one in value if isinstance(one, NoiseReading)]
        rates = [one for one in value if isinstance(one, ExchangeRate)]
        said = hops_text(hops) + plugs_text(plugs) + adapters_text(adapters)
        tests = [one for one in value if isinstance(one, TestPart)]
        then = [one for one in value if isinstance(one, PriceThen)]
        said += noise_text(noise) + rates_text(rates) + earlier_text(then)
        said += parts_text(tests) + devices_text([one for one in value if isinstance(one, Device)])
        return said or "; ".join(map(str, value))
    return str(value)


PARSERS: Mapping[str, Callable[[str], Any]] = {
    "hops": lambda text: parse_hops(text.replace(";", "\n")),
    "power_inputs": parse_plugs,
    "outlets": parse_plugs,
    "adapters": parse_adapters,
    "devices": parse_devices,
    "frames": parse_frames,
    "noise": parse_noise,
    "rates": parse_rates,
    "earlier": parse_earlier,
    "covers": parse_covers,
    "parts": parse_parts,
}


def read_field(model: type[BaseModel], name: str, text: str) -> Any:
    """The raw value that a text stands for; bounds are the model's to check."""
    plain = text.strip()
    if name in PARSERS:
        return PARSERS[name](plain)
    if name in ("screen", "display"):
        return parse_screen(plain) if plain else None
    if name in ("ports", "sockets", "tags", "presets"):
        return tuple(part.strip() for part in plain.split(";") if part.strip())
    spec = next((one for one in fields_of(model) if one.name == name), None)
    if spec is None or spec.kind is FieldKind.TEXT:
        return plain
    if plain.lower() in ("", UNKNOWN):
        return None
    if spec.kind is FieldKind.CHOICE:
        if YES in spec.choices:
            if plain.lower() in TRUE_WORDS + FALSE_WORDS:
                return plain.lower() in TRUE_WORDS
        elif plain in spec.choices:
            return int(plain) if plain.isdigit() else plain
        raise BadSpec(
            spec.says, f"“{plain}” is not a choice", f"Give one of {', '.join(spec.choices)}"
        )
    try:
        if model is Meters:
            return meter_in(spec.typed_unit, plain) / spec.typed_scale
        return number_in(spec.typed_unit, plain) / spec.typed_scale
    except ValueError as error:
        unit = f" in {spec.typed_unit}" if spec.unit else ""
        raise BadSpec(spec.says, str(error), f"Give a number{unit}") from None


def with_field(
    part: Part, name: str, text: str, rated: Mapping[str, float | None] | None = None
) -> Part:
    """The same part with one field as typed. BadSpec says why a text cannot stand.

    `rated` are the ratings that fields are percentages of where they are typed so: "112 %" of a
    card's power.
    """
    model = type(part)
    if rated is not None and name in rated and text.strip().endswith("%"):
        text = _of_rating(name, text, rated[name])
    if model is Meters and (several := meters_in(text)):
        return model.model_validate({**dict(part), **several})
    also: dict[str, Any] = {}
    if name == "amount":
        text, currency = money_in(text)
        also = {"currency": currency} if currency else {}
    value = read_field(model, name, text)
    try:
        # Validated anew, for a copy alone would not check the bounds.
        return model.model_validate({**dict(part), name: value, **also})
    except ValidationError as error:
        first = error.errors()[0]
        if not first["loc"]:  # fields that do not go together: the model says why
            why = str(first["msg"]).removeprefix("Value error, ")
            raise BadSpec(name, f"“{text.strip()}” cannot be", capital(why)) from error
        spec = next((one for one in fields_of(model) if one.name == name), None)
        says = capital(spec.says if spec else name)
        plain = text.strip()
        if first["type"] == "string_too_long":
            most = f"Give at most {_plain(first['ctx']['max_length'])} characters"
            raise BadSpec(says, f"it has {_plain(len(plain))} characters", most) from error
        raise BadSpec(says, f"“{plain}” cannot be", bounds_words(model, name)) from error


def _of_rating(name: str, text: str, rating: float | None) -> str:
    """A percentage of a rating in the unit of the field."""
    if rating is None:
        what = f"“{text.strip()}” is a percentage of a rating that is not known"
        raise BadSpec(name.replace("_", " "), what, "Note the part's power first, or give watts")
    try:
        return f"{number(text.strip().removesuffix('%')) / 100.0 * rating:.6g}"
    except ValueError as error:
        raise BadSpec(name.replace("_", " "), str(error), "Write it like 112 %") from None


def bounds_words(model: type[BaseModel], name: str) -> str:
    """What a field may be, in words: "Give above 0 and at most 6 slots"."""
    field = model.model_fields[name]
    spec = next((one for one in fields_of(model) if one.name == name), None)
    unit = f" {spec.typed_unit}" if spec and spec.unit else ""
    scale = spec.typed_scale if spec else 1.0
    said = []
    for bound in _bounds(field):
        if getattr(bound, "pattern", None):
            return f"Write it like {field.default}"
        for attribute, words in (("gt", "above"), ("ge", "at least"), ("le", "at most")):
            if (limit := getattr(bound, attribute, None)) is not None:
                said.append(f"{words} {_plain(limit * scale)}")
    if not said:
        return "Give a name" if name == "name" else "Give another value"
    return f"Give {list_text(said)}{unit}"


def _plain(value: float) -> str:
    """A bound without an exponent."""
    return f"{value:g}" if abs(value) < 1e6 else f"{value:,.0f}".replace(",", THIN)


def _bounds(field: FieldInfo) -> list[Any]:
    """Constraints of a field, those inside an optional annotation included."""
    found = list(field.metadata)
    for member in get_args(field.annotation):
        for inner in getattr(member, "__metadata__", ()):
            found.extend(getattr(inner, "metadata", ()))
    return found


def said(error: UserFixable) -> str:
    """An error beside its field, where the field need not be named again."""
    return f"{error.what}. {error.fix}."
