"""Read all rows of a log into columns of numbers, in one pass and in time that grows with it.

Row i of the columns is line `lines_before + i + 1` of the text: nothing is skipped, so every row
that cannot be used can be named by its line. Rows with the wrong number of fields hold NaN.
"""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import polars as pl

from blunt_ruler.core.types import BoolArray, FloatArray, Progress, no_progress
from blunt_ruler.exchange.logs.known import is_plain
from blunt_ruler.exchange.logs.layout import Layout, split_line
from blunt_ruler.exchange.logs.numbers import as_value, is_blank, numbers_of
from blunt_ruler.exchange.logs.text import LogText
from blunt_ruler.exchange.logs.words import in_steps, step_said

# What polars itself reads as a number; anything else is read as text and then by our own rules.
PLAIN = re.compile(r"[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?$|[+-]?(nan|inf)$", re.IGNORECASE)
TAIL_BYTES = 16 * 1024


@dataclass(frozen=True, slots=True)
class LogTable:
    """The columns of a log that hold numbers or clocks.

    `columns` are shape (n,), NaN where a field is blank or text. `ragged` is True for rows
    with the wrong number of fields, `blank` for empty lines, shape (n,) each.
    `clocks` are columns written as times of day, `labels` columns of text.
    """

    layout: Layout
    columns: Mapping[str, FloatArray]
    ragged: BoolArray
    blank: BoolArray
    clocks: frozenset[str]
    labels: Mapping[str, pl.Series]
    text: bytes

    @property
    def height(self) -> int:
        """Rows, bad ones and blank lines counted."""
        return int(self.ragged.size)

    def line_of(self, row: int) -> int:
        """The line in the file of a row."""
        return self.layout.lines_before + row + 1

    def rows(self, numbers: Sequence[int]) -> list[list[str]]:
        """The fields of some rows, as they stand in the file."""
        if not len(numbers):
            return []
        tail = self.text[-TAIL_BYTES:].removesuffix(b"\n").split(b"\n")[1:]
        if min(numbers) >= self.height - len(tail):  # no need to look through the whole text
            return [self._fields(tail[number - self.height]) for number in numbers]
        ends = np.flatnonzero(np.frombuffer(self.text, np.uint8) == ord("\n"))
        found = []
        for number in numbers:
            line = self.layout.lines_before + number
            start = int(ends[line - 1]) + 1 if line else 0
            stop = int(ends[line]) if line < ends.size else len(self.text)
            found.append(self._fields(self.text[start:stop]))
        return found

    def _fields(self, line: bytes) -> list[str]:
        words = line.decode(errors="replace").rstrip("\r")
        return self.layout.columns_of(split_line(words, self.layout.delimiter))


def read_table(
    log: LogText, layout: Layout, head: list[tuple[int, list[str]]], step: Progress = no_progress
) -> LogTable:
    """All rows. `head` holds the first rows, from which the kind of each column is told."""
    text = _plain_text(log, layout)
    plain, written, labels = _kinds(head, layout)
    made_up = [f"column_{index + 1}" for index in range(layout.fields)]
    needed = sorted({*plain, *written, *labels, layout.fields - 1})
    needed = sorted({*needed, *(at + 1 for at in layout.joins)})
    numeric = set() if layout.joins else set(plain)
    quoted = b'"' in text
    source = log.source if text is log.utf8 else text
    kinds = {
        name: pl.Float64 if index in numeric else pl.String for index, name in enumerate(made_up)
    }
    wanted = [made_up[at] for at in needed]
    frame, torn = _read(source, layout, kinds, wanted, quoted)
    step("Reading the rows", 0.6)
    last = frame[made_up[-1]]
    ragged = empty = np.zeros(frame.height, np.bool_)
    if torn or last.null_count():
        ragged, empty = _ragged(text, layout, frame.height, quoted)
    # Cells that polars left blank may hold a number written otherwise: "1,060" or "16.7 ".
    blank = {
        name: missing
        for name in frame.columns
        if kinds[name] == pl.Float64
        and frame[name].null_count()
        and (missing := frame[name].is_null().to_numpy() & ~ragged).any()
    }
    words = None
    if blank:
        words, _ = _read(source, layout, dict.fromkeys(made_up, pl.String), list(blank), quoted)
    shift = {at: sum(join < at for join in layout.joins) for at in range(layout.fields)}
    columns: dict[str, FloatArray] = {}
    clocks = set()
    for at in (*plain, *written):
        if at - 1 in layout.joins:
            continue
        column = frame[made_up[at]]
        if at in layout.joins:
            column = pl.select(
                pl.concat_str([column, frame[made_up[at + 1]]], separator=",")
            ).to_series()
        name = layout.names[at - shift[at]]
        if column.dtype == pl.String:
            values = numbers_of(column, layout.decimal)
            if any(":" in row[at] for _, row in head if at < len(row)):
                clocks.add(name)
        else:
            values = column.to_numpy()
            if words is not None and column.name in blank:
                missing = blank[column.name]
                held = words[column.name].filter(pl.Series(missing)).fill_null("")
                values = values.copy()
                values[missing] = numbers_of(held, layout.decimal)
        columns[name] = np.where(ragged, np.nan, values) if ragged.any() else values
    ordered = {
        name: in_steps(columns[name], step_said(name)) for name in layout.names if name in columns
    }
    return LogTable(
        layout=layout,
        columns=ordered,
        ragged=ragged,
        blank=empty,
        clocks=frozenset(clocks),
        labels={layout.names[at - shift[at]]: frame[made_up[at]] for at in labels},
        text=text,
    )


def _plain_text(log: LogText, layout: Layout) -> bytes:
    """The text with runs of spaces made one where spaces part the fields, and without quotes
    that open and never close on their line.
    """
    text = log.utf8
    if layout.delimiter == " ":
        text = re.sub(rb"[ \t]+", b" ", text)
        text = re.sub(rb"(?m)^ | \r?$", b"", text)
    if b'"' in text:
        marks = np.frombuffer(text, np.uint8)
        quotes = np.flatnonzero(marks == ord('"'))
        ends = np.flatnonzero(marks == ord("\n"))
        line_of = np.searchsorted(ends, quotes)
        odd = (np.bincount(line_of)[line_of] % 2).astype(bool)
        parts = np.flatnonzero(marks == ord(layout.delimiter))
        needed = (np.searchsorted(quotes[~odd], parts) % 2).any()
        if not needed or not _well_quoted(marks, quotes[~odd], layout.delimiter):
            odd[:] = True  # no quotes hold a delimiter, or they stand in the middle of fields
        if odd.any():
            mended = marks.copy()
            mended[quotes[odd]] = ord(" ")
            text = mended.tobytes()
    return text


def _well_quoted(marks: Any, quotes: Any, delimiter: str) -> bool:
    """Whether quotes open only where a field begins and close only where it ends."""
    around = np.concatenate([[ord("\n")], marks, [ord("\n")]])
    ends = (ord(delimiter), ord("\n"), ord("\r"))
    opens, closes = quotes[0::2], quotes[1::2]
    return bool(np.isin(around[opens], ends).all() and np.isin(around[closes + 2], ends).all())


def _kinds(
    head: list[tuple[int, list[str]]], layout: Layout
) -> tuple[list[int], list[int], list[int]]:
    """Fields by place: plain numbers, numbers or clocks written otherwise, and text."""
    plain, written, labels = [], [], []
    rows = [row for _, row in head]
    if layout.joins:
        return [], list(range(layout.fields)), []
    if rows and is_plain(layout, [layout.delimiter.join(row) for row in rows]):
        return list(range(layout.fields)), [], []
    for at in range(len(layout.names)):
        fields = [row[at].strip() for row in rows if at < len(row)]
        filled = [field for field in fields if not is_blank(field)]
        values = [field for field in filled if as_value(field, layout.decimal) is not None]
        if not filled:
            continue
        if len(values) * 2 <= len(filled):
            labels.append(at)
            continue
        dotted = (v.replace(",", ".") if layout.decimal == "," else v for v in values)
        padded = any(row[at] != row[at].strip() for row in rows if at < len(row))
        comma_in_comma = layout.decimal == "," == layout.delimiter
        if padded or comma_in_comma or not all(PLAIN.match(value) for value in dotted):
            written.append(at)
        else:
            plain.append(at)
    return plain, written, labels


def _read(
    source: object,
    layout: Layout,
    kinds: Mapping[str, Any],
    columns: list[str],
    quoted: bool,
) -> tuple[pl.DataFrame, bool]:
    """All rows by polars, blank where a field is no number; and whether some rows are too long."""
    for torn in (False, True):
        try:
            return pl.read_csv(
                source,  # type: ignore[arg-type]
                skip_lines=layout.lines_before,
                has_header=False,
                separator=layout.delimiter,
                quote_char='"' if quoted else None,
                decimal_comma=layout.decimal == "," != layout.delimiter,
                schema=dict(kinds),
                columns=columns,
                ignore_errors=True,
                truncate_ragged_lines=torn,
                glob=False,
            ), torn
        except pl.exceptions.PolarsError:
            if torn:
                raise
    raise AssertionError


def _ragged(text: bytes, layout: Layout, height: int, quoted: bool) -> tuple[BoolArray, BoolArray]:
    """Rows whose number of fields is not the table's, and empty lines; shape (height,) each."""
    marks = np.frombuffer(text, np.uint8)
    parts = np.flatnonzero(marks == ord(layout.delimiter))
    if quoted:
        quotes = np.flatnonzero(marks == ord('"'))
        parts = parts[np.searchsorted(quotes, parts) % 2 == 0]
    ends = np.flatnonzero(marks == ord("\n"))
    if not text.endswith(b"\n"):
        ends = np.append(ends, marks.size)
    counts = np.diff(np.searchsorted(parts, ends), prepend=0)[layout.lines_before :]
    counts = counts[:height]
    short = layout.fields - 1 - layout.extra_fields
    lengths = np.diff(ends, prepend=-1)[layout.lines_before :][:height] - 1
    last = np.concatenate([marks, marks[:1]])[ends[layout.lines_before :][:height] - 1]
    empty = (lengths == 0) | ((lengths == 1) & ((last == ord("\r")) | (last == ord(" "))))
    right = (counts == layout.fields - 1) | ((counts == short) & (layout.extra_fields > 0))
    return ~right, empty
