"""Sums of money against frames: level prices, the efficient set, sensitivity, cost over years.

Money is in one currency; frames are any rate in frames per second, the same for all.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

PRICE_CHANGES = (-0.3, -0.2, -0.1, 0.0, 0.1, 0.2, 0.3)
WEEKS_IN_YEAR = 365.25 / 7.0


def level_price(frames: float, other_price: float, other_frames: float) -> float:
    """p·a/b: the price at which a rig of a frames costs as much for each as one of b for p."""
    return other_price * frames / other_frames


def monthly(price: float, years: float, interest: float) -> float:
    """A price as equal payments at the end of each month: the annuity p·r / (1 − (1+r)⁻ⁿ).

    `interest` is the yearly rate, paid monthly; at 0 it is the price over the months.
    """
    months, rate = years * 12.0, interest / 12.0
    if rate == 0.0:
        return price / months
    return float(price * rate / (1.0 - (1.0 + rate) ** -months))


def energy_kwh_per_year(
    play_w: float, play_h_per_week: float, idle_w: float, idle_h_per_week: float
) -> float:
    """Σ W·h a week / 1000 · weeks in a year."""
    return (play_w * play_h_per_week + idle_w * idle_h_per_week) / 1000.0 * WEEKS_IN_YEAR


def efficient(points: Mapping[str, tuple[float, float]]) -> frozenset[str]:
    """Those that nothing beats: no other is at most as dear and at least as fast, and one of
    the two truly. Points are (price, frames) by name; equal points are both kept.
    """
    return frozenset(
        name
        for name, (price, frames) in points.items()
        if not any(
            other <= price and faster >= frames and (other < price or faster > frames)
            for other, faster in points.values()
        )
    )


@dataclass(frozen=True, slots=True)
class Sensitivity:
    """How far one rig's price may move before another is cheaper for each frame.

    `rises_by` is the share by which it may rise while it is the cheapest, else None;
    `falls_by` the share by which it has to fall to become the cheapest, else None.
    """

    rises_by: float | None
    falls_by: float | None
    other: str


def sensitivity(points: Mapping[str, tuple[float, float]], name: str) -> Sensitivity | None:
    """How a rig's place as the cheapest frame depends on its price; None where it is alone."""
    price, frames = points[name]
    others = {key: p / f for key, (p, f) in points.items() if key != name and f > 0}
    if not others or price <= 0 or frames <= 0:
        return None
    best = min(others, key=lambda key: others[key])
    turning = others[best] * frames / price - 1.0
    if turning >= 0:
        return Sensitivity(turning, None, best)
    return Sensitivity(None, -turning, best)


def per_frame_at(
    price: float, frames: float, changes: Sequence[float] = PRICE_CHANGES
) -> tuple[float, ...]:
    """Cost for each frame with the price changed by each share."""
    return tuple(price * (1.0 + change) / frames for change in changes)
