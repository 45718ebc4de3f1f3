"""Sentences whose figures can be traced: words and figures in turn, each figure with its source.

Whatever prints a sentence (a view, a page, a narration) takes it from here, so that every number
in a report still knows which figure of which rig and case it is.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TypeAlias


@dataclass(frozen=True, slots=True)
class Figure:
    """A figure inside a sentence or a table: how it is written, what it is, and of what.

    `figure` is its name in `help/figures.md`; `rig` and `case` are ids, blank where it is of all;
    `value` is the number itself and `base` the name of the rig it is a share of.
    """

    text: str
    figure: str
    rig: str = ""
    case: str = ""
    value: float | None = None
    base: str = ""


Span: TypeAlias = str | Figure


@dataclass(frozen=True, slots=True)
class Sentence:
    """One sentence. `key` names it, so that a reviewer's own words can stand for it.

    `own` are those words, None while the computed ones stand; `stale` says that the computed
    ones have changed since the reviewer wrote theirs.
    """

    key: str
    spans: tuple[Span, ...]
    own: str | None = None
    stale: bool = False

    @property
    def computed(self) -> str:
        """What the figures say, as plain words."""
        return plain(self.spans)

    @property
    def words(self) -> str:
        """What is printed: the reviewer's words where there are any."""
        return self.computed if self.own is None else self.own

    @property
    def figures(self) -> tuple[Figure, ...]:
        """The figures it rests on."""
        return tuple(span for span in self.spans if isinstance(span, Figure))


def plain(spans: Sequence[Span]) -> str:
    """Spans as plain words."""
    return "".join(span if isinstance(span, str) else span.text for span in spans)


def joined(parts: Sequence[Sequence[Span]], last: str = " and ") -> tuple[Span, ...]:
    """Parts of a sentence set behind one another: "a", "a and b", "a, b and c"."""
    spans: list[Span] = []
    for place, part in enumerate(parts):
        if place:
            spans.append(last if place == len(parts) - 1 else ", ")
        spans.extend(part)
    return tuple(spans)


def sentence(key: str, *spans: Span | Sequence[Span]) -> Sentence:
    """A sentence of spans and groups of spans."""
    flat: list[Span] = []
    for span in spans:
        if isinstance(span, str | Figure):
            flat.append(span)
        else:
            flat.extend(span)
    return Sentence(key, tuple(flat))
