"""Logs written as JSON: lines of objects, an array of them, or one object that holds the frames;
and summaries, an object of figures.
"""

import csv
import io
import json
from collections.abc import Iterable, Mapping
from typing import Any

MOST_JSON_BYTES = 200 * 1024**2
MOST_COLUMNS = 200
FRAMES_HELD = 2  # values in a list that can be frames


class BadJson(Exception):
    """A text that begins as JSON and holds no frames; `what` says why."""

    def __init__(self, what: str) -> None:
        super().__init__(what)
        self.what = what


def is_json(head: bytes) -> bool:
    """Whether a text begins as JSON does."""
    return head.lstrip(b"\xef\xbb\xbf \r\n\t")[:1] in (b"{", b"[")


def as_delimited(raw: bytes) -> bytes | None:
    """The frames of a JSON text as delimited text with a header; None where it is no JSON.

    Raises BadJson where it is JSON and holds no list of frames.
    """
    if len(raw) > MOST_JSON_BYTES:
        raise BadJson(f"it is JSON of more than {MOST_JSON_BYTES // 1024**2} MB")
    text = raw.decode(errors="replace").lstrip("\ufeff")
    try:
        held = json.loads(text)
    except ValueError:  # a number with too many digits is one too
        held = _lines(text)
        if held is None:
            return None
    except RecursionError:
        raise BadJson("it is JSON nested too deep") from None
    rows = _frames(held)
    if rows is not None:
        return _delimited(rows)
    if isinstance(held, Mapping):
        figures = [
            {"metric": name, "value": value}
            for name, value in _flat(held).items()
            if isinstance(value, int | float) and not isinstance(value, bool)
        ]
        if len(figures) > 1:
            return _delimited(figures)
    raise BadJson("it is JSON and holds no list of frames")


def _lines(text: str) -> list[Any] | None:
    """One JSON value a line; None where a line is none, a torn last one left out."""
    found = []
    lines = [line for line in text.split("\n") if line.strip()]
    for number, line in enumerate(lines):
        try:
            found.append(json.loads(line))
        except (ValueError, RecursionError):
            if number == len(lines) - 1 and number > 1:
                break
            return None
    return found


def _frames(held: Any) -> list[Any] | None:
    """The list of frames in a JSON value: itself, or the longest list that an object holds; lists
    of numbers beside each other are columns.
    """
    if isinstance(held, list):
        return held if len(held) >= FRAMES_HELD else None
    if not isinstance(held, Mapping):
        return None
    lists = {
        str(name): value
        for name, value in held.items()
        if isinstance(value, list) and len(value) >= FRAMES_HELD
    }
    if not lists:
        inner = [found for value in held.values() if (found := _frames(value)) is not None]
        return max(inner, key=len, default=None)
    longest = max(map(len, lists.values()))
    columns = {name: value for name, value in lists.items() if len(value) == longest}
    if len(columns) > 1 and all(_is_plain(value[0]) for value in columns.values()):
        return [dict(zip(columns, row, strict=True)) for row in zip(*columns.values(), strict=True)]
    name, values = next(iter(columns.items()))
    return [{name: value} for value in values] if _is_plain(values[0]) else values


def _is_plain(value: Any) -> bool:
    return isinstance(value, str | int | float | bool) or value is None


def _delimited(rows: Iterable[Any]) -> bytes:
    """Rows as text: objects by their keys, lists by place, plain values in one column."""
    flat = [_flat(row) for row in rows]
    names = dict.fromkeys(name for row in flat for name in row)
    if not names or len(names) > MOST_COLUMNS:
        raise BadJson(f"it is JSON whose frames have {len(names)} fields")
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(names)
    writer.writerows([row.get(name, "") for name in names] for row in flat)
    return out.getvalue().encode()


def _flat(row: Any, before: str = "") -> dict[str, Any]:
    if isinstance(row, Mapping):
        found: dict[str, Any] = {}
        for name, value in row.items():
            found |= (
                _flat(value, f"{before}{name}.")
                if isinstance(value, Mapping)
                else {f"{before}{name}": _cell(value)}
            )
        return found
    if isinstance(row, list):
        return {f"column {at}": _cell(value) for at, value in enumerate(row, 1)}
    return {"value": _cell(row)}


def _cell(value: Any) -> Any:
    """A value as a cell: a flag as 0 or 1, a list as its text."""
    if isinstance(value, bool):
        return int(value)
    if isinstance(value, str):
        return " ".join(value.split())
    return value if value is None or isinstance(value, int | float) else json.dumps(value)[:200]
