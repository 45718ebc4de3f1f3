"""How long a frame takes, from the parts: the model of the Limits, and its derivatives.

For family k at M megapixels on host h, card g and link l (times in ms, B in GB/s, so that a
megabyte over it is a millisecond):

    m    = u_k · (M / 3.7)^e_k / B_l
    cpu  = c_k · H_h + s_k · (m + f_k / B_l)
    z    = (a_k + b_k · M) / S_g + (f_k + picture sent back) / B_l + n · L_l
    card = z + m² / (m + g · z)
    link = m + L_l
    T    = (cpu^q + card^q + link^q)^(1/q) · d_k,t · d_g,t

What a frame asks of the parts is six amounts and an exponent: CPU time c, drawing time a and b
per megapixel, megabytes that the card fetches in the middle of a frame f and that are uploaded
before it u, by which power of the pixels uploads grow e, and the share of all transfers that the
CPU waits for s. What a card fetches queues behind the next frame's upload on the same link: seldom
and shortly where the upload is short, for all of it where it is long. All unknowns but e are
positive and are fitted as logarithms; q is 1 + a positive unknown. d is what a new version of the
title, or another driver of the card, did between an earlier time t and now.
"""

from dataclasses import dataclass, fields, replace
from functools import cached_property

import numpy as np

from blunt_ruler.core.limits.cells import Cell, FittedLink, Measured
from blunt_ruler.core.limits.solve import Known, Prior, Slopes
from blunt_ruler.core.types import FloatArray

PER_FAMILY = ("c", "a", "b", "f", "u", "e", "s")
FIRST_FAMILY = 3  # n, q and g stand before them
BENT = FIRST_FAMILY + len(PER_FAMILY)  # letters in which slopes themselves change
INDICES = ("shared", "family", "host", "card", "link", "title_drift", "driver_drift")
BEND_STEP = 1e-3
MIDDLE_MPX = 3.7  # where u is what is uploaded: 1440p
GROWTH_SPREAD = 0.25  # of e around 0
WAITED_FOR, WAITED_FOR_SPREAD = 0.1, 0.9  # s before a title is measured, and its spread as a log
Q_LEAST = 1.0
TITLE_DRIFT, DRIVER_DRIFT = 0.03, 0.02  # log rate between times; common practice, no source


@dataclass(frozen=True, slots=True)
class TitlePrior:
    """What titles ask for before one is measured: mean, shape (k,), and covariance, shape (k, k),
    of the logs of PER_FAMILY, e as it is; `titles` is how many it was learnt from.
    """

    mean: FloatArray
    covariance: FloatArray
    titles: int = 0


def weak_prior(measured: Measured) -> TitlePrior:
    """What is held of titles where none was measured: at the pace of these, nearly anything.

    Times come from the median of the families' fastest cells; how heavy a title is as a whole is
    left open far more than how its parts stand to each other.
    """
    fastest: dict[str, float] = {}
    for cell in measured.every:
        best = fastest.get(cell.family, np.inf)
        fastest[cell.family] = min(best, 1000.0 / cell.average_fps)
    best_ms = float(np.median([*fastest.values()]))
    mpx = float(np.median([cell.megapixels for cell in measured.every]))
    amounts = np.log([0.6 * best_ms, 0.35 * best_ms, 0.35 * best_ms / mpx, 2.5, 14.0])
    mean = np.array([*amounts, 0.0, np.log(WAITED_FOR)])
    heavy = np.array([1.0, 1.0, 1.0, 0.0, 0.0, 0.0, 0.0])
    apart = np.diag(np.square([0.5, 0.5, 0.5, 0.8, 0.5, GROWTH_SPREAD, WAITED_FOR_SPREAD]))
    return TitlePrior(mean, apart + np.outer(heavy, heavy))


@dataclass(frozen=True, slots=True)
class Layout:
    """Where each unknown stands in the vector of logarithms, and what is held of it before.

    `spread` is the prior's deviation of each unknown.
    """

    families: tuple[str, ...]
    hosts: tuple[str, ...]  # without the yardstick
    cards: tuple[str, ...]
    links: tuple[str, ...]
    drifts: tuple[tuple[str, str], ...]  # (family or card, time)
    names: tuple[str, ...]
    prior: Prior
    spread: FloatArray
    at: dict[tuple[str, str], int]

    @property
    def size(self) -> int:
        """How many unknowns there are."""
        return len(self.names)

    def family(self, name: str) -> int:
        """Where the unknowns of a family begin."""
        return self.at["family", name]

    def host(self, name: str) -> int:
        """Where a host's speed stands, −1 for the yardstick."""
        return self.at.get(("host", name), -1)

    def card(self, name: str) -> int:
        """Where a card's speed stands, −1 for the yardstick."""
        return self.at.get(("card", name), -1)

    def link(self, name: str) -> int:
        """Where a link's bandwidth stands, −1 where the link is not in the data."""
        return self.at.get(("link", name), -1)

    def drift(self, part: str, time: str) -> int:
        """Where the drift of a family or card since an earlier time stands, −1 for now."""
        return self.at.get((f"since {time}", part), -1) if time else -1


def layout_of(measured: Measured, titles: TitlePrior) -> Layout:
    """The unknowns of some cells with log-normal priors: those of titles as given, bandwidths
    from the links, speeds from the board power.
    """
    cells = measured.every
    families = tuple(dict.fromkeys(cell.family for cell in cells))
    hosts = tuple(dict.fromkeys(c.host for c in cells if c.host != measured.host))
    cards = tuple(dict.fromkeys(c.card for c in cells if c.card != measured.card))
    links = tuple(dict.fromkeys(c.link for c in cells))
    drifts = tuple(
        dict.fromkeys((part, c.time) for c in cells if c.time for part in (c.family, c.card))
    )
    names, at = ["n", "q", "g"], {}
    prior, spread = [np.log(3.5), np.log(12.0), np.log(2.0)], [0.5, 0.5, 0.6]
    for family in families:
        at["family", family] = len(names)
        names += [f"{letter} of {family}" for letter in PER_FAMILY]
        prior += [*titles.mean]
        spread += [*np.sqrt(np.diag(titles.covariance))]
    kinds = (
        ("host", [(name, 0.0, 0.4) for name in hosts]),
        ("card", [(name, np.log(measured.card_guess.get(name, 1.0)), 0.6) for name in cards]),
        (
            "link",
            [(n, np.log(measured.links[n].gb_per_s), measured.links[n].spread) for n in links],
        ),
    )
    for kind, unknowns in kinds:
        for name, mean, wide in unknowns:
            at[kind, name] = len(names)
            names.append(f"{kind} {name}")
            prior.append(float(mean))
            spread.append(wide)
    for part, time in drifts:
        at[f"since {time}", part] = len(names)
        names.append(f"drift of {part} since {time}")
        prior.append(0.0)
        spread.append(TITLE_DRIFT if part in families else DRIVER_DRIFT)
    precision = np.diag(np.square(1.0 / np.array(spread)))
    each = np.linalg.inv(titles.covariance)
    for family in families:
        start = at["family", family]
        own = slice(start, start + len(PER_FAMILY))
        precision[own, own] = each
    return Layout(
        *(families, hosts, cards, links, drifts, tuple(names)),
        Prior(np.array(prior), precision),
        np.array(spread),
        at,
    )


@dataclass(frozen=True)
class Places:
    """For each of n cells: where its unknowns stand (−1 for a yardstick), and its known numbers.

    `shared` is where n, q and g stand; `bandwidth` is the log of a link's bandwidth where the link
    is no unknown. `size` is how many unknowns there are.
    """

    size: int
    shared: np.ndarray
    family: np.ndarray
    host: np.ndarray
    card: np.ndarray
    link: np.ndarray
    title_drift: np.ndarray
    driver_drift: np.ndarray
    megapixels: FloatArray
    latency_ms: FloatArray
    sent_back_mb: FloatArray
    bandwidth: FloatArray
    link_spread: FloatArray
    host_factor: FloatArray
    card_factor: FloatArray
    road_factor: FloatArray

    def taken(self, which: np.ndarray | slice) -> "Places":
        """Some of the cells, in the order asked for."""
        arrays = (one.name for one in fields(self) if one.name != "size")
        return Places(self.size, *(getattr(self, name)[which] for name in arrays))

    @cached_property
    def known(self) -> Known:
        """The unknowns of each cell, in the order of the columns of `slopes_of`."""
        every = (
            *(self.shared + offset for offset in range(FIRST_FAMILY)),
            *(self.family + offset for offset in range(len(PER_FAMILY))),
            *(self.host, self.card, self.link, self.title_drift, self.driver_drift),
        )
        return Known(np.stack(every, axis=1), self.size)

    @cached_property
    def unknowns(self) -> np.ndarray:
        """Where the unknowns of each cell stand, shape (k, n); `size` for none."""
        at = self.known.at.T
        return np.ascontiguousarray(np.where(at < 0, self.size, at))

    @cached_property
    def larger(self) -> FloatArray:
        """Log of the megapixels over the middle."""
        return np.log(self.megapixels / MIDDLE_MPX)

    @cached_property
    def given(self) -> FloatArray:
        """Bandwidth in GB/s where the link is no unknown."""
        return np.exp(self.bandwidth)

    @cached_property
    def for_each_letter(self) -> "Places":
        """All cells once for each letter that bends, each time with unknowns of their own."""
        count = self.family.size
        ahead = np.repeat(np.arange(BENT) * self.size, count)
        many = self.taken(np.tile(np.arange(count), BENT))
        indices = {name: getattr(many, name) for name in INDICES}
        moved = {name: np.where(at >= 0, at + ahead, -1) for name, at in indices.items()}
        return replace(many, size=BENT * self.size, **moved)


def places_of(layout: Layout, cells: tuple[Cell, ...], links: dict[str, FittedLink]) -> Places:
    """Cells as indices into the vector of unknowns."""
    roads = [links[cell.link] for cell in cells]
    return Places(
        size=layout.size,
        shared=np.zeros(len(cells), int),
        family=np.array([layout.family(cell.family) for cell in cells]),
        host=np.array([layout.host(cell.host) for cell in cells]),
        card=np.array([layout.card(cell.card) for cell in cells]),
        link=np.array([layout.link(cell.link) for cell in cells]),
        title_drift=np.array([layout.drift(cell.family, cell.time) for cell in cells]),
        driver_drift=np.array([layout.drift(cell.card, cell.time) for cell in cells]),
        megapixels=np.array([cell.megapixels for cell in cells]),
        latency_ms=np.array([road.latency_ms for road in roads]),
        sent_back_mb=np.array([cell.sent_back_mb for cell in cells]),
        bandwidth=np.log([road.gb_per_s for road in roads]),
        link_spread=np.array([road.spread for road in roads]),
        host_factor=np.ones(len(cells)),
        card_factor=np.ones(len(cells)),
        road_factor=np.ones(len(cells)),
    )


@dataclass(frozen=True)
class Times:
    """What n frames spend where, in ms, and the exponents that join them."""

    cpu: FloatArray
    cpu_stall: FloatArray  # s(m + f/B)
    cpu_share: FloatArray  # s
    larger: FloatArray  # log of megapixels over the middle
    card: FloatArray
    link: FloatArray
    card_frame: FloatArray  # a/S
    card_pixels: FloatArray  # bM/S
    card_load: FloatArray  # f/B
    card_fetch: FloatArray  # f/B and the picture sent back
    card_wait: FloatArray  # n·L
    card_queue: FloatArray  # m²/(m + g·z)
    card_upload: FloatArray  # d card / d log m
    card_own: FloatArray  # d card / d z
    link_move: FloatArray  # u/B
    q: FloatArray

    @property
    def card_draw(self) -> FloatArray:
        """(a + bM)/S."""
        return self.card_frame + self.card_pixels

    @property
    def whole(self) -> FloatArray:
        """The frame time T."""
        return np.asarray(np.exp(self.log_whole))

    @cached_property
    def logs(self) -> FloatArray:
        """Logs of what cpu, card and link take, shape (3, n)."""
        return np.log(np.stack([self.cpu, self.card, self.link]))

    @cached_property
    def _powers(self) -> tuple[FloatArray, FloatArray, FloatArray]:
        """(q·log of the longest, each part to the power q over it, their sum)."""
        logs = self.q * self.logs
        top = logs.max(axis=0)
        parts = np.exp(logs - top)
        return top, parts, parts.sum(axis=0)

    @cached_property
    def log_whole(self) -> FloatArray:
        """Log of the frame time."""
        top, _, total = self._powers
        return np.asarray((top + np.log(total)) / self.q)

    @property
    def limits(self) -> FloatArray:
        """Share of each limit, shape (3, n): card, CPU, link, summing to 1.

        What card and CPU spend waiting for the link stands under the link: a part that waits is
        not what holds the frame back, and these are then the shares by which T answers to the
        speed of each part.
        """
        cpu, card, link = self.shares
        waits = 1.0 - self.card_own * self.card_draw / self.card
        stall = cpu * self.cpu_stall / self.cpu
        return np.stack([card * (1.0 - waits), cpu - stall, link + card * waits + stall])

    @property
    def card_works(self) -> FloatArray:
        """The share of the frame time in which the card draws: what a gauge calls busy."""
        return np.asarray(self.card_draw / self.whole)

    @property
    def card_waits(self) -> FloatArray:
        """What the card spends on the link, in ms."""
        return self.card - self.card_draw

    @cached_property
    def shares(self) -> FloatArray:
        """Share of cpu, card and link in T, shape (3, n): xᵢ^q over their sum."""
        _, parts, total = self._powers
        return np.asarray(parts / total)


def times_of(x: FloatArray, places: Places) -> Times:
    """Frame times of n cells for a vector of log unknowns."""
    logs = np.append(x, 0.0)
    each = np.exp(logs)  # at −1 a factor of 1
    n, q, g, c, a, b, f, u, _, s, host, card, link, *_ = each.take(places.unknowns, mode="clip")
    band = np.where(places.link >= 0, link, places.given) * places.road_factor
    fast = card * places.card_factor
    frame, pixels, load = a / fast, b * places.megapixels / fast, f / band
    fetch, wait = load + places.sent_back_mb / band, n * places.latency_ms
    larger = places.larger
    growth = np.exp(logs[places.family + PER_FAMILY.index("e")] * larger)
    move, own = u * growth / band, frame + pixels + fetch + wait
    stall = s * (move + load)
    apart = g * own
    both = move + apart
    queue = move**2 / both
    return Times(
        cpu=c * host * places.host_factor + stall,
        cpu_stall=stall,
        cpu_share=s,
        larger=larger,
        card=own + queue,
        link=move + places.latency_ms + 1e-9,
        card_frame=frame,
        card_pixels=pixels,
        card_load=load,
        card_fetch=fetch,
        card_wait=wait,
        card_queue=queue,
        card_upload=queue * (1.0 + apart / both),
        card_own=1.0 - g * queue / both,
        link_move=move,
        q=Q_LEAST + q,
    )


def log_rate(x: FloatArray, places: Places, times: Times | None = None) -> FloatArray:
    """Log of the predicted rates, shape (n,); the times where they are known."""
    held = np.append(x, 0.0)
    drift = held[places.title_drift] + held[places.driver_drift]
    return np.asarray(np.log(1000.0) - (times or times_of(x, places)).log_whole - drift)


def link_slope(t: Times) -> FloatArray:
    """d log rate / d log bandwidth, shape (n,): how much the link is felt."""
    w_cpu, w_card, w_link = t.shares
    felt = t.card_own * t.card_fetch + t.card_upload
    return np.asarray(
        w_card * felt / t.card + w_link * t.link_move / t.link + w_cpu * t.cpu_stall / t.cpu
    )


HOST_SLOPE, CARD_SLOPE, LINK_SLOPE, DRIVER_SLOPE = (
    BENT,
    BENT + 1,
    BENT + 2,
    BENT + 4,
)  # columns of `slopes_of`


def slopes_of(x: FloatArray, places: Places, times: Times | None = None) -> Slopes:
    """d log rate / d log unknown of n cells, for the dozen of unknowns that each knows; the times
    where they are known.
    """
    return Slopes(places.known, _slopes(times or times_of(x, places)))


def _slopes(t: Times) -> FloatArray:
    w_cpu, w_card, w_link = t.shares
    mean_log = (t.shares * t.logs).sum(axis=0)
    ones = np.ones(w_cpu.size)
    own = w_card * t.card_own / t.card
    stall = w_cpu / t.cpu
    works = w_cpu - stall * t.cpu_stall
    uploads = w_card * t.card_upload / t.card + w_link * t.link_move / t.link
    uploads += stall * t.cpu_share * t.link_move
    felt = (
        own * t.card_wait,
        (t.q - Q_LEAST) * (mean_log - t.log_whole) / t.q,
        -w_card * (1.0 - t.card_queue / t.link_move) * t.card_queue / t.card,
        works,
        own * t.card_frame,
        own * t.card_pixels,
        own * t.card_load + stall * t.cpu_share * t.card_load,
        uploads,
        uploads * t.larger,
        stall * t.cpu_stall,
        works,
        -own * t.card_draw,
        -link_slope(t),
        ones,
        ones,
    )
    return -np.stack(felt, axis=1)


def bends_of(x: FloatArray, places: Places, pulls: FloatArray) -> FloatArray:
    """Σ pull · ∂² log rate / ∂x² for what all cells share and what the families ask, shape (size,),
    0 for the others.

    A letter is moved in all families at once: no cell knows two of them.
    """
    letter = np.arange(BENT)
    at = places.known.at[:, :BENT].T
    moved = np.tile(x, (BENT, 1))
    moved[letter[:, None], at] += BEND_STEP
    then = _slopes(times_of(moved.ravel(), places.for_each_letter)).reshape(BENT, pulls.size, -1)
    still = _slopes(times_of(x, places))[:, :BENT].T
    bend = (then[letter, :, letter] - still) / BEND_STEP
    return np.asarray(np.bincount(at.ravel(), (pulls * bend).ravel(), x.size))


def jacobian(x: FloatArray, places: Places) -> FloatArray:
    """d log rate / d log unknown, shape (n, size)."""
    return slopes_of(x, places).dense()
