"""Numbers and clocks as people and programs write them in logs.

A field is a number with a decimal point or comma, with or without marks between its thousands,
or a time of day. Which mark is the decimal one belongs to the whole log, never to a field.
"""

import re
from functools import lru_cache
from typing import Any

import numpy as np
import polars as pl

from blunt_ruler.core.types import FloatArray

BLANKS = frozenset({"", "-", "na", "n/a", "null", "none"})
LONGEST_BLANK = max(map(len, BLANKS))
LONGEST_NUMBER = 48  # characters; a double needs 24
SPACES = " \u00a0\u202f\u2009"
THOUSANDS = {".": f",'’{SPACES}", ",": f".'’{SPACES}"}


def _number_pattern(decimal: str) -> str:
    mark, group = re.escape(decimal), f"[{re.escape(THOUSANDS[decimal])}]"
    whole = rf"(?:[0-9]{{1,3}}(?:{group}[0-9]{{3}})+|[0-9]+)"
    plain = rf"(?:{whole}(?:{mark}[0-9]*)?|{mark}[0-9]+)"
    return rf"^[+-]?(?:{plain}(?:[eE][+-]?[0-9]+)?|(?i:nan|inf))$"


NUMBER = {decimal: re.compile(_number_pattern(decimal)) for decimal in ".,"}
# Units that stand behind numbers in the cells themselves.
CELL_UNIT = (
    r"\s?(ms|s|us|µs|μs|ns|fps|FPS|Hz|%|W|V|A|°?C|MHz|GHz|MB|GB|MiB|GiB|GB/s|RPM|rpm|dB\(A\))$"
)
CELL_UNITS = re.compile(r"[0-9]" + CELL_UNIT)
# [date] hours:minutes[:seconds[.fraction]] [Z or offset]; also minutes:seconds.fraction
CLOCK = re.compile(
    r"^(?:[0-9]{4}[-./][0-9]{1,2}[-./][0-9]{1,2}|[0-9]{1,2}[-./][0-9]{1,2}[-./][0-9]{4})?[T ]?"
    r"([0-9]{1,3}):([0-9]{1,2})(?::([0-9]{1,2}))?(?:[.,]([0-9]{1,9}))?(?:Z|[+-][0-9]{2}:?[0-9]{2})?$"
)
DIGITS = frozenset("0123456789")
STARTS = DIGITS | set("+-.,")
KEPT = 1 << 15


def as_number(text: str, decimal: str) -> float | None:
    """The number a field holds, None where it is blank or text. Its length is limited."""
    stripped = text.strip()
    if not stripped or len(stripped) > LONGEST_NUMBER:
        return None
    other = "." if decimal == "," else ","
    if other in stripped:
        if not _may_part_thousands(stripped, other, decimal):
            return None
    elif stripped[0] in STARTS and stripped[-1] in DIGITS and "_" not in stripped:
        try:  # what nearly every field is
            return float(stripped.replace(",", "."))
        except ValueError:
            pass
    if stripped[-1:] not in DIGITS and CELL_UNITS.search(stripped):
        stripped = re.sub(CELL_UNIT, "", stripped)
    if NUMBER[decimal].match(stripped) is None:
        return None
    for mark in THOUSANDS[decimal]:
        stripped = stripped.replace(mark, "")
    return float(stripped.replace(",", "."))


def _may_part_thousands(text: str, mark: str, decimal: str) -> bool:
    """Whether a mark stands before three digits and before any decimal one: told at once of what
    is not a number.
    """
    last = text.rindex(mark)
    behind = text[last + 1 : last + 5]
    if len(behind) < 3 or not behind[:3].isdigit() or behind[3:].isdigit():
        return False
    at = text.find(decimal)
    return at < 0 or at > last


def as_clock_s(text: str) -> float | None:
    """Seconds since midnight of a time of day, with or without a date; None for anything else."""
    stripped = text.strip()
    found = CLOCK.match(stripped) if len(stripped) <= LONGEST_NUMBER else None
    if found is None:
        return None
    hours, minutes, seconds, fraction = found.groups()
    if seconds is None and fraction is not None:  # minutes:seconds.fraction
        hours, minutes, seconds = "0", hours, minutes
    whole = int(hours) * 3600 + int(minutes) * 60 + int(seconds or 0)
    return whole + float(f"0.{fraction or 0}")


def is_blank(text: str) -> bool:
    """Whether a field says that there is nothing: empty, a dash, “n/a”."""
    return len(text) <= LONGEST_BLANK and text.lower() in BLANKS


@lru_cache(maxsize=KEPT)  # a log's first lines are read in several ways, and alike in many logs
def as_value(text: str, decimal: str) -> float | None:
    """A number or a clock; None for other text."""
    number = as_number(text, decimal)
    return as_clock_s(text) if number is None and ":" in text else number


def numbers_of(column: pl.Series, decimal: str) -> FloatArray:
    """All fields of a column of text as numbers or clocks, NaN where they are neither.

    Shape (n,). The same rules as `as_value`, over the whole column at once.
    """
    text = column.str.strip_chars(f'"\t{SPACES}')
    is_clock = text.str.contains(":", literal=True)
    if is_clock.any():
        return _clocks(text)
    if text.str.contains(f"[0-9]{CELL_UNIT}").any():
        text = text.str.replace(CELL_UNIT, "")
    marks = "".join(re.escape(mark) for mark in THOUSANDS[decimal])
    kept = text.str.len_bytes() <= LONGEST_NUMBER
    is_number = text.str.contains(_number_pattern(decimal)) & kept
    plain = text.str.replace_all(f"[{marks}]", "").str.replace_all(",", ".", literal=True)
    return _floats(pl.select(pl.when(is_number).then(plain)).to_series())


def _floats(text: pl.Series) -> FloatArray:
    return text.cast(pl.Float64, strict=False).fill_null(np.nan).to_numpy()


def _clocks(text: pl.Series) -> FloatArray:
    """Times of day in s, shape (n,), NaN where a field is none."""
    pattern = CLOCK.pattern
    groups: Any = text.str.extract_groups(pattern).struct.unnest()
    hours, minutes, seconds = (_floats(groups[name]) for name in ("1", "2", "3"))
    fraction = _floats(pl.select(pl.lit("0.") + groups["4"].fill_null("0")).to_series())
    short = np.isnan(seconds) & groups["4"].is_not_null().to_numpy()
    whole = hours * 3600 + minutes * 60 + np.nan_to_num(seconds)
    return np.where(short, hours * 60 + minutes, whole) + fraction
