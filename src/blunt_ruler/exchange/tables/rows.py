"""Tables kept by hand: rows by column name, refused with the row and the column that is wrong."""

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

from blunt_ruler.core.text import list_text
from blunt_ruler.exchange.logs.layout import (
    DELIMITERS,
    Layout,
    find_layout,
    split_line,
    table_rows,
)
from blunt_ruler.exchange.logs.numbers import as_number, is_blank
from blunt_ruler.exchange.logs.text import BadLog, LogText, load_text

MOST_BYTES = 20 * 1024**2
LEAST, MOST = 1e-9, 1e9  # what any rate, bandwidth or time in a table kept by hand can be


@dataclass(frozen=True, slots=True)
class HandRow:
    """One row: its fields by lower-case column name, the decimal mark, and where it stands."""

    fields: dict[str, str]
    decimal: str
    where: str

    def text(self, column: str) -> str:
        """A field, blank where the table has no such column."""
        return self.fields.get(column, "").strip()

    def needed(self, column: str) -> str:
        """A field that must not be blank."""
        if not self.text(column):
            raise BadLog(self.where, f"the {column} is blank", "Fill it in")
        return self.text(column)

    def number(self, column: str, *, or_zero: bool = False) -> float | None:
        """A number above 0 (or 0 itself, where that means something), None for a blank."""
        held = self.text(column)
        if is_blank(held):
            return None
        value = as_number(held, self.decimal)
        sound = value is not None and (LEAST <= value <= MOST or (or_zero and value == 0))
        if not sound:
            raise BadLog(
                self.where,
                f"{column} holds “{held[:40]}”",
                f"Give a number {'from' if or_zero else 'above'} 0, or leave it blank",
            )
        return value


def _layout(log: LogText, where: str, needed: Sequence[str]) -> Layout:
    """As for a frame log; else, since few cells need be numbers, by the header that is known."""
    try:
        layout = find_layout(log, where)
    except BadLog:
        return _known_header(log, needed) or find_layout(log, where)
    names = {name.strip().lower() for name in layout.names}
    return layout if names.issuperset(needed) else _known_header(log, needed) or layout


def _known_header(log: LogText, needed: Sequence[str]) -> Layout | None:
    """The layout under the first line that names the needed columns; None where none does."""
    lines = log.head
    for number, line in enumerate(lines):
        for delimiter in DELIMITERS:
            names = split_line(line, delimiter)
            if not {name.lower() for name in names}.issuperset(needed):
                continue
            body = "\n".join(lines[number + 1 :])
            commas, points = (len(re.findall(rf"\d{mark}\d", body)) for mark in (",", r"\."))
            return Layout(
                encoding=log.encoding,
                compressed=log.compressed,
                delimiter=delimiter,
                decimal="," if delimiter != "," and commas > points else ".",
                lines_before=number + 1,
                has_header=True,
                names=tuple(names),
                header_lines=1,
            )
    return None


def hand_rows(path: Path, needed: Sequence[str], wanted: str) -> Iterator[HandRow]:
    """The rows of a table. Delimiter, decimal mark and encoding are found as for a frame log.

    `wanted` names all columns, for the sentence when one of the needed is missing.
    """
    log = load_text(path, MOST_BYTES)
    layout = _layout(log, path.name, needed)
    names = [name.strip().lower() for name in layout.names]
    missing = [name for name in needed if name not in names]
    if missing:
        raise BadLog(
            path.name,
            f"the columns {list_text(missing)} are missing"
            if len(missing) > 1
            else f"the column {missing[0]} is missing",
            f"Name the columns {wanted}",
        )
    for line, row in table_rows(log.utf8, layout):
        where = f"{path.name}, row {line}"
        if len(row) != len(names):
            raise BadLog(
                where,
                f"{len(row)} fields where the table has {len(names)} columns",
                "Mend the row",
            )
        yield HandRow(dict(zip(names, row, strict=True)), layout.decimal, where)
