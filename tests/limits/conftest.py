"""Rates from the simulated bench as the fit takes them, without a logbook. Played once."""

from dataclasses import replace

import numpy as np
import pytest
from made_up import made_up_title

from blunt_ruler.bench.simulator import Faults, Setting, play_run
from blunt_ruler.bench.specs import MEGAPIXELS, bench_rigs, bench_titles
from blunt_ruler.core.limits.cells import Cell, FittedLink, Measured
from blunt_ruler.core.measure.telemetry import Gauge
from blunt_ruler.core.measure.trace_summary import observe
from blunt_ruler.core.records.hardware import Card, Hop, Host, Link, Rig
from blunt_ruler.core.records.records import (
    Case,
    Contents,
    Meters,
    Origin,
    Review,
    ReviewRig,
    Role,
    Run,
    Title,
    TypedFigures,
)

LINKS = {"a": 2.0, "b": 2.6, "c": 4.2, "d": 6.4, "e": 12.8, "f": 25.7}
HOSTS = {"mobile": 0.8, "tower": 1.0}
VRAM_GB = {"small": 8.0, "middle": 12.0, "large": 16.0}
CARDS = {"small": 0.62, "middle": 1.0, "large": 1.62}
RIGS = (
    ("mobile", "small", "b"),
    ("mobile", "middle", "a"),
    ("mobile", "middle", "b"),
    ("mobile", "large", "b"),
    ("mobile", "middle", "c"),
    ("mobile", "middle", "d"),
    ("mobile", "large", "d"),
    ("mobile", "middle", "e"),
    ("tower", "middle", "f"),
    ("tower", "large", "f"),
)
SIZES = ("1080p", "1440p", "2160p")
SECONDS = 8.0


def latency_ms(gb_per_s):
    return 0.09 if gb_per_s < 5 else 0.02


def made_up_titles(count, seed=77):
    """Titles that the bench does not ship: heavy and light, hungry for the link and not."""
    rng = np.random.default_rng(seed)
    names = [f"made up {number}" for number in range(count)]
    return {name: made_up_title(rng, name) for name in names}


class Lab:
    """Rates of every rig, title and size for some seeds."""

    def __init__(self):
        self._rates = {}
        self.titles = bench_titles() | made_up_titles(30)
        self.rigs = RIGS

    def rate(self, seed, host, card, link, title, size):
        key = (seed, host, card, link, title, size)
        if key not in self._rates:
            rig = self.bench_rig(host, card, link)
            setting = Setting(self.titles[title], size, "High", SECONDS)
            times = play_run(rig, setting, seed).frame_times_ms
            self._rates[key] = 1000 * times.size / times.sum()
        return self._rates[key]

    def played(self, seed, rig, title, size, preset="High", faults=Faults()):
        """(frames per second, meters) of a case that is played with faults, or at a preset."""
        host, card, link = rig
        setting = Setting(self.titles[title], size, preset, SECONDS)
        trace = play_run(self.bench_rig(host, card, link), setting, seed, faults=faults)
        seen = observe(trace.frame_times_ms, trace.telemetry)
        meters = Meters(
            card_busy_pct=min(seen.gauge(Gauge.CARD_BUSY).mean, 100.0),
            core_busy_pct=min(seen.gauge(Gauge.CPU_CORE).mean, 100.0),
            memory_gb=seen.gauge(Gauge.CARD_MEMORY).mean,
        )
        times = trace.frame_times_ms
        return 1000 * times.size / times.sum(), meters

    def book(self, figures):
        """(contents, review) of typed figures: (rig, title, size, preset) → (rate, meters)."""
        made = {}

        def add(table, record):
            made.setdefault(table, {})[record.id] = record

        for host in HOSTS:
            add("hosts", Host(id=host, name=host))
        for card, speed in CARDS.items():
            add("cards", Card(id=card, name=card, board_power_w=180 * speed, vram_gb=VRAM_GB[card]))
        for link in LINKS:
            add("links", Link(id=link, name=link, hops=(Hop(name="slot", generation=4, lanes=4),)))
        for (host, card, link), title, size, preset in figures:
            rig = f"{host} {card} {link}"
            parts = {"host_id": host, "card_id": card, "link_id": link}
            width = LINKS[link]
            add("rigs", Rig(id=rig, name=rig, measured_gb_per_s=width, **parts))
            add("titles", Title(id=title, name=title, presets=("Max", "High", "Medium", "Low")))
            case = f"{title} {size} {preset}"
            add("cases", Case(id=case, title_id=title, resolution=size, preset=preset))
            rate, meters = figures[(host, card, link), title, size, preset]
            for repeat in (1, 2):
                add(
                    "runs",
                    Run(
                        id=f"{rig} {case} {repeat}",
                        rig_id=rig,
                        case_id=case,
                        repeat=repeat,
                        origin=Origin(kind="typed"),
                        typed=TypedFigures(average_fps=rate * (1 + 0.002 * repeat)),
                        meters=meters,
                    ),
                )
        seats = tuple(
            ReviewRig(rig_id=rig, role=Role.BASE if place == 0 else Role.TESTED)
            for place, rig in enumerate(made["rigs"])
        )
        review = Review(id="r", name="r", seats=seats, case_ids=tuple(made["cases"]))
        contents = Contents.empty().with_records({**made, "reviews": {"r": review}})
        return contents, review

    def bench_rig(self, host, card, link):
        width = LINKS[link]
        return bench_rigs()["Sluice Marram 12"].model_copy(
            update={
                "name": f"{host} {card} {link}",
                "cpu_speed": HOSTS[host],
                "card_speed": CARDS[card],
                "card_memory_gb": VRAM_GB[card],
                "down_gb_per_s": width,
                "up_gb_per_s": width,
                "latency_ms": latency_ms(width),
            }
        )

    def measured(self, seed=1, keep=lambda *_cell: True, spread=0.01):
        """All cells that are to be kept, on links whose bandwidth was measured."""
        cells = [
            self.cell(seed, rig, title, size, spread)
            for rig in RIGS
            for title in bench_titles()
            for size in SIZES
            if keep(*rig, title, size)
        ]
        return self.of(cells)

    def cell(self, seed, rig, title, size, spread=0.01):
        """One cell, as played."""
        host, card, link = rig
        rate = self.rate(seed, host, card, link, title, size)
        names = (f"{host} {card} {link}", f"{title} {size}", title)
        return Cell(*names, MEGAPIXELS[size], host, card, link, rate, spread)

    def of(self, cells, beside=()):
        """Cells as the fit takes them, with remembered ones beside."""
        links = {name: FittedLink(name, gb, 0.03, latency_ms(gb)) for name, gb in LINKS.items()}
        guess = {"small": 0.7, "middle": 1.0, "large": 1.44}
        reviews = 1 if beside else 0
        beside = tuple(beside)
        return Measured(
            tuple(cells), links, "tower", "middle", guess, beside=beside, reviews=reviews
        )

    def three_new_titles(self, seed, remembered=6):
        """(measured, the truth of a third link): three new titles at one size on two rigs that
        share a card, beside what is remembered of others on the same hosts, cards and links.
        """
        rng = np.random.default_rng(seed)
        order = [f"made up {number}" for number in rng.permutation(30)]
        new, old = order[:3], order[3 : 3 + remembered]
        beside = [
            self.cell(seed, rig, title, size)
            for title in old
            for rig in RIGS
            for size in SIZES
            if rng.random() < 0.6
        ]
        alike = [rig for rig in RIGS if rig[1] == ("middle" if seed % 2 else "large")]
        first, second, third = (alike[at] for at in rng.permutation(len(alike))[:3])
        size = "1440p" if seed % 3 else "1080p"
        own = [self.cell(seed, rig, title, size) for title in new for rig in (first, second)]
        noisy = [
            replace(one, average_fps=one.average_fps * np.exp(rng.normal(0, 0.01))) for one in own
        ]
        truth = [self.cell(seed, third, title, size) for title in new]
        return self.of(noisy, beside), truth

    def sparse(self, design):
        """A random six in ten of the cells, by design."""
        rng = np.random.default_rng(design)
        return self.measured(1 + design % 2, lambda *_cell: rng.random() < 0.6)


@pytest.fixture(scope="session")
def lab():
    return Lab()
