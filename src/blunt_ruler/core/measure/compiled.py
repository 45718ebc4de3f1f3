"""Compiled parts of libraries without the packages around them.

scipy's packages make a variant of each function for arrays of other libraries, and to do so import
most of numpy besides; those of ruptures import most of scipy. Beyond numpy's own import,
`scipy.special` took 0.29 s on one machine and its compiled part 0.04 s, in every start and every
worker. Here the compiled part alone is loaded. Where that does not go, as in another release, the
package is.
"""

import sys
from importlib import import_module
from importlib.util import find_spec
from types import ModuleType
from typing import Any


def compiled(part: str, *packages: str) -> Any:
    """The module `part` without running its `packages`, given from the outside in; the first of
    them itself where it is loaded already or has no such part.

    Called as this application's modules are imported, before anything else can want the packages.
    """
    first = packages[0]
    if first in sys.modules:
        return import_module(first)
    stand_ins = {}
    try:
        for package in packages:
            spec = find_spec(package)
            stand_in = ModuleType(package)
            stand_in.__path__ = list(spec.submodule_search_locations or ()) if spec else []
            sys.modules[package] = stand_ins[package] = stand_in
        return import_module(part)
    except (ImportError, ValueError):
        pass
    finally:  # whoever wants the packages themselves finds no trace of this
        for name, stand_in in stand_ins.items():
            if sys.modules.get(name) is stand_in:
                del sys.modules[name]
    return import_module(first)
