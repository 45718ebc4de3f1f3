"""Fetch the text of a log, whatever wraps it, within stated limits.

Plain or packed, any common encoding, any line ends. Only regular files are opened: a pipe or a
device has no end that one could wait for. What is too large to be a log is refused with the limit.
"""

import os
import stat
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.exchange.logs.json_lines import BadJson, as_delimited, is_json
from blunt_ruler.exchange.logs.packed import CHUNK_BYTES, BadPacked, kind_of, parts_of

HEAD_BYTES = 64 * 1024
HEAD_LINES = 120
SMALL_BYTES = 1024**2  # what it costs no time to copy
MOST_BYTES = 1024**3  # of text; ten million frames with ten columns are about half of it
MOST_LINE_BYTES = 1024**2
SMALL_UNPACKED, MOST_RATIO = 64 * 1024**2, 100  # frame logs pack to a third or a tenth
BLANKS = b"\x00 \r\n\t"
BYTE_ORDER_MARKS = (
    (b"\xef\xbb\xbf", "utf-8"),
    (b"\xff\xfe", "utf-16-le"),
    (b"\xfe\xff", "utf-16-be"),
)


class BadLog(UserFixable):
    """A log that holds no table of numbers, or not the column that is asked for."""


@dataclass(frozen=True)
class LogText:
    """A log's text as UTF-8 without a mark, lines ended by \\n or \\r\\n, and how it was held.

    `compressed` is how it was packed, blank for not at all. `source` is what polars reads: a large
    file itself where it holds just this text, for polars copies bytes that it is handed.
    """

    utf8: bytes
    encoding: str
    compressed: str
    source: Path | bytes

    @cached_property
    def head(self) -> list[str]:
        """The first lines, whole ones: as many as fit, the first one however long."""
        cut = max(HEAD_BYTES, self.utf8.find(b"\n") + HEAD_BYTES)
        lines = self.utf8[:cut].decode(errors="replace").split("\n", HEAD_LINES + 1)
        if len(self.utf8) > cut and len(lines) > 1:
            lines = lines[:-1]  # the last one may be cut
        elif lines and not lines[-1].strip():
            lines = lines[:-1]
        return [line.rstrip("\r") for line in lines[:HEAD_LINES]]


def load_text(path: Path, most_bytes: int | None = None, *, json_rows: bool = False) -> LogText:
    """The text of a file, plain or packed; with `json_rows` the rows of JSON as delimited text.
    BadLog where it cannot be read, is larger than it may be, or holds nothing.
    """
    raw, compressed = _load(path, most_bytes or MOST_BYTES)
    if not raw[:HEAD_BYTES].strip(BLANKS):
        raise _empty(path.name)
    whole = raw
    encoding, mark = _encoding_of(raw)
    if mark:
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
    if b"\x00" in raw:  # room that a recorder set aside and never filled
        raw = raw.replace(b"\x00", b"")
    returns = raw.count(b"\r")
    if returns and returns != raw.count(b"\r\n"):
        raw = raw.replace(b"\r\n", b"\n").replace(b"\r", b"\n")
    if json_rows and is_json(raw[:HEAD_BYTES]):
        raw = _of_json(raw, path.name)
    _refuse_long_lines(raw, path.name)
    is_file = raw is whole and not compressed and len(raw) > SMALL_BYTES
    return LogText(raw, encoding, compressed, path if is_file else raw)


def _of_json(raw: bytes, where: str) -> bytes:
    """A JSON log as delimited text; any other text as it is."""
    try:
        return as_delimited(raw) or raw
    except BadJson as error:
        raise BadLog(where, error.what, "Give a list of frames, one object each") from error


def _load(path: Path, most_bytes: int) -> tuple[bytes, str]:
    """All bytes of a regular file, unpacked where it is packed, and how it was."""
    try:
        # A pipe without a writer would hold a plain open up for ever.
        with open(os.open(path, os.O_RDONLY | os.O_NONBLOCK), "rb") as file:  # noqa: PTH123
            found = os.fstat(file.fileno())
            if not stat.S_ISREG(found.st_mode):
                raise BadLog(
                    path.name, "this is not a file but a folder, pipe or device", "Give a log file"
                )
            if found.st_size > most_bytes:
                raise _too_large(path.name, most_bytes)
            raw = file.read(HEAD_BYTES)
            if not raw.strip(BLANKS):
                raise _empty(path.name)
            raw += file.read()
    except OSError as error:
        raise BadLog(
            path.name, f"cannot be read ({error.strerror})", "Check the name and who may read it"
        ) from error
    except ValueError as error:  # a name with a NUL in it
        raise BadLog(repr(path.name), f"cannot be read ({error})", "Check the name") from error
    kind = kind_of(raw)
    return (_unpacked(raw, kind, path.name, most_bytes), kind) if kind else (raw, "")


def _unpacked(packed: bytes, kind: str, where: str, most_bytes: int) -> bytes:
    """What a packed file holds, stopped where it grows beyond the limit."""
    parts: list[bytes] = []
    size, blank = 0, True
    try:
        for part in parts_of(packed, kind):
            size += len(part)
            parts.append(part)
            blank = blank and not part.strip(BLANKS)
            if size > most_bytes:
                raise _too_large(where, most_bytes)
            if size > SMALL_UNPACKED and size > MOST_RATIO * len(packed):
                what = f"it unpacks to over {MOST_RATIO} times its size, which no frame log does"
                raise BadLog(where, what, "Unpack it yourself, and look at what it holds")
            if size > 8 * CHUNK_BYTES and blank:
                raise BadLog(where, "it holds nothing but blanks", "Give a log of frame times")
    except BadPacked as error:
        raise BadLog(where, error.what, error.fix) from error
    return b"".join(parts)


def _empty(where: str) -> BadLog:
    return BadLog(where, "the file is empty", "Give a log with a table of frame times")


def _too_large(where: str, most_bytes: int) -> BadLog:
    what = f"it is larger than {most_bytes // 1024**2} MB"
    if most_bytes < MOST_BYTES:
        return BadLog(where, what, "Give a file of such a size")
    return BadLog(where, f"{what}, more than any frame log", "Split the recording into parts")


def _refuse_long_lines(text: bytes, where: str) -> None:
    """BadLog where a line is longer than any row of a log; in time that grows with the file."""
    at, number = 0, 1
    while len(text) - at > MOST_LINE_BYTES:
        # The last line end within reach of `at`: lines before it are short enough.
        end = text.rfind(b"\n", at, at + MOST_LINE_BYTES + 1)
        if end < 0:
            number += text.count(b"\n", 0, at)
            raise BadLog(
                f"{where}, row {number}",
                f"the line is longer than {MOST_LINE_BYTES // 1024**2} MB",
                "Give a delimited log with one row per frame",
            )
        at = end + 1


def _encoding_of(raw: bytes) -> tuple[str, int]:
    for mark, encoding in BYTE_ORDER_MARKS:
        if raw.startswith(mark):
            return encoding if encoding != "utf-8" else _utf8_or_latin(raw), len(mark)
    head = raw[:4096]
    # Text of digits in UTF-16 without a mark has a zero in every other byte, and only there.
    for first, encoding in ((1, "utf-16-le"), (0, "utf-16-be")):
        if head[first::2].count(0) > len(head) // 4 > head[1 - first :: 2].count(0):
            return encoding, 0
    if raw.isascii():  # six times as fast as decoding, and true of nearly every log
        return "utf-8", 0
    return _utf8_or_latin(raw), 0


def _utf8_or_latin(raw: bytes) -> str:
    try:
        raw.decode()
    except UnicodeDecodeError:
        return "latin-1"
    return "utf-8"
