"""Blunt Ruler: what a graphics card gained, what it lost, and what took it."""

import os

__version__ = "0.2.0"

# Looking for pydantic plugins means reading the metadata of every installed package: 20 ms of
# the window's start, for plugins this application does not use.
os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")
