"""Short recordings of the simulated bench, filmed once for a whole run of the tests."""

import pytest

from blunt_ruler.bench.recordings.film import Camera, Part, film
from blunt_ruler.bench.recordings.overlays import STYLES
from blunt_ruler.bench.simulator import Setting, play_run
from blunt_ruler.bench.specs import bench_rig, bench_titles
from blunt_ruler.files import shipped

SMALL = Camera(640, 360, 30, 900_000)


def played(rig="Built-in iG-6", title="Tidewrack", resolution="1440p", seconds=8.0, seed=3):
    setting = Setting(bench_titles()[title], resolution, "High", seconds)
    return play_run(bench_rig(rig), setting, seed)


@pytest.fixture(scope="session")
def filmed(tmp_path_factory):
    """Film a style once: (what is true of it, its trace)."""
    known = {}

    def filmed(style="plain", camera=SMALL, parts=None, name="", **run):
        key = (style, camera, name, *sorted(run.items()))
        if key not in known:
            trace = played(**run)
            path = tmp_path_factory.mktemp("films") / f"{name or style}.mp4"
            shown = parts(trace) if parts is not None else [Part(trace)]
            known[key] = film(path, shown, STYLES[style], camera, 4), trace
        return known[key]

    return filmed


@pytest.fixture(scope="session")
def play():
    """Play a run of the bench."""
    return played


@pytest.fixture(scope="session")
def demo_recording():
    return shipped("demo", "tidewrack.mp4")
