"""A figure that may be unknown, and then says what is missing for it."""

import re
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

from blunt_ruler.core.text import list_text

_MANY = re.compile(r"(the )?(idle )?(parts|hours|minutes|figures)\b")


@dataclass(frozen=True, slots=True)
class Answer:
    """A value, or what is missing to know it: "the price of the Groyne"."""

    value: float | None
    missing: tuple[str, ...] = ()


def known(value: float) -> Answer:
    """A figure that is known."""
    return Answer(value)


def asked(value: float | None, what: str) -> Answer:
    """A described value; `what` names it where it is not described."""
    return Answer(None, (what,)) if value is None else Answer(value)


def unknown(*missing: str) -> Answer:
    """A figure that is not known, and what would tell it."""
    return Answer(None, missing)


def derive(formula: Callable[..., float], *parts: Answer) -> Answer:
    """A figure worked out of others; whatever any of them lacks, it lacks too."""
    missing = lacks(parts)
    if missing:
        return Answer(None, missing)
    return Answer(formula(*(part.value for part in parts)))


def lacks(parts: Iterable[Answer]) -> tuple[str, ...]:
    """What is missing in several figures, each named once."""
    return tuple(dict.fromkeys(what for part in parts for what in part.missing))


def total(parts: Iterable[Answer]) -> Answer:
    """A sum; unknown while any part is."""
    return derive(lambda *values: float(sum(values)), *parts)


def lacks_words(missing: Sequence[str], how: str = "missing") -> str:
    """What is missing, with its verb: “its price is missing”, “the parts of it are missing”."""
    many = len(missing) > 1 or _MANY.match(missing[0]) is not None
    return f"{list_text(missing)} {'are' if many else 'is'} {how}"
