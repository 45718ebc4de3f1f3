"""The parts of a synthetic test as one types them, and read back.

"graphics 0.85; cpu 0.15", "encode 1 s lower", "host to card – GB/s; card to host – GB/s".
"""

import re
from collections.abc import Sequence

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.numbers import number
from blunt_ruler.core.records.records import TestPart
from blunt_ruler.core.values import LONGEST_NAME

PART = re.compile(
    r"(?P<name>.+?)(?:\s+(?P<weight>\d*[.,]?\d+|[–-])(?:\s+(?P<unit>.+?))?)?(?P<lower>\s+lower)?$",
    re.IGNORECASE,
)


class BadPart(UserFixable):
    """A part of a test that cannot be read."""


def parse_parts(words: str) -> tuple[TestPart, ...]:
    """Parts parted by semicolons: a name, its weight or a dash, its unit, and “lower” where lower
    is better.
    """
    found: list[TestPart] = []
    for part in (" ".join(one.split()) for one in words.split(";")):
        if not part:
            continue
        match = PART.match(part)
        assert match is not None  # any text has a name
        said = match["weight"]
        weight = None if said in (None, "–", "-") else number(said or "")
        if weight is not None and not 0 < weight <= 1:
            raise BadPart(
                "parts", f"a weight of {weight:g} in “{part}”", "Give a number above 0, at most 1"
            )
        name = match["name"].strip()
        if any(one.name.lower() == name.lower() for one in found):
            raise BadPart("parts", f"“{name}” stands twice", "Name each part once")
        if len(name) > LONGEST_NAME:
            raise BadPart("parts", f"a name has over {LONGEST_NAME} letters", "Make it shorter")
        found.append(
            TestPart(
                name=name,
                weight=weight,
                unit=(match["unit"] or "").strip(),
                lower_is_better=bool(match["lower"]),
            )
        )
    return tuple(found)


def parts_text(parts: Sequence[TestPart]) -> str:
    """Parts as `parse_parts` reads them."""
    said = []
    for one in parts:
        weight = "" if one.weight is None else f" {one.weight:g}"
        if one.unit:
            weight = f"{weight or ' –'} {one.unit}"
        said.append(f"{one.name}{weight}{' lower' if one.lower_is_better else ''}")
    return "; ".join(said)
