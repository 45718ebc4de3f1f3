"""What another link, card, host, resolution or screen path would give, and where more pays no
more.
"""

import math
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from blunt_ruler.core.limits.cells import (
    SENT_BACK_MB_PER_MPX,
    SLOT_LATENCY_MS,
    Cell,
    FittedLink,
)
from blunt_ruler.core.limits.fit import Z_80, Fit, limit_name
from blunt_ruler.core.limits.model import (
    Places,
    jacobian,
    link_slope,
    log_rate,
    slopes_of,
    times_of,
)
from blunt_ruler.core.types import FloatArray

ASKED = "asked for"
ASKED_SPREAD = 0.05
PAYS = 0.03  # 10 % more card must give at least this
MORE_CARD = 1.10
COSTS = 0.05  # a link that costs a card under this is wide enough
WIDEST_GB_PER_S = 200.0
HALVINGS = 13  # of 1:2,500: to a thousandth, and by a straight line to a few millionths
TRUSTED = 0.3  # of the narrowest bandwidth: so far below bands held on the simulated benches
FULL_SLOT_GB_PER_S = 28.0  # what a 4.0 x16 slot leaves a game


@dataclass(frozen=True, slots=True)
class Change:
    """What is changed about a measured cell; None or 1 leaves a thing as it is."""

    gb_per_s: float | None = None
    cpu_speed: float = 1.0
    card_speed: float = 1.0
    megapixels: float | None = None
    sent_back: bool | None = None
    latency_ms: float | None = None


@dataclass(frozen=True, slots=True)
class Predicted:
    """A predicted rate with 80 % bounds, the 1 % low at the cell's own steadiness, and limits."""

    average_fps: float
    low_80: float
    high_80: float
    low_1_fps: float | None
    limit: str
    shares: Mapping[str, float]
    outside: tuple[str, ...]


def what_if(fit: Fit, cell: Cell, change: Change, steadiness: float | None = None) -> Predicted:
    """Predict a cell with something changed; says what lies outside the measured range."""
    links: dict[str, FittedLink] = {}
    link = cell.link
    own = fit.measured.links[cell.link]
    if change.gb_per_s is not None or change.latency_ms is not None:
        latency = own.latency_ms if change.latency_ms is None else change.latency_ms
        width = own.gb_per_s if change.gb_per_s is None else change.gb_per_s
        links[ASKED] = FittedLink(ASKED, width, ASKED_SPREAD, latency)
        link = ASKED
    mpx = change.megapixels if change.megapixels is not None else cell.megapixels
    back = cell.sent_back_mb > 0 if change.sent_back is None else change.sent_back
    changed = replace(
        cell, link=link, megapixels=mpx, sent_back_mb=SENT_BACK_MB_PER_MPX * mpx if back else 0.0
    )
    places = replace(
        fit.places_for([changed], links),
        host_factor=np.array([1.0 / change.cpu_speed]),
        card_factor=np.array([change.card_speed]),
    )
    rate, low, high = fit.predict(places)
    limits = times_of(fit.x, places).limits[:, 0]
    return Predicted(
        average_fps=float(rate[0]),
        low_80=float(low[0]),
        high_80=float(high[0]),
        low_1_fps=None if steadiness is None else float(rate[0]) * steadiness,
        limit=limit_name(limits),
        shares=dict(zip(("card", "cpu", "link"), limits.tolist(), strict=True)),
        outside=_outside(fit, cell, change, mpx),
    )


def outside_measured(fit: Fit, megapixels: float, gb_per_s: float | None) -> list[str]:
    """What of a size and a bandwidth lies beyond the range of the data, in words."""
    said = []
    cells = fit.measured.cells
    sizes = [one.megapixels for one in cells]
    if not min(sizes) * 0.99 <= megapixels <= max(sizes) * 1.01:
        said.append(f"{megapixels:.1f} megapixels (measured {min(sizes):.1f} to {max(sizes):.1f})")
    widths = [fit.measured.links[one.link].gb_per_s for one in cells]
    real = [width for width in widths if width < WIDEST_GB_PER_S * 10] or widths
    least, most = min(real), max(real)
    if gb_per_s is not None and not least * 0.8 <= gb_per_s <= most * 1.25:
        far = ", too far below to trust the band" if gb_per_s < least * TRUSTED else ""
        said.append(f"{gb_per_s:.1f} GB/s (measured {least:.1f} to {most:.1f}{far})")
    return said


def _outside(fit: Fit, cell: Cell, change: Change, mpx: float) -> tuple[str, ...]:
    """What is asked for beyond the range of the data, in words."""
    said = outside_measured(fit, mpx, change.gb_per_s)
    for name, own, factor, others in (
        ("card", fit.layout.card(cell.card), change.card_speed, fit.layout.cards),
        ("CPU", fit.layout.host(cell.host), change.cpu_speed, fit.layout.hosts),
    ):
        at = fit.layout.card if name == "card" else fit.layout.host
        sign = 1.0 if name == "card" else -1.0
        speeds = [1.0, *(float(np.exp(sign * fit.x[at(one)])) for one in others)]
        speed = (float(np.exp(sign * fit.x[own])) if own >= 0 else 1.0) * factor
        if factor != 1.0 and not min(speeds) * 0.9 <= speed <= max(speeds) * 1.1:
            said.append(
                f"{name} speed {speed:.2f} (measured {min(speeds):.2f} to {max(speeds):.2f})"
            )
    return tuple(said)


@dataclass(frozen=True, slots=True)
class Ceiling:
    """For a host and link at one resolution: the card speed beyond which 10 % more gives under
    3 %, against the yardstick card, with 80 % bounds; which cards of the logbook lie beyond these,
    which before, and of which the data leave that open.
    """

    host: str
    link: str
    megapixels: float
    card_speed: float
    low_80: float
    high_80: float  # infinite where they leave open that any card pays
    wasted: tuple[str, ...]
    fitting: tuple[str, ...]
    open: tuple[str, ...] = ()

    @property
    def cards(self) -> tuple[str, ...]:
        """Every card that was measured on the link."""
        return (*self.fitting, *self.open, *self.wasted)


def card_speeds(fit: Fit) -> dict[str, float]:
    """Speed of every card of the data against the yardstick card."""
    speeds = {fit.measured.card: 1.0}
    speeds.update({card: float(np.exp(fit.x[fit.layout.card(card)])) for card in fit.layout.cards})
    return speeds


def ceiling(fit: Fit, host: str, link: str, megapixels: float) -> Ceiling | None:
    """The ceiling of a host and link over the families measured there; None where none was."""
    return next(iter(_ceilings(fit, [(host, link)], [megapixels])), None)


def ceilings(fit: Fit, sizes: Sequence[float]) -> tuple[Ceiling, ...]:
    """The ceiling of every host and link that an add-in card was measured on."""
    pairs = dict.fromkeys(
        (cell.host, cell.link)
        for cell in fit.measured.cells
        if fit.measured.links[cell.link].gb_per_s < WIDEST_GB_PER_S * 10
    )
    return tuple(_ceilings(fit, [*pairs], sizes))


def _ceilings(
    fit: Fit, pairs: Sequence[tuple[str, str]], sizes: Sequence[float]
) -> Iterator[Ceiling]:
    """The ceilings of some hosts and links at some resolutions, all found together."""
    families: dict[tuple[str, str], dict[str, int]] = {pair: {} for pair in pairs}
    on_link: dict[str, set[str]] = {}
    for at, cell in enumerate(fit.measured.cells):
        on_link.setdefault(cell.link, set()).add(cell.card)
        if (cell.host, cell.link) in families:
            families[cell.host, cell.link].setdefault(cell.family, at)
    groups = [(pair, size) for pair in pairs for size in sizes if families[pair]]
    if not groups:
        return
    cells = np.array([at for pair, _ in groups for at in families[pair].values()])
    group = np.repeat(np.arange(len(groups)), [len(families[pair]) for pair, _ in groups])
    own = replace(
        fit.places.taken(cells),
        card=np.full(cells.size, -1),
        megapixels=np.array([size for _, size in groups])[group],
        sent_back_mb=np.zeros(cells.size),
    )

    def rates(speeds: FloatArray) -> FloatArray:
        return log_rate(fit.x, replace(own, card_factor=speeds[group]))

    def pays(speeds: FloatArray) -> FloatArray:
        """By how much what more card gives is over what it must: less for a faster one."""
        more = rates(speeds * MORE_CARD) - rates(speeds)
        return np.expm1(np.bincount(group, more) / np.bincount(group)) - PAYS

    cards = card_speeds(fit)
    speeds = _where_it_ends(pays, np.full(len(groups), 0.02), np.full(len(groups), 50.0))
    reach = _reach(fit, own, group, speeds)
    for ((host, link), size), speed, lower, upper in zip(
        groups, speeds, speeds * np.exp(-reach[0]), speeds * np.exp(reach[1]), strict=True
    ):
        there = {card: own for card, own in cards.items() if card in on_link[link]}
        yield Ceiling(
            host,
            link,
            size,
            float(speed),
            float(lower),
            float(upper),
            tuple(card for card, own in there.items() if own > upper),
            tuple(card for card, own in there.items() if own <= lower),
            tuple(card for card, own in there.items() if lower < own <= upper),
        )


def _reach(
    fit: Fit, own: Places, group: np.ndarray, speeds: FloatArray
) -> tuple[FloatArray, FloatArray]:
    """How far below and above a ceiling may lie, as logs of the speed, 80 %, shape (n,) each: what
    the unknowns leave open of the gain there, over how fast it falls. Above there is no end where
    they leave open that no card is too fast.
    """
    counts = np.bincount(group)
    wide = fit.layout.size + 1  # the first takes what has no unknown
    unknowns = (group[:, None] * wide + own.known.at + 1).ravel()

    def there(factor: float) -> tuple[Places, FloatArray]:
        places = replace(own, card_factor=factor * speeds[group])
        return places, np.bincount(group, log_rate(fit.x, places)) / counts

    def slope(places: Places) -> FloatArray:
        each = slopes_of(fit.x, places).values.ravel()
        whole = np.bincount(unknowns, each, counts.size * wide).reshape(-1, wide)
        return np.asarray(whole[:, 1:] / counts[:, None])

    (same, here), (faster, more), (_, most) = map(there, (1.0, MORE_CARD, MORE_CARD**2))
    off = slope(faster) - slope(same)
    half = Z_80 * np.sqrt(np.sum((off @ fit.covariance) * off, axis=1))
    falls = np.maximum((2 * more - here - most) / math.log(MORE_CARD), 1e-9)
    is_open = half >= math.log1p(PAYS)
    return half / falls, np.where(is_open, np.inf, half / falls)


def _where_it_ends(
    over: Callable[[FloatArray], FloatArray], low: FloatArray, high: FloatArray
) -> FloatArray:
    """Where what only falls from `low` to `high` comes to 0, shape (n,); an end of the range where
    it does not.
    """
    low, high = np.log(low), np.log(high)
    for _ in range(HALVINGS):
        middle = (low + high) / 2.0
        is_over = over(np.exp(middle)) > 0.0
        low, high = np.where(is_over, middle, low), np.where(is_over, high, middle)
    # So near it is straight.
    above, below = np.maximum(over(np.exp(low)), 0.0), np.maximum(-over(np.exp(high)), 0.0)
    return np.asarray(np.exp(low + (high - low) * above / np.maximum(above + below, 1e-300)))


def narrowest_link(fit: Fit, host: str, card: str, megapixels: float) -> float | None:
    """GB/s of the narrowest link that costs a card under 5 % over the families of the data."""
    found: dict[str, Cell] = {}
    for cell in fit.measured.cells:
        wide = replace(cell, host=host, card=card, megapixels=megapixels, sent_back_mb=0.0)
        found.setdefault(cell.family, wide)
    if not found:
        return None
    asked = [replace(cell, link=ASKED) for cell in found.values()]
    widest = FittedLink(ASKED, WIDEST_GB_PER_S, ASKED_SPREAD, SLOT_LATENCY_MS)
    places = fit.places_for(asked, {ASKED: widest})
    best = log_rate(fit.x, places)

    def costs(gb_per_s: FloatArray) -> FloatArray:
        """By how much what a link costs is over what it may: less for a wider one."""
        there = replace(places, bandwidth=np.full(best.size, np.log(gb_per_s[0])))
        return -np.expm1([np.mean(log_rate(fit.x, there) - best)]) - COSTS

    return float(_where_it_ends(costs, np.array([0.1]), np.array([WIDEST_GB_PER_S]))[0])


def slot_gain(fit: Fit, cells: Sequence[Cell]) -> tuple[float, float]:
    """(low, high), 80 %: the mean share by which some cells would gain through a full slot."""
    wide = FittedLink(ASKED, FULL_SLOT_GB_PER_S, ASKED_SPREAD, SLOT_LATENCY_MS)
    asked = [replace(cell, link=ASKED, sent_back_mb=0.0) for cell in cells]
    here, there = fit.places_for(cells, {}), fit.places_for(asked, {ASKED: wide})
    times = times_of(fit.x, here)
    gain = float(np.mean(log_rate(fit.x, there) - log_rate(fit.x, here, times)))
    slope = np.mean(jacobian(fit.x, there) - jacobian(fit.x, here), axis=0)
    model = float(np.mean(fit.off_by(link_slope(times)))) / len(cells)
    half = Z_80 * float(np.sqrt(slope @ fit.covariance @ slope + model))
    return float(np.expm1(max(gain - half, 0.0))), float(np.expm1(gain + half))
