"""Find out how a delimited log is laid out, from its content alone.

Delimiter, decimal mark, lines before the table and the header are read off the first lines. No
program's format is known here: what makes a line part of the table is that it has as many fields
as its neighbours and that they are numbers or clocks.
"""

import csv
import re
from collections import Counter
from dataclasses import dataclass, replace
from itertools import combinations, pairwise
from math import comb

from blunt_ruler.core.types import Progress, no_progress
from blunt_ruler.exchange.logs.numbers import CELL_UNITS, DIGITS, as_number, as_value, is_blank
from blunt_ruler.exchange.logs.text import BadLog, LogText

MOST_COLUMNS = 2000
MOST_WAYS = 5000
DELIMITERS = (",", ";", "\t", "|", " ")
DELIMITER_WORDS = {",": "comma", ";": "semicolon", "\t": "tab", "|": "bar", " ": "space"}
UNIT_ROW = re.compile(
    r"^[\[(]?(ms|s|us|µs|μs|ns|sec|fps|hz|mhz|ghz|w|v|a|%|°?c|mb|gb|mib|gib|gb/s|rpm|db|db\(a\)|#|-|"
    r"frames?/s|n|bool|count|hh:mm:ss\S*)?[\])]?$",
    re.IGNORECASE,
)
COMMENT = ("#", "//")

"""Told what is being done and how far it is (0–1); it may raise to cancel."""


@dataclass(frozen=True, slots=True)
class Layout:
    """How a log is laid out. `names` are the columns, made unique; made up without a header.

    `joins` are fields that go together with the next one, for a comma that parts the fields and
    the decimals too: `1,16,70` under two names is 1 and 16.70.
    """

    encoding: str
    compressed: str
    delimiter: str
    decimal: str
    lines_before: int  # lines before the first data line, the header included
    has_header: bool
    names: tuple[str, ...]
    header_lines: int = 0
    extra_fields: int = 0  # blank ones behind the last column
    joins: tuple[int, ...] = ()

    @property
    def fields(self) -> int:
        """How many fields a row has in the file."""
        return len(self.names) + self.extra_fields + len(self.joins)

    @property
    def signature(self) -> str:
        """What a remembered mapping is filed under: the header as it stands."""
        return self.delimiter.join(self.names)

    def words(self) -> str:
        """The layout in a few words, for the user to confirm."""
        parts = [
            f"{DELIMITER_WORDS[self.delimiter]} between {len(self.names)} columns"
            if len(self.names) > 1
            else "one column",
            f"decimal {'comma' if self.decimal == ',' else 'point'}",
            self.encoding.upper(),
        ]
        preamble = self.lines_before - self.header_lines
        if preamble:
            parts.append(f"{preamble} lines before the table")
        if not self.has_header:
            parts.append("no header")
        if self.compressed:
            parts.append(self.compressed)
        return ", ".join(parts)

    def columns_of(self, fields: list[str]) -> list[str]:
        """A row's fields by column: joined where two make one, blank ones at the end left off."""
        if self.joins:
            joined: list[str] = []
            for index, field in enumerate(fields):
                if index - 1 in self.joins:
                    joined[-1] += f",{field}"
                else:
                    joined.append(field)
            fields = joined
        if self.extra_fields and len(fields) == len(self.names) + self.extra_fields:
            return fields[: len(self.names)]
        return fields


def find_layout(log: LogText, where: str) -> Layout:
    """The layout that makes the most of the first lines read as a table of numbers."""
    return find_layouts(log, where)[0]


def find_layouts(log: LogText, where: str) -> tuple[Layout, ...]:
    """Layouts that read the first lines as a table, the best first, then close rivals.

    Raises BadLog where none does.
    """
    lines = log.head
    together = "\n".join(lines)
    many = [mark for mark in DELIMITERS[:4] if together.count(mark) >= MOST_COLUMNS]
    widest = max((line.count(mark) for line in lines for mark in many), default=0)
    if widest >= MOST_COLUMNS:
        raise BadLog(
            where,
            f"it has {widest + 1} columns, more than the {MOST_COLUMNS} a log may have",
            "Give a log with fewer columns",
        )
    found: list[tuple[float, Layout]] = []
    # Without any of the marks in sight the one that parts nothing else serves for one column.
    seen = [mark for mark in DELIMITERS if mark in together]
    for delimiter in seen if ";" in seen else [*seen, ";"]:
        rows = [split_line(line, delimiter) for line in lines]
        for decimal in (".", ","):
            scored = _as_table(rows, delimiter, decimal)
            if scored is not None:
                layout = replace(scored[1], encoding=log.encoding, compressed=log.compressed)
                found.append((scored[0], layout))
    if not found:
        raise BadLog(
            where,
            "no table of numbers was found in it",
            "Give a delimited log with one row per frame",
        )
    found.sort(key=lambda one: -one[0])
    best, first = found[0]
    return tuple(
        joined
        for score, layout in found
        if score > best - 0.6 and layout.delimiter == first.delimiter
        for joined in _joined(lines, layout, where)
    )


def split_line(line: str, delimiter: str) -> list[str]:
    """The fields of one line, quotes and outer blanks taken off. Every line stands by itself."""
    if delimiter == " ":
        return line.replace('"', "").split()
    if '"' not in line:
        return [field.strip() for field in line.split(delimiter)]
    try:
        row = next(csv.reader([line], delimiter=delimiter, skipinitialspace=True), [])
    except csv.Error:  # a field longer than the csv module takes
        row = line.split(delimiter)
    return [field.strip().strip('"') for field in row]


def _as_table(rows: list[list[str]], delimiter: str, decimal: str) -> tuple[float, Layout] | None:
    """Score and layout of the lines read one way; None where they make no table."""
    numbers = [len([1 for field in row if as_value(field, decimal) is not None]) for row in rows]
    widths = Counter(len(row) for row, count in zip(rows, numbers, strict=True) if count)
    if not widths:
        return None
    width, _ = widths.most_common(1)[0]
    if delimiter == "," and decimal == "," and width == 1:
        return None  # then the comma parts nothing, and ";" reads the same lines the same way
    usual = Counter(
        count for row, count in zip(rows, numbers, strict=True) if count and len(row) == width
    ).most_common(1)[0][0]
    is_data = [
        len(row) == width and count >= max(1, usual // 2)
        for row, count in zip(rows, numbers, strict=True)
    ]
    first = is_data.index(True)
    # A preamble line may look like data by chance; the table starts where two of three go on.
    while sum(is_data[first : first + 3]) < min(2, len(rows) - first):
        later = [index for index in range(first + 1, len(rows)) if is_data[index]]
        if not later:
            break
        first = later[0]
    first = _below_a_block(rows, is_data, first, width, decimal)
    names, header_lines = _header(rows, first, width, decimal)
    extra = 0
    if names and len(names) < width:
        extra = width - len(names)
        if any(field for row in rows[first:] if len(row) == width for field in row[-extra:]):
            names, header_lines, extra = [], 0, 0
    body = range(first, len(rows))
    fields = [field for i in body for field in rows[i]]
    filled = len([1 for field in fields if not is_blank(field)])
    numeric_share = sum(numbers[first:]) / max(filled, 1)
    data_share = sum(is_data[first:]) / len(body)
    # A header right above that does not fit the columns speaks against this reading.
    misfit = first > 0 and not names
    score = numeric_share + data_share + (0.1 if width > 1 else 0.0) - (0.3 if misfit else 0.0)
    commas = [field for field in fields if "," in field]
    if decimal == "," and not commas:
        score -= 0.5  # no comma anywhere: the point reads it as well
    if decimal == "." and any(_grouped_only(field) for field in commas):
        score -= 0.2  # 16,700 is more often a decimal comma than a thousand
    if delimiter == "," and decimal == ",":
        score -= 0.05
    made_up = [f"column {index + 1}" for index in range(width)]
    layout = Layout(
        encoding="utf-8",
        compressed="",
        delimiter=delimiter,
        decimal=decimal,
        lines_before=first,
        has_header=bool(names),
        names=_unique(names or made_up),
        header_lines=header_lines,
        extra_fields=extra,
    )
    return score, layout


def _below_a_block(
    rows: list[list[str]], is_data: list[bool], first: int, width: int, decimal: str
) -> int:
    """The first data line, below a block of figures that has a header of the table under it."""
    if width == 1:
        return first  # there a word among numbers is a bad row
    for at in range(first + 1, min(first + 40, len(rows) - 2)):
        row = rows[at]
        if (
            len(row) == width
            and as_value(row[0], decimal) is None
            and len(set(row)) == width
            and all(row)
            and row not in rows[:at]
            and not any(as_value(field, decimal) is not None for field in row)
            and is_data[at + 1]
            and is_data[at + 2]
            and sum(is_data[first:at]) < sum(is_data[at:])
        ):
            return at + 1
    return first


def _grouped_only(field: str) -> bool:
    return "." not in field and as_number(field, ".") is not None


def _header(rows: list[list[str]], first: int, width: int, decimal: str) -> tuple[list[str], int]:
    """(names, lines they stand on) right above the first data line; no names where none fit.

    A row of bare units under the names goes into them: "frametime" over "ms" is "frametime [ms]".
    """

    def names_at(line: int) -> list[str]:
        row = [
            field.lstrip("#").strip() if not at else field for at, field in enumerate(rows[line])
        ]
        while len(row) > width and not row[-1]:
            row = row[:-1]
        fits = len(row) == width or (1 < len(row) < width)
        return row if fits and any(row) and not any(as_value(f, decimal) for f in row) else []

    above = first - 1
    while above >= 0 and not any(rows[above]):  # blank lines between header and table
        above -= 1
    if above < 0:
        return [], 0
    names = names_at(above)
    if names and above and all(UNIT_ROW.match(name) for name in names):
        better = names_at(above - 1)
        if len(better) == len(names):
            joined = [
                f"{name} [{unit}]" if unit.strip("-#[]()") else name
                for name, unit in zip(better, (n.strip("[]()") for n in names), strict=True)
            ]
            return joined, first - above + 1
    return names, first - above if names else 0


def _joined(lines: list[str], layout: Layout, where: str) -> tuple[Layout, ...]:
    """The layout, or those that join fields where commas part decimals as well as fields."""
    if layout.has_header or layout.delimiter != "," or not layout.lines_before:
        return (layout,)
    header = split_line(lines[layout.lines_before - 1].lstrip("#"), ",")
    width = layout.fields
    named = len(header) >= 1 and all(header) and not any(as_value(f, ".") for f in header)
    if not named or not width / 2 <= len(header) < width:
        return (layout,)
    rows = [split_line(line, ",") for line in lines[layout.lines_before :]]
    rows = [row for row in rows if len(row) == width]
    whole = [all(row[at].isdigit() for row in rows) for at in range(width)]
    constant = [len({row[at] for row in rows}) == 1 for at in range(width)]
    counts = [
        all(row[at].isdigit() for row in rows)
        and len(rows) > 2
        and {int(b[at]) - int(a[at]) for a, b in pairwise(rows)} == {1}
        for at in range(width)
    ]
    # Of a few fields every way is tried; of many there is never just one.
    few = comb(width - 1, width - len(header)) <= MOST_WAYS
    ways = [
        joins
        for joins in (combinations(range(width - 1), width - len(header)) if few else ())
        if all(b - a > 1 for a, b in pairwise(joins))
        and all(whole[at + 1] and not counts[at] for at in joins)
        and not any(constant[at + 1] and not constant[at] for at in joins)
        and all(rows and rows[0][at].lstrip("+-").isdigit() for at in joins)
    ]
    if len(ways) != 1:
        raise BadLog(
            where,
            f"the header names {len(header)} columns and the rows have {width} fields; "
            "the comma seems to stand between fields and in the numbers too",
            "Save it with semicolons or tabs between the columns",
        )
    return (
        replace(
            layout,
            decimal=",",
            has_header=True,
            header_lines=1,
            names=_unique(header),
            joins=ways[0],
        ),
    )


def with_cell_units(layout: Layout, head: list[tuple[int, list[str]]]) -> Layout:
    """The layout with units that stand in the cells, as in "16.7 ms", added to the names."""
    names = list(layout.names)
    for at, name in enumerate(names):
        held = [row[at] for _, row in head if at < len(row) and row[at]]
        worded = [text for text in held if text[-1] not in DIGITS and len(text) < 40]
        units = {found[1] for text in worded if (found := CELL_UNITS.search(text))}
        if len(units) == 1 and held:
            names[at] = f"{name} [{units.pop()}]"
    return replace(layout, names=tuple(names))


def _unique(names: list[str]) -> tuple[str, ...]:
    seen: Counter[str] = Counter()
    unique = []
    for index, name in enumerate(names):
        plain = name or f"column {index + 1}"
        seen[plain] += 1
        unique.append(plain if seen[plain] == 1 else f"{plain} ({seen[plain]})")
    return tuple(unique)


def table_rows(
    text: bytes, layout: Layout, step: Progress = no_progress
) -> list[tuple[int, list[str]]]:
    """All rows of the table with their line in the file; blank and comment lines passed over."""
    lines = text.decode(errors="replace").split("\n")
    rows = []
    for number, line in enumerate(lines[layout.lines_before :], layout.lines_before + 1):
        if not line.strip() or line.startswith(COMMENT):
            continue
        row = layout.columns_of(split_line(line.rstrip("\r"), layout.delimiter))
        if any(row):
            rows.append((number, row))
            if len(rows) % 50_000 == 0:
                step("Reading the rows", 0.5)
    return rows
