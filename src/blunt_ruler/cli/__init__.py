"""The same work without a window. Exit 0 on success, 2 with one line on stderr for bad input.

Options and keys are used by scripts and stay as they are.
"""

import sys
from collections.abc import Sequence
from typing import Any, NoReturn

import typer

from blunt_ruler.cli import bench, checks, comparisons, limits, logs, plan, reviews, worth
from blunt_ruler.cli.common import app
from blunt_ruler.core.errors import UserFixable

__all__ = [
    "app",
    "bench",
    "checks",
    "comparisons",
    "limits",
    "logs",
    "main",
    "plan",
    "reviews",
    "worth",
]

# typer keeps its usage errors private and shows only this one of them.
UsageError: Any = typer.BadParameter.__base__


def _fail(sentence: str) -> NoReturn:
    print(" ".join(sentence.split()), file=sys.stderr)
    raise SystemExit(2)


def main(arguments: Sequence[str] | None = None) -> None:
    """Entry of the `blunt-ruler` command."""
    try:
        code = app(args=arguments, prog_name="blunt-ruler", standalone_mode=False)
    except UsageError as error:
        _fail(f"{error.format_message()} See blunt-ruler {_command_of(error)}--help.")
    except UserFixable as error:
        _fail(str(error))
    except (typer.Abort, KeyboardInterrupt):
        raise SystemExit(130) from None
    except BrokenPipeError:
        raise SystemExit(1) from None
    raise SystemExit(code if isinstance(code, int) else 0)


def _command_of(error: Any) -> str:
    name = error.ctx.info_name if error.ctx is not None and error.ctx.parent is not None else ""
    return f"{name} " if name else ""
