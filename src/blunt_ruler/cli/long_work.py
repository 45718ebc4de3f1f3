"""What long commands share: how far they are, on one line of a terminal; and no collector that
visits millions of records again and again.
"""

import gc
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from blunt_ruler.core.types import Progress


@contextmanager
def shown_progress() -> "Iterator[Progress]":
    """Progress on a line of its own, taken off at the end; nothing where no terminal is."""
    from blunt_ruler.core.text import escaped
    from blunt_ruler.core.types import no_progress

    stream = sys.__stderr__
    if stream is None or not stream.isatty():
        yield no_progress
        return
    shown = ""

    def step(words: str, share: float) -> None:
        nonlocal shown
        now = f"{escaped(words)}, {share * 100:.0f} %"
        if now != shown:
            shown = now
            stream.write(f"\r\x1b[K{now}")
            stream.flush()

    try:
        yield step
    finally:
        stream.write("\r\x1b[K")
        stream.flush()


@contextmanager
def uncollected() -> Iterator[None]:
    """Work that makes many records and no garbage; what it made is left alone afterwards too."""
    was_on = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        gc.freeze()
        if was_on:
            gc.enable()
