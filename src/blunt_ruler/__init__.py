"""Blunt Ruler: what a graphics card gained, what it lost, and what took it."""

import os
import sys

# `python -m blunt_ruler` looks for modules in the folder one stands in first: a file there that is
# named like a module would be run.
if sys.argv[:1] == ["-m"] and not sys.flags.safe_path and not __file__.startswith(sys.path[0]):
    del sys.path[0]

__version__ = "0.2.0"

# Looking for pydantic plugins means reading the metadata of every installed package: 20 ms of
# the window's start, for plugins this application does not use.
os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")
