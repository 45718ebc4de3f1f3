"""Folders that are given in place of files: the logs and tables in them, and those below."""

import os
from collections.abc import Iterable, Sequence
from contextlib import suppress
from itertools import islice
from pathlib import Path
from typing import NamedTuple

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.text import count_text, list_text

LOG_ENDINGS = (".csv", ".tsv", ".txt", ".log", ".gz", ".xz", ".bz2")
PACKED_ENDINGS = (".gz", ".xz", ".bz2", ".zip")
UNFINISHED = ("~", ".part", ".tmp", ".temp", ".partial", ".download")
MOST_FILES = 10_000
ENOUGH = 1000  # to know that they are many


class BadFolder(UserFixable):
    """A folder that cannot be looked through, or has nothing to look at."""


class Found(NamedTuple):
    """The files to look at, and how many of the folders' own are no logs or tables by their
    endings.
    """

    files: tuple[Path, ...]
    left: int = 0

    @property
    def left_words(self) -> str:
        """What is left, in a sentence; blank for nothing."""
        were, do = ("was", "it does") if self.left == 1 else ("were", "they do")
        others = f"{count_text(self.left, 'other file')} in the folder {were} left"
        return f"{others}: {do} not end as logs do." if self.left else ""


def is_log_name(name: str) -> bool:
    """Whether a file is a finished log by its name."""
    return _is_finished(name) and name.lower().endswith(LOG_ENDINGS)


def _is_finished(name: str) -> bool:
    """Whether a file is neither hidden nor half of one, by its name."""
    return not name.startswith(".") and not name.lower().endswith(UNFINISHED)


def files_in(paths: Iterable[Path], endings: tuple[str, ...] = LOG_ENDINGS) -> Found:
    """Files as they were given, and for each folder those others in it and below that end so, by
    name.

    BadFolder where a folder has none, has too many, or is closed to the reader.
    """
    files: list[Path] = []
    left = 0
    for path in paths:
        if not path.is_dir():
            files.append(path)
            continue
        every = _below(path)
        # What is not a file, as a pipe, would be waited for.
        found = [one for one in every if one.name.lower().endswith(endings) and one.is_file()]
        if not found:
            wanted = list_text(endings)
            raise BadFolder(str(path), "there is no log in it", f"Logs end in {wanted}")
        files += sorted(set(found).difference(files))
        left += len(every) - len(found)
    return Found(tuple(files), left)


def _below(folder: Path) -> list[Path]:
    """Every file of a folder and of those below, but hidden and unfinished ones."""

    def closed(error: OSError) -> None:
        raise BadFolder(
            str(error.filename), f"cannot be read: {error.strerror}", "Choose another folder"
        )

    found: list[Path] = []
    for parent, folders, names in os.walk(folder, onerror=closed):
        folders[:] = [one for one in folders if not one.startswith(".")]
        found += [Path(parent, one) for one in names if _is_finished(one)]
        if len(found) > MOST_FILES:
            raise BadFolder(
                str(folder),
                f"it holds over {count_text(MOST_FILES, 'file')}",
                "Choose the one with the logs",
            )
    return found


def told_apart(paths: Sequence[Path]) -> tuple[Path, ...]:
    """The names of files, with as much of their folders as tells them apart."""
    folders = {os.path.dirname(os.path.abspath(path)) for path in paths}  # noqa: PTH100, PTH120 (thousands)
    if len(folders) < 2:
        return tuple(Path(path.name) for path in paths)
    above = os.path.commonpath(folders)
    return tuple(path.absolute().relative_to(above) for path in paths)


def words_of(path: Path) -> str:
    """A file's name with its folders and without its endings, as words."""
    return " ".join((*path.parent.parts, stem_of(path)))


def stem_of(path: Path) -> str:
    """A file's name without its endings."""
    name = path.name
    if name.lower().endswith(PACKED_ENDINGS):
        name = name.rpartition(".")[0]
    return name.rsplit(".", 1)[0]


def about_how_many(paths: Iterable[Path]) -> int:
    """How many files are given, without looking at them or below the folders; of a folder not over
    ENOUGH.
    """
    count = 0
    for path in paths:
        if not path.is_dir():
            count += 1
            continue
        with suppress(OSError), os.scandir(path) as inside:  # who reads it tells
            count += sum(1 for _ in islice(inside, ENOUGH))
    return count
