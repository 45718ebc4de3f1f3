"""Find the unknowns: robust weighted least squares on log rate, with their covariance."""

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from blunt_ruler.core.limits.cells import Cell, FittedLink, Measured, check_enough
from blunt_ruler.core.limits.model import (
    FIRST_FAMILY,
    PER_FAMILY,
    Q_LEAST,
    Layout,
    Places,
    Times,
    TitlePrior,
    bends_of,
    layout_of,
    link_slope,
    log_rate,
    places_of,
    slopes_of,
    times_of,
    weak_prior,
)
from blunt_ruler.core.limits.solve import Blocks, Slopes, soft_weights, solve
from blunt_ruler.core.types import FloatArray

NAMED_SHARE = 0.6  # a limit has a name from this share on, else it is mixed
FAULTY = 4.0  # residuals beyond so many of their own spread are named
ON_PRIOR = 0.7  # an unknown whose spread is over this share of its prior's was not narrowed
SURELY_NAMED, SURELY_MIXED = 0.8, 0.5  # shares that speak against "mixed", and against a name
DRAWS = 40
LIMITS = ("card", "CPU", "link")
MIXED, OPEN = "mixed", "open"
Z_80 = 1.2815516
LEAST_SCATTER, USUAL_SCATTER = 0.004, 0.012  # log rate: never trusted closer; with few cells
BENT_SCATTER = 0.05  # where every cell bends the fit to itself; set on the simulated bench
FEWEST_LEFT_OUT = 10
REFITTED = 1.55  # a refit without cells moves farther than its linear downdate says


@dataclass(frozen=True)
class Fit:
    """The unknowns as found, with everything that is asked of them.

    `x` holds logarithms in the order of `layout`; `covariance` is theirs; `titles` is what was
    held of titles before; `residuals` are measured over fitted, as logs; `places` are the
    measured cells among the unknowns. `scatter` is what the model is off by in a cell it has not
    seen, besides what the unknowns leave open: such that four in five hold.
    """

    measured: Measured
    layout: Layout
    titles: TitlePrior
    x: FloatArray
    covariance: FloatArray
    residuals: FloatArray
    weights: FloatArray
    places: Places
    scatter: float

    @cached_property
    def times(self) -> Times:
        """What the frames of the measured cells spend where."""
        return times_of(self.x, self.places)

    @property
    def exponent(self) -> float:
        """How sharply one part takes over from another: q."""
        return float(Q_LEAST + np.exp(self.x[1]))

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

    @cached_property
    def limit_names(self) -> tuple[str, ...]:
        """What holds each measured cell back: the limit whose share has a name, "mixed" where none
        has, "open" where the data leave that open.

        Asked of draws of the unknowns as far as they are known (seeded): what four in five say.
        """
        root = np.linalg.cholesky(self.covariance + 1e-12 * np.eye(self.layout.size))
        drawn = np.random.default_rng(0).standard_normal((DRAWS, self.layout.size)) @ root.T
        shares = np.stack([times_of(self.x + by, self.places).limits for by in drawn])
        whole = self.times.limits  # (3, n); of the draws (DRAWS, 3, n)
        at, each = whole.argmax(axis=0), np.arange(whole.shape[1])
        named = whole[at, each] > NAMED_SHARE
        agree = np.where(
            named, shares[:, at, each] > SURELY_MIXED, shares.max(axis=1) < SURELY_NAMED
        )
        told = np.where(named, np.array(LIMITS)[at], MIXED)
        return tuple(map(str, np.where(agree.mean(axis=0) >= 0.8, told, OPEN)))

    def limit_of(self, index: int) -> str:
        """The name of what holds a measured cell back."""
        return self.limit_names[index]

    def predict(self, places: Places) -> tuple[FloatArray, FloatArray, FloatArray]:
        """(rate, low, high) of some places, each shape (n,), frames per second, 80 % bounds."""
        times = times_of(self.x, places)
        rate = log_rate(self.x, places, times)
        variance = slopes_of(self.x, places, times).variances(self.covariance)
        felt = (places.link < 0) * link_slope(times) * places.link_spread
        half = Z_80 * np.sqrt(variance + self.scatter**2 + felt**2)
        return np.exp(rate), np.exp(rate - half), np.exp(rate + half)

    def places_for(self, cells: Sequence[Cell], links: Mapping[str, FittedLink]) -> Places:
        """Other cells as places; a link that is not in the data has its given bandwidth."""
        return places_of(self.layout, tuple(cells), {**self.measured.links, **links})


def limit_name(shares: FloatArray) -> str:
    """The limit whose share has a name, else "mixed"."""
    at = int(np.argmax(shares))
    return LIMITS[at] if shares[at] > NAMED_SHARE else MIXED


def fit_limits(
    measured: Measured,
    before: "Fit | None" = None,
    quick: bool = False,
    step: Callable[[], None] = lambda: None,
) -> Fit:
    """Fit the model to measured cells; TooLittle where they cannot tell.

    What titles ask for is learnt from the titles themselves, in turns with the fit (empirical
    Bayes). `before` is a fit of nearly the same cells, where this one starts to look: it ends at
    the same place without. A quick fit keeps what was learnt of titles before, and how far off
    the model was: for an answer at once, until the whole is done. `step` is called at each step of
    the search and may raise to stop it.
    """
    check_enough(measured)
    cells = measured.every
    rates = np.log([cell.average_fps for cell in cells])
    spread = np.array([cell.spread for cell in cells])
    weak = weak_prior(measured)
    turns = 1 if quick and before is not None else TURNS
    titles = before.titles if turns == 1 and before is not None else weak
    layout = layout_of(measured, titles)
    places = places_of(layout, cells, dict(measured.links))
    blocks = Blocks(FIRST_FAMILY, len(PER_FAMILY), len(layout.families))

    def model(x: FloatArray) -> tuple[FloatArray, Slopes]:
        step()
        times = times_of(x, places)
        off = (log_rate(x, places, times) - rates) / spread
        return off, slopes_of(x, places, times).scaled(1.0 / spread)

    def bends(x: FloatArray, pulls: FloatArray) -> FloatArray:
        return bends_of(x, places, pulls / spread)

    x = layout.prior.mean if before is None else _started(layout, before)
    for turn in range(turns):
        tolerance = TOLERANCE if turn == TURNS - 1 else ROUGHLY * (5.0 if turn == 0 else 1.0)
        x = solve(model, x, layout.prior, SOFT, tolerance, bends=bends, blocks=blocks)
        off, slopes = model(x)
        weights = soft_weights(off, SOFT)
        # Where cells scatter more than their repeats say, the unknowns are less sure by as much.
        inflate = max(1.0, float(np.sum(weights * off**2)) / rates.size)
        normal = slopes.normal(weights / inflate) + layout.prior.precision
        covariance = blocks.inverse(normal)
        if turn == turns - 1:
            break
        titles = learnt_prior(weak, layout, x, covariance)
        layout = layout_of(measured, titles)
    off = -off * spread
    if turns == 1 and before is not None:
        scatter = before.scatter
    else:
        scale = np.sqrt(weights / inflate) / spread
        design = slopes.scaled(np.sqrt(weights / inflate)).dense()
        scatter = _scatter(cells, design, covariance, off, spread, scale)
    own = slice(len(measured.cells))
    of_cells = (off[own], weights[own], places.taken(own))
    return Fit(measured, layout, titles, x, covariance, *of_cells, scatter)


def _started(layout: Layout, before: Fit) -> FloatArray:
    """Where unknowns of the same names ended before; the others at their prior."""
    known = dict(zip(before.layout.names, before.x, strict=True))
    prior = zip(layout.names, layout.prior.mean, strict=True)
    return np.array([known.get(name, mean) for name, mean in prior])


def learnt_prior(
    weak: TitlePrior, layout: Layout, x: FloatArray, covariance: FloatArray
) -> TitlePrior:
    """What titles ask for, learnt from those measured: one step of expectation and maximisation
    over their unknowns as found, in which the weak prior counts as some titles.
    """
    starts = [layout.family(name) for name in layout.families]
    found = np.array([x[start : start + 5] for start in starts])
    unsure = sum(covariance[start : start + 5, start : start + 5] for start in starts)
    count = len(starts)
    mean = (WEAK_MEAN * weak.mean + found.sum(axis=0)) / (WEAK_MEAN + count)
    off, moved = found - mean, weak.mean - mean
    spread = WEAK_SPREAD * weak.covariance + WEAK_MEAN * np.outer(moved, moved)
    spread = (spread + off.T @ off + unsure) / (WEAK_SPREAD + count)
    return TitlePrior(mean, np.asarray(spread), count)


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
    bent = float(np.sum((design @ covariance) * design)) / len(cells)
    least = max(LEAST_SCATTER, BENT_SCATTER * bent)  # residuals tell little of what was bent
    beyond: list[float] = []
    parts = [[getattr(cell, name) for cell in cells] for name in ("family", "host", "card")]
    counts = [Counter(one) for one in parts]
    for kind in ("link", "case"):
        groups: dict[str, list[int]] = {}
        for index, cell in enumerate(cells):
            groups.setdefault(str(getattr(cell, kind)), []).append(index)
        for group in groups.values():
            own = [Counter(one[index] for index in group) for one in parts]
            rows = design[group]
            hat = rows @ covariance @ rows.T
            left = np.eye(len(group)) - hat
            errors = np.linalg.solve(left, off[group] * scale[group]) / scale[group]
            unsure = np.diag(np.linalg.solve(left, hat)) / scale[group] ** 2
            for place, index in enumerate(group):
                if all(
                    count[one[index]] > left_out[one[index]]
                    for one, count, left_out in zip(parts, counts, own, strict=True)
                ):
                    more = (errors[place] / Z_80) ** 2 - unsure[place] - spread[index] ** 2
                    beyond.append(float(more))
    if len(beyond) < FEWEST_LEFT_OUT:
        return max(USUAL_SCATTER, least)
    return float(max(REFITTED * np.sqrt(max(np.quantile(beyond, 0.8), 0.0)), least))


TURNS = 4  # of fitting and learning what titles ask for
ROUGHLY, TOLERANCE = 1e-3, 1e-3  # of a logarithm, while still learning and at the end
WEAK_MEAN, WEAK_SPREAD = 1.0, 4.0  # the weak prior counts as so many titles
SOFT = 2.0  # residuals beyond so many spreads count less
