"""Measured figures: each with its unit, its bar and its noise, told as they come."""

import math
from dataclasses import dataclass

SPEED_NOISE = 0.2  # of a ratio or a time: machines here differ by that from hour to hour


@dataclass(frozen=True)
class Figure:
    """One measured figure. `low` and `high` are its bar, `noise` what it may move by itself."""

    name: str
    value: float
    unit: str = ""
    low: float | None = None
    high: float | None = None
    noise: float = 0.0

    @property
    def has_bar(self) -> bool:
        return self.low is not None or self.high is not None

    @property
    def is_within(self) -> bool:
        return (self.low is None or self.value >= self.low - 1e-9) and (
            self.high is None or self.value <= self.high + 1e-9
        )

    def off(self, value: float) -> float:
        """How far a value of this figure is from where it should be: larger is worse."""
        if self.low is not None and self.high is not None:
            return max(self.low - value, value - self.high, 0.0)
        return -value if self.low is not None else value

    @property
    def bar_words(self) -> str:
        if self.low is not None and self.high is not None:
            return f"{self.low:g} to {self.high:g}{self._unit}"
        if self.high is not None:
            return f"≤ {self.high:.3g}{self._unit}"
        return f"≥ {self.low:.3g}{self._unit}" if self.low is not None else "–"

    @property
    def words(self) -> str:
        digits = 0 if abs(self.value) >= 100 else 1 if abs(self.value) >= 10 else 2
        return f"{self.value:.{digits}f}{self._unit}"

    @property
    def _unit(self) -> str:
        return f" {self.unit}" if self.unit else ""


FOUND: list[Figure] = []
"""What was measured so far, in order."""


def tell(figure: Figure, note: str = "") -> None:
    """Print a figure and keep it."""
    FOUND.append(figure)
    verdict = "" if not figure.has_bar else "within" if figure.is_within else "OUTSIDE"
    bar = f"{verdict} the bar of {figure.bar_words}" if verdict else ""
    print(f"{figure.name:<58} {figure.words:>10}  {bar}{f'  ({note})' if note else ''}", flush=True)


def ratio(name: str, ours_s: float, yardstick_s: float, bar: float, of: str) -> None:
    """How many times as long as something else our work takes."""
    value = ours_s / yardstick_s
    times = f"{ours_s * 1000:.0f} / {yardstick_s * 1000:.0f} ms"
    tell(Figure(f"{name}, × {of}", value, "×", high=bar, noise=SPEED_NOISE * value), times)


def taken(name: str, seconds: float, bar_s: float | None = None, note: str = "") -> None:
    """How long something takes."""
    large = (bar_s or seconds) >= 1.0
    value, high = (seconds, bar_s) if large else (1000 * seconds, bar_s and 1000 * bar_s)
    unit = "s" if large else "ms"
    tell(Figure(name, value, unit, high=high, noise=SPEED_NOISE * value), note)


def rate(
    name: str, hits: int, of: int, *, least: float | None = None, most: float | None = None
) -> None:
    """A share of trials, its bar in per cent; its noise is two standard errors."""
    share = hits / of
    middle = (hits + 2) / (of + 4)  # Agresti and Coull: none of few is no certainty
    noise = 200 * math.sqrt(middle * (1 - middle) / (of + 4))
    tell(Figure(name, 100 * share, "%", least, most, noise))
