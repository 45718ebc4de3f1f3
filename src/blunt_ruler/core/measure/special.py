"""scipy's special functions without the package around them.

The package makes a variant of each function for arrays of other libraries, and to do so imports
most of numpy besides: 0.3 s of every start and of every worker, for functions that are compiled.
Here those alone are loaded. Where that does not go, as in another release, the package is.
"""

import sys
from importlib import import_module
from importlib.util import find_spec
from types import ModuleType
from typing import Any

from blunt_ruler.core.types import FloatArray

PACKAGE, COMPILED = "scipy.special", "scipy.special._ufuncs"


def load_functions() -> Any:
    """The module that has the functions, compiled alone or the whole package."""
    if PACKAGE in sys.modules:
        return import_module(PACKAGE)
    spec = find_spec(PACKAGE)
    stand_in = ModuleType(PACKAGE)
    stand_in.__path__ = list(spec.submodule_search_locations or ()) if spec else []
    sys.modules[PACKAGE] = stand_in
    try:
        return import_module(COMPILED)
    except ImportError:
        del sys.modules[PACKAGE]
        return import_module(PACKAGE)
    finally:  # whoever wants the package itself finds no trace of this
        if sys.modules.get(PACKAGE) is stand_in:
            del sys.modules[PACKAGE]


_functions = load_functions()
_zeta = getattr(_functions, "_zeta", None) or _functions.zeta

stdtrit = _functions.stdtrit
"""(freedom, p): Student's quantile."""
nctdtr = _functions.nctdtr
"""(freedom, noncentrality, t): the noncentral t's probability below t."""
chdtrc = _functions.chdtrc
"""(freedom, x): chi squared's probability above x."""
fdtrc = _functions.fdtrc
"""(freedom above, freedom below, x): F's probability above x."""
digamma = _functions.psi
"""(x): the derivative of log Γ."""


def trigamma(x: FloatArray | float) -> Any:
    """The derivative of digamma: ζ(2, x) (Abramowitz and Stegun 6.4.10)."""
    return _zeta(2.0, x)
