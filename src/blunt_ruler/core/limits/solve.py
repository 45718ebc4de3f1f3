"""Least squares with known slopes, a Gaussian prior and a soft loss, by Levenberg and Marquardt.

Written here rather than taken from scipy because each measured cell knows a dozen of hundreds of
unknowns: the normal equations of such rows cost a hundredth of the dense factors that scipy's
trust region takes at every step. Steps are scaled by the curvature (Marquardt 1963) and shortened
by the gain ratio (Nielsen 1999); the soft loss is reweighted at every step. Where a residual bends
a cell's slope upwards, that curvature is added (Dennis, Gay and Welsch's augmented Gauss–Newton):
without it an unknown that hardly matters creeps for hundreds of steps.
"""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np

from blunt_ruler.core.types import FloatArray

MOST_STEPS = 400
FIRST_DAMPING, HARDLY_DAMPED, MOST_DAMPING = 1e-3, 0.1, 1e16
BENDS_LAST = 3  # steps
NEAR = 0.1  # a step that moves no logarithm by more
TOO_CAREFUL, FARTHEST = 1.3, 10.0  # gain over what was foreseen, and how far a step is stretched


@dataclass(frozen=True)
class Known:
    """Which of `size` unknowns each of n rows knows, shape (n, p), −1 for none."""

    at: np.ndarray
    size: int

    @cached_property
    def flat(self) -> np.ndarray:
        """Where each stands in a vector of the unknowns behind one that takes what is none."""
        return np.asarray(self.at.ravel() + 1)

    @cached_property
    def pairs(self) -> np.ndarray:
        """Where each two of a row stand in a matrix of the same, row by row."""
        at = self.at + 1
        return np.asarray((at[:, :, None] * (self.size + 1) + at[:, None, :]).ravel())


@dataclass(frozen=True, slots=True)
class Slopes:
    """A matrix of n rows that each know a few unknowns: how their residual answers to these,
    shape (n, p), or several that know the same, shape (k, n, p).
    """

    known: Known
    values: FloatArray

    def dense(self) -> FloatArray:
        """The whole matrix J, shape (n, size)."""
        at = self.known.at
        out = np.zeros((at.shape[0], self.known.size + 1))  # the last takes what has no unknown
        np.put_along_axis(out, at, self.values, axis=1)
        return out[:, :-1]

    def scaled(self, by: FloatArray) -> "Slopes":
        """Each row times a number, shape (n,)."""
        return Slopes(self.known, self.values * by[:, None])

    def variances(self, covariance: FloatArray) -> FloatArray:
        """Of each row, jᵀCj, shape (n,) or (k, n): what unknowns with covariance C leave open."""
        at = self.known.at
        padded = np.pad(covariance, (0, 1))  # the last, for what has no unknown, is 0
        each = padded[at[:, :, None], at[:, None, :]]
        rows = np.atleast_3d(self.values.T).transpose(1, 2, 0)  # (n, k, p), for BLAS
        found = np.asarray(((rows @ each) * rows).sum(axis=2).T)
        return found.reshape(self.values.shape[:-1])

    def pull(self, residuals: FloatArray) -> FloatArray:
        """Jᵀr, shape (size,)."""
        each = self.values * residuals[:, None]
        return np.asarray(np.bincount(self.known.flat, each.ravel(), self.known.size + 1)[1:])

    def normal(self, weights: FloatArray) -> FloatArray:
        """JᵀWJ, shape (size, size)."""
        wide = self.known.size + 1
        each = (self.values * weights[:, None])[:, :, None] * self.values[:, None, :]
        whole = np.bincount(self.known.pairs, each.ravel(), wide**2)
        return np.asarray(whole.reshape(wide, wide)[1:, 1:])


Model = Callable[[FloatArray], tuple[FloatArray, Slopes]]
"""(residuals of shape (n,), their slopes) at some unknowns."""

Bends = Callable[[FloatArray, FloatArray], FloatArray]
"""Σᵢ pullᵢ · ∂²rᵢ/∂x² for unknowns x and pulls of shape (n,): one for each, 0 where small."""


@dataclass(frozen=True, slots=True)
class Prior:
    """What is held of the unknowns before: mean, shape (n,), and precision, shape (n, n)."""

    mean: FloatArray
    precision: FloatArray


class Blocks(NamedTuple):
    """Unknowns that stand in groups of `width`, `many` of them from `first` on, of which no row
    knows two: their part of the normal matrix is blocks on its diagonal.
    """

    first: int
    width: int
    many: int

    def solved(self, normal: FloatArray, down: FloatArray) -> FloatArray:
        """x of Ax = b for such a matrix A, shape (size, size): the blocks are taken out one by one
        and what is left of the others is solved (Schur complement).
        """
        of, rest, blocks, beside = self._apart(normal)
        given = np.concatenate([beside, down[of].reshape(self.many, self.width, 1)], axis=2)
        apart = np.linalg.solve(blocks, given)
        taken = np.tensordot(beside, apart, axes=((0, 1), (0, 1)))
        x = np.empty(down.size)
        x[rest] = np.linalg.solve(
            normal[np.ix_(rest, rest)] - taken[:, :-1], down[rest] - taken[:, -1]
        )
        x[of] = (apart[:, :, -1] - apart[:, :, :-1] @ x[rest]).ravel()
        return x

    def inverse(self, normal: FloatArray) -> FloatArray:
        """A⁻¹ of such a matrix, by the same way."""
        of, rest, blocks, beside = self._apart(normal)
        apart = np.linalg.solve(blocks, beside)
        taken = np.tensordot(beside, apart, axes=((0, 1), (0, 1)))
        apart = apart.reshape(-1, rest.size)
        of_rest = np.linalg.inv(normal[np.ix_(rest, rest)] - taken)
        across = -apart @ of_rest
        found = np.empty(normal.shape)
        found[np.ix_(rest, rest)] = of_rest
        found[of, rest], found[rest, of] = across, across.T
        found[of, of] = -across @ apart.T
        each, shape = np.arange(self.many), (self.many, self.width)
        found[of, of].reshape(*shape, *shape)[each, :, each] += np.linalg.inv(blocks)
        return found

    def _apart(self, normal: FloatArray) -> tuple[slice, np.ndarray, FloatArray, FloatArray]:
        """(where the groups stand, where the others do, the blocks, what stands beside them)."""
        of = slice(self.first, self.first + self.width * self.many)
        rest = np.r_[0 : of.start, of.stop : len(normal)]
        each, shape = np.arange(self.many), (self.many, self.width)
        blocks = normal[of, of].reshape(*shape, *shape)[each, :, each]
        return of, rest, blocks, normal[of, rest].reshape(*shape, rest.size)


def soft_weights(residuals: FloatArray, soft: float | None) -> FloatArray:
    """Weights (1 + (r/s)²)^−½ of the soft loss 2s²(√(1 + (r/s)²) − 1); ones without it."""
    if soft is None:
        return np.ones_like(residuals)
    return np.asarray((1.0 + (residuals / soft) ** 2) ** -0.5)


def _cost(residuals: FloatArray, soft: float | None) -> float:
    if soft is None:
        return float(residuals @ residuals)
    return float(np.sum(2.0 * soft**2 * (np.sqrt(1.0 + (residuals / soft) ** 2) - 1.0)))


def solve(
    model: Model,
    start: FloatArray,
    prior: Prior | None = None,
    soft: float | None = None,
    tolerance: float = 1e-6,
    least: float = 1.0,
    bends: Bends | None = None,
    blocks: Blocks | None = None,
    enough: float = 0.0,
) -> FloatArray:
    """The unknowns of the least cost from a start, until a step moves none by over `tolerance` of
    itself, or of `least` for smaller ones: logarithms are held to 1. Or until a step that is hardly
    damped lowers the cost by no more than `enough`: 1 is one standard error of one unknown.
    """
    solved = np.linalg.solve if blocks is None else blocks.solved
    x = np.array(start, dtype=np.float64)
    held = Prior(x, np.zeros((x.size, x.size))) if prior is None else prior

    def cost_of(x: FloatArray, residuals: FloatArray) -> float:
        off = x - held.mean
        return _cost(residuals, soft) + float(off @ held.precision @ off)

    residuals, slopes = model(x)
    cost = cost_of(x, residuals)
    damping, growth = FIRST_DAMPING, 2.0
    bent, is_near = np.zeros(x.size), False
    for number in range(MOST_STEPS):
        weights = soft_weights(residuals, soft)
        # Near the foot by the true curvature of the soft loss, w³; it is too flat far from it.
        normal = slopes.normal(weights**3 if is_near else weights) + held.precision
        down = -slopes.pull(weights * residuals) - held.precision @ (x - held.mean)
        if bends is not None:
            if number % BENDS_LAST == 0:  # they change slowly, and cost most
                bent = np.maximum(bends(x, weights * residuals), 0.0)
            normal += np.diag(bent)
        scale = np.maximum(np.diag(normal), 1e-300)
        while True:
            step = solved(normal + np.diag(damping * scale), down)
            with np.errstate(all="ignore"):
                then, (r_then, s_then) = x + step, model(x + step)
                cost_then = cost_of(then, r_then)
            if np.isfinite(cost_then) and cost_then <= cost:
                break
            if damping > MOST_DAMPING:
                return x
            damping, growth = damping * growth, growth * 2.0
        ratio = (cost - cost_then) / max(float(step @ (damping * scale * step + down)), 1e-300)
        damping, growth = damping * max(1.0 / 3.0, 1.0 - (2.0 * ratio - 1.0) ** 3), 2.0
        if ratio > TOO_CAREFUL:  # along the step the cost bends less than was held: go to its foot
            step = step * min(1.0 / max(2.0 - ratio, 1e-9), FARTHEST)
            with np.errstate(all="ignore"):
                far = model(x + step)
                cost_far = cost_of(x + step, far[0])
            if np.isfinite(cost_far) and cost_far < cost_then:
                then, (r_then, s_then), cost_then = x + step, far, cost_far
            else:
                step = then - x
        gained, is_near = cost - cost_then, float(np.max(np.abs(step))) < NEAR * least
        x, residuals, slopes, cost = then, r_then, s_then, cost_then
        if gained <= enough and damping < HARDLY_DAMPED:
            return x
        if np.all(np.abs(step) <= tolerance * np.maximum(np.abs(x), least)):
            return x
    return x
