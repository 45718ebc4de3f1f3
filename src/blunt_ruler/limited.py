"""Bytes from elsewhere are taken apart in a process of its own, with limits on memory and time.

Parsers of workbooks and Parquet are compiled: what makes one of them abort, or take all memory,
would end the window. Here it ends a process that holds nothing.
"""

import os
import resource
from collections.abc import Callable
from concurrent.futures import BrokenExecutor, ProcessPoolExecutor
from contextlib import nullcontext, suppress
from functools import partial
from pathlib import Path
from threading import Lock
from typing import Any, TypeVar

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.processes import kill, started

MEMORY_MB = 250  # beyond what the parser needs before it has read anything
SECONDS = 20.0

Result = TypeVar("Result")


class OverLimit(Exception):
    """It took more memory or time than it may, or the parser aborted; `what` says so."""

    def __init__(self, what: str) -> None:
        super().__init__(what)
        self.what = what


class Undecodable(Exception):
    """The parser refused it, in its own words."""


def limited(
    work: Callable[..., Result],
    *arguments: Any,
    module: str,
    memory_mb: int = MEMORY_MB,
    seconds: float = SECONDS,
    shared: bool = False,
) -> Result:
    """What `work`, a plain function of a module, makes of some arguments within limits.

    `module` is the parser, imported before memory is counted. Raises the UserFixable that `work`
    raises, Undecodable for whatever else it raises, and OverLimit. A `shared` process goes on to
    the next work of its kind, for many small pieces follow one another.
    """
    kind = (module, memory_mb)
    with _LOCK if shared else nullcontext():
        pool = (_SHARED.pop(kind, None) if shared else None) or started(
            1, module, partial(limit_memory, memory_mb)
        )
        is_well = False
        try:
            result = pool.submit(_guarded, work, arguments).result(timeout=seconds)
            is_well = True
            return result
        except (UserFixable, Undecodable):
            is_well = True
            raise
        except BrokenExecutor:
            raise OverLimit(f"it cannot be read within {memory_mb} MB") from None
        except TimeoutError:
            raise OverLimit(f"it cannot be read within {seconds:.0f}\u202fs") from None
        finally:
            if shared and is_well:
                _SHARED[kind] = pool
            else:
                kill(pool)


def end_shared() -> None:
    """End the processes that wait for more work."""
    with _LOCK:
        while _SHARED:
            kill(_SHARED.popitem()[1])


_LOCK = Lock()
_SHARED: dict[tuple[str, int], ProcessPoolExecutor] = {}  # those that are at rest


def limit_memory(memory_mb: int) -> None:
    """Allow so much memory more than is used by now; nothing it prints reaches a terminal."""
    silent = os.open(os.devnull, os.O_WRONLY)
    os.dup2(silent, 2)
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    status = Path("/proc/self/status").read_text("utf-8", "replace")
    used_kb = int(status.split("VmData:")[1].split()[0])
    most = used_kb * 1024 + memory_mb * 1_000_000
    with suppress(ValueError):  # a lower one is set already
        resource.setrlimit(resource.RLIMIT_DATA, (most, most))


def _guarded(work: Callable[..., Result], arguments: tuple[Any, ...]) -> Result:
    try:
        return work(*arguments)
    except UserFixable:
        raise
    except MemoryError:
        raise OverLimit("it cannot be read within the memory it may take") from None
    except BaseException as error:  # compiled parsers raise what is no Exception, too
        raise Undecodable(" ".join(str(error).split())[:200]) from None
