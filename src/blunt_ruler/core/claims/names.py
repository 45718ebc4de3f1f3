"""How rigs are called in sentences: by what distinguishes them, not by a label."""

import re
from collections.abc import Sequence

from blunt_ruler.core.board.board import Column
from blunt_ruler.core.text import capital

NUMBERS = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten",
           "eleven", "twelve")  # fmt: skip


_NO_CARD = (  # words that have numbers behind them, and are no card
    "Gen|Generation|PCIe|USB|HDMI|Type|Version|Test|Rig|Setup|Config|Option|Run|Pass|Round|Day|"
    "Windows|Linux|Driver|Drivers|Kernel|BIOS|Firmware|Dock|Box|Enclosure|Adapter|Cable|Riser|"
    "Slot|Port|Lane|Lanes|Tower|Desktop|Laptop|Handheld|Mode|Profile|at|with|and|on|in"
)
_NUMBERED = re.compile(
    rf"\b(?!(?:{_NO_CARD})\b)(?P<card>[^\W\d_][\w-]*) (?P<number>\d{{1,4}}[a-z]{{0,3}})\b"
    r"(?! ?(?:Gb|GB|W|Hz|fps|lanes?)\b)(?!\.\d)",
    re.I,
)
_OF_KIND = re.compile(r"\b(?!the\b|same\b|a\b|my\b|graphics\b)(?P<kind>[a-z]+) card\b", re.I)
_FULL = re.compile(r"\b(?:tower|desktop|workstation|full[ -](?:size )?slot|x16)\b", re.I)


def named_card(name: str) -> str:
    """The card that a rig's name names, where nobody described one: “Tower + Marram 12”, “Big card
    in the dock”; blank where it names none.
    """
    found = [*_NUMBERED.finditer(name)]
    if found:
        return f"{found[-1]['card']} {found[-1]['number']}".lower()
    kind = _OF_KIND.search(name)
    return f"{kind['kind']} card".lower() if kind is not None else ""


def is_full_slot(name: str) -> bool:
    """Whether a rig's name says that its card stands in a slot of its own machine."""
    return _FULL.search(name) is not None


def subject_words(column: Column, columns: Sequence[Column]) -> str:
    """A rig as a sentence calls it: “the Marram 12 over the 40 Gb/s cable”, or its own name where
    card and link do not tell it from the others.
    """
    if column.source or column.built_in:
        return base_words(column)
    alike = [one for one in columns if (one.card, one.link) == (column.card, column.link)]
    if not column.link or column.card == column.name or len(alike) > 1:
        return column.name
    return f"the {column.card} over the {column.link}"


def capital_subject(column: Column, columns: Sequence[Column]) -> str:
    """The same at the beginning of a sentence."""
    return capital(subject_words(column, columns))


def base_words(column: Column) -> str:
    """A rig that others are measured from."""
    if column.source and column.source not in column.name:
        return f"{column.source}'s {column.name}"
    return f"the built-in {column.card}" if column.built_in else column.name


def place_words(other: Column, place: str) -> str:
    """Where a card's twin stands, by what differs: “in the tower”, “over the OCuLink cord”."""
    if place == "host" and other.host:
        return f"in the {other.host}"
    return f"over the {other.link}" if place == "link" and other.link else f"in {other.name}"


def number_words(count: int) -> str:
    """A count in words up to twelve."""
    return NUMBERS[count] if count < len(NUMBERS) else str(count)
