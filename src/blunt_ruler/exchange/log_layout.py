"""Find out how a delimited log is laid out, from its content alone.

Encoding, delimiter, decimal mark, lines before the table and the header are read off the first
lines. No program's format is known here: what makes a line part of the table is that it has as
many fields as its neighbours and that they are numbers.
"""

import csv
import gzip
import io
import re
import zlib
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from blunt_ruler.core.errors import UserFixable

SAMPLE_BYTES = 64 * 1024
SAMPLE_LINES = 300
DELIMITERS = (",", ";", "\t", "|", " ")
DELIMITER_WORDS = {",": "comma", ";": "semicolon", "\t": "tab", "|": "bar", " ": "space"}
BLANKS = frozenset({"", "-", "na", "n/a", "null", "none"})
BYTE_ORDER_MARKS = (
    (b"\xef\xbb\xbf", "utf-8"),
    (b"\xff\xfe", "utf-16-le"),
    (b"\xfe\xff", "utf-16-be"),
)
NUMBER = {
    ".": re.compile(r"[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?$|[+-]?(nan|inf)$", re.IGNORECASE),
    ",": re.compile(r"[+-]?(\d+,?\d*|,\d+)([eE][+-]?\d+)?$|[+-]?(nan|inf)$", re.IGNORECASE),
}


Step = Callable[[str, float], None]
"""Told what is being done and how far it is (0–1); it may raise to cancel."""


def no_step(_words: str, _share: float) -> None:
    """For callers that do not watch the progress."""


class BadLog(UserFixable):
    """A log that holds no table of numbers, or not the column that is asked for."""


@dataclass(frozen=True, slots=True)
class Layout:
    """How a log is laid out. `names` are the columns, made unique; made up without a header."""

    encoding: str
    compressed: bool
    delimiter: str
    decimal: str
    lines_before: int  # lines before the first data line, the header included
    has_header: bool
    names: tuple[str, ...]

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
        preamble = self.lines_before - self.has_header
        if preamble:
            parts.append(f"{preamble} lines before the table")
        if not self.has_header:
            parts.append("no header")
        if self.compressed:
            parts.append("gzip")
        return ", ".join(parts)


def as_number(text: str, decimal: str) -> float | None:
    """The number a field holds, None where it is blank or text."""
    stripped = text.strip()
    if NUMBER[decimal].match(stripped) is None:
        return None
    return float(stripped.replace(",", ".") if decimal == "," else stripped)


@dataclass(frozen=True, slots=True)
class LogText:
    """A log's text as UTF-8 without a mark, and how the file holds it.

    `source` is what polars reads: the file itself where it holds just this text, for polars
    copies bytes that it is handed.
    """

    utf8: bytes
    encoding: str
    compressed: bool
    source: Path | bytes


def load_text(path: Path) -> LogText:
    """The text of a log, plain or gzip. BadLog where it cannot be read or holds nothing."""
    try:
        raw = path.read_bytes()
        compressed = raw[:2] == b"\x1f\x8b"
        if compressed:
            raw = gzip.decompress(raw)
    except (EOFError, gzip.BadGzipFile, zlib.error) as error:
        raise BadLog(
            path.name, f"the compressed log is cut short or damaged ({error})", "Copy it again"
        ) from error
    except OSError as error:
        raise BadLog(
            path.name, f"cannot be read ({error.strerror})", "Check the name and who may read it"
        ) from error
    if not raw[:SAMPLE_BYTES].strip(b"\x00 \r\n\t"):
        raise BadLog(path.name, "the file is empty", "Give a log with a table of frame times")
    encoding, mark = _encoding_of(raw)
    as_it_stands = not compressed and not mark and encoding == "utf-8"
    raw = raw[mark:]
    if encoding != "utf-8":
        try:
            raw = raw.decode(encoding).encode()
        except UnicodeDecodeError as error:
            raise BadLog(
                path.name,
                f"byte {error.start} is not valid {encoding.upper()}",
                "Save the log as UTF-8",
            ) from error
    if b"\n" not in raw and b"\r" in raw:
        raw = raw.replace(b"\r", b"\n")
        as_it_stands = False
    return LogText(raw, encoding, compressed, path if as_it_stands else raw)


def _encoding_of(raw: bytes) -> tuple[str, int]:
    for mark, encoding in BYTE_ORDER_MARKS:
        if raw.startswith(mark):
            return encoding, len(mark)
    head = raw[:4096]
    # Text of digits in UTF-16 without a mark has a zero in every other byte.
    if head[1::2].count(0) > len(head) // 4:
        return "utf-16-le", 0
    if head[0::2].count(0) > len(head) // 4:
        return "utf-16-be", 0
    if raw.isascii():  # six times as fast as decoding, and true of nearly every log
        return "utf-8", 0
    try:
        raw.decode()
    except UnicodeDecodeError:
        return "latin-1", 0
    return "utf-8", 0


def find_layout(log: LogText, where: str) -> Layout:
    """The layout that makes the most of the first lines read as a table of numbers."""
    text = log.utf8
    lines = text[:SAMPLE_BYTES].decode(errors="replace").splitlines()[:SAMPLE_LINES]
    if len(text) > SAMPLE_BYTES and len(lines) > 1:
        lines = lines[:-1]  # the last one may be cut
    best: tuple[float, Layout] | None = None
    for delimiter in DELIMITERS:
        for decimal in (".", ","):
            found = _as_table(lines, delimiter, decimal)
            if found is not None and (best is None or found[0] > best[0]):
                score, (first, has_header, names) = found
                best = (
                    score,
                    Layout(
                        log.encoding, log.compressed, delimiter, decimal, first, has_header, names
                    ),
                )
    if best is None:
        raise BadLog(
            where,
            "no table of numbers was found in it",
            "Give a delimited log with one row per frame",
        )
    return best[1]


def split_line(line: str, delimiter: str) -> list[str]:
    """The fields of one line, quotes and outer blanks taken off."""
    return [field.strip() for field in next(csv.reader([line], delimiter=delimiter), [])]


def _as_table(
    lines: list[str], delimiter: str, decimal: str
) -> tuple[float, tuple[int, bool, tuple[str, ...]]] | None:
    """Score and (first data line, header?, names) of the lines read one way; None if no table."""
    rows = [split_line(line, delimiter) for line in lines]
    numbers = [sum(as_number(field, decimal) is not None for field in row) for row in rows]
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
    while sum(is_data[first : first + 3]) < min(2, len(lines) - first):
        later = [index for index in range(first + 1, len(lines)) if is_data[index]]
        if not later:
            break
        first = later[0]
    header = rows[first - 1] if first else []
    has_header = len(header) == width and not any(as_number(field, decimal) for field in header)
    body = range(first, len(lines))
    filled = sum(len([field for field in rows[i] if field.lower() not in BLANKS]) for i in body)
    numeric_share = sum(numbers[i] for i in body) / max(filled, 1)
    data_share = sum(is_data[i] for i in body) / len(body)
    # A header right above that does not fit the columns speaks against this reading.
    misfit = first > 0 and not has_header
    score = numeric_share + data_share + (0.1 if width > 1 else 0.0) - (0.3 if misfit else 0.0)
    if decimal == "," and not any("," in field for i in body for field in rows[i]):
        score -= 0.5  # no comma anywhere: the point reads it as well
    if delimiter == "," and decimal == ",":
        score -= 0.05
    names = header if has_header else [f"column {index + 1}" for index in range(width)]
    return score, (first, has_header, _unique(names))


def _unique(names: list[str]) -> tuple[str, ...]:
    seen: Counter[str] = Counter()
    unique = []
    for index, name in enumerate(names):
        plain = name or f"column {index + 1}"
        seen[plain] += 1
        unique.append(plain if seen[plain] == 1 else f"{plain} ({seen[plain]})")
    return tuple(unique)


def table_rows(text: bytes, layout: Layout, step: Step = no_step) -> list[tuple[int, list[str]]]:
    """All rows of the table with their line in the file; blank lines are passed over."""
    lines = io.StringIO(text.decode(errors="replace"), newline="")
    for _ in range(layout.lines_before):
        lines.readline()
    reader = csv.reader(lines, delimiter=layout.delimiter)
    rows = []
    for row in reader:
        if any(row):
            rows.append((layout.lines_before + reader.line_num, row))
            if len(rows) % 50_000 == 0:
                step(f"Reading row {len(rows)}", 0.5)
    return rows
