"""What was opened, read and fitted, and how long it took, for whoever looks for a fault.

Faults go to a file in the state folder; with `--debug` so does the rest, and to stderr. Nothing
of a user's data is written: no name, no figure, no path; only kinds, counts, sizes and times.
"""

import logging
import re
import sys
import time
import traceback
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:  # numpy comes with it
    from blunt_ruler.core.types import Progress

log = logging.getLogger("blunt_ruler")

MOST_BYTES = 500_000
_VALUES = re.compile(r"input_value=.*|'[^']*'|\"[^\"]*\"|“[^”]*”|\[[^\]]*\]|(?:/[^\s/:]+)+")


def log_path() -> Path:
    """Where the file is kept."""
    from platformdirs import user_state_path

    return user_state_path("blunt-ruler") / "blunt-ruler.log"


@contextmanager
def kept(*, debug: bool = False, path: Path | None = None) -> Iterator[None]:
    """Write to the file while this lasts; with `debug` all of it, and to stderr as well."""
    handlers = [*([logging.StreamHandler(sys.stderr)] if debug else ()), _File(path)]
    before = log.level
    for handler in handlers:
        handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
        log.addHandler(handler)
    if debug:
        log.setLevel(logging.DEBUG)
    try:
        yield
    finally:
        log.setLevel(before)
        for handler in handlers:
            log.removeHandler(handler)
            handler.close()


class _File(logging.Handler):
    """The file, opened with the first line there is for it: most starts have none."""

    def __init__(self, path: Path | None) -> None:
        super().__init__()
        self._path = path
        self._inner: logging.Handler | None = None

    def emit(self, record: logging.LogRecord) -> None:
        if self._inner is None:
            self._inner = self._opened()
        self._inner.handle(record)

    def _opened(self) -> logging.Handler:
        from logging.handlers import RotatingFileHandler  # brings sockets along

        try:
            path = self._path or log_path()
            path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
            inner: logging.Handler = RotatingFileHandler(
                path, maxBytes=MOST_BYTES, backupCount=1, encoding="utf-8"
            )
        except OSError as error:
            print(f"no log file: {error.strerror}", file=sys.stderr)
            inner = logging.NullHandler()
        inner.setFormatter(self.formatter)
        return inner

    def close(self) -> None:
        if self._inner is not None:
            self._inner.close()
        super().close()


class Took:
    """What a piece of work amounted to; it fills this in as it goes."""

    def __init__(self) -> None:
        self.what: list[str] = []

    def say(self, words: str) -> None:
        """Add a count or a kind: “224 runs”."""
        self.what.append(words)


@contextmanager
def timed(of: logging.Logger, words: str) -> Iterator[Took]:
    """Log a piece of work at level DEBUG once it has ended, with how long it took."""
    took, started = Took(), time.perf_counter()
    try:
        yield took
    except BaseException as error:
        took.say(f"ended by {type(error).__name__}")
        raise
    finally:
        ms = (time.perf_counter() - started) * 1000
        of.debug("%s: %s", words, ", ".join((*took.what, f"{ms:.1f} ms")))


@contextmanager
def timed_stages(of: logging.Logger, step: "Progress") -> Iterator["Progress"]:
    """A `step` that logs how long each stage took; its words must name no record."""
    going, started = "", time.perf_counter()

    def end() -> None:
        if going:
            of.debug("%s: %.1f ms", going, (time.perf_counter() - started) * 1000)

    def timed_step(words: str, share: float) -> None:
        nonlocal going, started
        if words != going:
            end()
            going, started = words, time.perf_counter()
        step(words, share)

    try:
        yield timed_step
    finally:
        end()


def details(error: BaseException) -> str:
    """What happened and where: values of records, which messages quote, are left out."""
    frames = traceback.extract_tb(error.__traceback__)
    where = "\n".join(f"  {Path(f.filename).name}:{f.lineno} in {f.name}" for f in frames)
    return f"{type(error).__name__}: {_VALUES.sub('…', str(error))[:400]}\n{where}"
