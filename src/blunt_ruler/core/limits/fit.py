"""Find the unknowns: robust weighted least squares on log rate, with their covariance."""

import math
from collections.abc import Callable, Iterator, Mapping, Sequence
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
BENT_SCATTER = 0.018  # where every cell bends the fit to itself; set on the simulated bench
FEWEST_LEFT_OUT = 10
OTHER_SIZE, OTHER_SIZE_CELLS = 0.015, 20  # log rate per ln of pixels, until so many cells tell
NARROWER = 0.2  # log rate per ln of bandwidth below the narrowest; both set on simulated benches


@dataclass(frozen=True)
class Fit:
    """The unknowns as found, with everything that is asked of them.

    `x` holds logarithms in the order of `layout`; `covariance` is theirs; `titles` is what was
    held of titles before; `residuals` are measured over fitted, as logs; `places` are the
    measured cells among the unknowns. `error` is what the model is off by in a cell it is fitted
    to, `scatter` in one it has not seen, besides what the unknowns leave open, such that four in
    five hold: both where the link is not felt; `per_size` is what it is off by more for each ln of
    pixels beyond the sizes of a title.
    """

    measured: Measured
    layout: Layout
    titles: TitlePrior
    x: FloatArray
    covariance: FloatArray
    residuals: FloatArray
    weights: FloatArray
    places: Places
    error: float
    scatter: float
    per_size: float

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

    def drawn(self, count: int) -> FloatArray:
        """How far off the unknowns may be as far as they are known, seeded, shape (count, size)."""
        root = np.linalg.cholesky(self.covariance + 1e-12 * np.eye(self.layout.size))
        normal = np.random.default_rng(0).standard_normal((count, self.layout.size))
        return np.asarray(normal @ root.T)

    @cached_property
    def limit_names(self) -> tuple[str, ...]:
        """What holds each measured cell back: the limit whose share has a name, "mixed" where none
        has, "open" where the data leave that open.

        Asked of draws of the unknowns as far as they are known (seeded): what four in five say.
        """
        drawn = self.x + self.drawn(DRAWS)
        shares = np.stack([times_of(x, self.places).limits for x in drawn])
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

    def predict(
        self, places: Places, noise: FloatArray | float = 0.0
    ) -> tuple[FloatArray, FloatArray, FloatArray]:
        """(rate, low, high) of some places, each shape (n,), frames per second, 80 % bounds.

        Bounds are of what many passes would come to; `noise`, as a log, adds what a figure still
        to be measured is off by. They widen by √(share of the link) · ln(B₀/B) below the narrowest
        bandwidth B₀ that was measured: there a link may begin to limit what it did not before.
        """
        times = times_of(self.x, places)
        rate = log_rate(self.x, places, times)
        variance = slopes_of(self.x, places, times).variances(self.covariance)
        slope = link_slope(times)
        felt = (places.link < 0) * slope * places.link_spread
        beyond = NARROWER * self._below_narrowest(places) * np.sqrt(slope)
        beyond = np.hypot(beyond, self.per_size * self._beyond_sizes(places))
        variance = variance + self.off_by(slope) + felt**2 + beyond**2 + np.square(noise)
        half = Z_80 * np.sqrt(variance)
        return np.exp(rate), np.exp(rate - half), np.exp(rate + half)

    def off_by(self, slope: FloatArray) -> FloatArray:
        """What the model is off by in cells it has not seen, as the variance of a log rate, from
        their `link_slope`.
        """
        return np.asarray(self.scatter**2 * _larger(slope))

    def _below_narrowest(self, places: Places) -> FloatArray:
        """How far each link lies below the narrowest that was measured, ln; 0 for the others."""
        known = np.append(self.x, 0.0)
        asked = np.where(places.link >= 0, known[places.link], places.bandwidth)
        measured = known[self.places.link]
        return np.asarray(np.maximum(measured.min() - asked - np.log(places.road_factor), 0.0))

    def _beyond_sizes(self, places: Places) -> FloatArray:
        """How far each size lies outside those that its title was measured at, ln of the pixels."""
        sizes, asked = np.log(self.places.megapixels), np.log(places.megapixels)
        least, most = np.full(self.layout.size, np.inf), np.full(self.layout.size, -np.inf)
        np.minimum.at(least, self.places.family, sizes)
        np.maximum.at(most, self.places.family, sizes)
        outside = np.maximum(least[places.family] - asked, asked - most[places.family])
        return np.where(np.isfinite(outside), np.maximum(outside, 0.0), 0.0)

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

    What titles ask for, and what the model itself is off by, is learnt from the cells, in turns
    with the fit (empirical Bayes). `before` is a fit of nearly the same cells, where this one
    starts to look: it ends at the same place without. A quick fit keeps what was learnt before: for
    an answer at once, until the whole is done. `step` is called at each step of the search and may
    raise to stop it.
    """
    check_enough(measured)
    cells = measured.every
    rates = np.log([cell.average_fps for cell in cells])
    own = np.array([cell.spread for cell in cells])
    weak = weak_prior(measured)
    known = before if quick else None
    titles, error = (weak, USUAL_ERROR) if known is None else (known.titles, known.error)
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
    # From where a whole fit starts to look must not matter to where it ends.
    larger = np.ones(own.size) if known is None else _larger(link_slope(times_of(x, places)))
    spread = np.hypot(own, error * np.sqrt(larger))
    enough = ENOUGH * rates.size
    for turns_left in reversed(range(TURNS)):
        x = solve(
            model, x, layout.prior, SOFT, TOLERANCE, bends=bends, blocks=blocks, enough=enough
        )
        off, slopes = model(x)
        weights = soft_weights(off, SOFT)
        normal = slopes.normal(weights) + layout.prior.precision
        covariance = blocks.inverse(normal)
        if known is not None:
            break
        design = slopes.scaled(np.sqrt(weights)).dense()
        larger = _larger(link_slope(times_of(x, places)))
        if not turns_left:
            break
        titles = learnt_prior(weak, layout, x, covariance)
        layout = layout_of(measured, titles)
        free = rates.size - float(np.sum((design @ covariance) * design))
        error = _own_error(weights * np.square(off * spread), own, larger, free)
        spread = np.hypot(own, error * np.sqrt(larger))
    off = -off * spread
    if known is not None:
        scatter, per_size = known.scatter, known.per_size
    else:
        scale = np.sqrt(weights) / spread
        scatter, per_size = _off_unseen(cells, design, covariance, off, scale, larger)
    first = slice(len(measured.cells))
    of_cells = (off[first], weights[first], places.taken(first))
    return Fit(measured, layout, titles, x, covariance, *of_cells, error, scatter, per_size)


def _larger(slope: FloatArray) -> FloatArray:
    """By how much the variance of the model's own error is larger where the link is felt."""
    return np.asarray(1.0 + FELT * slope)


def _own_error(squares: FloatArray, own: FloatArray, larger: FloatArray, free: float) -> float:
    """What the model itself is off by in fitted cells where the link is not felt, as a log.

    `squares` are the squared residuals, `own` is what the cells' own repeats leave open, `free` how
    many cells are left beside the unknowns. The usual error counts as some cells.
    """
    found = float(np.sum(squares / larger)) - free * float(np.mean(np.square(own) / larger))
    usual = ERROR_CELLS * USUAL_ERROR**2
    return math.sqrt((usual + max(found, 0.0)) / (ERROR_CELLS + max(free, 0.0)))


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
    each = [slice(start, start + len(PER_FAMILY)) for start in starts]
    found = np.array([x[own] for own in each])
    unsure = sum(covariance[own, own] for own in each)
    count = len(starts)
    mean = (WEAK_MEAN * weak.mean + found.sum(axis=0)) / (WEAK_MEAN + count)
    off, moved = found - mean, weak.mean - mean
    spread = WEAK_SPREAD * weak.covariance + WEAK_MEAN * np.outer(moved, moved)
    spread = (spread + off.T @ off + unsure) / (WEAK_SPREAD + count)
    return TitlePrior(mean, np.asarray(spread), count)


def _off_unseen(
    cells: Sequence[Cell],
    design: FloatArray,
    covariance: FloatArray,
    off: FloatArray,
    scale: FloatArray,
    larger: FloatArray,
) -> tuple[float, float]:
    """(scatter, what is added per ln of pixels beyond a title's sizes): how far cells that were not
    fitted lie from a fit, besides what its unknowns and the cells' own repeats leave open, such
    that four in five lie within 80 % bounds.

    Noise is taken off as far as repeats have shown it. That of lone runs is not known: bounds then
    hold for such runs, and are wider than need be for the truth behind them.
    """
    leverage = np.sum((design @ covariance) * design, axis=1)
    # Residuals tell little of cells that bend the fit to themselves.
    least = max(LEAST_SCATTER, BENT_SCATTER * float(leverage.mean()))
    found = [*_left_out(cells, design, covariance, off, scale)]
    beyond = _beyond_others(cells)
    excess = np.concatenate([np.zeros(0), *(one for _, _, one in found)])
    apart = np.concatenate(
        [np.zeros(0), *(beyond[which] * (kind == "case") for kind, which, _ in found)]
    )
    grown = np.concatenate([np.ones(0), *(larger[which] for _, which, _ in found)])
    inside = (excess / grown)[apart == 0.0]
    if inside.size < FEWEST_LEFT_OUT:
        return max(USUAL_SCATTER, least), OTHER_SIZE
    scatter = max(math.sqrt(max(float(np.quantile(inside, 0.8)), 0.0)), least)
    if inside.size == excess.size:
        return scatter, OTHER_SIZE
    more = (excess - scatter**2 * grown)[apart > 0.0] / apart[apart > 0.0] ** 2
    grows = max(float(np.quantile(more, 0.8)), 0.0)
    own = more.size / (more.size + OTHER_SIZE_CELLS)
    return scatter, float(np.sqrt((1.0 - own) * OTHER_SIZE**2 + own * grows))


def _beyond_others(cells: Sequence[Cell]) -> FloatArray:
    """ln of how far the size of each cell lies outside the other sizes of its title."""
    sizes: dict[str, set[float]] = {}
    for cell in cells:
        sizes.setdefault(cell.family, set()).add(cell.megapixels)
    found = []
    for cell in cells:
        others = sizes[cell.family] - {cell.megapixels}
        by = max(min(others) / cell.megapixels, cell.megapixels / max(others)) if others else 1.0
        found.append(math.log(max(by, 1.0)))
    return np.array(found)


def _left_out(
    cells: Sequence[Cell],
    design: FloatArray,
    covariance: FloatArray,
    off: FloatArray,
    scale: FloatArray,
) -> Iterator[tuple[str, np.ndarray, FloatArray]]:
    """(kind, which cells, their squared errors beyond what unknowns and repeats leave open), each
    link and then each case left out.

    By the downdate of the linear fit (Cook and Weisberg's deletion residuals, (I − h)⁻¹e); `scale`
    turns logs into rows of the design. Cells whose family, host or card goes with them are passed
    over.
    """
    noise = np.array([cell.noise for cell in cells])
    codes = [_codes([getattr(cell, name) for cell in cells]) for name in ("family", "host", "card")]
    counts = [np.bincount(one) for one in codes]
    for kind in ("link", "case"):
        kinds = _codes([getattr(cell, kind) for cell in cells])
        order = np.argsort(kinds, kind="stable")
        for group in np.split(order, np.flatnonzero(np.diff(kinds[order])) + 1):
            stays = np.ones(group.size, bool)
            for of, count in zip(codes, counts, strict=True):
                stays &= count[of[group]] > np.bincount(of[group], minlength=count.size)[of[group]]
            if not stays.any():
                continue
            rows = design[group]
            hat = rows @ covariance @ rows.T
            apart = np.linalg.inv(np.eye(group.size) - hat)
            errors = apart @ (off[group] * scale[group]) / scale[group]
            unsure = (np.diag(apart) - 1.0) / scale[group] ** 2  # of (I − h)⁻¹h
            yield kind, group[stays], ((errors / Z_80) ** 2 - unsure - noise[group] ** 2)[stays]


def _codes(names: Sequence[str]) -> np.ndarray:
    """Names as numbers from 0."""
    return np.unique(names, return_inverse=True)[1]


USUAL_ERROR, ERROR_CELLS = 0.02, 20.0  # log rate of the model itself, before as many cells tell
FELT = 25.0  # by which its variance grows with the slope of the link; set on simulated benches
TURNS = 3  # of fitting and learning what titles ask for
TOLERANCE = 5e-4  # of a logarithm
# What a step gains at the least for each cell: an unknown that creeps by a tenth of its error moves
# nothing that is asked of the fit.
ENOUGH = 1e-7
WEAK_MEAN, WEAK_SPREAD = 1.0, 4.0  # the weak prior counts as so many titles
SOFT = 2.0  # residuals beyond so many spreads count less
