"""Recordings read that nobody tuned the reader on: overlays drawn by chance, not listed.

Each overlay is drawn from what people have: any of the fonts at hand, a size they can read, a
colour that stands out, an outline or a box, any corner, rows and pace. Each is filmed over another
scene, at 720p and 30 pictures a second with few bits, and at 1080p and 60 with more.
"""

import tempfile
import time
from pathlib import Path

import numpy as np

from blunt_ruler.bench.recordings.film import Camera, Filmed, film_passes
from blunt_ruler.bench.recordings.overlays import Style
from blunt_ruler.bench.simulator import Setting, play_run
from blunt_ruler.bench.specs import bench_rigs, bench_titles
from blunt_ruler.core.recordings.passes import figures_of
from blunt_ruler.core.recordings.quantities import Box, Quantity
from blunt_ruler.core.recordings.series import Series
from blunt_ruler.exchange.recordings.whole import Asked, read_whole
from figures import Figure, tell

FONTS = (
    "DejaVuSans.ttf", "DejaVuSans-Bold.ttf", "DejaVuSansMono.ttf", "DejaVuSansMono-Bold.ttf",
    "DejaVuSerif.ttf", "DejaVuSerif-Bold.ttf", "STIXGeneralBol.ttf", "cmss10.ttf", "cmtt10.ttf",
    "barlow-latin-500-normal.ttf", "barlow-latin-700-normal.ttf",
)  # fmt: skip
ROWS = ("card_w", "load", "temperature", "memory", "clock", "low")
CORNERS = ("top left", "top right", "bottom left", "bottom right")
CAMERAS = (Camera(1280, 720, 30, 1_500_000), Camera(1920, 1080, 60, 6_000_000))
SECONDS = 10.0
SEED = 7000


def drawn_style(rng: np.random.Generator) -> Style:
    """An overlay by chance; its figures stand out from what is behind them, as people see to."""
    bright = tuple(int(one) for one in rng.integers(150, 256, 3))
    boxed = rng.random() < 0.5
    rows = tuple(rng.permutation(ROWS)[: int(rng.integers(0, 4))].tolist())
    return Style(
        name="drawn",
        font=str(rng.choice(FONTS)),
        size=float(rng.uniform(0.026, 0.055)),
        colour=bright,  # type: ignore[arg-type]
        label_colour=(235, 235, 235),
        outline=0 if boxed else int(rng.integers(1, 3)),
        behind=float(rng.uniform(0.45, 0.9)) if boxed else 0.0,
        corner=str(rng.choice(CORNERS)),
        renews_s=float(rng.choice([0.25, 0.5, 0.75, 1.0])),
        units=bool(rng.random() < 0.6),
        rows=("fps", *rows),
    )


def shown_between(true: Filmed, quantity: str, from_s: float, to_s: float) -> set[str]:
    """The texts that stood in a stretch."""
    told = true.shown[quantity]
    before = [text for at, text in told if at <= from_s + 1e-6][-1:]
    return {*before, *(text for at, text in told if from_s < at < to_s)}


def counts(true: Filmed, series: Series) -> tuple[int, int, int]:
    """(figures, asked about, accepted and wrong)."""
    figures = [one for one in series.held if one.value is not None]
    wrong = 0
    for one in series.sure:
        texts = shown_between(true, series.quantity.value, one.from_s, one.to_s)
        wrong += all(not text or float(text) != one.value for text in texts)
    return len(figures), len(series.asked), wrong


def main() -> None:
    """Film, read, and say how well."""
    rng = np.random.default_rng(SEED)
    rigs, titles = list(bench_rigs().values()), list(bench_titles().values())
    sums = np.zeros(3)
    averages, counted, speeds, found = [], [], [], []
    with tempfile.TemporaryDirectory() as text:
        for number in range(12):
            style, camera = drawn_style(rng), CAMERAS[number % 2]
            rig, title = rigs[int(rng.integers(len(rigs)))], titles[int(rng.integers(len(titles)))]
            resolution = str(rng.choice(["1080p", "1440p", "2160p"]))
            trace = play_run(rig, Setting(title, resolution, "High", SECONDS), SEED + number)
            path = Path(text) / f"{number}.mp4"
            true = film_passes(path, [trace], style, camera, SEED + number)
            boxes = tuple(Box(*place, Quantity(row)) for row, place in true.places.items())
            boxes = tuple(_inside(box, camera) for box in boxes)
            began = time.perf_counter()
            read = read_whole(path, Asked(boxes, count=True, cut=True))
            took = time.perf_counter() - began
            speeds.append(read.facts.duration_s / took)
            from_s, to_s = true.passes[0]
            one = min(read.passes, key=lambda one: abs(one.from_s - from_s))
            found.append(abs(one.from_s - from_s) < 0.3 and abs(one.to_s - to_s) < 0.3)
            for series in one.series:
                sums += counts(true, series)
            average = figures_of(one).average
            shown = [_at(true, moment) for moment in np.arange(from_s + 0.01, to_s, 0.01)]
            if average is not None and not figures_of(one).from_pictures:
                averages.append(average.average / float(np.mean(shown)) - 1.0)
            if read.counted is not None:
                rate = 1000.0 / float(trace.frame_times_ms.mean())
                counted.append(read.counted.average_fps / rate - 1.0)
    figures, asked, wrong = sums
    wrong_pct, asked_pct = 100 * wrong / (figures - asked), 100 * asked / figures
    note = f"{int(figures)} readings"
    name = "recordings, overlays drawn by chance:"
    tell(Figure(f"{name} accepted readings wrong", wrong_pct, "%", high=0.1, noise=0.1), note)
    tell(Figure(f"{name} readings asked about", asked_pct, "%", high=2.0, noise=1.0), note)
    worst = 100 * float(np.max(np.abs(averages)))
    tell(Figure(f"{name} average, worst", worst, "%", high=0.5, noise=0.1), f"{len(averages)}")
    if counted:
        worst = 100 * float(np.max(np.abs(counted)))
        note = f"{len(counted)} counted, the rest refused"
        tell(Figure(f"{name} counted pictures, worst", worst, "%", high=1.0, noise=0.2), note)
    share = 100 * float(np.mean(found))
    tell(Figure(f"{name} passes cut to 0.3 s", share, "%", low=90.0, noise=5.0))
    slowest = min(speeds)
    tell(Figure(f"{name} slowest", slowest, "× real time", low=1.0, noise=0.3 * slowest))


def _inside(box: Box, camera: Camera) -> Box:
    x, y = max(box.x, 0), max(box.y, 0)
    return Box(x, y, min(box.w, camera.width - x), min(box.h, camera.height - y), box.quantity)


def _at(true: Filmed, moment: float) -> float:
    return float([text for at, text in true.shown["fps"] if at <= moment][-1])


if __name__ == "__main__":
    main()
