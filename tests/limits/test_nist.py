"""The least-squares machinery against certified problems of NIST StRD, from the second start."""

import re
from pathlib import Path

import numpy as np
import pytest
from scipy.optimize._numdiff import approx_derivative

from blunt_ruler.core.limits.solve import Blocks, Known, Slopes, solve

FOLDER = Path(__file__).parent / "nist"
MODELS = {
    "Misra1a": lambda b, x: b[0] * (1 - np.exp(-b[1] * x)),
    "Thurber": lambda b, x: (
        (b[0] + b[1] * x + b[2] * x**2 + b[3] * x**3) / (1 + b[4] * x + b[5] * x**2 + b[6] * x**3)
    ),
    "MGH09": lambda b, x: b[0] * (x**2 + x * b[1]) / (x**2 + x * b[2] + b[3]),
    "Rat43": lambda b, x: b[0] / (1 + np.exp(b[1] - b[2] * x)) ** (1 / b[3]),
    "Eckerle4": lambda b, x: b[0] / b[1] * np.exp(-0.5 * ((x - b[2]) / b[1]) ** 2),
    "BoxBOD": lambda b, x: b[0] * (1 - np.exp(-b[1] * x)),
    "DanWood": lambda b, x: b[0] * x ** b[1],
}


def problem(name):
    """(second start, certified values, y, x) of a file."""
    lines = (FOLDER / f"{name}.dat").read_text("latin-1").splitlines()
    rows = [line.split() for line in lines if re.match(r"\s*b\d+ =", line)]
    starts = np.array([float(row[3]) for row in rows])
    certified = np.array([float(row[4]) for row in rows])
    first = int(re.search(r"Data\s*\(lines\s*(\d+)", "\n".join(lines)).group(1))
    data = np.array(
        [[float(v) for v in line.split()] for line in lines[first - 1 :] if line.strip()]
    )
    return starts, certified, data[:, 0], data[:, 1]


@pytest.mark.parametrize("name", MODELS)
def test_certified_values_are_reached_to_six_digits(name):
    start, certified, y, x = problem(name)
    model = MODELS[name]

    def residuals(b):
        return model(b, x) - y

    def at(b):
        slopes = approx_derivative(residuals, b, method="cs")
        every = np.tile(np.arange(b.size), (x.size, 1))
        return residuals(b), Slopes(Known(every, b.size), slopes)

    found = solve(at, start, tolerance=1e-12, least=0.0)
    assert found == pytest.approx(certified, rel=1e-6)


@pytest.mark.parametrize(("many", "others"), [(1, 3), (4, 6), (40, 17)])
def test_blocks_are_solved_as_the_whole_matrix_is(many, others):
    rng = np.random.default_rng(many)
    first, width = 3, 5
    size = width * many + others
    rows = rng.normal(size=(6 * size, size))  # each knows one group, and all of the others
    group = rng.integers(0, many, len(rows))
    inside = np.arange(first, first + width * many)
    rows[:, inside] *= ((inside - first) // width) == group[:, None]
    normal, down = rows.T @ rows + np.eye(size), rng.normal(size=size)
    blocks = Blocks(first, width, many)
    assert blocks.solved(normal, down) == pytest.approx(np.linalg.solve(normal, down), rel=1e-9)
    assert blocks.inverse(normal) == pytest.approx(np.linalg.inv(normal), rel=1e-9, abs=1e-12)


def test_what_rows_leave_open_is_that_of_the_dense_matrix():
    rng = np.random.default_rng(3)
    at = np.array([rng.permutation(np.arange(-1, 12))[:6] for _ in range(50)])
    known, several = Known(at, 12), rng.normal(size=(4, 50, 6))
    root = rng.normal(size=(12, 12))
    covariance = root @ root.T
    dense = [Slopes(known, one).dense() for one in several]
    expected = [np.einsum("ni,ij,nj->n", one, covariance, one) for one in dense]
    assert Slopes(known, several).variances(covariance) == pytest.approx(np.array(expected))
    assert Slopes(known, several[1]).variances(covariance) == pytest.approx(expected[1])
