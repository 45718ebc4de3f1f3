"""The rows and columns of a table as lines: all that the heads of each say."""

import itertools
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from blunt_ruler.exchange.tables.asking import Asked
from blunt_ruler.exchange.tables.blocks import Block
from blunt_ruler.exchange.tables.words import (
    BY_WORDS,
    SHARE,
    Said,
    begins_as_share,
    kind_of,
    of_table,
    parted,
    plain_head,
    take_apart,
    unit_measure,
)

COUNTED = frozenset(["frames", "duration_s"])


@dataclass(frozen=True, slots=True)
class Line:
    """A row or a column: all that its heads say, names by what they are, and what to call it."""

    said: Said
    rig: str = ""
    title: str = ""
    scene: str = ""
    names: tuple[str, ...] = ()  # of rigs or titles: its heads do not say which
    call: str = ""
    counted: tuple[tuple[str, str], ...] = ()  # frames and seconds that stand beside a rate

    @property
    def name(self) -> str:
        """What names it, whatever it is."""
        return " / ".join(dict.fromkeys(one for one in self.names if one))

    @property
    def plain(self) -> str:
        """Its rig, its title, or what names it."""
        return self.name or self.title or self.rig


def columns_of(asked: Asked, block: Block) -> tuple[list[Line], Said]:
    """The columns of figures, and what the corner and the lines over the table say."""
    figures = block.figures
    rows: list[list[str]] = []
    for number, row in enumerate(block.heads):
        filled = list(row)
        if number < len(block.heads) - 1:
            for place in range(1, len(filled)):
                if not filled[place] and place in figures and place - 1 in figures:
                    filled[place] = filled[place - 1]
        rows.append([filled[place] for place in figures])
    parts = [take_apart(row, asked.names) for row in rows]
    for number, one in enumerate(parts[:-1]):
        # One head over all columns that have heads of their own is a caption.
        below = parts[number + 1 :]
        named = all(any(after[at].name for after in below) for at in range(len(one)))
        if named and len(one) > 1 and len({said.name for said in one}) == 1:
            parts[number] = [replace(said, name="") for said in one]
    columns = [_column([one[place] for one in parts]) for place in range(len(figures))]
    left = [place for place in block.names if place < figures[0]]
    corner = [row[place] for row in block.heads for place in left if row[place]]
    words = [one for one in corner if not kind_of(plain_head(one))] + block.titles
    over = Said()
    for text in words:
        said = of_table(text, asked.names)
        if said.measure == SHARE and text in block.titles and not begins_as_share(text):
            said = replace(said, measure="")
        over = replace(
            over,
            name=over.name or (said.name if text in block.titles else ""),
            measure=over.measure or said.measure,
            statistic=over.statistic or said.statistic,
            resolution=over.resolution or said.resolution,
            preset=over.preset or said.preset,
            head=over.head or text,
            order=over.order or said.order,
        )
    return columns, over


def _column(parts: Sequence[Said]) -> Line:
    """A row or column out of what its heads say one by one."""
    said = Said(
        "",
        next((one.measure for one in reversed(parts) if one.measure), ""),
        next((one.statistic for one in reversed(parts) if one.statistic), ""),
        next((one.resolution for one in parts if one.resolution), ""),
        next((one.preset for one in parts if one.preset), ""),
        next((one.repeat for one in parts if one.repeat), 0),
        order=next((one.order for one in parts if one.order), ()),
    )
    call = " / ".join(dict.fromkeys(one.head for one in parts if one.head))
    return Line(said, names=tuple(one.name for one in parts), call=call)


def rows_of(asked: Asked, block: Block) -> list[Line]:
    """The rows, by what the columns of names say of them."""
    rows = [row for _, _, row in block.body]
    kinds = block.kinds
    heads = block.heads[-1] if block.heads else [""] * len(rows[0])
    named: list[tuple[str, list[str], list[Said]]] = []
    counts: dict[str, list[str]] = {}
    for place in block.names:
        kind = kinds[place]
        values = [row[place] for row in rows]
        merged = not any(a and a == b for a, b in itertools.pairwise(values))
        if kind in ("title", "rig", "case", "") and place != block.names[-1] and merged:
            values = _filled(values, [section for _, section, _ in block.body], rows, block.names)
        if kind in ("resolution", "preset", "scene"):
            values = _with_titles(values, [row[block.names[0]] for row in rows])
        if kind == "source" and plain_head(heads[place]) not in BY_WORDS:
            asked.leave(f"column {heads[place]}", "not a figure")
        elif plain_head(heads[place]) in COUNTED:
            counts[plain_head(heads[place])] = values
        elif kind == "other" or (kind == "" and place > min(block.figures, default=0)):
            asked.leave(f"column {heads[place] or place + 1}", "not a figure")
        else:
            named.append((kind, values, take_apart(values, asked.names)))
    return [
        replace(
            _row_line([(kind, values[at], said[at]) for kind, values, said in named]),
            counted=tuple((name, values[at]) for name, values in counts.items()),
        )
        for at in range(len(rows))
    ]


def _row_line(parts: Sequence[tuple[str, str, Said]]) -> Line:
    """A row out of its columns of names: (kind of column, the words, what they say)."""
    said = Said()
    names: dict[str, list[str]] = {"rig": [], "title": [], "scene": [], "": []}
    published, call = "", []
    for kind, words, one in parts:
        if not words:
            continue
        call.append(words)
        match kind:
            case "resolution":
                text = f"{words}p" if re.fullmatch(r"\d{3,4}", words) else words
                said = replace(said, resolution=text)
                continue
            case "preset":
                held = parted(Said(words))
                said = replace(
                    said,
                    preset=held.preset or held.name,
                    resolution=said.resolution or held.resolution,
                )
                continue
            case "pass":
                continue
            case "scene":
                names["scene"].append(words)
                continue
            case "unit":
                measure = unit_measure(words) or f"other:{words}"
                said = replace(said, measure=said.measure or ("" if measure == "fps" else measure))
                continue
            case "metric":
                told = bool(one.measure or one.statistic)
                measure = one.measure or (f"other:{one.name}" if one.name and not told else "")
                said = replace(said, measure=measure, statistic=one.statistic or said.statistic)
                if told and one.name:  # "Tidewrack FPS"
                    names[""].append(one.name)
                continue
            case "source":
                published = published or f", published by {words}"
                continue
        said = replace(
            said,
            measure=said.measure or one.measure,
            statistic=said.statistic or one.statistic,
            resolution=said.resolution or one.resolution,
            preset=said.preset or one.preset,
        )
        key = {"rig": "rig", "title": "title", "case": "title"}.get(kind, "")
        if one.name or not key:
            names[key].append(one.name)
    generic = names[""]
    rig = ", ".join(names["rig"])
    rig += published if rig else ""
    title = " / ".join(names["title"])
    if title:
        title, generic = " / ".join(dict.fromkeys([title, *filter(None, generic)])), []
    return Line(said, rig, title, " / ".join(names["scene"]), tuple(generic), " / ".join(call))


def _filled(
    values: Sequence[str],
    sections: Sequence[str],
    rows: Sequence[Sequence[str]],
    names: Sequence[int],
) -> list[str]:
    """Names over several rows filled in downwards, within a section."""
    found: list[str] = []
    above, before = "", ""
    for value, section, row in zip(values, sections, rows, strict=True):
        if section != before:
            above, before = "", section
        if not value and any(row[place] for place in names):
            value = above
        above = value or above
        found.append(value)
    return found


def _with_titles(values: Sequence[str], titles: Sequence[str]) -> list[str]:
    """Settings filled in downwards where the title beside them is blank too."""
    found: list[str] = []
    for value, title in zip(values, titles, strict=True):
        found.append(value or (found[-1] if found and not title else ""))
    return found


def rates(lines: Sequence[Line], skip: Mapping[int, str]) -> list[int]:
    """The lines that may hold frame rates."""
    return [
        n
        for n, line in enumerate(lines)
        if n not in skip and not line.said.is_other and line.said.measure != SHARE
    ]


def are_runs(lines: Sequence[Line]) -> bool:
    """Whether every row is a run, with its rig and its title."""
    return any(line.rig and line.title for line in lines)
