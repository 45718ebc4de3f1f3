"""The knowledge of troubles, read from the file that ships with the application."""

import tomllib
from functools import cache

from blunt_ruler.core.trouble.knowledge import Knowledge
from blunt_ruler.files import shipped


@cache
def knowledge() -> Knowledge:
    """All of `resources/trouble.toml`."""
    body = shipped("resources", "trouble.toml").read_text("utf-8")
    return Knowledge.model_validate(tomllib.loads(body))
