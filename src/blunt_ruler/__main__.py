"""Entry of the `blunt-ruler` command, and of `python -m blunt_ruler`.

What the menu and a double click start, the window alone or with a logbook, waits for nothing that
other commands need.
"""

import gc
import os
import sys
from pathlib import Path

ASKS_MORE = ("BLUNT_RULER_DEBUG", "_BLUNT_RULER_COMPLETE")  # of the environment


def main() -> None:
    """The window, or the command that is asked for."""
    words = sys.argv[1:]
    alone = not words or (len(words) == 2 and words[0] == "open" and words[1][:1] not in ("", "-"))
    if alone and not any(os.environ.get(one) for one in ASKS_MORE):
        _open(Path(words[1]) if words else None)
    from blunt_ruler.cli import main as run_command

    run_command()


def _open(logbook: Path | None) -> None:
    gc.disable()  # nothing that a start makes is garbage; `run_app` turns it on again
    try:
        from blunt_ruler.ui.app import run_app

        raise SystemExit(run_app(logbook))
    except Exception as error:
        from blunt_ruler.cli import say_fault

        say_fault(error)


if __name__ == "__main__":
    main()
