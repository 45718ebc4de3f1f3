"""Print how well the Limits foresee rates however frames are made, and draw it.

Six ways of making frames are played on the simulated bench, which shares no formula with the model,
with made-up titles that were never looked at while the model was developed. Each link is left out
of a review in turn, and its true rates are held against what the rest foresees.
"""

import sys
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from functools import partial
from itertools import permutations, product
from pathlib import Path

import numpy as np

from blunt_ruler.bench.pipeline import Flow
from blunt_ruler.bench.simulator import Setting, play_run
from blunt_ruler.bench.specs import MEGAPIXELS, BenchRig, BenchTitle, bench_rigs
from blunt_ruler.core.limits.cells import (
    ASSUMED_SPREAD,
    Cell,
    FittedLink,
    Measured,
    TooLittle,
)
from blunt_ruler.core.limits.fit import fit_limits
from blunt_ruler.core.limits.left_out import LeaveOut, parted
from blunt_ruler.core.limits.split import split_losses
from figures import Figure, rate, tell

sys.path.insert(0, str(Path(__file__).parents[1] / "tests" / "limits"))

from made_up import made_up_title, near

PICTURE = Path(__file__).parents[1] / "docs" / "limits.png"
WAYS = (*Flow, "growing uploads")
LINKS = {"2.0": 2.0, "2.6": 2.6, "4.2": 4.2, "6.4": 6.4, "12.8": 12.8, "25.7": 25.7}
NARROWEST = "2.0"
HOSTS = {"mobile": 0.8, "tower": 1.0}
CARDS = {"small": 0.62, "middle": 1.0, "large": 1.62}
Road = tuple[str, str, str]  # host, card, link
RIGS: tuple[Road, ...] = (
    ("mobile", "small", "2.6"),
    ("mobile", "middle", "2.0"),
    ("mobile", "middle", "2.6"),
    ("mobile", "large", "2.6"),
    ("mobile", "middle", "4.2"),
    ("mobile", "middle", "6.4"),
    ("mobile", "large", "6.4"),
    ("mobile", "middle", "12.8"),
    ("tower", "middle", "25.7"),
    ("tower", "large", "25.7"),
)
REFERENCE: Road = ("tower", "middle", "25.7")
SIZES = ("1080p", "1440p", "2160p")
PARTS = ("host", "card", "link")
FIRST_TITLE, TITLES, REVIEWS = 1000, 10, 3
NOISES, REPEATS, KEPT = (0.004, 0.012, 0.03), (1, 3), 0.7
SECONDS = 8.0
DRAWN, TICKS = 40, (30, 60, 120, 240)
LOOKS = (
    (False, "#4a6785", "o", "a link inside the measured range"),
    (True, "#b4532a", "s", "the narrowest link, beyond it"),
)
Rates = dict[tuple[str, int, Road, str], float]  # by way, title, rig and size


def main() -> None:
    rates = play()
    jobs = [
        (str(way), review, noise, repeats)
        for way, review, noise, repeats in product(WAYS, range(REVIEWS), NOISES, REPEATS)
    ]
    with ProcessPoolExecutor(2) as pool:
        found = [*pool.map(partial(foresee, rates), jobs, chunksize=4)]
    every = [one for of_job in found for one in of_job]
    for way in WAYS:
        _tell_way(str(way), [one for one in every if one.way == way])
    _tell_held("every way", every, least=76, most=84)
    draw(every)


@dataclass(frozen=True)
class Foreseen:
    """What was foreseen of one cell with its link left out, or of the parts of its loss."""

    way: str
    repeats: int
    link: str
    true_fps: float
    fps: float
    held: bool
    low: float = 0.0
    high: float = 0.0
    kind: str = "rate"


def _tell_way(way: str, found: list[Foreseen]) -> None:
    rates = [one for one in found if one.kind == "rate"]
    for words, narrow, most in (("inside", False, 3), ("the narrowest link", True, 5)):
        of = [one for one in rates if (one.link == NARROWEST) is narrow]
        off = 100 * float(np.median([abs(np.log(one.fps / one.true_fps)) for one in of]))
        name = f"limits, {way}, {words}: median error"
        tell(Figure(name, off, "%", high=most, noise=0.1 * off))
    _tell_held(way, found, least=72, most=88)
    parts = [one for one in found if one.kind == "part"]
    name = f"limits, {way}: parts of a loss within 80 % bounds"
    rate(name, sum(one.held for one in parts), len(parts), least=75, most=95)


def _tell_held(way: str, found: list[Foreseen], least: float, most: float) -> None:
    rates = [one for one in found if one.kind == "rate"]
    for repeats, of in ((1, "lone run"), (3, "truth, three repeats")):
        own = [one for one in rates if one.repeats == repeats]
        words = f"limits, {way}: 80 % bounds hold the {of}"
        rate(words, sum(one.held for one in own), len(own), least=least, most=most)


def made_up(way: str, seed: int) -> BenchTitle:
    """A title that makes its frames one way."""
    rng = np.random.default_rng([seed, 4711])
    title = made_up_title(rng, f"title {seed}").model_copy(update={"pass_spread": 0.0})
    if way not in [*Flow]:
        return title.model_copy(update={"upload_growth": float(rng.uniform(0.3, 1.0))})
    update: dict[str, object] = {"flow": Flow(way)}
    if way == Flow.UNPACKED:
        update["upload_growth"] = float(rng.uniform(0.0, 0.5))
        update["unpack_ms_per_mb"] = near(rng, 0.3, 0.4)
    return title.model_copy(update=update)


def rig_of(road: Road) -> BenchRig:
    host, card, link = road
    width = LINKS[link]
    return bench_rigs()["Sluice Marram 12"].model_copy(
        update={
            "name": " ".join(road),
            "cpu_speed": HOSTS[host],
            "card_speed": CARDS[card],
            "card_memory_gb": 16.0,
            "down_gb_per_s": width,
            "up_gb_per_s": width,
            "latency_ms": latency_ms(width),
        }
    )


def latency_ms(gb_per_s: float) -> float:
    return 0.09 if gb_per_s < 5 else 0.02


def mixes(road: Road) -> Iterator[tuple[frozenset[str], Road]]:
    """The reference with some parts of a rig in the place of its own."""
    for own in product((False, True), repeat=len(PARTS)):
        taken = [
            mine if use else theirs for use, mine, theirs in zip(own, road, REFERENCE, strict=True)
        ]
        chosen = frozenset(part for part, use in zip(PARTS, own, strict=True) if use)
        yield chosen, (taken[0], taken[1], taken[2])


def play() -> Rates:
    """True rates of every title on every rig, and on all mixes with the reference."""
    jobs = [(str(way), FIRST_TITLE + number) for way in WAYS for number in range(TITLES)]
    rates: Rates = {}
    with ProcessPoolExecutor(2) as pool:
        for found in pool.map(_play_title, jobs):
            rates |= found
    return rates


def _play_title(job: tuple[str, int]) -> Rates:
    way, seed = job
    title = made_up(way, seed)
    roads = dict.fromkeys(mixed for road in RIGS for _, mixed in mixes(road))
    found = {}
    for road, size in product(roads, SIZES):
        times = play_run(rig_of(road), Setting(title, size, "High", SECONDS), 1).frame_times_ms
        found[way, seed, road, size] = float(1000 * times.size / times.sum())
    return found


@dataclass
class Review:
    """Cells of a made-up review, with their truth."""

    measured: Measured
    truth: np.ndarray
    keys: list[tuple[int, Road, str]] = field(default_factory=list)


def review_of(rates: Rates, way: str, seed: int, noise: float, repeats: int) -> Review:
    """Six titles of which seven in ten cells were measured."""
    rng = np.random.default_rng([seed, 500])
    cells, truth, keys = [], [], []
    for number in rng.permutation(TITLES)[:6]:
        title = FIRST_TITLE + int(number)
        for road, size in product(RIGS, SIZES):
            if rng.random() >= KEPT and road != REFERENCE:
                continue
            true = rates[way, title, road, size]
            seen = true * np.exp(rng.normal(0.0, noise, repeats))
            own = float(np.std(np.log(seen), ddof=1)) if repeats > 1 else ASSUMED_SPREAD
            own = max(own, 0.005) / np.sqrt(repeats)
            host, card, link = road
            cells.append(
                Cell(
                    *(" ".join(road), f"{title} {size}", str(title), MEGAPIXELS[size]),
                    *(host, card, link, float(repeats / np.sum(1.0 / seen))),
                    spread=own,
                    noise=own if repeats > 1 else 0.0,
                )
            )
            truth.append(true)
            keys.append((title, road, size))
    links = {name: FittedLink(name, gb, 0.03, latency_ms(gb)) for name, gb in LINKS.items()}
    guess = {"small": 0.7, "middle": 1.0, "large": 1.44}
    measured = Measured(tuple(cells), links, "tower", "middle", guess)
    return Review(measured, np.array(truth), keys)


def foresee(rates: Rates, job: tuple[str, int, float, int]) -> list[Foreseen]:
    """All that is foreseen in one review: each link left out, and the parts of all losses."""
    way, _, _, repeats = job
    review = review_of(rates, *job)
    return [*_left_out(review, way, repeats), *_parts(review, rates, way, repeats)]


def _left_out(review: Review, way: str, repeats: int) -> Iterator[Foreseen]:
    cells = review.measured.cells
    for name, rest, out in parted(review.measured, LeaveOut.LINK):
        try:
            fit = fit_limits(rest) if out else None
        except TooLittle:
            continue
        if fit is None:
            continue
        places = fit.places_for([cells[at] for at in out], review.measured.links)
        for at, fps, low, high in zip(out, *fit.predict(places), strict=True):
            # Of lone runs the noise is not known: bounds speak of such runs, else of the truth.
            asked = cells[at].average_fps if repeats == 1 else review.truth[at]
            true = float(review.truth[at])
            held = bool(low <= asked <= high)
            yield Foreseen(way, repeats, name, true, float(fps), held, float(low), float(high))


def _parts(review: Review, rates: Rates, way: str, repeats: int) -> Iterator[Foreseen]:
    fit = fit_limits(review.measured)
    titles = dict(zip((cell.case for cell in review.measured.cells), review.keys, strict=True))
    roads = {" ".join(road): road for road in RIGS}
    for split in split_losses(fit, " ".join(REFERENCE)):
        title, _, size = titles[split.case]
        logs = {
            chosen: float(np.log(rates[way, title, road, size]))
            for chosen, road in mixes(roads[split.rig])
        }
        whole = frozenset(PARTS)
        own, other = np.exp(logs[whole]), np.exp(logs[frozenset()])
        scale = own if abs(own - other) < 1e-9 else (other - own) / np.log(other / own)
        for part in PARTS:
            true = -scale * _shapley(logs, part)
            told = split.parts[part]
            held = told.low_fps <= true <= told.high_fps
            if abs(true) > 0.02 * other:  # of smaller parts nothing is said
                yield Foreseen(way, repeats, "", true, told.fps, bool(held), kind="part")


def _shapley(logs: dict[frozenset[str], float], part: str) -> float:
    """What a part changes in the log rate, averaged over all orders of changing the parts."""
    orders = [*permutations(PARTS)]
    return sum(
        logs[frozenset(order[: order.index(part) + 1])]
        - logs[frozenset(order[: order.index(part)])]
        for order in orders
    ) / len(orders)


def draw(found: list[Foreseen]) -> None:
    """Foreseen over true rates with their bands, a field for each way of making frames."""
    from matplotlib.backends.backend_agg import FigureCanvasAgg
    from matplotlib.figure import Figure as Sheet

    sheet = Sheet(figsize=(10.5, 7.2), dpi=110, layout="constrained")
    FigureCanvasAgg(sheet)
    fields = sheet.subplots(2, 3, sharex=True, sharey=True).ravel()
    rng = np.random.default_rng(0)
    for axes, way in zip(fields, WAYS, strict=True):
        own = [one for one in found if one.kind == "rate" and one.way == way]
        for narrow, colour, mark, words in LOOKS:
            of = [one for one in own if (one.link == NARROWEST) is narrow]
            of = [of[at] for at in rng.permutation(len(of))[:DRAWN]]
            true = np.array([one.true_fps for one in of])
            over = np.array([one.fps for one in of]) / true
            band = np.abs(np.array([(one.low, one.high) for one in of]).T / true - over)
            axes.errorbar(true, over, band, fmt=mark, ms=3, lw=0.8, color=colour, label=words)
        axes.axhline(1.0, color="#222222", lw=0.8)
        held = 100 * np.mean([one.held for one in own])
        axes.set_title(f"{way}: {held:.0f} % of all bands hold", fontsize=10, loc="left")
        axes.set_xscale("log")
        axes.set_xticks(TICKS, [str(one) for one in TICKS])
        axes.minorticks_off()
        axes.set_ylim(0.7, 1.3)
        axes.grid(alpha=0.25)
    fields[0].legend(frameon=False, fontsize=8, loc="upper right")
    sheet.supxlabel("true frames per second")
    sheet.supylabel("foreseen over true, with its 80 % band")
    sheet.savefig(PICTURE, metadata={"Software": None})


if __name__ == "__main__":
    main()
