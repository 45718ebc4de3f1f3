"""Parts in and out as JSON or CSV, and the catalogue of generic parts that is shipped.

A part is an object with its `kind` (host, card, dock or link), its `name`, and any of the fields
of its model. Hops, plugs and the like may be written as one types them ("4.0 x4; 40 Gb/s").
CSV has one part a row and one field a column. What stands there already is changed by name.
"""

import csv
import io
import json
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.rigs.fields import field_text, read_field
from blunt_ruler.core.rigs.rig_edits import PART_MODELS, PART_TABLES, Part
from blunt_ruler.exchange.logs.text import load_text
from blunt_ruler.exchange.tables.csv_text import as_written, delimited
from blunt_ruler.files import shipped

MOST_BYTES = 8 * 1024**2  # of thousands of parts


class BadParts(UserFixable):
    """A file of parts with something in it that is no part."""


def kind_of(part: Part) -> str:
    """The kind of a part as files name it."""
    return next(kind for kind, model in PART_MODELS.items() if isinstance(part, model))


def part_rows(parts: Sequence[Part]) -> list[dict[str, Any]]:
    """Parts as flat objects: only what is said, specs as one types them, no ids."""
    rows = []
    for part in parts:
        row: dict[str, Any] = {"kind": kind_of(part)}
        for name, value in part:
            if name == "id" or name.endswith("_id") or value in (None, "", ()):
                continue
            plain = isinstance(value, bool | int | float | str)
            row[name] = value if plain else field_text(value).replace("\n", "; ")
        rows.append(row)
    return rows


def parts_json(parts: Sequence[Part]) -> str:
    """Parts as a JSON list."""
    return json.dumps(part_rows(parts), indent=2, ensure_ascii=False) + "\n"


def parts_csv(parts: Sequence[Part]) -> str:
    """Parts as CSV, one a row, a column for every field that any of them says."""
    rows = part_rows(parts)
    names = list(dict.fromkeys(name for row in rows for name in row))
    cells = [[field_text(row[name]) if name in row else "" for name in names] for row in rows]
    return delimited([names, *cells])


def read_parts(
    text: str, contents: Contents, new_id: Callable[[], str], where: str = "parts"
) -> tuple[Part, ...]:
    """Parts from JSON or CSV text; which of both is told by its first character.

    A part with the kind and name of one that is there keeps its id and what the text leaves
    unsaid. Raises BadParts naming the row and field.
    """
    rows = _json_rows(text, where) if text.lstrip()[:1] in ("[", "{") else _csv_rows(text, where)
    if not rows:
        raise BadParts(where, "it holds no part", "Give a header and a row for each part")
    return tuple(_part(row, at, contents, new_id, where) for at, row in rows)


def _json_rows(text: str, where: str) -> list[tuple[int, Mapping[str, Any]]]:
    try:
        value = json.loads(text)
    except json.JSONDecodeError as error:
        raise BadParts(
            f"{where}, line {error.lineno}", f"this is not JSON ({error.msg})", "Mend it there"
        ) from error
    except (ValueError, RecursionError) as error:  # a number of thousands of digits, or too deep
        raise BadParts(
            where, "it holds something that is not a part", "Keep the parts only"
        ) from error
    rows = value if isinstance(value, list) else [value]
    for number, row in enumerate(rows, start=1):
        if not isinstance(row, dict):
            raise BadParts(f"{where}, part {number}", "it is not an object", 'Write {"kind": …}')
    return list(enumerate(rows, start=1))


def _csv_rows(text: str, where: str) -> list[tuple[int, Mapping[str, Any]]]:
    first = text.split("\n", 1)[0]
    delimiter = max(",;\t", key=first.count)
    try:
        reader = csv.DictReader(io.StringIO(text, newline=None), delimiter=delimiter)
        names = [name.strip() for name in reader.fieldnames or ()]
        if "kind" not in names or "name" not in names:
            raise BadParts(where, "the columns kind and name are missing", "Add them to the header")
        reader.fieldnames = names
        rows: list[tuple[int, Mapping[str, Any]]] = []
        for row in reader:
            if None in row:
                raise BadParts(
                    f"{where}, row {reader.line_num}",
                    "it has more fields than the header",
                    "Mend it",
                )
            held = {key: as_written(value) for key, value in row.items() if value}
            rows.append((reader.line_num, held))
    except csv.Error as error:
        raise BadParts(where, f"it is not a table ({error})", "Save it as CSV again") from error
    return rows


def _part(
    row: Mapping[str, Any],
    at: int,
    contents: Contents,
    new_id: Callable[[], str],
    where: str,
) -> Part:
    place = f"{where}, part {at}"
    kind = str(row.get("kind", "")).strip().lower()
    if kind not in PART_MODELS:
        raise BadParts(
            place,
            f"there is no kind “{str(row.get('kind', ''))[:40]}”",
            f"Use one of {', '.join(PART_MODELS)}",
        )
    model = PART_MODELS[kind]
    fields: dict[str, Any] = {}
    for name, value in row.items():
        if name == "kind":
            continue
        if name not in model.model_fields or name == "id":
            raise BadParts(place, f"a {kind} has no field “{name[:40]}”", _fields_of(model))
        try:
            fields[name] = read_field(model, name, value) if isinstance(value, str) else value
        except UserFixable as error:
            raise BadParts(f"{place}, {name}", error.what, error.fix) from error
    known = {one.name: one for one in getattr(contents, PART_TABLES[kind]).values()}
    there = known.get(str(fields.get("name", "")).strip())
    before = there.model_dump() if there is not None else {"id": new_id()}
    try:
        return model.model_validate({**before, **fields})
    except ValidationError as error:
        first = error.errors()[0]
        field = str(first["loc"][0]) if first["loc"] else "name"
        raise BadParts(
            f"{place}, {field}",
            f"“{str(first.get('input', ''))[:40]}”: {first['msg'][:200]}",
            "Mend the value",
        ) from error


def _fields_of(model: type[Part]) -> str:
    return f"Its fields are {', '.join(name for name in model.model_fields if name != 'id')}"


def catalogue(new_id: Callable[[], str]) -> tuple[Part, ...]:
    """The generic parts that are shipped: links by standard, docks and supplies."""
    text = shipped("exchange", "parts", "catalogue.json").read_text("utf-8")
    empty = Contents.empty()
    return read_parts(text, empty, new_id, "catalogue")


def read_part_file(path: Path, contents: Contents, new_id: Callable[[], str]) -> tuple[Part, ...]:
    """The parts of a file of CSV or JSON."""
    text = load_text(path, MOST_BYTES).utf8.decode(errors="replace")
    return read_parts(text, contents, new_id, path.name)
