"""How long a frame takes, from the parts: the model of the Limits, and its derivatives.

For family k at M megapixels on host h, card g and link l (times in ms, B in GB/s, so that a
megabyte over it is a millisecond):

    cpu  = c_k · H_h
    card = (a_k + b_k · M) / S_g + (f_k + picture sent back) / B_l + n · L_l
    link = u_k / B_l + L_l
    T    = (cpu^q + card^q + link^q)^(1/q)

All unknowns are positive and are fitted as logarithms; q is 1 + a positive unknown.
"""

from dataclasses import dataclass

import numpy as np

from blunt_ruler.core.limits.cells import Cell, FittedLink, Measured
from blunt_ruler.core.types import FloatArray

PER_FAMILY = ("c", "a", "b", "f", "u")
Q_LEAST = 1.0


@dataclass(frozen=True, slots=True)
class Layout:
    """Where each unknown stands in the vector of logarithms, and its prior (mean, spread)."""

    families: tuple[str, ...]
    hosts: tuple[str, ...]  # without the yardstick
    cards: tuple[str, ...]
    links: tuple[str, ...]
    names: tuple[str, ...]
    prior: FloatArray
    spread: FloatArray

    @property
    def size(self) -> int:
        """How many unknowns there are."""
        return len(self.names)

    def family(self, name: str) -> int:
        """Where the unknowns of a family begin."""
        return 2 + len(PER_FAMILY) * self.families.index(name)

    def host(self, name: str) -> int:
        """Where a host's speed stands, −1 for the yardstick."""
        at = 2 + len(PER_FAMILY) * len(self.families)
        return at + self.hosts.index(name) if name in self.hosts else -1

    def card(self, name: str) -> int:
        """Where a card's speed stands, −1 for the yardstick."""
        at = 2 + len(PER_FAMILY) * len(self.families) + len(self.hosts)
        return at + self.cards.index(name) if name in self.cards else -1

    def link(self, name: str) -> int:
        """Where a link's bandwidth stands, −1 where the link is not in the data."""
        at = 2 + len(PER_FAMILY) * len(self.families) + len(self.hosts) + len(self.cards)
        return at + self.links.index(name) if name in self.links else -1


def layout_of(measured: Measured) -> Layout:
    """The unknowns of some cells with weak log-normal priors.

    Family times are guessed from the family's fastest cell; bandwidths from the links.
    """
    cells = measured.cells
    families = measured.families()
    hosts = tuple(dict.fromkeys(c.host for c in cells if c.host != measured.host))
    cards = tuple(dict.fromkeys(c.card for c in cells if c.card != measured.card))
    links = tuple(dict.fromkeys(c.link for c in cells))
    names = ["n", "q"]
    prior, spread = [np.log(6.0), np.log(3.0)], [0.7, 0.5]
    for family in families:
        own = [cell for cell in cells if cell.family == family]
        fastest = min(own, key=lambda cell: 1.0 / cell.average_fps)
        best_ms = 1000.0 / fastest.average_fps
        mpx = min(cell.megapixels for cell in own)
        names += [f"{letter} of {family}" for letter in PER_FAMILY]
        prior += [
            np.log(0.6 * best_ms),
            np.log(0.35 * best_ms),
            np.log(0.35 * best_ms / mpx),
            np.log(6.0),
            np.log(14.0),
        ]
        spread += [0.8, 0.8, 0.8, 1.0, 0.8]
    names += [f"host {name}" for name in hosts]
    prior += [0.0] * len(hosts)
    spread += [0.4] * len(hosts)
    names += [f"card {name}" for name in cards]
    prior += [float(np.log(measured.card_guess.get(card, 1.0))) for card in cards]
    spread += [0.6] * len(cards)
    names += [f"link {name}" for name in links]
    prior += [float(np.log(measured.links[name].gb_per_s)) for name in links]
    spread += [measured.links[name].spread for name in links]
    return Layout(families, hosts, cards, links, tuple(names), np.array(prior), np.array(spread))


@dataclass(frozen=True, slots=True)
class Places:
    """For each of n cells: where its unknowns stand (−1 for a yardstick), and its known numbers.

    `bandwidth` is the log of a link's bandwidth where the link is no unknown.
    """

    family: np.ndarray
    host: np.ndarray
    card: np.ndarray
    link: np.ndarray
    megapixels: FloatArray
    latency_ms: FloatArray
    sent_back_mb: FloatArray
    bandwidth: FloatArray
    link_spread: FloatArray
    host_factor: FloatArray
    card_factor: FloatArray
    road_factor: FloatArray


def places_of(layout: Layout, cells: tuple[Cell, ...], links: dict[str, FittedLink]) -> Places:
    """Cells as indices into the vector of unknowns."""
    return Places(
        family=np.array([layout.family(cell.family) for cell in cells]),
        host=np.array([layout.host(cell.host) for cell in cells]),
        card=np.array([layout.card(cell.card) for cell in cells]),
        link=np.array([layout.link(cell.link) for cell in cells]),
        megapixels=np.array([cell.megapixels for cell in cells]),
        latency_ms=np.array([links[cell.link].latency_ms for cell in cells]),
        sent_back_mb=np.array([cell.sent_back_mb for cell in cells]),
        bandwidth=np.log([links[cell.link].gb_per_s for cell in cells]),
        link_spread=np.array([links[cell.link].spread for cell in cells]),
        host_factor=np.ones(len(cells)),
        card_factor=np.ones(len(cells)),
        road_factor=np.ones(len(cells)),
    )


@dataclass(frozen=True, slots=True)
class Times:
    """What n frames spend where, in ms, and the exponent that joins them."""

    cpu: FloatArray
    card: FloatArray
    link: FloatArray
    card_draw: FloatArray  # (a + bM)/S
    card_fetch: FloatArray  # f/B and the picture sent back
    card_wait: FloatArray  # n·L
    link_move: FloatArray  # u/B
    q: float

    @property
    def whole(self) -> FloatArray:
        """The frame time T."""
        return np.asarray(np.exp(self.log_whole))

    @property
    def log_whole(self) -> FloatArray:
        """Log of the frame time."""
        logs = self.q * np.log(np.stack([self.cpu, self.card, self.link]))
        top = logs.max(axis=0)
        return np.asarray((top + np.log(np.exp(logs - top).sum(axis=0))) / self.q)

    @property
    def limits(self) -> FloatArray:
        """Share of each limit, shape (3, n): card, CPU, link, summing to 1.

        What the card spends waiting for the link stands under the link: a card that waits is not
        what holds the frame back, and these are then the shares by which T answers to the speed
        of each part.
        """
        cpu, card, link = self.shares
        waits = (self.card_fetch + self.card_wait) / self.card
        return np.stack([card * (1.0 - waits), cpu, link + card * waits])

    @property
    def shares(self) -> FloatArray:
        """Share of cpu, card and link in T, shape (3, n): xᵢ^q over their sum."""
        logs = self.q * np.log(np.stack([self.cpu, self.card, self.link]))
        logs -= logs.max(axis=0)
        parts = np.exp(logs)
        return np.asarray(parts / parts.sum(axis=0))


def _at(x: FloatArray, index: np.ndarray) -> FloatArray:
    """Unknowns at indices, 0 (a factor of 1) for −1."""
    return np.where(index >= 0, x[index], 0.0)


def _bandwidth(x: FloatArray, places: Places) -> FloatArray:
    """GB/s of each cell's link: as fitted, or as given; times what a what-if asks for."""
    logs = np.where(places.link >= 0, x[places.link], places.bandwidth)
    return np.asarray(np.exp(logs) * places.road_factor)


def times_of(x: FloatArray, places: Places) -> Times:
    """Frame times of n cells for a vector of log unknowns."""
    k = places.family
    c, a, b, f, u = (np.exp(x[k + offset]) for offset in range(5))
    band = _bandwidth(x, places)
    slow = np.exp(_at(x, places.host)) * places.host_factor
    fast = np.exp(_at(x, places.card)) * places.card_factor
    draw = (a + b * places.megapixels) / fast
    fetch = (f + places.sent_back_mb) / band
    wait = np.exp(x[0]) * places.latency_ms
    move = u / band
    return Times(
        cpu=c * slow,
        card=draw + fetch + wait,
        link=move + places.latency_ms + 1e-9,
        card_draw=draw,
        card_fetch=fetch,
        card_wait=wait,
        link_move=move,
        q=float(Q_LEAST + np.exp(x[1])),
    )


def log_rate(x: FloatArray, places: Places) -> FloatArray:
    """Log of the predicted rates, shape (n,)."""
    return np.asarray(np.log(1000.0) - times_of(x, places).log_whole)


def link_slope(t: Times) -> FloatArray:
    """d log rate / d log bandwidth, shape (n,): how much the link is felt."""
    _, w_card, w_link = t.shares
    return np.asarray(w_card * t.card_fetch / t.card + w_link * t.link_move / t.link)


def jacobian(x: FloatArray, places: Places) -> FloatArray:
    """d log rate / d log unknown, shape (n, size)."""
    t = times_of(x, places)
    n, k = places.family.size, places.family
    rows = np.arange(n)
    w_cpu, w_card, w_link = t.shares
    a, b, f = (np.exp(x[k + offset]) for offset in (1, 2, 3))
    fast = np.exp(_at(x, places.card)) * places.card_factor
    band = _bandwidth(x, places)
    out = np.zeros((n, x.size))
    out[rows, k] = w_cpu
    out[rows, k + 1] = w_card * a / fast / t.card
    out[rows, k + 2] = w_card * b * places.megapixels / fast / t.card
    out[rows, k + 3] = w_card * f / band / t.card
    out[rows, k + 4] = w_link * t.link_move / t.link
    out[:, 0] = w_card * t.card_wait / t.card
    logs = np.log(np.stack([t.cpu, t.card, t.link]))
    mean_log = (t.shares * logs).sum(axis=0)
    out[:, 1] = (t.q - Q_LEAST) * (mean_log - t.log_whole) / t.q
    for index, part in (
        (places.host, w_cpu),
        (places.card, -w_card * t.card_draw / t.card),
        (places.link, -link_slope(t)),
    ):
        there = index >= 0
        np.add.at(out, (rows[there], index[there]), part[there])
    return -out
