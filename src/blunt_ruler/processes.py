"""Work in processes beside this one: threads share one interpreter, and what computes for long on
one slows down all others.

Processes are started anew and not forked, since this one may have threads; what they are given and
what they give back is pickled. They are the standard library's: the first answer of a process took
0.15 s on one machine, with loky's executor 0.25 s.
"""

import os
import time
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import BrokenExecutor, Executor, ProcessPoolExecutor
from contextlib import contextmanager
from importlib import import_module
from multiprocessing import get_context
from threading import Thread
from typing import Any, TypeVar

from blunt_ruler.core.errors import UserFixable

# Without it the folder that one stands in comes first where a process looks for its modules: in a
# folder with a file named like one of them, that file would be run. Read by each as it starts.
SAFE_PATH = "PYTHONSAFEPATH"
_as_found = os.environ.get(SAFE_PATH)
os.environ[SAFE_PATH] = "1"

LOOK_EVERY_S = 0.1
WAITS = 15
CHUNK = 8
FEWEST = 60  # items, from which on it pays to start processes

Item = TypeVar("Item")
Result = TypeVar("Result")


def environment_of_others() -> dict[str, str]:
    """The environment that this process was started with, for programs that are not ours."""
    found = dict(os.environ)
    if _as_found is None:
        found.pop(SAFE_PATH, None)
    return found


def other_cores() -> int:
    """How many cores there are beside the one that runs this."""
    return (os.cpu_count() or 1) - 1


def _begin(parent: int, module: str, then: Callable[[], object] | None) -> None:
    """Import what is wanted first; a worker whose parent was killed ends too, for nobody else
    would tell it.
    """

    def watch() -> None:
        while os.getppid() == parent:
            time.sleep(1.0)
        os._exit(1)

    Thread(target=watch, daemon=True).start()
    if module:
        import_module(module)
    if then is not None:
        then()


def started(
    count: int, module: str = "", then: Callable[[], object] | None = None
) -> ProcessPoolExecutor:
    """Some processes, which end with this one, however it ends. Where a module is named they start
    at once, import it while there is nothing to do yet, and call `then`.
    """
    context, given = get_context("spawn"), (os.getpid(), module, then)
    pool = ProcessPoolExecutor(count, context, initializer=_begin, initargs=given)
    for _ in range(count if module else 0):
        pool.submit(os.getpid)  # each is started by something to do
    return pool


@contextmanager
def killed_after(pool: ProcessPoolExecutor) -> Iterator[ProcessPoolExecutor]:
    """Processes that are ended in the midst of what they do when they are no longer wanted."""
    try:
        yield pool
    finally:
        kill(pool)


def kill(pool: ProcessPoolExecutor) -> None:
    """End processes in the midst of what they do."""
    for process in list((pool._processes or {}).values()):
        process.kill()
    pool.shutdown(wait=True, cancel_futures=True)


_ahead: list[ProcessPoolExecutor] = []  # one at most


def start_ahead(count: int, module: str) -> None:
    """Start the processes that will be wanted while this one, or its user, is not as far yet; they
    import `module` meanwhile.
    """
    if count and not _ahead:
        _ahead.append(started(count, module))


def end_ahead() -> None:
    """Nobody wants the processes that were started."""
    if _ahead:
        _ahead.pop().shutdown(wait=False, cancel_futures=True)


def pool_of(count: int, module: str = "") -> ProcessPoolExecutor:
    """Some processes to give work to: those that were started ahead, where there are some."""
    return _ahead.pop() if _ahead else started(count, module)


@contextmanager
def workers(count: int, module: str = "") -> Iterator[Executor]:
    """Some processes; what has not begun when they are no longer wanted is not begun."""
    pool = pool_of(count, module)
    try:
        yield pool
    finally:
        pool.shutdown(wait=True, cancel_futures=True)


def computed_apart(
    work: Callable[..., Result], arguments: tuple[Any, ...], going: Callable[[], None]
) -> Result:
    """What `work`, a plain function of a module, makes of some arguments in another process.

    `going` is called meanwhile and may raise to stop it; then the process is ended. Where none is
    to be had, the work is done here.
    """
    for _ in range(WAITS):  # while edits follow one another, nothing is begun for each of them
        time.sleep(LOOK_EVERY_S)
        going()
    with killed_after(started(1)) as pool:
        future = pool.submit(work, *arguments)
        while True:
            try:
                return future.result(timeout=LOOK_EVERY_S)
            except TimeoutError:
                going()
            except BrokenExecutor:
                return work(*arguments)


def spread_out(
    work: Callable[[Item], Result], items: Sequence[Item], fewest: int = FEWEST
) -> Iterator[Result]:
    """What `work` makes of each item, in their order, on all cores where there are many.

    An item that a user must mend raises its UserFixable in its turn.
    """
    if not other_cores() or (len(items) < fewest and not _ahead):
        yield from map(work, items)
        return
    chunks = [items[at : at + CHUNK] for at in range(0, len(items), CHUNK)]
    with workers(other_cores()) as pool:
        coming = [pool.submit(_each, work, chunk) for chunk in chunks]
        # This process takes from the end what the others have not begun: it waits for nobody.
        done: dict[int, list[Result | UserFixable]] = {}
        back = len(chunks) - 1
        for at, future in enumerate(coming):
            while at not in done and not future.done() and back > at:
                if coming[back].cancel():
                    done[back] = _each(work, chunks[back])
                back -= 1
            for result in done[at] if at in done else _result(future, work, chunks[at]):
                if isinstance(result, UserFixable):
                    raise result
                yield result


def _result(future: Any, work: Callable[[Item], Result], chunk: Sequence[Item]) -> Any:
    try:
        return future.result()
    except BrokenExecutor:  # no process to be had: here, then
        return _each(work, chunk)


def _each(work: Callable[[Item], Result], chunk: Sequence[Item]) -> list[Result | UserFixable]:
    """The results up to the first that a user must mend."""
    found: list[Result | UserFixable] = []
    for item in chunk:
        try:
            found.append(work(item))
        except UserFixable as error:
            return [*found, error]
    return found
