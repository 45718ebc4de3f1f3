"""Entry of the `blunt-ruler` command, and of `python -m blunt_ruler`.

What the menu and a double click start, the window alone or with files, waits for nothing that
other commands need. `blunt-ruler FILE` is `blunt-ruler open FILE`.
"""

import gc
import os
import sys
from pathlib import Path

ASKS_MORE = ("BLUNT_RULER_DEBUG", "_BLUNT_RULER_COMPLETE")  # of the environment


def main() -> None:
    """The window, or the command that is asked for."""
    words = sys.argv[1:]
    if words and _is_file(words[0]):
        words = ["open", *words]
        sys.argv.insert(1, "open")
    alone = words[:1] in ([], ["open"]) and all(word[:1] not in ("", "-") for word in words)
    if alone and not any(os.environ.get(one) for one in ASKS_MORE):
        _open([Path(word) for word in words[1:]])
    from blunt_ruler.cli import main as run_command

    run_command()


def _is_file(word: str) -> bool:
    """Whether a word is the path of a file or folder, which no command looks like."""
    return word[:1] != "-" and (os.sep in word or bool(Path(word).suffix))


def _open(files: list[Path]) -> None:
    gc.disable()  # nothing that a start makes is garbage; `run_app` turns it on again
    try:
        from blunt_ruler.ui.shell.app import run_app

        raise SystemExit(run_app(files))
    except Exception as error:
        from blunt_ruler.cli import say_fault

        say_fault(error)


if __name__ == "__main__":
    main()
