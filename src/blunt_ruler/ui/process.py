"""Long computing in a process of its own, so that the window and shorter work never wait for it.

Threads share one interpreter: what computes for many seconds on one slows down all others.
"""

import time
from collections.abc import Callable
from concurrent.futures import BrokenExecutor, ProcessPoolExecutor
from multiprocessing import get_context
from typing import Any

from blunt_ruler.core.types import Progress

LOOK_EVERY_S = 0.1
WAITS = 15


def computed_apart(work: Callable[..., Any], arguments: tuple[Any, ...], step: Progress) -> Any:
    """What `work`, a plain function of a module, makes of some arguments.

    `step` is called meanwhile and may raise to stop it; then the process is ended. Where none is
    to be had, the work is done here.
    """
    for _ in range(WAITS):  # while edits follow one another, nothing is begun for each of them
        time.sleep(LOOK_EVERY_S)
        step("Leaving links out in turn", 0.9)
    # Not forked: this process has threads.
    pool = ProcessPoolExecutor(1, mp_context=get_context("spawn"))
    future = pool.submit(work, *arguments)
    try:
        while True:
            try:
                return future.result(timeout=LOOK_EVERY_S)
            except TimeoutError:
                step("Leaving links out in turn", 0.9)
            except BrokenExecutor:
                return work(*arguments)
    finally:
        for process in list((pool._processes or {}).values()):
            process.kill()
        pool.shutdown(wait=True, cancel_futures=True)
