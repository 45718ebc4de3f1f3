"""Rates from the simulated bench as the fit takes them, without a logbook. Played once."""

import numpy as np
import pytest

from blunt_ruler.bench.simulator import Setting, play_run
from blunt_ruler.bench.specs import MEGAPIXELS, bench_rigs, bench_titles
from blunt_ruler.core.limits.cells import Cell, FittedLink, Measured

LINKS = {"a": 2.0, "b": 2.6, "c": 4.2, "d": 6.4, "e": 12.8, "f": 25.7}
HOSTS = {"mobile": 0.8, "tower": 1.0}
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


class Lab:
    """Rates of every rig, title and size for some seeds."""

    def __init__(self):
        self._rates = {}

    def rate(self, seed, host, card, link, title, size):
        key = (seed, host, card, link, title, size)
        if key not in self._rates:
            width = LINKS[link]
            rig = bench_rigs()["Sluice Marram 12"].model_copy(
                update={
                    "name": f"{host} {card} {link}",
                    "cpu_speed": HOSTS[host],
                    "card_speed": CARDS[card],
                    "down_gb_per_s": width,
                    "up_gb_per_s": width,
                    "latency_ms": latency_ms(width),
                }
            )
            setting = Setting(bench_titles()[title], size, "High", SECONDS)
            times = play_run(rig, setting, seed).frame_times_ms
            self._rates[key] = 1000 * times.size / times.sum()
        return self._rates[key]

    def measured(self, seed=1, keep=lambda *_cell: True, spread=0.01):
        """All cells that are to be kept, on links whose bandwidth was measured."""
        cells = [
            Cell(
                f"{host} {card} {link}",
                f"{title} {size}",
                title,
                MEGAPIXELS[size],
                host,
                card,
                link,
                self.rate(seed, host, card, link, title, size),
                spread,
            )
            for host, card, link in RIGS
            for title in bench_titles()
            for size in SIZES
            if keep(host, card, link, title, size)
        ]
        links = {name: FittedLink(name, gb, 0.03, latency_ms(gb)) for name, gb in LINKS.items()}
        guess = {"small": 0.7, "middle": 1.0, "large": 1.44}
        return Measured(tuple(cells), links, "tower", "middle", guess)

    def sparse(self, design):
        """A random six in ten of the cells, by design."""
        rng = np.random.default_rng(design)
        return self.measured(1 + design % 2, lambda *_cell: rng.random() < 0.6)


@pytest.fixture(scope="session")
def lab():
    return Lab()
