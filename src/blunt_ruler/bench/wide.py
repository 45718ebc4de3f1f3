"""A review far wider than a person's: cases × rigs × passes, to see what size costs.

Rates follow a plain chain of limits with noise, not the simulator, which would take hours; the
figures of each pass are those of one of a few played traces, brought to its rate.
"""

from dataclasses import dataclass

import numpy as np

from blunt_ruler.core.measure.frames import FrameFigures, Lows, measure
from blunt_ruler.core.measure.trace_summary import Observed, observe
from blunt_ruler.core.records.hardware import Card, Hop, Host, Link, Rig, ScreenPath
from blunt_ruler.core.records.records import (
    Case,
    Contents,
    Origin,
    Record,
    Review,
    ReviewRig,
    Role,
    Run,
    Title,
)

SIZES = {"1080p": 2.07, "1440p": 3.69, "2160p": 8.29}
FRAMES = 3000
TRACES = 24
PASS_SPREAD = 0.006
GB_PER_S_OF_LANES = {1: 1.7, 2: 3.4, 4: 6.9, 8: 13.8, 16: 27.0}


@dataclass(frozen=True, slots=True)
class Played:
    """One trace at 10 ms a frame: what a pass at any rate is made of."""

    figures: FrameFigures
    observed: Observed


def wide_review(cases: int = 300, rigs: int = 12, passes: int = 3, seed: int = 1) -> Contents:
    """One review, “wide”, in which every case was taken on every rig."""
    rng = np.random.default_rng(seed)
    played = [_play(rng) for _ in range(TRACES)]
    hosts = [
        Host(id=f"h{n}", name=f"Host {n}", built_in_card_id="built-in", cores=8) for n in (0, 1)
    ]
    cards = [
        Card(id="built-in", name="Built-in 1", built_in=True),
        Card(id="card", name="Card 1", board_power_w=200.0, lanes=16, generation=4),
    ]
    widths = sorted(GB_PER_S_OF_LANES)
    links = [
        Link(id=f"x{n}", name=f"Slot x{n}", hops=(Hop(name="slot", generation=4, lanes=n),))
        for n in widths
    ]
    seats = [Rig(id="r0", name="Rig 0", host_id="h0", card_id="built-in")]
    for number in range(1, rigs):
        lanes = 16 if number == rigs - 1 else widths[(number - 1) % len(widths)]
        host = f"h{(number - 1) // len(widths) % 2}"
        seats.append(
            Rig(
                id=f"r{number}",
                name=f"Rig {number}",
                host_id=host,
                card_id="card",
                link_id=f"x{lanes}",
                screen_path=ScreenPath.MONITOR_ON_CARD,
            )
        )
    titles = [Title(id=f"t{n}", name=f"Title {n}") for n in range(-(-cases // len(SIZES)))]
    sizes = list(SIZES)
    every = [
        Case(id=f"c{n}", title_id=f"t{n // len(sizes)}", resolution=sizes[n % len(sizes)])
        for n in range(cases)
    ]
    asks = np.exp(rng.normal(np.log([5.0, 2.5, 1.3, 6.0, 8.0]), 0.35, (len(titles), 5)))
    runs = []
    for number, case in enumerate(every):
        cpu, fixed, each, fetch, upload = asks[number // len(sizes)]
        size = SIZES[case.resolution]
        for place, rig in enumerate(seats):
            slow = 1.3 if rig.host_id == "h1" else 1.0
            if rig.link_id is None:
                frame_ms = max(cpu * slow, 6.0 * (fixed + each * size))
            else:
                moved = GB_PER_S_OF_LANES[int(rig.link_id[1:])]
                frame_ms = max(cpu * slow, fixed + each * size + fetch / moved, upload / moved)
            for repeat in range(1, passes + 1):
                ms = frame_ms * float(np.exp(rng.normal(0.0, PASS_SPREAD)))
                trace = played[int(rng.integers(TRACES))]
                runs.append(_run(rig, case, repeat, ms, trace, place))
    review = Review(
        id="wide",
        name="Wide",
        case_ids=tuple(case.id for case in every),
        seats=tuple(
            ReviewRig(rig_id=rig.id, role=_role(number, rigs)) for number, rig in enumerate(seats)
        ),
    )
    made: dict[str, list[Record]] = {
        "hosts": [*hosts],
        "cards": [*cards],
        "links": [*links],
        "rigs": [*seats],
        "titles": [*titles],
        "cases": [*every],
        "runs": [*runs],
        "reviews": [review],
    }
    tables = {table: {one.id: one for one in records} for table, records in made.items()}
    return Contents.empty().with_records(tables)


def _role(number: int, rigs: int) -> Role:
    if number == 0:
        return Role.BASE
    return Role.REFERENCE if number == rigs - 1 else Role.TESTED


def _play(rng: np.random.Generator) -> Played:
    """A trace of 10 ms a frame with a slow swing, noise and a few long frames."""
    swing = 0.05 * np.sin(np.linspace(0.0, 9.0, FRAMES)) + rng.normal(0.0, 0.06, FRAMES)
    times_ms = np.exp(swing) * np.where(rng.random(FRAMES) < 0.002, 2.2, 1.0)
    times_ms *= 10.0 / float(times_ms.mean())
    return Played(measure(times_ms), observe(times_ms))


def _run(rig: Rig, case: Case, repeat: int, ms: float, trace: Played, place: int) -> Run:
    by = 10.0 / ms
    old = trace.figures
    rates = ("average_fps", "median_fps", "minimum_fps", "maximum_fps")
    figures = old.model_copy(
        update={
            **{name: getattr(old, name) * by for name in rates},
            "duration_s": old.duration_s / by,
            "low_1": _scaled(old.low_1, by),
            "low_01": _scaled(old.low_01, by),
        }
    )
    seen = trace.observed
    observed = seen.model_copy(
        update={
            "step_fps": seen.step_fps * by,
            "edge_fps": seen.edge_fps * by,
            "longest_ms": seen.longest_ms / by,
        }
    )
    name = f"{rig.id}_{case.id}_{repeat}"
    minutes = int(case.id[1:]) * 3 + repeat
    return Run(
        id=name,
        rig_id=rig.id,
        case_id=case.id,
        repeat=repeat,
        taken_at=f"2026-10-{1 + place:02}T{minutes // 60 % 24:02}:{minutes % 60:02}:00",
        origin=Origin(kind="log", file=f"{name}.csv", column="frame time ms", unit="ms"),
        figures=figures,
        observed=observed,
    )


def _scaled(lows: Lows, by: float) -> Lows:
    said = {name: None if low is None else low * by for name, low in lows}
    return lows.model_copy(update=said)
