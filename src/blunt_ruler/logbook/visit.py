"""Another logbook, looked into and never altered: what it holds, read from a copy."""

import shutil
import tempfile
from pathlib import Path

from blunt_ruler.core.records.records import Contents
from blunt_ruler.logbook.store import Logbook

BESIDE = ("", "-wal", "-shm")


def read_other(path: Path) -> Contents:
    """The contents of a logbook of any format, newer ones refused as at opening.

    It is copied first, with what stands beside it: bringing an older file up to date would write.
    """
    with tempfile.TemporaryDirectory() as folder:
        copy = Path(folder) / path.name
        for ending in BESIDE:
            source = path.with_name(path.name + ending)
            if source.exists():
                shutil.copy(source, copy.with_name(copy.name + ending))
        with Logbook.open(copy if copy.exists() else path) as book:  # which says it is not there
            return book.contents()
