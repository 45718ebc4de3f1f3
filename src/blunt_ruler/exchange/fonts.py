"""The shipped Barlow as files, for whatever draws or prints; `letters` has what it lacks."""

from collections.abc import Iterator
from contextlib import contextmanager
from importlib.resources import as_file, files
from pathlib import Path


@contextmanager
def font_file(weight: int) -> Iterator[Path]:
    """The TrueType file of Barlow in a weight (400, 500, 600 or 700)."""
    name = f"barlow-latin-{weight}-normal.ttf"
    with as_file(files("blunt_ruler").joinpath("resources", "fonts", name)) as path:
        yield path
