"""Where the rig and the case of a figure are named."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from blunt_ruler.core.text import list_text
from blunt_ruler.exchange.tables.asking import Asked
from blunt_ruler.exchange.tables.blocks import Block
from blunt_ruler.exchange.tables.cells import BadSheet
from blunt_ruler.exchange.tables.lines import Line
from blunt_ruler.exchange.tables.sheet import ACROSS, DOWN, LONG, SUMMARY
from blunt_ruler.exchange.tables.words import HARDWARE, Said, is_mean

NO_RIG, NO_TITLE = "(which rig?)", "(which title?)"


@dataclass(frozen=True, slots=True)
class Roles:
    """Where a figure's rig and case are named: "row", "column", "section" or "over", where
    `given_rig` and `title` name them.
    """

    rig: str
    case: str
    layout: str
    scene: str = ""
    given_rig: str = ""
    title: str = ""


def roles_of(
    asked: Asked,
    block: Block,
    lines: Sequence[Line],
    columns: Sequence[Line],
    sections: Mapping[str, Said],
    over: Said,
) -> Roles:
    """Where the rig and the title of a figure are named."""
    if any(line.rig for line in lines) and any(line.title for line in lines):
        return Roles("row", "row", LONG)
    rows_name = any(line.plain for line in lines)
    columns_name = any(line.name for line in columns)
    in_section = any(said.name for said in sections.values())
    if rows_name and columns_name:
        return _matrix(asked, block, lines, columns, sections)
    for axis, each in (("row", lines), ("column", columns)):
        if (rows_name, columns_name) == (axis == "row", axis == "column"):
            fields = _fields(each)
            if len(fields) == 2 and not any(line.rig or line.title for line in each):
                return _two_fields(asked, axis, each, fields)
    if rows_name or columns_name:
        axis = "row" if rows_name else "column"
        return _one_axis(asked, axis, lines if rows_name else columns, sections, over, in_section)
    if in_section:
        return Roles("over", "section", ACROSS, given_rig=_missing(asked, "rig", over))
    if any(line.said.statistic for line in (*lines, *columns)):
        rig, title = _missing(asked, "rig", Said()), _missing(asked, "case", over)
        return Roles("over", "over", SUMMARY, given_rig=rig, title=title)
    raise BadSheet(
        "table",
        "it names neither rigs nor titles",
        "Copy the heads too, rigs and titles",
    )


def _matrix(
    asked: Asked,
    block: Block,
    lines: Sequence[Line],
    columns: Sequence[Line],
    sections: Mapping[str, Said],
) -> Roles:
    kinds = set(block.kinds.values())
    down = _like_cases(asked, lines) - _like_cases(asked, columns)
    if "rig" in kinds:
        across, sure = False, down < 0.25
    elif kinds & {"title", "case"} or any(line.said.resolution for line in lines):
        across, sure = True, down > -0.25
    else:
        across, sure = down >= 0, abs(down) > 0.25
    rigs = [line.plain for line in (columns if across else lines)]
    decided = ACROSS if across else DOWN
    one = list_text([*dict.fromkeys(filter(None, rigs))][:3])
    said = asked.ask(
        "layout",
        f"{one} as rigs:" if sure else f"Are {one} rigs, or cases? The table does not say.",
        (ACROSS, DOWN),
        sure=decided if sure else "",
        proposed=decided,
    )
    repeats = len(sections) > 1 and _repeat(lines, block)
    rig, case = ("column", "row") if said == ACROSS else ("row", "column")
    return Roles(rig, case, said, scene="section" if repeats else "")


def _two_fields(asked: Asked, axis: str, lines: Sequence[Line], fields: Sequence[int]) -> Roles:
    """Rigs and titles on one side: two columns of names, or one row of heads over another."""
    one, other = ([Line(line.said, names=(line.names[at],)) for line in lines] for at in fields)
    down = _like_cases(asked, one) - _like_cases(asked, other)
    said = [list_text([*dict.fromkeys(line.name for line in each)][:3]) for each in (one, other)]
    first = down < 0
    answer = asked.ask(
        "rigs",
        f"Which are the rigs: {said[0]}, or {said[1]}?",
        said,
        sure=said[0 if first else 1] if abs(down) > 0.25 else "",
        proposed=said[0 if first else 1],
    )
    at = fields if answer == said[0] else [*reversed(fields)]
    return Roles(f"{axis}{at[0]}", f"{axis}{at[1]}", LONG if axis == "row" else ACROSS)


def _one_axis(
    asked: Asked,
    axis: str,
    lines: Sequence[Line],
    sections: Mapping[str, Said],
    over: Said,
    in_section: bool,
) -> Roles:
    """Names on one side alone: the other role is a section's, the title line's, or asked."""
    are_rigs = any(line.rig for line in lines)
    like = _like_cases(asked, lines) + 2 * _is_rig(asked, over)
    are_cases = any(line.title or (line.said.resolution and like > -0.25) for line in lines)
    names = [*dict.fromkeys(line.plain for line in lines)]
    if not are_rigs and not are_cases:
        said = asked.ask(
            "names",
            f"Are {list_text(names[:3])} rigs, or titles? The table does not say.",
            ("rigs", "titles"),
            sure="" if abs(like) <= 0.25 else "titles" if like > 0 else "rigs",
            proposed="titles" if like >= 0 else "rigs",
        )
        are_rigs = said == "rigs"
    layout = DOWN if are_rigs == (axis == "row") else ACROSS
    if are_rigs:
        if in_section:
            return Roles(axis, "section", layout)
        return Roles(axis, "over", layout, title=_missing(asked, "case", over))
    if in_section:
        return Roles("section", axis, layout)
    return Roles("over", axis, layout, given_rig=_missing(asked, "rig", over))


def _missing(asked: Asked, role: str, over: Said) -> str:
    """The rig or the case of a whole table: what stands over it is proposed."""
    words = (
        "Which rig are these figures of?" if role == "rig" else "Which title are these figures of?"
    )
    name = over.name
    if role == "rig":
        sure = _is_rig(asked, over)
    else:
        sure = name.lower() in asked.known.titles or bool(name and over.resolution)
    return asked.ask(
        role,
        words,
        [name] if name else [],
        sure=name if sure else "",
        proposed=name,
        free=True,
    ) or (NO_RIG if role == "rig" else NO_TITLE)


def _is_rig(asked: Asked, said: Said) -> bool:
    """Whether a name is one of the logbook's rigs, or in words that only hardware has."""
    name = said.name.lower()
    return name in asked.known.rigs or HARDWARE.search(name) is not None


def _like_cases(asked: Asked, lines: Sequence[Line]) -> float:
    """How much names are like those of cases (1) or of rigs (-1)."""
    plain = [line for line in lines if line.plain]
    plain = [line for line in plain if not is_mean(line.plain)]
    if not plain:
        return 0.0
    names = [line.plain.lower() for line in plain]
    again = len(set(names)) < len(names)
    hits = 0.0
    for line, name in zip(plain, names, strict=True):
        case = " / " in name or name.partition(" / ")[0] in asked.known.titles
        case |= bool(line.said.resolution) and not again
        rig = name in asked.known.rigs or (HARDWARE.search(name) is not None and not case)
        hits += case - rig
    return hits / len(plain)


def _fields(lines: Sequence[Line]) -> list[int]:
    """Which of the names of some lines there are, where each has as many."""
    count = max((len(line.names) for line in lines), default=0)
    return [
        at for at in range(count) if any(at < len(line.names) and line.names[at] for line in lines)
    ]


def _repeat(lines: Sequence[Line], block: Block) -> bool:
    """Whether rows are called alike in several sections, so that the section tells them apart."""
    seen: dict[str, set[str]] = {}
    for line, (_, section, _) in zip(lines, block.body, strict=True):
        key = f"{line.plain} {line.said.resolution} {line.said.statistic}"
        seen.setdefault(key, set()).add(section)
    return any(len(sections) > 1 for sections in seen.values())
