"""Pages as templates: autoescaped, and a name that is not given is an error."""

from functools import cache
from pathlib import Path
from typing import Any

from jinja2 import Environment, FunctionLoader, StrictUndefined

from blunt_ruler.core.text import THIN


def render(name: str, /, **given: Any) -> str:
    """A template of this folder, filled in."""
    page = _environment().get_template(name).render(**given)
    # Barlow has no narrow space, and what stands in for it is too narrow to be seen.
    return page.replace(THIN, "\u00a0")


@cache
def _environment() -> Environment:
    folder = Path(__file__).parent
    return Environment(
        autoescape=True,
        undefined=StrictUndefined,
        keep_trailing_newline=True,
        trim_blocks=False,
        loader=FunctionLoader(lambda name: folder.joinpath(name).read_text("utf-8")),
    )
