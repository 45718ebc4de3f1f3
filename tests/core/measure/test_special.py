"""Special functions against scipy's own package, and against values of tables."""

import subprocess
import sys

import numpy as np
import pytest

from blunt_ruler.core.measure import special


def run(code: str) -> str:
    return subprocess.run(
        [sys.executable, "-c", code], capture_output=True, text=True, check=True
    ).stdout.strip()


def test_values_of_tables():
    # Student's 97.5 % quantile for 4 degrees of freedom, chi squared's and F's 95 % points: the
    # tables of the NIST/SEMATECH e-Handbook of Statistical Methods, 1.3.6.7.
    assert special.stdtrit(4, 0.975) == pytest.approx(2.776, abs=5e-4)
    assert special.chdtrc(3, 7.815) == pytest.approx(0.05, abs=5e-5)
    assert special.fdtrc(2, 10, 4.103) == pytest.approx(0.05, abs=5e-5)
    # ψ(1) = −γ and ψ′(1) = π²/6 (Abramowitz and Stegun 6.3.2, 6.4.2).
    assert special.digamma(1.0) == pytest.approx(-0.5772156649015329)
    assert special.trigamma(1.0) == pytest.approx(np.pi**2 / 6)


def test_the_package_comes_whole_after_them_and_agrees():
    said = run(
        "from blunt_ruler.core.measure import special as own\n"
        "import sys; print('scipy.special' in sys.modules)\n"
        "import scipy.special as theirs, scipy.ndimage, scipy.optimize, scipy.signal\n"
        "x = [0.5, 1.0, 7.25]\n"
        "print((own.trigamma(x) == theirs.polygamma(1, x)).all(), own.stdtrit is theirs.stdtrit)\n"
    )
    assert said.split() == ["False", "True", "True"]


def test_the_package_serves_where_it_is_there_or_the_compiled_part_is_not():
    first = run(
        "import scipy.special as theirs\n"
        "from blunt_ruler.core.measure import special as own\n"
        "print(own.stdtrit is theirs.stdtrit, own.load_functions() is theirs)"
    )
    assert first.split() == ["True", "True"]
    other = run(
        "import sys; sys.modules['scipy.special._ufuncs'] = None\n"
        "from types import ModuleType\n"
        "import blunt_ruler.core.types, importlib\n"
        "real = importlib.import_module\n"
        "package = ModuleType('whole')\n"
        "package.__dict__.update(dict.fromkeys("
        "('stdtrit', 'nctdtr', 'chdtrc', 'fdtrc', 'psi', 'zeta'), abs))\n"
        "importlib.import_module = "
        "lambda name: package if name == 'scipy.special' else real(name)\n"
        "from blunt_ruler.core.measure import special as own\n"
        "print(own.stdtrit is abs, 'scipy.special' in sys.modules)"
    )
    assert other.split() == ["True", "False"]
