"""Rigs of a review against one another by their money: cheapest, level, and prices that move."""

from dataclasses import dataclass

from blunt_ruler.core.worth.answers import Answer, derive
from blunt_ruler.core.worth.figures import WorthFigure
from blunt_ruler.core.worth.money import Sensitivity, level_price, per_frame_at, sensitivity
from blunt_ruler.core.worth.report import Worth, WorthRow


def cheapest_gain(worth: Worth, but: str = "") -> WorthRow | None:
    """The rig whose gained frames cost least, `but` for one of them."""
    priced = [
        row
        for row in worth.rows
        if row.value(WorthFigure.PER_GAINED) is not None and row.rig_id != but
    ]
    return min(priced, key=lambda row: row.value(WorthFigure.PER_GAINED) or 0.0, default=None)


@dataclass(frozen=True, slots=True)
class Level:
    """Two rigs and the price at which the first costs as much for each frame as the second.

    `change` is what its present price would have to change by. `gains_nothing` names a rig
    whose frames of that kind are none, so that no price can be set against them.
    """

    first: WorthRow
    second: WorthRow
    frames: WorthFigure
    price: Answer
    change: Answer
    gains_nothing: str = ""


def draw_level(worth: Worth, first: str, second: str, frames: WorthFigure) -> Level | None:
    """The price at which one rig costs as much as another for each frame of a kind."""
    a, b = worth.row(first), worth.row(second)
    if a is None or b is None:
        return None
    rate_a, rate_b = a.figures[frames], b.figures[frames]
    for row, rate in ((a, rate_a), (b, rate_b)):
        if rate.value is not None and rate.value <= 0:
            return Level(a, b, frames, Answer(None), Answer(None), row.column.name)
    price = derive(level_price, rate_a, b.figures[WorthFigure.COST], rate_b)
    return Level(
        a,
        b,
        frames,
        price,
        derive(lambda at, now: at - now, price, a.figures[WorthFigure.COST]),
    )


def moved_prices(worth: Worth) -> tuple[tuple[WorthRow, tuple[float, ...]], ...]:
    """Cost for each gained frame of every rig that has one, its price moved by PRICE_CHANGES."""
    points = worth.points(WorthFigure.GAINED)
    return tuple(
        (row, per_frame_at(*points[row.rig_id]))
        for row in worth.rows
        if row.rig_id in points and row.value(WorthFigure.PER_GAINED) is not None
    )


def moved_name(change: float) -> str:
    """The name of the figure at a price moved by a share: `cost_per_gained_frame_at_-30`."""
    return f"{WorthFigure.PER_GAINED}_at_{change * 100:+.0f}"


def price_turning(worth: Worth, rig_id: str) -> Sensitivity | None:
    """How far a rig's price may move before its place as the cheapest gained frame changes."""
    points = {key: point for key, point in worth.points(WorthFigure.GAINED).items() if point[1] > 0}
    return sensitivity(points, rig_id) if rig_id in points else None
