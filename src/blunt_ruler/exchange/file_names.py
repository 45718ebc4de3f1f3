"""Which rig and which case logs are of, by the names of their files and folders.

People name logs by rig, game, size, preset and pass, in an order and with marks of their own:
“Tower - Harbour Run 1440p High - run 2.csv”, “tower_harbour-run_1440p_2.csv”, or a folder for each
rig. What all names have in common tells more than any one of them. Of rigs × titles the parts that
come again with others are the rigs and the titles, wherever one ends.
"""

import re
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import NamedTuple, TypeAlias

from blunt_ruler.core.records.records import case_label
from blunt_ruler.core.runs.import_runs import looks_like_resolution
from blunt_ruler.exchange.tables.words import HARDWARE, PRESET
from blunt_ruler.folders import stem_of

Row: TypeAlias = tuple[str, ...]  # the parts of one name, words or fields

FIELDS = re.compile(r"\s+[-–—|]\s+|_{2,}")  # marks that never stand inside a name
DATE = re.compile(
    r"(?<!\d)20\d\d[-_.]?[01]\d[-_.]?[0-3]\d"
    r"(?:[T_ -]+[0-2]\d[-.:_h]?[0-5]\d(?:[-.:_m]?[0-5]\d)?s?)?(?!\d)"
)
HEIGHTS = ("720", "768", "900", "1080", "1200", "1440", "1600", "2160")
PASS = re.compile(r"(?:run|pass|take|attempt|try|lauf)[#.]?(\d{0,3})|[#(]\d{1,3}\)?", re.IGNORECASE)
COUNTED = re.compile(r"(.*\S)\s+(\d{1,4})")


class Proposal(NamedTuple):
    """The rig and the case of a log, each blank where its name does not tell."""

    rig: str
    case: str


@dataclass(frozen=True, slots=True)
class _Parts:
    """A name without size, preset and pass: its words by field."""

    fields: tuple[Row, ...]
    resolution: str
    preset: str

    @property
    def words(self) -> Row:
        return tuple(word for field in self.fields for word in field)

    @property
    def said(self) -> Row:
        return tuple(" ".join(field) for field in self.fields)


def proposed(files: Sequence[Path]) -> tuple[Proposal, ...]:
    """What the names of files, with as much of their folders as tells them apart, say together."""
    if not files:
        return ()
    stems = [(*path.parent.parts, stem_of(path)) for path in files]
    parts = _without_passes(_taken_apart(stems))
    found = _told(parts)
    if any(rig for rig, _ in found) and not all(rig for rig, _ in found):
        parts = _taken_apart(stems)  # of some a number is the name
        found = _told(parts)
    return tuple(
        Proposal(rig, case_label(*_title_and_scene(title), one.resolution, one.preset))
        if title
        else Proposal(rig, "")
        for (rig, title), one in zip(found, parts, strict=True)
    )


def _title_and_scene(title: Row) -> tuple[str, str]:
    return title[0], " ".join(title[1:])


# Taking names apart


def _taken_apart(stems: Sequence[Row]) -> list[_Parts]:
    """Each name by fields and words, without what is told apart by its form."""
    texts = [tuple(DATE.sub(" ", part).strip(" -_.|") for part in stem) for stem in stems]
    spaced = any(" " in part for stem in texts for part in stem)
    marks = r"[\s_]+" if spaced else r"[\s_-]+"
    both = not spaced and all("_" in stem[-1] and "-" in " ".join(stem) for stem in texts)
    fields = re.compile("_") if both else FIELDS
    apart = [
        [re.split(marks, field.strip()) for part in stem for field in fields.split(part)]
        for stem in texts
    ]
    sized = any(looks_like_resolution(w) for one in apart for field in one for w in field)
    return [_parts(one, () if sized else HEIGHTS) for one in apart]


def _parts(fields: Sequence[Sequence[str]], heights: Sequence[str]) -> _Parts:
    """A name's words without its size, preset and pass."""
    words = [(at, word) for at, field in enumerate(fields) for word in field if word]
    is_size = [looks_like_resolution(word) or word in heights for _, word in words]
    size = is_size.index(True) if any(is_size) else None
    taken = {size} if size is not None else set()
    for place, (field, word) in enumerate(words):
        number = PASS.fullmatch(word)
        beside, after = words[place + 1] if place + 1 < len(words) else (-1, "")
        after = after if beside == field else ""
        if number is not None and number[1] == "" and after.isdigit() and len(after) < 4:
            taken |= {place, place + 1}
        elif number is not None and number[1] != "":
            taken.add(place)
    preset = _preset(words, taken, size)
    taken |= {*preset}
    last = len(words) - 1
    if words and last not in taken and words[last][1].isdigit() and (last - 1 in taken):
        taken.add(last)  # the number after size and preset counts passes
    kept: dict[int, list[str]] = defaultdict(list)
    for place, (field, word) in enumerate(words):
        if place not in taken:
            kept[field].append(word)
    resolution = "" if size is None else words[size][1]
    return _Parts(
        tuple(map(tuple, kept.values())),
        f"{resolution}p" if resolution in heights else resolution,
        " ".join(words[place][1] for place in preset),
    )


def _preset(words: Sequence[tuple[int, str]], taken: set[int], size: int | None) -> tuple[int, ...]:
    """Where the words of a preset stand, the last that may be one: beside the size, at the end of
    the names, or with a field of their own; elsewhere “low” is part of a name.
    """
    free = [place for place in range(len(words)) if place not in taken]
    for end in reversed(free):
        for places in ((end - 1, end), (end,)):
            if places[0] not in free or not PRESET.fullmatch(" ".join(words[p][1] for p in places)):
                continue
            beside = size is not None and (places[0] == size + 1 or end == size - 1)
            alone = [place for place in free if words[place][0] == words[end][0]] == [*places]
            rest = [place for place in free if place > end]
            at_end = not rest or (len(rest) == 1 and words[rest[0]][1].isdigit())
            if (beside or alone or at_end) and len(free) > len(places):
                return places
    return ()


def _without_passes(parts: list[_Parts]) -> list[_Parts]:
    """Names without the last number where it counts passes: from 0 or 1 on without a gap, two of
    some name at least. Other numbers tell names apart.
    """
    ends = [COUNTED.fullmatch(" ".join(one.words)) for one in parts]
    numbers: dict[tuple[str, str, str], set[int]] = defaultdict(set)
    keys = [
        (end[1], one.resolution, one.preset) if end else None
        for end, one in zip(ends, parts, strict=True)
    ]
    for key, end in zip(keys, ends, strict=True):
        if key is not None and end is not None:
            numbers[key].add(int(end[2]))
    counting = {
        key for key, own in numbers.items() if min(own) < 2 and max(own) - min(own) < len(own)
    }
    is_first = len(numbers) > 1 and None not in keys and all(own == {1} for own in numbers.values())
    if all(len(numbers[key]) < 2 for key in counting) and not is_first:
        return parts
    return [
        _Parts(_shortened(one.fields), one.resolution, one.preset) if key in counting else one
        for key, one in zip(keys, parts, strict=True)
    ]


def _shortened(fields: tuple[Row, ...]) -> tuple[Row, ...]:
    """Fields without the last word of all."""
    return (*fields[:-1], *filter(None, (fields[-1][:-1],)))


# Telling rigs from titles


def _told(parts: Sequence[_Parts]) -> list[tuple[str, Row]]:
    """(rig, title and scene) of each name."""
    fields, words = [one.said for one in parts], [one.words for one in parts]
    shared = frozenset[str]()
    for rows in (fields, words):
        shared = frozenset.intersection(*(frozenset(map(str.lower, row)) for row in rows))
        ends = _grid({*rows}, is_whole=bool(shared))
        if ends is not None:
            sides = [(row[: ends[row]], row[ends[row] :]) for row in rows]
            return _rigs_first(sides, scenes=rows is fields)
    for rows in (fields, words):
        shared = frozenset.intersection(*(frozenset(map(str.lower, row)) for row in rows))
        sides = [
            (
                tuple(one for one in row if one.lower() not in shared),
                tuple(one for one in row if one.lower() in shared),
            )
            for row in rows
        ]
        if all(own and common for own, common in sides):
            if all(re.search(r"\d", " ".join(own)) for own, _ in sides):  # cards, or mere numbers
                return _named(sides, scenes=rows is fields)
            if all(row[0].lower() in shared for row in rows):  # one rig, several titles
                sides = [(common, own) for own, common in sides]
            return _rigs_first(sides, scenes=rows is fields)
    if all(len(row) > 1 for row in fields):
        return _rigs_first([(row[:1], row[1:]) for row in fields], scenes=True)
    own = [" ".join(one for one in row if one.lower() not in shared) for row in words]
    return [(one, ()) for one in (own if any(own) else map(" ".join, words))]


def _grid(rows: set[Row], *, is_whole: bool) -> dict[Row, int] | None:
    """Where each of some different names goes from rig to title, or from title to rig: at the place
    where what stands before comes with several after it, and the other way about. None where they
    are no such grid; unless it has to be whole, a name beside it may go with one side of it.
    """
    after, before = defaultdict(set), defaultdict(set)
    for row in rows:
        for at in range(1, len(row)):
            after[row[:at]].add(row[at:])
            before[row[at:]].add(row[:at])

    def fit(row: Row, at: int) -> tuple[int, int, bool]:
        counts = len(after[row[:at]]), len(before[row[at:]])
        hardware = [HARDWARE.search(" ".join(side)) for side in (row[:at], row[at:])]
        return min(counts), max(counts), None in hardware

    best = {row: max(range(1, len(row)), key=lambda at: fit(row, at)) for row in rows if row[1:]}
    ends = {row: at for row, at in best.items() if fit(row, at)[0] > 1}
    firsts, lasts = ({row[:at] for row, at in ends.items()}, {r[at:] for r, at in ends.items()})
    if not ends or (is_whole and len(ends) < len(rows)):
        return None
    for row in rows - ends.keys():
        fitting = [at for at in range(1, len(row)) if row[:at] in firsts or row[at:] in lasts]
        if not fitting:
            return None
        ends[row] = fitting[0]
    sides = ({row[:at] for row, at in ends.items()}, {row[at:] for row, at in ends.items()})
    return ends if min(map(len, sides)) > 1 else None


def _rigs_first(sides: Sequence[tuple[Row, Row]], *, scenes: bool) -> list[tuple[str, Row]]:
    """Two sides of names as (rig, title and scene): the rigs come first, unless hardware is named
    on the other side alone.
    """
    first, last = ([" ".join(side) for side in each] for each in zip(*sides, strict=True))
    if any(map(HARDWARE.search, last)) and not any(map(HARDWARE.search, first)):
        sides = [(rig, title) for title, rig in sides]
    return _named(sides, scenes=scenes)


def _named(sides: Sequence[tuple[Row, Row]], *, scenes: bool) -> list[tuple[str, Row]]:
    """Words of rigs and titles as (rig, title and scene)."""
    return [(" ".join(rig), title if scenes else (" ".join(title),)) for rig, title in sides]
