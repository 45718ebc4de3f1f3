"""Fetch a script: plain text, Markdown or subtitles, in any common encoding."""

import stat
from pathlib import Path

from blunt_ruler.core.errors import UserFixable

MOST_BYTES = 8 * 1024**2  # a novel has one
_MARKS = ((b"\xef\xbb\xbf", "utf-8"), (b"\xff\xfe", "utf-16-le"), (b"\xfe\xff", "utf-16-be"))
KINDS = (".txt", ".md", ".markdown", ".srt", ".vtt", ".text")


class BadScript(UserFixable):
    """A file that is no text one could read out."""


def load_script(path: Path) -> str:
    """The text of a script; BadScript where it is no regular file, too large, or no text."""
    where = path.name
    try:
        if not stat.S_ISREG(path.stat().st_mode):
            raise BadScript(where, "it is not a regular file", "Choose a text file")
        with path.open("rb") as file:
            raw = file.read(MOST_BYTES + 1)
    except OSError as error:
        raise BadScript(where, error.strerror or "it cannot be read", "Choose another") from error
    if len(raw) > MOST_BYTES:
        raise BadScript(
            where, f"it is larger than {MOST_BYTES // 1024**2} MB", "Choose the script itself"
        )
    encoding, cut = next(
        ((name, len(mark)) for mark, name in _MARKS if raw.startswith(mark)), ("", 0)
    )
    body = raw[cut:]
    if not encoding.startswith("utf-16") and b"\x00" in body:
        raise BadScript(where, "it is not text", "Save the script as plain text")
    try:
        text = body.decode(encoding or "utf-8")
    except UnicodeDecodeError:
        text = body.decode("cp1252", errors="replace")
    return text.replace("\r\n", "\n").replace("\r", "\n")
