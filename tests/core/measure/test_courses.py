"""Very many passes of one cell: the odd ones are found, in time that grows with their number."""

import numpy as np

from blunt_ruler.core.measure import courses as module
from blunt_ruler.core.measure.courses import MOST_BESIDE, courses
from blunt_ruler.core.measure.profile import profile_of, profile_text


def passes(count, odd):
    rng = np.random.default_rng(8)
    scene = np.repeat(rng.uniform(12.0, 20.0, 30), 80)
    texts = []
    for number in range(count):
        times_ms = scene * np.exp(rng.normal(0.0, 0.03, scene.size))
        if number in odd:
            times_ms[1000:1500] *= 1.4
        texts.append(profile_text(profile_of(times_ms)))
    return tuple(texts)


def test_odd_passes_among_many_are_found(monkeypatch):
    lags = []
    real = module._lag
    monkeypatch.setattr(module, "_lag", lambda *given: lags.append(1) or real(*given))
    odd = {7, 60, 99}
    found = courses(passes(100, odd))
    assert len(found) == 100
    assert {at for at, one in enumerate(found) if one is not None and one.stretches} == odd
    assert len(lags) <= 100 * MOST_BESIDE / 2
