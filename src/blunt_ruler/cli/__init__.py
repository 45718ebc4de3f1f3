"""The same work without a window. Exit 0 on success, 2 with one line on stderr for bad input.

Options and keys are used by scripts and stay as they are.
"""

import os
import sys
from collections.abc import Iterator, Sequence
from contextlib import contextmanager, redirect_stderr, redirect_stdout
from importlib import import_module
from pathlib import Path
from typing import Any, NoReturn, TextIO, cast

import typer

from blunt_ruler.cli.common import app
from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.text import escaped
from blunt_ruler.diary import details, log

__all__ = ["COMMANDS", "app", "bring_in", "main", "say_fault"]

COMMANDS = {
    "bench": ("link", "fit-check", "probe"),
    "charts": ("charts",),
    "checks": ("check",),
    "comparisons": ("compare", "composite"),
    "doctor": ("doctor", "samples"),
    "documents": ("schema",),
    "limits": ("limits",),
    "logs": ("metrics", "simulate"),
    "intake": ("import", "import-scores", "type"),
    "plan": ("plan",),
    "recordings": ("read",),
    "reviews": ("open", "demo", "report"),
    "script": ("script",),
    "trouble": ("trouble",),
    "notes": ("note",),
    "worth": ("worth",),
}
"""Which module has which commands: each is imported when one of its own is asked for."""

ON_ALL_CORES = ("metrics", "import")  # where many logs are given

# typer keeps its usage errors private and shows only this one of them.
UsageError: Any = typer.BadParameter.__base__


MOST_CHARACTERS = 290  # of the one line; a long list or path is cut in its middle


def _fail(sentence: str) -> NoReturn:
    line = " ".join(sentence.split())
    if len(line) > MOST_CHARACTERS:
        line = f"{line[:190]} … {line[190 - MOST_CHARACTERS + 3 :]}"
    print(line.encode("utf-8", "replace").decode(), file=sys.stderr)
    raise SystemExit(2)


def bring_in(arguments: Sequence[str] = ()) -> None:
    """Import what has the command that is asked for; all of them where none is, but for the
    version.
    """
    named = next((word for word in arguments if not word.startswith("-")), None)
    asked = [module for module, commands in COMMANDS.items() if named in commands]
    if named in ON_ALL_CORES:
        from blunt_ruler.folders import about_how_many
        from blunt_ruler.processes import FEWEST, other_cores, start_ahead

        if about_how_many(map(Path, arguments)) >= FEWEST:
            start_ahead(other_cores(), f"{__name__}.logs")
    for module in asked or (() if "--version" in arguments else COMMANDS):
        import_module(f"{__name__}.{module}")
    import_module(f"{__name__}.reviews")  # has what stands before every command


class _Shown:
    """A stream on which no text of a file moves a terminal's cursor or turns a line around."""

    def __init__(self, stream: TextIO) -> None:
        self._stream = stream

    def write(self, text: str) -> int:
        return self._stream.write(escaped(text))

    def __getattr__(self, name: str) -> Any:
        return getattr(self._stream, name)


@contextmanager
def _shown() -> Iterator[None]:
    out, errors = cast(TextIO, _Shown(sys.stdout)), cast(TextIO, _Shown(sys.stderr))
    with redirect_stdout(out), redirect_stderr(errors):
        yield


@_shown()
def main(arguments: Sequence[str] | None = None) -> None:
    """What the `blunt-ruler` command does with a command of its own."""
    try:
        bring_in(sys.argv[1:] if arguments is None else arguments)
        code = app(args=arguments, prog_name="blunt-ruler", standalone_mode=False)
        sys.stdout.flush()
    except UsageError as error:
        _fail(f"{error.format_message()} See blunt-ruler {_command_of(error)}--help.")
    except UserFixable as error:
        _fail(str(error))
    except (typer.Abort, KeyboardInterrupt):
        raise SystemExit(130) from None
    except BrokenPipeError:  # whoever read our output has had enough
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        raise SystemExit(0) from None
    except SystemExit:
        raise
    except BaseException as error:  # a fault of ours, or of a library: one line all the same
        say_fault(error)
    raise SystemExit(code if isinstance(code, int) else 0)


def say_fault(error: BaseException) -> NoReturn:
    """End with one line for an error that nobody foresaw."""
    log.debug("fault: %s", details(error))
    _fail(_fault(error))


def _fault(error: BaseException) -> str:
    kind = type(error)
    if kind.__name__ == "ValidationError":  # pydantic's, which is slow to import
        first = error.errors()[0]  # type: ignore[attr-defined]
        field = " ".join(str(part).replace("_", " ") for part in first["loc"]) or "an entry"
        return f"{field}: {first['msg']}. Change it and try again."
    if isinstance(error, OSError):
        return f"{error.filename or 'a file'}: {error.strerror or error}. Choose another."
    return (
        f"a fault inside Blunt Ruler ({kind.__name__}: {str(error)[:120]}). Nothing was changed; "
        "blunt-ruler --debug and the same command shows where."
    )


def _command_of(error: Any) -> str:
    name = error.ctx.info_name if error.ctx is not None and error.ctx.parent is not None else ""
    return f"{name} " if name else ""
