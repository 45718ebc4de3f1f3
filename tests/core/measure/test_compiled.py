"""Special functions against scipy's own package, and against values of tables."""

import subprocess
import sys

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from blunt_ruler.core.measure import special
from blunt_ruler.core.measure.frames import _running_median
from blunt_ruler.core.measure.robust_line import medians_of
from blunt_ruler.core.measure.trimming import change_points


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


@pytest.mark.deep
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
        "print(own.stdtrit is theirs.stdtrit, own._functions is theirs)"
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


@pytest.mark.parametrize("frames", [*range(25, 60), 3000])
def test_the_running_median_is_that_of_the_package(frames):
    from scipy.ndimage import median_filter

    times_ms = np.random.default_rng(frames).lognormal(2.6, 0.3, 2 * frames)[::2]
    assert (_running_median(times_ms) == median_filter(times_ms, 49, mode="reflect")).all()


@pytest.mark.parametrize("frames", range(1, 25))
def test_the_running_median_of_few_frames_mirrors_them_as_often_as_it_takes(frames):
    # The package does not: of 2 frames it has the same median for both.
    times_ms = np.random.default_rng(frames).lognormal(2.6, 0.3, frames)
    there_and_back = [*times_ms, *times_ms[::-1]]
    expected = [
        np.median([there_and_back[at % (2 * frames)] for at in range(middle - 24, middle + 25)])
        for middle in range(frames)
    ]
    assert list(_running_median(times_ms)) == expected


def test_the_running_median_where_the_package_is_there():
    frames = 3000
    said = run(
        "import scipy.ndimage, numpy as np\n"
        "from blunt_ruler.core.measure.frames import _running_median\n"
        f"print(_running_median(np.arange({frames}.0)).sum())"
    )
    assert float(said) == _running_median(np.arange(float(frames))).sum()


def test_change_points_are_those_of_the_package():
    import ruptures

    rng = np.random.default_rng(3)
    for size in (*range(6, 40), 300, 600):
        levels = rng.normal(0.0, 0.1, size) + np.repeat([0.0, 1.0, -0.5], size)[::3][:size]
        theirs = ruptures.KernelCPD(kernel="linear", min_size=2).fit(levels.reshape(-1, 1))
        assert change_points(levels, 0.6) == theirs.predict(pen=0.6)[:-1], size
    levels_text = ", ".join(map(str, levels))
    said = run(
        "import ruptures, numpy as np\n"
        "from blunt_ruler.core.measure.trimming import change_points\n"
        f"print(change_points(np.array([{levels_text}]), 0.6))"
    )
    assert said == str(change_points(levels, 0.6))


@given(st.lists(st.integers(-50, 50), min_size=1, max_size=80), st.data())
def test_medians_of_stretches_are_those_of_each(values, data):
    inside = data.draw(st.sets(st.integers(1, len(values)), max_size=len(values)))
    starts = np.array([0, *sorted(inside - {len(values)})])
    each = [np.median(part) for part in np.split(np.array(values), starts[1:])]
    assert list(medians_of(np.array(values, dtype=float), starts)) == each
