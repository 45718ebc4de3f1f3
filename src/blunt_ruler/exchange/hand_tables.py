"""Tables kept by hand: rows by column name, refused with the row and the column that is wrong."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

from blunt_ruler.core.text import list_text
from blunt_ruler.exchange.log_layout import find_layout, table_rows
from blunt_ruler.exchange.log_numbers import BLANKS, as_number
from blunt_ruler.exchange.log_text import BadLog, load_text

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
        if held.lower() in BLANKS:
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


def hand_rows(path: Path, needed: Sequence[str], wanted: str) -> Iterator[HandRow]:
    """The rows of a table. Delimiter, decimal mark and encoding are found as for a frame log.

    `wanted` names all columns, for the sentence when one of the needed is missing.
    """
    log = load_text(path)
    layout = find_layout(log, path.name)
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
