"""scipy's special functions, in the words of the field."""

from typing import Any

from blunt_ruler.core.measure.compiled import compiled
from blunt_ruler.core.types import FloatArray

_functions = compiled("scipy.special._ufuncs", "scipy.special")
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
