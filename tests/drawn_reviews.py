"""Reviews as people type them, drawn by chance: rigs close together or far apart, over days."""

import itertools
import math

import numpy as np

from blunt_ruler.core.records.records import Contents, Review, ReviewRig, Role
from blunt_ruler.core.runs.typed_cells import TypedCell, type_cells

RIGS = ("iGPU", "Dock A", "Dock B", "Tower")
DAYS = ("2026-01-05T10:00:00", "2026-01-09T10:00:00")


def notations(values):
    """As people note passes: tenths, with a low, one look, whole figures."""
    yield " ".join(f"{one:.1f}" for one in values)
    yield " ".join(f"{one:.1f}/{one * 0.7:.1f}" for one in values)
    yield f"~{values[0]:.0f}"
    yield " ".join(f"{one:.0f}" for one in values)


def drawn(seed):
    """A review of rigs close together or far apart, over one or two days, with gaps and a cap."""
    rng, new = np.random.default_rng(seed), itertools.count()
    rigs = RIGS[: rng.integers(2, 5)]
    roles = [Role.BASE, *[Role.TESTED] * (len(rigs) - 2), Role.REFERENCE]
    seats = []
    speeds = np.exp(rng.normal(0, 0.02 if rng.random() < 0.4 else 0.5, len(rigs)))
    titles = {f"T{place}": math.exp(rng.normal(4, 0.4)) for place in range(rng.integers(1, 8))}
    sizes = (("1080p", 1.0), ("1440p", 0.7), ("2160p", 0.4))[: rng.integers(1, 4)]
    noise, style = rng.choice([0.003, 0.01, 0.03]), rng.integers(0, 4)
    contents = Contents.empty().with_records({"reviews": {"v": Review(id="v", name="V")}})
    for day in DAYS[: rng.integers(1, 3)]:
        shifts = rng.normal(0, 0.005, len(rigs))
        cells = []
        for (title, level), (size, share) in itertools.product(titles.items(), sizes):
            for rig, speed, shift in zip(rigs, speeds, shifts, strict=True):
                if rng.random() < 0.07:
                    continue
                passes = np.exp(shift + rng.normal(0, noise, rng.integers(1, 4)))
                told = [*notations(level * share * speed * passes)][style]
                told = "60+" if rng.random() < 0.03 else told
                cells.append(TypedCell(rig, f"{title} / {size} / High", told, None))
        if cells:
            review = contents.reviews["v"]
            edit = type_cells(
                contents, review, cells, lambda *_: f"x{next(new)}", day, add=bool(seats)
            )
            contents = edit.on(contents)
            seats = contents.reviews["v"].seats
    seats = tuple(
        ReviewRig(rig_id=seat.rig_id, role=role) for seat, role in zip(seats, roles, strict=False)
    )
    review = contents.reviews["v"].model_copy(update={"seats": seats})
    return contents.with_records({"reviews": {"v": review}}), review
