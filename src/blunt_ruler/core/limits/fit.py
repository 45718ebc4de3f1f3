"""Find the unknowns: robust weighted least squares on log rate, with their covariance."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from blunt_ruler.core.limits.cells import Cell, FittedLink, Measured, check_enough
from blunt_ruler.core.limits.model import (
    Layout,
    Places,
    Times,
    jacobian,
    layout_of,
    link_slope,
    log_rate,
    places_of,
    times_of,
)
from blunt_ruler.core.types import FloatArray

NAMED_SHARE = 0.6  # a limit has a name from this share on, else it is mixed
FAULTY = 4.0  # residuals beyond so many of their own spread are named
ON_PRIOR = 0.7  # an unknown whose spread is over this share of its prior's was not narrowed
LIMITS = ("card", "CPU", "link")
Z_80 = 1.2815516
LEAST_SCATTER, USUAL_SCATTER = 0.004, 0.012  # log rate: never trusted closer; with few cells
BENT_SCATTER = 0.05  # where every cell bends the fit to itself; set on the simulated bench
FEWEST_LEFT_OUT = 10
REFITTED = 1.55  # a refit without cells moves farther than its linear downdate says


@dataclass(frozen=True)
class Fit:
    """The unknowns as found, with everything that is asked of them.

    `x` holds logarithms in the order of `layout`; `covariance` is theirs; `residuals` are
    measured over fitted, as logs. `scatter` is what the model is off by in a cell it has not
    seen, besides what the unknowns leave open: such that four in five hold.
    """

    measured: Measured
    layout: Layout
    x: FloatArray
    covariance: FloatArray
    residuals: FloatArray
    weights: FloatArray
    scatter: float = USUAL_SCATTER

    @cached_property
    def places(self) -> Places:
        """The measured cells as places in the unknowns."""
        return places_of(self.layout, self.measured.cells, dict(self.measured.links))

    @cached_property
    def times(self) -> Times:
        """What the frames of the measured cells spend where."""
        return times_of(self.x, self.places)

    @property
    def exponent(self) -> float:
        """How sharply one part takes over from another: q."""
        return self.times.q

    @property
    def rests_on_prior(self) -> tuple[str, ...]:
        """Unknowns that the data did not narrow."""
        found = np.sqrt(np.diag(self.covariance)) > ON_PRIOR * self.layout.spread
        return tuple(name for name, on in zip(self.layout.names, found, strict=True) if on)

    @property
    def faulty(self) -> tuple[int, ...]:
        """Cells that fit so badly that they counted little: look at them first."""
        scale = max(float(np.median(np.abs(self.residuals))) * 1.4826, 0.01)
        return tuple(int(i) for i in np.flatnonzero(np.abs(self.residuals) > FAULTY * scale))

    def limit_of(self, index: int) -> str:
        """The name of what holds a measured cell back."""
        return limit_name(self.times.limits[:, index])

    def predict(self, places: Places) -> tuple[FloatArray, FloatArray, FloatArray]:
        """(rate, low, high) of some places, each shape (n,), frames per second, 80 % bounds."""
        rate = log_rate(self.x, places)
        slopes = jacobian(self.x, places)
        variance = np.einsum("ij,jk,ik->i", slopes, self.covariance, slopes)
        felt = (places.link < 0) * link_slope(times_of(self.x, places)) * places.link_spread
        half = Z_80 * np.sqrt(variance + self.scatter**2 + felt**2)
        return np.exp(rate), np.exp(rate - half), np.exp(rate + half)

    def places_for(self, cells: Sequence[Cell], links: Mapping[str, FittedLink]) -> Places:
        """Other cells as places; a link that is not in the data has its given bandwidth."""
        return places_of(self.layout, tuple(cells), {**self.measured.links, **links})


def limit_name(shares: FloatArray) -> str:
    """The limit whose share has a name, else "mixed"."""
    at = int(np.argmax(shares))
    return LIMITS[at] if shares[at] > NAMED_SHARE else "mixed"


def solve(
    residuals: Callable[[FloatArray], FloatArray],
    start: FloatArray,
    slopes: Callable[[FloatArray], FloatArray],
    loss: Callable[[FloatArray], FloatArray] | str = "linear",
    tolerance: float = 1e-6,
    scale: float | str = "jac",
) -> FloatArray:
    """Least squares from a start with known slopes, by scipy's trust region.

    `scale` says how far apart the unknowns lie: by the slopes, or 1 for logarithms.
    """
    from scipy.optimize import least_squares  # slow to import

    found = least_squares(
        residuals,
        start,
        jac=slopes,
        loss=loss,
        method="trf",
        x_scale=scale,
        max_nfev=400,
        ftol=tolerance,
        xtol=tolerance,
        gtol=tolerance,
    )
    return np.asarray(found.x, dtype=np.float64)


def fit_limits(measured: Measured) -> Fit:
    """Fit the model to measured cells; TooLittle where they cannot tell."""
    check_enough(measured)
    layout = layout_of(measured)
    places = places_of(layout, measured.cells, dict(measured.links))
    rates = measured.log_rates()
    spread = np.array([cell.spread for cell in measured.cells])
    n = rates.size

    def residuals(x: FloatArray) -> FloatArray:
        off = (rates - log_rate(x, places)) / spread
        return np.concatenate([off, (x - layout.prior) / layout.spread])

    def slopes(x: FloatArray) -> FloatArray:
        data = -jacobian(x, places) / spread[:, None]
        return np.concatenate([data, np.diag(1.0 / layout.spread)])

    def robust(z: FloatArray) -> FloatArray:
        """Soft loss for the cells, plain squares for the priors; z holds squares."""
        out = np.empty((3, z.size))
        t = 1.0 + z[:n] / SOFT**2
        out[0, :n] = 2.0 * SOFT**2 * (np.sqrt(t) - 1.0)
        out[1, :n] = t**-0.5
        out[2, :n] = -0.5 / SOFT**2 * t**-1.5
        out[0, n:], out[1, n:], out[2, n:] = z[n:], 1.0, 0.0
        return out

    found_x = solve(residuals, layout.prior, slopes, robust, scale=1.0)
    off = rates - log_rate(found_x, places)
    weights = np.asarray((1.0 + (off / spread / SOFT) ** 2) ** -0.5, dtype=np.float64)
    final = slopes(found_x)
    final[:n] *= np.sqrt(weights)[:, None]
    # Where cells scatter more than their repeats say, the unknowns are less sure by as much.
    inflate = max(1.0, float(np.sum(weights * (off / spread) ** 2)) / n)
    final[:n] /= np.sqrt(inflate)
    covariance = np.asarray(np.linalg.inv(final.T @ final), dtype=np.float64)
    scale = np.sqrt(weights / inflate) / spread
    scatter = _scatter(measured.cells, final[:n], covariance, off, spread, scale)
    return Fit(measured, layout, found_x, covariance, off, weights, scatter)


def _scatter(
    cells: Sequence[Cell],
    design: FloatArray,
    covariance: FloatArray,
    off: FloatArray,
    spread: FloatArray,
    scale: FloatArray,
) -> float:
    """How far cells that were not fitted lie from a fit, besides what its unknowns and the cells'
    own repeats leave open: such that four in five lie within 80 % bounds.

    Every link and every case is left out in turn, by the downdate of the linear fit (Cook and
    Weisberg's deletion residuals, (I − h)⁻¹e); `scale` turns logs into rows of the design.
    """
    bent = float(np.einsum("ij,jk,ik->", design, covariance, design)) / len(cells)
    least = max(LEAST_SCATTER, BENT_SCATTER * bent)  # residuals tell little of what was bent
    beyond: list[float] = []
    for kind in ("link", "case"):
        groups: dict[str, list[int]] = {}
        for index, cell in enumerate(cells):
            groups.setdefault(str(getattr(cell, kind)), []).append(index)
        for group in groups.values():
            rest = set(range(len(cells))).difference(group)
            known = [{getattr(cells[i], name) for i in rest} for name in ("family", "host", "card")]
            rows = design[group]
            hat = rows @ covariance @ rows.T
            left = np.eye(len(group)) - hat
            errors = np.linalg.solve(left, off[group] * scale[group]) / scale[group]
            unsure = np.diag(np.linalg.solve(left, hat)) / scale[group] ** 2
            for place, index in enumerate(group):
                parts = (cells[index].family, cells[index].host, cells[index].card)
                if all(part in there for part, there in zip(parts, known, strict=True)):
                    own = (errors[place] / Z_80) ** 2 - unsure[place] - spread[index] ** 2
                    beyond.append(float(own))
    if len(beyond) < FEWEST_LEFT_OUT:
        return max(USUAL_SCATTER, least)
    return float(max(REFITTED * np.sqrt(max(np.quantile(beyond, 0.8), 0.0)), least))


SOFT = 2.0  # residuals beyond so many spreads count less
