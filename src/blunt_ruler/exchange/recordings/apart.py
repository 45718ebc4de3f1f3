"""Recordings are read in a process of their own: a decoder that crashes takes nothing with it.

It is started anew, tells how far it is, and is ended when the reading is no longer wanted.
"""

from collections.abc import Callable
from multiprocessing import get_context
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any, TypeVar

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.types import Progress
from blunt_ruler.exchange.recordings.decoding import BadRecording
from blunt_ruler.limited import limit_memory

Result = TypeVar("Result")

LOOK_EVERY_S = 0.1
MEMORY_MB = 3_000  # a recording from elsewhere may ask for any amount


def in_own_process(
    path: Path, work: Callable[..., Result], arguments: tuple[Any, ...], step: Progress
) -> Result:
    """What `work`, a plain function of a module, makes of some arguments and a `step` of its own.

    `step` is called here meanwhile, and may raise to stop it. Raises the UserFixable that the work
    raised, and BadRecording where its process ended without an answer.
    """
    context = get_context("spawn")
    mine, theirs = context.Pipe()
    process = context.Process(target=_serve, args=(theirs, work, arguments), daemon=True)
    process.start()
    theirs.close()
    told = ("Starting the reader", 0.0)
    try:
        while True:
            step(*told)
            if not mine.poll(LOOK_EVERY_S):
                continue
            kind, what = mine.recv()
            if kind == "step":
                told = what
            elif kind == "done":
                return what  # type: ignore[no-any-return]
            else:
                raise what
    except EOFError:
        raise BadRecording(
            path.name,
            "decoding it crashed the reader",
            "Save the recording again, as MP4, and read that; nothing here was lost",
        ) from None
    finally:
        mine.close()
        process.kill()
        process.join()


def _serve(pipe: Connection, work: Callable[..., Any], arguments: tuple[Any, ...]) -> None:
    limit_memory(MEMORY_MB)

    def step(words: str, share: float) -> None:
        pipe.send(("step", (words, share)))

    try:
        pipe.send(("done", work(*arguments, step=step)))
    except UserFixable as error:
        pipe.send(("failed", error))
    except MemoryError:
        what = "it takes more memory than there is"
        pipe.send(("failed", BadRecording("recording", what, "Read it in parts")))
