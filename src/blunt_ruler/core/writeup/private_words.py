"""What the texts of a bundle may say of its maker that was not meant for others."""

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from enum import StrEnum

from blunt_ruler.core.records.records import Record
from blunt_ruler.core.text import shown_line

LONGEST = 80
_OURS = re.compile(r"(^|_)(id|ids|sha256)$")  # fields that nobody writes by hand
_FIGURES = {"figures", "observed", "sampled"}


class Private(StrEnum):
    """A kind of words that say more than a review needs."""

    PATH = "path"
    ADDRESS = "e-mail address"
    KEY = "key or password"


# The first kind that finds something in a stretch of text has it.
_KINDS = (
    (
        Private.KEY,
        re.compile(
            r"\b\w+://[^\s/@]+@\S+"  # a name and a password in an address of the net
            r"|\b\w+://\S+[?&][\w.-]*(?:key|token|sig|auth|pass|secret)[\w.-]*=\S+"
            r"|\b(?:api[ _-]?key|key|token|password|passwd|secret|licen[cs]e|serial)\b"
            r"\s*[:=]\s*\S+"
            r"|\b(?:[A-Z0-9]{4,6}-){3,7}[A-Z0-9]{4,6}\b"  # a product key
            r"|(?<![A-Z0-9])(?=[A-Z0-9]*[A-Z])(?=(?:[A-Z]*[0-9]){4})[A-Z0-9]{24,}",
            re.IGNORECASE,
        ),
    ),
    (Private.ADDRESS, re.compile(r"\b[\w.+-]+@[\w-]+\.[\w.-]+\w")),
    (
        Private.PATH,
        re.compile(
            r"\bfile:/\S+"
            r"|\b[A-Za-z]:[\\/][^\s\"'<>|]+"
            r"|\\\\[\w.$-]+\\[^\s\"'<>|]+"
            r"|(?<![\w.:/])(?:~[\w-]*/|/(?:[\w.~+-]+/)+)[^\s\"'<>|]*"
        ),
    ),
)


@dataclass(frozen=True, slots=True)
class PrivateWords:
    """Words found in a record: of which kind, and where."""

    kind: Private
    words: str
    where: str

    def __str__(self) -> str:
        return f"{self.kind} in {self.where}: {self.words}"


def private_words(records: Iterable[Record]) -> tuple[PrivateWords, ...]:
    """Paths, e-mail addresses, keys and passwords in the texts of some records, each once with the
    first place where it stands. What looks like one is named; what does not may be one too.
    """
    found: dict[str, PrivateWords] = {}
    for record in records:
        for name, text in _texts(record.model_dump(exclude_defaults=True, exclude=_FIGURES), ""):
            for kind, words in _found(text):
                if words not in found:
                    found[words] = PrivateWords(kind, words, _place(record, name))
    return tuple(found.values())


def _texts(value: object, name: str) -> Iterator[tuple[str, str]]:
    """Every text that somebody may have written, with the field it stands in."""
    if isinstance(value, str):
        if not _OURS.search(name):
            yield name, value
    elif isinstance(value, dict):
        for key, one in value.items():
            yield from _texts(one, str(key))
    elif isinstance(value, list | tuple):
        for one in value:
            yield from _texts(one, name)


def _found(text: str) -> Iterator[tuple[Private, str]]:
    for kind, pattern in _KINDS:
        for one in pattern.finditer(text):
            words = shown_line(one[0])
            yield kind, words if len(words) <= LONGEST else f"{words[: LONGEST - 1]}…"
        text = pattern.sub(" ", text)


def _place(record: Record, field: str) -> str:
    name = getattr(record, "name", "")
    kind = type(record).__name__.lower()
    return f"{field.replace('_', ' ')} of {f'{kind} “{name}”' if name else f'a {kind}'}"
