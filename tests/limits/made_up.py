"""Titles that the bench does not ship, drawn at random."""

import numpy as np

from blunt_ruler.bench.specs import BenchTitle


def near(rng, middle, spread):
    """A value around a middle, with a spread of its log."""
    return middle * float(np.exp(rng.normal(0.0, spread)))


def made_up_title(rng, name):
    """A title heavy or light, hungry for the link or not."""
    heavy = near(rng, 1.0, 0.3)
    return BenchTitle(
        name=name,
        scene="scene",
        cpu_ms=near(rng, 6.0, 0.4) * heavy**0.5,
        card_ms=near(rng, 2.6, 0.35) * heavy,
        card_ms_per_mpx=near(rng, 1.8, 0.35) * heavy,
        upload_mb=near(rng, 8.0, 0.3),
        fetches=int(rng.integers(2, 7)),
        fetch_mb=near(rng, 1.7, 0.3),
        bursts_per_min=float(rng.integers(2, 20)),
        burst_mb=float(rng.integers(10, 60)),
        cpu_noise=0.08,
        card_noise=0.05,
    )
